"""Versions by chance of a film that counts: speeds, ranges, cards, dissolves, rates and parts.

    .venv/bin/python benchmarks/times.py [COUNT] [FIRST_SEED]
    .venv/bin/python benchmarks/times.py rates

Prints how many frames and beeps were compared with the arithmetic of ``tests/time_judge.py``, and
every one that was wrong. 100 versions unless another number is given. With ``rates``, every rate
that a sheet may ask for is made of a film of every common rate.
"""

import itertools
import sys
import tempfile
from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path

from caracal.core.base.time import FrameRange

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from time_judge import Case, case_of, judged

NTSC = [Fraction(whole * 1000, 1001) for whole in (24, 30, 48, 60, 120)]
MASTERS = [*map(Fraction, (15, 24, 25, 30, 48, 50, 60, 100, 120)), *NTSC]
ALLOWED = (23.976, 24.0, 25.0, 29.97, 30.0, 47.95, 48.0, 50.0, 59.94, 60.0, 119.88)


def every_rate() -> Iterable[Case]:
    """A sheet for each allowed rate, and a film of each common one: three seconds of it."""
    for rate, out in itertools.product(MASTERS, ALLOWED):
        yield Case(rate, (FrameRange(3, 3 + int(3 * rate)),), out=out, blend=out in (25.0, 59.94))


def main() -> None:
    """Judge versions, and print what was found."""
    asked = sys.argv[1:]
    first = int(asked[1]) if len(asked) > 1 else 0
    cases = list(every_rate()) if asked == ["rates"] else [
        case_of(seed) for seed in range(first, first + int([*asked, "100"][0]))]
    frames = beeps = wrong = 0
    for number, case in enumerate(cases, first):
        with tempfile.TemporaryDirectory() as folder:
            found = judged(case, Path(folder))
        frames, beeps = frames + found.frames, beeps + found.beeps
        if found.wrong:
            wrong += 1
            print(f"{number}: {case}\n    " + "\n    ".join(found.wrong[:6]), flush=True)
    print(f"{len(cases)} versions, {frames} frames and {beeps} beeps compared: {wrong} versions "
          "wrong")


if __name__ == "__main__":
    main()
