"""What ships to lie behind and over pictures: calm clips that loop, and graphics of our own."""

from __future__ import annotations

from caracal.core.layout.model import Clip, PictureFile
from caracal.core.resources import ours

MOVING_BACKDROPS = {"Tide": "tide.mp4", "Embers": "embers.mp4"}  # what each is called, its file
GRAPHICS = {  # what each is called, its file
    "Arrow": "arrow.svg", "Curved arrow": "curved-arrow.svg", "Underline": "underline.svg",
    "Circled": "circled.svg", "Badge": "badge.svg", "Burst": "burst.svg", "Bubble": "bubble.svg",
    "Swipe up": "swipe-up.svg", "Tick": "tick.svg", "Cross": "cross.svg", "Corners": "corners.svg",
    "Ribbon": "ribbon.svg",
}


def moving_backdrop(name: str) -> Clip:
    """The shipped clip of that name, over and over."""
    return Clip(ours("backdrops", MOVING_BACKDROPS[name]))


def graphic(name: str) -> PictureFile:
    """The shipped drawing of that name."""
    return PictureFile(ours("graphics", GRAPHICS[name]), fit=True)
