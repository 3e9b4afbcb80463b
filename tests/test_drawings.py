"""Drawings in SVG: drawn as Pillow draws the same, and what would reach outside is refused."""

import os
import resource
import signal

import numpy as np
import pytest
from PIL import Image, ImageDraw
from skimage.metrics import structural_similarity

from caracal.core.base.errors import CaracalError, InputError
from caracal.core.layout.model import PictureFile
from caracal.core.processes.apart import Call
from caracal.core.render.assets import checks as asset_checks
from caracal.core.render.assets import picture_checks
from caracal.core.render.assets.picture_checks import picture_ratio_apart
from caracal.core.render.assets.pictures import (
    open_picture,
    picture_ratio,
    prepared,
    refuse_bad_picture,
)

HEAD = "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 200 100'>"


@pytest.fixture
def drawing(tmp_path):
    path = tmp_path / "mark.svg"
    path.write_text(f"{HEAD}<rect width='100' height='100' fill='#c04020'/>"
                    "<circle cx='150' cy='50' r='40' fill='#3070b0' fill-opacity='0.5'/></svg>")
    return path


def test_a_drawing_is_drawn_as_pillow_draws_it(drawing):
    found = open_picture(drawing)
    assert found.size == (2048, 1024)
    small = np.asarray(found.resize((400, 200), Image.Resampling.BOX).convert("RGBA"), float)
    meant = Image.new("RGBA", (1600, 800))
    pen = ImageDraw.Draw(meant)
    pen.rectangle((0, 0, 799, 799), fill="#c04020")
    pen.ellipse((880, 80, 1519, 719), fill=(0x30, 0x70, 0xB0, 128))
    meant = np.asarray(meant.resize((400, 200), Image.Resampling.BOX), float)
    assert structural_similarity(small[..., 3], meant[..., 3], data_range=255) >= 0.98
    assert np.abs(small[100, 50] - (0xC0, 0x40, 0x20, 255)).max() <= 1
    assert np.abs(small[100, 300] - (0x30, 0x70, 0xB0, 128)).max() <= 1


