"""A layout: panes from back to front, each with what it shows. Making pixels of it is the
compositor's.
"""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from typing import Protocol

import msgspec

from caracal.core.base.geometry import Box, Region
from caracal.core.base.resources import OURS
from caracal.core.base.translation import mark, tr
from caracal.core.layout.entrance import PaneTiming

EVERYWHERE: Region = ((0.0, 1.0), (0.0, 1.0))
Canvas = tuple[int, int]  # width, height in pixels; even
Target = tuple[int, int, int, int]  # x, y, width, height in pixels of a canvas; even
MOST_BLUR, MOST_DIM = 0.25, 1.0
MOST_PANES = 12
MOST_TURN = 3600.0  # degrees
MOST_RADIUS, MOST_EDGE, MOST_SHADOW = 0.5, 0.05, 0.1
MOST_CUT = 0.45  # of a picture, at each side
MOST_ENLARGED = 4.0  # of a whole picture past whole
MOST_PATH = 4096  # characters
MOST_MOVING_S = 60.0
MOST_MOMENT_S = 10.0**6  # of a film file


class Role(StrEnum):
    """Which of the people in a shot a crop follows."""

    LEAD = mark("lead")
    SECOND = mark("second")
    THIRD = mark("third")


class Person(msgspec.Struct, frozen=True):
    """Who is cut out of the film at ``path``: looked for in ``region`` (upright master pixels) of
    the frames [first, end) of ``span``, which are a shot's.
    """

    path: str
    region: Box
    span: tuple[int, int]


class Crop(msgspec.Struct, frozen=True, tag="crop", omit_defaults=True):
    """A window that framing finds: it follows who leads, or who is second or third.

    ``lifted``: only that person is seen, cut out, and what lies behind the pane. ``person`` is
    filled in where the layout is placed in a shot.
    """

    role: Role = Role.LEAD
    lifted: bool = False
    person: Person | None = None


class WholePicture(msgspec.Struct, frozen=True, tag="whole"):
    """All of the master's active picture, as large as fits into the pane, in its middle.

    ``enlarged`` (1 to 4) times as large it fills more of the pane, and what goes beyond that is
    cut off round ``middle`` (shares of the picture). Before that its sides are cut by these shares
    of its width and height: ``cut_left``, ``cut_right``, ``cut_top`` and ``cut_bottom``.
    """

    enlarged: float = 1.0
    middle: tuple[float, float] = (0.5, 0.5)
    cut_left: float = 0.0
    cut_right: float = 0.0
    cut_top: float = 0.0
    cut_bottom: float = 0.0

    def cut(self, picture: Box) -> Box:
        """What of ``picture`` is left between the cuts."""
        x, y, wide, high = picture
        return (x + self.cut_left * wide, y + self.cut_top * high,
                wide * (1 - self.cut_left - self.cut_right),
                high * (1 - self.cut_top - self.cut_bottom))


class PlainBackdrop(msgspec.Struct, frozen=True, tag="plain"):
    """One ``colour``, as #rrggbb of BT.709."""

    colour: str = "#1c1a18"


class BlendBackdrop(msgspec.Struct, frozen=True, tag="blend"):
    """From ``colour`` to the ``other`` (#rrggbb of BT.709), in the direction of ``degrees``.

    0 goes from left to right, 90 from top to bottom, clockwise.
    """

    colour: str = "#3a3026"
    other: str = "#121110"
    degrees: float = 90.0


class SoftBackdrop(msgspec.Struct, frozen=True, tag="soft"):
    """The same moment, enlarged until it fills the pane, blurred and dimmed.

    ``blur`` is the standard deviation as a share of the pane's longer side, 0 to 0.25; ``dim`` is
    how much of its light is taken away, 0 to 1.
    """

    blur: float = 0.03
    dim: float = 0.4


class PictureFile(msgspec.Struct, frozen=True, tag="picture"):
    """The picture in the file at ``path``: it fills the pane, or (``fit``) lies in it whole.

    What is transparent in it shows what lies behind.
    """

    path: str
    fit: bool = False


