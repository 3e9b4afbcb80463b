"""The real interface on the demo film, driven offscreen; and once in a real window under Xvfb."""

import os
import re
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QWidget

from caracal.core.base.resources import DEMO_FILM
from caracal.core.project.shots import split_at
from caracal.ui.board.tile_layout import LARGE
from caracal.ui.services.recent import recent
from caracal.ui.shell.demo_film import open_demo
from caracal.ui.shell.main_window import MainWindow
from caracal.ui.widgets import film_line
from caracal.ui.widgets.cached_painting import Layer
from caracal.ui.widgets.picture_paint import canvas_of
from conftest import settled, solved


def _shot_named(truth, name):
    return next(i for i, shot in enumerate(truth["shots"]) if shot["name"] == name)


def test_two_clicks_give_a_wrong_shot_another_lead(window, qtbot, truth):
    """A click on the Board's row, key 2, and a click on the other talker."""
    session, film = window.film.session, window.film
    two = _shot_named(truth, "two talkers")
    session.go(session.analysis.shots[two].start)
    place = film.board.grid.cell_rect(two, 1).center().toPoint()
    qtbot.mouseClick(film.board.grid.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert session.shot == two and session.letter == "A"
    qtbot.keyClick(window, Qt.Key.Key_2)
    assert film.view == "Aim"
    before = session.path("A", two)
    other = next(subject for subject in session.people.subjects(two)
                 if subject.kind == "person" and subject.id != before.lead)
    spot = film.aim.stage.place_of(other.box_at(session.frame)).center().toPoint()
    qtbot.mouseClick(film.aim.stage, Qt.MouseButton.LeftButton, pos=spot)
    after = solved(session, "A", two)
    assert after.lead == other.id and abs(after.windows[0, 0] - before.windows[0, 0]) > 300
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert solved(session, "A", two).lead == before.lead


def test_dragging_the_window_sets_a_keyframe(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    session.go(session.analysis.shots[_shot_named(truth, "marsh")].start + 10)
    stage, shot = film.aim.stage, session.shot
    lit = stage.place_of(session.window("A", session.frame)).center().toPoint()
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=lit)
    qtbot.mouseMove(stage, lit + QPoint(-60, 0))
    qtbot.mouseMove(stage, lit + QPoint(-90, 0))
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=lit + QPoint(-90, 0))
    (key,) = session.project.choice("A", shot).keyframes
    x, _, w, _ = settled(session).window("A", session.frame)
    assert key.frame == session.frame and x + w / 2 == pytest.approx(key.centre[0], abs=0.1)
    assert film.aim.moves.manners[session.project.choice("A", shot).manner].isChecked()


