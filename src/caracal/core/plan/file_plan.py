"""One file to make, as data: a process of its own can make it from this and the pictures."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.paths import path_of
from caracal.core.base.resources import asset_file
from caracal.core.base.timeline import Timeline
from caracal.core.media.master import Master
from caracal.core.render.scene_track import SceneTrack
from caracal.core.sound.finished_sound import SoundPlan
from caracal.core.sound.mix import NOTHING_BESIDE, ExtraAudio
from caracal.core.specs.bits import Bits
from caracal.core.specs.sheet import SpecSheet
from caracal.core.text.caption_track import CaptionTrack
from caracal.core.text.cues import Cue


class FilePlan(msgspec.Struct, frozen=True):
    """Everything about one file to make; a process of its own can make it.

    ``wanted`` is the number of the version it belongs to. ``scenes`` are those of the joined frames
    of the timeline. ``source_indices`` (int64) and ``blend_weights`` (float64) say what every frame
    of the file shows of them (see Timeline.sources). ``idr_frames`` are the frames of the file that
    begin a shot and stand alone. ``sound`` None: the file has none. ``token`` makes the name of the
    half-made file its own. ``captions`` are laid over the frames of the file. ``sidecar`` are the
    cues that come in a file beside it, never over ``captions_file``, from which they were taken.
    ``extra_audio`` is what is heard beside the master's sound. ``bits`` are those of the pictures;
    None: as its sheet says.
    """

    master: Master
    sheet: SpecSheet
    wanted: int
    file: str
    replace: bool
    timeline: Timeline
    scenes: SceneTrack
    source_indices: bytes
    blend_weights: bytes
    sound: SoundPlan | None
    idr_frames: tuple[int, ...] = ()
    token: str = ""
    captions: CaptionTrack | None = None
    sidecar: tuple[Cue, ...] = ()
    captions_file: str = ""
    extra_audio: ExtraAudio = NOTHING_BESIDE
    bits: Bits | None = None

    @property
    def inputs(self) -> tuple[Path, ...]:
        """The files that it is made from, which nothing may write over."""
        return (self.master.file, *(asset_file(name) for name in self.scenes.files),
                *(clip.source.file for clip in self.extra_audio.clips),
                *(sound.source.file for sound in self.extra_audio.added))

    @property
    def rate(self) -> Fraction:
        """Frames a second of the file."""
        return Fraction(self.timeline.rate)

    @property
    def part_file(self) -> Path:
        """The path of the file while it is made."""
        path = path_of(self.file)
        return path.with_name(f"{path.name}.{self.token or 'new'}.part")

    def sources(self) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
        """Source indices and blend weights (frames,)."""
        return np.frombuffer(self.source_indices, np.int64), np.frombuffer(
            self.blend_weights, np.float64
        )

    def piece(self, start: int, end_exclusive: int) -> FilePlan:
        """The frames of the file from ``start`` to ``end_exclusive``, as a plan of their own."""
        source_indices, blend_weights = self.sources()
        mine, mixed = source_indices[start:end_exclusive], blend_weights[start:end_exclusive]
        first, last = int(mine[0]), int(mine[-1] + (mixed[-1] > 0))
        return msgspec.structs.replace(
            self,
            timeline=self.timeline.part(first, last + 1),
            scenes=self.scenes.select(range(first, last + 1)),
            source_indices=(mine - first).tobytes(),
            blend_weights=mixed.tobytes(),
            captions=self.captions and self.captions.part(start, end_exclusive),
            idr_frames=tuple(
                key - start for key in self.idr_frames if start <= key < end_exclusive
            ),
        )
