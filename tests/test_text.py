"""Letters, lines and captions, against Unicode, WCAG, FreeType by another way, and paper."""

import random
from fractions import Fraction
from itertools import pairwise

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.metrics import structural_similarity

from caracal.core.base.colours import contrast, relative_luminance, rgb_of
from caracal.core.base.errors import InputError
from caracal.core.base.resources import shipped
from caracal.core.base.time import FrameRange
from caracal.core.text.block import block_of, fitted, lines_within, missing_letters
from caracal.core.text.breaking import LEANING, balanced, broken
from caracal.core.text.caption_look import CaptionLook, CaptionManner, CaptionPlace, look_error
from caracal.core.text.caption_track import stand_in
from caracal.core.text.captions import Stage, set_captions
from caracal.core.text.cues import Cue, Word, cues_in, frames_of, parted, timed_words, with_text
from caracal.core.text.fonts import file_of, font_for, refuse_unusable
from caracal.core.text.raster import Said, right_to_left, sprite
from caracal.core.text.style import (
    Align,
    Stroke,
    TextBox,
    TextShadow,
    TextStyle,
    Title,
    style_error,
)

FIGTREE = shipped("fonts", "Figtree_600SemiBold.ttf")
TALL = Stage((1080, 1920), ((0.05, 0.88), (0.2, 0.8)), Fraction(25))
FILM = (FrameRange(0, 1500),)
letters = len  # every letter is as wide as another: sums on paper


def test_contrast_is_that_of_wcag():
    """WCAG 2.2, relative luminance and contrast ratio; the figures are those of TRADE.md."""
    def against_white(colour):
        return contrast(relative_luminance(rgb_of(colour)), 1.0)

    assert against_white("#777777") == pytest.approx(4.48, abs=0.005)
    assert against_white("#767676") == pytest.approx(4.54, abs=0.005)
    assert against_white("#ff0000") == pytest.approx(4.00, abs=0.005)
    assert against_white("#000000") == pytest.approx(21)


@pytest.mark.parametrize(("text", "most", "lines"), [
    ("one two three four", 9, ["one two", "three", "four"]),
    ("one two three", 99, ["one two three"]),
    ("aaaa bbbb cccc dddd", 9, ["aaaa bbbb", "cccc dddd"]),  # balanced, not full lines first
    ("a long-winded word", 11, ["a long-", "winded word"]),  # UAX 14: after a hyphen
    ("first\nsecond line", 99, ["first", "second line"]),
    ("日本語のテスト", 4, ["日本語の", "テスト"]),  # UAX 14: between ideographs
    # Words of Thai, Japanese and Chinese stay whole (from memory, and a dictionary's words).
    ("วันนี้อากาศดีมาก", 12, ["วันนี้", "อากาศดีมาก"]),
    ("ยินดีต้อนรับสู่ประเทศไทย", 13, ["ยินดีต้อนรับ", "สู่ประเทศไทย"]),
    ("今日はとても天気です", 6, ["今日はとても", "天気です"]),
    ("所有人都来码头", 4, ["所有人都", "来码头"]),
    ("« Bonjour » dit-il !", 14, ["« Bonjour »", "dit-il !"]),
    ("one ! two ? ( three )", 6, ["one !", "two ?", "( thre", "e )"]),
    ("unbreakable", 4, ["unbr", "eaka", "ble"]),
])
def test_lines_break_where_unicode_lets_them(text, most, lines):
    assert broken(text, most, letters) == lines


def test_words_that_belong_together_stay_together():
    """Common practice: an article keeps its noun, a number its unit, a compound its halves."""
    assert broken("people ill-disposed to change", 20, letters) == [
        "people ill-disposed", "to change"]
    assert broken("we walked to the harbour", 14, letters)[0] not in (
        "we walked to", "we walked to the")
    assert "7 km" in " | ".join(broken("it is about 7 km from here", 14, letters))
    assert {"the", "der", "les"} <= LEANING


