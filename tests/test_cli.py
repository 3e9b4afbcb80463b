"""The command line as scripts use it: JSON on stdout, one sentence on stderr, exit codes."""

import json
import subprocess
import sys

import pytest

from caracal.cli.main import main
from caracal.cli.progress_bar import ProgressBar
from conftest import DEMO, ffmpeg, ffprobe, write_film

pytestmark = pytest.mark.usefixtures("small_sheets")


@pytest.fixture
def film(tmp_path):
    return write_film(tmp_path / "film.mp4", frames=80)


def test_look(film, capsys):
    assert main(["look", str(film), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["frames"] == 80
    assert main(["look", str(film)]) == 0
    assert "320x180" in capsys.readouterr().out


def test_analyse_and_path_of_the_demo(demo, capsys):
    assert main(["analyse", str(DEMO), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["shots"][1]["start"] == 76 and found["shots"][1]["transition_in"] == "cut"
    assert {"id", "kind", "shot", "boxes"} <= set(found["tracks"][0])
    assert len(found["tracks"][0]["boxes"][0]) == 5
    assert main(["path", str(DEMO), "--shape", "9:16", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert len(rows) == 1500 and rows[7][0] == 7 and rows[7][3] == 607.5


def test_convert_and_prove(film, tmp_path, capsys):
    out = tmp_path / "out"
    assert main(["convert", str(film), "--spec", "square-feed", "--out", str(out), "--json"]) == 0
    (made,) = json.loads(capsys.readouterr().out)["files"]
    assert main(["prove", made["file"], "--spec", "square-feed"]) == 0
    assert main(["prove", made["file"], "--spec", "vertical-short", "--json"]) == 1
    told = capsys.readouterr().out
    assert '"right":false' in told


@pytest.mark.parametrize("arguments", [
    ["look", "/nowhere/film.mp4"], ["analyse", "/nowhere/film.mp4"],
    ["path", str(DEMO), "--shape", "wide"],
    ["convert", str(DEMO), "--spec", "nothing-like-it", "--out", "/tmp/never"],
    ["convert", str(DEMO), "--spec", "square-feed", "--out", "/tmp/never", "--from", "soon"],
    ["convert", str(DEMO), "--spec", "square-feed", "--out", "/tmp/never", "--from", "9",
     "--to", "3"],
    ["convert", str(DEMO), "--spec", "square-feed", "--out", "/tmp/never", "--to", "99"],
    ["convert", str(DEMO), "--spec", "square-feed", "--out", "/proc/nowhere"],
    ["prove", "/nowhere/film.mp4", "--spec", "square-feed"], ["open", "/nowhere/film.mp4"],
])
def test_bad_input_gets_one_sentence_and_two(arguments, capsys, demo):
    assert main(arguments) == 2
    told = capsys.readouterr()
    assert told.out == "" and told.err.count("\n") == 1 and "Traceback" not in told.err
    assert told.err.strip().endswith(".")


@pytest.mark.parametrize("arguments", [["convert"], ["fly"], ["path", "x.mp4"]])
def test_wrong_usage_is_two(arguments, capsys):
    with pytest.raises(SystemExit) as ended:
        main(arguments)
    assert ended.value.code == 2 and capsys.readouterr().err.count("\n") == 1


def test_open_refuses_a_broken_project_before_any_window(tmp_path, capsys):
    path = tmp_path / "broken.caracal"
    path.write_text("{}")
    assert main(["open", str(path)]) == 2
    assert "broken.caracal" in capsys.readouterr().err


def test_help_imports_none_of_what_the_commands_need():
    """In a process of its own; NumPy alone would take longer than all of the help."""
    said = subprocess.run(
        [sys.executable, "-c", "import sys\nfrom caracal.cli.main import main\ntry:\n"
         "    main(['--help'])\nexcept SystemExit:\n    pass\n"
         "print(sorted({'numpy', 'av', 'cv2', 'scipy', 'PySide6'} & set(sys.modules)))"],
        capture_output=True, text=True, check=True).stdout
    assert "convert" in said and said.splitlines()[-1] == "[]"


def test_captions_are_written_and_burnt_in_on_the_command_line(tmp_path, capsys, small_sheets):
    out, begins = tmp_path / "said.srt", tmp_path / "begins.mp4"
    ffmpeg("-t", "9", "-i", DEMO, "-c", "copy", begins)  # test_speech hears all of it
    assert main(["captions", str(begins), "--out", str(out), "--names", "kiln, quay, Tobias"]) == 0
    assert "1 caption in" in capsys.readouterr().out and "kiln" in out.read_text()
    assert main(["captions", str(DEMO), "--out", str(out)]) == 2
    assert "--force" in capsys.readouterr().err
    assert main(["captions", str(DEMO), "--out", str(tmp_path / "said.doc")]) == 2
    assert "cannot be written as" in capsys.readouterr().err
    assert main(["convert", str(DEMO), "--spec", "vertical-short", "--out", str(tmp_path),
                 "--captions", str(DEMO.with_suffix(".srt")), "--from", "6.9", "--to", "9.9"]) == 0
    assert capsys.readouterr().out.startswith("proved")
    assert main(["convert", str(DEMO), "--spec", "vertical-short", "--out", str(tmp_path),
                 "--captions", str(tmp_path / "none.srt")]) == 2
    assert "no such file" in capsys.readouterr().err


def test_a_range_is_converted_at_another_speed(tmp_path, capsys):
    film = write_film(tmp_path / "film.mp4", frames=100)
    wanted = ["convert", str(film), "--spec", "square-feed", "--out", str(tmp_path / "out")]
    assert main([*wanted, "--from", "1", "--to", "3", "--speed", "50"]) == 0
    (made,) = (tmp_path / "out").glob("*.mp4")
    assert int(ffprobe(made)["streams"][0]["nb_read_frames"]) == 100  # 2 s that last 4
    assert main([*wanted, "--speed", "10"]) == 2
    assert "Speed must be between 25 and 400 %; 10 was given" in capsys.readouterr().err


@pytest.mark.parametrize(("words", "said"), [
    (["convert", "--spec", "square-feed", "--out", "o"], "No film was named"),
    (["convert", "--spec", "square-feed", "gone.mp4", "--out", "o"], "gone.mp4: There is no such"),
    (["convert", "a.mp4", "--spec", "square-feed", "b.mp4", "--out", "o"], "More than one film"),
    (["batch", "--spec", "square-feed", "gone.mp4", "--out", "o"], "gone.mp4: There is no such"),
    (["look", "-"], "cannot be used here"), (["convert", "-", "--out", "o"], "cannot be used here"),
    (["captions", "gone.mp4", "--out", "-", "--json"], "cannot both be written"),
    (["captions", "gone.mp4", "--out", "-", "--names", "-"], "gone.mp4: There is no such"),
    (["prove", "a.mp4", "-"], "cannot be used here"),
    (["batch", "-", "--out", "o"], "cannot be used here"),
])
def test_films_stand_before_or_after_the_sheets_and_are_files(words, said, capsys, tmp_path,
                                                              monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert main(words) == 2
    assert said in capsys.readouterr().err and not list(tmp_path.iterdir())


def test_sheets_come_and_go_by_streams():
    """The shell's way: what one command writes the next one reads."""
    caracal = f"{sys.executable} -m caracal"
    said = subprocess.run(f"{caracal} specs export square-feed - | {caracal} specs check -",
                          shell=True, capture_output=True, text=True, check=True)
    assert said.stdout.startswith("This is a good sheet: Square feed")
    bad = subprocess.run(f"echo '[[' | {caracal} specs check -", shell=True, capture_output=True,
                         text=True, check=False)
    assert bad.returncode == 2 and "standard input.toml: This spec sheet is broken" in bad.stderr


def test_several_files_are_proved_at_once(tmp_path, capsys):
    film = write_film(tmp_path / "film.mp4", frames=80)
    words = ["convert", str(film), "--spec", "square-feed", "--out", str(tmp_path / "out")]
    assert main(words) == 0
    (made,) = (tmp_path / "out").glob("*.mp4")
    capsys.readouterr()
    assert main(["prove", str(made), str(film), "--spec", "square-feed", "--json"]) == 1
    first, second = json.loads(capsys.readouterr().out)["files"]
    assert first["right"] and not second["right"]


def test_a_refusal_is_one_line_whatever_a_name_holds(tmp_path, capsys):
    """A line break would be a second sentence, an escape would command the terminal."""
    ProgressBar().line("done: a\nb\x1b[2J.mp4")
    assert capsys.readouterr().err == "done: a?b?[2J.mp4\n"
    assert main(["look", str(tmp_path / "a\nb \x1b[2J.mp4")]) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1 and "\x1b" not in said and "a?b ?[2J.mp4: There is no" in said
