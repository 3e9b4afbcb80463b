"""The same wishes make the same version on the command line and in the window: one digest."""

from fractions import Fraction

import pytest

from caracal.cli.asked import recipes_asked
from caracal.cli.main import parser
from caracal.core.base.resources import DEMO_FILM, shipped
from caracal.core.base.time import FrameRange
from caracal.core.exchange.caption_files import read_captions
from caracal.core.exchange.cut_lists import read_cut_list
from caracal.core.framing.motion import Manner
from caracal.core.layout.files import layout_asked
from caracal.core.media.probe import probe
from caracal.core.project.caption_edits import with_captions
from caracal.core.project.edits import (
    with_layout,
    with_lead_in_film,
    with_manner,
    with_range,
)
from caracal.core.project.model import Fades, first_project
from caracal.core.project.overlay_edits import with_fades
from caracal.core.project.recipe import recipe_of
from caracal.core.project.shots import with_starts
from caracal.core.project.speed_edits import with_speed
from caracal.core.project.storage import document, write_document
from caracal.core.project.template import template_of, write_template
from caracal.core.render.dissolves import dissolving
from caracal.ui.shell.demo_version import BRAND_FILE
from conftest import settled

RATE = Fraction(25)
BRAND = str(shipped("demo", BRAND_FILE))
CUTS, SAID = (str(DEMO_FILM.with_suffix(suffix)) for suffix in (".edl", ".srt"))


def by_command(film, *words):
    """The digests of what ``convert`` makes of ``film``."""
    from caracal.cli.asked import opened

    asked = parser().parse_args(["convert", str(film), "--out", "out", *words])
    path, project = opened(film)
    return [recipe.digest for recipe in recipes_asked(asked, probe(path), project)]


def by_window(window, letter="A"):
    """The digest of what the window puts onto the batch list."""
    session = window.film.session
    settled(session)
    return recipe_of(session.project, letter, session.sheet(letter)).digest


def edited(window, change):
    session = window.film.session
    session.edit(change(session.project), "changed")


@pytest.fixture
def template(tmp_path, demo):
    """A template with a layout, a dissolve and fades, in a file."""
    project = with_fades(first_project(1500), "A", Fades(5, 10, 12, dissolves=True))
    path = tmp_path / "series.toml"
    layout = layout_asked("whole-over-lead", window_frame())
    write_template(path, template_of(project, "A", RATE, (1080, 1920), layout))
    return path


def window_frame():
    from caracal.core.specs.sheet_store import find_sheet

    return find_sheet("vertical-short").frame


OPTIONS = {
    "nothing": ((), lambda project, found: project),
    "range": (("--from", "4", "--to", "00:00:12:00"),
              lambda project, _: with_range(project, "A", FrameRange(100, 300))),
    "speed": (("--speed", "50"), lambda project, found: with_speed(
        project, "A", FrameRange(0, found.master.frames, 50))),
    "manner": (("--manner", "locked"), lambda project, found: each_shot(
        project, found, lambda made, shot: with_manner(made, "A", shot, Manner.LOCKED))),
    "lead": (("--lead", "1"), lambda project, found: with_lead_in_film(project, found, 0)[0]),
    "layout": (("--layout", "whole-soft"), lambda project, found: each_shot(
        project, found, lambda made, shot: with_layout(
            made, "A", shot, layout_asked("whole-soft", window_frame())))),
    "cuts": (("--cuts", CUTS), lambda project, found: with_starts(
        found, project, read_cut_list(DEMO_FILM.with_suffix(".edl"), RATE,
                                      found.master.frames))),
    "captions": (("--captions", SAID), lambda project, _: with_captions(
        project, read_captions(DEMO_FILM.with_suffix(".srt")).cues, SAID)),
}


def each_shot(project, found, change):
    for shot in range(len(found.shots)):
        project = change(project, shot)
    return project


@pytest.mark.parametrize("option", OPTIONS)
def test_every_option_is_the_edit_of_that_name(window, option):
    words, change = OPTIONS[option]
    edited(window, lambda project: change(project, window.film.session.analysis))
    assert by_command(DEMO_FILM, "--spec", "vertical-short", *words) == [by_window(window)]


def test_a_template_and_a_brand_over_a_film(window, template):
    window.film.show_view("Aim")
    window.film.aim.overlays.template.open_file(template)
    asked = ["--spec", "vertical-short", "--template", str(template)]
    assert by_command(DEMO_FILM, *asked) == [by_window(window)]
    with_brand_of_demo(window)
    assert by_command(DEMO_FILM, *asked, "--brand", BRAND) == [by_window(window)]


def with_brand_of_demo(window):
    window.film.show_view("Words")
    words = window.film.words
    words.show_page("Brand")
    words.brand.open(shipped("demo", BRAND_FILE))
    window.film.session.assets.wait()
    words.brand.dress_versions(("A",))
    window.film.session.assets.wait()


def test_a_template_and_a_brand_over_a_project(window, template, tmp_path):
    """Its ranges dissolve as the template says, by command as well as in the window."""
    session = window.film.session
    edited(window, lambda project: with_speed(with_range(with_range(
        with_fades(project, "A", Fades(3, 3)), "A", FrameRange(0, 100)), "A",
        FrameRange(200, 300)), "A", FrameRange(200, 260, 50)))
    path = tmp_path / "work.caracal"
    write_document(path, document(session.analysis, session.project))
    window.film.show_view("Aim")
    window.film.aim.overlays.template.open_file(template)
    with_brand_of_demo(window)
    first = by_command(path, "--template", str(template), "--brand", BRAND)[0]
    assert first == by_window(window)
    assert dissolving(session.project.ranges_of("A"))
