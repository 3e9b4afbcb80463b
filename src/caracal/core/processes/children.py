"""Processes of our own: how they are started, and how they end with whoever started them.

Most of them are forked off one process that has already imported what they need (the standard
library's fork server): a start takes a few hundredths of a second instead of one or two. What one
of them does to its memory, or dies of, reaches none of the others. That server is a process that
imports for itself (:func:`warm_up`), or a copy of one that has imported it (:func:`split_off`).
"""

from __future__ import annotations

import atexit
import ctypes
import os
import shutil
import signal
import sys
import threading
import weakref
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from functools import partial
from importlib import import_module
from multiprocessing import (
    current_process,
    forkserver,
    get_context,
    parent_process,
    resource_tracker,
    util,
)
from multiprocessing.connection import Connection, wait
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from typing import Any

from setproctitle import setproctitle

from caracal.core.processes.socket_folder import make_socket_folder

QUIET = {  # nothing of these is wanted: no report leaves the machine, one pool of threads is enough
    "ORT_DISABLE_TELEMETRY": "1", "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1",
    "SVT_LOG": "1",  # the AV1 encoder tells errors only
}
SAFE_PATH = {"PYTHONSAFEPATH": "1"}  # nothing is imported from the current folder
TITLE = "caracal "  # what the titles of our processes begin with
PARENT = "CARACAL_PARENT"  # the variable that names who started a process
PR_SET_PDEATHSIG = 1  # prctl(2)
NICE = 10  # added for each child, so that the window stays responsive: nice(2)
SESSION_NICE = 5  # of a session that works beside the window's
KILL_AFTER_S = 3.0  # a process that does not end by itself in this time after SIGTERM is killed
REAP_S = 1.0  # for the kernel to end what was killed
IMPORTED = (  # by the fork server, before it is asked: whatever reads, frames or encodes films
    "caracal.core.processes.apart", "caracal.core.analysis.film_pass.process",
    "caracal.core.analysis.film_pass.analyse",
    "caracal.core.batch.film", "caracal.core.batch.trial", "caracal.core.encoding.encoder",
    "caracal.core.plan.solver_process", "caracal.core.render.preview.process",
)

_servers = get_context("forkserver")
_servers.set_forkserver_preload(list(IMPORTED))
_server: Any = forkserver._forkserver  # the standard library's own handle of it
_beginning = threading.Lock()
_starting = threading.Lock()
_listens_in: tuple[int, str] | None = None  # who started the fork server, and its folder


def command(module: str, *arguments: str) -> list[str]:
    """What starts ``module`` of this program, whatever lies in the current folder: with ``-P``
    nothing is imported from there."""
    return [sys.executable, "-P", "-m", f"caracal.{module}", *arguments]


def environment() -> dict[str, str]:
    """The environment of a process of ours; its own children import nothing odd either."""
    return {**os.environ, **QUIET, **SAFE_PATH, PARENT: str(os.getpid())}


class Child:
    """A process that runs ``main`` of ``module`` with ``arguments``, and ends with this one.

    Connections among the arguments are handed over, as are ``DuplicateFd`` ones. ``errors`` takes
    what the process writes to its standard error. ``nice`` lowers its priority. It is
    started at once.
    """

    def __init__(
        self, module: str, *arguments: object, errors: Connection | None = None, nice: int = NICE
    ) -> None:
        self._owner = os.getpid()  # a copy of this process has no children
        self._process: ForkServerProcess = _servers.Process(
            target=_run, args=(module, arguments, environment(), errors, nice), name=module)
        warm_up()
        with _without_main():
            self._process.start()
        _living.add(self)

    @property
    def is_ours(self) -> bool:
        """Whether this process started it, not one that this is a copy of."""
        return self._owner == os.getpid()

    @property
    def pid(self) -> int:
        """The number of the process."""
        assert self._process.pid is not None
        return self._process.pid

    @property
    def exit_code(self) -> int | None:
        """How it ended: negative numbers are signals; None while it runs."""
        return self._process.exitcode

    def wait(self, timeout_s: float | None = None) -> bool:
        """Wait until it has ended, or ``timeout_s`` have passed. Returns whether it has ended."""
        self._process.join(timeout_s)
        return self._process.exitcode is not None

    def terminate(self) -> None:
        """Ask it to end (SIGTERM)."""
        self._process.terminate()

    def stop(self, grace_s: float = KILL_AFTER_S) -> None:
        """Ask it to end, and kill it when it has not after ``grace_s``."""
        self.terminate()
        self.end(grace_s)

    def end(self, timeout_s: float) -> None:
        """Give it ``timeout_s`` to end by itself, then kill it and the processes it started.

        One that was stopped (SIGSTOP) hears nothing but that.
        """
        if self.wait(timeout_s):
            return
        kill_with_children(self.pid)
        self.wait(REAP_S)


