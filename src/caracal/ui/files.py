"""The project as a file: save, save as, open, and work that saves itself."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from caracal.core.analysis.cache import old_content_key
from caracal.core.errors import CaracalError
from caracal.core.project.assets import gathered
from caracal.core.project.cutlist import read_cut_list
from caracal.core.project.model import Project
from caracal.core.project.shots import with_starts
from caracal.core.project.storage import (
    SUFFIX,
    Document,
    autosave_path,
    document,
    read_document,
    write_document,
)
from caracal.core.translation import counted, tr
from caracal.ui.ownership import Ownership
from caracal.ui.session import Session
from caracal.ui.worker import Worker

AUTOSAVE_MS = 1500  # after the last edit


class ProjectFiles(QObject):
    """Belongs to one open film. Nothing a person did is lost: work saves itself between saves."""

    _gathered = Signal(object, object, object)

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._gathering: Worker | None = None
        self._gathered.connect(self._take_gathered)
        self._session, self._parent = session, parent
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AUTOSAVE_MS)
        self._timer.timeout.connect(self.keep)
        session.project_changed.connect(self._timer.start)
        self._ownership = Ownership(session.analysis.content_key)

    @property
    def _kept(self) -> Path:
        return autosave_path(self._session.analysis.content_key)

    def recover(self) -> None:
        """Bring back work on this film that was never saved; undo gives the opened state."""
        session, kept = self._session, self._kept
        try:
            if not kept.is_file():
                if not any(kept.parent.glob(f"*{SUFFIX}")):
                    return
                # Kept by an older Caracal, perhaps; its key is worked out only then.
                kept = autosave_path(old_content_key(session.film))
            if not kept.is_file():
                return
            project = read_document(kept).project
        except (CaracalError, OSError):
            return  # from a newer Caracal: left where it is
        if project != session.project:
            session.shelf.stand_in(project.versions)
            session.edit(project, tr("Your unsaved work is back; undo leaves it out."))

    def keep(self) -> None:
        """Write the work to its own place while it differs from what was saved.

        In a window that only looks, or that another took the work from, it goes aside.
        """
        self._timer.stop()
        ours, session = self._ownership.check(), self._session
        if not ours and not session.read_only:
            session.read_only = "another window has this film"
            session.said.emit(tr("Another window took this film over: this one only looks from now "
                                 "on. What is changed here is kept aside; save it under another "
                                 "name."))
        try:
            if ours and session.unsaved:
                write_document(self._kept, self._document())
            elif ours:
                self._kept.unlink(missing_ok=True)
            elif session.unsaved:
                write_document(self._ownership.aside(self._kept), self._document())
        except (CaracalError, OSError) as problem:
            self._session.said.emit(tr("Your work could not be kept: {problem}", problem=problem))

    def _document(self) -> Document:
        return document(self._session.found, self._session.project)

    @property
    def ours(self) -> bool:
        """Whether this window keeps the work on the film."""
        return self._ownership.ours

    def ask_whose(self, may_take_over: Callable[[], bool]) -> None:
        """Where another window has the film open: only look, or take the work over."""
        if not self.ours and may_take_over():
            self.take_over()
        elif not self.ours:
            self._session.read_only = "another window has this film"

    def take_over(self) -> None:
        """Keep the work from now on, although another window has the film open."""
        self._ownership.take_over()
        self._session.read_only = ""

    def save(self) -> None:
        """Save where it was saved before, or ask where."""
        if self._session.file is None or self._session.read_only:
            self.save_as()
        else:
            self.save_to(self._session.file)

    def save_as(self) -> None:
        """A person is asked where to save, and it is saved there."""
        start = self._session.file or self._session.film.with_suffix(SUFFIX)
        chosen, _ = QFileDialog.getSaveFileName(self._parent, tr("Save the project"), str(start),
                                                tr("Caracal projects (*{suffix})", suffix=SUFFIX))
        if chosen:
            path = Path(chosen)
            self.save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def save_to(self, path: Path) -> None:
        """Save at ``path`` and say so, or say why not."""
        session = self._session
        try:
            write_document(path, self._document())
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        session.file, session.saved = path, session.project
        self.keep()
        session.said.emit(tr("Saved {name}.", name=path.name))

    def gather(self) -> None:
        """Copy the pictures and clips of the project into a folder beside it, in a thread."""
        session = self._session
        if session.file is None or session.read_only:
            session.said.emit(tr("Save the project first: its files are gathered beside it."))
            return
        if self._gathering is not None and self._gathering.isRunning():
            session.said.emit(tr("They are still being gathered."))
            return
        folder = session.file.with_name(f"{session.file.stem} files")
        before = session.project

        def work() -> None:
            self._gathered.emit(before, gathered(before, folder), folder)

        self._gathering = Worker(work)
        self._gathering.failed.connect(session.said)
        self._gathering.start()

    def _take_gathered(self, before: Project, after: Project, folder: Path) -> None:
        session = self._session
        if session.project is not before:
            session.said.emit(tr("The project was changed meanwhile; its files are in {folder}. "
                                 "Gather once more.", folder=folder))
        elif after == before:
            session.said.emit(tr("There is nothing to gather: all files are there, or none is "
                                 "shown."))
        else:
            session.edit(after, tr("The files that are shown lie in {name}; save to keep it.",
                                   name=folder.name))

    def ask_cut_list(self) -> None:
        """Ask for a cut list that replaces the found shots."""
        chosen, _ = QFileDialog.getOpenFileName(self._parent, tr("Import a cut list"),
                                                str(self._session.film.parent),
                                                tr("Cut lists (*.edl *.otio *.otioz);;All files "
                                                   "(*)"))
        if chosen:
            self.import_cut_list(Path(chosen))

    def import_cut_list(self, path: Path) -> None:
        """Replace the shots by those of the cut list at ``path``, or say why not."""
        session, master = self._session, self._session.analysis.master
        if not session.found.whole:
            session.said.emit(tr("A cut list takes over all shots: import it when the whole film "
                                 "was looked at."))
            return
        try:
            starts = read_cut_list(path, master.rate, master.frames)
            project = with_starts(session.found, session.project, starts)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        session.edit(project, tr("{shots} by {name}.",
                                 shots=counted(len(starts), "{count} shot", "{count} shots"),
                                 name=path.name))

    def close(self) -> None:
        """Keep what is unsaved; nothing is asked, it comes back with the film."""
        if self._gathering is not None:
            self._gathering.wait()
        self.keep()
        self._ownership.close()
