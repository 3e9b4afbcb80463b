"""Makes the demo film, its sidecars and its ground truth in one run."""

from __future__ import annotations

import json
import os
from pathlib import Path

import av
import numpy as np

from caracal.core.base.time import samples_at
from caracal.core.base.work import ProgressReporter, Report, no_progress
from caracal.core.media.encode import EncoderSettings, MovieWriter, SoundSettings
from caracal.core.media.planes import planes_of, tag_bt709
from demo.paint import Mark
from demo.script import FPS

NAME = "kiln-day-at-marram-quay"
SETTINGS = EncoderSettings(
    width=1920, height=1080, frame_rate=f"{FPS}/1", encoder="libx264", pixel_format="yuv420p",
    gop_frames=2 * FPS, options={"preset": "slow", "crf": "19", "profile": "high", "refs": "4"},
    sound=SoundSettings("aac", 48000, 2, 160), container_options={"movflags": "+faststart"},
)


def make_demo(folder: Path, report: Report = no_progress) -> Path:
    """Write film, SRT, EDL and ground truth into ``folder``; returns the film's path."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtGui import QGuiApplication  # noqa: PLC0415 - fonts need an application

    from demo import film, shots, sidecars, voices  # noqa: PLC0415

    application = QGuiApplication.instance() or QGuiApplication([])
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{NAME}.mp4"
    sound = voices.soundtrack(shots.FILM_FRAMES)
    writer = MovieWriter(path, SETTINGS)
    watch = ProgressReporter("Drawing the demo film", shots.FILM_FRAMES, report)
    marks: list[tuple[int, list[Mark]]] = []
    for number, picture, index, seen in film.frames():
        marks.append((index, seen))
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="bgr24")
        ready = frame.reformat(format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG")
        tag_bt709(ready)
        planes = planes_of(ready)
        writer.write_picture((planes.y, planes.u, planes.v))
        first, last = (samples_at(n, writer.rate, 48000) for n in (number, number + 1))
        writer.write_sound(sound[first:last])
        watch.at(number + 1)
    writer.finish()
    (folder / f"{NAME}.srt").write_text(sidecars.captions(), encoding="utf-8")
    (folder / f"{NAME}.edl").write_text(sidecars.cut_list(), encoding="utf-8")
    truth = json.dumps(film.truth(marks), separators=(",", ":"))
    (folder / f"{NAME}.truth.json").write_text(truth + "\n", encoding="utf-8")
    del application
    return path
