"""What the interface promises everywhere: contrast, keys, tips."""

import itertools
import re

import pytest
from PySide6.QtWidgets import QPushButton

from caracal.core.base.identity import Same
from caracal.ui.widgets import theme


def _luminance(colour):
    """Relative luminance, WCAG 2.2."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def _contrast(a, b):
    light, dark = sorted((_luminance(a), _luminance(b)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def test_the_sum_agrees_with_the_standard():
    """WCAG 2.2: black on white is 21:1."""
    assert _contrast("#000000", "#ffffff") == pytest.approx(21)


@pytest.mark.parametrize("words", [theme.WORDS, theme.QUIET, theme.GOOD, theme.BAD])
@pytest.mark.parametrize("ground", [theme.GROUND, theme.PANEL, theme.RAISED])
def test_words_can_be_read(words, ground):
    """WCAG 2.2, 1.4.3: 4.5:1."""
    assert _contrast(words, ground) >= 4.5


def test_words_on_the_accent_can_be_read():
    assert _contrast("#1b1510", theme.ACCENT) >= 4.5
    assert _contrast(theme.WORDS, "#4a3620") >= 4.5


def test_greys_round_pictures_have_no_tint():
    for grey in (theme.GROUND, theme.PANEL, theme.RAISED, theme.EDGE):
        assert len({grey[1:3], grey[3:5], grey[5:7]}) == 1


def test_version_colours_are_okabe_and_ito_s():
    """Okabe and Ito 2002, "Color Universal Design"."""
    published = {"#e69f00", "#56b4e9", "#009e73", "#f0e442", "#0072b2", "#d55e00", "#cc79a7"}
    assert set(theme.VERSION_COLOURS) <= published
    assert len(set(theme.VERSION_LINES[:5])) == 5


def test_every_action_has_a_tip_and_no_key_is_used_twice(window):
    actions = window.actions_by_name.values()
    assert all(action.statusTip() for action in actions)
    keys = [action.shortcut().toString() for action in actions if action.shortcut().toString()]
    assert len(keys) == len(set(keys)) >= 25


def test_every_button_has_a_tip(window):
    for view in ("Board", "Aim", "Batch"):
        window.film.show_view(view)
        buttons = window.film.findChildren(QPushButton)
        assert buttons and not [button.text() for button in buttons if not button.toolTip()]


def test_no_text_is_cut_in_the_buttons(window):
    for view in ("Board", "Aim", "Batch"):
        window.film.show_view(view)
        for button in window.film.findChildren(QPushButton):
            if button.isVisible():
                assert button.fontMetrics().horizontalAdvance(button.text()) <= button.width()


def test_style_names_only_colours_of_the_theme():
    """A colour that creeps in outside the palette shows here."""
    known = {getattr(theme, name) for name in dir(theme) if name.isupper()
             and isinstance(getattr(theme, name), str)}
    used = set(re.findall(r"#[0-9a-f]{6}", theme.SHEET))
    greys = {colour for colour in used if len({colour[1:3], colour[3:5], colour[5:7]}) == 1}
    others = used - known - greys
    assert len(others) <= 8
    assert all(_contrast(a, b) > 1 for a, b in itertools.combinations(sorted(others), 2))


def test_a_key_holds_the_object_it_stands_for():
    """A number of memory is given to the next object when this one is gone."""
    key = Same([1])
    assert Same(key.value) == key and key != Same([1])
    assert {Same([number]) == key for number in range(1000)} == {False}
