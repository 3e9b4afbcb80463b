"""The Sound view: sounds are added, changed and heard; edits reach versions; problems are told."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from caracal.core.layout.added_sound import Anchor, SoundFile, SoundTrack
from caracal.core.project.storage import read_document
from caracal.core.sound.mixer import mixed
from caracal.ui.session.played_version import sound_of_version
from caracal.ui.session.reach import EditKind, InVersions, Reach
from conftest import DEMO, open_window
from test_added_sounds import RATE, write_wav


@pytest.fixture(scope="module")
def tone(tmp_path_factory):
    """Four seconds of a quiet tone."""
    t = np.arange(4 * RATE) / RATE
    return write_wav(tmp_path_factory.mktemp("tone") / "tone.wav", 0.2 * np.sin(2764.6 * t))


@pytest.fixture
def window(qtbot, qapp, tmp_path, monkeypatch):
    """The demo in the Sound view."""
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    made = open_window(qtbot, qapp, tmp_path, DEMO)
    made.film.show_view("Sound")
    yield made
    made.end()


def added(qtbot, window, path):
    """``path`` added as a bed; its place is known."""
    view = window.film.sound
    view.tracks.add_file(path)
    window.film.session.assets.wait()
    qtbot.waitUntil(lambda: bool(view.tracks.list.count()), timeout=10_000)
    qtbot.waitUntil(lambda: any(each.laid is not None for each in view.lanes.sounds),
                    timeout=120_000)
    return view


def measured(qtbot, window):
    """What is played once it is measured."""
    session = window.film.session
    monitoring, wanted = session.playing.monitoring, sound_of_version(session)
    qtbot.waitUntil(lambda: monitoring.known(wanted) is not None, timeout=240_000)
    return monitoring.sound(wanted).mix


def sounds(window, letter="A"):
    return window.film.session.project.version(letter).sounds


def test_a_bed_is_under_all_versions_and_one_click_away_from_one(qtbot, window, tone):
    offers = []
    window.film.session.editing.offered.connect(offers.append)
    added(qtbot, window, tone)
    assert [len(sounds(window, letter)) for letter in "ABC"] == [1, 1, 1]
    assert sounds(window)[0].fills and sounds(window)[0].duck_db == -12
    (only,) = [each for each in offers[-1] if each.words == "Only in A"]
    only.apply()
    assert [len(sounds(window, letter)) for letter in "ABC"] == [1, 0, 0]
    window.film.session.document.undo()
    assert [len(sounds(window, letter)) for letter in "ABC"] == [0, 0, 0]


def test_lanes_show_where_it_lies_and_how_it_ducks(qtbot, window, tone):
    view = added(qtbot, window, tone)
    (laid,) = view.lanes.sounds
    assert laid.span_s == (0.0, pytest.approx(60.0, abs=0.1))
    assert len(laid.laid.shape.points) >= 8  # people speak in the demo
    before = view.lanes.grab().toImage()
    view.tracks.boxes["duck_db"].setValue(0)
    qtbot.waitUntil(lambda: view.lanes.sounds[0].laid is not None
                    and not view.lanes.sounds[0].laid.shape.points, timeout=120_000)
    assert view.lanes.grab().toImage() != before
    assert "bed" in view.lanes.words_of(0).lower() and "tone.wav" in view.lanes.words_of(0)


def test_what_is_played_has_the_bed(qtbot, window, tone):
    """The loudspeaker's samples, where the film itself is nearly silent."""
    view = added(qtbot, window, tone)
    session = window.film.session
    mix = measured(qtbot, window)
    with_bed = next(mixed(mix, round(28 * mix.rate_hz)))
    view.tracks.muted.click()
    plain = session.playing.monitoring.sound(sound_of_version(session)).mix
    without = next(mixed(plain, round(28 * plain.rate_hz)))
    assert np.sqrt((with_bed**2).mean()) > 2 * np.sqrt((without**2).mean())
    assert sounds(window)[0].muted


