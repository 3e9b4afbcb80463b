"""The story of a conversion in one page: master, analysis, path, frames, encoder, proof.

The master is decoded once. Each version has a thread that composes its frames and feeds its
encoder; a short queue keeps them in step, so memory does not grow with the film's length. Files
are written as ``.part`` and get their name only when they are proved.
"""

from __future__ import annotations

import os
import queue
import threading
from contextlib import suppress
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray
from threadpoolctl import threadpool_limits

from caracal.core.analysis.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.batch.proof import Expected, Proof, prove
from caracal.core.errors import CaracalError, InputError, PlaceError
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.path import film_path, windows_of
from caracal.core.media.decode import frames
from caracal.core.media.encode import MovieWriter
from caracal.core.media.gate import place_error
from caracal.core.media.planes import Planes
from caracal.core.media.sound import Samples, SoundReader
from caracal.core.project.model import DrawnBox, ShotStart
from caracal.core.project.shots import as_decided
from caracal.core.render.version import compose
from caracal.core.specs.settings import encoder_settings, estimated_mb
from caracal.core.specs.sheet import SpecSheet
from caracal.core.time import FrameRange, samples_at
from caracal.core.work import CancelToken, Report, Stopwatch, silent

AHEAD = 4  # frames a version may lag behind the decoder


class Wanted(msgspec.Struct, frozen=True):
    """One version to make: its sheet, the choices by shot number, and the limits of moves."""

    sheet: SpecSheet
    choices: dict[int, ShotChoice] = {}
    motion: Motion = Motion()


class Made(msgspec.Struct, frozen=True):
    """One finished file and its proof."""

    file: str
    proof: Proof


def convert(
    master: Path, wanted: list[Wanted], folder: Path, *, span: FrameRange | None = None,
    starts: tuple[ShotStart, ...] = (), drawn: tuple[DrawnBox, ...] = (), report: Report = silent,
    cancel: CancelToken | None = None,
) -> list[Made]:
    """Make every wanted version of ``master`` in ``folder``; the proofs in the same order.

    ``starts`` are where shots begin if not where they were found; ``drawn`` are boxes that a person
    drew and that may lead.

    Raises InputError before any work when a sheet does not take the film, PlaceError when the
    folder cannot be used, Cancelled when stopped. Nothing half-made keeps a final name.
    """
    token = cancel or CancelToken()
    analysis = as_decided(analyse(master, report, token), starts, drawn)
    span = span or FrameRange(0, analysis.master.frames)
    check_before(analysis, wanted, folder, span)
    jobs = [_Job(analysis, one, folder, span) for one in wanted]
    try:
        _run(analysis, jobs, span, report, token)
        return [job.prove_and_name() for job in jobs]
    finally:
        for job in jobs:
            job.clear()


def check_before(
    analysis: Analysis, wanted: list[Wanted], folder: Path, span: FrameRange
) -> None:
    """Everything that can be known before the work: duration, rate, folder, room on the disk."""
    master = analysis.master
    if not wanted:
        raise InputError("No version was asked for.", remedy="Name a spec sheet with --spec.")
    if span.end_exclusive > master.frames:
        raise InputError(f"The range ends at frame {span.end_exclusive} and the film has "
                         f"{master.frames} frames.", master.file, "Choose an earlier end.")
    seconds = len(span) / float(master.rate)
    for one in wanted:
        one.sheet.refuse_duration(seconds, master.file.name)
        one.sheet.refuse_rate(master.rate)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = folder / ".caracal.part"
        probe.write_bytes(b"")
        probe.unlink()
        room = os.statvfs(folder)
    except OSError as problem:
        raise place_error(folder, problem) from problem
    needed = sum(estimated_mb(one.sheet, seconds) for one in wanted)
    if room.f_bavail * room.f_frsize < needed * 1.1e6:
        raise PlaceError(f"The disk has no room for about {needed:.0f} MB.", folder,
                         "Free some space or choose another folder.")


