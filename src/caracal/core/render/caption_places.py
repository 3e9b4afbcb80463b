"""Where captions stand in each shot: where a person put them, or elsewhere when a face is there."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from caracal.core.analysis.model import Analysis, Track
from caracal.core.framing.path import ShotPath
from caracal.core.geometry import Box, Region, region_in_window, shared_area
from caracal.core.layout.model import EVERYWHERE, Canvas, Layout
from caracal.core.media.master import Master
from caracal.core.render.layers import PictureLayer, layers_of
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.zones import safe_areas
from caracal.core.text.captions import (
    ANCHOR,
    CaptionLook,
    CaptionPlace,
    CaptionTrack,
    SetCaption,
    Stage,
    set_captions,
)
from caracal.core.text.cues import Cue
from caracal.core.time import FrameRange

AIR = 0.04  # of the canvas's shorter side, between captions and its edge
LOOKED_AT = 6  # frames from one look to the next
TOUCHED = 0.06  # of a face, or of a burnt-in line: less is its box's air
WORTH = 0.04  # of the looks: what is better by less is not worth standing elsewhere
FACE, LINE = 1.0, 0.7  # how much it counts that a face, or a burnt-in line, is covered
ORDER = (CaptionPlace.LOW, CaptionPlace.TOP, CaptionPlace.MIDDLE)


class ShownShot(NamedTuple):
    """A shot as a version shows it: its number, its layout in place, the paths of its crops."""

    number: int
    layout: Layout
    paths: Sequence[ShotPath]


def caption_area(sheet: SpecSheet) -> Region:
    """The part of a sheet's canvas in which captions may lie: a little inside its clear area."""
    safe = safe_areas(sheet)
    across, down = safe[-1].part if safe else EVERYWHERE
    return _inset(across, sheet.canvas[0], sheet.canvas), _inset(down, sheet.canvas[1],
                                                                 sheet.canvas)


def _inset(span: tuple[float, float], side: int, canvas: Canvas) -> tuple[float, float]:
    air = AIR * min(canvas) / side
    return max(span[0], air), min(span[1], 1 - air)


def film_track(
    cues: Sequence[Cue], look: CaptionLook, sheet: SpecSheet, master: Master
) -> CaptionTrack:
    """``cues`` set for a sheet's canvas in the frames of the whole film, all in their first place.
    """
    stage = Stage(sheet.canvas, caption_area(sheet), master.rate)
    return set_captions(cues, look, stage, (FrameRange(0, master.frames),), master.rate,
                        ((0, look.place),))


def caption_places(
    analysis: Analysis, track: CaptionTrack, shots: Iterable[ShownShot], canvas: Canvas
) -> tuple[tuple[int, CaptionPlace], ...]:
    """For each of ``shots`` its first frame, and where captions stand in it.

    ``track`` holds the captions in the film's own frames. In each shot they stay in one place: in
    the one of their look unless another covers clearly less of faces and burnt-in lines.
    """
    preferred = track.look.place
    if not track.look.avoid:
        return ((0, preferred),)
    return tuple((analysis.shots[shot.number].start,
                  _place(analysis, track, shot, canvas, preferred)) for shot in shots)


def _place(
    analysis: Analysis, track: CaptionTrack, shot: ShownShot, canvas: Canvas,
    preferred: CaptionPlace,
) -> CaptionPlace:
    span = analysis.shots[shot.number]
    looks = [(frame, caption) for frame in range(span.start, span.end, LOOKED_AT)
             if (caption := track.at(frame)) is not None]
    faces = [found for found in analysis.tracks_in(shot.number) if found.kind == "face"]
    lines = list(analysis.words_in(shot.number))
    if not looks or not (faces or lines):
        return preferred
    costs = dict.fromkeys((preferred, *ORDER), 0.0)
    for frame, caption in looks:
        seen = _seen(analysis, shot, canvas, frame, faces, lines)
        for place in costs:
            costs[place] += max((worth for box, worth in seen if _covers(
                caption_box(track, caption, place, canvas), box)), default=0.0)
    best = min(costs, key=lambda place: costs[place])
    return best if costs[best] < costs[preferred] - WORTH * len(looks) else preferred


def _covers(caption: Box, box: Box) -> bool:
    return shared_area(caption, box) > TOUCHED * box[2] * box[3]


def caption_box(
    track: CaptionTrack, caption: SetCaption, place: CaptionPlace, canvas: Canvas
) -> Box:
    """Where ``caption`` lies on ``canvas`` when it stands in ``place``, without its margins."""
    size = track.look.style.size * min(canvas)
    block, (across, down) = caption.block, track.clear
    wide, high = (block.width - block.margin) * size, (block.height - block.margin) * size
    y = (down[0] + (down[1] - down[0]) * ANCHOR[place]) * canvas[1]
    return ((across[0] + across[1]) / 2 * canvas[0] - wide / 2,
            y - block.height * size * ANCHOR[place], wide, high)


def _seen(
    analysis: Analysis, shot: ShownShot, canvas: Canvas, frame: int, faces: Sequence[Track],
    lines: Sequence[Track],
) -> list[tuple[Box, float]]:
    """Where faces and burnt-in lines are seen on ``canvas`` at ``frame``, and what they count."""
    layers = layers_of(shot.layout, canvas, [path.window(frame) for path in shot.paths],
                       analysis.active, shot.paths[0].finish)
    found = []
    for many, worth in ((faces, FACE), (lines, LINE)):
        for track in many:
            box = track.box_at(frame)
            if box is not None:
                found += [(there, worth) for layer in layers if isinstance(layer, PictureLayer)
                          and (there := on_canvas(box, layer)) is not None]
    return found


def on_canvas(box: Box, layer: PictureLayer) -> Box | None:
    """Where a ``box`` of the master is seen through ``layer``; None where it is not."""
    wx, wy, ww, wh = layer.window
    low = (max(0.0, (box[0] - wx) / ww), max(0.0, (box[1] - wy) / wh))
    high = (min(1.0, (box[0] + box[2] - wx) / ww), min(1.0, (box[1] + box[3] - wy) / wh))
    if low[0] >= high[0] or low[1] >= high[1]:
        return None
    # Turned back three times is turned once more.
    (left, right), (top, bottom) = region_in_window(
        ((low[0], high[0]), (low[1], high[1])), -layer.finish.quarter_turns % 4)
    x, y, w, h = layer.target
    return (x + left * w, y + top * h, (right - left) * w, (bottom - top) * h)
