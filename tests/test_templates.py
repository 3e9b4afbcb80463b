"""Templates: kept with their pictures, read by another reader, laid over other films; bad ones."""

import tomllib
from fractions import Fraction

import av
import msgspec
import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt

from caracal.cli.main import main
from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.layout.card import Card
from caracal.core.layout.entrance import Entry
from caracal.core.layout.kinds import KINDS
from caracal.core.layout.model import PictureFile
from caracal.core.layout.overlay import Overlay, Shape, ShapeKind
from caracal.core.project.caption_edits import with_card, with_look
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Fades, Project, Version, first_project
from caracal.core.project.overlay_edits import with_fades, with_overlays
from caracal.core.project.requested import requested_of_film, with_template_over
from caracal.core.project.template import (
    Template,
    TimedOverlay,
    read_template,
    template_of,
    with_template,
    write_template,
)
from caracal.core.render.assets.checks import refuse_bad_asset
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet, shipped_sheets, write_sheet
from caracal.core.text.caption_look import CaptionLook, CaptionManner
from caracal.core.text.style import TextBox, TextStyle, Title
from caracal.ui.aim.template_cards import shipped_templates
from conftest import settled, write_film

CANVAS, RATE = (1080, 1920), Fraction(25)


@pytest.fixture
def project(tmp_path):
    """A version of frames 100 to 600: a mark all along, an arrow near its end, and fades."""
    Image.new("RGB", (300, 100), (200, 30, 30)).save(tmp_path / "mark.png")
    made = Project((Version("A", "vertical-short", ranges=(FrameRange(100, 600),)),),
                   FrameRange(0, 1500))
    made = with_overlays(made, "A", (
        Overlay(PictureFile(str(tmp_path / "mark.png"), fit=True), 100, 600,
                ((0.1, 0.4), (0.05, 0.1)), entry=Entry.NONE),
        Overlay(Shape(ShapeKind.ARROW), 500, 575, ((0.4, 0.6), (0.8, 0.9)), moving=10),
        Overlay(Shape(ShapeKind.CIRCLE), 150, 200, ((0.4, 0.6), (0.4, 0.5)))))
    return with_fades(made, "A", Fades(begin=5, end=25))


@pytest.fixture
def path(project, tmp_path):
    template = template_of(project, "A", RATE, CANVAS, KINDS[1].make(
        find_sheet("vertical-short").frame))
    kept = tmp_path / "kept"
    kept.mkdir()
    write_template(kept / "series.toml", template)
    return kept / "series.toml"


def test_a_template_is_kept_with_its_pictures_beside_it(path, tmp_path):
    data = tomllib.loads(path.read_text())  # Python's own reader
    assert sorted(file.name for file in path.parent.iterdir()) == ["series 1.png", "series.toml"]
    assert data["overlays"][0]["overlay"]["content"]["path"] == "series 1.png"
    assert "to_s" not in data["overlays"][0]  # with the end
    assert [(each["from_s"], each.get("to_s")) for each in data["overlays"][1:]] == [
        (-4.0, -1.0), (2.0, 4.0)]  # of 20 seconds, by the nearer end
    (tmp_path / "mark.png").unlink()
    found = read_template(path)
    assert found.overlays[0].overlay.content.path == str(path.parent / "series 1.png")


def test_it_fits_a_version_of_another_length_rate_and_shape(path, project):
    template = read_template(path)
    other = Project((Version("A", "square-feed", ranges=(FrameRange(0, 300),)),),
                    FrameRange(0, 300))
    made = with_template(other, "A", template, Fraction(50), (1080, 1080), 4)
    mark, arrow, circle = made.version("A").overlays
    assert (mark.start, mark.end_exclusive) == (0, 300)
    assert (arrow.start, arrow.end_exclusive) == (100, 250)  # 4 s and 1 s before the end of 6 s
    assert (circle.start, circle.end_exclusive) == (100, 200) and arrow.moving == 20
    wide, high = (span[1] - span[0] for span in circle.region)
    assert wide * 1080 == pytest.approx(0.2 * 1080) and high * 1080 == pytest.approx(0.1 * 1920)
    assert made.version("A").fades == Fades(begin=10, end=50)
    assert made.choice("A", 3).layout == template.layout
    film = requested_of_film(find_sheet("square-feed"), FrameRange(0, 60))
    short = with_template_over(film, template, Fraction(50), None).recipe()
    assert [overlay.name for overlay in short.overlays][:2] == ["series 1.png", "Arrow"]
    assert short.layout == template.layout  # the circle had no room left


