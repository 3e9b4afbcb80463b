"""Random clicks, drags, keys, wheels and menu entries in the real window, from fixed seeds.

    python benchmarks/monkeys.py [SEEDS] [EVENTS] [FIRST_SEED]

Each seed has a process and a window of its own (on a virtual display where xvfb-run is there). What
is counted, all of which should be 0: exceptions that nobody caught, crashes, hangs, moments in
which the window stood still for more than a second, and films that are not the same after all is
undone, done again, or saved and read. 50 seeds of 5000 events unless others are given.
"""

from __future__ import annotations

import faulthandler
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import (
    QEventLoop,
    QSettings,
    QTimer,
)
from PySide6.QtWidgets import (
    QApplication,
)

from caracal.core.base.resources import DEMO_FILM
from caracal.core.project.storage import read_document
from caracal.ui.sheets.window import SheetWindow
from caracal.ui.shell.application import prepare
from caracal.ui.shell.main_window import MainWindow
from monkey import BEAT_MS, Monkey, answer_dialogs, files_for

HANG_S = 900.0
COUNTED = ("exceptions", "crashes", "hangs", "stalls", "undo", "redo", "saved")


def judged(monkey: Monkey, wait: Callable[[Callable[[], bool]], bool]) -> dict[str, int]:
    """What is not the same: after a film is saved and read, all undone, and all done again."""
    wrong = dict.fromkeys(("undo", "redo", "saved"), 0)
    film = monkey.window.film
    if film is None:
        return wrong
    session, path = film.session, monkey.folder / "judged.caracal"
    session.play(0)
    session.document.read_only = ""
    session.document.seal()
    film.files.wait()
    final = session.project
    film.files.save_to(path)
    film.files.wait()
    if not path.is_file() or read_document(path).project != final:
        wrong["saved"] = 1
    first, at = session.document.history.projects[0], session.document.history.at
    while session.document.history.at:
        session.document.undo()
    wrong["undo"] = int(session.project != first)
    while session.document.history.at < at:
        session.document.redo()
    wrong["redo"] = int(session.project != final)
    return wrong


def one(seed: int, events: int, folder: Path) -> dict[str, Any]:
    """One window, ``events`` events; what went wrong."""
    faulthandler.enable()
    application = QApplication(["caracal"])
    prepare(application)
    settings = QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat)
    settings.setValue("out", str(folder / "out"))
    window = MainWindow(settings)
    (folder / "saved").mkdir()
    monkey = Monkey(window, seed, folder, files_for(folder / "files"))
    sys.excepthook = monkey.told
    answer_dialogs(monkey)
    window.show()

    def wait(condition: Callable[[], bool], most_s: float = 120.0) -> bool:
        loop, timer, until = QEventLoop(), QTimer(), time.monotonic() + most_s
        timer.timeout.connect(
            lambda: loop.quit() if condition() or time.monotonic() > until else None)
        timer.start(BEAT_MS)
        loop.exec()
        return condition()

    window.open_film(DEMO_FILM)
    wait(lambda: window.film is not None and window.analysing is None
         and window.film.files.is_recovered)
    wait(lambda: not window.film.session.solving.busy)
    monkey.watch()

    def step() -> None:
        if monkey.done < events:
            # The next first: a dialog that waits for an answer has a loop of its own, in which
            # a timer whose call has not returned does not fire.
            QTimer.singleShot(1, step)
            monkey.act()
            return
        left = QApplication.activeModalWidget() or QApplication.activePopupWidget()
        if left is not None:  # the last events lie in it: it would wait for an answer for ever
            left.close()
            QTimer.singleShot(BEAT_MS, step)

    step()
    wait(lambda: monkey.done >= events, HANG_S)
    for _ in range(20):
        left = QApplication.activeModalWidget() or QApplication.activePopupWidget()
        if left is not None:
            left.close()
        wait(lambda: False, 0.05)
    wait(lambda: window.film is not None or window.analysing is None, 60.0)
    monkey.rest()
    wrong = judged(monkey, wait)
    window.what_of_batch = lambda: "stop"
    SheetWindow.ask_about_changes = lambda _: "discard"
    window.close()
    wait(lambda: False, 0.2)
    return {"seed": seed, "events": monkey.done, "exceptions": monkey.problems,
            "stalls": monkey.stalls, **wrong}


