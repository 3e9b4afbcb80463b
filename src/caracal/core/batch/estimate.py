"""How large a version will be and how long it takes, from a short trial on its own pictures.

Whole groups of pictures, spread over the version, are composed and encoded with the sheet's own
settings: shots begin with a picture that stands alone, so the groups of the file are known before.
A few tell enough where each of them reaches the target bitrate, which the encoder then holds. A
plainer version takes less than its target, and how much changes from shot to shot: more are tried.
"""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise
from math import ceil
from pathlib import Path
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Analysis
from caracal.core.base.timeline import Timeline, timeline
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.encoding.evidence import picture_sizes
from caracal.core.media.decode import frames
from caracal.core.media.encode import MovieWriter
from caracal.core.media.planes import Plane
from caracal.core.plan.planner import idr_frames, rate_of, scene_track, solved_shots
from caracal.core.plan.sound_plan import extra_audio
from caracal.core.project.recipe import Recipe
from caracal.core.render.assets.uncertain_mattes import unsure_shots
from caracal.core.render.compositor import compose_pictures
from caracal.core.sound.finished_sound import SoundPlan, plan_sound
from caracal.core.specs.settings import CONTAINER_SHARE, encoder_settings
from caracal.core.specs.sheet import Beyond, SpecSheet

FEW, MORE = 3, 20  # groups in the first and the second trial; with 9 the demo was 17 % off
INTRA_GROUP_S = 0.4  # of codecs without groups: pictures are tried in runs of this length
REACHED = 0.9  # of the target: a version whose groups all take so much is held to the target


class Estimate(msgspec.Struct, frozen=True):
    """Expected size of a version in MB (10^6 bytes), and the seconds its encoding takes alone.

    A ``rough`` one tells more when more is tried. In the shots ``unsure`` it is unsure who is cut
    out of the picture. ``sound`` is what will be done to the sound, once that was tried.
    """

    size_mb: float
    seconds: float
    rough: bool = False
    unsure: tuple[int, ...] = ()
    sound: SoundPlan | None = None


class _Group(NamedTuple):
    """Joined frames [start, end) of the version that are encoded together."""

    start: int
    end: int


def estimate(
    analysis: Analysis, recipe: Recipe, cancel: CancelToken | None = None, thorough: bool = True,
) -> Estimate:
    """Try some groups of one version; not ``thorough``: a few, whatever they tell.

    Raises what encoding would raise, and Cancelled.
    """
    master, sheet = analysis.master, recipe.sheet
    rate = rate_of(sheet, master.rate)
    line = timeline(recipe.ranges_in(master.frames), master.rate, rate)
    groups = _groups(line, tuple(shot.start for shot in analysis.shots), sheet)
    token = cancel or CancelToken()
    trial = _Trial(analysis, recipe, line, token)
    tried = _spread(groups, FEW)
    kbps = trial.kbps(tried)
    target = sheet.video.target_kbps(rate) if sheet.video.quality is None else None
    more = [span for span in _spread(groups, MORE) if span not in tried]
    rough = bool(more) and (target is None or min(kbps) < REACHED * target)
    if rough and thorough:
        tried, kbps, rough = tried + more, kbps + trial.kbps(more), False
    rough = rough or not (thorough or sheet.sound.loudness_lufs is None)
    average = _average(line, tried, kbps, sheet, target)
    sound = sheet.sound.kbps if master.sound or recipe.sounds or sheet.sound.silent_track else 0
    cards_s = recipe.card_frames / float(master.rate)  # as large as the film: rather too much
    return Estimate((average + sound) * sheet.duration.kept_s(line.seconds + cards_s) / 8000
                    * CONTAINER_SHARE, trial.spent_s / trial.pictures * line.frames, rough,
                    unsure_shots(trial.shots),
                    _sound(analysis, recipe, line, token) if thorough else None)


