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
    zeros = "Tracebacks 0, crashes 0, hangs 0, unforeseen 0, odd exit codes 0, wrong but proved 0, "
    assert zeros + "files outside 0, requests 0" in said, done.stdout
    assert int(said.split(" films proved")[0].split("(")[1]) >= 3, done.stdout
