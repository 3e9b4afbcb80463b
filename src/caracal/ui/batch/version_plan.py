"""What the ticked versions are made from, and what stands in their way."""

from __future__ import annotations

from collections.abc import Callable, Generator
from datetime import date
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject

from caracal.core.base.translation import tr
from caracal.core.batch.concerns import (
    Concern,
    ConcernKind,
    concerns_of,
    contents_of,
    places,
)
from caracal.core.batch.encode_jobs import jobs_of
from caracal.core.batch.job import EncodeJob
from caracal.core.framing.flags import Flag
from caracal.core.project.brand_check import off_brand
from caracal.core.project.model import Project
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.render.assets.checks import is_checked
from caracal.core.specs.sheet import SpecSheet, base_name
from caracal.core.specs.sheet_store import own_folder
from caracal.ui.batch.expectations import Expectations
from caracal.ui.services.slices import Slices
from caracal.ui.session.session import Session


class VersionPlan(QObject):
    """The ticked versions of a film with their recipes, expected sizes and concerns.

    ``concerns`` are those of the last :meth:`renew`; ``checking`` says whether pictures or clips of
    overlays are still being checked.
    """

    def __init__(self, session: Session, folder: Path, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self.folder = session, folder
        self.replace = self.review = False
        self.off: set[str] = set()  # versions that are not ticked
        self.concerns: tuple[Concern, ...] = ()
        self.checking = False
        self._slices = Slices[tuple[Concern, ...]](self)
        self._recipes: dict[str, tuple[Project, SpecSheet, bool, Recipe]] = {}
        self.expectations = Expectations(self, session, self.recipe)

    def wanted_letters(self) -> list[str]:
        """Returns the letters of the ticked versions."""
        return [version.letter for version in self._session.project.versions
                if version.letter not in self.off]

    def jobs(self) -> list[EncodeJob]:
        """The ticked versions as lines for the list. Raises InputError when a sheet is gone."""
        return jobs_of(self._session.film, self._session.project, self._session.sheets.by_name,
                       self.folder, self.wanted_letters(), self.replace, self.review)

    def recipe(self, letter: str) -> Recipe:
        """What the version is made from; the same object until something changes."""
        project, sheet = self._session.project, self._session.sheet(letter)
        kept = self._recipes.get(letter)
        if kept is None or kept[0] is not project or kept[1:3] != (sheet, self.review):
            kept = project, sheet, self.review, recipe_of(project, letter, sheet, self.review)
            self._recipes[letter] = kept
        return kept[3]

    def seconds(self, letter: str) -> float:
        """How long the version lasts."""
        frames = self.recipe(letter).frames_in(self._session.analysis.master.frames)
        return frames / self._session.rate

    def renew(self, checked: Callable[[], None], then: Callable[[], None]) -> None:
        """Work out the concerns again, and call ``then``: at once where the film is short.

        Until then those of before stand, but for versions that are gone. ``checked`` is called when
        a check that began has ended.
        """
        letters = {version.letter for version in self._session.project.versions}
        self.concerns = tuple(concern for concern in self.concerns
                              if not concern.letter or concern.letter in letters)

        def take(concerns: tuple[Concern, ...]) -> None:
            self.concerns = concerns
            then()

        self._slices.run(partial(self._every_concern, checked), take)

    @property
    def is_working(self) -> bool:
        """Whether concerns are still being worked out."""
        return self._slices.runs

    def finish(self) -> None:
        """Have the concerns now."""
        self._slices.finish()

    def _every_concern(
        self, checked: Callable[[], None]
    ) -> Generator[None, None, tuple[Concern, ...]]:
        session, needed, every = self._session, 0.0, list[Concern]()
        project, unchecked = session.project, list[object]()
        if not session.found.whole:
            every.append(Concern(ConcernKind.GOES_ON,
                                 tr("The film is still being analysed. Versions can be encoded "
                                    "when that has ended."), True))
        for letter in self.wanted_letters():
            gone = self._sheet_gone(letter)
            if gone is not None:
                every.append(gone)
                continue
            contents = contents_of(self.recipe(letter))
            unchecked += [content for _, content in contents if not is_checked(content)]
            every += yield from self._concerns_of(letter)
            if session.project is not project:
                return self.concerns  # they are worked out again
            needed += self.expectations.size_mb(letter)
        self.checking = bool(unchecked)
        if unchecked:
            session.assets.check(unchecked, checked)
        every += places(session.analysis.master, self.folder, needed)
        return tuple(sorted(every, key=lambda concern: not concern.stops))

    def _concerns_of(self, letter: str) -> Generator[None, None, tuple[Concern, ...]]:
        """What stands in the way of one version; none when anything is edited meanwhile."""
        session, flags, fewer = self._session, dict[int, tuple[Flag, ...]](), list[int]()
        project, analysis = session.project, session.analysis
        for shot in analysis.shots_in(project.ranges_of(letter)):
            if session.project is not project or session.analysis is not analysis:
                return ()
            flags[shot] = session.flags(letter, shot)
            if session.solution(letter, shot).fewer_panes:
                fewer.append(shot)
            yield
        return tuple(concerns_of(
            session.analysis.master, letter, self.recipe(letter), flags, self.folder, date.today(),
            self.replace, self.expectations.estimate(letter), off_brand(session.project, letter),
            check_files=False, fewer_panes=fewer))

    def _sheet_gone(self, letter: str) -> Concern | None:
        """The concern that the version's spec sheet is missing, if it is."""
        base = base_name(self._session.project.version(letter).sheet)
        if base not in self._session.sheets.missing:
            return None
        return Concern(ConcernKind.SHEET_GONE,
                       tr("The spec sheet “{base}” is gone. Give version {letter} to another, or "
                          "put it back into {folder}.", base=base, letter=letter,
                          folder=own_folder()), True, letter)
