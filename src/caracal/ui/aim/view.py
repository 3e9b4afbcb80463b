"""The Aim view: the master with the crops of all versions, the canvases, and the side."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from caracal.core.analysis.tracking.box_following import Followed
from caracal.core.base.geometry import Box
from caracal.core.base.translation import counted, mark, tr
from caracal.core.project.edits import with_drawn, with_lead, with_swaps
from caracal.ui.aim.box_track_worker import BoxTrackWorker, Drawn
from caracal.ui.aim.finish_page import FinishPage
from caracal.ui.aim.layout_page import LayoutPage
from caracal.ui.aim.move_page import MovePage
from caracal.ui.aim.overlay_page import OverlayPage
from caracal.ui.aim.people import People
from caracal.ui.aim.shot_head import ShotHead
from caracal.ui.aim.speaker_swap_worker import Asked, Proposed, SpeakerSwapWorker
from caracal.ui.aim.stage import Stage
from caracal.ui.aim.strip import PathStrip
from caracal.ui.canvases.canvases import Canvases
from caracal.ui.session.lead_edits import switch_at_playhead
from caracal.ui.session.reach import EditKind, InVersions
from caracal.ui.session.session import Session
from caracal.ui.widgets.form import button_row
from caracal.ui.widgets.panels import small_button
from caracal.ui.widgets.side import Page, Side, beside

WIDGET_MOST = 16777215  # QWIDGETSIZE_MAX of the toolkit: no limit
WIDE = (660, 484)  # pixels of both halves to begin with, at a window 1280 wide


class Aim(QWidget):
    """One shot in one version, large, with the others beside it.

    Its attributes are the widgets of the view, which tests and keys reach by their names.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.head = ShotHead(session)
        self.stage, self.canvases, self.strip = (
            Stage(session), Canvases(session), PathStrip(session))
        self.people, self.moves = People(session), MovePage(session)
        self.layouts, self.finish = LayoutPage(session), FinishPage(session)
        self.overlays = OverlayPage(session)
        self.draw = small_button(tr("Follow a box"), tr("Draw a box around anything in the picture "
                                                        "to follow that (B)"), lambda: None)
        self.draw.setCheckable(True)
        self.side = self._make_side()
        self._work: SpeakerSwapWorker | BoxTrackWorker | None = None
        self._swapped_places = False
        self._lay_out()
        self.canvases.picked.connect(self._overlay_picked)
        self.head.swaps_asked.connect(self.propose_swaps)
        self.draw.toggled.connect(self.stage.set_drawing)
        self.stage.box_drawn.connect(self._box_drawn)
        self.moves.punch.clicked.connect(self.punch_or_back)
        self.stage.punched.connect(self._punched)
        self.stage.swapped.connect(lambda subject: switch_at_playhead(session, subject))
        self.people.swap_asked.connect(lambda subject: switch_at_playhead(session, subject))
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        session.cursor.frame_changed.connect(lambda _: self.sync())
        self.sync()

    def _make_side(self) -> Side:
        who = QWidget()
        column = QVBoxLayout(who)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.people)
        column.addWidget(button_row(self.draw))
        return Side(self._session, (
            Page(mark("Who"), mark("Who is in this shot, and who leads"), who, EditKind.LEAD,
                 shots=True),
            Page(mark("Move"), mark("How the crop moves, where it is, how close"), self.moves,
                 EditKind.CROP, shots=True),
            Page(mark("Layout"), mark("The crop alone, the whole picture on a backdrop, people in "
                                      "panes (Y: the next one)"), self.layouts, EditKind.LAYOUT,
                 shots=True),
            Page(mark("Overlays"), mark("Pictures, clips and shapes over the version (V)"),
                 self.overlays, EditKind.OVERLAYS),
            Page(mark("Finish"), mark("Rotation, sharpness, push-in, speed and fades"),
                 self.finish, EditKind.FINISH, shots=True)))

    def _lay_out(self) -> None:
        left, right = QWidget(), QWidget()
        self._left, self._right = QVBoxLayout(left), QVBoxLayout(right)
        for column in (self._left, self._right):
            column.setContentsMargins(0, 0, 0, 0)
        self._left.setSpacing(8)
        self._left.addWidget(self.head)
        self._left.addWidget(self.stage, 1)
        self._left.addWidget(self.strip)
        self._right.setSpacing(12)
        self._right.addWidget(self.canvases)
        self._right.addWidget(self.side, 1)
        self.halves = beside(left, right, WIDE)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(12, 8, 8, 8)
        whole.addWidget(self.halves)

    def swap_places(self) -> None:
        """The chosen canvas and the master change places, for work on panes and titles."""
        self._swapped_places = not self._swapped_places
        self.canvases.show_only_chosen(self._swapped_places)
        self.strip.setVisible(not self._swapped_places)
        large, small = ((self.canvases, self.stage) if self._swapped_places
                        else (self.stage, self.canvases))
        self._left.insertWidget(1, large, 1)
        self._right.insertWidget(0, small)
        self.stage.setMaximumHeight(self.stage.minimumHeight() if self._swapped_places
                                    else WIDGET_MOST)
        self.sync()

    def _overlay_picked(self, number: int) -> None:
        """Something was taken hold of on a canvas: its fields are shown."""
        self.side.show_page("Overlays")
        self.overlays.choose(number)

    def punch_or_back(self) -> None:
        """Come back where a punch-in runs; else the next click says where to come closer."""
        if self.moves.punch_here() is not None:
            self.moves.punch_out()
            self.stage.set_punching(False)
        else:
            self.stage.set_punching(not self.stage.punching)
        self.sync()

    def _punched(self, point: tuple[float, float], box: Box | None) -> None:
        """A place was chosen: a click comes closer round it, a drawn box is filled."""
        if self.moves.punch_here() is not None:
            self.punch_or_back()
        else:
            self.moves.punch_in(point, box)

    def propose_swaps(self) -> None:
        """Find who speaks when, and let the crop cut to that person."""
        session = self._session
        people = session.told(session.letter, session.shot).left_out
        if not people:
            session.said.emit(tr("Everyone fits; no speaker cuts needed."))
            return
        work = SpeakerSwapWorker(Asked(session.analysis, session.letter, session.shot, people))
        work.proposed.connect(self._swapped)
        self._begin(work, tr("Finding who speaks…"))

    def _swapped(self, answer: Proposed) -> None:
        session, asked = self._session, answer.asked
        if not session.still(asked.analysis, asked.shot):
            return  # the shots were changed meanwhile
        if not answer.swaps:
            session.said.emit(tr("No change of speaker was found in this shot."))
            return
        project = with_lead(session.project, asked.shot, answer.first, asked.letter)
        project = with_swaps(project, asked.letter, asked.shot, answer.swaps)
        count = len(answer.swaps)
        session.edit(project, tr("Shot {shot}, {letter}: {cuts} between speakers",
                                 shot=asked.shot + 1, letter=asked.letter,
                                 cuts=counted(count, "{count} cut", "{count} cuts")))

    def _box_drawn(self, box: Box | None) -> None:
        self.draw.setChecked(False)
        session = self._session
        if box is None:
            return
        work = BoxTrackWorker(Drawn(session.analysis, session.shot, session.frame, box))
        work.followed.connect(self._followed)
        self._begin(work, tr("Following your box…"))

    def _followed(self, drawn: Drawn, found: Followed) -> None:
        session = self._session
        if not session.still(drawn.analysis, drawn.shot):
            return  # the shots were changed meanwhile
        lost = sum(end - first for first, end in found.lost)
        words = tr(" It was not found in {frames}.",
                   frames=counted(lost, "{count} frame", "{count} frames")) if lost else ""
        every = session.editing.reaches.of(EditKind.LEAD).versions is InVersions.ALL
        versions = tr("all versions") if every else session.letter
        session.edit(with_drawn(session.project, drawn.shot, found,
                                "" if every else session.letter),
                     tr("Shot {shot}, {versions}: your box leads.{words}", shot=drawn.shot + 1,
                        versions=versions, words=words))

    def _begin(self, work: SpeakerSwapWorker | BoxTrackWorker, words: str) -> None:
        """Start ``work`` unless something runs already; its words go where all words go."""
        if self._work is not None:
            self._session.said.emit(tr("Please wait: the last search in this film still runs."))
            return
        if self._session.analysis.goes_on(self._session.shot):
            self._session.said.emit(tr("Still analysing this shot."))
            return
        self._session.said.emit(words)
        work.failed.connect(self._session.said)
        work.finished.connect(self._done)
        self._work = work
        work.start()

    def _done(self) -> None:
        work, self._work = self._work, None
        if work is not None:
            work.end()  # it has said its last word; it must have ended before it is let go

    def end_modes(self) -> bool:
        """End "Follow a box" and "Punch in", and leave a pane; whether any of that was on."""
        on = self.stage.drawing or self.stage.punching or self._session.pane.entered
        self._session.pane.leave()
        self.draw.setChecked(False)
        self.stage.set_punching(False)
        self.sync()
        return on

    def close_down(self) -> None:
        """Stop what runs."""
        if self._work is not None:
            self._work.token.cancel()
            self._work.part()

    def sync(self) -> None:
        """Show which modes are on."""
        self.moves.punch.setChecked(self.stage.punching or self.moves.punch_here() is not None)