_living: weakref.WeakSet[Child] = weakref.WeakSet()


@atexit.register
def kill_all() -> None:
    """End every process that this one started: nobody asks them any more."""
    for child in list(_living):
        if child.is_ours:
            child.end(0)
    if _listens_in is not None and _listens_in[0] == os.getpid():  # the servers are ours, too
        # They end by themselves when this process goes, unless they were stopped (SIGSTOP).
        tracker = getattr(resource_tracker._resource_tracker, "_pid", None)
        for server in (_server._forkserver_pid, tracker):
            if server is not None:
                with suppress(ProcessLookupError):
                    os.kill(server, signal.SIGKILL)


def kill_with_children(pid: int) -> None:
    """Kill a process and those that it has started: they may be stopped, and outlive it."""
    for each in (*_direct_children(pid), *started_by(pid), pid):
        with suppress(ProcessLookupError, PermissionError):
            os.kill(each, signal.SIGKILL)


def _direct_children(pid: int) -> list[int]:
    """What ``pid`` itself has started: its fork server, and the library's resource tracker."""
    found: list[int] = []
    with suppress(OSError):
        for task in Path(f"/proc/{pid}/task").iterdir():
            with suppress(OSError):
                found += map(int, (task / "children").read_text().split())
    return found


def started_by(pid: int) -> list[int]:
    """The processes of ours that ``pid`` has started, and those that they have started.

    They come off the fork server, so the system names another parent: their titles say who it was.
    """
    found = []
    ending = f" for {pid}".encode()
    for folder in Path("/proc").iterdir():
        if folder.name.isdigit():
            with suppress(OSError):
                title = (folder / "cmdline").read_bytes().rstrip(b"\0 ")
                if title.startswith(TITLE.encode()) and title.endswith(ending):
                    found.append(int(folder.name))
    return found + [each for child in found for each in started_by(child)]


def give_way() -> None:
    """Let all processes of this session give way to those of others, the window's among them.

    Where Linux shares the processors between sessions first (sched(7), "autogroup"), nice counts
    only within one: a batch in a session of its own would take half of them from the window.
    """
    with suppress(OSError):  # there is no such file where sessions are not grouped
        Path("/proc/self/autogroup").write_text(str(SESSION_NICE))


def own_errors() -> Connection | None:
    """What this process writes its errors to, for one that it starts: whoever reads them learns
    when the last of both has ended. None: it has nothing of the kind."""
    try:
        return Connection(os.dup(2), readable=False)
    except OSError:
        return None


def warm_up() -> None:
    """Let the fork server import what processes need while this process goes on."""
    global _listens_in  # noqa: PLW0603 - the standard library keeps it in a global, too
    config = current_process()._config  # type: ignore[attr-defined]
    with _beginning, _own_environment():
        if config.get("tempdir") is None:
            _listens_in = (os.getpid(), make_socket_folder())
            config["tempdir"] = _listens_in[1]
        _server.ensure_running()


@contextmanager
def _without_main() -> Iterator[None]:
    """The main module has no file meanwhile: the standard library lets each new process import it
    once more, before it does anything else and at the priority of this one. Ours need none of it.
    """
    main = sys.modules["__main__"]
    with _starting:
        kept = {name: main.__dict__.pop(name, None) for name in ("__file__", "__spec__")}
        main.__spec__ = None
        try:
            yield
        finally:
            main.__dict__.update((name, value) for name, value in kept.items()
                                 if value is not None or name == "__spec__")


@contextmanager
def _own_environment() -> Iterator[None]:
    """The environment of processes of ours, for those that the standard library starts: it gives
    them that of now. Programs that are not ours keep theirs."""
    before = {name: os.environ.get(name) for name in QUIET | SAFE_PATH}
    os.environ.update(QUIET | SAFE_PATH)
    try:
        yield
    finally:
        for name, value in before.items():
            if value is None:
                os.environ.pop(name, None)
            else:
                os.environ[name] = value


