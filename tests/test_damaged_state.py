"""The window opens whatever state its own files are in; what cannot be read is set aside and told.

Bits are flipped in every file of ours that is read back: it is read, or refused in a sentence.
"""

import errno
import os
import random
import sqlite3
import struct
import subprocess

import msgspec
import pytest
from PySide6.QtCore import QSettings, QStandardPaths

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.film_pass.analyse import analyse, analysed_before
from caracal.core.analysis.film_pass.unfinished import Unfinished
from caracal.core.base.atomic_write import open_own
from caracal.core.base.decoding import DecodeError, decode_msgpack, sealed, unsealed
from caracal.core.base.errors import CaracalError
from caracal.core.batch.batch_list import BatchList, list_file
from caracal.core.batch.job import EncodeJob
from caracal.core.batch.report import files_in_report
from caracal.core.convert import Recipe
from caracal.core.desk.desk import Desk
from caracal.core.framing.motion import Manner
from caracal.core.processes.children import command, environment
from caracal.core.project.edits import with_manner
from caracal.core.project.model import first_project
from caracal.core.project.storage import document, read_document, write_document
from caracal.core.specs.sheet_store import find_sheet, read_sheet, write_sheet
from caracal.ui.services.settings import (
    kept_flag,
    kept_map,
    kept_number,
    kept_text,
    kept_texts,
    own_settings,
)
from caracal.ui.session.zones_look import ZonesLook, kept_look
from caracal.ui.shell.main_window import MainWindow
from conftest import write_film

FLIPS = 60  # of each file, by a fixed seed


def newer(path):
    with BatchList(path):
        pass
    with sqlite3.connect(path) as base:
        base.execute("PRAGMA user_version = 99")


def scrambled(path):
    path.write_bytes(b"no database" * 2000)


def bad_page(path):
    """A list of many lines whose later pages are damaged: it opens, and cannot be read."""
    with BatchList(path) as jobs:
        jobs.add(EncodeJob(f"film{i}.mp4", "out", Recipe(find_sheet("wide"))) for i in range(60))
    data = bytearray(path.read_bytes())
    data[8192:] = b"\xff" * (len(data) - 8192)
    path.write_bytes(bytes(data))


STATES = {"damaged": scrambled, "damaged inside": bad_page, "newer": newer,
          "a folder": lambda path: path.mkdir()}


@pytest.fixture
def opened(qtbot, tmp_path, monkeypatch):
    """What opens the window with the state folder as it is by then."""
    state = tmp_path / "state"
    monkeypatch.setenv("CARACAL_STATE", str(state))
    made = []

    def opened():
        window = MainWindow(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
        window.what_of_batch = lambda: "stop"  # a dialog that waits for a person
        qtbot.addWidget(window)
        made.append(window)
        qtbot.wait(30)
        return window, [message.words for message in window.messages.said]

    yield opened
    for window in made:
        window.close()


@pytest.mark.parametrize("state", STATES)
def test_a_list_that_cannot_be_read_is_set_aside_and_a_new_one_begins(opened, state):
    path = list_file()
    path.parent.mkdir(parents=True)
    STATES[state](path)
    window, said = opened()
    assert "kept as" in said[0] and "new list has begun" in said[0]
    (aside,) = [each for each in path.parent.glob("batch unreadable *")
                if each.suffix == ".sqlite"]
    assert aside.is_dir() == (state == "a folder")
    window.working.add([EncodeJob("none.mp4", str(path.parent), Recipe(find_sheet("wide")))])
    assert len(window.working.items) == 1 and path.is_file()
    _, said = opened()
    assert not said  # it is told once


@pytest.mark.parametrize("state", ["/proc/none", "a file"])
def test_without_a_place_for_its_list_the_window_opens_and_says_so(
    opened, tmp_path, monkeypatch, state
):
    if state == "a file":
        (tmp_path / "state").write_text("in the way")
    else:
        monkeypatch.setenv("CARACAL_STATE", state)
    window, said = opened()
    assert "cannot be saved" in said[0] and window.working.items == ()
    folder = window.working.jobs.path.parent
    window.close()
    assert not folder.exists()


def test_all_of_state_config_and_cache_in_the_way_and_a_film_opens(
    qtbot, tmp_path, monkeypatch, opened
):
    """A folder stands at every name that is written, and a file at every folder."""
    film = write_film(tmp_path / "film.mp4", frames=40)
    state, cache, config = (tmp_path / name for name in ("state", "cache", "config"))
    monkeypatch.setenv("CARACAL_CACHE", str(cache))
    monkeypatch.setenv("CARACAL_CONFIG", str(config))
    (state / "log" / "caracal.log").mkdir(parents=True)
    (state / "work").write_text("")
    config.mkdir()
    (config / "sheets").write_text("")
    (config / "locale").write_text("")
    window, _ = opened()
    window.open_any(film)
    qtbot.waitUntil(lambda: window.film is not None and window.analysing is None, timeout=60_000)
    session = window.film.session
    session.edit(with_manner(session.project, "A", 0, Manner.GLIDE), "glide")
    window.film.files.keep()
    window.film.files.wait()
    told = [message.words for message in window.messages.said]
    assert any("could not be saved" in words for words in told), told
    window.close_film()
    cache_file = tmp_path / "no cache"
    cache_file.write_text("")
    monkeypatch.setenv("CARACAL_CACHE", str(cache_file))
    window.open_any(film)
    qtbot.waitUntil(lambda: "exists already" in window.start.problem.text(), timeout=30_000)


@pytest.mark.timeout(60)
def test_settings_that_are_no_file_are_set_aside(qapp, tmp_path, monkeypatch):
    """A pipe is read for ever by the toolkit, before a window is there."""
    monkeypatch.setattr(QStandardPaths, "writableLocation", lambda _: str(tmp_path))
    (tmp_path / "caracal").mkdir()
    os.mkfifo(tmp_path / "caracal" / "caracal.conf")
    own_settings()
    (aside,) = (tmp_path / "caracal").iterdir()
    assert aside.name.startswith("caracal unreadable") and aside.is_fifo()


HOSTILE = [None, "", "x", "-1", "1e400", "nan", True, 7, -3.5, "9" * 400, [], [None], ["a", "\0"],
           {}, {"a": None}, b"\xff\xfe", "\ud800", ["a" * 9999]]


@pytest.mark.parametrize("value", HOSTILE, ids=repr)
def test_settings_of_any_kind_are_values_or_their_defaults(qapp, tmp_path, value):
    settings = QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat)
    names = ("recent", "films", "view", "geometry", "sound", "out", "folder", "board/rows shown",
             "zones/colour", "zones/strength", "zones/covers", "batch/lines columns")
    for name in names:
        settings.setValue(name, value)
        kept_flag(settings, name)
        kept_map(settings, name)
        assert abs(kept_number(settings, name, 2.0)) < float("inf")
        assert all(isinstance(text, str) for text in
                   (kept_text(settings, name), *kept_texts(settings, name)))
    look = kept_look(settings)
    assert isinstance(look, ZonesLook) and 0 <= look.strength <= 1


