"""Pictures for the screen: the scenes of versions and of the master, made by the compositor.

A process makes them from the proxy in exactly the pixels that the screen shows, the newest wish
first: large ones quickly, and exactly as soon as nothing else is wished for. Views draw these
pictures and, over them, only marks of their own.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterable

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from caracal.core.analysis.detectors.downscale import proxy_size
from caracal.core.layout.model import Canvas
from caracal.core.render.preview.process import (
    PreviewProcess,
    PreviewRequest,
    PreviewSource,
    finer_than,
)
from caracal.core.render.scene import Scene
from caracal.ui.services.worker import Worker
from caracal.ui.session.picture_cache import PictureCache, Wish
from caracal.ui.session.wish_queue import WishQueue

AT_ONCE = 400_000  # pixels: fewer are made exactly at once, in about the same time
FAILED_S = 0.2  # whoever paints asks for what could not be made again and again
MOST_KNOWN = 4096  # scenes

SceneOf = Callable[[str, int, Canvas], Scene]


class Preview(QObject):
    """``get`` answers at once from memory, or later through ``arrived`` with the frame.

    One lock guards what is kept (``_pictures``), what is wished for (``_queue``), where it was
    asked for (``_places``) and what is being made: the window and the thread that makes pictures
    share them. So there are more attributes here than elsewhere.
    """

    arrived = Signal(int)

    def __init__(self, source: PreviewSource, scene_of: SceneOf) -> None:
        """``scene_of`` gives the scene of a version's letter at a frame on a canvas."""
        super().__init__()
        self._scene_of = scene_of
        self._wishes: dict[tuple[str, int, Canvas], Wish] = {}  # until scenes change
        self._pictures, self._queue = PictureCache(), WishQueue()
        self._places: dict[tuple[str, Canvas], int] = {}  # asked for since the last prepare, where
        self._looked_at = -1  # the frame that was asked for last
        self._making: frozenset[Wish] = frozenset()
        self._making_exactly = False
        self._changed = threading.Condition()
        self._over = False
        self._took_s = 0.0  # the last frame, in all its places
        self._proxy = proxy_size(source.master.width, source.master.height)
        self._process = PreviewProcess(source)
        self._worker = Worker(self._work)
        self._worker.start()

    def get(self, letter: str, frame: int, canvas: Canvas) -> QImage | None:
        """The picture of ``letter`` at ``frame``, or None while it is made: it comes next."""
        with self._changed:
            self._places[letter, canvas] = self._looked_at = frame
        return self._get(self._wish(letter, frame, canvas))

    def scenes_changed(self) -> None:
        """Any version may look different from now on, or be gone: its scenes are made again."""
        self._wishes.clear()
        with self._changed:
            self._places.clear()  # whatever still shows is asked for when it is painted

    def _wish(self, letter: str, frame: int, canvas: Canvas) -> Wish:
        key = (letter, frame, canvas)
        if key not in self._wishes:
            if len(self._wishes) >= MOST_KNOWN:
                self._wishes.clear()
            self._wishes[key] = Wish(frame, letter, self._scene_of(letter, frame, canvas), canvas)
        return self._wishes[key]

    def get_scene(self, name: str, frame: int, scene: Scene, canvas: Canvas) -> QImage | None:
        """As :meth:`get`, of any ``scene`` at ``frame``; ``name`` is what :meth:`near` knows it by.
        """
        return self._get(Wish(frame, name, scene, canvas))

    def _get(self, wish: Wish) -> QImage | None:
        with self._changed:
            if self._over:
                return None
            image = self._pictures.get(wish)
            if image is not None:
                better = not self._pictures.is_exact(wish) or (
                    not self._pictures.has_own_pixels(wish)
                    and finer_than(self._proxy, wish.canvas))
                if better and not self._queue.plays:
                    self._refine(wish)
                return image
            if wish not in self._making:  # a second request for it meanwhile is no second picture
                self._process.hurried = True
                self._queue.at_once(wish)
                self._changed.notify()
        return None

    def later(self, letter: str, frame: int, canvas: Canvas) -> QImage | None:
        """As :meth:`get`, but exactly sampled, and only when nothing else is wished for."""
        wish = self._wish(letter, frame, canvas)
        with self._changed:
            if self._pictures.is_exact(wish):
                return self._pictures.get(wish)
            if not self._comes_exactly(wish):
                self._queue.when_calm(wish)
                self._changed.notify()
        return None

    def near(self, letter: str, frame: int, start: int, end: int) -> QImage | None:
        """The kept picture of ``letter`` that is nearest to ``frame`` in [start, end)."""
        with self._changed:
            return self._pictures.near(letter, frame, start, end)

    def prepare(self, frames: Iterable[int]) -> None:
        """Make what was lately asked for at these ``frames`` before all else, in this order.

        What was wished for and is not among them was overtaken.
        """
        with self._changed:
            places, self._places = self._places, {}
            if not places and self._queue.plays:
                return
        self._play(frames, places, all_of_them=False)

    def preroll(self, shown: int, frames: Iterable[int]) -> bool:
        """Make all of ``frames``, in this order, wherever the frame that is ``shown`` was last
        asked for: it is going to be played from there. Returns whether all are made."""
        with self._changed:
            places = [place for place, frame in self._places.items() if frame == shown]
        self._play(frames, places, all_of_them=True)
        with self._changed:
            return not (self._queue.plays or self._making or self._over)

    def _play(self, frames: Iterable[int], places: Iterable[tuple[str, Canvas]],
              all_of_them: bool) -> None:
        wishes = [self._wish(letter, frame, canvas)
                  for frame in frames for letter, canvas in places]
        with self._changed:
            if self._over:
                return
            self._queue.play([wish for wish in wishes if wish not in self._pictures
                              and wish not in self._making], all_of_them)
            if self._queue.plays:
                self._process.hurried = True
            self._changed.notify()

    def _refine(self, wish: Wish) -> None:
        """Make a picture that was sampled quickly anew, exactly, when nothing else is to be done.
        """
        if not self._comes_exactly(wish):  # a second request for it meanwhile is no second picture
            self._queue.when_calm(wish, first=True)
            self._changed.notify()

    def _comes_exactly(self, wish: Wish) -> bool:
        """Whether it is being made exactly."""
        return self._making_exactly and wish in self._making

    def _work(self) -> None:
        try:
            self._serve()
        finally:
            self._process.close()

    def _serve(self) -> None:
        while (wanted := self._wanted()) is not None:
            wishes, exact, still = wanted
            frame, began = wishes[0].frame, time.perf_counter()
            try:
                pictures = self._process.pictures(PreviewRequest(
                    frame, tuple((wish.scene, wish.canvas) for wish in wishes), exact, still))
                made = [(wish, QImage(pixels.data, *wish.canvas, QImage.Format.Format_RGB32).copy())
                        for wish, pixels in zip(wishes, pictures, strict=True)]
            except Exception as problem:  # noqa: BLE001 - told, and the next wish is served
                self._worker.tell(problem)
                self._making = frozenset()
                time.sleep(FAILED_S)
                continue  # a damaged proxy shows grey; the next analysis makes it again
            self._took_s = time.perf_counter() - began
            with self._changed:
                self._making = frozenset()
                for wish, image in made:
                    self._pictures.keep(wish, image, exact,
                                        own=exact and still and not self._process.hurried)
                    if not exact and not self._queue.plays:
                        self._refine(wish)
            self.arrived.emit(frame)

    def _wanted(self) -> tuple[list[Wish], bool, bool] | None:
        """What is to be made next, all of one frame, whether exactly, and whether the screen is
        still; None: nothing any more.
        """
        with self._changed:
            while not self._over and (wait := self._queue.wait_s()) != 0:
                self._changed.wait(wait)
            if self._over:
                return None
            self._process.hurried = False
            found, calm = self._queue.take(self._took_s)
            self._making = frozenset(found)
            small = sum(wish.scene.canvas[0] * wish.scene.canvas[1] for wish in found) <= AT_ONCE
            fine = any(finer_than(self._proxy, wish.canvas) for wish in found)
            self._making_exactly = calm or (small and not fine)
            return found, self._making_exactly, calm and found[0].frame == self._looked_at

    def rest(self) -> None:
        """Nothing plays any more: the frame that shows comes first again."""
        with self._changed:
            self._queue.stop_playing()

    def close(self) -> None:
        """Let the thread and the process end; whoever asks later gets no picture. This must be kept
        until they have."""
        with self._changed:
            self._over = True
            self._changed.notify()
        self._process.give_up()
        self._worker.part()
