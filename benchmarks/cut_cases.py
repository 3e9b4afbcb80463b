"""Where cuts are hard to tell: whip pans, flashes, strobes, a hand before the lens, jump cuts,
wipes, a picture in the picture, fades through black and white, grain, judder, a hand-held camera.

    .venv/bin/python benchmarks/cut_cases.py

Each case is a few seconds over the drawn backdrops of stress.py; prints what was found and what is
true, and the precision and recall of hard cuts and of gradual ones over all.
"""

from collections.abc import Callable
from fractions import Fraction

import cv2
import numpy as np

from caracal.core.analysis.cuts.cut_finder import CutFinder
from caracal.core.analysis.model import Transition
from caracal.core.media.planes import Planes
from stress import planes_of_bgr, world
from stress_judge import f1

SIZE = (640, 360)
Pictures = list[np.ndarray]
Truth = tuple[list[int], list[tuple[int, int]]]  # hard cuts, gradual spans

RNG = np.random.default_rng(11)
PLACES = [cv2.resize(world(seed), (1067, 360), interpolation=cv2.INTER_AREA)
          for seed in (0, 1, 2, 3)]


def view(place: int, x: float, y: float = 0.0) -> np.ndarray:
    """The camera's view of a place from ``x``, ``y`` on."""
    move = np.array([[1, 0, -x], [0, 1, -y]], np.float32)
    return cv2.warpAffine(PLACES[place], move, SIZE, borderMode=cv2.BORDER_REFLECT)


def shot(place: int, frames: int, x: float = 100.0, walker: float | None = None) -> Pictures:
    """A still camera; somebody dark walks across from ``walker`` on."""
    made = []
    for k in range(frames):
        picture = view(place, x).copy()
        if walker is not None:
            at = int(walker + 4 * k)
            cv2.ellipse(picture, (at, 220), (28, 110), 0, 0, 360, (50, 60, 90), -1)
        made.append(picture)
    return made


def mixed(a: np.ndarray, b: np.ndarray, share: float) -> np.ndarray:
    """``b`` over ``a`` with weight ``share``."""
    return cv2.addWeighted(b, share, a, 1 - share, 0)


def grainy(made: Pictures, amount: float = 12.0) -> Pictures:
    """Film grain: new in every frame."""
    return [np.clip(array + RNG.normal(0, amount, (*array.shape[:2], 1)), 0, 255).astype(np.uint8)
            for array in made]


def whip() -> tuple[Pictures, Truth]:
    """Stands, whips over in eight frames, stands: one shot."""
    xs = np.concatenate([np.full(40, 20.0), np.linspace(20, 400, 8), np.full(40, 400.0)])
    return [view(0, x) for x in xs], ([], [])


def flash() -> tuple[Pictures, Truth]:
    """Two white frames in a shot, and one in another after a cut."""
    made = [*shot(1, 50, walker=40), *shot(2, 50)]
    made[20] = made[21] = made[75] = np.full_like(made[0], 255)
    return made, ([50], [])


def strobe() -> tuple[Pictures, Truth]:
    """Light and dark by turns, for two seconds."""
    made = shot(1, 90, walker=60)
    for k in range(20, 70, 3):
        made[k] = cv2.convertScaleAbs(made[k], alpha=0.25)
    return made, ([], [])


def hand() -> tuple[Pictures, Truth]:
    """Something blurred and dark passes close by."""
    made = shot(2, 90, walker=20)
    for k in range(14):
        cv2.ellipse(made[40 + k], (-200 + 80 * k, 180), (190, 330), 0, 0, 360, (40, 50, 70), -1)
        made[40 + k] = cv2.GaussianBlur(made[40 + k], (0, 0), 9)
    return made, ([], [])


def jump() -> tuple[Pictures, Truth]:
    """The same place, the walker elsewhere."""
    return [*shot(1, 40, walker=40), *shot(1, 40, x=112.0, walker=330)], ([40], [])


def wipe() -> tuple[Pictures, Truth]:
    """From the left, in fifteen frames."""
    a, b = shot(0, 60), shot(2, 60)
    made = a[:45]
    for k in range(15):
        picture, at = a[45 + k].copy(), SIZE[0] * (k + 1) // 16
        picture[:, :at] = b[k][:, :at]
        made.append(picture)
    return [*made, *b[15:]], ([], [(45, 60)])


