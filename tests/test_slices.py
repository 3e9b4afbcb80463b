"""Work in the interface's thread: short work at once, long work in slices, the last one counts."""

import time

import pytest
from PySide6.QtCore import QObject

from caracal.ui.services.slices import Slices


def steps(count, result, seen, each_s=0.0):
    """A generator of ``count`` steps that lasts ``each_s`` a step."""
    def work():
        for number in range(count):
            until = time.perf_counter() + each_s
            while time.perf_counter() < until:
                pass
            seen.append((result, number))
            yield
        return result
    return work


@pytest.fixture
def slices(qapp):
    parent = QObject()
    yield Slices(parent)
    parent.deleteLater()


def test_short_work_is_done_at_once(slices):
    results = []
    slices.run(steps(3, "a", []), results.append)
    assert results == ["a"] and not slices.runs


def test_long_work_lets_others_in_and_ends(slices, qtbot):
    results, seen = [], []
    slices.run(steps(40, "a", seen, 0.002), results.append)
    assert slices.runs and results == [] and 0 < len(seen) < 40
    qtbot.waitUntil(lambda: results == ["a"])
    assert len(seen) == 40


def test_of_what_is_asked_meanwhile_only_the_last_is_done(slices, qtbot):
    results, seen = [], []
    for name in "abc":
        slices.run(steps(10, name, seen, 0.002), results.append)
    qtbot.waitUntil(lambda: results == ["a", "c"])
    assert {name for name, _ in seen} == {"a", "c"}


def test_it_can_be_finished_now(slices):
    results = []
    for name in "ab":
        slices.run(steps(10, name, [], 0.002), results.append)
    slices.finish()
    assert results == ["a", "b"] and not slices.runs


def test_an_error_in_it_is_not_kept_from_who_asked_and_stops_it(slices):
    def work():
        yield
        raise ValueError("broken")

    with pytest.raises(ValueError, match="broken"):
        slices.run(work, lambda _: None)
    assert not slices.runs
