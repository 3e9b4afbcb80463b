"""The project as a file: save, save as, open, and work that saves itself."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from caracal.core.base.errors import CaracalError
from caracal.core.base.logs import log
from caracal.core.base.translation import counted, tr
from caracal.core.base.work import CancelToken
from caracal.core.exchange.cut_lists import read_cut_list
from caracal.core.project.assets import gathered
from caracal.core.project.autosave import Autosave, Recovered
from caracal.core.project.model import Project, ShotStart
from caracal.core.project.shots import with_starts
from caracal.core.project.storage import SUFFIX, document, write_document
from caracal.ui.services.task_queue import TaskQueue
from caracal.ui.services.worker import Worker
from caracal.ui.session.ownership import Ownership
from caracal.ui.session.session import Session

AUTOSAVE_MS = 1500  # after the last edit
MOST_WAIT_S = 20.0  # for a slow disk, when the film is closed


class ProjectFiles(QObject):
    """Belongs to one open film. Nothing a person did is lost: work saves itself between saves.

    Files are read and written in a thread, in the order in which that was asked for: a project of
    an hour takes seconds to encode, and a disk may be slow. ``recovered`` tells that unsaved work
    is back, or that there is none.
    """

    recovered = Signal()
    _gathered = Signal(object, object, object)

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._gathering: Worker | None = None
        self._token = CancelToken()  # of the gathering
        self._gathered.connect(self._take_gathered)
        self._session, self._parent = session, parent
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AUTOSAVE_MS)
        self._timer.timeout.connect(self.keep)
        session.project_changed.connect(self._timer.start)
        key = session.analysis.content_key
        self._ownership, self._autosave = Ownership(key), Autosave(key)
        self.is_recovered = False
        self._tasks = TaskQueue(self)
        self._tasks.failed.connect(session.said)

    def recover(self) -> None:
        """Bring back work on this film that was never saved; undo gives the opened state."""
        film = self._session.film
        self._tasks.do(lambda: self._autosave.recover(film), self._take_recovered)

    def _take_recovered(self, found: Recovered) -> None:
        session = self._session
        if found.said:
            session.said.emit(found.said)
        if found.project is not None and found.project != session.project:
            session.sheets.stand_in(found.project.versions)
            session.edit(found.project, tr("Your unsaved work was restored; undo removes it."))
        self.is_recovered = True
        self.recovered.emit()

    def keep(self) -> None:
        """Write the work to its own place while it differs from what was saved.

        In a window that only looks, or that another took the work from, it goes aside. What was
        kept before is read first.
        """
        self._timer.stop()
        if not self.is_recovered:
            self._timer.start()
            return
        found, project = self._session.found, self._session.project
        unsaved, read_only = self._session.document.unsaved, bool(self._session.document.read_only)

        def work() -> tuple[bool, str]:
            ours = self._ownership.check()
            try:
                if ours and unsaved:
                    self._autosave.keep(document(found, project))
                elif ours:
                    self._autosave.drop()
                elif unsaved:
                    write_document(self._ownership.aside(self._autosave.path),
                                   document(found, project))
            except (CaracalError, OSError) as problem:
                return ours, tr("Your work could not be saved: {problem}", problem=problem)
            return ours, ""

        self._tasks.do(work, lambda told: self._kept(told[0], told[1], read_only), key="keep")

    def _kept(self, ours: bool, problem: str, read_only: bool) -> None:
        session = self._session
        if not ours and not read_only and not session.document.read_only:
            session.document.read_only = "another window has this film"
            session.said.emit(tr("Another window edits this film now; this one is read-only. "
                                 "Changes "
                                 "made here go into a separate copy; save them under another "
                                 "name."))
        if problem:
            session.said.emit(problem)

    def wait(self) -> None:
        """Wait until all that was asked for is read and written."""
        self._tasks.wait(MOST_WAIT_S)

    @property
    def ours(self) -> bool:
        """Whether this window keeps the work on the film."""
        return self._ownership.ours

    def ask_whose(self, may_take_over: Callable[[], bool]) -> None:
        """Where another window has the film open: only look, or take the work over."""
        if not self.ours and may_take_over():
            self.take_over()
        elif not self.ours:
            self._session.document.read_only = "another window has this film"

    def take_over(self) -> None:
        """Keep the work from now on, although another window has the film open."""
        self._ownership.take_over()
        self._session.document.read_only = ""

    def save(self) -> None:
        """Save where it was saved before, or ask where."""
        if self._session.document.file is None or self._session.document.read_only:
            self.save_as()
        else:
            self.save_to(self._session.document.file)

    def save_as(self) -> None:
        """A person is asked where to save, and it is saved there."""
        start = self._session.document.file or self._session.film.with_suffix(SUFFIX)
        chosen, _ = QFileDialog.getSaveFileName(self._parent, tr("Save the project"), str(start),
                                                tr("Caracal projects (*{suffix})", suffix=SUFFIX))
        if chosen:
            path = Path(chosen)
            self.save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def save_to(self, path: Path) -> None:
        """Save at ``path`` and say so, or say why not."""
        found, project = self._session.found, self._session.project

        def work() -> str:
            try:
                write_document(path, document(found, project))
            except CaracalError as problem:
                return problem.sentence()
            return ""

        self._tasks.do(work, lambda problem: self._saved(path, project, problem))

    def _saved(self, path: Path, project: Project, problem: str) -> None:
        session = self._session
        if problem:
            session.said.emit(problem)
            return
        session.document.file, session.document.saved = path, project
        self.keep()
        session.said.emit(tr("Saved {name}.", name=path.name))

    def gather(self) -> None:
        """Copy the pictures and clips of the project into a folder beside it, in a thread."""
        session = self._session
        if session.document.file is None or session.document.read_only:
            session.said.emit(tr("Save the project first: its files are collected beside it."))
            return
        if self._gathering is not None and self._gathering.isRunning():
            session.said.emit(tr("They are still being collected."))
            return
        folder = session.document.file.with_name(f"{session.document.file.stem} files")
        before = session.project

        def work() -> None:
            self._gathered.emit(before, gathered(before, folder, self._token.check), folder)

        self._gathering = Worker(work)
        self._gathering.failed.connect(session.said)
        self._gathering.start()

    def _take_gathered(self, before: Project, after: Project, folder: Path) -> None:
        session = self._session
        if session.project is not before:
            session.said.emit(tr("The project was changed meanwhile; its files are in {folder}. "
                                 "Collect media once more.", folder=folder))
        elif after == before:
            session.said.emit(tr("There is nothing to collect: all files are there, or none is "
                                 "used."))
        else:
            session.edit(after, tr("The files that are shown are in {name}; save to keep it.",
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
            session.said.emit(tr("A cut list replaces all shots. Import it when the whole film is "
                                 "analysed."))
            return

        def take(starts: tuple[ShotStart, ...]) -> None:
            try:
                project = with_starts(session.found, session.project, starts)
            except CaracalError as problem:
                session.said.emit(problem.sentence())
                return
            session.edit(project, tr("{shots} by {name}.",
                                     shots=counted(len(starts), "{count} shot", "{count} shots"),
                                     name=path.name))

        session.assets.do(lambda: read_cut_list(path, master.rate, master.frames,
                                                session.assets.token), take)

    def close(self) -> None:
        """Keep what is unsaved; nothing is asked, it comes back with the film."""
        self._token.cancel()
        if self._gathering is not None:
            self._gathering.part()
        self.wait()  # a file that is just being saved is no longer unsaved
        self._timer.stop()
        if self.is_recovered:
            self.keep()
        if not self._tasks.close(MOST_WAIT_S):
            log.error("work on %s could not be kept in %d s", self._session.film, MOST_WAIT_S)
        self._ownership.close()
