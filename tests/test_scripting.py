"""What people script: docs/scripting.md as it stands, exit codes, answers in JSON, projects."""

import json
import re
import shlex
import subprocess
import sys
from pathlib import Path

import jsonschema
import pytest

from caracal.cli import specs
from caracal.cli.answers import schema
from caracal.cli.main import main
from caracal.cli.main import parser as command_parser
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.time import FrameRange
from caracal.core.framing.flags import FlagKind
from caracal.core.framing.motion import Manner, Motion
from caracal.core.framing.shot_solution import solve_shot
from caracal.core.layout.kinds import KINDS, kind_called, whole_plain
from caracal.core.project.edits import with_accepted, with_layout, with_range
from caracal.core.project.model import first_project
from caracal.core.project.storage import document, write_document
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet, write_sheet
from conftest import DEMO, ffmpeg, ffprobe, write_film

pytestmark = pytest.mark.usefixtures("small_sheets")

DOCS = Path(__file__).parent.parent / "docs"
GUIDE = (DOCS / "scripting.md").read_text()


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    """A folder with a film, a project of it, and a small sheet."""
    made = tmp_path_factory.mktemp("scripting")
    film = write_film(made / "film.mp4", frames=90)
    analysis = analyse(film)
    project = first_project(90)
    project = with_layout(project, "B", 0, whole_plain())
    write_document(made / "film.caracal", document(analysis, project))
    sheet = with_value(with_value(find_sheet("square-feed"), "canvas", (180, 180)),
                       "duration.least_s", 0.5)
    write_sheet(sheet, made / "small.toml")
    return made


def answered(capsys):
    """What came as JSON, by the published schema (an independent judge)."""
    told = json.loads(capsys.readouterr().out)
    jsonschema.validate(told, json.loads((DOCS / "answers.schema.json").read_text()))
    return told


def test_every_line_of_the_guide_works(folder, monkeypatch, capsys):
    monkeypatch.chdir(folder)
    (block,) = re.findall(r"```console\n(.*?)```", GUIDE, re.DOTALL)
    lines = [line.removeprefix("$ caracal ") for line in block.splitlines()]
    assert len(lines) >= 15
    for line in lines:
        assert main(shlex.split(line)) == 0, (line, capsys.readouterr().err)


def test_the_guide_names_every_command_and_option():
    commands = next(action for action in command_parser()._actions if action.choices).choices
    words = set(re.findall(r"[-\w]+", GUIDE))
    for name, command in commands.items():
        assert name in words, name
        options = {option for action in command._actions for option in action.option_strings}
        assert options - {"-h", "--help"} <= words, (name, options - words)


def test_the_published_schema_of_answers_is_the_one_in_force():
    assert json.loads((DOCS / "answers.schema.json").read_text()) == json.loads(
        json.dumps(schema()))


def test_exit_codes_are_those_of_the_table(folder, tmp_path, capsys):
    codes = {int(code) for code in re.findall(r"^\| (\d+) \|", GUIDE, re.MULTILINE)}
    assert codes == {0, 1, 2, 130}
    film = str(folder / "film.mp4")
    assert main(["look", film]) == 0
    assert main(["prove", film, "--spec", "vertical-short"]) == 1
    assert main(["look", str(tmp_path / "none.mp4")]) == 2
    with pytest.raises(SystemExit) as refused:
        main(["convert"])
    assert refused.value.code == 2
    # 130: tests of the terminal stop a conversion by its key.


