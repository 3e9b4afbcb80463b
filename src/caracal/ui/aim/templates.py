"""Overlays, fades and cards of a version, saved as a template for another version or film."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

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
from caracal.ui.widgets.form import button_row
from caracal.ui.widgets.panels import quiet, small_button

FILES = tr("Templates (*{suffix})", suffix=SUFFIX)


class Templates(QWidget):
    """Applies a template to the chosen version, or saves what it has as one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.cards = TemplateCards(session)
        self.cards.picked.connect(self.take)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        about = quiet(tr("Overlays, fades, cards and this shot's layout, for a series of films"))
        about.setWordWrap(True)
        column.addWidget(about)
        column.addWidget(self.cards)
        column.addWidget(button_row(
            small_button(tr("Load…"), tr("Apply a template from a file; it replaces the overlays, "
                                         "fades and cards of this version"), self._ask_open),
            small_button(tr("Save as…"), tr("Save all this to a file, with its pictures beside it"),
                         self._ask_save)))

    def _ask_open(self) -> None:
        chosen = QFileDialog.getOpenFileName(self, tr("Template"), "", FILES)[0]
        if chosen:
            self.open_file(Path(chosen))

    def take(self, number: int) -> None:
        """Apply the shipped template of that number to the chosen version."""
        name = list(shipped_templates())[number]
        self._lay(shipped_templates()[name], name)

    def open_file(self, path: Path) -> None:
        """Apply the template at ``path`` to the chosen version; what is wrong with it is said."""
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
        session.edit(made, tr("Version {letter}: apply template {name}", letter=session.letter,
                               name=name))

    def _ask_save(self) -> None:
        chosen = QFileDialog.getSaveFileName(self, tr("Template"), f"template{SUFFIX}", FILES)[0]
        if chosen:
            self.save_file(Path(chosen))

    def save_file(self, path: Path) -> None:
        """Save what the chosen version has as a template at ``path``."""
        session, path = self._session, path.with_suffix(SUFFIX)
        try:
            write_template(path, template_of(
                session.project, session.letter, session.analysis.master.rate,
                session.sheet(session.letter).canvas,
                session.project.choice(session.letter, session.shot).layout))
            session.said.emit(tr("Template saved as {name}.", name=path.name))
        except CaracalError as problem:
            session.said.emit(problem.sentence())
