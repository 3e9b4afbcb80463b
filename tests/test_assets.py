"""Picture files in layouts: laid as Pillow lays them, and twenty odd or bad ones."""

import io
from datetime import date

import msgspec
import numpy as np
import pytest
from PIL import Image, ImageDraw
from skimage.metrics import structural_similarity

from caracal.cli.main import main
from caracal.core.base.errors import InputError
from caracal.core.base.resources import DEMO_FILM
from caracal.core.batch.concerns import ConcernKind, concerns_of
from caracal.core.framing.choice import PLAIN
from caracal.core.layout.amounts import inset_of, with_overlay
from caracal.core.layout.files import write_layout
from caracal.core.layout.kinds import fill, stack, whole_plain
from caracal.core.layout.model import Layout, Pane, PictureFile, PlainBackdrop, with_backdrop
from caracal.core.media.planes import Planes
from caracal.core.media.probe import probe
from caracal.core.project.recipe import Recipe
from caracal.core.render.assets.pictures import open_picture, prepared
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import layers_of
from caracal.core.render.preview.screen import hatched
from caracal.core.render.scene import Scene
from caracal.core.specs.sheet_store import find_sheet

CANVAS = (540, 960)
PICTURE = (0.0, 0.0, 320.0, 180.0)


@pytest.fixture(scope="module")
def planes():
    chroma = np.full((90, 160), 128, np.uint8)
    return Planes(np.full((180, 320), 126, np.uint8), chroma, chroma.copy(), (0.0, 0.5))