@pytest.mark.parametrize(("text", "words"), [
    ("canvas = [1080", "not a template"),
    ("canvas = [1080, 1920]\nrate = 0.0", "this canvas or rate"),
    ("canvas = [1080, 1920]\nrate = inf", "this canvas or rate"),
    ("canvas = [16, 100000]\nrate = 25.0", "this canvas or rate"),
    ("canvas = [90, 90]\nrate = 25.0\n[[overlays]]\nfrom_s = inf\n[overlays.overlay]\nstart = 0\n"
     "end_exclusive = 9\ncontent = {type = 'shape'}", "out of range"),
    ("canvas = [90, 90]\nrate = 25.0\n[[overlays]]\n[overlays.overlay]\nstart = 0\n"
     "end_exclusive = 9\ncontent = {type = 'shape', degrees = nan}", "direction"),
    ("canvas = [90, 90]\nrate = 25.0\n[fades]\nbegin = -3", "negative"),
    ("canvas = [90, 90]\nrate = 25.0\n[[overlays]]\n[overlays.overlay]\nstart = 0\n"
     "end_exclusive = 9\ncontent = {type = 'picture', path = '/etc/passwd'}", "not a file of this"),
    ("canvas = [90, 90]\nrate = 25.0\n[[overlays]]\n[overlays.overlay]\nstart = 0\n"
     "end_exclusive = 9\nopacity = 7.0\ncontent = {type = 'shape'}", "amounts"),
])
def test_what_is_no_template_is_told_in_a_sentence(tmp_path, text, words):
    path = tmp_path / "odd.toml"
    path.write_text(text)
    with pytest.raises(InputError, match=words):
        read_template(path)


def test_what_would_be_huge_on_another_canvas_is_told():
    """A canvas of 16 by 16384 pixels, laid over a wide one, would make an overlay 575 high."""
    tall = Template((16, 16_384), 25.0, (TimedOverlay(Overlay(Shape(), 0, 9, ((0.1, 0.2), (0, 1)))),
                                         ))
    with pytest.raises(InputError, match="does not fit"):
        with_template_over(requested_of_film(find_sheet("wide"), FrameRange(0, 300)), tall, RATE, 1)


def test_a_picture_that_is_gone_is_told_when_a_template_is_kept(project, tmp_path):
    (tmp_path / "mark.png").unlink()
    with pytest.raises(InputError, match=r"mark\.png"):
        write_template(tmp_path / "series.toml", template_of(project, "A", RATE, CANVAS))
    assert not (tmp_path / "series.toml").exists()


@pytest.mark.parametrize("command", ["convert", "batch"])
def test_the_command_line_lays_a_template_over_its_films(command, path, tmp_path, capsys):
    film = write_film(tmp_path / "film.mp4", frames=60,
                      picture=lambda number, y: np.full_like(y, 150))
    sheet = with_value(with_value(find_sheet("square-feed"), "canvas", (180, 180)),
                       "duration.least_s", 0.5)
    write_sheet(msgspec.structs.replace(sheet, name="small"), tmp_path / "small.toml")
    words = [command, str(film), "--spec", str(tmp_path / "small.toml"), "--out",
             str(tmp_path / "out"), "--template"]
    assert main([*words, str(path)]) == 0
    (made,) = (tmp_path / "out").glob("*.mp4")
    with av.open(str(made)) as container:
        pictures = [frame.to_ndarray(format="rgb24") for frame in container.decode(video=0)]
    assert pictures[0].max() < 30 and pictures[-1].max() < 30  # it fades in and out
    red = pictures[30][20, 45].astype(int)
    assert red[0] > 150 and red[1] < 80  # the mark lies there
    assert main([*words, str(tmp_path / "none.toml")]) == 2
    assert "none.toml" in capsys.readouterr().err


