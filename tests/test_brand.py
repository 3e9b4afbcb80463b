"""Brands: kept as files with all they need, put on versions, and told where a version departs."""

import shutil
import tomllib
from fractions import Fraction

import cv2
import msgspec
import numpy as np
import pytest

from caracal.cli.main import main
from caracal.core.base.errors import InputError
from caracal.core.base.resources import DEMO_FILM, shipped
from caracal.core.layout.card import Card
from caracal.core.layout.kinds import whole_plain
from caracal.core.layout.model import PictureFile, PlainBackdrop
from caracal.core.layout.overlay import Overlay, Shape
from caracal.core.media.probe import probe
from caracal.core.project.brand import (
    Brand,
    BrandCard,
    Corner,
    Ground,
    Logo,
    brand_error,
    logo_region,
)
from caracal.core.project.brand_check import brand_faults, off_brand
from caracal.core.project.brand_edits import (
    brand_of,
    variant_for,
    with_brand,
    with_version_dressed,
)
from caracal.core.project.brand_files import read_brand, write_brand
from caracal.core.project.edits import changed_version, with_layout
from caracal.core.project.logo_ground import ground_of
from caracal.core.project.model import Version, first_project
from caracal.core.project.template import read_template, template_of, write_template
from caracal.core.text.caption_look import CaptionLook, CaptionManner, LookStretch
from caracal.core.text.cues import Cue
from caracal.core.text.fonts import file_of
from caracal.core.text.style import Align, TextStyle, Title
from caracal.ui.shell.demo_version import BRAND_FILE, dressed
from conftest import ffmpeg, write_film
from demo.brand import brand as demo_brand

RED, WHITE = "#c00020", "#ffffff"
RATE = Fraction(25)
PLAIN_LOOK = CaptionLook(TextStyle(colour=WHITE))


@pytest.fixture
def files(tmp_path):
    """A font file and a logo of 80x40 in a folder of their own."""
    folder = tmp_path / "assets"
    folder.mkdir()
    shutil.copyfile(file_of("Fraunces Regular"), folder / "House Serif.ttf")
    logo = np.zeros((40, 80, 4), np.uint8)
    logo[:, :, 2] = logo[:, :, 3] = 255  # red, solid
    cv2.imwrite(str(folder / "mark.png"), logo)
    return folder


def house(files):
    font = str(files / "House Serif.ttf")
    return Brand(
        "House", {"red": RED, "font": WHITE}, (font,),
        (Logo(PictureFile(str(files / "mark.png"), fit=True)),),
        captions=CaptionLook(TextStyle(font, colour=RED)), titles=TextStyle(font, colour=WHITE),
        closing=BrandCard(Card(50, PlainBackdrop(RED))))


def test_a_brand_is_a_folder_that_can_be_carried_elsewhere(files, tmp_path):
    there, elsewhere = tmp_path / "kept", tmp_path / "elsewhere"
    there.mkdir()
    write_brand(there / "house.toml", house(files))
    shutil.rmtree(files)
    there.rename(elsewhere)
    data = tomllib.loads((elsewhere / "house.toml").read_text())  # the standard library reads it
    assert data["colours"] == {"red": RED, "font": WHITE}  # whatever a colour is called
    assert data["fonts"] == ["house 2.ttf"] and data["logos"][0]["picture"]["path"] == "house 1.png"
    found = read_brand(elsewhere / "house.toml")
    assert found.fonts == (str(elsewhere / "house 2.ttf"),) == (found.titles.font,)
    assert found.captions.style.font == found.titles.font
    assert {path.name for path in elsewhere.iterdir()} == {
        "house.toml", "house 1.png", "house 2.ttf"}


@pytest.mark.parametrize(("text", "words"), [
    ('name = ""', "needs a name"), ('name = "x"\n[colours]\na = "blue"', "not a colour"),
    ('name = "x"\nlogo_wide = 3.0', "logo"), ('name = "x"\nsafe_distance = -1.0', "safe distance"),
    ('name = "x"\nfonts = ["../../etc/f.ttf"]', "not a file of this folder"),
    ('name = "x"\n[[logos]]\n[logos.picture]\ntype = "picture"\npath = "/etc/passwd"',
     "not a file of this folder"),
    ("name = 7", "not a brand"), ("\x00", "not a brand")])