@pytest.mark.parametrize("wide", [90, 400, 900])
def test_a_small_one_is_as_if_drawn_large_and_made_small(drawing, wide):
    """It is drawn smaller, which takes a fraction of the time: nobody sees that."""
    (luma, *_), masks, size = prepared(PictureFile(str(drawing), fit=True), (wide, wide), 0.0)
    large = open_picture(drawing).convert("RGBa").resize(size, Image.Resampling.LANCZOS)
    meant = np.asarray(large.convert("RGBA"), float)
    assert size == (wide, wide // 4 * 2)
    assert np.abs(masks[0] * 255 - meant[..., 3]).max() <= 6
    seen = meant[..., 3] > 128
    red, green, blue = (meant[..., band][seen] for band in range(3))
    grey = 16 + (0.2126 * red + 0.7152 * green + 0.0722 * blue) * 219 / 255  # ITU-R BT.709-6, 3.2
    assert np.abs(luma[seen] - grey).max() <= 4


def test_it_is_sharp_at_every_size(drawing):
    (luma, _, _), masks, size = prepared(PictureFile(str(drawing), fit=True), (400, 400), 0.0)
    assert size == (400, 200) and luma.shape == (200, 400)
    assert masks[0][100, 100] == 1 and masks[0][100, 300] == pytest.approx(0.5, abs=0.01)
    assert masks[0][5, 395] == 0
    edge = masks[0][:, 195:205]  # the rectangle ends in one pixel
    assert (edge[:, :4] > 0.98).all() and (edge[:, 6:] < 0.02).all()


@pytest.mark.parametrize(("inside", "words"), [
    ("<image href='file:///etc/passwd' width='9' height='9'/>", "another file or address"),
    ("<image xmlns:x='http://www.w3.org/1999/xlink' x:href='mark.png'/>", "another file"),
    ("<image href='https://example.org/a.png'/>", "another file or address"),
    ("<rect width='9' height='9' fill='url(other.svg#a)'/>", "another file"),
    ("<style>@import 'a.css';</style>", "another file"),
    ("<use href='other.svg#a'/>", "another file"), ("<script>1</script>", "script"),
    ("<rect width='9' height='9' onclick='a()'/>", "script"), ("<text>Kiln</text>", "words"),
    ("<foreignObject><p/></foreignObject>", "script or a page"), ("<rect", "damaged"),
])
def test_what_reaches_outside_is_refused_in_a_sentence(tmp_path, inside, words):
    path = tmp_path / "odd.svg"
    path.write_text(f"{HEAD}{inside}</svg>")
    with pytest.raises(InputError, match=words) as told:
        refuse_bad_picture(path)
    assert told.value.file == path and told.value.remedy


@pytest.mark.parametrize("data", [
    b"", b"\xff\xfe", b"<svg xmlns='http://www.w3.org/2000/svg'/>", b"<html></html>",
    b"<!DOCTYPE svg [<!ENTITY a 'b'>]><svg xmlns='http://www.w3.org/2000/svg'/>",
    HEAD.encode() + b"<g>" * 3000 + b"</g>" * 3000 + b"</svg>"])
def test_odd_drawings_end_in_a_sentence_or_a_picture(tmp_path, data):
    path = tmp_path / "odd.svg"
    path.write_bytes(data)
    try:
        assert open_picture(path).mode == "RGBA"
    except InputError as told:
        assert told.file == path and told.remedy


def test_a_huge_drawing_is_told(tmp_path, monkeypatch, drawing):
    monkeypatch.setattr("caracal.core.render.assets.svg.MOST_DRAWING_BYTES", 10)
    with pytest.raises(InputError, match="MB"):
        open_picture(drawing)


def test_what_is_drawn_in_it_may_refer_to_itself(tmp_path):
    path = tmp_path / "own.svg"
    path.write_text(
        f"{HEAD}<defs><linearGradient id='a'><stop offset='0' stop-color='#fff'/>"
        "<stop offset='1' stop-color='#000'/></linearGradient></defs>"
        "<rect id='b' width='200' height='100' fill='url(#a)'/><use href='#b'/></svg>")
    row = np.asarray(open_picture(path).convert("L"), float)[500]
    assert row[0] > 250 and row[-1] < 5 and (np.diff(row) <= 0).all()


SVG = "<svg xmlns='http://www.w3.org/2000/svg' {}><rect width='5' height='5'/>{}</svg>"
BOMB = "<defs><g id='a0'><rect width='1' height='1'/></g>" + "".join(
    f"<g id='a{i}'>" + f"<use href='#a{i - 1}'/>" * 40 + "</g>" for i in range(1, 7)
) + "</defs><use href='#a6'/>"


@pytest.mark.parametrize(("head", "inside"), [
    ("width='1' height='999999999' viewBox='0 0 9 1'", ""),  # 1.6 TB by the canvas's rule
    ("width='1e9' height='1' viewBox='0 0 1 1'", ""), ("viewBox='0 0 1e-30 1e30'", ""),
    ("width='99999999999999999999' height='1'", ""), ("viewBox='0 0 10 10'", BOMB),
    ("viewBox='0 0 10 10'", "<filter id='f' x='-9e9' y='-9e9' width='2e10' height='2e10'>"
     "<feGaussianBlur stdDeviation='9e9'/></filter><rect filter='url(#f)' width='9' height='9'/>"),
    ("viewBox='0 0 10 10'", "<pattern id='p' width='1e-7' height='1e-7'><rect width='1'/>"
     "</pattern><rect fill='url(#p)' width='10' height='10'/>"),
])
def test_a_drawing_that_asks_for_too_much_ends_no_process_of_ours(tmp_path, head, inside):
    """It is drawn no larger than any other, or refused; memory and time are bounded apart."""
    path = tmp_path / "huge.svg"
    path.write_text(SVG.format(head, inside))
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    try:
        made = open_picture(path)
    except InputError as told:
        assert told.file == path and told.remedy
    else:
        assert max(made.size) <= 2048
        assert 1 / 2048 <= picture_ratio(path) <= 2048
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 200_000  # kB


@pytest.mark.parametrize(("head", "ratio"), [
    ("width='210mm' height='297mm' viewBox='0 0 21 297'", 210 / 297),  # ISO 216, A4
    ("width='1in' height='72pt'", 1.0), ("width='2.54cm' height='6pc'", 1.0),
    ("width='100' height='50' viewBox='0 0 10 20'", 2.0), ("viewBox='0 0 1000 7'", 1000 / 7),
    ("width='50%' viewBox='0 0 10 20'", 0.5), ("viewBox='0,0,30,10'", 3.0)])
def test_a_drawing_has_the_sides_that_it_is_drawn_with(tmp_path, head, ratio):
    """CSS Values and Units 3, 6.2: an inch is 96 pixels, 2.54 cm, 72 points, 6 picas."""
    path = tmp_path / "mine.svg"
    path.write_text(SVG.format(head, ""))
    assert picture_ratio(path) == pytest.approx(ratio)
    made = open_picture(path)
    assert max(made.size) == 2048
    assert min(made.size) == pytest.approx(2048 * min(ratio, 1 / ratio), abs=1)


def test_a_picture_is_looked_at_by_a_process_apart_and_is_blamed_for_what_it_does(
    tmp_path
):

    Image.new("RGB", (40, 20), (9, 9, 9)).save(tmp_path / "a.png")
    assert picture_ratio_apart(tmp_path / "a.png") == 2.0
    (tmp_path / "b.png").write_bytes(b"none")
    for _ in range(2):  # what was found is known by then
        with pytest.raises(InputError, match=r"b\.png.*picture"):
            picture_ratio_apart(tmp_path / "b.png")
    with pytest.raises(InputError, match=r"c\.png: The process that read this picture crashed"):
        picture_checks._apart(Call(crash, ()), tmp_path / "c.png", None)


def test_a_check_that_fails_unexpectedly_is_not_repeated(tmp_path, monkeypatch):
    """Batch would wait for its result, and check the file again and again."""
    Image.new("RGB", (40, 20), (9, 9, 9)).save(tmp_path / "d.png")

    def fails(*_):
        raise RuntimeError("unexpected")

    monkeypatch.setattr(picture_checks, "_apart", fails)
    content = PictureFile(str(tmp_path / "d.png"))
    assert not asset_checks.is_checked(content)
    for _ in range(2):
        with pytest.raises(CaracalError, match="unexpected"):
            asset_checks.refuse_bad_asset(content)
    assert asset_checks.is_checked(content)
    long = PictureFile(str(tmp_path / ("x" * 300 + ".png")))
    assert not asset_checks.is_checked(long)  # asked in the interface's thread: it must not raise


def crash():
    os.kill(os.getpid(), signal.SIGSEGV)
