"""The layers of overlays that are there at a frame."""

from __future__ import annotations

from collections.abc import Sequence

from caracal.core.layout.model import Canvas
from caracal.core.layout.overlay import Overlay, presence, title_box
from caracal.core.render.layers import OverlayLayer
from caracal.core.text.style import Title


def overlay_layers(
    overlays: Sequence[Overlay], frame: int, canvas: Canvas, rate: float
) -> tuple[OverlayLayer, ...]:
    """The layers of those ``overlays`` that are there at ``frame`` of the film, in their order.

    ``rate`` is the film's, in frames a second.
    """
    made = []
    for overlay in overlays:
        here = presence(overlay, frame)
        if here is None or here.opacity <= 0:
            continue
        (left, right), (top, bottom) = here.region
        x, y = 2 * round(left * canvas[0] / 2), 2 * round(top * canvas[1] / 2)
        width = max(2, 2 * round((right - left) * canvas[0] / 2))
        height = max(2, 2 * round((bottom - top) * canvas[1] / 2))
        made.append(OverlayLayer(overlay.content, (x, y, width, height), here.opacity,
                                 overlay.blend, here.part, overlay.radius, min(canvas),
                                 (frame - overlay.start) / rate,
                                 title_box(overlay.region, canvas)
                                 if isinstance(overlay.content, Title) else (0.0, 0.0)))
    return tuple(made)
