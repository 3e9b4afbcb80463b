"""The demo by every generic sheet: our proof, ffprobe, mediainfo, and what was expected of it.

    python benchmarks/sheets.py [SECONDS]

Prints a row a file: lines right, what the two outside judges see, the bitrate against its target,
the size against the estimate made before, and the loudness by pyloudnorm.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
import pyloudnorm

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import FrameRange
from caracal.core.batch.estimate import estimate
from caracal.core.convert import Recipe, convert
from caracal.core.encoding.evidence import gather
from caracal.core.specs.sheet_store import find_sheet

GENERIC = ("vertical-short", "vertical-minute", "vertical-story", "square-feed", "portrait-feed",
           "tall-feed", "wide", "client-master")


def run(*words: str | Path) -> bytes:
    """What a program prints."""
    return subprocess.run(list(map(str, words)), check=True, capture_output=True).stdout


def by_ffprobe(file: Path) -> str:
    """Codec, size and frames."""
    facts = json.loads(run("ffprobe", "-v", "error", "-count_packets", "-show_streams", "-of",
                           "json", file))["streams"]
    video = next(fact for fact in facts if fact["codec_type"] == "video")
    return f"{video['codec_name']} {video['width']}x{video['height']} {video['nb_read_packets']} f"


def by_mediainfo(file: Path) -> str:
    """Format, rate and colour."""
    tracks = json.loads(run("mediainfo", "--Output=JSON", file))["media"]["track"]
    video = next(track for track in tracks if track["@type"] == "Video")
    return f"{video['Format']} {video['FrameRate']} {video['FrameRate_Mode']} " + (
        video["colour_primaries"])


def loudness(file: Path) -> float:
    """By pyloudnorm, of what ffmpeg decodes."""
    heard = np.frombuffer(run("ffmpeg", "-v", "error", "-i", file, "-f", "f32le", "-ac", "2", "-ar",
                              "48000", "-"), np.float32).reshape(-1, 2)
    return float(pyloudnorm.Meter(48000).integrated_loudness(heard))


def main() -> None:
    analysis = analyse(DEMO_FILM)
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    span = FrameRange(0, min(analysis.master.frames, round(seconds * 25)))
    wanted = [Recipe(find_sheet(name), ranges=(span,)) for name in GENERIC]
    expected = [estimate(analysis, recipe).size_mb for recipe in wanted]
    with tempfile.TemporaryDirectory() as folder:
        made = convert(DEMO_FILM, wanted, Path(folder))
        for number, name in enumerate(GENERIC):
            mine = [result for result in made if result.wanted == number]
            size = sum(Path(encode_result.file).stat().st_size for encode_result in mine) / 1e6
            off = expected[number] / size - 1
            print(f"{name:16} estimated {expected[number]:7.1f} MB, made {size:7.1f}: {off:+.0%}")
            for sheet in mine:
                right = sum(line.right for line in sheet.proof.lines)
                file, seen = Path(sheet.file), gather(Path(sheet.file))
                target = wanted[number].sheet.video.bitrate_kbps
                print(f"    {right}/{len(sheet.proof.lines)} right | {by_ffprobe(file)} | "
                      f"{by_mediainfo(file)} | {seen.video_kbps:.0f} of {target} kb/s, busiest "
                      f"second {seen.busiest_second_kb:.0f} kb | {loudness(file):.1f} LUFS",
                      flush=True)


if __name__ == "__main__":
    main()