def test_what_is_no_brand_is_told_in_a_sentence(tmp_path, text, words):
    path = tmp_path / "b.toml"
    path.write_text(text)
    with pytest.raises(InputError) as problem:
        read_brand(path)
    assert words in problem.value.sentence() and problem.value.sentence().count("\n") == 0


@pytest.mark.parametrize(("corner", "meant"), [
    (Corner.TOP_LEFT, (0.14, 0.34, 0.2225, 0.2788)),
    (Corner.LOW_RIGHT, (0.66, 0.86, 0.7213, 0.7775))])
def test_a_logo_lies_its_distance_from_the_clear_area(corner, meant):
    """On paper, 1080x1920, clear 0.1 to 0.9 across and 0.2 to 0.8 down: 4 % of 1080 are 43.2 px,
    which are 0.04 across and 0.0225 down; 20 % wide and 2:1, it is 108 px, 0.05625, high."""
    brand = Brand("x", logo_wide=0.2, corner=corner)
    (left, right), (top, bottom) = logo_region(brand, 2.0, (1080, 1920), ((0.1, 0.9), (0.2, 0.8)))
    assert (left, right, top, bottom) == pytest.approx(meant, abs=1e-4)
    narrow = logo_region(brand, 0.02, (1920, 1080), ((0.1, 0.9), (0.2, 0.8)))  # stays inside
    assert narrow[1][0] >= 0.2 and narrow[1][1] <= 0.8


def test_a_version_is_dressed_and_keeps_what_is_its_own(files):
    brand = house(files)
    own = Title("Mine", TextStyle(size=0.3, align=Align.LEFT))
    look = msgspec.structs.replace(PLAIN_LOOK, stretches=(LookStretch(5, 9),))
    project = with_brand(changed_version(first_project(200), "A", look=look,
                                         overlays=(Overlay(own, 10, 20),)), brand)
    logo = variant_for(brand, Ground.LIGHT)
    for _ in range(2):  # the second time nothing is doubled
        project = with_version_dressed(project, "A", brand, RATE, (1080, 1920), (logo, 2.0))
    version = project.version("A")
    title, mark = version.overlays
    assert title.content.text == "Mine" and title.content.style == msgspec.structs.replace(
        brand.titles, size=0.3, align=Align.LEFT)
    assert (mark.start, mark.end_exclusive) == (0, 200) and mark.content == logo.picture
    assert version.look == msgspec.structs.replace(brand.captions, stretches=look.stretches)
    assert version.closing.frames == 50 and not off_brand(project, "A")
    assert project.version("B") == first_project(200).version("B")


def test_where_a_version_departs_is_told(files):
    brand = house(files)
    version = Version("C", "wide", look=PLAIN_LOOK, overlays=(
        Overlay(Shape(colour="#00ff00"), 0, 10), Overlay(Shape(colour=RED.upper()), 0, 10),
        Overlay(Shape(colour="#123456"), 0, 10, hidden=True),
        Overlay(Title("Hello", TextStyle(brand.fonts[0], colour="#0000ff")), 0, 10)))
    told = brand_faults(brand, version, [whole_plain()])
    assert told[0] == "Version C shows no logo of House."
    assert sum("#00ff00 in a shape" in each for each in told) == 1
    assert any("#0000ff in “Hello”" in each for each in told)
    assert any("#1c1a18 in a backdrop" in each for each in told)
    assert any("font Figtree SemiBold in its captions" in each for each in told)
    assert len(told) == 5  # white letters and red in capitals are the brand's
    assert not off_brand(first_project(10), "A")  # no brand, nothing to depart from
    silent = with_brand(changed_version(first_project(10), "C", look=PLAIN_LOOK), brand)
    assert off_brand(silent, "C") == ("Version C shows no logo of House.",)  # and no captions
    assert any("in its captions" in each for each in off_brand(
        msgspec.structs.replace(silent, captions=(Cue(0, 1, "Hello"),)), "C"))
    words = msgspec.structs.replace(PLAIN_LOOK, manner=CaptionManner.WORDS)
    assert any("#f2b35e in its captions" in each for each in brand_faults(
        brand, msgspec.structs.replace(version, look=words), ()))  # that of words once said


