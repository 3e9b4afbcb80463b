"""Somebody cut out of the picture: who is found, how steady, whose colours; judged by GrabCut, by
the demo's true faces, and on paper."""

import subprocess
import sys
from datetime import date
from pathlib import Path

import cv2
import msgspec
import numpy as np
import pytest
import skimage
from PIL import Image, ImageDraw
from skimage.metrics import structural_similarity

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.errors import InputError
from caracal.core.base.resources import DEMO_FILM
from caracal.core.batch.concerns import ConcernKind, concerns_of
from caracal.core.batch.estimate import Estimate
from caracal.core.convert import convert
from caracal.core.framing.choice import PLAIN, ShotChoice
from caracal.core.framing.placing import solved_layout
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.kinds import cut_out
from caracal.core.layout.model import Crop, Layout, Pane, Person, PlainBackdrop
from caracal.core.media.planes import Planes
from caracal.core.media.probe import probe
from caracal.core.project.recipe import Recipe
from caracal.core.render.assets import mattes
from caracal.core.render.assets.mattes import doubt, steady_matte
from caracal.core.render.assets.segmentation import SIDE, matte_in
from caracal.core.render.assets.uncertain_mattes import unsure_shots
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import layers_of
from caracal.core.render.painters import cutout
from caracal.core.render.painters.cutout import _along_edges, _own_colour
from caracal.core.render.scene import Scene
from caracal.core.render.shown_shots import ShownShot
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffmpeg, true_boxes, write_film

PHOTOGRAPH = Path(skimage.__file__).parent / "data" / "astronaut.png"  # NASA, public domain
GREEN = "#40c060"


