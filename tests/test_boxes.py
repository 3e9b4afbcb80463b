"""Following a drawn box both ways through its shot, on the demo film's true boxes and on noise."""

import numpy as np
import pytest

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.tracking.box_following import _one_way, _spans, follow_box
from caracal.core.base.errors import Cancelled
from caracal.core.base.geometry import overlap
from caracal.core.base.work import CancelToken
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import FlagKind, flags_of
from caracal.core.framing.path import shot_path
from caracal.core.project.edits import with_drawn
from caracal.core.project.model import first_project
from caracal.core.project.shots import as_decided
from caracal.core.specs.sheet_store import find_sheet
from conftest import true_boxes


def _shot(truth, name):
    return next(i for i, shot in enumerate(truth["shots"]) if shot["name"] == name)


def _follow(demo, truth, shot, identity, kind, at):
    boxes = true_boxes(truth, shot, identity, kind)
    frame = sorted(boxes)[at]
    found = follow_box(AnalysisStore(demo.content_key).proxy, demo, shot, frame, boxes[frame],
                       CancelToken())
    return boxes, found


@pytest.mark.parametrize(("name", "identity", "kind", "least"), [
    ("pan", "pot 7", "bottle", 0.9), ("cyclist", "bicycle", "bicycle", 0.7),
    ("walker", "Wren", "face", 0.9), ("still life", "vase", "vase", 0.9),
])
def test_things_of_the_demo_are_followed_both_ways(demo, truth, name, identity, kind, least):
    """Drawn in the middle of its stay; IoU with the truth while it is wholly in view."""
    shot = _shot(truth, name)
    boxes, found = _follow(demo, truth, shot, identity, kind,
                           len(true_boxes(truth, shot, identity, kind)) // 2)
    middle = [frame for frame, box in boxes.items() if box[0] > 4 and box[0] + box[2] < 1916]
    good = [overlap(boxes[frame], found.boxes[frame - found.first_frame]) > 0.5
            for frame in middle]
    assert len(found.boxes) == demo.shots[shot].frames and np.mean(good) > least


def test_what_leaves_the_picture_is_lost_and_held(demo, truth):
    """The dog runs out of the picture: the box stays inside it and says that it was lost."""
    shot = _shot(truth, "pan")
    boxes, found = _follow(demo, truth, shot, "pot 1", "vase", 3)
    gone = [f for f in range(demo.shots[shot].start, demo.shots[shot].end) if f not in boxes]
    lost = {f for first, end in found.lost for f in range(first, end)}
    assert gone and len(lost & set(gone)) > 0.7 * len(gone)


def test_a_drawn_box_leads_and_where_it_is_lost_is_flagged(demo, truth):
    shot, sheet = _shot(truth, "pan"), find_sheet("vertical-short")
    _, found = _follow(demo, truth, shot, "pot 7", "bottle", 40)
    project = with_drawn(first_project(demo.master.frames), shot, found)
    film = as_decided(demo, (), project.drawn)
    path = shot_path(film, shot, sheet.frame, project.choice("A", shot))
    assert path.lead == project.drawn[0].subject
    assert shot_path(film, shot, sheet.frame, ShotChoice()).lead != path.lead
    flags = flags_of(film, shot, path, sheet, lost=((path.start, path.start + 30),))
    assert any(flag.kind is FlagKind.LOST and "drew" in flag.sentence for flag in flags)


def _noise_film(moves, size=(240, 320)):
    """A textured square on other texture, moved by ``moves`` (x, y) from frame to frame."""
    rng = np.random.default_rng(2)
    ground = rng.integers(90, 130, size, dtype=np.uint8)
    thing = rng.integers(0, 255, (40, 40), dtype=np.uint8)
    x, y = 100, 80
    for dx, dy in [(0, 0), *moves]:
        x, y = x + dx, y + dy
        picture = ground.copy()
        picture[y : y + 40, x : x + 40] = thing
        yield picture


def test_a_textured_square_is_followed_to_the_pixel():
    found = _one_way(_noise_film([(3, 1)] * 30), (100.0, 80.0, 40.0, 40.0))
    (x, y, w, h), sure = found[-1]
    assert (x, y) == (pytest.approx(190, abs=1.5), pytest.approx(110, abs=1.5))
    assert w == pytest.approx(40, abs=2) and h == pytest.approx(40, abs=2) and sure > 0.8


def test_a_thing_that_vanishes_is_lost_and_found_again():
    film = list(_noise_film([(0, 0)] * 30))
    for i in range(8, 20):
        film[i] = film[i].copy()
        film[i][70:130, 90:150] = 110
    found = _one_way(iter(film), (100.0, 80.0, 40.0, 40.0))
    assert all(sure < 0.35 for _, sure in found[9:19]) and found[-1][1] > 0.8


def test_spans_of_lost_frames():
    assert _spans((1.0, 0.1, 0.2, 0.9, 0.0), 50) == ((51, 53), (54, 55))
    assert _spans((1.0, 0.9), 0) == ()


def test_following_can_be_stopped(demo, truth):
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        follow_box(AnalysisStore(demo.content_key).proxy, demo, 3, demo.shots[3].start + 5,
                   (100, 100, 200, 200), token)
