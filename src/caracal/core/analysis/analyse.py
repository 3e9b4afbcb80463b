"""One decode of the master; every step of analysis looks at each frame as it passes."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path

import msgspec
import numpy as np

from caracal.core.analysis.appearance import name_people
from caracal.core.analysis.attention import Map
from caracal.core.analysis.bars import BarFinder
from caracal.core.analysis.cache import AnalysisStore, Source, content_key
from caracal.core.analysis.camera import Camera
from caracal.core.analysis.cuts import Boundary, CutFinder
from caracal.core.analysis.lettering import WordsRhythm, word_tracks
from caracal.core.analysis.looking import Look, Looking
from caracal.core.analysis.model import (
    PEAKS_A_SECOND,
    VERSION,
    Analysis,
    FoundShot,
    SoundOutline,
    Track,
    Transition,
)
from caracal.core.analysis.rhythm import Rhythm
from caracal.core.analysis.setups import thumbnail
from caracal.core.analysis.small import shrink, small_size
from caracal.core.analysis.stitching import follow
from caracal.core.analysis.subjects import join_faces, without_parts
from caracal.core.errors import CaracalError, InputError
from caracal.core.media.decode import frames
from caracal.core.media.gate import missing, place_error
from caracal.core.media.look import Master, look
from caracal.core.media.planes import Plane, Planes
from caracal.core.media.proxy import proxy_writer
from caracal.core.media.sound import SoundReader
from caracal.core.paths import text_of
from caracal.core.time import samples_at
from caracal.core.work import CancelToken, Report, Stopwatch, silent

BARS_EVERY_S = 1.0
SOUND_RATE_HZ = 8000


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
    kept = store.load_for(path)
    if kept is not None:
        return msgspec.structs.replace(kept, master=master)
    part, token = store.proxy.with_suffix(".part"), cancel or CancelToken()
    try:
        with store.alone(token):
            kept = store.load_for(path)  # somebody else may have done it meanwhile
            if kept is not None:
                return msgspec.structs.replace(kept, master=master)
            store.forget()
            with ThreadPoolExecutor(1, "digest") as pool:
                source = pool.submit(Source.of, path, token)
                result = _Pass(master, part, report, token).run(store.folder.name)
            if source.result().changed_ns != path.stat().st_mtime_ns:
                raise InputError("This film changed while it was looked at.", path,
                                 "Wait until it is whole, then open it again.")
            part.replace(store.proxy)
            store.save(result, source.result())
    except OSError as problem:
        if isinstance(problem, CaracalError):
            raise
        raise place_error(store.folder, problem) from problem
    finally:
        part.unlink(missing_ok=True)
    return result


def analysed_before(path: Path, root: Path | None = None) -> Analysis | None:
    """The kept analysis of the film at ``path``, as it is now; None when there is none.

    Nothing of the film is decoded. Raises InputError when it is missing.
    """
    if not path.is_file():
        raise missing(path)
    kept = AnalysisStore(content_key(path), root).load_for(path)
    if kept is None:
        return None
    return msgspec.structs.replace(
        kept, master=msgspec.structs.replace(kept.master, path=text_of(path)))


def kept_analysis(key: str, root: Path | None = None) -> Analysis | None:
    """The analysis of the film with this content key, if it was analysed before: no film needed."""
    return AnalysisStore(key, root).load()


class _Pass:
    """The single pass over the film; holds what the steps have gathered so far."""

    def __init__(self, master: Master, proxy: Path, report: Report, cancel: CancelToken) -> None:
        self._master, self._cancel, self._report = master, cancel, report
        self._rate = float(master.rate)
        self._size = small_size(master.width, master.height)
        self._proxy_path = proxy
        self._cuts = CutFinder(master.rate)
        self._bars = BarFinder()
        self._thumbnails: dict[int, bytes] = {}
        self._peaks: list[float] = []
        self._rhythm, self._words_rhythm = Rhythm(self._rate), WordsRhythm(self._rate)
        self._held: tuple[int, Planes, Plane, Plane, bool, bool] | None = None

    def run(self, key: str) -> Analysis:
        looks = Looking(self._size, (self._master.width, self._master.height), self._rate)
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
            self._cuts.close()

    def _watch(self, looks: Looking, proxy: Callable[[Planes], None], sound: SoundReader) -> None:
        watch = Stopwatch("Analysing", self._master.frames, self._report)
        rate, heard = self._master.rate, 0
        for number, planes in frames(self._master, cancel=self._cancel):
            small = shrink(planes, self._size)
            proxy(small)
            half, tiny = looks.shrink(small.y)
            self._cuts.add(number, tiny, small)
            if number % max(1, round(BARS_EVERY_S * self._rate)) == 0:
                self._bars.add(planes.y)
            self._follow(number, small, half, tiny, looks)
            end = samples_at(number + 1, rate, SOUND_RATE_HZ)
            self._hear(number, sound.take(end - heard))
            heard = end
            watch.at(number + 1)
        self._hand_on(looks, look_anyway=True)

    def _hear(self, number: int, samples: np.ndarray) -> None:
        at = int(number / self._rate * PEAKS_A_SECOND)
        loud = float(np.abs(samples).max(initial=0.0))
        if at >= len(self._peaks):
            self._peaks.append(loud)
        else:
            self._peaks[-1] = max(self._peaks[-1], loud)

    def _follow(
        self, number: int, small: Planes, half: Plane, tiny: Plane, looks: Looking
    ) -> None:
        """Hand every frame on to be followed, one late: a jump makes the frame before matter."""
        due, before_too = self._rhythm.at(number, tiny)
        self._hand_on(looks, before_too)
        self._held = (number, small, half, tiny, due, before_too)

    def _hand_on(self, looks: Looking, look_anyway: bool) -> None:
        if self._held is None:
            return
        number, small, half, tiny, due, jumped = self._held
        worth = due or look_anyway
        words_too = self._words_rhythm.due(number, jumped, worth)
        if worth:
            self._thumbnails[number] = thumbnail(small.y)
        looks.step(number, tiny, half, small if worth else None, words_too)

    def _result(self, key: str, looks: Looking) -> Analysis:
        master = self._master
        found = looks.all()
        moves = np.array(looks.camera, np.float32).reshape(-1, 2)
        boundaries = self._cuts.boundaries(master.frames)
        edges = [Boundary(0, Transition.START), *boundaries]
        ends = [*(one.frame for one in boundaries), master.frames]
        shots: list[FoundShot] = []
        tracks: list[Track] = []
        words: list[Track] = []
        for index, (edge, end) in enumerate(zip(edges, ends, strict=True)):
            here = _sure_looks(found, edge, end, boundaries)
            made = follow(here, edge.frame, end, self._rate, (master.width, master.height),
                          Camera.over(moves.astype(np.float64), edge.frame, end))
            base = len(tracks)
            tracks += [
                msgspec.structs.replace(one, id=one.id + base, subject=one.subject + base,
                                        shot=index)
                for one in without_parts(join_faces(made))
            ]
            words += word_tracks(looks.words, index, _steady_span(edge, end, boundaries))
            shots.append(self._shot(edge, end, here, looks.maps))
        active = self._bars.active(master.width, master.height)
        return Analysis(VERSION, key, master, active, tuple(shots),
                        tuple(name_people(tracks)),
                        SoundOutline(tuple(round(peak, 3) for peak in self._peaks)),
                        tuple(words), np.round(moves, 2).tobytes())

    def _shot(
        self, edge: Boundary, end: int, looks: list[Look], maps: list[tuple[int, Map]]
    ) -> FoundShot:
        inside = [seen for frame, seen in maps if edge.frame <= frame < end]
        total = np.sum(inside[1:] or inside, axis=0) if inside else np.zeros(1)
        shares = total / total.sum() if float(np.sum(total)) > 0 else total
        attention = tuple(round(float(value), 6) for value in np.ravel(shares))
        telling = _telling(edge.frame, end, looks)
        near = min((at for at in self._thumbnails if edge.frame <= at < end),
                   key=lambda at: abs(at - telling), default=None)
        picture = self._thumbnails[near] if near is not None else b""
        return FoundShot(edge.frame, end, edge.kind, edge.span, attention, telling, picture)


def _sure_looks(
    found: list[Look], edge: Boundary, end: int,
    boundaries: list[Boundary],
) -> list[Look]:
    """The looks of one shot, without those in the half of a dissolve that shows both shots."""
    first, last = _steady_span(edge, end, boundaries)
    inside = [look for look in found if first <= look[0] < last]
    return inside or [look for look in found if edge.frame <= look[0] < end]


def _steady_span(edge: Boundary, end: int, boundaries: list[Boundary]) -> tuple[int, int]:
    """The frames [first, end) of a shot outside its dissolves."""
    first = edge.span[1] if edge.span else edge.frame
    last = next((one.span[0] for one in boundaries if one.frame == end and one.span), end)
    return first, max(first + 1, last)


def _telling(start: int, end: int, looks: list[Look]) -> int:
    """The look that shows most: large, sure, near the middle of the shot; else the middle."""
    middle = (start + end) / 2

    def weight(look: Look) -> float:
        frame, seen = look
        shown = sum(one.seen.score * (one.seen.box[2] * one.seen.box[3]) ** 0.5 for one in seen)
        return float(shown * (1.2 - abs(frame - middle) / (end - start)))

    best = max(looks, key=weight, default=None)
    return best[0] if best and best[1] else int(middle)


class _Behind:
    """A writer in a thread of its own, a few pictures behind."""

    def __init__(self, write: Callable[[tuple[np.ndarray, np.ndarray, np.ndarray]], None]) -> None:
        self._writer = write.__self__  # type: ignore[attr-defined]
        self._waiting: queue.Queue[Planes | None] = queue.Queue(maxsize=12)
        self._problem: BaseException | None = None
        self._closed = False
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
        """Join the thread, and close the file if it is not finished."""
        self._join()
        if not self._closed:
            self._closed = True
            with suppress(CaracalError):  # the disk is full or gone: nothing more to close
                self._writer.abandon()

    def _join(self) -> None:
        if self._thread.is_alive():
            self._waiting.put(None)
            self._thread.join()

    def finish(self) -> None:
        self._join()
        if self._problem is not None:
            raise self._problem
        self._closed = True
        self._writer.finish()
