"""What goes onto the batch list: the versions of a project, or of a film by spec sheets."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from caracal.core.base.errors import InputError
from caracal.core.base.paths import text_of
from caracal.core.base.translation import tr
from caracal.core.batch.job import EncodeJob
from caracal.core.project.model import Project
from caracal.core.project.recipe import recipe_of
from caracal.core.project.requested import RequestedVersion, requested_beside
from caracal.core.project.storage import find_film, open_document
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import sheet_called


def jobs_of(
    film: Path, project: Project, sheets: Mapping[str, SpecSheet], folder: Path,
    letters: Iterable[str] | None = None, replace: bool = False, review: bool = False,
) -> list[EncodeJob]:
    """The versions of ``project`` (or those of ``letters``) as lines of the list.

    Raises InputError when a version's spec sheet is gone.
    """
    return [EncodeJob(text_of(film), text_of(folder),
                      recipe_of(project, letter, _sheet_of(project, letter, sheets), review),
                      replace)
            for letter in letters or [version.letter for version in project.versions]]


def _sheet_of(project: Project, letter: str, sheets: Mapping[str, SpecSheet]) -> SpecSheet:
    """The sheet of a version. Raises InputError when it is gone."""
    name = project.version(letter).sheet
    sheet = sheet_called(name, sheets)
    if sheet is None:
        raise InputError(tr("The spec sheet “{name}” was deleted.", name=name),
                         remedy=tr("Give version {letter} another one.", letter=letter))
    return sheet


def opened_project(path: Path) -> tuple[Path, Project]:
    """The film of the project at ``path``, and the project. Raises InputError when it is gone."""
    document = open_document(path)
    film = find_film(document.film, path)
    if film is None:
        raise InputError(tr("The film of this project is not where it was."), document.film.path,
                         tr("Put it back, or beside the project."))
    return film, document.project


def letters_of(
    project: Project, names: Sequence[SpecSheet], sheets: Mapping[str, SpecSheet]
) -> list[str | None]:
    """The letters of all versions of ``project``, or for each of ``names`` that of the version
    which is made for it (see :func:`requested_of_project`); None: there is none."""
    if not names:
        return [version.letter for version in project.versions]
    return [next((version.letter for version in project.versions
                  if version.sheet == sheet.name or (
                      (known := sheet_called(version.sheet, sheets)) is not None
                      and known.shape == sheet.shape)), None)
            for sheet in names]


def requested_of_project(
    project: Project, names: Sequence[SpecSheet], sheets: Mapping[str, SpecSheet]
) -> list[RequestedVersion]:
    """All versions of ``project``, or ``names`` in their place: a version keeps its framing when
    another sheet is named that has its shape. Raises InputError when a version's sheet is gone.
    """
    if not names:
        letters = [version.letter for version in project.versions]
        return [RequestedVersion(project, letter, _sheet_of(project, letter, sheets))
                for letter in letters]
    return [RequestedVersion(project, like, sheet) if like else requested_beside(project, sheet)
            for sheet, like in zip(names, letters_of(project, names, sheets), strict=True)]
