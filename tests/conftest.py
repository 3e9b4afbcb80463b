"""Shared films and helpers. All media is made here, or is the shipped demo film."""

from __future__ import annotations

import functools
import gc
import json
import os
import struct
import subprocess
import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OMP_NUM_THREADS", "1")  # two processes test on two cores
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import hypothesis
import numpy as np
import pytest

from caracal.core.analysis.detectors.network import open_model
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.base.resources import shipped
from caracal.core.base.time import samples_at
from caracal.core.media.encode import EncoderSettings, MovieWriter, SoundSettings
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import keep_sheet, shipped_sheets

# A test that is slow once, beside others, is not wrong. The suite tries the same examples each
# time; CARACAL_EXAMPLES=3000 tries that many new ones of each property.
EXAMPLES = int(os.environ.get("CARACAL_EXAMPLES", "0"))
hypothesis.settings.register_profile("caracal", deadline=None, max_examples=EXAMPLES or 60,
                                     derandomize=not EXAMPLES)
hypothesis.settings.load_profile("caracal")

DEMO = shipped("demo", "kiln-day-at-marram-quay.mp4")


@pytest.fixture(autouse=True)
def collected() -> Any:
    """Where a window was opened garbage is collected in the thread of its events, which not every
    test lets run."""
    yield
    if not gc.isenabled():
        gc.collect(1)


@pytest.fixture(scope="module", autouse=True)
def collected_after_files() -> Any:
    """The same, all of it."""
    yield
    if not gc.isenabled():
        gc.collect()


