"""What a command was asked to work on: a film, or a project and its film; and how it is framed."""

from __future__ import annotations

import argparse
from pathlib import Path

import msgspec

from caracal.cli.branding import branded
from caracal.cli.captioning import captioned
from caracal.cli.telling import stoppable
from caracal.core.analysis.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.batch.encode_jobs import opened_project, recipes_of_project
from caracal.core.errors import InputError
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Manner
from caracal.core.layout.files import layout_asked
from caracal.core.media.master import Master, with_sound
from caracal.core.project.brand_files import read_brand
from caracal.core.project.cutlist import read_cut_list
from caracal.core.project.edits import with_lead_in_film
from caracal.core.project.model import Project, first_project
from caracal.core.project.recipe import Recipe
from caracal.core.project.shots import as_decided, with_starts
from caracal.core.project.storage import SUFFIX
from caracal.core.project.template import read_template, recipe_with
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.shelf import all_sheets, find_sheet
from caracal.core.time import FrameRange, frame_of_timecode
from caracal.core.translation import tr


def opened(path: Path) -> tuple[Path, Project | None]:
    """The film at ``path``, or the film of the project there, and that project.

    Raises InputError when the project is none, or its film is gone.
    """
    if path.suffix.lower() != SUFFIX:
        return path, None
    return opened_project(path)


def analysed(film: Path, project: Project | None) -> Analysis:
    """The analysis of ``film``, with the shots, boxes and sound of ``project``."""
    found = stoppable(lambda token, report: analyse(film, report, token))
    return found if project is None else as_decided(
        found, project.starts, project.drawn, project.sound)


def sheets_asked(asked: argparse.Namespace) -> list[SpecSheet]:
    """The sheets that were named, each once. Raises InputError when there is no such sheet."""
    return [find_sheet(name) for name in dict.fromkeys(asked.spec or [])]


def recipes_asked(
    asked: argparse.Namespace, master: Master, project: Project | None
) -> list[Recipe]:
    """The versions of ``master`` that ``convert`` was asked for, in order. Raises InputError."""
    sheets = sheets_asked(asked)
    if project is not None:
        _refuse_beside_project(asked)
        known, _ = all_sheets()
        recipes = recipes_of_project(project, sheets, known)
    else:
        recipes = _of_film(asked, with_sound(master, asked.sound - 1), sheets)
    if asked.template:
        template = read_template(asked.template)
        recipes = [recipe_with(recipe, template, master.rate, master.frames) for recipe in recipes]
    if asked.brand:
        brand = read_brand(asked.brand)
        recipes = [branded(recipe, brand, master) for recipe in recipes]
    if asked.captions:
        recipes = [captioned(recipe, asked.captions) for recipe in recipes]
    return [msgspec.structs.replace(recipe, review=asked.review) for recipe in recipes]


def _refuse_beside_project(asked: argparse.Namespace) -> None:
    """What a project has decided already is asked for on the command line no more."""
    given = {"--from": asked.start, "--to": asked.end, "--lead": asked.lead, "--cuts": asked.cuts,
             "--manner": asked.manner, "--layout": asked.layout.lower() != "fill",
             "--speed": asked.speed != 100, "--sound": asked.sound != 1}
    wrong = [name for name, value in given.items() if value]
    if wrong:
        raise InputError(tr("A project has decided what {wrong} would say.",
                            wrong=" and ".join(wrong)),
                         remedy=tr("Leave that out, or name the film."))


def _of_film(
    asked: argparse.Namespace, master: Master, sheets: list[SpecSheet]
) -> list[Recipe]:
    film = master.file
    if not sheets:
        raise InputError(tr("No version was asked for."), film,
                         tr("Name a spec sheet with --spec."))
    start = frame_of_timecode(asked.start, master.rate) if asked.start else 0
    end = frame_of_timecode(asked.end, master.rate) if asked.end else master.frames
    span = FrameRange(start, end, asked.speed)
    recipes = [Recipe(sheet, ranges=(span,), sound=asked.sound - 1,
                      layout=layout_asked(asked.layout, sheet.frame))
               for sheet in sheets]
    starts = read_cut_list(asked.cuts, master.rate, master.frames) if asked.cuts else ()
    recipes = [msgspec.structs.replace(recipe, starts=starts) for recipe in recipes]
    if asked.lead is None and asked.manner is None:
        return recipes
    found = as_decided(analysed(film, None), starts, (), asked.sound - 1)
    project = first_project(master.frames)
    if starts:
        project = with_starts(found, project, starts)
    if asked.lead is not None:
        project, shots = with_lead_in_film(project, found, asked.lead - 1)
        if not shots:
            raise InputError(tr("Nobody in this film is person #{lead}.", lead=asked.lead), film,
                             tr("caracal analyse tells who is in it, with their numbers."))
    return [msgspec.structs.replace(recipe, choices=_choices(
        found, project, recipe, asked.manner)) for recipe in recipes]


def _choices(
    analysis: Analysis, project: Project, recipe: Recipe, manner: Manner | None
) -> dict[int, ShotChoice]:
    """What was asked for, shot by shot."""
    made = {}
    for shot in range(len(analysis.shots)):
        cast = project.cast(shot)
        made[shot] = ShotChoice(lead=cast.lead, second=cast.second, manner=manner or Manner.AUTO,
                                layout=recipe.layout)
    return made
