"""Who is in the shots of an open film."""

from __future__ import annotations

from caracal.core.analysis.model import Analysis
from caracal.core.framing.lead import Subject, people_of, subjects
from caracal.core.framing.why import name_among


class People:
    """The subjects of each shot, found once for an analysis."""

    def __init__(self, analysis: Analysis) -> None:
        self._analysis = analysis
        self._subjects: dict[int, tuple[Subject, ...]] = {}

    def take(self, analysis: Analysis, same: int = 0) -> None:
        """Be about another ``analysis`` from now on; of its first shots, ``same`` are as before."""
        before, self._analysis = self._analysis, analysis
        self._subjects = {shot: found for shot, found in self._subjects.items() if shot < same
                          and before.tracks_in(shot) == analysis.tracks_in(shot)}

    def subjects(self, shot: int) -> tuple[Subject, ...]:
        """Those who are in ``shot``, the best score first."""
        if shot not in self._subjects:
            self._subjects[shot] = subjects(self._analysis, shot)
        return self._subjects[shot]

    def person_of(self, shot: int, subject: int | None) -> int | None:
        """The person of the film that a subject of ``shot`` is, if known."""
        return next((found.person for found in self.subjects(shot) if found.id == subject), None)

    def subject_of(self, shot: int, person: int) -> int | None:
        """The subject of ``shot`` that is this person of the film, best score first."""
        known = people_of(self._analysis, shot)
        those = [subject for subject, one in known.items() if one == person]
        if len(those) < 2:
            return next(iter(those), None)  # no score is needed: it takes 100 times as long
        return next((each.id for each in self.subjects(shot) if each.person == person), None)

    def name(self, shot: int, subject: int) -> str:
        """``person 2``: what a subject of ``shot`` is called."""
        return name_among(self.subjects(shot), subject)
