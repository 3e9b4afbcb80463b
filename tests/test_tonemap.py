"""High dynamic range to BT.709, against colour-science and the published curves."""

import warnings
from fractions import Fraction

import av
import numpy as np
import pytest

from caracal.core.media.decode import frames
from caracal.core.media.planes import to_rgb
from caracal.core.media.probe import probe
from caracal.core.media.tonemap import (
    HLG,
    PQ,
    TO_709,
    WHITE_NITS,
    hlg_to_nits,
    nits_to_pq,
    pq_to_nits,
    rolled_off,
    to_standard,
)

SIGNAL = np.linspace(0.02, 1, 50)


@pytest.fixture(scope="module")
def colour():
    """The outside judge, imported where it is asked: that takes longer than all tests here."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # it wants matplotlib for plots
        import colour as judge
    return judge


def test_pq_is_that_of_bt_2100(colour):
    assert np.allclose(pq_to_nits(SIGNAL), colour.models.eotf_BT2100_PQ(SIGNAL), rtol=1e-6)
    assert np.allclose(pq_to_nits(nits_to_pq(np.array([1.0, 203, 1000]))), [1, 203, 1000])


def test_hlg_is_that_of_bt_2100(colour):
    """Greys, on a display of 1000 cd/m2 with black at 0 (colour-science's defaults)."""
    ours = hlg_to_nits(np.stack([SIGNAL] * 3, -1))[:, 0]
    theirs = colour.models.eotf_BT2100_HLG(np.stack([SIGNAL] * 3, -1), L_B=0, L_W=1000, gamma=1.2)
    assert np.allclose(ours, theirs[:, 0], rtol=2e-3, atol=1e-3)


def test_the_gamut_matrix_is_that_of_bt_2087(colour):
    theirs = colour.matrix_RGB_to_RGB(colour.RGB_COLOURSPACES["ITU-R BT.2020"],
                                      colour.RGB_COLOURSPACES["ITU-R BT.709"], None)
    assert np.allclose(TO_709, theirs, atol=2e-4)


def test_the_roll_off_keeps_dark_places_never_turns_back_and_ends_at_white():
    nits = np.linspace(0, 4000, 2000)
    made = rolled_off(nits)
    assert (np.diff(made) >= -1e-9).all() and made.max() == pytest.approx(WHITE_NITS, rel=1e-3)
    dark = nits < 80
    assert np.allclose(made[dark], nits[dark], rtol=1e-6)


@pytest.mark.parametrize("transfer", [PQ, HLG])
def test_greys_stay_grey(transfer):
    made = to_standard(np.stack([SIGNAL] * 3, -1), transfer)
    assert np.ptp(made, axis=1).max() < 1e-3


@pytest.mark.parametrize(("transfer", "signal"), [(PQ, 0.4), (PQ, 0.58), (HLG, 0.5), (HLG, 0.75)])
def test_a_decoded_picture_is_what_the_formula_says(tmp_path, transfer, signal):
    path = tmp_path / "hdr.mkv"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx265", rate=25, options={
            "x265-params": "lossless=1:log-level=none:colorprim=9:colormatrix=9:transfer="
                           f"{transfer}"})
        stream.width, stream.height, stream.pix_fmt = 128, 128, "yuv420p10le"
        stream.codec_context.color_trc, stream.codec_context.colorspace = transfer, 9
        stream.codec_context.color_primaries, stream.codec_context.color_range = 9, 1
        for number in range(5):
            frame = av.VideoFrame(128, 128, "yuv420p10le")
            frame.color_trc, frame.colorspace, frame.color_range = transfer, 9, 1
            for plane, value in zip(frame.planes, (round(64 + 876 * signal), 512, 512),
                                    strict=True):
                np.frombuffer(memoryview(plane).cast("B"), np.uint16)[:] = value
            frame.pts, frame.time_base = number, Fraction(1, 25)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    master = probe(path)
    assert any("tone-mapped" in notice for notice in master.notices)
    for _, planes in frames(master):
        seen = to_rgb(planes)[64, 64]
    assert np.abs(seen - to_standard(np.full(3, signal), transfer) * 255).max() < 3


@pytest.mark.parametrize("full", [False, True])
@pytest.mark.parametrize("matrix", ["bt709", "smpte170m"])
def test_full_range_and_bt_601_are_converted_not_relabelled(tmp_path, matrix, full):
    """Pure red comes out red (BT.709 limited), whatever the master's matrix and range."""
    from conftest import ffmpeg

    path = tmp_path / "red.mkv"
    spread = "pc" if full else "tv"
    ffmpeg("-f", "lavfi", "-i", "color=red:s=128x128:r=25:d=0.4,format=rgb24", "-vf",
           f"scale=out_color_matrix={matrix}:out_range={spread},format=yuv420p", "-c:v", "libx264",
           "-qp", "0", "-colorspace", matrix, "-color_range", spread, path)
    _, planes = next(iter(frames(probe(path))))
    seen = to_rgb(planes)[64, 64]
    assert np.abs(seen.astype(int) - [254, 0, 0]).max() <= 4
