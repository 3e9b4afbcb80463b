"""The same batch on several machines: a Dask cluster (``distributed``) encodes pieces of files.

Every file is cut into pieces of whole GOPs, which begin with a picture that stands alone. Workers
decode, compose and encode them; the pieces are joined here, packet by packet, with the sound that
is encoded here as always. Workers need the master at the same path and the same Caracal. A worker
that dies gives its pieces back to the scheduler, which hands them to another.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from contextlib import suppress
from itertools import pairwise
from pathlib import Path
from typing import Any

import msgspec

from caracal.core.base.decoding import decode_msgpack
from caracal.core.base.errors import CaracalError, InputError, Problem, problem_of
from caracal.core.base.time import samples_at
from caracal.core.base.translation import tr
from caracal.core.base.work import Control
from caracal.core.batch.cluster_address import Cluster
from caracal.core.encoding.encode_frames import SoundTrack, composed_frames, encode_frames
from caracal.core.encoding.encoder import prove_and_publish
from caracal.core.encoding.reference_frames import ReferenceFrame, ReferenceSampler
from caracal.core.encoding.results import FileState, Outcome, Watch
from caracal.core.media.av_errors import opened, reading
from caracal.core.media.decode import frames
from caracal.core.media.encode import MovieWriter
from caracal.core.media.planes import Planes
from caracal.core.plan.file_plan import FilePlan
from caracal.core.specs.settings import encoder_settings

PIECE_S = 10.0  # about: long enough that starting an encoder costs nothing
RETRIES = 2  # of a piece, on other workers, beyond those that died under it
CONNECT_S = 10
ASK_S = 0.2
FAILED = ("error", "cancelled")  # a piece that is "lost" with its worker is made again


def pieces_of(plan: FilePlan) -> list[tuple[int, int]]:
    """[start, end) of each piece in frames of the file: whole GOPs, PIECE_S each or a bit more."""
    video, frames_made = plan.sheet.video, len(plan.sources()[0])
    gop = 1 if video.family.intra else max(1, int(video.gop_s * plan.rate))
    length = max(gop, round(PIECE_S * plan.rate / gop) * gop)
    edges = [*range(0, max(1, frames_made - length // 2), length), frames_made]
    return [(a, b) for a, b in pairwise(edges) if a < b]


class Piece(msgspec.Struct, frozen=True):
    """A movie of some of a file's pictures, and the canvases that are kept for its proof."""

    movie: bytes
    small: tuple[ReferenceFrame, ...]
    whole: tuple[ReferenceFrame, ...]


def encode_piece(data: bytes) -> bytes:
    """Make one piece of a plan, on whatever machine; both are encoded (msgpack)."""
    plan = decode_msgpack(data, FilePlan)
    sampler = ReferenceSampler(plan)
    with tempfile.TemporaryDirectory(prefix="caracal-piece-") as folder:
        path = Path(folder) / f"piece.{plan.sheet.file.container}"
        writer = MovieWriter(path, encoder_settings(
            plan.sheet, plan.rate, with_sound=False, bits=plan.bits))
        composed = composed_frames(plan, _sources(plan))
        for _ in encode_frames(plan, composed, writer, with_sound=False, see=sampler.see):
            pass
        writer.finish()
        return msgspec.msgpack.encode(Piece(path.read_bytes(), tuple(sampler.small),
                                            tuple(sampler.whole)))


def _sources(plan: FilePlan) -> Iterator[Planes]:
    for span in plan.timeline.ranges:
        for _, planes in frames(plan.master, span):
            yield planes


def make_on_cluster(
    cluster: Cluster, plans: list[FilePlan], watch: Watch, control: Control
) -> list[Outcome]:
    """Make every planned file with the workers of ``cluster``; how each ended, in the same order.

    Raises InputError when nobody answers there, it cannot be trusted, or a sheet wants two passes;
    Cancelled when stopped.
    """
    cluster.check()
    twice = next((plan.sheet for plan in plans if plan.sheet.video.passes == 2), None)
    if twice is not None:
        raise InputError(tr("{title} asks for two passes, which a cluster cannot encode.",
                            title=twice.title),
                         remedy=tr("Encode without the cluster, or set the spec sheet to one "
                                   "pass."))
    client = _client(cluster)
    try:
        return _Spread(client, plans, watch, control).run()
    finally:
        client.close()


