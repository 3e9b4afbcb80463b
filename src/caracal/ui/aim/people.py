"""Who is in the shot: each subject with the parts of its score, and its role to choose."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from caracal.core.framing.lead import Subject
from caracal.core.framing.why import lead_name
from caracal.core.project.edits import (
    with_ignored,
    with_lead,
    with_lead_in_film,
    with_second,
)
from caracal.ui import theme
from caracal.ui.session import Session

PARTS = ("size", "centre", "duration", "face")
ROLES = {"Lead": "The window must keep it", "Second": "Kept beside the lead where both fit",
         "Ignore": "Never followed"}
NAME_WIDE, BARS_WIDE, ROW_HIGH = 78, 146, 30
SHORT = {"size": "size", "centre": "mid", "duration": "time", "face": "face"}


class People(QScrollArea):
    """Best score first. A click on a role chooses it; a click on a chosen one takes it back."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._shown: tuple[object, ...] | None = None
        self.rows: dict[int, dict[str, QPushButton]] = {}
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumHeight(ROW_HIGH * 2)
        for signal in (session.project_changed, session.version_changed):
            signal.connect(self.sync)
        session.frame_changed.connect(lambda _: self.sync())
        self.sync()

    def sync(self) -> None:
        """Show the current shot's subjects, if they or their roles changed."""
        session = self._session
        cast = session.project.cast(session.shot)
        lead = session.path(session.letter, session.shot).lead_at(session.frame)
        everyone = session.subjects(session.shot)
        now = (session.shot, cast, lead, id(everyone))
        if now == self._shown:
            return
        self._shown = now
        self.rows = {}
        inside = QWidget()
        inside.setObjectName("ground")
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self._head(bool(everyone)))
        for one in everyone:
            column.addWidget(self._row(one, lead))
        column.addStretch(1)
        self.setWidget(inside)

    @staticmethod
    def _head(anyone: bool) -> QWidget:
        head = QWidget()
        row = QHBoxLayout(head)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        who = QLabel("Who is in this shot" if anyone else
                     "Nobody is in this shot: the window rests on the most telling part.")
        who.setObjectName("quiet")
        row.addWidget(who, 1)
        return head

    def _row(self, one: Subject, lead: int | None) -> QWidget:
        session = self._session
        line = QWidget()
        line.setFixedHeight(ROW_HIGH)
        row = QHBoxLayout(line)
        row.setContentsMargins(0, 0, 4, 0)
        row.setSpacing(6)
        name = QLabel(lead_name(session.analysis, session.shot, one.id).capitalize())
        name.setFixedWidth(NAME_WIDE)
        name.setObjectName("head" if one.id == lead else "")
        row.addWidget(name)
        row.addWidget(_Bars(one))
        row.addStretch(1)
        buttons = {role: self._button(role, one.id) for role in ROLES}
        cast = session.project.cast(session.shot)
        buttons["Lead"].setChecked(one.id == lead)
        buttons["Second"].setChecked(one.id == cast.second)
        buttons["Ignore"].setChecked(one.id in cast.ignored)
        if one.person is not None:
            buttons["Film"] = self._film_button(one)
        for button in buttons.values():
            row.addWidget(button)
        self.rows[one.id] = buttons
        return line

    def _button(self, role: str, subject: int) -> QPushButton:
        button = QPushButton(role)
        button.setObjectName("small")
        button.setCheckable(True)
        button.setToolTip(ROLES[role])
        button.clicked.connect(lambda on: self._choose(role, subject, on))
        return button

    def _film_button(self, one: Subject) -> QPushButton:
        button = QPushButton("Film")
        button.setObjectName("small")
        button.setToolTip("This person leads in every shot of the film where they are seen")
        button.clicked.connect(lambda: self._lead_in_film(one))
        return button

    def _lead_in_film(self, one: Subject) -> None:
        session = self._session
        if one.person is None:
            return
        project, count = with_lead_in_film(session.project, session.analysis, one.person)
        self._shown = None
        session.edit(project, f"The same person leads in {count} shots.")

    def _choose(self, role: str, subject: int, on: bool) -> None:
        session, shot = self._session, self._session.shot
        name = lead_name(session.analysis, shot, subject).capitalize()
        if role == "Ignore":
            project = with_ignored(session.project, shot, subject, on)
        else:
            change = with_lead if role == "Lead" else with_second
            project = change(session.project, shot, subject if on else None)
        words = {"Lead": "leads", "Second": "is second in", "Ignore": "is ignored in"}[role]
        self._shown = None
        session.edit(project, f"{name} {words} shot {shot + 1}." if on else
                     f"{name} is as found in shot {shot + 1}.")


class _Bars(QWidget):
    """The parts of one subject's score as small bars, with the whole as a number."""

    def __init__(self, one: Subject) -> None:
        super().__init__()
        self._one = one
        self.setFixedSize(BARS_WIDE, ROW_HIGH)
        parts = ", ".join(f"{name} {one.parts[name]:.2f}" for name in PARTS)
        self.setToolTip(f"Score {one.score:.2f}: {parts}, all 0 to 1")

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setFont(theme.ui_font(12, bold=True))
        p.setPen(QColor(theme.WORDS))
        p.drawText(QRectF(0, 0, 36, ROW_HIGH), Qt.AlignmentFlag.AlignVCenter,
                   f"{self._one.score:.2f}")
        for i, name in enumerate(PARTS):
            left = 34 + i * 28.0
            p.fillRect(QRectF(left, 18, 24, 4), QColor(theme.EDGE))
            p.fillRect(QRectF(left, 18, 24 * self._one.parts[name], 4), QColor(theme.QUIET))
            p.setFont(theme.ui_font(10))
            p.setPen(QColor(theme.QUIET))
            p.drawText(QRectF(left, 3, 38, 14), Qt.AlignmentFlag.AlignLeft, SHORT[name])
        p.end()
