"""The sidecars that come with the film: captions (SRT) and cut list (CMX 3600 EDL)."""

from __future__ import annotations

from fractions import Fraction

import pysubs2

from caracal.core.base.time import timecode
from demo.film import dissolves, shot_starts
from demo.script import FPS, LINES, line_end_s
from demo.shots import FILM_FRAMES, STORYBOARD

RATE = Fraction(FPS)
LONGEST_LINE = 34


def captions() -> str:
    """The spoken lines as SRT, split into short captions."""
    file = pysubs2.SSAFile()
    for line in LINES:
        words = line.text.split()
        groups: list[list[str]] = [[]]
        for word in words:
            if len(" ".join([*groups[-1], word])) > LONGEST_LINE:
                groups.append([])
            groups[-1].append(word)
        length = line_end_s(line) + 0.2 - line.start_s
        done = 0
        for group in groups:
            start = line.start_s + length * done / len(words)
            done += len(group)
            end = line.start_s + length * done / len(words)
            file.append(pysubs2.SSAEvent(
                start=round(start * 1000), end=round(end * 1000), text=" ".join(group)))
    return str(file.to_string("srt"))


def cut_list() -> str:
    """The edit as a CMX 3600 list, record times from 00:00:00:00; dissolves as two-line events."""
    starts = [*shot_starts(), FILM_FRAMES]
    soft = {(start + end) // 2: (start, end) for start, end in dissolves()}
    edges = [soft.get(frame, (frame, frame))[0] for frame in starts]
    rows = ["TITLE: KILN DAY AT MARRAM QUAY", "FCM: NON-DROP FRAME", ""]
    for i, shot in enumerate(STORYBOARD):
        begin, end = edges[i], edges[i + 1]
        times = f"00:00:00:00 {timecode(end - begin, RATE)} {timecode(begin, RATE)} "
        times += timecode(end, RATE)
        number = f"{i + 1:03}"
        if starts[i] in soft:
            before = timecode(begin, RATE)
            still = f"{timecode(0, RATE)} {timecode(0, RATE)}"
            rows.append(f"{number}  AX       V     C        {still} {before} {before}")
            span = soft[starts[i]][1] - soft[starts[i]][0]
            rows.append(f"{number}  AX       V     D    {span:03} {times}")
        else:
            rows.append(f"{number}  AX       V     C        {times}")
        rows.append(f"* FROM CLIP NAME: {shot.name.upper()}")
    return "\n".join(rows) + "\n"
