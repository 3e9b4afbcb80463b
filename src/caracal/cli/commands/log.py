"""``caracal log``: where the log is."""

from __future__ import annotations

import argparse

from caracal.cli.commands.command import Command, later, number
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("--lines", type=number(0, tr("number of lines")), default=20, metavar="N")


LOG = Command("log", tr("print the path of the log and its last lines"), _arguments,
              later("opening", "show_log"))
