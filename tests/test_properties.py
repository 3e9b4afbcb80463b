"""Properties that hold for any film, path, project or time."""

import msgspec
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from caracal.core.analysis.model import (
    ATTENTION_SHAPE,
    VERSION,
    Analysis,
    FoundShot,
    SoundOutline,
    Track,
    Transition,
)
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.framing.choice import (
    Interpolation,
    Keyframe,
    ShotChoice,
    Swap,
    interpolate_keyframes,
    zooms,
)
from caracal.core.framing.motion import Manner, Motion, limits_for
from caracal.core.framing.path import shot_path
from caracal.core.framing.window_at import key_at
from caracal.core.media.master import Colour, Master
from caracal.core.project.edits import (
    with_cast,
    with_choice,
)
from caracal.core.project.history import History
from caracal.core.project.keyframe_edits import (
    with_keyframe,
)
from caracal.core.project.model import Cast, Project, ShotStart, first_project
from caracal.core.project.shots import reshot, with_starts

FRAMES = 60
SLOW = settings(max_examples=25, deadline=None,
                suppress_health_check=[HealthCheck.function_scoped_fixture])


def film(tracks=(), frames=FRAMES, active=(0, 0, 1920, 1080)):
    master = Master("film.mp4", "mp4", "h264", "High", 40, 1920, 1080, "1/1", 0, 1920, 1080,
                    "25/1", False, frames, 0.0, frames / 25, "yuv420p", 8, False,
                    Colour(1, 1, 1, False), 8000, (), ())
    shot = FoundShot(0, frames, Transition.START, None, (), frames // 2)
    return Analysis(VERSION, "key", master, active, (shot,), tuple(tracks), SoundOutline(()))


@st.composite
def walks(draw):
    """A person of any size who wanders anywhere in the picture, or half out of it."""
    width, height = draw(st.floats(40, 900)), draw(st.floats(80, 1080))
    x, y = draw(st.floats(-200, 1900)), draw(st.floats(-100, 900))
    speed = draw(st.floats(-40, 40))
    wobble = draw(st.floats(0, 30))
    boxes = tuple((x + speed * i + wobble * np.sin(i), y, width, height) for i in range(FRAMES))
    return Track(1, "person", 0, 1, 0.9, 0, boxes)


SHAPES = st.sampled_from(["9:16", "4:5", "1:1", "2:3", "4:3", "16:9"])
KEYS = st.lists(st.builds(
    Keyframe, frame=st.integers(0, FRAMES - 1),
    centre=st.tuples(st.floats(0, 1920), st.floats(0, 1080)),
    zoom=st.one_of(st.none(), st.floats(1, 3)), interpolation=st.sampled_from(list(Interpolation))),
    max_size=4, unique_by=lambda key: key.frame).map(tuple)
CHOICES = st.builds(ShotChoice, lead=st.just(1), manner=st.sampled_from(list(Manner)),
                    zoom=st.floats(1, 3), keyframes=KEYS)


@SLOW
@given(walks(), SHAPES, CHOICES)
def test_windows_keep_shape_and_stay_in_the_picture(walk, shape, choice):
    path = shot_path(film([walk]), 0, FramingSpec(Shape.parse(shape)), choice)
    x, y, w, h = path.windows.T
    assert len(path.windows) == FRAMES and np.isfinite(path.windows).all()
    assert np.allclose(w / h, float(Shape.parse(shape).ratio))
    assert (x >= -1e-6).all() and (x + w <= 1920 + 1e-6).all()
    assert (y >= -1e-6).all() and (y + h <= 1080 + 1e-6).all()


@SLOW
@given(walks(), st.sampled_from([Manner.GLIDE, Manner.CHASE]))
def test_moves_obey_their_limits(walk, manner):
    motion = Motion()
    path = shot_path(film([walk]), 0, FramingSpec(Shape(9, 16)), ShotChoice(lead=1, manner=manner))
    speed = limits_for(manner, 607.5, motion).speed
    assert np.abs(np.diff(path.windows[:, 0])).max() <= speed + 1e-6


@SLOW
@given(walks(), SHAPES)
def test_the_same_input_gives_the_same_bits(walk, shape):
    frame = FramingSpec(Shape.parse(shape))
    first = shot_path(film([walk]), 0, frame, ShotChoice())
    second = shot_path(film([walk]), 0, frame, ShotChoice())
    assert (first.windows == second.windows).all() and first.manner == second.manner


@SLOW
@given(walks(), KEYS, st.sampled_from([Manner.GLIDE, Manner.CHASE, Manner.BY_HAND]))
def test_keyframes_hold_wherever_the_picture_allows(walk, keys, manner):
    choice = ShotChoice(lead=1, manner=manner,
                        keyframes=tuple(msgspec.structs.replace(k, zoom=None) for k in keys))
    path = shot_path(film([walk]), 0, FramingSpec(Shape(9, 16)), choice)
    for key in choice.keyframes:
        x, _, w, _ = path.windows[key.frame]
        assert x + w / 2 == pytest.approx(np.clip(key.centre[0], w / 2, 1920 - w / 2), abs=0.01)


@given(KEYS.filter(len))
def test_what_lies_between_keyframes_lies_between_their_values(keys):
    ordered = tuple(sorted(keys, key=lambda key: key.frame))
    values = np.array([key.centre for key in ordered])
    made = interpolate_keyframes(ordered, values, 0, FRAMES)
    assert (made >= values.min(axis=0) - 1e-9).all() and (made <= values.max(axis=0) + 1e-9).all()
    for key, value in zip(ordered, values, strict=True):
        assert np.allclose(made[key.frame], value)


@given(KEYS, st.floats(1, 3))
def test_zoom_is_the_shot_s_where_keyframes_say_nothing(keys, zoom):
    made = zooms(ShotChoice(zoom=zoom, keyframes=keys), 0, FRAMES, (0, FRAMES))
    said = [key.zoom for key in keys if key.zoom is not None]
    assert made.min() >= min([zoom, *said]) - 1e-9 and made.max() <= max([zoom, *said]) + 1e-9


@SLOW
@given(walks(), st.integers(0, FRAMES - 1))
def test_a_keyframe_taken_from_a_path_changes_nothing_there(walk, frame):
    version = FramingSpec(Shape(9, 16))
    before = shot_path(film([walk]), 0, version, ShotChoice(lead=1))
    project = with_keyframe(first_project(FRAMES), "A", 0, key_at(before, frame))
    after = shot_path(film([walk]), 0, version, project.choice("A", 0))
    assert np.allclose(after.windows[frame], before.windows[frame], atol=0.02)


STARTS = st.sets(st.integers(1, 199), max_size=8).map(
    lambda frames: tuple(ShotStart(frame) for frame in sorted({0, *frames})))


@given(STARTS)
def test_shots_cover_the_film_once_and_tracks_stay_inside(starts):
    boxes = tuple((float(i), 10.0, 50.0, 90.0) for i in range(150))
    found = film([Track(1, "person", 0, 1, 0.9, 30, boxes)], frames=200)
    made = reshot(found, starts)
    assert [found_shot.start for found_shot in made.shots] == [start.frame for start in starts]
    assert sum(shot.frames for shot in made.shots) == 200
    assert all(a.end == b.start for a, b in zip(made.shots, made.shots[1:], strict=False))
    seen = {}
    for track in made.tracks:
        shot = made.shots[track.shot]
        assert shot.start <= track.first_frame and track.end_frame <= shot.end
        for i, box in enumerate(track.boxes):
            seen[track.first_frame + i] = box
    assert seen == {30 + i: box for i, box in enumerate(boxes)}
    assert len({track.id for track in made.tracks}) == len(made.tracks)


@given(STARTS, STARTS)
def test_decisions_survive_any_other_shots(first, second):
    found = film(frames=200)
    project = with_starts(found, first_project(200), first)
    last = len(project.starts or found.shots) - 1
    project = with_choice(project, "A", last, ShotChoice(manner=Manner.GLIDE))
    made = with_starts(found, project, second)
    old = project.starts[last].frame if project.starts else 0
    inside = [i for i, key in enumerate(second) if key.frame >= old]
    for shot in inside:
        assert made.choice("A", shot).manner is Manner.GLIDE
    assert all(decision.shot < len(second) for decision in made.decisions)


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 50)), max_size=12),
       st.lists(st.booleans(), max_size=20))
