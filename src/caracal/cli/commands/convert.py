"""``caracal convert``: versions of one film, encoded and proved."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import (
    Command,
    added_sound,
    json_answer,
    later,
    looks,
    number,
    sound_choice,
)
from caracal.core.base.translation import tr


def _manner(text: str) -> object:
    """A manner by its name."""
    from caracal.core.framing.motion import Manner  # noqa: PLC0415 - only where it is asked for

    names = {manner.value.replace(" ", "-"): manner
             for manner in Manner if manner is not Manner.BY_HAND}
    if text.lower() not in names:
        raise argparse.ArgumentTypeError(tr("“{text}” is not a manner; give one of {names}",
                                            text=text,
                                            names=", ".join(names)))
    return names[text.lower()]


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, nargs="?",
                         help=tr("film or project; the demo film if omitted"))
    command.add_argument("--spec", action="extend", nargs="+", metavar="NAME",
                         help=tr("one or more spec sheets to encode to; a project brings its own"))
    command.add_argument("--out", required=True, type=Path, metavar="DIR",
                         help=tr("folder to write the files into"))
    command.add_argument("--dry-run", action="store_true",
                         help=tr("print sizes, times and issues without encoding"))
    command.add_argument("--replace", action="store_true",
                         help=tr("overwrite files of the same name; otherwise new files are "
                                 "numbered"))
    command.add_argument("--review", action="store_true",
                         help=tr("encode review copies, with the destination's zones drawn in the "
                                 "picture"))
    command.add_argument("--lead", type=number(1, tr("person's number")), metavar="N",
                         help=tr("person N leads wherever it is seen (analyse prints the numbers)"))
    command.add_argument("--manner", type=_manner, metavar="NAME",
                         help=tr("how the crop moves: auto, locked, glide or chase"))
    command.add_argument("--cuts", "--cut-list", type=Path, metavar="FILE",
                         help=tr("take the shots from a cut list (EDL, OpenTimelineIO)"))
    sound_choice(command)
    looks(command)
    added_sound(command)
    command.add_argument("--captions", type=Path, metavar="FILE",
                         help=tr("caption file; burnt in or delivered beside the film as the spec "
                                 "sheet says"))
    command.add_argument("--from", dest="start", metavar="TC", help=tr("start at this timecode "
                                                                       "(HH:MM:SS:FF) or second"))
    command.add_argument("--to", dest="end", metavar="TC", help=tr("end before this timecode or "
                                                                   "second"))
    command.add_argument("--speed", type=int, default=100, metavar="PERCENT",
                         help=tr("speed in percent, 25 to 400; the sound keeps its pitch"))
    json_answer(command)


CONVERT = Command("convert", tr("encode versions and prove them"), _arguments,
                  later("steps", "convert_film"))
