"""``caracal specs``: what destinations ask for."""

from __future__ import annotations

import argparse
import json
import os
import sys
import tempfile
from pathlib import Path

import msgspec

from caracal.cli.given import STREAM
from caracal.core.base.errors import InputError
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.translation import mark, tr
from caracal.core.specs.settings import estimated_mb
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import (
    all_sheets,
    find_sheet,
    keep_sheet,
    own_folder,
    read_sheet,
    sheet_text,
    shipped_sheets,
    write_sheet,
)

DEMO = "of the demo film"  # how sources of its invented destinations end


def list_sheets(asked: argparse.Namespace) -> int:
    """Every sheet in a line; broken ones of the user are named on stderr."""
    sheets, wrong = all_sheets()
    if asked.json:
        print(json.dumps([msgspec.to_builtins(sheet) for sheet in sheets.values()], indent=1))
    else:
        for group, held in _groups(sheets).items():
            print(tr(group))
            for sheet in held:
                print(f"  {sheet.name:16}  {sheet.title:22}  {_line(sheet)}")
        print(tr("Your own sheets are in {folder}", folder=own_folder()))
    for sentence in wrong:
        sys.stderr.write(f"{sentence}\n")
    return 0


def add_sheet(asked: argparse.Namespace) -> int:
    """Keep the sheet in a file among your own."""
    sheet = _given_sheet(asked)
    target = own_folder() / f"{sheet.name}.toml"
    if os.path.lexists(target) and not asked.force:
        raise InputError(tr("You have a sheet called “{name}” already.", name=sheet.name), target,
                         tr("Give it another name, or give --force."))
    print(tr("Kept as {file}", file=keep_sheet(sheet)))
    return 0


def _groups(sheets: dict[str, SpecSheet]) -> dict[str, list[SpecSheet]]:
    """Sheets under what they are called together."""
    made: dict[str, list[SpecSheet]] = {
        mark("Generic"): [], mark("Demo"): [], mark("Your own"): []}
    shipped = shipped_sheets()
    for name, sheet in sheets.items():
        group = "Your own" if shipped.get(name) != sheet else (
            "Demo" if sheet.source.endswith(DEMO) else "Generic")
        made[group].append(sheet)
    return {group: held for group, held in made.items() if held}


def _line(sheet: SpecSheet) -> str:
    canvas = tr("as made") if sheet.as_made else f"{sheet.canvas[0]}x{sheet.canvas[1]}"
    last = (
        tr("{least_s:g} to {most_s:g} s, then {beyond}", least_s=sheet.duration.least_s,
           most_s=sheet.duration.most_s, beyond=tr(sheet.duration.beyond))
    )
    return tr("{canvas:10} {picture} and {sound} in {container}, {last}, a minute is {size:.0f} MB",
              canvas=canvas, picture=sheet.video.family.title, sound=sheet.sound.family.title,
              container=sheet.file.container, last=last, size=estimated_mb(sheet, 60))


def show_sheet(asked: argparse.Namespace) -> int:
    """A whole sheet, as TOML or JSON."""
    sheet = find_sheet(asked.name)
    print(json.dumps(msgspec.to_builtins(sheet), indent=1) if asked.json else sheet_text(sheet),
          end="\n" if asked.json else "")
    return 0


def check_sheet(asked: argparse.Namespace) -> int:
    """Say that a file is a good sheet; bad ones are refused with line and reason, exit code 2."""
    sheet = _given_sheet(asked)
    if asked.json:
        print(json.dumps({"file": str(asked.file), "name": sheet.name, "right": True}))
    else:
        what = tr("This") if asked.file == STREAM else asked.file.name
        print(tr("{what} is a good sheet: {title}, {line}", what=what, title=sheet.title,
                 line=_line(sheet)))
    return 0


def _given_sheet(asked: argparse.Namespace) -> SpecSheet:
    """The sheet in a file, or on standard input."""
    if asked.file != STREAM:
        return read_sheet(asked.file)
    with tempfile.TemporaryDirectory() as folder:
        given = Path(folder) / "standard input.toml"
        given.write_bytes(sys.stdin.buffer.read(MOST_TEXT_BYTES + 1))
        return read_sheet(given)


def export_sheet(asked: argparse.Namespace) -> int:
    """Write a sheet to a file, or to standard output."""
    if asked.file == STREAM:
        print(sheet_text(find_sheet(asked.name)), end="")
        return 0
    if os.path.lexists(asked.file) and not asked.force:
        raise InputError(tr("This file is there already."), asked.file,
                         tr("Choose another name, or give --force."))
    if asked.file.is_symlink():
        raise InputError(tr("This is a link to another file."), asked.file,
                         tr("Choose another name."))
    write_sheet(find_sheet(asked.name), asked.file)
    print(tr("Written to {file}", file=asked.file))
    return 0
