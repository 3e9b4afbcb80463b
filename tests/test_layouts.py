"""Layouts against pictures drawn by another library, with the sizes worked out here."""

import msgspec
import numpy as np
import pytest
from PIL import Image, ImageFilter
from skimage.metrics import structural_similarity

from caracal.core.base.errors import InputError
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.framing.choice import PLAIN, Finish, ShotChoice, Swap
from caracal.core.framing.layout_suggestion import suggested_layout
from caracal.core.framing.lead import subjects
from caracal.core.framing.motion import Motion
from caracal.core.framing.shot_solution import solve_shot
from caracal.core.layout.amounts import inset_of
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.kinds import KINDS, kind_called, whole_plain, whole_soft
from caracal.core.layout.model import (
    FILL,
    Layout,
    Pane,
    PlainBackdrop,
    SoftBackdrop,
    WholePicture,
    target_of,
)
from caracal.core.layout.pane_splits import gap_of, split_of, with_gap, with_split
from caracal.core.media.bt709 import levels
from caracal.core.media.planes import Planes
from caracal.core.project.edits import with_layout
from caracal.core.project.model import first_project
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import layers_of
from caracal.core.render.painters.backdrops import plain, soft
from caracal.core.render.scene import Scene
from caracal.core.specs.sheet_store import find_sheet

CANVASES = {"9:16": (1080, 1920), "1:1": (1080, 1080), "4:5": (1080, 1350), "16:9": (1920, 1080)}
SIZE = (1280, 720)
PICTURE = (0.0, 0.0, 1280.0, 720.0)
WINDOW = (400.0, 0.0, 405.0, 720.0)
FRAME = FramingSpec(Shape(9, 16), None, (1080, 1920))


