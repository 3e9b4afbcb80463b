"""The one gate for data that is read back, used by many threads at once."""

import subprocess
import sys

import msgspec
import pytest

from caracal.core.base.decoding import DecodeError, decode_json, decode_msgpack
from caracal.core.batch.job import EncodeJob
from caracal.core.processes.children import environment
from caracal.core.project.recipe import Recipe
from caracal.core.specs.sheet_store import find_sheet

JOB = EncodeJob("/film.mp4", "/out", Recipe(find_sheet("square-feed")))
AT_ONCE = """
import sys, threading
sys.setswitchinterval(1e-6)  # threads take turns as often as they can
from caracal.core.base.decoding import {function}
from caracal.core.batch.job import EncodeJob

data, gate = sys.stdin.buffer.read(), threading.Barrier(8)

def read():
    gate.wait()
    for _ in range(3):
        {function}(data, EncodeJob)

threads = [threading.Thread(target=read) for _ in range(8)]
for thread in threads:
    thread.start()
for thread in threads:
    thread.join()
"""


@pytest.mark.parametrize(("function", "data"), [
    ("decode_msgpack", msgspec.msgpack.encode(JOB)), ("decode_json", msgspec.json.encode(JOB)),
])
def test_threads_that_read_a_kind_for_the_first_time_do_not_end_the_process(function, data):
    """Without the lock it ended by SIGSEGV in 15 of 15 processes."""
    for _ in range(3):
        done = subprocess.run([sys.executable, "-c", AT_ONCE.format(function=function)],
                              input=data, env=environment(), capture_output=True, timeout=60,
                              check=False)
        assert done.returncode == 0, done.stderr[-500:]


@pytest.mark.parametrize("read", [decode_msgpack, decode_json])
@pytest.mark.parametrize("data", [b"", b"\xff", b"{}", b"[" * 100_000, b'{"master": "\xff"}'])
def test_what_cannot_be_read_is_one_kind_of_error(read, data):
    with pytest.raises(DecodeError):
        read(data, EncodeJob)
