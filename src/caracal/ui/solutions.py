"""What was solved of an open film's shots: asked for when somebody looks, kept, and forgotten."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PySide6.QtCore import QObject, QTimer, Signal

from caracal.core.analysis.model import Analysis
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.shot_solution import Lost, ShotSolution, unsolved
from caracal.core.framing.why import Alternative
from caracal.core.geometry import Box
from caracal.core.layout.card import Card
from caracal.core.layout.model import Canvas, Layout
from caracal.core.layout.overlay import Overlay
from caracal.core.layout.redaction import Redaction, redactions_at
from caracal.core.render.dissolves import dissolving, outgoing_frames, share_left
from caracal.core.render.layers import (
    Layer,
    OutgoingLayer,
    OverlayLayer,
    TextLayer,
    layers_of,
)
from caracal.core.render.overlays import overlay_layers
from caracal.core.render.scene import Scene
from caracal.core.specs.sheet import SpecSheet
from caracal.core.time import FrameRange
from caracal.ui.caption_tracks import CaptionAt
from caracal.ui.solver_worker import Key, SolveRequest, SolveResult, SolverWorker

GoingOn = Callable[[Canvas], OutgoingLayer]
FINER = (2, 4)  # times as large as it is shown is a canvas with edges in it
OVER = 4  # times as large overlays are drawn: they move, so their edges lie anywhere
OFF = 0.2  # pixels of the screen by which an edge may lie beside its place
SOON_MS = 15  # results that come together are shown together


def scene_of(
    solution: ShotSolution, frame: int, picture: Box, canvas: Canvas, whole: Canvas,
    rate: float, overlays: Sequence[Overlay] = (), captions: CaptionAt | None = None,
    going_on: GoingOn | None = None, redactions: tuple[Redaction, ...] = (),
) -> Scene:
    """What a version is at ``frame`` for a ``canvas`` of the screen; in the file it is ``whole``.

    ``rate`` is the film's, in frames a second. ``picture`` is the master's active picture. Where
    there are edges within the canvas the scene is larger: edges lie at even pixels, which on a
    small canvas is a pixel too rough. ``captions`` gives the caption on a canvas of that size,
    ``going_on`` what of the range before still shows; ``redactions`` are the version's.
    """
    finer = _finer(solution.placed, canvas)
    fine = (canvas[0] * OVER, canvas[1] * OVER)
    over: tuple[OverlayLayer | TextLayer, ...] = overlay_layers(overlays, frame, fine, rate)
    caption = captions(fine) if captions is not None else None
    if caption is not None:
        over = (*over, caption)
    canvas = (canvas[0] * finer, canvas[1] * finer)
    windows = [path.window(frame) for path in solution.panes]
    layers: tuple[Layer, ...] = layers_of(
        solution.placed, canvas, windows, picture, solution.path.finish, frame / rate)
    outgoing = going_on(canvas) if going_on is not None else None
    if outgoing is not None:
        layers = (*layers, outgoing.covering(redactions))
    return Scene(canvas, layers, canvas[0] / whole[0], over, OVER / finer,
                 redactions_at(redactions, frame))


def going_on(
    ranges: Sequence[FrameRange], frame: int, path: str, analysis: Analysis,
    solution_of: Callable[[int], ShotSolution], rate: float,
) -> GoingOn | None:
    """What of the range before goes on at ``frame`` of the film at ``path``, on any canvas; None:
    nothing does. ``solution_of`` gives the solution of a shot.
    """
    for before, span in dissolving(ranges):
        at = frame - span.start
        if 0 <= at < span.dissolve:
            shot = analysis.shot_at(before.end_exclusive - 1)
            shown = outgoing_frames(before, span, analysis.shots[shot].end)[at]
            solution = solution_of(shot)
            windows = [each.window(shown) for each in solution.panes]
            return lambda canvas: OutgoingLayer(
                path, shown, share_left(span.dissolve, at), layers_of(
                    solution.placed, canvas, windows, analysis.active, solution.path.finish,
                    shown / rate))
    return None


def card_scene(
    card: Card, at: int, solution: ShotSolution, frame: int, picture: Box, canvas: Canvas,
    rate: float, opens: bool,
) -> Scene:
    """What a card is at its frame number ``at``, on a ``canvas`` of the screen.

    ``solution`` is that of the shot of the film's ``frame`` beside it, which comes after a card
    that ``opens``, and before one that does not.
    """
    window = solution.path.window(frame)
    number = frame - card.frames + at if opens else frame + 1 + at
    layers = layers_of(card.layout, canvas, [window], picture, solution.path.finish, number / rate)
    over = overlay_layers(card.overlays, at, (canvas[0] * OVER, canvas[1] * OVER), rate)
    return Scene(canvas, layers, 1.0, over, OVER)


def _finer(layout: Layout, canvas: Canvas) -> int:
    """How many times as large the scene must be for the edges of ``layout`` to lie in place."""
    if len(layout.panes) == 1:
        return 1
    edges = [share * side for pane in layout.panes
             for span, side in zip(pane.region, canvas, strict=True) for share in span]
    return next((times for times in FINER
                 if all(abs(edge * times - 2 * round(edge * times / 2)) <= OFF * times
                        for edge in edges)), FINER[-1])


class Solutions(QObject):
    """Answers at once, with what was solved before if need be; ``changed`` tells of news."""

    changed = Signal()
    failed = Signal(str)

    def __init__(
        self, parent: QObject, given: Mapping[tuple[str, int], ShotSolution]
    ) -> None:
        """``given`` are by sheet and shot, solved with nothing decided."""
        super().__init__(parent)
        self._known: dict[Key, ShotSolution] = {
            (name, shot, ShotChoice()): solution for (name, shot), solution in given.items()}
        self._latest: dict[tuple[str, int], ShotSolution] = dict(given)
        self._alternatives: dict[Key, tuple[Alternative, ...]] = {}
        self._unsolvable: set[tuple[Key, bool]] = set()  # not asked again
        self._round = 0
        # Found by version and shot, for one project: finding by what was decided takes longer.
        self._at_hand: dict[tuple[str, int], ShotSolution] = {}
        self._at_hand_of: tuple[object, object] = (None, None)
        self._worker = SolverWorker()
        self._worker.answered.connect(self._answered)
        self._worker.failed.connect(self.failed)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.changed)

    @property
    def busy(self) -> bool:
        """Whether anything is still to come, or to be shown."""
        return self._worker.busy or self._soon.isActive()

    def at_hand(
        self, project: object, analysis: Analysis, cell: tuple[str, int]
    ) -> ShotSolution | None:
        """What was found last for a version's letter and a shot, if nothing changed since."""
        if self._at_hand_of[0] is not project or self._at_hand_of[1] is not analysis:
            self._at_hand, self._at_hand_of = {}, (project, analysis)
        return self._at_hand.get(cell)

    def solution(
        self, key: Key, analysis: Analysis, sheet: SpecSheet, motion: Motion,
        drawn: Mapping[int, Lost], letter: str = "",
    ) -> ShotSolution:
        """The solution of ``key``; while it is solved, the latest one of its shot, or none yet.

        That of a version's ``letter`` is kept :meth:`at_hand`, and stands for others while they are
        solved; without one it is only looked at.
        """
        if key not in self._known:
            self._ask(SolveRequest(key, self._round, analysis, sheet, motion, dict(drawn)))
            if key[:2] not in self._latest:
                self._latest[key[:2]] = unsolved(analysis, key[1], sheet.frame)
            if letter:  # until the next answer comes
                self._at_hand[letter, key[1]] = self._latest[key[:2]]
            return self._latest[key[:2]]
        if letter:
            self._latest[key[:2]] = self._at_hand[letter, key[1]] = self._known[key]
        return self._known[key]

    def alternatives(
        self, key: Key, analysis: Analysis, sheet: SpecSheet, motion: Motion,
        drawn: Mapping[int, Lost],
    ) -> tuple[Alternative, ...]:
        """The other manners of ``key``'s shot; none while they are solved."""
        if key not in self._alternatives:
            self._ask(SolveRequest(key, self._round, analysis, sheet, motion, dict(drawn), True))
        return self._alternatives.get(key, ())

    def _ask(self, request: SolveRequest) -> None:
        if (request.key, request.with_alternatives) not in self._unsolvable:
            self._worker.ask(request)

    def _answered(self, result: SolveResult) -> None:
        self._worker.taken()
        self._at_hand.clear()
        key = result.question.key
        if result.question.round != self._round:
            return  # about shots or limits of before
        if result.solution is None and result.alternatives is None:
            self._unsolvable.add((key, result.question.with_alternatives))
        if result.solution is not None:
            self._known[key] = result.solution
        if result.alternatives is not None:
            self._alternatives[key] = result.alternatives
        if not self._soon.isActive():
            self._soon.start()

    def forget(self) -> None:
        """Everything is solved anew; what was stands for it until then."""
        self._round += 1
        self._at_hand.clear()
        self._worker.forget()
        for kept in (self._unsolvable, self._known, self._alternatives):
            kept.clear()

    def forget_shots(self, first: int = 0) -> None:
        """What was solved of shots from ``first`` on stands for nothing: they are others now."""
        self._latest = {key: solution for key, solution in self._latest.items() if key[1] < first}

    def close(self) -> None:
        """Stop, and wait for what is being solved."""
        self._soon.stop()
        self._worker.close()