def test_a_timed_overlay_without_times_is_there_all_along():
    assert TimedOverlay(Overlay(Shape(), 0, 1)).to_s is None


def test_cards_titles_and_the_look_of_captions_come_along(project, tmp_path):
    mark = PictureFile(str(tmp_path / "mark.png"), fit=True)
    title = Overlay(Title("Kiln day\nat the quay", TextStyle("Fraunces SemiBold", 0.2)), 5, 50,
                    ((0.1, 0.9), (0.3, 0.6)), moving=10)
    card = Card(50, mark, (title, Overlay(mark, 0, 50, ((0.4, 0.6), (0.1, 0.2)))))
    look = CaptionLook(TextStyle(size=0.08, box=TextBox()), CaptionManner.GROUPS)
    made = with_look(with_card(with_card(project, "A", "opening", card), "A", "closing",
                               Card(25)), "A", look)
    write_template(tmp_path / "kept.toml", template_of(made, "A", RATE, CANVAS))
    read = read_template(tmp_path / "kept.toml")
    assert read.look == look and read.closing == Card(25)
    assert read.opening.backdrop.path == str(tmp_path / "kept 1.png")
    other = Project((Version("A", "square-feed"),), FrameRange(0, 3000))
    taken = with_template(other, "A", read, Fraction(50), (1080, 1080), 0).version("A")
    assert (taken.opening.frames, taken.closing.frames, taken.look) == (100, 50, look)
    words = taken.opening.overlays[0]
    assert (words.start, words.end_exclusive, words.moving) == (10, 100, 20)
    assert words.content == title.content
    film = requested_of_film(find_sheet("square-feed"), FrameRange(0, 3000))
    recipe = with_template_over(film, read, Fraction(50), 1).recipe()
    assert recipe.opening == taken.opening and recipe.look == look
    titles = [each for each in recipe.overlays if isinstance(each.content, Title)]
    assert [(each.start, each.end_exclusive) for each in titles] == [(-90, 0)]
    for wrong in (msgspec.structs.replace(read, opening=Card(0)),
                  msgspec.structs.replace(read, look=CaptionLook(most_lines=99))):
        write_template(tmp_path / "wrong.toml", wrong)
        with pytest.raises(InputError, match="not valid"):
            read_template(tmp_path / "wrong.toml")


def test_six_templates_ship_and_fit_every_shape(demo):
    """Each is laid over versions of every generic sheet, and nothing in it is missing."""
    found = shipped_templates()
    assert len(found) == 6
    for name, template in found.items():
        for sheet in shipped_sheets().values():
            project = changed_version(first_project(1500), "A", sheet=sheet.name)
            made = with_template(project, "A", template, Fraction(25), sheet.canvas, 15)
            version = made.version("A")
            assert (len(version.overlays), version.closing is None) == (
                len(template.overlays), template.closing is None), name
            for overlay in made.overlays_of("A"):
                refuse_bad_asset(overlay.content)


def test_a_template_that_ships_is_taken_from_its_picture(aim, qtbot):
    row, session = aim.overlays.template, aim._session
    settled(session)
    names = row.cards.names()
    for number in range(len(names)):
        row.cards.scene(number, (96, 170))
        settled(session)
        assert row.cards.scene(number, (96, 170)) is not None
    qtbot.mouseClick(row.cards, Qt.MouseButton.LeftButton,
                     pos=row.cards.rects()[names.index("In a frame")].center().toPoint())
    version = session.project.version("A")
    assert len(version.overlays) == 2
    assert {session.project.choice("A", shot).layout.kind for shot in range(15)} == {"whole, soft"}
    session.document.undo()
    assert session.project.version("A").overlays == ()
