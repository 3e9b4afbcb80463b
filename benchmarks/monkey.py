"""A monkey: clicks, drags, keys, wheels, words and menu entries at random in a real window."""

from __future__ import annotations

import os
import random
import sys
import time
import traceback
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from threading import Thread, get_ident
from typing import Any

from PIL import Image
from PySide6.QtCore import (
    QElapsedTimer,
    QEvent,
    QMimeData,
    QPoint,
    QPointF,
    Qt,
    QTimer,
    QUrl,
)
from PySide6.QtGui import QColor, QDropEvent, QKeyEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QColorDialog,
    QFileDialog,
    QLineEdit,
    QPlainTextEdit,
    QTextEdit,
    QWidget,
)
from shiboken6 import isValid

from caracal.core.base.resources import DEMO_FILM
from hostile_case import ffmpeg

STALL_S = 1.0
BEAT_MS = 20
ESCAPE_EVERY = 40  # events in one dialog, after which it is left
LEFT_OUT = {"Quit", "Keys and licences"}


class Monkey:
    """Acts on ``window`` at random; keeps what went wrong."""

    def __init__(self, window: Any, seed: int, folder: Path, files: list[Path]) -> None:
        self.window, self.folder, self.files = window, folder, files
        self.chance = random.Random(seed)
        self.problems: list[str] = []
        self.stalls: list[tuple[float, str, str]] = []
        self.done = 0
        self._in_dialog, self._last = 0, "the beginning"
        self._beat, self._since = QTimer(), QElapsedTimer()
        self._beat.timeout.connect(self._beats)
        self._watching, self._where = False, ""
        Thread(target=self._looks, args=(get_ident(),), daemon=True).start()
        self._trace = os.environ.get("MONKEY_TRACE")

    # What is watched

    def watch(self) -> None:
        """Count moments without a beat from now on."""
        self._since.start()
        self._watching = True
        self._beat.start(BEAT_MS)

    def rest(self) -> None:
        """Count no more moments."""
        self._watching = False

    def _beats(self) -> None:
        gap = self._since.restart() / 1000
        if self._watching and gap > STALL_S:
            self.stalls.append((round(gap, 2), self._last, self._where))
        self._where = ""

    def _looks(self, window_thread: int) -> None:
        """Keep where the window's thread is when it has had no beat for a while."""
        while True:
            time.sleep(0.1)
            if self._watching and self._since.elapsed() > STALL_S * 800 and not self._where:
                frame = sys._current_frames()[window_thread]
                self._where = "; ".join(
                    f"{Path(row.filename).name}:{row.lineno} {row.name}"
                    for row in traceback.extract_stack(frame)[-24:]
                    if "/caracal/" in row.filename)

    def told(self, _: Any, problem: BaseException, trace: Any) -> None:
        """An exception that nobody caught."""
        self.problems.append(f"after {self._last}: " + "".join(
            traceback.format_exception(type(problem), problem, trace))[-1500:])

    # What it does

    def act(self) -> None:
        """One event."""
        self.done += 1
        modal = QApplication.activeModalWidget() or QApplication.activePopupWidget()
        self._in_dialog = self._in_dialog + 1 if modal else 0
        if modal is not None and self._in_dialog > ESCAPE_EVERY:
            self._in_dialog = 0
            self._key_to(modal, "Escape")
            if modal.isVisible():
                modal.close()
            return
        kinds = ((self._click, 40), (self._key, 22), (self._menu, 14), (self._drag, 10),
                 (self._wheel, 6), (self._type, 5), (self._undo, 4), (self._drop, 2),
                 (self._resize, 1), (self._close_film, 0.15))
        act: Callable[[Any], None] = self.chance.choices(
            [kind for kind, _ in kinds], [weight for _, weight in kinds])[0]
        act(modal)

    def _note(self, words: str) -> None:
        self._last = words
        if self._trace:
            with Path(self._trace).open("a") as file:
                file.write(f"{self.done} {words}\n")

    def _widget(self, modal: Any, kind: Any = None) -> Any:
        """A widget that is seen and can be used."""
        kind = kind or QWidget
        roots = [modal] if modal is not None else [
            top for top in QApplication.topLevelWidgets() if top.isVisible()]
        found = [child for root in roots for child in (root, *root.findChildren(QWidget))
                 if child.isVisible() and child.isEnabled() and child.width() > 2
                 and child.height() > 2 and isinstance(child, kind)]
        return self.chance.choice(found) if found else None

    def _point(self, widget: Any) -> Any:
        return QPoint(self.chance.randrange(widget.width()), self.chance.randrange(widget.height()))

    def _click(self, modal: Any) -> None:
        widget = self._widget(modal)
        if widget is None:
            return
        self._note(f"a click on {name_of(widget)}")
        button = self.chance.choices((Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton),
                                     (12, 1))[0]
        more = self.chance.choices((Qt.KeyboardModifier.NoModifier,
                                    Qt.KeyboardModifier.ShiftModifier,
                                    Qt.KeyboardModifier.ControlModifier), (8, 1, 1))[0]
        how = QTest.mouseDClick if self.chance.random() < 0.08 else QTest.mouseClick
        how(widget, button, more, self._point(widget))

    def _key(self, modal: Any) -> None:
        target = QApplication.focusWidget() or modal or self.window
        self._key_to(target, self.chance.choice(
            ("Space", "Left", "Right", "Up", "Down", "Tab", "Return", "Delete", "Home", "End",
             "PageUp", "PageDown", "Escape", "Backspace", *"ABCDFGHIJKLMNOPRSTUVWXYZ1234567890",
             "Left", "Right", "Comma", "Period", "BracketLeft", "BracketRight")))

    def _key_to(self, target: Any, name: str) -> None:
        more = self.chance.choices((Qt.KeyboardModifier.NoModifier,
                                    Qt.KeyboardModifier.ShiftModifier,
                                    Qt.KeyboardModifier.AltModifier), (10, 2, 1))[0]
        self._note(f"key {name} in {name_of(target)}")
        QTest.keyClick(target, getattr(Qt.Key, f"Key_{name}"), more)

    def _type(self, modal: Any) -> None:
        widget = self._widget(modal, (QLineEdit, QTextEdit, QPlainTextEdit, QAbstractSpinBox))
        if widget is None:
            return
        self._note(f"words into {name_of(widget)}")
        widget.setFocus()
        words = self.chance.choice(
            ("Kiln", "1", "-3.5", "99999999", "00:00:05:00", "#ff8800", "x" * 300, "é", " ", "0"))
        for letter in words:  # the toolkit's own keyClicks knows only the letters of ASCII
            for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                if alive(widget):
                    QApplication.sendEvent(widget, QKeyEvent(
                        kind, 0, Qt.KeyboardModifier.NoModifier, letter))

    def _menu(self, modal: Any) -> None:
        if modal is not None:
            return
        actions = [action for name, action in self.window.actions_by_name.items()
                   if action.isEnabled() and name not in LEFT_OUT]
        if actions:
            action = self.chance.choice(actions)
            self._note(f"menu {action.text()}")
            action.trigger()

    def _drag(self, modal: Any) -> None:
        widget = self._widget(modal)
        if widget is None:
            return
        self._note(f"a drag in {name_of(widget)}")
        left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        more = Qt.KeyboardModifier.ControlModifier if self.chance.random() < 0.2 else none
        QTest.mousePress(widget, left, more, self._point(widget))
        for _ in range(self.chance.randrange(1, 6)):
            if not alive(widget):
                return
            QTest.mouseMove(widget, self._point(widget))
        if alive(widget):
            QTest.mouseRelease(widget, left, more, self._point(widget))

    def _wheel(self, modal: Any) -> None:
        widget = self._widget(modal)
        if widget is None:
            return
        self._note(f"the wheel over {name_of(widget)}")
        at = QPointF(self._point(widget))
        more = self.chance.choice((Qt.KeyboardModifier.NoModifier,
                                   Qt.KeyboardModifier.ControlModifier))
        QApplication.sendEvent(widget, QWheelEvent(
            at, QPointF(widget.mapToGlobal(at.toPoint())), QPoint(),
            QPoint(0, self.chance.choice((-360, -120, 120, 360))), Qt.MouseButton.NoButton, more,
            Qt.ScrollPhase.NoScrollPhase, False))

    def _undo(self, modal: Any) -> None:
        film = self.window.film
        if film is not None and modal is None:
            self._note("undo or redo")
            for _ in range(self.chance.randrange(1, 5)):
                document = film.session.document
                (document.undo if self.chance.random() < 0.6 else document.redo)()

    def _drop(self, modal: Any) -> None:
        if modal is not None:
            return
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(self.chance.choice(self.files)))])
        self._note(f"drop {data.urls()[0].fileName()}")
        event = QDropEvent(QPointF(9, 9), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton,
                           Qt.KeyboardModifier.NoModifier)
        self.window.dropEvent(event)

    def _resize(self, modal: Any) -> None:
        size = self.chance.choice(((853, 533), (1024, 700), (1280, 800), (1600, 900)))
        self._note(f"size {size}")
        self.window.resize(*size)

    def _close_film(self, modal: Any) -> None:
        if modal is None and self.window.film is not None:
            self._note("close the film")
            self.window.close_film()
            self.window.open_film(DEMO_FILM)


