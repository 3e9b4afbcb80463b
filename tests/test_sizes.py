"""Words as large as the system's: widths that hold them, at 30 % more."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QFont, QGuiApplication, QPainter
from PySide6.QtWidgets import QAbstractScrollArea, QApplication, QDoubleSpinBox, QPushButton

from caracal.ui.widgets import theme
from conftest import DEMO, open_window, settled

PADDING = 14  # pixels in a box beside its words, by the style sheet


@pytest.fixture
def large(qtbot, qapp, demo, tmp_path, monkeypatch):
    """The window with all words 30 % larger."""
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    theme.dress(qapp, 1.3)
    monkeypatch.setattr(theme, "style_sheet", qapp.styleSheet)  # it is not dressed again
    made = open_window(qtbot, qapp, tmp_path)
    yield made
    made.close()
    monkeypatch.undo()
    theme.dress(qapp, 1.0)


@pytest.mark.parametrize(("points", "dots", "scale"), [
    (9.0, 96.0, 1.0), (11.0, 96.0, 1.0), (14.3, 96.0, 1.3), (11.0, 125.0, 1.3), (40.0, 96.0, 1.6)])
def test_words_follow_the_system_s_font(qapp, monkeypatch, points, dots, scale):
    """By arithmetic: 11 points at 96 dots an inch are as drawn; larger ones in proportion."""
    font = QFont()
    font.setPointSizeF(points)
    monkeypatch.setattr(QApplication, "font", staticmethod(lambda: font))
    monkeypatch.setattr(QGuiApplication, "platformName", staticmethod(lambda: "xcb"))

    class Screen:
        @staticmethod
        def logicalDotsPerInch():  # noqa: N802
            return dots

    class Application:
        @staticmethod
        def primaryScreen():  # noqa: N802
            return Screen

    assert theme.scale_of(Application) == pytest.approx(scale, abs=0.005)


def test_nothing_that_is_typed_or_read_is_cut_with_larger_words(large, truth):
    session = large.film.session
    large.film.show_view("Aim")
    shot = next(i for i, row in enumerate(truth["shots"]) if "talk" in row["name"])
    session.go(session.analysis.shots[shot].start + 20)
    settled(session)
    aim = large.film.aim
    QApplication.processEvents()
    assert aim.moves.auto_zoom.font().pixelSize() >= 15  # 12 px as drawn
    for box in (aim.moves.centre_x, aim.moves.centre_y, aim.moves.zoom):
        assert isinstance(box, QDoubleSpinBox)
        box.setValue(box.maximum())
        assert box.width() >= box.fontMetrics().horizontalAdvance(box.text()) + PADDING, box.text()
    names = list(aim.people._names.values())
    assert names
    for label in names:
        label.setText("Person 88")
        assert label.width() >= label.fontMetrics().horizontalAdvance("Person 88")
    for button in large.film.buttons.values():
        assert button.width() >= button.fontMetrics().horizontalAdvance(button.text()) + PADDING


def test_buttons_hold_their_words_at_any_size(large):
    for view in ("Board", "Aim", "Words", "Batch"):
        large.film.show_view(view)
        QApplication.processEvents()
        for button in large.film.views[view].findChildren(QPushButton):
            if button.isVisible() and button.text():
                assert button.width() >= min(
                    button.sizeHint().width(), button.minimumSizeHint().width()), button.text()


@pytest.mark.parametrize("size", [(853, 533), (960, 540), (1024, 700)])
def test_every_control_can_be_reached_on_a_small_screen(window, size):
    """1280 x 800 at 150 %, 1920 x 1080 at 200 % (by arithmetic), and 1024 x 700."""
    window.resize(*size)
    for name, view in ((name, window.film.views) for name in ("Board", "Aim", "Words", "Batch")):
        window.film.show_view(name)
        QApplication.processEvents()
        assert (window.width(), window.height()) == size  # no view makes it larger
        shown, holder = view[name], window.film.stack.currentWidget()
        assert shown.width() >= shown.minimumSizeHint().width()
        reached = holder.viewport().width() + holder.horizontalScrollBar().maximum()
        scrolled = [button for area in shown.findChildren(QAbstractScrollArea)
                    for button in area.findChildren(QPushButton)]  # each in a list of its own
        for button in shown.findChildren(QPushButton):
            if button.isVisibleTo(shown) and button not in scrolled:
                at = button.mapTo(shown, button.rect().bottomRight())
                assert at.x() < reached, (name, button.text())
                assert at.y() < holder.viewport().height() + holder.verticalScrollBar().maximum()


def test_painted_words_fit_their_places_with_larger_words(large, truth, monkeypatch):
    """By the metrics of the font that each is painted in; what wraps or is shortened has its room.
    """
    cut, seen = [], set()
    paint = QPainter.drawText

    def draw(painter, *given):
        place = next((each for each in given if isinstance(each, QRectF | QRect)), None)
        text = next((each for each in given if isinstance(each, str)), "")
        metrics, wraps = painter.fontMetrics(), Qt.TextFlag.TextWordWrap in given
        seen.add(text)
        if place is not None and not wraps and (
                metrics.ascent() + metrics.descent() > place.height() + 1
                or metrics.horizontalAdvance(text) > place.width() + 1):
            cut.append((text, metrics.height(), metrics.horizontalAdvance(text), place))
        return paint(painter, *given)

    session = large.film.session
    shot = next(i for i, row in enumerate(truth["shots"]) if "talk" in row["name"])
    large.film.words.cue_actions.take_in(DEMO.with_suffix(".srt"))
    session.show_zones(replace(session.zones, covers=True, clear=True, thumbnail=True))
    with monkeypatch.context() as watched:
        watched.setattr(QPainter, "drawText", draw)
        for view in ("Board", "Aim", "Words", "Batch"):
            large.film.show_view(view)
            session.go(session.analysis.shots[shot].start + 20)
            settled(session)
            QApplication.processEvents()
            large.grab()
    assert len(seen) > 30
    assert cut == []
