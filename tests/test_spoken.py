"""Painted views through QAccessible, as assistive technology asks for them."""

import gc

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)
from shiboken6 import isValid

from caracal.core.framing.choice import Keyframe
from caracal.core.project.keyframe_edits import with_keyframe
from caracal.ui.sheets.window import SheetWindow
from caracal.ui.shell.accessibility import install_accessibility
from conftest import settled

NAME, VALUE = QAccessible.Text.Name, QAccessible.Text.Value


@pytest.fixture
def session(window):
    install_accessibility()
    window.film.show_view("Aim")
    window.film.session.choose_version("A")
    return settled(window.film.session)


def asked(widget):
    """What Qt answers for a widget, and the names of its children."""
    found = QAccessible.queryAccessibleInterface(widget)
    gc.collect()  # nothing of it hangs on Python alone
    return found, [found.child(i).text(NAME) for i in range(found.childCount())]


def test_every_cell_of_the_board_has_a_role_a_name_a_place_and_a_state(window, session):
    window.film.show_view("Board")
    grid, shots = window.film.board.grid, len(session.analysis.shots)
    grid.select((("B", 1),))
    board, names = asked(grid)
    assert board.role() == QAccessible.Role.Table and len(names) == shots * 3
    assert names[0].startswith("Shot 1, A, ") and names[4].startswith("Shot 2, B, ")
    flagged = [name for name in names if "issues: " in name]
    assert flagged and len(flagged) == sum(
        bool(session.flags(letter, shot)) for shot in range(shots) for letter in "ABC")
    cell = board.child(4)
    assert cell.role() == QAccessible.Role.Cell and cell.parent() is not None
    assert cell.state().selected and not board.child(3).state().selected
    middle = grid.mapToGlobal(grid.cell_rect(1, 2).center().toPoint())
    assert cell.rect().contains(middle) and board.childAt(middle.x(), middle.y()) is cell
    assert board.indexOfChild(cell) == 4 and board.child(shots * 3) is None


def test_the_film_line_tells_shots_and_where_the_film_is(window, session):
    session.go(30)
    line, names = asked(window.film.line)
    assert line.role() == QAccessible.Role.Slider and line.text(VALUE) == "00:00:01:05"
    assert len(names) == len(session.analysis.shots)
    assert names[0].startswith("Shot 1, 00:00:00:00 to ")
    session.go(session.analysis.shots[2].start)
    assert line.child(2).state().selected and not line.child(0).state().selected


def test_canvases_subjects_and_keyframes_are_told(window, session, truth):
    aim = window.film.aim
    shot = next(i for i, row in enumerate(truth["shots"]) if "two talkers" in row["name"]
                or "talk" in row["name"])
    session.go(session.analysis.shots[shot].start + 20)
    settled(session)
    _, canvases = asked(aim.canvases)
    assert [name.split(",")[0] for name in canvases] == ["Version A", "Version B", "Version C"]
    stage, subjects = asked(aim.stage)
    assert len(subjects) == len(session.people.subjects(shot)) and sum(
        "leads" in name for name in subjects) == 1
    assert stage.role() == QAccessible.Role.Graphic
    strip, keys = asked(aim.strip)
    assert keys == []
    session.edit(with_keyframe(session.project, "A", shot, Keyframe(session.frame, (900.0, 540.0))),
                 "set")
    _, keys = asked(aim.strip)
    (name,) = keys
    assert name.startswith("Keyframe at 00:00:") and name.endswith("eased")
    where = aim.strip.mapToGlobal(aim.strip.point_of(aim.strip.keys[0]).toPoint())
    assert strip.child(0).rect().contains(where)
    session.document.undo()
    assert strip.childCount() == 0 and not strip.part(0)


def test_zones_of_a_sheet_are_told_with_their_numbers(qtbot, qapp, tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path / "config"))
    install_accessibility()
    made = SheetWindow("vertical-short")
    qtbot.addWidget(made)
    made.show()
    made._choose_zone(("clear", 0))
    drawing, names = asked(made.drawing)
    clear = next(i for i, name in enumerate(names) if name.startswith("clear area: "))
    assert "20.0% from above, 88.0% wide" in names[clear]
    assert [drawing.child(i).state().selected for i in range(len(names))] == [
        i == clear for i in range(len(names))]
    corner = drawing.rect().topLeft()
    assert corner == made.drawing.mapToGlobal(QPoint(0, 0))


def test_what_is_told_goes_with_its_window(qtbot, qapp, window, session):
    """Asking after a film was closed neither fails nor finds anything."""
    line = window.film.line
    found, names = asked(line)
    assert names
    window.close_film()
    qapp.processEvents()
    qtbot.waitUntil(lambda: not isValid(found))  # once its threads have ended
    assert asked(window)[0].isValid()


def test_every_field_of_every_view_has_a_name(window, session):
    """What cannot be named by what is written on it has a name of its own."""
    kinds = (QLineEdit, QPlainTextEdit, QAbstractSpinBox, QComboBox, QAbstractItemView,
             QAbstractButton)
    without, count = [], 0
    for view in ("Board", "Aim", "Words", "Batch"):
        window.film.show_view(view)
        if view == "Words":
            for page in window.film.words.side.tabs:
                window.film.words.show_page(page)
        for field in window.film.views[view].findChildren(QWidget):
            above = field.parentWidget()
            inner = isinstance(above, (QAbstractSpinBox, QComboBox, QAbstractItemView)) or (
                above is not None and "Private" in type(above).__name__)
            if not isinstance(field, kinds) or inner or field.window() is not window:
                continue
            count += 1
            if not QAccessible.queryAccessibleInterface(field).text(NAME).strip():
                without.append((view, type(field).__name__, field.objectName(), field.toolTip()))
    assert count > 150 and not without, without
