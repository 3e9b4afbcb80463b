"""What burnt-in words say, by the PP-OCRv6 small recogniser (Apache-2.0; data/models/README.md).

The network reads a line from left to right; its answer is decoded by taking the likeliest letter at
each place, without repeats and blanks (connectionist temporal classification; Graves et al. 2006,
best path decoding).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import takewhile

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.burnt_text import BurntText
from caracal.core.analysis.detectors.network import open_model
from caracal.core.analysis.model import Analysis, Track
from caracal.core.base.geometry import Box
from caracal.core.base.time import FrameRange
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Progress, Report
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.media.planes import Plane, Planes

HIGH = 48  # pixels of the network's input
MOST_WIDE = 3200
AIR = 0.15  # of a line's height: so much round it is read, too
MOMENTS = (0.5, 0.75)  # of a line's time: it may be fading
COVER = 0.25  # of a line's height: shadows and outlines go beyond its box
LIKE = 0.35  # correlation with the line as it was read: less is not there
SLACK = 3  # frames: before that a fade cannot be told from nothing
REACH_S = 2.5  # lines are looked for every two seconds
STACKED = 0.8  # of a line's height: lines that lie closer are one text


class Reading(msgspec.Struct, frozen=True):
    """A line of words, and how sure that is, 0 to 1."""

    text: str
    sure: float


class LineReader:
    """Reads lines of words in pictures."""

    def __init__(self, threads: int = 1) -> None:
        """Raises InstallError when the model is missing or damaged."""
        self._session = open_model("reading.onnx", threads)
        told = self._session.get_modelmeta().custom_metadata_map["character"]
        self._letters = ["", *told.split("\n"), " "]

    def read(self, line: Plane, aspect: float = 1.0) -> Reading:
        """What a ``line`` (h, w) of luma says; ``aspect`` is its pixels' width to their height."""
        height, width = line.shape[0], line.shape[1] * aspect
        wide = min(max(HIGH, round(HIGH * width / height)), MOST_WIDE)
        small = cv2.resize(line, (wide, HIGH), interpolation=cv2.INTER_AREA).astype(np.float32)
        one = np.broadcast_to((small / 255 - 0.5) / 0.5, (1, 3, HIGH, wide))
        (chances,) = self._session.run(None, {"x": np.ascontiguousarray(one)})
        best = np.argmax(chances[0], axis=1)
        kept = [i for i, letter in enumerate(best)
                if letter and (i == 0 or letter != best[i - 1])]
        text = "".join(self._letters[min(int(best[i]), len(self._letters) - 1)] for i in kept)
        sure = float(np.mean(chances[0].max(axis=1)[kept])) if kept else 0.0
        return Reading(" ".join(text.split()), sure)


def burnt_texts(
    analysis: Analysis, report: Report, cancel: CancelToken
) -> tuple[BurntText, ...]:
    """The words in the picture of an analysed film, in order. Raises InputError, Cancelled."""
    reader, found = LineReader(), list[BurntText]()
    tracks = [(shot, track) for shot in range(len(analysis.shots))
              for track in analysis.words_in(shot)]
    for number, (shot, track) in enumerate(tracks):
        cancel.check()
        report(Progress(tr("Reading words in the picture"), number, len(tracks)))
        found.extend(_read(analysis, shot, track, reader, cancel))
    return tuple(_together(found))


def _read(
    analysis: Analysis, shot: int, track: Track, reader: LineReader, cancel: CancelToken
) -> Iterator[BurntText]:
    """The line of one ``track``, if it says anything."""
    best, seen, moment = Reading("", 0.0), None, 0
    for share in MOMENTS:
        at = min(round(track.first_frame + share * len(track.boxes)), track.end_frame - 1)
        box = track.box_at(at)
        if box is None:
            continue
        for _, planes in frames(analysis.master, FrameRange(at, at + 1), cancel):
            part = _part(planes, box, AIR)
            reading = reader.read(part, planes.pixel_aspect)
            if reading.sure > best.sure:
                best, seen, moment = reading, (box, part), at
    if best.text and seen is not None:
        span = analysis.shots[shot]
        start, end = _extent(analysis.master, (span.start, span.end), track, seen, moment, cancel)
        yield BurntText(shot, start, end, _grown(seen[0], COVER), best.text, best.sure)


