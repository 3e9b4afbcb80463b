"""From composed canvases to an encoder: rates converted, neighbours mixed, sound in step."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

import cv2
import numpy as np

from caracal.core.base.time import samples_at
from caracal.core.media.encode import MovieWriter
from caracal.core.media.planes import Picture, Planes
from caracal.core.media.sound import Samples
from caracal.core.plan.file_plan import FilePlan
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.painters.titles import caption_layer, with_text
from caracal.core.sound.finished_sound import finished
from caracal.core.sound.mix import mix_of_file

See = Callable[[int, Picture], None]


def unseen(frame: int, canvas: Picture) -> None:
    """Takes a frame without looking at it."""


def needed_sources(plan: FilePlan) -> set[int]:
    """The places among the joined frames that the file shows anything of."""
    source_indices, blend_weights = plan.sources()
    return set(source_indices.tolist()) | set((source_indices[blend_weights > 0] + 1).tolist())


def composed_frames(
    plan: FilePlan, sources: Iterable[Planes], release: Callable[[], object] = lambda: None
) -> Iterator[tuple[int, Picture]]:
    """(place, canvas) for each place among the joined frames that the file shows, in order.

    ``sources`` are the planes of the master's frames in the file's ranges; ``release`` is called
    when those that came last are not needed any more.
    """
    needed, timeline = needed_sources(plan), plan.timeline
    first, last = timeline.opening, timeline.opening + timeline.filmed - 1
    for filmed, planes in enumerate(sources, first):
        # The first and the last picture are held for the cards beside them.
        places = range(0 if filmed == first else filmed,
                       timeline.joined if filmed == last else filmed + 1)
        for place in places:
            canvas = (_own(compose_pictures(plan.scenes.scene(place), planes))
                      if place in needed else None)
            if place == places[-1]:
                release()
            if canvas is not None:
                yield place, canvas


def _own(canvas: Picture) -> Picture:
    """``canvas`` in memory of its own: where nothing is scaled it is a part of the source."""
    y, u, v = (plane if plane.flags.owndata else plane.copy() for plane in canvas)
    return y, u, v


def encode_frames(
    plan: FilePlan, composed: Iterator[tuple[int, Picture]], writer: MovieWriter,
    with_sound: bool = True, see: See = unseen,
) -> Iterator[int]:
    """Write every frame of the file, and its sound; yields how many frames are written.

    ``see`` is shown the number and the planes of each frame, as they go to the encoder.
    ``composed`` gives (place, canvas) for the needed places in order, and is used up.
    """
    source_indices, blend_weights = plan.sources()
    sound = SoundTrack(plan) if with_sound else None
    kept: dict[int, Picture] = {}
    keys = frozenset(plan.idr_frames)
    for k, (place, share) in enumerate(
        zip(source_indices.tolist(), blend_weights.tolist(), strict=True)
    ):
        wanted = place + (share > 0)
        while wanted not in kept:
            at, canvas = next(composed)
            kept = {number: kept[number] for number in kept if number >= place} | {at: canvas}
        canvas = with_caption(plan, k, _mixed(kept[place], kept[wanted], share))
        see(k, canvas)
        writer.write_picture(canvas, k in keys)
        if sound is not None:
            writer.write_sound(sound.until(samples_at(k + 1, plan.rate, plan.sheet.sound.rate_hz)))
        yield k + 1
    for _ in composed:
        pass  # the last pictures may not be shown: their slots are given back all the same


def with_caption(plan: FilePlan, frame: int, canvas: Picture) -> Picture:
    """``canvas`` of a frame of the file with its caption: laid on last, it is never mixed."""
    layer = None if plan.captions is None else caption_layer(
        plan.captions, frame, plan.sheet.canvas)
    return canvas if layer is None else with_text(layer, canvas)


def _mixed(canvas: Picture, other: Picture, share: float) -> Picture:
    """``canvas`` with ``share`` of ``other`` in it."""
    if not share:
        return canvas
    y, u, v = (np.asarray(cv2.addWeighted(a, 1 - share, b, share, 0), np.uint8)
               for a, b in zip(canvas, other, strict=True))
    return y, u, v


class SoundTrack:
    """The file's samples in the order of its pictures."""

    def __init__(self, plan: FilePlan) -> None:
        channels = plan.sheet.sound.channels
        self._chunks: Iterator[Samples] = iter(()) if plan.sound is None else finished(
            mix_of_file(plan.master, plan.sheet.sound, plan.timeline, plan.extra_audio), plan.sound)
        self._held, self._given = np.zeros((0, channels), np.float32), 0

    def until(self, end: int) -> Samples:
        """The samples up to number ``end``, without those given before."""
        count = end - self._given
        while len(self._held) < count:
            chunk = next(self._chunks, None)
            if chunk is None:
                break
            self._held = np.concatenate([self._held, chunk])
        out, self._held = self._held[:count], self._held[count:]
        self._given += len(out)
        return out
