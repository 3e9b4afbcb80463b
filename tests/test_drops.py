"""Files dropped on the window go where they belong; captions of another film are questioned."""

import shutil

import msgspec
import numpy as np
import pytest
from PIL import Image

from caracal.core.analysis.model import PEAKS_A_SECOND
from caracal.core.base.resources import DEMO_FILM
from caracal.core.layout.files import write_layout
from caracal.core.layout.kinds import kind_called
from caracal.core.project.caption_match import captions_doubt
from caracal.core.specs.sheet_store import find_sheet, own_folder, write_sheet
from caracal.core.text.cues import Cue
from caracal.ui.shell.drops import drop_on_film
from conftest import write_film
from test_added_sounds import RATE, write_wav

CAPTIONS = DEMO_FILM.with_suffix(".srt")


@pytest.fixture
def drop(window):
    opened, asked = [], []

    def dropped(path, answer="stay"):
        drop_on_film(window.film, [path], opened.append,
                     lambda film: asked.append(film) or answer)
        window.film.session.assets.wait()
        return opened, asked

    return dropped


def said(window):
    return window.statusBar().currentMessage()


def test_captions_go_to_words(window, drop):
    drop(CAPTIONS)
    assert window.film.view == "Words" and len(window.film.session.project.captions) == 11


def test_a_picture_becomes_an_overlay(window, drop, tmp_path):
    Image.new("RGB", (300, 100), (200, 30, 30)).save(tmp_path / "logo.png")
    drop(tmp_path / "logo.png")
    assert window.film.view == "Aim" and window.film.aim.side.page == "Overlays"
    (overlay,) = window.film.session.project.version("A").overlays
    assert overlay.name == "logo.png"


@pytest.mark.parametrize(("answer", "opens", "clips", "queued"), [
    ("open", 1, 0, 0), ("clip", 0, 1, 0), ("encode", 0, 0, 3), ("stay", 0, 0, 0)])
def test_it_is_asked_what_is_wanted_with_a_film(
    window, drop, tmp_path, qtbot, monkeypatch, answer, opens, clips, queued,
):
    film = write_film(tmp_path / "clip.mp4", frames=20)
    jobs = []
    monkeypatch.setattr(window.working, "add", jobs.extend)
    opened, asked = drop(film, answer)
    assert asked == [film] and len(opened) == opens and len(jobs) == queued
    assert len(window.film.session.project.version("A").overlays) == clips


def test_a_spec_sheet_goes_to_the_shelf(window, drop, tmp_path):
    sheet = tmp_path / "wide-client.toml"
    write_sheet(msgspec.structs.replace(find_sheet("square-feed"), name="wide-client"), sheet)
    drop(sheet)
    assert (own_folder() / "wide-client.toml").is_file()
    assert "wide-client" in window.film.session.sheets.by_name
    (tmp_path / "bad.toml").write_text("canvas = 7")
    drop(tmp_path / "bad.toml")
    assert "bad.toml" in said(window)


def test_a_layout_is_laid_on_the_shot_and_is_no_spec_sheet(window, drop, tmp_path):
    layout = kind_called("stack").make(find_sheet("vertical-short").frame)
    write_layout(tmp_path / "two rows.toml", layout)
    drop(tmp_path / "two rows.toml")
    session = window.film.session
    assert session.project.choice(session.letter, session.shot).layout == layout


def test_a_sound_becomes_a_bed(qtbot, window, drop, tmp_path):
    sound = write_wav(tmp_path / "bed.wav", np.zeros(RATE))
    drop(sound)
    session = window.film.session
    session.assets.wait()
    qtbot.waitUntil(lambda: bool(session.project.version("A").sounds), timeout=20_000)
    (bed,) = session.project.version("A").sounds
    assert bed.content.path == str(sound) and bed.fills and window.film.view == "Sound"


def test_anything_else_is_opened_or_refused_as_ever(window, drop, tmp_path):
    opened, asked = drop(tmp_path / "work.caracal")
    assert opened == [tmp_path / "work.caracal"] and not asked


def test_captions_beyond_the_film_or_in_its_silence_are_doubted(demo):
    """By hand: the demo lasts 60 s; its first ten tenths of a second are made silent here."""
    film_s = demo.master.frames / 25
    assert film_s == 60.0
    inside = tuple(Cue(at, at + 1.0, "words") for at in (6.8, 8.8, 11.0, 12.9, 17.5))
    assert captions_doubt(inside, demo) == ""
    late = (*inside, Cue(60.0, 61.0, "late"), Cue(70.0, 71.0, "later"))
    assert captions_doubt(late, demo) == (
        "2 of 7 captions start after the end of the film (1:00).")
    peaks = [0.0 if at < 20 * PEAKS_A_SECOND else 0.5 for at in range(60 * PEAKS_A_SECOND)]
    silent = msgspec.structs.replace(demo, sound=msgspec.structs.replace(
        demo.sound, peaks=tuple(peaks)))
    assert captions_doubt(inside, silent) == (
        "The film is silent at the times of 5 of 5 captions.")
    assert captions_doubt(inside[:3], silent) == ""  # too few to tell


def test_doubtful_captions_are_imported_only_when_that_is_wanted(window, tmp_path):
    words, session = window.film.words, window.film.session
    path = tmp_path / "other.srt"
    path.write_text("1\n00:02:00,000 --> 00:02:02,000\nFrom another film\n")
    asked = []
    words.cue_actions.may_import = lambda doubt: asked.append(doubt)
    words.cue_actions.take_in(path)
    assert asked and not session.project.captions
    words.cue_actions.may_import = lambda _: True
    words.cue_actions.take_in(path)
    assert session.project.captions[0].text == "From another film"


def test_a_film_that_was_moved_is_located(window, qtbot, tmp_path):
    moved = tmp_path / "elsewhere.mp4"
    shutil.copy(DEMO_FILM, moved)
    other = write_film(tmp_path / "other.mp4", frames=20)
    window.locate_film(other)
    assert "another film" in said(window) and window.film.session.film == DEMO_FILM
    window.film.session.choose_version("B")
    window.locate_film(moved)
    qtbot.waitUntil(lambda: window.film is not None and window.film.session.film == moved,
                    timeout=30_000)