@pytest.fixture(scope="module")
def grey():
    """A picture of soft shapes (h, w), and its planes; without colour, so that RGB is luma."""
    x, y = np.meshgrid(np.arange(SIZE[0]), np.arange(SIZE[1]))
    luma = 120 + 60 * np.sin(x / 37) * np.cos(y / 23) + 30 * ((x // 90 + y // 70) % 2)
    luma = np.clip(luma, 16, 235).astype(np.uint8)
    half = np.full((SIZE[1] // 2, SIZE[0] // 2), 128, np.uint8)
    return luma, Planes(luma, half, half.copy())


def _made(layout, canvas, planes, finish=PLAIN):
    return compose_pictures(
        Scene(canvas, layers_of(layout, canvas, [WINDOW], PICTURE, finish)), planes)


def _whole_in(canvas):
    """Where a 16:9 picture lies in the middle of a canvas: (x, y, width, height)."""
    width, height = canvas
    if width * 9 <= height * 16:
        high = 2 * round(width * 9 / 16 / 2)
        return 0, (height - high) // 4 * 2, width, high
    wide = 2 * round(height * 16 / 9 / 2)
    return (width - wide) // 4 * 2, 0, wide, height


@pytest.mark.parametrize("canvas", CANVASES.values(), ids=CANVASES)
def test_the_whole_picture_lies_on_one_colour(canvas, grey):
    """Levels of #336699: Y = 0.2126 R + 0.7152 G + 0.0722 B (ITU-R BT.709-6, 3.2 to 3.5)."""
    luma, planes = grey
    y, u, v = _made(whole_plain(PlainBackdrop("#336699")), canvas, planes)
    bright = (0.2126 * 0x33 + 0.7152 * 0x66 + 0.0722 * 0x99) / 255
    blue, red = (0x99 / 255 - bright) / 1.8556, (0x33 / 255 - bright) / 1.5748
    meant = Image.new("L", canvas, round(16 + 219 * bright))
    left, top, wide, high = _whole_in(canvas)
    meant.paste(Image.fromarray(luma).resize((wide, high), Image.Resampling.LANCZOS), (left, top))
    meant = np.asarray(meant)
    assert structural_similarity(meant, y, data_range=255) >= 0.98
    inside = np.zeros(meant.shape, bool)
    inside[top : top + high, left : left + wide] = True
    if canvas != CANVASES["16:9"]:
        assert (y[~inside] == round(16 + 219 * bright)).all()  # edges exact to the pixel
        outside = ~inside[::2, ::2]
        assert (np.abs(u[outside].astype(int) - (128 + 224 * blue)) <= 1).all()
        assert (np.abs(v[outside].astype(int) - (128 + 224 * red)) <= 1).all()
    assert (u[inside[::2, ::2]] == 128).all() and (v[inside[::2, ::2]] == 128).all()


@pytest.mark.parametrize("canvas", CANVASES.values(), ids=CANVASES)
def test_the_whole_picture_lies_on_a_soft_copy(canvas, grey):
    luma, planes = grey
    backdrop = SoftBackdrop(blur=0.04, dim=0.5)
    y, u, v = _made(whole_soft(backdrop), canvas, planes)
    width, height = canvas
    wide = min(SIZE[0], SIZE[1] * width / height)
    high = wide * height / width
    box = ((SIZE[0] - wide) / 2, (SIZE[1] - high) / 2, (SIZE[0] + wide) / 2, (SIZE[1] + high) / 2)
    copy = Image.fromarray(luma).resize(canvas, Image.Resampling.BICUBIC, box)
    copy = np.asarray(copy.filter(ImageFilter.GaussianBlur(0.04 * max(canvas))), float)
    meant = Image.fromarray(np.rint(16 + (copy - 16) * 0.5).astype(np.uint8))
    left, top, inner_w, inner_h = _whole_in(canvas)
    meant.paste(Image.fromarray(luma).resize((inner_w, inner_h), Image.Resampling.LANCZOS),
                (left, top))
    meant = np.asarray(meant)
    assert structural_similarity(meant, y, data_range=255) >= 0.98
    assert np.abs(meant.astype(int) - y).mean() < 2.5
    assert np.abs(u.astype(int) - 128).max() <= 1 and np.abs(v.astype(int) - 128).max() <= 1


def test_a_soft_copy_is_the_same_on_a_screen_and_has_no_steps(grey):
    _, planes = grey
    window = (437.5, 0.0, 405.0, 720.0)
    large = soft(planes, window, (1080, 1920), SoftBackdrop(), PLAIN)[0]
    small = soft(planes, window, (142, 252), SoftBackdrop(), PLAIN)[0]
    reduced = np.asarray(Image.fromarray(large).resize((142, 252), Image.Resampling.BOX))
    assert np.abs(reduced.astype(int) - small).max() <= 3
    rows = [len(set(row.tolist())) for row in large[::200]]
    assert max(np.diff(np.flatnonzero(np.diff(large[900].astype(int)))).max(), 0) < 40, rows


def test_turned_pictures_are_whole_as_they_stand(grey):
    luma, planes = grey
    y, _, _ = _made(whole_plain(), (1080, 1920), planes, Finish(1))
    # Turned, it is 9:16, as the canvas is: nothing of the backdrop is left.
    meant = Image.fromarray(np.ascontiguousarray(np.rot90(luma, -1))).resize((1080, 1920))
    assert structural_similarity(np.asarray(meant), y, data_range=255) >= 0.98


def test_what_is_laid_over_a_picture_changes_no_other(grey):
    """The master's own planes, and kept colours, are never painted on."""
    luma, planes = grey
    before = luma.copy()
    inset = Layout("inset", (*FILL.panes, Pane(PlainBackdrop("#ffffff"), ((0.5, 1), (0.5, 1)))))
    exact = (0.0, 0.0, 1280.0, 720.0)  # a window that needs no sampling: a view of the master
    scene = Scene(SIZE, layers_of(inset, SIZE, [exact], PICTURE, PLAIN))
    y, _, _ = compose_pictures(scene, planes)
    assert (y[360:, 640:] == 235).all() and (y[:360] == luma[:360]).all()
    assert (luma == before).all()
    compose_pictures(Scene((64, 64), layers_of(
        Layout("two", (Pane(PlainBackdrop("#000000")),
                       Pane(PlainBackdrop("#ffffff"), ((0, 0.5), (0, 1))))),
        (64, 64), [exact], PICTURE, PLAIN)), planes)
    assert (plain((0, 0, 0), (64, 64))[0] == 16).all()


def test_grey_levels_by_the_standard():
    """White is (235, 128, 128), black (16, 128, 128), red (63, 102, 240): BT.709-6 table 4."""
    assert levels((255, 255, 255)) == (235, 128, 128) and levels((0, 0, 0)) == (16, 128, 128)
    assert levels((255, 0, 0)) == (63, 102, 240)


def test_regions_have_even_edges_that_meet():
    upper, lower = (target_of(((0, 1), edges), (1080, 1350)) for edges in ((0, 0.333), (0.333, 1)))
    assert upper[1] + upper[3] == lower[1] and lower[1] + lower[3] == 1350
    assert all(value % 2 == 0 for value in (*upper, *lower))


def test_layouts_are_called_by_their_names():
    assert [kind.make(FRAME).kind for kind in KINDS] == [kind.name for kind in KINDS]
    assert kind_called("Whole-Soft").make(FRAME) == whole_soft()
    assert kind_called("fill").make(FRAME) is FILL
    with pytest.raises(InputError, match="no layout called “collage”") as told:
        kind_called("collage")
    assert "whole-soft" in told.value.remedy


@pytest.mark.parametrize(("layout", "words"), [
    (Layout("none", ()), "1 to 12 panes"),
    (Layout("x", (Pane(WholePicture(), ((0.5, 1.2), (0, 1))),)), "outside the canvas"),
    (Layout("x", (Pane(PlainBackdrop("reddish")),)), "not a colour"),
    (Layout("x", (Pane(SoftBackdrop(dim=3.0)),)), "impossible amounts"),
])
def test_impossible_layouts_are_refused(layout, words):
    assert words in layout_error(layout)
    with pytest.raises(InputError, match="not valid"):
        with_layout(first_project(100), "A", 0, layout)


def test_a_layout_survives_a_file():
    data = msgspec.json.encode(whole_soft(SoftBackdrop(0.1, 0.2)))
    assert msgspec.json.decode(data, type=Layout) == whole_soft(SoftBackdrop(0.1, 0.2))


@pytest.mark.parametrize("canvas", CANVASES.values(), ids=CANVASES)
def test_a_stack_has_two_halves_without_a_seam(canvas, grey):
    """Above each other on a tall canvas, else beside each other, each from a window of its shape.
    """
    luma, planes = grey
    beside = canvas[0] >= canvas[1]
    size = (canvas[0] // 2, canvas[1]) if beside else (canvas[0], 2 * round(canvas[1] / 4))
    high = 400.0
    windows = [(100.0, 50.0, high * size[0] / size[1], high),
               (300.0, 200.0, high * size[0] / size[1], high)]
    layout = kind_called("stack").make(FramingSpec(Shape.of(*canvas), None, canvas))
    y, _, _ = _made_of(layout, canvas, planes, windows)
    meant = Image.new("L", canvas)
    for number, (x, top, wide, tall) in enumerate(windows):
        part = Image.fromarray(luma).resize(size, Image.Resampling.BICUBIC,
                                            (x, top, x + wide, top + tall))
        meant.paste(part, (number * size[0], 0) if beside else (0, number * size[1]))
    assert structural_similarity(np.asarray(meant), y, data_range=255) >= 0.98


def test_panes_keep_their_sizes_beside_each_other_when_a_gap_parts_them(grey):
    """On paper: 5 % of 1920 lines are 96; the rest is shared as before, at even lines. The colour
    between is #ffffff, 235 (ITU-R BT.709-6, 3.5)."""
    canvas = (1080, 1920)
    frame = FramingSpec(Shape.of(*canvas), None, canvas)
    two = with_gap(kind_called("stack").make(frame), 0.05)
    assert [target_of(pane.region, canvas) for pane in two.panes] == [
        (0, 0, 1080, 1920), (0, 0, 1080, 912), (0, 1008, 1080, 912)]
    assert inset_of(two) is None and not layout_error(two)
    white = msgspec.structs.replace(two, panes=(Pane(PlainBackdrop("#ffffff")), *two.panes[1:]))
    y, _, _ = _made_of(white, canvas, grey[1], [(100.0, 50.0, 450.0, 380.0)] * 2)
    assert (y[914:1006] == 235).all() and y[:908].max() < 236 and y[:908].std() > 10
    three = with_gap(kind_called("stack-of-three").make(frame), 0.05)
    lengths = [pane.region[1][1] - pane.region[1][0] for pane in three.panes[1:]]
    assert lengths == pytest.approx([0.3] * 3) and gap_of(three) == pytest.approx(0.05)
    moved = with_split(two, 0.4)
    assert split_of(moved) == pytest.approx(0.4) and gap_of(moved) == pytest.approx(0.05)
    assert [target_of(pane.region, canvas)[3] for pane in moved.panes[1:]] == [720, 1104]
    closed = with_gap(two, 0.0)
    assert [pane.region for pane in closed.panes[1:]] == [
        pane.region for pane in kind_called("stack").make(frame).panes]
    assert with_gap(FILL, 0.05) == FILL and split_of(three) is None


def _made_of(layout, canvas, planes, windows):
    return compose_pictures(
        Scene(canvas, layers_of(layout, canvas, windows, PICTURE, PLAIN)), planes)


def test_each_half_of_a_stack_follows_one_of_two_talkers(demo):
    """Each face is whole in its own half, in every frame it was found in."""
    shot = 5
    sheet = find_sheet("vertical-short")
    choice = ShotChoice(layout=kind_called("stack").make(sheet.frame))
    solution = solve_shot(demo, shot, sheet, choice, Motion(), {})
    first, second = solution.panes
    assert first.lead is not None and second.lead is not None and first.lead != second.lead
    assert first.windows[0][2] / first.windows[0][3] == pytest.approx(1080 / 960, rel=1e-3)
    faces = {subject.id: subject.face for subject in subjects(demo, shot)}
    for path in (first, second):
        face = faces[path.lead]
        for i, box in enumerate(face.boxes):
            x, y, w, h = path.window(face.first_frame + i)
            assert x <= box[0] and box[0] + box[2] <= x + w, (path.lead, i)
            assert y <= box[1] and box[1] + box[3] <= y + h
    assert not solution.left_out and "Two halves" in solution.why


def test_swaps_bring_nobody_into_both_halves(demo):
    sheet = find_sheet("vertical-short")
    layout = kind_called("stack").make(sheet.frame)
    found, people = demo.shots[5], subjects(demo, 5)
    swaps = (Swap(found.start + 40, people[1].id),)
    choice = ShotChoice(lead=people[0].id, swaps=swaps, layout=layout)
    first, second = solve_shot(demo, 5, sheet, choice, Motion(), {}).panes
    assert [lead for _, lead in first.leads] == [people[0].id]
    assert [lead for _, lead in second.leads] == [people[1].id]


@pytest.mark.parametrize("kind", ["inset", "whole-over-lead"])
def test_where_only_the_lead_has_a_pane_the_window_swaps_as_it_does_alone(demo, kind):
    sheet, found, people = find_sheet("vertical-short"), demo.shots[5], subjects(demo, 5)
    swaps = (Swap(found.start + 40, people[1].id),)
    layout = kind_called(kind).make(sheet.frame)
    choice = ShotChoice(lead=people[0].id, swaps=swaps, layout=layout)
    (path,) = solve_shot(demo, 5, sheet, choice, Motion(), {}).panes
    assert [lead for _, lead in path.leads] == [people[0].id, people[1].id]


def test_two_leads_who_do_not_both_fit_are_offered_a_half_each(demo):
    sheet = find_sheet("vertical-short")
    plain_one = solve_shot(demo, 5, sheet, ShotChoice(), Motion(), {})
    assert len(plain_one.left_out) == 2
    assert suggested_layout(FILL, plain_one.flags, plain_one.left_out).name == "stack"
    title = solve_shot(demo, 0, sheet, ShotChoice(), Motion(), {})
    assert suggested_layout(FILL, title.flags, title.left_out).name == "whole, soft"
    assert suggested_layout(whole_soft(), title.flags, title.left_out) is None


def test_the_least_change_that_helps_is_offered(demo):
    """By eye: three who stand together fit a banner, two at either side and a long title do not;
    the words of the end are 1,000 pixels wide."""
    sheet = find_sheet("vertical-short")
    for shot, name in ((14, "banner"), (15, "banner"), (5, "stack"), (0, "whole, soft")):
        found = solve_shot(demo, shot, sheet, ShotChoice(), Motion(), {})
        offered = suggested_layout(FILL, found.flags, found.left_out, found.fits_banner)
        assert offered.name == name, shot
        layout = offered.make(sheet.frame)
        other = solve_shot(demo, shot, sheet, ShotChoice(layout=layout), Motion(), {})
        assert not [flag for flag in other.flags if flag.severity >= 0.05], shot
    alone = solve_shot(demo, 3, sheet, ShotChoice(), Motion(), {})
    assert suggested_layout(FILL, alone.flags, alone.left_out, alone.fits_banner) is None
