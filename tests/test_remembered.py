"""What a window finds again, and what was said."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QAccessible, QWheelEvent
from PySide6.QtWidgets import QApplication

from caracal.ui.board.tile_layout import flow
from conftest import open_window


def test_a_film_opens_where_it_was_left_and_looks_as_it_did(window, qtbot, qapp, tmp_path):
    film = window.film
    film.show_view("Batch")
    film.batch.replace.setChecked(True)
    film.batch.versions._ticked(1, False)
    film.batch.halves.setSizes([500, 300])
    sizes = film.batch.halves.sizes()
    versions, lines = film.batch.versions.table, film.batch.lines.table
    lines.horizontalHeader().resizeSection(0, 111)
    versions.horizontalHeader().resizeSection(2, 77)
    shape = versions.columnWidth(1)
    film.board.bar.order.setCurrentIndex(1)
    film.board.bar.only.setCurrentIndex(1)
    film.board.grid.picture_size = 96
    film.session.choose_version("C")
    film.session.go(777)
    film.line.stretch = (700.0, 200.0)
    window.close()
    again = open_window(qtbot, qapp, tmp_path)
    film, session = again.film, again.film.session
    assert (session.letter, session.frame, film.view) == ("C", 777, "Batch")
    assert film.line.stretch == (700.0, 200.0)
    assert film.batch.replace.isChecked() and not film.batch.review.isChecked()
    assert film.batch.versions.plan.off == {"B"}
    assert film.batch.halves.sizes() == pytest.approx(sizes, rel=0.02)  # as the window has room
    versions, lines = film.batch.versions.table, film.batch.lines.table
    assert lines.columnWidth(0) == 111 and versions.columnWidth(2) == 77
    film.batch.versions._typed(0, 2, "A name that is longer than its column")
    assert versions.columnWidth(2) == 77  # it stays as a person made it
    assert versions.columnWidth(1) == pytest.approx(shape, abs=2)  # and others fit what they hold
    assert film.board.bar.order.currentIndex() == film.board.bar.only.currentIndex() == 1
    assert film.board.grid.picture_size == 96
    again.close_film()
    assert again.start.recent.item(0).text().startswith("kiln-day")  # it is current
    again.close()


def test_ctrl_and_the_wheel_make_cells_larger_and_smaller(window):
    window.film.show_view("Board")
    grid, before = window.film.board.grid, window.film.board.grid.cell_rect(0, 1).height()

    def turn(notches):
        QApplication.sendEvent(grid.viewport(), QWheelEvent(
            QPointF(200, 200), QPointF(200, 200), QPoint(), QPoint(0, 120 * notches),
            Qt.MouseButton.NoButton, Qt.KeyboardModifier.ControlModifier,
            Qt.ScrollPhase.NoScrollPhase, False))

    for _ in range(9):
        turn(-1)
    assert grid.cell_rect(0, 1).height() == 56 == grid.picture_size
    for size in (72, 96, 116, 140, 180):
        turn(1)
        assert grid.picture_size == size == grid.cell_rect(0, 1).height()
    assert before == 140
    bar = grid.verticalScrollBar()
    first = 2 * grid.across
    bar.setValue(round(grid.layout_of_tiles.place(first)[1]))
    top = grid.cell_rect(first, 1).top()
    turn(-1)
    assert abs(grid.cell_rect(first // grid.across * grid.across, 1).top() - top) <= 1
    window.film.board.bar.tile_size.setValue(0)  # the slider
    assert grid.picture_size == 56


SHAPES = [9 / 16, 1.0, 4 / 5]  # the demo's three versions


def test_tiles_flow_in_as_many_columns_as_fit():
    """By arithmetic: at 140 pixels pictures are 78, 140 and 112 wide, with gaps 342; 16 between
    tiles and 12 at both sides leave (1172 - 24 + 16) / 358 = 3.25 columns at 1280x800."""
    usual = flow(1172, SHAPES, 140)
    assert (usual.wide, usual.across) == (342.0, 3)
    assert usual.place(4) == (12 + usual.step, usual.high)
    assert usual.number_at(*usual.place(4)) == 4
    assert usual.number_at(usual.place(2)[0] + usual.step + 20, 5) is None
    large = flow(1172, SHAPES, 220)
    assert large.pictures[0][1] > large.pictures[2][1]  # the master stands in the tile
    many = flow(700, [16 / 9] * 6, 140)  # as wide as the window allows
    assert many.across == 1 and many.wide <= 700


@pytest.mark.parametrize(("wide", "high", "size", "least"), [
    (1172, 618, 140, 8), (1172, 618, 56, 30), (2452, 1258, 140, 24), (2452, 1258, 56, 100)])
def test_whole_tiles_that_a_window_shows(wide, high, size, least):
    """The Board's room at 1280x800 and 2560x1440, of three versions."""
    layout = flow(wide, SHAPES, size)
    assert int(high // layout.high) * layout.across >= least


def test_the_last_twenty_messages_are_kept_told_and_gone_to(window, qtbot, monkeypatch):
    told = []
    monkeypatch.setattr(QAccessible, "updateAccessibility",
                        lambda event: told.append(getattr(event, "message", lambda: "")()))
    session = window.film.session
    session.choose_version("B")
    session.go(321)
    session.said.emit("Here something was said.")
    assert window.messages.said[0].words == window.statusBar().currentMessage()
    assert "Here something was said." in told
    session.choose_version("A")
    session.go(5)
    for number in range(5):
        session.said.emit(f"Number {number}.")
    qtbot.mouseClick(window.statusBar(), Qt.MouseButton.LeftButton)
    menu = QApplication.activePopupWidget() or window.messages.show_all()
    words = [action.text().replace("&", "") for action in menu.actions()]
    at = next(i for i, text in enumerate(words) if text.endswith("Here something was said."))
    assert at == 5 and words[0].endswith("Number 4.")
    menu.actions()[at].trigger()
    assert (session.letter, session.frame) == ("B", 321)
    menu.close()
    for number in range(40):
        session.said.emit(f"More {number}.")
    assert len(window.messages.said) == 20
