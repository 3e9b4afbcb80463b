"""What each command does."""

from __future__ import annotations

import argparse
import os
import signal
import sys
from collections.abc import Callable
from typing import Any, TypeVar

import msgspec

from caracal.core.analysis.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.convert import convert
from caracal.core.encoding.proof import Proof, prove
from caracal.core.errors import InputError
from caracal.core.framing.path import film_path, windows_of
from caracal.core.geometry import FramingSpec, Shape
from caracal.core.media.look import Master, look, with_sound
from caracal.core.project.recipe import Recipe
from caracal.core.project.storage import SUFFIX, read_document
from caracal.core.resources import DEMO_FILM
from caracal.core.specs.shelf import find_sheet
from caracal.core.time import FrameRange, frame_of_timecode, short_time, timecode
from caracal.core.work import CancelToken, Progress, Report

T = TypeVar("T")



def open_window(asked: argparse.Namespace) -> int:
    """Open the window on its start page."""
    return _window(None)


def open_demo(asked: argparse.Namespace) -> int:
    """Open the window on the demo film."""
    return _window(DEMO_FILM)


def open_film(asked: argparse.Namespace) -> int:
    """Open the window on a film or project, looked at first so that mistakes show at once."""
    if asked.movie.suffix.lower() == SUFFIX:
        read_document(asked.movie)
    else:
        look(asked.movie)
    return _window(asked.movie)


