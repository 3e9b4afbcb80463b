"""Starts the window."""

from __future__ import annotations

import signal
import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from caracal.ui import theme
from caracal.ui.main_window import MainWindow


def run(film: Path | None) -> int:
    """Open the window, on ``film`` if one is given; returns the exit code."""
    application = QApplication(sys.argv[:1])
    application.setApplicationName("caracal")
    theme.dress(application)
    window = MainWindow()
    window.show()
    if film is not None:
        window.open_any(film)
    # Python sees Ctrl+C only when it runs; a slow tick lets it.
    signal.signal(signal.SIGINT, lambda *_: application.quit())
    tick = QTimer()
    tick.timeout.connect(lambda: None)
    tick.start(300)
    return int(application.exec())
