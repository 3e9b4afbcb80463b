"""What is seen is what is made: pictures of the preview beside those of finished files."""

import dataclasses

import av
import msgspec
import numpy as np
import pytest
from PIL import Image
from skimage.metrics import structural_similarity

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.detectors.downscale import proxy_size
from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.convert import convert
from caracal.core.framing.choice import Finish
from caracal.core.layout.kinds import KINDS, stack
from caracal.core.layout.model import PictureFile, Still
from caracal.core.layout.overlay import BlendMode, Overlay, Shape, ShapeKind
from caracal.core.layout.pane_contents import with_pane_content
from caracal.core.layout.shipped_assets import moving_backdrop
from caracal.core.processes.shared_memory import SharedMemory
from caracal.core.project.edits import with_finish, with_layout
from caracal.core.project.overlay_edits import with_overlay_added
from caracal.core.project.recipe import recipe_of
from caracal.core.render.preview.master_pictures import MasterPictures
from caracal.core.render.preview.process import PreviewProcess, PreviewRequest, PreviewSource
from caracal.core.render.preview.screen import to_screen
from caracal.core.render.scene import plain_scene
from caracal.core.specs.fields import with_value
from caracal.ui.session.session import Session
from conftest import DEMO, settled

FINISHES = (Finish(), Finish(sharpen=1.0), Finish(straighten=7.0), Finish(quarter_turns=1),
            Finish(3, -4.0, 0.6))
WIDE = 142  # pixels of a canvas in Aim at 1280x800
LEAST_SSIM = 0.98
LENGTH = 2  # frames of each shot


@pytest.fixture
def session(qapp, demo):
    made = Session(demo)
    for letter in _letters(made):  # a few frames are enough here
        sheet = made.sheet(letter)
        made.sheets.by_name[sheet.name] = with_value(sheet, "duration.least_s", 0.01)
    yield made
    made.close()


def _pictures(path):
    """Every picture of a file as RGB (h, w, 3), by FFmpeg's own conversion."""
    with av.open(str(path)) as container:
        return [picture.to_ndarray(format="rgb24", src_colorspace="ITU709", dst_colorspace="ITU709")
                for picture in container.decode(video=0)]


def _seen(session, letter, frame, canvas, qtbot):
    later = session.preview.later
    qtbot.waitUntil(lambda: later(letter, frame, canvas) is not None, timeout=10_000)
    image = later(letter, frame, canvas)
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(canvas[1], -1, 4)
    return pixels[:, : canvas[0], 2::-1]  # blue, green, red: the other way round


