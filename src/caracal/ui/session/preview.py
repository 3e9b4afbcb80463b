"""Pictures for the screen: the scenes of versions and of the master, made by the compositor.

A process makes them from the proxy in exactly the pixels that the screen shows, the newest wish
first: large ones quickly, and exactly as soon as nothing else is wished for. Views draw these
pictures and, over them, only marks of their own.
"""

from __future__ import annotations

import threading
import time
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from caracal.core.analysis.detectors.downscale import proxy_size
from caracal.core.layout.model import Canvas
from caracal.core.render.preview.process import (
    MOST_BYTES,
    PreviewProcess,
    PreviewRequest,
    PreviewSource,
    bytes_of,
    finer_than,
)
from caracal.core.render.scene import Scene
from caracal.ui.services.worker import Worker

KEPT_BYTES = 256 << 20  # of pictures
FRAME_S = 0.04  # of a film that plays: whoever takes longer leaves frames out
AT_ONCE = 400_000  # pixels: fewer are made exactly at once, in about the same time
CALM_S = 0.12  # nothing is wanted at once for so long before pictures are made exactly
FAILED_S = 0.2  # whoever paints asks for what could not be made again and again
MOST_KNOWN = 4096  # scenes
MOST_WISHES = 48  # older ones were overtaken by the pointer

SceneOf = Callable[[str, int, Canvas], Scene]


@dataclass(frozen=True, eq=False)
class Wish:
    """A picture that is wanted: of a version's ``letter`` (empty: the whole master).

    The ``scene`` may be larger than the ``canvas`` that is shown; it is reduced then.
    """

    frame: int
    letter: str
    scene: Scene
    canvas: Canvas
    _hash: int = field(init=False)  # found once: a scene's takes longer than looking a picture up

    def __post_init__(self) -> None:
        object.__setattr__(self, "_hash", hash((self.frame, self.letter, self.scene, self.canvas)))

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return self is other or (
            isinstance(other, Wish) and self._hash == other._hash
            and (self.frame, self.letter, self.canvas) == (other.frame, other.letter, other.canvas)
            and self.scene == other.scene)


