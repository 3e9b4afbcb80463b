"""A layout: panes from back to front, each with what it shows. Making pixels of it is the
compositor's.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from enum import StrEnum

import msgspec

from caracal.core.colours import rgb_of
from caracal.core.errors import InputError
from caracal.core.geometry import Box, Region
from caracal.core.layout.entrance import Stay
from caracal.core.resources import OURS

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

    LEAD = "lead"
    SECOND = "second"
    THIRD = "third"


class Crop(msgspec.Struct, frozen=True, tag="crop"):
    """A window that framing finds: it follows who leads, or who is second or third."""

    role: Role = Role.LEAD


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


def file_name(content: FileContent) -> str:
    """What the file of ``content`` is called on the screen; what ships has a name without suffix.
    """
    name = content.path.rsplit("/", 1)[-1]
    if content.path.startswith(OURS):
        name = name.rsplit(".", 1)[0].replace("-", " ").capitalize()
    return f"Still of {name}" if isinstance(content, Still) else name


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
    stay: Stay | None = None


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
        """Whether any pane moves, or shows something that does, whatever the film does."""
        return any(isinstance(pane.content, Clip) or pane.stay for pane in self.panes)

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


def contradiction(layout: Layout) -> str:
    """What in ``layout`` cannot be, though each value by itself could: or nothing."""
    if not 0 < len(layout.panes) <= MOST_PANES:
        return f"a layout has 1 to {MOST_PANES} panes"
    wrong = next(filter(None, map(_impossible, layout.panes)), "")
    back = layout.panes[0]
    if not wrong and (back.stay or (back.region != EVERYWHERE and not covered(layout))):
        return "nothing lies behind a pane"
    return wrong


def covered(layout: Layout) -> bool:
    """Whether panes without gaps between them, which stay, leave nothing of the canvas uncovered.
    """
    return tiled(pane for pane in layout.panes if not pane.stay)


def tiled(panes: Iterable[Pane]) -> bool:
    """Whether ``panes`` are together at least as large as a canvas."""
    return sum((across[1] - across[0]) * (down[1] - down[0])
               for across, down in (pane.region for pane in panes)) > 1 - 1e-6


def impossible_file(content: object) -> str:
    """What of a picture or film file cannot be, though each value by itself could: or nothing."""
    if not isinstance(content, FileContent):
        return ""
    if not 0 < len(content.path) <= MOST_PATH or "\0" in content.path:
        return "a picture has no file"
    moment = content.start_s if isinstance(content, Clip) else (
        content.moment_s if isinstance(content, Still) else 0.0)
    if not abs(moment) <= MOST_MOMENT_S:
        return "a clip begins at an impossible moment"
    if isinstance(content, Still) and not all(0 <= low < high <= 1 for low, high in content.part):
        return "the part of a still lies beyond its picture"
    return ""


def _impossible(pane: Pane) -> str:
    content, edge, shadow = pane.content, pane.edge or Edge(), pane.shadow or Shadow()
    soft = content if isinstance(content, SoftBackdrop) else SoftBackdrop()
    whole = content if isinstance(content, WholePicture) else WholePicture()
    blend = content if isinstance(content, BlendBackdrop) else BlendBackdrop()
    try:
        for colour in (edge.colour, *(getattr(content, name) for name in ("colour", "other")
                                      if hasattr(content, name))):
            rgb_of(colour)
    except InputError as problem:
        return problem.what
    within = {
        "a pane lies beyond the canvas": all(
            0 <= low < high <= 1 for low, high in pane.region),
        impossible_file(content): not impossible_file(content),
        "a soft backdrop has impossible amounts": (
            0 <= soft.blur <= MOST_BLUR and 0 <= soft.dim <= MOST_DIM),
        "two colours blend in an impossible direction": abs(blend.degrees) <= MOST_TURN,
        "a whole picture is enlarged impossibly": (
            1 <= whole.enlarged <= MOST_ENLARGED and all(0 <= at <= 1 for at in whole.middle)),
        "a whole picture is cut impossibly": all(
            0 <= cut <= MOST_CUT for cut in (whole.cut_left, whole.cut_right, whole.cut_top,
                                             whole.cut_bottom)),
        "a pane comes or goes at an impossible time": pane.stay is None or (
            0 <= pane.stay.comes_s <= MOST_MOMENT_S and 0 <= pane.stay.moving_s <= MOST_MOVING_S
            and pane.stay.comes_s < (pane.stay.goes_s or math.inf) <= math.inf),
        "a pane has impossible corners or edges": (
            0 <= pane.radius <= MOST_RADIUS and 0 < edge.width <= MOST_EDGE),
        "a shadow has impossible amounts": (
            0 <= shadow.softness <= MOST_SHADOW and 0 <= shadow.distance <= MOST_SHADOW
            and 0 <= shadow.strength <= 1),
    }
    return next((words for words, right in within.items() if not right), "")
