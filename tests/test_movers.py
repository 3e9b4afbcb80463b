"""What moves by itself and no detector knows: drawn grounds and patches, and a filmed creature."""

import cv2
import msgspec
import numpy as np
import pytest

from caracal.core.analysis.detectors.objects import ObjectDetector
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.film_pass.builder import MOVERS_FROM, AnalysisBuilder, EndedShot
from caracal.core.analysis.labels import ANIMALS, MOVING_THING
from caracal.core.analysis.model import FoundShot, Track, Transition
from caracal.core.analysis.tracking.flow import FlowFinder
from caracal.core.analysis.tracking.motion_maps import MotionMaker, background
from caracal.core.analysis.tracking.movers import mover
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.lead import choose_lead
from caracal.core.framing.path import shot_path
from caracal.core.framing.why import why
from caracal.core.media.encode import EncoderSettings, MovieWriter
from filmed_clips import clip
from test_properties import film

SIZE = (480, 270)  # of the pictures, a quarter of the film's 1920 x 1080
FRAMES = 75


def texture(seed, width, height, fine=3.0):
    rng = np.random.default_rng(seed)
    rough = cv2.GaussianBlur(rng.normal(0, 1, (height, width)).astype(np.float32), (0, 0), fine)
    return np.clip(128 + 45 * rough / rough.std(), 0, 255)


GROUND, PATCH = texture(1, 800, 500), texture(2, 90, 110, 2.0)


def pictures(place, ground=lambda _: (0.0, 0.0), zoom=lambda _: 1.0, patch=PATCH, noise=0.0,
             soft=0.0, twins=False):
    """Pictures of a patch whose middle is at ``place`` (i), in shares, over a moving ground."""
    rng = np.random.default_rng(3)
    for i in range(FRAMES):
        (x, y), z = ground(i), zoom(i)
        move = np.array([[z, 0, -150 - x + 240 * (1 - z)], [0, z, -100 - y + 135 * (1 - z)]])
        picture = cv2.warpAffine(GROUND.astype(np.float32), move, SIZE)
        first = place(i)
        for at in [] if first is None else [first, (first[0] + 0.6, first[1])][: 1 + twins]:
            high, wide = patch.shape
            own = np.array([[1.0, 0, at[0] * SIZE[0] - wide / 2],
                            [0, 1.0, at[1] * SIZE[1] - high / 2]])
            over = cv2.warpAffine(patch.astype(np.float32), own, SIZE)
            mask = cv2.warpAffine(np.ones(patch.shape, np.float32), own, SIZE)
            if soft:
                over = cv2.GaussianBlur(np.where(mask > 0, over, 128), (0, 0), soft)
                mask = cv2.GaussianBlur(mask, (0, 0), soft)
            picture = picture * (1 - mask) + over * mask
        yield np.clip(picture + rng.normal(0, noise, picture.shape), 0, 255).astype(np.uint8)


def found(shown, every=12):
    finder, maker, looks = FlowFinder(*SIZE), MotionMaker(), []
    for i, half in enumerate(shown):
        tiny = finder.shrink(half)
        field = finder.add(tiny)
        if i:
            maker.add(field)
        if i % every == every - 1:
            looks.append(maker.look(i, tiny, half))
    return mover(looks, 0, FRAMES, 25.0, (1920.0, 1080.0))


def wanders(i):
    return (0.3 + 0.12 * np.sin(i / 14), 0.5 + 0.06 * np.sin(i / 9))


@pytest.mark.parametrize("camera", [
    {}, {"noise": 3.0},
    {"ground": lambda i: (6 * np.sin(i / 3), 4 * np.sin(i / 5))},  # by hand
    {"ground": lambda i: (1.2 * i, 0.0)},  # a pan
    {"zoom": lambda i: 1 + 0.004 * i},
], ids=["still", "grain", "by hand", "a pan", "a zoom"])
def test_a_patch_that_moves_by_itself_is_followed(camera):
    track = found(pictures(wanders, **camera))
    assert track is not None and len(track.boxes) == FRAMES
    for i in range(8, FRAMES - 8):
        x, y, w, h = track.boxes[i]
        across, down = wanders(i)
        assert abs(x + w / 2 - across * 1920) < 0.125 * 1920, i
        assert abs(y + h / 2 - down * 1080) < 0.143 * 1080, i
        assert 0.4 < w / (90 * 4) < 2.2 and 0.4 < h / (110 * 4) < 2.2


@pytest.mark.parametrize("shown", [
    {"place": lambda _: None},
    {"place": lambda _: None, "noise": 6.0},
    {"place": lambda _: (0.3, 0.5)},  # it stands
    {"place": lambda _: None, "ground": lambda i: (1.5 * i, 0.4 * i)},
    {"place": lambda _: None, "zoom": lambda i: 1 + 0.006 * i},
    {"place": lambda i: (0.5, 0.85 + 0.02 * np.sin(i / 2)), "patch": texture(5, 480, 120)},  # water
    {"place": wanders, "soft": 8.0},  # out of focus
    {"place": lambda i: (0.2 + 0.09 * np.sin(i / 14), 0.5), "twins": True},  # neither is the one
], ids=["nothing", "grain", "stands", "a pan", "a zoom", "water", "out of focus", "two of them"])
def test_what_is_no_thing_of_its_own_does_not_lead(shown):
    assert found(pictures(**shown)) is None


