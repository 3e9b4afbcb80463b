"""What a command or a window leaves: its files where they were asked for, and nothing else."""

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import pytest

from caracal.core.base.resources import DEMO_FILM
from caracal.core.processes.children import command, environment
from caracal.core.specs.sheet_store import find_sheet, write_sheet
from conftest import smaller, write_film

pytestmark = pytest.mark.timeout(120)


@pytest.fixture
def own(tmp_path):
    """An environment whose temporary files, state, cache and configuration are in folders here."""
    for name in ("tmp", "state", "cache", "config", "home"):
        (tmp_path / name).mkdir()
    return {**environment(), "TMPDIR": str(tmp_path / "tmp"), "HOME": str(tmp_path / "home"),
            "CARACAL_STATE": str(tmp_path / "state"), "CARACAL_CACHE": str(tmp_path / "cache"),
            "CARACAL_CONFIG": str(tmp_path / "config"), "QT_QPA_PLATFORM": "offscreen",
            "MARKER": str(tmp_path)}


def left(tmp_path):
    """Temporary files, and processes that were started with this test's environment."""
    files = [str(path) for path in (tmp_path / "tmp").iterdir()]
    marker = f"TMPDIR={tmp_path / 'tmp'}".encode()
    for folder in Path("/proc").iterdir():
        if folder.name.isdigit() and int(folder.name) != os.getpid():
            try:
                state = (folder / "stat").read_text().rpartition(")")[2].split()[0]
                if state != "Z" and marker in (folder / "environ").read_bytes().split(b"\0"):
                    files.append((folder / "cmdline").read_bytes().decode(errors="replace"))
            except OSError:
                continue
    return files


def assert_nothing_left(tmp_path):
    until = time.monotonic() + 5  # what was killed with its starter takes a moment
    while (found := left(tmp_path)) and time.monotonic() < until:
        time.sleep(0.05)
    assert found == []


@pytest.mark.parametrize("words", [
    ("look", "FILM"), ("analyse", "FILM"), ("path", "FILM", "--shape", "9:16"),
    ("convert", "FILM", "--spec", "SHEET", "--out", "OUT"),
    ("convert", "FILM", "--spec", "SHEET", "--out", "OUT", "--dry-run"),
    ("batch", "FILM", "--spec", "SHEET", "--out", "OUT", "--bundle", "BUNDLE"),
    ("captions", "FILM", "--out", "CAPTIONS"), ("look", "NONE"),
    ("prove", "FILM", "--spec", "wide"),
], ids=lambda words: " ".join(words[:2]) if words[1] != "FILM" else words[0])
def test_a_command_leaves_no_folder_and_no_process(tmp_path, own, words):
    film = write_film(tmp_path / "film.mp4", frames=90)
    write_sheet(smaller(find_sheet("square-feed")), tmp_path / "small.toml")
    names = {"FILM": film, "SHEET": tmp_path / "small.toml", "OUT": tmp_path / "out",
             "BUNDLE": tmp_path / "bundle", "CAPTIONS": tmp_path / "said.srt",
             "NONE": tmp_path / "none.mp4"}
    done = subprocess.run(command("cli", *(str(names.get(word, word)) for word in words)), env=own,
                          capture_output=True, text=True, timeout=100, check=False)
    assert done.returncode in (0, 1, 2) and "Traceback" not in done.stderr, done.stderr
    assert_nothing_left(tmp_path)
    assert list((tmp_path / "home").iterdir()) == []


DIALOG = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QMessageBox
from caracal.ui.shell import application
from caracal.ui.shell.main_window import MainWindow

def ask():
    QTimer.singleShot(0, lambda: print("open", flush=True))
    if "dialog" in sys.argv:
        box = QMessageBox()
        box.exec()

shown = MainWindow.showEvent
def show(window, event):
    shown(window, event)
    QTimer.singleShot(200, ask)
MainWindow.showEvent = show
sys.exit(application.run(Path(sys.argv[1])))
"""


@pytest.mark.parametrize("state", ["plain", "dialog"])
def test_a_window_ends_at_the_first_of_sixty_signals(tmp_path, own, state):
    """While a film is being analysed, and while a dialog waits for a person, too."""
    film = write_film(tmp_path / "film.mp4", frames=200, size=(640, 360))
    window = subprocess.Popen([sys.executable, "-P", "-c", DIALOG, str(film), state], env=own,
                              stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert window.stdout.readline() == "open\n"
    for i in range(60):
        window.send_signal((signal.SIGTERM, signal.SIGINT, signal.SIGHUP)[i % 3])
    _, said = window.communicate(timeout=60)
    assert window.returncode == 0 and "Traceback" not in said, said
    assert_nothing_left(tmp_path)


TRAP = """
import os
with open({marker!r}, "a") as file:
    file.write(__name__ + "\\n")
