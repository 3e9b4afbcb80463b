"""What a command was asked to work on: a film, or a project and its film; and how it is framed."""

from __future__ import annotations

import argparse
from pathlib import Path

import msgspec

from caracal.cli.bedding import bed_asked, with_sound_asked
from caracal.cli.branding import branded
from caracal.cli.captioning import captioned
from caracal.cli.telling import stoppable
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange, frame_of_timecode
from caracal.core.base.translation import tr
from caracal.core.batch.encode_jobs import opened_project, requested_of_project
from caracal.core.exchange.cut_lists import read_cut_list
from caracal.core.layout.files import layout_asked
from caracal.core.layout.model import FILL
from caracal.core.media.master import Master, with_sound
from caracal.core.project.brand_files import read_brand
from caracal.core.project.edits import with_lead_in_film
from caracal.core.project.model import Project
from caracal.core.project.recipe import Recipe
from caracal.core.project.requested import (
    RequestedVersion,
    requested_of_film,
    with_layout_of_all,
    with_manner_of_all,
    with_template_over,
)
from caracal.core.project.shots import as_decided, with_starts
from caracal.core.project.storage import SUFFIX
from caracal.core.project.template import read_template
from caracal.core.render.captions.placement import caption_area
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import all_sheets, find_sheet


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
    """The versions of ``master`` that ``convert`` was asked for, in order. Raises InputError.

    The film is analysed only if an option is applied shot by shot.
    """
    sheets = sheets_asked(asked)
    if project is not None:
        _refuse_beside_project(asked)
        wanted = requested_of_project(project, sheets, all_sheets()[0])
    else:
        wanted = _of_film(asked, with_sound(master, asked.sound - 1), sheets)
    if asked.template:
        template = read_template(asked.template)
        shots = 0
        if template.layout != FILL:
            shots = len(analysed(master.file, wanted[0].project).shots)
        wanted = [with_template_over(each, template, master.rate, shots, caption_area(each.sheet))
                  for each in wanted]
    if asked.brand:
        brand = read_brand(asked.brand)
        wanted = [branded(each, brand, master) for each in wanted]
    bed = bed_asked(asked)
    wanted = [with_sound_asked(each, bed, asked) for each in wanted]
    recipes = [each.recipe(asked.review) for each in wanted]
    return [captioned(recipe, asked.captions) for recipe in recipes] if asked.captions else recipes


def _refuse_beside_project(asked: argparse.Namespace) -> None:
    """What a project has decided already is asked for on the command line no more."""
    given = {"--from": asked.start, "--to": asked.end, "--lead": asked.lead, "--cuts": asked.cuts,
             "--manner": asked.manner, "--layout": asked.layout.lower() != "fill",
             "--speed": asked.speed != 100, "--sound": asked.sound != 1}
    wrong = [name for name, value in given.items() if value]
    if wrong:
        raise InputError(tr("A project already holds what {wrong} would set.",
                            wrong=" and ".join(wrong)),
                         remedy=tr("Remove that option, or name the film."))


def _of_film(
    asked: argparse.Namespace, master: Master, sheets: list[SpecSheet]
) -> list[RequestedVersion]:
    film = master.file
    if not sheets:
        raise InputError(tr("No version was given."), film,
                         tr("Give a spec sheet with --spec."))
    start = frame_of_timecode(asked.start, master.rate) if asked.start else 0
    end = frame_of_timecode(asked.end, master.rate) if asked.end else master.frames
    span = FrameRange(start, end, asked.speed)
    starts = read_cut_list(asked.cuts, master.rate, master.frames) if asked.cuts else ()
    wanted = [requested_of_film(sheet, span, starts, asked.sound - 1) for sheet in sheets]
    layouts = [layout_asked(asked.layout, sheet.frame) for sheet in sheets]
    plain = all(layout == FILL for layout in layouts)
    if asked.lead is None and asked.manner is None and not starts and plain:
        return wanted
    found = as_decided(analysed(film, None), starts, (), asked.sound - 1)
    shots = len(found.shots)
    wanted = [with_layout_of_all(_with_cuts_and_lead(asked, each, found), layout, shots)
              for each, layout in zip(wanted, layouts, strict=True)]
    return wanted if asked.manner is None else [
        with_manner_of_all(each, asked.manner, shots) for each in wanted]


def _with_cuts_and_lead(
    asked: argparse.Namespace, wanted: RequestedVersion, found: Analysis
) -> RequestedVersion:
    """``wanted`` with the shots of its cut list, and the requested person as lead in all shots.

    Raises InputError when that person is in no shot.
    """
    project = wanted.project
    if project.starts:
        project = with_starts(found, project, project.starts)
    if asked.lead is not None:
        project, shots = with_lead_in_film(project, found, asked.lead - 1)
        if not shots:
            raise InputError(tr("This film has no person {lead}.", lead=asked.lead),
                             found.master.file,
                             tr("caracal analyse lists the people in it, with their numbers."))
    return msgspec.structs.replace(wanted, project=project)
