"""The page Move: how the crop moves in this shot, where it is, and how close."""

from __future__ import annotations

from PySide6.QtWidgets import QButtonGroup, QDoubleSpinBox, QPushButton, QVBoxLayout, QWidget

from caracal.core.base.geometry import Box
from caracal.core.base.translation import tr
from caracal.core.framing.choice import Keyframe, Punch
from caracal.core.framing.motion import Manner
from caracal.core.project.edits import MOST_ZOOM, automatic_again, with_manner
from caracal.core.project.keyframe_edits import (
    with_punch,
    with_zoom,
    without_punch_at,
)
from caracal.ui.session.crop_edits import set_keyframe
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import NUMBER_WIDE, Form, button_row
from caracal.ui.widgets.panels import number_box, small_button

TIPS = {
    Manner.AUTO: tr("The calmest manner that keeps the lead"),
    Manner.LOCKED: tr("The crop does not move in this shot"),
    Manner.GLIDE: tr("Slow, long moves"),
    Manner.CHASE: tr("Keeps up with quick subjects"),
    Manner.BY_HAND: tr("Follows your keyframes; drag the crop in the picture to set one"),
}
PUNCH_ZOOM = 1.5  # closer than now, at a click: common practice for a cut within a take


def manner_word(manner: Manner) -> str:
    """What a manner is called on screen: files keep their own words."""
    return tr("manual") if manner is Manner.BY_HAND else tr(manner.value)


class MovePage(QWidget):
    """Manner, position, zoom, and punch-ins of the crop at the playhead."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.manners = {manner: self._manner_button(manner) for manner in Manner}
        width, height = session.analysis.master.width, session.analysis.master.height
        self.centre_x = self._box((0, width), 1, 1, " px", tr("Centre of the crop from the left"))
        self.centre_y = self._box((0, height), 1, 1, " px", tr("Centre of the crop from the top"))
        self.zoom = self._box((1, MOST_ZOOM), 0.05, 2, " ×", tr("Zoom of the crop in this shot"))
        self.auto_zoom = small_button(tr("Auto"), tr("Come closer where that shows the lead "
                                                     "better; off: keep this zoom"), self._set_auto)
        self.auto_zoom.setAccessibleName(tr("Auto zoom"))
        self.auto_zoom.setCheckable(True)
        self.punch = small_button(tr("Punch in"), tr("Click or draw in the picture where to come "
                                                     "closer from this frame on; again to come "
                                                     "back (P)"), lambda: None)
        self.punch.setCheckable(True)
        self.automatic = small_button(tr("Reset to automatic"),
                                      tr("Discard everything decided for this shot, its lead "
                                         "included"), self._reset)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        form = Form()
        column.addWidget(form)
        form.row(tr("Manner"), *self.manners.values())
        form.row(tr("Zoom"), self.zoom, self.auto_zoom)
        form.row(tr("Centre X"), self.centre_x)
        form.row(tr("Centre Y"), self.centre_y)
        form.row(tr("Closer for a while"), self.punch)
        form.wide(button_row(self.automatic))
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        session.cursor.frame_changed.connect(lambda _: self.sync())
        self.sync()

    def _manner_button(self, manner: Manner) -> QPushButton:
        button = small_button(manner_word(manner).capitalize(), TIPS[manner],
                              lambda: self.set_manner(manner))
        button.setObjectName("slim")
        button.setCheckable(True)
        if not hasattr(self, "_group"):
            self._group = QButtonGroup(self)
        self._group.addButton(button)
        return button

    def _box(
        self, limits: tuple[float, float], step: float, digits: int, unit: str, tip: str
    ) -> QDoubleSpinBox:
        box = number_box(*limits, step, digits, unit, tip)
        box.setFixedWidth(theme.scaled(NUMBER_WIDE))
        box.valueChanged.connect(lambda _: self._typed(box))
        return box

    def sync(self) -> None:
        """Show the choices of the current shot, and its crop at the playhead."""
        session = self._session
        choice = session.project.choice(session.letter, session.shot)
        self.manners[choice.manner].setChecked(True)
        self.manners[Manner.BY_HAND].setEnabled(bool(choice.keyframes))
        self.automatic.setEnabled(choice.touched)
        self.punch.setText(tr("Punch out") if self.punch_here() is not None else tr("Punch in"))
        x, y, w, h = session.pane.window
        zoom = session.pane.zoom
        self.auto_zoom.setChecked(session.pane.framing.zoom is None)
        for box, value in ((self.centre_x, x + w / 2), (self.centre_y, y + h / 2),
                           (self.zoom, zoom)):
            if box.hasFocus() and box.lineEdit().isModified():
                continue  # somebody types here
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)

    def set_manner(self, manner: Manner) -> None:
        """Move the crop in this manner."""
        self._session.editing.edit(
            EditKind.CROP, manner_word(manner),
            lambda project, letter, shot: with_manner(
                project, letter, shot,
                manner if manner is not Manner.BY_HAND or project.choice(letter, shot).keyframes
                else project.choice(letter, shot).manner))

    def _typed(self, box: QDoubleSpinBox) -> None:
        role, value = self._session.pane.role, box.value()
        if box is self.zoom:
            self._session.editing.edit(
                EditKind.CROP, tr("zoom {zoom:.2f} ×", zoom=value),
                lambda project, letter, shot: with_zoom(project, letter, shot, value, role),
                ("zoom box", self._session.letter, self._session.shot, role))
            return
        set_keyframe(self._session, Keyframe(self._session.frame, (self.centre_x.value(),
                                                                   self.centre_y.value())),
                     tr("set keyframe"), "centre boxes")

    def _set_auto(self) -> None:
        session = self._session
        on = self.auto_zoom.isChecked()
        zoom, role = None if on else session.pane.zoom, session.pane.role
        session.editing.edit(
            EditKind.CROP, tr("auto zoom on") if on else tr("auto zoom off"),
            lambda project, letter, shot: with_zoom(project, letter, shot, zoom, role))

    def _reset(self) -> None:
        self._session.editing.edit(EditKind.CROP, tr("automatic"), automatic_again)

    def punch_here(self) -> Punch | None:
        """The punch-in that runs at the playhead."""
        session = self._session
        return next((punch for punch in session.pane.framing.punches
                     if punch.frame <= session.frame < punch.end_exclusive), None)

    def punch_out(self) -> None:
        """Come back from the punch-in that runs at the playhead."""
        session = self._session
        frame, role = session.frame, session.pane.role
        session.editing.edit(
            EditKind.CROP, tr("punch out"),
            lambda project, letter, shot: without_punch_at(project, letter, shot, frame, role),
            scope=Scope.ONE_SHOT)

    def punch_in(self, point: tuple[float, float], box: Box | None) -> None:
        """Come closer round ``point`` from the playhead on, or so that ``box`` fills the crop."""
        session = self._session
        zoom, role = PUNCH_ZOOM * session.pane.zoom, session.pane.role
        if box is not None:
            _, _, w, h = session.pane.window
            zoom = session.pane.zoom * min(w / box[2], h / box[3])
            point = (box[0] + box[2] / 2, box[1] + box[3] / 2)
        end = session.analysis.shots[session.shot].end
        punch = Punch(session.frame, end, (round(point[0], 2), round(point[1], 2)), zoom)
        session.editing.edit(
            EditKind.CROP, tr("punch in"),
            lambda project, letter, shot: with_punch(project, letter, shot, punch, role),
            scope=Scope.ONE_SHOT)
