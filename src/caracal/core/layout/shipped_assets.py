"""What ships to lie behind and over pictures: calm clips that loop, and graphics of our own."""

from __future__ import annotations

from caracal.core.base.resources import ours
from caracal.core.base.translation import mark
from caracal.core.layout.model import Clip, PictureFile

MOVING_BACKDROPS = {  # what each is called, its file
    mark("Tide"): "tide.mp4", mark("Embers"): "embers.mp4",
}
GRAPHICS = {  # what each is called, its file
    mark("Arrow"): "arrow.svg", mark("Curved arrow"): "curved-arrow.svg",
    mark("Underline"): "underline.svg", mark("Circled"): "circled.svg", mark("Badge"): "badge.svg",
    mark("Burst"): "burst.svg", mark("Bubble"): "bubble.svg", mark("Swipe up"): "swipe-up.svg",
    mark("Tick"): "tick.svg", mark("Cross"): "cross.svg", mark("Corners"): "corners.svg",
    mark("Ribbon"): "ribbon.svg",
}


def moving_backdrop(name: str) -> Clip:
    """The shipped clip of that name, over and over."""
    return Clip(ours("backdrops", MOVING_BACKDROPS[name]))


def graphic(name: str) -> PictureFile:
    """The shipped drawing of that name."""
    return PictureFile(ours("graphics", GRAPHICS[name]), fit=True)
