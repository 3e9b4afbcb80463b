"""Ten kinds of bad input, each through the command line: one sentence, exit 2, nothing lost."""

import os
import shutil
import subprocess

import pytest

from bad_files import BAD_FILES
from caracal.cli.main import main
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.errors import StorageError
from caracal.core.base.time import FrameRange
from caracal.core.convert import Recipe, convert
from caracal.core.media.av_errors import writing
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet, write_sheet
from conftest import DEMO, write_film


@pytest.fixture
def tiny_disk(tmp_path):
    """A real file system of 3 MB; needs root, as the machines that test this have."""
    place = tmp_path / "disk"
    place.mkdir()
    if shutil.which("mount") is None or subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", str(place)],
            check=False, capture_output=True).returncode:
        pytest.skip("file systems cannot be mounted here")
    yield place
    subprocess.run(["umount", str(place)], check=True)


COMMANDS = (["look"], ["analyse"], ["path", "--shape", "9:16"],
            ["convert", "--spec", "square-feed", "--out", "OUT"])


@pytest.mark.parametrize("make", BAD_FILES)
def test_a_bad_film_is_told_by_every_command(tmp_path, capsys, make):
    path, out = make(tmp_path), tmp_path / "out"
    for command in COMMANDS:
        arguments = [str(out) if name == "OUT" else name for name in command[1:]]
        assert main([command[0], str(path), *arguments]) == 2
        told = capsys.readouterr()
        assert told.out == "" and told.err.count("\n") == 1
        assert path.name in told.err and "Traceback" not in told.err
        assert not out.exists() or not any(out.iterdir())


def test_a_film_too_long_for_a_sheet_is_told_before_any_work(tmp_path, capsys):
    film = write_film(tmp_path / "long.mp4", size=(64, 36), rate="24/1", frames=24 * 61,
                      sound=False)
    out = tmp_path / "out"
    assert main(["convert", str(film), "--spec", "square-feed", "--out", str(out)]) == 2
    told = capsys.readouterr().err
    assert "at most 60 s" in told and "shorter range" in told and not out.exists()


def test_a_range_makes_a_long_film_fit(tmp_path):
    film = write_film(tmp_path / "long.mp4", size=(64, 36), rate="24/1", frames=24 * 7,
                      sound=False)
    sheet = tmp_path / "short.toml"
    write_sheet(with_value(with_value(find_sheet("square-feed"), "canvas", (180, 180)),
                           "duration.most_s", 5.0), sheet)
    asked = ["convert", str(film), "--spec", str(sheet), "--out", str(tmp_path / "out")]
    assert main(asked) == 2
    assert main([*asked, "--from", "1", "--to", "00:00:05:00"]) == 0


def test_a_disk_that_fills_while_analysing_is_told_and_left_clean(tiny_disk):
    (tiny_disk / "filler").write_bytes(b"x" * 2_600_000)
    with pytest.raises(StorageError, match="full"):
        analyse(DEMO, root=tiny_disk / "cache")
    assert not [path for path in (tiny_disk / "cache").rglob("*") if path.is_file()]


def test_a_disk_that_fills_while_encoding_loses_nothing(tiny_disk, tmp_path):
    film = write_film(tmp_path / "film.mp4", size=(640, 360), frames=90)

    def fill(progress):
        if progress.doing == "Encoding" and not (tiny_disk / "filler").exists():
            room = os.statvfs(tiny_disk)
            size = max(0, room.f_bavail * room.f_frsize - 20_000)
            (tiny_disk / "filler").write_bytes(b"x" * size)

    sheet = find_sheet("square-feed")
    with pytest.raises(StorageError, match="full"):
        convert(film, [Recipe(sheet, ranges=(FrameRange(0, 88),))], tiny_disk, report=fill)
    assert [path.name for path in tiny_disk.iterdir()] == ["filler"] and film.exists()


def test_too_small_a_disk_is_told_before_any_work(tiny_disk, demo):
    with pytest.raises(StorageError, match="no room"):
        convert(DEMO, [Recipe(find_sheet("square-feed"))], tiny_disk)
    assert list(tiny_disk.iterdir()) == []


def test_a_folder_removed_while_writing_is_told(tmp_path):
    gone = tmp_path / "gone" / "file.mp4"
    with pytest.raises(StorageError, match="gone"), writing(gone), gone.open("wb") as file:
        file.write(b"x")


LONG = "x" * 300  # more than the 255 bytes that a name has in any file system of Linux


@pytest.mark.parametrize("words", [
    ("look", LONG), ("convert", "FILM", "--spec", "wide", "--out", f"none/{LONG}"),
    ("convert", "FILM", "--spec", "wide", "--out", "out", "--cuts", LONG),
    ("batch", "FILM", "--spec", "wide", "--out", LONG), ("batch", LONG, "--spec", "wide", "--out",
                                                         "out"),
    ("batch", "--watch", LONG, "--spec", "wide", "--out", "out"),
    ("captions", "FILM", "--out", f"{LONG}.srt"), ("specs", "export", "wide", LONG),
    ("prove", LONG, "--spec", "wide"), ("integrate", "--into", LONG),
    ("desk", "list", "--outbox", LONG), ("open", LONG),
], ids=lambda words: f"{words[0]} {words[-2][:9]}")
def test_a_name_that_is_too_long_is_named(tmp_path, monkeypatch, capsys, words):
    """Path.exists raises there, and was told as what nobody foresaw."""
    film = write_film(tmp_path / "film.mp4", frames=10)
    monkeypatch.chdir(tmp_path)
    assert main([str(film) if word == "FILM" else word for word in words]) == 2
    said = capsys.readouterr().err
    assert "This name is too long." in said and said.count("\n") == 1 and LONG in said
