"""What the views share: the analysed film, the project with its history, and where we are."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.model import Analysis, Box
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import Flag, flags_of
from caracal.core.framing.lead import Subject, subjects
from caracal.core.framing.path import ShotPath, shot_path
from caracal.core.framing.why import lead_name, why
from caracal.core.project.model import History, Project, first_project
from caracal.core.specs.sheet import SpecSheet, shipped_sheets
from caracal.ui.pictures import Pictures


@dataclass(frozen=True)
class ShotWords:
    """A shot's lead, the reason of its path, and its flags."""

    lead: str
    why: str
    flags: tuple[Flag, ...]


class Session(QObject):
    """One open film. Views listen to its signals and never to each other."""

    project_changed = Signal()
    frame_changed = Signal(int)
    version_changed = Signal()
    playing_changed = Signal(bool)
    said = Signal(str)

    def __init__(self, analysis: Analysis, paths: dict[tuple[str, int], ShotPath]) -> None:
        super().__init__()
        self.analysis = analysis
        self.sheets: dict[str, SpecSheet] = shipped_sheets()
        self.history = History([first_project(analysis.master.frames)])
        self.frame = 0
        self.letter = "A"
        self.speed = 0
        self._paths: dict[tuple[str, int, ShotChoice], ShotPath] = {
            (name, shot, ShotChoice()): path for (name, shot), path in paths.items()}
        self._told: dict[tuple[str, int, ShotChoice], ShotWords] = {}
        self._subjects: dict[int, tuple[Subject, ...]] = {}
        store = AnalysisStore(analysis.content_key)
        telling = tuple(shot.telling_frame for shot in analysis.shots)
        self.pictures = Pictures(store.proxy, analysis.master.frame_rate, telling)
        self._clock = QTimer(self)
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

    def sheet(self, letter: str) -> SpecSheet:
        name = next(one.sheet for one in self.project.versions if one.letter == letter)
        return self.sheets[name]

    def path(self, letter: str, shot: int) -> ShotPath:
        """The path of one shot in one version, solved once for each choice."""
        choice, sheet = self.project.choice(letter, shot), self.sheet(letter)
        key = (sheet.name, shot, choice)
        if key not in self._paths:
            self._paths[key] = shot_path(self.analysis, shot, sheet.frame, choice)
        return self._paths[key]

    def window(self, letter: str, frame: int) -> Box:
        """The window of a version at a frame, in master pixels."""
        path = self.path(letter, self.analysis.shot_at(frame))
        x, y, w, h = (float(v) for v in path.windows[frame - path.start])
        return (x, y, w, h)

    def told(self, letter: str, shot: int) -> ShotWords:
        """What is said of one shot in one version, worked out once for each choice."""
        key = (letter, shot, self.project.choice(letter, shot))
        if key not in self._told:
            path = self.path(letter, shot)
            self._told[key] = ShotWords(
                lead_name(self.analysis, shot, path.lead), why(self.analysis, shot, path),
                flags_of(self.analysis, shot, path, self.sheet(letter)))
        return self._told[key]

    def flags(self, letter: str, shot: int) -> tuple[Flag, ...]:
        return self.told(letter, shot).flags

    def subjects(self, shot: int) -> tuple[Subject, ...]:
        if shot not in self._subjects:
            self._subjects[shot] = subjects(self.analysis, shot)
        return self._subjects[shot]

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

    def edit(self, project: Project, name: str) -> None:
        self.history.push(project, name)
        self.said.emit(name)
        self.project_changed.emit()

    def undo(self) -> None:
        name = self.history.undo()
        self.said.emit(f"Undone: {name}" if name else "Nothing to undo.")
        self.project_changed.emit()

    def redo(self) -> None:
        name = self.history.redo()
        self.said.emit(f"Done again: {name}" if name else "Nothing to do again.")
        self.project_changed.emit()

    def play(self, speed: int) -> None:
        """Play at ``speed`` times the film's rate, backwards if negative; 0 stops."""
        self.speed = speed
        if speed:
            self._clock.start(round(1000 / self.rate))
        else:
            self._clock.stop()
        self.playing_changed.emit(bool(speed))

    def _tick(self) -> None:
        following = self.frame + self.speed
        if not 0 <= following < self.analysis.master.frames:
            self.play(0)
            return
        self.go(following)

    def close(self) -> None:
        self._clock.stop()
        self.pictures.close()
