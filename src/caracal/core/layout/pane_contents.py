"""What can be seen in a pane of a layout, and putting something else into one."""

from __future__ import annotations

import msgspec

from caracal.core.layout.model import (
    Content,
    Crop,
    FileContent,
    Layout,
    Role,
    Still,
    WholePicture,
    file_name,
)

FOLLOWED: dict[str, Content] = {  # what a pane is called that shows it
    "Lead": Crop(Role.LEAD), "Second": Crop(Role.SECOND), "Third": Crop(Role.THIRD),
    "Whole picture": WholePicture(),
}


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
