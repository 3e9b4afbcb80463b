"""Versions of a film that counts its own frames, judged by what is seen and heard in their files.

Each frame carries its number as nine blocks, light for 1, by Gray's code: from frame to frame one
block changes, which nobody takes for a cut. At every second it beeps. What a file must show at its
frame ``k`` is worked out here by arithmetic with fractions, and nothing of the program's timeline
is used. Files are decoded by the ``ffmpeg`` command.
"""

import subprocess
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import numpy as np

from caracal.core.base.time import FrameRange, samples_at
from caracal.core.convert import convert
from caracal.core.layout.card import Card
from caracal.core.media.encode import EncoderSettings, MovieWriter, SoundSettings
from caracal.core.project.recipe import Recipe
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet

SIZE = (320, 180)
BITS, WIDE = 9, 32  # blocks of a number, and how wide one is
DARK, LIGHT, CARD = 50, 210, 16
SECONDS, SOUND_RATE, BEEP_S = 8, 48000, 0.08
RATES = ("24000/1001", "24/1", "25/1", "30000/1001", "30/1", "50/1")
OUT = (None, 24.0, 25.0, 30.0, 29.97, 50.0, 59.94)
SPEEDS = (25, 50, 80, 100, 100, 100, 150, 200, 400)


@dataclass(frozen=True)
class Case:
    """One version: the film's rate, and all that was asked of it."""

    rate: Fraction
    ranges: tuple[FrameRange, ...]
    opening: int = 0  # frames of cards
    closing: int = 0
    out: float | None = None
    blend: bool = False
    parts: bool = False


@dataclass
class Verdict:
    """What was compared, and what was wrong."""

    frames: int = 0
    beeps: int = 0
    wrong: list[str] = field(default_factory=list)


def case_of(seed: int) -> Case:
    """A version by chance, the same for each seed."""
    rng = np.random.default_rng(seed)
    rate = Fraction(str(rng.choice(RATES)))
    frames, at, ranges = int(SECONDS * rate), 0, []
    for _ in range(int(rng.integers(1, 4))):
        start = at + (int(rng.integers(3, 20)) if rng.random() < 0.7 else 0)
        end = min(frames, start + int(rng.integers(30, 80)))
        if end - start < 30:
            break
        apart = bool(ranges) and start > ranges[-1].end_exclusive
        dissolve = int(rng.integers(4, 12)) if apart and rng.random() < 0.6 else 0
        ranges.append(FrameRange(start, end, int(rng.choice(SPEEDS)), dissolve=dissolve,
                                 repeated=bool(rng.random() < 0.6)))
        at = end
    cards = [int(rng.choice((0, 0, 13, 40))) for _ in range(2)]
    out = OUT[int(rng.integers(len(OUT)))]
    return Case(rate, tuple(ranges), *cards, out, bool(rng.random() < 0.4),
                bool(rng.random() < 0.3))


