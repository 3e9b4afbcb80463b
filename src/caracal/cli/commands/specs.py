"""``caracal specs``: the spec sheets."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, Parser, later
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    kinds = command.add_subparsers(dest="kind", parser_class=Parser, metavar="WHAT", required=True)
    listed = kinds.add_parser("list", help=tr("list all spec sheets, with your own"))
    listed.set_defaults(run=later("specs", "list_sheets"))
    show = kinds.add_parser("show", help=tr("show everything a spec sheet asks for"))
    show.add_argument("name", help=tr("name of a spec sheet, or a TOML file"))
    show.set_defaults(run=later("specs", "show_sheet"))
    check = kinds.add_parser("check", help=tr("check whether a TOML file is a valid spec sheet"))
    check.add_argument("file", type=Path, help=tr("TOML file; - reads standard input"))
    check.set_defaults(run=later("specs", "check_sheet"))
    added = kinds.add_parser("add", help=tr("add a TOML file to your spec sheets"))
    added.add_argument("file", type=Path, help=tr("TOML file; - reads standard input"))
    added.add_argument("--force", action="store_true", help=tr("overwrite your spec sheet of the "
                                                               "same name"))
    added.set_defaults(run=later("specs", "add_sheet"))
    export = kinds.add_parser("export", help=tr("write a spec sheet as TOML, as a start for your "
                                                "own"))
    export.add_argument("name")
    export.add_argument("file", type=Path, help=tr("TOML file to write; - writes to standard "
                                                   "output"))
    export.add_argument("--force", action="store_true", help=tr("overwrite an existing file"))
    export.set_defaults(run=later("specs", "export_sheet"))
    for parser in (listed, show, check):
        parser.add_argument("--json", action="store_true", help=tr("print JSON only"))


SPECS = Command("specs", tr("list, show, check, add and export spec sheets"), _arguments)
