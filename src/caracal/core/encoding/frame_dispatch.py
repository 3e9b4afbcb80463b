"""One decode feeds the encoders of many files, each in its own process.

Pictures go through shared memory (pool); a picture's slot is free again when every encoder that
needed it has composed its canvas. An encoder that crashes fails only its own file.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator
from contextlib import nullcontext, suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection, wait

import msgspec

from caracal.core.base.decoding import decode_msgpack
from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.base.work import CancelToken, Control
from caracal.core.encoding.encoder import EncodeOrder, EncoderMessage
from caracal.core.encoding.frame_pool import SharedFramePool, shape_of
from caracal.core.encoding.results import FileState, Outcome, Watch
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.media.planes import Planes
from caracal.core.plan.file_plan import FilePlan
from caracal.core.processes.children import Child, own_errors

SLOTS = 10
START_AHEAD = 75  # frames before its first that an encoder is started: a process takes a moment
GO_S = 1.0  # for an encoder to end by itself when nobody needs it any more; then it is killed
ASK_S = 0.1  # how often a stop is noticed while all wait


class _Encoder:
    """The other end of an encoder's process."""

    def __init__(
        self, number: int, plan: FilePlan, turn: int, watch: Watch, last_try: bool
    ) -> None:
        self.number, self.plan, self.turn, self._watch = number, plan, turn, watch
        self.last_try = last_try
        self.outcome: Outcome | None = None
        self.slots: set[int] = set()
        self.connection: Connection | None = None
        self._process: Child | None = None
        self._began = 0.0
        self.first = plan.timeline.ranges[0].start

    def start(self, pool: SharedFramePool) -> None:
        """Start the process and tell it what to make."""
        mine, other = Pipe()
        with other, own_errors() or nullcontext() as errors:
            self._process = Child("core.encoding.encoder", other, pool, errors=errors)
        self.connection, self._began = mine, time.monotonic()
        self._send(msgspec.msgpack.encode(EncodeOrder(self.plan, self.turn, self.last_try)))

    @property
    def started(self) -> bool:
        """Whether its process was started."""
        return self._process is not None

    def wants(self, frame: int) -> bool:
        """Whether it needs this frame of the master."""
        return self.outcome is None and any(
            span.start <= frame < span.end_exclusive for span in self.plan.timeline.ranges)

    def give(self, slot: int) -> None:
        """Tells the encoder that a slot holds its next picture."""
        self.slots.add(slot)
        self._send(msgspec.msgpack.encode(slot))

    def _send(self, message: bytes) -> None:
        assert self.connection is not None
        with suppress(OSError):  # it is gone: what it told last is still to be read
            self.connection.send_bytes(message)

    def hear(self) -> None:
        """Take one message, or notice that it is gone."""
        assert self.connection is not None
        try:
            told = decode_msgpack(self.connection.recv_bytes(), EncoderMessage)
        except (EOFError, OSError):
            self._end(Outcome())
            return
        if told.released is not None:
            self.slots.discard(told.released)
        elif told.done is not None:
            self._tell("proving" if told.proving else "encoding", told.done, told.written_bytes)
        elif told.made is not None:
            self._end(Outcome(made=told.made))
        elif told.first_pass_done:
            self._end(Outcome(first_pass_done=True))
        elif told.problem is not None:
            self._end(Outcome(problem=told.problem))

    def _tell(self, doing: str, done: int, size: int) -> None:
        spent = time.monotonic() - self._began
        total = self.plan.timeline.frames
        self._watch(self.number, FileState(doing, done, total, size,
                                           done / spent if done and spent > 1 else None))

    def _end(self, outcome: Outcome) -> None:
        if self.outcome is None:
            self.outcome = outcome
        self.slots.clear()
        self.close()

    def stop(self) -> None:
        """Stops the encoder; it keeps nothing that is half made."""
        self._end(Outcome(stopped=True))
        with suppress(OSError):  # where it was killed it could not do so itself
            self.plan.part_file.unlink(missing_ok=True)

    def leave(self) -> None:
        """Let the process go: it ends when it notices."""
        if self.connection is not None:
            self.connection.close()
            self.connection = None

    def close(self, until: float | None = None) -> None:
        """Let the process go, and see that nothing of it is left: at ``until`` (of the monotonic
        clock) it is killed."""
        self.leave()
        if self._process is not None:
            self._process.end(GO_S if until is None else max(0.0, until - time.monotonic()))


