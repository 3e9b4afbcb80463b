"""From the channels a master has to those a file wants, by the coefficients of ITU-R BS.775-3.

Table 2 there: the centre and the surrounds go into stereo at 0.7071 (-3 dB); into mono the fronts
go at 0.7071, the centre whole, the surrounds at half. The low effects are left out.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Matrix = NDArray[np.float32]

HALF_POWER = 0.7071
TO_STEREO = {
    "FL": (1.0, 0.0), "FR": (0.0, 1.0), "FC": (HALF_POWER, HALF_POWER), "LFE": (0.0, 0.0),
    "SL": (HALF_POWER, 0.0), "SR": (0.0, HALF_POWER), "BL": (HALF_POWER, 0.0),
    "BR": (0.0, HALF_POWER), "BC": (0.5, 0.5), "FLC": (1.0, 0.0), "FRC": (0.0, 1.0),
    "DL": (1.0, 0.0), "DR": (0.0, 1.0), "LFE2": (0.0, 0.0),
    "WL": (HALF_POWER, 0.0), "WR": (0.0, HALF_POWER), "TFL": (HALF_POWER, 0.0),
    "TFR": (0.0, HALF_POWER), "TBL": (HALF_POWER, 0.0), "TBR": (0.0, HALF_POWER),
    "TSL": (HALF_POWER, 0.0), "TSR": (0.0, HALF_POWER),
}
UNKNOWN = (0.5, 0.5)
TO_MONO = {
    "FL": HALF_POWER, "FR": HALF_POWER, "FC": 1.0, "LFE": 0.0, "SL": 0.5, "SR": 0.5, "BL": 0.5,
    "BR": 0.5, "BC": 0.5, "FLC": HALF_POWER, "FRC": HALF_POWER, "DL": HALF_POWER, "DR": HALF_POWER,
    "LFE2": 0.0,
}


def downmix(channels: tuple[str, ...], wanted: int) -> Matrix:
    """The matrix (channels, wanted) that brings ``channels`` (FL, FR, FC, ...) to 1 or 2.

    One channel goes whole into each wanted one. A channel that the table does not know is heard
    on both sides at half: none is lost without a word.
    """
    if len(channels) == 1:
        return np.ones((1, wanted), np.float32)
    if wanted == 1:
        return np.array([[TO_MONO.get(name, UNKNOWN[0])] for name in channels], np.float32)
    return np.array([TO_STEREO.get(channel, UNKNOWN) for channel in channels], np.float32)
