"""How a shot is laid out in one version, chosen from pictures of this very shot."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QColorDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from caracal.core.layout.kinds import KINDS, Kind, kept_words
from caracal.core.layout.model import (
    MOST_BLUR,
    Layout,
    PlainBackdrop,
    SoftBackdrop,
    with_backdrop,
)
from caracal.core.project.edits import with_layout
from caracal.ui import theme
from caracal.ui.aim.shot_panel import ShotPanelButton, number_box
from caracal.ui.picture_paint import canvas_of
from caracal.ui.session import Session

HIGH, MOST_WIDE, WORDS_HIGH = 190, 150, 24  # pixels of a picture to choose, and of its name


class LayoutCards(QWidget):
    """A picture of the shot in each kind of layout; a click takes it."""

    chosen = Signal(object)  # a Kind

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setToolTip("Click how this shot is laid out in this version")
        session.preview.arrived.connect(lambda _: self.update())
        session.solutions_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        width, height = self._size()
        return QSize(len(KINDS) * (width + 16) - 16, height + WORDS_HIGH)

    def _size(self) -> tuple[int, int]:
        canvas = self._session.sheet(self._session.letter).canvas
        scale = min(HIGH / canvas[1], MOST_WIDE / canvas[0])
        return 2 * round(canvas[0] * scale / 2), 2 * round(canvas[1] * scale / 2)

    def rects(self) -> list[QRectF]:
        """Where the pictures lie."""
        width, height = self._size()
        return [QRectF(i * (width + 16), 0, width, height) for i in range(len(KINDS))]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for rect, kind in zip(self.rects(), KINDS, strict=True):
            if rect.adjusted(0, 0, 0, WORDS_HIGH).contains(event.position()):
                self.chosen.emit(kind)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        session = self._session
        now = session.project.choice(session.letter, session.shot).layout
        for rect, kind in zip(self.rects(), KINDS, strict=True):
            layout = now if kind.name == now.kind else kind.make(
                session.sheet(session.letter).frame)
            canvas = canvas_of(rect, self.devicePixelRatioF())
            scene = session.scene_in(session.letter, session.frame, layout, canvas)
            image = None if scene is None else session.preview.get_scene(
                f"layout {kind.name}", session.frame, scene, canvas)
            if image is None:
                p.fillRect(rect, QColor(theme.RAISED))
            else:
                p.drawImage(rect, image)
            taken = kind.name == now.kind
            if taken:
                p.setPen(QPen(QColor(theme.ACCENT), 2))
                p.drawRect(rect.adjusted(1, 1, -1, -1))
            p.setPen(QColor(theme.WORDS if taken else theme.QUIET))
            p.setFont(theme.ui_font(12, bold=taken))
            p.drawText(QRectF(rect.left(), rect.bottom() + 4, rect.width(), WORDS_HIGH - 4),
                       Qt.AlignmentFlag.AlignCenter, kind.name.capitalize())
        p.end()


class LayoutButton(ShotPanelButton):
    """Opens the pictures to choose from, with the amounts of the one that is taken."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Layout", "The window alone, the whole picture on a backdrop, or "
                         "two people in a half each (Y: the next one)")
        self.cards = LayoutCards(session)
        self.cards.chosen.connect(self.take)
        self.words = QLabel()
        self.words.setObjectName("quiet")
        self.blur = number_box(0, 100 * MOST_BLUR, 1, 0, " %",
                               "How far the backdrop is blurred, of its size")
        self.dim = number_box(0, 100, 5, 0, " %", "How much of the backdrop's light is taken away")
        for box in (self.blur, self.dim):
            box.valueChanged.connect(lambda _: self._amounts())
        self.colour = QPushButton("Colour…")
        self.colour.setObjectName("small")
        self.colour.setToolTip("The colour of the backdrop")
        self.colour.clicked.connect(self._ask_colour)
        self._labels = {self.blur: QLabel("Blur"), self.dim: QLabel("Dim")}
        self.open_with(self._panel())

    def _panel(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        column = QVBoxLayout(panel)
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(10)
        column.addWidget(self.cards)
        column.addWidget(self.words)
        row = QHBoxLayout()
        row.setSpacing(8)
        for box, label in self._labels.items():
            row.addWidget(label)
            row.addWidget(box)
        row.addWidget(self.colour)
        row.addStretch(1)
        column.addLayout(row)
        return panel

    def _now(self) -> Layout:
        return self._session.project.choice(self._session.letter, self._session.shot).layout

    def sync(self) -> None:
        """Show what is decided for the current shot."""
        now = self._now()
        backdrop = now.backdrop
        self.setText("Layout" if now.kind == KINDS[0].name else f"Layout: {now.kind}")
        session = self._session
        solution = session.solution(session.letter, session.shot)
        self.words.setText(kept_words(
            now, [path.windows for path in solution.panes], session.analysis.active,
            session.sheet(session.letter).canvas))
        soft = isinstance(backdrop, SoftBackdrop)
        for box, label in self._labels.items():
            box.setVisible(soft)
            label.setVisible(soft)
        self.colour.setVisible(isinstance(backdrop, PlainBackdrop))
        if isinstance(backdrop, SoftBackdrop):
            for box, share in ((self.blur, backdrop.blur), (self.dim, backdrop.dim)):
                box.blockSignals(True)
                box.setValue(share * 100)
                box.blockSignals(False)
        self.cards.setFixedSize(self.cards.sizeHint())
        self.cards.update()

    def take(self, kind: Kind) -> None:
        """Lay this shot out so in this version."""
        if kind.name != self._now().kind:
            self._set(kind.make(self._session.sheet(self._session.letter).frame), kind.words)

    def next_kind(self) -> None:
        """Take the kind after the one that is taken."""
        names = [kind.name for kind in KINDS]
        now = self._now().kind
        self.take(KINDS[(names.index(now) + 1) % len(KINDS) if now in names else 0])

    def _amounts(self) -> None:
        backdrop = SoftBackdrop(self.blur.value() / 100, self.dim.value() / 100)
        self._set(with_backdrop(self._now(), backdrop), "Backdrop changed.",
                  ("backdrop", self._session.letter, self._session.shot))

    def _ask_colour(self) -> None:
        backdrop = self._now().backdrop
        if isinstance(backdrop, PlainBackdrop):
            colour = QColorDialog.getColor(QColor(backdrop.colour), self, "Colour of the backdrop")
            if colour.isValid():
                self.set_colour(colour.name())

    def set_colour(self, colour: str) -> None:
        """Give the backdrop a colour, as #rrggbb."""
        self._set(with_backdrop(self._now(), PlainBackdrop(colour)), f"Backdrop {colour}.")

    def _set(self, layout: Layout, words: str, gesture: object | None = None) -> None:
        session = self._session
        session.edit(with_layout(session.project, session.letter, session.shot, layout),
                     f"Shot {session.shot + 1} in {session.letter}: {words}", gesture)


