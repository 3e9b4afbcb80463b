"""Where captions stand in each shot: where a person put them, or elsewhere when a face is there."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import msgspec
import numpy as np

from caracal.core.analysis.model import Analysis, Track
from caracal.core.base.geometry import Box, Region, region_in_window, shared_area
from caracal.core.base.time import FrameRange
from caracal.core.base.work import Check, unchecked
from caracal.core.layout.model import EVERYWHERE, Canvas
from caracal.core.media.master import Master
from caracal.core.render.layers import PictureLayer, layers_of
from caracal.core.render.shown_shots import ShownShot
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.zones import safe_areas
from caracal.core.text.caption_look import CaptionLook, CaptionPlace
from caracal.core.text.caption_track import (
    CaptionTrack,
    SetCaption,
    Stand,
    Stands,
    stand_in,
)
from caracal.core.text.captions import Stage, set_captions
from caracal.core.text.cues import Cue

AIR = 0.04  # of the canvas's shorter side, between captions and its edge
LOOKED_AT = 6  # frames from one look to the next
TOUCHED = 0.06  # of a face, or of a burnt-in line: less is its box's air
WORTH = 0.04  # of the looks: what is better by less is not worth standing elsewhere
FACE, LINE = 1.0, 0.7  # how much it counts that a face, or a burnt-in line, is covered
CHIN, HAIR = 0.15, 0.35  # of a face's height: so much of a head lies under and over its box
ORDER = (CaptionPlace.LOW, CaptionPlace.TOP, CaptionPlace.MIDDLE)


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
    cues: Sequence[Cue], look: CaptionLook, sheet: SpecSheet, master: Master,
    check: Check = unchecked,
) -> CaptionTrack:
    """``cues`` set for a sheet's canvas in the frames of the whole film, all in their first place.
    """
    stage = Stage(sheet.canvas, caption_area(sheet), master.rate)
    return set_captions(cues, look, stage, (FrameRange(0, master.frames),), master.rate, (),
                        check=check)


def caption_places(
    analysis: Analysis, track: CaptionTrack, shots: Iterable[ShownShot], canvas: Canvas,
    check: Check = unchecked,
) -> tuple[tuple[int, Stands], ...]:
    """For each of ``shots`` its first frame, and where captions of each look stand in it.

    ``track`` holds the captions in the film's own frames. In each shot they stay in one place: in
    the one of their look unless another covers clearly less of faces and burnt-in lines.
    ``check`` is called for each shot, and may raise to stop.
    """
    wanted = tuple(stand_in(look.place, track.clear) for look in track.looks)
    if all(look.place is not CaptionPlace.BESIDE and not look.avoid for look in track.looks):
        return ((0, wanted),)
    made = []
    for shot in shots:
        check()
        span = analysis.shots[shot.number]
        looks = [(frame, caption) for frame in range(span.start, span.end, LOOKED_AT)
                 if (caption := track.at(frame)) is not None]
        made.append((span.start, tuple(
            _stand(analysis, track, shot, canvas,
                   [(frame, caption) for frame, caption in looks if caption.look == number])
            or wanted[number] for number in range(len(wanted)))))
    return tuple(made)


def _stand(
    analysis: Analysis, track: CaptionTrack, shot: ShownShot, canvas: Canvas,
    looks: Sequence[tuple[int, SetCaption]],
) -> Stand | None:
    """Where the captions of ``looks``, which share a look, stand in a shot; None: where that says.
    """
    faces = [found for found in analysis.tracks_in(shot.number) if found.kind == "face"]
    lines = list(analysis.words_in(shot.number))
    if not looks or not (faces or lines):
        return None
    look = track.look_of(looks[0][1])
    beside = (stands_beside(analysis, track, shot, canvas, looks)
              if look.place is CaptionPlace.BESIDE else [])
    stands = [*beside, *(stand_in(place, track.clear) for place in (look.place, *ORDER))]
    if not look.avoid:
        return stands[0]
    costs = dict.fromkeys(stands, 0.0)
    for frame, caption in looks:
        seen = _seen(analysis, shot, canvas, frame, faces, lines)
        for stand in costs:
            costs[stand] += max((worth for box, worth in seen if _covers(
                caption_box(track, standing(caption, stand), canvas), box)), default=0.0)
    best = min(costs, key=lambda stand: costs[stand])
    return best if costs[best] < costs[stands[0]] - WORTH * len(looks) else stands[0]


def standing(caption: SetCaption, stand: Stand) -> SetCaption:
    """``caption`` where it stands in a shot."""
    return msgspec.structs.replace(caption, stand=stand)


def stands_beside(
    analysis: Analysis, track: CaptionTrack, shot: ShownShot, canvas: Canvas,
    looks: Sequence[tuple[int, SetCaption]],
) -> list[Stand]:
    """Where the captions of ``looks`` would stand by the one who leads in a shot: at the side of
    the face that has more room, under it, or over it, if they have room there.
    """
    face = _face_on_canvas(analysis, shot, canvas, [frame for frame, _ in looks])
    if face is None:
        return []
    boxes = [caption_box(track, caption, canvas) for _, caption in looks]
    wide = max(box[2] for box in boxes) / canvas[0]
    high = max(box[3] for box in boxes) / canvas[1]
    x, y, w, h = (side / canvas[axis % 2] for axis, side in enumerate(face))
    (left, right), (top, bottom) = track.clear
    air = AIR * min(canvas)
    across, down = air / canvas[0], air / canvas[1]
    made = []
    before, after = x - across - left, right - (x + w + across)
    if max(before, after) >= wide:
        middle = x - across - wide / 2 if before > after else x + w + across + wide / 2
        made.append(Stand(middle, min(max(y + h / 2, top + high / 2), bottom - high / 2), 0.5))
    under, over = y + h * (1 + CHIN) + down, y - h * HAIR - down
    if under + high <= bottom:
        made.append(Stand(x + w / 2, max(under, top), 0.0))
    if over - high >= top:
        made.append(Stand(x + w / 2, min(over, bottom), 1.0))
    return made


def _face_on_canvas(
    analysis: Analysis, shot: ShownShot, canvas: Canvas, frames: Sequence[int]
) -> Box | None:
    """Where the face of who leads in a shot is on ``canvas``, in the middle of ``frames``."""
    lead = shot.paths[0].lead
    mine = [track for track in analysis.tracks_in(shot.number)
            if track.kind == "face" and track.subject == lead]
    boxes = []
    for frame in frames:
        there = seen_at(mine, pictures_at(analysis, shot, canvas, frame), frame)
        if there:
            boxes.append(max(there, key=lambda box: box[2] * box[3]))
    if not boxes:
        return None
    x, y, w, h = np.median(np.array(boxes), axis=0).tolist()
    return x, y, w, h


def _covers(caption: Box, box: Box) -> bool:
    return shared_area(caption, box) > TOUCHED * box[2] * box[3]


def caption_box(track: CaptionTrack, caption: SetCaption, canvas: Canvas) -> Box:
    """Where ``caption`` lies on ``canvas``, without its margins."""
    size = track.look_of(caption).style.size * min(canvas)
    block = caption.block
    wide, high = (block.width - block.margin) * size, (block.height - block.margin) * size
    x, y = track.point(caption, canvas)
    return (x * canvas[0] - wide / 2,
            y * canvas[1] - block.height * size * caption.stand.anchor, wide, high)


def _seen(
    analysis: Analysis, shot: ShownShot, canvas: Canvas, frame: int, faces: Sequence[Track],
    lines: Sequence[Track],
) -> list[tuple[Box, float]]:
    """Where faces and burnt-in lines are seen on ``canvas`` at ``frame``, and what they count."""
    layers = pictures_at(analysis, shot, canvas, frame)
    return [(box, worth) for many, worth in ((faces, FACE), (lines, LINE))
            for box in seen_at(many, layers, frame)]


def seen_at(tracks: Iterable[Track], layers: Sequence[PictureLayer], frame: int) -> list[Box]:
    """Where what is followed in ``tracks`` is seen through ``layers`` at ``frame``."""
    return [there for track in tracks if (box := track.box_at(frame)) is not None
            for layer in layers if (there := on_canvas(box, layer)) is not None]


def pictures_at(
    analysis: Analysis, shot: ShownShot, canvas: Canvas, frame: int
) -> list[PictureLayer]:
    """The parts of the master that are seen on ``canvas`` at ``frame``."""
    layers = layers_of(shot.layout, canvas, [path.window(frame) for path in shot.paths],
                       analysis.active, shot.paths[0].finish)
    return [layer for layer in layers if isinstance(layer, PictureLayer)]


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
