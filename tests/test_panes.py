"""Panes with round corners, edges and shadows, and the layouts made of them; drawn with Pillow."""

from itertools import pairwise

import msgspec
import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFilter
from skimage.metrics import structural_similarity

from caracal.core.analysis.model import Track
from caracal.core.base.errors import InputError
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.framing.choice import PLAIN, Finish, ShotChoice
from caracal.core.framing.flags import FlagKind
from caracal.core.framing.motion import Motion
from caracal.core.framing.placing import corners, solved_layout
from caracal.core.framing.shot_solution import solve_shot
from caracal.core.layout.amounts import AMOUNTS
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.kinds import (
    KINDS,
    banner,
    inset,
    kept_words,
    kind_called,
    stack_of_three,
    whole_plain,
)
from caracal.core.layout.model import (
    BlendBackdrop,
    Crop,
    Edge,
    Layout,
    Pane,
    PlainBackdrop,
    Shadow,
    WholePicture,
    target_of,
)
from caracal.core.layout.pane_contents import with_pane_content
from caracal.core.media.planes import Planes
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import layers_of, shown_whole
from caracal.core.render.masks import rounded
from caracal.core.render.scene import Scene
from caracal.core.specs.sheet_store import find_sheet
from test_layouts import CANVASES, PICTURE, SIZE
from test_properties import film

TALL = find_sheet("vertical-short")
GREY = Pane(PlainBackdrop("#808080"))


def levels(red, green, blue):
    """BT.709 in limited range, 8 bits, from the standard's sums (ITU-R BT.709-6, 3.2 to 3.5)."""
    luma = (0.2126 * red + 0.7152 * green + 0.0722 * blue) / 255
    return (16 + 219 * luma, 128 + 224 * (blue / 255 - luma) / 1.8556,
            128 + 224 * (red / 255 - luma) / 1.5748)


@pytest.fixture(scope="module")
def picture():
    """Broad grey shapes, coloured evenly."""
    rng = np.random.default_rng(3)
    rough = Image.fromarray(rng.integers(40, 220, (9, 16), np.uint8).astype(np.uint8))
    luma = np.asarray(rough.resize(SIZE, Image.Resampling.BICUBIC))
    chroma = [np.full((360, 640), level, np.uint8) for level in (110, 140)]
    return luma, Planes(luma, *chroma, (0.0, 0.5))


def made(panes, canvas, planes, windows=(PICTURE,), finish=PLAIN):
    layers = layers_of(Layout("test", tuple(panes)), canvas, list(windows), PICTURE, finish)
    return compose_pictures(Scene(canvas, layers), planes)


def large_mask(size, box, radius, canvas, by=8):
    """A rounded rectangle drawn ``by`` times as large and reduced: Pillow's own antialiasing."""
    width, height = canvas
    drawn = Image.new("L", (width * by, height * by))
    x, y = box
    ImageDraw.Draw(drawn).rounded_rectangle(
        (x * by, y * by, (x + size[0]) * by - 1, (y + size[1]) * by - 1), radius * by, fill=255)
    return np.asarray(drawn.resize(canvas, Image.Resampling.BOX), float) / 255


