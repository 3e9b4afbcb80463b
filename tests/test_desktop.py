"""What the desktop is told: kept current, valid by the desktop's own tools, put and taken away."""

import importlib.util
import os
import pwd
import re
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import pytest

from caracal.cli.integrate import PLACES, exec_argument
from caracal.cli.main import main
from caracal.core.base.resources import shipped
from caracal.core.processes.children import environment

SCRIPT = Path(__file__).parent.parent / "scripts" / "desktop_files.py"


@pytest.fixture(scope="module")
def script():
    """The script that makes the files."""
    found = importlib.util.spec_from_file_location("desktop_files", SCRIPT)
    module = importlib.util.module_from_spec(found)
    found.loader.exec_module(module)
    return module


def test_the_files_that_ship_are_those_the_script_makes(script):
    made = script.files()
    assert set(made) == set(PLACES)
    for name, text in made.items():
        assert shipped("desktop", name).read_text(encoding="utf-8") == text, name


def test_the_desktop_s_own_tools_take_them():
    """desktop-file-validate, appstreamcli and groff, from Debian."""
    desktop = str(shipped("desktop", "caracal.desktop"))
    subprocess.run(["desktop-file-validate", "--no-hints", desktop], check=True)
    done = subprocess.run(["appstreamcli", "validate", "--no-net", "--no-color",
                           str(shipped("desktop", "caracal.metainfo.xml"))],
                          capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout
    done = subprocess.run(["groff", "-man", "-Tascii", "-P-cbou", "-ww",
                           str(shipped("desktop", "caracal.1"))],
                          capture_output=True, text=True, check=True)
    assert not done.stderr and "caracal" in done.stdout and "dry" in done.stdout
    for name in ("caracal.svg", "application-x-caracal.svg", "caracal.xml"):
        ElementTree.parse(shipped("desktop", name))


def test_completions_know_commands_and_options():
    asked = ("source '{}'; COMP_WORDS=(caracal {}); COMP_CWORD={}; _caracal; "
             "printf '%s\\n' \"${{COMPREPLY[@]}}\"")
    told = []
    for words, at in (("conv", 1), ("convert --dry", 2)):
        line = asked.format(shipped("desktop", "caracal.bash"), words, at)
        told.append(subprocess.run(["bash", "-c", line], capture_output=True, text=True,
                                   check=True).stdout.split())
    assert told == [["convert"], ["--dry-run"]]


def test_it_is_laid_out_and_taken_away_again(tmp_path, capsys, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    for where in ([], ["--into", str(tmp_path / "packager")]):
        home = Path(where[1]) if where else tmp_path / "share"
        assert main(["integrate", *where]) == 0
        entry = home / "applications" / "caracal.desktop"
        assert "MimeType=application/x-caracal;" in entry.read_text()
        assert not where or "\nExec=caracal open %f\n" in entry.read_text()  # of the path, there
        laid = [path for path in home.rglob("*") if path.is_file()]
        assert {path.name for path in laid} >= {"caracal.svg", "caracal.1", "caracal"}
        assert main(["integrate", "--remove", *where]) == 0
        assert not [path for path in PLACES if list(home.rglob(path))]
        assert main(["integrate", "--remove", *where]) == 0  # twice is no harm
    assert capsys.readouterr().out.count("removed") == 4 * len(PLACES)
    (tmp_path / "file").write_text("")
    assert main(["integrate", "--into", str(tmp_path / "file")]) == 2
    assert "Traceback" not in capsys.readouterr().err


def test_a_desktop_starts_it_with_a_film_and_without(monkeypatch):
    """%f is nothing where the program is started by itself (Desktop Entry Specification)."""
    from caracal.cli import opening

    monkeypatch.setattr(opening, "_window", lambda film: 0 if film is None else 7)
    assert main(["open"]) == 0


@pytest.mark.parametrize("path", ["/opt/my films/caracal", '/opt/a"b$c`d\\e/caracal',
                                  "/opt/100 %f/caracal", "/opt/Käse/caracal"])
def test_the_entry_names_a_program_wherever_it_lies(tmp_path, path):
    """Read as the specification says (Desktop Entry Specification 1.5, The Exec key), and by GLib.

    First the escapes of a string value, then the quotes of an argument, then field codes.
    """
    value = exec_argument(path)
    string = re.sub(r"\\(.)", lambda found: {"s": " ", "n": "\n", "t": "\t", "r": "\r"}.get(
        found[1], found[1]), value)
    assert string[0] == string[-1] == '"'
    argument = re.sub(r'\\(["`$\\])', r"\1", string[1:-1])
    assert argument.replace("%%", "%") == path
    entry = tmp_path / "caracal.desktop"
    entry.write_text(f"[Desktop Entry]\nType=Application\nName=C\nExec={value} open %f\n")
    done = subprocess.run(["desktop-file-validate", "--no-hints", entry], capture_output=True,
                          text=True, check=False)
    assert done.returncode == 0, done.stdout


def test_what_a_person_edited_is_neither_replaced_nor_removed(tmp_path, capsys, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    assert main(["integrate"]) == 0
    entry = tmp_path / "share" / "applications" / "caracal.desktop"
    entry.write_text(entry.read_text() + "# mine\n")
    assert main(["integrate"]) == 2
    told = capsys.readouterr().err
    assert str(entry) in told and "--force" in told and told.count("\n") == 1
    assert main(["integrate", "--remove"]) == 0
    assert "# mine" in entry.read_text() and "it stays" in capsys.readouterr().err
    assert [path for path in (tmp_path / "share").rglob("*") if path.is_file()
            and path.name != "mimeinfo.cache"] == [entry]
    assert main(["integrate", "--force"]) == 0 and "# mine" not in entry.read_text()


@pytest.mark.parametrize("before", [[], ["applications", "mime/packages", "mine"]])
def test_taken_away_it_leaves_the_folders_that_were_there_and_no_other(
    tmp_path, monkeypatch, before
):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    for name in before:
        (tmp_path / "share" / name).mkdir(parents=True)
    folders = sorted(path for path in tmp_path.rglob("*") if path.is_dir())
    assert main(["integrate"]) == 0 and main(["integrate", "--remove"]) == 0
    kept = [tmp_path / "state", *(tmp_path / "state").rglob("*")]
    found = sorted(path for path in tmp_path.rglob("*") if path.is_dir() and path not in kept)
    assert found == folders


def test_an_empty_home_is_the_one_that_the_system_knows(tmp_path):
    """With HOME empty it was written to /.local."""
    for home in ("", "relative/home"):
        plain = {key: value for key, value in environment().items()
                 if not key.startswith(("XDG_", "CARACAL_"))}
        done = subprocess.run(
            [sys.executable, "-P", "-c", "import os; from caracal.core.base.folders import *; "
             "set_home(); from caracal.cli.integrate import data_home; "
             "print(data_home(), state_root(), cache_root(), os.environ['HOME'])"],
            env={**plain, "HOME": home},
            capture_output=True, text=True, check=True)
        known = pwd.getpwuid(os.getuid()).pw_dir
        assert all(path.startswith(known) for path in done.stdout.split())