def dispatch_frames(
    plans: dict[int, FilePlan], turns: dict[int, int], watch: Watch, control: Control,
    last_try: bool = True,
) -> dict[int, Outcome]:
    """Make all files from one decode of their master; how each ended, by its number.

    ``turns`` says by number which of two passes it is, 0 for a single one. Unless it is the
    ``last_try``, a file that may come right with fewer bits gets no name (see correction).
    Raises InputError when the master cannot be read to the end, Cancelled when stopped; nothing
    half-made is left then.
    """
    if not plans:
        return {}
    encoders = [_Encoder(i, plan, turns[i], watch, last_try) for i, plan in plans.items()]
    try:
        first = next(iter(plans.values()))
        _Dispatcher(encoders, control).run(first.master, _union(plans.values()))
        return {encoder.number: encoder.outcome or Outcome() for encoder in encoders}
    finally:
        for encoder in encoders:
            encoder.leave()  # all of them first: they end beside each other
        until = time.monotonic() + GO_S
        for encoder in encoders:
            encoder.close(until)


def _union(plans: Iterable[FilePlan]) -> tuple[FrameRange, ...]:
    every = list(plans)
    return timeline((span for plan in every for span in plan.timeline.ranges),
                    every[0].master.rate).ranges


class _Dispatcher:
    def __init__(self, encoders: list[_Encoder], control: Control) -> None:
        self._encoders, self._control = encoders, control
        self._free = list(range(SLOTS))
        self._ring: SharedFramePool | None = None

    def run(self, master: Master, ranges: tuple[FrameRange, ...]) -> None:
        try:
            for number, planes in _decoded(master, ranges, self._control.cancel):
                if not self._needed():
                    break
                self._give(number, planes)
            while self._needed():
                self._listen(ASK_S)
        finally:
            if self._ring is not None:
                self._ring.close()

    def _needed(self) -> bool:
        return any(encoder.outcome is None for encoder in self._encoders)

    def _give(self, number: int, planes: Planes) -> None:
        """Put one picture into a free slot and tell those who need it."""
        if self._ring is None:
            self._ring = SharedFramePool(shape_of(planes, SLOTS))
        for encoder in self._encoders:
            near = encoder.first - number <= START_AHEAD
            if near and not encoder.started and encoder.outcome is None:
                encoder.start(self._ring)
        self._listen(0)
        while not self._free or self._control.pause.on:
            self._listen(ASK_S)
        takers = [encoder for encoder in self._encoders if encoder.wants(number)]
        if takers:
            slot = self._free.pop()
            self._ring.put(slot, planes)
            for taker in takers:
                taker.give(slot)

    def _listen(self, timeout_s: float) -> None:
        """Hear what the encoders tell; free the slots that nobody needs any more."""
        self._control.cancel.check()
        for encoder in self._encoders:
            if encoder.number in self._control.stopped and encoder.outcome is None:
                encoder.stop()
        by_line = {
            encoder.connection: encoder
            for encoder in self._encoders
            if encoder.connection is not None
        }
        if by_line:
            for ready in wait(list(by_line), timeout_s):
                by_line[ready].hear()  # type: ignore[index]
        elif timeout_s:
            time.sleep(timeout_s)
        held = set().union(*(encoder.slots for encoder in self._encoders))
        self._free = [slot for slot in range(SLOTS) if slot not in held]


def _decoded(
    master: Master, ranges: tuple[FrameRange, ...], cancel: CancelToken
) -> Iterator[tuple[int, Planes]]:
    for span in ranges:
        yield from frames(master, span, cancel)
