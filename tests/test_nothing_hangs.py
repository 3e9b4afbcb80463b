"""Every wait ends: folders that vanish, processes that stand still, signals in bursts.

A process that hangs is one that was stopped (SIGSTOP): it hears nothing any more. Each test would
wait for ever without its mend; pytest-timeout ends it then.
"""

import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import msgspec
import pytest

from caracal.core.analysis.film_pass import analyse as analyse_module
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.film_pass.process import analyse_apart, probe_apart
from caracal.core.base.errors import Cancelled, CaracalError, InputError, StorageError
from caracal.core.base.work import CancelToken, Control, no_progress
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import EncodeJob, State
from caracal.core.batch.runner import STAY, run_list
from caracal.core.convert import Recipe, convert
from caracal.core.processes.apart import Call, call_apart
from caracal.core.processes.child_line import ChildGone, ChildLine
from caracal.core.processes.children import Child, command, environment, started_by
from caracal.core.processes.stop_signals import cancel_on_signals
from caracal.core.specs.sheet_store import find_sheet, write_sheet
from caracal.core.text.caption_look import CaptionLook
from caracal.core.text.cues import Cue
from conftest import children_of, smaller, write_film

pytestmark = pytest.mark.timeout(120)
SHEET = smaller(find_sheet("square-feed"))


def stop_still(pid):
    os.kill(pid, signal.SIGSTOP)


def wait_for(condition, seconds=30):
    until = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < until, "it never came"
        time.sleep(0.02)


def gone(pids):
    """Whether none of the processes is there any more, dead ones nobody asked about included."""
    def there(pid):
        try:
            return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
        except OSError:
            return False

    return not any(there(pid) for pid in pids)


@pytest.fixture
def film(tmp_path):
    """A film that takes a few seconds to look at."""
    return write_film(tmp_path / "film.mp4", frames=230, size=(960, 540))


# Folders and films that vanish

def test_a_cache_folder_that_vanishes_while_it_is_written_is_a_sentence(film, tmp_path):
    """Its writer died of that, and the reader waited for it."""
    root = tmp_path / "cache"

    def vanish(_):
        shutil.rmtree(root, ignore_errors=True)

    with pytest.raises(StorageError) as told:
        analyse(film, vanish, root=root)
    assert str(root) in told.value.sentence()


def test_a_film_that_vanishes_while_it_is_analysed_is_named(film, tmp_path):
    def vanish(_):
        film.unlink(missing_ok=True)

    with pytest.raises(InputError, match=r"film\.mp4: This film was removed"):
        analyse(film, vanish, root=tmp_path / "cache")


def test_a_damaged_film_is_told_before_all_of_it_is_hashed(film, tmp_path, monkeypatch):
    hashed = threading.Event()

    def slowly(path, cancel):
        hashed.set()
        while True:
            cancel.check()
            time.sleep(0.01)

    def damaged(*_):
        hashed.wait(20)
        raise InputError("This film is damaged.", film)

    monkeypatch.setattr(analyse_module.Source, "of", slowly)
    monkeypatch.setattr(analyse_module, "frames", damaged)
    with pytest.raises(InputError, match="damaged"):
        analyse(film, root=tmp_path / "cache")


def test_a_stop_is_noticed_while_the_rest_of_a_film_is_hashed(film, tmp_path, monkeypatch):
    token = CancelToken()

    def slowly(path, cancel):
        token.cancel()
        while True:
            cancel.check()
            time.sleep(0.01)

    monkeypatch.setattr(analyse_module.Source, "of", slowly)
    with pytest.raises(Cancelled):
        analyse(film, cancel=token, root=tmp_path / "cache")


# Processes that stand still

