"""Looks at single pictures by the detectors, and carrying what they saw from frame to frame.

The detectors run in a pool of threads beside the decoder; one more thread follows each thing seen
through the frames after the look by optical flow, so that looks can be rare and motion between
them is still known.
"""

from __future__ import annotations

import queue
import threading
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field

import cv2
import msgspec
import numpy as np

from caracal.core.analysis.detection import SURE_SCORE, Detection, Picture
from caracal.core.analysis.detectors.appearance import body_colour, describe
from caracal.core.analysis.detectors.attention import AttentionMaker, Map
from caracal.core.analysis.detectors.faces import MOST_HEADS, FaceDetector
from caracal.core.analysis.detectors.focus import sharpness
from caracal.core.analysis.detectors.mouths import face_part, mouth_change
from caracal.core.analysis.detectors.network import brightened
from caracal.core.analysis.detectors.objects import LARGE_INPUT, ObjectDetector
from caracal.core.analysis.detectors.text_detection import WordsDetector
from caracal.core.analysis.tracking.flow import FlowFinder, box_move
from caracal.core.analysis.tracking.global_motion import global_move
from caracal.core.analysis.tracking.motion_maps import MotionLook, MotionMaker
from caracal.core.analysis.tracking.sightings import ShotDetections, Sighting
from caracal.core.base.geometry import Box, overlap
from caracal.core.media.planes import Plane, Planes, to_rgb

WAITING_LOOKS = 8  # pictures held for the detectors: bounds memory
DETECTOR_THREADS = 2
CARRIED_S = 1.2  # a thing no longer seen is carried this long; hiding behind a post is shorter
LARGE_PERSON = 0.25  # of the picture's height: smaller people are looked for more closely
NO_FACES = 0.25  # of the picture's height: of people smaller than that faces are a few pixels
CLOSELY_S = 2.0  # between two closer looks
SAME_THING = 0.3  # overlap above which a new look replaces what was carried


class Detectors:
    """The detectors on one picture: things first, then faces where people are, then words."""

    def __init__(self) -> None:
        self._faces, self._objects = FaceDetector(1), ObjectDetector(1)
        self._words = WordsDetector(1)

    def find(
        self, picture: Picture, words_too: bool = False, closely: bool = False
    ) -> list[Detection]:
        """Faces, people, animals, things and, if asked, lines of words; boxes in its pixels.

        ``picture`` is (h, w, 3) uint8 RGB. ``closely`` looks for small people as well, where there
        are no large ones.
        """
        lit = brightened(picture)
        was_dark, picture = lit is not picture, lit
        things = self._things(picture, closely, was_dark)
        luma = np.ascontiguousarray(picture[:, :, 1])
        things = [msgspec.structs.replace(
            thing, sharpness=sharpness(luma, thing.box),
            appearance=body_colour(picture, thing.box) if thing.kind == "person" else ())
            for thing in things]
        people = [thing.box for thing in things if thing.kind == "person"]
        words = self._words.find(picture) if words_too else []
        crowd = len(people) > MOST_HEADS and max(box[3] for box in people) < (
            NO_FACES * picture.shape[0])  # in a wide view of many no face can be seen
        faces = [msgspec.structs.replace(detection, appearance=describe(picture, detection.box))
                 for detection in ([] if crowd else self._faces.find_near(picture, people))]
        return [*faces, *things, *words]

    def _things(self, picture: Picture, closely: bool, was_dark: bool) -> list[Detection]:
        found = self._objects.find(picture, brightened=was_dark)
        large = any(detection.kind == "person" and detection.score >= SURE_SCORE
                    and detection.box[3] >= LARGE_PERSON * picture.shape[0] for detection in found)
        if large or not closely:
            return found
        near = self._objects.find(picture, LARGE_INPUT, was_dark)
        return near + [detection for detection in found if not any(
            detection.kind == other.kind and overlap(detection.box, other.box) > SAME_THING
            for other in near)]


