"""Damaged, odd and hostile inputs of every kind, through the real command line.

    python benchmarks/hostile.py [COUNT] [SEED]

Prints how many ended in a traceback, a crash or a hang, how many files are proved and wrong (by
FFmpeg's reading of the master), what was changed outside, and what asked the network. All should
be 0. COUNT is the least number of inputs, 420 unless another is given.
"""

from __future__ import annotations

import hashlib
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from fractions import Fraction
from importlib import import_module
from itertools import chain, islice
from pathlib import Path

os.environ["OMP_NUM_THREADS"] = "1"

from caracal.cli import entry
from caracal.core.children import command, environment, share_server, warm_up
from caracal.core.errors import CaracalError
from caracal.core.project.cutlist import read_cut_list
from hostile_case import FRAMES, Case, Place
from hostile_inputs import (
    clips,
    cut_lists,
    damaged_films,
    desks,
    folders,
    names,
    odd_files,
    odd_films,
    projects,
    sheets,
)

HANG_S = 90.0
QUIET_DB = -50.0  # a master as loud as this is heard
LOST_DB = -75.0  # a file as quiet as this is silent
CLIPS = 40
IMPORTED = ("cli.steps", "cli.batch")  # what commands import when they are given
SHORT = 100  # fewer inputs than this are some of each kind
LIKE = 0.80  # structural similarity to the master, all frames together


def ran(case: Case, log: Path) -> tuple[str, str]:
    """(how a case ended, what was said): its words go through the real entry, in a process."""
    child = os.fork()
    if child == 0:
        os.setsid()
        share_server()
        with log.open("wb") as out:
            os.dup2(out.fileno(), 1)
            os.dup2(out.fileno(), 2)
        sys.argv = ["caracal", *case.words]
        try:
            code = entry.main()
        except SystemExit as problem:
            code = problem.code if isinstance(problem.code, int) else 1
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)
    end = time.monotonic() + HANG_S
    while time.monotonic() < end:
        done, status = os.waitpid(child, os.WNOHANG)
        if done:
            said = log.read_text(errors="replace")
            if os.WIFSIGNALED(status):
                return "crash", said
            code = os.waitstatus_to_exitcode(status)
            if "Traceback" in said:
                return "traceback", said
            return ("unforeseen" if "nobody foresaw" in said else
                    "odd code" if code not in (0, 1, 2) else str(code)), said
        time.sleep(0.01)
    os.killpg(child, signal.SIGKILL)
    os.waitpid(child, 0)
    return "hang", log.read_text(errors="replace")


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


def state_of(place: Place) -> str:
    """What must not change: the precious folder and the good film."""
    every = [*sorted(place.precious.rglob("*")), place.base]
    return "|".join(f"{path}:{hashlib.sha256(path.read_bytes()).hexdigest()}" for path in every)


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


def read_lists(place: Place, chance: random.Random) -> Counter[str]:
    """Cut lists through the core: a sentence or a list, nothing else."""
    ends: Counter[str] = Counter()
    for path in cut_lists(place, chance):
        try:
            read_cut_list(path, Fraction(25), FRAMES)
            ends["0"] += 1
        except CaracalError:
            ends["2"] += 1
        except Exception as problem:  # noqa: BLE001 - what is looked for
            print(f"  {path.name}: {problem!r}")
            ends["traceback"] += 1
    return ends


def cases(place: Place, chance: random.Random, count: int) -> list[Case]:
    """At least ``count`` inputs; the random kinds fill up what the fixed ones leave."""
    fixed = chain(odd_films(place), odd_files(place), names(place), desks(place), folders(place))
    if count < SHORT:  # a short form: some of each, but those that tests/test_odd_films.py has
        short = [*islice(odd_films(place), 9, 10), *islice(odd_files(place), 0, 12, 6),
                 *islice(names(place), 1), *islice(desks(place), 1),
                 *islice(folders(place), 9, 11)]
        return [*short, *islice(sheets(place, chance), 0, 60, 30),
                *islice(projects(place, chance), 1), *islice(damaged_films(place, chance), 3),
                *islice(clips(place, chance), 2)]
    every = list(fixed)
    every += islice(clips(place, chance), CLIPS)
    share = max(0, count - len(every)) // 3 + 1
    return [*every, *islice(sheets(place, chance), share), *islice(projects(place, chance), share),
            *islice(damaged_films(place, chance), share)]


def main(count: int = 420, seed: int = 1) -> Counter[str]:
    """Run all of them; what went wrong, by kind, with what ended well."""
    for name in IMPORTED:  # once for all: each is run in a fork
        import_module(f"caracal.{name}")
    warm_up()
    chance, ends = random.Random(seed), Counter[str]()
    with tempfile.TemporaryDirectory(prefix="caracal-hostile-") as folder:
        for name in ("CACHE", "STATE", "CONFIG"):
            os.environ[f"CARACAL_{name}"] = f"{folder}/own/{name.lower()}"
        place = Place(Path(folder))
        before, proved = state_of(place), 0
        every = cases(place, chance, count)
        for case in every:
            end, said = ran(case, place.new("said"))
            ends[end] += 1
            if end not in ("0", "1", "2"):
                print(f"  {end}: {case.kind}: {' '.join(case.words)[:160]!r}: {said[-300:]}",
                      flush=True)
            if end == "0" and case.words[0] == "convert":
                proved += 1
                wrong = judged(case)
                ends["wrong"] += bool(wrong)
                if wrong:
                    print(f"  proved and wrong: {case.film}: {wrong}", flush=True)
            if end == "2" and said.count("\n") > 1 + (case.words[0] == "batch"):
                print(f"  more than a sentence: {case.words}: {said[-300:]}")
        lists = read_lists(place, chance)
        ends["traceback"] += lists["traceback"]
        ends["outside"] += state_of(place) != before
        ends["requests"] += requests(place, count < SHORT)
        ends["inputs"] = len(every) + lists.total()
        ends["proved"] = proved
    return ends


def summary(ends: Counter[str]) -> str:
    """The counts in words."""
    return (f"{ends['inputs']} inputs: {ends['0']} done ({ends['proved']} films proved), "
            f"{ends['1']} failed, {ends['2']} refused. Tracebacks {ends['traceback']}, crashes "
            f"{ends['crash']}, hangs {ends['hang']}, unforeseen {ends['unforeseen']}, odd exit "
            f"codes {ends['odd code']}, wrong but proved {ends['wrong']}, files outside "
            f"{ends['outside']}, requests {ends['requests']}")


if __name__ == "__main__":
    print(summary(main(*map(int, sys.argv[1:]))))
