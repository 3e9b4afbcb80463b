"""Placing panes on a canvas: an edit of the shot's layout, as far as layouts reach."""

from __future__ import annotations

from caracal.core.base.translation import tr
from caracal.core.layout.model import Layout
from caracal.core.project.edits import with_layout
from caracal.core.project.model import Project
from caracal.ui.session.reach import EditKind
from caracal.ui.session.session import Session


def place_panes(
    session: Session, layout: Layout, gesture: object, held: Project | None = None
) -> None:
    """Use ``layout`` in the chosen version and shot, and where layouts reach those of its kind.

    For ``held`` see :meth:`Editing.edit`.
    """
    def change(project: Project, letter: str, shot: int) -> Project:
        same = project.choice(letter, shot).layout.kind == layout.kind
        return with_layout(project, letter, shot, layout) if same else project

    session.editing.edit(EditKind.LAYOUT, tr("move pane"), change, gesture, held=held)
