"""Overlays in the window: laid from the panel, handled on the canvas, undone, kept."""

import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt

from caracal.core.base.resources import asset_file
from caracal.core.base.time import FrameRange
from caracal.core.layout.entrance import Entry
from caracal.core.layout.model import Clip
from caracal.core.layout.overlay import BlendMode, OwnSound, Shape, ShapeKind
from caracal.core.layout.shipped_assets import GRAPHICS
from caracal.core.project.storage import read_document
from caracal.core.render.assets.pictures import open_picture
from caracal.ui.canvases.overlay_handles import overlay_at
from caracal.ui.widgets.form import Fold
from conftest import drag, settled, write_film

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def panel(aim):
    aim.side.show_page("Overlays")
    return aim.overlays


def _held(window, letter="A"):
    return window.film.session.project.version(letter).overlays


def test_shapes_and_pictures_are_laid_and_taken_away(window, panel, qtbot, tmp_path):
    session = window.film.session
    Image.new("RGB", (300, 100), (200, 30, 30)).save(tmp_path / "logo.png")
    panel.shapes.activated.emit(1 + list(ShapeKind).index(ShapeKind.CIRCLE))
    panel.add_file(tmp_path / "logo.png")
    window.film.session.assets.wait()
    assert [overlay.name for overlay in _held(window)] == ["Circle", "logo.png"]
    assert panel.list.count() == 2 and panel.list.item(0).text().startswith("logo.png")
    assert _held(window)[0].start == session.frame and panel.number == 1
    qtbot.mouseClick(panel.buttons["Backward"], LEFT)
    assert [overlay.name for overlay in _held(window)] == ["logo.png", "Circle"]
    assert panel.number == 0  # the same one is chosen still
    qtbot.keyClick(panel.list, Qt.Key.Key_Delete)
    assert [overlay.name for overlay in _held(window)] == ["Circle"]
    for _ in range(4):
        session.document.undo()
    assert not _held(window) and not panel.list.count()
    assert not panel.made_of.isVisible()


def test_one_overlay_too_many_is_told(window, panel, monkeypatch):
    monkeypatch.setattr("caracal.core.project.overlay_edits.MOST_OVERLAYS", 1)
    panel.add_shape(ShapeKind.CIRCLE)
    panel.add_shape(ShapeKind.ARROW)
    assert [overlay.name for overlay in _held(window)] == ["Circle"]
    assert "at most 1 overlays" in window.statusBar().currentMessage()


def test_an_overlay_lies_over_every_version_in_its_proportions(window, panel, qtbot):
    panel.add_shape(ShapeKind.CIRCLE)
    qtbot.mouseClick(panel.buttons["Apply to all versions"], LEFT)
    session = window.film.session
    for letter in "ABC":
        (made,) = _held(window, letter)
        width, height = session.sheet(letter).canvas
        (left, right), (top, bottom) = made.region
        assert (right - left) * width == pytest.approx((bottom - top) * height)  # round still
        assert (right - left) * width == pytest.approx(0.3 * 1080)
    session.document.undo()
    assert not _held(window, "B") and _held(window)


def test_a_shot_is_pushed_in_from_the_panel_of_its_finish(window, aim):
    session, finish = window.film.session, aim.finish
    finish.push.setValue(20)
    settled(session)
    assert session.project.choice("A", 0).push == pytest.approx(1.2)
    wide = session.path("A", 0).windows[:, 2]
    assert wide[0] / wide[-1] == pytest.approx(1.2)
    finish.push.setValue(-20)
    assert session.project.choice("A", 0).push == pytest.approx(1 / 1.2, abs=1e-4)
    finish.push.setValue(0)
    assert not session.project.choice("A", 0).touched


def test_every_field_of_an_overlay_is_set_and_shown(window, panel, qtbot):
    session, fields = window.film.session, panel.fields
    panel.add_shape(ShapeKind.RECTANGLE)
    for name, value in (("Left", 10), ("Top", 20), ("Width", 40), ("Height", 15), ("Opacity", 60),
                        ("Corner radius", 25), ("Transition time", 0.8)):
        fields.numbers[name].setValue(value)
    fields.choices["Appear"].activated.emit(list(Entry).index(Entry.SLIDE))
    fields.choices["Blend mode"].activated.emit(list(BlendMode).index(BlendMode.SCREEN))
    panel.set_colour("#204060")
    panel.set_colour("#8090a0", "other")
    session.go(session.frame + 20)
    qtbot.mouseClick(panel.buttons["To playhead"], LEFT)
    (made,) = _held(window)
    (left, right), (top, bottom) = made.region
    assert (left, top, right - left, bottom - top) == pytest.approx((0.1, 0.2, 0.4, 0.15))
    assert (made.opacity, made.radius, made.moving) == (0.6, 0.25, 20)
    assert made.entry is Entry.SLIDE and made.exit is Entry.FADE
    assert made.blend is BlendMode.SCREEN and made.end_exclusive == session.frame + 1
    assert made.content == Shape(ShapeKind.RECTANGLE, "#204060", "#8090a0")
    assert fields.choices["Appear"].currentText() == "Slide"
    session.go(made.start - 5)
    qtbot.mouseClick(panel.buttons["To playhead"], LEFT)  # it would end before it begins
    assert _held(window) == (made,)
    assert "before it begins" in window.statusBar().currentMessage()
    qtbot.mouseClick(panel.buttons["Whole version"], LEFT)
    assert (_held(window)[0].start, _held(window)[0].end_exclusive) == (0, 1500)


