"""The Batch view on the demo film: versions, what stands in the way, the list and the proofs."""

from types import SimpleNamespace

import msgspec
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialogButtonBox

from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import FrameRange
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import EncodeJob, JobStatus, State
from caracal.core.convert import Recipe
from caracal.core.project.edits import with_version
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet, keep_sheet, own_folder
from caracal.ui.batch.encoded_picture import frame_at
from caracal.ui.services.batch_controller import BatchController
from caracal.ui.sheets.differences import Differences

pytestmark = pytest.mark.usefixtures("small_sheets")

LEFT = Qt.MouseButton.LeftButton
KINDS = {"Tall feed": "tall-feed"}


@pytest.fixture
def batch(window):
    """The view, with the first 84 frames as range and versions that are quick to make."""
    session, batch = window.film.session, window.film.batch
    window.film.show_view("Batch")
    for name in ("vertical-short", "square-feed", "portrait-feed"):
        sheet = session.sheets.by_name[name]
        width, height = sheet.canvas
        small = (width // 6, height // 6 // 2 * 2)
        session.sheets.by_name[name] = with_value(sheet, "canvas", small)
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(0, 84)), "Range set.")
    return batch


def sentences(batch):
    batch.versions.plan.finish()
    return [concern.sentence for concern in batch.versions.plan.concerns]


def texts(view, row):
    model = view.model()
    return [model.index(row, column).data() for column in range(model.columnCount())]


def test_versions_are_made_and_proved_from_the_list(batch, window, qtbot, tmp_path):
    with qtbot.waitSignal(batch.working.over, timeout=120_000):
        qtbot.keyClick(window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        assert batch.running and len(batch.added()) == 3
    assert batch.added() == [State.DONE] * 3
    assert len(list((tmp_path / "out").iterdir())) == 3
    assert texts(batch.lines.table, 0)[0] == "done"
    assert "properties right" in batch.proofs.head.text()
    assert batch.proofs.table.model().rowCount() == 0  # what is right is folded
    batch.proofs.all.click()
    assert batch.proofs.table.model().rowCount() > 20
    batch.bundle_to(tmp_path / "bundle")
    assert batch.handing.wait(20_000)
    assert (tmp_path / "bundle" / "manifest-sha256.txt").is_file()


def test_stopped_lines_leave_nothing_and_are_made_when_tried_again(batch, qtbot, tmp_path):
    with qtbot.waitSignal(batch.working.over, timeout=60_000):
        batch.start()
        batch.lines.table.selectAll()
        qtbot.mouseClick(batch.lines.buttons["Stop"], LEFT)
    assert set(batch.added()) == {State.STOPPED} and not list((tmp_path / "out").glob("*"))
    batch.lines.table.selectRow(1)
    with qtbot.waitSignal(batch.working.over, timeout=60_000):
        qtbot.mouseClick(batch.lines.buttons["Retry"], LEFT)
    assert batch.added() == [State.STOPPED, State.DONE, State.STOPPED]


def test_what_waits_is_there_again_after_a_restart(batch, window, qtbot):
    jobs = batch.working.jobs
    jobs.paused = True
    batch.start()
    window.close_film()
    window.open_film(DEMO_FILM)
    qtbot.waitUntil(lambda: window.film is not None, timeout=20_000)
    again = window.film.batch
    assert [item.state for item in again.working.items] == [State.WAITING] * 3
    assert again.lines.buttons["Pause"].text() == "Resume"


def test_a_line_that_was_in_the_making_in_a_crash_waits_again(qtbot, batch, tmp_path):
    batch.working.jobs.paused = True
    batch.start()
    with BatchList(tmp_path / "crashed.sqlite") as jobs:
        (number, *_) = jobs.add(item.job for item in batch.working.items)
        jobs.put(number, State.ENCODING, JobStatus())
        jobs.paused = True
    again = BatchController(tmp_path / "crashed.sqlite")
    again.go_on()  # pressed at once: it starts when the list is right
    qtbot.waitUntil(lambda: again.running and State.WAITING in {item.state for item in again.items},
                    timeout=20_000)
    again.stop()
    again.close()


def test_lines_are_moved_and_forgotten(batch, qtbot):
    batch.working.jobs.paused = True
    batch.start()
    lines = batch.lines
    first = [item.job.recipe.label for item in batch.working.items]
    lines.table.selectRow(0)
    qtbot.mouseClick(lines.buttons["Down"], LEFT)
    moved = [item.job.recipe.label for item in batch.working.items]
    assert moved == [first[1], first[0], first[2]]
    assert lines.chosen()[0].job.recipe.label == first[0]
    qtbot.mouseClick(lines.buttons["Remove"], LEFT)
    assert len(batch.working.items) == 2


def test_concerns_stop_or_tell_and_lead_to_the_shot(batch, window, qtbot):
    session = window.film.session
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(0, 1500)), "Whole film.")
    assert any("The edge cuts words" in sentence for sentence in sentences(batch))
    (item,) = [batch.versions.list.item(i) for i in range(batch.versions.list.count())
               if batch.versions.list.item(i).text().startswith("B   Shot 1:")]
    batch.versions.list.itemClicked.emit(item)
    assert window.film.view == "Aim" and (session.letter, session.shot) == ("B", 0)
    window.film.show_view("Batch")
    sheets = session.sheets.by_name
    sheets["square-feed"] = with_value(sheets["square-feed"], "duration.most_s", 30)
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(0, 1400)), "Range.")
    assert any("exceeds the 30 s limit of Square feed" in sentence for sentence in sentences(batch))
    batch.start()
    assert batch.added() == []


