"""The sound below the list of captions: gone to, and ends of captions dragged along it."""

import pytest
from PySide6.QtCore import QPoint, Qt

from conftest import DEMO


@pytest.fixture
def taken(window):
    window.film.show_view("Words")
    window.film.words.cue_actions.take_in(DEMO.with_suffix(".srt"))


def test_an_end_of_a_caption_is_dragged_on_the_sound(window, taken, qtbot):
    """8 s are as wide as it is: a second is an eighth. Ends snap to frames; a drag is one step."""
    session, words = window.film.session, window.film.words
    wave, actions = words.wave, words.cue_actions
    actions.choose(1)
    cue = actions.cue
    first, last = wave.view
    assert last - first == 8 and first < cue.start_s and cue.end_s < last
    x = round(wave.x_of(cue.end_s))
    assert x == pytest.approx((cue.end_s - first) / 8 * wave.width(), abs=1)
    qtbot.mousePress(wave, Qt.MouseButton.LeftButton, pos=QPoint(x, 20))
    for step in (4, 9, 14):
        qtbot.mouseMove(wave, QPoint(x + step, 20))
    qtbot.mouseRelease(wave, Qt.MouseButton.LeftButton, pos=QPoint(x + 14, 20))
    longer = actions.cue
    assert longer.start_s == cue.start_s
    assert longer.end_s == pytest.approx(cue.end_s + 14 / wave.width() * 8, abs=0.05)
    assert longer.end_s * 25 == pytest.approx(round(longer.end_s * 25), abs=0.03)
    session.document.undo()
    assert actions.cues[1] == cue
    qtbot.mousePress(wave, Qt.MouseButton.LeftButton, pos=QPoint(round(wave.x_of(first + 1)), 20))
    qtbot.mouseRelease(wave, Qt.MouseButton.LeftButton, pos=QPoint(5, 20))
    assert session.frame == pytest.approx((first + 1) * 25, abs=1)
    other = actions.cues[0]
    actions.choose(1)
    middle = QPoint(round(wave.x_of((other.start_s + other.end_s) / 2)), wave.height() - 8)
    qtbot.mouseClick(wave, Qt.MouseButton.LeftButton, pos=middle)
    assert actions.number == 0
    assert not wave.grab().isNull()
