"""On a terminal: progress with time left; Ctrl+C stops cleanly and keeps partial files were "
  "deleted."""

import os
import pty
import signal
import subprocess
import sys
import time

import pytest

from caracal.cli.main import parser
from caracal.core.base.work import Progress
from conftest import DEMO, write_film

pytestmark = pytest.mark.usefixtures("small_sheets")


def _in_a_terminal(arguments, until, then=None):
    """Run the command with a terminal as standard error; (exit code, what it showed)."""
    leader, follower = pty.openpty()
    work = subprocess.Popen([sys.executable, "-m", "caracal", *arguments],
                            stdout=subprocess.PIPE, stderr=follower)
    os.close(follower)
    shown = b""
    while True:
        try:
            part = os.read(leader, 4096)
        except OSError:  # the other side has closed
            break
        if not part:
            break
        shown += part
        if then is not None and until in shown:
            work.send_signal(then)
            then = None
    os.close(leader)
    out, _ = work.communicate(timeout=120)
    return work.returncode, shown.decode(), out.decode()


def test_progress_is_shown_with_time_left_and_wiped(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=250)
    code, shown, out = _in_a_terminal(
        ["convert", str(film), "--spec", "square-feed", "--out", str(tmp_path / "out"), "--json"],
        b"never")
    assert code == 0 and "Encoding" in shown and "%" in shown and " left" in shown
    wiped = shown.rstrip("\r\n").rsplit("%", 1)[1]
    assert "\x1b[2K" in wiped and out.startswith('{"format":"caracal files"')


def test_ctrl_c_stops_an_encode_cleanly(tmp_path):
    out = tmp_path / "out"
    began = time.monotonic()
    code, shown, _ = _in_a_terminal(
        ["convert", str(DEMO), "--spec", "square-feed", "--out", str(out)], b"Encoding",
        signal.SIGINT)
    assert code == 130 and "partial files were deleted" in shown
    assert not out.exists() or list(out.iterdir()) == []
    assert time.monotonic() - began < 110


def test_a_pipe_gets_no_progress(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=60)
    done = subprocess.run([sys.executable, "-m", "caracal", "analyse", str(film)],
                          capture_output=True, text=True, check=True)
    assert done.stderr == "" and done.stdout.startswith("   1")


def test_every_command_explains_itself():
    commands = next(action for action in parser()._actions if action.dest == "command")
    assert set(commands.choices) == {
        "demo", "open", "look", "analyse", "path", "convert", "captions", "prove", "cache", "log",
        "integrate", "specs", "batch", "desk"}
    assert all(action.help for action in commands._choices_actions)


def test_share_of_nothing_is_nothing():
    assert Progress("Working", 0, 0).share == 0.0
