"""Processes come off a copy of the one that asked for them, where it can be copied."""

import json
import subprocess
import sys
import time
from pathlib import Path

import pytest

from caracal.core.children import environment

STARTER = """
import json, os, sys, threading, time
from multiprocessing import Pipe
from pathlib import Path
import caracal.core.encoding.encoder
from caracal.core.children import Child, split_off

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
    until = time.monotonic() + 10
    while Path(f"/proc/{said['server']}").exists() and time.monotonic() < until:
        time.sleep(0.05)
    assert not Path(f"/proc/{said['server']}").exists()  # it ends with the last that may ask it


def test_the_main_module_is_not_imported_in_each_process(tmp_path):
    """The standard library imports it once more in every one, at its starter's priority: a window's
    takes a second."""
    script = tmp_path / "window.py"
    script.write_text("""
print("imported as", __name__)
import os
from pathlib import Path
from caracal.core.apart import Call, call_apart

if __name__ == "__main__":
    for _ in range(2):
        assert call_apart(Call(os.getpid, ()), Path("film")) != os.getpid()
    print(Path(__file__).name, __spec__)
""")
    told = subprocess.run([sys.executable, script], capture_output=True, text=True, check=True)
    assert told.stdout.split("\n")[:2] == ["imported as __main__", "window.py None"]
