"""The demo film dressed: every layout once, captions in two styles, titles, a mark, cards."""

from itertools import pairwise

import msgspec

from caracal.core.base.time import FrameRange
from caracal.core.convert import convert
from caracal.core.layout.kinds import KINDS
from caracal.core.layout.model import PictureFile
from caracal.core.layout.overlay import Shape
from caracal.core.project.recipe import recipe_of
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.style import Title
from caracal.ui.shell.demo_version import dressed, is_plain
from conftest import DEMO, open_window


def test_one_version_shows_every_layout_once_and_all_that_can_be_laid_over(demo):
    project = dressed(demo)
    letter = project.versions[-1].letter
    shown = [project.choice(letter, shot).layout.kind for shot in range(len(demo.shots))]
    kinds = [kind.make(find_sheet("tall-feed").frame).kind for kind in KINDS]
    assert all(shown.count(kind) == 1 for kind in kinds if kind != "fill"), shown
    version = project.version(letter)
    contents = [overlay.content for overlay in version.overlays]
    assert {type(content) for content in contents} == {Title, PictureFile, Shape}
    assert version.opening is not None and version.fades.begin
    assert all(each.closing is not None for each in project.versions)
    assert len({each.look for each in project.versions}) == 2
    assert all(earlier.end_s <= later.start_s for earlier, later in pairwise(project.captions))


def test_its_files_are_proved(demo, tmp_path):
    """The beginning of the version that shows everything, with its cards."""
    project = dressed(demo)
    letter = project.versions[-1].letter
    sheet = with_value(find_sheet("tall-feed"), "canvas", (180, 270))
    recipe = msgspec.structs.replace(
        recipe_of(project, letter, sheet), ranges=(FrameRange(440, 470),))
    (made,) = convert(DEMO, [recipe], tmp_path)
    assert made.proof.right, made.proof.lines


def test_the_demo_button_dresses_it_once_and_undo_gives_the_plain_film(
        qtbot, qapp, demo, tmp_path, monkeypatch):
    from caracal.ui.shell.demo_film import open_demo

    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    window = open_window(qtbot, qapp, tmp_path)
    window.close_film()
    window.start.demo_button.click()
    qtbot.waitUntil(lambda: window.film is not None and len(
        window.film.session.project.versions) == 4, timeout=60_000)
    session = window.film.session
    assert session.project == dressed(session.analysis)
    session.document.undo()
    assert is_plain(session.project, session.analysis)
    session.choose_version("B")
    session.edit(msgspec.structs.replace(session.project, names=("Marram",)), "mine")
    window.film.files.keep()
    window.film.files.wait()
    open_demo(window)
    qtbot.waitUntil(lambda: window.film is not None and window.film.session is not session,
                    timeout=60_000)
    qtbot.wait(400)
    assert window.film.session.project.names == ("Marram",)  # own work is never dressed over
    window.close()