@given(st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs")), max_size=120),
       st.integers(4, 60))
def test_breaking_loses_no_letter_and_keeps_to_its_width(text, most):
    lines = broken(text, most, letters)
    def bare(words):
        return "".join("".join(words).split())

    assert bare(lines) == bare(text)
    clusters = 8  # a cluster of combining letters may not be parted
    assert all(letters(line) <= most + clusters for line in lines) or len(text) < clusters


@given(st.lists(st.text("abcdefgh", min_size=1, max_size=9), min_size=2, max_size=14),
       st.integers(1, 5))
def test_balanced_lines_are_as_many_as_asked(words, count):
    lines = balanced(" ".join(words), letters, count)
    assert len(lines) == min(count, len(words)) and " ".join(lines) == " ".join(words)


def test_a_title_is_as_large_as_fits_its_box():
    style = TextStyle(size=0.6)
    for text in ("Kiln", "Kiln day at Marram Quay", "What the fire gave us back this year"):
        block, size = fitted(Title(text, style), 0.8, 0.3)
        assert block.width * size <= 0.8 + 1e-9 and block.height * size <= 0.3 + 1e-9
        fills = max(block.width * size / 0.8, block.height * size / 0.3)
        assert fills == pytest.approx(1, abs=1e-6)
    small, size = fitted(Title("Kiln", TextStyle(size=0.05)), 0.8, 0.3)
    assert size == 0.05 and small.lines == ("Kiln",)
    tall = fitted(Title("Kiln day at Marram Quay", style), 0.8, 0.8)[0]
    assert len(tall.lines) > 1  # more lines, larger letters
    assert fitted(Title("a\nb", style), 9, 1)[0].lines == ("a", "b")


def test_letters_are_those_that_another_library_draws(qapp):
    """Qt draws the outlines of the same font; both pictures are compared (SSIM)."""
    from PySide6.QtGui import QColor, QFont, QFontDatabase, QImage, QPainter, QPainterPath

    style = TextStyle()
    block = block_of(["Marram Quay"], FIGTREE, style)
    made = sprite(block, style, 80.0)
    number = QFontDatabase.addApplicationFont(str(FIGTREE))
    font = QFont(QFontDatabase.applicationFontFamilies(number)[0])
    font.setWeight(QFont.Weight.DemiBold)
    font.setPixelSize(80)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    high, wide = made.covers.shape
    image = QImage(wide, high, QImage.Format.Format_Grayscale8)
    image.fill(0)
    outline = QPainterPath()
    outline.addText(0, block.measures.ascent * 80, font, "Marram Quay")
    with QPainter(image) as p:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillPath(outline, QColor("white"))
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(high, image.bytesPerLine())
    drawn = rows[:, :wide] / 255
    assert structural_similarity(made.covers.astype(np.float64), drawn, data_range=1.0) > 0.98
    assert made.rgb.min() == 1.0  # white all over: nothing dark bleeds into the edges


def test_outline_shadow_and_box_lie_behind_in_their_order():
    plain = TextStyle(colour="#ff0000")
    block = lines_within("Hi", plain, 20, 1)
    for style, corner in ((plain, 0.0), (TextStyle(colour="#ff0000", box=TextBox(
            "#0000ff", 1.0, 0.5, 0.0)), 0.0)):
        shown = sprite(lines_within("Hi", style, 20, 1), style, 100.0)
        assert shown.covers[0, 0] == corner
    boxed = TextStyle(colour="#ff0000", box=TextBox("#0000ff", 1.0, 0.5, 0.0))
    shown = sprite(lines_within("Hi", boxed, 20, 1), boxed, 100.0)
    middle = shown.covers.shape[0] // 2
    assert shown.covers[middle, 3] == 1 and tuple(shown.rgb[middle, 3]) == (0, 0, 1)
    outlined = TextStyle(colour="#ff0000", outline=Stroke("#00ff00", 0.1))
    wide = sprite(lines_within("Hi", outlined, 20, 1), outlined, 100.0)
    assert wide.covers.sum() > sprite(block, plain, 100.0).covers.sum() * 1.2
    greens = (wide.rgb[..., 1] > 0.9) & (wide.covers > 0.9)
    reds = (wide.rgb[..., 0] > 0.9) & (wide.covers > 0.9)
    assert greens.any() and reds.any() and not (greens & reds).any()
    shaded = TextStyle(shadow=TextShadow(strength=0.5))
    soft = sprite(lines_within("Hi", shaded, 20, 1), shaded, 100.0)
    assert 0.4 < soft.covers[soft.rgb[..., 0] < 0.01].max() <= 0.5 + 1e-6


