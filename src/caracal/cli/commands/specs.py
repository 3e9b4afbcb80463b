"""``caracal specs``: the spec sheets."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, Parser, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    kinds = command.add_subparsers(dest="kind", parser_class=Parser, metavar="WHAT", required=True)
    listed = kinds.add_parser("list", help=tr("every sheet, yours too"))
    listed.set_defaults(run=later("specs", "list_sheets"))
    show = kinds.add_parser("show", help=tr("all that a sheet asks for"))
    show.add_argument("name", help=tr("a sheet's name, or a TOML file"))
    show.set_defaults(run=later("specs", "show_sheet"))
    check = kinds.add_parser("check", help=tr("whether a TOML file is a sheet that can be made"))
    check.add_argument("file", type=Path, help=tr("a single - is standard input"))
    check.set_defaults(run=later("specs", "check_sheet"))
    added = kinds.add_parser("add", help=tr("keep a TOML file's sheet among your own"))
    added.add_argument("file", type=Path, help=tr("a single - is standard input"))
    added.add_argument("--force", action="store_true", help=tr("in the place of one of its name"))
    added.set_defaults(run=later("specs", "add_sheet"))
    export = kinds.add_parser("export", help=tr("write a sheet as TOML, to begin your own from"))
    export.add_argument("name")
    export.add_argument("file", type=Path, help=tr("a single - is standard output"))
    export.add_argument("--force", action="store_true", help=tr("write over a file that is there"))
    export.set_defaults(run=later("specs", "export_sheet"))
    for parser in (listed, show, check):
        parser.add_argument("--json", action="store_true", help=tr("only JSON on standard output"))


SPECS = Command("specs", tr("the spec sheets: list, show, check, add, export"), _arguments)
