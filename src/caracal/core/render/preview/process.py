"""Pictures for the screen, made in a process of its own.

In a thread of the window they would take turns with the interface; here nothing waits for them.
"""

from __future__ import annotations

import signal
from contextlib import suppress
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path

from caracal.core.base.errors import CaracalError, Problem, problem_of
from caracal.core.base.logs import keep_log, unforeseen
from caracal.core.base.translation import tr
from caracal.core.layout.model import Canvas
from caracal.core.media.master import Master
from caracal.core.media.proxy import ProxyReader
from caracal.core.processes.child_line import ChildGone, ChildLine
from caracal.core.processes.shared_memory import SharedMemory
from caracal.core.render.preview.master_pictures import MasterPictures
from caracal.core.render.preview.screen import Pixels, screen_picture
from caracal.core.render.scene import Scene

WITHIN_S = 60.0  # for the pictures of one frame
MOST_BYTES = 256 << 20  # of the pictures of one request


def bytes_of(canvas: Canvas) -> int:
    """How much a picture of ``canvas`` takes."""
    return canvas[0] * canvas[1] * 4


@dataclass(frozen=True)
class PreviewRequest:
    """What is to be shown of one ``frame``: scenes, each on a canvas, together of at most
    ``MOST_BYTES``; sampled quickly if not ``exact``. A screen that is ``still`` shows the master's
    own pixels where the proxy has too few of them."""

    frame: int
    pictures: tuple[tuple[Scene, Canvas], ...]
    exact: bool
    still: bool = False


@dataclass(frozen=True)
class PreviewSource:
    """Of what pictures are made: a proxy, and the master it stands for."""

    proxy: Path
    master: Master


class PreviewProcess:
    """Asks the process, starting it when it is needed. For one thread."""

    def __init__(self, source: PreviewSource) -> None:
        self._source = source
        self._memory = SharedMemory(MOST_BYTES + 1)
        self._hurry: Pixels | None = _hurry(self._memory)
        self._line = ChildLine("core.render.preview.process", source, self._memory)

    def pictures(self, request: PreviewRequest) -> list[Pixels]:
        """The pictures asked for, as views of shared memory that hold until the next call.

        Raises CaracalError when they cannot be made.
        """
        try:
            problem: Problem | None = self._line.ask(lambda _: request, WITHIN_S)
        except ChildGone:
            raise CaracalError(tr("The process that makes pictures for the screen ended by itself, "
                                  "twice."), self._source.proxy,
                               tr("Open the film again.")) from None
        if problem is not None:
            raise problem.error()
        return _views(self._memory, request)

    @property
    def hurried(self) -> bool:
        """Whether what is made has become less urgent than something else: the process takes the
        proxy's pixels then, and does not look for the master's. Any thread may set it.
        """
        return self._hurry is not None and bool(self._hurry[0])

    @hurried.setter
    def hurried(self, hurried: bool) -> None:
        if self._hurry is not None:
            self._hurry[0] = hurried

    def give_up(self) -> None:
        """Wait for no picture any more, from any thread."""
        self._line.give_up()

    def close(self) -> None:
        """End the process and let its memory go."""
        self._line.close()
        self._hurry = None  # a view of it would hold the memory
        self._memory.close()


def finer_than(proxy: tuple[int, int], canvas: Canvas) -> bool:
    """Whether a picture on ``canvas`` has more pixels than a ``proxy`` of that size, either way."""
    return canvas[0] > proxy[0] or canvas[1] > proxy[1]


def _hurry(memory: SharedMemory) -> Pixels:
    """The byte that says that something else is wanted by now."""
    return memory.view(MOST_BYTES, (1,))


def _views(memory: SharedMemory, request: PreviewRequest) -> list[Pixels]:
    """Where the pictures of ``request`` lie, one after another."""
    found, at = [], 0
    for _, (width, height) in request.pictures:
        found.append(memory.view(at, (height, width, 4)))
        at += bytes_of((width, height))
    return found


def main(line: Connection, source: PreviewSource, memory: SharedMemory) -> int:
    """Make what is asked for over ``line`` until the other side goes away."""
    keep_log("pictures")
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the other side decides, also on Ctrl+C
    reader: ProxyReader | None = None
    size = source.master.width, source.master.height
    hurry = _hurry(memory)
    own = MasterPictures(source.master, lambda: bool(hurry[0]))
    with suppress(EOFError, OSError):
        while True:
            request: PreviewRequest = line.recv()
            problem: Problem | None = None
            try:
                reader = reader or ProxyReader(source.proxy, source.master.frame_rate)
                planes = reader.planes(request.frame)
                if request.still and any(
                        finer_than((planes.width, planes.height), canvas)
                        for _, canvas in request.pictures):
                    planes = own.planes(request.frame) or planes
                for (scene, canvas), target in zip(
                        request.pictures, _views(memory, request), strict=True):
                    target[:] = screen_picture(scene, canvas, planes, size, request.exact)
            except Exception as found:  # noqa: BLE001 - told in the window, the next is made
                problem = problem_of(unforeseen(found))
            line.send(problem)
    return 0
