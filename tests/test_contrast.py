"""Words, edges and rings stand out as WCAG 2.2 asks (1.4.3, 1.4.11, 2.4.7)."""

import pytest
from PySide6.QtWidgets import QCheckBox, QLineEdit, QPushButton, QTableView, QVBoxLayout, QWidget

from caracal.ui.widgets import theme
from caracal.ui.widgets.panels import number_box, small_button

GROUNDS = (theme.GROUND, theme.PANEL, theme.RAISED)


def luminance(colour):
    """Relative luminance (WCAG 2.2), worked out apart from the program's own."""
    total = 0.0
    for weight, at in ((0.2126, 1), (0.7152, 3), (0.0722, 5)):
        share = int(colour[at : at + 2], 16) / 255
        total += weight * (share / 12.92 if share <= 0.04045 else ((share + 0.055) / 1.055) ** 2.4)
    return total


def ratio(one, other):
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("behind", [*GROUNDS, theme.CHOSEN])
@pytest.mark.parametrize("words", [theme.WORDS, theme.QUIET, theme.ACCENT, theme.GOOD, theme.BAD])
def test_words_can_be_read_also_where_they_are_quiet_or_selected(words, behind):
    assert ratio(words, behind) >= 4.5


def test_what_cannot_be_used_and_edges_can_be_seen():
    assert all(ratio(theme.OFF, ground) >= 3 for ground in GROUNDS)
    assert all(ratio(theme.OUTLINE, ground) >= 3 for ground in (theme.GROUND, theme.PANEL))
    assert all(ratio(theme.WORDS, ground) >= 3 for ground in (*GROUNDS, theme.CHOSEN))  # rings
    assert ratio("#1b1510", theme.ACCENT) >= 4.5 and ratio("#a89a86", "#55422b") >= 3
    assert ratio(theme.ACCENT, theme.CHOSEN) >= 3  # lines round what is selected


def test_what_is_on_or_can_be_dragged_differs_enough():
    """WCAG 2.2, 1.4.11: 3:1 between the states of a control; 1.4.3: 4.5:1 for placeholders."""
    assert ratio(theme.ON, theme.RAISED) >= 3  # a button that is on, and one that is off
    assert ratio(theme.ON, theme.PANEL) >= 3 and ratio(theme.ON_WORDS, theme.ON) >= 4.5
    assert all(ratio(theme.HANDLE, ground) >= 3 for ground in (theme.GROUND, theme.PANEL))
    assert all(ratio(theme.QUIET, ground) >= 4.5 for ground in GROUNDS)


def test_no_colour_of_a_word_is_beside_these():
    """Every colour that the style sheet gives to words is one of those judged above."""
    judged = {theme.WORDS, theme.QUIET, theme.BAD, theme.OFF, theme.ACCENT, "#1b1510", "#a89a86"}
    parts = theme.SHEET.replace("{", "{;").split(";")
    given = [part.split(":")[1].strip() for part in parts if part.strip().startswith("color:")]
    assert given and set(given) <= judged, set(given) - judged


@pytest.mark.parametrize("make", [
    lambda: QPushButton("Go"), lambda: small_button("Small", "tip", print), QLineEdit,
    lambda: number_box(0, 9, 1, 0, "", "tip"), QTableView, lambda: QCheckBox("tick")],
    ids=["button", "small", "field", "number", "table", "tick"])
def test_what_has_the_keyboard_has_a_ring_of_two_pixels_and_stays_as_large(qtbot, qapp, make):
    theme.dress(qapp)
    box = QWidget()
    box.setObjectName("ground")
    qtbot.addWidget(box)
    column = QVBoxLayout(box)
    widget, other = make(), QLineEdit()
    column.addWidget(widget)
    column.addWidget(other)
    box.show()
    box.activateWindow()
    qtbot.waitUntil(box.isActiveWindow)
    other.setFocus()
    size, hint = widget.size(), widget.sizeHint()
    before = widget.grab().toImage()
    widget.setFocus()
    qtbot.waitUntil(widget.hasFocus)
    after = widget.grab().toImage()
    assert (widget.size(), widget.sizeHint()) == (size, hint)
    ring = [(x, y) for x in range(after.width()) for y in range(after.height())
            if after.pixelColor(x, y).name() == theme.WORDS
            and before.pixelColor(x, y).name() != theme.WORDS]
    middle = after.height() // 2
    left = sorted(x for x, y in ring if y == middle)[:2]
    assert len(left) == 2 and left[1] == left[0] + 1 and left[0] < 3, left
