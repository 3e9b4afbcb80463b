"""Words in the picture: read, covered so that nothing of them is left, and written anew."""

import av
import jiwer
import msgspec
import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont
from PySide6.QtCore import Qt
from skimage.metrics import structural_similarity

from caracal.core.analysis.burnt_text import BurntText
from caracal.core.analysis.detectors.text_recognition import LineReader, burnt_texts
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.model import Track
from caracal.core.base.errors import Cancelled, InputError
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.convert import convert
from caracal.core.framing.flags import Flag, FlagKind
from caracal.core.layout.redaction import Redaction, redactions_error
from caracal.core.media.planes import Planes
from caracal.core.project.model import first_project
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.project.text_replacement import (
    with_words_covered,
    with_words_rewritten,
    with_words_seen,
    without_covered,
)
from caracal.core.render.painters.redactions import redacted
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.fonts import file_of
from caracal.core.text.style import Title
from conftest import ffmpeg, write_film

SIGN = "Harbour café, open 9-17"


def line_of(text, font, size, ink=230, ground=40):
    """A line drawn by Pillow (h, w)."""
    face = ImageFont.truetype(str(font), size)
    left, top, right, bottom = face.getbbox(text)
    picture = Image.new("L", (right - left + 20, bottom - top + 14), ground)
    ImageDraw.Draw(picture).text((10 - left, 7 - top), text, ink, face)
    return np.asarray(picture)


@pytest.mark.parametrize("font", ["Figtree SemiBold", "Fraunces Regular", "DejaVuSansMono"])
def test_drawn_lines_are_read_as_they_were_written(font):
    """Judged by jiwer's character error rate, over letters of three scripts."""
    path = f"/usr/share/fonts/truetype/dejavu/{font}.ttf" if "DejaVu" in font else file_of(font)
    texts = ["Every first Saturday of autumn", "KILN DAY AT MARRAM QUAY", "Tobias Fenn, keeper",
             "Öffnung 9.30 - 18.00 Uhr", "Ça coûte 45 % de moins"]
    if "DejaVu" in font:
        texts += ["Добро пожаловать", "Καλημέρα κόσμε"]
    reader = LineReader()
    read = [reader.read(line_of(text, path, 40)) for text in texts]
    assert jiwer.cer([text for text in texts if text.isascii() or "ü" in text or "Ç" in text],
                     [each.text for each, text in zip(read, texts, strict=True)
                      if text.isascii() or "ü" in text or "Ç" in text]) < 0.04
    assert all(each.sure > 0.8 for each in read[:3])


def test_nothing_is_read_where_nothing_is_written():
    noise = np.random.default_rng(1).integers(100, 130, (40, 300)).astype(np.uint8)
    assert LineReader().read(noise).sure < 0.8 or not LineReader().read(noise).text


@pytest.fixture(scope="module")
def signed(tmp_path_factory):
    """A film of 140 frames; a sign is seen from frame 30 to frame 109."""
    sign = line_of(SIGN, file_of("Figtree SemiBold"), 34, 235, 90)
    slope = np.add.outer(np.arange(360) / 6, np.arange(640) / 8).astype(np.uint8)

    def picture(number, y):
        y = (40 + slope).astype(np.uint8)
        if 30 <= number < 110:
            place = y[280 : 280 + sign.shape[0], 60 : 60 + sign.shape[1]]
            place[:] = np.where(sign > 140, sign, place)
        return y

    return write_film(tmp_path_factory.mktemp("sign") / "sign.mp4", size=(640, 360), frames=140,
                      picture=picture)


@pytest.fixture(scope="module")
def read(signed):
    (text,) = burnt_texts(analyse(signed), no_progress, CancelToken())
    return text


def test_a_sign_is_read_with_its_time_and_place(read):
    assert jiwer.cer(SIGN, read.text) < 0.05 and read.sure > 0.9
    assert 24 <= read.start <= 30 and 110 <= read.end_exclusive <= 116
    x, y, w, h = read.box
    assert x < 70 and y < 284 and x + w > 60 + 380 and y + h > 314


def test_reading_is_stopped_at_once(signed):
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        burnt_texts(analyse(signed), no_progress, token)


