"""What lies over a version, kept as a template, and taken for another version or film."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QLabel, QMenu, QVBoxLayout, QWidget, QWidgetAction

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.layout.files import SUFFIX
from caracal.core.project.template import (
    Template,
    read_template,
    template_of,
    with_template,
    write_template,
)
from caracal.core.render.captions.placement import caption_area
from caracal.ui.aim.template_cards import TemplateCards, shipped_templates
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import headed_row, small_button

FILES = tr("Templates (*{suffix})", suffix=SUFFIX)


class TemplateRow(QWidget):
    """Opens a template over the chosen version, or keeps what lies over it as one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        row = headed_row(self, tr("Template"))
        about = QLabel(tr("overlays, fades, cards and this shot's layout, for the next of a "
                          "series"))
        about.setObjectName("quiet")
        row.addWidget(about, 1)
        self.cards = TemplateCards(session)
        self.cards.picked.connect(self.take)
        self.ours = small_button(tr("Ours"), tr("Six that ship, as pictures of this shot"),
                                 lambda: None)
        menu, panel = QMenu(self.ours), QWidget()
        panel.setObjectName("panel")
        inside = QVBoxLayout(panel)
        inside.setContentsMargins(16, 14, 16, 12)
        inside.addWidget(self.cards)
        action = QWidgetAction(menu)
        action.setDefaultWidget(panel)
        menu.addAction(action)
        menu.aboutToShow.connect(lambda: self.cards.setFixedSize(self.cards.sizeHint()))
        self.ours.setMenu(menu)
        row.addWidget(self.ours)
        row.addWidget(small_button(tr("Open…"), tr("Lay a template over this version, in the place "
                                                   "of what lies there"), self._ask_open))
        row.addWidget(small_button(tr("Save as…"),
                                   tr("Keep all this as a file, with its pictures beside it"),
                                   self._ask_save))

    def _ask_open(self) -> None:
        chosen = QFileDialog.getOpenFileName(self, tr("Template"), "", FILES)[0]
        if chosen:
            self.open_file(Path(chosen))

    def take(self, number: int) -> None:
        """Lay the shipped template of that number over the chosen version."""
        name = list(shipped_templates())[number]
        self.ours.menu().close()
        self._lay(shipped_templates()[name], name)

    def open_file(self, path: Path) -> None:
        """Lay the template at ``path`` over the chosen version; what is wrong with it is told."""
        try:
            self._lay(read_template(path), path.stem)
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())

    def _lay(self, template: Template, name: str) -> None:
        session = self._session
        try:
            sheet = session.sheet(session.letter)
            made = with_template(
                session.project, session.letter, template, session.analysis.master.rate,
                sheet.canvas, len(session.analysis.shots), caption_area(sheet))
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        session.edit(made, tr("{name} lies over {letter}.", name=name, letter=session.letter))

    def _ask_save(self) -> None:
        chosen = QFileDialog.getSaveFileName(self, tr("Template"), f"template{SUFFIX}", FILES)[0]
        if chosen:
            self.save_file(Path(chosen))

    def save_file(self, path: Path) -> None:
        """Keep what lies over the chosen version at ``path``."""
        session, path = self._session, path.with_suffix(SUFFIX)
        try:
            write_template(path, template_of(
                session.project, session.letter, session.analysis.master.rate,
                session.sheet(session.letter).canvas,
                session.project.choice(session.letter, session.shot).layout))
            session.said.emit(tr("Template kept as {name}.", name=path.name))
        except CaracalError as problem:
            session.said.emit(problem.sentence())
