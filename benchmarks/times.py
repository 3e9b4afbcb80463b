"""Versions by chance of a film that counts: speeds, ranges, cards, dissolves, rates and parts.

    .venv/bin/python benchmarks/times.py [COUNT] [FIRST_SEED]

Prints how many frames and beeps were compared with the arithmetic of ``tests/time_judge.py``, and
every one that was wrong. 100 versions unless another number is given.
"""

import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from time_judge import case_of, judged


def main() -> None:
    """Judge versions, and print what was found."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    frames = beeps = wrong = 0
    for seed in range(first, first + count):
        with tempfile.TemporaryDirectory() as folder:
            found = judged(case_of(seed), Path(folder))
        frames, beeps = frames + found.frames, beeps + found.beeps
        if found.wrong:
            wrong += 1
            print(f"{seed}: {case_of(seed)}\n    " + "\n    ".join(found.wrong[:6]), flush=True)
    print(f"{count} versions, {frames} frames and {beeps} beeps compared: {wrong} versions wrong")


if __name__ == "__main__":
    main()