def shrunk(luma: Plane, flow: FlowFinder) -> tuple[Plane, Plane]:
    """``luma`` of the looked-at size, halved, and at the size ``flow`` is found on."""
    half = np.asarray(cv2.resize(luma, (luma.shape[1] // 2, luma.shape[0] // 2),
                                 interpolation=cv2.INTER_AREA), np.uint8)
    return half, flow.shrink(half)


class DetectionPass:
    """Give it every frame in order, and at times a picture for the detectors.

    The caller, the pool of detectors and the following thread share its state, so it has more
    attributes than a class should have.
    """

    def __init__(
        self, small: tuple[int, int], master: tuple[int, int], rate: float, first: int = 0
    ) -> None:
        """``small`` and ``master`` are the (width, height) of looked-at pictures and the film.

        ``first`` is the number of the first frame that will come.
        """
        self._flow = FlowFinder(*small)
        self._scale = (master[0] / small[0], master[1] / small[1])
        self._tiny = (master[0] / self._flow.size[0], master[1] / self._flow.size[1])
        self._longest = round(CARRIED_S * rate)
        self._first = first
        self._closely, self._looked_closely = CLOSELY_S * rate, -1e9
        self._pool = ThreadPoolExecutor(DETECTOR_THREADS, thread_name_prefix="look")
        self._looker = self._pool.submit(Detectors)  # beside the first pictures' decode
        self._room = threading.Semaphore(WAITING_LOOKS)
        self._steps: queue.Queue[_Step | None] = queue.Queue()
        self._looks: list[tuple[int, list[_Carried]]] = []
        self._words: list[tuple[int, list[Detection]]] = []
        self._attention = AttentionMaker()
        self._since_map = (0.0, 0.0)  # how far the background moved since the last map
        self._maps: list[tuple[int, Map]] = []  # of attention, at each look
        self._motion = MotionMaker()
        self._motions: list[tuple[int, MotionLook]] = []
        self._camera: list[tuple[float, float]] = []  # by frame, in master pixels
        self._problem: BaseException | None = None
        self._follower = threading.Thread(target=self._run, name="follow", daemon=True)
        self._follower.start()

    def shrink(self, luma: Plane) -> tuple[Plane, Plane]:
        """``luma`` of the looked-at size, halved, and at the size flow is found on."""
        return shrunk(luma, self._flow)

    def step(
        self, number: int, tiny: Plane, half: Plane, small: Planes | None,
        words_too: bool = False,
    ) -> None:
        """The next frame, as :meth:`shrink` makes it; ``small`` if detectors are to look at it.

        Mouths are seen in ``half``.
        """
        found = colour = None
        if small is not None:
            picture, colour = to_rgb(small), (small.u, small.v)
            self._room.acquire()
            closely = number - self._looked_closely >= self._closely
            self._looked_closely = number if closely else self._looked_closely
            found = self._pool.submit(self._look, picture, words_too, closely)
            found.add_done_callback(lambda _: self._room.release())
        self._steps.put(_Step(number, tiny, half, colour, found, words_too))

    def _look(self, picture: Picture, words_too: bool, closely: bool) -> list[Detection]:
        return self._looker.result().find(picture, words_too, closely)

    def finish(self) -> None:
        """Wait until every frame was followed; no more will come."""
        self._end()
        self._check()

    def ready(self, end: int) -> bool:
        """Whether all is known of the frames before ``end``. Raises what a detector raised."""
        self._check()
        return len(self._camera) >= end - self._first

    def _check(self) -> None:
        if self._problem is not None:
            raise self._problem

    def take(self, start: int, end: int) -> ShotDetections:
        """All that was seen in the frames [start, end), which are ready; it is kept no longer."""
        looks = [(frame, [thing.sighting(self._tiny, end - 1 - frame) for thing in carried])
                 for frame, carried in list(self._looks) if start <= frame < end]
        words = [word for word in list(self._words) if start <= word[0] < end]
        maps = [seen for frame, seen in list(self._maps) if start <= frame < end]
        motions = [seen for frame, seen in list(self._motions) if start <= frame < end]
        moves = np.array(self._camera[start - self._first : end - self._first], np.float32)
        for kept in (self._looks, self._words, self._maps, self._motions):
            del kept[: sum(frame < end for frame, _ in kept)]
        return ShotDetections(looks, words, maps, moves.reshape(-1, 2),
                              [seen for seen in motions if seen.first > start])

    def _in_master(self, detection: Detection) -> Detection:
        x, y, w, h = detection.box
        across, down = self._scale
        return Detection(
            detection.kind, detection.score, (x * across, y * down, w * across, h * down)
        )

    def close(self) -> None:
        """Stop all threads; nothing more is found."""
        self._pool.shutdown(cancel_futures=True)
        self._end()

    def _end(self) -> None:
        if self._follower.is_alive():
            self._steps.put(None)
            self._follower.join()

    def _run(self) -> None:
        carried: list[_Carried] = []
        while (step := self._steps.get()) is not None:
            if self._problem is not None:
                continue
            try:
                field = self._flow.add(step.tiny)
                for thing in carried:
                    thing.move(box_move(field, thing.box))
                    thing.watch_mouth(step.half, step.tiny.shape[1])
                self._motion.add(field)
                self._camera_moved(global_move(field, step.tiny, [thing.box for thing in carried]))
                if step.found is not None:
                    motion = self._motion.look(step.number, step.tiny, step.half)
                    self._motions += [(step.number, motion)] if motion is not None else []
                    self._maps.append((step.number, self._attention.score(
                        step.tiny, self._since_map, step.half, step.colour)))
                    self._since_map = (0.0, 0.0)
                    found = step.found.result()
                    if step.words_too:
                        self._words.append(
                            (
                                step.number,
                                [
                                    self._in_master(detection)
                                    for detection in found
                                    if detection.kind == "words"
                                ],
                            )
                        )
                    things = [detection for detection in found if detection.kind != "words"]
                    carried = self._looked(step.number, things, carried)
            except BaseException as problem:  # noqa: BLE001 - raised again by whoever asks
                self._problem = problem

    def _camera_moved(self, move: tuple[float, float]) -> None:
        self._camera.append((move[0] * self._tiny[0], move[1] * self._tiny[1]))
        self._since_map = (self._since_map[0] + move[0], self._since_map[1] + move[1])

    def _looked(
        self, number: int, found: list[Detection], carried: list[_Carried]
    ) -> list[_Carried]:
        seen = [_Carried.begun(detection, self._scale, self._tiny) for detection in found]
        self._looks.append((number, seen))
        kept = [
            thing for thing in carried if len(thing.path) < self._longest
            and not any(thing.kind == other.kind and overlap(thing.box, other.box) > SAME_THING
                        for other in seen)
        ]
        return kept + seen


@dataclass(frozen=True)
class _Step:
    number: int
    tiny: Plane
    half: Plane
    colour: tuple[Plane, Plane] | None
    found: Future[list[Detection]] | None
    words_too: bool


@dataclass
class _Carried:
    """A thing on its way: where it is now and where it was, in tiny pixels."""

    seen: Detection
    box: Box
    path: list[tuple[float, float]] = field(default_factory=list)
    mouth: list[float] = field(default_factory=list)
    face: Plane | None = None  # as it was in the frame before

    @property
    def kind(self) -> str:
        return self.seen.kind

    @classmethod
    def begun(
        cls, seen: Detection, scale: tuple[float, float], tiny: tuple[float, float]
    ) -> _Carried:
        x, y, w, h = seen.box
        box = (x * scale[0], y * scale[1], w * scale[0], h * scale[1])
        return cls(msgspec.structs.replace(seen, box=box),
                   (box[0] / tiny[0], box[1] / tiny[1], box[2] / tiny[0], box[3] / tiny[1]))

    def move(self, step: tuple[float, float]) -> None:
        x, y, w, h = self.box
        self.box = (x + step[0], y + step[1], w, h)
        before = self.path[-1] if self.path else (0.0, 0.0)
        self.path.append((before[0] + step[0], before[1] + step[1]))

    def watch_mouth(self, half: Plane, tiny_width: int) -> None:
        """Compare a face with itself a frame ago."""
        if self.kind != "face":
            return
        last, self.face = self.face, face_part(half, self.box, half.shape[1] / tiny_width)
        self.mouth.append(mouth_change(last, self.face))

    def sighting(self, tiny: tuple[float, float], most: int) -> Sighting:
        """As far as it was carried in ``most`` frames: it may be carried on at this moment."""
        drift = np.asarray(self.path[:most], np.float32).reshape(-1, 2)
        return Sighting(self.seen, drift * np.asarray(tiny, np.float32),
                        np.asarray(self.mouth[:most], np.float32))
