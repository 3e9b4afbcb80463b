"""Captions from the sound, in the window."""

import pytest
from PySide6.QtCore import Qt

from conftest import DEMO, ffmpeg, open_window
from demo.script import LINES

LEFT = Qt.MouseButton.LeftButton


def test_listening_is_stopped_and_a_text_is_laid_in_time_by_the_sound(
        qapp, qtbot, tmp_path, monkeypatch):
    """On the demo's first line, with a picture as small as can be."""
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    film = tmp_path / "begins.mp4"
    ffmpeg("-f", "lavfi", "-i", "color=gray:s=128x72:r=5", "-i", DEMO, "-map", "0:v", "-map", "1:a",
           "-t", "10.9", "-c:a", "copy", film)
    window = open_window(qtbot, qapp, tmp_path, film)
    qtbot.waitUntil(lambda: window.analysing is None, timeout=60_000)
    said = LINES[0].text
    window.film.show_view("Words")
    words = window.film.words
    session, row = window.film.session, words.recognition
    row.names.setText("kiln, quay , Tobias")
    qtbot.mouseClick(row.button, LEFT)
    assert row.button.text() == "Stop" and session.project.names == (
        "kiln", "quay", "Tobias")
    qtbot.mouseClick(row.button, LEFT)
    qtbot.waitUntil(lambda: row._worker is None, timeout=30_000)
    assert not session.project.captions and "stopped" in window.statusBar().currentMessage()
    text = tmp_path / "said.txt"
    text.write_text(said)
    row.lay_text(text)
    qtbot.waitUntil(lambda: row._worker is None, timeout=90_000)
    laid = session.project.captions
    assert " ".join(cue.text for cue in laid) == said
    assert laid[0].start_s == pytest.approx(6.75, abs=0.5)
    row.lay_text(tmp_path / "missing.txt")
    assert "no such file" in window.statusBar().currentMessage()
    session.document.undo()
    assert not session.project.captions
    window.close()


def test_captions_that_stand_out_too_little_are_told_and_a_box_helps(window, qtbot):
    session = window.film.session
    window.film.show_view("Words")
    words = window.film.words
    words.cue_actions.take_in(DEMO.with_suffix(".srt"))
    panel = words.captions
    for name in ("outline", "shadow"):
        panel.fields.parts[name].click()
    panel.fields.colour.changed.emit("#c8a080")
    session.go(180)
    qtbot.waitUntil(lambda: "too little" in panel.contrast.text(), timeout=15_000)
    assert "at least 3 is required" in panel.contrast.text() and panel.help.isVisible()
    qtbot.mouseClick(panel.help, LEFT)
    assert session.project.version("A").look.style.box is not None
    qtbot.waitUntil(lambda: "enough" in panel.contrast.text(), timeout=15_000)
    assert not panel.help.isVisible()
    session.go(600)
    qtbot.waitUntil(lambda: panel.contrast.text() == "", timeout=15_000)
