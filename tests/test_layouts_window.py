"""Layouts in the window: chosen from pictures, offered beside a flag, set for many cells, undone;
and on the command line."""

import av
import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, QRectF, Qt

from caracal.cli.main import main
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.base.resources import DEMO_FILM
from caracal.core.layout.amounts import AMOUNTS
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.kinds import KINDS, kind_called, whole_plain, whole_soft
from caracal.core.layout.model import (
    BlendBackdrop,
    Clip,
    Crop,
    PictureFile,
    PlainBackdrop,
    Role,
    SoftBackdrop,
    Still,
)
from caracal.core.layout.pane_splits import with_gap
from caracal.core.render.assets.checks import refuse_bad_asset
from caracal.ui.canvases.pane_handles import Grip, Hold, dragged, grip_at
from caracal.ui.widgets.backdrop_choice import DRAWN
from caracal.ui.widgets.focus_policy import focus_first
from conftest import drag, settled, solved, write_film

LEFT = Qt.MouseButton.LeftButton


def _layout(session, letter="A", shot=0):
    return session.project.choice(letter, shot).layout


def test_a_layout_is_taken_by_a_click_on_its_picture(aim, window, qtbot):
    session, button = window.film.session, aim.layouts
    aim.side.show_page("Layout")
    cards = button.cards
    qtbot.waitUntil(lambda: cards.height() == cards.sizeHint().height())  # names and all
    qtbot.mouseClick(cards, LEFT, pos=cards.rects()[1].center().toPoint())
    assert _layout(session) == whole_soft() and cards.taken() == 1
    settled(session)
    assert not session.flags("A", 0) and session.flags("B", 0)  # nothing is cut in A any more
    assert "All of the picture" in button.words.text()
    # 1080 pixels wide, 607.5 high, of 1920: 32 %.
    assert "32%" in button.words.text()
    button.amounts["Blur"].setValue(10)
    assert _layout(session).backdrop == SoftBackdrop(0.1, 0.4)
    session.document.undo()
    session.document.undo()
    assert _layout(session).kind == "fill"


def test_the_key_takes_the_next_one_and_a_colour_is_given(aim, window, qtbot):
    session = window.film.session
    for _ in range(2):
        qtbot.keyClick(window, Qt.Key.Key_Y)
    assert _layout(session) == whole_plain()
    aim.layouts.set_colour("#445566")
    assert _layout(session) == whole_plain(PlainBackdrop("#445566"))
    aim.layouts.set_colour("#101820", 1)
    assert _layout(session) == whole_plain(BlendBackdrop("#445566", "#101820"))
    for kind in (*KINDS[3:], KINDS[0]):
        qtbot.keyClick(window, Qt.Key.Key_Y)
        assert _layout(session).kind == kind.name


def test_digits_and_arrows_choose_where_the_pictures_have_the_focus(aim, window, qtbot, qapp):
    focus_first(qapp)  # as the program itself does
    session, cards = window.film.session, aim.layouts.cards
    aim.side.show_page("Layout")
    window.activateWindow()
    cards.setFocus()
    qtbot.waitUntil(cards.hasFocus)
    for digit, name in ((Qt.Key.Key_5, "stack"), (Qt.Key.Key_9, "inset"), (Qt.Key.Key_1, "fill")):
        qtbot.keyClick(cards, digit)
        assert _layout(session).kind == name
    frame = session.frame
    qtbot.keyClick(cards, Qt.Key.Key_Right)
    qtbot.keyClick(cards, Qt.Key.Key_Right)
    qtbot.keyClick(cards, Qt.Key.Key_Space)
    assert _layout(session).kind == KINDS[2].name and session.frame == frame
    assert not session.playing.speed  # Space chose, and did not play


