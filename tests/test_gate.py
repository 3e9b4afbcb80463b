"""The one gate: sentences for whatever goes wrong, crashes told, nothing leaves the machine."""

import os
import signal
import subprocess
import sys
import time
from multiprocessing import Pipe
from pathlib import Path

import pytest

from caracal.cli import entry, opening
from caracal.cli.main import main
from caracal.core.analysis.film_pass.process import analyse_apart, probe_apart
from caracal.core.base.errors import Cancelled, CaracalError, InputError
from caracal.core.base.logs import keep_log, log_file, unforeseen
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.processes.children import PARENT, Child, command, environment
from caracal.core.specs.sheet_store import find_sheet, write_sheet
from conftest import DEMO, children_of, smaller, write_film


@pytest.fixture(autouse=True)
def place(tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    return tmp_path


def test_what_nobody_foresaw_is_a_sentence_and_a_log(monkeypatch, capsys, tmp_path):
    def broken(*_):
        raise ValueError("seven\nlines")

    monkeypatch.setattr(opening, "probe", broken)
    assert main(["look", "x.mp4"]) == 1
    told = capsys.readouterr().err
    assert told.count("\n") == 1 and "ValueError: seven lines" in told and str(log_file()) in told
    assert "Traceback" in log_file().read_text()
    other = tmp_path / "other.log"
    assert main(["--log", str(other), "look", "x.mp4"]) == 1 and "ValueError" in other.read_text()


@pytest.mark.parametrize(("problem", "words", "code"), [
    (KeyboardInterrupt(), "Stopped", 130), (MemoryError(), "memory", 2),
    (InputError("No.", "a.mp4", "Yes."), "a.mp4: No. Yes.", 2)])
def test_each_kind_of_end_has_its_code(monkeypatch, capsys, problem, words, code):
    def ends(*_):
        raise problem

    monkeypatch.setattr(opening, "probe", ends)
    assert main(["look", "x.mp4"]) == code and words in capsys.readouterr().err


def test_a_log_that_cannot_be_written_keeps_nobody_from_working(capsys):
    keep_log("test", Path("/proc/none/log"))
    assert "report it" in unforeseen(ValueError("x")).sentence()
    assert main(["--log", "/proc/none/log", "specs", "list"]) == 0


CRASH = """
import os, signal, sys
from caracal.cli import entry
def crash():
    os.kill(os.getpid(), signal.SIGSEGV)
entry._run = crash
sys.argv = ["caracal", "look", sys.argv[1]]
sys.exit(entry.main())
"""


def test_a_film_that_ends_its_reader_is_told_in_a_sentence(tmp_path):
    film = write_film(tmp_path / "film.mp4", size=(64, 36), frames=30)
    done = subprocess.run([sys.executable, "-c", CRASH, str(film)], capture_output=True, text=True,
                          check=False)
    assert done.returncode == entry.CRASHED
    assert "film.mp4" in done.stderr and "SIGSEGV" in done.stderr and done.stderr.count("\n") == 1


def test_a_stop_reaches_the_process_that_reads(tmp_path):
    """As Ctrl+C does in a terminal: see test_terminal."""
    out = tmp_path / "out"
    work = subprocess.Popen(command("cli", "convert", str(DEMO), "--spec", "square-feed", "--out",
                                    str(out)), env=environment(), stderr=subprocess.PIPE)
    while not list(out.glob("*.part")):
        time.sleep(0.05)
    work.send_signal(signal.SIGTERM)
    assert work.wait(20) == 130 and work.stderr.read().count(b"\n") == 1
    work.stderr.close()
    assert not list(out.iterdir())


def test_no_display_is_a_sentence(tmp_path):
    clean = {key: value for key, value in environment().items()
             if key not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    done = subprocess.run(command("cli"), env=clean, capture_output=True, text=True, check=False)
    assert done.returncode == 2 and done.stderr.count("\n") == 1 and "display" in done.stderr


def test_films_are_read_apart_and_found_in_the_cache(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=57)  # of no other test
    assert probe_apart(film).frames == 57
    seen = []
    analysis = analyse_apart(film, seen.append, CancelToken())
    assert seen and analysis.master.file == film
    assert analyse_apart(film, no_progress, CancelToken()).shots == analysis.shots


def test_problems_and_stops_come_back_from_the_process_that_reads(tmp_path):
    with pytest.raises(InputError, match="no such file"):
        probe_apart(tmp_path / "none.mp4")
    token = CancelToken()
    film = write_film(tmp_path / "film.mp4", frames=231, size=(640, 360))  # of no other test
    with pytest.raises(Cancelled):
        analyse_apart(film, lambda _: token.cancel(), token)


def test_a_reader_that_is_ended_is_told(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=233, size=(640, 360))  # of no other test

    killed = []

    def crash(_):  # more may be told by a process that was killed a moment ago
        if not killed:
            killed.extend(children_of(os.getpid(), "core.analysis.film_pass.process"))
            os.kill(killed[0], signal.SIGSEGV)

    with pytest.raises(CaracalError, match="SIGSEGV"):
        analyse_apart(film, crash, CancelToken())


def test_nothing_leaves_the_machine_and_nothing_is_written_elsewhere(tmp_path):
    """Watched by the kernel (strace): no socket but those within the machine, no file elsewhere.

    A batch of one film: every process of ours that a conversion has, and the list's.
    """
    film, sheet = write_film(tmp_path / "film.mp4", frames=76), tmp_path / "small.toml"
    write_sheet(smaller(find_sheet("square-feed")), sheet)
    home, trace = tmp_path / "home", tmp_path / "trace"
    home.mkdir()
    own = {"HOME": str(home), "CARACAL_CACHE": str(tmp_path / "cache"),
           "CARACAL_CONFIG": str(tmp_path / "config"), "XDG_CACHE_HOME": str(home / "cache"),
           "PYTHONDONTWRITEBYTECODE": "1"}  # what Python keeps of itself is not ours
    done = subprocess.run(
        ["strace", "-f", "-qq", "-o", str(trace), "-e", "trace=socket,connect,openat,creat,mkdir",
         *command("cli", "batch", str(film), "--spec", str(sheet), "--out",
                  str(tmp_path / "out"))],
        env={**environment(), **own}, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    lines = trace.read_text().splitlines()
    assert not [line for line in lines if "AF_INET" in line]
    written = {line.split('"')[1] for line in lines
               if '"' in line and ("O_CREAT" in line or "mkdir(" in line) and "= -1" not in line}
    assert written and not [path for path in written
                            if not path.startswith((str(tmp_path), "/tmp/", "/dev/", "/proc/"))]
    assert not list(home.rglob("*"))


def test_a_process_whose_parent_went_away_while_it_began_ends_at_once():
    """Else two processes would make one film's lines after a kill: seen in benchmarks/faults.py."""
    words = [sys.executable, "-c", "from caracal.core.processes.children import end_with_parent; "
             "end_with_parent(); print('alive')"]
    gone = subprocess.run(words, env={**environment(), PARENT: "1"}, capture_output=True,
                          check=False)
    assert gone.returncode == -signal.SIGKILL and not gone.stdout
    assert subprocess.run(words, env=environment(), capture_output=True, check=True).stdout


def test_programs_that_are_not_ours_keep_their_environment(monkeypatch):
    """Seen in a run of the suite: a script found nothing beside itself any more."""
    monkeypatch.delenv("PYTHONSAFEPATH", raising=False)
    ours, theirs = Pipe()
    with theirs:
        child = Child("core.plan.solver_process", theirs)
    ours.close()
    child.end(5)
    assert "PYTHONSAFEPATH" not in os.environ


def test_a_child_has_the_environment_of_now_and_ends_with_its_starter(tmp_path, monkeypatch):
    """Killed as the system does when memory is short: nothing of it goes on behind."""
    words = ("import time; from multiprocessing import Pipe; "
             "from caracal.core.processes.children import Child; line = Pipe(); "
             "child = Child('core.plan.solver_process', line[1]); "
             "child.wait(3); print(flush=True); time.sleep(60)")
    starter = subprocess.Popen([sys.executable, "-c", words], env=environment(),
                               stdout=subprocess.PIPE)
    starter.stdout.readline()
    (child,) = children_of(starter.pid, "core.plan.solver_process")
    assert b"PYTHONSAFEPATH=1" in Path(f"/proc/{child}/environ").read_bytes()
    starter.kill()
    starter.wait()
    starter.stdout.close()
    until = time.monotonic() + 5
    while Path(f"/proc/{child}").exists() and time.monotonic() < until:
        time.sleep(0.05)
    assert not Path(f"/proc/{child}").exists()
