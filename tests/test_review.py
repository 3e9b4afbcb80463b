"""Review copies: the destination's zones in the picture, and nowhere else."""

import numpy as np
import pytest

from caracal.core.convert import Recipe, convert
from caracal.core.media.decode import frames
from caracal.core.media.planes import Planes, to_rgb
from caracal.core.media.probe import probe
from caracal.core.render.painters.zones import COVER, INK, review_overlay
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import Zone
from caracal.core.specs.sheet_store import find_sheet
from conftest import write_film

SHEET = with_value(with_value(find_sheet("vertical-short"), "canvas", (180, 320)), "covers",
                   (Zone("", 0.0, 0.8, 1.0, 0.2),))


def flat(value):
    return (np.full((320, 180), value, np.uint8), np.full((160, 90), 128, np.uint8),
            np.full((160, 90), 128, np.uint8))


def test_a_cover_is_darker_and_the_rest_as_it_was():
    """Alpha blending by hand: grey 150 under 120/255 of the cover's colour (arithmetic)."""
    made = review_overlay(SHEET, SHEET.canvas).over(flat(150))
    seen = to_rgb(Planes(*made))
    grey = (150 - 16) * 255 / 219
    share = COVER[3] / 255
    assert seen[300, 90] == pytest.approx(
        [grey * (1 - share) + colour * share for colour in COVER[:3]], abs=3
    )
    assert made[0][30, 90] == 150 and made[0][150, 60] == 150


def test_the_clear_area_has_a_line_in_the_ink_s_colour():
    made = review_overlay(SHEET, SHEET.canvas).over(flat(40))
    line = made[0][round(0.2 * 320), 60]
    assert line > 150 and abs(int(INK[0]) - int(INK[2])) > 20


def test_only_review_copies_show_zones_and_their_name_says_so(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=76, picture=lambda _, y: y * 0 + 150)
    plain, review = convert(film, [Recipe(SHEET), Recipe(SHEET, review=True)], tmp_path / "out")
    assert review.file.endswith("vertical-short review copy.mp4") and review.proof.right
    luma = [next(iter(frames(probe(tmp_path / result.file))))[1].y for result in (plain, review)]
    assert abs(int(luma[0][300, 90]) - 150) < 4 and int(luma[1][300, 90]) < 110
