"""Where ``caracal`` begins: what reads films does so in a process of its own.

Libraries that read films can be ended by a hostile one. The process that a person started only
waits for the other, and says in a sentence what became of it. Nothing heavy is imported before it
is split: it costs a few milliseconds.
"""

from __future__ import annotations

import os
import signal
import sys
from contextlib import suppress
from types import FrameType

READS_FILMS = ("look", "analyse", "path", "captions", "convert", "prove", "batch", "desk")
PASSED_ON = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
KILL_AFTER_S = 3.0  # a command that does not end by itself in this time after a signal is killed
CRASHED = 2  # the exit code of bad input: the film is what has to be changed


def main() -> int:
    """Run the command line; returns the exit code."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)  # no traceback on Ctrl+C during imports
    from caracal.core.base.folders import set_home  # noqa: PLC0415 - after the signal is set

    os.environ["PYTHONSAFEPATH"] = "1"  # no process that is started imports from the current folder
    set_home()
    if any(name in READS_FILMS for name in sys.argv[1:]):
        return _apart()
    return _run()


def _run() -> int:
    try:
        from caracal.cli.main import main as run  # noqa: PLC0415 - after the process is split

        signal.signal(signal.SIGINT, signal.default_int_handler)
        return run()
    except KeyboardInterrupt:  # before there was anything to stop
        from caracal.core.base.translation import tr  # noqa: PLC0415 - only where something is told

        sys.stderr.write(tr("Stopped.\n"))
        return 130


def _apart() -> int:
    """The command in another process, whose end is told."""
    sys.stdout.flush()
    sys.stderr.flush()
    parent = os.getpid()
    # Held back until there are handlers: ended before that, this process would leave the other.
    signal.pthread_sigmask(signal.SIG_BLOCK, PASSED_ON)
    child = os.fork()
    if child == 0:
        from caracal.core.processes.children import QUIET, end_with_parent, leave  # noqa: PLC0415

        end_with_parent(parent)
        signal.pthread_sigmask(signal.SIG_UNBLOCK, PASSED_ON)
        os.environ.update(QUIET)  # as in the processes that it will start
        try:
            code = _run()
        except SystemExit as problem:
            code = problem.code if isinstance(problem.code, int) else 1
        leave(code)  # nothing of the parent's is to be ended twice

    status, stopped = _wait_for(child)
    if not os.WIFSIGNALED(status):
        return os.waitstatus_to_exitcode(status)
    _remove_left()
    number = os.WTERMSIG(status)
    if stopped:
        return 130
    return 128 + number if number in PASSED_ON else _crashed(number)


def _wait_for(child: int) -> tuple[int, bool]:
    """The status with which ``child`` ends, and whether it was sent a signal that stops it.

    Signals are passed on to it from now on, which are held back until then.
    """
    asked: list[int] = []  # signals that were passed on

    def pass_on(number: int, _: FrameType | None) -> None:
        asked.append(number)
        with suppress(ProcessLookupError):
            os.kill(child, number)
        if not signal.getitimer(signal.ITIMER_REAL)[0]:
            signal.setitimer(signal.ITIMER_REAL, KILL_AFTER_S)

    def kill(*_: object) -> None:
        from caracal.core.processes.children import kill_with_children  # noqa: PLC0415 - where one hangs

        kill_with_children(child)

    signal.signal(signal.SIGALRM, kill)
    for passed in PASSED_ON:
        signal.signal(passed, pass_on)
    signal.pthread_sigmask(signal.SIG_UNBLOCK, PASSED_ON)
    _, status = os.waitpid(child, 0)
    return status, bool(asked)


def _crashed(number: int) -> int:
    """Say that reading films ended a process by signal ``number``; the exit code."""
    from caracal.core.base.errors import on_one_line  # noqa: PLC0415 - only where something is told
    from caracal.core.base.translation import tr  # noqa: PLC0415

    name = signal.Signals(number).name
    films = on_one_line(
        ", ".join(name for name in sys.argv[2:] if os.path.isfile(name)))  # noqa: PTH113
    sys.stderr.write(tr("The process that read {films} crashed ({name}). The film is damaged: "
                        "export it again.\n", films=films or tr("this"),
                        name=name))
    return CRASHED


def _remove_left() -> None:
    """Remove what a process that was killed could not remove itself."""
    from pathlib import Path  # noqa: PLC0415 - only where one was killed

    from caracal.core.base.half_made import remove_left_parts  # noqa: PLC0415
    from caracal.core.processes.socket_folder import remove_left_folders  # noqa: PLC0415

    remove_left_folders()
    given = sys.argv[1:]
    for number, word in enumerate(given):
        name, _, folder = word.partition("=")
        if name == "--out":
            remove_left_parts(Path(folder or (given[number + 1 :] or ["."])[0]))


if __name__ == "__main__":
    sys.exit(main())