raise ImportError("a trap")
"""


def test_no_module_beside_a_film_is_run(tmp_path, own):
    """A folder with a trap for every module of the standard library, and of all that is installed.

    Whatever is started there is started in it: by the entry that people call, in the fork server,
    the resource tracker, and all that they start.
    """
    folder, marker = tmp_path / "films", tmp_path / "ran"
    folder.mkdir()
    installed = {path.stem for path in Path(sys.prefix).glob("lib/python*/site-packages/*")
                 if path.suffix in (".py", "") and path.stem.isidentifier()}
    for name in sys.stdlib_module_names | installed | {"caracal", "sitecustomize"}:
        (folder / f"{name}.py").write_text(TRAP.format(marker=str(marker)))
    write_film(folder / "film.mp4", frames=90)
    write_sheet(smaller(find_sheet("square-feed")), tmp_path / "small.toml")
    plain = {key: value for key, value in own.items() if key != "PYTHONSAFEPATH"}
    entry = Path(sys.executable).with_name("caracal")
    for words in (["look", "film.mp4"],
                  ["convert", "film.mp4", "--spec", str(tmp_path / "small.toml"), "--out", "out"],
                  ["batch", "film.mp4", "--spec", str(tmp_path / "small.toml"), "--out", "more"]):
        done = subprocess.run([entry, *words], cwd=folder, env=plain, capture_output=True,
                              text=True, timeout=100, check=False)
        assert done.returncode == 0, done.stderr
    window = subprocess.Popen([entry, "open", "film.mp4", "--new-window"], cwd=folder, env=plain,
                              stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    until = time.monotonic() + 60
    while not any(name.startswith("caracal core.render") for name in left(tmp_path)):
        assert time.monotonic() < until and window.poll() is None
        time.sleep(0.1)
    window.terminate()
    said, _ = window.communicate(timeout=60)
    assert window.returncode == 0, said
    assert not marker.exists(), marker.read_text()


def test_a_film_that_is_opened_and_closed_leaves_no_descriptor(qtbot, qapp, tmp_path):
    """A memfd stayed open for each film."""
    from conftest import open_window

    window = open_window(qtbot, qapp, tmp_path)
    counts = []
    for _ in range(3):
        window.close_film()
        window.open_film(DEMO_FILM)
        qtbot.waitUntil(lambda: window.film is not None and window.analysing is None,
                        timeout=60_000)
        window.film.session.preview.get("A", 100, (90, 160))
        qtbot.waitUntil(lambda: window.film.session.preview.get("A", 100, (90, 160)) is not None,
                        timeout=20_000)
        if not counts:
            qtbot.wait(500)
            counts.append(memfds())
        qtbot.waitUntil(lambda: memfds() <= counts[0], timeout=20_000)  # closed films end by then
    window.close()


def memfds():
    return sum("memfd:caracal" in str(path.readlink()) for path in open_files())


def open_files():
    return [path for path in Path("/proc/self/fd").iterdir() if path.is_symlink()]


def test_a_killed_process_leaves_nothing_for_long(tmp_path, own):
    """The folder in which its fork server listened; one that is in use stays."""
    film = write_film(tmp_path / "film.mp4", frames=200, size=(640, 360))
    write_sheet(smaller(find_sheet("square-feed")), tmp_path / "small.toml")
    place = Path(tempfile.mkdtemp(prefix="c-"))  # short: a socket's name is in it
    own["TMPDIR"] = str(place)
    (place / "caracal-run-strange").mkdir()  # without a lock: none of ours

    def folders():
        return {path.name for path in place.glob("caracal-run-*")
                if (path / "lock").exists()}

    def converting():
        words = command("cli", "convert", str(film), "--spec", str(tmp_path / "small.toml"),
                        "--out", str(tmp_path / "out"))
        made = subprocess.Popen(words, env=own, stdout=subprocess.DEVNULL,
                                stderr=subprocess.DEVNULL)
        before = folders()
        until = time.monotonic() + 30
        while folders() <= before and time.monotonic() < until:
            time.sleep(0.01)
        return made, folders() - before

    killed, left = converting()
    assert len(left) == 1
    (child,) = Path(f"/proc/{killed.pid}/task/{killed.pid}/children").read_text().split()
    killed.kill()  # its child goes with it
    killed.wait()
    until = time.monotonic() + 10
    while Path(f"/proc/{child}").exists() and time.monotonic() < until:
        time.sleep(0.01)
    assert folders() == left
    running, held = converting()
    assert folders() == held and not held & left
    subprocess.run(command("cli", "look", str(film)), env=own, check=True, capture_output=True)
    assert held <= folders() or running.poll() is not None
    running.terminate()
    running.wait(30)
    assert [path.name for path in place.iterdir()] == ["caracal-run-strange"]
    shutil.rmtree(place)


@pytest.mark.parametrize("written", ["--out OUT", "--out=OUT"])
def test_a_command_whose_process_stands_still_leaves_no_half_made_file(tmp_path, own, written):
    film = write_film(tmp_path / "film.mp4", frames=200, size=(640, 360))
    out = tmp_path / "out"
    made = subprocess.Popen(
        command("cli", "convert", str(film), "--spec", "square-feed",
                *written.replace("OUT", str(out)).split()), env=own,
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    until = time.monotonic() + 60
    while not list(out.glob("*.part")) and time.monotonic() < until:
        time.sleep(0.01)
    (child,) = Path(f"/proc/{made.pid}/task/{made.pid}/children").read_text().split()
    os.kill(int(child), signal.SIGSTOP)
    (out / "another film.mp4.12345678.party").touch()  # none of ours
    made.terminate()
    assert made.wait(30) == 130
    assert [path.name for path in out.iterdir()] == ["another film.mp4.12345678.party"]


def test_a_long_name_for_temporary_files_ends_no_command(tmp_path, own):
    """Sockets have names of 107 bytes at the most: unix(7)."""
    film = write_film(tmp_path / "film.mp4", frames=90)
    write_sheet(smaller(find_sheet("square-feed")), tmp_path / "small.toml")
    folder = tmp_path / ("x" * 120)
    folder.mkdir()
    words = command("cli", "convert", str(film), "--spec", str(tmp_path / "small.toml"), "--out",
                    str(tmp_path / "out"))
    done = subprocess.run(words, env={**own, "TMPDIR": str(folder)}, capture_output=True,
                          text=True, timeout=100, check=False)
    assert done.returncode == 0, done.stderr
    assert list(folder.iterdir()) == []
