"""One hostile input as a case, and the folder that it lies in. Used by hostile_inputs.py."""

from __future__ import annotations

import subprocess
from dataclasses import dataclass
from pathlib import Path

import msgspec

from caracal.core.specs.shelf import find_sheet, written

SIZE, FRAMES, SECONDS = (320, 180), 75, 3


@dataclass(frozen=True)
class Case:
    """Words for the command line, what kind they are, and the film that was converted, if any.

    ``exact``: the film is odd but whole: what is made of it is compared with FFmpeg's reading.
    """

    kind: str
    words: tuple[str, ...]
    film: Path | None = None
    exact: bool = False


class Place:
    """A folder with one good film, a sheet of its shape, and something precious beside it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.out = 0
        self.precious = folder / "precious"
        self.precious.mkdir()
        (self.precious / "letter").write_text("mine")
        self.base = folder / "base.mp4"
        ffmpeg("-f", "lavfi", "-i", f"testsrc2=s=320x180:r=25:d={SECONDS}", "-f", "lavfi", "-i",
               f"aevalsrc=0.3*sin(440*2*PI*t)|0.2*sin(550*2*PI*t):s=48000:d={SECONDS}", "-c:v",
               "libx264", "-g", "25", "-bf", "2", "-pix_fmt", "yuv420p", "-colorspace", "bt709",
               "-color_primaries", "bt709", "-color_trc", "bt709", "-c:a", "aac", self.base)
        sheet = find_sheet("wide")
        sheet = msgspec.structs.replace(sheet, name="small-wide", canvas=SIZE,
                                        video=msgspec.structs.replace(sheet.video, quality=16.0))
        self.sheet = folder / "small.toml"
        self.sheet.write_text(written(sheet))

    def new(self, name: str) -> Path:
        """A path for one more input."""
        return self.folder / name

    def convert(self, film: Path, *more: str) -> tuple[str, ...]:
        """Words that convert ``film`` into a folder of its own."""
        self.out += 1
        return ("convert", str(film), "--spec", str(self.sheet), "--out",
                str(self.folder / f"out{self.out}"), *more)


def ffmpeg(*words: str | Path) -> None:
    """Run FFmpeg, which makes the inputs."""
    subprocess.run(["ffmpeg", "-v", "error", "-nostdin", "-y", *map(str, words)], check=True)
