"""``caracal open`` and ``caracal demo``: the window."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, nargs="?", help=tr("film or project"))
    command.add_argument("--new-window", action="store_true",
                         help=tr("open in a new window, even if one is open"))


def _none(command: argparse.ArgumentParser) -> None:
    """The demo takes no arguments."""


DEMO = Command("demo", tr("open the demo film in the window"), _none, later("opening", "open_demo"))
OPEN = Command("open", tr("open a film in the window"), _arguments, later("opening", "open_film"))
