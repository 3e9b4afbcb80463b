"""The zones of a canvas: those of its sheet, and the safe areas of wide pictures."""

from __future__ import annotations

from caracal.core.base.translation import mark
from caracal.core.specs.sheet import SpecSheet, Zone

# EBU R 95 and SMPTE ST 2046-1 (from memory): action in 93 %, graphics in 90 % of a 16:9 picture.
ACTION_SAFE = Zone(mark("action safe"), 0.035, 0.035, 0.93, 0.93)
GRAPHICS_SAFE = Zone(mark("graphics safe"), 0.05, 0.05, 0.90, 0.90)
WIDE = 1.3  # width over height from which a canvas is shown on wide screens


def safe_areas(sheet: SpecSheet) -> tuple[Zone, ...]:
    """What to keep words and action in: the sheet's clear area, or on wide canvases EBU R 95's."""
    if sheet.clear is not None:
        return (sheet.clear,)
    width, height = sheet.canvas
    return (ACTION_SAFE, GRAPHICS_SAFE) if width >= WIDE * height else ()
