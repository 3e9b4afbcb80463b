"""Starts the window."""

from __future__ import annotations

import ctypes
import signal
import socket
import sys
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QLibraryInfo, QLocale, QObject, QSocketNotifier, QTranslator
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from caracal.core.base.logs import watch_process
from caracal.core.base.resources import DEMO_FILM, shipped
from caracal.core.base.translation import languages
from caracal.core.base.work import CancelToken
from caracal.core.processes.children import leave, warm_up
from caracal.core.processes.stop_signals import STOPS, cancel_on_signals
from caracal.ui.services.worker import LEFT, all_parted
from caracal.ui.shell.accessibility import install_accessibility
from caracal.ui.shell.demo_film import open_demo
from caracal.ui.shell.main_window import MainWindow
from caracal.ui.shell.single_instance import SecondStart
from caracal.ui.widgets import theme
from caracal.ui.widgets.focus_policy import focus_first

M_TRIM_THRESHOLD, M_MMAP_THRESHOLD = -1, -3  # of mallopt (glibc, malloc.h)
END_S = 60.0  # for a window that was asked to end: it keeps unsaved work, on a slow disk, too
KEPT_BYTES, LARGE_BYTES = 1 << 27, 1 << 25
SWITCH_S = 0.0005  # Python's own 5 ms would let a busy thread hold a frame back


def prepare(application: QApplication) -> None:
    """Looks, and threads that let the window go first."""
    translate_qt(application)
    theme.dress(application)
    focus_first(application)
    install_accessibility()
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
    watch_process(lambda words: window.messages.say(words, 20_000))
    window.show()
    second = SecondStart(window, window.settings, lambda path: come_forward(window, path))
    application.aboutToQuit.connect(second.close)
    if film is not None:
        if film == DEMO_FILM:
            open_demo(window)
        else:
            window.open_any(film)
    ending = EndOnSignals(window.end)
    code = int(application.exec())
    ending.close()
    if LEFT or not all_parted():
        leave(code)  # threads that hang would be destroyed while they run
    return code


class EndOnSignals(QObject):
    """A polite kill closes the window as a person would, but asks nothing: a batch goes on.

    Python writes each signal's number into a socket, and the window reads it there: nothing of the
    window is called in the middle of what it does. Signals after the first are read, and do
    nothing. Where the window does not end in time the kernel ends the process (SIGALRM).
    """

    def __init__(self, end: Callable[[], None]) -> None:
        super().__init__()
        self._end, self._asked = end, False
        self._theirs, self._ours = socket.socketpair()
        for each in (self._theirs, self._ours):
            each.setblocking(False)
        self._notifier = QSocketNotifier(self._ours.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._read)
        self._before = signal.set_wakeup_fd(self._theirs.fileno(), warn_on_full_buffer=False)
        cancel_on_signals(CancelToken(), END_S)

    def _read(self) -> None:
        with suppress(OSError):
            self._ours.recv(4096)
        if not self._asked:
            self._asked = True
            self._end()
            QApplication.quit()  # dialogs that wait for a person, too

    def close(self) -> None:
        """Signals have their own effect again."""
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.set_wakeup_fd(self._before)
        for number in STOPS:
            signal.signal(number, signal.SIG_DFL)