@pytest.fixture(scope="session", autouse=True)
def cache(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """One cache for the whole run, so that the demo is analysed once: the processes share it."""
    folder = tmp_path_factory.mktemp("own")
    shared = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        shared = shared.parent
    os.environ["CARACAL_CACHE"] = str(shared / "cache")
    os.environ["CARACAL_STATE"] = str(folder / "state")
    os.environ["CARACAL_CONFIG"] = str(folder / "config")
    return folder


@pytest.hookimpl(optionalhook=True)  # known when tests run in several processes
def pytest_xdist_auto_num_workers(config: pytest.Config) -> int:
    """One more than two processors: each test waits for something now and then."""
    return min(4, max(3, os.cpu_count() or 1))


# Files that take longest begin first, so that no worker waits for another at the end.
# The demo is looked at meanwhile: the second of them needs that, the third and fourth do not.
LONG = ("batch_list", "convert", "hostile", "odd_films", "growing", "generic_sheets", "preview",
        "window_trust", "specs", "gate", "editing_window", "batch_command", "batch_view",
        "timeline", "words_in_files", "sound")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Long files first, each in its own order."""
    order = {f"test_{name}": place for place, name in enumerate(LONG)}
    items.sort(key=lambda item: order.get(item.path.stem, len(LONG)))


def open_window(qtbot: Any, qapp: Any, folder: Path, film: Path | None = None) -> Any:
    """The real window on the demo film, its settings and versions in ``folder``.

    Another ``film`` may still be looked at.
    """
    from PySide6.QtCore import QSettings

    from caracal.core.base.resources import DEMO_FILM
    from caracal.ui.shell.main_window import MainWindow
    from caracal.ui.widgets import theme

    if qapp.styleSheet() != theme.style_sheet():  # dressing it again takes a sixth of the time
        theme.dress(qapp)
    folder.mkdir(parents=True, exist_ok=True)
    settings = QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat)
    settings.setValue("out", str(folder / "out"))
    made = MainWindow(settings)
    made.what_of_batch = lambda: "stop"  # dialogs that wait for a person
    made.may_take_over = lambda: True
    made.resize(1280, 800)
    qtbot.addWidget(made)
    made.show()
    made.open_film(film or DEMO_FILM)
    qtbot.waitUntil(lambda: made.film is not None, timeout=60_000)
    made.film.files.wait()  # unsaved work is back, if there was any
    if film is None:
        qtbot.waitUntil(lambda: made.analysing is None, timeout=60_000)
        session = made.film.session
        qtbot.waitUntil(lambda: session.ahead.done and not session.solving.has_ahead
                        and not session.solving.busy, timeout=60_000)
    return made


def settled(session: Any) -> Any:
    """The session once everything asked of its solver is answered and shown."""
    from PySide6.QtCore import QEventLoop, QTimer

    loop, timer, quiet = QEventLoop(), QTimer(), []

    def look() -> None:
        idle = not session.solving.busy
        quiet.append(idle)
        if quiet[-2:] == [True, True]:
            loop.quit()

    timer.timeout.connect(look)
    timer.start(5)
    loop.exec()
    return session


def solved(session: Any, letter: str, shot: int) -> Any:
    """The path of a shot as it was decided last."""
    session.path(letter, shot)
    return settled(session).path(letter, shot)


def smaller(sheet: SpecSheet, parts: int = 6) -> SpecSheet:
    """``sheet`` on a canvas one ``parts``th as wide: its pictures are soon made."""
    width, height = sheet.canvas
    return with_value(sheet, "canvas", (width // parts // 2 * 2, height // parts // 2 * 2))


def _kept_smaller(folder: Path, monkeypatch: pytest.MonkeyPatch, parts: int) -> None:
    monkeypatch.setenv("CARACAL_CONFIG", str(folder))
    for sheet in shipped_sheets().values():
        if not sheet.as_made:
            keep_sheet(smaller(sheet, parts))


@pytest.fixture
def small_sheets(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    """Sheets of the user's own, called as those that ship, on canvases a sixth as wide.

    For tests of what is round about encoding.
    """
    _kept_smaller(tmp_path_factory.mktemp("small"), monkeypatch, 6)


@pytest.fixture
def third_sheets(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    """The same a third as wide, where words still have an outline."""
    _kept_smaller(tmp_path_factory.mktemp("third"), monkeypatch, 3)


@pytest.fixture
def window(qtbot: Any, qapp: Any, demo: Analysis, tmp_path: Path, monkeypatch: Any) -> Any:
    """An open window with a place of its own for what saves itself.

    No trial is made in it until one is asked for: it takes as long as many a test.
    """
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    monkeypatch.setattr("caracal.ui.batch.expectations.SETTLE_MS", 3_600_000)
    made = open_window(qtbot, qapp, tmp_path)
    yield made
    made.close()


@pytest.fixture
def aim(window: Any) -> Any:
    """Aim at the first shot of version A."""
    window.film.show_view("Aim")
    session = window.film.session
    session.choose_version("A")
    session.go(session.analysis.shots[0].poster_frame)
    settled(session)
    return window.film.aim


def drag(qtbot: Any, widget: Any, start: Any, end: Any) -> None:
    """Press at ``start``, move to ``end`` with Alt held, so that nothing snaps, and release."""
    from PySide6.QtCore import QEvent, QPointF, Qt
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtWidgets import QApplication

    left = Qt.MouseButton.LeftButton
    qtbot.mousePress(widget, left, pos=start)
    QApplication.sendEvent(widget, QMouseEvent(
        QEvent.Type.MouseMove, QPointF(end), widget.mapToGlobal(QPointF(end)), left, left,
        Qt.KeyboardModifier.AltModifier))
    qtbot.mouseRelease(widget, left, pos=end)


@pytest.fixture(autouse=True)
def nobody_is_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    """Dialogs that wait for a person are answered."""
    from caracal.ui.sheets.window import SheetWindow

    monkeypatch.setattr(SheetWindow, "ask_about_changes", lambda _: "discard")


@pytest.fixture(scope="session", autouse=True)
def models() -> list[Any]:
    """The detectors stay loaded from the first film to the last: many are looked at."""
    names = ("faces", "objects-int8", "words", "cuts")
    return [open_model(f"{name}.onnx", 1) for name in names]


@pytest.fixture(scope="session")
def demo(cache: Path) -> Analysis:
    return analyse(DEMO)


@pytest.fixture(scope="session")
def truth() -> dict[str, Any]:
    return json.loads(DEMO.with_suffix(".truth.json").read_text())


def write_film(path: Path, *, size: tuple[int, int] = (320, 180), rate: str = "25/1",
               frames: int = 50, sound: bool = True, picture: Any = None) -> Path:
    """A small film through our own writer: a bright block that moves, a tone that clicks.

    Those with that picture are made once for each size, rate and length.
    """
    if picture is None:
        path.write_bytes(_film(path.suffix, size, rate, frames, sound))
        return path
    return _written(path, size, rate, frames, sound, picture)


@functools.cache
def _film(suffix: str, size: tuple[int, int], rate: str, frames: int, sound: bool) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        return _written(Path(folder) / f"film{suffix}", size, rate, frames, sound,
                        None).read_bytes()


def _written(path: Path, size: tuple[int, int], rate: str, frames: int, sound: bool,
             picture: Any) -> Path:
    tone = SoundSettings("aac", 48000, 2, 128) if sound else None
    writer = MovieWriter(path, EncoderSettings(
        width=size[0], height=size[1], frame_rate=rate, encoder="libx264", pixel_format="yuv420p",
        gop_frames=25, options={"crf": "12", "preset": "ultrafast"}, sound=tone))
    for number in range(frames):
        y = np.full((size[1], size[0]), 60, np.uint8)
        if picture is not None:
            y = picture(number, y)
        else:
            y[40:80, 20 + number * 2 : 60 + number * 2] = 220
        chroma = np.full((size[1] // 2, size[0] // 2), 128, np.uint8)
        writer.write_picture((y, chroma, chroma))
        if sound:
            first, last = (samples_at(n, Fraction(rate), 48000) for n in (number, number + 1))
            writer.write_sound(noise(first, last))
    writer.finish()
    return path


def noise(first: int, last: int) -> np.ndarray:
    """Repeatable band-limited noise, the same wherever one starts: good for finding shifts."""
    kernel = np.hanning(9) / np.hanning(9).sum()
    part = np.convolve(_white_noise()[first : last + 8], kernel, mode="valid")[: last - first]
    return np.stack([part, part], axis=1).astype(np.float32)


@functools.cache
def _white_noise() -> np.ndarray:
    return np.random.default_rng(5).normal(0, 0.2, 48000 * 12)


def children_of(starter: int, module: str) -> list[int]:
    """The numbers of the processes of ``module`` that process ``starter`` started."""
    found = subprocess.run(["pgrep", "-f", f"^caracal {module} for {starter}$"], check=False,
                           capture_output=True, text=True)
    return [int(number) for number in found.stdout.split()]


def ffmpeg(*arguments: str | Path) -> None:
    subprocess.run(["ffmpeg", "-v", "error", "-y", *map(str, arguments)], check=True)


def turned_film(plain: Path, path: Path, degrees: int) -> Path:
    """The MP4 ``plain`` with one track, to be shown turned clockwise: its matrix is changed.

    ISO/IEC 14496-12, track header box: nine numbers, 44 bytes after the box's name.
    """
    data = bytearray(plain.read_bytes())
    at = data.index(b"tkhd") + 44
    turn = {0: (1, 0, 0, 1), 90: (0, 1, -1, 0), 180: (-1, 0, 0, -1), 270: (0, -1, 1, 0)}[degrees]
    a, b, c, d = (number << 16 for number in turn)
    data[at : at + 36] = struct.pack(">9i", a, b, 0, c, d, 0, 0, 0, 1 << 30)
    path.write_bytes(data)
    return path


def ffprobe(path: Path) -> dict[str, Any]:
    """What an independent prober says."""
    out = subprocess.run(
        ["ffprobe", "-v", "error", "-count_frames", "-show_streams", "-show_format", "-of", "json",
         str(path)], check=True, capture_output=True, text=True)
    return json.loads(out.stdout)


def true_boxes(truth: dict[str, Any], shot: int, identity: str, kind: str) -> dict[int, tuple]:
    for track in truth["tracks"]:
        if (track["shot"], track["identity"], track["kind"]) == (shot, identity, kind):
            return {int(row[0]): tuple(row[1:]) for row in track["boxes"]}
    return {}
