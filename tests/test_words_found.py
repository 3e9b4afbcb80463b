"""Words burnt into the picture: found where the demo's truth has them, kept whole or flagged."""

import numpy as np
import onnx
import pytest

from caracal.core.analysis.detection import Detection
from caracal.core.analysis.detectors.text_detection import TextSampling, lines, word_tracks
from caracal.core.base.geometry import overlap
from caracal.core.base.resources import model
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.demand import words_demand
from caracal.core.framing.flags import FlagKind, flags_of
from caracal.core.framing.path import film_path, shot_path
from caracal.core.specs.sheet_store import find_sheet


def _shot(truth, name):
    return next(i for i, shot in enumerate(truth["shots"]) if shot["name"] == name)


def test_every_line_of_the_demo_is_found_and_nothing_else(demo, truth):
    drawn = [row for row in truth["tracks"] if row["kind"] == "words"]
    assert len(demo.words) == len(drawn)
    for row in drawn:
        box = tuple(row["boxes"][len(row["boxes"]) // 2][1:])
        best = max(overlap(box, word.boxes[0]) for word in demo.words_in(row["shot"]))
        assert best > 0.45, row["identity"]


def test_a_title_wider_than_the_window_is_flagged(demo, truth):
    sheet, title = find_sheet("vertical-short"), _shot(truth, "title")
    path = shot_path(demo, title, sheet.frame, ShotChoice())
    assert [flag.kind for flag in flags_of(demo, title, path, sheet)] == [FlagKind.TEXT_CUT]


def test_a_lower_third_away_from_the_lead_is_left_out_whole(demo, truth):
    sheet, shot = find_sheet("vertical-short"), _shot(truth, "lower third")
    path = shot_path(demo, shot, sheet.frame, ShotChoice())
    assert flags_of(demo, shot, path, sheet) == () and path.still
    assert all(path.windows[0, 0] > word.boxes[0][0] + word.boxes[0][2]
               for word in demo.words_in(shot))


@pytest.mark.parametrize("name", ["vertical-short", "square-feed", "portrait-feed"])
def test_no_false_alarms_on_the_demo(demo, name):
    """Only lines that no window can hold are flagged, in every shape."""
    sheet = find_sheet(name)
    for i, path in enumerate(film_path(demo, sheet.frame)):
        found = {flag.kind for flag in flags_of(demo, i, path, sheet)}
        widest = max((word.boxes[0][2] for word in demo.words_in(i)), default=0)
        assert found <= ({FlagKind.TEXT_CUT} if widest > path.windows[0, 2] else set())


@pytest.mark.parametrize("name", ["words.onnx", "faces.onnx", "objects.onnx", "cuts.onnx"])
def test_no_weight_is_too_small_for_a_processor(name):
    """What is no normal float makes a model three times slower. Read by the format's own library.
    """
    kept = onnx.load(model(name)).graph.initializer
    weights = [np.abs(onnx.numpy_helper.to_array(weight).astype(np.float32)) for weight in kept
               if weight.data_type in (onnx.TensorProto.FLOAT, onnx.TensorProto.FLOAT16)]
    assert sum(weight.size for weight in weights) > 100_000
    assert all(((weight == 0) | (weight >= np.finfo(np.float32).tiny)).all() for weight in weights)


def test_lines_in_a_map_of_chances():
    chances = np.zeros((96, 160), np.float32)
    chances[20:26, 30:110] = 0.95
    chances[60:64, 40:44] = 0.95  # a dot is no line
    chances[80:84, 10:90] = 0.5  # texture is not sure enough
    ((x, y, w, h), score), = lines(chances)
    assert x < 30 and y < 20 and x + w > 110 and y + h > 26 and score == pytest.approx(0.95)


def test_words_are_looked_for_after_jumps_and_every_two_seconds():
    rhythm = TextSampling(25.0)
    due = [n for n in range(0, 200, 5) if rhythm.due(n, n == 80, looked_at=True)]
    assert due[0] == 0 and 95 in due and max(np.diff(due)) <= 50


def test_a_line_seen_twice_is_one_track_that_lasts_between_looks():
    line = Detection("words", 0.9, (100.0, 800.0, 400.0, 60.0))
    looks = [(10, [line]), (60, [line]), (110, [])]
    (track,) = word_tracks(looks, 3, (0, 150))
    assert (track.first_frame, track.end_frame, track.shot) == (0, 110, 3)
    assert word_tracks([(10, [])], 0, (0, 50)) == []


def test_words_are_kept_whole_or_left_out_whole(demo, truth):
    """The allowed places never let an edge cross the line."""
    shot = demo.shots[_shot(truth, "lower third")]
    words = demo.words_in(_shot(truth, "lower third"))
    sizes = np.full(shot.frames, 607.5)
    fence = (sizes / 2, 1920 - sizes / 2)
    must = np.tile([1300.0, 1500.0], (shot.frames, 1))
    held = words_demand(shot, words, 0, sizes, must, fence).places(sizes)
    right = max(word.boxes[0][0] + word.boxes[0][2] for word in words)
    assert (held[:, 0] - 607.5 / 2 >= right - 1e-6).all() and (held[:, 0] >= 1300).all()
