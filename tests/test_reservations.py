"""Names of files in the making: two at once, links laid in the way, and the master itself."""

import fcntl
import os
import subprocess
import threading

import msgspec
import numpy as np
import pytest

from caracal.cli.main import main
from caracal.core.analysis.film_pass.analyse import analyse, analysed_before
from caracal.core.base.errors import InputError
from caracal.core.base.half_made import remove_left_parts
from caracal.core.base.paths import inside, path_of, same_file, text_of
from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.convert import Recipe, convert
from caracal.core.encoding.reservations import Reservations
from caracal.core.framing.choice import PLAIN
from caracal.core.layout.model import FILL
from caracal.core.media.probe import probe
from caracal.core.plan.file_plan import FilePlan
from caracal.core.render.scene_track import SceneTrack
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet, write_sheet
from conftest import ffprobe, write_film

SMALL = with_value(find_sheet("square-feed"), "canvas", (180, 180))


@pytest.fixture
def film(tmp_path):
    return write_film(tmp_path / "film.mp4", frames=80)


def plan_for(film, file, replace=False):
    master = probe(film)
    line = timeline([FrameRange(0, master.frames)], master.rate)
    windows = np.zeros((master.frames, 1, 4))
    scenes = SceneTrack.of(SMALL.canvas, windows, [PLAIN] * master.frames, [FILL] * master.frames,
                           (0.0, 0.0, 320.0, 180.0))
    return FilePlan(master, SMALL, 0, text_of(file), replace, line, scenes, b"", b"", None)


def test_a_name_in_the_making_is_taken_for_everybody_else(film, tmp_path):
    with Reservations() as ours, Reservations() as theirs:
        reserved = ours.reserve(plan_for(film, tmp_path / "new.mp4"))
        other = theirs.reserve(plan_for(film, tmp_path / "new.mp4"))
        assert [path_of(plan.file).name for plan in (reserved, other)] == ["new.mp4", "new 2.mp4"]
        assert reserved.part_file.is_file() and reserved.part_file != other.part_file
        with pytest.raises(InputError, match="another batch"):
            theirs.reserve(plan_for(film, tmp_path / "new.mp4", replace=True))
    assert not list(tmp_path.glob("*.part"))


def test_what_a_process_left_that_is_gone_holds_no_name(film, tmp_path):
    left = tmp_path / "new.mp4.0123abcd.part"
    left.write_bytes(b"half")
    with Reservations() as ours:
        assert path_of(ours.reserve(plan_for(film, tmp_path / "new.mp4")).file).name == "new.mp4"
    assert not left.exists()


def test_a_link_in_the_way_is_never_followed(film, tmp_path):
    precious = tmp_path / "precious"
    precious.write_text("mine")
    for name in ("new.mp4", "new.mp4.part", "new.mp4.0123abcd.part"):
        (tmp_path / name).symlink_to(precious)
    with Reservations() as ours:
        plan = ours.reserve(plan_for(film, tmp_path / "new.mp4"))
        plan.part_file.write_bytes(b"new")
        assert path_of(plan.file).name == "new 2.mp4"
    assert precious.read_text() == "mine"


@pytest.mark.parametrize("way", ["itself", "hard link", "link", "folder link"])
def test_the_master_is_never_written_over(film, tmp_path, way):
    target = film
    if way == "hard link":
        target = tmp_path / "other.mp4"
        os.link(film, target)
    elif way == "link":
        target = tmp_path / "link.mp4"
        target.symlink_to(film)
    elif way == "folder link":
        (tmp_path / "there").symlink_to(tmp_path, target_is_directory=True)
        target = tmp_path / "there" / film.name
    with Reservations() as ours, pytest.raises(InputError, match="never overwritten"):
        ours.reserve(plan_for(film, target, replace=True))
    assert same_file(film, target) and probe(film).frames == 80


