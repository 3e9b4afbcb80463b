"""Overlays and fades: as Pillow draws them, when they should be there, and in finished files."""

import av
import msgspec
import numpy as np
import pytest
from PIL import Image, ImageChops, ImageDraw
from skimage.metrics import structural_similarity

from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.convert import convert
from caracal.core.framing.choice import PLAIN, ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.overlay_flags import overlay_flag
from caracal.core.framing.shot_solution import solve_shot
from caracal.core.layout.entrance import Entry
from caracal.core.layout.kinds import fill
from caracal.core.layout.model import EVERYWHERE, Edge, PictureFile
from caracal.core.layout.overlay import (
    BlendMode,
    Overlay,
    Shape,
    ShapeKind,
    first_region,
    overlay_error,
    presence,
)
from caracal.core.media.planes import Planes
from caracal.core.project.model import Fades, Project, Version, veils
from caracal.core.project.overlay_edits import (
    with_fades,
    with_overlay_added,
    with_overlay_changed,
    with_overlay_moved,
    without_overlay,
)
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.render.assets.pictures import refuse_bad_picture
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import layers_of
from caracal.core.render.overlay_layers import overlay_layers
from caracal.core.render.scene import Scene
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.style import Title
from conftest import write_film
from test_assets import rgb_of

CANVASES = {"9:16": (360, 640), "1:1": (480, 480), "4:5": (480, 600), "16:9": (640, 360)}
FRAME = 50
STAYS = {"start": 40, "end_exclusive": 60, "entry": Entry.NONE, "exit": Entry.NONE}


