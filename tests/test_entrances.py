"""How panes come and go, how overlays beat, and how far a bar is: on paper, and in pictures."""

import math

import numpy as np
import pytest

from caracal.core.base.time import FrameRange, share_shown
from caracal.core.framing.choice import PLAIN
from caracal.core.framing.placing import placed
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.entrance import Entry, PaneTiming
from caracal.core.layout.model import (
    EVERYWHERE,
    Crop,
    Layout,
    Pane,
    PlainBackdrop,
    SoftBackdrop,
)
from caracal.core.layout.overlay import Overlay, Shape, ShapeKind, overlay_error, presence
from caracal.core.project.edits import changed_version
from caracal.core.project.model import first_project
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import layers_of
from caracal.core.render.overlay_layers import overlay_layers
from caracal.core.render.scene import Scene
from test_clips import planes

CANVAS = (200, 100)
HALF = ((0.25, 0.75), (0.0, 1.0))
WHITE = 235


def luma(stay, moment_s):
    """The luma of a canvas with a white pane over the middle half of a black one."""
    layout = Layout("x", (Pane(PlainBackdrop("#000000")),
                          Pane(PlainBackdrop("#ffffff"), HALF, stay=stay)))
    layers = layers_of(layout, CANVAS, [], (0, 0, 320, 180), PLAIN, moment_s)
    return compose_pictures(Scene(CANVAS, layers), planes())[0].astype(int)


def test_a_pane_is_there_from_its_first_frame_to_its_last():
    stay = PaneTiming(1.0, 3.0, Entry.NONE, Entry.NONE)
    for moment, there in ((0.0, False), (0.96, False), (1.0, True), (2.96, True), (3.0, False)):
        assert bool(luma(stay, moment)[50, 100] == WHITE) is there, moment
    assert (luma(PaneTiming(1.0, None, Entry.NONE), 900.0)[50, 100] == WHITE)


def test_a_pane_fades_slides_grows_and_is_wiped_in():
    # A quarter and half of the way. A fade is straight; the rest is eased: 3 s^2 - 2 s^3.
    quarter = 3 * 0.25**2 - 2 * 0.25**3
    faded = luma(PaneTiming(1.0, entry=Entry.FADE, moving_s=0.4), 1.1)
    assert faded[50, 100] == pytest.approx(16 + 219 / 4, abs=1) and faded[50, 20] == 16
    slid = luma(PaneTiming(1.0, entry=Entry.SLIDE, moving_s=0.4), 1.1)[:, 100]
    assert np.count_nonzero(slid == WHITE) == pytest.approx(100 * quarter, abs=2)
    assert slid[-1] == WHITE and slid[0] == 16  # from below
    grown = luma(PaneTiming(1.0, entry=Entry.GROW, moving_s=0.4), 1.2)
    assert np.count_nonzero(grown[50] == WHITE) == pytest.approx(50, abs=2)
    assert np.count_nonzero(grown[:, 100] == WHITE) == pytest.approx(50, abs=2)
    wiped = luma(PaneTiming(1.0, entry=Entry.WIPE, moving_s=0.4), 1.2)[50]
    assert np.count_nonzero(wiped == WHITE) == pytest.approx(50, abs=2)
    assert wiped[51] == WHITE and wiped[148] == 16  # from the left


def test_a_pane_goes_as_it_came():
    stay = PaneTiming(1.0, 3.0, Entry.FADE, Entry.WIPE, 0.4)
    gone = luma(stay, 2.8)[50]
    assert np.count_nonzero(gone == WHITE) == pytest.approx(50, abs=2)
    assert gone[148] == WHITE and gone[51] == 16
    short = PaneTiming(1.0, 1.4, Entry.FADE, Entry.FADE, 10.0)  # as long as there is room for
    assert luma(short, 1.1)[50, 100] == pytest.approx(16 + 219 / 2, abs=1)
    assert luma(short, 1.2)[50, 100] == WHITE


def test_panes_go_by_the_shot_they_are_in(demo):
    layout = Layout("x", (Pane(SoftBackdrop()), Pane(Crop(), HALF, stay=PaneTiming(0.4, 1000.0))))
    shot = demo.shots[3]
    (_, pane) = placed(layout, demo, 3, (), None).panes
    rate = float(demo.master.rate)
    assert pane.stay.comes_s == pytest.approx(shot.start / rate + 0.4)
    assert pane.stay.goes_s == pytest.approx(shot.end / rate)


def test_what_cannot_be_is_refused():
    pane = Pane(PlainBackdrop(), EVERYWHERE)
    assert not layout_error(Layout("x", (pane, Pane(Crop(), HALF, stay=PaneTiming(1.0)))))
    for stay in (PaneTiming(-1.0), PaneTiming(2.0, 1.0), PaneTiming(0.0, 0.0), PaneTiming(math.nan),
                 PaneTiming(0.0, moving_s=1e9), PaneTiming(1.0, math.nan)):
        assert layout_error(Layout("x", (pane, Pane(Crop(), HALF, stay=stay)))), stay
    top, low = ((0.0, 1.0), (0.0, 0.5)), ((0.0, 1.0), (0.5, 1.0))
    assert not layout_error(Layout("x", (Pane(Crop(), top), Pane(Crop(), low))))
    # While it is not there nothing lies behind it.
    assert layout_error(Layout("x", (Pane(Crop(), top), Pane(Crop(), low, stay=PaneTiming(1.0)))))
    assert overlay_error(Overlay(Shape(), 0, 10, beats=tuple(range(200))))


def test_a_beat_grows_by_a_twentieth_and_comes_back():
    overlay = Overlay(Shape(), 0, 100, HALF, entry=Entry.NONE, exit=Entry.NONE, beats=(40,))
    wide = {frame: presence(overlay, frame).region[0][1] - presence(overlay, frame).region[0][0]
            for frame in range(30, 60)}
    assert wide[39] == wide[52] == 0.5 and max(wide.values()) == pytest.approx(0.525)
    assert wide[45] == max(wide.values())  # the sixth of twelve frames


def test_a_bar_is_as_far_as_its_version():
    ranges = (FrameRange(0, 50), FrameRange(100, 125, 50))  # 50 frames, and 50 more for 25
    assert share_shown(ranges, 24) == pytest.approx(0.25)
    assert share_shown(ranges, 49) == share_shown(ranges, 80) == pytest.approx(0.5)
    assert share_shown(ranges, 124) == 1.0
    bar = Overlay(Shape(ShapeKind.BAR, "#ffffff"), 0, 125, EVERYWHERE, entry=Entry.NONE,
                  exit=Entry.NONE)
    project = changed_version(first_project(200), "A", ranges=ranges, overlays=(bar,))
    (shown,) = project.overlays_of("A")
    assert project.overlays_on_film("A") == (shown,)
    for frame, far in ((0, 2), (24, 50), (49, 100), (112, 152), (124, 200)):
        layers = layers_of(Layout("x", (Pane(PlainBackdrop("#000000")),)), CANVAS, [],
                           (0, 0, 320, 180), PLAIN)
        scene = Scene(CANVAS, (*layers, *overlay_layers((shown,), frame, CANVAS, 25.0)))
        row = compose_pictures(scene, planes())[0][50]
        assert np.count_nonzero(row > 200) == pytest.approx(far, abs=1), frame
    assert presence(bar, 61).part == (0.0, pytest.approx(62 / 125))  # of a card, or a template
