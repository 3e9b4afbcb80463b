"""Progress, the cache, the encoder's process, and full disks."""

import errno
import os
from pathlib import Path

import pytest

from caracal.core.analysis.analyse import analyse
from caracal.core.analysis.cache import AnalysisStore, content_key
from caracal.core.errors import Cancelled, InputError, PlaceError
from caracal.core.media.gate import place_error, writing
from caracal.core.time import short_time
from caracal.core.work import CancelToken, Stopwatch
from conftest import write_film


def test_progress_ends_at_the_end_and_is_sparse():
    told = []
    watch = Stopwatch("Working", 1000, told.append)
    for done in range(1, 1001):
        watch.at(done)
    assert told[-1].done == told[-1].total == 1000 and len(told) < 50
    assert told[-1].share == 1.0


def test_times_for_people():
    assert [short_time(s) for s in (0.4, 65, 3725)] == ["0:00", "1:05", "1:02:05"]


def test_the_cache_knows_content_not_names(tmp_path):
    film = write_film(tmp_path / "one.mp4", frames=30)
    other = tmp_path / "two.mp4"
    other.write_bytes(film.read_bytes())
    assert content_key(film) == content_key(other)
    with other.open("ab") as file:
        file.write(b"x")
    assert content_key(film) != content_key(other)


def test_a_damaged_cache_is_made_again(tmp_path):
    film = write_film(tmp_path / "one.mp4", frames=30)
    first = analyse(film, root=tmp_path / "cache")
    store = AnalysisStore(content_key(film), tmp_path / "cache")
    (store.folder / "analysis.msgpack").write_bytes(b"damaged")
    assert store.load() is None
    again = analyse(film, root=tmp_path / "cache")
    assert again.shots == first.shots


def test_stopping_an_analysis_keeps_nothing(tmp_path):
    film = write_film(tmp_path / "one.mp4", frames=60)
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        analyse(film, cancel=token, root=tmp_path / "cache")
    assert not list((tmp_path / "cache").rglob("*.part"))
    assert AnalysisStore(content_key(film), tmp_path / "cache").load() is None


def test_analysis_works_without_sound_or_people(tmp_path):
    film = write_film(tmp_path / "mute.mp4", frames=30, sound=False)
    found = analyse(film, root=tmp_path / "cache")
    assert len(found.shots) == 1 and not any(found.sound.peaks)


@pytest.mark.parametrize(("code", "word"), [
    (errno.ENOSPC, "full"), (errno.EACCES, "written"), (errno.EROFS, "written"),
    (errno.ENOENT, "gone"),
])
def test_refusals_of_the_system_become_sentences(tmp_path, code, word):
    told = place_error(tmp_path, OSError(code, os.strerror(code)))
    assert isinstance(told, PlaceError) and word in told.sentence() and told.remedy


def test_a_full_disk_is_told():
    """/dev/full refuses every write with ENOSPC (Linux full(4))."""
    full = Path("/dev/full")
    with pytest.raises(PlaceError, match="full"), writing(full), full.open("wb", 0) as file:
        file.write(b"x")


def test_errors_name_the_file_once():
    told = InputError("This is empty.", "/films/a.mp4", "Export it again.")
    assert told.sentence() == "/films/a.mp4: This is empty. Export it again."
    named = InputError("a.mp4 runs 9 s.", "/films/a.mp4", "Cut it.")
    assert named.sentence().count("a.mp4") == 1
