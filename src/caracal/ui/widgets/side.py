"""The side: what is adjusted stands beside the picture, a page for each subject."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from PySide6.QtCore import QEvent, QObject, QSettings, QSignalBlocker, QSize, Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.translation import tr
from caracal.ui.services.settings import kept_bytes, kept_text
from caracal.ui.session.reach import EditKind, InShots, InVersions, Reach
from caracal.ui.session.session import Session
from caracal.ui.widgets.named_pages import NamedPages
from caracal.ui.widgets.panels import choice_box, quiet

EDGE = 12  # pixels round a page
LEAST_WIDE, LEAST_HIGH = 400, 100  # pixels
HANDLE_WIDE = 16  # pixels between the halves of a view


@dataclass(frozen=True)
class Page:
    """One page: its name (not translated), what it holds, and whose reach its edits have.

    ``shots``: its edits can reach other shots, too.
    """

    name: str
    about: str
    widget: QWidget
    kind: EditKind | None = None
    shots: bool = False


class ScrolledPage(QScrollArea):
    """A page that is scrolled when there is no room for all of it."""

    def __init__(self, inside: QWidget) -> None:
        super().__init__()
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(EDGE, 4, EDGE, EDGE)
        column.addWidget(inside)
        column.addStretch(1)
        self._holder = holder
        self.setWidget(holder)
        holder.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """When rows come or go the page is measured again."""
        if event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().eventFilter(watched, event)

    def minimumSizeHint(self) -> QSize:
        inside = self._holder.minimumSizeHint()
        return QSize(max(LEAST_WIDE, inside.width()), LEAST_HIGH)


class Side(QFrame):
    """Tabs, the reach of the page's edits, and the page. ``shown`` is emitted with a page's name.
    """

    shown = Signal(str)

    def __init__(self, session: Session, pages: Iterable[Page]) -> None:
        super().__init__()
        self.setObjectName("side")
        self._session = session
        self._pages = {page.name: page for page in pages}
        self.tabs: dict[str, QPushButton] = {}
        self._group = QButtonGroup(self)
        self.stack = NamedPages(self._pages)
        self.stack.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
        tabs = QHBoxLayout()
        tabs.setContentsMargins(EDGE - 8, 0, EDGE, 0)
        tabs.setSpacing(0)
        for page in self._pages.values():
            button = QPushButton(tr(page.name))
            button.setObjectName("tab")
            button.setCheckable(True)
            button.setToolTip(tr(page.about))
            button.clicked.connect(lambda _=False, name=page.name: self.show_page(name))
            self._group.addButton(button)
            tabs.addWidget(button)
            self.tabs[page.name] = button
            self.stack.put(page.name, ScrolledPage(page.widget))
        tabs.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(tabs)
        column.addWidget(self._reach_row())
        column.addWidget(self.stack, 1)
        session.editing.reaches.changed.connect(self.sync)
        session.cursor.version_changed.connect(self.sync)
        session.project_changed.connect(self.sync)
        self.show_page(next(iter(self._pages)))

    def _reach_row(self) -> QWidget:
        self.versions: QComboBox = choice_box(
            (), tr("Which versions an edit on this page changes"),
            lambda at: self._set(versions=list(InVersions)[at]))
        self.shots: QComboBox = choice_box(
            [tr(each.value).capitalize() for each in InShots],
            tr("Which shots an edit on this page changes. Similar shots are those of the same "
               "camera set-up"), lambda at: self._set(shots=list(InShots)[at]))
        self._reach = QWidget()
        row = QHBoxLayout(self._reach)
        row.setContentsMargins(EDGE, 0, EDGE, 0)
        row.setSpacing(8)
        label = quiet(tr("Apply to"))
        label.setBuddy(self.versions)
        row.addWidget(label)
        for box in (self.versions, self.shots):
            box.setObjectName("small")
            row.addWidget(box)
        row.addStretch(1)
        return self._reach

    @property
    def page(self) -> str:
        """The name of the page that shows."""
        return self.stack.shown

    def show_page(self, name: str) -> None:
        """Show the page called ``name``."""
        self.tabs[name].setChecked(True)
        self.stack.show_page(name)
        self.sync()
        self.shown.emit(name)

    def sync(self) -> None:
        """Show the reach of the page's edits."""
        page = self._pages[self.page]
        self._reach.setVisible(page.kind is not None)
        if page.kind is None:
            return
        reach = self._session.editing.reaches.of(page.kind)
        names = [tr("Version {letter} only", letter=self._session.letter), tr("All versions")]
        with QSignalBlocker(self.versions):
            if [self.versions.itemText(at) for at in range(self.versions.count())] != names:
                self.versions.clear()
                self.versions.addItems(names)
            self.versions.setCurrentIndex(list(InVersions).index(reach.versions))
        self.shots.setVisible(page.shots)
        with QSignalBlocker(self.shots):
            self.shots.setCurrentIndex(list(InShots).index(reach.shots))

    def _set(self, **changes: InVersions | InShots) -> None:
        page = self._pages[self.page]
        if page.kind is not None:
            reaches = self._session.editing.reaches
            now: Reach = reaches.of(page.kind)
            reaches.set(page.kind, replace(now, **changes))  # type: ignore[arg-type]


def beside(left: QWidget, right: QWidget, sizes: tuple[int, int]) -> QSplitter:
    """The two halves of a view with a handle between them; ``sizes`` are their first widths."""
    halves = QSplitter()
    halves.setHandleWidth(HANDLE_WIDE)
    halves.setChildrenCollapsible(False)
    for number, half in enumerate((left, right)):
        halves.addWidget(half)
        halves.setStretchFactor(number, 1 - number)
    halves.setSizes(list(sizes))
    return halves


def keep_side(settings: QSettings, view: str, side: Side, halves: QSplitter) -> None:
    """Save the page and the width of the side of a ``view``."""
    settings.setValue(f"{view}/page", side.page)
    settings.setValue(f"{view}/halves", halves.saveState())


def recall_side(settings: QSettings, view: str, side: Side, halves: QSplitter) -> None:
    """Show what :func:`keep_side` saved."""
    page, state = kept_text(settings, f"{view}/page"), kept_bytes(settings, f"{view}/halves")
    if page in side.tabs:
        side.show_page(page)
    if state is not None:
        halves.restoreState(state)
