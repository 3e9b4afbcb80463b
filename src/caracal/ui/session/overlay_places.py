"""Placing an overlay on a canvas: an edit of that version, which the others can be given, too."""

from __future__ import annotations

from caracal.core.base.geometry import Region
from caracal.core.base.translation import tr
from caracal.core.layout.overlay import region_on
from caracal.core.project.model import Project
from caracal.core.project.overlay_edits import overlay_like, with_overlay_changed
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session


def place_overlay(
    session: Session, letter: str, number: int, region: Region, gesture: object,
    held: Project | None = None,
) -> None:
    """Put overlay ``number`` of version ``letter``, which is the chosen one, at ``region``.

    In other versions the overlay like it gets the same place in proportion to the canvas. For
    ``held`` see :meth:`Editing.edit`.
    """
    project = session.project if held is None else held
    overlay = project.version(letter).overlays[number]
    canvas = session.sheet(letter).canvas

    def change(project: Project, other: str, _: int) -> Project:
        at = number if other == letter else overlay_like(project, other, overlay)
        place = region_on(region, canvas, session.sheet(other).canvas)
        return project if at is None else with_overlay_changed(
            project, other, at, region=region if other == letter else place)

    session.editing.edit(EditKind.PLACE, tr("move {name}", name=overlay.name), change, gesture,
                         Scope.VERSION, held)