class _Job:
    """One version in the making: a thread that composes and encodes."""

    def __init__(self, analysis: Analysis, wanted: Wanted, folder: Path, span: FrameRange) -> None:
        master, sheet = analysis.master, wanted.sheet
        self.sheet, self._span, self._rate = sheet, span, master.rate
        self.file = _free_name(folder, f"{master.file.stem} {sheet.name}", sheet.file.container)
        self._part = self.file.with_name(f"{self.file.name}.part")
        self._with_sound = bool(master.sound)
        paths = film_path(analysis, sheet.frame, wanted.choices, wanted.motion)
        self._windows = windows_of(paths)[span.start : span.end_exclusive]
        self._writer = MovieWriter(
            self._part, encoder_settings(sheet, master.rate, self._with_sound))
        self._waiting: queue.Queue[tuple[Planes, Samples] | None] = queue.Queue(AHEAD)
        self.problem: BaseException | None = None
        self._thread = threading.Thread(target=self._work, name=sheet.name, daemon=True)
        self._thread.start()

    def put(self, planes: Planes, samples: Samples) -> None:
        """Hand over the next frame; raises what went wrong with an earlier one."""
        if self.problem is not None:
            raise self.problem
        self._waiting.put((planes, samples))

    def _work(self) -> None:
        at = 0
        while (item := self._waiting.get()) is not None:
            if self.problem is not None:
                continue  # keep emptying the queue so that the decoder never waits for us
            try:
                planes, samples = item
                x, y, w, h = (float(value) for value in self._windows[at])
                self._writer.write_picture(compose(planes, (x, y, w, h), self.sheet.canvas))
                self._writer.write_sound(samples)
                at += 1
            except Exception as problem:  # noqa: BLE001 - travels to the caller's thread
                self.problem = problem

    def join(self) -> None:
        """Wait until everything handed over is encoded."""
        if self._thread.is_alive():
            self._waiting.put(None)
            self._thread.join()

    def prove_and_name(self) -> Made:
        """Finish the file, prove it, and give it its name; an unproved one is named as such."""
        if self.problem is not None:
            raise self.problem
        self._writer.finish()
        _to_disk(self._part)
        expected = Expected(len(self._span), f"{self._rate.numerator}/{self._rate.denominator}",
                            self._with_sound)
        proof = prove(self._part, self.sheet, expected)
        final = self.file if proof.right else self.file.with_name(f"not proved {self.file.name}")
        self._part.replace(final)
        return Made(str(final), msgspec.structs.replace(proof, file=str(final)))

    def clear(self) -> None:
        """Join the thread and remove what is not finished."""
        self.join()
        if self._part.exists():
            with suppress(CaracalError):  # the disk is full or gone: nothing more to close
                self._writer.abandon()
            self._part.unlink(missing_ok=True)


def _run(
    analysis: Analysis, jobs: list[_Job], span: FrameRange, report: Report, cancel: CancelToken
) -> None:
    master = analysis.master
    watch = Stopwatch("Encoding", len(span), report)
    # One thread each is quickest: the encoders keep all cores busy already.
    with threadpool_limits(1), _Sounds(jobs, analysis, span.start) as sounds:
        for number, planes in frames(master, span, cancel):
            for job, samples in zip(jobs, sounds.take(number, master.rate), strict=True):
                job.put(planes, samples)
            watch.at(number - span.start + 1)
        for job in jobs:
            job.join()


class _Sounds:
    """One sound reader for each distinct (rate, channels) among the jobs."""

    def __init__(self, jobs: list[_Job], analysis: Analysis, start: int) -> None:
        self._forms = [(job.sheet.sound.rate_hz, job.sheet.sound.channels) for job in jobs]
        master = analysis.master
        self._open = {
            form: SoundReader(master, *form, samples_at(start, master.rate, form[0]))
            for form in dict.fromkeys(self._forms)
        }

    def __enter__(self) -> _Sounds:
        return self

    def __exit__(self, *_: object) -> None:
        for reader in self._open.values():
            reader.__exit__(None, None, None)

    def take(self, frame: int, rate: Fraction) -> list[NDArray[np.float32]]:
        """The samples heard during ``frame``, one array a job."""
        chunks = {
            form: reader.take(samples_at(frame + 1, rate, form[0])
                              - samples_at(frame, rate, form[0]))
            for form, reader in self._open.items()
        }
        return [chunks[form] for form in self._forms]


def _free_name(folder: Path, stem: str, container: str) -> Path:
    """A name in ``folder`` that nobody has yet: numbered from 2, never replacing."""
    path = folder / f"{stem}.{container}"
    number = 2
    while path.exists():
        path = folder / f"{stem} {number}.{container}"
        number += 1
    return path


def _to_disk(path: Path) -> None:
    with path.open("rb") as file:
        os.fsync(file.fileno())