def write_film(path: Path, rate: Fraction) -> Path:
    """The film that counts."""
    writer = MovieWriter(path, EncoderSettings(
        width=SIZE[0], height=SIZE[1], frame_rate=f"{rate.numerator}/{rate.denominator}",
        encoder="libx264", pixel_format="yuv420p", gop_frames=25,
        options={"crf": "10", "preset": "ultrafast"}, sound=SoundSettings(
            "pcm_s16le", SOUND_RATE, 2, 0)))
    chroma = np.full((SIZE[1] // 2, SIZE[0] // 2), 128, np.uint8)
    for number in range(int(SECONDS * rate)):
        picture = np.full(SIZE[::-1], 128, np.uint8)
        for bit, light in enumerate(code(number)):
            picture[30:150, 16 + bit * WIDE : 16 + (bit + 1) * WIDE] = LIGHT if light else DARK
        writer.write_picture((picture, chroma, chroma))
        first, last = (samples_at(n, rate, SOUND_RATE) for n in (number, number + 1))
        writer.write_sound(np.stack([beeps(np.arange(first, last), rate)] * 2, axis=1))
    writer.finish()
    return path


def code(number: int) -> np.ndarray:
    """The blocks (BITS,) of a number in Gray's code, 0 or 1."""
    return np.array([(number ^ number >> 1) >> bit & 1 for bit in range(BITS)], np.float64)


def beep_frames(rate: Fraction) -> list[int]:
    """The frames at whose beginning it beeps: the first of each second but the film's first."""
    return [int(-(-second * rate // 1)) for second in range(1, SECONDS)]


def beeps(samples: np.ndarray, rate: Fraction) -> np.ndarray:
    """The sound at ``samples``: a tone of 1 kHz for a moment at each beep, else nothing."""
    t, sound = samples / SOUND_RATE, np.zeros(len(samples))
    for frame in beep_frames(rate):
        since = t - float(frame / rate)
        here = (since >= 0) & (since < BEEP_S)
        sound[here] = 0.4 * np.sin(2 * np.pi * 1000 * since[here])
    return sound.astype(np.float32)


def judged(case: Case, folder: Path) -> Verdict:
    """Make the version of ``case`` in ``folder``, and compare its files with what they must be."""
    film = write_film(folder / "counts.mov", case.rate)
    sheet = find_sheet("wide")
    changes = [("canvas", SIZE), ("sound.loudness_lufs", None), ("duration.least_s", 0.5)]
    if case.out is not None:
        changes += [("rates.most", 120.0), ("rates.only", (case.out,)),
                    ("rates.change", "blend" if case.blend else "repeat")]
    if case.parts:
        changes += [("duration.most_s", 3.0), ("duration.beyond", "parts")]
    for name, value in changes:
        sheet = with_value(sheet, name, value)
    cards = [Card(frames) if frames else None for frames in (case.opening, case.closing)]
    results = convert(film, [Recipe(sheet, ranges=case.ranges, opening=cards[0],
                                    closing=cards[1])], folder / "out")
    found = Verdict(wrong=[
        f"not proved: {[line for line in result.proof.lines if not line.right]}"
        for result in results if not result.proof.right])
    rate = rate_of(results[0].file)
    seen = [blocks(Path(result.file)) for result in results]
    heard = [sound_of(Path(result.file)) for result in results]
    begins = np.cumsum([0, *(len(part) for part in seen)])
    for part, first in zip(seen, begins, strict=False):
        _judge_pictures(case, part, int(first), rate, found)
    sound = np.zeros(int(float(begins[-1] / rate) * SOUND_RATE) + SOUND_RATE, np.float32)
    for part, first, count in zip(heard, begins, np.diff(begins), strict=False):
        at = round(float(first / rate) * SOUND_RATE)
        most = round(float(count / rate) * SOUND_RATE)
        sound[at : at + min(len(part), most)] = part[:most]
    _judge_length(case, int(begins[-1]), rate, len(results), found)
    _judge_sound(case, sound, [float(at / rate) for at in begins[1:-1]],
                 float(1 / rate), found)
    return found


def spans(case: Case) -> list[tuple[Fraction, Fraction, FrameRange | None]]:
    """(begins, ends, range) of each piece, in frames of the film; None: a card."""
    at, made = Fraction(0), []
    for length, span in ((case.opening, None), *((Fraction(
            100 * (each.end_exclusive - each.start), each.percent), each) for each in case.ranges),
            (case.closing, None)):
        if length:
            made.append((at, at + length, span))
            at += length
    return made


def _judge_length(
    case: Case, frames: int, rate: Fraction, parts: int, found: Verdict
) -> None:
    meant = spans(case)[-1][1] / case.rate * rate
    if abs(frames - meant) > parts:
        found.wrong.append(f"{frames} frames, {float(meant):.2f} meant")


def _judge_pictures(
    case: Case, seen: np.ndarray, first: int, rate: Fraction, found: Verdict
) -> None:
    pieces, step = spans(case), max(Fraction(1), case.rate / rate)
    for number, values in enumerate(seen):
        at = Fraction(first + number) / rate * case.rate
        here = next(((start, end, span) for start, end, span in pieces if start <= at < end), None)
        if here is None or min(at - here[0], here[1] - at) < step:
            continue  # a joint: either side may be seen there
        found.frames += 1
        if not _as_meant(case, here, at, values, step):
            found.wrong.append(f"frame {first + number}: {np.round(values, 2)} at {float(at):.2f}, "
                               f"{here[2]}")


def _as_meant(
    case: Case, here: tuple[Fraction, Fraction, FrameRange | None], at: Fraction,
    values: np.ndarray, step: Fraction,
) -> bool:
    start, _, span = here
    if span is None:
        return bool(values.max() < 0)  # darker than a dark block
    place = float(span.start + (at - start) * span.percent / 100)
    reach = float(step) * max(1.0, span.percent / 100)  # pictures are mixed with neighbours
    near = range(max(0, int(place - reach)), min(int(place + reach) + 2, 2**BITS))
    incoming = [code(number) for number in near]
    gone = (place - span.start + 1) / (span.dissolve + 1) if span.dissolve else 1.0
    if gone >= 1 + reach / (span.dissolve + 1):
        return any(np.abs(values - each).max() < 0.2 for each in incoming) or (
            _between(values, incoming))
    before = case.ranges[case.ranges.index(span) - 1]
    last = float(before.end_exclusive + (at - start) * before.percent / 100)
    # A dissolve is made for each picture of the range that begins: slow ones show it in steps.
    far = reach * max(1.0, 100 / span.percent) * max(1.0, before.percent / 100)
    outgoing = [code(number) for number in range(int(last - far), int(last + far) + 2)]
    slack = reach / (span.dissolve + 1)
    return any(np.abs(values - (left * out + (1 - left) * new)).max() < 0.15
               for out in outgoing for new in incoming
               for left in np.clip(1 - gone + np.linspace(-slack, slack, 9), 0, 1)) or _between(
                   values, [*outgoing, *incoming])


def _between(values: np.ndarray, codes: list[np.ndarray]) -> bool:
    """Whether each block lies between the darkest and lightest that it can be, and those that are
    the same in all are just that."""
    low, high = np.min(codes, axis=0), np.max(codes, axis=0)
    return bool(((values > low - 0.15) & (values < high + 0.15)).all())


def _judge_sound(
    case: Case, sound: np.ndarray, seams: list[float], frame_s: float, found: Verdict
) -> None:
    loud = np.abs(sound)
    for start, _, span in spans(case):
        if span is None:
            continue
        pace = Fraction(span.percent, 100)
        for frame in beep_frames(case.rate):
            inside = min(frame - span.start - span.dissolve, span.end_exclusive - frame) / pace
            meant = float((start + (frame - span.start) / pace) / case.rate)
            if inside < 0.25 * case.rate or any(abs(meant - seam) < 0.3 for seam in seams):
                continue
            # A part begins with a frame of the film: up to a frame of the file from where those
            # before it end.
            spare = sum(seam < meant for seam in seams) * frame_s
            a, b = int((meant - 0.12) * SOUND_RATE), int((meant + 0.12) * SOUND_RATE)
            over = np.flatnonzero(loud[max(0, a) : b] > 0.12)
            late = (max(0, a) + over[0]) / SOUND_RATE - meant if len(over) else np.inf
            found.beeps += 1
            if abs(late) > (0.012 if span.percent == 100 else 0.03) + spare:
                found.wrong.append(f"beep of frame {frame}, {span}: {late * 1000:.0f} ms late")


def rate_of(path: str | Path) -> Fraction:
    """The file's rate, as ffprobe tells it."""
    told = subprocess.run(
        ["ffprobe", "-v", "error", "-select_streams", "v", "-show_entries",
         "stream=r_frame_rate", "-of", "csv=p=0", str(path)],
        capture_output=True, text=True, check=True).stdout
    return Fraction(told.strip().strip(","))


def blocks(path: Path) -> np.ndarray:
    """The blocks (frames, BITS) of a file's pictures: 0 dark, 1 light."""
    raw = subprocess.run(["ffmpeg", "-v", "error", "-i", str(path), "-f", "rawvideo", "-pix_fmt",
                          "gray", "-vsync", "0", "-"], capture_output=True, check=True).stdout
    luma = np.frombuffer(raw, np.uint8).reshape(-1, SIZE[1], SIZE[0]).astype(np.float64)
    # As gray ffmpeg gives full range: blocks are measured against the ends they were drawn with.
    parts = [luma[:, 60:120, 24 + bit * WIDE : 8 + (bit + 1) * WIDE].mean(axis=(1, 2))
             for bit in range(BITS)]
    dark, light = ((level - 16) * 255 / 219 for level in (DARK, LIGHT))
    return (np.stack(parts, axis=1) - dark) / (light - dark)


def sound_of(path: Path) -> np.ndarray:
    """A file's sound, mono."""
    raw = subprocess.run(["ffmpeg", "-v", "error", "-i", str(path), "-f", "f32le", "-ac", "1",
                          "-ar", str(SOUND_RATE), "-"], capture_output=True, check=True).stdout
    return np.frombuffer(raw, np.float32)
