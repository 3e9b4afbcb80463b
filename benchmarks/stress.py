"""Films drawn to be hard, one a seed: crossings, hiding, entering, size change, shake, pan, noise,
low light, other rates, letterbox, 4K. Prints containment, IDF1, MOTA, cuts and dissolves.

    PYTHONPATH=tools .venv/bin/python benchmarks/stress.py [SEEDS [FOLDER TO KEEP THE FILMS IN]]

IDF1 (Ristani et al. 2016) and MOTA (Bernardin and Stiefelhagen 2008) are worked out by the
motmetrics package; cuts are right within 1 frame, dissolves when their middle lies in the true one.
"""

import math
import pickle
import random
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import cv2
import motmetrics
import numpy as np
from av.video.reformatter import ColorRange, Colorspace
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.model import Transition
from caracal.core.media.encode import EncoderSettings, MovieWriter
from caracal.core.media.planes import view
from demo import places
from demo.face import Expression, Person
from demo.figure import Pose, stride
from demo.paint import Mark, Scene
from demo.shots import place_person
from stress_judge import PEOPLE, SHAPES, Drawn, _judged, contained, f1, followed

WIDE, HIGH, WORLD = 1920, 1080, 3200  # the world is wider than the picture: pans
SHOT_S, DISSOLVE_S = 2.6, 0.8
RATES = ("25/1", "24/1", "30000/1001", "60/1")
ACTIONS = ("talk", "cross", "hide", "enter", "approach", "follow")


def world(seed: int) -> np.ndarray:
    """A backdrop (1080, 3200, 3) BGR: a quay, a workshop or a marsh, as the demo draws them."""
    image = QImage(WORLD, HIGH, QImage.Format.Format_RGB32)
    p = QPainter(image)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    if seed % 3 == 0:
        places.sky(p, WORLD, 520, 300 + 500 * (seed % 5))
        places.sea(p, 520, 720, WORLD, seed)
        places.paving(p, 720, WORLD, seed + 1)
        for i in range(5):
            places.stall(p, 350 + 640 * i + 37 * (seed % 7), 760, 0.62,
                         "#b5533a" if i % 2 else "#3f6f73")
    else:
        for i in range(2):
            (places.workshop(p, seed + i) if seed % 3 == 1 else places.marsh(p))
            p.translate(WIDE, 0)
    p.end()
    return np.ascontiguousarray(pixels(image)[:, :, :3])


