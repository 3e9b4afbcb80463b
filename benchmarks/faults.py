"""Fault runs: the batch is killed at random moments, and each time started again.

    python benchmarks/faults.py [KILLS] [SEED]

Every third time two batches work into one folder. After every kill no half-made file may have a
final name; at the end every line must be done and every file proved, none twice. Prints what was
found.
"""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import msgspec

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import FrameRange
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import EncodeJob, State
from caracal.core.convert import Recipe
from caracal.core.encoding.proof import prove
from caracal.core.processes.children import command, environment
from caracal.core.specs.sheet_store import find_sheet, write_sheet


def small(name: str, canvas: tuple[int, int]) -> Recipe:
    """A version that is quick to make."""
    return Recipe(msgspec.structs.replace(find_sheet(name), name=f"small-{name}", canvas=canvas))


def start(path: Path) -> subprocess.Popen[bytes]:
    """The process that works off the list, in a group of its own."""
    return subprocess.Popen(command("core.batch.runner", str(path)), env=environment(),
                            start_new_session=True)


def convert(film: Path, sheet: Path, folder: Path) -> subprocess.Popen[bytes]:
    """Another process that makes a file of the same folder, on its own."""
    return subprocess.Popen(
        command("cli", "convert", str(film), "--spec", str(sheet), "--out", str(folder), "--from",
                "16", "--to", "19"), env=environment(), start_new_session=True,
        stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)


def films(folder: Path) -> list[Path]:
    """Ten films: the demo under ten names, so that each is a decode of its own."""
    made = [folder / f"film {i}.mp4" for i in range(10)]
    for path in made:
        if not path.is_symlink():
            path.symlink_to(DEMO_FILM)
    return made


def check(folder: Path, wanted: dict[str, Recipe]) -> int:
    """How many files have a final name; exits when one of them is not right."""
    files = [path for path in folder.glob("*") if path.suffix != ".part"]
    for file in files:
        sheet = next(w.sheet for name, w in wanted.items() if name in file.name)
        if not prove(file, sheet).right:
            sys.exit(f"{file} is not right")
    return len(files)


def main() -> None:
    kills = int(sys.argv[1]) if len(sys.argv) > 1 else 20
    chance = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    wanted = {recipe.sheet.name: recipe for recipe in (
        small("square-feed", (320, 320)), small("vertical-short", (270, 480)))}
    analyse(DEMO_FILM)  # kept: the kills are to hit the making
    with tempfile.TemporaryDirectory() as place:
        folder, path = Path(place) / "out", Path(place) / "list.sqlite"
        with BatchList(path) as jobs:
            jobs.add(EncodeJob(str(film), str(folder), msgspec.structs.replace(
                recipe, ranges=(FrameRange(400, 475),)))
                     for film in films(Path(place)) for recipe in wanted.values())
        sheet = Path(place) / "small.toml"
        write_sheet(wanted["small-square-feed"].sheet, sheet)
        others = 0
        for number in range(kills):
            runner = start(path)
            beside = convert(films(Path(place))[0], sheet, folder) if number % 3 == 0 else None
            time.sleep(chance.uniform(0.5, 7.0))
            if beside is not None:
                if number % 2:
                    os.killpg(beside.pid, signal.SIGKILL)
                others += beside.wait() == 0
            os.kill(runner.pid, signal.SIGKILL) if number % 2 else os.killpg(
                runner.pid, signal.SIGKILL)
            runner.wait()
            time.sleep(0.5)  # those that were left behind notice
            print(f"kill {number + 1}: {check(folder, wanted)} files so far, all proved",
                  flush=True)
        start(path).wait()
        with BatchList(path) as jobs:
            states = [item.state for item in jobs.items()]
            for item in jobs.items():
                if item.state is not State.DONE:
                    print(f"  {item.state}: {item.job.master}: {item.status.problem}")
            files = [made.file for item in jobs.items() for made in item.status.made]
        left = [path.name for path in folder.glob("*.part*")]
        print(f"{states.count(State.DONE)} of {len(states)} lines done, {len(set(files))} files, "
              f"{others} made beside them, {check(folder, wanted)} in the folder, half-made left: "
              f"{left}")
        if len(set(files)) != len(states) or check(folder, wanted) != len(states) + others:
            sys.exit("Something was lost, or made twice.")


if __name__ == "__main__":
    main()
