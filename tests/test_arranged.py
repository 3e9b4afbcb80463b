"""Templates on canvases they were not made for: nothing covered, nothing over another."""

from fractions import Fraction
from itertools import combinations, pairwise

import pytest

from caracal.core.base.time import FrameRange
from caracal.core.layout.model import EVERYWHERE
from caracal.core.layout.overlay import Overlay
from caracal.core.project.arranging import arranged
from caracal.core.project.template import card_in, overlays_in
from caracal.core.render.captions.placement import caption_area
from caracal.core.specs.sheet_store import shipped_sheets
from caracal.core.text.style import Title
from caracal.ui.aim.template_cards import shipped_templates

SHEETS = [sheet for sheet in shipped_sheets().values() if not sheet.as_made]


def overlaps(one, other):
    return all(min(a[1], b[1]) - max(a[0], b[0]) > 0.002 for a, b in zip(one, other, strict=True))


def at_once(one, other):
    return one.start < other.end_exclusive and other.start < one.end_exclusive


def edge_to_edge(region):
    return any(high - low > 0.97 for low, high in region)


@pytest.mark.parametrize("name", shipped_templates())
@pytest.mark.parametrize("sheet", SHEETS, ids=lambda sheet: sheet.name)
def test_no_box_of_a_template_is_covered_or_covers_another(name, sheet):
    """What lay apart on the template's own canvas does so on every shape, in the clear area."""
    template, clear = shipped_templates()[name], caption_area(sheet)
    about = template, Fraction(25), sheet.canvas, clear
    groups = [([timed.overlay for timed in template.overlays],
               overlays_in(template, (FrameRange(0, 1500),), *about[1:]))]
    groups += [(card.overlays, card_in(card, *about).overlays)
               for card in (template.opening, template.closing) if card is not None]
    for before, after in groups:
        for was, now in zip(before, after, strict=True):
            if not now.is_bar and not edge_to_edge(was.region):
                for (low, high), (left, right) in zip(now.region, clear, strict=True):
                    assert left - 0.001 <= low < high <= right + 0.001, (name, sheet.name)
        for (a, was), (b, other) in combinations(enumerate(before), 2):
            if at_once(after[a], after[b]) and not overlaps(was.region, other.region):
                assert not overlaps(after[a].region, after[b].region), (name, sheet.name)


def title(top, bottom, left=0.1, right=0.9, start=0):
    return Overlay(Title("Hi"), start, start + 100, ((left, right), (top, bottom)))


def test_what_has_no_room_below_is_made_smaller_together():
    """Three boxes of 0.4 in a part of 0.6: on paper each gets a little less than half."""
    boxes = [title(0.1, 0.5), title(0.5, 0.9), title(0.9, 1.3)]
    made = arranged([title(0.2, 0.6), title(0.3, 0.7), title(0.4, 0.8)],
                    [box.region for box in boxes], ((0.1, 0.9), (0.2, 0.8)))
    downs = [overlay.region[1] for overlay in made]
    assert downs[0][0] == pytest.approx(0.2) and downs[-1][1] == pytest.approx(0.8)
    assert all(a[1] <= b[0] for a, b in pairwise(downs))
    heights = [high - low for low, high in downs]
    assert heights == pytest.approx([heights[0]] * 3) and 0.15 < heights[0] < 0.2


def test_words_stay_on_their_badge_and_times_apart_may_share_a_place():
    badge, words = title(0.0, 0.2, 0.0, 0.4), title(0.05, 0.15, 0.05, 0.35)
    later = title(0.0, 0.2, 0.0, 0.4, start=200)
    made = arranged([badge, words, later], [each.region for each in (badge, words, later)],
                    ((0.2, 1.0), (0.3, 1.0)))
    assert [*made[0].region[0], *made[0].region[1]] == pytest.approx([0.2, 0.6, 0.3, 0.5])
    assert made[1].region[0] == pytest.approx((0.25, 0.55))
    assert made[2].region == made[0].region
    assert arranged([badge], [badge.region], EVERYWHERE) == (badge,)
