"""Python's garbage is collected in the window's thread only.

An automatic collection runs in any thread that allocates memory. It would destroy widgets in
reference cycles there, which crashes Qt.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QCoreApplication, QTimer

EVERY_MS = 500

_timers: list[QTimer] = []


def collect_here() -> None:
    """From now on garbage is collected in this thread, while it handles events. Once is enough."""
    if _timers:
        return
    gc.disable()
    timer = QTimer(QCoreApplication.instance())
    timer.timeout.connect(collect_due)
    timer.start(EVERY_MS)
    _timers.append(timer)


def collect_due() -> None:
    """Do what the automatic collection would do by now: the oldest generation that is due."""
    due = [generation for generation, (count, most) in
           enumerate(zip(gc.get_count(), gc.get_threshold(), strict=True)) if 0 < most < count]
    if due:
        gc.collect(due[-1])
