"""The films of filmed.py, made of filmed clips."""

import math
import subprocess
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

from caracal.core.media.encode import EncoderSettings, MovieWriter
from filmed_clips import clip
from stress import planes_of_bgr

SIZE = (1920, 1080)
BIKES_CUTS = (30, 76, 137, 187, 242)
HEAD = (86, 57, 32, 46)  # carphone: middle and half axes of the talker's head at first, by eye
FACE = (61, 38, 49, 60)  # and the face, x, y, w, h, by eye
STILL_FRAMES = 17  # of carphone in which the head stays within three of its pixels
Box = tuple[float, float, float, float]
Pictures = list[np.ndarray]


@dataclass
class Film:
    """A film on disk and what is true of it."""

    name: str
    path: Path
    cuts: list[int] = field(default_factory=list)
    dissolves: list[tuple[int, int]] = field(default_factory=list)
    faces: dict[int, Box] = field(default_factory=dict)  # by frame, in master pixels
    heads: dict[int, Box] = field(default_factory=dict)


def pictures(path: Path) -> Pictures:
    """All frames of a clip, BGR."""
    capture, made = cv2.VideoCapture(str(path)), []
    while (got := capture.read())[0]:
        made.append(got[1])
    return made


def filled(picture: np.ndarray, size: tuple[int, int] = SIZE) -> np.ndarray:
    """``picture`` enlarged until it fills ``size``, its middle kept."""
    scale = max(size[0] / picture.shape[1], size[1] / picture.shape[0])
    large = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
    x, y = (large.shape[1] - size[0]) // 2, (large.shape[0] - size[1]) // 2
    return large[y : y + size[1], x : x + size[0]]


def letterboxed(picture: np.ndarray) -> np.ndarray:
    """``picture`` as wide as the film, black above and below."""
    scale = SIZE[0] / picture.shape[1]
    wide = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
    made = np.zeros((SIZE[1], SIZE[0], 3), np.uint8)
    top = (SIZE[1] - wide.shape[0]) // 2
    made[top : top + wide.shape[0]] = wide
    return made


def write(film: Film, made: Pictures) -> Film:
    """Encode ``made`` at 25 fps, about 5 Mb/s."""
    writer = MovieWriter(film.path, EncoderSettings(
        width=SIZE[0], height=SIZE[1], frame_rate="25/1", encoder="libx264",
        pixel_format="yuv420p", gop_frames=50, options={"preset": "veryfast", "crf": "21"}))
    for picture in made:
        writer.write_picture(planes_of_bgr(picture))
    writer.finish()
    return film


def joined(folder: Path, clips: dict[str, Pictures]) -> Film:
    """Everything one after the other: hard cuts, dissolves of three lengths, a jump cut."""
    film = Film("joined", folder / "joined.mp4")
    bikes = [filled(array) for array in clips["bikes"]]
    bunny = [filled(array) for array in clips["bigbuckbunny"]]
    phone = [filled(array) for array in clips["carphone_pristine"]]
    parts = [(bikes[:242], BIKES_CUTS[:4], 0), (bunny[:80], (), 12), (phone[:36], (), 0),
             (phone[84:], (), 0), (bikes[140:186], (), 25), (bunny[80:], (), 0)]
    if "vtest" in clips:
        street = [filled(array) for array in clips["vtest"][:120]]
        parts += [(street, (), 18), (phone[40:80], (), 0)]
    made: Pictures = []
    for part, inside, mix in parts:
        start = len(made) - mix
        for k in range(mix):
            share = (k + 1) / (mix + 1)
            made[start + k] = cv2.addWeighted(part[k], share, made[start + k], 1 - share, 0)
        if mix:
            film.dissolves.append((start, start + mix))
        elif made:
            film.cuts.append(len(made))
        film.cuts += [start + cut for cut in inside]
        made += part[mix:]
    return write(film, made)


def shaken(folder: Path, clips: dict[str, Pictures]) -> Film:
    """The talker in a hand-held camera: two slow sines and a fast one, 1.5 % of the width."""
    made = []
    for number, array in enumerate(clips["carphone_pristine"]):
        large, s = filled(array, (2020, 1136)), number / 25
        x = 50 + 22 * math.sin(2.1 * s) + 6 * math.sin(11 * s)
        y = 28 + 14 * math.sin(2.9 * s + 1) + 5 * math.sin(13 * s)
        made.append(cv2.warpAffine(large, np.array([[1, 0, -x], [0, 1, -y]], np.float32), SIZE))
    return write(Film("shaken", folder / "shaken.mp4"), made)


