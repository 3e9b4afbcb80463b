"""Prints what a version costs in each layout, beside plain fill, in one run.

    .venv/bin/python benchmarks/layouts.py [SECONDS]

SECONDS (default 8) of the demo film are made as a vertical version. Goal: 1.15 for the whole
picture on a soft backdrop, two halves, and an inset.
"""

import sys
import tempfile
import time
from pathlib import Path

from caracal.core.analysis.analyse import analyse
from caracal.core.convert import Recipe, convert
from caracal.core.layout.kinds import KINDS
from caracal.core.resources import DEMO_FILM
from caracal.core.specs.shelf import find_sheet
from caracal.core.time import FrameRange

START, ROUNDS = 430, 3  # the two talkers


def main() -> None:
    """Make the version in each layout, in turns, and print the least time of each."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 8.0
    sheet, span = find_sheet("vertical-short"), FrameRange(START, START + round(seconds * 25))
    analyse(DEMO_FILM)
    took: dict[str, list[float]] = {kind.name: [] for kind in KINDS}
    with tempfile.TemporaryDirectory() as folder:
        for turn in range(ROUNDS):
            for kind in KINDS:
                recipe = Recipe(sheet, ranges=(span,), layout=kind.make(sheet.frame))
                began = time.perf_counter()
                convert(DEMO_FILM, [recipe], Path(folder) / f"{kind.name} {turn}")
                took[kind.name].append(time.perf_counter() - began)
    fill = min(took["fill"])
    for name, times in took.items():
        print(f"{name:16} {min(times):5.1f} s, {min(times) / fill:.2f} of fill")


if __name__ == "__main__":
    main()