def test_a_version_that_is_too_long_is_fitted_to_a_pause(batch, window, qtbot):
    session = window.film.session
    sheets = session.sheets.by_name
    sheets["square-feed"] = with_value(sheets["square-feed"], "duration.most_s", 20)
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(0, 700)), "Range set.")
    batch.versions.table.selectRow(1)
    qtbot.mouseClick(batch.versions.bar.fit, LEFT)
    qtbot.waitUntil(lambda: session.project.version("B").ranges != (), timeout=20_000)
    (span,) = session.project.version("B").ranges
    assert 13 <= len(span) / 25 <= 20
    session.document.undo()
    assert session.project.version("B").ranges == ()


def test_versions_have_names_ranges_and_other_destinations(batch, window, qtbot):
    session, versions = window.film.session, batch.versions
    model = versions.table.model()
    model.setData(model.index(0, 2), "Teaser", Qt.ItemDataRole.EditRole)
    assert session.project.version("A").name == "Teaser"
    versions.table.selectRow(0)
    versions.bar.edits.take_range()
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(200, 300)), "Range.")
    versions.bar.edits.join_range()
    assert session.project.version("A").ranges == (FrameRange(0, 84), FrameRange(200, 300))
    assert texts(versions.table, 0)[4] == "0:07 in 2"
    titles = [versions.bar.give.itemText(i) for i in range(versions.bar.give.count())]
    wanted = next(i for i, title in enumerate(titles) if "Lantern" in title)
    versions.bar.give.activated.emit(wanted)
    dialog = versions.findChild(Differences)
    (box,) = dialog.findChildren(QDialogButtonBox)
    shown = dialog._rows.rows
    assert any(row[0].text == "duration, most s" and row[2].text == "15" for row in shown)
    qtbot.mouseClick(box.buttons()[0], LEFT)
    assert session.project.version("A").sheet == "lantern"
    assert session.project.version("A").ranges[1] == FrameRange(200, 300)


def test_versions_are_added_and_removed(batch, window, qtbot):
    session, versions = window.film.session, batch.versions
    titles = [versions.bar.add.itemText(i) for i in range(versions.bar.add.count())]
    wanted = next(i for i, title in enumerate(titles) if "Tall feed" in title)
    versions.bar.add.activated.emit(wanted)
    assert session.project.versions[-1].sheet == "tall-feed"
    versions.table.selectRow(3)
    qtbot.mouseClick(versions.bar.remove, LEFT)
    assert len(session.project.versions) == 3
    model = versions.table.model()
    model.setData(model.index(0, 0), Qt.CheckState.Unchecked.value,
                  Qt.ItemDataRole.CheckStateRole)
    assert versions.plan.wanted_letters() == ["B", "C"]


def test_rows_are_those_of_the_project_while_concerns_are_worked_out(batch, window, monkeypatch):
    session, versions = window.film.session, batch.versions
    monkeypatch.setattr("caracal.ui.services.slices.SLICE_S", 0.0)
    versions.bar.add.activated.emit(1)
    assert versions.plan.is_working
    assert versions.table.model().rowCount() == 4
    versions.table.selectRow(3)
    versions.bar.remove.click()
    assert versions.plan.is_working and versions.table.model().rowCount() == 3
    assert [version.letter for version in session.project.versions] == ["A", "B", "C"]
    assert {concern.letter for concern in versions.plan.concerns} <= {"", "A", "B", "C"}
    versions.plan.finish()
    assert not versions.plan.is_working


