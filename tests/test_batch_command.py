"""``caracal batch`` as people script it: what it makes, what it tells, and how it refuses."""

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import msgspec
import pytest

from caracal.cli.batch import LIST_NAME, _now
from caracal.cli.main import main
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import EncodeJob, JobStatus, State
from caracal.core.batch.list_lock import worked_by_us
from caracal.core.project.recipe import Recipe
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet, own_folder, write_sheet
from conftest import write_film


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    return write_film(tmp_path_factory.mktemp("film") / "film.mp4", frames=40)


@pytest.fixture
def sheet(tmp_path):
    path = tmp_path / "small.toml"
    small = with_value(find_sheet("square-feed"), "canvas", (180, 180))
    write_sheet(with_value(small, "duration.least_s", 0.5), path)
    return str(path)


def test_films_are_made_reported_and_bundled(film, sheet, tmp_path, capsys):
    out, bundle = tmp_path / "out", tmp_path / "bundle"
    assert main(["batch", str(film), "--spec", sheet, "--out", str(out), "--bundle", str(bundle),
                 "--json"]) == 0
    (line,) = json.loads(capsys.readouterr().out)["files"]
    assert line["right"] and line["film"] == str(film) and line["file"].endswith(".mp4")
    assert (out / "report" / "report.html").is_file() and (bundle / "bagit.txt").is_file()
    visible = [path.name for path in out.iterdir() if not path.name.startswith(".")]
    assert sorted(visible) == ["film square-feed.mp4", "report"]


def test_what_was_made_is_proved_by_what_it_was_made_for(film, sheet, tmp_path, capsys):
    """A file by the report beside it, a report, and a bundle: each by the very sheet it had."""
    out, bundle = tmp_path / "out", tmp_path / "bundle"
    main(["batch", "--out", str(out), "--bundle", str(bundle), "--spec", sheet, str(film)])
    made = out / "film square-feed.mp4"
    for named in (made, out, out / "report" / "report.json", bundle, bundle / "data" / made.name):
        capsys.readouterr()
        assert main(["prove", str(named)]) == 0, named
        assert "180x180" in capsys.readouterr().out  # not the shipped sheet of that name
    assert main(["prove", str(made), "--spec", "square-feed"]) == 1
    assert main(["prove", str(film)]) == 2
    assert "It is not known which spec sheet" in capsys.readouterr().err
    report = out / "report" / "report.json"
    for change in ({"codec": "nothing"}, {"codec": 3}, {"newer": 1}):  # by hand, or by a later one
        told = json.loads(report.read_text())
        told["files"][0]["spec_sheet"]["video"] |= change
        report.write_text(json.dumps(told))
        assert main(["prove", str(made)]) == 2
        assert "Give its spec sheet" in capsys.readouterr().err
        told["files"][0]["spec_sheet"]["video"].pop("newer", None)
    (bundle / "data" / made.name).write_bytes(b"")
    assert main(["prove", str(bundle)]) == 2
    assert "changed since it was made" in capsys.readouterr().err


def test_a_film_whose_name_is_no_text_is_reported(film, sheet, tmp_path):
    odd = Path(os.fsdecode(os.fsencode(tmp_path) + b"/b\xe4d #1.mp4"))
    odd.write_bytes(film.read_bytes())
    subprocess.run([sys.executable, "-m", "caracal", "batch", str(odd), "--spec", sheet, "--out",
                    str(tmp_path / "out")], check=True, capture_output=True)
    report = (tmp_path / "out" / "report" / "report.html").read_text()
    assert "b\ufffdd #1.mp4" in report and "1 of 1 file proved" in report
    assert 'src="strips/b-d%20%231%20square-feed.jpg"' in report


def test_progress_ends_with_all_lines_and_not_with_none_of_those_in_work(film, tmp_path):
    with BatchList(tmp_path / "list.sqlite") as jobs:
        numbers = jobs.add([EncodeJob(str(film), str(tmp_path), Recipe(find_sheet("wide")))] * 2)
        jobs.put(numbers[0], State.DONE, JobStatus())
        assert _now(jobs.items()) == ("1 of 2 done", 0.5, "")
        jobs.put(numbers[1], State.FAILED, JobStatus())
        assert _now(jobs.items()) == ("2 of 2 done", 1.0, "")


