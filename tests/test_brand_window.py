"""The Brand page of Words, and captions styled apart, as a person uses them."""

import pytest
from PySide6.QtCore import Qt

from caracal.core.base.resources import shipped
from caracal.core.layout.model import PictureFile
from caracal.core.project.brand import Corner, is_logo
from caracal.core.project.caption_edits import with_captions
from caracal.core.text.caption_look import CaptionManner
from caracal.core.text.cues import Cue
from caracal.ui.shell.demo_version import BRAND_FILE
from conftest import settled

CUES = tuple(Cue(at, at + 1.5, f"Caption {at}") for at in range(2, 20, 2))


@pytest.fixture
def words(window):
    session = window.film.session
    session.edit(with_captions(session.project, CUES), "captions")
    window.film.show_view("Words")
    session.choose_version("A")
    return window.film.words


def test_a_brand_is_opened_and_dresses_every_version(words, window, qtbot, tmp_path):
    session, panel = window.film.session, words.brand
    words.show_page("Brand")
    assert "no brand yet" in panel.told.text() and panel.dress.isHidden()
    panel.open(shipped("demo", BRAND_FILE))
    session.assets.wait()
    assert panel.name.text() == "Brand: Marram Quay" and panel.dress.isVisible()
    assert "shows no logo" in panel.told.text()
    qtbot.mouseClick(panel.dress_all, Qt.MouseButton.LeftButton)
    session.assets.wait()
    settled(session)
    brand = session.project.brand
    for version in session.project.versions:
        assert sum(is_logo(brand, overlay) for overlay in version.overlays) == 1
        assert version.look.manner is CaptionManner.WORDS and version.closing is not None
    assert "follows the brand" in panel.told.text()
    panel.corner.setCurrentIndex(list(Corner).index(Corner.LOW_LEFT))
    panel.corner.activated.emit(list(Corner).index(Corner.LOW_LEFT))
    assert session.project.brand.corner is Corner.LOW_LEFT
    qtbot.mouseClick(panel.dress, Qt.MouseButton.LeftButton)
    session.assets.wait()
    (mark,) = (each for each in session.project.version("A").overlays if is_logo(brand, each))
    assert mark.region[0][1] < 0.5 < mark.region[1][0]
    for _ in range(4):
        session.document.undo()
    assert session.project.brand is None and not session.project.version("B").overlays
    panel.save(tmp_path / "from-here.toml")
    session.assets.wait()
    assert session.project.brand.name == "From Here" and (tmp_path / "from-here.toml").is_file()
    qtbot.mouseClick(panel.away, Qt.MouseButton.LeftButton)
    assert session.project.brand is None


def test_what_is_no_brand_is_said(words, window, tmp_path):
    told = []
    window.film.session.said.connect(told.append)
    (tmp_path / "x.toml").write_text("name = 1")
    words.brand.open(tmp_path / "x.toml")
    window.film.session.assets.wait()
    assert "not a brand" in told[-1] and window.film.session.project.brand is None


def test_one_of_two_logos_is_put_on_by_its_picture(words, window, qtbot):
    session, panel = window.film.session, words.brand
    words.show_page("Brand")
    panel.open(shipped("demo", BRAND_FILE))
    session.assets.wait()
    buttons = [panel.logos.itemAt(place).widget() for place in range(panel.logos.count())]
    dark = next(button for button in buttons
                if button is not None and button.accessibleName() == "Logo for dark pictures")
    session.assets.wait()
    assert not dark.icon().isNull()
    qtbot.mouseClick(dark, Qt.MouseButton.LeftButton)
    session.assets.wait()
    (overlay,) = session.project.version("A").overlays
    assert isinstance(overlay.content, PictureFile) and "light.svg" in overlay.content.path
    assert session.project.version("A").closing is None  # nothing else of the brand
    assert session.project.brand.captions is not None


def test_captions_chosen_in_the_list_get_a_look_of_their_own(words, window, qtbot):
    session, panel = window.film.session, words.captions
    words.list.table.selectRow(2)
    assert words.list.chosen() == [2]
    qtbot.mouseClick(panel.apart, Qt.MouseButton.LeftButton)
    (stretch,) = session.project.version("A").look.stretches
    assert (stretch.start, stretch.end_exclusive) == (150, 188)  # 6.0 to 7.5 s at 25 fps
    assert panel.stretch == 0 and "captions from" in panel.whose.text() and panel.shared.isVisible()
    panel.lines.setValue(1)
    look = session.project.version("A").look
    assert look.stretches[0].look.most_lines == 1 and look.most_lines == 2
    panel.shown.click()
    assert session.project.version("A").look.stretches[0].look is None
    track = session.captions.track(session, "A", session.analysis.shot_at(160))
    assert track.at(160) is None
    session.go(60)
    assert panel.stretch is None and "all" in panel.whose.text() and panel.shared.isHidden()
    panel.lines.setValue(3)
    assert session.project.version("A").look.most_lines == 3
    session.go(160)
    qtbot.mouseClick(panel.shared, Qt.MouseButton.LeftButton)
    assert session.project.version("A").look.stretches == ()
    for _ in range(5):
        session.document.undo()
    assert session.project.version("A").look.most_lines == 2