def test_a_version_given_to_the_client_keeps_its_canvas(batch, window):
    session, versions = window.film.session, batch.versions
    before = session.project
    titles = [versions.bar.add.itemText(i) for i in range(versions.bar.add.count())]
    versions.table.selectRow(1)
    versions.bar.add.activated.emit(titles.index("Client master, as made"))
    letter = session.project.versions[-1].letter
    assert session.sheet(letter).canvas == session.sheet("B").canvas
    assert versions.plan.jobs()[-1].recipe.sheet.name == session.project.versions[-1].sheet
    session.renew_sheets()
    assert session.sheet(letter).video.codec == "prores"
    session.edit(before, "")


def test_a_trial_tells_size_and_time(batch, window, qtbot):
    versions = batch.versions
    versions.plan.expectations.due.emit()
    qtbot.waitUntil(lambda: ", 0:" in texts(versions.table, 0)[5], timeout=60_000)
    assert versions.total.text().startswith("3 ticked: ")
    versions.table.model().setData(versions.table.model().index(2, 0),
                                   Qt.CheckState.Unchecked.value, Qt.ItemDataRole.CheckStateRole)
    total = sum(map(versions.plan.expectations.size_mb, "AB"))
    assert f"2 ticked: {total:.0f} MB" in versions.total.text()


def test_a_watched_folder_feeds_the_list(batch, qtbot, tmp_path):
    folder = tmp_path / "in"
    folder.mkdir()
    batch.watch_folder(folder)
    assert batch.watch.text() == "Watching: stop"
    batch.working.jobs.paused = True
    (folder / "new.mp4").write_bytes(DEMO_FILM.read_bytes())
    qtbot.waitUntil(lambda: len(batch.working.items) == 3, timeout=20_000)
    qtbot.mouseClick(batch.watch, LEFT)
    assert batch.watch.text() == "Watch a folder…"


def test_an_own_sheet_that_is_broken_stops_nothing(window, qtbot):
    keep_sheet(msgspec.structs.replace(find_sheet("plaza"), name="mine"))
    own = own_folder()
    (own / "odd.toml").write_text("name = 3\n")
    try:
        window.film.session.renew_sheets()
        assert "mine" in window.film.session.sheets.by_name
        assert any("odd.toml" in sheet for sheet in window.film.session.sheets.broken)
    finally:
        for path in own.glob("*.toml"):
            path.unlink()


def test_two_hundred_lines_change_only_what_differs(window, qtbot):
    """The table asks for a repaint of the one line that changed."""
    batch = window.film.batch
    jobs: BatchList = batch.working.jobs
    numbers = jobs.add([EncodeJob(str(DEMO_FILM), "/nowhere", Recipe(find_sheet("plaza")))] * 200)
    batch.working.renew()
    changed = []
    batch.lines.table.model().dataChanged.connect(lambda a, b: changed.append((a.row(), b.row())))
    jobs.put(numbers[7], State.FAILED, JobStatus(problem="No reason."))
    batch.working.renew()
    assert changed == [(7, 7)]


def test_versions_beyond_the_alphabet_are_refused_in_words(window):
    session = window.film.session
    project = session.project
    for _ in range(23):
        project = with_version(project, "plaza")
    session.edit(project, "added")
    said = []
    session.said.connect(said.append)
    window.film.batch.versions.bar.add.activated.emit(1)
    assert any("at most 26 versions" in sentence for sentence in said)


def test_the_picture_that_is_encoded_is_found_by_its_share_of_the_time():
    """By hand: 100 frames, then 50 frames at half speed, which last 100: half of it is frame 300,
    three quarters the middle of the second range."""
    ranges = (FrameRange(0, 100), FrameRange(300, 350, 50))
    assert [frame_at(ranges, share) for share in (0, 0.25, 0.5, 0.75, 1)] == [0, 50, 300, 325, 349]


def test_a_finished_file_is_played_and_its_folder_opened(batch, tmp_path, monkeypatch):
    opened = []
    monkeypatch.setattr("caracal.ui.batch.proofs.QDesktopServices.openUrl",
                        lambda url: opened.append(url.toLocalFile()) or True)
    said = []
    batch.proofs.said.connect(said.append)
    made = tmp_path / "a.mp4"
    batch.proofs._made = [SimpleNamespace(file=str(made))]
    batch.proofs.play.click()
    assert not opened and "was moved or deleted" in said[0]
    made.write_bytes(b"a film")
    batch.proofs.play.click()
    batch.proofs.folder.click()
    assert opened == [str(made), str(tmp_path)]
    batch.proofs._made = []
