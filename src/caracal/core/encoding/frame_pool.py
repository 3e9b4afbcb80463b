"""Pictures in memory that processes share: one decode feeds every encoder without a copy each.

The memory has no name and belongs to the processes that hold it (memfd): when they are gone,
however they went, so is it.
"""

from __future__ import annotations

import mmap
import os
from contextlib import suppress
from multiprocessing.reduction import DupFd
from typing import Any

import msgspec
import numpy as np

from caracal.core.media.planes import Plane, Planes


class FramePoolShape(msgspec.Struct, frozen=True):
    """What every slot holds: planes of one size, siting and pixel aspect."""

    width: int
    height: int
    siting: tuple[float, float]
    pixel_aspect: float
    slots: int

    @property
    def half(self) -> tuple[int, int]:
        """Width and height of the chroma planes."""
        return (self.width + 1) // 2, (self.height + 1) // 2

    @property
    def slot_bytes(self) -> int:
        """Bytes of a slot."""
        return self.width * self.height + 2 * self.half[0] * self.half[1]


def shape_of(planes: Planes, slots: int) -> FramePoolShape:
    """The shape of a pool for pictures like ``planes``."""
    return FramePoolShape(planes.width, planes.height, planes.siting, planes.pixel_aspect, slots)


class SharedFramePool:
    """Pictures in shared memory. It can be handed to another process when that is started."""

    def __init__(self, shape: FramePoolShape, fd: int | None = None) -> None:
        self.shape = shape
        self._fd = os.memfd_create("caracal pictures") if fd is None else fd
        if fd is None:
            os.ftruncate(self._fd, shape.slot_bytes * shape.slots)
        self._memory = mmap.mmap(self._fd, shape.slot_bytes * shape.slots)

    def __reduce__(self) -> tuple[object, ...]:
        return _handed_over, (self.shape, DupFd(self._fd))

    def put(self, slot: int, planes: Planes) -> None:
        """Copy ``planes`` into a slot."""
        mine = self.get(slot)
        for target, source in ((mine.y, planes.y), (mine.u, planes.u), (mine.v, planes.v)):
            target[:] = source

    def get(self, slot: int) -> Planes:
        """The planes of a slot, as views of the shared memory."""
        (w, h), (half_w, half_h) = (self.shape.width, self.shape.height), self.shape.half
        at = slot * self.shape.slot_bytes
        y = self._view(at, w, h)
        u = self._view(at + w * h, half_w, half_h)
        v = self._view(at + w * h + half_w * half_h, half_w, half_h)
        return Planes(y, u, v, self.shape.siting, self.shape.pixel_aspect)

    def _view(self, at: int, width: int, height: int) -> Plane:
        return np.frombuffer(self._memory, np.uint8, width * height, at).reshape(height, width)

    def close(self) -> None:
        """Let go of the memory; views that are still held keep it."""
        with suppress(BufferError):  # a view is alive: the memory goes with it
            self._memory.close()
        os.close(self._fd)


def _handed_over(shape: FramePoolShape, fd: Any) -> SharedFramePool:
    """The pool in the process that it was handed to."""
    return SharedFramePool(shape, fd.detach())
