"""Progress, the cache, the encoder's process, and full disks."""

import errno
import os
from pathlib import Path

import pytest

from caracal.core.analysis.cache import AnalysisStore, Source, content_key, old_content_key
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.errors import Cancelled, InputError, StorageError, storage_error
from caracal.core.base.time import short_time
from caracal.core.base.work import CancelToken, ProgressReporter
from caracal.core.media.av_errors import writing
from caracal.core.project.storage import FilmReference, find_film
from conftest import write_film


def test_progress_ends_at_the_end_and_is_sparse():
    told = []
    watch = ProgressReporter("Working", 1000, told.append)
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
    (errno.ENOENT, "does not exist"), (errno.EISDIR, "exists already"), (errno.ELOOP, "link"),
    (errno.EDQUOT, "full"),
])
def test_refusals_of_the_system_become_sentences(tmp_path, code, word):
    told = storage_error(tmp_path, OSError(code, os.strerror(code)))
    assert isinstance(told, StorageError) and word in told.sentence() and told.remedy


def test_a_full_disk_is_told():
    """/dev/full refuses every write with ENOSPC (Linux full(4))."""
    full = Path("/dev/full")
    with pytest.raises(StorageError, match="full"), writing(full), full.open("wb", 0) as file:
        file.write(b"x")


def test_errors_name_the_file_once():
    told = InputError("This is empty.", "/films/a.mp4", "Export it again.")
    assert told.sentence() == "/films/a.mp4: This is empty. Export it again."
    named = InputError("a.mp4 runs 9 s.", "/films/a.mp4", "Cut it.")
    assert named.sentence().count("a.mp4") == 1


def test_one_replaced_shot_of_a_large_film_is_noticed(tmp_path):
    """A film of 200 MB of constant size: 12 seconds of 25 Mb/s differ, 300 frames."""
    film, size = tmp_path / "film.mov", 200 << 20
    with film.open("wb") as file:
        file.truncate(size)
    before = content_key(film)
    with film.open("r+b") as file:
        file.seek(97 << 20)
        file.write(b"\x01" * (300 << 10))  # a tenth of a second of it is enough
    assert content_key(film) != before


def test_a_small_film_is_known_to_its_last_byte(tmp_path):
    film = tmp_path / "film.mp4"
    film.write_bytes(bytes(5_000_000))
    before = content_key(film)
    data = bytearray(5_000_000)
    data[1_234_567] = 1
    film.write_bytes(data)
    assert content_key(film) != before


def test_a_film_that_differs_where_no_sample_lies_is_looked_at_whole(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=60)
    source = Source.of(film)
    assert source.is_still(film) == source
    os.utime(film, ns=(1, 1))  # touched, or copied: the same content
    again = source.is_still(film)
    assert again is not None and again != source and again.digest == source.digest
    data = bytearray(film.read_bytes())
    data[len(data) // 2] ^= 1
    film.write_bytes(data)
    assert source.is_still(film) is None


@pytest.mark.parametrize("harm", [b"", b"no film", None])
def test_a_damaged_proxy_is_made_again(tmp_path, harm):
    film, root = write_film(tmp_path / "film.mp4", frames=20), tmp_path / "cache"
    analyse(film, root=root)
    proxy = AnalysisStore(content_key(film), root).proxy
    whole = proxy.read_bytes()
    proxy.write_bytes(whole[: len(whole) // 2] if harm is None else harm)
    analyse(film, root=root)
    assert proxy.read_bytes() == whole


def test_keys_of_older_projects_still_find_their_film(tmp_path):
    film = write_film(tmp_path / "moved.mp4", frames=60)
    reference = FilmReference("/gone/film.mp4", old_content_key(film), 60, "25/1")
    assert find_film(reference, tmp_path / "a.caracal") == film
