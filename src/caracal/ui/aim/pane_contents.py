"""The backdrop of a layout, and what each of its panes shows."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QSignalBlocker
from PySide6.QtWidgets import QComboBox, QWidget

from caracal.core.base.paths import text_of
from caracal.core.base.translation import tr
from caracal.core.layout.kinds import KINDS
from caracal.core.layout.model import Backdrop, Clip, Content, Layout, Still, with_backdrop
from caracal.core.layout.pane_contents import (
    FOLLOWED,
    content_name,
    panes_of,
    with_pane_content,
)
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.backdrop_choice import BackdropChoice
from caracal.ui.widgets.form import CHOICE_WIDE, Form, Row
from caracal.ui.widgets.panels import choice_box

STILL, FILE = tr("Still of this frame"), tr("Picture or clip…")
MOST = 3  # panes whose content is chosen here
Put = Callable[[Layout, str], object]  # a layout, and what is said of it


class PaneContents(QObject):
    """A box for the backdrop, and one for each pane; ``put`` is given the changed layout."""

    def __init__(self, session: Session, put: Put) -> None:
        super().__init__()
        self._session, self._put = session, put
        self._layout = KINDS[0].make(session.sheet(session.letter).frame)
        self.backdrop = BackdropChoice(session.assets, self._set_backdrop)
        self.boxes: list[QComboBox] = []
        for number in range(MOST):
            self.boxes.append(choice_box(
                (), tr("What pane {number} shows, from the top or from the left",
                       number=number + 1), lambda _, number=number: self._chosen(number)))
        for box in (self.backdrop, *self.boxes):
            box.setFixedWidth(theme.scaled(CHOICE_WIDE))

    def fill(self, form: Form, *colours: QWidget) -> None:
        """Add the fields to ``form``; ``colours`` stand beside the backdrop."""
        self._behind: Row = form.row(tr("Backdrop"), self.backdrop, *colours)
        self._rows = [form.row(tr("Pane {number}", number=number + 1), box)
                      for number, box in enumerate(self.boxes)]

    def show_layout(self, layout: Layout) -> None:
        """Show what ``layout`` consists of."""
        self._layout, panes = layout, panes_of(layout)
        backdrop = layout.backdrop
        self._behind.set_visible(backdrop is not None)
        if backdrop is not None:
            self.backdrop.show_backdrop(backdrop)
        for number, box in enumerate(self.boxes):
            self._rows[number].set_visible(number < len(panes))
            if number < len(panes):
                name = content_name(layout.panes[panes[number]].content)
                names = [*FOLLOWED, STILL, FILE]
                with QSignalBlocker(box):
                    box.clear()
                    box.addItems(names if name in names else [name, *names])
                    box.setCurrentText(name)

    def _set_backdrop(self, backdrop: Backdrop) -> None:
        self._put(with_backdrop(self._layout, backdrop),
                  tr("backdrop {name}", name=self.backdrop.currentText()))

    def _chosen(self, number: int) -> None:
        name, session = self.boxes[number].currentText(), self._session
        if name == FILE:
            session.assets.ask(self.boxes[number],
                               lambda content, _: self.set_pane(number, content))
            self.show_layout(self._layout)  # until a file is there
        elif name == STILL:
            moment = session.frame / session.rate
            self.set_pane(number, Still(text_of(session.film), moment))
        elif name in FOLLOWED:
            self.set_pane(number, FOLLOWED[name])

    def set_pane(self, number: int, content: Content) -> None:
        """Let pane ``number``, of those that are not the backdrop, show ``content``.

        A clip begins with the shot.
        """
        session, at = self._session, panes_of(self._layout)[number]
        if isinstance(content, Clip):
            start = session.analysis.shots[session.shot].start / session.rate
            content = Clip(content.path, content.fit, -start, content.loops)
        self._put(with_pane_content(self._layout, at, content),
                  tr("pane {number} shows {content}", number=number + 1,
                     content=content_name(content)))
