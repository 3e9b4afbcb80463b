"""How windows move: every limit of the film's moves in one place, adjustable."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.translation import mark, tr
from caracal.core.framing.motion import Motion
from caracal.ui.session.session import Session
from caracal.ui.widgets.focus_policy import apply_focus_policy


@dataclass(frozen=True)
class Setting:
    """One limit: its field, what it means, its range; ``scale`` units a stored one."""

    field: str
    name: str
    tip: str
    unit: str
    low: float
    high: float
    scale: float = 1.0
    digits: int = 0


FRAMES = tr(" frames")
GROUPS: dict[str, tuple[Setting, ...]] = {
    mark("Glide"): (
        Setting("glide_crossing_frames", tr("Crosses its own width in"),
                tr("At full speed; 168 frames are 7 s at 24 a second, from which on a pan does not "
                   "judder"), FRAMES, 40, 1000),
        Setting("glide_ease_frames", tr("Is at full speed after"),
                tr("How long a glide starts and stops"), FRAMES, 1, 100),
    ),
    mark("Chase"): (
        Setting("chase_crossing_frames", tr("Crosses its own width in"),
                tr("At full speed; a sprint across the picture takes about 18 frames"), FRAMES,
                6, 200),
        Setting("chase_ease_frames", tr("Is at full speed after"),
                tr("How long a chase starts and stops"), FRAMES, 1, 50),
    ),
    mark("Rests"): (
        Setting("least_rest_frames", tr("Between two moves, at least"),
                tr("A shorter stop looks like a mistake: the moves become one"), FRAMES, 0, 200),
        Setting("still_want", tr("Tolerance for arm movement"),
                tr("How far swinging arms may leave a locked crop before it moves"),
                tr(" % of the window"), 0, 30, 100),
    ),
    mark("Coming closer"): (
        Setting("closest", tr("By itself, at most"),
                tr("The closest automatic zoom where that shows the lead better; 1: never"),
                " ×", 1, 3, 1, 2),
        Setting("least_lead", tr("For a lead smaller than"), tr("Of the crop's height"),
                tr(" % of the window"), 0, 90, 100),
        Setting("enlarged_past", tr("A larger enlargement is an issue"),
                tr("1.78 is a tall version of a 1080p master"), " ×", 1, 4, 1, 2),
    ),
}


class MotionDialog(QDialog):
    """Every change is shown at once in all views, and can be undone like any edit."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle(tr("Motion limits"))
        self.setObjectName("ground")
        self.boxes: dict[str, QDoubleSpinBox] = {}
        self._seconds: dict[str, QLabel] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 20)
        column.setSpacing(16)
        about = QLabel(tr("These limits hold for every automatic move in this film."))
        about.setObjectName("quiet")
        column.addWidget(about)
        column.addLayout(self._form())
        column.addLayout(self._last_row())
        session.project_changed.connect(self.sync)
        apply_focus_policy(self)
        self.sync()

    def _form(self) -> QGridLayout:
        form = QGridLayout()
        form.setHorizontalSpacing(16)
        form.setVerticalSpacing(8)
        row = 0
        for title, settings in GROUPS.items():
            head = QLabel(title)
            head.setObjectName("head")
            form.addWidget(head, row, 0)
            for setting in settings:
                name = QLabel(setting.name)
                name.setToolTip(setting.tip)
                form.addWidget(name, row, 1)
                self.boxes[setting.field] = self._box(setting)
                form.addWidget(self.boxes[setting.field], row, 2)
                self._seconds[setting.field] = QLabel()
                self._seconds[setting.field].setObjectName("quiet")
                self._seconds[setting.field].setMinimumWidth(60)
                form.addWidget(self._seconds[setting.field], row, 3)
                row += 1
            form.setRowMinimumHeight(row, 8)
            row += 1
        return form

    def _box(self, setting: Setting) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setRange(setting.low, setting.high)
        box.setDecimals(setting.digits)
        box.setSuffix(setting.unit)
        box.setSingleStep(0.05 if setting.digits else 1)
        box.setAlignment(Qt.AlignmentFlag.AlignRight)
        box.setKeyboardTracking(False)
        box.setToolTip(setting.tip)
        box.setMinimumWidth(150)
        box.valueChanged.connect(lambda value: self._set(setting, value))
        return box

    def _last_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.usual = QPushButton(tr("Usual limits"))
        self.usual.setToolTip(tr("Put every limit back to what it is in a new film"))
        self.usual.clicked.connect(lambda: self._take(Motion()))
        done = QPushButton(tr("Done"))
        done.setDefault(True)
        done.clicked.connect(self.accept)
        row.addWidget(self.usual)
        row.addStretch(1)
        row.addWidget(done)
        return row

    def sync(self) -> None:
        """Show the limits of the project."""
        motion = self._session.project.motion
        for setting in (setting for settings in GROUPS.values() for setting in settings):
            value = getattr(motion, setting.field) * setting.scale
            box = self.boxes[setting.field]
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
            if setting.unit == FRAMES:
                self._seconds[setting.field].setText(f"{value / self._session.rate:.2f} s")
        self.usual.setEnabled(motion != Motion())

    def _set(self, setting: Setting, value: float) -> None:
        kind = type(getattr(Motion(), setting.field))
        self._take(
            msgspec.structs.replace(
                self._session.project.motion, **{setting.field: kind(value / setting.scale)}
            ),
            setting.field,
        )

    def _take(self, motion: Motion, field: str = "") -> None:
        session = self._session
        session.edit(msgspec.structs.replace(session.project, motion=motion),
                     tr("Reset motion limits") if motion == Motion()
                     else tr("Motion limits"),
                     ("motion", field))
