"""Every frame of the film in order, with its ground truth: shots, cuts, boxes."""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QImage

from demo.paint import Mark
from demo.script import FPS
from demo.shots import FILM_FRAMES, STORYBOARD, Shot, draw_shot

Picture = NDArray[np.uint8]


def shot_starts() -> list[int]:
    """First frame of each shot; a dissolve is centred on it."""
    starts, at = [], 0
    for shot in STORYBOARD:
        starts.append(at)
        at += shot.frames
    return starts


def dissolves() -> list[tuple[int, int]]:
    """Frame spans [start, end) in which two shots are mixed."""
    return [
        (start - shot.dissolve_in // 2, start + shot.dissolve_in // 2)
        for start, shot in zip(shot_starts(), STORYBOARD, strict=True) if shot.dissolve_in
    ]


def draw_frame(number: int) -> tuple[Picture, int, list[Mark]]:
    """Frame ``number``: BGR picture (1080, 1920, 3), its shot's index, and what is in it."""
    starts = shot_starts()
    index = max(i for i, start in enumerate(starts) if start <= number)
    picture, marks = _plain(index, number - starts[index], number)
    for start, end in dissolves():
        if start <= number < end:
            incoming = starts.index((start + end) // 2)
            other_index = incoming if index != incoming else incoming - 1
            other, _ = _plain(other_index, number - starts[other_index], number)
            share = (number - start + 1) / (end - start + 1)
            into, out = (picture, other) if index == incoming else (other, picture)
            mixed = cv2.addWeighted(into, share, out, 1 - share, 0.0)
            picture = np.asarray(mixed, np.uint8)
    return picture, index, marks


def _plain(index: int, frame: int, number: int) -> tuple[Picture, list[Mark]]:
    image, scene = draw_shot(index, frame, number / FPS)
    return _array(image), scene.marks


def _array(image: QImage) -> Picture:
    view = np.frombuffer(image.constBits(), np.uint8).reshape(
        image.height(), image.bytesPerLine() // 4, 4)
    return np.ascontiguousarray(view[:, : image.width(), :3])


def frames() -> Iterator[tuple[int, Picture, int, list[Mark]]]:
    """All frames as (number, picture, shot index, marks)."""
    for number in range(FILM_FRAMES):
        yield (number, *draw_frame(number))


def truth(marks_by_frame: list[tuple[int, list[Mark]]]) -> dict[str, object]:
    """The ground truth as plain data, from each frame's (shot index, marks)."""
    tracks: dict[tuple[int, str, str], list[list[float]]] = {}
    for frame, (index, marks) in enumerate(marks_by_frame):
        for mark in marks:
            tracks.setdefault((index, mark.identity, mark.kind), []).append([frame, *mark.box])
    starts = [*shot_starts(), FILM_FRAMES]
    soft = {(start + end) // 2 for start, end in dissolves()}
    return {
        "film": "Kiln Day at Marram Quay", "width": 1920, "height": 1080,
        "frame_rate": f"{FPS}/1", "frames": FILM_FRAMES,
        "hard_cuts": [start for start in starts[1:-1] if start not in soft],
        "dissolves": [{"start": start, "end": end} for start, end in dissolves()],
        "shots": [_shot_truth(i, shot, starts) for i, shot in enumerate(STORYBOARD)],
        "tracks": [
            {"shot": index, "identity": identity, "kind": kind, "boxes": boxes}
            for (index, identity, kind), boxes in tracks.items()
        ],
    }


def _shot_truth(index: int, shot: Shot, starts: list[int]) -> dict[str, object]:
    return {
        "name": shot.name, "start": starts[index], "end": starts[index + 1], "lead": shot.lead,
        "single_lead": shot.single, "still_window_serves": shot.still_serves,
    }
