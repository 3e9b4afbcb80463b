"""Pictures for the screen: the scenes of versions and of the master, made by the compositor.

A thread makes them from the proxy in exactly the pixels that the screen shows, the newest wish
first: quickly, and exactly as soon as nothing else is wished for. Views draw these pictures and,
over them, only marks of their own.
"""

from __future__ import annotations

import functools
import threading
import time
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from caracal.core.framing.choice import PLAIN
from caracal.core.layout.model import Canvas, PictureFile
from caracal.core.media.planes import Picture, Plane, Planes, new_frame, view_for_writing
from caracal.core.media.proxy import ProxyReader
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import PictureLayer
from caracal.core.render.resample import resample, resample_quickly
from caracal.core.render.scene import Scene
from caracal.ui.worker import Worker

MOST_BYTES = 256 << 20  # of pictures that are kept
FRAME_S = 0.04  # of a film that plays: whoever takes longer leaves frames out
MOST_WISHES = 48  # older ones were overtaken by the pointer
LARGE, ENLARGED = 250_000, 0.85  # pixels of a picture, and the proxy's share of its width
STRIPE = 8  # pixels, of a plate
ALIGNED = 16  # pixels: FFmpeg's conversion leaves out the last columns of other widths

SceneOf = Callable[[str, int, Canvas], Scene]


class Wish(NamedTuple):
    """A picture that is wanted: of a version's ``letter`` (empty: the whole master).

    The ``scene`` may be larger than the ``canvas`` that is shown; it is reduced then.
    """

    frame: int
    letter: str
    scene: Scene
    canvas: Canvas


class Preview(QObject):
    """``get`` answers at once from memory, or later through ``arrived`` with the frame."""

    arrived = Signal(int)

    def __init__(
        self, proxy: Path, frame_rate: str, master: tuple[int, int], scene_of: SceneOf
    ) -> None:
        """``master`` is the size in whose pixels windows are told.

        ``scene_of`` gives the scene of a version's letter at a frame on a canvas.
        """
        super().__init__()
        self._master, self._scene_of = master, scene_of
        self._kept: OrderedDict[Wish, QImage] = OrderedDict()
        self._exact: set[Wish] = set()  # of those kept; the others were sampled quickly
        self._bytes = 0
        self._frames: defaultdict[str, dict[int, Wish]] = defaultdict(dict)  # newest kept of each
        self._now: OrderedDict[Wish, None] = OrderedDict()
        self._next: list[Wish] = []
        self._later: OrderedDict[Wish, None] = OrderedDict()
        self._places: set[tuple[str, Canvas]] = set()  # asked for since the last prepare
        self._changed = threading.Condition()
        self._over = False
        self._took_s = 0.0  # the last frame, in all its places
        self._reader = ProxyReader(proxy, frame_rate)
        self._worker = Worker(self._work)
        self._worker.start()

    def get(self, letter: str, frame: int, canvas: Canvas) -> QImage | None:
        """The picture of ``letter`` at ``frame``, or None while it is made: it comes next."""
        with self._changed:
            self._places.add((letter, canvas))
        return self.get_scene(letter, frame, self._scene_of(letter, frame, canvas), canvas)

    def get_scene(self, name: str, frame: int, scene: Scene, canvas: Canvas) -> QImage | None:
        """As :meth:`get`, of any ``scene`` at ``frame``; ``name`` is what :meth:`near` knows it by.
        """
        wish = Wish(frame, name, scene, canvas)
        with self._changed:
            if wish in self._kept:
                self._kept.move_to_end(wish)
                if wish not in self._exact and not self._next:
                    self._refine(wish)
                return self._kept[wish]
            self._later.pop(wish, None)
            self._now[wish] = None
            self._now.move_to_end(wish)
            while len(self._now) > MOST_WISHES:
                self._now.popitem(last=False)
            self._changed.notify()
        return None

    def later(self, letter: str, frame: int, canvas: Canvas) -> QImage | None:
        """As :meth:`get`, but exactly sampled, and only when nothing else is wished for."""
        wish = Wish(frame, letter, self._scene_of(letter, frame, canvas), canvas)
        with self._changed:
            if wish in self._exact:
                return self._kept[wish]
            if wish not in self._now:
                self._later[wish] = None
                self._changed.notify()
        return None

    def near(self, letter: str, frame: int, start: int, end: int) -> QImage | None:
        """The kept picture of ``letter`` that is nearest to ``frame`` in [start, end)."""
        with self._changed:
            inside = [at for at in self._frames[letter] if start <= at < end]
            if not inside:
                return None
            return self._kept[self._frames[letter][min(inside, key=lambda at: abs(at - frame))]]

    def prepare(self, frames: Iterable[int]) -> None:
        """Make what was lately asked for at these ``frames`` before all else, in this order.

        What was wished for and is not among them was overtaken.
        """
        with self._changed:
            places, self._places = self._places, set()
        wishes = [Wish(frame, letter, self._scene_of(letter, frame, canvas), canvas)
                  for frame in frames for letter, canvas in places]
        with self._changed:
            if not places and self._next:
                return
            self._now.clear()
            self._next = [wish for wish in wishes if wish not in self._kept]
            self._changed.notify()

    def _refine(self, wish: Wish) -> None:
        """Make a picture that was sampled quickly anew, exactly, when nothing else is to be done.
        """
        self._later[wish] = None
        self._later.move_to_end(wish, last=False)
        self._changed.notify()

    def _work(self) -> None:
        while (wanted := self._wanted()) is not None:
            wishes, exact = wanted
            frame, began = wishes[0].frame, time.perf_counter()
            try:
                planes = self._reader.planes(frame)
                made = [(wish, _image(wish, planes, self._master, exact)) for wish in wishes]
            except Exception as problem:  # noqa: BLE001 - told, and the next wish is served
                self._worker.tell(problem)
                continue  # a damaged proxy shows grey; the next analysis makes it again
            self._took_s = time.perf_counter() - began
            with self._changed:
                for wish, image in made:
                    self._keep(wish, image)
                    if exact:
                        self._exact.add(wish)
                    elif not self._next:
                        self._refine(wish)
            self.arrived.emit(frame)

    def _wanted(self) -> tuple[list[Wish], bool] | None:
        """What is to be made next, all of one frame, and whether exactly; None: nothing any more.
        """
        with self._changed:
            while not (self._now or self._next or self._later or self._over):
                self._changed.wait()
            if self._over:
                return None
            exact = not self._next and not self._now
            if self._next:  # while it plays the frame that shows is overtaken before it is made
                frames = list(dict.fromkeys(wish.frame for wish in self._next))
                frame = frames[min(int(self._took_s / FRAME_S), len(frames) - 1)]
            elif self._now:
                frame = next(reversed(self._now)).frame
            else:
                frame = next(iter(self._later)).frame
            sources = (self._later,) if exact else (self._now, self._next)
            found = dict.fromkeys(wish for many in sources for wish in many if wish.frame == frame)
            self._next = [wish for wish in self._next if wish.frame != frame]
            for wish in found:
                self._now.pop(wish, None)
                self._later.pop(wish, None)
            return list(found), exact

    def _keep(self, wish: Wish, image: QImage) -> None:
        if wish in self._kept:
            self._bytes -= self._kept.pop(wish).sizeInBytes()
        self._kept[wish] = image
        self._frames[wish.letter][wish.frame] = wish
        self._bytes += image.sizeInBytes()
        while self._bytes > MOST_BYTES:
            gone, old = self._kept.popitem(last=False)
            self._bytes -= old.sizeInBytes()
            self._exact.discard(gone)
            if self._frames[gone.letter].get(gone.frame) == gone:
                del self._frames[gone.letter][gone.frame]

    def rest(self) -> None:
        """Nothing plays any more: the frame that shows comes first again."""
        with self._changed:
            self._next = []

    def close(self) -> None:
        """Stop the thread and close the file."""
        with self._changed:
            self._over = True
            self._changed.notify()
        self._worker.wait()
        self._reader.close()


