"""Prints what a version costs in each layout, and with moving overlays, beside plain fill, in one
run.

    .venv/bin/python benchmarks/layouts.py [SECONDS]

SECONDS (default 8) of the demo film are made as a vertical version. Goal: 1.15 for the whole
picture on a soft backdrop, two halves, and an inset; 1.25 with overlays.
"""

import sys
import tempfile
import time
from pathlib import Path

from caracal.core.analysis.analyse import analyse
from caracal.core.convert import Recipe, convert
from caracal.core.layout.kinds import KINDS
from caracal.core.layout.overlay import Entry, Overlay, Shape, ShapeKind
from caracal.core.resources import DEMO_FILM
from caracal.core.specs.shelf import find_sheet
from caracal.core.time import FrameRange

OVERLAYS = "moving overlays"
START, ROUNDS = 430, 3  # the two talkers


def main() -> None:
    """Make the version in each layout, in turns, and print the least time of each."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 8.0
    sheet, span = find_sheet("vertical-short"), FrameRange(START, START + round(seconds * 25))
    analyse(DEMO_FILM)
    wanted = {kind.name: Recipe(sheet, ranges=(span,), layout=kind.make(sheet.frame))
              for kind in KINDS}
    wanted[OVERLAYS] = Recipe(sheet, ranges=(span,), overlays=tuple(
        Overlay(Shape(ShapeKind.CIRCLE), at, at + 25, ((0.35, 0.65), (0.1, 0.27)), 0.8,
                entry=Entry.SLIDE, exit=Entry.GROW, moving=12)
        for at in range(span.start, span.end_exclusive, 25)))
    took: dict[str, list[float]] = {name: [] for name in wanted}
    with tempfile.TemporaryDirectory() as folder:
        for turn in range(ROUNDS):
            for name, recipe in wanted.items():
                began = time.perf_counter()
                convert(DEMO_FILM, [recipe], Path(folder) / f"{name} {turn}")
                took[name].append(time.perf_counter() - began)
    fill = min(took["fill"])
    for name, times in took.items():
        print(f"{name:16} {min(times):5.1f} s, {min(times) / fill:.2f} of fill")


if __name__ == "__main__":
    main()
