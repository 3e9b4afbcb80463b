"""What ships to lie behind and over pictures, and to be heard: calm clips that loop, graphics and
short sounds of our own."""

from __future__ import annotations

from caracal.core.base.resources import ours
from caracal.core.base.translation import mark
from caracal.core.layout.added_sound import SoundFile
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


EFFECTS = {  # what each sound is called, its file
    mark("Whoosh"): "whoosh.flac", mark("Short whoosh"): "short-whoosh.flac",
    mark("Tick"): "tick.flac", mark("Tock"): "tock.flac", mark("Pop"): "pop.flac",
    mark("Thud"): "thud.flac", mark("Shutter"): "shutter.flac", mark("Chime"): "chime.flac",
    mark("Two notes"): "two-notes.flac", mark("Riser"): "riser.flac",
    mark("Typing"): "typing.flac", mark("Swell back"): "swell-back.flac",
}


def moving_backdrop(name: str) -> Clip:
    """The shipped clip of that name, over and over."""
    return Clip(ours("backdrops", MOVING_BACKDROPS[name]))


def graphic(name: str) -> PictureFile:
    """The shipped drawing of that name."""
    return PictureFile(ours("graphics", GRAPHICS[name]), fit=True)


def effect(name: str) -> SoundFile:
    """The shipped sound of that name."""
    return SoundFile(ours("effects", EFFECTS[name]))
