"""The one place where it is worked out what a frame is: for files, trials, stills and screens.

A screen differs in two ways only. It is small, so a layout's edges, which lie at even pixels, would
lie a pixel beside their places: its canvas may be larger than it is shown. And overlays, which
move, are drawn apart on a finer canvas, captions among them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec

from caracal.core.base.geometry import Box
from caracal.core.layout.card import Card
from caracal.core.layout.model import Canvas, Layout
from caracal.core.layout.overlay import Overlay
from caracal.core.layout.redaction import Redaction, redactions_at
from caracal.core.render.dissolves import Outgoing
from caracal.core.render.layers import Layer, OverlayLayer, TextLayer, ZonesLayer
from caracal.core.render.overlay_layers import overlay_layers
from caracal.core.render.scene import Scene
from caracal.core.render.shown_shots import ShownFrame
from caracal.core.specs.sheet import SpecSheet

FINER = (2, 4)  # times as large as it is shown is a screen's canvas with edges in it
OVER = 4  # times as large overlays are drawn for a screen: they move, so their edges lie anywhere
OFF = 0.2  # pixels of the screen by which an edge may be off

CaptionOn = Callable[[Canvas], TextLayer | None]  # the caption at a frame, on such a canvas


class Surroundings(msgspec.Struct, frozen=True):
    """What all frames of a version have in common: the master's active ``picture``, its ``rate``
    in frames a second, its overlays and covered words. ``zones``: the sheet whose zones are drawn.
    """

    picture: Box
    rate: float
    overlays: tuple[Overlay, ...] = ()
    redactions: tuple[Redaction, ...] = ()
    zones: SpecSheet | None = None


def build_scene(
    shown: ShownFrame, number: int, around: Surroundings, canvas: Canvas,
    outgoing: Iterable[Outgoing] = (), scale: float = 1.0,
) -> Scene:
    """The scene of frame ``number`` of the film on a ``canvas`` that is ``scale`` times as large as
    in the file. ``outgoing`` are pictures of ranges that still dissolve into this one.
    """
    layers: tuple[Layer, ...] = shown.layers(canvas, around.picture, number / around.rate)
    for each in outgoing:
        layer = each.layer(canvas, around.picture, around.rate)
        layers = (*layers, layer.covering(around.redactions))
    if around.overlays:
        layers = (*layers, *overlay_layers(around.overlays, number, canvas, around.rate))
    if around.zones is not None:
        layers = (*layers, ZonesLayer(around.zones))
    return Scene(canvas, layers, scale, redactions=redactions_at(around.redactions, number))


def build_screen_scene(
    shown: ShownFrame, number: int, around: Surroundings, canvas: Canvas, whole: Canvas,
    outgoing: Iterable[Outgoing] = (), caption: CaptionOn | None = None,
) -> Scene:
    """As :func:`build_scene`, for a ``canvas`` of the screen; in the file it is ``whole``."""
    times, fine = _finer(shown.layout, canvas), (canvas[0] * OVER, canvas[1] * OVER)
    over: tuple[OverlayLayer | TextLayer, ...] = overlay_layers(
        around.overlays, number, fine, around.rate)
    words = caption(fine) if caption is not None else None
    if words is not None:
        over = (*over, words)
    below = msgspec.structs.replace(around, overlays=())
    large = (canvas[0] * times, canvas[1] * times)
    scene = build_scene(shown, number, below, large, outgoing, large[0] / whole[0])
    return msgspec.structs.replace(scene, over=over, finer=OVER / times)


def build_card_scene(
    card: Card, at: int, beside: ShownFrame, frame: int, around: Surroundings, canvas: Canvas,
    opens: bool,
) -> Scene:
    """Frame number ``at`` of a card on a ``canvas`` of the screen.

    ``beside`` is what the film's ``frame`` next to it shows: that after a card that ``opens``,
    before one that does not.
    """
    first = frame - card.frames if opens else frame + 1
    held = ShownFrame(card.layout, beside.windows[:1], beside.finish)
    layers = held.layers(canvas, around.picture, (first + at) / around.rate)
    over = overlay_layers(card.overlays, at, (canvas[0] * OVER, canvas[1] * OVER), around.rate)
    return Scene(canvas, layers, 1.0, over, OVER)


def _finer(layout: Layout, canvas: Canvas) -> int:
    """How many times as large the scene must be for the edges of ``layout`` to lie in place."""
    if len(layout.panes) == 1:
        return 1
    edges = [share * side for pane in layout.panes
             for span, side in zip(pane.region, canvas, strict=True) for share in span]
    return next((times for times in FINER
                 if all(abs(edge * times - 2 * round(edge * times / 2)) <= OFF * times
                        for edge in edges)), FINER[-1])
