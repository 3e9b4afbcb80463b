"""``caracal convert``: versions of one film, encoded and proved."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later, looks, number, sound_choice
from caracal.core.base.translation import tr


def _manner(text: str) -> object:
    """A manner by its name."""
    from caracal.core.framing.motion import Manner  # noqa: PLC0415 - only where it is asked for

    names = {manner.value.replace(" ", "-"): manner
             for manner in Manner if manner is not Manner.BY_HAND}
    if text.lower() not in names:
        raise argparse.ArgumentTypeError(tr("“{text}” is no manner; give one of {names}", text=text,
                                            names=", ".join(names)))
    return names[text.lower()]


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, nargs="?")
    command.add_argument("--spec", action="extend", nargs="+", metavar="NAME",
                         help=tr("one or more spec sheets; a project has its own"))
    command.add_argument("--out", required=True, type=Path, metavar="DIR")
    command.add_argument("--dry-run", action="store_true",
                         help=tr("only tell sizes, times and concerns; make nothing"))
    command.add_argument("--replace", action="store_true",
                         help=tr("replace files of the same names; else new ones are numbered"))
    command.add_argument("--review", action="store_true",
                         help=tr("review copies: the destination's zones are in the picture"))
    command.add_argument("--lead", type=number(1, tr("person's number")), metavar="N",
                         help=tr("person #N of the film, as analyse numbers them, leads "
                                 "everywhere"))
    command.add_argument("--manner", type=_manner, metavar="NAME",
                         help=tr("how windows move: auto, locked, glide or chase"))
    command.add_argument("--cuts", type=Path, metavar="FILE",
                         help=tr("shots from a cut list (EDL, OpenTimelineIO)"))
    sound_choice(command)
    looks(command)
    command.add_argument("--captions", type=Path, metavar="FILE",
                         help=tr("the film's captions, in the picture or beside it as the sheet "
                                 "says"))
    command.add_argument("--from", dest="start", metavar="TC", help=tr("HH:MM:SS:FF or seconds"))
    command.add_argument("--to", dest="end", metavar="TC", help=tr("the first frame left out"))
    command.add_argument("--speed", type=int, default=100, metavar="PERCENT",
                         help=tr("25 to 400 percent of its own speed, the sound at its pitch"))
    command.add_argument("--json", action="store_true")


CONVERT = Command("convert", tr("make versions, encoded and proved"), _arguments,
                  later("steps", "convert_film"))
