"""Spec sheets of every kind that the program accepts, from a seed: each must make a proved file.

    python benchmarks/random_sheets.py [COUNT] [SEED]

Makes two seconds of a small film by each of COUNT sheets (60 unless another is given), and prints
those that end in anything but a proved file. All should be none. Used by hostile.py as well.
"""

from __future__ import annotations

import os
import random
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("OMP_NUM_THREADS", "1")

import msgspec

from caracal.core.base.errors import CaracalError, InputError
from caracal.core.base.resources import DEMO_FILM
from caracal.core.convert import convert
from caracal.core.project.recipe import Recipe
from caracal.core.specs.checks import problems
from caracal.core.specs.codecs import MUXERS, SOUND, VIDEO
from caracal.core.specs.sheet import (
    Beyond,
    Duration,
    File,
    Index,
    RateChange,
    Rates,
    Sound,
    SpecSheet,
    Video,
)
from hostile_case import ffmpeg

SECONDS = 2.0


def accepted_sheets(chance: random.Random) -> Iterator[SpecSheet]:
    """Sheets that the check accepts and that take a film of two seconds at 25 fps."""
    number = 0
    while True:
        sheet = random_sheet(chance, number)
        if not problems(sheet):
            number += 1
            yield sheet


def random_sheet(chance: random.Random, number: int) -> SpecSheet:
    """A sheet of any values, many of which cannot be made."""
    codec = chance.choice(list(VIDEO))
    family = VIDEO[codec]
    sound = chance.choice(list(SOUND))
    container = chance.choice(list(MUXERS))
    largest = round(10 ** chance.uniform(1.5, 5))
    quality = chance.choice((None, None, None, round(chance.uniform(0, 63), 1)))
    bits = {} if family.intra else {
        "bitrate_kbps": max(1, round(largest * chance.choice((0.3, 0.66, 1.0)))),
        "largest_kbps": largest,
        "buffer_kb": round(largest * chance.choice((0.25, 0.5, 1, 1.5, 4, 12))),
        "quick_kbps": chance.choice((None, largest)), "passes": chance.choice((1, 1, 1, 2)),
        "quality": quality,
    }
    side = (16, 48, 128, 180, 270, 320, 480)
    canvas = chance.choice(side), chance.choice(side)
    least = chance.choice((1.0, 10.0, 23.0, 24.0, 25.0, 50.0))
    return SpecSheet(
        f"random-{number}", f"Random {number}", canvas,
        Video(codec=codec, profile=chance.choice(list(family.profiles)),
              pixel_format=chance.choice(family.pixel_formats),
              gop_s=chance.choice((0.04, 0.2, 0.5, 1.0, 2.0, 10.0, 60.0)), **bits),
        "made up", "2026-12-01",
        Duration(chance.choice((0.0, 1.0)), chance.choice((2.0, 3.0, 86400.0)),
                 chance.choice(list(Beyond))),
        Rates(least, max(least, chance.choice((25.0, 29.97, 30.0, 60.0, 120.0))),
              chance.choice(((), (), (25.0,), (23.976, 30.0), (50.0,))),
              chance.choice((RateChange.REPEAT, RateChange.BLEND))),
        Sound(sound, chance.choice((16, 32, 64, 96, 128, 192, 320, 512)),
              chance.choice((8000, 12000, 16000, 22050, 24000, 32000, 44100, 48000, 96000, 192000)),
              chance.choice((1, 2)), chance.choice((None, -40.0, -23.0, -16.0, -14.0, -9.0, -5.0)),
              chance.choice((-1.0, -1.5, -2.0, 0.0, -9.0, -20.0)), chance.random() < 0.5),
        File(container, chance.choice(list(Index)), round(10 ** chance.uniform(-1.5, 3), 3)))


def base_film(path: Path, seconds: float = SECONDS) -> Path:
    """Two seconds of the demo, made small: people move and speak."""
    ffmpeg("-ss", "7", "-t", str(seconds), "-i", DEMO_FILM, "-vf", "scale=320:180", "-c:v",
           "libx264", "-crf", "16", "-c:a", "aac", path)
    return path


def verdict(film: Path, sheet: SpecSheet, out: Path) -> str:
    """What is wrong with the file of ``film`` by ``sheet``; nothing if it is proved, or if it is
    refused before the work: so long a film has no room in so small a file."""
    try:
        (made,) = convert(film, [Recipe(sheet)], out)
    except InputError as problem:
        told = problem.sentence()
        return "" if "do not fit" in told or "gives fewer" in told else told
    except CaracalError as problem:
        return problem.sentence()
    wrong = [f"{line.what}: {line.found}, asked {line.asked}" for line in made.proof.lines
             if not line.right]
    Path(made.file).unlink()
    return "; ".join(wrong)


def main(count: int = 60, seed: int = 1) -> int:
    """Try ``count`` sheets; returns how many made no proved file."""
    failed = 0
    with tempfile.TemporaryDirectory(prefix="caracal-sheets-") as folder:
        os.environ["CARACAL_CACHE"] = f"{folder}/cache"
        film = base_film(Path(folder) / "base.mp4")
        sheets = accepted_sheets(random.Random(seed))
        for _ in range(count):
            sheet = next(sheets)
            wrong = verdict(film, sheet, Path(folder) / "out")
            failed += bool(wrong)
            if wrong:
                print(f"{sheet.name}: {wrong}\n    {msgspec.json.encode(sheet).decode()}",
                      flush=True)
    print(f"{count} sheets: {count - failed} proved, {failed} not")
    return failed


if __name__ == "__main__":
    sys.exit(bool(main(*map(int, sys.argv[1:]))))
