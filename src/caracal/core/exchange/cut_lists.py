"""Cut lists: where another program says the shots begin (CMX 3600 EDL, OpenTimelineIO).

Read by OpenTimelineIO, in a process apart: what a list holds can end the library, and the process
with it. Times count from the list's first frame, which is the film's first. They are added up
exactly, and rounded to frames of the film at the end: lists of another rate do not drift.
"""

from __future__ import annotations

import math
import zipfile
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import opentimelineio as otio

from caracal.core.analysis.model import Transition
from caracal.core.base.errors import InputError, missing
from caracal.core.base.limits import MOST_SHOTS, MOST_TEXT_BYTES
from caracal.core.base.reading_text import read_bounded, refuse_nesting
from caracal.core.base.time import standard_rate
from caracal.core.base.translation import counted, tr
from caracal.core.base.work import CancelToken
from caracal.core.processes.apart import Call, call_apart
from caracal.core.project.model import ShotStart

PACKED = ".otioz"
TIMELINE = "content.otio"  # in a packed list
MOST_SECONDS = 100 * 3600
MOST_S, MOST_MEMORY = 60.0, 4 * 2**30  # for reading one, with all that the process imports
SUFFIXES = (".edl", ".otio", PACKED)


def read_cut_list(
    path: Path, rate: Fraction, frames: int, cancel: CancelToken | None = None
) -> tuple[ShotStart, ...]:
    """Where shots begin by the cut list at ``path``, for a film of ``frames`` frames at ``rate``.

    A dissolve belongs half to each side, like those that are found. Raises InputError when the
    file is no cut list, or is longer than the film; Cancelled when stopped.
    """
    found: tuple[ShotStart, ...] = call_apart(
        Call(_read, (path, rate, frames), memory_bytes=MOST_MEMORY), path, cancel=cancel,
        within_s=MOST_S, blame=_unreadable)
    return found


def _unreadable(path: Path, _: int) -> InputError:
    return InputError(tr("This cut list cannot be read."), path, tr("Export it again."))


def _read(path: Path, rate: Fraction, frames: int) -> tuple[ShotStart, ...]:
    """As :func:`read_cut_list`, in this process."""
    if not path.is_file():
        raise missing(path)
    if path.suffix.lower() not in SUFFIXES:
        raise InputError(tr("This is not a cut list Caracal reads."), path,
                         tr("Choose an EDL (.edl) or OpenTimelineIO (.otio) file."))
    refuse_nesting(_text(path), path, "cut list")
    options = {"rate": float(rate)} if path.suffix.lower() == ".edl" else {}
    try:
        timeline = otio.adapters.read_from_file(str(path), **options)
        tracks = timeline.video_tracks() if isinstance(timeline, otio.schema.Timeline) else []
        starts = _starts(tracks[0], rate) if tracks else ()
    except Exception as problem:  # adapters raise many kinds, all meaning the same
        raise InputError(tr("This cut list cannot be read ({first_line}).",
                            first_line=_first_line(problem)), path,
                         tr("Export it again for this film's frame rate.")) from problem
    if not tracks:
        raise InputError(tr("This cut list has no picture track."), path, tr("Export it again."))
    if len(starts) > MOST_SHOTS:
        raise InputError(tr("This cut list has {shots}.",
                            shots=counted(len(starts), "{count} shot", "{count} shots")), path,
                         tr("Choose another file."))
    if not starts or starts[-1].frame >= frames:
        raise InputError(tr("This cut list does not fit the film, which has {frames} frames.",
                            frames=frames), path, tr("Choose the list of this cut of the film."))
    return starts


def _text(path: Path) -> bytes:
    """What the list says; in a packed one, its timeline."""
    if path.suffix.lower() != PACKED:
        return read_bounded(path, MOST_TEXT_BYTES, "cut list")
    try:
        with zipfile.ZipFile(path) as packed:
            if packed.getinfo(TIMELINE).file_size > MOST_TEXT_BYTES:
                raise InputError(tr("This file is too large for a cut list."), path,
                                 tr("Choose another file."))
            return packed.read(TIMELINE)
    except (OSError, KeyError, zipfile.BadZipFile) as problem:
        raise InputError(tr("This cut list cannot be read."), path,
                         tr("Export it again.")) from problem


def _starts(track: otio.schema.Track, rate: Fraction) -> tuple[ShotStart, ...]:
    """The shots of a track. Raises what the library does, and ValueError."""
    at, made = Fraction(0), list[ShotStart]()
    kind, shift = Transition.CUT, 0
    for child in track:
        if isinstance(child, otio.schema.Transition):
            before, after = (round(_seconds(offset) * rate)
                             for offset in (child.in_offset, child.out_offset))
            # The list's cut lies ``before`` frames into the dissolve; ours lies in its middle.
            kind, shift = Transition.DISSOLVE, (after - before) // 2
            continue
        begins, at = round(at * rate), at + _seconds(child.duration())
        if round(at * rate) == begins:
            continue  # nothing of it shows
        made.append(ShotStart(begins + shift, kind if begins else Transition.START))
        kind, shift = Transition.CUT, 0
    if any(later.frame <= earlier.frame for earlier, later in pairwise(made)):
        raise ValueError(tr("a shot ends before it begins"))
    return tuple(made)


def _seconds(time: otio.opentime.RationalTime) -> Fraction:
    """How long ``time`` is, exactly. Raises ValueError when it is no length."""
    if not (math.isfinite(time.value) and math.isfinite(time.rate) and time.rate > 0
            and 0 <= time.value / time.rate <= MOST_SECONDS):
        raise ValueError(tr("a shot lasts {value:g} frames at {rate:g} a second", value=time.value,
                            rate=time.rate))
    return Fraction(time.value) / standard_rate(time.rate)


def _first_line(problem: Exception) -> str:
    return (str(problem).strip().splitlines() or [type(problem).__name__])[0].rstrip(".")
