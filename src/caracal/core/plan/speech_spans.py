"""Where somebody speaks in a film, in frames."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.detectors.speech import speech_in
from caracal.core.base.paths import changed_ns
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken, Report
from caracal.core.media.master import Master
from caracal.core.sound.ducking import Span, merged

LEAST_SPEECH_S = 0.15  # shorter bursts are coughs and clicks
BREATH_S = 0.3  # pauses between words up to this long are part of the speech
MOST_KNOWN = 64  # ranges of which it is known where somebody speaks

_known: dict[tuple[str, int, int, FrameRange], tuple[Span, ...]] = {}


def speech_spans(
    master: Master, span: FrameRange, report: Report, cancel: CancelToken
) -> tuple[Span, ...]:
    """The frames of the film [first, end) in ``span`` in which somebody speaks.

    Raises InputError when the sound cannot be read, Cancelled when stopped.
    """
    plain = FrameRange(span.start, span.end_exclusive)
    key = master.path, master.sound_number, changed_ns(master.file), plain
    if key not in _known:
        found = _spans(speech_in(master, plain, report, cancel), span.start, float(master.rate))
        if len(_known) >= MOST_KNOWN:
            _known.clear()
        _known[key] = found
    return _known[key]


def _spans(speaks: NDArray[np.bool_], start: int, rate: float) -> tuple[Span, ...]:
    """Where ``speaks`` (n,) is true, from frame ``start`` on, without breaths and bursts."""
    edges = np.flatnonzero(np.diff(speaks.astype(np.int8), prepend=0, append=0))
    spans = [(start + int(first), start + int(end))
             for first, end in edges.reshape(-1, 2).tolist()]
    breath = round(BREATH_S * rate)
    joined = merged((first, end + breath) for first, end in spans)
    return tuple((first, end - breath) for first, end in joined
                 if end - breath - first >= LEAST_SPEECH_S * rate)
