"""Colours as they are written (#rrggbb of BT.709), and how well words of one stand out on another.
"""

from __future__ import annotations

import re

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr

Rgb = tuple[int, int, int]  # 0..255, BT.709


def rgb_of(colour: str) -> Rgb:
    """Red, green and blue, 0..255, of a ``colour``. Raises InputError when it is none."""
    found = re.fullmatch(r"#([0-9a-fA-F]{2})([0-9a-fA-F]{2})([0-9a-fA-F]{2})", colour)
    if found is None:
        raise InputError(tr("“{colour}” is not a colour.", colour=colour[:40]),
                         remedy=tr("Write it as #rrggbb, for instance #1c1a18."))
    red, green, blue = (int(part, 16) for part in found.groups())
    return red, green, blue


def relative_luminance(rgb: Rgb) -> float:
    """How light a colour is, 0 to 1 (WCAG 2.2, relative luminance)."""
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4
              for c in (channel / 255 for channel in rgb)]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: float, other: float) -> float:
    """The contrast ratio (1 to 21) of two relative luminances (WCAG 2.2)."""
    return (max(one, other) + 0.05) / (min(one, other) + 0.05)
