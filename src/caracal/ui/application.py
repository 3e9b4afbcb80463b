"""Starts the window."""

from __future__ import annotations

import ctypes
import signal
import sys
from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QLibraryInfo, QLocale, QTimer, QTranslator
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from caracal.core.children import warm_up
from caracal.core.logs import watch_process
from caracal.core.resources import DEMO_FILM, shipped
from caracal.core.translation import languages
from caracal.ui import theme
from caracal.ui.demo import open_demo
from caracal.ui.main_window import MainWindow
from caracal.ui.second_start import SecondStart
from caracal.ui.spoken import speak
from caracal.ui.tame import focus_first

M_TRIM_THRESHOLD, M_MMAP_THRESHOLD = -1, -3  # of mallopt (glibc, malloc.h)
KEPT_BYTES, LARGE_BYTES = 1 << 27, 1 << 25
SWITCH_S = 0.0005  # Python's own 5 ms would let a busy thread hold a frame back


def prepare(application: QApplication) -> None:
    """Looks, and threads that let the window go first."""
    translate_qt(application)
    theme.dress(application)
    focus_first(application)
    speak()
    sys.setswitchinterval(SWITCH_S)
    keep_memory()


def translate_qt(application: QApplication) -> None:
    """Let Qt's own buttons and dialogs speak the language, where there is a catalogue of it."""
    folder = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
    for language in languages():
        translator = QTranslator(application)
        if translator.load(QLocale(language), "qtbase", "_", folder):
            application.installTranslator(translator)
            return


def keep_memory() -> None:
    """Let memory of pictures be used again: given back and taken anew it costs more than the
    pictures themselves. Other systems' libraries know no such thing."""
    with suppress(OSError, AttributeError):
        libc = ctypes.CDLL("libc.so.6")
        libc.mallopt(M_MMAP_THRESHOLD, LARGE_BYTES)
        libc.mallopt(M_TRIM_THRESHOLD, KEPT_BYTES)


def come_forward(window: MainWindow, path: Path) -> None:
    """Open a file that a later start was given, with the window before all others."""
    if window.isMinimized():
        window.showNormal()
    window.raise_()
    window.activateWindow()
    window.open_any(path)


def run(film: Path | None) -> int:
    """Open the window, on ``film`` if one is given; returns the exit code."""
    warm_up()
    application = QApplication(sys.argv[:1])
    application.setApplicationName("caracal")
    application.setDesktopFileName("caracal")
    application.setWindowIcon(QIcon(str(shipped("desktop", "caracal.svg"))))
    prepare(application)
    window = MainWindow()
    watch_process(lambda words: window.statusBar().showMessage(words, 20_000))
    window.show()
    second = SecondStart(window, window.settings, lambda path: come_forward(window, path))
    application.aboutToQuit.connect(second.close)
    if film is not None:
        if film == DEMO_FILM:
            open_demo(window)
        else:
            window.open_any(film)
    # Python sees Ctrl+C only when it runs; a slow tick lets it.
    # A polite kill closes the window as a person would, but asks nothing: a batch goes on.
    for literal in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(literal, lambda *_: window.end())
    tick = QTimer()
    tick.timeout.connect(lambda: None)
    tick.start(300)
    return int(application.exec())
