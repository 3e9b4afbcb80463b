"""The window with its own files damaged, newer, in the way or unwritable. Used by hostile.py.

Each window is opened on a film in a copy of this process, without a display, and closed again: it
must open, tell, and lose nothing.
"""

from __future__ import annotations

import os
import random
import shutil
import signal
import sqlite3
import sys
import time
import traceback
from collections.abc import Callable, Iterator
from pathlib import Path

from caracal.core.base.errors import CaracalError
from caracal.core.batch.batch_list import BatchList, list_file
from caracal.core.batch.job import EncodeJob
from caracal.core.framing.motion import Manner
from caracal.core.processes.children import leave, share_server
from caracal.core.project.edits import with_manner
from caracal.core.project.recipe import Recipe
from caracal.core.project.storage import read_document
from caracal.core.specs.sheet_store import find_sheet
from hostile_case import HANG_S, Place, Trial
from hostile_own_files import Setting, empty, flipped, folder, loop, noise, pipe

OPEN_S = 40.0


def in_window(own: Path, film: Path, log: Path, edit: bool) -> str:
    """How a window on ``film`` ended whose own files are in ``own``: nothing, or what went wrong.
    """
    child = os.fork()
    if child == 0:
        os.setsid()
        share_server()
        with log.open("wb") as out:
            os.dup2(out.fileno(), 1)
            os.dup2(out.fileno(), 2)
        code = 1
        try:
            code = _window(own, film, edit)
        except BaseException:  # noqa: BLE001 - told below
            traceback.print_exc()
        leave(code)
    end = time.monotonic() + HANG_S
    while time.monotonic() < end:
        done, status = os.waitpid(child, os.WNOHANG)
        if done:
            said = log.read_text(errors="replace")
            return "" if status == 0 and "Traceback" not in said else f"{status}: {said[-600:]}"
        time.sleep(0.02)
    os.killpg(child, signal.SIGKILL)
    os.waitpid(child, 0)
    return f"hangs: {log.read_text(errors='replace')[-300:]}"


def _window(own: Path, film: Path, edit: bool) -> int:
    from PySide6.QtWidgets import QApplication  # noqa: PLC0415 - in the copy only

    from caracal.ui.shell.application import prepare  # noqa: PLC0415
    from caracal.ui.shell.main_window import MainWindow  # noqa: PLC0415

    application = QApplication(["caracal"])
    prepare(application)
    window = MainWindow()
    window.show()

    def wait(condition: Callable[[], bool], most_s: float) -> bool:
        until = time.monotonic() + most_s
        while not condition() and time.monotonic() < until:
            application.processEvents()
            time.sleep(0.01)
        return condition()

    window.open_any(film)

    def opened() -> bool:
        if window.film is None:
            return bool(window.start.problem.text())
        return window.analysing is None and window.film.files.is_recovered

    if not wait(opened, OPEN_S):
        sys.stderr.write("Traceback: the film did not open\n")
        return 1
    if window.film is not None and edit:
        session = window.film.session
        session.edit(with_manner(session.project, "A", 0, Manner.GLIDE), "glide")
        window.film.files.keep()
        window.film.files.wait()
        window.film.show_view("Batch")
        wait(lambda: False, 0.1)
    window.end()
    return 0


def good_state(place: Place) -> Path:
    """State, cache and configuration of a window that was used; made once."""
    own = place.folder / "used"
    if not own.exists():
        wrong = with_variables(place, own, lambda: in_window(own, place.base, place.new("said"),
                                                             True))
        if wrong:
            raise RuntimeError(wrong)
        with_variables(place, own, _add_line)
    return own


def _add_line() -> str:
    with BatchList(list_file()) as jobs:
        jobs.add([EncodeJob("film.mp4", "out", Recipe(find_sheet("wide")))])
    return ""


def with_variables(place: Place, own: Path, run: Callable[[], str]) -> str:
    """``run`` with the environment of ``own``."""
    before = dict(os.environ)
    os.environ.update(place.variables(own) | {"XDG_CONFIG_HOME": str(own / "config")})
    try:
        return run()
    finally:
        os.environ.clear()
        os.environ.update(before)


def newer(_: Place, at: Path) -> None:
    """A file of a version that nobody has yet."""
    if at.suffix == ".sqlite":
        with sqlite3.connect(at) as base:
            base.execute("PRAGMA user_version = 99")
    else:
        at.write_bytes(b'{"format": "caracal project", "version": 9999, "future": {}}')


def dangling(_: Place, at: Path) -> None:
    """A link to nothing, in a folder that nobody may write to."""
    at.symlink_to("/proc/none/x")


SETTINGS: tuple[Setting, ...] = (pipe, loop, folder, empty, noise, newer, dangling)


def windows(place: Place) -> Iterator[Trial]:
    """Each file of state, configuration and cache, with something else in its place."""
    used = good_state(place)
    for path in sorted(used.rglob("*")):
        name = str(path.relative_to(used))
        for put in SETTINGS:
            if put is not newer or path.suffix in (".sqlite", ".caracal", ".json"):
                yield Trial("window", f"{put.__name__} at {name}", _put(place, name, put))


def _put(place: Place, name: str, put: Setting) -> Callable[[], str]:
    def run() -> str:
        own = _copy(place)
        at = own / name
        before = {} if (own / "state" / "work").is_relative_to(at) else _unsaved(own)
        _remove(at)
        put(place, at)
        wrong = with_variables(place, own, lambda: in_window(own, place.base, place.new("said"),
                                                             False))
        before.pop(at.name, None)
        return wrong or _lost(own, before)

    return run


def autosaves(place: Place, chance: random.Random) -> Iterator[Trial]:
    """Unsaved work with bits changed, cut off, newer: it is read, or set aside; nothing is lost."""
    number = 0
    while True:
        yield Trial("autosave", f"number {number}", _damaged(place, chance.random()))
        number += 1


def _damaged(place: Place, seed: float) -> Callable[[], str]:
    def run() -> str:
        own, of = _copy(place), random.Random(seed)
        (file,) = (own / "state").rglob("*.caracal")
        good = read_document(file).project
        data = flipped(file.read_bytes(), of)
        file.write_bytes(data)
        try:
            same = read_document(file).project == good
        except CaracalError:
            same = None
        wrong = with_variables(place, own, lambda: in_window(own, place.base, place.new("said"),
                                                             of.random() < 0.5))
        if wrong:
            return wrong
        kept = [path.read_bytes() for path in (own / "state").rglob("*.caracal")]
        return "" if same is not None or data in kept else "what could not be read is gone"

    return run


def _copy(place: Place) -> Path:
    own = place.fresh("window") / "own"
    shutil.copytree(good_state(place), own, symlinks=True)
    return own


def _remove(at: Path) -> None:
    if at.is_dir() and not at.is_symlink():
        shutil.rmtree(at)
    else:
        at.unlink(missing_ok=True)


def _unsaved(own: Path) -> dict[str, object]:
    """What is kept of films: projects, whatever their numbers look like, or bytes."""
    found: dict[str, object] = {}
    for path in (own / "state").rglob("*.caracal"):
        if path.is_file():
            try:
                found[path.name] = read_document(path).project
            except CaracalError:
                found[path.name] = path.read_bytes()
    return found


def _lost(own: Path, before: dict[str, object]) -> str:
    """Unsaved work that is neither where it was nor set aside."""
    kept = list(_unsaved(own).values())
    lost = [name for name, data in before.items() if data not in kept]
    return f"lost: {lost}" if lost and (own / "state").is_dir() else ""
