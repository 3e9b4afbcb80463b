"""Speech recognised by Whisper (through faster-whisper), in a process of its own.

The sound is read in blocks that end where it is quietest, so that memory stays the same however
long the film is. The model ships; nothing is fetched from anywhere.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.errors import InputError, InstallError
from caracal.core.base.resources import POINTER, shipped
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, ProgressReporter, Report
from caracal.core.media.master import Master
from caracal.core.media.sound import SoundReader
from caracal.core.processes.apart import Call, call_apart
from caracal.core.speech.segmenting import cues_of_words
from caracal.core.text.cues import Cue, Word

RATE_HZ = 16_000
BLOCK_S, SEARCH_S, QUIET_S = 90.0, 25.0, 0.3  # of a block: its length, and where it may end
MOST_HEARD_S, SILENCE_S = 28.0, 2.0  # of a stretch that the model hears at once
LEAST_WORD_S = 0.02
LONGEST_JOINED = 10  # characters of a piece where nothing is written with spaces
NICE = 15
LANGUAGES = {  # of the hundred that the model knows; others by their code
    "": tr("Any language"), "en": tr("English"), "de": tr("German"), "fr": tr("French"),
    "es": tr("Spanish"), "it": tr("Italian"), "pt": tr("Portuguese"), "nl": tr("Dutch"),
    "pl": tr("Polish"), "sv": tr("Swedish"), "da": tr("Danish"), "no": tr("Norwegian"),
    "fi": tr("Finnish"), "cs": tr("Czech"), "uk": tr("Ukrainian"), "ru": tr("Russian"),
    "el": tr("Greek"), "tr": tr("Turkish"), "ar": tr("Arabic"), "he": tr("Hebrew"),
    "hi": tr("Hindi"), "th": tr("Thai"), "zh": tr("Chinese"), "ja": tr("Japanese"),
    "ko": tr("Korean"),
}
FILES = ("config.json", "model.bin", "tokenizer.json", "vocabulary.json")


class RecognitionOrder(msgspec.Struct, frozen=True):
    """What is to be recognised: a film's sound, in a ``language`` (a code; empty: found).

    ``names`` are words that occur in it and are spelt so.
    """

    master: Master
    language: str = ""
    names: tuple[str, ...] = ()


class Recognised(msgspec.Struct, frozen=True):
    """What was said: captions, their words, and the code of the language."""

    cues: tuple[Cue, ...]
    words: tuple[Word, ...]
    language: str


def recognised(
    order: RecognitionOrder, report: Report, cancel: CancelToken
) -> Recognised:
    """Recognise what is said in a film, in a process of its own. Raises InputError when it has no
    sound, or nothing is said in it; InstallError without the model; Cancelled.
    """
    if order.master.heard is None:
        raise InputError(tr("This film has no sound."), order.master.file,
                         tr("Add captions by hand, or import a file."))
    found: Recognised = call_apart(
        Call(recognise, (order,), stoppable=True, grace_s=0.0, nice=NICE), order.master.file,
        report, cancel)
    if not found.words:
        raise InputError(tr("No speech was found."), order.master.file,
                         tr("Add captions by hand, or import a file."))
    return found


def recognise(order: RecognitionOrder, report: Report, cancel: CancelToken) -> Recognised:
    """What is said in a film: perhaps nothing. Raises as :func:`recognised`."""
    model, language, words = _model(), order.language or None, list[Word]()
    # Written as a sentence: without its full stop what follows would have none either.
    names = f"{', '.join(order.names)}." if order.names else None
    seconds = max(1, round(float(order.master.frames / order.master.rate)))
    watch = ProgressReporter(tr("Writing what is said"), seconds, report)
    for start_s, samples in blocks(order.master):
        for first, end in stretches(samples):
            cancel.check()
            segments, info = model.transcribe(
                samples[first:end], language=language, word_timestamps=True,
                condition_on_previous_text=False, hotwords=names)
            heard = _whole_words([word for segment in segments for word in segment.words or ()],
                                 start_s + first / RATE_HZ)
            if heard and language is None:
                language = info.language
            words += heard
            watch.at(min(seconds, round(start_s + end / RATE_HZ)))
        watch.at(min(seconds, round(start_s + len(samples) / RATE_HZ)))
    code = language or ""
    return Recognised(cues_of_words(words, code) if words else (), tuple(words), code)


def stretches(samples: NDArray[np.float32]) -> list[tuple[int, int]]:
    """(first, end) of the stretches of ``samples`` in which somebody speaks, without long silence.

    The model hears half a minute at once, and leaves out what comes after a long silence in it.
    """
    from faster_whisper.vad import VadOptions, get_speech_timestamps  # noqa: PLC0415

    found: list[tuple[int, int]] = []
    options = VadOptions(min_silence_duration_ms=500, speech_pad_ms=300)
    for speech in get_speech_timestamps(samples, options):
        first, end = speech["start"], speech["end"]
        if found and first - found[-1][1] < SILENCE_S * RATE_HZ and (
                end - found[-1][0] <= MOST_HEARD_S * RATE_HZ):
            found[-1] = (found[-1][0], end)
        else:
            found.append((first, end))
    return found


def _whole_words(found: list[Any], start_s: float) -> tuple[Word, ...]:
    """Words as they are written: what comes without a space before it belongs to the one before.

    Where nothing is written with spaces, pieces are joined as long as they are short.
    """
    made: list[Word] = []
    for part in found:
        text = part.word.strip()
        if not text:
            continue
        start = round(start_s + float(part.start), 3)
        end = round(max(start_s + float(part.end), start + LEAST_WORD_S), 3)
        sure = round(float(part.probability), 3)
        last = made[-1] if made else None
        if last is not None and not part.word[0].isspace() and (
                text.isascii() or len(last.text) + len(text) <= LONGEST_JOINED):
            made[-1] = Word(last.text + text, last.start_s, end, min(last.sure, sure))
        else:
            made.append(Word(text, start, end, sure))
    return tuple(made)


def _model() -> Any:
    folder = shipped("models", "speech")
    for name in FILES:
        path = folder / name
        if not path.is_file() or path.stat().st_size < 1000:
            pointer = path.is_file() and path.read_bytes().startswith(POINTER)
            raise InstallError(
                tr("This model is only a pointer into a large-file store.") if pointer else
                tr("The speech model that ships with Caracal is missing."), path,
                tr("Fetch it with git lfs pull, or install Caracal again."))
    os.environ.update(HF_HUB_OFFLINE="1", HF_HUB_DISABLE_TELEMETRY="1")
    from faster_whisper import WhisperModel  # noqa: PLC0415 - half a second, needed only here

    try:
        return WhisperModel(str(folder), device="cpu", compute_type="int8", local_files_only=True,
                            cpu_threads=len(os.sched_getaffinity(0)))
    except (RuntimeError, ValueError, OSError) as problem:
        raise InstallError(tr("The speech model that ships with Caracal is damaged."), folder,
                           tr("Install Caracal again.")) from problem


def blocks(master: Master) -> Iterator[tuple[float, NDArray[np.float32]]]:
    """(start in seconds, samples (n,) at RATE_HZ) of a film's sound, cut where it is quietest."""
    total = round(float(master.frames / master.rate) * RATE_HZ)
    held: NDArray[np.float32] = np.zeros(0, np.float32)
    at = read = 0
    with SoundReader(master, RATE_HZ, 1, 0) as sound:
        while at < total:
            wanted = min(round(BLOCK_S * RATE_HZ), total - at)
            while len(held) < wanted:
                count = min(RATE_HZ * 10, total - read)
                held = np.concatenate([held, sound.take(count)[:, 0]])
                read += count
            end = wanted if at + wanted >= total else quietest(held[:wanted])
            yield at / RATE_HZ, held[:end]
            held, at = held[end:], at + end


def quietest(samples: NDArray[np.float32]) -> int:
    """Where in the last SEARCH_S seconds of ``samples`` it is quietest for QUIET_S."""
    step = round(QUIET_S * RATE_HZ / 2)
    first = max(0, len(samples) - round(SEARCH_S * RATE_HZ))
    loud = [float(np.abs(samples[i : i + 2 * step]).mean())
            for i in range(first, max(first + 1, len(samples) - 2 * step), step)]
    return first + int(np.argmin(loud)) * step + step