def _part(planes: Planes, box: Box, air: float) -> Plane:
    """The luma of ``box`` (upright pixels), with some air round it."""
    x, y, w, h = _grown(box, air)
    x, w = x / planes.pixel_aspect, w / planes.pixel_aspect
    return planes.y[max(0, round(y)) : round(y + h), max(0, round(x)) : round(x + w)]


def _grown(box: Box, air: float) -> Box:
    x, y, w, h = box
    return (x - air * h, y - air * h, w + 2 * air * h, h + 2 * air * h)


def _extent(
    master: Master, shot: tuple[int, int], track: Track, seen: tuple[Box, Plane], moment: int,
    cancel: CancelToken,
) -> tuple[int, int]:
    """From which frame to which a line, which is seen at ``moment``, is seen: it is looked for now
    and then only, so that its track may begin and end too early or too late.
    """
    reach = round(REACH_S * float(master.rate))
    box, pattern = seen
    meant = _edges(pattern)

    def there(first: int, end: int) -> list[bool]:
        if first >= end:
            return []
        return [_alike(_edges(_part(planes, box, AIR)), meant) > LIKE
                for _, planes in frames(master, FrameRange(first, end), cancel)]

    sure = min(track.first_frame + reach, moment)
    early = there(max(shot[0], track.first_frame - reach), sure)
    late_from = max(track.end_frame - reach, moment)
    late = there(late_from, min(shot[1], track.end_frame + reach))
    start, stop = sure - _run(reversed(early)), late_from + _run(late)
    return max(shot[0], start - SLACK), min(shot[1], stop + SLACK)


def _run(seen: Iterable[bool]) -> int:
    """How many are true before the first that is not."""
    return sum(1 for _ in takewhile(bool, seen))


def _edges(part: Plane) -> NDArray[np.float32]:
    """What changes across: letters do, most of what lies behind them does not."""
    values = part.astype(np.float32)
    return np.asarray(values - cv2.blur(values, (15, 15)), np.float32)


def _alike(one: NDArray[np.float32], other: NDArray[np.float32]) -> float:
    if one.shape != other.shape:
        return 0.0
    strength = float(np.sqrt((one * one).sum() * (other * other).sum()))
    return float((one * other).sum()) / strength if strength > 0 else 0.0


def _together(lines: Sequence[BurntText]) -> Iterator[BurntText]:
    """Lines of one shot that stand right under each other at the same time, as one text."""
    waiting: list[BurntText] = []
    for line in sorted(lines, key=lambda each: (each.start, each.box[1])):
        above = next((each for each in waiting if _under(line, each)), None)
        if above is None:
            waiting.append(line)
        else:
            waiting[waiting.index(above)] = _joined(above, line)
    yield from sorted(waiting, key=lambda each: (each.start, each.box[1]))


def _under(line: BurntText, above: BurntText) -> bool:
    """Whether ``line`` stands right under ``above``."""
    x, y, w, h = line.box
    ax, ay, aw, ah = above.box
    rows = above.text.count("\n") + 1
    return (line.shot == above.shot and line.start < above.end_exclusive
            and above.start < line.end_exclusive
            and abs(y - (ay + ah)) < STACKED * max(h, ah / rows)
            and min(x + w, ax + aw) > max(x, ax))


def _joined(above: BurntText, line: BurntText) -> BurntText:
    left, top = min(above.box[0], line.box[0]), min(above.box[1], line.box[1])
    right = max(above.box[0] + above.box[2], line.box[0] + line.box[2])
    bottom = max(above.box[1] + above.box[3], line.box[1] + line.box[3])
    return BurntText(above.shot, min(above.start, line.start),
                     max(above.end_exclusive, line.end_exclusive),
                     (left, top, right - left, bottom - top), f"{above.text}\n{line.text}",
                     min(above.sure, line.sure))
