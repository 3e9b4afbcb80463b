"""``caracal path``: the window of every frame."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import MOVIE, Command, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, help=MOVIE)
    command.add_argument("--shape", required=True, help=tr("shape of the version, such as 9:16"))
    command.add_argument("--json", action="store_true", help=tr("print JSON only: a list of "
                                                                "[frame, x, y, w, h] in pixels of "
                                                                "the master"))


PATH = Command("path", tr("print the crop of every frame for a shape"), _arguments,
               later("steps", "path_of"))
