"""``caracal path``: the window of every frame."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path)
    command.add_argument("--shape", required=True, help=tr("such as 9:16"))
    command.add_argument("--json", action="store_true", help=tr("a list of [frame,x,y,w,h]"))


PATH = Command("path", tr("the window of every frame for a shape"), _arguments,
               later("steps", "path_of"))
