"""``caracal prove``: files against their spec sheets."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("file", type=Path, nargs="+",
                         help=tr("a movie, the folder of a batch or a bundle, or a report.json"))
    command.add_argument("--spec", metavar="NAME",
                         help=tr("the sheet; else that which the bundle or report names for each "
                                 "file"))
    command.add_argument("--json", action="store_true")


PROVE = Command("prove", tr("check a file against a spec sheet"), _arguments,
                later("proving", "prove_files"))
