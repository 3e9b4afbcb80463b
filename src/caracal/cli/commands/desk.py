"""``caracal desk``: a stand-in for a destination."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, Parser, json_answer, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    kinds = command.add_subparsers(dest="kind", parser_class=Parser, metavar="WHAT", required=True)
    deliver = kinds.add_parser("deliver", help=tr("deliver a bundle"))
    deliver.add_argument("bundle", type=Path, help=tr("folder of the bundle"))
    deliver.add_argument("--spec", required=True, metavar="NAME", help=tr("spec sheet of the "
                                                                          "destination"))
    deliver.add_argument("--file", action="append", metavar="NAME", dest="files",
                         help=tr("deliver only this file of the bundle; otherwise all files of "
                                 "the spec sheet"))
    deliver.add_argument("--title", required=True, help=tr("title of the entry"))
    deliver.add_argument("--text", default="", help=tr("text of the entry"))
    deliver.add_argument("--tag", action="append", help=tr("tag; may be given again"))
    deliver.add_argument("--date", default="",
                         help=tr("when to publish, as YYYY-MM-DDTHH:MM in local time; at once if "
                                 "omitted"))
    deliver.set_defaults(run=later("desk", "deliver"))
    listed = kinds.add_parser("list", help=tr("list the schedule"))
    listed.add_argument("--due", action="store_true", help=tr("only entries that are due"))
    listed.set_defaults(run=later("desk", "list_entries"))
    away = kinds.add_parser("withdraw", help=tr("remove an entry from the outbox"))
    away.add_argument("id", help=tr("id of the entry, as list prints it"))
    away.set_defaults(run=later("desk", "withdraw"))
    for parser in (deliver, listed, away):
        parser.add_argument("--outbox", required=True, type=Path, metavar="DIR",
                            help=tr("folder of the destination"))
    for parser in (deliver, listed):
        json_answer(parser)


DESK = Command("desk", tr("a simulated destination: deliver, list, withdraw"), _arguments)
