"""Overlays: pictures and shapes laid over a stretch of a version, which come and go.

Frames are those of the film, so that an overlay stays with its moment whatever else is cut away.
"""

from __future__ import annotations

from enum import StrEnum

import msgspec

from caracal.core.base.colours import rgb_of
from caracal.core.base.errors import InputError
from caracal.core.base.geometry import Region
from caracal.core.base.time import FrameRange, share_shown
from caracal.core.base.translation import mark, tr
from caracal.core.layout.contradictions import asset_error
from caracal.core.layout.entrance import AnimationState, Entry, beaten, moved
from caracal.core.layout.model import (
    EVERYWHERE,
    MOST_EDGE,
    MOST_RADIUS,
    MOST_TURN,
    Canvas,
    Clip,
    Edge,
    FileContent,
    file_name,
)
from caracal.core.text.style import Title, style_error

MOST_OVERLAYS = 40  # of a version
MOST_MOVING = 1500  # frames of an entry
LEAST_SIDE = 0.002  # of the canvas
LARGEST = 2.0  # of the canvas: what is larger only costs memory
BEYOND = 2.0  # shares of the canvas by which an overlay may lie beside it
FIRST_WIDE = 0.3  # of the canvas's width (common practice)
NAME_LONG = 40  # characters of a title that name it
MOST_WORDS = 2000  # characters of a title
MOST_LINES = 12
BEAT = 12  # frames: it grows, and is as it was
MOST_BEATS = 100


def title_box(region: Region, canvas: Canvas) -> tuple[float, float]:
    """The width and height of a title's box, in shorter sides of its canvas."""
    (left, right), (top, bottom) = region
    side = min(canvas)
    return (round((right - left) * canvas[0] / side, 4),
            round((bottom - top) * canvas[1] / side, 4))


class BlendMode(StrEnum):
    """How colours are mixed with what lies behind (W3C Compositing and Blending Level 1, 9.1)."""

    NORMAL = mark("normal")
    SCREEN = mark("screen")
    MULTIPLY = mark("multiply")
    ADD = mark("add")


class OwnSound(StrEnum):
    """How loud the sound of a clip is heard."""

    OFF = mark("off")
    LOW = mark("low")
    ON = mark("on")


class ShapeKind(StrEnum):
    """The kinds of shapes that can be drawn in an overlay's region."""

    RECTANGLE = mark("rectangle")
    CIRCLE = mark("circle")
    LINE = mark("line")
    ARROW = mark("arrow")
    BAR = mark("bar")


SHAPE_RATIOS = {  # width by height, to begin with
    ShapeKind.RECTANGLE: 1.6, ShapeKind.CIRCLE: 1.0, ShapeKind.LINE: 18.0, ShapeKind.ARROW: 1.8,
}
BAR_REGION: Region = ((0.0, 1.0), (0.99, 1.0))  # along the lower edge


class Shape(msgspec.Struct, frozen=True, tag="shape"):
    """A shape in one ``colour`` or, with an ``other``, in two that blend by ``degrees``.

    An arrow points to the right, turned clockwise by ``quarter_turns``. ``outline`` is drawn inside
    the border of a rectangle or a circle. A bar is seen from its left end as far as the version has
    been shown.
    """

    kind: ShapeKind = ShapeKind.RECTANGLE
    colour: str = "#c87d3c"
    other: str | None = None
    degrees: float = 90.0
    outline: Edge | None = None
    quarter_turns: int = 0


class Overlay(msgspec.Struct, frozen=True):
    """What lies over frames ``start`` to ``end_exclusive`` of the film, in one version.

    ``region`` is its place, in shares of the canvas; it may lie beside it in part. ``radius``
    rounds the corners of a picture or a rectangle (a share of its shorter side, up to 0.5).
    ``moving`` is how many frames its ``entry`` takes, and its ``exit``. ``sound`` is how loud a
    clip's own sound is heard beside the film's. A ``hidden`` one is neither seen nor heard; a
    ``locked`` one is not taken hold of on a canvas. At ``beats`` (frames of the film) it grows for
    a moment. A bar goes by ``shown``, the ranges of its version, which are filled in when that is
    made; without them by its own frames.
    """

    content: FileContent | Shape | Title
    start: int
    end_exclusive: int
    region: Region = EVERYWHERE
    opacity: float = 1.0
    blend: BlendMode = BlendMode.NORMAL
    entry: Entry = Entry.FADE
    exit: Entry = Entry.FADE
    moving: int = 10
    radius: float = 0.0
    sound: OwnSound = OwnSound.OFF
    hidden: bool = False
    locked: bool = False
    beats: tuple[int, ...] = ()
    shown: tuple[FrameRange, ...] = ()

    @property
    def is_bar(self) -> bool:
        """Whether it shows how far its version is."""
        return isinstance(self.content, Shape) and self.content.kind is ShapeKind.BAR

    @property
    def heard(self) -> bool:
        """Whether it is a clip whose own sound is heard."""
        return isinstance(self.content, Clip) and self.sound is not OwnSound.OFF and not self.hidden

    @property
    def name(self) -> str:
        """What the overlay is called on the screen."""
        if isinstance(self.content, FileContent):
            return file_name(self.content)
        if isinstance(self.content, Title):
            words = " ".join(self.content.text.split())
            return f"“{words if len(words) <= NAME_LONG else words[:NAME_LONG - 1] + '…'}”"
        return tr(self.content.kind.value).capitalize()


