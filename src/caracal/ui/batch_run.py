"""Runs the encoder's own process and turns its lines into signals."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, QProcess, QProcessEnvironment, Signal

from caracal.core.batch.worker import Job, Message


class BatchRun(QObject):
    """One run of the encoder. ``finished`` comes last, always."""

    progressed = Signal(object)
    made = Signal(object)
    failed = Signal(str)
    finished = Signal()

    def __init__(self, job: Job) -> None:
        super().__init__()
        handle, name = tempfile.mkstemp(prefix="caracal-job-", suffix=".json")
        os.close(handle)
        self._file = Path(name)
        self._file.write_bytes(msgspec.json.encode(job))
        self._process = QProcess(self)
        environment = QProcessEnvironment.systemEnvironment()
        environment.insert("PYTHONUNBUFFERED", "1")
        self._process.setProcessEnvironment(environment)
        self._process.readyReadStandardOutput.connect(self._read)
        self._process.finished.connect(self._over)
        self._stopped = self._answered = False

    def start(self) -> None:
        """Start the process."""
        self._process.start(sys.executable, ["-m", "caracal.core.batch.worker", str(self._file)])

    def stop(self) -> None:
        """Ask the process to stop cleanly."""
        self._stopped = True
        self._process.terminate()

    @property
    def running(self) -> bool:
        return self._process.state() is not QProcess.ProcessState.NotRunning

    def close(self) -> None:
        """Stop and wait, when the window closes."""
        if self.running:
            self.stop()
            if not self._process.waitForFinished(5000):
                self._process.kill()
                self._process.waitForFinished(2000)

    def _read(self) -> None:
        while self._process.canReadLine():
            message = msgspec.json.decode(bytes(self._process.readLine().data()), type=Message)
            if message.progress is not None:
                self.progressed.emit(message.progress)
            if message.made is not None:
                self._answered = True
                self.made.emit(message.made)
            if message.failed is not None:
                self._answered = True
                self.failed.emit("Stopped; nothing half-made was kept." if self._stopped
                                 else message.failed)

    def _over(self) -> None:
        self._read()
        self._file.unlink(missing_ok=True)
        if not self._answered:
            self.failed.emit("Stopped; nothing half-made was kept." if self._stopped else
                             "The encoder ended by itself; nothing half-made was kept. Start it "
                             "again.")
        self.finished.emit()
