"""A brand: its colours, fonts, logos, styles and end card."""

from __future__ import annotations

from enum import StrEnum

import msgspec

from caracal.core.base.colours import rgb_of
from caracal.core.base.errors import InputError
from caracal.core.base.geometry import Region
from caracal.core.base.translation import mark, tr
from caracal.core.layout.card import Card, card_error
from caracal.core.layout.contradictions import asset_error
from caracal.core.layout.model import (
    EVERYWHERE,
    Canvas,
    PictureFile,
)
from caracal.core.layout.overlay import Overlay
from caracal.core.text.caption_look import CaptionLook, look_error
from caracal.core.text.style import TextStyle, style_error

MOST_COLOURS, MOST_FONTS, MOST_LOGOS = 48, 12, 8
MOST_NAME = 80  # characters
LEAST_LOGO, MOST_LOGO = 0.03, 0.9  # of the canvas's width
MOST_SAFE = 0.2  # of the canvas's shorter side


class Ground(StrEnum):
    """What a variant of a logo is made to lie on."""

    DARK = mark("dark")
    LIGHT = mark("light")


class Corner(StrEnum):
    """Where in the clear area the logo lies."""

    TOP_LEFT = mark("top left")
    TOP_RIGHT = mark("top right")
    LOW_LEFT = mark("low left")
    LOW_RIGHT = mark("low right")


class Logo(msgspec.Struct, frozen=True):
    """A variant of the logo, for pictures that are as its ``ground`` says."""

    picture: PictureFile
    ground: Ground = Ground.DARK


class BrandCard(msgspec.Struct, frozen=True):
    """The end card, as it is on a ``canvas`` (pixels) at a ``rate`` (frames a second)."""

    card: Card
    canvas: Canvas = (1080, 1920)
    rate: float = 25.0


class Brand(msgspec.Struct, frozen=True):
    """What is the same in everything that bears one name.

    ``colours`` (#rrggbb) have names; ``fonts`` are names of fonts that ship, or files. A logo is
    ``logo_wide`` of the canvas's width, in its ``corner`` of the clear area, ``safe_distance`` (of
    the canvas's shorter side) from its edges. ``captions`` and ``titles`` are how they look;
    titles keep their size, their box and where their lines stand. ``closing`` is the end card.
    """

    name: str
    colours: dict[str, str] = {}
    fonts: tuple[str, ...] = ()
    logos: tuple[Logo, ...] = ()
    logo_wide: float = 0.18
    corner: Corner = Corner.TOP_RIGHT
    safe_distance: float = 0.04
    captions: CaptionLook | None = None
    titles: TextStyle | None = None
    closing: BrandCard | None = None


def brand_error(brand: Brand) -> str:
    """What is wrong with ``brand``, or nothing."""
    try:
        for colour in brand.colours.values():
            rgb_of(colour)
    except InputError as problem:
        return problem.what
    within = {
        tr("it needs a name"): 0 < len(brand.name.strip()) <= MOST_NAME,
        tr("it has too many colours, fonts or logos"): (
            len(brand.colours) <= MOST_COLOURS and len(brand.fonts) <= MOST_FONTS
            and len(brand.logos) <= MOST_LOGOS),
        tr("its logo is too small or too large"): LEAST_LOGO <= brand.logo_wide <= MOST_LOGO,
        tr("its safe distance is too large"): 0 <= brand.safe_distance <= MOST_SAFE,
    }
    wrong = next((words for words, right in within.items() if not right), "")
    return (wrong or next(filter(None, (asset_error(logo.picture) for logo in brand.logos)), "")
            or (look_error(brand.captions) if brand.captions else "")
            or (style_error(brand.titles) if brand.titles else "")
            or (card_error(brand.closing.card) if brand.closing else ""))


def logo_region(
    brand: Brand, ratio: float, canvas: Canvas, clear: Region = EVERYWHERE
) -> Region:
    """Where a logo of that width to height lies on a ``canvas``, in shares of it."""
    (left, right), (top, bottom) = clear
    across, down = (brand.safe_distance * min(canvas) / side for side in canvas)
    wide = min(brand.logo_wide, right - left - 2 * across)
    high = wide * canvas[0] / ratio / canvas[1]
    most = bottom - top - 2 * down
    if high > most:
        wide, high = wide * most / high, most
    at_left = brand.corner in (Corner.TOP_LEFT, Corner.LOW_LEFT)
    at_top = brand.corner in (Corner.TOP_LEFT, Corner.TOP_RIGHT)
    x = left + across if at_left else right - across - wide
    y = top + down if at_top else bottom - down - high
    return ((x, x + wide), (y, y + high))


def is_logo(brand: Brand, overlay: Overlay) -> bool:
    """Whether an overlay is one of the brand's logos."""
    return isinstance(overlay.content, PictureFile) and overlay.content.path in {
        logo.picture.path for logo in brand.logos}
