"""Prints, in one run, the speed ratios: analysis and conversion against plain runs.

    .venv/bin/python benchmarks/run.py [SECONDS] [--only demo|light|1080|2160]

Ratios only compare what ran here and now; absolute times are shown to judge them by. SECONDS
(default 8) is how much of the film the conversions encode. Besides the demo film, whose drawn
pictures decode unusually fast, speed is measured on masters as cameras make them: the demo film
with grain at 25 Mb/s, and the same at 2160p and 60 Mb/s; of a light one, at 5 Mb/s, only analysis.
"""

import argparse
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import av
import cv2
import numpy as np

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.resources import shipped
from caracal.core.base.time import FrameRange
from caracal.core.convert import Recipe, convert
from caracal.core.framing.path import film_path, windows_of
from caracal.core.media.decode import frames
from caracal.core.media.encode import EncoderSettings, MovieWriter
from caracal.core.media.probe import probe
from caracal.core.specs.settings import encoder_settings
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import find_sheet

FILM = shipped("demo", "kiln-day-at-marram-quay.mp4")
SHEETS = [find_sheet(name) for name in ("vertical-short", "square-feed", "portrait-feed")]
START = 685  # the walker: windows move


def timed(work: Callable[[], object]) -> tuple[float, object]:
    """Seconds taken and the result."""
    began = time.perf_counter()
    result = work()
    return time.perf_counter() - began, result


def bare_decode(film: Path) -> int:
    """Every frame of the film and nothing else."""
    with av.open(str(film)) as container:
        container.streams.video[0].thread_type = "AUTO"
        return sum(1 for _ in container.decode(video=0))


