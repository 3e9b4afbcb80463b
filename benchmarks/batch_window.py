"""How long the Batch view takes for a change of the list, and to scroll, with 200 lines in it.

    QT_QPA_PLATFORM=offscreen python benchmarks/batch_window.py
"""

from __future__ import annotations

import os
import tempfile
import time

from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from caracal.core.base.resources import DEMO_FILM
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import EncodeJob, JobStatus, State
from caracal.core.convert import Recipe
from caracal.core.encoding.results import FileState
from caracal.core.specs.sheet_store import find_sheet
from caracal.ui.shell.application import prepare
from window import opened

LINES, CHANGES = 200, 60


def told(what: str, times: list[float]) -> None:
    """Median, 95 % and most of ``times`` in seconds."""
    ordered = sorted(value * 1000 for value in times)
    print(f"{what}: median {ordered[len(ordered) // 2]:.1f} ms, 95 % under "
          f"{ordered[int(len(ordered) * 0.95)]:.1f}, most {ordered[-1]:.1f} (goal 16)")


def main() -> None:
    application = QApplication([])
    prepare(application)
    with tempfile.TemporaryDirectory() as folder:
        os.environ["CARACAL_STATE"] = folder
        window = opened(folder)
        window.film.show_view("Batch")
        batch = window.film.batch
        jobs = batch.working.jobs
        jobs.paused = True
        numbers = jobs.add(
            [EncodeJob(str(DEMO_FILM), "/nowhere", Recipe(find_sheet("plaza")))] * LINES
        )
        batch.working.renew()
        QTest.qWait(500)
        times = []
        with BatchList(jobs.path) as other:
            for k in range(CHANGES):
                for number in numbers[:3]:
                    other.put(number, State.ENCODING, JobStatus(
                        progress=FileState("encoding", k, CHANGES, k * 1000, 20.0)))
                began = time.perf_counter()
                batch.working._poll()
                application.processEvents()
                times.append(time.perf_counter() - began)
                QTest.qWait(5)
        told(f"a change of three lines of {LINES}", times)
        bar, times = batch.lines.table.verticalScrollBar(), []
        for at in range(0, bar.maximum(), 2):
            began = time.perf_counter()
            bar.setValue(at)
            application.processEvents()
            times.append(time.perf_counter() - began)
        told("scrolling", times)
        window.close()


if __name__ == "__main__":
    main()
