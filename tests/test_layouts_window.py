"""Layouts in the window: chosen from pictures, offered beside a flag, set for many cells, undone;
and on the command line."""

import av
import numpy as np
import pytest
from PySide6.QtCore import Qt

from caracal.cli.main import main
from caracal.core.layout.kinds import KINDS, whole_plain, whole_soft
from caracal.core.layout.model import PlainBackdrop, SoftBackdrop
from caracal.core.resources import DEMO_FILM
from conftest import settled

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def aim(window):
    window.film.show_view("Aim")
    session = window.film.session
    session.choose_version("A")
    session.go(session.analysis.shots[0].poster_frame)
    settled(session)
    return window.film.aim


def _layout(session, letter="A", shot=0):
    return session.project.choice(letter, shot).layout


def test_a_layout_is_taken_by_a_click_on_its_picture(aim, window, qtbot):
    session, button = window.film.session, aim.layouts
    button.menu().aboutToShow.emit()
    cards = button.cards
    assert cards.size() == cards.sizeHint()  # names and all
    qtbot.mouseClick(cards, LEFT, pos=cards.rects()[1].center().toPoint())
    assert _layout(session) == whole_soft() and "whole, soft" in button.text()
    settled(session)
    assert not session.flags("A", 0) and session.flags("B", 0)  # nothing is cut in A any more
    assert "All of the picture" in button.words.text()
    # 1080 pixels wide, 607.5 high, of 1920: 32 %.
    assert "32%" in button.words.text()
    button.blur.setValue(10)
    assert _layout(session).backdrop == SoftBackdrop(0.1, 0.4)
    session.undo()
    session.undo()
    assert _layout(session).kind == "fill"


def test_the_key_takes_the_next_one_and_a_colour_is_given(aim, window, qtbot):
    session = window.film.session
    for _ in range(2):
        qtbot.keyClick(window, Qt.Key.Key_Y)
    assert _layout(session) == whole_plain()
    aim.layouts.set_colour("#445566")
    assert _layout(session) == whole_plain(PlainBackdrop("#445566"))
    qtbot.keyClick(window, Qt.Key.Key_Y)
    assert _layout(session).kind == "stack"
    qtbot.keyClick(window, Qt.Key.Key_Y)
    assert _layout(session).kind == "fill"


def test_it_is_offered_where_words_are_cut(aim, window, qtbot):
    session = window.film.session
    assert aim.numbers.whole.isVisible()
    qtbot.mouseClick(aim.numbers.whole, LEFT)
    settled(session)
    assert _layout(session) == whole_soft() and not aim.numbers.whole.isVisible()
    talker = next(i for i in range(len(session.analysis.shots)) if not session.flags("A", i)
                  and i)
    session.go(session.analysis.shots[talker].poster_frame)
    assert not aim.numbers.whole.isVisible()


def test_the_canvas_and_the_stage_show_it(aim, window, qtbot):
    session = window.film.session
    aim.layouts.take(KINDS[2])
    session.path("A", 0)
    settled(session)
    at, rect = session.frame, aim.canvases.rects()[0]
    canvas = (round(rect.width()), round(rect.height()))
    qtbot.waitUntil(lambda: session.preview.get("A", at, canvas) is not None, timeout=10_000)
    image = session.preview.get("A", at, canvas)
    dark = image.pixelColor(canvas[0] // 2, 4)
    assert max(abs(a - b) for a, b in zip(dark.getRgb()[:3], (0x1C, 0x1A, 0x18), strict=True)) <= 2
    outline = aim.stage._outline("A").boundingRect()
    assert abs(outline.width() - aim.stage.picture().width()) <= 3


def test_many_cells_get_one_layout(window):
    film, session = window.film, window.film.session
    film.show_view("Board")
    film.board.grid.select((("A", 0), ("B", 0), ("C", 2)))
    film.board.bar.layouts.activated.emit(2)
    assert [_layout(session, *cell).kind for cell in (("A", 0), ("B", 0), ("C", 2))] == [
        "whole, soft"] * 3
    session.undo()
    assert _layout(session, "C", 2).kind == "fill"


def test_the_command_line_lays_a_film_out(tmp_path, capsys):
    assert main(["convert", str(DEMO_FILM), "--spec", "vertical-short", "--out", str(tmp_path),
                 "--to", "3.2", "--layout", "whole-plain"]) == 0
    (file,) = tmp_path.glob("*.mp4")
    with av.open(str(file)) as container:
        picture = next(container.decode(video=0)).to_ndarray(format="rgb24")
    # The picture lies in 1080 x 608 in the middle; 1920 / 2 - 304 = 656 rows above it are plain.
    assert np.abs(picture[20:640].astype(int) - (0x1C, 0x1A, 0x18)).mean() < 3
    assert picture[700:1200].std() > 20
    assert main(["convert", str(DEMO_FILM), "--spec", "wide", "--out", str(tmp_path),
                 "--layout", "collage"]) == 2
    assert "no layout called “collage”" in capsys.readouterr().err
