"""Prints what a version costs in each layout, and with moving overlays, beside plain fill, in one
run.

    .venv/bin/python benchmarks/layouts.py [SECONDS]

SECONDS (default 8) of the demo film are made as a vertical version. Goal: 1.15 for the whole
picture on a soft backdrop, two halves, and an inset; 1.25 with overlays; 1.10 with headline,
captions and logo.
"""

import sys
import tempfile
import time
from pathlib import Path

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.resources import DEMO_FILM, ours
from caracal.core.base.time import FrameRange
from caracal.core.convert import Recipe, convert
from caracal.core.layout.entrance import Entry
from caracal.core.layout.kinds import KINDS
from caracal.core.layout.model import PictureFile
from caracal.core.layout.overlay import Overlay, Shape, ShapeKind
from caracal.core.layout.shipped_assets import moving_backdrop
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.caption_look import CaptionLook, CaptionManner
from caracal.core.text.cues import Cue
from caracal.core.text.style import Title

OVERLAYS, WORDS, CLIP = "moving overlays", "words and logo", "a clip"
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
    wanted[WORDS] = Recipe(
        sheet, ranges=(span,), burnt=True, look=CaptionLook(manner=CaptionManner.WORDS),
        captions=tuple(Cue(at, at + 1.9, "Words that are said and seen, one by one")
                       for at in range(span.start // 25, span.end_exclusive // 25 + 1, 2)),
        overlays=(Overlay(Title("One fire a year"), span.start, span.end_exclusive,
                          ((0.07, 0.93), (0.1, 0.24))),
                  Overlay(PictureFile(ours("demo", "marram-quay-mark.svg"), fit=True), span.start,
                          span.end_exclusive, ((0.8, 0.94), (0.03, 0.11)), 0.9)))
    wanted[CLIP] = Recipe(sheet, ranges=(span,), overlays=(
        Overlay(moving_backdrop("Embers"), span.start, span.end_exclusive,
                ((0.1, 0.9), (0.3, 0.6))),))
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
