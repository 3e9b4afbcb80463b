"""A second start with a file: another process asks, the window answers."""

import subprocess
import sys
import uuid

import pytest
from PySide6.QtCore import QObject, QSettings
from PySide6.QtNetwork import QLocalSocket

from caracal.ui.shell.single_instance import CHOICE, SecondStart, opens_elsewhere

ASKS = ("import sys; from pathlib import Path; "
        "from caracal.ui.shell.single_instance import opens_elsewhere;"
        "print(opens_elsewhere(Path(sys.argv[1]), sys.argv[2]))")


@pytest.fixture
def name():
    return f"caracal-test-{uuid.uuid4().hex[:8]}"


@pytest.fixture
def listening(qapp, tmp_path, name):
    parent, taken = QObject(), []
    settings = QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat)
    made = SecondStart(parent, settings, taken.append, name)
    yield made, settings, taken
    made.close()


def ask(qtbot, path, name):
    """What another process is told."""
    with subprocess.Popen([sys.executable, "-c", ASKS, str(path), name], stdout=subprocess.PIPE,
                          text=True) as work:
        qtbot.waitUntil(lambda: work.poll() is not None, timeout=20_000)
        return work.stdout.read().strip()


def test_the_window_that_is_there_takes_the_film(listening, qtbot, tmp_path, name):
    second, _, taken = listening
    film = tmp_path / "a film — with odd name.mp4"
    assert second.listens
    assert ask(qtbot, film, name) == "True" and taken == [film]


def test_or_a_new_window_does_by_choice(listening, qtbot, tmp_path, name):
    _, settings, taken = listening
    settings.setValue(CHOICE, False)
    assert ask(qtbot, tmp_path / "film.mp4", name) == "False" and taken == []


def test_nobody_there_means_a_new_window(qapp, tmp_path, name):
    assert opens_elsewhere(tmp_path / "film.mp4", name) is False


def test_one_window_listens_and_the_next_does_after_it(listening, qapp, qtbot, tmp_path, name,
                                                       monkeypatch):
    monkeypatch.setattr("caracal.ui.shell.single_instance.AGAIN_MS", 100)
    first, settings, _ = listening
    parent, taken = QObject(), []
    other = SecondStart(parent, settings, taken.append, name)
    assert first.listens and not other.listens
    first.close()
    qtbot.waitUntil(lambda: other.listens, timeout=5_000)
    assert ask(qtbot, tmp_path / "film.mp4", name) == "True" and len(taken) == 1
    other.close()


def test_nonsense_is_neither_opened_nor_the_end(listening, qtbot, tmp_path, name):
    second, _, taken = listening
    for nonsense in (b"{\n", b'{"open": 3}\n', b"x" * 100_000):
        socket = QLocalSocket()
        socket.connectToServer(name)
        assert socket.waitForConnected(1000)
        socket.write(nonsense)
        socket.flush()
        qtbot.waitUntil(
            lambda socket=socket: socket.state() is QLocalSocket.LocalSocketState.UnconnectedState,
            timeout=5_000)
    assert second.listens and taken == []
    assert ask(qtbot, tmp_path / "film.mp4", name) == "True"


def test_what_a_crash_left_is_taken_away(qapp, qtbot, tmp_path, name):
    """A socket's file that nobody listens on: the server that made it was killed."""
    subprocess.run([sys.executable, "-c", "import os, sys; from PySide6.QtCore import "
                    "QCoreApplication; from PySide6.QtNetwork import QLocalServer; "
                    "a = QCoreApplication([]); s = QLocalServer(); assert s.listen(sys.argv[1]); "
                    "os.kill(os.getpid(), 9)", name], check=False)
    parent, taken = QObject(), []
    settings = QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat)
    second = SecondStart(parent, settings, taken.append, name)
    assert second.listens and ask(qtbot, tmp_path / "film.mp4", name) == "True"
    second.close()


def test_the_film_comes_into_the_window(window, qtbot, tmp_path):
    from caracal.ui.shell.application import come_forward

    come_forward(window, tmp_path / "none.mp4")
    qtbot.waitUntil(lambda: "no such file" in window.statusBar().currentMessage(), timeout=5_000)
    assert window.film is not None and window.isActiveWindow()  # what is open stays
