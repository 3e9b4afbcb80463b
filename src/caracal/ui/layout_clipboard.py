"""Layouts on the clipboard, as the text of a layout file: between shots, versions and films."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QGuiApplication

from caracal.core.errors import CaracalError
from caracal.core.layout.files import layout_in, layout_text
from caracal.core.layout.kinds import name_of
from caracal.core.project.edits import with_layout
from caracal.core.translation import tr
from caracal.ui.session import Session

Cell = tuple[str, int]  # a version's letter and a shot


def copy_layout(session: Session, cell: Cell) -> None:
    """Put the layout of ``cell`` onto the clipboard."""
    layout = session.project.choice(*cell).layout
    QGuiApplication.clipboard().setText(layout_text(layout))
    session.said.emit(tr("The layout of shot {cell} in {cell_2}, {kind}, is copied.",
                         cell=cell[1] + 1, cell_2=cell[0], kind=layout.kind))


def paste_layout(session: Session, cells: Sequence[Cell]) -> None:
    """Lay all ``cells`` out as the clipboard says; what is wrong with it is told."""
    try:
        layout = layout_in(QGuiApplication.clipboard().text())
    except CaracalError as problem:
        session.said.emit(tr("No layout was copied. {sentence}", sentence=problem.sentence()))
        return
    project = session.project
    for letter, shot in cells:
        project = with_layout(project, letter, shot, layout)
    where = (tr("shot {cells} in {cells_2}", cells=cells[0][1] + 1,
                cells_2=cells[0][0]) if len(cells) == 1
             else tr("{count} cells", count=len(cells)))
    session.edit(project, tr("{kind} in {where}.", kind=name_of(layout).capitalize(), where=where))
