"""What in a layout cannot be, though each of its values by itself could."""

from __future__ import annotations

from caracal.core.base.colours import rgb_of
from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.layout.model import (
    EVERYWHERE,
    MOST_BLUR,
    MOST_CUT,
    MOST_DIM,
    MOST_EDGE,
    MOST_ENLARGED,
    MOST_MOMENT_S,
    MOST_MOVING_S,
    MOST_PANES,
    MOST_PATH,
    MOST_RADIUS,
    MOST_SHADOW,
    MOST_TURN,
    BlendBackdrop,
    Clip,
    Edge,
    FileContent,
    Layout,
    Pane,
    Shadow,
    SoftBackdrop,
    Still,
    WholePicture,
    covered,
)


def layout_error(layout: Layout) -> str:
    """What in ``layout`` cannot be, though each value by itself could: or nothing."""
    if not 0 < len(layout.panes) <= MOST_PANES:
        return tr("a layout has 1 to {most_panes} panes", most_panes=MOST_PANES)
    wrong = next(filter(None, map(_impossible, layout.panes)), "")
    back = layout.panes[0]
    behind = back.region == EVERYWHERE or covered(layout)
    if not wrong and (back.stay or back.lifted or not behind):
        return tr("a pane has nothing behind it")
    return wrong


def asset_error(content: object) -> str:
    """What of a picture or film file cannot be, though each value by itself could: or nothing."""
    if not isinstance(content, FileContent):
        return ""
    if not 0 < len(content.path) <= MOST_PATH or "\0" in content.path:
        return tr("a picture has no file")
    moment = content.start_s if isinstance(content, Clip) else (
        content.moment_s if isinstance(content, Still) else 0.0)
    if not abs(moment) <= MOST_MOMENT_S:
        return tr("a clip begins at an impossible moment")
    if isinstance(content, Still) and not all(0 <= low < high <= 1 for low, high in content.part):
        return tr("the part of a still is outside its picture")
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
        tr("a pane is outside the canvas"): all(
            0 <= low < high <= 1 for low, high in pane.region),
        asset_error(content): not asset_error(content),
        tr("a soft backdrop has impossible amounts"): (
            0 <= soft.blur <= MOST_BLUR and 0 <= soft.dim <= MOST_DIM),
        "two colours blend in an impossible direction": abs(blend.degrees) <= MOST_TURN,
        tr("a whole picture is enlarged impossibly"): (
            1 <= whole.enlarged <= MOST_ENLARGED and all(0 <= at <= 1 for at in whole.middle)),
        tr("a whole picture is cut impossibly"): all(
            0 <= cut <= MOST_CUT for cut in (whole.cut_left, whole.cut_right, whole.cut_top,
                                             whole.cut_bottom)),
        tr("a pane appears or disappears at an impossible time"): pane.stay is None or (
            0 <= pane.stay.comes_s <= MOST_MOMENT_S and 0 <= pane.stay.moving_s <= MOST_MOVING_S
            and (pane.stay.goes_s is None
                 or pane.stay.comes_s < pane.stay.goes_s <= MOST_MOMENT_S)),
        tr("a pane has impossible corners or edges"): (
            0 <= pane.radius <= MOST_RADIUS and 0 < edge.width <= MOST_EDGE),
        tr("a shadow has impossible amounts"): (
            0 <= shadow.softness <= MOST_SHADOW and 0 <= shadow.distance <= MOST_SHADOW
            and 0 <= shadow.strength <= 1),
    }
    return next((words for words, right in within.items() if not right), "")
