"""PQ and HLG pictures as they come out of the decoder, against a reference made of other parts.

The curves and matrices of the reference are colour-science's; the roll-off is written here once
more from ITU-R BT.2390-8, 5.4.1 (from memory), colour by colour.
"""

import warnings
from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
from skimage.metrics import structural_similarity

from caracal.core.media.decode import frames
from caracal.core.media.planes import to_rgb
from caracal.core.media.probe import probe
from caracal.core.media.tonemap import HLG, PQ
from filmed_clips import clip

PATCH, COLUMNS = 32, 8  # pixels of a patch's side, and how many stand in a row
WHITE, PEAK = 203.0, 1000.0  # cd/m2: reference white (BT.2408), and what films are graded for
LINEAR = [*[(v, v, v) for v in (0.5, 5, 20, 60, 120, 203, 500, 1000)],
          *[tuple(level * part for part in colour) for level in (40, 150)
            for colour in ((1, .08, .08), (.1, 1, .1), (.1, .1, 1), (1, 1, .1), (.1, 1, 1),
                           (1, .1, 1), (.9, .6, .45), (.35, .22, .16))]]


@pytest.fixture(scope="module")
def colour():
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # it wants matplotlib for plots
        import colour as judge
    return judge


def signals(colour, nits, transfer):
    """HDR signals (n, 3) of linear BT.709 light ``nits`` (n, 3)."""
    wide = colour.RGB_COLOURSPACES["ITU-R BT.2020"]
    light = nits @ colour.matrix_RGB_to_RGB(
        colour.RGB_COLOURSPACES["ITU-R BT.709"], wide, None).T
    light = np.maximum(light, 0)
    if transfer == PQ:
        return colour.models.eotf_inverse_BT2100_PQ(light)
    with np.errstate(invalid="ignore", divide="ignore"):  # its curve is of two parts
        return np.nan_to_num(colour.models.eotf_inverse_BT2100_HLG(
            np.maximum(light, 1e-6), L_B=0, L_W=PEAK, gamma=1.2))


def reference(colour, signal, transfer):
    """BT.709 signals (n, 3) of HDR signals, for a display of BT.1886."""
    wide = colour.RGB_COLOURSPACES["ITU-R BT.2020"]
    nits = (colour.models.eotf_BT2100_PQ(signal) if transfer == PQ
            else colour.models.eotf_BT2100_HLG(signal, L_B=0, L_W=PEAK, gamma=1.2))
    top, most = (float(colour.models.eotf_inverse_BT2100_PQ(v)) for v in (PEAK, WHITE))
    made = []
    for one in nits:
        high = max(float(one.max()), 1e-6)
        e1 = min(float(colour.models.eotf_inverse_BT2100_PQ(high)) / top, 1.0)
        peak = most / top
        knee = 1.5 * peak - 0.5
        if e1 >= knee:
            t = (e1 - knee) / (1 - knee)
            e1 = ((2 * t**3 - 3 * t**2 + 1) * knee + (t**3 - 2 * t**2 + t) * (1 - knee)
                  + (-2 * t**3 + 3 * t**2) * peak)
        made.append(one * float(colour.models.eotf_BT2100_PQ(e1 * top)) / high)
    narrow = np.array(made) @ colour.matrix_RGB_to_RGB(
        wide, colour.RGB_COLOURSPACES["ITU-R BT.709"], None).T
    return np.clip(narrow / WHITE, 0, 1) ** (1 / 2.4)


def planes_of(rgb):
    """10-bit planes of BT.2020 signals (h, w, 3), limited range, non-constant luminance (BT.2100-2,
    table 6); chroma is that of every other pixel: patches are even."""
    y = rgb @ np.array([0.2627, 0.6780, 0.0593])
    cb, cr = (rgb[..., 2] - y) / 1.8814, (rgb[..., 0] - y) / 1.4746
    luma = np.round(64 + 876 * y).astype(np.uint16)
    return luma, *(np.round(512 + 896 * part[::2, ::2]).astype(np.uint16) for part in (cb, cr))


def decoded(path, planes, transfer):
    """The picture (h, w, 3) 0..255 that the program makes of such planes, kept without loss."""
    height, width = planes[0].shape
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx265", rate=25, options={
            "x265-params": "lossless=1:log-level=none:colorprim=9:colormatrix=9:transfer="
                           f"{transfer}"})
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p10le"
        stream.codec_context.color_trc, stream.codec_context.colorspace = transfer, 9
        stream.codec_context.color_primaries, stream.codec_context.color_range = 9, 1
        for number in range(3):
            frame = av.VideoFrame(width, height, "yuv420p10le")
            frame.color_trc, frame.colorspace, frame.color_range = transfer, 9, 1
            for plane, values in zip(frame.planes, planes, strict=True):
                rows = np.frombuffer(memoryview(plane).cast("B"), np.uint16).reshape(
                    values.shape[0], -1)
                rows[:, : values.shape[1]] = values
            frame.pts, frame.time_base = number, Fraction(1, 25)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    _, seen = next(iter(frames(probe(path))))
    return to_rgb(seen)


@pytest.mark.parametrize("transfer", [PQ, HLG])
def test_colours_come_out_as_the_reference_has_them(tmp_path, colour, transfer):
    """Greys from 0.5 to 1000 cd/m2, full colours, and two skins; CIEDE2000, of which 1 is just seen
    (CIE 142-2001)."""
    signal = np.clip(signals(colour, np.array(LINEAR, float), transfer), 0, 1)
    rows = signal.reshape(-1, COLUMNS, 3)
    picture = np.repeat(np.repeat(rows, PATCH, axis=0), PATCH, axis=1)
    seen = decoded(tmp_path / "patches.mkv", planes_of(picture), transfer)
    middles = seen[PATCH // 2 :: PATCH, PATCH // 2 :: PATCH].reshape(-1, 3) / 255
    meant = reference(colour, signal, transfer)
    space = colour.RGB_COLOURSPACES["ITU-R BT.709"]

    def lab(rgb):
        linear = np.clip(rgb, 0, 1) ** 2.4
        return colour.XYZ_to_Lab(linear @ space.matrix_RGB_to_XYZ.T, space.whitepoint)

    away = colour.delta_E(lab(middles), lab(meant), method="CIE 2000")
    assert away.mean() < 1.0 and away.max() < 3.0, np.round(away, 1)


@pytest.mark.parametrize("transfer", [PQ, HLG])
def test_a_filmed_picture_that_was_put_into_hdr_comes_back(tmp_path, colour, transfer):
    """SDR white at 203 cd/m2 (BT.2408, 5.1): what lies below the roll-off's knee is the same."""
    capture = cv2.VideoCapture(str(clip("bikes")))
    capture.set(cv2.CAP_PROP_POS_FRAMES, 150)
    sdr = cv2.cvtColor(cv2.resize(capture.read()[1], (480, 256)), cv2.COLOR_BGR2RGB)
    nits = (sdr.reshape(-1, 3) / 255.0) ** 2.4 * WHITE
    signal = np.clip(signals(colour, nits, transfer), 0, 1).reshape(256, 480, 3)
    seen = decoded(tmp_path / "filmed.mkv", planes_of(signal), transfer)
    dark = (sdr.max(axis=2) < 110)[..., None]
    assert dark.mean() > 0.2
    assert np.abs(seen.astype(int) - sdr)[np.repeat(dark, 3, axis=2)].mean() < 4
    assert structural_similarity(cv2.cvtColor(sdr, cv2.COLOR_RGB2GRAY),
                                 cv2.cvtColor(seen, cv2.COLOR_RGB2GRAY)) > 0.95
