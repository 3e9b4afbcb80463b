"""Where a version is cut into parts: in pauses, near the even cuts, each part within its limit."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import PEAKS_A_SECOND, Analysis
from caracal.core.base.time import FrameRange

Flags = NDArray[np.bool_]

QUIET = 0.12  # of the loudest tenth of a second: below it nobody speaks up
PAUSE_S = 0.16  # a shorter gap lies within a word
MOST_MORE = 2  # parts, to find pauses
FAR = 0.35  # of a part's length: so far from the even cut may a pause be looked for


def parts_of(
    span: FrameRange, most_frames: int, pauses: Flags, before: int = 0, after: int = 0
) -> tuple[FrameRange, ...]:
    """``span`` cut into few parts of at most ``most_frames``, no frame lost or doubled.

    The first part has so many frames ``before`` its own, the last so many ``after`` them: cards,
    each shorter than a part.
    ``pauses`` (n,) says for each frame of the span whether a cut before it is in a pause. Each cut
    is the pause nearest to the even place. Where the fewest parts leave a cut without a pause, a
    part or two more are tried: half a word is worse. If that is of no use, the cut is even.
    """
    frames = before + len(span) + after
    within = np.pad(pauses[: len(span)], (before, after))
    fewest = min(len(span), max(1, math.ceil(frames / most_frames)))
    tried = [_cuts(count, most_frames, within, before, after)
             for count in range(fewest, min(fewest + MOST_MORE, len(span)) + 1)]
    cuts = next((edges for edges in tried if within[edges[1:-1]].all()), tried[0])
    edges = [span.start, *(span.start + cut - before for cut in cuts[1:-1]), span.end_exclusive]
    return tuple(FrameRange(a, b) for a, b in pairwise(edges))


def _cuts(count: int, most_frames: int, pauses: Flags, before: int, after: int) -> list[int]:
    """The edges of ``count`` parts of as many frames as there are ``pauses``; none lies among the
    first and last ones, which are cards."""
    frames, cuts = len(pauses), [0]
    for i in range(1, count):
        even = round(frames * i / count)
        least = max(cuts[-1] + 1, before + i, frames - (count - i) * most_frames)
        most = min(cuts[-1] + most_frames, frames - after - (count - i))
        reach = round(FAR * frames / count)
        near = [at for at in range(max(least, even - reach), min(most, even + reach) + 1)
                if pauses[at]]
        best = min(near, key=lambda at: abs(at - even)) if near else even
        cuts.append(min(max(best, least), most))
    return [*cuts, frames]


def pauses_in(analysis: Analysis, span: FrameRange, speech: Flags) -> Flags:
    """The frames (n,) of ``span`` before which a cut falls into a pause.

    Nobody speaks there and it is quiet, for long enough that no word goes on behind it.
    """
    rate = float(analysis.master.rate)
    peaks = np.asarray(analysis.sound.peaks or (0.0,))
    at = np.arange(span.start, span.end_exclusive) / rate * PEAKS_A_SECOND
    loud = np.interp(at, np.arange(len(peaks)) + 0.5, peaks)
    still = ~speech & (loud <= QUIET * max(float(loud.max()), 1e-6))
    least = max(1, round(PAUSE_S * rate))
    found = np.zeros(len(span), np.bool_)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], still, [False]]).astype(int)))
    for first, end in zip(edges[::2], edges[1::2], strict=True):
        if end - first >= least:
            found[first + least // 2 : end - least // 2 + 1] = True
    return found


def trimmed(frames: int, most: int, pauses: Flags) -> int:
    """Where ``frames`` are cut to ``most`` at the most: at the last pause near it, else there."""
    least = max(1, most - round(FAR * most))
    near = np.flatnonzero(pauses[least : min(most, frames - 1) + 1])
    return int(least + near[-1]) if len(near) else min(most, frames)
