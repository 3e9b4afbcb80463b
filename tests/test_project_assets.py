"""The files that a project shows: found again when they were moved, gathered beside it, never
replaced."""

import msgspec
import pytest
from PIL import Image

from caracal.core.base.errors import InputError
from caracal.core.layout.card import Card
from caracal.core.layout.kinds import stack
from caracal.core.layout.model import Clip, PictureFile, Still
from caracal.core.layout.overlay import Overlay
from caracal.core.layout.shipped_assets import graphic, moving_backdrop
from caracal.core.project.assets import (
    files_of,
    gathered,
    references,
    with_files_called,
    with_files_found,
)
from caracal.core.project.edits import changed_version, with_layout
from caracal.core.project.model import first_project
from caracal.core.project.storage import document, open_document, write_document
from caracal.core.specs.sheet_store import find_sheet


@pytest.fixture
def shown(tmp_path):
    """A project that shows a logo, a clip, a still and what ships, and the folder of its files."""
    folder = tmp_path / "media"
    folder.mkdir()
    Image.new("RGB", (40, 40), (200, 30, 30)).save(folder / "logo.png")
    (folder / "clip.mp4").write_bytes(b"c" * 5000)
    (folder / "still.mp4").write_bytes(b"s" * 5000)
    logo, clip, still = (str(folder / name) for name in ("logo.png", "clip.mp4", "still.mp4"))
    project = changed_version(
        first_project(200), "A",
        overlays=(Overlay(PictureFile(logo), 0, 50), Overlay(graphic("Burst"), 0, 50)),
        opening=Card(20, moving_backdrop("Tide"), (Overlay(PictureFile(logo), 0, 20),)))
    layout = stack(find_sheet("vertical-short").frame)
    panes = tuple(msgspec.structs.replace(pane, content=content) for pane, content in zip(
        layout.panes, (Clip(clip), Still(still, 2.0)), strict=True))
    return with_layout(project, "B", 0, msgspec.structs.replace(layout, panes=panes)), folder


def test_all_files_of_a_project_are_known_and_none_that_ships(shown):
    project, folder = shown
    assert sorted(files_of(project)) == [
        str(folder / name) for name in ("clip.mp4", "logo.png", "still.mp4")]
    renamed = with_files_called(project, lambda name: name.replace("media", "other"))
    assert all("other" in name for name in files_of(renamed))
    assert with_files_called(renamed, lambda name: name.replace("other", "media")) == project


def test_files_that_were_moved_are_found_by_what_they_contain(shown, tmp_path, demo):
    project, folder = shown
    saved = tmp_path / "work" / "kiln.caracal"
    saved.parent.mkdir()
    write_document(saved, document(demo, project))
    assert open_document(saved).project == project
    moved = saved.parent / "pictures"
    folder.rename(moved)
    (moved / "logo.png").rename(moved / "renamed.png")
    Image.new("RGB", (40, 40), (0, 0, 0)).save(moved / "logo.png")  # another of its name
    found = open_document(saved).project
    assert sorted(files_of(found)) == [
        str(moved / name) for name in ("clip.mp4", "renamed.png", "still.mp4")]
    (moved / "clip.mp4").unlink()
    assert str(folder / "clip.mp4") in files_of(open_document(saved).project)  # told where it was


def test_files_are_gathered_and_nothing_is_replaced(shown, tmp_path):
    project, folder = shown
    beside = tmp_path / "kiln files"
    beside.mkdir()
    (beside / "logo.png").write_bytes(b"somebody's own")
    made = gathered(project, beside)
    assert (beside / "logo.png").read_bytes() == b"somebody's own"
    assert sorted(files_of(made)) == [
        str(beside / name) for name in ("clip.mp4", "logo 2.png", "still.mp4")]
    assert (beside / "logo 2.png").read_bytes() == (folder / "logo.png").read_bytes()
    assert gathered(made, beside) == made and len(list(beside.iterdir())) == 4
    (folder / "clip.mp4").unlink()
    with pytest.raises(InputError, match=r"clip\.mp4"):
        gathered(project, tmp_path / "elsewhere")
    assert not list((tmp_path / "elsewhere").glob("*.part"))


def test_nothing_is_read_that_has_another_size(shown, tmp_path, monkeypatch):
    """A folder of large films is not read through for one clip that is gone."""
    from caracal.core.project import assets

    project, folder = shown
    known = references(project)
    beside = tmp_path / "work"
    beside.mkdir()
    for number in range(5):
        (beside / f"{number}.mp4").write_bytes(b"x" * (5001 + number))
    (beside / "same size.mp4").write_bytes(b"x" * 5000)
    (folder / "clip.mp4").unlink()
    read = []
    monkeypatch.setattr(assets, "content_key", lambda path: read.append(path.name) or "other")
    assert with_files_found(project, known, beside) == project
    assert read == ["same size.mp4"]


def test_what_is_missing_when_it_is_saved_is_no_problem(tmp_path):
    project = changed_version(first_project(100), "A",
                              overlays=(Overlay(PictureFile(str(tmp_path / "no.png")), 0, 9),))
    assert references(project) == ()
    assert with_files_found(project, (), tmp_path) is project


def test_the_window_gathers_beside_the_saved_project(window, shown, tmp_path, qtbot):
    project, _ = shown
    session, files = window.film.session, window.film.files
    with qtbot.waitSignal(session.said) as told:
        files.gather()
    assert "Save the project first" in told.args[0]
    session.edit(changed_version(session.project, "A", overlays=project.version("A").overlays),
                 "laid over")
    files.save_to(tmp_path / "kiln.caracal")
    files.wait()
    files.gather()
    beside = tmp_path / "kiln files" / "logo.png"
    qtbot.waitUntil(lambda: files_of(session.project) == (str(beside),), timeout=10_000)
    assert beside.is_file() and session.document.unsaved