def test_an_inset_is_dragged_and_made_larger_on_the_canvas(aim, window, qtbot):
    session, canvases = window.film.session, aim.canvases
    aim.layouts.take(KINDS[-1])
    session.solution("A", 0)
    settled(session)
    rect = canvases.rects()[0]
    (left, right), (top, bottom) = session.solution("A", 0).placed.panes[1].region

    def at(x, y):
        return QPointF(rect.left() + x * rect.width(), rect.top() + y * rect.height()).toPoint()

    middle = ((left + right) / 2, (top + bottom) / 2)
    drag(qtbot, canvases, at(*middle), at(0.5, 0.5))
    pane = _layout(session).panes[1]
    assert not pane.avoids  # it stays where it was put
    assert sum(pane.region[0]) / 2 == pytest.approx(0.5, abs=0.02)
    assert sum(pane.region[1]) / 2 == pytest.approx(0.5, abs=0.02)
    settled(session)
    (left, right), (top, bottom) = pane.region
    drag(qtbot, canvases, at(right, bottom), at(right + 0.1, bottom))
    wide = _layout(session).panes[1].region[0]
    assert wide[1] - wide[0] == pytest.approx(right - left + 0.2, abs=0.04)
    session.document.undo()
    session.document.undo()  # each drag is one step
    assert _layout(session).panes[1].avoids


def test_where_two_panes_meet_is_dragged_and_snaps_to_a_third():
    layout = KINDS[4].make(FramingSpec(Shape(9, 16), None, (1080, 1920)))
    canvas = QRectF(0, 0, 270, 480)
    assert grip_at(layout, QPointF(100, 240), canvas) is Grip.SPLIT
    assert grip_at(layout, QPointF(100, 200), canvas) is None
    hold = Hold(Grip.SPLIT, "A", layout, (0.4, 0.5))
    made = dragged(hold, (0.4, 0.655), canvas, None)
    assert made.layout.panes[0].region[1][1] == pytest.approx(2 / 3)
    assert made.guides == ((1, pytest.approx(2 / 3)),)
    assert dragged(hold, (0.4, 0.655), canvas, None, free=True).layout.panes[0].region == (
        (0.0, 1.0), (0.0, 0.655))
    assert dragged(hold, (0.4, 0.99), canvas, None, free=True).layout.panes[1].region[1] == (
        0.85, 1.0)  # a pane stays one
    parted = with_gap(layout, 0.1)
    assert grip_at(parted, QPointF(100, 220), canvas) is Grip.SPLIT  # anywhere in the gap


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_every_amount_of_a_layout_is_read_as_it_was_set(kind):
    canvas = (1080, 1920)
    layout = kind.make(FramingSpec(Shape(9, 16), None, canvas))
    for amount in AMOUNTS:
        before = amount.get(layout)
        if before is None:
            assert amount.set_to(layout, 0.5) == layout
            continue
        for percent in (amount.low, (amount.low + amount.high) / 2):
            changed = amount.set_to(layout, percent / 100)
            wanted = percent / 100
            if amount.name in ("Left", "Top"):  # it stays inside the canvas
                low, high = layout.panes[-1].region[amount.name == "Top"]
                wanted = min(wanted, 1 - (high - low))
            assert amount.get(changed) == pytest.approx(wanted, abs=1e-9), amount.name
            assert not layout_error(changed), amount.name


def test_it_is_offered_where_words_are_cut(aim, window, qtbot):
    session = window.film.session
    assert aim.head.whole.isVisible()
    qtbot.mouseClick(aim.head.whole, LEFT)
    settled(session)
    assert _layout(session) == whole_soft() and not aim.head.whole.isVisible()
    talker = next(i for i in range(len(session.analysis.shots)) if not session.flags("A", i)
                  and i)
    session.go(session.analysis.shots[talker].poster_frame)
    assert not aim.head.whole.isVisible()


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
    session.document.undo()
    assert _layout(session, "C", 2).kind == "fill"


