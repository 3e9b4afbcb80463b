"""The short form of benchmarks/monkeys.py: events at random in the real window."""

import sys
from pathlib import Path

sys.path.append(str(Path(__file__).parent.parent / "benchmarks"))


def test_whatever_is_pressed_breaks_nothing(monkeypatch, demo):
    """How long the window stood still is judged there, on a machine that does nothing else."""
    import monkeys

    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    found = monkeys.run(7, 250)
    found.pop("stalls", None)
    assert found == {"seed": 7, "events": 250, "exceptions": [], "undo": 0, "redo": 0, "saved": 0}
