"""How far an edit reaches: in which versions and in which shots it holds."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial
from typing import Any, Protocol

from PySide6.QtCore import QObject, Signal

from caracal.core.analysis.film_pass.setups import similar_shots
from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import CaracalError
from caracal.core.base.identity import Same
from caracal.core.base.translation import counted, mark, tr
from caracal.core.project.bulk import Change, changed_in
from caracal.core.project.model import Place, Project
from caracal.ui.session.document import Document


class InVersions(StrEnum):
    """The versions that an edit changes."""

    THIS = mark("this version")
    ALL = mark("all versions")


class InShots(StrEnum):
    """The shots that an edit changes."""

    THIS = mark("this shot")
    SIMILAR = mark("similar shots")
    FILM = mark("whole film")


class Scope(StrEnum):
    """What an edit belongs to."""

    SHOTS = "shots"  # a shot, and others if it reaches them
    ONE_SHOT = "one shot"  # frames of one shot
    VERSION = "version"  # a version as a whole


@dataclass(frozen=True)
class Reach:
    """Versions and shots that an edit changes."""

    versions: InVersions = InVersions.THIS
    shots: InShots = InShots.THIS


class EditKind(StrEnum):
    """Edits that have a reach of their own, which is remembered."""

    LEAD = "lead"
    CROP = "crop"
    LAYOUT = "layout"
    OVERLAYS = "overlays"
    FINISH = "finish"
    TITLES = "titles"
    CAPTIONS = "captions"
    SOUNDS = "sounds"
    PLACE = "place"  # where something lies on a canvas: each shape has its own


# Edits that begin with all versions.
EVERY_VERSION = {EditKind.LEAD, EditKind.TITLES, EditKind.SOUNDS}


@dataclass(frozen=True)
class Offer:
    """Another reach for the edit that was made last: what a button says, and what it does."""

    words: str
    apply: Callable[[], None]


class Reaches(QObject):
    """The reach of each kind of edit. ``changed`` is emitted when one was set."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._by_kind: dict[EditKind, Reach] = {}

    def of(self, kind: EditKind) -> Reach:
        """The reach of edits of ``kind``."""
        usual = Reach(InVersions.ALL if kind in EVERY_VERSION else InVersions.THIS)
        return self._by_kind.get(kind, usual)

    def set(self, kind: EditKind, reach: Reach) -> None:
        """Let edits of ``kind`` reach so far from now on."""
        if reach != self.of(kind):
            self._by_kind[kind] = reach
            self.changed.emit()

    def kept(self) -> dict[str, str]:
        """All that was set, as text for the settings."""
        return {kind.value: f"{reach.versions.name} {reach.shots.name}"
                for kind, reach in self._by_kind.items()}

    def recall(self, kept: Mapping[str, Any]) -> None:
        """Take what :meth:`kept` returned; anything else is left out."""
        for kind in EditKind:
            versions, _, shots = str(kept.get(kind.value, "")).partition(" ")
            if versions in InVersions.__members__ and shots in InShots.__members__:
                self._by_kind[kind] = Reach(InVersions[versions], InShots[shots])


class EditedFilm(Protocol):
    """What :class:`Editing` asks of an open film."""

    analysis: Analysis
    document: Document

    @property
    def letter(self) -> str:
        """The chosen version."""
        ...

    @property
    def shot(self) -> int:
        """The shot at the playhead."""
        ...


@dataclass(frozen=True)
class _Edit:
    """An edit that may be made again with another reach: where it was made, and what it does."""

    kind: EditKind
    what: str
    change: Change
    scope: Scope
    at: Place


