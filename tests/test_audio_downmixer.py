"""Channels mixed down by ITU-R BS.775-3, Table 2, beside FFmpeg's own pan filter."""

import subprocess

import av
import numpy as np
import pytest

from caracal.core.base.errors import InputError
from caracal.core.media.audio_downmixer import AudioDownmixer

RATE = 48_000
NAMES = ("FL", "FR", "FC", "LFE", "SL", "SR")  # of 5.1(side), in FFmpeg's order
# BS.775-3, Table 2: the centre and the surrounds at 0.7071 in stereo; in mono the fronts at 0.7071,
# the centre whole, the surrounds at half.
STEREO = "pan=stereo|c0=FL+0.7071*FC+0.7071*SL|c1=FR+0.7071*FC+0.7071*SR"
MONO = "pan=mono|c0=0.7071*FL+0.7071*FR+FC+0.5*SL+0.5*SR"


@pytest.fixture(scope="module")
def surround(tmp_path_factory):
    """A second in which each channel has a tone of its own."""
    path = tmp_path_factory.mktemp("surround") / "six.wav"
    tones = "|".join(f"0.1*sin({220 * (n + 1)}*2*PI*t)" for n in range(len(NAMES)))
    subprocess.run(["ffmpeg", "-v", "error", "-f", "lavfi", "-i",
                    f"aevalsrc={tones}:c=5.1(side):s={RATE}:d=1", "-c:a", "pcm_f32le", path],
                   check=True)
    return path


def downmixed(path, channels):
    with av.open(str(path)) as container:
        stream = container.streams.audio[0]
        mixer = AudioDownmixer(path, stream, RATE, channels)
        pieces = [samples for _, samples in mixer.pieces(container.demux(stream))]
    return np.concatenate(pieces)


@pytest.mark.parametrize(("channels", "pan"), [(2, STEREO), (1, MONO)])
def test_six_channels_are_mixed_as_the_recommendation_says(surround, channels, pan):
    told = np.frombuffer(subprocess.run(
        ["ffmpeg", "-v", "error", "-i", surround, "-af", pan, "-f", "f32le", "-"],
        capture_output=True, check=True).stdout, np.float32).reshape(-1, channels)
    assert np.allclose(downmixed(surround, channels), told, atol=1e-5)


def test_the_low_effects_are_left_out_and_nothing_else(surround):
    mixed = downmixed(surround, 2)
    spectrum = np.abs(np.fft.rfft(mixed.mean(axis=1)))
    heard = [spectrum[220 * (n + 1)] > 100 for n in range(len(NAMES))]
    assert heard == [True, True, True, False, True, True]


def test_sound_that_cannot_be_decoded_is_refused_and_not_silence(surround):
    with av.open(str(surround)) as container:
        stream = container.streams.audio[0]
        mixer = AudioDownmixer(surround, stream, RATE, 2)

        class Broken:
            name = "broken"

            def decode(self, packet):
                raise av.error.InvalidDataError(1, "broken")

        mixer._decoder = Broken()
        with pytest.raises(InputError, match="cannot be read from"):
            list(mixer.pieces(container.demux(stream)))
