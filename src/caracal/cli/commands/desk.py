"""``caracal desk``: a stand-in for a destination."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, Parser, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    kinds = command.add_subparsers(dest="kind", parser_class=Parser, metavar="WHAT", required=True)
    deliver = kinds.add_parser("deliver", help=tr("hand a bundle over"))
    deliver.add_argument("bundle", type=Path)
    deliver.add_argument("--spec", required=True, metavar="NAME", help=tr("the desk's own sheet"))
    deliver.add_argument("--file", action="append", metavar="NAME", dest="files",
                         help=tr("only this file of the bundle; else all made for the sheet"))
    deliver.add_argument("--title", required=True)
    deliver.add_argument("--text", default="")
    deliver.add_argument("--tag", action="append")
    deliver.add_argument("--date", default="",
                         help=tr("YYYY-MM-DDTHH:MM, local time; none: at once"))
    deliver.set_defaults(run=later("desk", "deliver"))
    listed = kinds.add_parser("list", help=tr("the schedule"))
    listed.add_argument("--due", action="store_true", help=tr("only what should be out by now"))
    listed.set_defaults(run=later("desk", "list_entries"))
    away = kinds.add_parser("withdraw", help=tr("take an entry out of the outbox"))
    away.add_argument("id")
    away.set_defaults(run=later("desk", "withdraw"))
    for parser in (deliver, listed, away):
        parser.add_argument("--outbox", required=True, type=Path, metavar="DIR")
    for parser in (deliver, listed):
        parser.add_argument("--json", action="store_true")


DESK = Command("desk", tr("a stand-in for a destination: deliver, list, withdraw"), _arguments)
