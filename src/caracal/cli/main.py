"""``caracal``: opens the window, or does one step of the job without it. Stable: people script it.

Exit codes: 0 done, 1 a proof line failed or something nobody foresaw went wrong, 2 bad input, 130
stopped; one sentence on stderr, and a log (see --log).
"""

from __future__ import annotations

import argparse
import signal
import sys
from io import TextIOWrapper
from pathlib import Path

from caracal import __version__
from caracal.cli.commands import ALL
from caracal.cli.commands.command import Parser, later
from caracal.cli.given import sorted_out
from caracal.cli.progress_bar import tell_progress
from caracal.core.base.errors import Cancelled, CaracalError, StorageError
from caracal.core.base.logs import keep_log, log, unforeseen
from caracal.core.base.translation import tr


def parser() -> argparse.ArgumentParser:
    """All commands and their options."""
    top = Parser(prog="caracal", description=tr("Turn a finished widescreen film into versions of "
                                                "other shapes: framed, checked and encoded."))
    top.add_argument("--version", action="version", version=f"caracal {__version__}")
    top.add_argument("--log", type=Path, metavar="FILE",
                     help=tr("write the log to FILE instead of the state folder"))
    top.add_argument("--verbose", action="store_true", help=tr("log and print more"))
    top.add_argument("--quiet", action="store_true",
                     help=tr("print errors only"))
    commands = top.add_subparsers(dest="command", parser_class=Parser, metavar="COMMAND")
    for command in ALL:
        made = commands.add_parser(command.name, help=command.help)
        command.arguments(made)
        if command.run is not None:
            made.set_defaults(run=command.run)
    return top


def main(arguments: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    given = sys.argv[1:] if arguments is None else arguments
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, TextIOWrapper):
            stream.reconfigure(errors="surrogateescape")  # names are printed byte for byte
    asked = parser().parse_args(given)
    keep_log("command", asked.log, asked.verbose)
    tell_progress(not asked.quiet)
    run = getattr(asked, "run", later("opening", "open_window"))
    try:
        return int(run(sorted_out(asked)))
    except (Cancelled, KeyboardInterrupt):
        sys.stderr.write(tr("Stopped; partial files were deleted.\n"))
        return 130
    except CaracalError as problem:
        log.info("refused: %s", problem.sentence())
        sys.stderr.write(f"{problem.sentence()}\n")
        return 2
    except BrokenPipeError:
        signal.signal(signal.SIGPIPE, signal.SIG_DFL)
        return 0
    except Exception as problem:  # noqa: BLE001 - the one gate: a sentence and the log, no traceback
        told = unforeseen(problem)
        sys.stderr.write(f"{told.sentence()}\n")
        return 2 if isinstance(told, StorageError) else 1


if __name__ == "__main__":
    sys.exit(main())
