"""What a dragged pane or overlay snaps to, and sides that are cut: on paper."""

import pytest
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from caracal.core.layout.amounts import with_side_cut
from caracal.core.layout.kinds import inset, stack
from caracal.core.layout.model import WholePicture
from caracal.core.project.edits import with_layout
from caracal.core.specs.sheet_store import find_sheet
from caracal.ui.canvases.pane_handles import side_at
from caracal.ui.canvases.snapping import snapped_region
from conftest import settled

CANVAS = QRectF(0, 0, 1000, 1000)  # 8 pixels are 0.008 of it
FAR = (0.31, 0.35)  # along the other axis, where nothing is near
FRAME = find_sheet("vertical-short").frame


def across(span, others=(), **more):
    """Where ``span`` snaps to along the first axis, and the guide."""
    (found, _), guides = snapped_region((span, FAR), CANVAS, None,
                                        [(other, (0.8, 0.9)) for other in others], **more)
    return found, [share for axis, share in guides if axis == 0]


def test_edges_and_middles_snap_to_thirds_and_to_what_else_lies_there():
    assert across((0.102, 0.202))[0] == (0.102, 0.202)
    assert across((0.447, 0.547))[0] == pytest.approx((0.45, 0.55))  # its middle to the middle
    assert across((0.604, 0.7), [(0.1, 0.6)]) == (pytest.approx((0.6, 0.696)), [0.6])
    assert across((0.347, 0.44), [(0.1, 0.6)])[0] == pytest.approx((0.35, 0.443))
    assert across((0.604, 0.7), [(0.1, 0.6)], free=True) == ((0.604, 0.7), [])


def test_gaps_become_equal():
    # Two others, 0.15 apart: the third goes 0.15 behind the second, or before the first.
    two = [(0.21, 0.31), (0.46, 0.56)]
    assert across((0.713, 0.793), two)[0] == pytest.approx((0.71, 0.79))
    assert across((-0.017, 0.063), two)[0] == pytest.approx((-0.02, 0.06))
    # Between them, as far from both.
    assert across((0.341, 0.421), two)[0] == pytest.approx((0.345, 0.425))


def test_a_side_of_a_whole_picture_is_cut_and_the_rest_stays_as_large():
    layout = inset(FRAME)
    (left, right), down = layout.panes[1].region
    wide = right - left
    made = with_side_cut(layout, 0, True, right - wide / 4)
    pane = made.panes[1]
    assert pane.content == WholePicture(cut_right=0.25)
    assert pane.region == ((left, pytest.approx(right - wide / 4)), pytest.approx(down))
    back = with_side_cut(made, 0, True, right + 1.0)  # no further than all of it
    assert back.panes[1].content == WholePicture()
    assert back.panes[1].region[0] == pytest.approx((left, right))
    least = with_side_cut(layout, 1, False, 1.0)
    assert least.panes[1].content.cut_top == 0.45
    assert with_side_cut(stack(FRAME), 0, True, 0.4) == stack(FRAME)


def test_ctrl_and_a_drag_cut_a_side_on_the_canvas(aim, window, qtbot):
    session, canvases = window.film.session, aim.canvases
    session.edit(with_layout(session.project, "A", 0, inset(session.sheet("A").frame)), "x")
    settled(session)
    rect = canvases.rects()[0]
    (left, right), (top, bottom) = session.solution("A", 0).placed.panes[1].region
    middle = (top + bottom) / 2

    def at(x):
        return QPointF(rect.left() + x * rect.width(), rect.top() + middle * rect.height())

    assert side_at(session.solution("A", 0).placed, at(right), rect) == (0, True)
    hold = Qt.KeyboardModifier.ControlModifier
    qtbot.mousePress(canvases, Qt.MouseButton.LeftButton, hold, at(right).toPoint())
    to = at(right - (right - left) * 0.3)
    QApplication.sendEvent(canvases, QMouseEvent(
        QEvent.Type.MouseMove, to, canvases.mapToGlobal(to), Qt.MouseButton.LeftButton,
        Qt.MouseButton.LeftButton, hold))
    qtbot.mouseRelease(canvases, Qt.MouseButton.LeftButton, hold, to.toPoint())
    pane = session.project.choice("A", 0).layout.panes[1]
    assert pane.content.cut_right == pytest.approx(0.3, abs=0.03)
    assert pane.region[0][0] == pytest.approx(left) and pane.region[0][1] < right
    session.document.undo()
    assert session.project.choice("A", 0).layout == inset(session.sheet("A").frame)
