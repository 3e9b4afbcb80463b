"""The models that ship: the int8 form of a detector against the float one, and who uses it."""

import numpy as np
import onnxruntime
import pytest

from caracal.core.analysis.detectors.network import brightened
from caracal.core.analysis.detectors.objects import ObjectDetector
from caracal.core.analysis.detectors.processor import flags_say_int8, has_int8_products
from caracal.core.analysis.film_pass.detection_pass import Detectors
from caracal.core.base.geometry import overlap
from caracal.core.base.resources import model
from caracal.core.media.planes import to_rgb
from filmed_clips import pictures

SEEN = 0.4  # a score that both must agree on


def detector(name):
    """The detector by one of its models, whatever this machine would choose."""
    made = ObjectDetector()
    made._quick = onnxruntime.InferenceSession(
        str(model(name)), providers=["CPUExecutionProvider"])
    return made


@pytest.mark.skipif(not has_int8_products(), reason="8-bit sums overflow on this processor")
@pytest.mark.parametrize(("clip", "step"), [("bikes", 40), ("carphone_pristine", 60)])
def test_integers_see_what_floats_see_in_filmed_pictures(clip, step):
    exact, quick = detector("objects.onnx"), detector("objects-int8.onnx")
    compared = 0
    for planes in pictures(clip)[::step]:
        picture = to_rgb(planes)
        found = quick.find(picture)
        for thing in exact.find(picture):
            if thing.score >= SEEN:
                compared += 1
                same = [other for other in found if other.kind == thing.kind]
                assert max(overlap(thing.box, other.box) for other in same) > 0.6
    assert compared >= 2


def test_dark_pictures_are_looked_at_with_floats():
    """Seen on a drawn film in low light: integers lost somebody in a fifth of its frames."""
    chosen, exact = Detectors(), Detectors()
    exact._objects = detector("objects.onnx")
    bright = to_rgb(pictures("carphone_pristine")[0])
    night = np.random.default_rng(3).normal(bright * 0.35, 8).clip(0, 255).astype(np.uint8)
    assert brightened(night) is not night and brightened(bright) is bright
    assert chosen._things(brightened(night), False, True) == exact._objects.find(brightened(night))
    assert chosen.find(night) == exact.find(night)


@pytest.mark.parametrize(("text", "has"), [
    ("flags : fpu sse4_2 avx2 avx512_vnni", True), ("flags : fpu avx2 avx_vnni\n", True),
    ("flags : fpu sse4_2 avx2", False), ("Features : fp asimd", False), ("", False),
    ("flags : avx_vnni\nflags : avx2", False),  # cores of two kinds: a thread may run on either
])
def test_a_processor_says_what_it_can_do(tmp_path, text, has):
    """The kernel's names of the instructions: Documentation/arch/x86/cpuinfo.rst."""
    (tmp_path / "cpuinfo").write_text(text)
    assert flags_say_int8(tmp_path / "cpuinfo") is has
    assert not flags_say_int8(tmp_path / "no such file")
