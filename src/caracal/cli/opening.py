"""Opening the window, and looking at what a file is: little is imported for either."""

from __future__ import annotations

import argparse
import os
from collections import deque
from contextlib import suppress
from pathlib import Path
from typing import Any

from caracal.cli.telling import print_json
from caracal.core.base.atomic_write import read_own
from caracal.core.base.errors import InputError
from caracal.core.base.logs import kept_at
from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.core.media.master import Master
from caracal.core.media.probe import probe


def open_window(asked: argparse.Namespace) -> int:
    """Open the window on its start page."""
    return _window(None)


def open_demo(asked: argparse.Namespace) -> int:
    """Open the window on the demo film."""
    return _window(DEMO_FILM, new_window=True)  # dressed: only a window of its own does that


def open_film(asked: argparse.Namespace) -> int:
    """Open the window on a film or project, looked at first so that mistakes show at once; with
    none, as a desktop starts it, on its start page.
    """
    if asked.movie is None:
        return _window(None)
    from caracal.core.project.storage import SUFFIX, read_document  # noqa: PLC0415

    if asked.movie.suffix.lower() == SUFFIX:
        read_document(asked.movie)
    else:
        from caracal.core.analysis.film_pass.process import probe_apart  # noqa: PLC0415

        probe_apart(asked.movie)
    return _window(asked.movie, asked.new_window)


def _window(movie: Any, new_window: bool = False) -> int:
    """Open the window on ``movie``. A window that is there already takes it, if its user wants that
    and no ``new_window`` was asked for.
    """
    if not any(
        os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    ):
        raise InputError(tr("There is no display for a window."),
                         remedy=tr("Set DISPLAY, or use the other commands: caracal --help."))
    if movie is not None and not new_window:
        from caracal.ui.shell.single_instance import opens_elsewhere  # noqa: PLC0415 - a small part of Qt

        if opens_elsewhere(movie):
            return 0
    from caracal.ui.shell.application import run  # noqa: PLC0415 - the other commands need no Qt

    return run(movie)


def look_at(asked: argparse.Namespace) -> int:
    """Say what a film is, or the film of a project."""
    master = probe(_film(asked.movie))
    if asked.json:
        print_json(master)
        return 0
    print(_about(master))
    return 0


def _film(path: Path) -> Path:
    """``path``, or the film of the project there."""
    from caracal.core.project.storage import SUFFIX  # noqa: PLC0415 - a film needs none of it

    if path.suffix.lower() != SUFFIX:
        return path
    from caracal.cli.asked import opened  # noqa: PLC0415

    return opened(path)[0]


def show_log(asked: argparse.Namespace) -> int:
    """Where the log is, and its last lines."""
    path = kept_at()
    lines: list[str] = []
    with suppress(OSError):
        lines = list(deque(read_own(path).decode("utf-8", "replace").splitlines(), asked.lines))
    print(path)
    for line in lines:
        print(line)
    return 0


def _about(master: Master) -> str:
    sound = ", ".join(f"{s.codec} {s.rate_hz} Hz {s.layout}" for s in master.sound) or tr("none")
    rows = [
        (tr("file"), master.file.name),
        (tr("picture"), f"{master.width}x{master.height}, {master.codec} {master.profile}, "
                    f"{master.pixel_format}"),
        (tr("rate"), f"{float(master.rate):.3f} fps ({master.frame_rate})"),
        (tr("length"), tr("{frames} frames, {timecode}", frames=master.frames,
                      timecode=timecode(master.frames, master.rate))),
        (tr("sound"), sound), *((tr("note"), notice) for notice in master.notices),
    ]
    return "\n".join(f"{name:8} {value}" for name, value in rows)
