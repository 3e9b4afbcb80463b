"""What an encoder does in its own process.

It gets one plan, then the numbers of slots with the master's pictures in shared memory; it composes
and encodes them with their sound, proves the file and gives it its name. When the other side goes
away it removes what is half-made and ends. What it tells is in Told.
"""

from __future__ import annotations

import os
import signal
import time
from collections.abc import Iterable, Iterator
from contextlib import suppress
from multiprocessing.connection import Connection
from pathlib import Path

import msgspec

from caracal.core.base.decoding import decode_msgpack
from caracal.core.base.errors import CaracalError, Problem, problem_of, storage_error
from caracal.core.base.paths import path_of, refuse_inputs, text_of
from caracal.core.encoding.correction import corrected
from caracal.core.encoding.encode_frames import composed_frames, encode_frames
from caracal.core.encoding.frame_pool import SharedFramePool
from caracal.core.encoding.proof import Expected, prove
from caracal.core.encoding.reference_frames import ReferenceFrame, ReferenceSampler, likenesses
from caracal.core.encoding.results import EncodeResult
from caracal.core.encoding.sidecar import write_sidecar
from caracal.core.encoding.sound_likeness import heard_beside_sources
from caracal.core.media.encode import MovieWriter
from caracal.core.media.planes import Planes
from caracal.core.plan.file_plan import FilePlan
from caracal.core.specs.settings import encoder_settings

TELL_S = 0.2


class EncodeOrder(msgspec.Struct, frozen=True):
    """What the process is to make; ``pass_number`` 1 of two leaves only the encoder's notes.

    Unless it is the ``last_try``, a file that may come right with fewer bits gets no name.
    """

    plan: FilePlan
    pass_number: int = 0
    last_try: bool = True


class EncoderMessage(msgspec.Struct, frozen=True, omit_defaults=True):
    """One message from the process: a slot it needs no longer, how far it is, or how it ended."""

    released: int | None = None
    done: int | None = None
    written_bytes: int = 0
    proving: bool = False
    made: EncodeResult | None = None
    first_pass_done: bool = False  # the first of two passes is over
    problem: Problem | None = None


class _Gone(Exception):  # noqa: N818 - the other side went away, nothing is wrong here
    pass


class _Channel:
    """The connection to the process that decodes."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._file, self._last = Path(), 0.0

    def watch(self, file: Path) -> None:
        """Tell the size of ``file`` from now on."""
        self._file, self._last = file, time.monotonic()

    def tell_now_and_then(self, done: int) -> None:
        """How far it is, a few times a second."""
        if time.monotonic() - self._last > TELL_S:
            self._last = time.monotonic()
            self.tell(EncoderMessage(done=done, written_bytes=_size(self._file)))

    def tell(self, told: EncoderMessage) -> None:
        try:
            self._connection.send_bytes(msgspec.msgpack.encode(told))
        except OSError as problem:
            raise _Gone from problem

    def take(self) -> bytes:
        try:
            return self._connection.recv_bytes()
        except (EOFError, OSError) as problem:
            raise _Gone from problem


class _Slots:
    """The master's pictures, as their slots come; each is given back when it is composed."""

    def __init__(self, plan: FilePlan, pool: SharedFramePool, line: _Channel) -> None:
        self._frames, self._pool, self._line = plan.timeline.filmed, pool, line
        self._slot = -1

    def __iter__(self) -> Iterator[Planes]:
        for _ in range(self._frames):
            self._slot = decode_msgpack(self._line.take(), int)
            yield self._pool.get(self._slot)

    def release(self) -> None:
        """Give the last picture's slot back."""
        self._line.tell(EncoderMessage(released=self._slot))


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0