def _window(movie: Any) -> int:
    if not any(os.environ.get(one) for one in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        raise InputError("There is no display to open a window on.", remedy="Set DISPLAY, or use "
                         "the other commands: caracal --help.")
    from caracal.ui.application import run  # noqa: PLC0415 - the other commands need no Qt

    return run(movie)


def look_at(asked: argparse.Namespace) -> int:
    """Say what a file is."""
    master = look(asked.movie)
    if asked.json:
        _print_json(master)
        return 0
    print(_about(master))
    return 0


def _about(master: Master) -> str:
    sound = ", ".join(f"{s.codec} {s.rate_hz} Hz {s.layout}" for s in master.sound) or "none"
    rows = [
        ("file", master.file.name),
        ("picture", f"{master.width}x{master.height}, {master.codec} {master.profile}, "
                    f"{master.pixel_format}"),
        ("rate", f"{float(master.rate):.3f} fps ({master.frame_rate})"),
        ("length", f"{master.frames} frames, {timecode(master.frames, master.rate)}"),
        ("sound", sound), *(("note", notice) for notice in master.notices),
    ]
    return "\n".join(f"{name:8} {value}" for name, value in rows)


def analyse_film(asked: argparse.Namespace) -> int:
    """Find shots, people and things."""
    analysis = _analysed(asked)
    if asked.json:
        _print_json(_analysis_data(analysis))
        return 0
    rate = analysis.master.rate
    for i, shot in enumerate(analysis.shots):
        kinds = ", ".join(track.kind for track in analysis.tracks_in(i)) or "nobody"
        print(f"{i + 1:4}  {timecode(shot.start, rate)}  {timecode(shot.end, rate)}  "
              f"{shot.transition_in:8}  {kinds}")
    return 0


def _analysis_data(analysis: Analysis) -> dict[str, object]:
    return {
        "version": analysis.version, "film": analysis.master.path,
        "frame_rate": analysis.master.frame_rate, "frames": analysis.master.frames,
        "width": analysis.master.width, "height": analysis.master.height,
        "active": analysis.active,
        "shots": [
            {"start": shot.start, "end": shot.end, "transition_in": shot.transition_in,
             "transition_span": shot.transition_span}
            for shot in analysis.shots
        ],
        "tracks": [
            {"id": track.id, "kind": track.kind, "shot": track.shot, "subject": track.subject,
             "boxes": [[track.first_frame + i, *box] for i, box in enumerate(track.boxes)]}
            for track in analysis.tracks
        ],
    }


def path_of(asked: argparse.Namespace) -> int:
    """The window of every frame for a shape."""
    try:
        shape = Shape.parse(asked.shape)
    except ValueError as problem:
        raise InputError(str(problem), remedy="Write it as 9:16 or 4:5.") from problem
    frame = FramingSpec(shape)
    paths = film_path(_analysed(asked), frame)
    if asked.json:
        windows = windows_of(paths)
        _print_json([[i, *(float(v) for v in row)] for i, row in enumerate(windows)])
        return 0
    for i, one in enumerate(paths):
        x, y, w, h = one.windows[0]
        moves = "still" if one.still else f"to {one.windows[-1][0]:.1f}, {one.windows[-1][1]:.1f}"
        print(f"{i + 1:4}  {one.manner:8}  {w:.1f}x{h:.1f} at {x:.1f}, {y:.1f}  {moves}")
    return 0


def convert_film(asked: argparse.Namespace) -> int:
    """Make versions, encoded and proved."""
    master = with_sound(look(asked.movie), asked.sound - 1)
    span = _span(asked, master)
    recipes = [Recipe(find_sheet(name), ranges=(span,), sound=asked.sound - 1)
               for name in dict.fromkeys(asked.spec)]
    for one in recipes:
        one.sheet.refuse_duration(len(span) / float(master.rate), master.file.name)
    made = _stoppable(lambda token, report: convert(
        asked.movie, recipes, asked.out, report=report, cancel=token))
    if asked.json:
        _print_json(made)
    else:
        for file in made:
            print(f"{'proved' if file.proof.right else 'NOT PROVED'}  {file.file}")
            _print_wrong(file.proof)
    return 0 if all(file.proof.right for file in made) else 1


def _span(asked: argparse.Namespace, master: Master) -> FrameRange:
    start = frame_of_timecode(asked.start, master.rate) if asked.start else 0
    end = frame_of_timecode(asked.end, master.rate) if asked.end else master.frames
    return FrameRange(start, end)


def prove_file(asked: argparse.Namespace) -> int:
    """Check a file against a spec sheet."""
    proof = prove(asked.file, find_sheet(asked.spec))
    if asked.json:
        _print_json({**msgspec.to_builtins(proof), "right": proof.right})
        return 0 if proof.right else 1
    for line in proof.lines:
        mark = "right" if line.right else "WRONG"
        print(f"{mark}  {line.what:18} {line.found:34} asked: {line.asked}")
    return 0 if proof.right else 1


def _print_wrong(proof: Proof) -> None:
    for line in proof.lines:
        if not line.right:
            print(f"    {line.what}: {line.found}, asked {line.asked}")


def _analysed(asked: argparse.Namespace) -> Analysis:
    return _stoppable(lambda token, report: analyse(asked.movie, report, token))


def _stoppable(work: Callable[[CancelToken, Report], T]) -> T:
    """Run ``work`` so that Ctrl+C and a polite kill stop it cleanly; progress on a terminal."""
    token = CancelToken()
    before = {one: signal.signal(one, lambda *_: token.cancel())
              for one in (signal.SIGINT, signal.SIGTERM)}
    try:
        return work(token, _tell)
    finally:
        for one, handler in before.items():
            signal.signal(one, handler)
        if sys.stderr.isatty():
            sys.stderr.write("\r\x1b[K")


def tell_progress(on: bool) -> None:
    """Whether progress is told on a terminal."""
    _telling["progress"] = on


_telling = {"progress": True}


def _tell(progress: Progress) -> None:
    if _telling["progress"] and sys.stderr.isatty():
        left = "" if progress.left_s is None else f", {short_time(progress.left_s)} left"
        sys.stderr.write(f"\r\x1b[K{progress.doing} {progress.share:4.0%}{left}")


def _print_json(value: object) -> None:
    sys.stdout.write(msgspec.json.encode(value).decode() + "\n")