def test_stop_ends_a_reader_that_stands_still(film, tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CACHE", str(tmp_path / "cache"))
    token, seen = CancelToken(), []

    def hang(_):
        if not seen:
            seen.extend(children_of(os.getpid(), "core.analysis.film_pass.process"))
            stop_still(seen[0])
            threading.Timer(0.3, token.cancel).start()

    with pytest.raises(Cancelled):
        analyse_apart(film, hang, token)
    assert gone(seen)


def forever(report, cancel):
    while True:
        time.sleep(1)


def test_a_call_that_hears_no_stop_is_killed_and_one_that_takes_too_long_is_told(tmp_path):
    token = CancelToken()
    threading.Timer(0.3, token.cancel).start()
    with pytest.raises(Cancelled):
        call_apart(Call(forever, (), stoppable=True, grace_s=0.5), tmp_path, cancel=token)
    with pytest.raises(InputError, match="SIGKILL"):
        call_apart(Call(forever, (no_progress, token)), tmp_path, within_s=0.5)
    assert not children_of(os.getpid(), "core.processes.apart")


def test_looking_at_a_pipe_that_nobody_writes_to_is_refused_at_once(tmp_path):
    os.mkfifo(tmp_path / "pipe.mp4")
    with pytest.raises(CaracalError):
        probe_apart(tmp_path / "pipe.mp4")


def test_whoever_waits_for_an_answer_gives_up_from_another_thread():
    before = children_of(os.getpid(), "core.plan.solver_process")
    line = ChildLine("core.plan.solver_process")
    with pytest.raises(ChildGone):
        line.ask(lambda _: stop_first(line), within_s=0.5)
    threading.Timer(0.3, line.give_up).start()
    with pytest.raises(ChildGone):
        line.ask(lambda _: stop_first(line))
    assert children_of(os.getpid(), "core.plan.solver_process") == before


def stop_first(line):
    """What is asked of a process that stands still from then on."""
    stop_still(line._process.pid)


def test_a_killed_process_takes_those_it_started_along(tmp_path, film):
    """Stopped ones, too: they cannot notice that nobody is there any more."""
    write_sheet(SHEET, tmp_path / "small.toml")
    done = []

    def hang(_):
        if not done:
            done.extend(children_of(os.getpid(), "core.encoding.encoder"))
            for pid in done:
                stop_still(pid)
            threading.Timer(0.3, token.cancel).start()

    token = CancelToken()
    with pytest.raises(Cancelled):
        convert(film, [Recipe(SHEET), Recipe(SHEET)], tmp_path / "out", cancel=token,
                report=lambda progress: hang(progress) if progress.doing == "Encoding" else None)
    assert done and gone(done)
    assert list((tmp_path / "out").iterdir()) == []


def stopped_run(path, control):
    with pytest.raises(Cancelled):
        run_list(path, control)


@pytest.mark.parametrize("which", ["the film's process", "an encoder", "both"])
def test_a_batch_is_stopped_whatever_of_it_stands_still(film, tmp_path, which):
    """What was in the making waits again, and nothing of it goes on behind."""
    path, control = tmp_path / "list.sqlite", Control()
    with BatchList(path) as jobs:
        jobs.add(EncodeJob(str(film), str(tmp_path / "out"), Recipe(SHEET)) for _ in range(2))
        runner = threading.Thread(target=stopped_run, args=(path, control))
        runner.start()
        wait_for(lambda: any(item.status.progress is not None
                             and item.status.progress.doing == "encoding"
                             and item.status.progress.done > 2 for item in jobs.items()), 60)
        (making,) = children_of(os.getpid(), "core.batch.film")
        encoders = children_of(making, "core.encoding.encoder")
        assert encoders
        for pid in ([making] if which != "an encoder" else []) + (
                encoders if which != "the film's process" else []):
            stop_still(pid)
        control.cancel.cancel()
        runner.join(60)
        assert not runner.is_alive()
        assert {item.state for item in jobs.items()} == {State.WAITING}
    wait_for(lambda: gone([making, *encoders]))
    assert list((tmp_path / "out").iterdir()) == []


def test_one_line_is_stopped_though_its_film_stands_still(film, tmp_path):
    path, control = tmp_path / "list.sqlite", Control()
    with BatchList(path) as jobs:
        (number,) = jobs.add([EncodeJob(str(film), str(tmp_path / "out"), Recipe(SHEET))])
        runner = threading.Thread(target=run_list, args=(path, control))
        runner.start()
        wait_for(lambda: children_of(os.getpid(), "core.batch.film"))
        (making,) = children_of(os.getpid(), "core.batch.film")
        stop_still(making)
        jobs.stop([number])
        runner.join(60)
        assert not runner.is_alive() and jobs.item(number).state is State.STOPPED
    assert gone([making])


# Signals

def test_sixty_signals_in_a_row_end_a_command_once(film, tmp_path):
    """A second one inside the first's handler waited for a lock that the first held."""
    write_sheet(SHEET, tmp_path / "small.toml")
    for turn in range(3):
        made = subprocess.Popen(
            command("cli", "convert", str(film), "--spec", str(tmp_path / "small.toml"), "--out",
                    str(tmp_path / "out")),
            env={**environment(), "CARACAL_CACHE": str(tmp_path / f"cache{turn}")},
            stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
        wait_for(lambda turn=turn: (tmp_path / f"cache{turn}").exists())
        time.sleep(0.3 * turn)
        for i in range(60):
            made.send_signal((signal.SIGTERM, signal.SIGINT)[i % 2])
        _, said = made.communicate(timeout=60)
        assert made.returncode == 130 and said.count(b"\n") == 1, said
        assert not list((tmp_path / "out").glob("*"))


def test_a_command_that_stands_still_is_killed_when_it_is_told_to_stop(film, tmp_path):
    made = subprocess.Popen(command("cli", "analyse", str(film)),
                            env={**environment(), "CARACAL_CACHE": str(tmp_path / "cache")},
                            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    wait_for(lambda: (tmp_path / "cache").exists())
    (child,) = Path(f"/proc/{made.pid}/task/{made.pid}/children").read_text().split()
    stop_still(int(child))
    made.terminate()
    assert made.wait(60) == 130 and gone([int(child)])


def test_a_handler_interrupted_by_itself_needs_no_lock():
    words = ("import os, signal, threading; from caracal.core.processes.stop_signals import *; "
             "from caracal.core.base.work import CancelToken; token = CancelToken(); "
             "cancel_on_signals(token); "
             "threading.Thread(target=lambda: [os.kill(os.getpid(), signal.SIGTERM) "
             "for _ in range(20000)]).start(); [token.cancel() for _ in range(300000)]; "
             "print(token.cancelled)")
    done = subprocess.run([sys.executable, "-c", words], env=environment(), capture_output=True,
                          text=True, timeout=60, check=True)
    assert done.stdout == "True\n"


def test_a_process_that_does_not_end_in_time_after_a_signal_is_ended_by_the_kernel():
    words = ("import time; from caracal.core.processes.stop_signals import *; "
             "from caracal.core.base.work import CancelToken; "
             "cancel_on_signals(CancelToken(), within_s=0.5); print('on', flush=True)"
             "\nwhile True: time.sleep(1)")
    made = subprocess.Popen([sys.executable, "-c", words], env=environment(),
                            stdout=subprocess.PIPE)
    made.stdout.readline()
    made.terminate()
    assert made.wait(30) == -signal.SIGALRM
    made.stdout.close()


STARTER = """
import subprocess, sys
from caracal.core.processes.children import command, environment
runner = subprocess.Popen(command("core.batch.runner", sys.argv[1], "--stay"), env=environment(),
                          start_new_session=True)
print(runner.pid, flush=True)
sys.stdin.read()
"""


def test_a_paused_list_without_a_window_holds_no_film(film, tmp_path):
    """A window that died while its list was paused left runner, film and encoders for ever."""
    path = tmp_path / "list.sqlite"
    with BatchList(path) as jobs:
        jobs.add([EncodeJob(str(film), str(tmp_path / "out"), Recipe(SHEET))])
        window = subprocess.Popen([sys.executable, "-c", STARTER, str(path)], text=True,
                                  env=environment(), stdin=subprocess.PIPE,
                                  stdout=subprocess.PIPE)
        runner = int(window.stdout.readline())
        wait_for(lambda: jobs.items()[0].status.progress is not None)
        jobs.paused = True
        started = started_by(runner)
        assert started
        window.kill()
        window.wait()
        window.stdin.close()
        window.stdout.close()
        wait_for(lambda: gone([runner, *started]), 60)
        assert jobs.items()[0].state is State.WAITING
    assert STAY == "--stay"


def test_a_stop_is_noticed_while_captions_are_laid_out(tmp_path, demo):
    """30,000 of them take a minute."""
    from caracal.core.plan.planner import Planner

    token, count = CancelToken(), 0

    class Counting(CancelToken):
        def check(self):
            nonlocal count
            count += 1
            if count > 200:
                token.cancel()
            token.check()

    cues = tuple(Cue(i / 100, i / 100 + 0.009, "Words") for i in range(2400))
    recipe = msgspec.structs.replace(Recipe(SHEET), captions=cues, burnt=True, look=CaptionLook())
    with pytest.raises(Cancelled):
        Planner(demo, no_progress, Counting()).add(0, recipe, tmp_path)
    assert count == 201


def test_a_child_is_ended_with_whoever_started_it(tmp_path):
    """At its usual end, too: the standard library would wait for it there."""
    words = ("from multiprocessing import Pipe; from caracal.core.processes.children import Child; "
             "line = Pipe(); child = Child('core.plan.solver_process', line[1]); "
             "import os, signal; os.kill(child.pid, signal.SIGSTOP); print(child.pid)")
    done = subprocess.run([sys.executable, "-c", words], env=environment(), capture_output=True,
                          text=True, timeout=60, check=True)
    assert gone([int(done.stdout)])


def test_signals_cancel_and_the_old_handlers_come_back():
    from caracal.core.processes.stop_signals import STOPS, stopped_by_signals

    before = [signal.getsignal(number) for number in STOPS]
    token = CancelToken()
    with stopped_by_signals(token):
        os.kill(os.getpid(), signal.SIGHUP)
        wait_for(lambda: token.cancelled)
    assert [signal.getsignal(number) for number in STOPS] == before
    assert cancel_on_signals and Child


@pytest.mark.parametrize("words", [("look", "none.mp4"), ("specs", "list")])
def test_ctrl_c_at_the_very_beginning_is_no_traceback_of_ours(tmp_path, words):
    """In the middle of an import it was one; what the interpreter does before is its own."""
    for after_s in (0.03, 0.06, 0.09, 0.12, 0.16, 0.2, 0.26, 0.34):
        made = subprocess.Popen(command("cli", *words), env=environment(), cwd=tmp_path,
                                stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)
        time.sleep(after_s)
        made.send_signal(signal.SIGINT)
        _, said = made.communicate(timeout=30)
        assert "caracal/core" not in said, said
        assert made.returncode in (-signal.SIGINT, 130, 0, 1, 2)