def test_a_window_opens_a_film_with_settings_of_any_kind(qtbot, qapp, tmp_path, demo):
    """Each key that is read when a window or a film opens holds something else."""
    from conftest import open_window

    chance = random.Random(4)
    folder = tmp_path / "w"
    folder.mkdir()
    settings = QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat)
    key = demo.content_key
    for name in ("recent", "view", "geometry", "sound", "hear file", "folder", "open here",
                 "board/order", "board/only", "board/rows shown", "batch/splitter",
                 "batch/replace", "batch/lines columns", "zones/colour", "zones/strength"):
        settings.setValue(name, chance.choice(HOSTILE))
    settings.setValue("films", {key: {"view": 3, "letter": ["A"], "frame": "x", "stretch": ["a"],
                                      "off": 7}})
    settings.sync()
    window = open_window(qtbot, qapp, folder)
    window.film.show_view("Batch")
    window.close()


# Bits flipped in what is read back. Whatever is read is used as it is; what cannot be is refused
# in a sentence. Nothing else comes out.

def flips(data, seed, count=FLIPS):
    chance = random.Random(seed)
    for _ in range(count):
        made = bytearray(data)
        for _ in range(chance.choice((1, 1, 1, 3))):
            made[chance.randrange(len(made))] ^= 1 << chance.randrange(8)
        yield bytes(made)


READERS = {
    "project.caracal": read_document, "sheet.toml": read_sheet, "report.json": files_in_report,
    "schedule.json": lambda path: Desk(path.parent).entries(),
}


@pytest.mark.parametrize("name", READERS)
def test_a_bit_flipped_in_a_file_of_text_is_a_sentence(tmp_path, demo, name):
    path = tmp_path / name
    if name.endswith(".caracal"):
        write_document(path, document(demo, first_project(demo.master.frames)))
    elif name.endswith(".toml"):
        write_sheet(find_sheet("square-feed"), path)
    elif name == "report.json":
        path.write_bytes(msgspec.json.encode({"format": "caracal report", "files": [
            {"file": "Käse.mp4", "spec": "wide", "spec_sheet": {}}]}))
    else:
        path.write_bytes(msgspec.json.encode([{
            "id": "1", "file": "x", "sheet": "wide", "received": "2026-01-01",
            "post": {"title": "Käse"}}]))
    data, refused = path.read_bytes(), 0
    for damaged in flips(data, name, 300):
        path.write_bytes(damaged)
        try:
            READERS[name](path)
        except CaracalError as problem:
            assert "\n" not in problem.sentence()
            refused += 1
    assert refused > 30