class Preview(QObject):
    """``get`` answers at once from memory, or later through ``arrived`` with the frame."""

    arrived = Signal(int)

    def __init__(self, source: PreviewSource, scene_of: SceneOf) -> None:
        """``scene_of`` gives the scene of a version's letter at a frame on a canvas."""
        super().__init__()
        self._scene_of = scene_of
        self._wishes: dict[tuple[str, int, Canvas], Wish] = {}  # until scenes change
        self._kept: OrderedDict[Wish, QImage] = OrderedDict()
        self._exact: set[Wish] = set()  # of those kept; the others were sampled quickly
        self._own: set[Wish] = set()  # of those kept, with the master's own pixels
        self._looked_at = -1  # the frame that was asked for last
        self._bytes = 0
        self._frames: defaultdict[str, dict[int, Wish]] = defaultdict(dict)  # newest kept of each
        self._making: frozenset[Wish] = frozenset()
        self._making_exactly = False
        self._now: OrderedDict[Wish, None] = OrderedDict()
        self._next: list[Wish] = []
        self._later: OrderedDict[Wish, None] = OrderedDict()
        self._places: dict[tuple[str, Canvas], int] = {}  # asked for since the last prepare, where
        self._all_next = False  # no frame of the next ones is left out
        self._changed = threading.Condition()
        self._over = False
        self._asked = 0.0  # when something was wanted at once, last
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
            if wish in self._kept:
                self._kept.move_to_end(wish)
                better = wish not in self._exact or (
                    wish not in self._own and finer_than(self._proxy, wish.canvas))
                if better and not self._next:
                    self._refine(wish)
                return self._kept[wish]
            if wish in self._making:
                return None  # whoever paints twice meanwhile gets the picture once
            self._later.pop(wish, None)
            self._asked = time.monotonic()
            self._process.hurried = True
            self._now[wish] = None
            self._now.move_to_end(wish)
            while len(self._now) > MOST_WISHES:
                self._now.popitem(last=False)
            self._changed.notify()
        return None

    def later(self, letter: str, frame: int, canvas: Canvas) -> QImage | None:
        """As :meth:`get`, but exactly sampled, and only when nothing else is wished for."""
        wish = self._wish(letter, frame, canvas)
        with self._changed:
            if wish in self._exact:
                return self._kept[wish]
            if wish not in self._now and not self._comes_exactly(wish):
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
            places, self._places = self._places, {}
            if not places and self._next:
                return
        self._make_next(frames, places, all_of_them=False)

    def preroll(self, shown: int, frames: Iterable[int]) -> bool:
        """Make all of ``frames``, in this order, wherever the frame that is ``shown`` was last
        asked for: it is going to be played from there. Returns whether all are made."""
        with self._changed:
            places = [place for place, frame in self._places.items() if frame == shown]
        self._make_next(frames, places, all_of_them=True)
        with self._changed:
            return not (self._next or self._making or self._over)

    def _make_next(self, frames: Iterable[int], places: Iterable[tuple[str, Canvas]],
                   all_of_them: bool) -> None:
        wishes = [self._wish(letter, frame, canvas)
                  for frame in frames for letter, canvas in places]
        with self._changed:
            if self._over:
                return
            if not all_of_them:
                self._now.clear()
            self._next = [wish for wish in wishes
                          if wish not in self._kept and wish not in self._making]
            self._all_next = all_of_them
            if self._next:
                self._process.hurried = True
            self._changed.notify()

    def _refine(self, wish: Wish) -> None:
        """Make a picture that was sampled quickly anew, exactly, when nothing else is to be done.
        """
        if self._comes_exactly(wish):
            return  # whoever paints twice meanwhile gets the picture once
        self._later[wish] = None
        self._later.move_to_end(wish, last=False)
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
                    self._keep(wish, image)
                    if exact:
                        self._exact.add(wish)
                        if still and not self._process.hurried:
                            self._own.add(wish)
                    elif not self._next:
                        self._refine(wish)
            self.arrived.emit(frame)

    def _wanted(self) -> tuple[list[Wish], bool, bool] | None:
        """What is to be made next, all of one frame, whether exactly, and whether the screen is
        still; None: nothing any more.
        """
        with self._changed:
            while not (self._now or self._next or self._over) and (calm := self._calm_in()) != 0:
                self._changed.wait(calm)
            if self._over:
                return None
            exact = not self._next and not self._now
            self._process.hurried = False
            if self._next:  # while it plays the frame that shows is overtaken before it is made
                frames = list(dict.fromkeys(wish.frame for wish in self._next))
                late = 0 if self._all_next else int(self._took_s / FRAME_S)
                frame = frames[min(late, len(frames) - 1)]
            elif self._now:
                frame = next(reversed(self._now)).frame
            else:
                frame = next(iter(self._later)).frame
            sources = (self._later,) if exact else (self._now, self._next)
            found = _fitting(wish for many in sources for wish in many if wish.frame == frame)
            self._next = [wish for wish in self._next if wish.frame != frame]
            for wish in found:
                self._now.pop(wish, None)
                self._later.pop(wish, None)
            self._making = frozenset(found)
            small = sum(wish.scene.canvas[0] * wish.scene.canvas[1] for wish in found) <= AT_ONCE
            fine = any(finer_than(self._proxy, wish.canvas) for wish in found)
            self._making_exactly = exact or (small and not fine)
            return list(found), self._making_exactly, exact and frame == self._looked_at

    def _calm_in(self) -> float | None:
        """Seconds until the time for what is wanted later has come; None: nothing is."""
        return max(0.0, self._asked + CALM_S - time.monotonic()) if self._later else None

    def _keep(self, wish: Wish, image: QImage) -> None:
        if wish in self._kept:
            self._bytes -= self._kept.pop(wish).sizeInBytes()
        self._kept[wish] = image
        self._frames[wish.letter][wish.frame] = wish
        self._bytes += image.sizeInBytes()
        while self._bytes > KEPT_BYTES:
            gone, old = self._kept.popitem(last=False)
            self._bytes -= old.sizeInBytes()
            self._exact.discard(gone)
            self._own.discard(gone)
            if self._frames[gone.letter].get(gone.frame) == gone:
                del self._frames[gone.letter][gone.frame]

    def rest(self) -> None:
        """Nothing plays any more: the frame that shows comes first again."""
        with self._changed:
            self._next = []

    def close(self) -> None:
        """Let the thread and the process end; whoever asks later gets no picture. This must be kept
        until they have."""
        with self._changed:
            self._over = True
            self._changed.notify()
        self._process.give_up()
        self._worker.part()


def _fitting(wishes: Iterable[Wish]) -> dict[Wish, None]:
    """Those ``wishes`` that one request takes."""
    found: dict[Wish, None] = {}
    room = MOST_BYTES
    for wish in wishes:
        room -= 0 if wish in found else bytes_of(wish.canvas)
        if room < 0 and found:
            break
        found[wish] = None
    return found
