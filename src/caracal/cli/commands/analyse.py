"""``caracal analyse``: shots, people and things."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import MOVIE, Command, json_answer, later, number
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, help=MOVIE)
    json_answer(command)
    command.add_argument("--explain", type=number(0, tr("frame number")), metavar="FRAME",
                         help=tr("print what the cut finder measured and decided around this "
                                 "frame"))


ANALYSE = Command("analyse", tr("find shots, people and things"), _arguments,
                  later("steps", "analyse_film"))
