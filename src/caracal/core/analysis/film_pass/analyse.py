"""One decode of the master; every step of analysis looks at each frame as it passes."""

from __future__ import annotations

import queue
import threading
import time
from concurrent.futures import ThreadPoolExecutor, wait
from contextlib import suppress
from pathlib import Path

import msgspec
import numpy as np

from caracal.core.analysis.cache import AnalysisStore, Source, content_key
from caracal.core.analysis.cuts.cut_finder import CutFinder
from caracal.core.analysis.detectors.downscale import downscaled, proxy_size
from caracal.core.analysis.detectors.text_detection import TextSampling
from caracal.core.analysis.film_pass.bars import BarFinder
from caracal.core.analysis.film_pass.builder import (
    AnalysisBuilder,
    AnalysisUpdate,
    EndedShot,
    Grow,
    ignore,
)
from caracal.core.analysis.film_pass.detection_pass import DetectionPass
from caracal.core.analysis.film_pass.sampling import AdaptiveSampling
from caracal.core.analysis.film_pass.setups import thumbnail
from caracal.core.analysis.film_pass.shot_summary import summarise_shot
from caracal.core.analysis.film_pass.unfinished import KeptShot, Unfinished
from caracal.core.analysis.model import PEAKS_A_SECOND, Analysis, Boundary, Transition
from caracal.core.base.errors import CaracalError, InputError, missing, storage_error
from caracal.core.base.geometry import Box
from caracal.core.base.paths import text_of
from caracal.core.base.time import FrameRange, samples_at
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, ProgressReporter, Report, no_progress
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.media.planes import Plane, Planes
from caracal.core.media.probe import probe
from caracal.core.media.proxy import growing_folder, proxy_settings
from caracal.core.media.segments import SegmentWriter, join_segments, segment_with
from caracal.core.media.sound import SoundReader

BARS_EVERY_S = 1.0
SOUND_RATE_HZ = 8000
ASK_S = 0.1  # how often a stop is noticed while the film is still being hashed
SETTLE_EVERY = 8  # frames after which it is asked what is final
TELL_EVERY_S = 0.5  # at most
BEFORE_S = 6.0  # from which cuts are looked for before a shot that is gone on with


def analyse(
    path: Path, report: Report = no_progress, cancel: CancelToken | None = None,
    root: Path | None = None, grow: Grow = ignore,
) -> Analysis:
    """Everything found in the film at ``path``; from the cache when it was analysed before.

    ``grow`` is told of shots as they end. Raises InputError for unreadable films, StorageError when
    the cache cannot be written, Cancelled when stopped: then the shots that ended are kept, and
    the next time goes on from there.
    """
    master = probe(path)
    store = AnalysisStore(content_key(path), root)
    kept = store.load_for(path)
    if kept is not None:
        return msgspec.structs.replace(kept, master=master)
    token = cancel or CancelToken()
    try:
        with store.alone(token):
            kept = store.load_for(path)  # somebody else may have done it meanwhile
            if kept is not None:
                return msgspec.structs.replace(kept, master=master)
            return _whole_pass(master, store, report, grow, token)
    except OSError as problem:
        if isinstance(problem, CaracalError):
            raise
        if not path.exists():
            raise InputError(tr("This film was removed while it was analysed."), path,
                             tr("Put it back, then open it again.")) from problem
        raise storage_error(store.folder, problem) from problem