def alive(widget: Any) -> bool:
    """Whether the toolkit still has ``widget``."""
    return bool(isValid(widget))


def name_of(widget: Any) -> str:
    """What a widget is, for people."""
    if not alive(widget):
        return "what is gone"
    text = getattr(widget, "text", None)
    words = ""
    with suppress(Exception):
        words = str(text())[:30] if callable(text) else ""
    return f"{type(widget).__name__} {widget.objectName() or widget.accessibleName() or words}"


def files_for(folder: Path) -> list[Path]:
    """Files to be chosen and dropped: good ones, bad ones, and names of none."""
    folder.mkdir()
    made = [folder / name for name in ("none.mp4", "words.srt", "bad.png", "logo.png", "clip.mp4",
                                       "text.txt", "odd.svg", "a.toml", "cuts.edl", "b.caracal")]
    (folder / "words.srt").write_text("1\n00:00:01,000 --> 00:00:03,000\nWe fire the kiln\n")
    for name in ("bad.png", "a.toml", "cuts.edl", "b.caracal"):
        (folder / name).write_text("no such thing")
    (folder / "text.txt").write_text("We fire the big kiln once a year.")
    (folder / "odd.svg").write_text("<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 9 3'>"
                                    "<rect width='9' height='3' fill='#c04020'/></svg>")
    Image.new("RGB", (80, 40), (200, 80, 40)).save(folder / "logo.png")
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=160x90:r=25:d=2", folder / "clip.mp4")
    return made


def answer_dialogs(monkey: Monkey) -> None:
    """Files and colours that a person would choose come from the monkey."""
    chance, folder = monkey.chance, monkey.folder

    def opened(*_: Any, **__: Any) -> tuple[str, str]:
        return (str(chance.choice(monkey.files)) if chance.random() < 0.8 else "", "")

    def saved(*words: Any, **__: Any) -> tuple[str, str]:
        kind = str(words[3]).partition(";;")[0] if len(words) > 3 else ""
        name = chance.choice(("mine.caracal", "x.toml", "said.srt", "bundle", "no folder/x.toml"))
        return (str(folder / "saved" / name), kind) if chance.random() < 0.8 else ("", "")

    QFileDialog.getOpenFileName = opened
    QFileDialog.getSaveFileName = saved
    QFileDialog.getExistingDirectory = lambda *_, **__: str(folder / "saved")
    QColorDialog.getColor = lambda *_, **__: QColor(chance.choice(("#334455", "#ff8800", "")))
