"""One decode of the master; every step of analysis looks at each frame as it passes."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

import cv2
import msgspec
import numpy as np

from caracal.core.analysis.attention import AttentionMaker, Map
from caracal.core.analysis.bars import BarFinder
from caracal.core.analysis.cache import AnalysisStore, content_key
from caracal.core.analysis.cuts import Boundary, CutFinder
from caracal.core.analysis.detections import Detection, Picture
from caracal.core.analysis.faces import FaceDetector
from caracal.core.analysis.model import (
    VERSION,
    Analysis,
    FoundShot,
    SoundOutline,
    Track,
    Transition,
)
from caracal.core.analysis.objects import ObjectDetector
from caracal.core.analysis.small import shrink, small_size
from caracal.core.analysis.subjects import join_faces
from caracal.core.analysis.tracks import follow
from caracal.core.errors import CaracalError
from caracal.core.media.decode import frames
from caracal.core.media.gate import place_error
from caracal.core.media.look import Master, look
from caracal.core.media.planes import Planes, to_rgb
from caracal.core.media.proxy import proxy_writer
from caracal.core.media.sound import SoundReader
from caracal.core.time import samples_at
from caracal.core.work import CancelToken, Report, Stopwatch, silent

LOOKS_LEAST_S = 0.2  # between two looks while things move
LOOKS_MOST_S = 0.8  # between two looks while nothing does
ENOUGH_MOTION = 1.0  # summed luma change (mean over the picture, 0..255) that calls for a look
JUMP = 1.2  # luma change of one frame that may be a cut: look on both sides of it
BARS_EVERY_S = 0.5
PEAKS_A_SECOND = 10
SOUND_RATE_HZ = 8000
WAITING_LOOKS = 8  # pictures held for the detectors: bounds memory


def analyse(
    path: Path, report: Report = silent, cancel: CancelToken | None = None,
    root: Path | None = None,
) -> Analysis:
    """Everything found in the film at ``path``; from the cache when it was analysed before.

    Raises InputError for unreadable films, PlaceError when the cache cannot be written,
    Cancelled when stopped (nothing is kept then).
    """
    master = look(path)
    store = AnalysisStore(content_key(path), root)
    kept = store.load()
    if kept is not None:
        return msgspec.structs.replace(kept, master=master)
    part = store.proxy.with_suffix(".part")
    try:
        store.folder.mkdir(parents=True, exist_ok=True)
        result = _Pass(master, part, report, cancel or CancelToken()).run(store.folder.name)
        part.replace(store.proxy)
        store.save(result)
    except OSError as problem:
        if isinstance(problem, CaracalError):
            raise
        raise place_error(store.folder, problem) from problem
    finally:
        part.unlink(missing_ok=True)
    return result


class _Looks:
    """Both detectors in a thread beside the decoder."""

    def __init__(self) -> None:
        self._faces, self._objects = FaceDetector(1), ObjectDetector(1)
        self._pool = ThreadPoolExecutor(2, thread_name_prefix="look")
        self._room = threading.Semaphore(WAITING_LOOKS)
        self._found: list[tuple[int, Future[list[Detection]], Future[list[Detection]]]] = []

    def ask(self, frame: int, picture: Picture) -> None:
        for _ in range(2):
            self._room.acquire()
        jobs = [self._pool.submit(find, picture) for find in (self._faces.find, self._objects.find)]
        for job in jobs:
            job.add_done_callback(lambda _: self._room.release())
        self._found.append((frame, jobs[0], jobs[1]))

    def all(self, scale: tuple[float, float]) -> list[tuple[int, list[Detection]]]:
        """Every look in order, boxes in master pixels."""
        results = []
        for frame, faces, things in self._found:
            seen = [_enlarged(one, scale) for one in (*faces.result(), *things.result())]
            results.append((frame, seen))
        return results

    def close(self) -> None:
        self._pool.shutdown(cancel_futures=True)


def _enlarged(one: Detection, scale: tuple[float, float]) -> Detection:
    x, y, w, h = one.box
    return Detection(one.kind, one.score, (x * scale[0], y * scale[1], w * scale[0], h * scale[1]))


class _Pass:
    """The single pass over the film; holds what the steps have gathered so far."""

    def __init__(self, master: Master, proxy: Path, report: Report, cancel: CancelToken) -> None:
        self._master, self._cancel, self._report = master, cancel, report
        self._rate = float(master.rate)
        self._size = small_size(master.width, master.height)
        self._proxy_path = proxy
        self._cuts = CutFinder(master.rate)
        self._bars, self._attention = BarFinder(), AttentionMaker()
        self._maps: list[tuple[int, Map]] = []
        self._peaks: list[float] = []
        self._motion = 0.0
        self._last_look = -1_000_000
        self._before: tuple[int, Planes] | None = None
        self._grey: np.ndarray | None = None

    def run(self, key: str) -> Analysis:
        looks = _Looks()
        writer = _Behind(proxy_writer(self._proxy_path, self._size,
                                      self._master.frame_rate).write_picture)
        try:
            with SoundReader(self._master, SOUND_RATE_HZ, 1) as sound:
                self._watch(looks, writer.put, sound)
            writer.finish()
            return self._result(key, looks)
        finally:
            writer.stop()
            looks.close()

    def _watch(self, looks: _Looks, proxy: Callable[[Planes], None], sound: SoundReader) -> None:
        watch = Stopwatch("Analysing", self._master.frames, self._report)
        rate = self._master.rate
        for number, planes in frames(self._master, cancel=self._cancel):
            small = shrink(planes, self._size)
            proxy(small)
            self._cuts.add(number, small)
            if number % max(1, round(BARS_EVERY_S * self._rate)) == 0:
                self._bars.add(planes.y)
            self._look_if_needed(number, small, looks)
            count = samples_at(number + 1, rate, SOUND_RATE_HZ) - samples_at(
                number, rate, SOUND_RATE_HZ)
            self._hear(number, sound.take(count))
            watch.at(number + 1)

    def _hear(self, number: int, samples: np.ndarray) -> None:
        at = int(number / self._rate * PEAKS_A_SECOND)
        loud = float(np.abs(samples).max(initial=0.0))
        if at >= len(self._peaks):
            self._peaks.append(loud)
        else:
            self._peaks[-1] = max(self._peaks[-1], loud)

    def _look_if_needed(self, number: int, small: Planes, looks: _Looks) -> None:
        grey = cv2.resize(small.y, (80, 45), interpolation=cv2.INTER_AREA).astype(np.float32)
        step = 0.0 if self._grey is None else float(np.abs(grey - self._grey).mean())
        self._grey = grey
        self._motion += step
        since = (number - self._last_look) / self._rate
        if step > JUMP and self._before is not None and self._before[0] != self._last_look:
            self._look(*self._before, looks)
            since = LOOKS_MOST_S
        moved = self._motion >= ENOUGH_MOTION and since >= LOOKS_LEAST_S
        if moved or since >= LOOKS_MOST_S or number == self._master.frames - 1:
            self._look(number, small, looks)
        self._before = (number, small)

    def _look(self, number: int, small: Planes, looks: _Looks) -> None:
        self._last_look, self._motion = number, 0.0
        looks.ask(number, to_rgb(small))
        self._maps.append((number, self._attention.look(small.y)))

    def _result(self, key: str, looks: _Looks) -> Analysis:
        master = self._master
        scale = (master.width / self._size[0], master.height / self._size[1])
        found = looks.all(scale)
        boundaries = self._cuts.boundaries(master.frames)
        edges = [Boundary(0, Transition.START), *boundaries]
        ends = [*(one.frame for one in boundaries), master.frames]
        shots: list[FoundShot] = []
        tracks: list[Track] = []
        for index, (edge, end) in enumerate(zip(edges, ends, strict=True)):
            here = _sure_looks(found, edge, end, boundaries)
            made = follow(here, edge.frame, end, self._rate, (master.width, master.height))
            base = len(tracks)
            tracks += [
                msgspec.structs.replace(one, id=one.id + base, subject=one.subject + base,
                                        shot=index)
                for one in join_faces(made)
            ]
            shots.append(self._shot(edge, end, here))
        active = self._bars.active(master.width, master.height)
        return Analysis(VERSION, key, master, active, tuple(shots), tuple(tracks),
                        SoundOutline(tuple(round(peak, 3) for peak in self._peaks)))

    def _shot(
        self, edge: Boundary, end: int, looks: list[tuple[int, list[Detection]]]
    ) -> FoundShot:
        inside = [seen for frame, seen in self._maps if edge.frame <= frame < end]
        total = np.sum(inside[1:] or inside, axis=0) if inside else np.zeros(1)
        shares = total / total.sum() if float(np.sum(total)) > 0 else total
        attention = tuple(round(float(value), 6) for value in np.ravel(shares))
        return FoundShot(edge.frame, end, edge.kind, edge.span, attention,
                         _telling(edge.frame, end, looks))


def _sure_looks(
    found: list[tuple[int, list[Detection]]], edge: Boundary, end: int,
    boundaries: list[Boundary],
) -> list[tuple[int, list[Detection]]]:
    """The looks of one shot, without those in the half of a dissolve that shows both shots."""
    first = edge.span[1] if edge.span else edge.frame
    last = next((one.span[0] for one in boundaries if one.frame == end and one.span), end)
    inside = [look for look in found if first <= look[0] < last]
    return inside or [look for look in found if edge.frame <= look[0] < end]


def _telling(start: int, end: int, looks: list[tuple[int, list[Detection]]]) -> int:
    """The look that shows most: large, sure, near the middle of the shot; else the middle."""
    middle = (start + end) / 2

    def weight(look: tuple[int, list[Detection]]) -> float:
        frame, seen = look
        shown = sum(one.score * (one.box[2] * one.box[3]) ** 0.5 for one in seen)
        return float(shown * (1.2 - abs(frame - middle) / (end - start)))

    best = max(looks, key=weight, default=None)
    return best[0] if best and best[1] else int(middle)


class _Behind:
    """A writer in a thread of its own, a few pictures behind."""

    def __init__(self, write: Callable[[tuple[np.ndarray, np.ndarray, np.ndarray]], None]) -> None:
        self._writer = write.__self__  # type: ignore[attr-defined]
        self._waiting: queue.Queue[Planes | None] = queue.Queue(maxsize=12)
        self._problem: BaseException | None = None
        self._thread = threading.Thread(target=self._run, name="proxy", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        while (planes := self._waiting.get()) is not None:
            if self._problem is None:
                try:
                    self._writer.write_picture((planes.y, planes.u, planes.v))
                except CaracalError as problem:
                    self._problem = problem

    def put(self, planes: Planes) -> None:
        if self._problem is not None:
            raise self._problem
        self._waiting.put(planes)

    def stop(self) -> None:
        if self._thread.is_alive():
            self._waiting.put(None)
            self._thread.join()

    def finish(self) -> None:
        self.stop()
        if self._problem is not None:
            raise self._problem
        self._writer.finish()