def test_a_project_is_taken_for_its_film_and_its_decisions(folder, tmp_path, capsys):
    project, out = str(folder / "film.caracal"), tmp_path / "out"
    assert main(["look", project, "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["frames"] == 90
    assert main(["analyse", project, "--json"]) == 0
    assert len(json.loads(capsys.readouterr().out)["shots"]) == 1
    assert main(["path", project, "--shape", "1:1"]) == 0
    capsys.readouterr()
    assert main(["convert", project, "--spec", "square-feed", "--out", str(out), "--json"]) == 0
    (made,) = answered(capsys)["files"]
    assert made["right"] and made["film"] == str(folder / "film.mp4")
    # Version B shows the whole picture on a plain ground, which is what is there above it.
    raw = tmp_path / "one.gray"
    ffmpeg("-i", made["file"], "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "gray", raw)
    assert raw.read_bytes()[: 180 * 33].count(raw.read_bytes()[0]) > 180 * 31
    # A sheet of the same shape takes the framing of that version, as in a batch.
    assert main(["convert", project, "--spec", str(folder / "small.toml"), "--out", str(out),
                 "--json"]) == 0
    (small,) = answered(capsys)["files"]
    ffmpeg("-i", small["file"], "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "gray", raw)
    assert raw.read_bytes()[: 180 * 15].count(raw.read_bytes()[0]) > 180 * 14
    assert main(["convert", project, "--out", str(out), "--lead", "1", "--from", "1"]) == 2
    assert "--from and --lead" in capsys.readouterr().err
    assert main(["convert", str(folder / "film.mp4"), "--out", str(out)]) == 2
    assert "Give a spec sheet" in capsys.readouterr().err


def test_a_dry_run_tells_and_makes_nothing(folder, tmp_path, capsys):
    out, large = tmp_path / "out", tmp_path / "large.toml"
    write_sheet(with_value(find_sheet("vertical-story"), "canvas", (360, 640)), large)
    words = ["convert", str(folder / "film.mp4"), "--spec", str(folder / "small.toml"), str(large),
             "--out", str(out), "--dry-run"]
    assert main([*words, "--json"]) == 0
    small, story = answered(capsys)["versions"]
    assert small["seconds"] == story["seconds"] == 3.6 and small["size_mb"] > 0
    assert any("enlarged" in concern for concern in story["concerns"]) and not story["stopped"]
    words.remove(str(large))
    assert main(words) == 0
    assert "to make" in capsys.readouterr().out and not out.exists()
    long = ["convert", str(folder / "film.mp4"), "--spec", "vertical-short", "--from", "0", "--to",
            "1", "--out", str(out), "--dry-run", "--json"]
    assert main(long) == 1  # shorter than the sheet takes
    (version,) = answered(capsys)["versions"]
    assert version["stopped"] and version["size_mb"] == 0


def test_what_a_person_accepted_is_told_no_more(demo, tmp_path, capsys):
    """Words at the demo's beginning are cut in B, which is one flag of its first shot."""
    project = with_range(first_project(demo.master.frames), "B", FrameRange(0, 70))
    told = []
    for taken in (project, with_accepted(project, "B", 0, FlagKind.TEXT_CUT, "it goes on")):
        write_document(tmp_path / "film.caracal", document(demo, taken))
        assert main(["convert", str(tmp_path / "film.caracal"), "--spec", "square-feed", "--out",
                     str(tmp_path / "out"), "--dry-run", "--json"]) in (0, 1)
        (version,) = answered(capsys)["versions"]
        told.append({concern for concern in version["concerns"] if concern.startswith("Shot 1")})
    flags = flags_of(demo, project, "B", 0)
    assert told[0] == {f"Shot 1: {flag.sentence}" for flag in flags}
    assert told[0] - told[1] == {f"Shot 1: {flag.sentence}" for flag in flags
                                 if flag.kind is FlagKind.TEXT_CUT} != set()


def flags_of(analysis, project, letter, shot):
    sheet = find_sheet(project.version(letter).sheet)
    return solve_shot(analysis, shot, sheet, project.choice(letter, shot), Motion(), {}).flags


def test_lead_manner_and_cuts_are_taken_on_the_command_line(tmp_path, capsys, demo, folder):
    cuts = tmp_path / "cuts.edl"
    cuts.write_text("TITLE: two\nFCM: NON-DROP FRAME\n\n"
                    "001  AX V C 00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\n"
                    "002  AX V C 00:00:01:00 00:00:03:15 00:00:01:00 00:00:03:15\n")
    out, sheet = tmp_path / "out", str(folder / "small.toml")
    assert main(["convert", str(folder / "film.mp4"), "--spec", sheet, "--out", str(out), "--cuts",
                 str(cuts), "--manner", "locked", "--review", "--json"]) == 0
    (made,) = answered(capsys)["files"]
    assert made["right"] and "review copy" in made["file"]
    again = ["convert", str(folder / "film.mp4"), "--spec", sheet, "--out", str(out), "--json"]
    assert main(again) == 0 and main([*again, "--replace"]) == 0
    assert len(list(out.glob("*.mp4"))) == 2
    capsys.readouterr()
    # The talkers of the demo, as they are numbered: whoever leads stands in the window.
    assert main(["analyse", str(DEMO)]) == 0
    talkers = capsys.readouterr().out.splitlines()[5]
    assert "#1" in talkers and "#2" in talkers
    middles = []
    for person in ("1", "2"):
        assert main(["convert", str(DEMO), "--spec", sheet, "--out", str(tmp_path / person),
                     "--from", "18", "--to", "19", "--lead", person, "--json"]) == 0
        (made,) = answered(capsys)["files"]
        raw = tmp_path / "one.rgb"
        ffmpeg("-i", made["file"], "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "gray", raw)
        middles.append(raw.read_bytes())
    assert middles[0] != middles[1]
    with pytest.raises(SystemExit) as refused:
        main(["convert", str(DEMO), "--spec", sheet, "--out", str(out), "--manner", "sideways"])
    assert refused.value.code == 2 and "locked" in capsys.readouterr().err
    assert main([*again, "--lead", "44"]) == 2
    assert "no person 44" in capsys.readouterr().err and Manner.LOCKED


def test_batch_and_prove_answer_as_convert_does(folder, tmp_path, capsys):
    film, sheet = str(folder / "film.mp4"), str(folder / "small.toml")
    assert main(["batch", film, "--spec", sheet, "--out", str(tmp_path / "b"), "--json"]) == 0
    (made,) = answered(capsys)["files"]
    assert main(["prove", made["file"], "--spec", sheet, "--json"]) == 0
    (proved,) = answered(capsys)["files"]
    assert proved["file"] == made["file"] and proved["right"]
    assert int(ffprobe(Path(made["file"]))["streams"][0]["nb_read_frames"]) == 90


def test_sheets_are_listed_in_groups_and_added(folder, tmp_path, capsys, monkeypatch):
    monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path))
    mine = with_value(with_value(find_sheet("square-feed"), "name", "mine"), "title", "Mine")
    write_sheet(mine, tmp_path / "m.toml")
    assert main(["specs", "add", str(tmp_path / "m.toml")]) == 0
    assert main(["specs", "add", str(tmp_path / "m.toml")]) == 2
    assert "--force" in capsys.readouterr().err
    assert main(["specs", "add", str(tmp_path / "m.toml"), "--force"]) == 0
    capsys.readouterr()
    assert main(["specs", "list"]) == 0
    told = capsys.readouterr().out
    assert told.index("Generic") < told.index("square-feed") < told.index("Demo") < told.index(
        "plaza") < told.index("Your own") < told.index("mine")
    assert specs.DEMO


def test_the_log_is_told(capsys, tmp_path):
    log = tmp_path / "mine.log"
    assert main(["--log", str(log), "look", str(tmp_path / "none.mp4")]) == 2
    capsys.readouterr()
    assert main(["--log", str(log), "log", "--lines", "3"]) == 0
    first, *rest = capsys.readouterr().out.splitlines()
    assert first == str(log) and "none.mp4" in rest[-1]
    assert main(["--log", str(log), "log", "--lines", "0"]) == 0
    assert capsys.readouterr().out == f"{log}\n"
    done = subprocess.run([sys.executable, "-m", "caracal", "log", "--lines", "x"],
                          capture_output=True, text=True, check=False)
    assert done.returncode == 2 and done.stderr.count("\n") == 1


def test_files_that_documents_name_are_there():
    root = DOCS.parent
    for paper in ("CONTRIBUTING.md", "SECURITY.md", "README.md", "docs/scripting.md",
                     "docs/architecture.md"):
        text = (root / paper).read_text()
        for name in re.findall(r"`((?:core|ui|cli)/[\w/]+\.py)`", text):
            assert (root / "src" / "caracal" / name).is_file(), (paper, name)
        for name in re.findall(r"`((?:scripts|benchmarks|docs)/[\w/.-]+)`", text):
            assert (root / name).exists(), (paper, name)
        for name in re.findall(r"\]\(((?!http)[\w/.-]+)\)", text):
            assert ((root / paper).parent / name).exists(), (paper, name)


@pytest.mark.parametrize("command", ["convert", "batch"])
def test_help_names_every_layout_as_it_is_given(capsys, command):
    with pytest.raises(SystemExit):
        main([command, "--help"])
    said = re.sub(r"-\s+", "-", " ".join(capsys.readouterr().out.split()))
    names, _, _ = said.partition("--layout NAME|FILE ")[2].partition(", or a layout")
    assert [kind_called(name) for name in names.split(", ")] == list(KINDS)
