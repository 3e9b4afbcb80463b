"""How large a version will be and how long it takes, from a short trial on its own pictures.

A few seconds spread over the version are composed and encoded with the sheet's own settings. Where
the trial stays under the target bitrate so will the file (a plain picture needs no more bits);
where it reaches it the encoder holds the target over the whole file.
"""

from __future__ import annotations

import tempfile
import time
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np

from caracal.core.analysis.model import Analysis
from caracal.core.media.decode import frames
from caracal.core.media.encode import MovieWriter
from caracal.core.media.evidence import picture_sizes
from caracal.core.plan import Wanted, framed, rate_of
from caracal.core.render.version import compose
from caracal.core.specs.settings import CONTAINER_SHARE, encoder_settings
from caracal.core.specs.sheet import SpecSheet
from caracal.core.time import FrameRange
from caracal.core.timeline import Timeline, timeline
from caracal.core.work import CancelToken

PIECES = 3
PIECE_S = 1.2


class Estimate(msgspec.Struct, frozen=True):
    """Expected size of a version in MB (10^6 bytes), and the seconds its encoding takes alone."""

    size_mb: float
    seconds: float


def estimate(
    analysis: Analysis, wanted: Wanted, span: FrameRange, cancel: CancelToken | None = None
) -> Estimate:
    """Try a few pieces of one version. Raises what encoding would raise, and Cancelled."""
    token, master, sheet = cancel or CancelToken(), analysis.master, wanted.sheet
    rate = rate_of(sheet, master.rate)
    line = timeline(wanted.ranges or (span,), master.rate, rate)
    windows, finishes = framed(analysis, wanted)
    pieces = _pieces(line, master.rate)
    began = time.monotonic()
    with tempfile.TemporaryDirectory(prefix="caracal-trial-") as folder:
        path = Path(folder) / f"trial.{sheet.file.container}"
        writer = MovieWriter(path, encoder_settings(sheet, rate, with_sound=False))
        done = 0
        try:
            for piece in pieces:
                for number, planes in frames(master, piece, token):
                    x, y, w, h = (float(value) for value in windows[number])
                    writer.write_picture(compose(planes, (x, y, w, h), sheet.canvas,
                                                 finishes[number]))
                    done += 1
        finally:
            writer.finish()
        kbps = _kbps(path, line, sheet, tuple(shot.start for shot in analysis.shots))
    spent = time.monotonic() - began
    seconds = sheet.duration.kept_s(line.seconds)
    sound = sheet.sound.kbps if master.sound or sheet.sound.silent_track else 0
    target = sheet.video.target_kbps(rate)
    if target is not None and sheet.video.quality is None:
        kbps = min(kbps, float(target))
    size = (kbps + sound) * seconds / 8000 * CONTAINER_SHARE
    return Estimate(size, spent / done * line.frames)


def _kbps(path: Path, line: Timeline, sheet: SpecSheet, cuts: tuple[int, ...]) -> float:
    """The bitrate of the whole version, if its pictures are like those of the trial.

    Pictures that stand alone are large, and a trial of short pieces has too many of them: they are
    counted as the version will have them, one at each cut and one each GOP.
    """
    rate = Fraction(line.rate)
    alone, others = picture_sizes(path)
    if not others:
        return sum(alone) / len(alone) * 8 / 1000 * float(rate)
    frames = line.master_frames()
    begins = np.isin(frames, cuts) | (np.diff(frames, prepend=-2) != 1)
    lengths = np.diff([*np.flatnonzero(begins), len(frames)]) / float(Fraction(line.master_rate))
    keys = min(int(np.ceil(lengths / sheet.video.gop_s).sum()), line.frames)
    total = sum(alone) / len(alone) * keys + sum(others) / len(others) * (line.frames - keys)
    return total * 8 / 1000 / line.seconds


def _pieces(line: Timeline, rate: Fraction) -> list[FrameRange]:
    """PIECES short stretches, in the middle of equal shares of the version."""
    length = min(line.joined // PIECES, round(PIECE_S * rate)) or 1
    found: list[FrameRange] = []
    for i in range(PIECES):
        at = round(line.joined * (i + 0.5) / PIECES - length / 2)
        found += line.part(max(0, at), min(line.joined, max(0, at) + length)).ranges
    return found