def test_a_bundle_is_made_from_what_is_done_and_nothing_is_encoded_twice(film, sheet, tmp_path):
    out, words = tmp_path / "out", ["batch", str(film), "--spec", sheet, "--out"]
    assert main([*words, str(out)]) == 0
    made = (out / "film square-feed.mp4").stat()
    assert main([*words, str(out), "--bundle", str(tmp_path / "bundle")]) == 0
    assert (out / "film square-feed.mp4").stat().st_mtime_ns == made.st_mtime_ns
    assert len(list(out.glob("*.mp4"))) == 1 and (tmp_path / "bundle" / "bagit.txt").is_file()


def test_a_file_that_was_taken_away_is_made_again(film, sheet, tmp_path):
    out, words = tmp_path / "out", ["batch", str(film), "--spec", sheet, "--out"]
    assert main([*words, str(out)]) == 0
    (out / "film square-feed.mp4").unlink()
    assert main([*words, str(out)]) == 0 and (out / "film square-feed.mp4").is_file()


def test_a_folder_that_is_removed_fails_its_lines_and_the_exit_code_says_so(
        film, sheet, tmp_path, capsys):
    out = tmp_path / "out"
    first = with_value(find_sheet(sheet), "file.names", "{film} one")
    write_sheet(first, tmp_path / "one.toml")
    before = with_value(first, "duration.least_s", 30.0)
    write_sheet(msgspec.structs.replace(before, name="long"), tmp_path / "long.toml")
    code = main(["batch", str(film), "--spec", str(tmp_path / "one.toml"),
                 str(tmp_path / "long.toml"), "--out", str(out)])
    assert code == 1 and "failed" in capsys.readouterr().err
    with worked_by_us(out / LIST_NAME) as ours:
        assert ours  # and nobody holds the list any more
        assert main(["batch", str(film), "--spec", sheet, "--out", str(out)]) == 2
    assert "Another process" in capsys.readouterr().err
    with BatchList(out / LIST_NAME) as jobs:
        assert len(jobs.items()) == 2  # the refused call changed nothing


def test_a_line_that_fails_is_told_and_stays_on_the_list(film, sheet, tmp_path, capsys):
    out = tmp_path / "out"
    long = tmp_path / "long.toml"
    write_sheet(with_value(find_sheet("square-feed"), "duration.least_s", 30.0), long)
    assert main(["batch", str(film), "--spec", sheet, str(long), "--out", str(out)]) == 1
    told = capsys.readouterr()
    assert "at least 30 s" in told.err and "proved" in told.out
    with BatchList(out / ".caracal-batch.sqlite") as jobs:
        assert [item.state for item in jobs.items()] == [State.DONE, State.FAILED]


def test_called_again_it_makes_only_what_is_missing(film, sheet, tmp_path, capsys):
    out = tmp_path / "out"
    long = tmp_path / "long.toml"
    write_sheet(with_value(find_sheet("square-feed"), "duration.least_s", 30.0), long)
    words = ["batch", str(film), "--spec", sheet, str(long), "--out", str(out)]
    main(words)
    made = (out / "film square-feed.mp4").stat().st_mtime_ns
    main(words)
    assert (out / "film square-feed.mp4").stat().st_mtime_ns == made
    assert not (out / "film square-feed 2.mp4").exists()


@pytest.mark.parametrize(("words", "told"), [
    ([], "Nothing to encode"), (["none.mp4", "--spec", "SHEET"], "no such file"),
    (["FILM", "--spec", "nope"], "nope"),
    (["FILM"], "Give a spec sheet"), (["FILM", "--spec", "SHEET", "--jobs", "0"], "1 or more"),
    (["FILM", "--spec", "SHEET", "--out", "/proc/none"], "/proc"),
    (["FILM", "--spec", "SHEET", "--bundle", "FOLDER"], "not empty"),
])
def test_bad_words_are_refused_in_one_sentence(film, sheet, tmp_path, capsys, words, told):
    names = {"FILM": str(film), "SHEET": sheet, "FOLDER": str(film.parent)}
    given = ["batch", "--out", str(tmp_path / "out"), *(names.get(word, word) for word in words)]
    try:
        code = main(given)
    except SystemExit as problem:
        code = problem.code
    said = capsys.readouterr()
    assert code == 2 and told in said.err and said.err.count("\n") == 1 and said.out == ""