def test_undo_and_redo_walk_the_list_of_projects(edits, walk):
    history, made = History([first_project(100)]), [first_project(100)]
    for shot, lead in edits:
        project = with_cast(history.now, Cast(shot, lead=lead))
        history.push(project, "edit")
        if project != made[-1]:
            made.append(project)
    at = len(made) - 1
    for back in walk:
        if back:
            assert (history.undo() is None) == (at == 0)
            at = max(0, at - 1)
        else:
            assert (history.redo() is None) == (at == len(made) - 1)
            at = min(len(made) - 1, at + 1)
        assert history.now == made[at]


@given(CHOICES, st.lists(st.builds(Swap, st.integers(0, 99), st.integers(0, 9)), max_size=3))
def test_projects_survive_json(choice, swaps):
    project = with_choice(first_project(100), "B", 3,
                          msgspec.structs.replace(choice, swaps=tuple(swaps)))
    again = msgspec.json.decode(msgspec.json.encode(project), type=Project)
    assert again == project


def crossing(frames):
    """Somebody crosses in less than two seconds; what there is to see then lies left of middle."""
    boxes = tuple((200.0 + 40 * i, 300.0, 160.0, 700.0) for i in range(42))
    made = film([Track(1, "person", 0, 1, 0.9, 0, boxes)], frames)
    telling = np.zeros(ATTENTION_SHAPE)
    telling[8:12, 8:12] = 1 / 16
    shot = msgspec.structs.replace(made.shots[0], attention=tuple(telling.ravel()))
    return msgspec.structs.replace(made, shots=(shot,))


def test_when_the_lead_has_left_the_window_leaves_the_empty_edge():
    """It waits a second, goes once, and rests."""
    nine_sixteen = FramingSpec(Shape(9, 16))
    windows = shot_path(crossing(200), 0, nine_sixteen, ShotChoice(lead=1)).windows
    middles = windows[:, 0] + windows[:, 2] / 2
    edge = 1920 - 607.5 / 2
    assert middles[42] == pytest.approx(edge, abs=8) and np.ptp(middles[42:66]) < 8
    assert windows[-1, 0] < 560 and np.ptp(middles[125:]) < 2  # most of 480 to 720 is seen
    assert (np.diff(middles[66:]) < 1).all()  # one way only
    short = shot_path(crossing(100), 0, nine_sixteen, ShotChoice(lead=1)).windows
    assert short[-1, 0] == pytest.approx(1920 - 607.5, abs=8)  # not worth going for