def _image(wish: Wish, planes: Planes, master: tuple[int, int], exact: bool) -> QImage:
    """What is wished for, told in pixels of a ``master`` of that size, made from proxy ``planes``.
    """
    seen = wish.scene.from_source(planes.width / master[0], planes.height / master[1])
    if not exact and (coarse := _as_found(seen)) is not None:
        return screen_picture(compose_pictures(coarse, planes, resample_quickly), wish.canvas)
    sample = resample if exact else resample_quickly
    made, (width, height) = compose_pictures(
        seen, planes, sample, hatched), wish.canvas
    if wish.scene.canvas != wish.canvas:
        y, u, v = (np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.uint8)
                   for plane, size in zip(made, ((width, height), *[(width // 2, height // 2)] * 2),
                                          strict=True))
        made = (y, u, v)
    return screen_picture(made)


def hatched(_: PictureFile, size: Canvas) -> Picture:
    """A plate of stripes, in planes of ``size``, that stands for a picture file that is missing."""
    width, height = size
    stripes = (np.add.outer(np.arange(height), np.arange(width)) // STRIPE) % 2
    grey = np.full((height // 2, width // 2), 128, np.uint8)
    return np.where(stripes, 60, 110).astype(np.uint8), grey, grey


def _as_found(scene: Scene) -> Scene | None:
    """A large ``scene`` of one plain window in about the pixels that the proxy has of it.

    Made so, and enlarged when it is done, it takes a part of the time. None for other scenes.
    """
    layer = scene.layers[0]
    if len(scene.layers) > 1 or not isinstance(layer, PictureLayer) or (
            layer.finish != PLAIN or scene.canvas[0] * scene.canvas[1] < LARGE):
        return None
    share = layer.window[2] / scene.canvas[0]
    if share > ENLARGED:
        return None
    width, height = (2 * round(side * share / 2) for side in scene.canvas)
    return Scene((width, height), (PictureLayer(layer.window, (0, 0, width, height)),),
                 scene.scale * share)


def screen_picture(canvas: tuple[Plane, Plane, Plane], size: Canvas | None = None) -> QImage:
    """Planes of BT.709 in limited range as a picture for the screen, enlarged to ``size``."""
    height, width = canvas[0].shape
    wide = -(-width // ALIGNED) * ALIGNED
    frame = new_frame(wide, height)
    for target, source in zip(frame.planes, canvas, strict=True):
        view_for_writing(target)[:, : source.shape[1]] = source
    made = _converter(wide, height).reformat(
        frame, format="bgra", src_colorspace=Colorspace.ITU709, dst_colorspace=Colorspace.ITU709,
        src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.JPEG)
    pixels = made.planes[0]
    if size is not None:
        found = np.frombuffer(memoryview(pixels), np.uint8).reshape(height, -1, 4)
        large = cv2.resize(found[:, :width], size, interpolation=cv2.INTER_LINEAR)
        return QImage(large.data, *size, size[0] * 4, QImage.Format.Format_RGB32).copy()
    return QImage(memoryview(pixels), width, height, pixels.line_size,
                  QImage.Format.Format_RGB32).copy()


@functools.lru_cache(32)
def _converter(_width: int, _height: int) -> VideoReformatter:
    """FFmpeg's converter for pictures of one size: preparing it takes longer than using it."""
    return VideoReformatter()