def _client(cluster: Cluster) -> Any:
    try:
        from distributed import Client, Security  # noqa: PLC0415 - an extra: one machine needs no cluster
    except ImportError as problem:
        raise InputError(tr("Working on a cluster needs the distributed package."),
                         remedy=tr("Install it: pip install "
                                   "'caracal-reframe[cluster]'.")) from problem
    try:
        security = Security(  # type: ignore[no-untyped-call]
            tls_ca_file=cluster.ca_file, tls_client_cert=cluster.cert_file,
            tls_client_key=cluster.key_file, require_encryption=True) if cluster.files else None
        return Client(  # type: ignore[no-untyped-call]
            cluster.address, timeout=CONNECT_S, set_as_default=False, security=security)
    except (OSError, ValueError, TypeError) as problem:
        raise InputError(tr("No Dask scheduler answers at {address}.", address=cluster.address),
                         remedy=tr("Check the address, or leave the cluster out.")) from problem


class _Spread:
    """All pieces of all files, sent out at once and joined as files are complete."""

    def __init__(self, client: Any, plans: list[FilePlan], watch: Watch, control: Control) -> None:
        self._plans, self._watch, self._control = plans, watch, control
        self._edges = [pieces_of(plan) for plan in plans]
        self._began = time.monotonic()
        self._tasks = [
            [client.submit(encode_piece, msgspec.msgpack.encode(plan.piece(*edge)), pure=False,
                           retries=RETRIES) for edge in edges]
            for plan, edges in zip(plans, self._edges, strict=True)]

    def run(self) -> list[Outcome]:
        outcomes: dict[int, Outcome] = {}
        try:
            while len(outcomes) < len(self._plans):
                self._control.cancel.check()
                for i in range(len(self._plans)):
                    if i not in outcomes and (found := self._look(i)) is not None:
                        outcomes[i] = found
                time.sleep(ASK_S)
        finally:
            for tasks in self._tasks:
                for task in tasks:
                    with suppress(Exception):  # the scheduler may be gone
                        task.cancel()
        return [outcomes[i] for i in range(len(self._plans))]

    def _look(self, i: int) -> Outcome | None:
        """How file ``i`` ended, if it did."""
        if i in self._control.stopped:
            return Outcome(stopped=True)
        tasks, plan = self._tasks[i], self._plans[i]
        failed = next((task for task in tasks if task.status in FAILED), None)
        if failed is not None:
            return Outcome(problem=_problem(failed))
        done = sum(b - a for (a, b), task in zip(self._edges[i], tasks, strict=True)
                   if task.status == "finished")
        spent = time.monotonic() - self._began
        total = plan.timeline.frames
        self._watch(i, FileState("encoding", done, total, 0, done / spent if done else None))
        if done < total:
            return None
        self._watch(i, FileState("proving", total, total))
        try:
            pieces = [decode_msgpack(task.result(), Piece) for task in tasks]
            starts = [a for a, _ in self._edges[i]]
            joined(plan, [piece.movie for piece in pieces], starts)
            return Outcome(made=prove_and_publish(
                plan, _moved([piece.small for piece in pieces], starts),
                _moved([piece.whole for piece in pieces][:1], starts[:1])))
        except CaracalError as problem:
            return Outcome(problem=problem_of(problem))


def _moved(kept: list[tuple[ReferenceFrame, ...]], starts: list[int]) -> list[ReferenceFrame]:
    """Canvases of pieces, numbered as frames of the file."""
    return [msgspec.structs.replace(sample, frame=sample.frame + start)
            for ones, start in zip(kept, starts, strict=True) for sample in ones]


def _problem(task: Any) -> Problem:
    error = task.exception() if task.status == "error" else None
    if isinstance(error, CaracalError):
        return problem_of(error)
    return problem_of(CaracalError(tr("A piece could not be encoded on the cluster ({error}).",
                                      error=error),
                                   remedy=tr("Check its workers, or encode without the cluster.")))


def joined(plan: FilePlan, pieces: list[bytes], starts: list[int]) -> None:
    """Join encoded pieces, each beginning at its frame of ``starts``, into the plan's part file.

    Raises StorageError when it cannot be written.
    """
    with tempfile.TemporaryDirectory(prefix="caracal-join-") as folder:
        writer: MovieWriter | None = None
        sound = SoundTrack(plan)
        for number, (data, start) in enumerate(zip(pieces, starts, strict=True)):
            path = Path(folder) / f"{number}.{plan.sheet.file.container}"
            path.write_bytes(data)
            with reading(path), opened(path) as container:
                stream = container.streams.video[0]
                if writer is None:
                    writer = MovieWriter(plan.part_file, encoder_settings(
                        plan.sheet, plan.rate, plan.sound is not None), stream)
                for at, packet in enumerate(
                        packet for packet in container.demux(stream) if packet.size):
                    writer.copy_picture(packet, start)
                    writer.write_sound(sound.until(samples_at(
                        start + at + 1, plan.rate, plan.sheet.sound.rate_hz)))
            path.unlink()
        assert writer is not None
        writer.finish()