@pytest.mark.parametrize("colour", [None, "#ffffff"])
def test_in_a_file_nothing_is_left_of_the_words(signed, read, tmp_path, colour):
    """Beside the same film without a sign, by another library's decoder and SSIM; 235 is white."""
    sheet = with_value(with_value(find_sheet("wide"), "canvas", (640, 360)), "duration.least_s", 1)
    slope = np.add.outer(np.arange(360) / 6, np.arange(640) / 8).astype(np.uint8)
    redaction = Redaction(read.start, read.end_exclusive, read.box, colour)
    (made,) = convert(signed, [Recipe(sheet, redactions=(redaction,))], tmp_path)
    assert made.proof.right, made.proof.lines
    with av.open(made.file) as container:
        pictures = [frame.to_ndarray(format="yuv420p")[:360]
                    for frame in container.decode(video=0)]
    x, y, w, h = (round(side) for side in read.box)
    plain = (40 + slope).astype(np.uint8)
    for number in (5, 30, 70, 109, 130):
        part = pictures[number][y + 2 : y + h - 2, x + 2 : x + w - 2]
        if colour is None or number in (5, 130):
            meant = plain[y + 2 : y + h - 2, x + 2 : x + w - 2]
            assert np.abs(part.astype(int) - meant).mean() < 4, number
            assert np.abs(part.astype(int) - meant).max() < 24, number
        else:
            assert np.abs(part.astype(int) - 235).max() <= 6, number
        beside = pictures[number][: y - 10]
        assert structural_similarity(beside, plain[: y - 10], data_range=255) > 0.95


def test_covered_words_do_not_come_back_while_their_range_dissolves_out(signed, read, tmp_path):
    sheet = with_value(with_value(find_sheet("wide"), "canvas", (640, 360)), "duration.least_s", 1)
    cover = Redaction(read.start, read.end_exclusive, read.box)
    ranges = (FrameRange(70, 90), FrameRange(112, 138, dissolve=16))  # 90 to 105 go on: signed
    (made,) = convert(signed, [Recipe(sheet, redactions=(cover,), ranges=ranges)], tmp_path)
    assert made.proof.right, made.proof.lines
    x, y, w, h = (round(side) for side in read.box)
    meant = np.add.outer(np.arange(y, y + h) / 6, np.arange(x, x + w) / 8) + 40
    with av.open(made.file) as container:
        for picture in container.decode(video=0):
            part = picture.to_ndarray(format="yuv420p")[y : y + h, x : x + w]
            assert np.abs(part - meant).max() < 24


@pytest.mark.parametrize("box", [
    (10.0, 10.0, 40.0, 20.0), (-30.0, -8.0, 60.0, 40.0), (150.0, 80.0, 90.0, 90.0),
    (-5.0, 30.0, 400.0, 20.0), (0.0, 0.0, 200.0, 100.0), (300.0, 300.0, 10.0, 10.0)])
def test_a_slope_goes_on_below_what_is_covered(box):
    """A plane through the edges is the plane itself, on paper; it never fails at the borders."""
    y = np.add.outer(np.arange(100), np.arange(200) / 2).astype(np.uint8)
    half = np.full((50, 100), 128, np.uint8)
    marked = y.copy()
    x0, y0 = max(0, int(box[0])), max(0, int(box[1]))
    marked[y0 : int(box[1] + box[3]), x0 : int(box[0] + box[2])] = 255
    made = redacted(Planes(marked, half, half), (Redaction(0, 1, box),))
    inside = box[0] > 0 and box[1] > 0 and box[0] + box[2] < 200 and box[1] + box[3] < 100
    if inside:
        assert np.abs(made.y.astype(int) - y).max() <= 5
    assert made.y.shape == y.shape and (made.u == 128).all()
    assert redacted(Planes(y, half, half), ()).y is y


def test_words_of_a_film_with_wide_pixels_are_read_and_covered_where_they_are(tmp_path):
    """720x576 whose pixels are 64 to 45 wide (BT.601 in 16:9): FFmpeg squeezes the picture."""
    sign = line_of(SIGN, file_of("Figtree SemiBold"), 44, 235, 60)
    wide = np.full((576, 1024), 60, np.uint8)
    wide[400 : 400 + sign.shape[0], 500 : 500 + sign.shape[1]] = sign
    Image.fromarray(wide).save(tmp_path / "wide.png")
    film = tmp_path / "anamorphic.mp4"
    ffmpeg("-loop", "1", "-i", tmp_path / "wide.png", "-t", "2", "-r", "25", "-vf",
           "scale=720:576,setsar=64/45,format=yuv420p", "-crf", "8", film)
    (text,) = burnt_texts(analyse(film), no_progress, CancelToken())
    assert jiwer.cer(SIGN, text.text) < 0.1
    x, _, w, _ = text.box  # upright pixels: as wide as the picture is shown
    assert x == pytest.approx(500, abs=24) and x + w == pytest.approx(500 + sign.shape[1], abs=30)
    sheet = with_value(find_sheet("wide"), "canvas", (1024, 576))
    sheet = with_value(sheet, "duration.least_s", 1)
    redaction = Redaction(text.start, text.end_exclusive, text.box)
    (made,) = convert(film, [Recipe(sheet, redactions=(redaction,))], tmp_path / "out")
    with av.open(made.file) as container:
        picture = next(container.decode(video=0)).to_ndarray(format="yuv420p")[:576]
    assert np.abs(picture[8:-8, 8:-8].astype(int) - 60).max() < 24  # nothing of the sign is left


