"""Films of few pictures a second: their sound lies where it lies at any other rate."""

from fractions import Fraction

import numpy as np
import pytest

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.time import FrameRange
from caracal.core.plan.parts import pauses_in
from conftest import ffmpeg


@pytest.mark.parametrize("rate", ["2", "5", "15/2", "24000/1001", "25"])
def test_what_sounds_at_8_seconds_is_seen_and_paused_round_there(tmp_path, rate):
    """ffmpeg makes a tone from 8 to 9 s of 12; the waveform has ten peaks a second."""
    path = tmp_path / "film.mp4"
    ffmpeg("-f", "lavfi", "-i", f"testsrc2=s=160x90:r={rate}:d=12", "-f", "lavfi", "-i",
           "aevalsrc='if(between(t,8,9),0.5*sin(2*PI*440*t),0)':d=12:s=48000", "-shortest", path)
    found = analyse(path, root=tmp_path / "cache")
    peaks = np.array(found.sound.peaks)
    assert len(peaks) == pytest.approx(120, abs=2)
    loud = np.flatnonzero(peaks > 0.1)
    assert loud[0] in (79, 80) and loud[-1] in (89, 90) and len(loud) >= 10
    frames = found.master.frames
    pauses = pauses_in(found, FrameRange(0, frames), np.zeros(frames, bool))
    in_tone = round(Fraction(rate) * Fraction(17, 2))
    assert not pauses[in_tone] and pauses[round(Fraction(rate) * 4)]