def split_off(first: Callable[[], None]) -> None:
    """Let a copy of this process be the fork server: nothing has to be imported a second time.

    It is for the beginning of a process, before it has opened a file or read a film. The copy does
    ``first`` at first. Where there are other threads already, whose locks it could not open, a
    server imports for itself.
    """
    alone = len(list(Path("/proc/self/task").iterdir())) == 1
    if not alone or _server._forkserver_address is not None:
        return warm_up()
    with _own_environment():
        resource_tracker.ensure_running()
    begun, util.spawnv_passfds = util.spawnv_passfds, partial(_copied, first)
    try:
        warm_up()
    finally:
        util.spawnv_passfds = begun


def _copied(
    first: Callable[[], None], _: bytes, arguments: Sequence[Any], passed: Sequence[int]
) -> int:
    """In the place of the standard library's start of a program: a copy of this process does
    ``first``, then what the last of ``arguments`` says, with the files ``passed`` and no other.

    Returns its number.
    """
    sys.stdout.flush()
    sys.stderr.flush()
    starter, pid = os.getpid(), os.fork()
    if pid:
        return pid
    try:
        end_with_parent(starter)  # also where it was stopped (SIGSTOP), and hears nothing
        _beginning.release()  # held where it was copied; its own children will begin some
        _server._lock.release()
        first()
        opened = {int(file.name) for file in Path("/proc/self/fd").iterdir()}
        for file in opened - {0, 1, 2, *passed}:
            with suppress(OSError):  # that of the list itself
                os.close(file)
        exec(arguments[-1], {})  # "from multiprocessing.forkserver import main; main(…)"
    finally:
        os._exit(0)  # nothing of the other's is to be ended twice


def leave(code: int) -> None:
    """End this process at once with the exit ``code``, and all that it started, without what other
    threads still do.

    The folder in which the fork server listens is removed: the standard library does that only
    where a process ends in its usual way.
    """
    kill_all()
    if _listens_in is not None and _listens_in[0] == os.getpid():
        shutil.rmtree(_listens_in[1], ignore_errors=True)
    for stream in (sys.stdout, sys.stderr):
        with suppress(OSError, ValueError):
            stream.flush()
    os._exit(code)


def _run(
    module: str, arguments: tuple[object, ...], variables: dict[str, str],
    errors: Connection | None, nice: int,
) -> None:
    """What the new process does."""
    os.nice(nice)
    starter = parent_process()
    assert starter is not None
    share_server()
    threading.Thread(target=_end_with, args=[starter.sentinel], daemon=True).start()
    setproctitle(f"{TITLE}{module} for {starter.pid}")  # while the environment is untouched
    os.environ.clear()
    os.environ.update(variables)
    if errors is not None:
        os.dup2(errors.fileno(), sys.stderr.fileno())
        errors.close()
    sys.exit(import_module(f"caracal.{module}").main(*arguments))


def share_server() -> None:
    """Let processes that this one starts be forked off the server of the one that started it.

    It is for processes that were forked. The standard library means to do so ("a child process will
    just reuse the forkserver"), but starts a second one: it looks for a server of this process's
    own. What is left of its duty here is the resource tracker.
    """
    known = sys.version_info < (3, 14)  # from then on children have to show a key, too
    if known and _server._forkserver_address is not None:
        _server.ensure_running = resource_tracker.ensure_running


def _end_with(starter: int) -> None:
    """Wait for the process that started this one to go away, however it goes, and end at once.

    ``starter`` is its sentinel. The kernel's own signal for that (see :func:`end_with_parent`)
    would wait for the fork server.
    """
    wait([starter])
    os.kill(os.getpid(), signal.SIGKILL)


def end_with_parent(parent: int | None = None) -> None:
    """Let this process be killed when the one that started it goes away, however it goes.

    ``parent`` is its process id, if :func:`environment` did not tell: it may have gone away while
    this process was still importing what it needs. It is for processes that are not a
    :class:`Child`: those do it by themselves.
    """
    expected = parent or int(os.environ.get(PARENT, os.getppid()))
    ctypes.CDLL(None, use_errno=True).prctl(PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0)
    if os.getppid() != expected:
        os.kill(os.getpid(), signal.SIGKILL)