def test_the_background_s_move_is_that_of_most_of_the_picture():
    """An affine field with a fifth of it otherwise: the fit is that field, by its own sum."""
    y, x = np.mgrid[0:90, 0:160].astype(np.float32)
    field = np.stack([0.3 + 0.01 * (x - 80), -0.2 + 0.01 * (y - 45)], axis=-1)
    seen = field.copy()
    seen[20:60, 30:85] += (2.0, 1.0)
    fit = background(seen, np.ones((90, 160), np.bool_))
    assert np.abs(fit - field).max() < 0.02


def box_track(kind, boxes=((700.0, 300.0, 300.0, 500.0),), frames=60, number=0, shot=0):
    boxes = boxes * frames if len(boxes) == 1 else boxes
    return Track(number, kind, shot, number, 0.5, 0, boxes)


def test_it_leads_before_what_stands_and_after_everybody_known():
    """Even a moving car that is known comes first; a vase that fills the middle does not."""
    thing = box_track(MOVING_THING, number=MOVERS_FROM)
    vase = box_track("vase", ((760.0, 150.0, 500.0, 800.0),), number=2)
    car = box_track("car", tuple((100.0 + 20 * i, 400.0, 400.0, 300.0) for i in range(60)),
                    number=3)
    dog = box_track("dog", ((1300.0, 500.0, 300.0, 400.0),), number=4)
    for tracks, kind in (([thing], MOVING_THING), ([thing, vase], MOVING_THING),
                         ([thing, car], "car"), ([thing, vase, car, dog], "dog")):
        assert choose_lead(film(tracks), 0).kind == kind
    only = film([thing])
    assert "the moving thing" in why(only, 0, shot_path(only, 0, FramingSpec(Shape(9, 16)),
                                                         ShotChoice()))


def ended(track, start, thumbnail):
    shot = FoundShot(start, start + 60, Transition.CUT, None, (), start + 30, thumbnail)
    return EndedShot(shot, tuple(msgspec.structs.replace(each, first_frame=start)
                                 for each in track), (), b"", ())


def test_a_creature_known_in_one_shot_of_a_set_up_keeps_its_name_in_the_others():
    one, other = (cv2.resize(texture(seed, 64, 36, 4.0), (32, 18)).astype(np.uint8).tobytes()
                  for seed in (7, 8))
    dog, thing = box_track("dog"), box_track(MOVING_THING)
    growing = AnalysisBuilder()
    for number, (tracks, picture) in enumerate((
            ([dog], one), ([thing], one), ([thing], other), ([box_track("vase"), thing], one))):
        growing.add(ended(tracks, 60 * number, picture))
    master = msgspec.structs.replace(film().master, frames=240)
    whole = growing.whole("key", master, (0, 0, 1920, 1080))
    assert [(track.kind, track.id) for track in whole.tracks] == [
        ("dog", 0), ("dog", MOVERS_FROM + 1), (MOVING_THING, MOVERS_FROM + 2), ("vase", 1),
        ("dog", MOVERS_FROM + 3)]


def test_a_creature_that_no_detector_knows_leads_on_film(tmp_path, monkeypatch):
    """Without animals the detector knows nothing in this clip. At frame 40, by eye, its body is
    from 0.16 to 0.55 of the picture's width; the rocks, on which the window rested, begin at 0.63.
    """
    path = tmp_path / "creature.mp4"
    writer = MovieWriter(path, EncoderSettings(
        width=1280, height=720, frame_rate="25/1", encoder="libx264", pixel_format="yuv420p",
        gop_frames=50, options={"preset": "veryfast", "crf": "18"}))
    capture = cv2.VideoCapture(str(clip("bigbuckbunny")))
    for _ in range(100):
        planes = cv2.cvtColor(cv2.resize(capture.read()[1], (1280, 720)), cv2.COLOR_BGR2YUV_I420)
        luma, rest = planes[:720], planes[720:].reshape(2, 360, 640)
        writer.write_picture((luma, rest[0], rest[1]))
    writer.finish()
    find = ObjectDetector.find
    monkeypatch.setattr(ObjectDetector, "find", lambda *args, **more: [
        seen for seen in find(*args, **more) if seen.kind not in ANIMALS])
    analysis = analyse(path, root=tmp_path / "cache")
    assert len(analysis.shots) == 1
    lead = choose_lead(analysis, 0)
    assert lead.kind == MOVING_THING
    for shape in (Shape(9, 16), Shape(4, 5), Shape(1, 1)):
        x, _, wide, _ = shot_path(analysis, 0, FramingSpec(shape), ShotChoice()).window(40)
        kept = min(x + wide, 0.55 * 1280) - max(x, 0.16 * 1280)
        assert kept >= 0.72 * min(wide, 0.39 * 1280), shape
