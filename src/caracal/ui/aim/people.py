"""Who is in the shot: each subject with the parts of its score, and its role to choose."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.identity import Same
from caracal.core.base.translation import tr
from caracal.core.framing.lead import Subject
from caracal.core.project.model import Cast
from caracal.ui.session.lead_edits import Part, set_part
from caracal.ui.session.reach import EditKind, InShots
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.elided import Elided

PARTS = ("size", "centre", "duration", "face", "motion", "speech")
ROLES = {Part.LEAD: tr("The crop must keep it"),
         Part.SECOND: tr("Kept beside the lead where both fit"),
         Part.IGNORE: tr("Never followed")}
SOON_MS = 60
WORDS = (tr("size"), tr("place"), tr("time"), tr("face"), tr("movement"),
         tr("speech"))  # the same, said
ROW_HIGH = 26
SCORE_WIDE, BAR_WIDE, BAR_STEP = 36, 7, 11  # pixels
USUAL = tr("person").capitalize() + " 88"  # names are as wide as this
SPARE = 16  # pixels: longer ones have so much more, which the buttons can spare


class People(QScrollArea):
    """Best score first. A click on a role chooses it; a click on a chosen one takes it back."""

    swap_asked = Signal(int)  # a subject that the window keeps from the playhead on

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._shown: tuple[object, ...] | None = None
        self.rows: dict[int, dict[str, QPushButton]] = {}
        self._names: dict[int, QLabel] = {}
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.sync)
        session.cursor.frame_changed.connect(lambda _: self._follow())
        self.sync()

    def _leading(self) -> int | None:
        session = self._session
        return session.path(session.letter, session.shot).lead_at(session.frame)

    @property
    def _behind(self) -> bool:
        """Whether another shot's people are shown still."""
        return self._shown is None or self._shown[0] != self._session.shot

    def _follow(self) -> None:
        """Another frame is shown. Another shot's rows take a while to make: pictures go first."""
        if self._behind:
            self._soon.start(SOON_MS)
        else:
            self.sync()

    def sync(self) -> None:
        """Show the current shot's subjects, if they or their roles changed."""
        session = self._session
        self._soon.stop()
        cast = session.project.cast(session.shot, session.letter)
        lead = self._leading()
        everyone = session.people.subjects(session.shot)
        now = (session.shot, cast, lead, Same(everyone))
        if now == self._shown:
            return
        same = self._shown is not None and self._shown[::3] == now[::3]
        self._shown = now
        if same:
            self._mark(cast, lead)
            return
        self.rows, self._names = {}, {}
        names = {subject.id: session.people.name(session.shot, subject.id).capitalize()
                 for subject in everyone}
        wide = self._wide(names.values())
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self._head(bool(everyone)))
        for subject in everyone:
            column.addWidget(self._row(subject, names[subject.id], wide, lead))
        self.setWidget(inside)
        self.setFixedHeight(inside.sizeHint().height() + 2)

    def _mark(self, cast: Cast, lead: int | None) -> None:
        """Show the roles in the rows that are there: making them anew takes milliseconds."""
        for number, buttons in self.rows.items():
            buttons["Lead"].setChecked(number == lead)
            buttons["Second"].setChecked(number == cast.second)
            buttons["Ignore"].setChecked(number in cast.ignored)
            look = "head" if number == lead else ""
            name = self._names[number]
            if name.objectName() != look:
                name.setObjectName(look)
                name.style().polish(name)

    @staticmethod
    def _head(anyone: bool) -> QWidget:
        head = QWidget()
        row = QHBoxLayout(head)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        who = Elided()
        who.setText(tr("Score from {words}",
                       words=", ".join(WORDS)) if anyone else
                    tr("No lead found; the crop stays on the busiest area."))
        who.setObjectName("quiet")
        row.addWidget(who, 1)
        return head

    def _wide(self, names: Iterable[str]) -> int:
        """How wide the column of ``names`` is, in pixels."""
        bold = QFont(self.font())
        bold.setWeight(QFont.Weight.DemiBold)  # of who leads
        metrics = QFontMetrics(bold)
        usual = metrics.horizontalAdvance(USUAL)
        longest = max(map(metrics.horizontalAdvance, names), default=0)
        return min(max(usual, longest), usual + theme.scaled(SPARE)) + 6

    def _row(self, subject: Subject, called: str, wide: int, lead: int | None) -> QWidget:
        session = self._session
        line = QWidget()
        line.setFixedHeight(theme.scaled(ROW_HIGH))
        row = QHBoxLayout(line)
        row.setContentsMargins(0, 0, 4, 0)
        row.setSpacing(4)
        name = Elided()
        name.setText(called)
        name.setFixedWidth(wide)
        name.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        name.setObjectName("head" if subject.id == lead else "")
        self._names[subject.id] = name
        row.addWidget(name)
        row.addWidget(_Bars(subject))
        row.addStretch(1)
        buttons: dict[str, QPushButton] = {
            role.value: self._button(role, subject.id) for role in ROLES}
        cast = session.project.cast(session.shot, session.letter)
        buttons["Lead"].setChecked(subject.id == lead)
        buttons["Second"].setChecked(subject.id == cast.second)
        buttons["Ignore"].setChecked(subject.id in cast.ignored)
        buttons["At playhead"] = self._here_button(subject)
        for button in buttons.values():
            row.addWidget(button)
        self.rows[subject.id] = buttons
        return line

    def _button(self, role: Part, subject: int) -> QPushButton:
        button = QPushButton(tr(role))
        button.setObjectName("slim")
        button.setCheckable(True)
        button.setToolTip(ROLES[role])
        button.clicked.connect(lambda on: self._choose(role, subject, on))
        return button

    def _here_button(self, subject: Subject) -> QPushButton:
        button = QPushButton(tr("At playhead"))
        button.setObjectName("slim")
        button.setToolTip(tr("Switch at playhead: from this frame on the crop keeps it"))
        button.clicked.connect(lambda: self._swap_here(subject.id))
        return button

    def _swap_here(self, subject: int) -> None:
        if not self._behind:
            self.swap_asked.emit(subject)

    def _choose(self, part: Part, subject: int, on: bool) -> None:
        session = self._session
        if self._behind:
            return  # it was meant for somebody of the shot before
        cast = session.project.cast(session.shot, session.letter)
        self._mark(cast, self._leading())  # a click that changes nothing
        if part is Part.LEAD:  # who leads by the score may be made to lead in other shots, too
            wider = session.editing.reaches.of(EditKind.LEAD).shots is not InShots.THIS
            on = wider or cast.lead != subject
        set_part(session, part, subject, on)