def test_what_is_said_is_told_apart_and_what_is_not_yet_is_hidden():
    style = TextStyle()
    block = lines_within("one two", style, 40, 1)
    spoken = sprite(block, style, 60.0, Said("#ff0000", 0, 3))
    half = spoken.covers.shape[1] // 2
    red = (spoken.rgb[..., 1] < 0.1) & (spoken.covers > 0.5)
    assert red[:, : half - 20].any() and not red[:, half + 20 :].any()
    typed = sprite(block, style, 60.0, Said(hidden_from=3))
    assert typed.covers[:, : half - 20].any() and not typed.covers[:, half + 20 :].any()


def test_lines_from_right_to_left_are_shaped_and_told_apart_from_the_right():
    """UAX 9: the first strong letter says which way a line runs. Arabic letters join."""
    assert right_to_left("مرحبا one") and not right_to_left("one مرحبا") and not right_to_left("12")
    style = TextStyle()
    font = font_for(style.font, "مرحبا بكم")
    if missing_letters("مرحبا", style):
        pytest.skip("no font of this system has Arabic letters")
    block = block_of(["مرحبا بكم"], font, style)
    spoken = sprite(block, style, 60.0, Said("#ff0000", 0, 5))
    red = np.flatnonzero(((spoken.rgb[..., 1] < 0.1) & (spoken.covers > 0.5)).any(axis=0))
    assert red.min() > spoken.covers.shape[1] * 0.4
    joined = block.widths[0]
    apart = sum(block_of([letter], font, style).widths[0] for letter in "مرحبا بكم")
    assert joined < apart * 0.9  # joined forms are narrower than letters by themselves


@pytest.mark.parametrize("seed", range(8))
def test_a_font_whose_programs_are_damaged_is_told_or_drawn(tmp_path, seed):
    """Hinting runs when a size is set and when a letter is drawn; FreeType refuses only then."""
    from fontTools.ttLib import TTFont, newTable
    from fontTools.ttLib.tables.ttProgram import Program

    chance, font, path = random.Random(seed), TTFont(FIGTREE), tmp_path / f"{seed}.ttf"
    program = Program()
    program.fromBytecode(bytes(chance.randrange(256) for _ in range(200)))
    for name in ("prep", "fpgm"):
        font[name] = font[name] if name in font else newTable(name)
        font[name].program = program
    for letter in "HKilndy":
        font["glyf"][letter].program = program
    font.save(path)
    style = msgspec.structs.replace(TextStyle(), font=str(path))
    try:
        made = sprite(block_of(["Kiln day"], path, style), style, 60.0)
        assert made.covers.max() > 0
    except InputError as told:
        assert told.file == path and told.remedy


