"""The batch list: what outlives crashes, what is made, stopped, retried; and real faults."""

import os
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from pathlib import Path

import msgspec
import pytest

from caracal.core.analysis.cache import content_key
from caracal.core.analysis.film_pass.analyse import kept_analysis
from caracal.core.base.errors import InputError, StorageError
from caracal.core.base.time import FrameRange
from caracal.core.base.work import Control
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import EncodeJob, JobStatus, State
from caracal.core.batch.list_lock import worked_by_us
from caracal.core.batch.runner import recover, run_list
from caracal.core.batch.watching import look_for_more, unwatch, watch, watched
from caracal.core.convert import Recipe
from caracal.core.encoding.proof import prove
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from conftest import children_of, write_film

SHORT = with_value(find_sheet("square-feed"), "duration.least_s", 0.5)  # quicker, as real
SMALL = with_value(SHORT, "canvas", (180, 180))
BIG = with_value(SHORT, "canvas", (360, 360))
OTHER = msgspec.structs.replace(with_value(SMALL, "canvas", (90, 160)), name="small-tall")


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    return write_film(tmp_path_factory.mktemp("film") / "film.mp4", frames=60)


@pytest.fixture
def jobs(tmp_path):
    with BatchList(tmp_path / "list.sqlite") as made:
        yield made


def work(film, folder, sheet=SMALL, **more):
    return EncodeJob(str(film), str(folder), Recipe(sheet, **more))


def states(jobs):
    return [item.state for item in jobs.items()]


def test_the_list_is_the_same_when_opened_again(jobs, film, tmp_path):
    numbers = jobs.add([work(film, tmp_path), work(film, tmp_path, OTHER)])
    with BatchList(jobs.path) as again:
        assert again.items() == jobs.items() and [item.id for item in again.items()] == numbers


def test_lines_move_stop_wait_again_and_are_forgotten(jobs, film, tmp_path):
    first, second, third = jobs.add([work(film, tmp_path)] * 3)
    jobs.move(third, -2)
    assert [item.id for item in jobs.items()] == [third, first, second]
    jobs.stop([first])
    assert states(jobs) == [State.WAITING, State.STOPPED, State.WAITING]
    jobs.retry([first])
    assert states(jobs) == [State.WAITING] * 3
    jobs.put(second, State.ENCODING, JobStatus())
    jobs.remove([first, second])  # what is worked on stays
    assert [item.id for item in jobs.items()] == [third, second]
    jobs.put(third, State.DONE, JobStatus())
    jobs.clear()
    assert [item.id for item in jobs.items()] == [second]


def test_lines_are_added_all_or_none(jobs, film, tmp_path):
    odd = with_value(SMALL, "file.names", "{film} {nonsense}")
    with pytest.raises(InputError, match="nonsense"):
        jobs.add([work(film, tmp_path), work(film, tmp_path, odd)])
    assert jobs.items() == ()


def test_a_damaged_list_and_a_closed_place_are_told(tmp_path):
    path = tmp_path / "list.sqlite"
    path.write_bytes(b"this is no database, whatever it is called" * 20)
    with pytest.raises(InputError, match="damaged"):
        BatchList(path)
    with pytest.raises(StorageError):
        BatchList(tmp_path / "list.sqlite" / "inside")


def test_one_film_s_versions_are_made_from_one_decode(jobs, film, tmp_path):
    out, said = tmp_path / "out", []
    jobs.add([work(film, out), work(film, out, OTHER)])
    assert run_list(jobs.path, Control(), say=said.append)
    assert states(jobs) == [State.DONE] * 2 and len(said) == 2
    began = [item.status.began for item in jobs.items()]
    assert len(list(out.iterdir())) == 2 and max(began) - min(began) < 0.5
    assert all(item.status.made[0].proof.right for item in jobs.items())


def test_what_cannot_be_made_fails_alone_with_a_sentence(jobs, film, tmp_path):
    long = with_value(OTHER, "duration.most_s", 1.0)
    jobs.add([work(film, tmp_path / "out"), work(film, tmp_path / "out", long),
              work(tmp_path / "none.mp4", tmp_path / "out")])
    run_list(jobs.path, Control())
    assert states(jobs) == [State.DONE, State.FAILED, State.FAILED]
    assert "at most 1 s" in jobs.items()[1].status.problem
    assert "no such file" in jobs.items()[2].status.problem


def test_only_one_process_works_off_a_list(jobs):
    with worked_by_us(jobs.path) as ours, worked_by_us(jobs.path) as theirs:
        assert ours and not theirs


def _when(jobs, ready, then):
    """Do ``then`` once ``ready`` holds for the list, from another thread."""
    def run():
        with BatchList(jobs.path) as mine:
            while not ready(mine):
                time.sleep(0.02)
            then(mine)
    thread = threading.Thread(target=run)
    thread.start()
    return thread