class _Bars(QWidget):
    """The parts of one subject's score as small bars, with the whole as a number."""

    def __init__(self, subject: Subject) -> None:
        super().__init__()
        self._one = subject
        self.setFixedSize(theme.scaled(SCORE_WIDE) + len(PARTS) * BAR_STEP,
                          theme.scaled(ROW_HIGH))
        parts = ", ".join(f"{words} {subject.parts[name]:.2f}"
                          for name, words in zip(PARTS, WORDS, strict=True))
        self.setToolTip(tr("Score {score:.2f}: {parts}, all 0 to 1", score=subject.score,
                           parts=parts))
        self.setAccessibleName(self.toolTip())

    def paintEvent(self, event: QPaintEvent) -> None:
        wide = theme.scaled(SCORE_WIDE)
        with QPainter(self) as p:
            whole = self.height() - 10
            p.setFont(theme.ui_font(12, bold=True))
            p.setPen(QColor(theme.WORDS))
            p.drawText(QRectF(0, 0, wide, self.height()), Qt.AlignmentFlag.AlignVCenter,
                       f"{self._one.score:.2f}")
            for i, name in enumerate(PARTS):
                left, high = wide + i * BAR_STEP, round(whole * self._one.parts[name])
                p.fillRect(QRectF(left, 5, BAR_WIDE, whole), QColor(theme.EDGE))
                p.fillRect(QRectF(left, 5 + whole - high, BAR_WIDE, high), QColor(theme.QUIET))