def test_an_overlay_is_dragged_and_made_larger_on_the_canvas(window, aim, panel, qtbot):
    session, canvases = window.film.session, aim.canvases
    panel.add_shape(ShapeKind.CIRCLE)
    session.go(session.frame + 12)
    rect = canvases.rects()[0]

    def at(x, y):
        return QPointF(rect.left() + x * rect.width(), rect.top() + y * rect.height()).toPoint()

    drag(qtbot, canvases, at(0.5, 0.5), at(0.5, 0.8))
    (left, right), (top, bottom) = _held(window)[0].region
    assert (top + bottom) / 2 == pytest.approx(0.8, abs=0.02)
    assert (left + right) / 2 == pytest.approx(0.5, abs=0.02)
    drag(qtbot, canvases, at(right, bottom), at(right + 0.15, bottom))
    (wider_left, wider_right), (above, below) = _held(window)[0].region
    assert wider_right - wider_left == pytest.approx(right - left + 0.3, abs=0.05)
    ratio = (below - above) / (wider_right - wider_left)
    assert ratio == pytest.approx((bottom - top) / (right - left))  # it keeps its shape
    session.document.undo()
    session.document.undo()
    assert sum(_held(window)[0].region[1]) / 2 == pytest.approx(0.5)
    drag(qtbot, canvases, at(0.5, 0.5), at(9, 9))  # some of it stays within reach
    assert [low for low, _ in _held(window)[0].region] == pytest.approx([0.97, 0.97])


def test_fades_are_set_and_saved_with_the_project(window, panel, tmp_path, qtbot):
    session = window.film.session
    panel.add_shape(ShapeKind.LINE)
    window.film.aim.finish.fades.lengths["Fade in"].setValue(0.4)
    window.film.aim.finish.fades.lengths["Fade out"].setValue(1.2)
    assert session.project.version("A").fades.begin == 10
    session.go(0)
    settled(session)
    canvas = (90, 160)
    qtbot.waitUntil(lambda: session.preview.get("A", 0, canvas) is not None, timeout=10_000)
    assert session.preview.get("A", 0, canvas).pixelColor(45, 80).lightness() == 0
    path = tmp_path / "kiln.caracal"
    window.film.files.save_to(path)
    window.film.files.wait()
    kept = read_document(path).project.version("A")
    assert kept.fades.end == 30 and kept.overlays[0].content.kind is ShapeKind.LINE


def test_an_overlay_over_a_face_is_flagged_until_it_is_moved(window, aim, panel, truth):
    session = window.film.session
    shot = next(i for i, each in enumerate(truth["shots"]) if each["name"] == "toast")
    session.go(session.analysis.shots[shot].start + 5)
    solution = session.solution("A", shot)
    settled(session)
    before = {flag.sentence for flag in session.flags("A", shot)}
    solution = session.solution("A", shot)
    lead = next(each for each in session.people.subjects(shot) if each.id == solution.path.lead)
    face, view = lead.essential_box_at(session.frame), solution.path.window(session.frame)
    left, top = (face[0] - view[0]) / view[2], (face[1] - view[1]) / view[3]
    panel.add_shape(ShapeKind.RECTANGLE)
    panel.fields.changed.emit("region", ((left, left + face[2] / view[2]),
                                         (top, top + face[3] / view[3])))
    said = {flag.sentence for flag in session.flags("A", shot)} - before
    assert said == {"An overlay covers the lead."}
    panel.fields.changed.emit("opacity", 0.3)
    assert {flag.sentence for flag in session.flags("A", shot)} == before
    session.document.undo()
    panel.fields.changed.emit("region", ((0.0, 0.1), (0.9, 1.0)))
    assert {flag.sentence for flag in session.flags("A", shot)} == before