def busy(jobs):
    progress = [item.status.progress for item in jobs.items()]
    return any(each and each.doing == "encoding" and each.done for each in progress)


def test_one_line_is_stopped_and_the_other_goes_on(jobs, tmp_path):
    film = write_film(tmp_path / "long.mp4", frames=120)
    first, _ = jobs.add([work(film, tmp_path / "out", BIG), work(film, tmp_path / "out", OTHER)])
    stopper = _when(jobs, busy, lambda mine: mine.stop([first]))
    run_list(jobs.path, Control())
    stopper.join()
    assert states(jobs) == [State.STOPPED, State.DONE]
    assert [path.name for path in (tmp_path / "out").iterdir()] == ["long small-tall.mp4"]


def test_a_film_that_ends_the_process_that_reads_it_fails_its_lines_only(jobs, tmp_path):
    """Whatever a library does to its own process: the next film is made."""
    first = write_film(tmp_path / "first.mp4", frames=80)
    second = write_film(tmp_path / "second.mp4", frames=30)
    jobs.add([work(first, tmp_path / "out", BIG), work(second, tmp_path / "out")])
    crash = _when(jobs, busy,
                  lambda _: os.kill(children_of(os.getpid(), "core.batch.film")[0], signal.SIGSEGV))
    run_list(jobs.path, Control())
    crash.join()
    assert states(jobs) == [State.FAILED, State.DONE]
    assert "SIGSEGV" in jobs.items()[0].status.problem
    assert not list((tmp_path / "out").glob("*.part"))


def test_what_a_crash_leaves_is_cleared_when_its_encoders_have_ended(jobs, film, tmp_path):
    seen, _ = [], jobs.add([work(film, tmp_path / "out", BIG)])

    def crash(mine):
        (reader,) = children_of(os.getpid(), "core.batch.film")
        (encoder,) = children_of(reader, "core.encoding.encoder")
        os.kill(encoder, signal.SIGSTOP)  # as slow as a process can be
        os.kill(reader, signal.SIGSEGV)
        time.sleep(1)
        seen.extend(states(mine))
        os.kill(encoder, signal.SIGCONT)
    thread = _when(jobs, busy, crash)
    run_list(jobs.path, Control())
    thread.join()
    assert seen == [State.ENCODING] and states(jobs) == [State.FAILED]
    assert not list((tmp_path / "out").glob("*.part"))


def test_rows_that_cannot_be_read_have_failed_and_stop_nobody(jobs, tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=30)
    jobs.add([work(film, tmp_path / "out")] * 3)
    base = sqlite3.connect(jobs.path)
    base.execute("UPDATE item SET work = X'C1FF00' WHERE id = 1")
    base.execute("UPDATE item SET told = X'00', state = 'encoding' WHERE id = 2")
    base.commit()
    base.close()
    run_list(jobs.path, Control())
    assert states(jobs) == [State.FAILED, State.FAILED, State.DONE]
    assert "cannot be read" in jobs.items()[0].status.problem


@pytest.mark.parametrize(("version", "told"), [(0, ""), (99, "newer Caracal")])
def test_a_list_of_another_caracal_is_upgraded_or_told(jobs, version, told):
    base = sqlite3.connect(jobs.path)
    base.execute(f"PRAGMA user_version = {version}")
    base.close()
    try:
        with BatchList(jobs.path) as again:
            assert again.items() == () and not told
    except InputError as problem:
        assert told and told in problem.sentence()