def _sound(
    analysis: Analysis, recipe: Recipe, line: Timeline, cancel: CancelToken
) -> SoundPlan | None:
    """What will be done to the sound; without a loudness to reach nothing needs to be measured."""
    if recipe.sheet.sound.loudness_lufs is None:
        return None
    return plan_sound(analysis.master, recipe.sheet.sound, line, no_progress, cancel,
                      extra_audio(analysis.master, line.ranges, recipe.overlays, recipe.sounds,
                                  cancel=cancel, clean=recipe.clean))


class _Trial:
    """Encodes groups of a version's pictures, and how long that took."""

    def __init__(self, analysis: Analysis, recipe: Recipe, line: Timeline,
                 cancel: CancelToken) -> None:
        self._master, self._sheet, self._line = analysis.master, recipe.sheet, line
        self.shots = solved_shots(analysis, recipe, check=cancel.check)
        self._scenes = scene_track(analysis, recipe, self.shots)
        self._cancel = cancel
        self.spent_s, self.pictures = 0.0, 0

    def kbps(self, groups: list[_Group]) -> list[float]:
        """The bitrate of each of ``groups``, encoded one after the other."""
        if not groups:
            return []
        began = time.process_time()
        rate = Fraction(self._line.rate)
        with tempfile.TemporaryFile() as file:  # without a name: a kill leaves nothing behind
            path = Path(f"/proc/self/fd/{file.fileno()}")
            writer = MovieWriter(path, encoder_settings(self._sheet, rate, with_sound=False))
            try:
                for group in groups:
                    for i, picture in enumerate(self._pictures(group)):
                        writer.write_picture(picture, i == 0)
            finally:
                writer.finish()
            sizes = picture_sizes(path)
        edges = np.cumsum([0, *(group.end - group.start for group in groups)])
        # By the processors' time, not the clock's: a trial runs beside other work, the batch alone.
        self.spent_s += (time.process_time() - began) / len(os.sched_getaffinity(0))
        self.pictures += len(sizes)
        return [float(np.mean(sizes[a:b])) * 8 / 1000 * float(rate) for a, b in pairwise(edges)]

    def _pictures(self, group: _Group) -> Iterator[tuple[Plane, Plane, Plane]]:
        for span in self._line.part(*group).ranges:
            for number, planes in frames(self._master, span, self._cancel):
                yield compose_pictures(self._scenes.scene(number), planes)


def _groups(line: Timeline, cuts: tuple[int, ...], sheet: SpecSheet) -> list[_Group]:
    """The groups of pictures that the version will have."""
    rate = Fraction(line.master_rate)
    every: NDArray[np.int64] = np.arange(line.joined)
    intra = sheet.video.family.intra
    length = max(1, int((INTRA_GROUP_S if intra else sheet.video.gop_s) * rate))
    keys = (*idr_frames(line.begins(cuts), every, rate), line.joined)
    return [_Group(at, min(at + length, end))
            for start, end in pairwise(keys) for at in range(start, end, length)]


def _spread(groups: list[_Group], count: int) -> list[_Group]:
    """The groups in the middle of ``count`` equal shares of the version; each once."""
    total = groups[-1].end
    middles = [total * (i + 0.5) / count for i in range(count)]
    return [group for group in groups if any(group.start <= at < group.end for at in middles)]


def _average(
    line: Timeline, tried: list[_Group], kbps: list[float], sheet: SpecSheet,
    target: int | None,
) -> float:
    """The bitrate of the version: in each of its files the target is not passed."""
    count = ceil(line.seconds / sheet.duration.most_s) if (
        sheet.duration.beyond is Beyond.PARTS) else 1
    edges = np.linspace(0, line.joined, max(count, 1) + 1)
    found = np.array(kbps)
    parts = np.searchsorted(edges, [span.start for span in tried], side="right") - 1
    means = [found[parts == i].mean() if (parts == i).any() else found.mean()
             for i in range(len(edges) - 1)]
    return float(np.mean([mean if target is None else min(mean, target) for mean in means]))