def test_fields_change_the_selected_sound_and_a_gesture_is_one_step(qtbot, window, tone):
    view = added(qtbot, window, tone)
    session = window.film.session
    session.editing.reaches.set(EditKind.SOUNDS, Reach(InVersions.THIS))
    view.tracks.boxes["gain_db"].setValue(-20)
    view.tracks.boxes["gain_db"].setValue(-22)
    assert sounds(window)[0].gain_db == -22 and sounds(window, "B")[0].gain_db == -14
    session.document.undo()
    assert sounds(window)[0].gain_db == -14
    view.tracks.buttons["Bed under voice"].click()
    assert (sounds(window)[0].duck_db, sounds(window)[0].low_pass_hz) == (-10, 1000)
    session.go(250)
    view.tracks.buttons["Playhead"].click()
    assert (sounds(window)[0].anchor, sounds(window)[0].frame) == (Anchor.FRAME, 250)
    view.tracks.delete()
    assert sounds(window) == () and not view.tracks.form.isVisible()


def test_a_part_that_cannot_be_is_refused_and_said(qtbot, window, tone):
    view = added(qtbot, window, tone)
    said = []
    window.film.session.editing.refused.connect(said.append)
    view.tracks.starts.setValue(3.0)
    view.tracks.ends.setValue(2.0)
    assert said and "at least" in said[0]
    assert sounds(window)[0].content.end_s is None and view.tracks.ends.value() == 0


def test_a_click_in_the_lanes_goes_there_and_selects(qtbot, window, tone):
    view = added(qtbot, window, tone)
    session = window.film.session
    session.go(500)
    view.tracks.add_effect(SoundFile(str(tone), 0.0, 2.0))
    qtbot.waitUntil(lambda: len(view.lanes.sounds) == 2
                    and view.lanes.sounds[1].laid is not None, timeout=120_000)
    assert view.tracks.number == 1
    middle = view.lanes.lane(SoundTrack.BED).center().toPoint()
    QTest.mouseClick(view.lanes, Qt.MouseButton.LeftButton, pos=QPoint(
        round(view.lanes.x_of(30.0)), middle.y()))
    assert view.tracks.number == 0
    assert session.frame == pytest.approx(750, abs=4)  # 30 s of 25 frames
    start, end = view.lanes.sounds[1].span_s
    assert (start, end) == (pytest.approx(20.0, abs=0.01), pytest.approx(22.0, abs=0.01))


def test_sounds_are_kept_with_the_project_and_found_again(qtbot, window, tone, tmp_path):
    added(qtbot, window, tone)
    path = tmp_path / "with sound.caracal"
    window.film.files.save_to(path)
    qtbot.waitUntil(path.is_file, timeout=10_000)
    found = read_document(path)
    assert found.project.version("C").sounds == sounds(window, "C")
    assert [each.path for each in found.assets] == [str(tone)]


def test_a_file_without_sound_is_told_and_nothing_is_added(qtbot, window, tmp_path):
    text = tmp_path / "notes.wav"
    text.write_text("words")
    said = []
    window.film.session.assets.said.connect(said.append)
    window.film.sound.tracks.add_file(text)
    qtbot.waitUntil(lambda: bool(said), timeout=20_000)
    assert "not a sound file" in said[0] and sounds(window) == ()


def test_a_sound_that_is_gone_stops_the_batch_and_is_told_in_the_view(qtbot, window, tmp_path):
    path = write_wav(tmp_path / "soon gone.wav", np.full(RATE, 0.1))
    view = added(qtbot, window, path)
    path.unlink()
    view.tracks.boxes["gain_db"].setValue(-3)
    qtbot.waitUntil(lambda: "soon gone.wav" in view.loudness.text(), timeout=30_000)
    plan = window.film.batch.versions.plan
    qtbot.waitUntil(lambda: not plan.is_working and any(
        "soon gone.wav" in each.sentence for each in plan.concerns), timeout=120_000)