@pytest.mark.usefixtures("small_sheets")
def test_the_command_line_lays_a_film_out(tmp_path, capsys):
    assert main(["convert", str(DEMO_FILM), "--spec", "vertical-short", "--out", str(tmp_path),
                 "--to", "3.2", "--layout", "whole-plain"]) == 0
    (file,) = tmp_path.glob("*.mp4")
    with av.open(str(file)) as container:
        picture = next(container.decode(video=0)).to_ndarray(format="rgb24")
    # The picture lies in 180 x 101 in the middle; 320 / 2 - 51 = 109 rows above it are plain.
    assert np.abs(picture[10:104].astype(int) - (0x1C, 0x1A, 0x18)).mean() < 3
    assert picture[117:200].std() > 20
    assert main(["convert", str(DEMO_FILM), "--spec", "wide", "--out", str(tmp_path),
                 "--layout", "collage"]) == 2
    assert "no layout called “collage”" in capsys.readouterr().err


def test_a_layout_is_kept_as_a_file_and_taken_for_another_shot(aim, window, tmp_path):
    session, button = window.film.session, aim.layouts
    button.take(KINDS[7])
    kept = _layout(session)
    button.save_file(tmp_path / "mine")
    session.go(session.analysis.shots[3].poster_frame)
    said = []
    session.said.connect(said.append)
    button.open_file(tmp_path / "none.toml")
    assert _layout(session, shot=3).kind == "fill" and "none.toml" in said[-1]
    button.open_file(tmp_path / "mine.toml")
    assert _layout(session, shot=3) == kept


def test_a_picture_file_becomes_the_backdrop_or_lies_over(aim, window, tmp_path):
    session, button, said = window.film.session, aim.layouts, []
    session.said.connect(said.append)
    (tmp_path / "bad.png").write_bytes(b"no picture")
    button.add_file(tmp_path / "bad.png")
    window.film.session.assets.wait()
    assert _layout(session).kind == "fill" and "bad.png" in said[-1]
    Image.new("RGB", (400, 200), (30, 120, 200)).save(tmp_path / "blue.png")
    button.add_file(tmp_path / "blue.png")
    window.film.session.assets.wait()
    assert _layout(session).panes[1].content == PictureFile(str(tmp_path / "blue.png"), fit=True)
    session.document.undo()
    button.take(KINDS[2])
    button.add_file(tmp_path / "blue.png")
    window.film.session.assets.wait()
    assert _layout(session).backdrop == PictureFile(str(tmp_path / "blue.png"))
    button.set_colour("#445566")  # and back
    assert _layout(session).backdrop == PlainBackdrop("#445566")


def test_panes_show_somebody_a_still_or_a_clip(aim, tmp_path, qtbot):
    button, session = aim.layouts, aim._session
    aim.side.show_page("Layout")
    session.go(510)
    button.take(kind_called("stack"))
    row, shot = button.panes, session.shot
    row.boxes[0].setCurrentText("Second")
    row.boxes[0].activated.emit(1)
    assert _layout(session, "A", shot).panes[0].content == Crop(Role.SECOND)
    row.boxes[1].setCurrentText("Still of this frame")
    row.boxes[1].activated.emit(4)
    assert _layout(session, "A", shot).panes[1].content == Still(str(session.film), 510 / 25)
    button.sync()
    assert row.boxes[1].currentText() == "Still" and not row.backdrop.isVisible()
    row.set_pane(1, Clip(str(write_film(tmp_path / "c.mp4", frames=20))))
    start = session.analysis.shots[session.shot].start / 25
    assert _layout(session, "A", shot).panes[1].content.start_s == -start
    # Of one pane that follows somebody it is the one who was asked for.
    assert solved(session, "A", shot).lead != solved(session, "B", shot).lead


def test_a_moving_backdrop_that_ships_is_chosen_like_a_colour(aim):
    button, session = aim.layouts, aim._session
    aim.side.show_page("Layout")
    button.take(kind_called("whole-soft"))
    for name in ("Tide, moving", "Embers, moving", "Two colours"):
        button.panes.backdrop.setCurrentText(name)
        button.panes.backdrop.activated.emit(0)
        backdrop = session.project.choice(session.letter, session.shot).layout.backdrop
        assert backdrop == DRAWN[name]
        refuse_bad_asset(backdrop)
