"""What a lossy encoder makes of loud sound: tried on the moments that ask most of it.

An encoder keeps the sound and not its samples: where a peak is sharp, it comes out higher, by a
fraction of a decibel in speech and by three where hands clap; and what it leaves out makes noise
quieter. The moments are encoded and decoded again as the file will be.
"""

from __future__ import annotations

from io import BytesIO

import av
import numpy as np

from caracal.core.media.encode import SoundSettings, add_sound
from caracal.core.media.sound import Samples
from caracal.core.sound.loudness import amplitude
from caracal.core.sound.profile import STEPS_A_SECOND, SoundProfile

MOMENTS = 3  # by each of two orders
LEAD_S, LASTS_S = 0.3, 1.6  # of what is tried, round a moment


def moments(profile: SoundProfile, gain_db: float, limit_dbtp: float) -> list[float]:
    """Where to try, in seconds: where the limiter works hardest, and where the sharpest peaks are.
    """
    whole = len(profile.peaks) // STEPS_A_SECOND * STEPS_A_SECOND
    cut = whole or len(profile.peaks)
    if not cut:
        return []
    loud = (profile.peaks[:cut] * amplitude(gain_db - limit_dbtp)).reshape(
        -1, min(STEPS_A_SECOND, cut))
    power = profile.powers[:cut].reshape(loud.shape)
    held = np.minimum(loud, 1.0)
    sharp = np.max(held / np.sqrt(np.maximum(power.mean(axis=1, keepdims=True), 1e-12)), axis=1)
    near = held.max(axis=1) > amplitude(-3)
    orders = (np.maximum(loud - 1, 0).sum(axis=1) + held.max(axis=1), np.where(near, sharp, 0))
    found = dict.fromkeys(int(at) for order in orders for at in np.argsort(-order)[:MOMENTS])
    return [at * loud.shape[1] / STEPS_A_SECOND for at in found]


def coded(samples: Samples, settings: SoundSettings) -> Samples:
    """``samples`` (n, channels) as they come out (m, channels) once encoded and decoded."""
    file = BytesIO()
    with av.open(file, "w", format="matroska") as container:
        stream = add_sound(container, settings)
        size = stream.codec_context.frame_size or 1024
        for at in range(0, len(samples), size):
            part = np.ascontiguousarray(samples[at : at + size].T)
            frame = av.AudioFrame.from_ndarray(part, "fltp", stream.codec_context.layout.name)
            frame.sample_rate, frame.pts = settings.rate_hz, at
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    file.seek(0)
    resampler, made = av.AudioResampler("flt"), []
    with av.open(file, "r") as written:
        for frame in written.decode(audio=0):
            made += [found.to_ndarray().reshape(-1, settings.channels).astype(np.float32)
                     for found in resampler.resample(frame)]
    return np.concatenate(made)
