"""Files that are dropped on the window go where they belong."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path

from caracal.core.base.errors import CaracalError
from caracal.core.base.paths import text_of
from caracal.core.base.translation import tr
from caracal.core.batch.job import EncodeJob
from caracal.core.exchange.caption_files import FORMATS
from caracal.core.exchange.cut_lists import SUFFIXES as CUT_LISTS
from caracal.core.layout.files import read_layout
from caracal.core.project.recipe import Recipe
from caracal.core.specs.sheet_store import keep_sheet, read_sheet
from caracal.ui.session.asset_picker import FILMS, PICTURES, SOUNDS
from caracal.ui.shell.film_title import many_dropped
from caracal.ui.shell.film_view import FilmView

SETTINGS = ".toml"  # of spec sheets and layouts
WhatOfFilm = Callable[[Path], str]  # "open", "clip", "encode" or "stay"


def drop_on_film(
    film: FilmView, files: Sequence[Path], open_any: Callable[[Path], None], ask: WhatOfFilm
) -> None:
    """Take ``files`` that were dropped while ``film`` is open.

    Captions go to Words, cut lists to the shots, spec sheets to the shelf, layouts to the shot,
    pictures to the overlays, sounds to the tracks. Of a film ``ask`` says what is wanted;
    ``open_any`` opens it, as it does anything else.
    """
    films = [path for path in files if path.suffix.lower() in FILMS]
    if len(films) > 1:
        film.session.said.emit(many_dropped(len(films)))
        return
    for path in files:
        suffix = path.suffix.lower()
        if suffix in FILMS:
            _take_film(film, path, open_any, ask(path))
        elif (take := _takers().get(suffix)) is not None:
            take(film, path)
        else:
            open_any(path)
            return


def _takers() -> dict[str, Callable[[FilmView, Path], object]]:
    """What is done with a file, by its suffix."""
    return {
        **dict.fromkeys(FORMATS, _take_captions),
        **dict.fromkeys(CUT_LISTS, lambda film, path: film.files.import_cut_list(path)),
        SETTINGS: _take_settings,
        **dict.fromkeys(PICTURES, _add_overlay),
        **dict.fromkeys(SOUNDS, _add_bed),
    }


def _take_captions(film: FilmView, path: Path) -> None:
    if film.words.cue_actions.take_in(path):
        film.show_view("Words")


def _add_bed(film: FilmView, path: Path) -> None:
    film.show_view("Sound")
    film.sound.tracks.add_file(path)


def _add_overlay(film: FilmView, path: Path) -> None:
    def show() -> None:
        film.show_view("Aim")
        film.aim.side.show_page("Overlays")

    film.aim.overlays.add_file(path, show)


def _take_settings(film: FilmView, path: Path) -> None:
    """Take the layout or the spec sheet at ``path``."""
    with suppress(CaracalError):
        read_layout(path)
        film.aim.layouts.open_file(path)
        return
    try:
        sheet = read_sheet(path)
        keep_sheet(sheet)
    except CaracalError as problem:
        film.session.said.emit(problem.sentence())
        return
    film.session.renew_sheets()
    film.session.said.emit(tr("Spec sheet {title} added. Add a version for it in Batch.",
                              title=sheet.title))


def _take_film(
    film: FilmView, path: Path, open_any: Callable[[Path], None], answer: str
) -> None:
    if answer == "open":
        open_any(path)
    elif answer == "clip":
        _add_overlay(film, path)
    elif answer == "encode":
        session, plan = film.session, film.batch.versions.plan
        sheets = [session.sheet(letter) for letter in plan.wanted_letters()]
        film.show_view("Batch")
        film.batch.working.add([EncodeJob(text_of(path), text_of(plan.folder), Recipe(sheet))
                                for sheet in sheets])
        session.said.emit(tr("{name} added to the batch list.", name=path.name))
