"""The short form of benchmarks/hostile.py: hostile inputs through the real command line."""

import subprocess
import sys
from pathlib import Path

import pytest

BENCHMARKS = Path(__file__).parent.parent / "benchmarks"


@pytest.mark.timeout(600)
def test_hostile_inputs_end_in_a_sentence_and_nothing_false_is_proved():
    """In a process of its own, as it forks: it must have no threads."""
    done = subprocess.run([sys.executable, "hostile.py", "12", "7"], cwd=BENCHMARKS,
                          capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    said = done.stdout.splitlines()[-1]
    assert ": 0 wrong, 0 left something behind, requests 0." in said, done.stdout
    assert int(said.split(" inputs")[0]) >= 45, done.stdout
    assert int(said.split(" proved")[0].split("(")[1]) >= 3, done.stdout
