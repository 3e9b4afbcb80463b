"""``caracal cache``: what analyses take."""

from __future__ import annotations

import argparse

from caracal.cli.commands.command import Command, json_answer, later
from caracal.core.base.translation import tr


def _gigabytes(text: str) -> float:
    """A size in 10^9 bytes, 0 or more."""
    try:
        size = float(text)
    except ValueError:
        size = -1.0
    if not 0 <= size < float("inf"):
        raise argparse.ArgumentTypeError(tr("“{text}” is not a size in GB; give a number such as "
                                            "20", text=text))
    return size


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("--clear", action="store_true",
                         help=tr("delete all analyses; films are analysed again when they are "
                                 "opened"))
    command.add_argument("--limit", type=_gigabytes, metavar="GB",
                         help=tr("delete the analyses used longest ago until the rest takes at "
                                 "most GB"))
    json_answer(command)


CACHE = Command("cache", tr("print how much space analyses take, and delete them"), _arguments,
                later("cache", "show_or_clear"))
