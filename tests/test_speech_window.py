"""Captions from the sound, in the window."""

import pytest
from PySide6.QtCore import Qt

from caracal.demo.script import LINES

LEFT = Qt.MouseButton.LeftButton


def test_captions_are_written_from_the_sound_and_a_text_is_laid_in_time(
        window, qtbot, tmp_path):
    window.film.show_view("Words")
    words = window.film.words
    session, row = window.film.session, words.recognition
    row.names.setText("kiln, quay , Tobias")
    qtbot.mouseClick(row.button, LEFT)
    assert row.button.text() == "Stop writing" and session.project.names == (
        "kiln", "quay", "Tobias")
    qtbot.mouseClick(row.button, LEFT)
    qtbot.waitUntil(lambda: row._worker is None, timeout=30_000)
    assert not session.project.captions and "Stopped" in window.statusBar().currentMessage()
    qtbot.mouseClick(row.button, LEFT)
    qtbot.waitUntil(lambda: row._worker is None, timeout=90_000)
    written = session.project.captions
    assert len(written) >= 6 and "kiln" in written[0].text and written[0].words
    text = tmp_path / "said.txt"
    text.write_text(" ".join(line.text for line in LINES))
    row.lay_text(text)
    qtbot.waitUntil(lambda: row._worker is None, timeout=90_000)
    laid = session.project.captions
    assert " ".join(cue.text for cue in laid) == " ".join(line.text for line in LINES)
    assert laid[0].start_s == pytest.approx(6.75, abs=0.5)
    row.lay_text(tmp_path / "missing.txt")
    assert "no such file" in window.statusBar().currentMessage()
    session.undo()
    assert session.project.captions == written