def planes_of_rgb(rgb):
    """BT.709 planes by FFmpeg, another reading than ours."""
    high, wide = rgb.shape[:2]
    raw = subprocess.run(
        ["ffmpeg", "-v", "error", "-f", "rawvideo", "-pix_fmt", "rgb24", "-s", f"{wide}x{high}",
         "-i", "-", "-vf", "scale=out_color_matrix=bt709:out_range=tv", "-pix_fmt", "yuv420p",
         "-f", "rawvideo", "-"], input=rgb.tobytes(), capture_output=True, check=True).stdout
    data, luma = np.frombuffer(raw, np.uint8), wide * high
    y = data[:luma].reshape(high, wide)
    u, v = data[luma:].reshape(2, high // 2, wide // 2)
    return Planes(y, u, v)


@pytest.fixture(scope="module")
def photograph():
    return cv2.cvtColor(cv2.imread(str(PHOTOGRAPH)), cv2.COLOR_BGR2RGB)


def test_a_filmed_person_is_found_as_grabcut_finds_her(photograph):
    """Rother, Kolmogorov and Blake 2004, as OpenCV has it, told roughly where she is."""
    matte = cv2.resize(matte_in(planes_of_rgb(photograph), (0, 0, 512, 512)), (512, 512))
    labels = np.full((512, 512), cv2.GC_PR_BGD, np.uint8)
    labels[130:512, 40:360] = labels[20:200, 150:300] = cv2.GC_PR_FGD
    labels[330:512, 270:500] = cv2.GC_PR_FGD  # the helmet in her arm
    labels[60:160, 180:270] = labels[300:500, 80:280] = cv2.GC_FGD  # face, suit
    labels[:10] = labels[:150, :60] = labels[:250, 400:] = cv2.GC_BGD
    cv2.grabCut(photograph, labels, None, np.zeros((1, 65)), np.zeros((1, 65)), 5,
                cv2.GC_INIT_WITH_MASK)
    theirs, ours = np.isin(labels, (cv2.GC_FGD, cv2.GC_PR_FGD)), matte > 127
    assert (theirs & ours).sum() / (theirs | ours).sum() > 0.8
    assert ours[60:160, 180:270].mean() > 0.97 and ours[:100, 400:].mean() < 0.01


def test_drawn_people_are_found_and_nothing_where_nobody_is(demo, truth):
    for shot, identity in ((2, "ines"), (5, "tobias")):
        faces = true_boxes(truth, shot, identity, "face") if identity in str(truth) else {}
        choice = ShotChoice(layout=cut_out())
        layout, _ = solved_layout(demo, shot, find_sheet("vertical-short"), choice)
        person = layout.panes[1].content.person
        frame = demo.shots[shot].poster_frame
        matte = steady_matte(person.path, frame, person.region, person.span)
        assert not doubt(matte)
        if frame in faces:
            x, y, w, h = faces[frame]
            left, top, wide, high = person.region
            spot = matte[int((y + h / 3 - top) / high * SIDE) : int((y + h - top) / high * SIDE),
                         int((x + w / 4 - left) / wide * SIDE) :
                         int((x + w * 3 / 4 - left) / wide * SIDE)]
            assert (spot > 127).mean() > 0.98
    empty = steady_matte(str(DEMO_FILM), 20, (0, 0, 1080, 1080), (0, demo.shots[0].end))
    assert doubt(empty) and (empty > 127).mean() < 0.01  # a title over a field


def test_flicker_goes_and_moving_edges_stay(monkeypatch):
    """On paper: a median of five drops what is there for two frames, and lags behind no edge."""
    def told(_, frame, *rest):
        made = np.zeros((SIDE, SIDE), np.uint8)
        made[:, : 100 + 3 * frame] = 255  # an edge that moves
        if frame in (10, 11):
            made[200:, 200:] = 255  # flickers
        return made

    monkeypatch.setattr(mattes, "_matte", told)
    for frame in (8, 10, 11, 20):
        seen = steady_matte("film", frame, (0, 0, 1, 1), (0, 30))
        assert np.array_equal(seen[0], told("", frame)[0]) and not seen[200:, 230:].any()
    assert np.array_equal(steady_matte("film", 0, (0, 0, 1, 1), (0, 1)), told("", 0))


def test_a_coarse_matte_is_brought_to_the_edges_of_the_picture():
    luma = np.full((400, 600), 60, np.uint8)
    luma[:, 300:] = 180
    coarse = np.zeros((400, 600), np.float32)
    coarse[:, 306:] = 1  # six pixels beside the edge
    found = _along_edges(cv2.blur(coarse, (9, 9)), luma, 12.0)
    edge = np.argmax(found[200] > 0.5)
    assert abs(edge - 300) <= 2 and found[200, :280].max() == 0 and found[200, 330:].min() == 1


def test_an_edge_has_none_of_the_old_background_s_colour():
    """A person of level 180 before 60: where both are mixed half and half the camera saw 120."""
    share = np.clip((np.arange(200, dtype=np.float32) - 90) / 20, 0, 1)[None].repeat(50, 0)
    seen = np.rint(60 + share * 120).astype(np.uint8)
    mended = _own_colour(seen, share, 20)
    partly = (share > 0.1) & (share < 1)
    assert np.abs(mended[partly].astype(int) - 180).max() <= 12
    assert np.array_equal(mended[share == 1], seen[share == 1])
    assert np.abs(seen[partly].astype(int) - 180).max() > 100  # as it was


BODY = (230.0, 40.0, 410.0, 320.0)  # an ellipse on 640x360: who is cut out of a drawn picture


@pytest.mark.parametrize("canvas", [(540, 960), (540, 540), (432, 540), (960, 540)],
                         ids=["9:16", "1:1", "4:5", "16:9"])
def test_a_drawn_body_lies_on_the_backdrop_as_another_library_draws_it(canvas, tmp_path,
                                                                      monkeypatch):
    """Golden pictures by Pillow. What the network would tell is drawn, too: this is about the rest.
    #ffffff is 235 (ITU-R BT.709-6, 3.5)."""
    x, y = np.meshgrid(np.arange(640), np.arange(360))
    texture = 150 + 40 * np.sin(x / 19) * np.cos(y / 13)
    luma = np.where(_body((640, 360), (0, 0, 640, 360)) > 127, texture, 60 + y / 9).astype(np.uint8)
    film = write_film(tmp_path / "film.mp4", size=(640, 360), frames=3, sound=False,
                      picture=lambda *_: luma)
    told = _body((SIDE, SIDE), (140, 0, 500, 360))
    monkeypatch.setattr(cutout, "steady_matte", lambda *_: told)
    high = 340.0 if canvas[0] < canvas[1] else 300.0
    wide = high * canvas[0] / canvas[1]
    window = (320 - wide / 2, 180 - high / 2, wide, high)
    person = Person(str(film), (140.0, 0.0, 360.0, 360.0), (0, 3))
    layout = Layout("x", (Pane(PlainBackdrop("#ffffff")), Pane(Crop(lifted=True, person=person))))
    layers = layers_of(layout, canvas, [window], (0, 0, 640, 360), PLAIN)
    half = np.full((180, 320), 128, np.uint8)
    seen, _, _ = compose_pictures(Scene(canvas, layers), Planes(luma, half, half))
    part = (window[0], window[1], window[0] + wide, window[1] + high)
    sharp = _body(canvas, part)
    meant = Image.composite(
        Image.fromarray(luma).resize(canvas, Image.Resampling.BICUBIC, part),
        Image.new("L", canvas, 235), Image.fromarray(sharp))
    assert structural_similarity(np.asarray(meant), seen, data_range=255) >= 0.98
    beside = cv2.dilate(sharp, np.ones((17, 17))) == 0
    assert beside.any() and np.abs(seen[beside].astype(int) - 235).max() <= 1


def _body(size, part):
    """How much of each pixel is body, 0..255, where ``size`` shows this part of 640x360."""
    fine = Image.new("L", (2560, 1440))
    left, top, right, bottom = (4 * place for place in BODY)
    ImageDraw.Draw(fine).ellipse((left, top, right - 1, bottom - 1), fill=255)
    return np.asarray(fine.resize(size, Image.Resampling.BOX, tuple(4 * place for place in part)))


@pytest.fixture
def walker(tmp_path, photograph):
    """A film of the photograph, still, on 640x360."""
    picture = tmp_path / "one.png"
    small = cv2.resize(photograph, (360, 360), interpolation=cv2.INTER_AREA)
    whole = np.full((360, 640, 3), 128, np.uint8)
    whole[:, 140:500] = small
    cv2.imwrite(str(picture), cv2.cvtColor(whole, cv2.COLOR_RGB2BGR))
    film = tmp_path / "film.mp4"
    ffmpeg("-loop", "1", "-i", picture, "-t", "1.2", "-r", "25", "-vf",
           "scale=out_color_matrix=bt709:out_range=tv", "-pix_fmt", "yuv420p", "-crf", "10",
           "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709", film)
    return film


def test_a_file_shows_her_before_the_backdrop_alone(walker, tmp_path):
    sheet = with_value(with_value(find_sheet("square-feed"), "canvas", (360, 360)),
                       "duration.least_s", 0.5)
    layout = Layout("mine", (Pane(PlainBackdrop(GREEN)), Pane(Crop(lifted=True))))
    (result,) = convert(walker, [Recipe(sheet, layout=layout)], tmp_path / "out")
    assert result.proof.right, result.proof
    out = tmp_path / "frame.png"
    ffmpeg("-i", result.file, "-vf", "select=eq(n\\,12),scale=in_color_matrix=bt709", "-frames:v",
           "1", out)
    seen = cv2.imread(str(out))[:, :, ::-1].astype(int)
    backdrop = np.array((0x40, 0xC0, 0x60))
    near = np.abs(seen - backdrop).max(-1) < 12
    # Above and beside her nothing is left of the flag, the shuttle and the wall.
    assert near[:40, :100].mean() > 0.97 and near[:90, 290:].mean() > 0.97
    path = analyse(walker)
    choice = ShotChoice(layout=layout)
    _, (solved,) = solved_layout(path, 0, sheet, choice)
    x, y, w, h = solved.window(12)
    plain = cv2.resize(cv2.imread(str(tmp_path / "one.png"))[
        round(y) : round(y + h), round(x) : round(x + w)], (360, 360))[:, :, ::-1].astype(int)
    face = np.abs(seen - plain)[60:110, 185:230]
    assert face.mean() < 6 and not near[60:110, 185:230].any()


def test_what_is_found_is_kept_and_made_again_where_it_cannot_be_read(walker, tmp_path,
                                                                       monkeypatch):
    monkeypatch.setenv("CARACAL_CACHE", str(tmp_path / "own"))
    asked = (str(walker), 3, (140.0, 0.0, 360.0, 360.0), (0, 30))
    first = steady_matte(*asked)
    (file,) = (tmp_path / "own").glob("*/mattes")
    assert file.stat().st_size == 30 * (mattes.DIGEST_BYTES + SIDE * SIDE)
    mattes._kept.clear()
    monkeypatch.setattr(mattes, "matte_in", lambda *_: pytest.fail("it was kept"))
    assert np.array_equal(steady_matte(*asked), first)
    monkeypatch.undo()
    monkeypatch.setenv("CARACAL_CACHE", str(tmp_path / "own"))
    mattes._kept.clear()
    file.write_bytes(b"x" * 100)  # cut off
    assert np.array_equal(steady_matte(*asked), first)
    mattes._kept.clear()
    data = bytearray(file.read_bytes())
    for frame in range(30):  # a bit flipped in each
        data[frame * (mattes.DIGEST_BYTES + SIDE * SIDE) + 5000] ^= 4
    file.write_bytes(bytes(data))
    assert np.array_equal(steady_matte(*asked), first)
    mattes._kept.clear()
    monkeypatch.setenv("CARACAL_CACHE", "/proc/none")  # nothing can be kept there
    assert np.array_equal(steady_matte(*asked), first)
    mattes._kept.clear()
    walker.unlink()
    with pytest.raises(InputError, match="no such file"):
        steady_matte(*asked)


def test_shots_in_which_it_is_unsure_are_told(tmp_path):
    """Grey noise, in which nobody is."""
    chance = np.random.default_rng(3)
    film = write_film(tmp_path / "film.mp4", frames=20, sound=False,
                      picture=lambda _, y: chance.integers(90, 160, y.shape).astype(np.uint8))
    person = Person(str(film), (0.0, 0.0, 320.0, 180.0), (0, 20))
    layout = Layout("x", (Pane(PlainBackdrop()), Pane(Crop(lifted=True, person=person))))
    assert unsure_shots([ShownShot(4, layout, ()), ShownShot(6, cut_out(), ())]) == (4,)
    told = next(concern for concern in concerns_of(
        probe(film), "B", Recipe(find_sheet("vertical-short")), {}, tmp_path, date.today(),
        tried=Estimate(1.0, 1.0, unsure=(4,))) if concern.kind is ConcernKind.CUT_OUT)
    assert (told.letter, told.shot, told.stops) == ("B", 4, False)
    assert told.sentence.startswith("Shot 5 of B: check who is cut out")


def test_a_gone_film_is_a_whole_picture_on_a_screen_and_a_sentence_in_a_file(tmp_path):
    person = Person(str(tmp_path / "gone.mp4"), (0.0, 0.0, 320.0, 180.0), (0, 20))
    layout = Layout("x", (Pane(PlainBackdrop(GREEN)), Pane(Crop(lifted=True, person=person))))
    layers = layers_of(layout, (100, 100), [(0, 0, 180, 180)], (0, 0, 320, 180), PLAIN)
    grey = Planes(np.full((180, 320), 99, np.uint8), *[np.full((90, 160), 128, np.uint8)] * 2)
    scene = Scene((100, 100), layers)
    with pytest.raises(InputError, match=r"gone\.mp4"):
        compose_pictures(scene, grey)
    assert (compose_pictures(scene, grey, missing=lambda _: pytest.fail("a plate"))[0] == 99).all()


def test_what_lies_behind_nobody_is_refused():
    assert not layout_error(cut_out())
    alone = msgspec.structs.replace(cut_out(), panes=cut_out().panes[1:])
    assert layout_error(alone) == "a pane has nothing behind it"


def test_a_missing_or_damaged_network_is_a_sentence(tmp_path):
    """In a process of its own: the network is read once."""
    code = ("import sys, numpy as np\n"
            "from pathlib import Path\n"
            "from caracal.core.render.assets import segmentation\n"
            "from caracal.core.media.planes import Planes\n"
            "from caracal.core.base.errors import InstallError\n"
            f"segmentation.model = lambda name: Path({str(tmp_path / 'person.tflite')!r})\n"
            "grey = np.full((8, 8), 128, np.uint8)\n"
            "try:\n"
            "    segmentation.matte_in(Planes(grey, grey[::2, ::2], grey[::2, ::2]), (0,0,8,8))\n"
            "except InstallError as problem:\n"
            "    print(problem.sentence())\n")
    (tmp_path / "person.tflite").write_bytes(b"no network")
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True,
                          check=False)
    assert "cannot be loaded" in done.stdout, done.stderr
