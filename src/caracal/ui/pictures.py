"""Pictures from the proxy, read in a thread; the newest wish is served first."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable
from pathlib import Path

from PySide6.QtCore import QObject, QThread, Signal
from PySide6.QtGui import QImage

from caracal.core.logs import unforeseen
from caracal.core.media.proxy import ProxyReader

KEPT = 96  # pictures of 960x540: about 200 MB
SMALL = 400  # pixels across a small picture: every shot keeps one, 360 kB
MOST_WISHES = 24  # older ones were overtaken by the pointer


class Pictures(QObject):
    """``get`` and ``small`` answer at once from memory or later through ``arrived``."""

    arrived = Signal(int)

    def __init__(self, proxy: Path, frame_rate: str, keep: tuple[int, ...] = ()) -> None:
        """``keep`` are frames of which a small picture is made, and stays."""
        super().__init__()
        self._kept: OrderedDict[int, QImage] = OrderedDict()
        self._wide: int | None = None  # of pictures to read; None: as the proxy has them
        self._fitting: set[int] = set()  # those kept that are as wide as that
        self._small: dict[int, QImage] = {}
        self._wishes: list[int] = []
        self._next: list[int] = []
        self._small_wishes: list[int] = list(reversed(keep))
        self._changed = threading.Condition()
        self._over = False
        self._reader = ProxyReader(proxy, frame_rate)
        self._thread = _Thread(self._work)
        self._thread.start()

    def get(self, frame: int) -> QImage | None:
        """The picture in the size of :meth:`fit`, or None while it is fetched."""
        with self._changed:
            if frame in self._fitting:
                return self._kept[frame]
            if frame in self._wishes:
                self._wishes.remove(frame)
            self._wishes = [*self._wishes, frame][-MOST_WISHES:]
            self._changed.notify()
        return None

    def fit(self, wide: int) -> None:
        """Read pictures ``wide`` pixels across from now on: those need no scaling on the screen."""
        with self._changed:
            if wide != self._wide:
                self._wide = wide
                self._fitting.clear()  # others still stand for what is near until it is there

    def near(self, frame: int, start: int, end: int) -> tuple[QImage, int] | None:
        """The picture in memory that is nearest to ``frame`` in [start, end), and its frame."""
        with self._changed:
            inside = [one for one in self._kept if start <= one < end]
            if not inside:
                return None
            best = min(inside, key=lambda one: abs(one - frame))
            return self._kept[best], best

    def prepare(self, frames: Iterable[int]) -> None:
        """Fetch ``frames`` in this order when nothing else is wished for: they come next."""
        with self._changed:
            self._next = [one for one in frames if one not in self._fitting]
            self._changed.notify()

    def small(self, frame: int) -> QImage | None:
        """A small picture that is kept for good, or None while it is fetched."""
        with self._changed:
            if frame in self._small:
                return self._small[frame]
            if frame in self._small_wishes:
                self._small_wishes.remove(frame)
            self._small_wishes.append(frame)
            self._changed.notify()
        return None

    def keep(self, frames: Iterable[int]) -> None:
        """Make small pictures of these frames as well when nothing else is wished for."""
        with self._changed:
            known = {*self._small, *self._small_wishes}
            self._small_wishes[:0] = reversed([one for one in frames if one not in known])
            self._changed.notify()

    def _work(self) -> None:
        while True:
            with self._changed:
                while not (self._wishes or self._next or self._small_wishes or self._over):
                    self._changed.wait()
                if self._over:
                    return
                frame, small = self._most_wanted()
                wide = SMALL if small else self._wide
            try:
                read = self._reader.screen(frame, wide)
            except Exception as problem:  # noqa: BLE001 - the last handler of this thread
                unforeseen(problem)
                continue  # a damaged proxy shows grey; the next analysis makes it again
            height, width = read.shape[:2]
            image = QImage(read.data, width, height, width * 4, QImage.Format.Format_RGB32).copy()
            with self._changed:
                if small:
                    self._small[frame] = image
                elif wide == self._wide:
                    self._kept[frame] = image
                    self._kept.move_to_end(frame)
                    self._fitting.add(frame)
                    while len(self._kept) > KEPT:
                        self._fitting.discard(self._kept.popitem(last=False)[0])
            self.arrived.emit(frame)

    def _most_wanted(self) -> tuple[int, bool]:
        """The next frame to read, and whether only a small picture of it is wanted."""
        if self._wishes:
            return self._wishes.pop(), False
        if self._next:
            return self._next.pop(0), False
        return self._small_wishes.pop(), True

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
