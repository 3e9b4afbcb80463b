"""``caracal integrate``: the desktop knows Caracal."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("--remove", action="store_true", help=tr("remove everything that "
                                                                  "integrate installed"))
    command.add_argument("--force", action="store_true",
                         help=tr("also replace or remove files that were changed"))
    command.add_argument("--into", type=Path, metavar="DIR",
                         help=tr("install below DIR, for packagers, instead of your data folder"))


INTEGRATE = Command("integrate", tr("install desktop entry, icon, file type, manual and shell "
                                    "completions"), _arguments,
                    later("integrate", "integrate"))
