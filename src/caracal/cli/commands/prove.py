"""``caracal prove``: files against their spec sheets."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, json_answer, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("file", type=Path, nargs="+",
                         help=tr("movie, batch folder, bundle or report.json"))
    command.add_argument("--spec", metavar="NAME",
                         help=tr("spec sheet; otherwise the one that the bundle or report names"))
    json_answer(command)


PROVE = Command("prove", tr("check finished files against a spec sheet"), _arguments,
                later("proving", "prove_files"))