def run(seed: int, events: int) -> dict[str, Any]:
    """The same in a process of its own."""
    folder = Path(tempfile.mkdtemp(prefix="caracal-monkey-"))
    own = {"CARACAL_STATE": str(folder / "state"), "CARACAL_CONFIG": str(folder / "config"),
           "HOME": str(folder), "PYTHONFAULTHANDLER": "1", "OMP_NUM_THREADS": "1",
           "MONKEY_TRACE": str(folder / "trace")}
    words = [sys.executable, __file__, "--one", str(seed), str(events), str(folder)]
    if shutil.which("xvfb-run") and os.environ.get("QT_QPA_PLATFORM") != "offscreen":
        words = ["xvfb-run", "-a", "-s", "-screen 0 1600x1000x24", *words]
        own["QT_QPA_PLATFORM"] = "xcb"
    else:
        own["QT_QPA_PLATFORM"] = "offscreen"
    try:
        done = subprocess.run(words, env={**os.environ, **own}, capture_output=True, text=True,
                              timeout=HANG_S, check=False, errors="replace")
    except subprocess.TimeoutExpired as problem:
        return {"seed": seed, "hang": str(problem.stderr)[-2000:]}  # what it did last is in trace
    finally:
        trace = folder / "trace"
        last = trace.read_text().splitlines()[-12:] if trace.is_file() else []
        shutil.rmtree(folder, ignore_errors=True)
    rows = [row for row in done.stdout.splitlines() if row.startswith("{")]
    if done.returncode or not rows:
        said = done.stderr.partition("Extension modules:")[0]
        return {"seed": seed, "crash": f"{done.returncode}: {said[-5000:]}", "last": last}
    return json.loads(rows[-1])


def main(seeds: int = 50, events: int = 5000, first: int = 1) -> Counter[str]:
    """Run ``seeds`` windows; what went wrong, by kind."""
    ends: Counter[str] = Counter()
    with tempfile.TemporaryDirectory(prefix="caracal-monkeys-") as cache:
        os.environ.setdefault("CARACAL_CACHE", cache)  # the demo is analysed once
        for seed in range(first, first + seeds):
            found = run(seed, events)
            ends["events"] += found.get("events", 0)
            ends["crashes"] += "crash" in found
            ends["hangs"] += "hang" in found
            for name in ("exceptions", "stalls"):
                ends[name] += len(found.get(name, ()))
            for name in ("undo", "redo", "saved"):
                ends[name] += found.get(name, 0)
            wrong = {name: value for name, value in found.items()
                     if name not in ("seed", "events") and value}
            print(f"seed {seed}: {found.get('events', 0)} events"
                  + (f", {json.dumps(wrong, indent=1)}" if wrong else ""), flush=True)
    return ends


def summary(ends: Counter[str]) -> str:
    """The counts in words."""
    return (f"{ends['events']} events: exceptions {ends['exceptions']}, crashes {ends['crashes']}, "
            f"hangs {ends['hangs']}, stalls {ends['stalls']}, not the same after undo "
            f"{ends['undo']}, redo {ends['redo']}, saving {ends['saved']}")


if __name__ == "__main__":
    if sys.argv[1:2] == ["--one"]:
        print(json.dumps(one(int(sys.argv[2]), int(sys.argv[3]), Path(sys.argv[4]))), flush=True)
        os._exit(0)  # what still runs is of no interest
    total = main(*map(int, sys.argv[1:]))
    print(summary(total))
    sys.exit(any(total[name] for name in COUNTED))
