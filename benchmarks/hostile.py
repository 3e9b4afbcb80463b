"""Damaged, odd and hostile inputs of every kind, through the real command line and the real window.

    python benchmarks/hostile.py [COUNT] [SEED] [KIND ...]

Prints how many of each kind ended in anything but what was asked for or a sentence: a traceback, a
crash, a hang, a file that is proved and wrong (by FFmpeg's reading of the master), something that
was changed outside, lost, or left behind (temporary files, processes), a request to the network.
All should be 0. COUNT is about how many inputs of the random kinds there are, 1000 unless another
is given; the fixed kinds come on top. With KINDs only those are tried.
"""

from __future__ import annotations

import os
import random
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Iterator
from importlib import import_module
from itertools import islice
from pathlib import Path

os.environ["OMP_NUM_THREADS"] = "1"

from caracal.core.processes.children import command, environment, leave, warm_up
from hostile_assets import catalogues, drawings, fonts, logos, pictures
from hostile_case import Case, Place, Trial, adopt, left_behind, run_forked, wrong_end
from hostile_handing_over import bundles, cut_lists, sheets_proved
from hostile_inputs import (
    clips,
    damaged_films,
    desks,
    folders,
    names,
    odd_files,
    odd_films,
    projects,
    sheets,
)
from hostile_own_files import flips, in_the_way, links
from hostile_projects import numbers
from hostile_running import bare, signals, stand_still, traps, vanishing
from hostile_windows import autosaves, windows

QUIET_DB = -50.0  # a master as loud as this is heard
LOST_DB = -75.0  # a file as quiet as this is silent
IMPORTED = ("cli.steps", "cli.batch")  # what commands import when they are given
SHORT = 100  # fewer inputs than this are some of each kind
LIKE = 0.80  # structural similarity to the master, all frames together

Inputs = Iterator[Case] | Iterator[Trial]
FIXED: dict[str, Callable[[Place], Inputs]] = {
    "odd films": odd_films, "odd files": odd_files, "names": names, "desks": desks,
    "folders": folders, "environment": bare, "traps": traps, "logos": logos, "links": links,
    "in the way": in_the_way, "windows": windows,
}
RANDOM: dict[str, tuple[int, Callable[[Place, random.Random], Inputs]]] = {  # of 1000, how many
    "damaged films": (90, damaged_films), "clips": (40, clips), "hostile sheets": (70, sheets),
    "projects": (70, projects), "bits": (110, flips), "cut lists": (200, cut_lists),
    "drawings": (70, drawings), "pictures": (40, pictures), "fonts": (50, fonts),
    "numbers": (100, numbers), "catalogues": (70, catalogues), "autosaves": (30, autosaves),
    "bundles": (15, bundles),
    "accepted sheets": (60, sheets_proved), "signals": (50, signals),
    "standing still": (35, stand_still), "vanishing": (50, vanishing),
}


def tried(each: Case | Trial, place: Place, ends: Counter[str]) -> str:
    """What is wrong with one input; nothing if all is right."""
    if isinstance(each, Trial):
        return each.run()
    end, said = run_forked(each.words, place.new("said"), place.variables())
    ends[end] += 1
    wrong = wrong_end(end, said, 1 + (each.words[0] == "batch"))
    if not wrong and end == "0" and each.words[0] == "convert":
        ends["proved"] += 1
        wrong = judged(each)
    return wrong


def judged(case: Case) -> str:
    """What is wrong with the file that was made of a whole film; nothing if it is right.

    FFmpeg reads the master and the file: frames, sound, and how like the pictures are.
    """
    out = Path(case.words[case.words.index("--out") + 1])
    made = [path for path in out.glob("*.mp4") if not path.name.startswith("not proved")]
    if not case.exact or case.film is None or not made:
        return ""
    film, file = case.film, made[0]
    meant, found = frames(film), frames(file)
    if abs(meant - found) > 0:
        return f"{found} frames of {meant}"
    if loudest(film) > QUIET_DB and loudest(file) < LOST_DB:
        return "silent"
    like = likeness(film, file)
    return "" if like > LIKE else f"pictures are like by {like:.2f}"


def told(*words: str | Path) -> str:
    """What a program of FFmpeg says."""
    return subprocess.run([*map(str, words)], capture_output=True, text=True, check=False,
                          errors="replace").stdout


def film_stream(path: Path) -> str:
    """Which picture stream is the film: not the cover."""
    rows = told("ffprobe", "-v", "error", "-select_streams", "v", "-count_packets", "-show_entries",
                "stream=index,nb_read_packets", "-of", "csv=p=0", f"file:{path}").split()
    return max((row.strip(",").split(",") for row in rows), key=lambda row: int(row[1]))[0]


def frames(path: Path) -> int:
    """Decoded pictures."""
    count = told("ffprobe", "-v", "error", "-select_streams", film_stream(path), "-count_frames",
                 "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0", f"file:{path}")
    return int(count.split(",")[0].split()[0])


def loudest(path: Path) -> float:
    """The largest sample in dB; -120 without sound."""
    done = subprocess.run(["ffmpeg", "-nostdin", "-i", f"file:{path}", "-map", "0:a:0?", "-af",
                           "volumedetect", "-f", "null", "-"], capture_output=True, text=True,
                          check=False, errors="replace").stderr
    rows = [row for row in done.splitlines() if "max_volume" in row]
    return float(rows[-1].split()[-2]) if rows else -120.0


