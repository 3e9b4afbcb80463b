"""A brand put on versions: its logo, its styles, its end card."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.geometry import Region
from caracal.core.base.resources import asset_file
from caracal.core.base.time import FrameRange
from caracal.core.base.translation import tr
from caracal.core.layout.entrance import Entry
from caracal.core.layout.model import EVERYWHERE, Canvas, PictureFile
from caracal.core.layout.overlay import Overlay
from caracal.core.project.brand import (
    Brand,
    BrandCard,
    Ground,
    Logo,
    brand_error,
    is_logo,
    logo_region,
)
from caracal.core.project.brand_check import colours_of, fonts_of
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Project, Version
from caracal.core.project.template import Template, card_in
from caracal.core.render.assets.picture_checks import picture_ratio_apart
from caracal.core.text.style import TextStyle, Title


def with_brand(project: Project, brand: Brand | None) -> Project:
    """The film bears the name of ``brand``; None: of none. Raises InputError."""
    wrong = brand_error(brand) if brand is not None else ""
    if wrong:
        raise InputError(tr("This brand is not valid: {wrong}.", wrong=wrong),
                         remedy=tr("Correct its file."))
    return msgspec.structs.replace(project, brand=brand)


def variant_for(brand: Brand, ground: Ground) -> Logo | None:
    """The logo for such a ground; the first where there is none for it; None: it has no logo."""
    return next((logo for logo in brand.logos if logo.ground is ground),
                next(iter(brand.logos), None))


def dressed(
    version: Version, brand: Brand, ranges: Sequence[FrameRange], rate: Fraction, canvas: Canvas,
    logo: tuple[Logo, float] | None, clear: Region = EVERYWHERE,
) -> Version:
    """``version``, which shows ``ranges`` of a film, with the logo, styles and end card of
    ``brand``. ``logo`` is the variant and its width to height; None: it stays without. What it
    has of its own otherwise stays, and so does an end card if the brand has none.
    """
    overlays = [_restyled(overlay, brand.titles) for overlay in version.overlays
                if logo is None or not is_logo(brand, overlay)]
    if logo is not None:
        overlays.append(Overlay(
            logo[0].picture, ranges[0].start, ranges[-1].end_exclusive,
            logo_region(brand, logo[1], canvas, clear), entry=Entry.NONE, exit=Entry.NONE,
            moving=0))
    look = version.look if brand.captions is None else msgspec.structs.replace(
        brand.captions, stretches=version.look.stretches)
    closing = version.closing if brand.closing is None else card_in(
        brand.closing.card, Template(brand.closing.canvas, brand.closing.rate), rate, canvas,
        clear)
    return msgspec.structs.replace(version, overlays=tuple(overlays), look=look, closing=closing)


def with_version_dressed(
    project: Project, letter: str, brand: Brand, rate: Fraction, canvas: Canvas,
    logo: tuple[Logo, float] | None, clear: Region = EVERYWHERE,
) -> Project:
    """Version ``letter`` as ``brand`` says (see :func:`dressed`)."""
    made = dressed(project.version(letter), brand, project.ranges_of(letter), rate, canvas, logo,
                   clear)
    return changed_version(project, letter, overlays=made.overlays, look=made.look,
                           closing=made.closing)


def logo_ratio(logo: Logo) -> float:
    """The width of a logo to its height. Raises InputError when it cannot be read."""
    return picture_ratio_apart(asset_file(logo.picture.path))


def brand_of(project: Project, letter: str, name: str, canvas: Canvas, rate: Fraction) -> Brand:
    """A brand made from what version ``letter`` has: its colours, fonts, pictures that stand all
    the time, styles and end card.
    """
    version, old = project.version(letter), project.brand
    titles = [overlay.content.style for overlay in version.overlays
              if isinstance(overlay.content, Title)]
    colours = dict(old.colours) if old else {}
    for colour in dict.fromkeys(colour for colour, _ in colours_of(version)):
        if colour not in map(str.lower, colours.values()):
            colours[f"colour {len(colours) + 1}"] = colour
    ranges = project.ranges_of(letter)
    logos = tuple(Logo(overlay.content) for overlay in version.overlays
                  if isinstance(overlay.content, PictureFile)
                  and overlay.start <= ranges[0].start
                  and overlay.end_exclusive >= ranges[-1].end_exclusive)
    card = version.closing
    closing = None if card is None else BrandCard(card, canvas, float(rate))
    return Brand(name, colours, tuple(dict.fromkeys(font for font, _ in fonts_of(version))),
                 (old.logos if old and old.logos else logos),
                 captions=msgspec.structs.replace(version.look, stretches=()),
                 titles=next(iter(titles), None), closing=closing)


def _restyled(overlay: Overlay, style: TextStyle | None) -> Overlay:
    """A title in another ``style``, of its own size, with its own box; any other overlay as it is.
    """
    if style is None or not isinstance(overlay.content, Title):
        return overlay
    own = overlay.content.style
    return msgspec.structs.replace(overlay, content=msgspec.structs.replace(
        overlay.content, style=msgspec.structs.replace(
            style, size=own.size, align=own.align, box=own.box or style.box)))
