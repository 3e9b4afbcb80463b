"""A proxy in segments: readable while it is written, joined without a picture lost or moved."""

import json
import subprocess

import numpy as np

from caracal.core.media.encode import EncoderSettings
from caracal.core.media.segments import SegmentWriter, join_segments, segment_with, segments

SETTINGS = EncoderSettings(width=64, height=36, frame_rate="25/1", encoder="libx264",
                           pixel_format="yuv420p", gop_frames=10,
                           options={"crf": "18", "preset": "ultrafast"})


def picture(number):
    """A grey that tells its number."""
    return (np.full((36, 64), 16 + 3 * number, np.uint8), np.full((18, 32), 128, np.uint8),
            np.full((18, 32), 128, np.uint8))


def written(folder, first, end):
    writer = SegmentWriter(folder, SETTINGS, first)
    for number in range(first, end):
        writer.write_picture(picture(number))
    return writer


def test_segments_grow_and_each_that_is_closed_can_be_read(tmp_path):
    """The first lasts 0.4 s; each is as long as all before it, up to 2 s."""
    writer = written(tmp_path, 0, 75)
    assert [start for start, _ in segments(tmp_path)] == [0, 10, 20]
    assert writer.readable_to == 40 and len(list(tmp_path.glob("*.part"))) == 1
    assert segment_with(tmp_path, 19)[0] == 10 and segment_with(tmp_path, 500)[0] == 20
    writer.finish()
    assert [start for start, _ in segments(tmp_path)] == [0, 10, 20, 40]
    assert writer.readable_to == 75


def test_what_is_gone_on_with_is_written_anew_from_there(tmp_path):
    written(tmp_path, 0, 75).abandon()
    assert not list(tmp_path.glob("*.part"))
    writer = written(tmp_path, 20, 30)
    assert [start for start, _ in segments(tmp_path)] == [0, 10, 20] and writer.readable_to == 30


def test_joined_segments_are_one_film_by_ffprobe_and_ffmpeg(tmp_path):
    folder, film = tmp_path / "parts", tmp_path / "film.mp4"
    written(folder, 0, 75).finish()
    join_segments(folder, film, SETTINGS)
    rows = json.loads(subprocess.run(
        ["ffprobe", "-v", "error", "-show_entries", "frame=pts_time", "-of", "json", film],
        capture_output=True, check=True).stdout)["frames"]
    times = [float(row["pts_time"]) for row in rows]
    assert np.allclose(times, np.arange(75) / 25, atol=1e-3)
    luma = np.frombuffer(subprocess.run(
        ["ffmpeg", "-v", "error", "-i", film, "-f", "rawvideo", "-pix_fmt", "gray", "-"],
        capture_output=True, check=True).stdout, np.uint8).reshape(75, -1).mean(axis=1)
    # FFmpeg's gray has full range: (Y - 16) * 255 / 219 (ITU-R BT.709-6, 3.4, as common practice).
    assert np.allclose(luma, np.clip(np.arange(75) * 3 * 255 / 219, 0, 255), atol=3)
