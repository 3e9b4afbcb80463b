"""What can be seen in a pane of a layout, and when; and changing either."""

from __future__ import annotations

import msgspec

from caracal.core.base.translation import tr
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.entrance import PaneTiming
from caracal.core.layout.model import (
    EVERYWHERE,
    Content,
    Crop,
    FileContent,
    Layout,
    Pane,
    Role,
    SoftBackdrop,
    Still,
    WholePicture,
    file_name,
)

FOLLOWED: dict[str, Content] = {  # what a pane is called that shows it
    tr("Lead"): Crop(Role.LEAD), tr("Second"): Crop(Role.SECOND), tr("Third"): Crop(Role.THIRD),
    tr("Lead, cut out"): Crop(Role.LEAD, lifted=True),
    tr("Second, cut out"): Crop(Role.SECOND, lifted=True),
    tr("Whole picture"): WholePicture(),
}

BEHIND = Pane(SoftBackdrop(), EVERYWHERE)


def panes_of(layout: Layout) -> tuple[int, ...]:
    """The numbers of the panes whose content can be chosen: all but a backdrop."""
    first = 0 if layout.backdrop is None else 1
    return tuple(range(first, len(layout.panes)))


def content_name(content: Content) -> str:
    """What ``content`` is called on the screen."""
    if isinstance(content, WholePicture):
        return tr("Whole picture")
    if isinstance(content, Still):
        return tr("Still")
    if isinstance(content, FileContent):
        return file_name(content)
    return next((name for name, each in FOLLOWED.items() if each == content), tr("Backdrop"))


def with_pane_content(layout: Layout, number: int, content: Content) -> Layout:
    """``layout`` with other ``content`` in pane ``number``; with a soft backdrop behind it, where
    nothing else would lie there.
    """
    return _with_pane(layout, number, msgspec.structs.replace(
        layout.panes[number], content=content))


def with_pane_stay(layout: Layout, number: int, stay: PaneTiming | None) -> Layout:
    """``layout`` whose pane ``number`` is there as ``stay`` says; None: all the time.

    Where nothing would lie behind it a soft backdrop does, which goes when it is needed no more.
    """
    return _with_pane(layout, number, msgspec.structs.replace(layout.panes[number], stay=stay))


def _with_pane(layout: Layout, number: int, pane: Pane) -> Layout:
    """``layout`` with another ``pane``, and a soft backdrop behind all of it if it needs one."""
    panes = (*layout.panes[:number], pane, *layout.panes[number + 1 :])
    behind, rest = panes[0], msgspec.structs.replace(layout, panes=panes[1:])
    if behind == BEHIND and len(panes) > 2 and panes[1].region != EVERYWHERE and (
            not layout_error(rest)):
        return rest
    made = msgspec.structs.replace(layout, panes=panes)
    return made if not layout_error(made) else msgspec.structs.replace(
        layout, panes=(BEHIND, *panes))


def as_chosen(layout: Layout, chosen: Layout) -> Layout:
    """``layout``, which was placed in a shot, with contents and times of the ``chosen`` one that it
    was.
    """
    if len(layout.panes) != len(chosen.panes):
        return layout
    panes = tuple(msgspec.structs.replace(pane, stay=before.stay, content=before.content)
                  for pane, before in zip(layout.panes, chosen.panes, strict=True))
    return msgspec.structs.replace(layout, panes=panes)
