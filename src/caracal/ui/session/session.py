"""What the views share: the analysed film, the project with its history, and where we are."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, Signal

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.cache_limit import InUse
from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box
from caracal.core.base.paths import text_of
from caracal.core.base.translation import tr
from caracal.core.framing.flags import Flag
from caracal.core.framing.path import ShotPath
from caracal.core.framing.shot_solution import Lost, ShotSolution, unsolved
from caracal.core.framing.why import Alternative
from caracal.core.layout.model import Canvas, Layout
from caracal.core.plan.analysis_source import source_of
from caracal.core.project.model import Project, first_project
from caracal.core.project.shots import as_decided
from caracal.core.render.builder import Surroundings, build_screen_scene
from caracal.core.render.dissolves import outgoing_at
from caracal.core.render.preview.process import PreviewSource
from caracal.core.render.scene import Scene, plain_scene
from caracal.core.render.shown_shots import ShownFrame, frame_of
from caracal.core.specs.sheet import SpecSheet
from caracal.ui.services.solver_worker import Key
from caracal.ui.session.ahead import AheadSolver
from caracal.ui.session.asset_picker import AssetPicker
from caracal.ui.session.caption_tracks import CaptionTracks
from caracal.ui.session.cursor import Cursor
from caracal.ui.session.document import Document
from caracal.ui.session.pane_focus import PaneFocus
from caracal.ui.session.people import People
from caracal.ui.session.playing import Playing
from caracal.ui.session.preview import Preview
from caracal.ui.session.reach import Editing
from caracal.ui.session.session_sheets import SessionSheets
from caracal.ui.session.shot_sentences import ShotSentences, ShotWords
from caracal.ui.session.solutions import Solutions
from caracal.ui.session.zones_look import ZonesLook

GOES_ON = (tr("analysing"),
           tr("Still analysing this shot."))


class Session(QObject):
    """One open film: the parts below, and where in it we are. Views listen to its signals and never
    to each other.

    Its parts are the document, the cursor, the sheets, the people, the solutions, the preview, the
    captions, the sentences, the player and the asset picker: one attribute each, which makes more
    than a class should have, and little code of its own. ``project_changed`` is emitted after an
    edit, ``solutions_changed`` after an edit and after each new solution, ``grew`` when more of a
    film is known whose analysis is still running.
    """

    project_changed = Signal()
    solutions_changed = Signal()
    said = Signal(str)
    zones_changed = Signal()
    grew = Signal()

    def __init__(self, analysis: Analysis, project: Project | None = None) -> None:
        super().__init__()
        self.found = self.analysis = analysis
        self.sheets = SessionSheets()
        self.editing = Editing(self, self)
        self.document = Document(project or first_project(analysis.master.frames))
        self.document.changed.connect(self._announce)
        self.editing.refused.connect(self.said)
        self.sheets.stand_in(self.project.versions)
        self.cursor = Cursor(self, self)
        self.zones = ZonesLook()
        self.solving = Solutions(self)
        self.solving.changed.connect(self.solutions_changed)
        self.solving.failed.connect(self.said)
        self.people = People(analysis)
        self._settled = self.project
        self._settle()
        self.solving.source = source_of(self.found, self.project)
        self.ahead = AheadSolver(self, self)
        # Flags by version and shot, with what they follow from.
        self._flags: dict[tuple[str, int], tuple[tuple[object, ...], tuple[Flag, ...]]] = {}
        store = AnalysisStore(analysis.content_key)
        self._in_use = InUse(store.folder)
        self.preview = Preview(PreviewSource(store.proxy, analysis.master), self.scene)
        for signal in (self.project_changed, self.solutions_changed):
            signal.connect(self.preview.scenes_changed)  # before any view looks again
        self.words, self.captions = ShotSentences(), CaptionTracks()
        self.playing, self.assets = Playing(self, self), AssetPicker(self)
        for part in (self.playing, self.assets):
            part.said.connect(self.said)
        for signal in (self.cursor.version_changed, self.project_changed):
            signal.connect(self.playing.renew_sound)

    @property
    def project(self) -> Project:
        """The project as it is now."""
        return self.document.project

    @property
    def frame(self) -> int:
        """The frame at the playhead."""
        return self.cursor.frame

    @property
    def letter(self) -> str:
        """The chosen version."""
        return self.cursor.letter

    @property
    def pane(self) -> PaneFocus:
        """The pane whose window is changed."""
        return self.cursor.pane

    @property
    def shot(self) -> int:
        """The shot at the playhead."""
        return self.analysis.shot_at(self.frame)

    @property
    def rate(self) -> float:
        return float(self.analysis.master.rate)

    @property
    def film(self) -> Path:
        return self.analysis.master.file

    @property
    def speed(self) -> int:
        """How many times the film's rate it plays at; 0: it stands."""
        return self.playing.speed

    def sheet(self, letter: str) -> SpecSheet:
        return self.sheets.called(self.project.version(letter).sheet)

    def solution(self, letter: str, shot: int) -> ShotSolution:
        """All that is shown of one shot in one version: while it is being solved, what was."""
        if self.analysis.goes_on(shot):
            return unsolved(self.analysis, shot, self.sheet(letter).frame, *GOES_ON)
        found = self.solving.at_hand(self.project, self.analysis, (letter, shot))
        return found or self.solving.solution(
            self._key(letter, shot), self.analysis, self.sheet(letter), self.project.motion,
            self._drawn(), letter)

    def path(self, letter: str, shot: int) -> ShotPath:
        """The path of one shot in one version."""
        return self.solution(letter, shot).path

    def is_solved(self, letter: str, shot: int) -> bool:
        """Whether a shot of a version is solved as it is decided now; nobody is asked for it."""
        return self.solving.is_known(self._key(letter, shot))

    def solve_ahead(self, letter: str, shot: int) -> bool:
        """Ask for a cell that nobody looks at, unless it is solved; whether it was asked for."""
        if self.is_solved(letter, shot):
            return False
        self.solving.solve_ahead(self._key(letter, shot), self.analysis, self.sheet(letter),
                                 self.project.motion, self._drawn())
        return True

    def _key(self, letter: str, shot: int) -> Key:
        return (self.sheet(letter).name, shot, self.project.choice(letter, shot))

    def _drawn(self) -> dict[int, Lost]:
        return {box.subject: box.lost for box in self.project.drawn}

    def window(self, letter: str, frame: int) -> Box:
        """The window of a version at a frame, in master pixels."""
        return self.path(letter, self.analysis.shot_at(frame)).window(frame)

    def scene(self, letter: str, frame: int, canvas: Canvas) -> Scene:
        """What a version, or with no ``letter`` the master, is at a frame on such a canvas."""
        if not letter:
            whole = (0.0, 0.0, float(self.found.master.width), float(self.found.master.height))
            return plain_scene(canvas, whole)
        solution = self.solution(letter, self.analysis.shot_at(frame))
        version = self.project.version(letter)
        outgoing = outgoing_at(
            self.project.ranges_of(letter), frame, text_of(self.film),
            lambda at: self.analysis.shots[self.analysis.shot_at(at)].end,
            lambda at: self.shown(letter, at))
        return build_screen_scene(
            frame_of(solution.placed, solution.panes, frame), frame,
            Surroundings(self.analysis.active, self.rate, self.project.overlays_on_film(letter),
                         version.redactions),
            canvas, self.sheet(letter).canvas, () if outgoing is None else (outgoing,),
            self.captions.at(self, letter, frame, solution))

    def scene_in(self, letter: str, frame: int, layout: Layout, canvas: Canvas) -> Scene | None:
        """What a version would be at a frame in ``layout``; None while that is being solved."""
        shot = self.analysis.shot_at(frame)
        name, _, choice = self._key(letter, shot)
        key = (name, shot, msgspec.structs.replace(choice, layout=layout))
        solution = self.solving.solution(
            key, self.analysis, self.sheet(letter), self.project.motion, self._drawn())
        return None if solution.layout != layout else build_screen_scene(
            frame_of(solution.placed, solution.panes, frame), frame,
            Surroundings(self.analysis.active, self.rate), canvas, self.sheet(letter).canvas)

    def shown(self, letter: str, frame: int) -> ShownFrame:
        """What a version shows of a frame of the film."""
        solution = self.solution(letter, self.analysis.shot_at(frame))
        return frame_of(solution.placed, solution.panes, frame)

    def told(self, letter: str, shot: int) -> ShotWords:
        """What is said of one shot in one version."""
        return self.words.of(self.analysis, letter, shot, self.solution(letter, shot), self.project)

    def flags(self, letter: str, shot: int) -> tuple[Flag, ...]:
        return self.told(letter, shot).flags

    def shots_with_issues(self) -> Iterator[int | None]:
        """Each shot that has an issue in any version, of those that are solved by now; None for
        each that has none, so that counting can pause between shots. It ends early when anything
        is edited meanwhile."""
        project, analysis = self.project, self.analysis
        letters = [version.letter for version in project.versions]
        for shot in range(len(analysis.shots)):
            if self.project is not project or self.analysis is not analysis:
                return
            yield shot if any(self.known_flags(letter, shot) for letter in letters) else None

    def known_flags(self, letter: str, shot: int) -> tuple[Flag, ...]:
        """The flags of one shot in one version if it is solved; of a whole film nobody is asked for
        them. For going through all of a film: what did not change is not worked out again."""
        if not self.found.whole:
            return self.flags(letter, shot)
        solution = self.solving.known(self._key(letter, shot))
        if solution is None:
            return ()
        now = (solution, self.project.version(letter), self.project.accepted, self.analysis)
        kept = self._flags.get((letter, shot))
        if kept is None or any(one is not other for one, other in zip(kept[0], now, strict=True)):
            kept = self._flags[letter, shot] = (now, self.flags(letter, shot))
        return kept[1]

    def alternatives(self, letter: str, shot: int) -> tuple[Alternative, ...]:
        """The other manners of one shot with what they would cost; none while they are solved."""
        if self.analysis.goes_on(shot):
            return ()
        name, _, choice = self._key(letter, shot)
        key = (name, shot, msgspec.structs.replace(choice, keyframes=()))
        return self.solving.alternatives(key, self.analysis, self.sheet(letter),
                                         self.project.motion, self._drawn())

    def go(self, frame: int) -> None:
        """Show ``frame``, held inside the film."""
        self.cursor.go(frame, self.analysis.known_to)

    def show_zones(self, look: ZonesLook) -> None:
        """Draw zones so from now on."""
        self.zones = look
        self.zones_changed.emit()

    def grow(self, analysis: Analysis) -> None:
        """Take what is known by now of the film: more shots, and what was revised.

        Shots that ended stay as they are, and all that was decided about them.
        """
        before, self.found = self.analysis, analysis
        project = self.project
        self.solving.source = source_of(analysis, project)
        self.analysis = as_decided(analysis, project.starts, project.drawn, project.sound)
        if analysis.active != before.active:
            self._forget_solved()  # bars were found: every window lies elsewhere
        ended = max(0, len(self.analysis.shots) - 1)
        self.solving.forget_shots(ended)
        self.people.take(self.analysis, ended)
        self.ahead.begin_again()
        self.go(self.frame)
        self.grew.emit()
        self.solutions_changed.emit()

    def still(self, analysis: Analysis, shot: int) -> bool:
        """Whether ``shot`` is the same shot now that it was in ``analysis``."""
        return self.analysis.shots[shot : shot + 1] == analysis.shots[shot : shot + 1]

    def renew_sheets(self) -> None:
        """Read the spec sheets again."""
        self.sheets.renew(self.project.versions)
        self.solving.forget()
        self.ahead.begin_again()
        self.project_changed.emit()
        self.solutions_changed.emit()

    def choose_version(self, letter: str) -> None:
        """Work on version ``letter`` from now on."""
        self.cursor.choose_version(letter)

    def edit(self, project: Project, name: str, gesture: object | None = None,
             held: bool = False) -> None:
        """Take ``project`` as the newest: see :meth:`Document.edit`."""
        self.document.edit(project, name, gesture, held)

    def _announce(self, words: str) -> None:
        self._settle()
        if self.letter not in [version.letter for version in self.project.versions]:
            self.choose_version(self.project.versions[0].letter)
        self.said.emit(words if not self.document.read_only else
                       tr("{words} (in a copy only: this window is read-only)", words=words))
        self.ahead.begin_again()
        self.project_changed.emit()
        self.solutions_changed.emit()

    def _settle(self) -> None:
        """Forget what was worked out for other shots or other limits."""
        now, before = self.project, self._settled
        self._settled = now
        shots = (now.starts, now.drawn, now.sound)
        if shots != (before.starts, before.drawn, before.sound) or (
                any(shots) and self.analysis is self.found):
            self.analysis = as_decided(self.found, *shots)
        elif now.motion == before.motion:
            return
        self.solving.source = source_of(self.found, now)
        if now.starts != before.starts:
            self.solving.forget_shots()
        self._forget_solved()

    def _forget_solved(self) -> None:
        self.solving.forget()
        self.people.take(self.analysis)

    def play(self, speed: int) -> None:
        """Play at ``speed`` times the film's rate, backwards if negative; 0 stops."""
        self.playing.play(speed)

    def close(self) -> None:
        for each in (self.ahead, self.playing, self.assets, self.solving, self.preview,
                     self._in_use):
            each.close()
