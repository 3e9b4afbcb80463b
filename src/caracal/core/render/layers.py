"""The layers of a scene: a layout brought onto a canvas of pixels, around one window."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Self

import msgspec

from caracal.core.base.colours import Rgb, rgb_of
from caracal.core.base.geometry import Box
from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.layout.entrance import AnimationState
from caracal.core.layout.model import (
    BlendBackdrop,
    Canvas,
    Clip,
    Crop,
    FileContent,
    Layout,
    Pane,
    Person,
    PictureFile,
    PlainBackdrop,
    SoftBackdrop,
    Still,
    Target,
    WholePicture,
    target_of,
)
from caracal.core.layout.overlay import BlendMode, Shape
from caracal.core.layout.redaction import Redaction, redactions_at
from caracal.core.specs.sheet import SpecSheet
from caracal.core.text.block import TextBlock
from caracal.core.text.raster import NOTHING_SAID, Said
from caracal.core.text.style import TextStyle, Title


class Trim(msgspec.Struct, frozen=True):
    """What a pane's border looks like, in pixels of the canvas.

    ``radius`` rounds the corners. ``edge`` is a line of that colour, ``edge_px`` wide, inside the
    border. A shadow, ``shadow_px`` soft (a standard deviation) and ``drop_px`` lower than the
    pane, takes away ``shadow`` (0 to 1) of the light behind it. While the pane comes or goes it
    shows as strongly as its ``opacity``, between the shares ``part`` of the canvas's width.
    """

    radius: float = 0.0
    edge: Rgb | None = None
    edge_px: float = 0.0
    shadow: float = 0.0
    shadow_px: float = 0.0
    drop_px: float = 0.0
    opacity: float = 1.0
    part: tuple[float, float] = (0.0, 1.0)


PLAIN_BORDER = Trim()


class OwnLayer(msgspec.Struct, frozen=True):
    """A layer that shows nothing of the source."""

    def from_source(self, across: float, down: float) -> Self:
        """The same, whatever the source's size."""
        return self


class Lift(msgspec.Struct, frozen=True):
    """A person who is cut out (see layout.model.Person), at ``moment_s`` of the film; ``window`` is
    the layer's, in master pixels whatever the source's size.
    """

    person: Person
    window: Box
    moment_s: float


class PictureLayer(msgspec.Struct, frozen=True, tag="picture"):
    """A ``window`` of the master (upright master pixels) that fills ``target``, finished; only who
    is cut out of it, if there is a ``lift``.

    The window has the target's shape (turned, where the picture is turned by a quarter).
    """

    window: Box
    target: Target
    finish: Finish = PLAIN
    trim: Trim = PLAIN_BORDER
    lift: Lift | None = None

    def from_source(self, across: float, down: float) -> PictureLayer:
        """The same, told in pixels of a source that is so many times the master's size."""
        return msgspec.structs.replace(self, window=_scaled(self.window, across, down))


class ColourLayer(OwnLayer, frozen=True, tag="colour"):
    """One colour (red, green, blue; 0..255, BT.709) all over ``target``."""

    rgb: Rgb
    target: Target
    trim: Trim = PLAIN_BORDER


class BlendLayer(OwnLayer, frozen=True, tag="blend"):
    """From one colour to the ``other`` over ``target``, in the direction of ``degrees``."""

    rgb: Rgb
    other: Rgb
    degrees: float
    target: Target
    trim: Trim = PLAIN_BORDER


class FileLayer(OwnLayer, frozen=True, tag="file"):
    """A picture or film file in ``target``; of a clip, what is seen at ``moment_s`` of it."""

    content: FileContent
    target: Target
    trim: Trim = PLAIN_BORDER
    moment_s: float = 0.0


class SoftLayer(msgspec.Struct, frozen=True, tag="soft"):
    """A ``window`` of the master all over ``target``, blurred and dimmed as its backdrop says."""

    window: Box
    target: Target
    backdrop: SoftBackdrop
    quarter_turns: int = 0
    trim: Trim = PLAIN_BORDER

    def from_source(self, across: float, down: float) -> SoftLayer:
        """The same, told in pixels of a source that is so many times the master's size."""
        return msgspec.structs.replace(self, window=_scaled(self.window, across, down))