def prove_and_publish(
    plan: FilePlan, small: Iterable[ReferenceFrame], whole: Iterable[ReferenceFrame],
    last_try: bool = True,
) -> EncodeResult:
    """Prove the file and give it its name; an unproved one is named as such.

    ``small`` and ``whole`` are canvases that were kept while it was written (see Keeper). Unless it
    is the ``last_try``, a file that may come right stays where it is made.
    """
    part = plan.part_file
    with part.open("rb") as file:
        os.fsync(file.fileno())
    proof = prove(part, plan.sheet, _expected(plan, small, whole))
    if not last_try and not proof.right and corrected(plan, proof) is not None:
        return EncodeResult(text_of(part), proof, plan.wanted, plan.sound)
    final = path_of(plan.file)
    if not proof.right:
        final = final.with_name(f"not proved {final.name}")
    final = _put(part, final, plan.replace and proof.right, plan.inputs)
    proof = msgspec.structs.replace(proof, file=text_of(final))
    if plan.sidecar and proof.right:
        write_sidecar(plan, final)
    return EncodeResult(text_of(final), proof, plan.wanted, plan.sound)


def _expected(
    plan: FilePlan, small: Iterable[ReferenceFrame], whole: Iterable[ReferenceFrame]
) -> Expected:
    """What was meant, and how the file compares with it and with the master."""
    part, rate = plan.part_file, plan.rate
    pictures = likenesses(part, small, rate)
    loss = [likeness.luma for likeness in likenesses(part, whole, rate)]
    sound = heard_beside_sources(plan) if plan.sound is not None else None
    return Expected(plan.timeline.frames, plan.timeline.rate, plan.sound is not None,
                    sound is None or sound.sounding == 0,
                    None if plan.sound is None else plan.sound.nearest_lufs, tuple(pictures),
                    sum(loss) / len(loss) if loss else None, sound)


def _put(part: Path, final: Path, replace: bool, inputs: tuple[Path, ...]) -> Path:
    """Give ``part`` the name ``final``, numbered if somebody took it meanwhile.

    Raises InputError when ``final`` became one of the ``inputs``, or a link to one, meanwhile.
    """
    try:
        if replace:
            refuse_inputs(final, inputs)
            part.replace(final)
            return final
        number, path = 2, final
        while True:
            try:
                os.link(part, path)  # unlike a rename it never replaces
                break
            except FileExistsError:
                path = final.with_name(f"{final.stem} {number}{final.suffix}")
                number += 1
            except OSError:  # a file system without links
                part.replace(path)
                return path
        part.unlink()
        return path
    except OSError as problem:
        raise storage_error(final, problem) from problem


def _work(order: EncodeOrder, pool: SharedFramePool, line: _Channel) -> None:
    plan = order.plan
    writer = MovieWriter(plan.part_file, encoder_settings(
        plan.sheet, plan.rate, plan.sound is not None, order.pass_number, plan.part_file,
        plan.bits))
    done, sampler = False, ReferenceSampler(plan)
    line.watch(plan.part_file)
    try:
        slots = _Slots(plan, pool, line)
        composed = composed_frames(plan, slots, slots.release)
        for done_frames in encode_frames(plan, composed, writer, see=sampler.see):
            line.tell_now_and_then(done_frames)
        writer.finish()
        done = True
    finally:
        if not done:
            with suppress(CaracalError):
                writer.abandon()
    if order.pass_number == 1:
        line.tell(EncoderMessage(first_pass_done=True))
        return
    line.tell(
        EncoderMessage(done=plan.timeline.frames, written_bytes=_size(plan.part_file), proving=True)
    )
    line.tell(EncoderMessage(made=prove_and_publish(plan, sampler.small, sampler.whole,
                                                    order.last_try)))


def main(connection: Connection, pool: SharedFramePool) -> int:
    """Make the one file asked for over ``connection`` from the pictures in ``pool``.

    Returns the exit code.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the other side decides, also on Ctrl+C
    line = _Channel(connection)
    try:
        order = decode_msgpack(line.take(), EncodeOrder)
    except _Gone:
        return 0
    try:
        _work(order, pool, line)
    except _Gone:
        order.plan.part_file.unlink(missing_ok=True)
    except CaracalError as problem:
        with suppress(_Gone):
            line.tell(EncoderMessage(problem=problem_of(problem)))
    return 0