def test_fonts_that_cannot_be_used_say_so(tmp_path):
    broken_font = tmp_path / "broken.ttf"
    broken_font.write_bytes(FIGTREE.read_bytes()[:5000])
    for path in (broken_font, tmp_path / "text.otf"):
        path.touch()
        with pytest.raises(InputError, match=r"cannot be read|damaged"):
            refuse_unusable(path)
    with pytest.raises(InputError, match="no such file"):
        file_of(str(tmp_path / "missing.ttf"))
    with pytest.raises(InputError, match="no font"):
        file_of("Nowhere Sans")
    forbidden = tmp_path / "restricted.ttf"
    from fontTools.ttLib import TTFont

    font = TTFont(FIGTREE)
    font["OS/2"].fsType = 2  # OpenType 1.9, OS/2: restricted licence embedding
    font.save(forbidden)
    with pytest.raises(InputError, match="forbids embedding"):
        refuse_unusable(forbidden)
    refuse_unusable(FIGTREE)


@pytest.mark.parametrize("style", [
    TextStyle(colour="red"), TextStyle(size=0), TextStyle(size=float("nan")), TextStyle(font=""),
    TextStyle(line_gap=9), TextStyle(outline=Stroke(width=2)), TextStyle(box=TextBox(opacity=2)),
    TextStyle(shadow=TextShadow(distance=float("inf")))])
def test_styles_that_cannot_be_are_refused(style):
    assert style_error(style) and look_error(CaptionLook(style))
    assert not style_error(TextStyle(align=Align.LEFT))


@pytest.mark.parametrize(("rate", "first", "end"), [
    (Fraction(25), 25, 50), (Fraction(30000, 1001), 30, 60), (Fraction(24), 24, 48)])
def test_a_caption_covers_the_frames_whose_time_lies_in_it(rate, first, end):
    """Arithmetic of TRADE.md: 1 to 2 s are frames 25 to 49 at 25 fps, 30 to 59 at 29.97."""
    assert frames_of(1.0, 2.0, rate) == (first, end)
    assert frames_of(1.0004, 2.0, rate) == (first, end)  # rounded thousandths
    assert frames_of(1.0, 1.0, rate) == (first, first + 1)


def test_cues_follow_the_ranges_of_a_version():
    cues = (Cue(1, 3, "first"), Cue(4, 6, "then more", (Word("then", 4, 4.5),
                                                          Word("more", 5, 6))), Cue(9, 10, "last"))
    ranges = (FrameRange(25, 100), FrameRange(120, 300))  # 1 to 4 s, 4.8 to 12 s at 25 fps
    found = cues_in(cues, ranges, Fraction(25), before_s=2.0)
    assert [(round(cue.start_s, 3), round(cue.end_s, 3), cue.text) for cue in found] == [
        (2.0, 4.0, "first"), (5.0, 6.2, "more"), (9.2, 10.2, "last")]
    sliver = cues_in((Cue(3.9, 8, "a sliver"),), (FrameRange(0, 100),), Fraction(25))
    assert sliver == ()


@given(st.lists(st.tuples(st.floats(0, 50), st.floats(0.4, 4)), min_size=1, max_size=12),
       st.lists(st.integers(0, 1400), min_size=2, max_size=6, unique=True))
def test_cues_of_a_version_lie_within_it_in_order(times, edges):
    at, cues = 0.0, []
    for gap, length in times:
        at += gap
        cues.append(Cue(at, at + length, "some words here"))
        at += length
    marks = sorted(edges)
    ranges = tuple(FrameRange(a, b) for a, b in zip(marks[::2], marks[1::2], strict=False))
    total = sum(len(span) for span in ranges) / 25
    found = cues_in(cues, ranges, Fraction(25))
    assert all(-1e-6 <= cue.start_s < cue.end_s <= total + 1e-6 for cue in found)
    assert all(a.end_s <= b.start_s + 1e-6 for a, b in pairwise(found))


def test_editing_keeps_the_times_of_words_that_stay():
    words = (Word("we", 0, 1), Word("fire", 1, 2), Word("kilns", 2, 3))
    cue = Cue(0, 3, "we fire kilns", words)
    assert with_text(cue, "we fired kilns").words[0] == words[0]
    longer = with_text(cue, "we all fire kilns").words
    assert [word.text for word in longer] == ["we", "all", "fire", "kilns"]
    assert longer[-1] == words[2] and longer[0] == words[0]
    first, second = parted(cue, 4)
    assert (first.text, second.text, first.end_s) == ("we", "fire kilns", 1)
    assert parted(cue, 0) is None