class ZonesLayer(OwnLayer, frozen=True, tag="zones"):
    """The destination's covers and safe areas, drawn over the picture of a review copy."""

    sheet: SpecSheet


class OverlayLayer(OwnLayer, frozen=True, tag="overlay"):
    """A picture file or a shape over what lies behind, at ``target``, which may lie beside it.

    ``opacity`` is 0 to 1; ``part`` are the shares of its width between which it shows. ``radius``
    rounds its corners (a share of its shorter side); ``side`` is the canvas's shorter one. It has
    been there for ``moment_s`` seconds, which clips and animated pictures go by. ``box`` is a
    title's, once it has come: its width and height in shorter sides of the canvas.
    """

    content: FileContent | Shape | Title
    target: Target
    opacity: float
    blend: BlendMode
    part: tuple[float, float]
    radius: float
    side: int
    moment_s: float = 0.0
    box: tuple[float, float] = (0.0, 0.0)


class TextLayer(OwnLayer, frozen=True, tag="text"):
    """Lines of words, as large as their style says on a canvas whose shorter side is ``side``.

    The middle of their upper edge (``anchor`` 0), of them (0.5) or of their lower edge (1) lies
    at ``point``, in shares of the canvas. ``said`` is what of them is told apart.
    """

    block: TextBlock
    style: TextStyle
    point: tuple[float, float]
    anchor: float
    side: int
    said: Said = NOTHING_SAID


PaneLayer = PictureLayer | ColourLayer | BlendLayer | SoftLayer | FileLayer


class OutgoingLayer(OwnLayer, frozen=True, tag="outgoing"):
    """What still shows, as strongly as ``share`` (0..1), of ``frame`` of the film at ``path``: the
    ``layers`` of a range that goes on while the next one dissolves in. ``redactions`` cover places
    of that frame, in its upright pixels.
    """

    path: str
    frame: int
    share: float
    layers: tuple[PaneLayer, ...]
    redactions: tuple[Redaction, ...] = ()

    def covering(self, redactions: tuple[Redaction, ...]) -> Self:
        """The same with those of the version's ``redactions`` that cover anything at its frame."""
        return msgspec.structs.replace(self, redactions=redactions_at(redactions, self.frame))


Layer = PaneLayer | OutgoingLayer | OverlayLayer | TextLayer | ZonesLayer


def layers_of(
    layout: Layout, canvas: Canvas, windows: Sequence[Box], picture: Box, finish: Finish,
    moment_s: float = 0.0,
) -> tuple[PaneLayer, ...]:
    """``layout`` on ``canvas``: its crops show ``windows`` in turn, all else is made of the active
    ``picture``. ``moment_s`` is the film's time, which clips go by.
    """
    crops, made = iter(windows), list[PaneLayer]()
    for pane in layout.panes:
        window = next(crops) if isinstance(pane.content, Crop) else picture
        here = (AnimationState(pane.region) if pane.stay is None
                else pane.stay.presence(pane.region, moment_s))
        if here is not None:
            made.append(_layer(pane, canvas, here, window, picture, finish, moment_s))
    return tuple(made)


def _layer(
    pane: Pane, canvas: Canvas, here: AnimationState, window: Box, picture: Box, finish: Finish,
    moment_s: float,
) -> PaneLayer:
    target, trim = target_of(here.region, canvas), trim_of(pane, canvas)
    if here != AnimationState(pane.region):
        trim = _coming(trim, pane, here)
    match pane.content:
        case Crop(_, lifted, person):
            lift = Lift(person, window, moment_s) if lifted and person is not None else None
            return PictureLayer(window, target, finish, trim, lift)
        case PlainBackdrop(colour):
            return ColourLayer(rgb_of(colour), target, trim)
        case BlendBackdrop(colour, other, degrees):
            return BlendLayer(rgb_of(colour), rgb_of(other), degrees, target, trim)
        case PictureFile() | Still() | Clip() as file:
            return FileLayer(file, target, trim, moment_s if isinstance(file, Clip) else 0.0)
        case SoftBackdrop() as soft:
            turned = finish.quarter_turns % 2
            shape = target[2:] if not turned else (target[3], target[2])
            return SoftLayer(largest(picture, shape), target, soft, finish.quarter_turns, trim)
        case WholePicture() as whole:
            # Leaning would cut its corners off, and it is to be seen whole.
            upright = Finish(finish.quarter_turns, 0.0, finish.sharpen)
            seen, where = shown_whole(whole, whole.cut(picture), target, finish)
            return PictureLayer(seen, where, upright, trim)


