"""Pictures of a preview that are kept, and what is known of each."""

from __future__ import annotations

from collections import OrderedDict, defaultdict
from dataclasses import dataclass, field

from PySide6.QtGui import QImage

from caracal.core.layout.model import Canvas
from caracal.core.render.scene import Scene

KEPT_BYTES = 256 << 20  # of pictures


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


class PictureCache:
    """Pictures by what was wished for; those that nobody asked for longest go first.

    It has no lock of its own: callers in several threads share one.
    """

    def __init__(self) -> None:
        self._kept: OrderedDict[Wish, QImage] = OrderedDict()
        self._exact: set[Wish] = set()  # the others were sampled quickly
        self._own: set[Wish] = set()  # with the master's own pixels
        self._frames: defaultdict[str, dict[int, Wish]] = defaultdict(dict)  # newest of each
        self._bytes = 0

    def __contains__(self, wish: Wish) -> bool:
        return wish in self._kept

    def get(self, wish: Wish) -> QImage | None:
        """The picture of ``wish``, if it is kept."""
        if wish not in self._kept:
            return None
        self._kept.move_to_end(wish)
        return self._kept[wish]

    def is_exact(self, wish: Wish) -> bool:
        """Whether the picture of ``wish`` is kept, and was sampled exactly."""
        return wish in self._exact

    def has_own_pixels(self, wish: Wish) -> bool:
        """Whether it was made from the master's own pixels."""
        return wish in self._own

    def near(self, letter: str, frame: int, start: int, end: int) -> QImage | None:
        """The picture of ``letter`` that is nearest to ``frame`` in [start, end)."""
        inside = [at for at in self._frames[letter] if start <= at < end]
        if not inside:
            return None
        return self._kept[self._frames[letter][min(inside, key=lambda at: abs(at - frame))]]

    def keep(self, wish: Wish, image: QImage, exact: bool, own: bool) -> None:
        """Keep the ``image`` of ``wish``: how it was sampled, and from whose pixels."""
        if wish in self._kept:
            self._bytes -= self._kept.pop(wish).sizeInBytes()
        self._kept[wish] = image
        self._frames[wish.letter][wish.frame] = wish
        self._bytes += image.sizeInBytes()
        if exact:
            self._exact.add(wish)
        if own:
            self._own.add(wish)
        while self._bytes > KEPT_BYTES:
            gone, old = self._kept.popitem(last=False)
            self._bytes -= old.sizeInBytes()
            self._exact.discard(gone)
            self._own.discard(gone)
            if self._frames[gone.letter].get(gone.frame) == gone:
                del self._frames[gone.letter][gone.frame]
