"""Emoji in captions and titles: in colour, one picture for a sequence, in the file as well."""

import cv2
import numpy as np
import pytest

from caracal.cli.main import main
from caracal.core.convert import Recipe, convert
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.block import lines_within, missing_letters
from caracal.core.text.caption_look import CaptionLook
from caracal.core.text.cues import Cue
from caracal.core.text.emoji import emoji_on
from caracal.core.text.fonts import file_of, width_of
from caracal.core.text.raster import Said, sprite
from caracal.core.text.runs import WIDE, runs_of
from caracal.core.text.style import TextStyle
from conftest import ffmpeg, write_film

STYLE = TextStyle(font="Figtree SemiBold", size=0.1)
FONT = file_of("Figtree SemiBold")
ONE = {  # Unicode Technical Standard 51, sections 1.4 and 2: each is one picture
    "fire": "🔥", "a thumb of a skin tone": "👍🏽", "a flag": "🇩🇪", "a keycap": "1️⃣",
    "a heart that is asked for": "❤️", "a joined person": "👩‍🚀", "a family": "👨‍👩‍👧‍👦",
    "a flag of tags": "🏴󠁧󠁢󠁳󠁣󠁴󠁿",
}
PLAIN = ("©", "™", "1", "#", "❤︎", "☎", "a", "é", "日")  # text unless VS16 asks for a picture


@pytest.mark.parametrize("name", ONE)
def test_a_sequence_is_one_picture_in_colour(name):
    text = ONE[name]
    assert [run.emoji for run in runs_of(f"a {text} b")] == [False, True, False]
    assert width_of(FONT, text) == pytest.approx(WIDE)
    assert not missing_letters(f"a {text}", STYLE)
    _, colours, covers = emoji_on((120, 120), text, 5.0, 60.0, 80.0)
    assert covers.max() > 0.95 and (covers > 0.5).sum() > 1500
    tones = cv2.cvtColor(colours[covers > 0.9][None], cv2.COLOR_RGB2HSV)[0]
    assert np.ptp(tones[:, 2]) > 0.2 or tones[:, 1].max() > 0.3  # not one flat tone, as a box is


@pytest.mark.parametrize("text", PLAIN)
def test_signs_that_are_text_stay_letters(text):
    assert not any(run.emoji for run in runs_of(f"x{text}x"))


def test_skin_tones_are_seen():
    light, dark = (emoji_on((120, 120), f"👍{tone}", 5.0, 60.0, 80.0) for tone in ("🏻", "🏿"))
    means = [float(colours[covers > 0.9].mean()) for _, colours, covers in (light, dark)]
    assert means[0] > means[1] + 0.15


def test_letters_and_emoji_share_a_line_and_are_hidden_alike():
    block = lines_within("We fire 🔥 now", STYLE, 30.0, 1)
    whole = sprite(block, STYLE, 60.0)
    orange = (whole.rgb[..., 0] > 0.8) & (whole.rgb[..., 2] < 0.3) & (whole.covers > 0.9)
    columns = np.flatnonzero(orange.any(axis=0))
    wide = width_of(FONT, "We fire ") * 60
    margin = block.margin * 60
    assert margin + wide - 2 <= columns.min() and columns.max() <= margin + wide + WIDE * 60 + 2
    letters = (whole.rgb.min(axis=2) > 0.95) & (whole.covers > 0.9)
    assert letters[:, : columns.min()].any() and letters[:, columns.max() + 2 :].any()
    before = sprite(block, STYLE, 60.0, Said(hidden_from=7))  # typed: the fire is yet to come
    assert not ((before.rgb[..., 2] < 0.3) & (before.covers > 0.5)).any()


def test_an_emoji_goes_where_a_line_from_right_to_left_ends():
    font = "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf"
    block = lines_within("שלום 🔥", TextStyle(font=font, size=0.1), 30.0, 1)
    made = sprite(block, TextStyle(font=font, size=0.1), 60.0)
    orange = (made.rgb[..., 0] > 0.8) & (made.rgb[..., 2] < 0.3) & (made.covers > 0.9)
    assert np.flatnonzero(orange.any(axis=0)).mean() < made.covers.shape[1] / 2


def test_a_made_file_shows_it_in_colour(tmp_path):
    film = write_film(tmp_path / "film.mp4", size=(320, 320), frames=80,
                      picture=lambda _, y: np.full_like(y, 50))
    sheet = with_value(find_sheet("square-feed"), "canvas", (320, 320))
    cues = (Cue(0.0, 3.0, "🔥🔥🔥"),)
    look = CaptionLook(TextStyle(font="Figtree SemiBold", size=0.2))
    (made,) = convert(film, [Recipe(sheet, captions=cues, look=look)], tmp_path / "out")
    assert made.proof.right
    ffmpeg("-ss", "1", "-i", made.file, "-frames:v", "1", tmp_path / "seen.png")
    seen = cv2.imread(str(tmp_path / "seen.png"))[:, :, ::-1].astype(int)
    assert ((seen[..., 0] > 190) & (seen[..., 2] < 110)).sum() > 300


@pytest.mark.usefixtures("small_sheets")
def test_letters_that_no_font_has_are_told_before_the_work(tmp_path, capsys):
    film = write_film(tmp_path / "film.mp4", frames=80)
    (tmp_path / "said.srt").write_text("1\n00:00:00,000 --> 00:00:03,000\n𐎀𐎁 🔥\n")
    assert main(["convert", str(film), "--spec", "square-feed", "--captions",
                 str(tmp_path / "said.srt"), "--out", str(tmp_path / "out")]) in (0, 1)
    told = capsys.readouterr().err
    assert "No installed font has these letters: 𐎀 𐎁 They will appear as empty boxes." in told
    assert "🔥" not in told
