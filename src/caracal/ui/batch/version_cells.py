"""What the table of versions says of one."""

from __future__ import annotations

from caracal.core.base.translation import tr
from caracal.core.project.model import Version
from caracal.core.specs.sheet import SpecSheet
from caracal.ui.widgets.tables import Cell


def of_shape(letter: str, sheet: SpecSheet) -> Cell:
    """Its letter and shape."""
    width, height = sheet.canvas
    return Cell(f"{letter}   {sheet.shape}",
                tip=tr("{width} × {height} pixels", width=width, height=height))


def of_sheet(sheet: SpecSheet) -> Cell:
    """What it is made for, and as which file."""
    return Cell(sheet.title, tip=tr(
        "{picture} and {sound} in {container}", picture=sheet.video.family.title,
        sound=sheet.sound.family.title, container=sheet.file.container))


def of_ranges(version: Version) -> str:
    """How much of the film it shows, after its length; nothing if all of it."""
    count = len(version.ranges)
    return tr(" in {count}", count=count) if count > 1 else tr(" own") if count else ""