def test_a_clip_lies_over_a_version_with_its_sound(aim, tmp_path, qtbot):
    panel, session = aim.overlays, aim._session
    clip = write_film(tmp_path / "clip.mp4", frames=30)
    panel.add_file(clip)
    qtbot.waitUntil(lambda: len(panel.overlays) == 1, timeout=20_000)
    (overlay,) = panel.overlays
    assert isinstance(overlay.content, Clip) and overlay.content.fit and overlay.name == "clip.mp4"
    aim.side.show_page("Overlays")
    panel.sync()
    next(fold for fold in panel.findChildren(Fold) if fold.inside.isAncestorOf(
        panel.sound)).button.click()
    assert panel.sound.isVisibleTo(panel.made_of) and overlay.sound is OwnSound.OFF
    panel.sound.setCurrentIndex(1)
    panel.sound.activated.emit(1)
    assert panel.overlays[0].sound is OwnSound.LOW
    (tmp_path / "bad.mp4").write_text("no film")
    with qtbot.waitSignal(session.said) as told:
        panel.add_file(tmp_path / "bad.mp4")
    assert "bad.mp4" in told.args[0] and len(panel.overlays) == 1


def test_a_graphic_that_ships_is_laid_over_and_drawn(aim):
    panel = aim.overlays
    for number in range(len(GRAPHICS)):
        panel._add_graphic(number)
    assert [overlay.name for overlay in panel.overlays][:2] == ["Arrow", "Curved arrow"]
    assert len(panel.overlays) == len(GRAPHICS) == 12
    canvas = aim._session.sheet("A").canvas
    for overlay in panel.overlays:  # each in its own proportions: Pillow's size of what is drawn
        (left, right), (top, bottom) = overlay.region
        ratio = (right - left) * canvas[0] / ((bottom - top) * canvas[1])
        if overlay.name in ("Arrow", "Underline", "Swipe up"):
            drawn = open_picture(asset_file(overlay.content.path))
            assert ratio == pytest.approx(drawn.width / drawn.height, rel=0.01)


def test_a_shot_is_slowed_and_its_stretch_is_changed(window, aim):
    session, row = window.film.session, aim.finish.speed
    aim.side.show_page("Finish")
    shot = session.analysis.shots[session.shot]
    before = session.project.ranges_of("A")
    row.percent.setValue(50)
    (speed,) = session.project.version("A").speeds
    assert speed == FrameRange(shot.start, shot.end, 50)
    assert "50 % of its speed" in session.told("A", session.shot).why
    assert "speed" not in session.told("B", session.shot).why
    session.go(shot.start + 10)
    row.buttons["From playhead"].click()
    assert session.project.version("A").speeds == (FrameRange(shot.start + 10, shot.end, 50),)
    assert "in part at 50 %" in session.told("A", session.shot).why
    row.sound.setCurrentIndex(1)
    row.sound.activated.emit(1)
    assert session.project.version("A").speeds[0].muted
    session.go(shot.start + 2)
    row.sync()
    assert row.percent.value() == 100 and not row.sound.isVisible()
    assert row.stretch() == FrameRange(shot.start, shot.start + 10)
    session.go(shot.start + 12)
    row.sync()
    row.percent.setValue(100)
    assert session.project.version("A").speeds == () and session.project.ranges_of("A") == before
    for _ in range(4):
        session.document.undo()
    assert session.project.version("A").speeds == ()


def test_an_overlay_is_hidden_and_locked(window, panel, tmp_path):
    session = window.film.session
    panel.add_shape(ShapeKind.RECTANGLE)
    (overlay,) = _held(window)
    scene = session.scene("A", session.frame + 20, (96, 170))
    assert len(scene.over) == 1
    panel.ticks["locked"].click()
    rect = window.film.aim.canvases.rects()[0]
    middle = QPointF(rect.left() + rect.width() / 2, rect.top() + rect.height() / 2)
    frame = overlay.start + 20
    assert overlay_at((overlay,), frame, middle, rect) is not None
    assert overlay_at(_held(window), frame, middle, rect) is None
    panel.ticks["hidden"].click()
    assert _held(window)[0].hidden and "hidden" in panel.list.item(0).text()
    assert not session.scene("A", session.frame + 20, (96, 170)).over
    session.document.undo()
    assert not _held(window)[0].hidden and _held(window)[0].locked


def test_a_key_shows_the_overlays_of_the_version(window, qtbot):
    window.film.show_view("Board")
    window.activateWindow()
    qtbot.keyClick(window, Qt.Key.Key_V)
    assert window.film.view == "Aim" and window.film.aim.side.page == "Overlays"
