"""The batch list as the window sees it: polled, changed, and worked off in a process of its own.

It outlives the film that is open, and the window too where a person wants that.
"""

from __future__ import annotations

import shutil
import signal
import subprocess
import time
from collections.abc import Callable, Iterable
from pathlib import Path

from PySide6.QtCore import QEventLoop, QObject, QTimer, Signal

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import EncodeJob, Item, State
from caracal.core.batch.list_lock import worked_by_us
from caracal.core.batch.list_opening import opened_list
from caracal.core.batch.runner import STAY, recover
from caracal.core.batch.watching import Watched, look_for_more, watched
from caracal.core.processes.children import command, environment, kill_with_children
from caracal.ui.services.worker import Worker

POLL_MS = 250
FOLDER_EVERY = 8  # polls between two looks at a watched folder
END_S = 6.0  # a batch that is stopped has to end within this time
NOT_OURS = 3  # exit code: another process works off the list


class BatchController(QObject):
    """Tells of every change of the list. Lives as long as the window."""

    changed = Signal()
    said = Signal(str)
    over = Signal()  # the process has ended: nothing waits, or it was stopped
    _looked = Signal(object)
    items: tuple[Item, ...] = ()

    def __init__(self, path: Path) -> None:
        super().__init__()
        self.jobs, self.notice = opened_list(path)  # the notice: what is to be said of it
        temporary = self.jobs.path.parent != path.parent
        path = self.jobs.path
        self._temporary = path.parent if temporary else None
        # A file that was just finished in a crash is proved again: that takes its time.
        self._mending = Worker(lambda: _mended(path))
        self._process: subprocess.Popen[bytes] | None = None
        self._go_then = False
        self.renew()
        if any(item.state.busy for item in self.items):
            self._mending.start()
        self._looking = Worker(self._look)
        self._looking.failed.connect(self.said)
        self._looked.connect(self._take_look)
        self._seen, self._polls = -1, 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._poll)
        self._timer.start(POLL_MS)
        self._poll()

    @property
    def running(self) -> bool:
        return self._process is not None and self._process.poll() is None

    @property
    def waiting(self) -> int:
        return sum(item.state is State.WAITING for item in self.items)

    def _poll(self) -> None:
        self._polls += 1
        if self._process is not None and not self.running:
            self._ended(self._process)
        if self._go_then and not self._mending.isRunning():
            self._go_then = False
            self.go_on()
        if self._polls % FOLDER_EVERY == 0 and not self._looking.isRunning():
            self._looking.start()
        try:
            now = self.jobs.changes
        except CaracalError as problem:
            self._unreadable(problem)
            return
        if now != self._seen:
            self._seen = now
            self.renew()

    def _unreadable(self, problem: CaracalError) -> None:
        """Say now and then that the list cannot be read; it is tried again."""
        self._seen = -1
        if self._polls % FOLDER_EVERY == 0:
            self.said.emit(problem.sentence())

    def _look(self) -> None:
        """Look for new films, in a thread: folders on a network are slow, films may be odd."""
        with BatchList(self.jobs.path) as jobs:
            self._looked.emit(look_for_more(jobs))

    def _take_look(self, found: list[str]) -> None:
        if found:
            self.said.emit(tr("New in the watched folder: {found}.", found=", ".join(found)))
            self.renew()
            self.go_on()

    def renew(self) -> None:
        """The list is read again, as others may have changed it."""
        try:
            self.items = self.jobs.items()
        except CaracalError as problem:
            self._unreadable(problem)
            return
        self.changed.emit()

    @property
    def paused(self) -> bool:
        """Whether the lines are to wait; not where that cannot be read."""
        try:
            return self.jobs.paused
        except CaracalError:
            return False

    @property
    def watched(self) -> Watched | None:
        """The folder that is watched; None: none is, or the list cannot be read."""
        try:
            return watched(self.jobs)
        except CaracalError:
            return None

    def add(self, works: Iterable[EncodeJob]) -> None:
        """Put lines at the end and work the list off."""
        lines = list(works)
        if self.do(lambda jobs: jobs.add(lines)):
            self.go_on()

    def go_on(self) -> None:
        """Work off what waits, once the list is right."""
        if self._mending.isRunning():
            self._go_then = True
        elif not self.running:
            # In a session of its own: it may go on when this window is gone.
            self._process = subprocess.Popen(
                command("core.batch.runner", str(self.jobs.path), STAY), env=environment(),
                stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, start_new_session=True)
        self.changed.emit()

    def do(self, change: Callable[[BatchList], object]) -> bool:
        """Change the list and show it; whether that could be done."""
        done = True
        try:
            change(self.jobs)
        except CaracalError as problem:
            self.said.emit(problem.sentence())
            done = False
        self.renew()
        return done

    def _ended(self, process: subprocess.Popen[bytes]) -> None:
        code, self._process = process.returncode, None
        self.renew()
        if self.waiting and code == 0 and not self.paused:
            self.go_on()  # something was added as it was about to leave
            return
        if code == NOT_OURS:
            self.said.emit(tr("Another Caracal is working off the list; this window shows how "
                              "far."))
        self.over.emit()

    def stop(self) -> None:
        """Let the process end; what was in the making waits for the next time. The window goes on
        drawing meanwhile."""
        process = self._process
        if process is None or not self.running:
            return
        process.send_signal(signal.SIGTERM)
        loop, timer, until = QEventLoop(), QTimer(), time.monotonic() + END_S

        def ended() -> None:
            if process.poll() is not None or time.monotonic() > until:
                loop.quit()

        timer.timeout.connect(ended)
        timer.start(POLL_MS // 5)
        loop.exec()
        if process.poll() is None:
            kill_with_children(process.pid)
            process.wait(END_S)

    def close(self) -> None:
        """Look no more at the list. A process that works it off goes on."""
        self._timer.stop()
        for worker in (self._mending, self._looking):
            worker.end()
        self.jobs.close()
        if self._temporary is not None and not self.running:
            shutil.rmtree(self._temporary, ignore_errors=True)


def _mended(path: Path) -> None:
    """Bring the list right after a crash, unless another process works it off."""
    with worked_by_us(path) as ours:
        if ours:
            with BatchList(path) as jobs:
                recover(jobs)
