"""Layouts on the clipboard, as the text of a layout file: between shots, versions and films."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QGuiApplication

from caracal.core.errors import CaracalError
from caracal.core.layout.files import layout_in, layout_text
from caracal.core.project.edits import with_layout
from caracal.ui.session import Session

Cell = tuple[str, int]  # a version's letter and a shot


def copy_layout(session: Session, cell: Cell) -> None:
    """Put the layout of ``cell`` onto the clipboard."""
    layout = session.project.choice(*cell).layout
    QGuiApplication.clipboard().setText(layout_text(layout))
    session.said.emit(f"The layout of shot {cell[1] + 1} in {cell[0]}, {layout.kind}, is copied.")


def paste_layout(session: Session, cells: Sequence[Cell]) -> None:
    """Lay all ``cells`` out as the clipboard says; what is wrong with it is told."""
    try:
        layout = layout_in(QGuiApplication.clipboard().text())
    except CaracalError as problem:
        session.said.emit(f"No layout was copied. {problem.sentence()}")
        return
    project = session.project
    for letter, shot in cells:
        project = with_layout(project, letter, shot, layout)
    where = (f"shot {cells[0][1] + 1} in {cells[0][0]}" if len(cells) == 1
             else f"{len(cells)} cells")
    session.edit(project, f"{layout.kind.capitalize()} in {where}.")
