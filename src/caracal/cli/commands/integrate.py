"""``caracal integrate``: the desktop knows Caracal."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("--remove", action="store_true", help=tr("take all of that away again"))
    command.add_argument("--force", action="store_true",
                         help=tr("replace or remove files that were changed, too"))
    command.add_argument("--into", type=Path, metavar="DIR",
                         help=tr("install below DIR, as a packager does, not in your data "
                                 "folder"))


INTEGRATE = Command("integrate", tr("let the desktop know Caracal: entry, icon, project files, "
                                    "manual, completions"), _arguments,
                    later("integrate", "integrate"))
