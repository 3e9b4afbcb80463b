"""What the views share: the analysed film, the project with its history, and where we are."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import msgspec
from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.model import Analysis, Box
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import Flag, flags_of
from caracal.core.framing.lead import Subject, subjects
from caracal.core.framing.motion import Motion
from caracal.core.framing.path import ShotPath, shot_path
from caracal.core.framing.swaps import left_out
from caracal.core.framing.why import Alternative, alternatives, lead_name, why
from caracal.core.project.history import History
from caracal.core.project.model import Project, first_project
from caracal.core.project.shots import as_decided
from caracal.core.specs.sheet import SpecSheet, shipped_sheets
from caracal.ui.pictures import Pictures


@dataclass(frozen=True)
class ShotWords:
    """A shot's lead, the reason of its path, its flags, and those a person accepted.

    ``left_out`` is the lead and those of its worth that the window cannot show, too.
    """

    lead: str
    why: str
    flags: tuple[Flag, ...]
    accepted: tuple[Flag, ...]
    left_out: tuple[Subject, ...]


class Session(QObject):
    """One open film. Views listen to its signals and never to each other."""

    project_changed = Signal()
    frame_changed = Signal(int)
    version_changed = Signal()
    playing_changed = Signal(bool)
    said = Signal(str)

    def __init__(
        self, analysis: Analysis, paths: dict[tuple[str, int], ShotPath],
        project: Project | None = None,
    ) -> None:
        super().__init__()
        self.found = analysis
        self.analysis = analysis
        self.sheets: dict[str, SpecSheet] = shipped_sheets()
        self.history = History([project or first_project(analysis.master.frames)])
        self.file: Path | None = None  # where the project was saved
        self.saved = self.project
        self.frame = 0
        self.letter = "A"
        self.speed = 0
        # The given paths were solved with the usual limits: a project with its own has none yet.
        given = paths if self.project.motion == Motion() else {}
        self._paths: dict[tuple[str, int, ShotChoice], ShotPath] = {
            (name, shot, ShotChoice()): path for (name, shot), path in given.items()}
        self._told: dict[tuple[object, ...], ShotWords] = {}
        self._others: dict[tuple[object, ...], tuple[Alternative, ...]] = {}
        self._subjects: dict[int, tuple[Subject, ...]] = {}
        self._settled = self.project
        self._settle()
        store = AnalysisStore(analysis.content_key)
        telling = tuple(shot.telling_frame for shot in analysis.shots)
        self.pictures = Pictures(store.proxy, analysis.master.frame_rate, telling)
        self._clock, self._since = QTimer(self), QElapsedTimer()
        self._began = self._shown = 0
        self._clock.timeout.connect(self._tick)

    @property
    def project(self) -> Project:
        return self.history.now

    @property
    def shot(self) -> int:
        return self.analysis.shot_at(self.frame)

    @property
    def rate(self) -> float:
        return float(self.analysis.master.rate)

    @property
    def film(self) -> Path:
        return self.analysis.master.file

    @property
    def unsaved(self) -> bool:
        return self.project != self.saved

    def sheet(self, letter: str) -> SpecSheet:
        name = next(one.sheet for one in self.project.versions if one.letter == letter)
        return self.sheets[name]

    def path(self, letter: str, shot: int) -> ShotPath:
        """The path of one shot in one version, solved once for each choice."""
        return self._path(letter, shot, self.project.choice(letter, shot))

    def _path(self, letter: str, shot: int, choice: ShotChoice) -> ShotPath:
        sheet = self.sheet(letter)
        key = (sheet.name, shot, choice)
        if key not in self._paths:
            self._paths[key] = shot_path(
                self.analysis, shot, sheet.frame, choice, self.project.motion)
        return self._paths[key]

    def window(self, letter: str, frame: int) -> Box:
        """The window of a version at a frame, in master pixels."""
        path = self.path(letter, self.analysis.shot_at(frame))
        x, y, w, h = (float(v) for v in path.windows[frame - path.start])
        return (x, y, w, h)

    def told(self, letter: str, shot: int) -> ShotWords:
        """What is said of one shot in one version, worked out once for each choice."""
        reasons = self.project.accepted_kinds(letter, shot)
        key = (letter, shot, self.project.choice(letter, shot), tuple(sorted(reasons)))
        if key not in self._told:
            path = self.path(letter, shot)
            lost = next((one.lost for one in self.project.drawn if one.subject == path.lead), ())
            found = flags_of(self.analysis, shot, path, self.sheet(letter), self.project.motion,
                             lost)
            self._told[key] = ShotWords(
                lead_name(self.analysis, shot, path.lead), why(self.analysis, shot, path),
                tuple(one for one in found if one.kind not in reasons),
                tuple(one for one in found if one.kind in reasons),
                left_out(self.analysis, shot, path))
        return self._told[key]

    def flags(self, letter: str, shot: int) -> tuple[Flag, ...]:
        return self.told(letter, shot).flags

    def alternatives(self, letter: str, shot: int) -> tuple[Alternative, ...]:
        """The other manners of one shot with what they would cost."""
        choice = msgspec.structs.replace(self.project.choice(letter, shot), keyframes=())
        key = (letter, shot, choice)
        if key not in self._others:
            self._others[key] = alternatives(
                self.analysis, shot, choice, lambda one: self._path(letter, shot, one))
        return self._others[key]

    def subjects(self, shot: int) -> tuple[Subject, ...]:
        if shot not in self._subjects:
            self._subjects[shot] = subjects(self.analysis, shot)
        return self._subjects[shot]

    def person_of(self, shot: int, subject: int | None) -> int | None:
        """The person of the film that a subject of ``shot`` is, if known."""
        return next((one.person for one in self.subjects(shot) if one.id == subject), None)

    def subject_of(self, shot: int, person: int) -> int | None:
        """The subject of ``shot`` that is this person of the film, best score first."""
        return next((one.id for one in self.subjects(shot) if one.person == person), None)

    def go(self, frame: int) -> None:
        """Show ``frame``, held inside the film."""
        held = min(max(0, frame), self.analysis.master.frames - 1)
        if held != self.frame:
            self.frame = held
            self.frame_changed.emit(held)

    def choose_version(self, letter: str) -> None:
        if letter != self.letter:
            self.letter = letter
            self.version_changed.emit()

    def edit(self, project: Project, name: str, dragging: bool = False) -> None:
        """Take ``project`` as the newest; the steps of one drag are undone at once."""
        (self.history.replace if dragging else self.history.push)(project, name)
        self._announce(name)

    def undo(self) -> None:
        name = self.history.undo()
        self._announce(f"Undone: {name}" if name else "Nothing to undo.")

    def redo(self) -> None:
        name = self.history.redo()
        self._announce(f"Done again: {name}" if name else "Nothing to do again.")

    def _announce(self, words: str) -> None:
        self._settle()
        self.said.emit(words)
        self.project_changed.emit()

    def _settle(self) -> None:
        """Forget what was worked out for other shots or other limits."""
        now, before = self.project, self._settled
        self._settled = now
        shots = (now.starts, now.drawn)
        if shots != (before.starts, before.drawn) or (any(shots) and self.analysis is self.found):
            self.analysis = as_decided(self.found, *shots)
        elif now.motion == before.motion:
            return
        for kept in (self._paths, self._told, self._others, self._subjects):
            kept.clear()

    def play(self, speed: int) -> None:
        """Play at ``speed`` times the film's rate, backwards if negative; 0 stops."""
        self.speed = speed
        if speed:
            self._play_from()
            self._clock.start(round(500 / self.rate))
        else:
            self._clock.stop()
        self.playing_changed.emit(bool(speed))

    def _tick(self) -> None:
        """To where the film is by now: a slow machine drops frames and never drags."""
        if self.frame != self._shown:  # somebody went elsewhere meanwhile
            self._play_from()
        following = self._began + self.speed * int(self._since.elapsed() / 1000 * self.rate)
        if not 0 <= following < self.analysis.master.frames:
            self.play(0)
            return
        self._shown = following
        self.go(following)

    def _play_from(self) -> None:
        """Count the time from the frame that shows."""
        self._began = self._shown = self.frame
        self._since.start()

    def close(self) -> None:
        self._clock.stop()
        self.pictures.close()
