"""What goes onto the batch list: the versions of a project, or of a film by spec sheets."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path

from caracal.core.batch.job import EncodeJob
from caracal.core.errors import InputError
from caracal.core.paths import text_of
from caracal.core.project.model import Project
from caracal.core.project.recipe import Recipe, recipe_of, recipe_of_film
from caracal.core.project.storage import SUFFIX, find_film, open_document
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.shelf import sheet_called


def jobs_of(
    film: Path, project: Project, sheets: Mapping[str, SpecSheet], folder: Path,
    letters: Iterable[str] | None = None, replace: bool = False, review: bool = False,
) -> list[EncodeJob]:
    """The versions of ``project`` (or those of ``letters``) as lines of the list.

    Raises InputError when a version's spec sheet is gone.
    """
    made = []
    for letter in letters or [version.letter for version in project.versions]:
        name = project.version(letter).sheet
        sheet = sheet_called(name, sheets)
        if sheet is None:
            raise InputError(f"There is no spec sheet “{name}” any more.",
                             remedy=f"Give version {letter} another one.")
        made.append(EncodeJob(text_of(film), text_of(folder),
                         recipe_of(project, letter, sheet, review), replace))
    return made


def jobs_of_file(
    path: Path, names: list[SpecSheet], sheets: Mapping[str, SpecSheet], folder: Path,
    replace: bool = False, sound: int = 0,
) -> list[EncodeJob]:
    """The lines for a project (all its versions, or ``names`` in their place) or for a film.

    A project's version keeps its framing when another sheet is named that has its shape. Raises
    InputError when there is nothing to make, or the project's film is gone.
    """
    if path.suffix.lower() != SUFFIX:
        if not names:
            raise InputError("No version was asked for.", path, "Name a spec sheet with --spec.")
        return [
            EncodeJob(text_of(path.resolve()), text_of(folder), Recipe(name, sound=sound), replace)
            for name in names
        ]
    document = open_document(path)
    film = find_film(document.film, path)
    if film is None:
        raise InputError("The film of this project is not where it was.", document.film.path,
                         "Put it back, or beside the project.")
    project = document.project
    if not names:
        return jobs_of(film, project, sheets, folder, None, replace)
    made = []
    for sheet in names:
        like = next((version.letter for version in project.versions
                     if version.sheet == sheet.name or (
                         (known := sheet_called(version.sheet, sheets)) is not None
                         and known.shape == sheet.shape)),
                    None)
        recipe = recipe_of(project, like, sheet) if like else recipe_of_film(project, sheet)
        made.append(EncodeJob(text_of(film), text_of(folder), recipe, replace))
    return made