def _coming(trim: Trim, pane: Pane, here: AnimationState) -> Trim:
    """The ``trim`` of a pane that comes or goes."""
    (left, right), (low, high) = here.region[0], here.part
    grown = (right - left) / (pane.region[0][1] - pane.region[0][0])
    part = (left + low * (right - left) if low > 0 else 0.0,
            left + high * (right - left) if high < 1 else 1.0)
    return msgspec.structs.replace(trim, radius=trim.radius * grown, opacity=here.opacity,
                                   part=part)


def trim_of(pane: Pane, canvas: Canvas) -> Trim:
    """The border of ``pane`` in pixels of ``canvas``."""
    if pane.radius == 0.0 and pane.edge is None and pane.shadow is None:
        return PLAIN_BORDER
    side = min(canvas)
    edge, shadow = pane.edge, pane.shadow
    return Trim(
        pane.radius * min(target_of(pane.region, canvas)[2:]),
        rgb_of(edge.colour) if edge else None, edge.width * side if edge else 0.0,
        *((shadow.strength, shadow.softness * side, shadow.distance * side) if shadow
          else (0.0, 0.0, 0.0)))


def shown_whole(
    whole: WholePicture, picture: Box, target: Target, finish: Finish = PLAIN
) -> tuple[Box, Target]:
    """The part of ``picture`` that is seen, and where in ``target``.

    All of it lies in the middle; enlarged, it is cut round its middle where it leaves the target.
    """
    fit = inside(picture, target, finish)
    if whole.enlarged == 1.0:
        return picture, fit
    wide, high = (min(2 * round(side * whole.enlarged / 2), most)
                  for side, most in zip(fit[2:], target[2:], strict=True))
    where = (target[0] + (target[2] - wide) // 4 * 2, target[1] + (target[3] - high) // 4 * 2,
             wide, high)
    shares = (wide / (fit[2] * whole.enlarged), high / (fit[3] * whole.enlarged))
    if finish.quarter_turns % 2:
        shares = (shares[1], shares[0])
    width, height = picture[2] * shares[0], picture[3] * shares[1]
    x = picture[0] + min(max(whole.middle[0] * picture[2] - width / 2, 0.0), picture[2] - width)
    y = picture[1] + min(max(whole.middle[1] * picture[3] - height / 2, 0.0), picture[3] - height)
    return (x, y, width, height), where


def inside(picture: Box, target: Target, finish: Finish = PLAIN) -> Target:
    """Where all of ``picture`` lies in the middle of ``target``, as large as it fits."""
    wide, high = picture[2:] if finish.quarter_turns % 2 == 0 else (picture[3], picture[2])
    scale = min(target[2] / wide, target[3] / high)
    width, height = (max(2, min(2 * round(side * scale / 2), most))
                     for side, most in ((wide, target[2]), (high, target[3])))
    return (target[0] + (target[2] - width) // 4 * 2, target[1] + (target[3] - height) // 4 * 2,
            width, height)


def largest(picture: Box, shape: tuple[int, int]) -> Box:
    """The largest window of the shape (width, height) in the middle of ``picture``."""
    width = min(picture[2], picture[3] * shape[0] / shape[1])
    height = width * shape[1] / shape[0]
    return (picture[0] + (picture[2] - width) / 2, picture[1] + (picture[3] - height) / 2, width,
            height)


def _scaled(box: Box, across: float, down: float) -> Box:
    return (box[0] * across, box[1] * down, box[2] * across, box[3] * down)
