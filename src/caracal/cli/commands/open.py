"""``caracal open`` and ``caracal demo``: the window."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, nargs="?")
    command.add_argument("--new-window", action="store_true",
                         help=tr("not in the window that is there, whatever was chosen in it"))


def _none(command: argparse.ArgumentParser) -> None:
    """The demo takes no arguments."""


DEMO = Command("demo", tr("open the window on the demo film"), _none, later("opening", "open_demo"))
OPEN = Command("open", tr("open the window on a film"), _arguments, later("opening", "open_film"))