def test_a_scrambled_and_a_held_list_are_told(tmp_path, monkeypatch):
    (tmp_path / "scrambled.sqlite").write_bytes(b"no database " * 400)
    with pytest.raises(InputError, match="damaged"):
        BatchList(tmp_path / "scrambled.sqlite")
    monkeypatch.setattr("caracal.core.batch.batch_list.WAIT_S", 0.1)
    with BatchList(tmp_path / "held.sqlite") as jobs:
        other = sqlite3.connect(tmp_path / "held.sqlite", isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(StorageError, match="keeps the batch list locked"):
            jobs.set("paused", True)
        other.close()


def test_a_crashed_encoder_is_tried_again_and_fails_nobody_else(jobs, tmp_path):
    film = write_film(tmp_path / "long.mp4", frames=80)
    jobs.add([work(film, tmp_path / "out", BIG), work(film, tmp_path / "out", OTHER)])

    parents = set()

    def crash(mine):
        (film,) = children_of(os.getpid(), "core.batch.film")
        encoder = children_of(film, "core.encoding.encoder")[0]
        parents.update(_parent_of(child) for child in (film, encoder))
        os.kill(encoder, signal.SIGSEGV)

    crasher = _when(jobs, busy, crash)
    run_list(jobs.path, Control())
    crasher.join()
    assert states(jobs) == [State.DONE] * 2
    assert all(prove(Path(made.file), item.job.recipe.sheet).right
               for item in jobs.items() for made in item.status.made)
    assert len(list((tmp_path / "out").iterdir())) == 2
    assert len(parents) == 1  # both come off one fork server: a second takes a second to start


def _parent_of(child):
    """proc(5): the fourth field of stat; a name in parentheses may hold anything."""
    return int(Path(f"/proc/{child}/stat").read_text().rpartition(")")[2].split()[1])


def test_a_killed_runner_loses_nothing_and_is_resumed(jobs, tmp_path):
    """SIGKILL while it encodes: no file, then the list is right and goes on."""
    film = write_film(tmp_path / "long.mp4", frames=80)
    jobs.add([work(film, tmp_path / "out", with_value(SMALL, "canvas", (360, 360)))])
    runner = subprocess.Popen([sys.executable, "-m", "caracal.core.batch.runner", str(jobs.path)])
    while not busy(jobs):
        time.sleep(0.02)
    runner.kill()
    runner.wait()
    assert states(jobs) == [State.ENCODING]
    assert not [path for path in (tmp_path / "out").iterdir() if path.suffix != ".part"]
    assert run_list(jobs.path, Control())
    assert states(jobs) == [State.DONE]
    assert [path.name for path in (tmp_path / "out").iterdir()] == ["long square-feed.mp4"]


def test_a_file_that_was_just_finished_is_not_made_again(jobs, film, tmp_path):
    """Killed between the file's name and the list's line: the file is proved and kept."""
    (number,) = jobs.add([work(film, tmp_path / "out")])
    run_list(jobs.path, Control())
    told = jobs.item(number).status
    jobs.put(number, State.PROVING, msgspec.structs.replace(told, made=()))
    recover(jobs)
    again = jobs.item(number)
    assert again.state is State.DONE and again.status.made[0].file == told.made[0].file


def test_a_line_stopped_while_its_film_is_analysed_ends_there(jobs, tmp_path):
    fresh = write_film(tmp_path / "fresh.mp4", frames=600, sound=False)
    (number,) = jobs.add([work(fresh, tmp_path / "out")])
    runner = threading.Thread(target=run_list, args=(jobs.path, Control()))
    runner.start()
    while jobs.item(number).state is not State.ENCODING:
        time.sleep(0.01)
    jobs.stop([number])
    runner.join()
    assert states(jobs) == [State.STOPPED] and kept_analysis(content_key(fresh)) is None


def test_a_master_that_ends_half_way_fails_its_lines_only(jobs, film, tmp_path):
    whole = write_film(tmp_path / "whole.mkv", frames=80)
    jobs.add([work(whole, tmp_path / "out"), work(film, tmp_path / "out")])
    run_list(jobs.path, Control())  # analysed while it was whole
    jobs.add([work(whole, tmp_path / "out", OTHER), work(film, tmp_path / "out", OTHER)])
    data = whole.read_bytes()
    whole.write_bytes(data[: len(data) // 2] + bytes(len(data) - len(data) // 2))
    run_list(jobs.path, Control())
    assert states(jobs)[2:] == [State.FAILED, State.DONE]
    assert "whole.mkv" in jobs.items()[2].status.problem
    assert not list((tmp_path / "out").glob("*.part"))


def test_a_pause_holds_the_work_until_it_goes_on(jobs, film, tmp_path):
    jobs.add([work(film, tmp_path / "out", ranges=(FrameRange(0, 50),))])
    jobs.paused = True
    control, done = Control(), []
    runner = threading.Thread(target=lambda: done.append(run_list(jobs.path, control)))
    runner.start()
    time.sleep(0.5)
    assert states(jobs) == [State.WAITING]
    jobs.paused = False
    runner.join()
    assert done == [True] and states(jobs) == [State.DONE]


def test_a_watched_folder_takes_films_that_have_stopped_growing(jobs, film, tmp_path):
    folder = tmp_path / "in"
    folder.mkdir()
    watch(jobs, folder, tmp_path / "out", ("square-feed", "plaza"))
    (folder / "notes.txt").write_text("no film")
    (folder / "new.mp4").write_bytes(film.read_bytes())
    (folder / "broken.mp4").write_bytes(b"no film either")
    assert look_for_more(jobs) == [] and look_for_more(jobs) == ["new.mp4"]
    assert look_for_more(jobs) == []
    assert [item.job.recipe.sheet.name for item in jobs.items()] == ["square-feed", "plaza"]
    assert "broken.mp4" in watched(jobs).refused[str(folder / "broken.mp4")]
    unwatch(jobs)
    assert watched(jobs) is None