def presence(overlay: Overlay, frame: int) -> AnimationState | None:
    """How ``overlay`` lies at ``frame`` of the film; None where it is not there."""
    if overlay.hidden or not overlay.start <= frame < overlay.end_exclusive:
        return None
    moves = (overlay.entry is not Entry.NONE) + (overlay.exit is not Entry.NONE)
    moving = max(1, min(overlay.moving, (overlay.end_exclusive - overlay.start) // max(1, moves)))
    here = AnimationState(overlay.region, overlay.opacity)
    since = min((frame - beat for beat in overlay.beats if beat <= frame), default=BEAT)
    if since < BEAT:
        here = beaten(here, (since + 1) / BEAT)
    here = moved(here, overlay.entry, (frame - overlay.start + 1) / moving,
                 overlay.exit, (overlay.end_exclusive - frame) / moving)
    if overlay.is_bar:
        own = FrameRange(max(0, overlay.start), max(1, overlay.end_exclusive))
        passed = share_shown(overlay.shown or (own,), frame)
        here = AnimationState(here.region, here.opacity, (here.part[0], min(here.part[1], passed)))
    return here


def veil(colour: str, start: int, end_exclusive: int, lifts: bool) -> Overlay:
    """A colour all over the canvas: it ``lifts`` from its first frame on, or falls until its last.

    So a version fades from a colour, or to it.
    """
    return Overlay(Shape(colour=colour), start, end_exclusive,
                   entry=Entry.NONE if lifts else Entry.FADE,
                   exit=Entry.FADE if lifts else Entry.NONE, moving=end_exclusive - start)


def is_veil(overlay: Overlay) -> bool:
    """Whether ``overlay`` is one that :func:`veil` made, with which all sound comes or goes, too.
    """
    lifts = overlay.entry is Entry.NONE
    return isinstance(overlay.content, Shape) and overlay == veil(
        overlay.content.colour, overlay.start, overlay.end_exclusive, lifts)


def first_region(ratio: float, canvas: tuple[int, int]) -> Region:
    """Where an overlay of that ratio (width by height) is laid first: in the middle, 30 % wide."""
    wide = FIRST_WIDE
    high = wide * canvas[0] / ratio / canvas[1]
    if high > 0.5:
        wide, high = wide * 0.5 / high, 0.5
    return ((0.5 - wide / 2, 0.5 + wide / 2), (0.5 - high / 2, 0.5 + high / 2))


def region_on(region: Region, canvas: tuple[int, int], other: tuple[int, int]) -> Region:
    """Where what lies in ``region`` of ``canvas`` lies on an ``other`` one, in like proportions.

    Its size goes by the canvas's shorter side, and its middle keeps its place; what lay inside
    still does. What covered all of it covers all of the other.
    """
    if region == EVERYWHERE:
        return region
    scale = min(other) / min(canvas)
    found = []
    for (low, high), side, there in zip(region, canvas, other, strict=True):
        long = (high - low) * side * scale / there
        start = (low + high) / 2 - long / 2
        if low >= 0 and high <= 1 and long <= 1:
            start = min(max(start, 0.0), 1.0 - long)
        found.append((start, start + long))
    return (found[0], found[1])


def overlay_error(overlay: Overlay) -> str:
    """What in ``overlay`` cannot be, though each value by itself could: or nothing."""
    content = overlay.content
    if isinstance(content, Shape):
        wrong = _shape_error(content)
    elif isinstance(content, Title):
        wrong = _title_error(content)
    else:
        wrong = asset_error(content)
    return wrong or _place_error(overlay)


def _shape_error(shape: Shape) -> str:
    edge = shape.outline
    try:
        for colour in (shape.colour, shape.other, edge.colour if edge else None):
            if colour is not None:
                rgb_of(colour)
    except InputError as problem:
        return problem.what
    if not abs(shape.degrees) <= MOST_TURN:
        return tr("two colours blend in an impossible direction")
    return "" if edge is None or 0 < edge.width <= MOST_EDGE else tr("an outline is too wide")


def _title_error(title: Title) -> str:
    if not title.text.strip() or len(title.text) > MOST_WORDS:
        return tr("a title has 1 to {most_words} characters", most_words=MOST_WORDS)
    if not 1 <= title.most_lines <= MOST_LINES:
        return tr("a title has 1 to {most_lines} lines", most_lines=MOST_LINES)
    return style_error(title.style)


def _place_error(overlay: Overlay) -> str:
    within = {
        tr("an overlay ends before it begins"): 0 <= overlay.start < overlay.end_exclusive,
        tr("an overlay is too far outside the canvas"): all(
            -BEYOND <= low < high <= 1 + BEYOND for low, high in overlay.region),
        tr("an overlay is too small or too large"): all(
            LEAST_SIDE <= high - low <= LARGEST for low, high in overlay.region),
        tr("an overlay has impossible amounts"): (
            0 <= overlay.opacity <= 1 and 0 <= overlay.radius <= MOST_RADIUS),
        tr("an overlay takes too long to appear"): 0 <= overlay.moving <= MOST_MOVING,
        tr("an overlay has at most {most_beats} pulses", most_beats=MOST_BEATS): (
            len(overlay.beats) <= MOST_BEATS),
    }
    return next((words for words, right in within.items() if not right), "")
