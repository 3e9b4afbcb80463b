"""The templates that ship, as pictures of this very shot."""

from __future__ import annotations

import functools

import msgspec

from caracal.core.base.resources import shipped
from caracal.core.base.translation import tr
from caracal.core.layout.files import SUFFIX
from caracal.core.layout.model import FILL, Canvas
from caracal.core.project.template import Template, card_in, overlays_in, read_template
from caracal.core.render.builder import OVER, Surroundings, build_card_scene
from caracal.core.render.captions.placement import caption_area
from caracal.core.render.overlay_layers import overlay_layers
from caracal.core.render.scene import Scene
from caracal.ui.aim.picture_cards import PictureCards
from caracal.ui.session.session import Session

ACROSS = 3


@functools.cache
def shipped_templates() -> dict[str, Template]:
    """All templates that ship, by name."""
    return {path.stem: read_template(path)
            for path in sorted(shipped("templates").glob(f"*{SUFFIX}"))}


class TemplateCards(PictureCards):
    """A picture of the shot under each template, whatever of it is seen when; a click takes it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Templates"), tr(
            "Click the template that this version gets: overlays, cards and caption style"), ACROSS)

    def names(self) -> list[str]:
        return list(shipped_templates())

    def taken(self) -> int | None:
        return None  # words and times are changed at once: none is what it was

    def scene(self, number: int, canvas: Canvas) -> Scene | None:
        session, template = self._session, list(shipped_templates().values())[number]
        letter, rate = session.letter, session.analysis.master.rate
        sheet = session.sheet(letter)
        whole, clear = sheet.canvas, caption_area(sheet)
        card = card_in(template.closing, template, rate, whole, clear)
        if card is not None and not template.overlays:
            return build_card_scene(
                card, card.frames // 2, session.shown(letter, session.frame), session.frame,
                Surroundings(session.analysis.active, session.rate), canvas, opens=False)
        now = session.project.choice(letter, session.shot).layout
        made = session.scene_in(letter, session.frame, template.layout if now == FILL else now,
                                canvas)
        if made is None:
            return None
        fine = (canvas[0] * OVER, canvas[1] * OVER)
        overlays = overlays_in(template, session.project.ranges_of(letter), rate, whole, clear)
        over = tuple(layer for overlay in overlays for layer in overlay_layers(
            (overlay,), (overlay.start + overlay.end_exclusive) // 2, fine, session.rate))
        return msgspec.structs.replace(made, over=over)
