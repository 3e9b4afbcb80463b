"""Where a version departs from its brand."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from caracal.core.base.translation import tr
from caracal.core.layout.card import Card
from caracal.core.layout.model import BlendBackdrop, Layout, PlainBackdrop
from caracal.core.layout.overlay import Overlay, Shape
from caracal.core.project.brand import Brand, is_logo
from caracal.core.project.model import Project, Version
from caracal.core.text.caption_look import CaptionManner, looks_of
from caracal.core.text.style import TextStyle, Title


def off_brand(project: Project, letter: str) -> tuple[str, ...]:
    """Where version ``letter`` departs from the brand that its film bears: a sentence each."""
    if project.brand is None:
        return ()
    layouts = [decision.choice.layout for decision in project.decisions
               if decision.letter == letter]
    version = project.version(letter)
    captioned = bool(project.captions) and version.burnt is not False
    return brand_faults(project.brand, version, layouts, captioned)


def brand_faults(
    brand: Brand, version: Version, layouts: Iterable[Layout], captioned: bool = True
) -> tuple[str, ...]:
    """Where a ``version``, whose shots have these ``layouts``, departs from its ``brand``: a
    sentence each. Shadows and fades may have any colour, and so may captions unless it is
    ``captioned``.
    """
    shown, told = _shown(version), []
    if brand.logos and not any(is_logo(brand, overlay) for overlay in shown):
        told.append(tr("Version {letter} shows no logo of {name}.", letter=version.letter,
                       name=brand.name))
    if brand.colours:
        known = {colour.lower() for colour in brand.colours.values()}
        told += [tr("Version {letter} uses the colour {colour} in {where}, which is not in the "
                    "brand {name}.",
                    letter=version.letter, colour=colour, where=where, name=brand.name)
                 for colour, where in colours_of(version, layouts, captioned)
                 if colour not in known]
    if brand.fonts:
        told += [tr("Version {letter} uses the font {font} in {where}, which is not in the brand "
                    "{name}.",
                    letter=version.letter, font=font, where=where, name=brand.name)
                 for font, where in fonts_of(version, captioned) if font not in brand.fonts]
    return tuple(dict.fromkeys(told))


def _cards(version: Version) -> list[Card]:
    return [card for card in (version.opening, version.closing) if card is not None]


def _shown(version: Version) -> list[Overlay]:
    """What lies over a version and on its cards, without what is hidden."""
    on_cards = (overlay for card in _cards(version) for overlay in card.overlays)
    return [overlay for overlay in (*version.overlays, *on_cards) if not overlay.hidden]


def colours_of(
    version: Version, layouts: Iterable[Layout] = (), captioned: bool = True
) -> Iterator[tuple[str, str]]:
    """Each colour (in small letters) of a ``version``, whose shots have these ``layouts``, and
    where it is seen, without shadows and fades; those of captions only if it is ``captioned``.
    """
    for look in looks_of(version.look) if captioned else ():
        said = [look.said.lower()] if look.manner is CaptionManner.WORDS else []
        yield from ((colour, tr("its captions")) for colour in (*_of_style(look.style), *said))
    for overlay in _shown(version):
        content = overlay.content
        if isinstance(content, Title):
            words = (f"“{content.text.splitlines()[0][:30]}”" if content.text.strip()
                     else tr("a title"))
            yield from ((colour, words) for colour in _of_style(content.style))
        elif isinstance(content, Shape):
            edge = content.outline.colour if content.outline else None
            yield from ((colour.lower(), tr("a shape ({kind})", kind=tr(content.kind.value)))
                        for colour in (content.colour, content.other, edge) if colour)
    backdrops = [*((card.backdrop, tr("a card")) for card in _cards(version)),
                 *((pane.content, tr("a backdrop")) for layout in layouts for pane in layout.panes)]
    for behind, where in backdrops:
        if isinstance(behind, PlainBackdrop):
            yield behind.colour.lower(), where
        elif isinstance(behind, BlendBackdrop):
            yield from ((colour.lower(), where) for colour in (behind.colour, behind.other))


def _of_style(style: TextStyle) -> Iterator[str]:
    parts = (style.colour, style.outline and style.outline.colour, style.box and style.box.colour)
    return (colour.lower() for colour in parts if colour)


def fonts_of(version: Version, captioned: bool = True) -> Iterator[tuple[str, str]]:
    """Each font of a ``version``, and where it is seen; captions' only if it is ``captioned``."""
    for look in looks_of(version.look) if captioned else ():
        yield look.style.font, tr("its captions")
    for overlay in _shown(version):
        if isinstance(overlay.content, Title):
            yield overlay.content.style.font, tr("a title")