def test_long_captions_come_one_after_the_other_and_short_ones_in_groups():
    text = "We fire the big kiln once a year and the whole quay comes to see what came of it"
    track = set_captions((Cue(0, 8, text),), CaptionLook(), TALL, FILM, Fraction(25), ())
    assert len(track.captions) > 1 and all(len(c.block.lines) <= 2 for c in track.captions)
    assert " ".join(" ".join(c.block.lines) for c in track.captions) == text
    ends = [(c.start, c.end_exclusive) for c in track.captions]
    assert ends[0][0] == 0 and ends[-1][1] == 200
    assert all(a[1] == b[0] for a, b in pairwise(ends))
    groups = set_captions((Cue(0, 8, text),), CaptionLook(manner=CaptionManner.GROUPS), TALL, FILM,
                          Fraction(25), ())
    assert all(len(c.block.lines) == 1 and len(c.block.lines[0].split()) <= 4
               for c in groups.captions)
    assert " ".join(c.block.lines[0] for c in groups.captions) == text


@pytest.mark.parametrize("canvas", [(1080, 1920), (1080, 1080), (1080, 1350), (1920, 1080)])
@pytest.mark.parametrize("manner", list(CaptionManner))
def test_no_line_is_wider_than_the_clear_area(canvas, manner):
    stage = Stage(canvas, ((0.05, 0.88), (0.2, 0.8)), Fraction(25))
    look = CaptionLook(manner=manner)
    texts = ("Tobias says the fire decides.", "Donaudampfschifffahrtsgesellschaftskapitänsmütze",
             "You can only feed it, and wait.", "日本語のテストです。とても長い文です。")
    cues = tuple(Cue(3 * i, 3 * i + 2.5, text) for i, text in enumerate(texts))
    track = set_captions(cues, look, stage, FILM, Fraction(25), ())
    room = 0.83 * canvas[0] / min(canvas)
    assert track.captions
    for caption in track.captions:
        assert caption.block.width * look.style.size <= room + 1e-6, caption.block.lines


def test_words_are_told_apart_as_they_are_said():
    words = (Word("We", 0, 0.4), Word("fire", 0.4, 1.0), Word("kilns", 1.0, 2.0))
    cue = Cue(0, 2, "We fire kilns", words)
    track = set_captions((cue,), CaptionLook(manner=CaptionManner.WORDS), TALL, FILM,
                         Fraction(25), ())
    assert [track.said(track.captions[0], frame).end for frame in (0, 9, 10, 25, 49)] == [
        2, 2, 7, 13, 13]
    typed = set_captions((cue,), CaptionLook(manner=CaptionManner.TYPED), TALL, FILM,
                         Fraction(25), ())
    shown = [typed.said(typed.captions[0], frame).hidden_from for frame in range(50)]
    assert shown == sorted(shown) and shown[0] < 3 and shown[-1] == 13
    assert [word.text for word in timed_words(Cue(0, 1, "a bc"))] == ["a", "bc"]


def test_captions_move_only_with_a_shot():
    low, top = (stand_in(place, TALL.clear) for place in (CaptionPlace.LOW, CaptionPlace.TOP))
    places = ((0, (low,)), (50, (top,)), (100, (top,)))
    track = set_captions((Cue(1, 3, "over a cut"), Cue(4.5, 5, "later")), CaptionLook(), TALL,
                         FILM, Fraction(25), places)
    assert [(c.start, c.end_exclusive, c.stand) for c in track.captions] == [
        (25, 50, low), (50, 75, top), (113, 125, top)]
    assert track.at(49).stand == low and track.at(80) is None
    part = track.part(60, 120)
    assert [(c.start, c.end_exclusive) for c in part.captions] == [(-10, 15), (53, 65)]