def test_replace_with_the_films_own_name_leaves_the_master(film, tmp_path, capsys):
    before, sheet = film.read_bytes(), tmp_path / "own.toml"
    write_sheet(with_value(SMALL, "file.names", "{film}"), sheet)
    code = main(["batch", str(film), "--spec", str(sheet), "--out", str(tmp_path), "--replace"])
    told = capsys.readouterr().err
    assert code == 1 and "never overwritten" in told and film.read_bytes() == before


def test_two_conversions_into_one_folder_are_both_right(film, tmp_path):
    out, made = tmp_path / "out", []
    threads = [threading.Thread(target=lambda: made.extend(convert(film, [Recipe(SMALL)], out)))
               for _ in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    files = sorted(path.name for path in out.iterdir())
    assert files == ["film square-feed 2.mp4", "film square-feed.mp4"]
    assert all(result.proof.right for result in made)
    for name in files:
        (picture,) = [stream for stream in ffprobe(out / name)["streams"]
                      if stream["codec_type"] == "video"]
        assert int(picture["nb_read_frames"]) == 80


def test_paths_that_are_no_text_survive_as_text(tmp_path):
    """RFC 3986: bytes that are no characters are escaped in a URI."""
    path = tmp_path / os.fsdecode(b"n\xff.mp4")
    assert "%FF" in text_of(path) and path_of(text_of(path)) == path
    assert msgspec.json.decode(msgspec.json.encode(text_of(path))) == text_of(path)
    assert text_of(tmp_path) == str(tmp_path)


@pytest.mark.parametrize("name", ["../other", "/etc/passwd", "", ".", "..", "a/b"])
def test_a_name_from_data_stays_in_its_folder(tmp_path, name):
    with pytest.raises(InputError, match="not a file of this folder"):
        inside(tmp_path, name)
    assert inside(tmp_path, "a b.mp4") == tmp_path / "a b.mp4"


def test_nothing_is_imported_from_the_folder_of_a_film(film, tmp_path):
    """A signal.py beside the film is data, whoever is started there."""
    for name in ("signal", "queue", "json"):
        (tmp_path / f"{name}.py").write_text(f"open({str(tmp_path / 'run')!r}, 'w')")
    sheet = tmp_path / "small.toml"
    write_sheet(SMALL, sheet)
    from caracal.core.processes.children import command, environment

    done = subprocess.run(
        command("cli.main", "batch", film.name, "--spec", "small.toml", "--out", "out"),
        cwd=tmp_path, env=environment(), capture_output=True, text=True, check=False)
    assert done.returncode == 0 and not (tmp_path / "run").exists(), done.stderr


def test_many_look_at_a_kept_film_at_once(film, tmp_path):
    """Its time changed, so each of them notes down that it is the same film still."""
    root = tmp_path / "cache"
    analyse(film, root=root)
    problems, found = [], []

    def look_again():
        for _ in range(25):
            film.touch()
            try:
                found.append(analysed_before(film, root))
            except OSError as problem:
                problems.append(problem)

    threads = [threading.Thread(target=look_again) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert problems == [] and len(found) == 150
    assert not list(root.rglob("*.part"))


def test_a_file_that_is_created_and_not_locked_yet_is_nobody_s_leftover(tmp_path):
    """It is created and locked under the folder's lock, which removing leftovers needs, too."""
    part = tmp_path / "new.mp4.0123abcd.part"
    part.touch()
    holder = os.open(tmp_path, os.O_RDONLY)
    fcntl.flock(holder, fcntl.LOCK_EX)
    remove_left_parts(tmp_path)
    assert part.exists()
    os.close(holder)
    remove_left_parts(tmp_path)
    assert not part.exists()


def test_a_folder_that_stays_locked_is_told_and_not_waited_for(film, tmp_path, monkeypatch):
    monkeypatch.setattr("caracal.core.encoding.reservations.FOLDER_S", 0.2)
    holder = os.open(tmp_path, os.O_RDONLY)
    fcntl.flock(holder, fcntl.LOCK_EX)
    with Reservations() as ours, pytest.raises(InputError, match="keeps this folder locked"):
        ours.reserve(plan_for(film, tmp_path / "new.mp4"))
    os.close(holder)
