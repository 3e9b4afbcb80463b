"""Pictures in memory that processes share: one decode feeds every encoder without a copy each."""

from __future__ import annotations

import msgspec

from caracal.core.media.planes import Planes
from caracal.core.processes.shared_memory import SharedMemory


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
        """Returns how many bytes a slot takes."""
        return self.width * self.height + 2 * self.half[0] * self.half[1]


def shape_of(planes: Planes, slots: int) -> FramePoolShape:
    """The shape of a pool for pictures like ``planes``."""
    return FramePoolShape(planes.width, planes.height, planes.siting, planes.pixel_aspect, slots)


class SharedFramePool:
    """Pictures in shared memory. It can be handed to another process when that is started."""

    def __init__(self, shape: FramePoolShape) -> None:
        self.shape = shape
        self._memory = SharedMemory(shape.slot_bytes * shape.slots)

    def put(self, slot: int, planes: Planes) -> None:
        """Copy ``planes`` into a slot."""
        mine = self.get(slot)
        for target, source in ((mine.y, planes.y), (mine.u, planes.u), (mine.v, planes.v)):
            target[:] = source

    def get(self, slot: int) -> Planes:
        """The planes of a slot, as views of the shared memory."""
        (w, h), (half_w, half_h) = (self.shape.width, self.shape.height), self.shape.half
        at = slot * self.shape.slot_bytes
        y = self._memory.view(at, (h, w))
        u = self._memory.view(at + w * h, (half_h, half_w))
        v = self._memory.view(at + w * h + half_w * half_h, (half_h, half_w))
        return Planes(y, u, v, self.shape.siting, self.shape.pixel_aspect)

    def close(self) -> None:
        """Let go of the memory; views that are still held keep it."""
        self._memory.close()