def _whole_pass(
    master: Master, store: AnalysisStore, report: Report, grow: Grow, token: CancelToken
) -> Analysis:
    """The film looked at and kept, by whoever holds the store alone.

    Only a stop leaves anything unfinished: a film that is damaged would end in the same way again,
    and a full disk is left as it was found.
    """
    path, part = master.file, store.proxy.with_suffix(".part")
    unfinished = Unfinished(path, store.proxy)
    hashing = CancelToken()
    store.forget()
    try:
        with ThreadPoolExecutor(1, "digest") as pool:
            source = pool.submit(Source.of, path, hashing)
            try:
                result = _Pass(master, store, unfinished, report, grow, token).run(part)
                while wait([source], ASK_S).not_done:
                    token.check()
            except BaseException:
                hashing.cancel()  # a film of many gigabytes is not read to its end for nothing
                raise
        if source.result().changed_ns != path.stat().st_mtime_ns:
            raise InputError(tr("This film changed while it was analysed."), path,
                             tr("Wait until it is whole, then open it again."))
        part.replace(store.proxy)
        store.save(result, source.result())
    except (InputError, OSError):
        unfinished.forget()
        raise
    finally:
        part.unlink(missing_ok=True)
    unfinished.forget()
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
    """The single pass over the film; holds what the steps have gathered so far.

    A stopped pass is resumed: the shots that ended before its last cut are kept. Cuts are searched
    from a little earlier, because finding one needs the frames on both sides. Every step of the
    pass keeps its state here, so it has more attributes than a class should have.
    """

    def __init__(self, master: Master, store: AnalysisStore, unfinished: Unfinished,
                 report: Report, grow: Grow, cancel: CancelToken) -> None:
        self._master, self._cancel, self._report, self._grow = master, cancel, report, grow
        self._rate, self._store, self._unfinished = float(master.rate), store, unfinished
        self._size = proxy_size(master.width, master.height)
        self._bars, self._growing = BarFinder(), AnalysisBuilder()
        self._untold: list[EndedShot] = []
        kept = unfinished.begin()
        self._edges = [Boundary(0, Transition.START)]  # of the shot at hand, and those after it
        for kept_shot in kept:
            self._growing.add(kept_shot.ended)
            self._untold.append(kept_shot.ended)
            self._edges = [kept_shot.edge]
            self._bars.restore(*kept_shot.bars)
        self._first = self._edges[0].frame
        self._cuts = CutFinder(master.rate, self._edges[0] if kept else None)
        self._thumbnails: dict[int, bytes] = {}
        self._peaks: list[float] = []  # from the tenth of a second of the shot at hand on
        self._sampling, self._text_sampling = AdaptiveSampling(self._rate), TextSampling(self._rate)
        self._held: tuple[int, Planes, Plane, Plane, bool, bool] | None = None
        self._told_at = -1.0

    def run(self, proxy: Path) -> Analysis:
        """All that is in the film; its proxy is written to ``proxy``."""
        master, first, folder = self._master, self._first, growing_folder(self._store.proxy)
        there = segment_with(folder, first)
        written_from = there[0] if there is not None else 0
        settings = proxy_settings(self._size, master.frame_rate)
        segments = SegmentWriter(folder, settings, written_from)
        looks = DetectionPass(self._size, (master.width, master.height), self._rate, first)
        writer = ThreadedWriter(segments)
        try:
            with SoundReader(master, SOUND_RATE_HZ, 1,
                             samples_at(first, master.rate, SOUND_RATE_HZ)) as sound:
                self._watch(looks, writer, sound, written_from)
            writer.finish()
            looks.finish()
            self._edges += self._cuts.finish(master.frames)
            self._close_shots(looks, master.frames)
            join_segments(folder, proxy, settings)
            return self._growing.whole(self._store.folder.name, master, self._active)
        finally:
            writer.stop()
            looks.close()
            self._cuts.close()

    @property
    def _active(self) -> Box:
        return self._bars.active(self._master.width, self._master.height)

    def _watch(
        self, looks: DetectionPass, proxy: ThreadedWriter, sound: SoundReader, written_from: int
    ) -> None:
        master, first = self._master, self._first
        rate = master.rate
        watch = ProgressReporter(tr("Analysing"), master.frames, self._report, first)
        heard = samples_at(first, rate, SOUND_RATE_HZ)
        begin = max(0, min(written_from, first - round(BEFORE_S * self._rate))) if first else 0
        for number, planes in frames(master, FrameRange(begin, master.frames), self._cancel):
            small = downscaled(planes, self._size)
            if number >= written_from:
                proxy.put(small)
            half, tiny = looks.shrink(small.y)
            self._cuts.add(number, tiny, small)
            if number < first:
                continue
            if number % max(1, round(BARS_EVERY_S * self._rate)) == 0:
                self._bars.add(planes.y)
            self._follow(number, small, half, tiny, looks)
            end = samples_at(number + 1, rate, SOUND_RATE_HZ)
            self._hear(number, sound.take(end - heard))
            heard = end
            if number % SETTLE_EVERY == 0:
                self._edges += self._cuts.settled()
                self._close_shots(looks)
                self._tell(min(proxy.readable_to, number))
            watch.at(number + 1)
        self._hand_on(looks, look_anyway=True)

    def _tell(self, known_to: int) -> None:
        """Hand on the shots that ended, and how far the one at hand is known."""
        now = time.monotonic()
        if now - self._told_at < TELL_EVERY_S or known_to <= self._edges[0].frame:
            return
        ended, self._untold, self._told_at = tuple(self._untold), [], now
        self._grow(AnalysisUpdate(self._store.folder.name, self._master, self._active, ended,
                         self._edges[0], known_to,
                         tuple(round(peak, 3) for peak in self._peaks)))

    def _tenth(self, frame: int) -> int:
        return int(frame / self._rate * PEAKS_A_SECOND)

    def _hear(self, number: int, samples: np.ndarray) -> None:
        """Keep the peaks of frame ``number``, which may last for several tenths of a second."""
        first, tenth = self._tenth(number), SOUND_RATE_HZ // PEAKS_A_SECOND
        begins = samples_at(number, self._master.rate, SOUND_RATE_HZ)
        edges = [tenth * at - begins for at in range(first + 1, self._tenth(number + 1))]
        for at, part in enumerate(np.split(np.abs(samples), edges), first):
            loud = float(part.max(initial=0.0))
            if at - self._tenth(self._edges[0].frame) >= len(self._peaks):
                self._peaks.append(loud)
            else:
                self._peaks[-1] = max(self._peaks[-1], loud)

    def _follow(
        self, number: int, small: Planes, half: Plane, tiny: Plane, looks: DetectionPass
    ) -> None:
        """Hand every frame on to be followed, one late: a jump makes the frame before matter."""
        due, before_too = self._sampling.at(number, tiny)
        self._hand_on(looks, before_too)
        self._held = (number, small, half, tiny, due, before_too)

    def _hand_on(self, looks: DetectionPass, look_anyway: bool) -> None:
        if self._held is None:
            return
        number, small, half, tiny, due, jumped = self._held
        worth = due or look_anyway
        words_too = self._text_sampling.due(number, jumped, worth)
        if worth:
            self._thumbnails[number] = thumbnail(small.y)
        looks.step(number, tiny, half, small if worth else None, words_too)

    def _close_shots(self, looks: DetectionPass, last: int | None = None) -> None:
        """Shots whose end is known, and of which all was seen, have ended; ``last``: all have."""
        while len(self._edges) > 1 or last is not None:
            edge, following = self._edges[0], next(iter(self._edges[1:]), None)
            end = following.frame if following is not None else last
            assert end is not None
            if not looks.ready(end):
                return
            shot = summarise_shot(edge, end, following, looks.take(edge.frame, end),
                                  self._thumbnails, self._master)
            count = len(self._peaks) if following is None else (
                self._tenth(end) - self._tenth(edge.frame))
            shot = msgspec.structs.replace(
                shot, peaks=tuple(round(peak, 3) for peak in self._peaks[:count]))
            del self._peaks[:count]
            self._thumbnails = {at: image for at, image in self._thumbnails.items() if at >= end}
            self._growing.add(shot)
            self._untold.append(shot)
            if following is None:
                return
            self._edges.pop(0)
            self._unfinished.keep(KeptShot(shot, following, self._bars.state()))


class ThreadedWriter:
    """A writer in a thread of its own, a few pictures behind."""

    def __init__(self, writer: SegmentWriter) -> None:
        self._writer = writer
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
                except BaseException as problem:  # noqa: BLE001 - raised again by whoever puts
                    self._problem = problem

    def put(self, planes: Planes) -> None:
        """Write ``planes`` soon. Raises what writing earlier ones raised."""
        if self._problem is not None:
            raise self._problem
        self._waiting.put(planes)

    @property
    def readable_to(self) -> int:
        """The frame after the last that can be read."""
        return self._writer.readable_to

    def stop(self) -> None:
        """Join the thread, and close the file if it is not finished."""
        self._join()
        if not self._closed:
            self._closed = True
            with suppress(CaracalError, OSError):  # the disk is full, or the folder is gone
                self._writer.abandon()

    def _join(self) -> None:
        if self._thread.is_alive():
            self._waiting.put(None)
            self._thread.join()

    def finish(self) -> None:
        """Write what is left, and close the file. Raises what writing raised."""
        self._join()
        if self._problem is not None:
            raise self._problem
        self._closed = True
        self._writer.finish()
