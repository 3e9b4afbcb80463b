"""Processes come off a copy of the one that asked for them, where it can be copied."""

import json
import os
import subprocess
import sys
import time
from pathlib import Path

import pytest

from caracal.core.processes.children import environment, kill_with_children

STARTER = """
import json, os, sys, threading, time
from multiprocessing import Pipe
from pathlib import Path
import caracal.core.encoding.encoder
from caracal.core.processes.children import Child, split_off

held = open(sys.argv[1])
if sys.argv[2] == "two threads":
    threading.Thread(target=time.sleep, args=[60], daemon=True).start()
split_off(lambda: print("copied", flush=True))
split_off(lambda: print("copied again", flush=True))
lines = [Pipe() for _ in range(2)]
children = [Child("core.encoding.encoder", theirs, None) for _, theirs in lines]
time.sleep(0.2)
stat = [Path(f"/proc/{child.pid}/stat").read_text() for child in children]
server = {int(text.rpartition(")")[2].split()[1]) for text in stat}
(server,) = server  # one for both
files = [os.readlink(file) for file in Path(f"/proc/{server}/fd").iterdir() if file.exists()]
words = [Path(f"/proc/{pid}/cmdline").read_bytes().decode() for pid in (os.getpid(), server)]
children[0].terminate()
children[0].wait()
for ours, theirs in lines:
    ours.close()
    theirs.close()
children[1].wait(20)
print(json.dumps({"server": server, "files": files, "same": words[0] == words[1],
                  "ended": [child.exit_code for child in children]}), flush=True)
"""


def started(tmp_path, threads):
    held = tmp_path / "held.txt"
    held.touch()
    done = subprocess.run([sys.executable, "-c", STARTER, held, threads], capture_output=True,
                          env=environment(), text=True, check=True, timeout=60)
    *before, said = done.stdout.splitlines()
    return before, json.loads(said), held


@pytest.mark.parametrize("threads", ["one thread", "two threads"])
def test_what_was_imported_is_not_imported_again_where_a_copy_is_safe(tmp_path, threads):
    before, said, held = started(tmp_path, threads)
    alone = threads == "one thread"
    assert before == ["copied"] * alone and said["same"] is alone
    assert str(held) not in said["files"]  # nothing that was open stays open in it
    assert said["ended"] == [-15, 0]
    assert _gone(said["server"])  # it ends with the last that may ask it


def _gone(pid):
    until = time.monotonic() + 10
    while Path(f"/proc/{pid}").exists() and time.monotonic() < until:
        time.sleep(0.05)
    return not Path(f"/proc/{pid}").exists()


def test_the_main_module_is_not_imported_in_each_process(tmp_path):
    """The standard library imports it once more in every one, at its starter's priority: a window's
    takes a second."""
    script = tmp_path / "window.py"
    script.write_text("""
print("imported as", __name__)
import os
from pathlib import Path
from caracal.core.processes.apart import Call, call_apart

if __name__ == "__main__":
    for _ in range(2):
        assert call_apart(Call(os.getpid, ()), Path("film")) != os.getpid()
    print(Path(__file__).name, __spec__)
""")
    told = subprocess.run([sys.executable, script], capture_output=True, text=True, check=True)
    assert told.stdout.split("\n")[:2] == ["imported as __main__", "window.py None"]


STANDS_STILL = """
import os, signal, sys, threading, time
from multiprocessing import forkserver, resource_tracker
from caracal.core.processes.children import split_off
if sys.argv[1] == "two threads":
    threading.Thread(target=time.sleep, args=[60], daemon=True).start()
begun, begins = os.pipe()
split_off(lambda: os.write(begins, b"x"))
if sys.argv[1] == "one thread":
    os.read(begun, 1)
servers = forkserver._forkserver._forkserver_pid, resource_tracker._resource_tracker._pid
for server in servers[: 1 if sys.argv[2] == "killed" else 2]:
    os.kill(server, signal.SIGSTOP)
print(*servers, flush=True)
if sys.argv[2] == "killed":
    os.kill(os.getpid(), signal.SIGKILL)
"""


@pytest.mark.parametrize(("threads", "end"), [
    ("one thread", "ended"), ("two threads", "ended"), ("one thread", "killed")])
def test_servers_that_stand_still_do_not_outlive_who_started_them(tmp_path, threads, end):
    with (tmp_path / "said").open("w+") as said:  # a pipe would stay open in what outlives it
        subprocess.run([sys.executable, "-c", STANDS_STILL, threads, end], env=environment(),
                       stdout=said, timeout=60, check=False)
        said.seek(0)
        servers = said.read().split()
    assert len(servers) == 2
    assert all(_gone(server) for server in servers)


def test_who_is_killed_takes_the_servers_along_that_stand_still(tmp_path):
    words = STANDS_STILL + "\nos.kill(os.getpid(), signal.SIGSTOP)"
    with (tmp_path / "said").open("w+") as said:
        started = subprocess.Popen([sys.executable, "-c", words, "one thread", "stopped"],
                                   env=environment(), stdout=said)
        os.waitpid(started.pid, os.WUNTRACED)  # until it stands still
        said.seek(0)
        servers = said.read().split()
    kill_with_children(started.pid)
    started.wait(10)
    assert len(servers) == 2 and all(_gone(server) for server in servers)


ENDED_EARLY = """
import os, signal, sys
fork = os.fork
def forked():
    child = fork()
    if child:
        print(child, flush=True)
        os.kill(child, signal.SIGSTOP)
        os.kill(os.getpid(), signal.SIGTERM)
    return child
os.fork = forked
sys.argv = ["caracal", "look", sys.argv[1]]
from caracal.cli.entry import main
sys.exit(main())
"""


def test_a_command_that_is_ended_at_its_very_beginning_leaves_no_process(tmp_path):
    """Its process for films stands still before it knows whom it works for."""
    words = [sys.executable, "-c", ENDED_EARLY, tmp_path / "film.mp4"]
    done = subprocess.run(words, env=environment(), capture_output=True, text=True, timeout=60,
                          check=False)
    assert done.returncode == 130, done.stderr
    assert _gone(int(done.stdout))
