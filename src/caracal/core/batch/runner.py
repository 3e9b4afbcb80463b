"""Works off the batch list: ``python -P -m caracal.core.batch.runner LIST [JOBS]``.

Lines of one film that wait are made together, from one decode, in a process of their own (see
film). What was in the making when a process went away waits again; a file that was just finished
then is proved once more and kept.
"""

from __future__ import annotations

import os
import signal
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from pathlib import Path

import msgspec

from caracal.core.base.errors import Cancelled, CaracalError
from caracal.core.base.logs import forget_log, keep_log, kept_at, log, unforeseen
from caracal.core.base.paths import path_of
from caracal.core.base.translation import tr
from caracal.core.base.work import Control
from caracal.core.batch.batch_list import BatchList, now
from caracal.core.batch.job import EncodeJob, Item, JobStatus, State
from caracal.core.batch.list_lock import worked_by_us
from caracal.core.encoding.proof import prove
from caracal.core.encoding.results import EncodeResult
from caracal.core.processes.children import (
    KILL_AFTER_S,
    REAP_S,
    Child,
    give_way,
    leave,
    split_off,
    warm_up,
)
from caracal.core.processes.stop_signals import cancel_on_signals

LOOK_S = 0.15  # how often wishes are noticed
GRACE_S = KILL_AFTER_S - REAP_S  # for a film's process to end cleanly; then it is killed
STAY = "--stay"  # goes on when whoever started it goes away

Say = Callable[[Item], None]


def recover(jobs: BatchList) -> None:
    """Bring the list right after a crash: what was in the making is done, or waits again."""
    for item in jobs.items():
        if not item.state.busy:
            continue
        made = [_kept(path_of(name), item) for name in item.status.planned]
        for part in item.status.parts:
            with suppress(OSError):
                path_of(part).unlink(missing_ok=True)
        if made and all(made):
            jobs.put(
                item.id,
                State.DONE,
                msgspec.structs.replace(
                    item.status,
                    made=tuple(result for result in made if result),
                    ended=now(),
                    progress=None,
                ),
            )
        else:
            jobs.put(item.id, State.WAITING, JobStatus())


def _kept(path: Path, item: Item) -> EncodeResult | None:
    """A file that got its name just before its line could be written."""
    if not path.is_file() or path.stat().st_mtime < item.status.began - 1:
        return None
    try:
        proof = prove(path, item.job.recipe.sheet)
    except CaracalError:
        return None
    return EncodeResult(str(path), proof) if proof.right else None


def run_list(
    path: Path, control: Control, jobs: int = 1, say: Say = lambda _: None, stay: bool = False
) -> bool:
    """Work off the list in ``path``, ``jobs`` films at once; False when another process does.

    ``stay``: wait for more when nothing is left. ``say`` hears of every line that ends. Raises
    Cancelled when stopped: what was in the making waits again.
    """
    with worked_by_us(path) as ours:
        if ours:
            work_off(path, control, jobs, say, stay)
    return ours


def work_off(
    path: Path, control: Control, jobs: int = 1, say: Say = lambda _: None, stay: bool = False
) -> None:
    """The same for a list that is ours already (see worked_by_us)."""
    warm_up()
    with BatchList(path) as first:
        recover(first)
    workers = [_Worker(path, control, say, stay) for _ in range(max(1, jobs))]
    for worker in workers:
        worker.start()
    for worker in workers:
        _joined(worker, control)
    for worker in workers:
        if worker.problem is not None:
            raise worker.problem
    control.cancel.check()


def _joined(worker: threading.Thread, control: Control) -> None:
    """Wait for ``worker``; once all is to stop, no longer than it may take to stop a film."""
    left: float | None = None
    while worker.is_alive() and (left is None or time.monotonic() < left):
        worker.join(LOOK_S)
        if control.cancel.cancelled and left is None:
            left = time.monotonic() + KILL_AFTER_S + REAP_S


TAKING = threading.Lock()


