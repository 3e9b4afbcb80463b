"""The side: nothing is cut, labels and controls stand on one edge each, pages are remembered."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QPushButton

from caracal.core.layout.kinds import KINDS
from caracal.core.layout.overlay import ShapeKind
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import LABEL_WIDE, Fold, Form

SIZES = [(996, 540, 1.0), (1280, 800, 1.0), (1280, 800, 1.5), (1920, 1080, 1.0),
         (3840, 2160, 1.0), (3840, 2160, 1.5)]  # pixels, and how large the system's words are


@pytest.fixture(params=SIZES, ids=lambda size: f"{size[0]}x{size[1]} {size[2]}")
def window_of_a_size(request, qapp):
    *size, scale = request.param
    if scale != 1.0:
        theme.dress(qapp, scale)  # before the window is made
        request.addfinalizer(lambda: theme.dress(qapp, 1.0))
    window = request.getfixturevalue("window")
    window.resize(*size)
    window.film.session.go(window.film.session.analysis.shots[5].poster_frame)
    window.film.show_view("Aim")
    window.film.aim.layouts.take(KINDS[4])
    window.film.aim.overlays.add_shape(ShapeKind.CIRCLE)
    window.film.words.cue_actions.add()
    window.film.words.titles.add("Headline")
    return window


def all_of(widget, *kinds):
    return [child for kind in kinds for child in widget.findChildren(kind)]


def pages(window, qtbot):
    """Every page of both sides, shown with all its folds open."""
    for name, view in (("Aim", window.film.aim), ("Words", window.film.words)):
        window.film.show_view(name)
        for page in view.side.tabs:
            view.side.show_page(page)
            holder = view.side.stack.currentWidget()
            for fold in holder.findChildren(Fold):
                fold.button.setChecked(True)
            qtbot.wait(30)
            qtbot.waitUntil(lambda side=view.side, holder=holder: (
                holder.minimumSizeHint().width() <= side.width()))  # it is laid out
            yield f"{name} {page}", view.side, holder


def test_no_words_are_wider_than_their_widget(window_of_a_size, qtbot):
    cut = []
    for page, side, _ in pages(window_of_a_size, qtbot):
        for widget in all_of(side, QPushButton, QCheckBox, QLabel):
            if not widget.isVisible() or not widget.text() or (
                    isinstance(widget, QLabel) and widget.wordWrap()):
                continue
            needed = widget.fontMetrics().horizontalAdvance(widget.text().replace("&", ""))
            if widget.width() < needed:
                cut.append((page, widget.text(), widget.width(), needed))
    assert cut == []


def test_nothing_stands_beyond_the_right_edge(window_of_a_size, qtbot):
    beyond = []
    for page, side, holder in pages(window_of_a_size, qtbot):
        for widget in all_of(holder, QPushButton, QCheckBox, QComboBox):
            if widget.isVisible() and widget.mapTo(side, QPoint(widget.width(), 0)).x() > (
                    side.width()):
                beyond.append((page, widget.objectName(), widget.toolTip()[:40]))
    assert beyond == []


def test_labels_and_controls_have_one_left_edge_each(window_of_a_size, qtbot):
    for page, side, holder in pages(window_of_a_size, qtbot):
        lefts, columns = set(), set()
        for form in holder.findChildren(Form):
            if not form.isVisible():
                continue
            lefts.add(form.mapTo(side, QPoint(0, 0)).x())
            grid = form.layout()
            columns |= {grid.cellRect(row, 1).x() for row in range(grid.rowCount())
                        if grid.cellRect(row, 1).width() > 0}
        assert len(lefts) <= 1 and len(columns) <= 1, (page, lefts, columns)
        assert all(column >= theme.scaled(LABEL_WIDE) for column in columns)


def test_tabs_are_one_group_and_reached_by_tab_and_arrows(window, qtbot, qapp):
    from caracal.ui.widgets.focus_policy import focus_first

    focus_first(qapp)
    window.film.show_view("Aim")
    window.activateWindow()
    side, session = window.film.aim.side, window.film.session
    side.show_page("Who")
    side.tabs["Who"].setFocus(Qt.FocusReason.TabFocusReason)
    qtbot.waitUntil(side.tabs["Who"].hasFocus)
    frame = session.frame
    qtbot.keyClick(side.tabs["Who"], Qt.Key.Key_Right)
    assert session.frame == frame  # arrows in a group of buttons do not move the film
    assert side.tabs["Move"].hasFocus() and side.tabs["Move"].isChecked()
    assert side.page == "Move"


def test_a_dot_takes_back_what_was_changed(window, qtbot):
    window.film.show_view("Aim")
    aim, session = window.film.aim, window.film.session
    aim.side.show_page("Layout")
    aim.layouts.take(KINDS[1])
    qtbot.waitUntil(aim.layouts.isVisible)
    aim.layouts.sync()
    row = aim.layouts._rows["Blur"]
    before = aim.layouts.amounts["Blur"].value()
    assert row.dot.isHidden()
    aim.layouts.amounts["Blur"].setValue(before + 4)
    aim.layouts.sync()
    assert not row.dot.isHidden()
    row.dot.click()
    aim.layouts.sync()
    assert aim.layouts.amounts["Blur"].value() == before and row.dot.isHidden()
    assert session.project.choice("A", session.shot).layout == KINDS[1].make(
        session.sheet("A").frame)


def test_the_canvas_and_the_master_change_places(window, qtbot):
    window.film.show_view("Aim")
    window.activateWindow()
    aim = window.film.aim
    window.film.session.choose_version("B")
    before = aim.canvases.rects()[1].height()
    qtbot.keyClick(window, Qt.Key.Key_Z)
    qtbot.wait(50)
    (rect,) = aim.canvases.rects()  # the chosen version alone
    assert rect.height() > 1.5 * before and aim.stage.isVisible()
    assert aim.stage.height() < aim.canvases.height()
    qtbot.keyClick(window, Qt.Key.Key_Z)
    qtbot.wait(50)
    assert len(aim.canvases.rects()) == 3 and aim.stage.width() > aim.canvases.width()
    assert aim.minimumSizeHint().height() <= 660  # nothing is as high as no window
    assert 198 < aim.stage.height() < aim.height()


def test_page_and_width_are_remembered(window, tmp_path):
    from caracal.ui.aim.registration import AIM

    window.film.show_view("Aim")
    aim = window.film.aim
    aim.side.show_page("Finish")
    aim.halves.setSizes([500, 640])
    width = aim.side.width()
    AIM.keep(window.settings, aim)
    aim.side.show_page("Who")
    aim.halves.setSizes([660, 480])
    AIM.recall(window.settings, aim)
    assert aim.side.page == "Finish" and aim.side.width() == width