def likeness(film: Path, file: Path) -> float:
    """FFmpeg's structural similarity of both, frame by frame."""
    done = subprocess.run(
        ["ffmpeg", "-nostdin", "-i", f"file:{file}", "-i", f"file:{film}", "-filter_complex",
         f"[0:v]setpts=N/25/TB[a];[1:{film_stream(film)}]scale=320:180,setpts=N/25/TB[b];"
         "[a][b]ssim", "-f",
         "null", "-"], capture_output=True, text=True, check=False, errors="replace").stderr
    rows = [row for row in done.splitlines() if "SSIM" in row]
    return float(rows[-1].split("All:")[1].split()[0]) if rows else 0.0


def requests(place: Place, short: bool) -> int:
    """Sockets to anywhere that a look opens, and, if not ``short``, a conversion and a batch
    (strace).
    """
    count = 0
    commands = (("look", str(place.base)), place.convert(place.base),
                ("batch", str(place.base), "--spec", str(place.sheet), "--out",
                 str(place.new("traced"))))
    for words in commands[: 1 if short else 3]:
        trace = place.new("trace")
        subprocess.run(["strace", "-f", "-qq", "-o", str(trace), "-e", "trace=socket,connect",
                        *command("cli", *words)], env=environment(), check=False,
                       capture_output=True)
        count += sum("AF_INET" in row for row in trace.read_text().splitlines())
    return count


def chosen(
    place: Place, chance: random.Random, count: int, kinds: tuple[str, ...]
) -> Iterator[tuple[str, Case | Trial]]:
    """The inputs with their kinds; the folders that they need are made on the way."""
    if count < SHORT:  # a short form: some of each, but those that other tests have
        for name, first, last in (("odd films", 9, 10), ("odd files", 0, 2), ("names", 0, 1),
                                  ("desks", 0, 1), ("folders", 9, 11)):
            yield from ((name, each) for each in islice(FIXED[name](place), first, last))
        for name, most in (("hostile sheets", 40), ("projects", 1), ("damaged films", 3),
                           ("clips", 2), ("cut lists", 20), ("drawings", 2), ("bits", 7),
                           ("catalogues", 2), ("signals", 1), ("bundles", 1)):
            step = 20 if most == 40 else 1
            yield from ((name, each) for each in
                        islice(RANDOM[name][1](place, chance), 0, most, step))
        return
    for name, make in FIXED.items():
        if not kinds or name in kinds:
            yield from ((name, each) for each in make(place))
    for name, (share, of_seed) in RANDOM.items():
        if not kinds or name in kinds:
            yield from ((name, each) for each in
                        islice(of_seed(place, chance), max(1, share * count // 1000)))


def main(count: int = 1000, seed: int = 1, kinds: tuple[str, ...] = ()) -> dict[str, Counter[str]]:
    """Try all of them; what was tried and what went wrong, by kind, and how cases ended."""
    for name in IMPORTED:  # once for all: each is run in a fork
        import_module(f"caracal.{name}")
    chance, found, ends = random.Random(seed), dict[str, Counter[str]](), Counter[str]()
    with tempfile.TemporaryDirectory(prefix="caracal-hostile-") as folder:
        place = Place(Path(folder))
        os.environ.update(place.variables())
        tempfile.tempdir = str(place.temporary)  # the library asks the environment only once
        adopt()
        warm_up()
        place.settle()
        before = place.state()
        for kind, each in chosen(place, chance, count, kinds):
            wrong = tried(each, place, ends)
            left = left_behind(place)
            if place.state() != before:
                wrong += " changed something outside"
                before = place.state()
            of_kind = found.setdefault(kind, Counter())
            of_kind["inputs"] += 1
            of_kind["wrong"] += bool(wrong)
            of_kind["left"] += bool(left)
            if wrong or left:
                name = each.name if isinstance(each, Trial) else " ".join(each.words)
                print(f"  {kind}: {name[:300]!r}: {wrong} {left and 'LEFT ' + left}", flush=True)
                place.settle()
        if not kinds:
            ends["requests"] = requests(place, count < SHORT)
    found["all"] = sum(found.values(), Counter[str]()) + ends
    return found


def summary(found: dict[str, Counter[str]]) -> str:
    """The counts in words."""
    rows = [f"{kind}: {each['inputs']} inputs, {each['wrong']} wrong, {each['left']} left something"
            for kind, each in found.items() if kind != "all"]
    ends = found["all"]
    return "\n".join([*rows, (
        f"{ends['inputs']} inputs: {ends['wrong']} wrong, {ends['left']} left something behind, "
        f"requests {ends['requests']}. Of films and texts {ends['0']} were done ({ends['proved']} "
        f"proved and compared), {ends['1']} failed, {ends['2']} refused.")])


if __name__ == "__main__":
    counts = [int(word) for word in sys.argv[1:3]]
    total = main(*counts, kinds=tuple(sys.argv[3:]))
    print(summary(total))
    leave(int(any(total["all"][name] for name in ("wrong", "left", "requests"))))
