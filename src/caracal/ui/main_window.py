"""The window: start page or film, menus and keys, drop, and what is remembered."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QFileDialog, QLabel, QMainWindow, QMessageBox, QStackedWidget

from caracal.core.analysis.model import Analysis
from caracal.core.batch.batch_list import list_file
from caracal.core.errors import CaracalError
from caracal.core.framing.shot_solution import ShotSolution
from caracal.core.logs import kept_at
from caracal.core.paths import path_of
from caracal.core.project.cutlist import SUFFIXES as CUT_LISTS
from caracal.core.project.storage import SUFFIX, Document
from caracal.core.resources import DEMO_FILM
from caracal.core.work import Progress
from caracal.ui import menus
from caracal.ui.analysis_worker import AnalysisWorker
from caracal.ui.batch.controller import BatchController
from caracal.ui.film_view import FilmView
from caracal.ui.keys import film_menus
from caracal.ui.menus import Entry
from caracal.ui.opening_worker import Opening, OpeningWorker
from caracal.ui.session import Session
from caracal.ui.start import Start
from caracal.ui.views import view
from caracal.ui.zones import kept_look

WELCOME = "Open a film or a project, or drop one here."
MOST_RECENT = 6
MOVIES = "Movies (*.mp4 *.mov *.mkv *.mxf *.webm *.avi *.m4v *.ts)"


class MainWindow(QMainWindow):
    """Owns what is open and what runs; everything else lives in the views."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self.settings = settings or QSettings("caracal", "caracal")
        self.film: FilmView | None = None
        self.working = BatchController(list_file())  # outlives every film
        self.working.said.connect(lambda words: self.statusBar().showMessage(words, 8000))
        self._checking: OpeningWorker | None = None
        self._asks = True
        self._closed = False  # what was still to come comes too late
        self.analysing: AnalysisWorker | None = None
        self._ending: set[AnalysisWorker] = set()  # those that were told to stop, and are about to
        self._project: tuple[Path, Document] | None = None  # opened with the film being analysed
        self.setWindowTitle("Caracal")
        self.setAcceptDrops(True)
        self.setObjectName("ground")
        self.resize(1280, 800)
        self.start = Start(self._recent())
        self._pages = QStackedWidget()
        self._pages.addWidget(self.start)
        self.setCentralWidget(self._pages)
        self.actions_by_name = menus.fill(
            self, {"&Film": self._film_menu(), **film_menus(self._open, self.settings)})
        self._enable(False)
        self.start.open_asked.connect(self.ask_film)
        self.start.demo_asked.connect(lambda: self.open_film(DEMO_FILM))
        self.start.film_chosen.connect(self.open_any)
        self.start.stop_asked.connect(self.stop_analysis)
        geometry = self.settings.value("geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        self.hint = QLabel()
        self.hint.setObjectName("hint")
        self.statusBar().addPermanentWidget(self.hint)
        self.statusBar().showMessage(WELCOME)

    def _film_menu(self) -> list[Entry | None]:
        return [
            Entry("Open film or project…", "Ctrl+O", "Open a finished master, or saved work",
                  self.ask_film, film=False),
            Entry("Open the demo film", "Ctrl+D", "Kiln Day at Marram Quay",
                  lambda: self.open_film(DEMO_FILM), film=False),
            None,
            Entry("Save project", "Ctrl+S", "Save everything decided about this film",
                  lambda: self._open().files.save()),
            Entry("Save project as…", "Ctrl+Shift+S", "Save in another place",
                  lambda: self._open().files.save_as()),
            Entry("Import cut list…", "Ctrl+I", "Take the shots from an EDL or OpenTimelineIO file",
                  lambda: self._open().files.ask_cut_list()),
            None,
            Entry("Close film", "Ctrl+W", "Back to the start page", self.close_film),
            Entry("Where the log is", "", "What went wrong and was not foreseen is kept there",
                  lambda: self.statusBar().showMessage(f"The log is {kept_at()}.", 20_000),
                  film=False),
            Entry("Quit", "Ctrl+Q", "Leave Caracal; unsaved work comes back next time", self.close,
                  film=False),
        ]

    def _open(self) -> FilmView:
        assert self.film is not None
        return self.film

    def _enable(self, film: bool) -> None:
        for action in self.actions_by_name.values():
            action.setEnabled(film or not action.data())

    def ask_film(self) -> None:
        """Let the person choose a film or a project."""
        folder = str(self.settings.value("folder", str(Path.home())))
        chosen, _ = QFileDialog.getOpenFileName(
            self, "Open a film or a project", folder,
            f"{MOVIES};;Caracal projects (*{SUFFIX});;All files (*)")
        if chosen:
            self.settings.setValue("folder", str(Path(chosen).parent))
            self.open_any(Path(chosen))

    def open_any(self, path: Path) -> None:
        """Open a project or a film, whichever ``path`` is.

        It is looked at first: what is open closes only when something else can be opened.
        """
        busy = self._checking.path if self._checking else (
            self.analysing.film if self.analysing and self.film is None else None)
        if busy is not None:
            self.statusBar().showMessage(f"{busy.name} is being looked at. Stop that first "
                                         f"(Escape), then open {path.name}.", 8000)
            return
        if self.film is None:
            self.start.busy(path)
        else:
            self.statusBar().showMessage(f"Looking at {path.name}…")
        check = OpeningWorker(path)
        check.good.connect(self._open_checked)
        check.failed.connect(self._not_opened)
        check.finished.connect(check.deleteLater)
        self._checking = check
        check.start()

    open_project = open_any

    def _not_opened(self, sentence: str) -> None:
        self._end_check()
        if self.film is None:
            self._refused(sentence)
        else:
            self.statusBar().showMessage(sentence, 20_000)

    def _end_check(self) -> None:
        check, self._checking = self._checking, None
        if check is not None:
            check.wait()

    def _open_checked(self, found: Opening) -> None:
        self._end_check()
        if self._closed:
            return
        self.close_film()
        self._project = found.project
        if found.film is not None:
            self.open_film(found.film)
        elif found.project is not None:
            self._analyse(
                AnalysisWorker(path_of(found.project[1].film.path), found.project[1].film)
            )

    def open_film(self, film: Path) -> None:
        """Analyse ``film`` in the background and show it; a problem is told on the start page."""
        if self.analysing is None or self.film is not None:
            self.close_film()
            self._analyse(AnalysisWorker(film))

    def _analyse(self, work: AnalysisWorker) -> None:
        if self.film is None:
            self.start.busy(work.film)

        def mine(run: Callable[..., None]) -> Callable[..., None]:
            return lambda *news: run(*news) if work is self.analysing else None

        work.progressed.connect(mine(self._progressed))
        work.grew.connect(mine(self._grew))
        work.ready.connect(mine(self._ready))
        work.failed.connect(mine(self._refused))
        work.stopped.connect(mine(self._stopped))
        work.finished.connect(lambda: self._analysis_over(work))
        self.analysing = work
        work.start()

    def stop_analysis(self) -> None:
        """Ask the running analysis to stop."""
        if self.analysing is not None:
            self.analysing.token.cancel()

    def _go_on(self) -> None:
        """Look at the rest of the open film."""
        if self.film is not None and self.analysing is None:
            self._analyse(AnalysisWorker(self.film.session.film))

    def _progressed(self, progress: Progress) -> None:
        if self.film is None:
            self.start.progress(progress)
        else:
            self.film.growing.show_progress(progress)

    def _grew(self, analysis: Analysis) -> None:
        """The film is there as soon as anything of it can be seen."""
        if self._closed:
            return
        if self.film is None:
            self._show_film(analysis, {})
        else:
            self.film.session.grow(analysis)

    def _ready(self, analysis: Analysis, solved: dict[tuple[str, int], ShotSolution]) -> None:
        if self._closed:
            return
        if self.film is None:
            self._show_film(analysis, solved)
        else:
            self.film.session.grow(analysis)
            self.film.growing.hide()
            self._welcome(analysis)

    def _show_film(self, analysis: Analysis, solved: dict[tuple[str, int], ShotSolution]) -> None:
        opened, self._project = self._project, None
        try:
            session = Session(analysis, solved, opened[1].project if opened else None)
            session.show_zones(kept_look(self.settings))
            session.playing.loud = bool(self.settings.value("sound", True, type=bool))
            session.playing.as_made = bool(self.settings.value("hear file", True, type=bool))
        except CaracalError as problem:
            self.stop_analysis()
            self._refused(problem.sentence())
            return
        session.file = opened[0] if opened else None
        folder = Path(str(self.settings.value("out", str(Path.home() / "Caracal"))))
        self.film = FilmView(session, folder, self.working)
        session.said.connect(lambda words: self.statusBar().showMessage(words, 8000))
        session.said.connect(lambda _: self._name())
        self.film.shown.connect(lambda name: self.hint.setText(view(name).hint))
        self.film.growing.stop_asked.connect(self.stop_analysis)
        self.film.growing.go_on_asked.connect(self._go_on)
        self._pages.addWidget(self.film)
        self._pages.setCurrentWidget(self.film)
        last = str(self.settings.value("view", "Board"))
        self.film.show_view(last if last in self.film.views else "Board")
        self._enable(True)
        self._remember(opened[0] if opened else analysis.master.file)
        self._welcome(analysis)
        if not self.film.files.ours:
            self._ask_whose()
        self.film.files.recover()
        self._name()
        self.start.idle()

    def _ask_whose(self) -> None:
        """Another window has this film open: only look, or take the work over."""
        if self.film is None:
            return
        if self.may_take_over():
            self.film.files.take_over()
        else:
            self.film.session.read_only = "another window has this film"

    def may_take_over(self) -> bool:
        """Ask whether this window is to keep the work on a film that another has open."""
        box = QMessageBox(QMessageBox.Icon.NoIcon, "This film is open",
                          "Another window of Caracal has this film open.", parent=self)
        box.setInformativeText("Only look: what is changed here is kept aside.\n"
                               "Take over: the other window only looks from then on.")
        look = box.addButton("Only look", QMessageBox.ButtonRole.RejectRole)
        box.addButton("Take over", QMessageBox.ButtonRole.AcceptRole)
        box.setDefaultButton(look)
        box.exec()
        return box.clickedButton() is not look

    def _welcome(self, analysis: Analysis) -> None:
        notices = " ".join(analysis.master.notices)
        if not analysis.master.file.is_file():
            notices = (f"{analysis.master.file.name} is not where it was: everything but encoding "
                       "works. Put it beside the project and open the project again.")
        assert self.film is not None
        session = self.film.session
        if session.missing:
            notices += (f" Gone: the spec sheet {', '.join(sorted(session.missing))}; its versions "
                        "stay, and can be given to another in Batch.")
        if session.broken_sheets:
            notices += f" {session.broken_sheets[0]}"
        count = len(session.analysis.shots)
        shots = f"{count} {'shot' if count == 1 else 'shots'}. " if analysis.whole else ""
        self.statusBar().showMessage(f"{shots}{notices}")

    def _name(self) -> None:
        if self.film is None:
            self.setWindowTitle("Caracal")
            return
        session = self.film.session
        name = session.file.name if session.file else session.film.name
        state = " (only looking)" if session.read_only else (
            " (unsaved)" if session.unsaved else "")
        self.setWindowTitle(f"{name}{state} - Caracal")

    def _refused(self, sentence: str) -> None:
        if self.film is not None:
            self.film.growing.show_stopped(sentence)
            return
        self._project = None
        self.start.idle(sentence)
        self.statusBar().showMessage("")

    def _stopped(self) -> None:
        if self.film is None:
            self._refused("Stopped before the analysis was done.")
            return
        analysis = self.film.session.found
        share = analysis.known_to / analysis.master.frames
        self._refused(f"Stopped at {share:.0%} of the film. What was found is kept; versions can "
                      "be made when all of it was looked at.")

    def _analysis_over(self, work: AnalysisWorker) -> None:
        work.wait()  # it must have ended before it is let go
        self._ending.discard(work)
        if work is self.analysing:
            self.analysing = None

    def close_film(self) -> None:
        """Back to the start page."""
        if self.film is None:
            return
        film, self.film = self.film, None
        if self.analysing is not None:  # what it found is kept
            self.stop_analysis()
            self._ending.add(self.analysing)
            self.analysing = None
        self.settings.setValue("view", film.view)
        self.settings.setValue("out", str(film.batch.folder))
        film.close_down()
        self._pages.removeWidget(film)
        film.deleteLater()
        self._enable(False)
        self.hint.clear()
        self.statusBar().showMessage(WELCOME)
        self._name()

    def _recent(self) -> list[Path]:
        kept = self.settings.value("recent") or []
        kept = [kept] if isinstance(kept, str) else kept
        return [Path(name) for name in kept if Path(name).exists()]

    def _remember(self, film: Path) -> None:
        films = [film, *(path for path in self._recent() if path != film)]
        self.settings.setValue("recent", [str(path) for path in films[:MOST_RECENT]])

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        cut_lists = [file for file in files if file.suffix.lower() in CUT_LISTS]
        if cut_lists and self.film is not None:
            self.film.files.import_cut_list(cut_lists[0])
        elif len(files) > 1:
            self.statusBar().showMessage(f"{len(files)} files were dropped, and one film is open "
                                         "at a time. Drop one; Batch can watch a folder.", 12_000)
        elif files:
            self.open_any(files[0])

    def keyPressEvent(self, event: object) -> None:
        if event.key() == Qt.Key.Key_Escape:  # type: ignore[attr-defined]
            if self.film is None:
                self.stop_analysis()
            else:
                self.film.aim.end_modes()

    def what_of_batch(self) -> str:
        """Ask what becomes of a batch that runs: "go on", "stop", or "stay" in the window."""
        box = QMessageBox(QMessageBox.Icon.NoIcon, "A batch is running",
                          "Versions are still being made.", parent=self)
        box.setInformativeText("They can go on without the window; open Caracal again to see how "
                               "far they are. When stopped, they wait for the next time.")
        answers: dict[object, str] = {
            box.addButton("Go on in the background", QMessageBox.ButtonRole.AcceptRole): "go on",
            box.addButton("Stop the batch", QMessageBox.ButtonRole.DestructiveRole): "stop",
            box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole): "stay",
        }
        box.exec()
        return answers.get(box.clickedButton(), "stay")

    def end(self) -> None:
        """Close without a question: a batch goes on, unsaved work is kept."""
        self._asks = False
        self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.working.running and self._asks:
            answer = self.what_of_batch()
            if answer == "stay":
                event.ignore()
                return
            if answer == "stop":
                self.statusBar().showMessage("Stopping…")
                self.setEnabled(False)
                self.working.stop()
        self._closed = True
        self.settings.setValue("geometry", self.saveGeometry())
        self.stop_analysis()
        self._end_check()
        self.close_film()
        for analysis_worker in (*self._ending, *([self.analysing] if self.analysing else [])):
            analysis_worker.wait()
        self.working.close()
        event.accept()