def test_words_are_written_anew_once_and_uncovered():
    text = BurntText(3, 20, 80, (100.0, 200.0, 400.0, 60.0), "Hello\nthere", 0.9)
    region = ((0.1, 0.9), (0.4, 0.5))
    project = first_project(100)
    for _ in range(2):
        project = with_words_rewritten(project, "A", text, region, (1080, 1920))
    version = project.version("A")
    assert version.redactions == (Redaction(20, 80, text.box),)
    (title,) = version.overlays
    assert title.content == Title("Hello\nthere", title.content.style, 6)
    assert (title.start, title.end_exclusive, title.region) == (20, 80, region)
    assert project.version("B").redactions == ()
    assert recipe_of(project, "A", find_sheet("vertical-short")).redactions == version.redactions
    assert with_words_seen(project, "A").version("A").redactions == ()
    with pytest.raises(InputError, match="nowhere"):
        with_words_covered(project, "A", msgspec.structs.replace(text, box=(0, 0, 0, 5)))
    assert redactions_error((Redaction(0, 1, (0, 0, 1, 1), "red"),))


def test_cut_words_are_no_flag_once_they_are_covered(demo):
    shot = next(shot for shot in range(len(demo.shots)) if demo.words_in(shot))
    flags = (Flag(FlagKind.TEXT_CUT, "cut", 0, 5, 0.5), Flag(FlagKind.LOST, "lost", 0, 5, 0.9))
    whole = Redaction(0, 10**6, (0.0, 0.0, 1920.0, 1080.0))
    assert without_covered(flags, demo, shot, (whole,)) == flags[1:]
    assert without_covered(flags, demo, shot, ()) == flags
    corner = Redaction(0, 10**6, (0.0, 0.0, 30.0, 30.0))
    assert without_covered(flags, demo, shot, (corner,)) == flags
    assert isinstance(demo.words_in(shot)[0], Track)


def test_two_clicks_write_the_demo_s_words_anew(window, qtbot, truth):
    session = window.film.session
    window.film.show_view("Words")
    words = window.film.words
    words.show_page("Titles")
    session.choose_version("B")
    session.go(1140)
    row = words.burnt
    assert row.list.isHidden() and row.seen.isHidden()
    assert FlagKind.TEXT_CUT in {flag.kind for flag in session.flags("B", 0)}
    qtbot.mouseClick(row.button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: row._worker is None and bool(row.texts), timeout=60_000)
    assert [text.text.splitlines()[0] for text in row.texts] == [
        "KILN DAY AT MARRAM QUAY", "Tobias Fenn", "Kiln Day"]
    assert row.chosen.text == "Tobias Fenn\nkeeper of the kiln"  # the one at the playhead
    drawn = truth["shots"][11]["start"]  # and drawn from its frame 14 to 95: see demo/shots.py
    assert drawn + 10 <= row.chosen.start <= drawn + 15
    assert drawn + 95 <= row.chosen.end_exclusive <= drawn + 100
    qtbot.mouseClick(row.replace, Qt.MouseButton.LeftButton)
    (title,) = session.project.version("B").overlays
    assert title.content.text == "Tobias Fenn\nkeeper of the kiln"
    row.list.setCurrentIndex(0)
    row.list.activated.emit(0)
    assert session.frame < 76
    qtbot.mouseClick(row.only, Qt.MouseButton.LeftButton)
    assert len(session.project.version("B").redactions) == 2
    assert FlagKind.TEXT_CUT not in {flag.kind for flag in session.flags("B", 0)}
    assert session.scene("B", 40, (200, 200)).redactions and not row.seen.isHidden()
    assert not session.scene("A", 40, (200, 356)).redactions
    qtbot.mouseClick(row.seen, Qt.MouseButton.LeftButton)
    assert session.project.version("B").redactions == ()
    for _ in range(3):
        session.document.undo()
    assert session.project == first_project(session.analysis.master.frames)
