"""When Python looks for what nobody needs any more: not while somebody works."""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer, Slot

CALM_MS = 4000  # without news: nobody notices a hold of some hundredths of a second then
SELDOM = 1000  # of the second generation's rounds before the third has one, if it is never calm


class IdleGc(QObject):
    """What is known of an open film stays as long as it is open: looking through all of it would
    hold the window for a tenth of a second, again and again. What came since is looked through when
    nothing has happened for a while.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._thresholds = gc.get_threshold()
        self._calm = QTimer(self)
        self._calm.setSingleShot(True)
        self._calm.setInterval(CALM_MS)
        self._calm.timeout.connect(self._collect)

    @Slot()
    def happened(self) -> None:
        """Something happened: it is not calm for a while."""
        self._calm.start()

    def _collect(self) -> None:
        """What came since; what stays of that is looked through no more either."""
        gc.collect()
        gc.freeze()

    def leave_out(self) -> None:
        """What there is now is looked through no more."""
        gc.freeze()
        gc.set_threshold(*self._thresholds[:2], SELDOM)

    def close(self) -> None:
        """As it was before: the film is closed."""
        self._calm.stop()
        gc.set_threshold(*self._thresholds)
        gc.unfreeze()