class Editing(QObject):
    """Makes edits as far as their kind reaches, and offers the other reaches afterwards.

    ``offered`` is emitted after such an edit with a tuple of :class:`Offer`. Taking one undoes the
    edit and makes it again with the other reach: one step of the history in all.
    """

    offered = Signal(object)
    refused = Signal(str)

    def __init__(self, film: EditedFilm, parent: QObject) -> None:
        super().__init__(parent)
        self._film = film
        self.reaches = Reaches(self)
        self._similar: tuple[object, tuple[int, ...]] = (None, ())
        self._waiting: tuple[Offer, ...] = ()  # until the button is up

    def targets(self, reach: Reach, at: Place) -> tuple[list[str], list[int]]:
        """The letters of the versions and the shots that ``reach`` stands for ``at`` a version and
        shot; that shot comes first."""
        film = self._film
        letter, here = at
        letters = [version.letter for version in film.document.project.versions]
        if reach.versions is InVersions.THIS:
            letters = [letter]
        shots = [here]
        if reach.shots is InShots.SIMILAR:
            shots += self.similar_shots_of(here)
        elif reach.shots is InShots.FILM:
            shots += [shot for shot in range(len(film.analysis.shots)) if shot != here]
        return letters, shots

    @staticmethod
    def where(
        letters: Sequence[str], shots: Sequence[int], reach: Reach, scope: Scope
    ) -> str:
        """``Shot 3, all versions``: the place of an edit in words."""
        every = reach.versions is InVersions.ALL and len(letters) > 1
        versions = tr("all versions") if every else letters[0]
        if scope is Scope.VERSION:
            return versions.capitalize() if every else tr("Version {letter}", letter=letters[0])
        if reach.shots is InShots.FILM:
            return tr("Whole film, {versions}", versions=versions)
        if len(shots) == 1:
            return tr("Shot {shot}, {versions}", shot=shots[0] + 1, versions=versions)
        return f'{counted(len(shots), "{count} shot", "{count} shots")}, {versions}'

    def edit(
        self, kind: EditKind, what: str, change: Change, gesture: object | None = None,
        scope: Scope = Scope.SHOTS, held: Project | None = None,
    ) -> bool:
        """Make ``change`` in every version and shot that edits of ``kind`` reach.

        ``what`` says what was done: "person 2 leads". Only edits of the ``scope`` SHOTS reach other
        shots. While a button is ``held`` the change starts each time from the project as it was
        when the button went down, until :meth:`release`. Returns whether it was made; what cannot
        be is said.
        """
        reach = self.reaches.of(kind)
        if scope is not Scope.SHOTS:
            reach = replace(reach, shots=InShots.THIS)
        at = (self._film.letter, self._film.shot)
        return self._make(_Edit(kind, what, change, scope, at), reach, gesture, held)

    def release(self) -> None:
        """The button is up: what was dragged is one step, and its other reaches are offered."""
        self._film.document.seal()
        offers, self._waiting = self._waiting, ()
        if offers:
            self.offered.emit(offers)

    def _make(
        self, edit: _Edit, reach: Reach, gesture: object | None = None,
        held: Project | None = None,
    ) -> bool:
        document = self._film.document
        before = document.project
        project = before if held is None else held
        letters, shots = self.targets(reach, edit.at)
        try:
            project = changed_in(project, ((letter, shot) for shot in shots
                                           for letter in letters), edit.change)
        except CaracalError as problem:
            self.refused.emit(problem.sentence())
            return False
        where = self.where(letters, shots, reach, edit.scope)
        document.edit(project, tr("{where}: {what}", where=where, what=edit.what),
                      None if gesture is None else (gesture, reach), held=held is not None)
        if held is not None:  # buttons would flicker while the pointer moves
            self._waiting = () if project == held else self._offers(edit, reach)
            return True
        self.offered.emit(() if project == before else self._offers(edit, reach))
        return True

    def _offers(self, edit: _Edit, reach: Reach) -> tuple[Offer, ...]:
        made = self._film.document.project
        return tuple(Offer(words, partial(self._again, made, edit, other))
                     for words, other in self._others(edit, reach))

    def similar_shots_of(self, shot: int) -> tuple[int, ...]:
        """Returns the other shots of the set-up of ``shot``, kept for the last one asked for."""
        key = (Same(self._film.analysis), shot)
        if self._similar[0] != key:
            self._similar = key, similar_shots(self._film.analysis, shot)
        return self._similar[1]

    def _others(self, edit: _Edit, reach: Reach) -> list[tuple[str, Reach]]:
        """The reaches that are offered beside ``reach``, with what their buttons say."""
        found = list[tuple[str, Reach]]()
        letter, shot = edit.at
        if len(self._film.document.project.versions) > 1:
            if reach.versions is InVersions.THIS:
                found.append((tr("Apply to all versions"), replace(reach, versions=InVersions.ALL)))
            else:
                found.append((tr("Only in {letter}", letter=letter),
                              replace(reach, versions=InVersions.THIS)))
        if edit.scope is not Scope.SHOTS:
            return found
        if reach.shots is not InShots.THIS:
            found.append((tr("Only in shot {shot}", shot=shot + 1),
                          replace(reach, shots=InShots.THIS)))
        elif self.similar_shots_of(shot):
            found.append((tr("Apply to similar shots"), replace(reach, shots=InShots.SIMILAR)))
        if edit.kind is EditKind.LEAD and reach.shots is not InShots.FILM:
            found.append((tr("Apply to whole film"), replace(reach, shots=InShots.FILM)))
        return found

    def _again(self, edited: Project, edit: _Edit, reach: Reach) -> None:
        """Make the last edit again with another reach, in the place of what it did."""
        document = self._film.document
        if document.project is not edited:
            return  # something else was changed meanwhile
        document.history.undo()
        if not self._make(edit, reach):
            document.history.redo()  # what was made stays
