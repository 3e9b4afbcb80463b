"""Which painter paints which kind of layer, and what all of them are given.

A painter takes a layer, the canvas behind it (None at the very back) and a :class:`Painting`, and
returns the canvas with the layer on it. It registers itself with :func:`paints`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol, TypeVar

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.layout.model import Canvas
from caracal.core.media.planes import Picture, Planes
from caracal.core.render.painters.backdrops import plain
from caracal.core.render.painters.fill import Sample
from caracal.core.render.scene import Scene

BLACK = (0, 0, 0)
Missing = Callable[[Canvas], Picture]
P = TypeVar("P", bound="Painter")


class Compose(Protocol):
    """The compositor, for painters whose layer has a scene of its own."""

    def __call__(
        self, scene: Scene, planes: Planes, sample: Sample, missing: Missing | None
    ) -> Picture:
        """The canvas of ``scene``."""


class Painting(msgspec.Struct, frozen=True):
    """What a scene is painted with: the master's ``planes``, how they are sampled, and what stands
    for files that cannot be used (None: nothing does, InputError is raised).
    """

    scene: Scene
    planes: Planes
    sample: Sample
    missing: Missing | None
    compose: Compose

    def behind(self, canvas: Picture | None) -> Picture:
        """``canvas``, or a black one at the very back."""
        return canvas or plain(BLACK, self.scene.canvas)

    def or_stand_in(
        self, paint: Callable[[], Picture], stand_in: Callable[[Missing], Picture]
    ) -> Picture:
        """What ``paint`` returns; where it cannot use a file, what ``stand_in`` makes."""
        try:
            return paint()
        except InputError:
            if self.missing is None:
                raise
            return stand_in(self.missing)


class Painter(Protocol):
    """Paints one kind of layer."""

    def __call__(self, layer: Any, canvas: Picture | None, painting: Painting) -> Picture:
        """``canvas`` with ``layer`` on it."""


PAINTERS: dict[type, Painter] = {}


def paints(*kinds: type) -> Callable[[P], P]:
    """Registers the function below as the painter of layers of these ``kinds``."""
    def register(painter: P) -> P:
        PAINTERS.update(dict.fromkeys(kinds, painter))
        return painter

    return register
