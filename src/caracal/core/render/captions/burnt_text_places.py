"""Where words that stood in the master's picture are written anew on a canvas."""

from __future__ import annotations

from caracal.core.analysis.burnt_text import BurntText
from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box, Region, shared_area
from caracal.core.render.captions.placement import caption_area, on_canvas, pictures_at, seen_at
from caracal.core.render.layers import PictureLayer
from caracal.core.render.shown_shots import ShownShot
from caracal.core.specs.sheet import SpecSheet

WHOLE = 0.95  # of the words are seen: they stay where they are
LINE_HIGH = 0.055  # of the canvas's height, of each line that gets a place of its own


def live_region(analysis: Analysis, shot: ShownShot, text: BurntText, sheet: SpecSheet) -> Region:
    """The region, in shares of the canvas of ``sheet``, in which ``text`` stands in a ``shot``:
    where the old words are seen, if they are whole in the clear area. Else all across that, as high
    up as they were, or low, on top, or in the middle: wherever it covers least of faces.
    """
    canvas = sheet.canvas
    span = analysis.shots[shot.number]
    frame = min(max((text.start + text.end_exclusive) // 2, span.start), span.end - 1)
    (left, right), (top, bottom) = caption_area(sheet)
    layers = pictures_at(analysis, shot, canvas, frame)
    high = min(LINE_HIGH * (text.text.count("\n") + 1), bottom - top)
    starts = [bottom - high, top, (top + bottom - high) / 2]
    for layer in layers:
        seen = on_canvas(text.box, layer)
        if seen is None:
            continue
        x, y, w, h = seen
        across = (x / canvas[0], (x + w) / canvas[0])
        down = (y / canvas[1], (y + h) / canvas[1])
        inside = left <= across[0] and across[1] <= right and top <= down[0] and down[1] <= bottom
        if inside and w * h >= WHOLE * _whole(text.box, layer):
            return across, down
        starts.insert(0, min(max(sum(down) / 2 - high / 2, top), bottom - high))
        break
    faces = seen_at((track for track in analysis.tracks_in(shot.number) if track.kind == "face"),
                    layers, frame)

    def covers(start: float) -> float:
        place = (left * canvas[0], start * canvas[1], (right - left) * canvas[0], high * canvas[1])
        return sum(shared_area(place, face) for face in faces)

    start = min(starts, key=covers)
    return (left, right), (start, start + high)


def _whole(box: Box, layer: PictureLayer) -> float:
    """How large all of ``box`` would be as ``layer`` shows it, in pixels of the canvas."""
    return box[2] * box[3] * (
        layer.target[2] * layer.target[3] / (layer.window[2] * layer.window[3]))
