"""The Aim view: stage, canvases, path strip, and the row of choices."""

from __future__ import annotations

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from caracal.core.analysis.tracking.box_following import Followed
from caracal.core.base.geometry import Box
from caracal.core.base.translation import counted, tr
from caracal.core.framing.choice import Punch, Swap
from caracal.core.framing.motion import Manner
from caracal.core.project.edits import (
    automatic_again,
    with_drawn,
    with_lead,
    with_manner,
    with_swap_at,
    with_swaps,
)
from caracal.core.project.keyframe_edits import with_punch, without_punch_at
from caracal.ui.aim.box_track_worker import BoxTrackWorker, Drawn
from caracal.ui.aim.finish import FinishButton
from caracal.ui.aim.layouts import LayoutButton
from caracal.ui.aim.numbers import Numbers
from caracal.ui.aim.overlays import OverlayButton
from caracal.ui.aim.people import People
from caracal.ui.aim.speaker_swap_worker import Asked, Proposed, SpeakerSwapWorker
from caracal.ui.aim.stage import Stage
from caracal.ui.aim.strip import PathStrip
from caracal.ui.canvases.canvases import Canvases
from caracal.ui.session.session import Session
from caracal.ui.widgets.elided import Elided

TIPS = {
    Manner.AUTO: tr("The calmest manner that keeps the lead"),
    Manner.LOCKED: tr("The window does not move in this shot"),
    Manner.GLIDE: tr("Slow, long moves"),
    Manner.CHASE: tr("Keeps up with quick subjects"),
    Manner.BY_HAND: tr("Follows your keyframes; drag the lit window to set one"),
}


PUNCH_ZOOM = 1.5  # closer than now, at a click: common practice for a cut within a take


