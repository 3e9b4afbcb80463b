"""A dozen graphics of our own as drawings: arrows, underlines, badges and what else points."""

from __future__ import annotations

import math
from pathlib import Path

SAND, INK, TAWNY, EMBER = "#f2ede4", "#1c1a18", "#e9b15f", "#c87d3c"


def make_graphics(folder: Path) -> None:
    """Write the drawings into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, (wide, high, inside) in _drawn().items():
        (folder / f"{name}.svg").write_text(
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}">{inside}</svg>\n',
            encoding="utf-8")


def _stroke(path: str, wide: float, colour: str = TAWNY) -> str:
    return (f'<path d="{path}" fill="none" stroke="{colour}" stroke-width="{wide}" '
            'stroke-linecap="round" stroke-linejoin="round"/>')


def _outlined(path: str, wide: float, colour: str = TAWNY) -> str:
    """A stroke with a dark edge: it is seen on any picture."""
    return _stroke(path, wide + 8, INK) + _stroke(path, wide, colour)


def _filled(path: str, colour: str = TAWNY, edge: str = INK, wide: float = 6) -> str:
    return (f'<path d="{path}" fill="{colour}" stroke="{edge}" stroke-width="{wide}" '
            'stroke-linejoin="round"/>')


def _burst(points: int, outer: float, inner: float, middle: float) -> str:
    found = []
    for i in range(2 * points):
        radius, angle = (outer if i % 2 == 0 else inner), math.pi * i / points - math.pi / 2
        found.append(f"{middle + radius * math.cos(angle):.1f} "
                     f"{middle + radius * math.sin(angle):.1f}")
    return f"M{' L'.join(found)} Z"


def _drawn() -> dict[str, tuple[int, int, str]]:
    """Each drawing's width, height, and what is in it."""
    chevron = "M60 {0} L120 {1} L180 {0}"
    return {
        "arrow": (320, 200, _filled("M20 76 H180 V28 L300 100 L180 172 V124 H20 Z")),
        "curved-arrow": (300, 260, _outlined("M40 226 C40 96 120 44 226 76", 22)
                         + _outlined("M172 26 L238 80 L168 128", 22)),
        "underline": (480, 70, _outlined("M24 40 C150 14 330 14 456 30 C340 34 220 42 150 54", 14)),
        "circled": (440, 240, _outlined(
            "M96 50 C220 6 400 26 410 118 C418 206 232 228 128 212 C24 196 8 118 62 70 "
            "C92 44 150 30 214 28", 12, EMBER)),
        "badge": (300, 300, f'<circle cx="150" cy="150" r="142" fill="{EMBER}" stroke="{INK}" '
                  f'stroke-width="8"/><circle cx="150" cy="150" r="118" fill="none" '
                  f'stroke="{SAND}" stroke-width="6" stroke-dasharray="2 14" '
                  'stroke-linecap="round"/>'),
        "burst": (320, 320, _filled(_burst(14, 152, 112, 160))),
        "bubble": (400, 300, _filled("M56 24 H344 Q376 24 376 56 V176 Q376 208 344 208 H190 "
                                     "L116 278 L128 208 H56 Q24 208 24 176 V56 Q24 24 56 24 Z",
                                     SAND)),
        "swipe-up": (240, 300, "".join(
            _outlined(chevron.format(at, at - 62), 20, colour)
            for at, colour in ((262, EMBER), (182, TAWNY), (102, SAND)))),
        "tick": (260, 220, _outlined("M36 116 L102 178 L224 42", 30, TAWNY)),
        "cross": (220, 220, _outlined("M40 40 L180 180", 30, EMBER)
                  + _outlined("M180 40 L40 180", 30, EMBER)),
        "corners": (360, 240, "".join(_outlined(path, 12, SAND) for path in (
            "M20 80 V20 H80", "M280 20 H340 V80", "M340 160 V220 H280", "M80 220 H20 V160"))),
        "ribbon": (480, 140, _filled("M16 36 H96 V124 H16 L46 80 Z", EMBER)
                   + _filled("M464 36 H384 V124 H464 L434 80 Z", EMBER)
                   + _filled("M66 16 H414 V104 H66 Z")),
    }