def behind(canvas):
    """A plain film of that size in one colour, and its RGB."""
    luma = np.full(canvas[::-1], 120, np.uint8)
    u, v = (np.full((canvas[1] // 2, canvas[0] // 2), level, np.uint8) for level in (120, 140))
    return Planes(luma, u, v, (0.0, 0.5))


def made(overlays, canvas, frame=FRAME):
    layers = layers_of(fill(), canvas, [(0.0, 0.0, *map(float, canvas))], (0, 0, *canvas), PLAIN)
    scene = Scene(canvas, (*layers, *overlay_layers(overlays, frame, canvas, 25.0)))
    return compose_pictures(scene, behind(canvas))


def _plain(canvas):
    return Image.fromarray(np.rint(rgb_of(made((), canvas))).astype(np.uint8))


def _like(got, meant):
    luma = [np.asarray(picture, float) @ (0.2126, 0.7152, 0.0722) for picture in (got, meant)]
    return structural_similarity(*luma, data_range=255)


@pytest.mark.parametrize("canvas", CANVASES.values(), ids=CANVASES)
@pytest.mark.parametrize("kind", ShapeKind)
def test_shapes_are_drawn_as_pillow_draws_them(kind, canvas):
    width, height = canvas
    region = ((0.25, 0.75), (0.5, 0.75))
    overlay = Overlay(Shape(kind, "#c04020"), region=region, **STAYS)
    got = rgb_of(made((overlay,), canvas))
    times = 8
    mask = Image.new("L", (width * times, height * times))
    pen = ImageDraw.Draw(mask)
    x, end, y, low = (value * times for value in (width / 4, width * 3 / 4, height / 2,
                                                  height * 3 / 4))
    wide, high = end - x, low - y
    match kind:
        case ShapeKind.RECTANGLE:
            pen.rectangle((x, y, end - 1, low - 1), fill=255)
        case ShapeKind.CIRCLE:
            pen.ellipse((x, y, end - 1, low - 1), fill=255)
        case ShapeKind.LINE:
            pen.rounded_rectangle((x, y, end - 1, low - 1), min(wide, high) / 2, fill=255)
        case ShapeKind.ARROW:  # a head as long as it is high, at most 45 % of the whole
            neck, thin = end - min(high, 0.45 * wide), 0.29 * high
            pen.polygon([(x, y + thin), (neck, y + thin), (neck, y), (end, y + high / 2),
                         (neck, low), (neck, low - thin), (x, low - thin)], fill=255)
    mask = mask.resize(canvas, Image.Resampling.BOX)
    meant = Image.composite(Image.new("RGB", canvas, "#c04020"), _plain(canvas), mask)
    assert _like(got, meant) >= 0.98
    middle = got[round(height * 0.625), round(width * 0.4)]
    assert np.abs(middle - (0xC0, 0x40, 0x20)).max() <= 3
    assert np.abs(got[round(height * 0.45)] - np.asarray(_plain(canvas))[0, 0]).max() <= 1


def test_an_outline_lies_inside_and_two_colours_blend():
    canvas = (400, 400)
    shape = Shape(ShapeKind.RECTANGLE, "#000000", "#ffffff", 90.0, Edge("#ff0000", 0.02))
    got = rgb_of(made((Overlay(shape, region=((0.25, 0.75), (0.25, 0.75)), **STAYS),), canvas))
    assert np.abs(got[104, 200] - (255, 0, 0)).max() <= 4  # 8 pixels wide
    column = got[112:288, 200].mean(axis=1)
    assert column[0] < 20 and column[-1] > 235 and (np.diff(column) > -3).all()


@pytest.mark.parametrize("mode", BlendMode)
@pytest.mark.parametrize("opacity", [1.0, 0.4])
def test_colours_are_mixed_as_pillow_mixes_them(mode, opacity):
    """ImageChops' screen, multiply and add are W3C Compositing 9.1's and the plain sum."""
    canvas, colour = (320, 320), (200, 90, 40)
    overlay = Overlay(Shape(colour="#c85a28"), region=((0.25, 0.75), (0.25, 0.75)), blend=mode,
                      opacity=opacity, **STAYS)
    got = rgb_of(made((overlay,), canvas))
    plain = _plain(canvas)
    over = Image.new("RGB", canvas, colour)
    mixed = {BlendMode.NORMAL: lambda: over,
             BlendMode.SCREEN: lambda: ImageChops.screen(plain, over),
             BlendMode.MULTIPLY: lambda: ImageChops.multiply(plain, over),
             BlendMode.ADD: lambda: ImageChops.add(plain, over)}[mode]()
    meant = np.asarray(Image.blend(plain, mixed, opacity), float)
    inside = np.s_[90:230, 90:230]
    assert np.abs(got[inside] - meant[inside]).max() <= 4
    assert np.abs(got[:70] - np.asarray(plain)[:70]).max() <= 1


def test_a_picture_with_alpha_lies_beside_the_edge(tmp_path):
    """Half of it is beyond the canvas: what is left is where it would be."""
    canvas = (320, 320)
    path = tmp_path / "disc.png"
    drawn = Image.new("RGBA", (600, 600))
    ImageDraw.Draw(drawn).ellipse((0, 0, 599, 599), fill=(30, 160, 90, 255))
    drawn.save(path)
    overlay = Overlay(PictureFile(str(path), fit=True), region=((-0.25, 0.25), (0.75, 1.25)),
                      **STAYS)
    got = rgb_of(made((overlay,), canvas))
    meant = _plain(canvas).convert("RGBA")
    small = drawn.resize((160, 160), Image.Resampling.LANCZOS)
    whole = Image.new("RGBA", (480, 480))
    whole.paste(small, (0, 320))
    meant.alpha_composite(whole.crop((80, 80, 400, 400)))
    assert _like(got, meant.convert("RGB")) >= 0.98


@pytest.mark.parametrize("suffix", ["gif", "png", "webp"])
def test_an_animated_picture_moves_by_its_own_times_over_and_over(suffix, tmp_path):
    """Red for 200 ms, green for 100 ms and, as it says 0, 100 ms of blue: common practice."""
    path = tmp_path / f"moving.{suffix}"
    colours = ((220, 30, 30), (30, 220, 30), (30, 30, 220))
    first, *rest = (Image.new("RGB", (40, 40), colour) for colour in colours)
    first.save(path, save_all=True, append_images=rest, duration=[200, 100, 0], loop=0,
               **({"lossless": True} if suffix == "webp" else {}))
    overlay = Overlay(PictureFile(str(path)), region=((0.25, 0.75), (0.25, 0.75)), **STAYS)
    seen = [rgb_of(made((overlay,), (320, 320), 40 + at))[160, 160].argmax() for at in range(20)]
    # 25 frames a second, 400 ms: five of red, then those that begin after 200 and 300 ms.
    assert seen == 2 * [0, 0, 0, 0, 0, 1, 1, 1, 2, 2]


def test_an_animation_that_is_too_large_or_cut_off_is_told(tmp_path, monkeypatch):
    frames = [Image.effect_noise((60, 60), 90 + i) for i in range(8)]
    path = tmp_path / "moving.gif"
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=50)
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(InputError, match="damaged or cut off"):
        refuse_bad_picture(path)
    path.write_bytes(whole)
    monkeypatch.setattr("caracal.core.render.assets.pictures.MOST_PIXELS", 20_000)
    with pytest.raises(InputError, match="8 frames of 60x60"):
        refuse_bad_picture(path)


def test_entries_and_exits_take_the_frames_they_should():
    """Of ten frames: a fade by tenths; the others by 3 t^2 - 2 t^3 (Hermite), on paper."""
    fade = Overlay(Shape(), 100, 150, ((0.2, 0.4), (0.5, 0.6)), opacity=0.8)
    assert presence(fade, 99) is None and presence(fade, 150) is None
    assert [presence(fade, at).opacity for at in (100, 104, 109, 120, 140, 149)] == pytest.approx(
        [0.08, 0.4, 0.8, 0.8, 0.8, 0.08])
    slide = msgspec.structs.replace(fade, entry=Entry.SLIDE, exit=Entry.NONE)
    assert presence(slide, 104).region[1] == pytest.approx((0.75, 0.85))  # half of 0.5 is left
    assert presence(slide, 109).region == presence(slide, 149).region == slide.region
    grow = msgspec.structs.replace(fade, entry=Entry.GROW)
    assert presence(grow, 104).region[0] == pytest.approx((0.25, 0.35))
    wipe = msgspec.structs.replace(fade, entry=Entry.WIPE, exit=Entry.WIPE)
    assert presence(wipe, 104).part == pytest.approx((0, 0.5))
    assert presence(wipe, 145).part == pytest.approx((0.5, 1))
    short = msgspec.structs.replace(fade, end_exclusive=104)
    assert [presence(short, at).opacity for at in range(100, 104)] == pytest.approx(
        [0.4, 0.8, 0.8, 0.4])  # two of its four frames each


def test_a_wipe_shows_its_part():
    canvas = (320, 320)
    overlay = Overlay(Shape(colour="#ffffff"), 40, 80, ((0.25, 0.75), (0.25, 0.75)),
                      entry=Entry.WIPE, moving=20)
    got = made((overlay,), canvas, frame=49)[0]  # half of its way
    assert (got[160, 82:158] == 235).all() and (got[160, 162:238] == 120).all()


def test_fades_are_veils_at_both_ends_and_at_joints():
    made_of = veils(Fades(begin=10, end=8, joint=6, colour="#ffffff"),
                    (FrameRange(100, 200), FrameRange(300, 304)))
    assert [(veil.start, veil.end_exclusive) for veil in made_of] == [
        (100, 110), (197, 200), (300, 303), (300, 304)]
    first = made_of[0]
    assert [presence(first, at).opacity for at in (100, 105, 109)] == pytest.approx([1, 0.5, 0.1])
    last = made_of[-1]
    assert [presence(last, at).opacity for at in (300, 303)] == pytest.approx([0.25, 1])


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    return write_film(tmp_path_factory.mktemp("film") / "film.mp4", frames=50,
                      picture=lambda number, y: np.full_like(y, 150))


def _levels(file, place):
    """The luma of each frame of a file around a place (shares of its picture), by FFmpeg."""
    with av.open(str(file)) as container:
        found = [frame.to_ndarray(format="yuv420p")[: frame.height]
                 for frame in container.decode(video=0)]
    x, y = (round(share * side) for share, side in zip(place, found[0].shape[::-1], strict=True))
    return [float(frame[y - 3 : y + 3, x - 3 : x + 3].mean()) for frame in found]


def test_a_file_has_its_overlay_and_fades_in_just_their_frames(film, tmp_path):
    sheet = with_value(with_value(find_sheet("square-feed"), "canvas", (180, 180)),
                       "duration.least_s", 0.5)
    project = Project((Version("A", sheet.name, ranges=(FrameRange(5, 45),)),), FrameRange(0, 50))
    white = Overlay(Shape(colour="#ffffff"), 20, 30, ((0.25, 0.75), (0.25, 0.75)),
                    entry=Entry.NONE, exit=Entry.NONE)
    project = with_overlay_added(project, "A", white)
    project = with_fades(project, "A", Fades(begin=8, end=4))
    (result,) = convert(film, [recipe_of(project, "A", sheet)], tmp_path)
    assert result.proof.right
    middle, corner = _levels(result.file, (0.5, 0.5)), _levels(result.file, (0.1, 0.1))
    assert len(middle) == 40
    assert [at for at, level in enumerate(middle) if level > 220] == list(range(15, 25))
    fade = [16 + (150 - 16) * at / 8 for at in range(8)]
    assert corner[:8] == pytest.approx(fade, abs=4) and corner[12] == pytest.approx(150, abs=3)
    assert corner[-4:] == pytest.approx([150 - 134 * at / 4 for at in (1, 2, 3, 4)], abs=4)


def test_overlays_are_edited_and_what_cannot_be_is_told():
    project = Project((Version("A", "square-feed"), Version("B", "wide")), FrameRange(0, 50))
    for kind in (ShapeKind.CIRCLE, ShapeKind.ARROW):
        project = with_overlay_added(project, "A", Overlay(Shape(kind), 0, 10))
    project = with_overlay_moved(project, "A", 0, 1)
    assert [overlay.name for overlay in project.version("A").overlays] == ["Arrow", "Circle"]
    project = with_overlay_changed(project, "A", 0, opacity=0.5)
    assert project.version("A").overlays[0].opacity == 0.5
    assert not without_overlay(without_overlay(project, "A", 0), "A", 0).version("A").overlays
    assert not project.version("B").overlays
    for changes, words in (
            ({"end_exclusive": 0}, "ends before"), ({"opacity": 1.5}, "amounts"),
            ({"region": ((0.5, 0.5), (0, 1))}, "canvas"),
            ({"content": Shape(colour="red")}, "not a colour")):
        with pytest.raises(InputError, match=words):
            with_overlay_changed(project, "A", 0, **changes)
    with pytest.raises(InputError, match="negative"):
        with_fades(project, "A", Fades(begin=-1))


def test_a_first_overlay_is_30_percent_wide():
    """Common practice."""
    region = first_region(1.5, (1080, 1920))
    assert region[0] == pytest.approx((0.35, 0.65))
    assert (region[1][1] - region[1][0]) * 1920 == pytest.approx(0.3 * 1080 / 1.5)
    assert overlay_error(Overlay(Shape(), 0, 1, region)) == ""


def test_a_missing_picture_stops_its_version_before_any_work(film, tmp_path):
    gone = Overlay(PictureFile(str(tmp_path / "gone.png")), 0, 10, EVERYWHERE)
    recipe = Recipe(with_value(find_sheet("square-feed"), "duration.least_s", 0.5),
                    overlays=(gone,))
    with pytest.raises(InputError, match=r"gone\.png"):
        convert(film, [recipe], tmp_path / "out")
    assert not list(tmp_path.glob("out/*"))


def test_a_title_over_words_of_the_picture_is_told(demo):
    """The first shot's burnt-in words, where the window has them on the canvas."""
    sheet = find_sheet("square-feed")
    solution = solve_shot(demo, 0, sheet, ShotChoice(), Motion(), {})
    path = solution.path
    line = max(demo.words_in(0), key=lambda word: len(word.boxes))
    frame = line.first_frame + len(line.boxes) // 2
    x, y, wide, high = line.boxes[frame - line.first_frame]
    left, top, across, down = path.window(frame)
    place = (((x - left) / across, (x + wide - left) / across),
             ((y - top) / down, (y + high - top) / down))
    title = Overlay(Title("Kiln Day"), path.start, path.end, place, entry=Entry.NONE,
                    exit=Entry.NONE)
    flag = overlay_flag(demo, 0, solution, (title,))
    assert flag is not None and "covers words in the picture" in flag.sentence
    assert flag.start <= frame < flag.end
    aside = msgspec.structs.replace(title, region=((0.0, 1.0), (0.85, 0.95)))
    assert overlay_flag(demo, 0, solution, (aside,)) is None
    assert overlay_flag(demo, 0, solution, (msgspec.structs.replace(title, hidden=True),)) is None
