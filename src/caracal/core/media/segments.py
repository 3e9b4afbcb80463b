"""A proxy while it is written: short movie files in a folder, each named by its first frame.

Every one that is closed can be read at once, and when the work is stopped none is lost. At the
end they are joined into one file without encoding anything again.
"""

from __future__ import annotations

from contextlib import suppress
from fractions import Fraction
from pathlib import Path

from caracal.core.media.av_errors import opened, reading
from caracal.core.media.encode import EncoderSettings, MovieWriter
from caracal.core.media.planes import Plane

FIRST_S, LONGEST_S = 0.4, 2.0  # a segment is as long as all before it, between these
OPEN = ".part"  # the suffix of the one that is being written


class SegmentWriter:
    """Writes pictures into segments in ``folder``, the first one being frame ``first``.

    What lies there of that frame and later ones is written anew.
    """

    def __init__(self, folder: Path, settings: EncoderSettings, first: int) -> None:
        self._folder, self._settings = folder, settings
        self._rate = float(Fraction(settings.frame_rate))
        self._first = self._start = self._next = first
        self._writer: MovieWriter | None = None
        self.readable_to = first  # the frame after the last that can be read
        folder.mkdir(parents=True, exist_ok=True)
        for start, path in segments(folder):
            if start >= first:
                path.unlink()
        for path in folder.glob(f"*{OPEN}"):
            path.unlink()

    def write_picture(self, planes: tuple[Plane, Plane, Plane]) -> None:
        """Encode the next picture. Raises StorageError when the disk is full."""
        if self._writer is None:
            self._open.unlink(missing_ok=True)  # a link there would be written through
            self._writer = MovieWriter(self._open, self._settings)
        self._writer.write_picture(planes)
        self._next += 1
        written = min(max(self._start - self._first, FIRST_S * self._rate), LONGEST_S * self._rate)
        if self._next - self._start >= written:
            self.finish()

    @property
    def _open(self) -> Path:
        return self._folder / f"{self._start:09d}{OPEN}"

    def finish(self) -> None:
        """Close the segment at hand: all that was written can be read."""
        if self._writer is None:
            return
        writer, self._writer = self._writer, None
        writer.finish()
        self._open.replace(self._open.with_suffix(".mp4"))
        self._start = self.readable_to = self._next

    def abandon(self) -> None:
        """Leave the segment at hand; those before it stay."""
        if self._writer is not None:
            self._writer.abandon()
            self._writer = None
        with suppress(OSError):
            self._open.unlink(missing_ok=True)


def segments(folder: Path) -> list[tuple[int, Path]]:
    """The closed segments in ``folder`` with their first frames, in order."""
    found = [(int(path.stem), path) for path in folder.glob("*.mp4") if path.stem.isdigit()]
    return sorted(found)


def segment_with(folder: Path, frame: int) -> tuple[int, Path] | None:
    """The closed segment that may hold ``frame``, with its first frame."""
    return max((segment for segment in segments(folder) if segment[0] <= frame), default=None)


def join_segments(folder: Path, path: Path, settings: EncoderSettings) -> None:
    """All segments in ``folder`` as one movie at ``path``; nothing is encoded again.

    Raises InputError when one cannot be read, StorageError when ``path`` cannot be written.
    """
    writer: MovieWriter | None = None
    path.unlink(missing_ok=True)  # a link there would be written through
    for start, part in segments(folder):
        with reading(part), opened(part) as container:
            stream = container.streams.video[0]
            writer = writer or MovieWriter(path, settings, stream)
            for packet in container.demux(stream):
                if packet.size:
                    writer.copy_picture(packet, start)
    if writer is not None:
        writer.finish()
