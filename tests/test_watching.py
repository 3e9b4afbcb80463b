"""A watched folder: what is taken and when, and what may not be watched."""

import os

import pytest

from caracal.cli.main import main
from caracal.core.base.errors import InputError
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import JobStatus, State
from caracal.core.batch.watching import check_watched, look_for_more, watch, watched
from conftest import write_film


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "in").mkdir()
    return tmp_path / "in"


@pytest.fixture
def jobs(tmp_path, folder):
    with BatchList(tmp_path / "list.sqlite") as made:
        watch(made, folder, tmp_path / "out", ("square-feed",))
        yield made


def test_output_is_no_input(tmp_path, folder):
    (tmp_path / "link").symlink_to(folder, target_is_directory=True)
    for out in (folder, tmp_path / "link", folder / ".." / "in"):
        with pytest.raises(InputError, match="also the output folder"):
            check_watched(folder, out, True)
    with pytest.raises(InputError, match="No spec sheet was given"):
        check_watched(folder, tmp_path / "out", False)
    with pytest.raises(InputError, match="no such folder"):
        check_watched(tmp_path / "none", tmp_path / "out", True)


@pytest.mark.parametrize("words", [["--spec", "square-feed", "--out", "IN"], ["--out", "OUT"]])
def test_what_cannot_be_watched_is_refused_on_the_command_line(folder, tmp_path, capsys, words):
    given = [{"IN": str(folder), "OUT": str(tmp_path / "out")}.get(word, word) for word in words]
    assert main(["batch", "--watch", str(folder), *given]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_a_film_of_any_name_is_taken_once_and_done_when_its_versions_are(jobs, folder):
    path = write_film(folder / os.fsdecode(b"n\xff.mp4"), size=(64, 36), frames=30)
    assert [look_for_more(jobs) for _ in range(3)] == [[], [path.name], []]
    (item,) = jobs.items()
    assert watched(jobs).taken == () and len(watched(jobs).added) == 1
    jobs.put(item.id, State.DONE, JobStatus())
    look_for_more(jobs)
    assert len(watched(jobs).taken) == 1 and look_for_more(jobs) == []


def test_a_film_whose_line_failed_is_not_taken_for_done(jobs, folder):
    write_film(folder / "film.mp4", size=(64, 36), frames=30)
    look_for_more(jobs), look_for_more(jobs)
    jobs.put(jobs.items()[0].id, State.FAILED, JobStatus(problem="full"))
    look_for_more(jobs)
    assert watched(jobs).taken == () and len(jobs.items()) == 1


def test_what_was_made_is_no_new_film(jobs, folder):
    path = write_film(folder / "made.mp4", size=(64, 36), frames=30)
    other = write_film(folder / "film.mp4", size=(64, 36), frames=30)
    look_for_more(jobs)
    path.rename(folder / "hidden")
    look_for_more(jobs)
    (item,) = jobs.items()
    jobs.put(item.id, State.DONE, JobStatus(planned=(str(path),)))
    (folder / "hidden").rename(path)
    look_for_more(jobs), look_for_more(jobs)
    assert [item.job.master for item in jobs.items()] == [str(other)]
