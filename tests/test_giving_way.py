"""What works in the background gives way to the window: by nice(2), and by Linux's sessions."""

import os
import subprocess
from multiprocessing import Pipe
from pathlib import Path

import pytest

from caracal.core.batch.runner import STAY
from caracal.core.processes.children import SESSION_NICE, Child, command, environment
from conftest import children_of
from test_nothing_hangs import wait_for


@pytest.mark.parametrize("nice", [0, 5])
def test_a_process_of_ours_lets_the_one_that_started_it_go_first(nice):
    """All but sound, which would have gaps: what encodes is no reason for a window to stand."""
    _, theirs = Pipe()
    child = Child("core.plan.solver_process", theirs, nice=nice)
    own = os.getpriority(os.PRIO_PROCESS, 0)
    try:
        wait_for(lambda: child.pid in children_of(os.getpid(), "core.plan.solver_process"))
        assert os.getpriority(os.PRIO_PROCESS, child.pid) == own + nice
    finally:
        child.end(0)


@pytest.mark.skipif(not Path("/proc/self/autogroup").exists(), reason="sessions are not grouped")
def test_a_batch_in_a_session_of_its_own_gives_way_to_the_window(tmp_path):
    """Linux shares processors between sessions first: nice(2) counts only within one (sched(7))."""
    ours = Path("/proc/self/autogroup").read_text()
    runner = subprocess.Popen(command("core.batch.runner", str(tmp_path / "list"), STAY),
                              env=environment(), start_new_session=True)
    try:
        group = Path(f"/proc/{runner.pid}/autogroup")
        wait_for(lambda: group.read_text().split()[-1] == str(SESSION_NICE))
        assert Path("/proc/self/autogroup").read_text() == ours
    finally:
        runner.terminate()
        runner.wait(10)
