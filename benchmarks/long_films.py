"""A film of two hours and its analysis without two hours of work: the demo, joined to itself.

Pictures, sound and proxy are copied, not encoded again; the analysis is the demo's, repeated. What
grows with a film's length grows as it would, and every frame can be decoded.
"""

import os
import subprocess
from pathlib import Path

import msgspec

from caracal.core.analysis.cache import AnalysisStore, Source, content_key
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.model import Analysis, SoundOutline, Track
from caracal.core.base.resources import DEMO_FILM
from caracal.core.media.probe import probe


def joined_to_itself(film: Path, times: int, out: Path) -> Path:
    """``film`` so many times one after the other, its streams copied."""
    listing = out.with_suffix(".txt")
    listing.write_text(f"file '{film}'\n" * times)
    subprocess.run(["ffmpeg", "-v", "error", "-y", "-f", "concat", "-safe", "0", "-i", listing,
                    "-c", "copy", "-movflags", "+faststart", out], check=True)
    listing.unlink()
    return out


def _later(track: Track, round_: int, frames: int, shots: int, subjects: int) -> Track:
    """``track`` as it is in a later round of the film."""
    return msgspec.structs.replace(
        track, id=track.id + round_ * subjects, subject=track.subject + round_ * subjects,
        shot=track.shot + round_ * shots, first_frame=track.first_frame + round_ * frames,
        gaze=tuple((frame + round_ * frames, way) for frame, way in track.gaze))


def repeated(one: Analysis, times: int, film: Path) -> Analysis:
    """The analysis of ``film``, which is that of ``one`` so many times."""
    master = probe(film)
    frames, shots = one.master.frames, len(one.shots)
    subjects = 1 + max(max(track.id, track.subject) for track in one.tracks)
    seconds = float(frames / one.master.rate)
    peaks = one.sound.peaks[: round(seconds * 10)]
    return msgspec.structs.replace(
        one, content_key=content_key(film), master=master,
        shots=tuple(msgspec.structs.replace(
            shot, start=shot.start + r * frames, end=shot.end + r * frames,
            poster_frame=shot.poster_frame + r * frames,
            transition_span=None if shot.transition_span is None else (
                shot.transition_span[0] + r * frames, shot.transition_span[1] + r * frames))
            for r in range(times) for shot in one.shots),
        tracks=tuple(_later(track, r, frames, shots, subjects)
                     for r in range(times) for track in one.tracks),
        words=tuple(_later(track, r, frames, shots, subjects)
                    for r in range(times) for track in one.words),
        sound=SoundOutline(peaks * times), camera=one.camera * times)


def long_film(folder: Path, times: int) -> Path:
    """The demo so many times, with its analysis in the cache; made once for a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    film = folder / f"demo-{times}-times.mp4"
    if not film.is_file():
        one = analyse(DEMO_FILM)
        joined_to_itself(DEMO_FILM, times, film)
        store = AnalysisStore(content_key(film))
        store.folder.mkdir(parents=True, exist_ok=True)
        joined_to_itself(AnalysisStore(one.content_key).proxy, times, store.proxy)
        store.save(repeated(one, times, film), Source.of(film))
    return film


if __name__ == "__main__":
    os.environ.setdefault("CARACAL_CACHE", "/tmp/caracal-long")
    print(long_film(Path("/tmp/caracal-long/films"), 118))
