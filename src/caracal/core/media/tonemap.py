"""High dynamic range brought to BT.709: a table from PQ or HLG pictures to standard ones.

Published parts: the PQ and HLG transfer functions and HLG's opto-optical transfer of ITU-R
BT.2100-2 (tables 4 and 5), the roll-off of ITU-R BT.2390-8 (5.4.1), reference white at 203 cd/m2
(BT.2408), and the display of BT.1886. FFmpeg's lut3d filter applies the table.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

PQ, HLG = 16, 18  # ITU-T H.273 transfer characteristics
SIZE = 33  # places of the table along each colour
PEAK_NITS = 1000.0  # what most masters are graded for; brighter places become white
WHITE_NITS = 203.0  # HDR reference white, and the peak that a standard picture gets
GAMMA = 2.4  # of a standard display (BT.1886)
SYSTEM_GAMMA = 1.2  # of HLG at 1000 cd/m2

M1, M2 = 2610 / 16384, 2523 / 4096 * 128
C1, C2, C3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
HLG_A, HLG_B, HLG_C = 0.17883277, 0.28466892, 0.55991073
LUMA_2020 = np.array([0.2627, 0.6780, 0.0593])
# Linear BT.2020 to linear BT.709 (ITU-R BT.2087-0).
TO_709 = np.array([[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083],
                   [-0.0182, -0.1006, 1.1187]])


def pq_to_nits(signal: Array) -> Array:
    """cd/m2 of a PQ signal (0..1)."""
    root = np.maximum(signal, 0.0) ** (1 / M2)
    return np.asarray(10000 * (np.maximum(root - C1, 0) / (C2 - C3 * root)) ** (1 / M1))


def nits_to_pq(nits: Array) -> Array:
    """The PQ signal (0..1) of cd/m2."""
    power = (np.maximum(nits, 0.0) / 10000) ** M1
    return np.asarray(((C1 + C2 * power) / (1 + C3 * power)) ** M2)


def hlg_to_nits(signal: Array) -> Array:
    """cd/m2 on a display of 1000 cd/m2 of HLG signals (..., 3)."""
    scene = np.where(signal <= 0.5, signal**2 / 3, (np.exp((signal - HLG_C) / HLG_A) + HLG_B) / 12)
    luma = scene @ LUMA_2020
    return np.asarray(PEAK_NITS * np.maximum(luma, 1e-9)[..., None] ** (SYSTEM_GAMMA - 1) * scene)


def rolled_off(nits: Array) -> Array:
    """cd/m2 up to PEAK_NITS brought under WHITE_NITS: dark places stay, bright ones are eased in.

    BT.2390-8, 5.4.1.2: a Hermite spline in PQ, above a knee that depends on both peaks.
    """
    top = float(nits_to_pq(np.array(PEAK_NITS)))
    scaled = np.minimum(nits_to_pq(nits) / top, 1.0)
    most = float(nits_to_pq(np.array(WHITE_NITS))) / top
    knee = 1.5 * most - 0.5
    t = np.clip((scaled - knee) / (1 - knee), 0, 1)
    eased = ((2 * t**3 - 3 * t**2 + 1) * knee + (t**3 - 2 * t**2 + t) * (1 - knee)
             + (-2 * t**3 + 3 * t**2) * most)
    return pq_to_nits(np.where(scaled < knee, scaled, eased) * top)


def to_standard(signal: Array, transfer: int) -> Array:
    """BT.709 signals (..., 3; 0..1) of PQ or HLG signals in BT.2020 (..., 3; 0..1).

    The brightest of the three colours is rolled off and the others go with it: hues stay.
    """
    nits = pq_to_nits(signal) if transfer == PQ else hlg_to_nits(signal)
    brightest = np.maximum(nits.max(axis=-1, keepdims=True), 1e-6)
    linear = nits * (rolled_off(brightest) / brightest) / WHITE_NITS
    return np.asarray(np.clip(linear @ TO_709.T, 0, 1) ** (1 / GAMMA))


def table_text(transfer: int) -> str:
    """The table as a .cube file (Cube LUT Specification 1.0), red running fastest."""
    steps = np.linspace(0, 1, SIZE)
    blue, green, red = np.meshgrid(steps, steps, steps, indexing="ij")
    values = to_standard(np.stack([red, green, blue], -1).reshape(-1, 3), transfer)
    lines = "\n".join(f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in values)
    return f"LUT_3D_SIZE {SIZE}\n{lines}\n"