@pytest.mark.parametrize("canvas", CANVASES.values(), ids=CANVASES)
def test_a_pane_has_round_corners_and_an_edge(canvas, picture):
    luma, planes = picture
    region = ((0.1, 0.6), (0.2, 0.5))
    x, y, wide, high = target_of(region, canvas)
    edge = round(0.01 * min(canvas))
    pane = Pane(Crop(), region, radius=0.2, edge=Edge("#3366cc", edge / min(canvas)))
    window = (200.0, 100.0, 300.0 * wide / high, 300.0)
    got = made([GREY, pane], canvas, planes, [window])
    radius = 0.2 * min(wide, high)
    outer = large_mask((wide, high), (x, y), radius, canvas)
    inner = large_mask((wide - 2 * edge, high - 2 * edge), (x + edge, y + edge),
                       radius - edge, canvas)
    part = Image.fromarray(luma).resize((wide, high), Image.Resampling.BICUBIC, (
        window[0], window[1], window[0] + window[2], window[1] + window[3]))
    meant = np.full(canvas[::-1], levels(128, 128, 128)[0])
    shown = meant.copy()
    shown[y : y + high, x : x + wide] = np.asarray(part, float)
    blue = levels(0x33, 0x66, 0xCC)
    shown = shown * inner + blue[0] * (1 - inner)
    meant = meant * (1 - outer) + shown * outer
    assert structural_similarity(meant, got[0].astype(float), data_range=255) >= 0.98
    assert np.abs(meant - got[0]).max() <= 12  # of 255, in a pixel that a curve runs through
    far = outer < 1e-9
    assert (got[0][far] == round(levels(128, 128, 128)[0])).all()  # nothing beyond the pane
    line = got[1][(y + high // 2) // 2, x // 2 + 1], got[2][(y + high // 2) // 2, x // 2 + 1]
    assert line == (round(blue[1]), round(blue[2]))  # BT.709 levels of the edge's colour
    middle = got[1][(y + high // 2) // 2, (x + edge) // 2 + 2 : (x + wide - edge) // 2 - 2]
    assert (middle == 110).all()  # the picture's own colour, up to the edge


def test_a_circle_is_a_pane_of_equal_sides(picture):
    """A radius of half the side: its area is pi r squared, to a thousandth."""
    mask, chroma = rounded((400, 400), 200.0)
    assert mask.sum() == pytest.approx(np.pi * 200**2, rel=1e-3)
    assert chroma.sum() * 4 == pytest.approx(np.pi * 200**2, rel=2e-3)
    assert mask[200, 200] == 1 and mask[2, 2] == 0


@pytest.mark.parametrize("canvas", CANVASES.values(), ids=CANVASES)
def test_a_shadow_darkens_what_lies_behind(canvas, picture):
    _, planes = picture
    region = ((0.3, 0.7), (0.3, 0.6))
    x, y, wide, high = target_of(region, canvas)
    side = min(canvas)
    shadow = Shadow(softness=20 / side, distance=10 / side, strength=0.6)
    white = Pane(PlainBackdrop("#ffffff"), region, shadow=shadow)
    got = made([GREY, white], canvas, planes)[0]
    drawn = Image.new("L", canvas)
    drawn.paste(255, (x, y + 10, x + wide, y + high + 10))
    soft = np.asarray(drawn.filter(ImageFilter.GaussianBlur(20)), float) / 255
    grey = levels(128, 128, 128)[0]
    meant = 16 + (grey - 16) * (1 - 0.6 * soft)
    meant[y : y + high, x : x + wide] = 235
    assert np.abs(meant - got).max() <= 3
    assert structural_similarity(meant, got.astype(float), data_range=255) >= 0.98


@pytest.mark.parametrize("degrees", [0.0, 90.0, 45.0, 200.0])
def test_two_colours_blend_in_a_direction(degrees, picture):
    """Mixed along the direction, pixel by pixel, in RGB, and then brought to levels."""
    _, planes = picture
    canvas = (540, 960)
    got = made([Pane(BlendBackdrop("#cc8844", "#224466", degrees))], canvas, planes)
    x, y = np.meshgrid(np.arange(540) + 0.5 - 270, np.arange(960) + 0.5 - 480)
    turn = np.radians(degrees)
    along = x * np.cos(turn) + y * np.sin(turn)
    share = 0.5 + along / (540 * abs(np.cos(turn)) + 960 * abs(np.sin(turn)))
    mixed = [a + (b - a) * share for a, b in zip((0xCC, 0x88, 0x44), (0x22, 0x44, 0x66),
                                                 strict=True)]
    meant = levels(*mixed)
    assert np.abs(got[0] - meant[0]).max() <= 1
    for plane, level in zip(got[1:], meant[1:], strict=True):
        beside = level[:, ::2].reshape(480, 2, 270).mean(axis=1)  # H.264 has it left of its pair
        assert np.abs(plane - beside).max() <= 1


def test_a_whole_picture_may_be_enlarged_past_whole(picture):
    canvas = (1080, 1920)
    once, where = shown_whole(WholePicture(), PICTURE, (0, 0, *canvas))
    assert once == PICTURE and where == (0, 656, 1080, 608)
    seen, where = shown_whole(WholePicture(2.0), PICTURE, (0, 0, *canvas))
    assert where == (0, 352, 1080, 1216) and seen == pytest.approx((320, 0, 640, 720))
    aside, _ = shown_whole(WholePicture(2.0, (0.0, 0.5)), PICTURE, (0, 0, *canvas))
    assert aside == pytest.approx((0, 0, 640, 720))
    turned, where = shown_whole(WholePicture(2.0), PICTURE, (0, 0, 1080, 1080), Finish(1))
    assert where == (0, 0, 1080, 1080)
    assert turned[2] / turned[3] == pytest.approx(1.0, rel=0.01)


@pytest.mark.parametrize("canvas", CANVASES.values(), ids=CANVASES)
def test_every_kind_covers_the_canvas_and_its_edges_meet(canvas):
    frame = FramingSpec(Shape.of(*canvas), None, canvas)
    for kind in KINDS:
        layout = kind.make(frame)
        assert not layout_error(layout), kind.name
        covered = np.zeros(canvas[::-1], bool)
        for pane in layout.panes:
            x, y, wide, high = target_of(pane.region, canvas)
            assert x >= 0 and y >= 0 and x + wide <= canvas[0] and y + high <= canvas[1]
            covered[y : y + high, x : x + wide] = True
        assert covered.all(), kind.name


def test_three_panes_are_three_equal_thirds():
    frame = FramingSpec(Shape(9, 16), None, (1080, 1920))
    places = [target_of(pane.region, (1080, 1920)) for pane in stack_of_three(frame).panes]
    assert [place[3] for place in places] == [640, 640, 640]
    assert all(a[1] + a[3] == b[1] for a, b in pairwise(places))


def test_a_banner_lies_in_the_middle_of_the_clear_area():
    frame = FramingSpec(Shape(9, 16), ((0.0, 1.0), (0.1, 0.7)), (1080, 1920))
    _, (top, bottom) = banner(frame).panes[1].region
    assert (top + bottom) / 2 == pytest.approx(0.4)
    assert (bottom - top) * 1920 == pytest.approx(1080)  # a square of the canvas's width


# An inset keeps off what matters

def boxes(x, y, wide, high, frames=60):
    return ((float(x), float(y), float(wide), float(high)),) * frames


def shot_of(*tracks):
    return film(list(tracks), 60)


@pytest.mark.parametrize(("face", "right", "low"), [
    ((1300, 760, 200, 260), False, True),  # low on the right of its window: not there
    ((420, 760, 200, 260), True, True),
])
def test_an_inset_goes_where_it_covers_least(face, right, low):
    """The window lies at the picture's side: the face is on that side of the canvas, and low."""
    x, y, wide, high = face
    analysis = shot_of(Track(1, "face", 0, 1, 0.9, 0, boxes(x, y, wide, high)),
                       Track(2, "person", 0, 1, 0.9, 0, boxes(x - 60, y - 40, wide + 120, 300)))
    sheet = find_sheet("square-feed")
    choice = ShotChoice(layout=inset(sheet.frame))
    layout, (path,) = solved_layout(analysis, 0, sheet, choice)
    (left, end), (top, bottom) = layout.panes[1].region
    size = choice.layout.panes[1].region
    assert end - left == pytest.approx(size[0][1] - size[0][0])
    window = path.window(0)
    place = (window[0] + left * window[2], window[1] + top * window[3],
             window[0] + end * window[2], window[1] + bottom * window[3])
    apart = (place[2] <= x or x + wide <= place[0] or place[3] <= y or y + high <= place[1])
    assert apart, (place, face)


def test_an_inset_stays_where_it_was_put_when_that_is_free():
    analysis = shot_of(Track(1, "face", 0, 1, 0.9, 0, boxes(860, 200, 200, 240)))
    choice = ShotChoice(layout=inset(TALL.frame))
    assert solved_layout(analysis, 0, TALL, choice)[0] == choice.layout


def test_corners_lie_in_the_clear_area():
    region = inset(TALL.frame).panes[1].region
    clear = TALL.clear.part
    for across, down in corners(region, TALL):
        assert clear[0][0] <= across[0] and across[1] <= clear[0][1] + 1e-9
        assert clear[1][0] <= down[0] and down[1] <= clear[1][1] + 1e-9


def test_a_face_under_a_pane_and_a_cover_in_a_pane_are_flagged():
    """A pane put onto the face by hand; and a destination's cover that lies over a lower pane."""
    analysis = shot_of(Track(1, "face", 0, 1, 0.9, 0, boxes(860, 300, 220, 280)))
    over = Pane(PlainBackdrop("#ffffff"), ((0.1, 0.9), (0.1, 0.7)))
    layout = Layout("by hand", (Pane(Crop()), over))
    found = solve_shot(analysis, 0, TALL, ShotChoice(layout=layout), Motion(), {})
    assert FlagKind.COVERED in [flag.kind for flag in found.flags]
    free = msgspec.structs.replace(layout, panes=(layout.panes[0], Pane(
        PlainBackdrop("#ffffff"), ((0.0, 1.0), (0.9, 1.0)))))
    found = solve_shot(analysis, 0, TALL, ShotChoice(layout=free), Motion(), {})
    assert FlagKind.COVERED not in [flag.kind for flag in found.flags]


def test_three_roles_are_three_people(demo):
    """The demo's market shot holds three and more: nobody is shown twice."""
    shot = max(range(len(demo.shots)),
               key=lambda i: len({t.subject for t in demo.tracks_in(i) if t.kind == "person"}))
    choice = ShotChoice(layout=kind_called("stack-of-three").make(TALL.frame))
    solution = solve_shot(demo, shot, TALL, choice, Motion(), {})
    leads = [path.lead for path in solution.panes]
    assert len(set(leads)) == 3 and None not in leads


@pytest.mark.parametrize(("pane", "words"), [
    (Pane(WholePicture(9.0)), "enlarged impossibly"),
    (Pane(Crop(), radius=0.7), "corners or edges"),
    (Pane(Crop(), edge=Edge("white")), "not a colour"),
    (Pane(Crop(), shadow=Shadow(strength=2.0)), "shadow"),
    (Pane(BlendBackdrop("#ffffff", "#12345")), "not a colour"),
    (Pane(Crop(), ((0.2, 0.8), (0.0, 1.0))), "nothing behind"),
])
def test_impossible_panes_are_told(pane, words):
    assert words in layout_error(Layout("x", (pane,)))


def test_names_of_layouts_are_typed_with_dashes():
    assert kind_called("whole-over-lead").name == "whole over lead"
    with pytest.raises(InputError, match="no layout"):
        kind_called("whole over nobody")


def test_sides_of_a_whole_picture_are_cut_off():
    """What is left between the cuts lies in the pane, as large as fits: by arithmetic."""
    whole = WholePicture(cut_left=0.25, cut_right=0.25, cut_top=0.1, cut_bottom=0.0)
    assert whole.cut((0.0, 0.0, 320.0, 180.0)) == pytest.approx((80.0, 18.0, 160.0, 162.0))
    seen, where = shown_whole(whole, whole.cut((0.0, 0.0, 320.0, 180.0)), (0, 0, 320, 324))
    assert seen == pytest.approx((80.0, 18.0, 160.0, 162.0)) and where == (0, 0, 320, 324)
    layout = whole_plain()
    for amount in AMOUNTS:
        if amount.name.startswith("Cut"):
            assert amount.get(layout) == 0.0
            layout = amount.set_to(layout, 0.1)
    cut = layout.panes[1].content
    assert (cut.cut_left, cut.cut_right, cut.cut_top, cut.cut_bottom) == (0.1,) * 4
    words = kept_words(layout, [], (0.0, 0.0, 1920.0, 1080.0), (1080, 1920))
    assert words.startswith("64% of the picture")
    bad = msgspec.structs.replace(cut, cut_left=0.5)
    assert layout_error(with_pane_content(layout, 1, bad))
