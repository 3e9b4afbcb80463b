"""Memory that two processes share. It has no name and belongs to those that hold it (memfd): when
they are gone, however they went, it is gone as well."""

from __future__ import annotations

import math
import mmap
import os
from contextlib import suppress
from multiprocessing.reduction import DupFd
from typing import Any

import numpy as np
from numpy.typing import NDArray


class SharedMemory:
    """``size`` bytes. It can be handed to another process when that is started; what was never
    written takes no room."""

    def __init__(self, size: int, fd: int | None = None) -> None:
        """``fd`` is that of memory which exists already, of this size."""
        self.size = size
        self._fd = os.memfd_create("caracal") if fd is None else fd
        if fd is None:
            os.ftruncate(self._fd, size)
        self._mapped = mmap.mmap(self._fd, size)

    def __reduce__(self) -> tuple[object, ...]:
        return _handed_over, (self.size, DupFd(self._fd))

    def view(self, start: int, shape: tuple[int, ...]) -> NDArray[np.uint8]:
        """An array of ``shape`` whose bytes begin at ``start``; writing to it writes here."""
        # np.ndarray(…, buffer=…) would not hold the memory: it could go while the array is used.
        return np.frombuffer(self._mapped, np.uint8, math.prod(shape), start).reshape(shape)

    def close(self) -> None:
        """Let go of the memory; views that are still held keep it."""
        with suppress(BufferError):
            self._mapped.close()
        os.close(self._fd)


def _handed_over(size: int, fd: Any) -> SharedMemory:
    """The memory in the process that it was handed to."""
    return SharedMemory(size, fd.detach())
