"""The spec sheet window, and zones drawn over canvases."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QImage, QPainter

from caracal.core.specs.fields import differences, flat, with_value
from caracal.core.specs.sheet import Zone
from caracal.core.specs.sheet_store import find_sheet, own_folder, shipped_sheets
from caracal.core.specs.zones import safe_areas
from caracal.ui.session.zones_look import ZonesLook
from caracal.ui.sheets.drawing import dragged, with_zone, zones_in
from caracal.ui.sheets.window import SheetWindow
from caracal.ui.shell.zones_dialog import ZonesDialog
from caracal.ui.widgets.zones import paint_zones

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def sheets(qtbot, qapp, tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path / "config"))
    made = SheetWindow("vertical-short")
    qtbot.addWidget(made)
    made.show()
    return made


def write(sheets, field, text):
    line = sheets.form.inputs[field]
    line.setText(text)
    line.editingFinished.emit()


@pytest.mark.parametrize(("field", "text", "words"), [
    ("canvas", "1081 1920", "even sides"),
    ("video.largest_kbps", "900", "above the maximum"),
    ("canvas", "4096 4096", ""),
    ("rates.least", "90", "the lowest first"),
    ("sound.rate_hz", "44100", ""),
])
def test_what_cannot_be_made_is_said_at_once(sheets, field, text, words):
    write(sheets, field, text)
    assert words in sheets.trouble.text()
    assert sheets.buttons["Save"].isEnabled() is (words == "")


def test_a_codec_its_container_does_not_take_is_said(sheets):
    codecs = sheets.form.inputs["video.codec"]
    codecs.activated.emit(codecs.findText("prores"))
    assert "cannot be stored in mp4" in sheets.trouble.text()
    assert sheets.form.inputs["video.profile"].currentText() == "HQ"


def test_rules_nobody_looked_at_for_long_are_told(sheets):
    assert "may have changed" not in sheets.trouble.text()
    write(sheets, "checked", "2019-01-31")
    assert "days ago; its rules may have changed" in sheets.trouble.text()


def test_words_where_numbers_belong_are_refused(sheets):
    write(sheets, "duration.most_s", "long")
    assert "is not a number" in sheets.trouble.text()
    assert sheets.form.inputs["duration.most_s"].text() == "90"


def test_a_changed_sheet_is_saved_as_one_s_own_and_taken_back(sheets):
    write(sheets, "duration.most_s", "75")
    with_said = sheets.buttons["Save"]
    with_said.click()
    assert find_sheet("vertical-short").duration.most_s == 75 and list(own_folder().iterdir())
    assert sheets.choose.currentText().startswith("★")
    sheets.buttons["Delete this sheet"].click()
    assert find_sheet("vertical-short").duration.most_s == 90


def test_sheets_are_duplicated_exported_and_imported(sheets, tmp_path):
    sheets.duplicate("house style")
    assert find_sheet("house style").canvas == (1080, 1920)
    sheets.duplicate("plaza")
    assert "already" in sheets.trouble.text()
    bad = tmp_path / "bad.toml"
    bad.write_text('name = "x"\ncanvas = "wide"\n')
    sheets.import_file(bad)
    assert "bad.toml" in sheets.trouble.text() and "line 2" in sheets.trouble.text()


def test_a_zone_is_dragged_on_the_drawing(sheets, qtbot):
    drawing = sheets.drawing
    canvas = drawing.canvas()
    bottom = QPoint(round(canvas.center().x()), round(canvas.top() + 0.12 * canvas.height()))
    qtbot.mousePress(drawing, LEFT, pos=bottom)
    qtbot.mouseMove(drawing, bottom + QPoint(0, round(canvas.height() * 0.05)))
    qtbot.mouseRelease(drawing, LEFT, pos=bottom + QPoint(0, round(canvas.height() * 0.05)))
    assert sheets.sheet.covers[0].height == pytest.approx(0.17, abs=0.006)
    assert sheets.zone_name.text() == "name and tabs"
    sheets.zone_name.setText("tabs")
    sheets.zone_name.editingFinished.emit()
    assert sheets.sheet.covers[0].what == "tabs"
    sheets.buttons["Remove zone"].click()
    assert len(sheets.sheet.covers) == 2
    sheets.add_zone.activated.emit(1)
    assert sheets.sheet.covers[-1].what == "cover"


SHARE = st.floats(-1.5, 1.5, allow_nan=False)
SIDES = st.tuples(st.booleans(), st.booleans(), st.booleans(), st.booleans())


@given(SIDES, SHARE, SHARE)
def test_dragged_zones_stay_on_the_canvas(sides, dx, dy):
    made = dragged(Zone("x", 0.1, 0.2, 0.5, 0.3), sides, dx, dy)
    assert made.left >= 0 and made.left + made.width <= 1 + 1e-9
    assert made.top >= 0 and made.top + made.height <= 1 + 1e-9
    assert made.width >= 0.02 - 1e-9 and made.height >= 0.02 - 1e-9


def test_every_zone_can_be_replaced_and_taken_away():
    sheet = find_sheet("vertical-short")
    for place, _ in zones_in(sheet):
        gone = with_zone(sheet, place, None)
        assert len(zones_in(gone)) == len(zones_in(sheet)) - 1


def test_two_sheets_are_compared_field_by_field():
    sheet = find_sheet("vertical-short")
    other = with_value(with_value(sheet, "duration.most_s", 60), "clear", None)
    assert differences(sheet, other) == [("duration.most_s", "90", "60"),
                                       ("clear", flat(sheet)["clear"], "none")]
    assert differences(sheet, sheet) == []


def test_wide_sheets_have_the_safe_areas_of_ebu_r_95():
    """EBU R 95 (from memory): 93 % action, 90 % graphics, on both axes."""
    wide = with_value(find_sheet("wide"), "clear", None)
    action, graphics = safe_areas(wide)
    assert (action.width, action.height, graphics.width, graphics.height) == (0.93, 0.93, 0.9, 0.9)
    assert [area.what for area in safe_areas(find_sheet("vertical-short"))] == ["clear area"]


@pytest.mark.parametrize("kind", ["covers", "clear", "thumbnail", "trim", "phone"])
def test_each_kind_of_zone_is_drawn_only_when_on(qapp, kind):
    def drawn(look):
        image = QImage(180, 320, QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.darkCyan)
        p = QPainter(image)
        paint_zones(p, find_sheet("vertical-short"), QRectF(0, 0, 180, 320), look)
        p.end()
        return image

    plain = drawn(ZonesLook())
    assert drawn(ZonesLook(**{kind: True})) != plain
    if kind != "phone":
        assert drawn(ZonesLook(**{kind: True}, strength=1.0)) != drawn(ZonesLook(**{kind: True}))


def test_keys_and_dialog_turn_zones_on_and_they_are_remembered(window, qtbot):
    session = window.film.session
    window.film.show_view("Aim")
    qtbot.keyClick(window, Qt.Key.Key_C)
    assert session.zones.covers and not session.zones.trim
    dialog = ZonesDialog(session, window)
    dialog.ticks["trim"].setChecked(True)
    dialog.strength.setValue(90)
    assert session.zones.trim and session.zones.strength == 0.9
    qtbot.keyClick(window, Qt.Key.Key_T)
    assert window.settings.value("zones/covers") in (True, "true")


def test_every_shipped_sheet_is_shown_by_the_form(sheets):
    for sheet in shipped_sheets().values():
        sheets.take(sheet)
        assert sheets.form.inputs["title"].text() == sheet.title