def test_departures_are_concerns_in_layouts_too(files):
    project = with_brand(with_layout(first_project(50), "A", 0, whole_plain()), house(files))
    assert any("#1c1a18 in a backdrop" in each for each in off_brand(project, "A"))
    assert not any("backdrop" in each for each in off_brand(project, "B"))


def test_a_brand_is_made_from_what_a_version_has(files):
    logo = PictureFile(str(files / "mark.png"), fit=True)
    project = changed_version(first_project(100), "B", look=PLAIN_LOOK, closing=Card(10), overlays=(
        Overlay(logo, 0, 100), Overlay(Title("Now", TextStyle("Fraunces SemiBold", colour=RED)), 5,
                                       9)))
    made = brand_of(project, "B", "Mine", (1080, 1080), RATE)
    assert list(made.colours.values()) == [WHITE, RED, "#1c1a18"] and not brand_error(made)
    assert made.logos == (Logo(logo),) and made.closing.card == Card(10)
    assert made.fonts == ("Figtree SemiBold", "Fraunces SemiBold")
    assert not off_brand(with_brand(project, made), "B")


def test_a_template_carries_its_font_along(files, tmp_path):
    font = str(files / "House Serif.ttf")
    project = changed_version(first_project(100), "A", overlays=(
        Overlay(Title("x", TextStyle(font)), 0, 50),))
    write_template(tmp_path / "t.toml", template_of(project, "A", RATE, (1080, 1920)))
    shutil.rmtree(files)
    found = read_template(tmp_path / "t.toml").overlays[0].overlay.content.style.font
    assert found == str(tmp_path / "t 1.ttf") and file_of(found).is_file()


def test_the_ground_is_that_of_most_of_the_film(tmp_path):
    for level, ground in ((60, Ground.DARK), (200, Ground.LIGHT)):
        film = write_film(tmp_path / f"{level}.mp4", frames=24, sound=False,
                          picture=lambda _, y, level=level: np.full_like(y, level))
        assert ground_of(probe(film)) is ground


@pytest.mark.usefixtures("small_sheets")
def test_the_command_line_puts_a_brand_on_a_film(files, tmp_path, capsys):
    """The logo is seen at its place, and the end card after the film, by FFmpeg's pictures."""
    film = write_film(tmp_path / "film.mp4", size=(640, 360), frames=30,
                      picture=lambda _, y: y)
    write_brand(tmp_path / "house.toml", msgspec.structs.replace(house(files), logo_wide=0.5))
    arguments = ["convert", str(film), "--spec", "square-feed", "--brand",
                 str(tmp_path / "house.toml"), "--out", str(tmp_path / "out")]
    assert main(arguments) in (0, 1)  # it is shorter than the sheet asks
    (made,) = (tmp_path / "out").glob("*.mp4")
    pictures = {}
    for frame in (10, 60):
        ffmpeg("-i", made, "-vf", f"select=eq(n\\,{frame})", "-frames:v", "1",
               tmp_path / f"{frame}.png")
        pictures[frame] = cv2.imread(str(tmp_path / f"{frame}.png"))[:, :, ::-1].astype(int)
    red = (pictures[10][:, :, 0] > 150) & (pictures[10][:, :, 1] < 90)
    rows, columns = np.nonzero(red)
    wide, high = np.ptp(columns) + 1, np.ptp(rows) + 1
    assert wide == pytest.approx(90, abs=3) and high == pytest.approx(45, abs=3)
    assert columns.max() > 150 and rows.min() < 42  # its upper right corner
    assert np.abs(pictures[60] - np.array((0xC0, 0x00, 0x20))).max() < 16  # the card
    assert len(pictures) == 2 and not capsys.readouterr().err.count("Traceback")
    (tmp_path / "house.toml").write_text("name = 3")
    assert main(arguments) == 2 and "not a brand" in capsys.readouterr().err


def test_the_demo_s_brand_file_is_what_its_maker_writes_and_fits_its_film(demo):
    assert read_brand(shipped("demo", BRAND_FILE)) == demo_brand()
    project = dressed(demo)
    assert project.brand == demo_brand()
    assert not off_brand(project, project.versions[-1].letter)
    assert ground_of(probe(DEMO_FILM)) in Ground