def heads(folder: Path, clips: dict[str, Pictures]) -> Film:
    """A talker's head over real backdrops: still, walking, crossing quickly, too large."""
    film = Film("heads", folder / "heads.mp4")
    backdrops = [clips["bikes"][140:187], clips["bigbuckbunny"][:100],
                 clips.get("vtest", clips["bikes"])[:140], clips["bikes"][190:240],
                 clips["bikes"][190:240]]
    shots = [  # name, frames, scale, x of the head's middle by t (0..1)
        ("still", 150, 5.0, lambda t: 1300 + 14 * math.sin(9 * t)),
        ("walks, stops, returns", 200, 5.0, lambda t: 500 + 900 * math.sin(math.pi * t) ** 2),
        ("crosses in a second and a half", 90, 4.0, _quick),
        ("sits, and leaps across", 130, 5.0, _leap),
        ("larger than the window", 125, 13.5, lambda t: 900 + 25 * math.sin(7 * t)),
    ]
    made: Pictures = []
    for (_, count, scale, place), backdrop in zip(shots, backdrops, strict=True):
        if made:
            film.cuts.append(len(made))
        # One look of the backdrop: whatever else moves in it would be another lead.
        ground = cv2.GaussianBlur(filled(backdrop[len(backdrop) // 2]), (0, 0), 3)
        for k in range(count):
            middle = (place(k / count), 560.0 if scale < 10 else 600.0)
            frame = len(made)
            source = clips["carphone_pristine"][_to_and_fro(k)]
            made.append(_pasted(ground, source, scale, middle))
            x, y, w, h = FACE
            film.faces[frame] = (middle[0] + (x - HEAD[0]) * scale,
                                 middle[1] + (y - HEAD[1]) * scale, w * scale, h * scale)
            half = (HEAD[2] * scale, HEAD[3] * scale)
            film.heads[frame] = (middle[0] - half[0], middle[1] - half[1], 2 * half[0], 2 * half[1])
    return write(film, made)


def _quick(t: float) -> float:
    """Outside on the left, across in 37 of 90 frames, outside on the right."""
    return -300 + 2520 * min(max((t * 90 - 20) / 37, 0.0), 1.0)


def _leap(t: float) -> float:
    """At the left for 2.4 s, across in ten frames, at the right."""
    share = min(max((t * 130 - 60) / 10, 0.0), 1.0)
    return 420 + 1080 * share * share * (3 - 2 * share)


def _to_and_fro(k: int) -> int:
    at = k % (2 * STILL_FRAMES - 2)
    return at if at < STILL_FRAMES else 2 * STILL_FRAMES - 2 - at


def _pasted(
    ground: np.ndarray, source: np.ndarray, scale: float, middle: tuple[float, float]
) -> np.ndarray:
    """The head of ``source`` over ``ground``, its middle at ``middle``, soft at its rim."""
    move = np.array([[scale, 0, middle[0] - HEAD[0] * scale],
                     [0, scale, middle[1] - HEAD[1] * scale]], np.float32)
    large = cv2.warpAffine(source, move, SIZE, flags=cv2.INTER_CUBIC)
    mask = np.zeros(source.shape[:2], np.float32)
    cv2.ellipse(mask, HEAD[:2], HEAD[2:], 0, 0, 360, 1.0, -1, cv2.LINE_AA)
    alpha = cv2.warpAffine(cv2.GaussianBlur(mask, (0, 0), 1.2), move, SIZE)[..., None]
    return (large * alpha + ground * (1 - alpha)).astype(np.uint8)


def fetched(folder: Path) -> Path:
    """Debian's vtest.avi, unpacked into ``folder``."""
    subprocess.run(["apt-get", "download", "-q", "opencv-doc"], cwd=folder, check=True,
                   capture_output=True)
    package = next(folder.glob("opencv-doc_*.deb"))
    name = "./usr/share/doc/opencv-doc/examples/data/vtest.avi"
    listed = subprocess.run(["dpkg-deb", "--fsys-tarfile", str(package)], check=True,
                            capture_output=True)
    subprocess.run(["tar", "-x", "-C", str(folder), name], input=listed.stdout, check=True)
    return folder / name


def films(folder: Path, short: bool) -> list[Film]:
    """All films, made in ``folder``."""
    clips = {name: pictures(clip(name)) for name in ("bikes", "bigbuckbunny", "carphone_pristine")}
    made = []
    if not short:
        clips["vtest"] = pictures(fetched(folder))
        street = [filled(array) for array in clips["vtest"][:300]]
        made.append(write(Film("street", folder / "street.mp4"), street))
        made.append(write(Film("letterboxed", folder / "letterboxed.mp4", list(BIKES_CUTS)),
                          [letterboxed(array) for array in clips["bikes"]]))
        made.append(write(Film("one animal", folder / "one animal.mp4"),
                          [filled(array) for array in clips["bigbuckbunny"]]))
        made.append(shaken(folder, clips))
    return [joined(folder, clips), heads(folder, clips), *made]
