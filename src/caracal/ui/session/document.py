"""The project of an open film as a document: its history, its file, and whether it was saved."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from caracal.core.base.translation import tr
from caracal.core.project.history import History
from caracal.core.project.model import Project

SEAL_MS = 800  # after the last turn of a wheel, or the last key, a gesture is over


class Document(QObject):
    """Every edit is a step that can be undone; ``changed`` says in a sentence what was done."""

    changed = Signal(str)

    def __init__(self, project: Project) -> None:
        super().__init__()
        self.history = History([project])
        self.saved = project
        self.file: Path | None = None  # where the project was saved
        self.read_only = ""  # why, when this window only looks
        self._sealing = QTimer(self)
        self._sealing.setSingleShot(True)
        self._sealing.setInterval(SEAL_MS)
        self._sealing.timeout.connect(self.history.seal)

    @property
    def project(self) -> Project:
        """The project as it is now."""
        return self.history.now

    @property
    def unsaved(self) -> bool:
        """Whether it differs from what was saved last."""
        return self.project != self.saved

    def edit(self, project: Project, name: str, gesture: object | None = None,
             held: bool = False) -> None:
        """Take ``project`` as the newest; the edits of one ``gesture`` are undone at once.

        A gesture that is ``held`` (a button is down) lasts until :meth:`seal`, another until
        nothing more comes for a moment.
        """
        self.history.push(project, name, gesture)
        if gesture is not None and not held:
            self._sealing.start()
        self.changed.emit(name)

    def seal(self) -> None:
        """The gesture is over: what follows is a step of its own."""
        self._sealing.stop()
        self.history.seal()

    def undo(self) -> None:
        """Take the last step back."""
        name = self.history.undo()
        self.changed.emit(tr("Undid: {name}", name=name) if name else tr("Nothing to undo"))

    def redo(self) -> None:
        """Do the step again that was taken back last."""
        name = self.history.redo()
        self.changed.emit(tr("Redid: {name}", name=name) if name
                          else tr("Nothing to redo"))
