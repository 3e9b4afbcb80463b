"""The Board without a mouse: arrows move a cell, Space and Shift choose, Return opens."""

import pytest
from PySide6.QtCore import Qt

from caracal.ui.widgets import theme
from caracal.ui.widgets.focus_policy import focus_first

NONE, SHIFT, CTRL = (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier,
                     Qt.KeyboardModifier.ControlModifier)


@pytest.fixture
def grid(window, qtbot, qapp):
    focus_first(qapp)  # as the program itself does
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.film.show_view("Board")
    grid = window.film.board.grid
    window.film.session.choose_version("A")
    window.film.session.go(0)
    grid.setFocus(Qt.FocusReason.TabFocusReason)
    qtbot.waitUntil(grid.hasFocus)
    return grid


def at(window):
    session = window.film.session
    return session.letter, session.shot


def test_arrows_move_the_cell_and_choose_it(grid, window, qtbot):
    shots = len(window.film.session.analysis.shots)
    assert grid.across == 3
    for key, cell in ((Qt.Key.Key_Down, ("A", 3)), (Qt.Key.Key_Right, ("B", 3)),
                      (Qt.Key.Key_Right, ("C", 3)), (Qt.Key.Key_Right, ("A", 4)),
                      (Qt.Key.Key_Left, ("C", 3)), (Qt.Key.Key_Up, ("C", 0)),
                      (Qt.Key.Key_Up, ("C", 0)), (Qt.Key.Key_End, ("C", shots - 1)),
                      (Qt.Key.Key_Left, ("B", shots - 1)), (Qt.Key.Key_PageUp, ("B", shots - 10)),
                      (Qt.Key.Key_PageDown, ("B", shots - 1)), (Qt.Key.Key_Home, ("B", 0))):
        qtbot.keyClick(grid, key)
        assert at(window) == cell and grid.cells == (cell,)
        rect = grid.cell_rect(cell[1], 1 + "ABC".index(cell[0]))
        assert rect.top() >= 0 and rect.bottom() <= grid.viewport().height()  # it is in sight


def test_shift_extends_ctrl_keeps_and_space_chooses(grid, window, qtbot):
    qtbot.keyClick(grid, Qt.Key.Key_Down, SHIFT)
    qtbot.keyClick(grid, Qt.Key.Key_Right, SHIFT)
    assert set(grid.cells) == {(letter, shot) for letter in "AB" for shot in range(4)}
    for _ in range(2):
        qtbot.keyClick(grid, Qt.Key.Key_Down, CTRL)
    assert at(window) == ("B", 9) and len(grid.cells) == 8
    qtbot.keyClick(grid, Qt.Key.Key_Space)
    assert ("B", 9) in grid.cells and len(grid.cells) == 9
    qtbot.keyClick(grid, Qt.Key.Key_Space)
    assert len(grid.cells) == 8
    qtbot.keyClick(grid, Qt.Key.Key_Escape)
    assert grid.cells == () and not window.film.session.speed  # nothing plays


def test_return_opens_aim_there(grid, window, qtbot):
    qtbot.keyClick(grid, Qt.Key.Key_Down)
    qtbot.keyClick(grid, Qt.Key.Key_Return)
    assert window.film.view == "Aim" and at(window) == ("A", 3)


def test_without_the_keyboard_space_and_arrows_are_the_film_s(grid, window, qtbot):
    session = window.film.session
    rect = grid.cell_rect(1, 1).toRect()
    window.setFocus()
    qtbot.mouseClick(grid.viewport(), Qt.MouseButton.LeftButton, pos=rect.center())
    assert not grid.hasFocus() and at(window) == ("A", 1)
    frame = session.frame
    qtbot.keyClick(window, Qt.Key.Key_Right)
    assert session.frame == frame + 1 and grid.cells == (("A", 1),)


def test_the_cell_is_ringed_and_told(grid, window, qtbot):
    qtbot.keyClick(grid, Qt.Key.Key_Down)
    assert grid.accessibleName().startswith("Shot 4, A, ") and "selected" in grid.accessibleName()
    qtbot.waitUntil(lambda: _ringed(grid, 3, 1), timeout=5_000)
    qtbot.keyClick(grid, Qt.Key.Key_Home)
    assert grid.accessibleName().startswith("Shot 1, A, issues: text cut")
    window.setFocus()
    qtbot.waitUntil(lambda: not _ringed(grid, 0, 1), timeout=5_000)


def _ringed(grid, shot, column):
    """Whether two pixels beside the cell's left edge are the ring's."""
    rect, image = grid.cell_rect(shot, column), grid.viewport().grab().toImage()
    scale = image.devicePixelRatio()
    y = round(rect.center().y() * scale)
    beside = [image.pixelColor(round((rect.left() - off) * scale), y).name() for off in (1, 2, 3)]
    return beside.count(theme.WORDS) >= 2


def test_plus_and_minus_change_the_size_of_tiles(grid, window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_Minus)
    assert grid.picture_size == 116 and window.film.board.bar.tile_size.value() == 3
    qtbot.keyClick(window, Qt.Key.Key_Plus)
    assert grid.picture_size == 140


def test_the_card_under_the_pointer_goes_with_its_view(grid, window, qtbot):
    qtbot.mouseMove(grid.viewport(), grid.cell_rect(0, 1).center().toPoint())
    qtbot.waitUntil(grid._card.isVisible, timeout=5_000)
    window.film.show_view("Words")
    assert not grid._card.isVisible()


def test_a_double_click_with_ctrl_leaves_the_selection(grid, window, qtbot):
    place = grid.cell_rect(4, 2).center().toPoint()
    qtbot.mouseClick(grid.viewport(), Qt.MouseButton.LeftButton, CTRL, place)
    before = grid.cells
    qtbot.mouseDClick(grid.viewport(), Qt.MouseButton.LeftButton, CTRL, place)
    assert window.film.view == "Aim" and at(window) == ("B", 4) and ("B", 4) in before