def test_a_bit_flipped_in_the_batch_list_fails_a_line_at_most(tmp_path):
    path = tmp_path / "list.sqlite"
    with BatchList(path) as jobs:
        jobs.add(EncodeJob("Käse.mp4", "out", Recipe(find_sheet("wide"))) for _ in range(2))
    data = path.read_bytes()
    for damaged in flips(data, 3, 300):
        path.write_bytes(damaged)
        for beside in tmp_path.glob("list.sqlite-*"):
            beside.unlink()
        try:
            with BatchList(path) as jobs:
                for item in jobs.items():
                    assert item.state is not None and item.job.master is not None
        except CaracalError as problem:
            assert "\n" not in problem.sentence()


def test_a_flipped_bit_in_what_is_cached_is_noticed(tmp_path):
    """Analyses are used unseen: one that a bit has changed in is made again."""
    film = write_film(tmp_path / "film.mp4", frames=30)
    first = analyse(film, root=tmp_path / "cache")
    store = AnalysisStore(first.content_key, tmp_path / "cache")
    for name in ("analysis.msgpack", "source.msgpack"):
        path = store.folder / name
        data = path.read_bytes()
        for damaged in flips(data, name, 80):
            path.write_bytes(damaged)
            assert analysed_before(film, tmp_path / "cache") is None
        path.write_bytes(data)
        assert analysed_before(film, tmp_path / "cache") is not None


def test_unfinished_work_goes_on_from_the_last_shot_that_is_sound(tmp_path):
    from caracal.core.analysis.film_pass.builder import EndedShot
    from caracal.core.analysis.film_pass.unfinished import KeptShot
    from caracal.core.analysis.model import Boundary, FoundShot, Transition

    film = tmp_path / "film.mp4"
    film.write_bytes(b"a film")
    kept = Unfinished(film, tmp_path / "proxy.mp4")
    kept.begin()
    shot = EndedShot(FoundShot(0, 9, Transition.START, None, (0.0,), 3), (), (), b"c", (0.5,))
    shots = [KeptShot(shot, Boundary(9 * i, Transition.CUT), (b"", b"")) for i in range(1, 4)]
    for each in shots:
        kept.keep(each)
    assert kept.begin() == shots
    path = tmp_path / "proxy" / "shots"
    data = path.read_bytes()
    for damaged in flips(data, 5, 100):
        path.write_bytes(damaged)
        found = kept.begin()
        assert found == shots[: len(found)]  # never one that is not what was kept


def test_sealed_data_says_what_was_sealed_and_nothing_else():
    value = {"text": "Käse", "numbers": [1, 2, 3]}
    data = sealed(value)
    assert unsealed(data, dict) == value
    for i in range(len(data) * 8):
        changed = bytearray(data)
        changed[i // 8] ^= 1 << i % 8
        with pytest.raises(DecodeError):
            unsealed(bytes(changed), dict)
    for cut in range(len(data)):
        with pytest.raises(DecodeError):
            unsealed(data[:cut], dict)


@pytest.mark.parametrize("data", [
    b"\xa1\xff", b"\x91" * 100_000, b"\xdd\xff\xff\xff\xff", b"", b"\xc1",
    struct.pack(">B", 0xDB) + b"\xff\xff\xff\xff"])
def test_whatever_msgpack_holds_is_one_kind_of_error(data):
    with pytest.raises(DecodeError):
        decode_msgpack(data, list[str])


@pytest.mark.timeout(60)
def test_a_pipe_at_a_name_of_ours_is_read_by_nobody(tmp_path, monkeypatch):
    """It would be waited for, for ever: a cache, unfinished work, a record, a catalogue."""
    film = write_film(tmp_path / "film.mp4", frames=30)
    store = AnalysisStore(analyse(film, root=tmp_path / "cache").content_key, tmp_path / "cache")
    for name in ("analysis.msgpack", "source.msgpack"):
        (store.folder / name).unlink()
        os.mkfifo(store.folder / name)
        assert analysed_before(film, tmp_path / "cache") is None
    assert analyse(film, root=tmp_path / "cache") is not None
    assert analysed_before(film, tmp_path / "cache") is not None
    kept = Unfinished(film, tmp_path / "proxy.mp4")
    (tmp_path / "proxy").mkdir()
    os.mkfifo(tmp_path / "proxy" / "shots")
    assert kept.begin() == []
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path / "config"))
    monkeypatch.setenv("LANGUAGE", "eo")
    (tmp_path / "state").mkdir()
    os.mkfifo(tmp_path / "state" / "integrated.json")
    catalogue = tmp_path / "config" / "locale" / "eo" / "LC_MESSAGES" / "caracal.mo"
    catalogue.parent.mkdir(parents=True)
    os.mkfifo(catalogue)
    done = subprocess.run(command("cli", "integrate", "--into", str(tmp_path / "data")),
                          env=environment(), capture_output=True, text=True, timeout=30,
                          check=False)
    assert done.returncode == 0, done.stderr
    os.mkfifo(tmp_path / "pipe")
    for flags in (os.O_WRONLY, os.O_WRONLY | os.O_APPEND, os.O_RDWR):
        with pytest.raises(OSError) as told:
            open_own(tmp_path / "pipe", flags)
        assert told.value.errno in (errno.ELOOP, errno.ENXIO)