def test_manner_buttons_and_back_to_automatic(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    runner = _shot_named(truth, "runner")
    session.go(session.analysis.shots[runner].start)
    locked = next(b for m, b in film.aim.moves.manners.items() if m == "locked")
    qtbot.mouseClick(locked, Qt.MouseButton.LeftButton)
    assert solved(session, "A", runner).still and session.flags("A", runner)
    qtbot.mouseClick(film.aim.moves.automatic, Qt.MouseButton.LeftButton)
    assert not solved(session, "A", runner).still


def test_keys_play_step_and_set_the_range(window, qtbot):
    session = window.film.session
    qtbot.keyClick(window, Qt.Key.Key_Right)
    qtbot.keyClick(window, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert session.frame == 11
    qtbot.keyClick(window, Qt.Key.Key_I)
    qtbot.keyClick(window, Qt.Key.Key_Down)
    qtbot.keyClick(window, Qt.Key.Key_O)
    assert (session.project.span.start, session.shot) == (11, 1)
    qtbot.keyClick(window, Qt.Key.Key_L)
    at = session.frame
    qtbot.waitUntil(lambda: session.frame > at + 3, timeout=5000)
    qtbot.keyClick(window, Qt.Key.Key_K)
    assert session.speed == 0


def test_hovering_the_board_scrubs_and_pictures_arrive(window, qtbot):
    film, session = window.film, window.film.session
    film.board.grid.picture_size = LARGE  # with the master
    rect = film.board.grid.cell_rect(1, 0)
    with qtbot.waitSignal(session.preview.arrived, timeout=10_000):
        qtbot.mouseMove(film.board.grid.viewport(), rect.topLeft().toPoint() + QPoint(40, 30))
    telling = session.analysis.shots[1].poster_frame
    canvas = canvas_of(rect, 1.0)
    qtbot.waitUntil(lambda: session.preview.get("", telling, canvas) is not None, timeout=10_000)
    assert not window.grab().isNull()


def test_a_bad_file_is_told_on_the_start_page(qtbot, qapp, tmp_path):
    made = MainWindow(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made)
    bad = tmp_path / "notes.mp4"
    bad.write_text("no movie")
    made.open_film(bad)
    qtbot.waitUntil(lambda: "notes.mp4" in made.start.problem.text(), timeout=10_000)
    qtbot.waitUntil(lambda: made.analysing is None, timeout=10_000)
    assert made.start.open_button.isEnabled()


REAL = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from caracal.core.base.resources import DEMO_FILM
from caracal.ui.shell import application
from caracal.ui.shell.main_window import MainWindow

shown = MainWindow.showEvent
def show(window, event):
    shown(window, event)
    timer = QTimer(window)
    timer.timeout.connect(lambda: look(window))
    timer.start(200)
MainWindow.showEvent = show

def look(window):
    if window.film is not None and window.isVisible():
        print(QApplication.instance().platformName(), window.isVisible(), window.film.view)
        window.close()

sys.exit(application.run(DEMO_FILM))
"""


def test_a_real_window_under_xvfb(demo, tmp_path):
    environment = {**{k: v for k, v in os.environ.items() if k != "QT_QPA_PLATFORM"},
                   "XDG_CONFIG_HOME": str(tmp_path)}
    told = subprocess.run(
        ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", sys.executable, "-c", REAL],
        capture_output=True, text=True, timeout=120, check=True, env=environment)
    assert told.stdout.split() == ["xcb", "True", "Board"]


def test_the_film_line_goes_scrubs_and_zooms(window, qtbot):
    session, line = window.film.session, window.film.line
    qtbot.mouseClick(line, Qt.MouseButton.LeftButton, pos=QPoint(line.width() // 2, 40))
    assert abs(session.frame - 750) < 4
    qtbot.mousePress(line, Qt.MouseButton.LeftButton, pos=QPoint(100, 40))
    qtbot.mouseMove(line, QPoint(line.width() - 14, 40))
    qtbot.mouseRelease(line, Qt.MouseButton.LeftButton, pos=QPoint(line.width() - 14, 40))
    assert session.frame <= 1499


def test_pictures_that_come_for_shots_that_are_gone_are_left_out(window, qapp):
    """A split that was undone before its picture came: its shot had no place any more."""
    session, line = window.film.session, window.film.line
    session.edit(split_at(session.analysis, session.project, 40), "split")
    line.grab()
    last = len(session.analysis.shots) - 1
    frame = session.analysis.shots[last].poster_frame
    session.document.undo()
    line._missing, line._came = {frame: last}, [frame]
    line._fill_in()
    line.grab()
    assert last == len(session.analysis.shots)


def test_a_painter_is_ended_whatever_goes_wrong_while_it_paints(qapp):
    """A widget that goes while something still paints on it ends the process."""
    widget = QWidget()
    layer = Layer(widget)

    def wrong(_: QPainter) -> None:
        raise LookupError("wrong")

    made = QPixmap(9, 9)
    with QPainter(made) as p, pytest.raises(LookupError):
        layer.paint(p, "a", wrong)
    assert not layer._picture.paintingActive()
    source = Path(sys.modules["caracal.ui"].__file__).parent
    alone = [str(path) for path in source.rglob("*.py")
             if re.search(r"= QPainter\(", path.read_text())]
    assert alone == []


def test_clicking_a_canvas_chooses_that_version(window, qtbot):
    film, session = window.film, window.film.session
    film.show_view("Aim")
    middle = film.aim.canvases.rects()[2].center().toPoint()
    qtbot.mouseClick(film.aim.canvases, Qt.MouseButton.LeftButton, pos=middle)
    assert session.letter == "C"


def test_double_click_on_the_board_opens_aim(window, qtbot):
    film = window.film
    place = film.board.grid.cell_rect(1, 2).center().toPoint()
    qtbot.mouseDClick(film.board.grid.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert film.view == "Aim"


def test_pictures_put_into_the_film_line_one_by_one_look_as_if_painted_at_once(
        window, qtbot, monkeypatch):
    monkeypatch.setattr(film_line, "FIRST_S", 60.0)  # at once, however slow the machine is
    line, preview = window.film.line, settled(window.film.session).preview
    frames = [shot.poster_frame for shot in window.film.session.analysis.shots]
    qtbot.waitUntil(lambda: all(line._thumb(at) is not None for at in frames), timeout=20_000)
    line._ground = Layer(line)
    at_once = line.grab().toImage()
    later, preview.later = preview.later, lambda *wish: None
    line._ground, line._thumbs = Layer(line), {}
    empty = line.grab().toImage()
    assert empty != at_once and len(line._missing) == len(frames)
    preview.later = later
    for frame in reversed(frames):
        preview.arrived.emit(frame)
    qtbot.waitUntil(lambda: not line._missing and not line._came, timeout=20_000)
    assert line.grab().toImage() == at_once


def test_the_ends_of_the_range_are_dragged_on_the_film_line(window, qtbot):
    session, line = window.film.session, window.film.line
    for at, frame, wanted in ((0, 300, (300, 1500)), (1500, 900, (300, 900))):
        spot, there = (QPoint(round(line.place_of(number)), 80) for number in (at, frame))
        qtbot.mousePress(line, Qt.MouseButton.LeftButton, pos=spot)
        qtbot.mouseMove(line, (spot + there) / 2)
        qtbot.mouseMove(line, there)
        qtbot.mouseRelease(line, Qt.MouseButton.LeftButton, pos=there)
        span = session.project.span
        assert (span.start, span.end_exclusive) == pytest.approx(wanted, abs=2)
    session.document.undo()
    session.document.undo()
    assert len(session.project.span) == 1500


def test_a_range_too_short_is_said_before_start(window, qtbot):
    film = window.film
    qtbot.keyClick(window, Qt.Key.Key_O)
    film.show_view("Batch")
    film.batch.start()
    assert film.batch.added() == []
    film.batch.versions.plan.finish()
    assert any("below the" in concern.sentence for concern in film.batch.versions.plan.concerns)
    qtbot.keyClick(window, Qt.Key.Key_X, Qt.KeyboardModifier.ShiftModifier)
    film.batch.versions.plan.finish()
    assert not any(concern.stops for concern in film.batch.versions.plan.concerns)


def test_view_folder_and_recent_are_remembered(window, qtbot, demo):
    window.film.show_view("Aim")
    window.close_film()
    assert window.settings.value("view") == "Aim" and recent(window.settings) == [DEMO_FILM]
    assert window.film is None and window.isVisible()


def test_a_small_window_holds_every_view(window, qtbot):
    """996 by 540 pixels with the dressed demo, whose versions, captions and concerns fill it."""
    open_demo(window)
    qtbot.waitUntil(lambda: window.film is not None and len(
        window.film.session.project.versions) == 4, timeout=30_000)
    for name in ("Board", "Aim", "Words", "Batch"):
        window.film.show_view(name)
        qtbot.wait(50)
    window.film.session.choose_version("D")
    for page in window.film.words.side.tabs:
        window.film.words.show_page(page)
    assert window.film.words.minimumSizeHint().width() > 700  # it is these that need the room
    window.resize(996, 540)
    for name in ("Board", "Aim", "Words", "Batch"):
        window.film.show_view(name)
        qtbot.wait(50)
        holder = window.film.stack.currentWidget()
        assert (holder.horizontalScrollBar().maximum(), holder.verticalScrollBar().maximum()) == (
            0, 0), (name, window.film.views[name].minimumSizeHint(), holder.size())
