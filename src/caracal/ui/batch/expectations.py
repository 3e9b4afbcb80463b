"""What size and time to expect of a film's versions: by bitrates at once, by trials soon after."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal

from caracal.core.base.paths import text_of
from caracal.core.base.time import short_time
from caracal.core.base.translation import tr
from caracal.core.batch.estimate import Estimate
from caracal.core.batch.trial import TrialOrder
from caracal.core.project.recipe import Recipe
from caracal.core.specs.settings import estimated_mb
from caracal.ui.batch.trial_worker import Trial, TrialWorker
from caracal.ui.session.session import Session

SETTLE_MS = 700  # after the last change, before trials begin


class Expectations(QObject):
    """Kept by what a version is made from, so that a trial is made once; ``changed`` tells of news.
    """

    changed = Signal()
    due = Signal()  # nothing has changed for a moment: trials may begin

    def __init__(
        self, parent: QObject, session: Session, recipe_of: Callable[[str], Recipe]
    ) -> None:
        """``recipe_of`` gives what the version of a letter is made from."""
        super().__init__(parent)
        self._session, self._recipe_of = session, recipe_of
        self._found: dict[object, Estimate | str] = {}
        self._keys: dict[str, tuple[Recipe, object]] = {}  # of recipes as they were last
        self._worker = TrialWorker()
        self._worker.answered.connect(self._tried)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SETTLE_MS)
        self._soon.timeout.connect(self.due)

    def _key(self, letter: str) -> object:
        recipe = self._recipe_of(letter)
        kept = self._keys.get(letter)
        if kept is None or kept[0] is not recipe:
            kept = self._keys[letter] = recipe, recipe.digest
        return kept[1]

    def estimate(self, letter: str) -> Estimate | None:
        """What a trial has told of a version, if one has."""
        found = self._found.get(self._key(letter))
        return found if isinstance(found, Estimate) else None

    def size_mb(self, letter: str) -> float:
        """The size of a version in 10^6 bytes, as well as it is known."""
        found = self.estimate(letter)
        if found is not None:
            return found.size_mb
        session, recipe = self._session, self._recipe_of(letter)
        frames = recipe.frames_in(session.analysis.master.frames)
        return estimated_mb(recipe.sheet, frames / session.rate,
                            bool(session.analysis.master.sound), session.analysis.master.rate)

    def total(self, letters: list[str]) -> str:
        """Size and time of ``letters`` together, in words."""
        found = [self.estimate(letter) for letter in letters]
        known = [estimate.seconds for estimate in found if estimate is not None]
        time = f", {short_time(sum(known))}" if known and len(known) == len(letters) else ""
        return tr("{count} ticked: {size:.0f} MB{time}", count=len(letters),
                  size=sum(map(self.size_mb, letters)), time=time)

    def untried(self, letter: str) -> bool:
        """Whether a trial can still tell more."""
        found = self._found.get(self._key(letter))
        return found is None or (isinstance(found, Estimate) and found.rough)

    def begin_soon(self) -> None:
        """Let trials begin once nothing changes any more."""
        self._soon.start()

    def attempt(self, letters: list[str]) -> None:
        """Try those of ``letters`` that were not, and then those whose answer was rough."""
        wanted = [letter for letter in letters if self.untried(letter)]
        first = [letter for letter in wanted if self._key(letter) not in self._found]
        rest = [letter for letter in wanted if letter not in first]  # their answers get better
        self._worker.ask([self._trial(letter, False) for letter in first]
                         + [self._trial(letter, True) for letter in rest])

    def _trial(self, letter: str, thorough: bool) -> Trial:
        return Trial(self._key(letter), TrialOrder(
            text_of(self._session.film), self._recipe_of(letter), thorough))

    def _tried(self, key: object, answer: Estimate | str) -> None:
        self._found[key] = answer
        self.changed.emit()

    def pause(self) -> None:
        """No trials while the encoders are at work."""
        self._worker.ask([])

    def close(self) -> None:
        """This stops all that runs, and waits for it."""
        self._soon.stop()
        self._worker.close()
