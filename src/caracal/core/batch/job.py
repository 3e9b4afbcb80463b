"""One line of the batch list as data: what is to be made, and how far it is."""

from __future__ import annotations

from enum import StrEnum

import msgspec

from caracal.core.base.translation import mark
from caracal.core.encoding.results import EncodeResult, FileState
from caracal.core.project.recipe import Recipe


class State(StrEnum):
    """How far a line of the batch list is."""

    WAITING = mark("waiting")
    ENCODING = mark("encoding")
    PROVING = mark("proving")
    DONE = mark("done")
    FAILED = mark("failed")
    STOPPED = mark("stopped")

    @property
    def busy(self) -> bool:
        """Whether a process works on the line now."""
        return self in (State.ENCODING, State.PROVING)

    @property
    def ended(self) -> bool:
        """Whether nothing more happens to it by itself."""
        return self in (State.DONE, State.FAILED, State.STOPPED)


class EncodeJob(msgspec.Struct, frozen=True):
    """One version of one film to make; everything that was decided when it was added.

    ``replace``: a file of its name is replaced, not numbered.
    """

    master: str
    folder: str
    recipe: Recipe
    replace: bool = False
    expected_mb: float = 0.0
    expected_s: float = 0.0


class JobStatus(msgspec.Struct, frozen=True):
    """What is known of an item: how far, its files, what went wrong, since when (s since 1970).

    ``planned`` are the names its files will have, ``parts`` those they have while they are made.
    """

    progress: FileState | None = None
    made: tuple[EncodeResult, ...] = ()
    problem: str = ""
    planned: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    began: float = 0.0
    ended: float = 0.0


class Item(msgspec.Struct, frozen=True):
    """One line of the batch list, as it was read."""

    id: int
    state: State
    job: EncodeJob
    status: JobStatus
    asked: str = ""
