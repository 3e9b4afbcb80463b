"""``caracal look``: what a file is."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import MOVIE, Command, json_answer, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, help=MOVIE)
    json_answer(command)


LOOK = Command("look", tr("print what a media file is"), _arguments, later("opening", "look_at"))
