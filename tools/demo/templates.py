"""Six templates of our own, for the next of a series: words to write over, and how they look."""

from __future__ import annotations

from pathlib import Path

from caracal.core.base.geometry import FramingSpec, Region, Shape
from caracal.core.layout.card import Card
from caracal.core.layout.entrance import Entry
from caracal.core.layout.files import SUFFIX
from caracal.core.layout.kinds import kind_called
from caracal.core.layout.model import BlendBackdrop
from caracal.core.layout.overlay import Overlay
from caracal.core.layout.overlay import Shape as Drawn
from caracal.core.layout.shipped_assets import graphic, moving_backdrop
from caracal.core.project.model import Fades
from caracal.core.project.template import Template, TimedOverlay, write_template
from caracal.core.text.caption_look import CaptionLook, CaptionManner
from caracal.core.text.style import Align, TextBox, TextShadow, TextStyle, Title

CANVAS, RATE = (1080, 1920), 25.0
FRAME = FramingSpec(Shape(9, 16), None, CANVAS)
SAND, INK, TAWNY, EMBER = "#f2ede4", "#1c1a18", "#e9b15f", "#c87d3c"
LARGE = TextStyle("Fraunces SemiBold", 0.12, SAND, shadow=TextShadow())
BOXED = TextStyle("Figtree SemiBold", 0.05, SAND, box=TextBox(INK, 0.85), align=Align.LEFT)
LABEL = TextStyle("Figtree SemiBold", 0.045, INK, box=TextBox(TAWNY, 1.0), capitals=True)
SMALL = TextStyle("Figtree Medium", 0.055, TAWNY)
GROUPS = CaptionLook(TextStyle(size=0.075, shadow=TextShadow()), CaptionManner.GROUPS)
WORDS = CaptionLook(TextStyle(size=0.056, box=TextBox(INK, 0.82)), CaptionManner.WORDS, said=TAWNY)


def make_templates(folder: Path) -> None:
    """Write the templates into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, template in _made().items():
        write_template(folder / f"{name}{SUFFIX}", template)


def _over(
    content: Title | Drawn, region: Region, from_s: float = 0.0, to_s: float | None = None,
    entry: Entry = Entry.FADE,
) -> TimedOverlay:
    return TimedOverlay(Overlay(content, 0, 1, region, entry=entry, exit=Entry.FADE, moving=12),
                        from_s, to_s)


def _made() -> dict[str, Template]:
    """Each template by its name."""
    return {
        "Headline": Template(CANVAS, RATE, (
            _over(Title("Say it in one line", LARGE), ((0.07, 0.93), (0.10, 0.25)), 0.2, 4.2,
                  Entry.SLIDE),), Fades(begin=6, end=12)),
        "Who speaks": Template(CANVAS, RATE, (
            _over(Drawn(colour=EMBER), ((0.07, 0.082), (0.645, 0.735)), 1.0, 5.0, Entry.GROW),
            _over(Title("Name\nwhat they do", BOXED), ((0.09, 0.75), (0.63, 0.75)), 1.1, 5.0,
                  Entry.WIPE)), look=WORDS),
        "In a frame": Template(CANVAS, RATE, (
            _over(Title("Watch the hands", LARGE), ((0.07, 0.93), (0.12, 0.26)), 0.2, None),
            TimedOverlay(Overlay(graphic("Corners"), 0, 1, ((0.03, 0.97), (0.32, 0.68)),
                                 entry=Entry.GROW, moving=14))),
            layout=kind_called("whole-soft").make(FRAME)),
        "Two voices": Template(CANVAS, RATE, (
            _over(Drawn(colour=SAND), ((0.0, 1.0), (0.498, 0.502))),
            _over(Title("Two voices", LABEL), ((0.25, 0.75), (0.475, 0.525)), 0.0, 4.0,
                  Entry.GROW)), layout=kind_called("stack").make(FRAME), look=GROUPS),
        "Episode": Template(
            CANVAS, RATE, fades=Fades(begin=8, end=12), look=WORDS,
            opening=Card(50, moving_backdrop("Tide"), (
                Overlay(Title("Part 1", SMALL), 4, 50, ((0.1, 0.9), (0.36, 0.42)), moving=12),
                Overlay(Title("What it is about", LARGE), 8, 50, ((0.08, 0.92), (0.42, 0.62)),
                        entry=Entry.SLIDE, moving=12))),
            closing=Card(60, moving_backdrop("Embers"), (
                Overlay(Title("Next time", SMALL), 4, 60, ((0.1, 0.9), (0.36, 0.42)), moving=12),
                Overlay(Title("What comes then", LARGE), 8, 60, ((0.08, 0.92), (0.42, 0.62)),
                        moving=12)))),
        "Come and see": Template(CANVAS, RATE, (
            TimedOverlay(Overlay(graphic("Burst"), 0, 1, ((0.66, 0.94), (0.10, 0.2575)),
                                 entry=Entry.GROW, moving=10), 0.4, 3.4),
            _over(Title("New", TextStyle("Figtree SemiBold", 0.07, INK)),
                  ((0.70, 0.90), (0.15, 0.21)), 0.6, 3.4)),
            closing=Card(62, BlendBackdrop("#3a3026", "#121110"), (
                Overlay(graphic("Swipe up"), 6, 62, ((0.42, 0.58), (0.30, 0.41)),
                        entry=Entry.SLIDE, moving=14),
                Overlay(Title("Come and see", LARGE), 4, 62, ((0.08, 0.92), (0.44, 0.58)),
                        moving=12),
                Overlay(Title("where, and when", SMALL), 10, 62, ((0.1, 0.9), (0.59, 0.65)),
                        moving=12))), look=GROUPS),
    }
