"""The window: start page or film, menus and keys, drop, and what is remembered."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import QFileDialog, QMainWindow, QMenu, QStackedWidget

from caracal.core.analysis.model import Analysis
from caracal.core.errors import CaracalError
from caracal.core.framing.path import ShotPath
from caracal.core.resources import DEMO_FILM
from caracal.core.time import FrameRange
from caracal.ui.analysing import Analysing
from caracal.ui.film_view import VIEWS, FilmView
from caracal.ui.session import Session
from caracal.ui.start import Start

MOST_RECENT = 6
NUDGES = {"Left": -1, "Right": 1, "Shift+Left": -10, "Shift+Right": 10}


class MainWindow(QMainWindow):
    """Owns what is open and what runs; everything else lives in the views."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self.settings = settings or QSettings("caracal", "caracal")
        self.film: FilmView | None = None
        self.analysing: Analysing | None = None
        self.setWindowTitle("Caracal")
        self.setAcceptDrops(True)
        self.setObjectName("ground")
        self.resize(1280, 800)
        self.start = Start(self._recent())
        self._pages = QStackedWidget()
        self._pages.addWidget(self.start)
        self.setCentralWidget(self._pages)
        self._film_actions: list[QAction] = []
        self._menus()
        self.start.open_asked.connect(self.ask_film)
        self.start.demo_asked.connect(lambda: self.open_film(DEMO_FILM))
        self.start.film_chosen.connect(self.open_film)
        self.start.stop_asked.connect(self.stop_analysis)
        geometry = self.settings.value("geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        self.statusBar().showMessage("Open a film, or drop one here.")

    def _menus(self) -> None:
        film = self.menuBar().addMenu("&Film")
        self._add(film, "Open…", "Ctrl+O", self.ask_film, "Open a finished master")
        self._add(film, "Open the demo film", "Ctrl+D", lambda: self.open_film(DEMO_FILM),
                  "Kiln Day at Marram Quay")
        self._add(film, "Close film", "Ctrl+W", self.close_film, "Back to the start page", True)
        film.addSeparator()
        self._add(film, "Quit", "Ctrl+Q", self.close, "Leave Caracal")
        edit = self.menuBar().addMenu("&Edit")
        self._add(edit, "Undo", "Ctrl+Z", lambda: self._now().undo(), "Take back an edit", True)
        self._add(edit, "Redo", "Ctrl+Shift+Z", lambda: self._now().redo(), "Do it again", True)
        edit.addSeparator()
        self._add(edit, "Range begins here", "I", lambda: self._set_range("in"), "Set the in", True)
        self._add(edit, "Range ends here", "O", lambda: self._set_range("out"), "Set the out", True)
        self._add(edit, "Whole film", "Shift+X", lambda: self._set_range("all"),
                  "Forget in and out", True)
        views = self.menuBar().addMenu("&View")
        for key, name in VIEWS:
            self._add(views, name, key, lambda one=name: self._show(one), f"Show {name}", True)
        play = self.menuBar().addMenu("&Play")
        self._add(play, "Play or stop", "Space", lambda: self._play(0), "Play from here", True)
        self._add(play, "Play backwards", "J", lambda: self._play(-1),
                  "Again: twice as fast", True)
        self._add(play, "Stop", "K", lambda: self._now().play(0), "Stop playing", True)
        self._add(play, "Play forwards", "L", lambda: self._play(1), "Again: twice as fast", True)
        play.addSeparator()
        for key, step in NUDGES.items():
            words = f"{abs(step)} frame{'s' if abs(step) > 1 else ''} "
            words += "back" if step < 0 else "forward"
            self._add(play, words.capitalize(), key,
                      lambda by=step: self._now().go(self._now().frame + by), words, True)
        self._add(play, "Shot before", "Up", lambda: self._step_shot(-1), "Back one shot", True)
        self._add(play, "Next shot", "Down", lambda: self._step_shot(1), "To the next shot", True)
        for action in self._film_actions:
            action.setEnabled(False)

    def _add(self, menu: QMenu, name: str, key: str, run: object, tip: str,
             film: bool = False) -> None:
        action = QAction(name, self)
        action.setShortcut(QKeySequence(key))
        action.setStatusTip(tip)
        action.triggered.connect(lambda _=False: run())  # type: ignore[operator]
        menu.addAction(action)
        if film:
            self._film_actions.append(action)

    def _now(self) -> Session:
        assert self.film is not None
        return self.film.session

    def _show(self, name: str) -> None:
        if self.film is not None:
            self.film.show_view(name)

    def _play(self, way: int) -> None:
        session = self._now()
        if way == 0:
            session.play(0 if session.speed else 1)
        elif session.speed * way > 0:
            session.play(max(-8, min(8, session.speed * 2)))
        else:
            session.play(way)

    def _step_shot(self, way: int) -> None:
        session = self._now()
        shots = session.analysis.shots
        session.go(shots[min(max(0, session.shot + way), len(shots) - 1)].telling_frame)

    def _set_range(self, which: str) -> None:
        session = self._now()
        span, frames = session.project.span, session.analysis.master.frames
        start, end = span.start, span.end_exclusive
        if which == "in":
            start = session.frame
            end = end if end > start else frames
        elif which == "out":
            end = session.frame + 1
            start = start if start < end else 0
        else:
            start, end = 0, frames
        project = msgspec.structs.replace(session.project, span=FrameRange(start, end))
        session.edit(project, f"Range of {end - start} frames.")

    def ask_film(self) -> None:
        """Let the person choose a film."""
        folder = str(self.settings.value("folder", str(Path.home())))
        chosen, _ = QFileDialog.getOpenFileName(
            self, "Open a film", folder,
            "Movies (*.mp4 *.mov *.mkv *.mxf *.webm *.avi *.m4v *.ts);;All files (*)")
        if chosen:
            self.settings.setValue("folder", str(Path(chosen).parent))
            self.open_film(Path(chosen))

    def open_film(self, film: Path) -> None:
        """Analyse ``film`` in the background and show it; a problem is told on the start page."""
        if self.analysing is not None:
            return
        self.close_film()
        self.start.busy(film)
        work = Analysing(film)
        work.progressed.connect(self.start.progress)
        work.ready.connect(self._ready)
        work.failed.connect(self._refused)
        work.stopped.connect(lambda: self._refused("Stopped before the analysis was done."))
        work.finished.connect(self._analysis_over)
        self.analysing = work
        work.start()

    def stop_analysis(self) -> None:
        """Ask the running analysis to stop."""
        if self.analysing is not None:
            self.analysing.token.cancel()

    def _ready(self, analysis: Analysis, paths: dict[tuple[str, int], ShotPath]) -> None:
        try:
            session = Session(analysis, paths)
        except CaracalError as problem:
            self._refused(problem.sentence())
            return
        folder = Path(str(self.settings.value("out", str(Path.home() / "Caracal"))))
        self.film = FilmView(session, folder)
        session.said.connect(lambda words: self.statusBar().showMessage(words, 6000))
        self._pages.addWidget(self.film)
        self._pages.setCurrentWidget(self.film)
        view = str(self.settings.value("view", "Board"))
        self.film.show_view(view if view in self.film.buttons else "Board")
        for action in self._film_actions:
            action.setEnabled(True)
        self.setWindowTitle(f"{analysis.master.file.name} - Caracal")
        self._remember(analysis.master.file)
        shots, notices = len(analysis.shots), " ".join(analysis.master.notices)
        self.statusBar().showMessage(
            f"{shots} shots. Hover a row to scrub it, double-click to aim. {notices}")
        self.start.idle()

    def _refused(self, sentence: str) -> None:
        self.start.idle(sentence)
        self.statusBar().showMessage("")

    def _analysis_over(self) -> None:
        self.analysing = None

    def close_film(self) -> None:
        """Back to the start page."""
        if self.film is None:
            return
        film, self.film = self.film, None
        self.settings.setValue("view", film.view)
        self.settings.setValue("out", str(film.batch.folder))
        film.close_down()
        self._pages.removeWidget(film)
        film.deleteLater()
        for action in self._film_actions:
            action.setEnabled(False)
        self.setWindowTitle("Caracal")

    def _recent(self) -> list[Path]:
        kept = self.settings.value("recent") or []
        kept = [kept] if isinstance(kept, str) else kept
        return [Path(one) for one in kept if Path(one).exists()]

    def _remember(self, film: Path) -> None:
        films = [film, *(one for one in self._recent() if one != film)]
        self.settings.setValue("recent", [str(one) for one in films[:MOST_RECENT]])

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if files:
            self.open_film(files[0])

    def keyPressEvent(self, event: object) -> None:
        if event.key() == Qt.Key.Key_Escape:  # type: ignore[attr-defined]
            self.stop_analysis()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.settings.setValue("geometry", self.saveGeometry())
        self.stop_analysis()
        if self.analysing is not None:
            self.analysing.wait()
        self.close_film()
        event.accept()
