"""``caracal``: opens the window, or does one step of the job without it. Stable: people script it.

Exit codes: 0 done, 1 a proof line failed, 2 bad input (one sentence on stderr).
"""

from __future__ import annotations

import argparse
import signal
import sys
from pathlib import Path

from caracal import __version__
from caracal.cli import steps
from caracal.core.errors import Cancelled, CaracalError


class _Parser(argparse.ArgumentParser):
    """A parser that refuses in one sentence, like everything else."""

    def error(self, message: str) -> None:  # type: ignore[override]
        sys.stderr.write(f"{message[:1].upper()}{message[1:]}. See {self.prog} --help.\n")
        raise SystemExit(2)


def parser() -> argparse.ArgumentParser:
    """All commands and their options."""
    top = _Parser(prog="caracal", description="One finished widescreen film in; every other "
                  "shape out, framed, checked and encoded.")
    top.add_argument("--version", action="version", version=f"caracal {__version__}")
    commands = top.add_subparsers(dest="command", parser_class=_Parser, metavar="COMMAND")
    demo = commands.add_parser("demo", help="open the window on the demo film")
    demo.set_defaults(run=steps.open_demo)
    opened = commands.add_parser("open", help="open the window on a film")
    opened.add_argument("movie", type=Path)
    opened.set_defaults(run=steps.open_film)
    for name, what, run in (
        ("look", "say what a file is", steps.look_at),
        ("analyse", "find shots, people and things", steps.analyse_film),
    ):
        command = commands.add_parser(name, help=what)
        command.add_argument("movie", type=Path)
        command.add_argument("--json", action="store_true", help="only JSON on standard output")
        command.set_defaults(run=run)
    path = commands.add_parser("path", help="the window of every frame for a shape")
    path.add_argument("movie", type=Path)
    path.add_argument("--shape", required=True, help="such as 9:16")
    path.add_argument("--json", action="store_true", help="a list of [frame,x,y,w,h]")
    path.set_defaults(run=steps.path_of)
    _convert(commands.add_parser("convert", help="make versions, encoded and proved"))
    prove = commands.add_parser("prove", help="check a file against a spec sheet")
    prove.add_argument("file", type=Path)
    prove.add_argument("--spec", required=True, metavar="NAME")
    prove.add_argument("--json", action="store_true")
    prove.set_defaults(run=steps.prove_file)
    return top


def _convert(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path)
    command.add_argument("--spec", required=True, action="extend", nargs="+", metavar="NAME",
                         help="one or more spec sheets")
    command.add_argument("--out", required=True, type=Path, metavar="DIR")
    command.add_argument("--from", dest="start", metavar="TC", help="HH:MM:SS:FF or seconds")
    command.add_argument("--to", dest="end", metavar="TC", help="the first frame left out")
    command.add_argument("--json", action="store_true")
    command.set_defaults(run=steps.convert_film)


def main(arguments: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    given = sys.argv[1:] if arguments is None else arguments
    asked = parser().parse_args(given)
    run = getattr(asked, "run", steps.open_window)
    try:
        return int(run(asked))
    except Cancelled:
        sys.stderr.write("Stopped; nothing half-made was kept.\n")
        return 130
    except CaracalError as problem:
        sys.stderr.write(f"{problem.sentence()}\n")
        return 2
    except BrokenPipeError:
        signal.signal(signal.SIGPIPE, signal.SIG_DFL)
        return 0


if __name__ == "__main__":
    sys.exit(main())
