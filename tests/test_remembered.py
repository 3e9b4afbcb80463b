"""What a window finds again, and what was said."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QAccessible, QWheelEvent
from PySide6.QtWidgets import QApplication

from caracal.ui.board.cell_size import laid_out, next_rows
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
    film.board.grid.rows_shown = 2.0
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
    assert film.board.grid.rows_shown == 2.0
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

    for _ in range(6):
        turn(-1)
    small = grid.cell_rect(0, 1).height()
    assert small < before * 0.6
    for _ in range(3):
        turn(1)
    bar = grid.verticalScrollBar()
    bar.setValue(round(3 * (grid.cell_rect(1, 1).top() - grid.cell_rect(0, 1).top())))
    top = grid.cell_rect(3, 1).top()
    turn(1)
    assert abs(grid.cell_rect(3, 1).top() - top) <= 1  # the shot on top stays there
    turn(-1)
    assert small < grid.cell_rect(0, 1).height() < before


def test_pictures_of_the_board_grow_with_the_window():
    """By arithmetic: 3.3 rows of a window 1300 high leave 1260 / 3.3 - 22 - 16 = 343.8 each."""
    ratios = [16 / 9, 9 / 16, 1.0, 4 / 5]
    high, columns = laid_out(2468, 1300, ratios, 3.3)
    assert high == 342.0 and columns[0][1] == 608.0  # even numbers of pixels
    assert columns[-1][0] + columns[-1][1] <= 2468
    narrow, _ = laid_out(1188, 2000, ratios, 3.3)
    assert narrow * sum(ratios) <= 1188 - 232  # as wide as the window allows
    assert next_rows(3.3, larger=True) < 3.3 < next_rows(3.3, larger=False)
    assert next_rows(1.0, larger=True) == 1.0 and next_rows(12.0, larger=False) == 12.0


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