def pixels(image: QImage) -> np.ndarray:
    """The image's memory as (h, w, 4) BGRA."""
    flat = np.frombuffer(image.constBits(), np.uint8)
    return flat.reshape(image.height(), image.bytesPerLine() // 4, 4)[:, : image.width()]


@dataclass
class Shot:
    """One shot: what happens, who is in it, and what the camera does."""

    action: str
    who: tuple[Person, ...]
    backdrop: np.ndarray
    origin: float
    shake: float
    way: int
    frames: int

    def draw(self, t: float, second: float) -> tuple[np.ndarray, list[Mark]]:
        """The picture (1080, 1920, 3) BGR at ``t`` (0..1) and who is where in it."""
        camera = self.origin + (self.way * 900 * t if self.action == "follow" else 0.0)
        jolt = (self.shake * math.sin(second * 11.0), self.shake * math.sin(second * 7.3 + 1))
        move = np.array([[1, 0, -camera + jolt[0]], [0, 1, jolt[1]]], np.float32)
        made = cv2.warpAffine(self.backdrop, move, (WIDE, HIGH), flags=cv2.INTER_LINEAR,
                              borderMode=cv2.BORDER_REPLICATE)
        image = QImage(WIDE, HIGH, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(0)
        p = QPainter(image)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.translate(*jolt)
        scene = Scene(p, WIDE, HIGH)
        self._people(scene, t, second)
        p.end()
        layer = pixels(image)
        used = np.nonzero(cv2.resize(layer[:, :, 3], (WIDE // 8, 1), interpolation=cv2.INTER_AREA))
        if len(used[1]):
            part = slice(max(0, 8 * int(used[1].min()) - 8), 8 * int(used[1].max()) + 16)
            alpha = layer[:, part, 3:].astype(np.uint16)
            mixed = (made[:, part].astype(np.uint16) * (255 - alpha) + 127) // 255
            made[:, part] = np.minimum(mixed + layer[:, part, :3], 255)
        return made, [m for m in scene.marks if m.kind == "person"]

    def _people(self, scene: Scene, t: float, second: float) -> None:
        first, other = self.who[0], self.who[1]
        if self.action == "talk":
            look = Expression(0.2 * self.way, abs(math.sin(second * 9)), 0, 0.4)
            place_person(scene, first, 960 + 420 * self.way, 430, 78, Pose(), look)
        elif self.action == "cross":
            self._walk(scene, other, 1500 - 1080 * t if self.way > 0 else 420 + 1080 * t, 46,
                       -self.way, second)
            self._walk(scene, first, 420 + 1080 * t if self.way > 0 else 1500 - 1080 * t, 50,
                       self.way, second)
        elif self.action == "hide":
            self._walk(scene, first, 960 + self.way * (900 * t - 450), 48, self.way, second)
            scene.painter.fillRect(QRectF(890, -20, 140, HIGH + 40), QColor("#5d5148"))
        elif self.action == "enter":
            self._walk(scene, first, 960 - self.way * (1150 - 1300 * min(t * 1.3, 1.0)), 50,
                       self.way, second, walking=t < 0.77)
        elif self.action == "approach":
            place_person(scene, first, 960 + self.way * (300 - 160 * t), 470 - 90 * t, 30 + 42 * t,
                    stride(second * 1.6, 1, 0.0), Expression(0, 0, 0, 0.3))
        else:
            self._walk(scene, first, 900 + 60 * math.sin(t * 5), 50, self.way, second)

    @staticmethod
    def _walk(scene: Scene, who: Person, x: float, unit: float, way: int, second: float,
              walking: bool = True) -> None:
        pose = stride(second * 1.5, way, 0.1) if walking else Pose()
        look = Expression(0.7 * way, 0, 0, 0.3)
        place_person(scene, who, x, 1000 - unit * 12.3, unit, pose, look)


def storyboard(seed: int, rate: float) -> list[Shot]:
    """Five shots of different actions."""
    rng = random.Random(seed)
    actions = rng.sample(ACTIONS, 5)
    made, backdrops = [], [world(seed + i) for i in range(3)]
    for i, action in enumerate(actions):
        who = tuple(rng.sample(PEOPLE, 2))
        made.append(Shot(action, who, backdrops[i % 3], rng.uniform(950, 1200),
                         rng.choice((0.0, 0.0, 5.0, 9.0)), rng.choice((-1, 1)),
                         round(SHOT_S * rate)))
    return made


def draw_film(seed: int, folder: Path) -> Drawn:
    """Draw, degrade and encode the film of ``seed``."""
    rng = np.random.default_rng(seed)
    rate = RATES[seed % len(RATES)]
    noise, dark = (0, 6, 14)[seed % 3], seed % 5 == 1
    boxed, large = seed % 6 == 2, seed % 8 == 3
    shots = storyboard(seed, float(Fraction(rate)))
    about = ", ".join(filter(None, (
        rate, f"noise {noise}" if noise else "", "low light" if dark else "",
        "letterboxed" if boxed else "", "4K" if large else "",
        "+".join(shot.action for shot in shots))))
    film = Drawn(folder / f"stress {seed}.mp4", about)
    size = (3840, 2160) if large else (WIDE, HIGH)
    grains = [rng.normal(0, noise, (HIGH, WIDE, 1)).astype(np.int16) for _ in range(5)]
    writer = MovieWriter(film.path, EncoderSettings(
        width=size[0], height=size[1], frame_rate=rate, encoder="libx264", pixel_format="yuv420p",
        gop_frames=50, options={"preset": "ultrafast", "crf": "20"}))
    for picture, marks in _mixed(shots, film, float(Fraction(rate)), rng):
        made, held = picture, marks
        if boxed:
            made, held = _letterboxed(made, held)
        if dark:
            made = cv2.convertScaleAbs(made, alpha=0.35, beta=4)
        if noise:
            grain = grains[len(film.marks) % len(grains)]
            made = np.clip(made.astype(np.int16) + grain, 0, 255).astype(np.uint8)
        if large:
            made = cv2.resize(made, size, interpolation=cv2.INTER_CUBIC)
            held = [Mark(m.identity, m.kind, tuple(2 * v for v in m.box)) for m in held]
        film.marks.append(held)
        writer.write_picture(planes_of_bgr(made))
    writer.finish()
    return film


def _mixed(shots: list[Shot], film: Drawn, rate: float, rng: np.random.Generator):
    """The film's pictures: shot after shot, some joined by dissolves."""
    soft = round(DISSOLVE_S * rate)
    at, tail = 0, []
    for i, shot in enumerate(shots):
        dissolve = i + 1 < len(shots) and rng.random() < 0.3
        extra = soft if dissolve else 0
        if i:
            if tail:
                film.dissolves.append((at, at + soft))
            else:
                film.cuts.append(at)
        head, tail = tail, []
        for frame in range(shot.frames + extra):
            picture, marks = shot.draw(min(1.0, frame / shot.frames), (at + frame) / rate)
            if frame >= shot.frames:
                tail.append((picture, marks))
                continue
            if frame < len(head):
                share = (frame + 1) / (len(head) + 1)
                picture = cv2.addWeighted(picture, share, head[frame][0], 1 - share, 0)
                marks = marks if share > 0.5 else head[frame][1]
            yield picture, marks
        at += shot.frames


def _letterboxed(picture: np.ndarray, marks: list[Mark]) -> tuple[np.ndarray, list[Mark]]:
    """2.39:1 in 16:9: the picture's middle rows with black above and below."""
    made = picture.copy()
    made[:138], made[941:] = 0, 0
    held = []
    for mark in marks:
        x, y, w, h = mark.box
        top, bottom = max(y, 138.0), min(y + h, 941.0)
        if bottom > top:
            held.append(Mark(mark.identity, mark.kind, (x, top, w, bottom - top)))
    return made, held


def planes_of_bgr(picture: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """BGR as limited-range BT.709 planes."""
    frame = av.VideoFrame.from_ndarray(picture, format="bgr24").reformat(
        format="yuv420p", src_color_range=ColorRange.JPEG, dst_color_range=ColorRange.MPEG,
        dst_colorspace=Colorspace.ITU709)
    y, u, v = (view(plane) for plane in frame.planes)
    return y, u, v


def kept_film(seed: int, folder: Path) -> Drawn:
    """The film of ``seed``, drawn unless ``folder`` holds it."""
    kept = folder / f"stress {seed}.pickle"
    if not kept.is_file():
        kept.write_bytes(pickle.dumps(draw_film(seed, folder)))
    return pickle.loads(kept.read_bytes())


def main(seeds: int, folder: Path | None) -> None:
    """Draw, analyse and judge ``seeds`` films; ``folder`` keeps them for the next time."""
    judge = motmetrics.MOTAccumulator(auto_id=True)
    kept: dict[str, list[bool]] = {name: [] for name in SHAPES}
    cuts, soft = np.zeros(3, int), np.zeros(3, int)
    with tempfile.TemporaryDirectory() as name, ProcessPoolExecutor(2) as pool:
        folders = [folder or Path(name)] * seeds
        for seed, film in enumerate(pool.map(kept_film, range(seeds), folders)):
            analysis = analyse(film.path, root=Path(name) / "cache")
            here = contained(film, analysis)
            for shape, values in here.items():
                kept[shape] += values
            alone = motmetrics.MOTAccumulator(auto_id=True)
            followed(film, analysis, alone, seed)
            followed(film, analysis, judge, seed)
            hard = [s.start for s in analysis.shots if s.transition_in is Transition.CUT]
            mixes = [s.start for s in analysis.shots if s.transition_in is Transition.DISSOLVE]
            right = sum(any(abs(a - b) <= 1 for b in hard) for a in film.cuts)
            mixed = sum(any(a <= m < b for m in mixes) for a, b in film.dissolves)
            cuts += (right, len(hard), len(film.cuts))
            soft += (mixed, len(mixes), len(film.dissolves))
            print(f"{seed:3} {np.mean(here['9:16']):6.1%} kept, IDF1 {_judged(alone)['idf1']:.3f}, "
                  f"cuts {right}/{len(film.cuts)} ({len(hard)} found), dissolves {mixed}/"
                  f"{len(film.dissolves)} ({len(mixes)} found)  {film.about}", flush=True)
    all_found = _judged(judge)
    for shape, values in kept.items():
        print(f"{shape}: lead's true box kept in {np.mean(values):.2%} of {len(values)} frames "
              "(goal 98 %)")
    print(f"IDF1 {all_found['idf1']:.3f} (goal 0.90), MOTA {all_found['mota']:.3f}, "
          f"{all_found['num_switches']:.0f} switches")
    print(f"hard cuts F1 {f1(*cuts):.3f} (goal 0.99), dissolves F1 {f1(*soft):.3f} (goal 0.85)")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20,
         Path(sys.argv[2]) if len(sys.argv) > 2 else None)