@pytest.mark.parametrize("wide", [76, 142, 148, 150, 242, 660])
def test_every_column_of_a_picture_is_there(wide):
    """The colour by ITU-R BT.709-6, 3.2 to 3.5: luma (126 - 16) / 219 without any chroma is grey.
    """
    luma, chroma = np.full((20, wide), 126, np.uint8), np.full((10, wide // 2), 128, np.uint8)
    pixels = to_screen((luma, chroma, chroma))
    grey = round((126 - 16) / 219 * 255)
    assert pixels.shape == (20, wide, 4)
    assert (abs(pixels[..., :3].astype(int) - grey) <= 1).all()


def test_the_preview_shows_what_the_file_has(session, qtbot, tmp_path):
    """Every finish, in a shape each in turn, at the size of a canvas on the screen.

    SSIM of luminance with the window of Wang et al. 2004, computed by scikit-image.
    """
    project = session.project
    for letter in _letters(session):
        for shot, finish in enumerate(FINISHES):
            project = with_finish(project, letter, shot, finish)
    session.edit(project, "finishes")
    _compare(session, range(len(FINISHES)), qtbot, tmp_path)


def test_the_preview_shows_layouts_as_the_file_has_them(session, qtbot, tmp_path):
    """Every layout beside fill, in a shape each in turn."""
    project, shots = session.project, (0, 2, 8, 5, 9, 4, 3, 11)
    for letter in _letters(session):
        for shot, kind in zip(shots, KINDS[1:], strict=True):
            project = with_layout(project, letter, shot, kind.make(session.sheet(letter).frame))
        # And a stack that shows a still and a clip, which goes by the film's time.
        panes = stack(session.sheet(letter).frame)
        for number, content in enumerate((Still(str(DEMO), 30.0), moving_backdrop("Embers"))):
            panes = with_pane_content(panes, number, content)
        project = with_layout(project, letter, 1, panes)
    session.edit(project, "layouts")
    _compare(session, (*shots, 1), qtbot, tmp_path)


def test_the_preview_shows_overlays_as_the_file_has_them(session, qtbot, tmp_path):
    """Every shape and mode, and a picture, in a shape of a version each in turn."""
    project, shots = session.project, (0, 2, 5)
    grains = np.random.default_rng(3).integers(0, 255, (6, 9, 4), np.uint8)
    Image.fromarray(grains).resize((300, 200)).save(tmp_path / "soft.png")
    contents = (*map(Shape, ShapeKind), PictureFile(str(tmp_path / "soft.png"), fit=True))
    for letter in _letters(session):
        for number, content in enumerate(contents):
            top = 0.05 + 0.18 * number
            project = with_overlay_added(project, letter, Overlay(
                content, 0, 1500, ((0.2, 0.7), (top, top + 0.14)), 0.8,
                list(BlendMode)[number % len(BlendMode)]))
    session.edit(project, "overlays")
    _compare(session, shots, qtbot, tmp_path / "out")


def _letters(session):
    return [version.letter for version in session.project.versions]


def _compare(session, shots, qtbot, folder):
    """Make these shots, each of a version in turn, and compare a picture of each with the
    preview's."""
    letters, recipes = _letters(session), []
    turns = {letter: sorted(shots)[number :: len(letters)] for number, letter in enumerate(letters)}
    for letter in letters:
        for shot in turns[letter]:
            session.path(letter, shot)
        ranges = tuple(FrameRange(at, at + LENGTH) for at in _frames(session, turns[letter]))
        recipe = recipe_of(session.project, letter, session.sheet(letter))
        recipes.append(msgspec.structs.replace(recipe, ranges=ranges))
    settled(session)
    for letter, file in zip(letters, convert(DEMO, recipes, folder), strict=True):
        ratio = float(session.sheet(letter).shape.ratio)
        canvas = (WIDE, 2 * round(WIDE / ratio / 2))
        pictures = _pictures(file.file)
        for i, frame in enumerate(_frames(session, turns[letter])):
            meant = Image.fromarray(pictures[LENGTH * i]).resize(canvas, Image.Resampling.BOX)
            seen = _seen(session, letter, frame, canvas, qtbot)
            shown = Image.fromarray(np.ascontiguousarray(seen)).convert("L")
            found = structural_similarity(
                np.asarray(meant.convert("L")), np.asarray(shown), data_range=255,
                gaussian_weights=True, sigma=1.5, use_sample_covariance=False)
            assert found >= LEAST_SSIM, (letter, turns[letter][i], found)


def _frames(session, shots):
    return [session.analysis.shots[shot].poster_frame for shot in shots]


def test_a_large_still_picture_has_the_master_s_own_pixels(session, qtbot):
    """Finer than the proxy: by FFmpeg's picture of the frame, and by how much detail it has."""
    at, canvas = session.analysis.shots[3].poster_frame, (1280, 720)
    assert proxy_size(1920, 1080)[1] < 720
    preview = session.preview
    assert preview.get("", at, canvas) is None
    qtbot.waitUntil(lambda: preview.get("", at, canvas) is not None
                    and bool(preview._pictures._own), timeout=10_000)
    seen = _seen(session, "", at, canvas, qtbot).astype(float)
    with av.open(str(DEMO)) as container:
        whole = next(picture.to_ndarray(format="rgb24", src_colorspace="ITU709",
                                        dst_colorspace="ITU709")
                     for number, picture in enumerate(container.decode(video=0)) if number == at)
    meant = np.asarray(Image.fromarray(whole).resize(canvas, Image.Resampling.BICUBIC), float)
    small = Image.fromarray(whole).resize(proxy_size(1920, 1080), Image.Resampling.BICUBIC)
    soft = np.asarray(small.resize(canvas, Image.Resampling.BICUBIC), float)
    fine = np.abs(soft - meant).max(-1) > 8  # where the smaller picture loses something
    assert fine.sum() > 500
    assert np.abs(seen - meant)[fine].mean() < np.abs(soft - meant)[fine].mean() / 2


def test_a_view_of_shared_memory_holds_it():
    memory = SharedMemory(4 << 20)
    last = memory.view((4 << 20) - 1, (1,))
    memory.close()
    last[0] = 7  # was the end of the whole program, once the memory had gone
    assert memory.view(0, (4 << 20,))[-1] == 7


def test_whoever_asks_a_closed_preview_gets_nothing(demo):
    """The timers of a film that is closed may still run out once."""
    session = Session(demo)
    frame = session.analysis.shots[0].poster_frame
    session.close()
    assert session.preview.get("A", frame, (180, 320)) is None
    assert session.preview.later("A", frame, (180, 320)) is None
    session.preview.prepare([frame])
    assert not session.preview.preroll(frame, [frame + 1])


def test_what_cannot_be_made_is_tried_a_few_times_a_second(session, qtbot, monkeypatch):
    tried, frame = [], session.frame

    def fails(request):
        tried.append(request)
        raise InputError("No pictures.")

    qtbot.waitUntil(lambda: session.preview.later("A", frame, (90, 160)) is not None)
    monkeypatch.setattr(session.preview._process, "pictures", fails)
    for _ in range(100):
        session.preview.later("A", frame + 1, (90, 160))  # as canvases do whenever they are painted
        qtbot.wait(10)
    assert 1 < len(tried) <= 1 + 1.5 / 0.2
    monkeypatch.undo()
    qtbot.waitUntil(lambda: session.preview.later("A", frame + 1, (90, 160)) is not None)


def test_a_look_at_the_master_holds_no_other_picture_up(demo):
    """A long way from a picture that stands alone 200 frames are to be decoded: it is given up."""
    store = AnalysisStore(demo.content_key)
    process = PreviewProcess(PreviewSource(store.proxy, demo.master))
    whole = (0.0, 0.0, 1920.0, 1080.0)
    still = PreviewRequest(448, ((plain_scene((1280, 720), whole), (1280, 720)),), True, True)
    of_proxy = process.pictures(dataclasses.replace(still, still=False))[0].copy()
    seen = {}
    for hurried in (True, False):
        process.hurried = hurried
        seen[hurried] = process.pictures(still)[0].copy()
    process.close()
    assert np.array_equal(seen[True], of_proxy) and not np.array_equal(seen[False], of_proxy)


def test_another_wish_ends_the_look_at_the_master(demo):
    asked = []
    pictures = MasterPictures(demo.master, lambda: len(asked) > 0)
    assert pictures.planes(240).height == 1080
    asked.append("another frame")
    assert pictures.planes(240) is not None and pictures.planes(241) is None  # what is there stays
    gone = msgspec.structs.replace(demo.master, path="/nowhere/film.mp4")
    assert MasterPictures(gone, lambda: False).planes(3) is None
