"""A layout: panes from back to front, each with what it shows. Making pixels of it is the
compositor's.
"""

from __future__ import annotations

import re
from enum import StrEnum

import msgspec

from caracal.core.errors import InputError
from caracal.core.geometry import Region

EVERYWHERE: Region = ((0.0, 1.0), (0.0, 1.0))
Canvas = tuple[int, int]  # width, height in pixels; even
Target = tuple[int, int, int, int]  # x, y, width, height in pixels of a canvas; even
MOST_BLUR, MOST_DIM = 0.25, 1.0
MOST_PANES = 12


class Role(StrEnum):
    """Whom a crop follows."""

    LEAD = "lead"
    SECOND = "second"


class Crop(msgspec.Struct, frozen=True, tag="crop"):
    """A window that framing finds: it follows who leads, or who is second."""

    role: Role = Role.LEAD


class WholePicture(msgspec.Struct, frozen=True, tag="whole"):
    """All of the master's active picture, as large as fits into the pane, in its middle."""


class PlainBackdrop(msgspec.Struct, frozen=True, tag="plain"):
    """One ``colour``, as #rrggbb of BT.709."""

    colour: str = "#1c1a18"

    def rgb(self) -> tuple[int, int, int]:
        """Red, green and blue, 0..255. Raises InputError when it is no colour."""
        found = re.fullmatch(r"#([0-9a-fA-F]{2})([0-9a-fA-F]{2})([0-9a-fA-F]{2})", self.colour)
        if found is None:
            raise InputError(f"“{self.colour[:40]}” is no colour.",
                             remedy="Write it as #rrggbb, for instance #1c1a18.")
        red, green, blue = (int(part, 16) for part in found.groups())
        return red, green, blue


class SoftBackdrop(msgspec.Struct, frozen=True, tag="soft"):
    """The same moment, enlarged until it fills the pane, blurred and dimmed.

    ``blur`` is the standard deviation as a share of the pane's longer side, 0 to 0.25; ``dim`` is
    how much of its light is taken away, 0 to 1.
    """

    blur: float = 0.03
    dim: float = 0.4


Backdrop = PlainBackdrop | SoftBackdrop
Content = Crop | WholePicture | Backdrop


class Pane(msgspec.Struct, frozen=True):
    """A ``region`` of the canvas (in shares of it) and what it shows."""

    content: Content
    region: Region = EVERYWHERE


class Layout(msgspec.Struct, frozen=True):
    """Panes from back to front. ``kind`` is what the layout is called, in files as on screen."""

    kind: str
    panes: tuple[Pane, ...]

    @property
    def cropped(self) -> bool:
        """Whether any pane follows somebody: then framing has a say in it."""
        return any(isinstance(pane.content, Crop) for pane in self.panes)

    @property
    def backdrop(self) -> Backdrop | None:
        """What lies behind everything, if that is a backdrop."""
        last = self.panes[0].content
        return last if isinstance(last, PlainBackdrop | SoftBackdrop) else None


FILL = Layout("fill", (Pane(Crop()),))


def target_of(region: Region, canvas: Canvas) -> Target:
    """The pixels of a ``region`` of ``canvas``; its edges are brought to the nearest even ones."""
    if region == EVERYWHERE:
        return (0, 0, *canvas)
    (left, right), (top, bottom) = region
    x, end = (2 * round(share * canvas[0] / 2) for share in (left, right))
    y, low = (2 * round(share * canvas[1] / 2) for share in (top, bottom))
    return (x, y, max(2, end - x), max(2, low - y))


def with_backdrop(layout: Layout, backdrop: Backdrop) -> Layout:
    """``layout`` with another backdrop in the place of its own; as it is if it has none."""
    if layout.backdrop is None:
        return layout
    behind = msgspec.structs.replace(layout.panes[0], content=backdrop)
    return msgspec.structs.replace(layout, panes=(behind, *layout.panes[1:]))


def contradiction(layout: Layout) -> str:
    """What in ``layout`` cannot be, though each value by itself could: or nothing."""
    if not 0 < len(layout.panes) <= MOST_PANES:
        return f"a layout has 1 to {MOST_PANES} panes"
    for pane in layout.panes:
        for low, high in pane.region:
            if not 0 <= low < high <= 1:
                return "a pane lies beyond the canvas"
        content = pane.content
        if isinstance(content, PlainBackdrop):
            try:
                content.rgb()
            except InputError as problem:
                return problem.what
        if isinstance(content, SoftBackdrop) and not (
                0 <= content.blur <= MOST_BLUR and 0 <= content.dim <= MOST_DIM):
            return "a soft backdrop has impossible amounts"
    return ""
