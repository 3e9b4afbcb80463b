"""Edits of the chosen version: its range, its sheet, its name, and whether it is there at all."""

from __future__ import annotations

from collections.abc import Callable

from caracal.core.base.errors import CaracalError
from caracal.core.base.time import FrameRange, spans_of
from caracal.core.base.translation import tr
from caracal.core.project.edits import changed_version, with_range, with_version, without_version
from caracal.core.project.model import Project
from caracal.core.specs.sheet import SpecSheet
from caracal.ui.session.session import Session


class VersionEdits:
    """Each is one step that can be undone; what cannot be done is said."""

    def __init__(self, session: Session, chosen: Callable[[], str]) -> None:
        """``chosen`` gives the letter of the version that is edited."""
        self._session, self._chosen = session, chosen

    def add(self, sheet: SpecSheet) -> None:
        """The film gets one version more, made by ``sheet``."""
        self._edit(lambda project: with_version(project, sheet.name),
                   tr("Add {title}", title=sheet.title))

    def give(self, letter: str, sheet: SpecSheet) -> None:
        """Make version ``letter`` by another sheet; its framing stays."""
        self._edit(lambda project: changed_version(project, letter, sheet=sheet.name),
                   tr("Version {letter}: spec sheet {title}", letter=letter,
                      title=sheet.title))

    def name(self, letter: str, words: str) -> None:
        """Version ``letter`` is called by these ``words`` from now on."""
        self._edit(lambda project: changed_version(project, letter, name=words),
                   tr("Rename version {letter}", letter=letter))

    def end_at(self, letter: str, ranges: tuple[FrameRange, ...]) -> None:
        """Let version ``letter`` end where ``ranges`` do."""
        self._edit(lambda project: changed_version(
            project, letter, ranges=spans_of(ranges)),
                   tr("Version {letter}: end in a pause", letter=letter))

    def remove(self) -> None:
        """Take the version away with what was decided for it."""
        letter = self._chosen()
        self._edit(lambda project: without_version(project, letter),
                   tr("Remove version {letter}", letter=letter))

    def take_range(self) -> None:
        """Show only what lies between in and out."""
        letter, span = self._chosen(), self._session.project.span
        self._edit(lambda project: changed_version(project, letter, ranges=(span,)),
                   tr("Version {letter}: use in–out range", letter=letter))

    def join_range(self) -> None:
        """Show what lies between in and out, too."""
        letter, span = self._chosen(), self._session.project.span
        self._edit(lambda project: with_range(project, letter, span),
                   tr("Version {letter}: add in–out range", letter=letter))

    def no_range(self) -> None:
        """Show what the film line shows."""
        letter = self._chosen()
        self._edit(lambda project: changed_version(project, letter, ranges=()),
                   tr("Version {letter}: same range as the film", letter=letter))

    def _edit(self, change: Callable[[Project], Project], words: str) -> None:
        try:
            project = change(self._session.project)
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())
            return
        self._session.edit(project, words)