def test_a_watched_folder_is_worked_off_until_stopped(film, tmp_path):
    """The program itself, on a folder into which films are copied; Ctrl+C ends it.

    The name of the first is not UTF-8, which once ended all of it.
    """
    folder, out = tmp_path / "in", tmp_path / "out"
    folder.mkdir()
    sheet = own_folder() / "watch-small.toml"
    small = with_value(find_sheet("square-feed"), "canvas", (180, 180))
    write_sheet(msgspec.structs.replace(
        with_value(small, "duration.least_s", 0.5), name="watch-small"), sheet)
    work = subprocess.Popen([sys.executable, "-m", "caracal", "batch", "--watch",
                             str(folder), "--spec", "watch-small", "--out", str(out)],
                            stderr=subprocess.PIPE, text=True, errors="replace")
    odd = Path(os.fsdecode(os.fsencode(folder) + b"/bad\xff.mp4"))
    try:
        odd.write_bytes(film.read_bytes())
        for _ in range(300):
            if (out / "bad- watch-small.mp4").exists():
                break
            time.sleep(0.1)
        (folder / "new.mp4").write_bytes(film.read_bytes())
        for _ in range(300):
            if (out / "new watch-small.mp4").exists():
                break
            time.sleep(0.1)
    finally:
        work.send_signal(signal.SIGINT)
        _, told = work.communicate(timeout=60)
        sheet.unlink()
    assert (out / "new watch-small.mp4").exists() and "New: new.mp4" in told
    assert (out / "bad- watch-small.mp4").exists()
    assert work.returncode == 130 and "Traceback" not in told


def test_a_desk_takes_lists_and_gives_back_on_the_command_line(film, sheet, tmp_path, capsys):
    bundle, desk = tmp_path / "bundle", ["--outbox", str(tmp_path / "desk")]
    main(["batch", str(film), "--spec", sheet, "--out", str(tmp_path / "out"), "--bundle",
          str(bundle)])
    assert main(["desk", "deliver", str(bundle), "--spec", sheet, "--title", "Kiln", "--tag",
                 "quay", *desk]) == 0
    capsys.readouterr()
    assert main(["desk", "list", "--due", "--json", *desk]) == 0
    (entry,) = json.loads(capsys.readouterr().out)
    assert entry["post"]["tags"] == ["quay"]
    assert main(["desk", "withdraw", entry["id"], *desk]) == 0
    assert main(["desk", "withdraw", entry["id"], *desk]) == 2
    assert "no entry" in capsys.readouterr().err


def test_captions_beside_films_come_with_them(sheet, tmp_path, capsys):
    """A film has a caption file of its name, another has none, which is said."""
    folder, out = tmp_path / "films", tmp_path / "out"
    folder.mkdir()
    films = [write_film(folder / f"{name}.mp4", frames=40) for name in ("said", "silent")]
    films[0].with_suffix(".srt").write_text("1\n00:00:00,500 --> 00:00:02,000\nHere it is\n")
    words = ["--spec", sheet, "--out", str(out), "--captions"]
    assert main(["batch", *map(str, films), *words]) == 0
    assert "1 of 2 versions have no captions" in capsys.readouterr().err
    with BatchList(out / LIST_NAME) as jobs:
        found = {Path(item.job.master).stem: item.job.recipe.captions for item in jobs.items()}
    assert [cue.text for cue in found["said"]] == ["Here it is"] and found["silent"] == ()
    assert main(["batch", "--watch", str(folder), *words]) == 2
    assert "and --captions" in capsys.readouterr().err