def logo(path, size=(300, 200)):
    """A disc whose rim is soft, half transparent below."""
    drawn = Image.new("RGBA", size)
    pen = ImageDraw.Draw(drawn)
    pen.ellipse((10, 10, size[0] - 10, size[1] - 10), fill=(210, 60, 40, 255))
    pen.rectangle((0, size[1] // 2, size[0], size[1]), fill=(40, 90, 200, 128))
    drawn.resize(size, Image.Resampling.BICUBIC).save(path)
    return path


def made(layout, planes, missing=None):
    layers = layers_of(layout, CANVAS, [PICTURE], PICTURE, PLAIN)
    return compose_pictures(Scene(CANVAS, layers), planes, missing=missing)


def rgb_of(canvas):
    """Planes back to RGB by the standard's own sums (ITU-R BT.709-6), chroma repeated."""
    y, u, v = (np.asarray(plane, float) for plane in canvas)
    u, v = (np.repeat(np.repeat(plane, 2, 0), 2, 1) for plane in (u, v))
    y, blue, red = (y - 16) / 219, (u - 128) / 224 * 1.8556, (v - 128) / 224 * 1.5748
    r, b = y + red, y + blue
    g = (y - 0.2126 * r - 0.0722 * b) / 0.7152
    return np.clip(np.stack([r, g, b], 2) * 255, 0, 255)


def test_a_picture_with_alpha_is_laid_as_pillow_lays_it(planes, tmp_path):
    path = logo(tmp_path / "logo.png")
    layout = Layout("x", (Pane(PlainBackdrop("#808080")),
                          Pane(PictureFile(str(path), fit=True), ((0.1, 0.9), (0.25, 0.75)))))
    got = rgb_of(made(layout, planes))
    meant = Image.new("RGBA", CANVAS, (128, 128, 128, 255))
    wide = 432  # 0.8 of 540; 288 high, in the middle of the pane
    small = Image.open(path).resize((wide, 288), Image.Resampling.LANCZOS)
    meant.alpha_composite(small, (54, 240 + (480 - 288) // 2))
    meant = np.asarray(meant.convert("RGB"), float)
    luma = [picture @ (0.2126, 0.7152, 0.0722) for picture in (meant, got)]
    assert structural_similarity(*luma, data_range=255) >= 0.98
    inside = np.s_[400:440, 250:290]
    assert np.abs(meant[inside] - got[inside]).max() <= 3
    assert np.abs(got[:200] - 128).max() <= 1  # nothing beyond it


def test_a_picture_fills_a_backdrop(planes, tmp_path):
    path = tmp_path / "wide.png"
    Image.new("RGB", (900, 300), (30, 120, 200)).save(path)
    got = rgb_of(made(with_backdrop(whole_plain(), PictureFile(str(path))), planes))
    assert np.abs(got[:200] - (30, 120, 200)).max() <= 3
    assert np.abs(got[480] - 128).max() <= 2  # the film lies over it, in the middle


ODD = {
    "cmyk.jpg": lambda: Image.new("CMYK", (40, 40), (0, 255, 255, 0)),
    "grey.png": lambda: Image.new("L", (40, 40), 200),
    "bit.png": lambda: Image.new("1", (40, 40), 1),
    "palette.gif": lambda: Image.new("P", (40, 40), 3),
    "sixteen.png": lambda: Image.fromarray(np.full((40, 40), 40000, np.uint16)),
    "tall.webp": lambda: Image.new("RGB", (3, 900), (9, 9, 9)),
    "one.bmp": lambda: Image.new("RGB", (1, 1), (200, 9, 9)),
}


@pytest.mark.parametrize("name", ODD)
def test_odd_pictures_are_taken(tmp_path, name, planes):
    ODD[name]().save(tmp_path / name)
    layout = with_overlay(fill(), PictureFile(str(tmp_path / name)), 1.0, CANVAS)
    assert made(layout, planes)[0].shape == CANVAS[::-1]
    level = np.asarray(open_picture(tmp_path / name))[0, 0]
    if name == "sixteen.png":  # 40000 of 65535
        assert level[0] == pytest.approx(40000 / 65535 * 255, abs=1)
    if name == "cmyk.jpg":
        assert level[0] > 200 and max(level[1:3]) < 60


def test_of_an_animation_the_first_frame_is_used(tmp_path):
    frames = [Image.new("RGB", (30, 30), colour) for colour in ("red", "blue")]
    frames[0].save(tmp_path / "two.gif", save_all=True, append_images=frames[1:], duration=[1, 0])
    assert open_picture(tmp_path / "two.gif").getpixel((5, 5))[:3] == (255, 0, 0)


def _cut_off():
    data = io.BytesIO()
    noise = np.random.default_rng(1).integers(0, 255, (80, 80, 3), np.uint8)
    Image.fromarray(noise).save(data, "PNG")
    return data.getvalue()[:4000]


def _bomb():
    """A PNG that says it has 60000 x 60000 pixels."""
    import struct
    import zlib

    head = b"IHDR" + struct.pack(">IIBBBBB", 60000, 60000, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + head + struct.pack(
        ">I", zlib.crc32(head))


BAD = {
    "cut off.png": (_cut_off, "damaged"),
    "text.png": (lambda: b"a picture", "format of this picture"),
    "empty.png": (lambda: b"", "format of this picture"),
    "bomb.png": (_bomb, "60000x60000|damaged|format of this picture"),
    "script.svg": (lambda: b"<svg xmlns='http://www.w3.org/2000/svg'><script>1</script>"
                   b"<image href='file:///etc/passwd'/></svg>", "script"),
    "list.png": (lambda: b"ffconcat version 1.0\nfile other.png", "format of this picture"),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_pictures_are_told_in_a_sentence(tmp_path, name):
    data, words = BAD[name]
    (tmp_path / name).write_bytes(data())
    with pytest.raises(InputError, match=words) as told:
        open_picture(tmp_path / name)
    assert told.value.file == tmp_path / name and told.value.remedy


def test_missing_large_and_odd_places_are_told(tmp_path, monkeypatch):
    for path in (tmp_path / "none.png", tmp_path):
        with pytest.raises(InputError):
            open_picture(path)
    monkeypatch.setattr("caracal.core.render.assets.pictures.MOST_ASSET_BYTES", 10)
    with pytest.raises(InputError, match="MB"):
        open_picture(logo(tmp_path / "logo.png"))


def test_a_missing_picture_stops_a_version_and_is_a_plate_on_the_screen(planes, tmp_path):
    path = logo(tmp_path / "logo.png")
    layout = with_overlay(fill(), PictureFile(str(path)), 1.5, CANVAS)
    recipe = Recipe(find_sheet("vertical-short"), layout=layout, ranges=())
    master = probe(DEMO_FILM)

    def told():
        return [concern for concern in concerns_of(master, "A", recipe, {}, tmp_path,
                                                   date(2026, 11, 26))
                if concern.kind is ConcernKind.PICTURE_FILE]

    assert not told()
    path.unlink()
    (concern,) = told()
    assert concern.stops and "logo.png" in concern.sentence
    with pytest.raises(InputError, match=r"logo\.png|no such"):
        made(layout, planes)
    plate = made(layout, planes, hatched)[0]
    assert {60, 110} <= set(np.unique(plate[480]).tolist())


def test_a_changed_file_is_read_again(tmp_path):
    path = tmp_path / "logo.png"
    content = PictureFile(str(path))
    Image.new("RGB", (8, 8), (0, 0, 0)).save(path)
    assert prepared(content, (8, 8))[0][0][0, 0] == 16
    Image.new("RGB", (8, 8), (255, 255, 255)).save(path)
    assert prepared(content, (8, 8))[0][0][0, 0] == 235


def test_an_overlay_keeps_its_shape_and_lies_over_any_layout():
    sheet = find_sheet("vertical-short")
    for layout in (fill(), stack(sheet.frame)):
        over = with_overlay(layout, PictureFile("/logo.png"), 2.0, sheet.canvas)
        number = inset_of(over)
        (left, right), (top, bottom) = over.panes[number].region
        assert (right - left) * 1080 / ((bottom - top) * 1920) == pytest.approx(2.0)
        assert right - left == pytest.approx(0.3) and over.panes[:-1] == layout.panes


def test_the_command_line_refuses_before_any_work(tmp_path, capsys):
    layout = with_overlay(fill(), PictureFile(str(tmp_path / "gone.png")), 1.0, (1080, 1920))
    write_layout(tmp_path / "mine.toml", layout)
    assert main(["convert", str(DEMO_FILM), "--spec", "vertical-short", "--out",
                 str(tmp_path / "out"), "--to", "4", "--layout", str(tmp_path / "mine.toml")]) == 2
    assert "gone.png" in capsys.readouterr().err
    assert msgspec.json.decode(msgspec.json.encode(layout), type=Layout) == layout
