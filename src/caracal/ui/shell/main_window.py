"""The window: start page or film, menus and keys, drop, and what is remembered."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import msgspec
from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QLabel, QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import CaracalError
from caracal.core.base.paths import path_of, text_of
from caracal.core.base.translation import tr
from caracal.core.base.work import Progress
from caracal.core.batch.batch_list import list_file
from caracal.core.project.storage import Document, document, same_content
from caracal.ui.services.analysis_worker import AnalysisWorker
from caracal.ui.services.batch_controller import BatchController
from caracal.ui.services.posters import forget_posters, keep_poster
from caracal.ui.services.recent import recent, remember
from caracal.ui.services.settings import kept_bytes, kept_flag, kept_map, own_settings
from caracal.ui.services.worker import MOST_WAIT_S, all_parted, delete_let_go, let_go
from caracal.ui.session.session import Session
from caracal.ui.session.zones_look import kept_look
from caracal.ui.shell import film_title as film_words
from caracal.ui.shell import help_menu, menus
from caracal.ui.shell.analysis_controller import AnalysisController
from caracal.ui.shell.demo_film import open_demo
from caracal.ui.shell.drops import drop_on_film
from caracal.ui.shell.film_menu import film_menu
from caracal.ui.shell.film_view import FilmView
from caracal.ui.shell.gc_in_window_thread import collect_here
from caracal.ui.shell.keys import film_menus
from caracal.ui.shell.messages import Messages
from caracal.ui.shell.opening_worker import Opening, OpeningWorker
from caracal.ui.shell.start_page import Start
from caracal.ui.shell.tour import Tour, TourBar
from caracal.ui.shell.views import view_called
from caracal.ui.shell.window_state import folder_of, keep_film, recall_film, recall_view
from caracal.ui.widgets import questions

NOTICE_MS = 60_000  # for what is said of the list when the window opens
WELCOME = tr("Open a film or a project, or drop one here.")


class MainWindow(QMainWindow):
    """Owns what is open and what runs; everything else is in the views.

    It connects the start page, the open film, the analysis, the batch, the messages and the
    questions: an attribute each.
    """

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        collect_here()
        self.settings = settings or own_settings()
        self.film: FilmView | None = None
        self.working = BatchController(list_file())  # outlives every film
        self.messages = Messages(self, lambda: self.film.session if self.film else None)
        self.setStatusBar(self.messages)
        if self.working.notice:
            QTimer.singleShot(0, self, lambda: self.messages.say(self.working.notice, NOTICE_MS))
        self.working.said.connect(self.messages.say)
        self._checking: OpeningWorker | None = None
        self._asks = True
        self._closed = False  # what was still to come comes too late
        self._analyses = AnalysisController(self)
        self._analyses.progressed.connect(self._progressed)
        self._analyses.grew.connect(self._grew)
        self._analyses.ready.connect(self._ready)
        self._analyses.failed.connect(self._refused)
        self._analyses.stopped.connect(self._stopped)
        self.may_take_over = partial(questions.may_take_over, self)
        self.what_of_batch = partial(questions.what_of_batch, self)
        self.what_of_film = partial(questions.what_of_film, self)
        self._project: tuple[Path, Document] | None = None  # opened with the film being analysed
        self.setWindowTitle(tr("Caracal"))
        self.setAcceptDrops(True)
        self.setObjectName("ground")
        self.resize(1280, 800)
        self.start = Start(recent(self.settings))
        self._pages = QStackedWidget()
        self._pages.addWidget(self.start)
        self.tour_bar = TourBar()
        self.tour = Tour(self, self.tour_bar)
        self.setCentralWidget(self._over_tour_bar())
        self.actions_by_name = menus.fill(self, help_menu.with_help(
            self, {tr("&Film"): film_menu(self), **film_menus(self.opened, self.settings)},
            self.tour.start))
        self._enable(False)
        self.start.open_asked.connect(self.ask_film)
        self.start.demo_asked.connect(lambda: open_demo(self))
        self.start.tour_asked.connect(self.tour.start)
        self.start.film_chosen.connect(self.open_any)
        self.start.stop_asked.connect(self.stop_analysis)
        geometry = kept_bytes(self.settings, "geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        self.hint = QLabel()
        self.hint.setObjectName("hint")
        self.statusBar().addPermanentWidget(self.hint)
        self.statusBar().showMessage(WELCOME)

    def _over_tour_bar(self) -> QWidget:
        """Start page or film, and below them the tour while it runs."""
        both = QWidget()
        column = QVBoxLayout(both)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._pages, 1)
        column.addWidget(self.tour_bar)
        return both

    def opened(self) -> FilmView:
        """The film that is open; asked for only while one is."""
        assert self.film is not None
        return self.film

    def _enable(self, film: bool) -> None:
        for action in self.actions_by_name.values():
            action.setEnabled(film or not action.data())

    def ask_film(self) -> None:
        """Let the person choose a film or a project."""
        chosen = questions.which_film(self, self.settings)
        if chosen is not None:
            self.open_any(chosen)

    def open_any(self, path: Path) -> None:
        """Open a project or a film, whichever ``path`` is.

        It is looked at first: what is open closes only when something else can be opened.
        """
        busy = self._checking.path if self._checking else (
            self.analysing.film if self.analysing and self.film is None else None)
        if busy is not None:
            self.messages.say(film_words.busy(busy, path))
            return
        if self.film is None:
            self.start.busy(path)
        else:
            self.messages.say(tr("Opening {name}…", name=path.name))
        check = OpeningWorker(path)
        check.good.connect(self._open_checked)
        check.failed.connect(self._not_opened)
        check.stopped.connect(lambda: self._not_opened(tr("Stopped; nothing was opened.")))
        check.finished.connect(check.deleteLater)
        self._checking = check
        check.start()

    def _not_opened(self, sentence: str) -> None:
        self._end_check()
        if self.film is None:
            self._refused(sentence)
        else:
            self.messages.say(sentence, 20_000)

    def _end_check(self) -> None:
        check, self._checking = self._checking, None
        if check is not None:
            check.end()

    def _open_checked(self, found: Opening) -> None:
        self._end_check()
        if self._closed:
            return
        if not self.close_film():
            return
        self._project = found.project
        if found.film is not None:
            self.open_film(found.film)
        elif found.project is not None:
            self._analyse(
                AnalysisWorker(path_of(found.project[1].film.path), found.project[1].film)
            )

    def open_film(self, film: Path) -> None:
        """Analyse ``film`` in the background and show it; a problem is told on the start page."""
        if (self.analysing is None or self.film is not None) and self.close_film():
            self._analyse(AnalysisWorker(film))

    def _analyse(self, work: AnalysisWorker) -> None:
        if self.film is None:
            self.start.busy(work.film)
        self._analyses.start(work)

    @property
    def analysing(self) -> AnalysisWorker | None:
        """Returns the analysis that runs now; None: none does."""
        return self._analyses.current

    def stop_analysis(self) -> None:
        """Ask the running analysis, or the first look at a film, to stop."""
        if self._checking is not None:
            self._checking.token.cancel()
        self._analyses.stop()

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
            self._show_film(analysis)
        else:
            self.film.session.grow(analysis)

    def _ready(self, analysis: Analysis) -> None:
        if self._closed:
            return
        if self.film is None:
            self._show_film(analysis)
        else:
            self.film.session.grow(analysis)
            self.film.growing.hide()
            self._welcome()

    def _show_film(self, analysis: Analysis) -> None:
        opened, self._project = self._project, None
        try:
            session = self._session(analysis, opened)
        except CaracalError as problem:
            self.stop_analysis()
            self._refused(problem.sentence())
            return
        self.film = FilmView(session, folder_of(self.settings), self.working)
        self.film.made.connect(lambda name: recall_view(self.settings, self.opened(), name))
        session.said.connect(self.messages.say)
        session.said.connect(lambda _: self._name())
        session.editing.offered.connect(self.messages.offer)
        reaches = session.editing.reaches
        reaches.changed.connect(lambda: self.settings.setValue("reach", reaches.kept()))
        self.film.shown.connect(lambda name: self.hint.setText(view_called(name).hint))
        self.film.growing.stop_asked.connect(self.stop_analysis)
        self.film.growing.go_on_asked.connect(self._go_on)
        self._pages.addWidget(self.film)
        self._pages.setCurrentWidget(self.film)
        recall_film(self.settings, self.film)
        self._enable(True)
        remember(self.settings, opened[0] if opened else analysis.master.file)
        self._welcome()
        self.film.files.ask_whose(self.may_take_over)
        self.film.files.recover()
        self._name()
        self.start.show_recent(recent(self.settings))
        self.start.idle()

    def _session(
        self, analysis: Analysis, opened: tuple[Path, Document] | None
    ) -> Session:
        """A session on ``analysis`` and what was ``opened`` with it, as it was left."""
        session = Session(analysis, opened[1].project if opened else None)
        session.show_zones(kept_look(self.settings))
        session.editing.reaches.recall(kept_map(self.settings, "reach"))
        session.playing.loud = kept_flag(self.settings, "sound", True)
        session.playing.as_made = kept_flag(self.settings, "hear file", True)
        session.document.file = opened[0] if opened else None
        return session

    def _welcome(self) -> None:
        if self.film is not None:
            self.messages.say(film_words.welcome(self.film.session), 0)

    def _name(self) -> None:
        self.setWindowTitle(film_words.title(self.film.session) if self.film else tr("Caracal"))

    def _refused(self, sentence: str) -> None:
        if self.film is not None:
            self.film.growing.show_stopped(sentence)
            return
        self._project = None
        self.start.idle(sentence)
        self.statusBar().showMessage("")

    def _stopped(self) -> None:
        if self.film is None:
            self._refused(tr("Analysis stopped. Open the film again to continue."))
            return
        self._refused(film_words.stopped(self.film.session))

    def close_film(self) -> bool:
        """Back to the start page; whether the film was left. A changed sheet may hold it."""
        if self.film is None:
            return True
        if self._asks and not self.film.may_leave():
            return False
        film, self.film = self.film, None
        self._analyses.leave()
        keep_film(self.settings, film)
        self._keep_poster(film.session)
        film.close_down()
        film.session.blockSignals(True)  # its threads may still tell it something
        self._pages.removeWidget(film)
        film.hide()
        let_go(film)
        self._enable(False)
        self.hint.clear()
        self.statusBar().showMessage(WELCOME)
        self._name()
        return True

    def _keep_poster(self, session: Session) -> None:
        """Save the picture that the start page shows of a film: that of the shot at the playhead.
        """
        shot = session.analysis.shots[session.shot]
        picture = session.preview.near("", shot.poster_frame, shot.start, shot.end)
        if picture is not None:
            keep_poster(session.document.file or session.film, picture)
            forget_posters(recent(self.settings))
        self.start.show_recent(recent(self.settings))

    def ask_where_film_is(self) -> None:
        """Let the person show where the open film is now."""
        chosen = questions.which_film(self, self.settings)
        if chosen is not None:
            self.locate_film(chosen)

    def locate_film(self, path: Path) -> None:
        """Go on with the open film at ``path``, where it was moved; another film is refused."""
        session = self.opened().session
        if not (path.is_file() and same_content(path, session.analysis.content_key)):
            self.messages.say(tr("{name} is another film than {film}. Choose the one that was "
                                 "moved.", name=path.name, film=session.film.name))
            return
        file, found = session.document.file, document(session.found, session.project)
        film = msgspec.structs.replace(found.film, path=text_of(path))
        if self.close_film():
            self._project = None if file is None else (
                file, msgspec.structs.replace(found, film=film))
            self._analyse(AnalysisWorker(path))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if self.film is not None:
            drop_on_film(self.film, files, self.open_any, self.what_of_film)
        elif len(files) > 1:
            self.messages.say(film_words.many_dropped(len(files)), 12_000)
        elif files:
            self.open_any(files[0])

    def keyPressEvent(self, event: object) -> None:
        if event.key() == Qt.Key.Key_Escape:  # type: ignore[attr-defined]
            if self.film is None:
                self.stop_analysis()
            else:
                self.film.escape()

    def end(self) -> None:
        """Close without a question: a batch goes on, unsaved work is kept."""
        self._asks = False
        self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._asks and self.film is not None and not self.film.may_leave():
            event.ignore()
            return
        if self.working.running and self._asks:
            answer = self.what_of_batch()
            if answer == "stay":
                event.ignore()
                return
            if answer == "stop":
                self.messages.say(tr("Stopping…"))
                self.setEnabled(False)
                self.working.stop()
        self._closed = True
        self.settings.setValue("geometry", self.saveGeometry())
        self.hide()  # waiting for threads would look like a hang
        self.stop_analysis()
        self._end_check()
        self.close_film()
        self._analyses.close()
        self.working.close()
        all_parted(MOST_WAIT_S)
        delete_let_go()
        event.accept()
