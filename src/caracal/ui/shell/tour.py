"""The tour: six steps on the demo film, each completed by doing it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from PySide6.QtCore import QObject, QSettings, QTimer, Signal, SignalInstance
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.translation import mark, tr
from caracal.core.framing.choice import ShotChoice
from caracal.core.layout.model import Layout
from caracal.core.project.model import Cast, Project
from caracal.ui.aim.registration import AIM
from caracal.ui.batch.registration import BATCH
from caracal.ui.board.registration import BOARD
from caracal.ui.services.batch_controller import BatchController
from caracal.ui.services.settings import kept_number
from caracal.ui.shell.demo_film import open_demo
from caracal.ui.shell.film_view import FilmView
from caracal.ui.widgets.focus_policy import apply_focus_policy
from caracal.ui.words.registration import WORDS

ASK_MS = 150  # between two looks at whether a step was done
STEP = "tour step"  # in the settings


class Window(Protocol):
    """What the tour needs of the window; it is a widget."""

    film: FilmView | None
    working: BatchController
    settings: QSettings


@dataclass(frozen=True)
class Snapshot:
    """What is compared to tell whether a step was done."""

    demo_open: bool = False
    view: str = ""
    place: tuple[str, int] = ("", -1)  # the version and shot that are chosen
    casts: tuple[Cast, ...] = ()
    layouts: frozenset[tuple[str, int, Layout]] = frozenset()
    imports: int = 0  # of captions, in this film since it was opened
    items: int = 0  # of the batch list


@dataclass(frozen=True)
class Step:
    """A step: what it is called, what to do, whether it was done, and how to get to its place.

    The texts are translated where they are shown.
    """

    title: str
    words: str
    done: Callable[[Snapshot, Snapshot], bool]  # before, now
    show: Callable[[FilmView], None]
    button: str = mark("Show me where")


def snapshot(window: Window) -> Snapshot:
    """What the window shows and holds now."""
    film, items = window.film, len(window.working.items)
    if film is None:
        return Snapshot(items=items)
    session = film.session
    words = film.views.get(WORDS.name)
    return Snapshot(session.film == DEMO_FILM and session.found.whole, film.view,
                (session.letter, session.shot), session.project.casts, _layouts(session.project),
                0 if words is None else film.words.cue_actions.imports, items)


def _layouts(project: Project) -> frozenset[tuple[str, int, Layout]]:
    """Every layout that was chosen, with its version and shot."""
    usual = ShotChoice().layout
    return frozenset((decision.letter, decision.shot, decision.choice.layout)
                     for decision in project.decisions if decision.choice.layout != usual)


def _show_talkers(film: FilmView) -> None:
    """Aim at the shot in which the smaller of two people is largest: another can lead there."""
    session = film.session

    def second_height(shot: int) -> float:
        frame = session.analysis.shots[shot].poster_frame
        boxes = [one.box_at(frame) for one in session.people.subjects(shot)]
        heights = sorted((box[3] for box in boxes if box is not None), reverse=True)
        return heights[1] if len(heights) > 1 else 0.0

    shot = max(range(len(session.analysis.shots)), key=second_height)
    session.go(session.analysis.shots[shot].poster_frame)
    film.show_view(AIM.name)
    film.aim.side.show_page("Who")


def _show_layouts(film: FilmView) -> None:
    film.show_view(AIM.name)
    film.aim.side.show_page("Layout")


STEPS = (
    Step(mark("Open a film"),
         mark("Open the demo film: one minute, finished and widescreen."),
         lambda before, now: now.demo_open, lambda film: None, mark("Open the demo film")),
    Step(mark("Read the Board"),
         mark("A tile is a shot, with a picture for each version. Point at a picture to scrub it, "
              "then click another shot."),
         lambda before, now: now.view == BOARD.name and now.place != before.place,
         lambda film: film.show_view(BOARD.name)),
    Step(mark("Choose who leads"),
         mark("The crop keeps the lead in sight. In Aim, click somebody else in the large picture "
              "to make them lead."),
         lambda before, now: now.casts != before.casts, _show_talkers),
    Step(mark("Use a layout"),
         mark("Where a crop cannot hold the picture, a layout can. In the side, click one under "
              "Layout."),
         lambda before, now: now.layouts != before.layouts, _show_layouts),
    Step(mark("Import captions"),
         mark("In Words, import the demo's captions: the SRT file beside the film, or drop it "
              "here."),
         lambda before, now: now.imports > before.imports,
         lambda film: film.show_view(WORDS.name)),
    Step(mark("Make versions"),
         mark("In Batch, choose a folder and make the versions. Each file is proved against its "
              "spec sheet."),
         lambda before, now: now.items > before.items,
         lambda film: film.show_view(BATCH.name)),
)


class TourBar(QWidget):
    """One line above the status line, so that it covers nothing: the step and its buttons."""

    show_asked = Signal()
    skip_asked = Signal()
    leave_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.title, self.words = QLabel(), QLabel()
        self.title.setObjectName("head")
        self.words.setWordWrap(True)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 8, 12, 8)
        row.setSpacing(16)
        row.addWidget(self.title)
        row.addWidget(self.words, 1)
        self.show_button = self._button("", tr("Show what this step is about"), self.show_asked)
        self.show_button.setObjectName("main")
        self.skip = self._button(tr("Skip"), tr("Go on to the next step"), self.skip_asked)
        self.leave = self._button(tr("Leave the tour"), tr("Help has it again, at this step"),
                                  self.leave_asked)
        for button in (self.show_button, self.skip, self.leave):
            row.addWidget(button)
        apply_focus_policy(self)
        self.hide()

    @staticmethod
    def _button(words: str, tip: str, signal: SignalInstance) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.clicked.connect(lambda _=False: signal.emit())
        return button

    def show_step(self, number: int, step: Step) -> None:
        """Show step ``number``, from 0."""
        self.title.setText(tr("{number} of {count}  {title}", number=number + 1, count=len(STEPS),
                              title=tr(step.title)))
        self.words.setText(tr(step.words))
        self.show_button.setText(tr(step.button))
        self.show_button.show()
        self.skip.show()
        self.leave.setText(tr("Leave the tour"))
        self.show()

    def show_end(self) -> None:
        """All steps are done."""
        self.title.setText(tr("Tour completed"))
        self.words.setText(tr("That was the whole job. F1 lists the keys, Shift+F1 opens the "
                              "guide."))
        self.show_button.hide()
        self.skip.hide()
        self.leave.setText(tr("Close"))


class Tour(QObject):
    """Shows one step after the other, and announces each to screen readers."""

    def __init__(self, window: Window, bar: TourBar) -> None:
        super().__init__(bar)
        self._window, self.bar = window, bar
        self.number = 0
        self._before = Snapshot()
        self._timer = QTimer(self)
        self._timer.setInterval(ASK_MS)
        self._timer.timeout.connect(self.look)
        bar.show_asked.connect(self.show_place)
        bar.skip_asked.connect(self._next)
        bar.leave_asked.connect(self.leave)

    @property
    def runs(self) -> bool:
        """Whether a step is shown."""
        return self._timer.isActive()

    def start(self) -> None:
        """Begin, or go on where it was left."""
        kept = round(kept_number(self._window.settings, STEP, 0.0))
        self._show(kept if 0 <= kept < len(STEPS) else 0)
        self._timer.start()

    def leave(self) -> None:
        """End it; the next start goes on at this step."""
        self._timer.stop()
        self.bar.hide()

    def look(self) -> None:
        """Go on when the step was done."""
        now = snapshot(self._window)
        if self.number > 0 and self._before.place[1] < 0:
            self._before = now  # a film was opened within a later step
        elif STEPS[self.number].done(self._before, now):
            self._next()

    def show_place(self) -> None:
        """Open the place of the step; before that the demo film, if no film is open."""
        if self._window.film is None or self.number == 0:
            open_demo(self._window)  # type: ignore[arg-type]
        else:
            STEPS[self.number].show(self._window.film)

    def _next(self) -> None:
        if self.number + 1 < len(STEPS):
            self._show(self.number + 1)
            return
        self._timer.stop()
        self._window.settings.setValue(STEP, 0)
        self.bar.show_end()
        self._announce()

    def _show(self, number: int) -> None:
        self.number = number
        self._before = snapshot(self._window)
        self._window.settings.setValue(STEP, number)
        self.bar.show_step(number, STEPS[number])
        self._announce()

    def _announce(self) -> None:
        words = f"{self.bar.title.text()}. {self.bar.words.text()}"
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(self.bar, words))
