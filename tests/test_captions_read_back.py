"""Captions burnt into a filmed clip, read out of the made file by another recogniser: Tesseract."""

import difflib
import subprocess
from fractions import Fraction

import cv2
import numpy as np
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.convert import convert
from caracal.core.project.recipe import Recipe
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.cues import Cue
from filmed_clips import clip

SAID = ["The kiln was lit at dawn", "Salt & pepper, twice: 42 < 50", "Nobody spoke for an hour"]
BEGINS = (0.4, 2.8, 5.2)
LASTS_S = 1.8
LETTERS = 225  # of luma: captions are white, and the clip's own whites are few


@pytest.mark.parametrize("name", ["vertical-short", "square-feed"])
def test_another_recogniser_reads_what_was_burnt_in_and_when(tmp_path, name):
    cues = tuple(Cue(at, at + LASTS_S, text) for at, text in zip(BEGINS, SAID, strict=True))
    sheet = with_value(find_sheet(name), "duration.least_s", 0.5)
    width, height = sheet.canvas
    sheet = with_value(sheet, "canvas", (width // 2, height // 2))
    (result,) = convert(clip("bikes"), [Recipe(sheet, captions=cues, burnt=True,
                                               ranges=(FrameRange(0, 200),))], tmp_path)
    assert result.proof.right, result.proof
    rate = Fraction(25)
    for at, text in zip(BEGINS, SAID, strict=True):
        for moment in (at + 0.1, at + LASTS_S - 0.1):
            assert share_read(text, picture(result.file, moment)) >= 0.8, (moment, text)
        for moment in (at - 0.1, at + LASTS_S + float(1 / rate) + 0.1):
            assert share_read(text, picture(result.file, moment)) <= 0.5, (moment, text)


def share_read(text, luma):
    """How like ``text`` the likest part is of what is read in a picture, whatever else is there."""
    words, seen = text.lower(), words_in(luma).lower()
    return max(difflib.SequenceMatcher(None, words, seen[at : at + len(words) + 2]).ratio()
               for at in range(max(1, len(seen) - len(words) + 1)))


def picture(path, moment):
    """The luma of a file's picture at a moment, by FFmpeg's command."""
    raw = subprocess.run(["ffmpeg", "-v", "error", "-ss", f"{moment:.3f}", "-i", path, "-frames:v",
                          "1", "-f", "image2pipe", "-c:v", "png", "-"], capture_output=True,
                         check=True).stdout
    return cv2.imdecode(np.frombuffer(raw, np.uint8), cv2.IMREAD_GRAYSCALE)


def words_in(luma):
    """What Tesseract reads in the white parts of a picture, as one line."""
    large = cv2.resize(luma, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
    white = np.where(large >= LETTERS, 0, 255).astype(np.uint8)
    _, png = cv2.imencode(".png", cv2.copyMakeBorder(white, 20, 20, 20, 20, cv2.BORDER_CONSTANT,
                                                     value=255))
    told = subprocess.run(["tesseract", "-", "-", "--psm", "11", "-l", "eng"],
                          input=png.tobytes(), capture_output=True, check=True).stdout.decode()
    return " ".join(told.split())