def camera_master(path: Path, height: int, seconds: float, kbps: int) -> Path:
    """The demo film from START on, scaled to ``height`` with grain, as H.264 at ``kbps``."""
    size = (height * 16 // 9, height)
    half = (size[0] // 2, size[1] // 2)
    writer = MovieWriter(path, EncoderSettings(
        width=size[0], height=size[1], frame_rate="25/1", encoder="libx264",
        pixel_format="yuv420p", gop_frames=25, options={"preset": "veryfast"}, bitrate_kbps=kbps))
    rng = np.random.default_rng(1)
    grains = [rng.normal(0, 5, (size[1], size[0])).astype(np.int8) for _ in range(4)]
    for number, planes in frames(probe(FILM), FrameRange(START, START + int(seconds * 25))):
        y = cv2.resize(planes.y, size, interpolation=cv2.INTER_CUBIC)
        grained = np.clip(y.astype(np.int16) + grains[number % 4], 16, 235).astype(np.uint8)
        u, v = (cv2.resize(plane, half, interpolation=cv2.INTER_CUBIC)
                for plane in (planes.u, planes.v))
        writer.write_picture((grained, u, v))
    writer.finish()
    return path


def plain_version(film: Path, sheet: SpecSheet, span: FrameRange, folder: Path) -> None:
    """One plain decode-crop-scale-encode run: whole-pixel crops at our windows, bicubic resizing.

    The crops follow our windows so that the encoder meets the same pictures in both.
    """
    windows = windows_of(film_path(analyse(film), sheet.frame))
    master = probe(film)
    writer = MovieWriter(folder / f"plain {sheet.name}.mp4",
                         encoder_settings(sheet, master.rate, with_sound=False))
    width, height = sheet.canvas
    wide = int(master.height * width / height) // 2 * 2
    for number, planes in frames(master, span):
        x = min(int(windows[number, 0]) // 2 * 2, master.width - wide)
        parts = (planes.y[:, x : x + wide], planes.u[:, x // 2 : (x + wide) // 2],
                 planes.v[:, x // 2 : (x + wide) // 2])
        sizes = ((width, height), (width // 2, height // 2), (width // 2, height // 2))
        # Area averaging shrinks without aliasing, bicubic enlarges: each where it is usual.
        how = cv2.INTER_AREA if wide > width else cv2.INTER_CUBIC
        writer.write_picture(tuple(cv2.resize(part, size, interpolation=how)
                                   for part, size in zip(parts, sizes, strict=True)))
    writer.finish()


def ready_frames(film: Path, sheet: SpecSheet, folder: Path) -> float:
    """Seconds to encode frames of a finished version that lie ready in memory."""
    made = probe(folder / f"{film.stem} {sheet.name}.mp4")
    ready = [(p.y.copy(), p.u.copy(), p.v.copy()) for _, p in frames(made)]
    writer = MovieWriter(folder / f"ready {sheet.name}.mp4",
                         encoder_settings(sheet, made.rate, with_sound=False))

    def encode() -> None:
        for planes in ready:
            writer.write_picture(planes)
        writer.finish()

    return timed(encode)[0]


def analysis_speed(film: Path, folder: Path) -> None:
    """Analysis against a bare decode, each the least of three."""
    bare_decode(film)
    decode_s = min(timed(lambda: bare_decode(film))[0] for _ in range(3))
    analyse_s = min(timed(lambda turn=turn: analyse(film, root=folder / f"light {turn}"))[0]
                    for turn in range(3))
    print(f"  bare decode {decode_s:.1f} s, analysis {analyse_s:.1f} s: ratio "
          f"{analyse_s / decode_s:.2f} (goal 2.6)", flush=True)


def speed(film: Path, span: FrameRange, folder: Path, goal: float) -> None:
    """Analysis against bare decode; conversion against plain runs and ready frames."""
    bare_decode(film)  # once before the clock runs: the file comes from memory each time
    decode_s, _ = timed(lambda: bare_decode(film))
    analyse_s, _ = timed(lambda: analyse(film, root=folder / "cache"))
    again_s, _ = timed(lambda: analyse(film, root=folder / "cache"))
    print(f"  bare decode {decode_s:.1f} s, analysis {analyse_s:.1f} s: "
          f"ratio {analyse_s / decode_s:.2f} (goal 1.5); again from the cache {again_s:.2f} s")
    analyse(film)
    three_s, _ = timed(lambda: convert(
        film, [Recipe(spec_sheet, ranges=(span,)) for spec_sheet in SHEETS], folder))
    plain_s = sum(timed(lambda sheet=spec_sheet: plain_version(film, sheet, span, folder))[0]
                  for spec_sheet in SHEETS)
    ready_s = sum(ready_frames(film, sheet, folder) for sheet in SHEETS)
    print(f"  three versions with proof {three_s:.1f} s, three plain runs {plain_s:.1f} s, "
          f"encoding ready frames {ready_s:.1f} s")
    print(f"  ratio to plain runs {three_s / plain_s:.2f} (goal {goal}), "
          f"to ready frames {three_s / ready_s:.2f} (goal 1.20)", flush=True)


def speeds(seconds: float, only: str | None) -> None:
    """All three masters, one after the other."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        span = FrameRange(0, int(seconds * 25))
        if only in (None, "demo"):
            print("the demo film, 1080p, 1 Mb/s")
            moved = FrameRange(START, START + len(span))
            speed(FILM, moved, folder, 0.95)
        if only in (None, "light"):
            print("a light film, 1080p, 5 Mb/s")
            analysis_speed(camera_master(folder / "light.mp4", 1080, 3 * seconds, 5000), folder)
        for height, kbps, goal in ((1080, 25000, 0.95), (2160, 60000, 0.75)):
            if only in (None, str(height)):
                print(f"as from a camera, {height}p, {kbps // 1000} Mb/s, {seconds:.0f} s")
                film = camera_master(folder / f"camera {height}.mp4", height, seconds, kbps)
                speed(film, span, folder, goal)


if __name__ == "__main__":
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("seconds", nargs="?", type=float, default=8.0)
    options.add_argument("--only", choices=["demo", "light", "1080", "2160"])
    asked = options.parse_args()
    speeds(asked.seconds, asked.only)
