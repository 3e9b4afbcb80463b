"""What a command is, and what its arguments are read with. Nothing heavy is imported here."""

from __future__ import annotations

import argparse
import importlib
import math
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from caracal.core.base.translation import tr

Run = Callable[[argparse.Namespace], int]


class Parser(argparse.ArgumentParser):
    """A parser that refuses in one sentence, like everything else."""

    def error(self, message: str) -> None:  # type: ignore[override]
        """Say what is wrong, and end with exit code 2."""
        said = message[:1].upper() + message[1:]
        sys.stderr.write(tr("{message}. See {prog} --help.\n", message=said, prog=self.prog))
        raise SystemExit(2)


@dataclass(frozen=True)
class Command:
    """A command: its ``name``, its ``help`` in a few words, what adds its ``arguments`` to a
    parser, and what it does; None: one of its arguments says so."""

    name: str
    help: str
    arguments: Callable[[argparse.ArgumentParser], None]
    run: Run | None = None


def later(module: str, name: str) -> Run:
    """Function ``name`` of a ``module`` of ``caracal.cli``, which is imported when it runs: help
    and refusals need none of what it imports."""
    def run(asked: argparse.Namespace) -> int:
        function: Run = getattr(importlib.import_module(f"caracal.cli.{module}"), name)
        return function(asked)

    return run


def number(least: int, what: str) -> Callable[[str], int]:
    """Reads a whole number of ``least`` or more; ``what`` it is called in a sentence."""
    def read(text: str) -> int:
        if not (text.isascii() and text.isdigit() and len(text) < 10 and int(text) >= least):
            raise argparse.ArgumentTypeError(tr("“{text}” is not a valid {what}; give {least} or "
                                                "more",
                                                text=text, what=what, least=least))
        return int(text)

    return read


def json_answer(command: argparse.ArgumentParser) -> None:
    """--json."""
    command.add_argument("--json", action="store_true", help=tr("print JSON only"))


MOVIE = tr("film or project")


def sound_choice(command: argparse.ArgumentParser) -> None:
    """--sound, or --audio-track."""
    command.add_argument("--sound", "--audio-track", type=int, default=1, metavar="N",
                         help=tr("audio track to use, counted from 1"))


class _LayoutNames:
    """The layouts that can be named; what knows them is imported only where help is shown."""

    def __str__(self) -> str:
        from caracal.core.layout.kinds import KINDS  # noqa: PLC0415

        return ", ".join(kind.name.replace(",", "").replace(" ", "-") for kind in KINDS)


def looks(command: argparse.ArgumentParser) -> None:
    """--layout, --template and --brand."""
    layout = command.add_argument(
        "--layout", default="fill", metavar="NAME|FILE",
        help=tr("%(layouts)s, or a layout file (.toml): the layout of all shots that have none of "
                "their own"))
    setattr(layout, "layouts", _LayoutNames())  # noqa: B010 - argparse fills it in
    command.add_argument("--template", type=Path, metavar="FILE",
                         help=tr("template file (.toml) with overlays and fades"))
    command.add_argument("--brand", type=Path, metavar="FILE",
                         help=tr("brand file (.toml) with logo, styles and end card"))


def added_sound(command: argparse.ArgumentParser) -> None:
    """--bed, --bed-gain, --duck and --clean."""
    command.add_argument("--bed", type=Path, metavar="FILE",
                         help=tr("music or other sound under the whole version, repeated or cut to "
                                 "its length"))
    command.add_argument("--bed-gain", type=decibels, metavar="DB",
                         help=tr("gain of the bed in dB, -60 to 24 (-14 if omitted)"))
    command.add_argument("--duck", type=decibels, metavar="DB",
                         help=tr("how many dB the bed goes down while somebody speaks, 0 to 40 "
                                 "(12 if omitted)"))
    command.add_argument("--clean", choices=("off", "mild", "usual", "all"), metavar="STRENGTH",
                         help=tr("lower the noise behind speech: mild by 6 dB, usual by 12 dB, or "
                                 "all of it; music stays as it is"))


def decibels(text: str) -> float:
    """A number of dB. Raises ArgumentTypeError."""
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise argparse.ArgumentTypeError(tr("{text} is not a number of dB", text=repr(text)))
    return value
