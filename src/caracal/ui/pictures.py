"""Pictures from the proxy, read in a thread; the newest wish is served first."""

from __future__ import annotations

import threading
from collections import OrderedDict
from pathlib import Path

from PySide6.QtCore import QObject, QThread, Signal
from PySide6.QtGui import QImage

from caracal.core.errors import CaracalError
from caracal.core.media.proxy import ProxyReader

KEPT = 160  # pictures of 640x360: about 110 MB
MOST_WISHES = 24  # older ones were overtaken by the pointer


class Pictures(QObject):
    """``get`` answers at once from memory or later through ``arrived``."""

    arrived = Signal(int)

    def __init__(self, proxy: Path, frame_rate: str, keep: tuple[int, ...] = ()) -> None:
        super().__init__()
        self._pinned = set(keep)
        self._kept: OrderedDict[int, QImage] = OrderedDict()
        self._steady: dict[int, QImage] = {}
        self._wishes: list[int] = list(reversed(keep))
        self._changed = threading.Condition()
        self._over = False
        self._reader = ProxyReader(proxy, frame_rate)
        self._thread = _Thread(self._work)
        self._thread.start()

    def get(self, frame: int) -> QImage | None:
        """The picture, or None while it is fetched."""
        with self._changed:
            found = self._steady.get(frame) or self._kept.get(frame)
            if found is not None:
                return found
            if frame in self._wishes:
                self._wishes.remove(frame)
            self._wishes.append(frame)
            pinned = [one for one in self._wishes if one in self._pinned]
            others = [one for one in self._wishes if one not in self._pinned][-MOST_WISHES:]
            self._wishes = pinned + others
            self._changed.notify()
        return None

    def _work(self) -> None:
        while True:
            with self._changed:
                while not self._wishes and not self._over:
                    self._changed.wait()
                if self._over:
                    return
                frame = self._wishes.pop()
            try:
                rgb = self._reader.rgb(frame)
            except CaracalError:
                continue  # a damaged proxy shows grey; the next analysis makes it again
            height, width = rgb.shape[:2]
            image = QImage(rgb.data, width, height, width * 3, QImage.Format.Format_RGB888).copy()
            with self._changed:
                if frame in self._pinned:
                    self._steady[frame] = image
                else:
                    self._kept[frame] = image
                    while len(self._kept) > KEPT:
                        self._kept.popitem(last=False)
            self.arrived.emit(frame)

    def close(self) -> None:
        """Stop the thread and close the file."""
        with self._changed:
            self._over = True
            self._changed.notify()
        self._thread.wait()
        self._reader.close()


class _Thread(QThread):
    def __init__(self, work: object) -> None:
        super().__init__()
        self._run_this = work

    def run(self) -> None:
        self._run_this()  # type: ignore[operator]