class _Worker(threading.Thread):
    """Makes one film's lines after the other."""

    def __init__(self, path: Path, control: Control, say: Say, stay: bool) -> None:
        super().__init__(daemon=True)
        self._path, self._control, self._say, self._stay = path, control, say, stay
        self.problem: BaseException | None = None

    def run(self) -> None:
        try:
            with BatchList(self._path) as jobs:
                while not self._control.cancel.cancelled:
                    items = [] if jobs.paused else _taken(jobs)
                    if items:
                        self._make(jobs, items)
                    elif not self._stay and not jobs.paused:
                        return
                    else:
                        time.sleep(LOOK_S)
        except BaseException as problem:  # noqa: BLE001 - travels to the caller's thread
            self.problem = problem

    def _make(self, jobs: BatchList, items: list[Item]) -> None:
        """Let a process make ``items``; whatever becomes of it, none of them stays in work."""
        numbers = tuple(item.id for item in items)
        ours, theirs = Pipe(duplex=False)
        with ours:
            with theirs:
                process = Child("core.batch.film", self._path, numbers, errors=theirs)
            code, words = self._waited(process, ours, jobs, numbers)
        stopped = self._control.cancel.cancelled
        for number in numbers:
            item = jobs.item(number)
            if item.state.busy:
                _clear(item)
                if stopped:
                    jobs.put(number, State.WAITING, JobStatus())
                    continue
                if item.asked == "stop":
                    jobs.put(number, State.STOPPED, msgspec.structs.replace(
                        item.status, ended=now(), progress=None))
                    self._say(jobs.item(number))
                    continue
                jobs.put(number, State.FAILED, msgspec.structs.replace(
                    item.status, problem=_crashed(item, code, words), ended=now(), progress=None))
            if (item := jobs.item(number)).state.ended:
                self._say(item)

    def _waited(
        self, process: Child, errors: Connection, jobs: BatchList, numbers: tuple[int, ...]
    ) -> tuple[int, str]:
        """The exit code of ``process`` and the end of what it said, also when it is to stop.

        It stops lines by itself. Where all that it still works at are to stop and it does not, it
        hangs, and is killed.
        """
        told: list[bytes] = []
        reader = threading.Thread(target=_read, args=(errors, told), daemon=True)
        reader.start()
        until: float | None = None
        while not process.wait(LOOK_S):
            if until is None and self._control.cancel.cancelled:
                process.terminate()
                until = time.monotonic() + GRACE_S
            elif until is None and _all_asked_to_stop(jobs, numbers):
                until = time.monotonic() + KILL_AFTER_S
            if until is not None and time.monotonic() > until:
                process.end(0)
                break
        reader.join(REAP_S)  # until its encoders have ended, too: they may still begin a file
        return process.exit_code or 0, b"".join(told)[-4000:].decode(errors="replace")


def _all_asked_to_stop(jobs: BatchList, numbers: tuple[int, ...]) -> bool:
    """Whether every line of ``numbers`` that is worked at is to stop."""
    busy = [item for item in jobs.items() if item.id in numbers and item.state.busy]
    return bool(busy) and all(item.asked == "stop" for item in busy)


def _read(errors: Connection, told: list[bytes]) -> None:
    """Take what a process says, so that it never waits; only its end is kept."""
    while data := os.read(errors.fileno(), 65536):
        told.append(data)
        del told[:-8]


def _clear(item: Item) -> None:
    """Remove what a process left half-made when it ended by itself."""
    for part in item.status.parts:
        with suppress(OSError):
            path_of(part).unlink(missing_ok=True)


def _crashed(item: Item, code: int, words: str) -> str:
    """What to say of a line whose process ended by itself."""
    log.error("the process of %s ended with %s: %s", item.job.master, code, words)
    why = (tr("signal {name}", name=signal.Signals(-code).name) if code < 0
           else tr("code {code}", code=code))
    return CaracalError(tr("The process that read this film crashed ({why}).", why=why),
                        path_of(item.job.master),
                        tr("The film is damaged: export it again. The log is {kept_at}.",
                           kept_at=kept_at())).sentence()


def _taken(jobs: BatchList) -> list[Item]:
    """The first line that waits, and all that can be made with it; they are ours now."""
    with TAKING:
        waiting = [item for item in jobs.items() if item.state is State.WAITING]
        if not waiting:
            return []
        film = _film(waiting[0].job)
        together = [item for item in waiting if _film(item.job) == film]
        for item in together:
            jobs.put(item.id, State.ENCODING, JobStatus(began=now()))
        return together


def _film(work: EncodeJob) -> tuple[object, ...]:
    recipe = work.recipe
    return (work.master, recipe.starts, recipe.drawn, recipe.sound)


def _paused(path: Path) -> bool:
    """Whether the list at ``path`` is paused, as far as it can be read."""
    try:
        with BatchList(path) as jobs:
            return jobs.paused
    except CaracalError:
        return False


def main() -> int:
    """Work off the list named on the command line until told to stop, or left alone."""
    keep_log("runner")
    if os.getsid(0) == os.getpid():  # a window started it, in a session of its own
        give_way()
    split_off(forget_log)
    control, parent = Control(), os.getppid()
    cancel_on_signals(control.cancel, within_s=KILL_AFTER_S + 2 * REAP_S)
    arguments = [name for name in sys.argv[1:] if name != STAY]
    path, stays = Path(arguments[0]), STAY in sys.argv

    def left_alone() -> None:
        """Stop when whoever started this is gone: at once, or, if it is to stay, while the list is
        paused: nobody is there to let it go on, and it would hold a film and its encoders."""
        while os.getppid() == parent or (stays and not _paused(path)):
            time.sleep(1)
        control.cancel.cancel()

    threading.Thread(target=left_alone, daemon=True).start()
    try:
        jobs = int(arguments[1]) if len(arguments) > 1 else 1
        return 0 if run_list(path, control, jobs) else 3
    except Cancelled:
        return 130
    except Exception as problem:  # noqa: BLE001 - the last handler of this process
        sys.stderr.write(f"{unforeseen(problem).sentence()}\n")
        return 2 if isinstance(problem, CaracalError) else 1


if __name__ == "__main__":
    leave(main())  # no thread that hangs holds it
