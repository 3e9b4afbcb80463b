"""Speeds, ranges, cards, dissolves, rates and parts together: what is in the files, frame by frame.

The cases are by chance and always the same; ``benchmarks/times.py`` tries as many others as wished.
"""

from fractions import Fraction

import numpy as np
import pytest

from caracal.core.base.time import FrameRange
from time_judge import Case, case_of, code, judged, spans

NTSC = Fraction(30000, 1001)


def test_the_judge_counts_as_on_paper():
    """Ten frames of a card, 20 frames at half speed (40), and 30 at double speed (15)."""
    case = Case(Fraction(25), (FrameRange(0, 20, 50), FrameRange(40, 70, 200)), opening=10)
    assert [(float(a), float(b)) for a, b, _ in spans(case)] == [(0, 10), (10, 50), (50, 65)]
    assert list(code(5)) == [1, 1, 1, 0, 0, 0, 0, 0, 0]  # 101 in Gray's code is 111
    assert all(np.abs(code(at) - code(at + 1)).sum() == 1 for at in range(510))


@pytest.mark.parametrize("case", [
    Case(Fraction(25), (FrameRange(5, 45, 50, repeated=True), FrameRange(60, 120, dissolve=8),
                        FrameRange(130, 190, 200)), 13, 40, 29.97, parts=True),
    Case(NTSC, (FrameRange(0, 60, 25), FrameRange(70, 130, 400, dissolve=10)), 0, 13, 25.0, True),
    Case(Fraction(50), (FrameRange(10, 90, 80), FrameRange(100, 200, 150, dissolve=6)), 40, 0,
         24.0),
    *(case_of(seed) for seed in (3, 14)),
], ids=str)
def test_every_frame_and_every_beep_is_where_it_belongs(tmp_path, case):
    found = judged(case, tmp_path)
    assert not found.wrong, "\n".join(found.wrong[:8])
    meant = sum(float(b - a) for a, b, _ in spans(case)) / float(case.rate)
    assert found.frames > 10 * meant and np.isfinite(found.beeps)