class Clip(msgspec.Struct, frozen=True, tag="clip"):
    """The moving picture of the film file at ``path``: it fills the pane, or (``fit``) lies in it.

    ``start_s`` is the moment of the clip, in seconds, that is seen with the first frame of the film
    (in a layout) or of the overlay that shows it; a pane that comes in later has one below 0. What
    lies before the clip's beginning shows its first picture. After its end it ``loops``, and
    otherwise its last picture stands.
    """

    path: str
    fit: bool = False
    start_s: float = 0.0
    loops: bool = True


class Still(msgspec.Struct, frozen=True, tag="still"):
    """The picture of the film file at ``path`` that is seen at ``moment_s``, held.

    Its ``part`` (shares of its width and height) fills the pane.
    """

    path: str
    moment_s: float = 0.0
    part: Region = EVERYWHERE


FileContent = PictureFile | Clip | Still


class NamesFile(Protocol):
    """Something that is in a file."""

    @property
    def path(self) -> str:
        """The path of the file."""
        ...


def file_name(content: NamesFile) -> str:
    """What the file of ``content`` is called on the screen; what ships has a name without suffix.
    """
    name = content.path.rsplit("/", 1)[-1]
    if content.path.startswith(OURS):
        name = tr(name.rsplit(".", 1)[0].replace("-", " ").capitalize())
    return tr("Still of {name}", name=name) if isinstance(content, Still) else name


Backdrop = PlainBackdrop | BlendBackdrop | SoftBackdrop | FileContent
Content = Crop | WholePicture | Backdrop


class Edge(msgspec.Struct, frozen=True):
    """A line inside a pane's border: its colour (#rrggbb), and its width.

    The width is a share of the canvas's shorter side, up to 0.05.
    """

    colour: str = "#f2ede4"
    width: float = 0.006


class Shadow(msgspec.Struct, frozen=True):
    """What a pane darkens behind it.

    ``softness`` (the standard deviation of its blur) and ``distance`` (downward) are shares of the
    canvas's shorter side, up to 0.1; ``strength`` is how much light it takes away, 0 to 1.
    """

    softness: float = 0.02
    distance: float = 0.008
    strength: float = 0.5


class Pane(msgspec.Struct, frozen=True):
    """A ``region`` of the canvas (in shares of it) and what it shows.

    ``radius`` rounds its corners: a share of its shorter side, up to 0.5. A pane that ``avoids``
    goes, shot by shot, to the corner of the clear area where it covers least of who leads and of
    burnt-in words; its region says how large it is. It is there all the time, or as its ``stay``
    says.
    """

    content: Content
    region: Region = EVERYWHERE
    radius: float = 0.0
    edge: Edge | None = None
    shadow: Shadow | None = None
    avoids: bool = False
    stay: PaneTiming | None = None

    @property
    def lifted(self) -> bool:
        """Whether somebody is cut out, so that what lies behind is seen."""
        return isinstance(self.content, Crop) and self.content.lifted


class Layout(msgspec.Struct, frozen=True):
    """Panes from back to front. ``kind`` is what the layout is called, in files as on screen."""

    kind: str
    panes: tuple[Pane, ...]

    @property
    def cropped(self) -> bool:
        """Whether any pane follows somebody: then framing has a say in it."""
        return any(isinstance(pane.content, Crop) for pane in self.panes)

    @property
    def moving(self) -> bool:
        """Whether any pane goes by the film's time: it moves, or shows something that does."""
        return any(isinstance(pane.content, Clip) or pane.stay or pane.lifted
                   for pane in self.panes)

    @property
    def backdrop(self) -> Backdrop | None:
        """What lies behind everything, if that is a backdrop."""
        last = self.panes[0].content
        return last if isinstance(last, Backdrop) else None


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


def covered(layout: Layout) -> bool:
    """Whether panes without gaps between them, which stay, leave nothing of the canvas uncovered.
    """
    return tiled(pane for pane in layout.panes if not pane.stay and not pane.lifted)


def tiled(panes: Iterable[Pane]) -> bool:
    """Whether ``panes`` are together at least as large as a canvas."""
    return sum((across[1] - across[0]) * (down[1] - down[0])
               for across, down in (pane.region for pane in panes)) > 1 - 1e-6
