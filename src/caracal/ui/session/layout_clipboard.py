"""Layouts on the clipboard, as the text of a layout file: between shots, versions and films."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QGuiApplication

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import counted, tr
from caracal.core.layout.files import layout_in, layout_text
from caracal.core.layout.kinds import name_of
from caracal.core.project.bulk import changed_in
from caracal.core.project.edits import with_layout
from caracal.ui.session.session import Session

Cell = tuple[str, int]  # a version's letter and a shot


def copy_layout(session: Session, cell: Cell) -> None:
    """Put the layout of ``cell`` onto the clipboard."""
    layout = session.project.choice(*cell).layout
    QGuiApplication.clipboard().setText(layout_text(layout))
    session.said.emit(tr("The layout of shot {shot} in {letter}, {kind}, is copied.",
                         shot=cell[1] + 1, letter=cell[0], kind=name_of(layout)))


def paste_layout(session: Session, cells: Sequence[Cell]) -> None:
    """Lay all ``cells`` out as the clipboard says; what is wrong with it is told."""
    try:
        layout = layout_in(QGuiApplication.clipboard().text())
    except CaracalError as problem:
        session.said.emit(tr("No layout was copied. {sentence}", sentence=problem.sentence()))
        return
    project = changed_in(session.project, cells, lambda project, letter, shot: (
        with_layout(project, letter, shot, layout)))
    letter, shot = cells[0]
    where = (tr("shot {shot} in {letter}", shot=shot + 1, letter=letter) if len(cells) == 1
             else counted(len(cells), "{count} cell", "{count} cells"))
    session.edit(project, tr("{kind} in {where}.", kind=name_of(layout).capitalize(), where=where))
