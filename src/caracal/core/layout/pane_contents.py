"""What can be seen in a pane of a layout, and when; and changing either."""

from __future__ import annotations

import msgspec

from caracal.core.layout.entrance import Stay
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
    contradiction,
    file_name,
)

FOLLOWED: dict[str, Content] = {  # what a pane is called that shows it
    "Lead": Crop(Role.LEAD), "Second": Crop(Role.SECOND), "Third": Crop(Role.THIRD),
    "Whole picture": WholePicture(),
}

BEHIND = Pane(SoftBackdrop(), EVERYWHERE)


def panes_of(layout: Layout) -> tuple[int, ...]:
    """The numbers of the panes whose content can be chosen: all but a backdrop."""
    first = 0 if layout.backdrop is None else 1
    return tuple(range(first, len(layout.panes)))


def content_name(content: Content) -> str:
    """What ``content`` is called on the screen."""
    if isinstance(content, WholePicture):
        return "Whole picture"
    if isinstance(content, Still):
        return "Still"
    if isinstance(content, FileContent):
        return file_name(content)
    return next((name for name, each in FOLLOWED.items() if each == content), "Backdrop")


def with_pane_content(layout: Layout, number: int, content: Content) -> Layout:
    """``layout`` with other ``content`` in pane ``number``."""
    panes = list(layout.panes)
    panes[number] = msgspec.structs.replace(panes[number], content=content)
    return msgspec.structs.replace(layout, panes=tuple(panes))


def with_pane_stay(layout: Layout, number: int, stay: Stay | None) -> Layout:
    """``layout`` whose pane ``number`` is there as ``stay`` says; None: all the time.

    Where nothing would lie behind it a soft backdrop does, which goes when it is needed no more.
    """
    panes = list(layout.panes)
    panes[number] = msgspec.structs.replace(panes[number], stay=stay)
    behind, rest = panes[0], tuple(panes[1:])
    if stay is None and behind == BEHIND and rest and not contradiction(
            msgspec.structs.replace(layout, panes=rest)):
        return msgspec.structs.replace(layout, panes=rest)
    made = msgspec.structs.replace(layout, panes=tuple(panes))
    return made if not contradiction(made) else msgspec.structs.replace(
        layout, panes=(BEHIND, *panes))


def with_stays_of(layout: Layout, chosen: Layout) -> Layout:
    """``layout``, which was placed in a shot, with the times of the ``chosen`` one that it was."""
    if len(layout.panes) != len(chosen.panes):
        return layout
    panes = tuple(msgspec.structs.replace(pane, stay=before.stay)
                  for pane, before in zip(layout.panes, chosen.panes, strict=True))
    return msgspec.structs.replace(layout, panes=panes)
