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
    from caracal.core.folders import set_home  # noqa: PLC0415 - after the signal is set

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
        from caracal.core.translation import tr  # noqa: PLC0415 - only where something is told

        sys.stderr.write(tr("Stopped.\n"))
        return 130


def _apart() -> int:
    """The command in another process, whose end is told."""
    sys.stdout.flush()
    sys.stderr.flush()
    parent = os.getpid()
    child = os.fork()
    if child == 0:
        from caracal.core.children import QUIET, end_with_parent, leave  # noqa: PLC0415

        end_with_parent(parent)
        os.environ.update(QUIET)  # as in the processes that it will start
        try:
            code = _run()
        except SystemExit as problem:
            code = problem.code if isinstance(problem.code, int) else 1
        leave(code)  # nothing of the parent's is to be ended twice

    asked: list[int] = []  # signals that were passed on

    def pass_on(number: int, _: FrameType | None) -> None:
        asked.append(number)
        with suppress(ProcessLookupError):
            os.kill(child, number)
        if not signal.getitimer(signal.ITIMER_REAL)[0]:
            signal.setitimer(signal.ITIMER_REAL, KILL_AFTER_S)

    def kill(*_: object) -> None:
        from caracal.core.children import kill_with_children  # noqa: PLC0415 - where one hangs

        kill_with_children(child)

    signal.signal(signal.SIGALRM, kill)
    for passed in PASSED_ON:
        signal.signal(passed, pass_on)
    _, status = os.waitpid(child, 0)
    if os.WIFSIGNALED(status):
        from caracal.core.socket_folder import remove_left_folders  # noqa: PLC0415 - where killed

        remove_left_folders()
    if not os.WIFSIGNALED(status):
        return os.waitstatus_to_exitcode(status)
    number = os.WTERMSIG(status)
    if asked:
        return 130
    if number in PASSED_ON:
        return 128 + number
    from caracal.core.errors import on_one_line  # noqa: PLC0415 - only where something is told
    from caracal.core.translation import tr  # noqa: PLC0415

    name = signal.Signals(number).name
    films = on_one_line(
        ", ".join(name for name in sys.argv[2:] if os.path.isfile(name)))  # noqa: PTH113
    sys.stderr.write(tr("Reading {films} ended the process that did it ({name}). The film is "
                        "damaged in an unusual way: export it again.\n", films=films or tr("this"),
                        name=name))
    return CRASHED


if __name__ == "__main__":
    sys.exit(main())