class Aim(QWidget):
    """One shot in one version, large, with the others beside it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.stage, self.canvases = Stage(session), Canvases(session)
        self.people, self.numbers = People(session), Numbers(session)
        self.layouts, self.finish = LayoutButton(session), FinishButton(session)
        self.overlays = OverlayButton(session)
        self.canvases.picked.connect(self.overlays.choose)
        self.overlays.keep_free(self.canvases)
        self.layouts.keep_free(self.canvases)
        self.strip = PathStrip(session)
        self._work: SpeakerSwapWorker | BoxTrackWorker | None = None
        self.numbers.swaps_asked.connect(self.propose_swaps)
        self._about = Elided()
        self._about.setObjectName("quiet")
        self._name = QLabel()
        self._name.setObjectName("head")
        self.manners = {manner: self._manner_button(manner) for manner in Manner}
        self.draw = QPushButton(tr("Follow a box"))
        self.draw.setCheckable(True)
        self.draw.setToolTip(tr("Draw a box round anything in the picture to follow that (B)"))
        self.draw.toggled.connect(self.stage.set_drawing)
        self.stage.box_drawn.connect(self._box_drawn)
        self.punch = QPushButton(tr("Punch in"))
        self.punch.setCheckable(True)
        self.punch.setToolTip(tr("Click or draw where to come closer from this frame on; again to "
                                 "come back (P)"))
        self.punch.clicked.connect(self.punch_or_back)
        self.stage.punched.connect(self._punched)
        self.stage.swapped.connect(self.swap_here)
        self.people.swap_asked.connect(self.swap_here)
        self.automatic = QPushButton(tr("Back to automatic"))
        self.automatic.setToolTip(tr("Forget everything decided for this shot"))
        self.automatic.clicked.connect(self._forget)
        self._lay_out()
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        session.cursor.frame_changed.connect(lambda _: self.sync())
        self.sync()

    def _manner_button(self, manner: Manner) -> QPushButton:
        button = QPushButton(tr(manner.value).capitalize())
        button.setCheckable(True)
        button.setToolTip(TIPS[manner])
        button.clicked.connect(lambda: self._set(manner))
        return button

    def _lay_out(self) -> None:
        choices = QHBoxLayout()
        choices.setSpacing(8)
        choices.addWidget(self._name)
        choices.addWidget(self._about, 1)
        self._group = QButtonGroup(self)
        for button in self.manners.values():
            self._group.addButton(button)
            choices.addWidget(button)
        choices.addSpacing(8)
        choices.addWidget(self.draw)
        choices.addWidget(self.punch)
        choices.addWidget(self.automatic)
        pictures = QHBoxLayout()
        pictures.setSpacing(16)
        pictures.addWidget(self.stage, 58)
        beside = QVBoxLayout()
        beside.setSpacing(12)
        beside.addWidget(self.canvases)
        beside.addWidget(self.people, 1)
        pictures.addLayout(beside, 42)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(8)
        column.addLayout(choices)
        second = QHBoxLayout()
        second.setSpacing(8)
        second.addWidget(self.numbers, 1)
        second.addWidget(self.layouts)
        second.addWidget(self.overlays)
        second.addWidget(self.finish)
        column.addLayout(second)
        column.addLayout(pictures, 1)
        column.addWidget(self.strip)

    def _set(self, manner: Manner) -> None:
        session = self._session
        session.edit(with_manner(session.project, session.letter, session.shot, manner),
                     tr("Shot {shot} in {letter}: {manner}.", shot=session.shot + 1,
                        letter=session.letter, manner=tr(manner)))

    def _forget(self) -> None:
        session = self._session
        session.edit(automatic_again(session.project, session.letter, session.shot),
                     tr("Shot {shot} in {letter} is automatic again.", shot=session.shot + 1,
                        letter=session.letter))

    def punch_or_back(self) -> None:
        """Come back where a punch-in runs; else the next click says where to come closer."""
        session = self._session
        if self._punch_here() is not None:
            project = without_punch_at(session.project, session.letter, session.shot,
                                       session.frame, session.pane.role)
            session.edit(project, tr("{letter} comes back here.", letter=session.letter))
            self.stage.set_punching(False)
        else:
            self.stage.set_punching(not self.stage.punching)
        self.sync()

    def _punch_here(self) -> Punch | None:
        session = self._session
        return next((punch for punch in session.pane.framing.punches
                     if punch.frame <= session.frame < punch.end_exclusive), None)

    def _punched(self, point: tuple[float, float], box: Box | None) -> None:
        """A place was chosen: a click comes closer round it, a drawn box is filled."""
        session = self._session
        if self._punch_here() is not None:
            self.punch_or_back()
            return
        zoom = PUNCH_ZOOM * session.pane.zoom
        if box is not None:
            _, _, w, h = session.pane.window
            zoom = session.pane.zoom * min(w / box[2], h / box[3])
            point = (box[0] + box[2] / 2, box[1] + box[3] / 2)
        end = session.analysis.shots[session.shot].end
        punch = Punch(session.frame, end, (round(point[0], 2), round(point[1], 2)), zoom)
        session.edit(with_punch(session.project, session.letter, session.shot, punch,
                                session.pane.role),
                     tr("{letter} punches in here; Shift and click where it comes back.",
                        letter=session.letter))

    def swap_here(self, subject: int) -> None:
        """From this frame on the window keeps ``subject``: a jump."""
        session = self._session
        found = session.analysis.shots[session.shot]
        name = session.people.name(session.shot, subject).capitalize()
        if session.frame <= found.start:
            project = with_lead(session.project, session.shot, subject)
        else:
            project = with_swap_at(session.project, session.letter, session.shot,
                                   Swap(session.frame, subject))
        session.edit(project, tr("{name} is kept from frame {frame} of shot {shot} on.", name=name,
                                 frame=session.frame - found.start, shot=session.shot + 1))

    def propose_swaps(self) -> None:
        """Find who speaks when, and let the window jump to whoever it is."""
        session = self._session
        people = session.told(session.letter, session.shot).left_out
        if not people:
            session.said.emit(tr("Everybody who counts is in the window here: nothing to swap."))
            return
        work = SpeakerSwapWorker(Asked(session.analysis, session.letter, session.shot, people))
        work.proposed.connect(self._swapped)
        self._begin(work, tr("Looking who speaks…"))

    def _swapped(self, answer: Proposed) -> None:
        session, asked = self._session, answer.asked
        if not session.still(asked.analysis, asked.shot):
            return  # the shots were changed meanwhile
        if not answer.swaps:
            session.said.emit(tr("No change of speaker was found in this shot."))
            return
        project = with_lead(session.project, asked.shot, answer.first)
        project = with_swaps(project, asked.letter, asked.shot, answer.swaps)
        count = len(answer.swaps)
        session.edit(project,
                     tr("The window jumps {times} to whoever speaks in shot {shot}.",
                        times=counted(count, "{count} time", "{count} times"), shot=asked.shot + 1))

    def _box_drawn(self, box: Box | None) -> None:
        self.draw.setChecked(False)
        session = self._session
        if box is None:
            return
        work = BoxTrackWorker(Drawn(session.analysis, session.shot, session.frame, box))
        work.followed.connect(self._followed)
        self._begin(work, tr("Following your box through the shot…"))

    def _followed(self, drawn: Drawn, found: Followed) -> None:
        session = self._session
        if not session.still(drawn.analysis, drawn.shot):
            return  # the shots were changed meanwhile
        lost = sum(end - first for first, end in found.lost)
        words = tr(" It was not found in {frames}.",
                   frames=counted(lost, "{count} frame", "{count} frames")) if lost else ""
        session.edit(with_drawn(session.project, drawn.shot, found),
                     tr("Your box leads shot {shot}.{words}", shot=drawn.shot + 1, words=words))

    def _begin(self, work: SpeakerSwapWorker | BoxTrackWorker, words: str) -> None:
        """Start ``work`` unless something runs already; its words go where all words go."""
        if self._work is not None:
            self._session.said.emit(tr("One moment: the last look at this film is not done yet."))
            return
        if self._session.analysis.goes_on(self._session.shot):
            self._session.said.emit(tr("This shot is still being looked at: one moment."))
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
        """Show the current shot's choices."""
        session = self._session
        choice = session.project.choice(session.letter, session.shot)
        words = session.told(session.letter, session.shot)
        self._name.setText(tr("Shot {shot} in {letter}: {lead}", shot=session.shot + 1,
                              letter=session.letter, lead=words.lead))
        self._about.setText(words.why)
        self.manners[choice.manner].setChecked(True)
        self.manners[Manner.BY_HAND].setEnabled(bool(choice.keyframes))
        self.automatic.setEnabled(choice.touched)
        self.punch.setChecked(self.stage.punching or self._punch_here() is not None)
        self.punch.setText(tr("Punch out") if self._punch_here() is not None else tr("Punch in"))
