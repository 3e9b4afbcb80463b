"""Optical flow on boxes, the looks that use it, and the detectors' own sums."""

import numpy as np
import pytest

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.detectors.faces import _head_region
from caracal.core.analysis.detectors.network import fit_inside, keep_best, network_input, open_model
from caracal.core.analysis.detectors.objects import (
    INPUT,
    KINDS,
    MEAN,
    SPREAD,
    STRIDES,
    _cell_centres,
)
from caracal.core.analysis.film_pass.detection_pass import DetectionPass
from caracal.core.analysis.tracking.flow import FlowFinder, box_move
from caracal.core.base.errors import InstallError
from caracal.core.base.geometry import overlap
from caracal.core.media.planes import Planes
from caracal.core.media.proxy import ProxyReader
from conftest import true_boxes


def _texture(size=(90, 160), seed=0):
    import cv2

    small = np.random.default_rng(seed).integers(0, 255, (size[0] // 4, size[1] // 4), np.uint8)
    return cv2.resize(small, size[::-1], interpolation=cv2.INTER_CUBIC)


@pytest.mark.parametrize(("dx", "dy"), [(2, 0), (-3, 1), (0, 2)])
def test_flow_of_a_shifted_picture_is_the_shift(dx, dy):
    picture = _texture()
    finder = FlowFinder(160, 90)
    finder.add(picture)
    field = finder.add(np.roll(picture, (dy, dx), axis=(0, 1)))
    move = box_move(field, (50, 30, 50, 30))
    assert move == (pytest.approx(dx, abs=0.5), pytest.approx(dy, abs=0.5))


def test_the_first_picture_has_no_flow():
    assert not FlowFinder(160, 90).add(_texture()).any()


def test_a_box_outside_the_picture_still_has_an_answer():
    field = np.zeros((90, 160, 2), np.float32)
    assert box_move(field, (-80, -50, 20, 20)) == (0.0, 0.0)
    assert box_move(field, (500, 300, 20, 20)) == (0.0, 0.0)


def test_pictures_are_fitted_not_stretched():
    made, scale = fit_inside(np.full((100, 200, 3), 200, np.uint8), 416, 256)
    assert made.shape == (256, 416, 3) and scale == pytest.approx(2.08)
    assert (made[:208] > 0).all() and not made[208:].any()


def test_a_shrunken_picture_is_the_average_of_what_it_shows():
    """Pillow's box filter is the outside judge: each pixel is the mean of the area it covers."""
    from PIL import Image

    picture = np.dstack([_texture((180, 320), seed) for seed in range(3)])
    picture = np.asarray(Image.fromarray(picture).resize((960, 540), Image.Resampling.BICUBIC))
    made, scale = fit_inside(picture, 416, 256)
    wanted = np.asarray(Image.fromarray(picture).resize((416, 234), Image.Resampling.BOX), float)
    off = np.abs(made[:234].astype(float) - wanted)
    assert scale == pytest.approx(416 / 960) and off.mean() < 3 and np.percentile(off, 99) < 14


def test_networks_get_blue_first_less_the_mean_by_the_spread():
    canvas = np.random.default_rng(0).integers(0, 255, (32, 64, 3), np.uint8)
    given = network_input(canvas, MEAN, SPREAD)
    wanted = ((canvas[:, :, ::-1].astype(np.float64) - MEAN) / SPREAD).transpose(2, 0, 1)
    assert given.shape == (1, 3, 32, 64) and np.allclose(given[0], wanted, atol=1e-5)


def test_suppression_keeps_the_best_of_each_place():
    """Intersection over union by hand: the first two overlap by 0.68, the third by nothing."""
    boxes = np.array([[0, 0, 10, 10], [1, 1, 10, 10], [40, 0, 10, 10]], np.float32)
    kept = keep_best(boxes, np.array([0.9, 0.8, 0.7], np.float32), 0.3, 0.5)
    assert sorted(kept.tolist()) == [0, 2]
    assert len(keep_best(boxes[:0], np.zeros(0, np.float32), 0.3, 0.5)) == 0


def test_the_kinds_are_coco_s():
    """COCO 2017: 80 classes; some places in their order."""
    assert len(KINDS) == 80 == len(set(KINDS))
    assert [KINDS[i] for i in (0, 1, 2, 16, 39, 79)] == [
        "person", "bicycle", "car", "dog", "bottle", "toothbrush"]


def test_cells_are_counted_row_by_row():
    for stride in STRIDES:
        centres = _cell_centres(INPUT, stride)
        assert len(centres) == (416 // stride) * (256 // stride)
        assert centres[1].tolist() == [1.5 * stride, 0.5 * stride]


def test_faces_are_looked_for_where_heads_are():
    x, y, w, h = _head_region((400, 100, 200, 700), (1080, 1920, 3))
    assert x < 400 and y < 100 and x + w > 600 and y + h > 300 and y + h < 700
    x, y, w, h = _head_region((0, 0, 900, 400), (1080, 1920, 3))
    assert (x, y) == (0, 0) and h >= 400


def test_a_missing_model_is_told():
    with pytest.raises(InstallError, match="missing"):
        open_model("nothing.onnx", 1)


def test_looks_come_back_in_order_with_where_flow_carried_them(demo, truth):
    """The demo's walker, by the real detectors: flow agrees with how far she truly went."""
    shot = next(i for i, row in enumerate(truth["shots"]) if row["name"] == "walker")
    start = demo.shots[shot].start + 40
    reader = ProxyReader(AnalysisStore(demo.content_key).proxy, demo.master.frame_rate)
    looks = DetectionPass((960, 540), (1920, 1080), 25.0, start)
    for number in range(start, start + 21):
        planes = reader.planes(number)
        half, tiny = looks.shrink(planes.y)
        looks.step(number, tiny, half, planes if (number - start) % 10 == 0 else None)
    looks.finish()
    found = looks.take(start, start + 21).looks
    looks.close()
    reader.close()
    assert [frame for frame, _ in found] == [start, start + 10, start + 20]
    true = true_boxes(truth, shot, "Wren", "person")
    person = max((sighting for sighting in found[0][1] if sighting.seen.kind == "person"),
                 key=lambda sighting: overlap(sighting.seen.box, true[start]))
    assert overlap(person.seen.box, true[start]) > 0.6
    went = true[start + 10][0] - true[start][0] + (true[start + 10][2] - true[start][2]) / 2
    assert person.drift[9][0] == pytest.approx(went, abs=60)


def test_what_a_detector_raises_comes_back():
    looks = DetectionPass((320, 180), (1920, 1080), 25.0)
    picture = _texture((180, 320))
    half, tiny = looks.shrink(picture)
    looks.step(0, tiny, half, Planes(picture, half, half))
    looks._looker.result()._objects.find = None  # a detector that is broken
    looks.step(1, tiny, half, Planes(picture, half, half))
    with pytest.raises(TypeError, match="callable"):
        looks.finish()
    looks.close()