def inset() -> tuple[Pictures, Truth]:
    """A picture in the corner changes; the rest is one shot."""
    made = shot(1, 90, walker=40)
    for k in range(90):
        small = cv2.resize(view(0 if k < 45 else 3, 80), (190, 107), interpolation=cv2.INTER_AREA)
        made[k][20:127, 430:620] = small
    return made, ([], [])


def fade(level: int) -> Callable[[], tuple[Pictures, Truth]]:
    """Out to a plain picture and in again."""
    def case() -> tuple[Pictures, Truth]:
        a, b = shot(0, 50, walker=30), shot(2, 50, walker=200)
        plain = np.full_like(a[0], level)
        out = [mixed(array, plain, (k + 1) / 12) for k, array in enumerate(a[-12:])]
        into = [mixed(plain, array, (k + 1) / 12) for k, array in enumerate(b[:12])]
        return [*a[:-12], *out, *[plain] * 5, *into, *b[12:]], ([], [(38, 67)])
    return case


def grain() -> tuple[Pictures, Truth]:
    """A cut and a dissolve under heavy grain."""
    a, b, c = shot(0, 50), shot(1, 60, walker=50), shot(2, 50)
    mix = [mixed(b[40 + k], c[k], (k + 1) / 21) for k in range(20)]
    return grainy([*a, *b[:40], *mix, *c[20:]]), ([50], [(90, 110)])


def judder() -> tuple[Pictures, Truth]:
    """24 frames a second shown at 60, a pan and a cut."""
    film = [*(view(0, 6.0 * k) for k in range(30)), *(view(3, 300 - 6.0 * k) for k in range(30))]
    made = [film[int(k * 24 / 60)] for k in range(150)]
    return made, ([75], [])


def handheld() -> tuple[Pictures, Truth]:
    """Shaken by hand, a cut half-way."""
    made = []
    for k in range(100):
        x = 120 + 14 * np.sin(k * 0.5) + RNG.normal(0, 3)
        made.append(view(0 if k < 50 else 1, x, 8 * np.sin(k * 0.37) + RNG.normal(0, 2)))
    return made, ([50], [])


CASES: dict[str, Callable[[], tuple[Pictures, Truth]]] = {
    "whip pan": whip, "flash": flash, "strobe": strobe, "hand before the lens": hand,
    "jump cut": jump, "wipe": wipe, "picture in the picture": inset,
    "through black": fade(0), "through white": fade(255), "grain": grain, "judder": judder,
    "hand-held": handheld,
}


def found_in(made: Pictures, rate: int) -> Truth:
    """Hard cuts, and the middles of gradual ones, as spans."""
    finder, every = CutFinder(Fraction(rate)), []
    for number, picture in enumerate(made):
        y, u, v = planes_of_bgr(picture)
        finder.add(number, cv2.resize(y, (160, 90), interpolation=cv2.INTER_AREA),
                   Planes(np.array(y), np.array(u), np.array(v)))
        every += finder.settled()
    every += finder.finish(len(made))
    return ([boundary.frame for boundary in every if boundary.kind is Transition.CUT],
            [(boundary.frame, boundary.frame) for boundary in every
             if boundary.kind is not Transition.CUT])


def main() -> None:
    """All cases."""
    hard, soft = np.zeros(3, int), np.zeros(3, int)
    for name, case in CASES.items():
        made, (cuts, spans) = case()
        got, mixes = found_in(made, 60 if name == "judder" else 25)
        right = len(set(cuts) & set(got))
        inside = sum(any(a <= at < b for at, _ in mixes) for a, b in spans)
        hard += (right, len(got), len(cuts))
        soft += (inside, len(mixes), len(spans))
        print(f"{name:24} cuts {got} (true {cuts}), gradual {[at for at, _ in mixes]} "
              f"(true {spans})")
    print(f"hard cuts F1 {f1(*hard):.3f}, gradual F1 {f1(*soft):.3f}")


if __name__ == "__main__":
    main()
