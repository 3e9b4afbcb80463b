"""The sound that plays, made in a process of its own: a stranger's film is decoded for it."""

from __future__ import annotations

import signal
from collections.abc import Generator
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import partial
from multiprocessing.connection import Connection

from caracal.core.base.errors import CaracalError, InputError, Problem, problem_of
from caracal.core.base.logs import keep_log, unforeseen
from caracal.core.base.translation import tr
from caracal.core.media.sound import Samples
from caracal.core.processes.child_line import ChildGone, ChildLine
from caracal.core.sound.finished_sound import SoundPlan, finished
from caracal.core.sound.mix import SoundMix

WITHIN_S = 20.0  # for a block of samples: one that takes longer is never made


@dataclass(frozen=True)
class Played:
    """Samples of ``mix`` from number ``first`` on, as ``plan`` finishes them, so many at a time."""

    mix: SoundMix
    plan: SoundPlan
    first: int
    block: int


class PlaybackProcess:
    """Asks the process, starting it when it is needed. For one thread."""

    def __init__(self) -> None:
        self._line = ChildLine("core.sound.playback_process", nice=0)  # gaps would be heard

    def blocks(self, played: Played) -> Generator[Samples, None, None]:
        """The samples of ``played``, block by block. Raises InputError when they cannot be had."""
        begins = True
        while True:
            try:
                made: Samples | Problem | None = self._line.ask(
                    partial(_asked, played, begins), WITHIN_S)
            except ChildGone:
                raise InputError(tr("The sound of this film cannot be played."), None,
                                 tr("Export it again.")) from None
            if isinstance(made, Problem):
                raise made.error()
            if made is None:
                return
            yield made
            played, begins = replace(played, first=played.first + len(made)), False

    def give_up(self) -> None:
        """Wait for no samples any more, from any thread."""
        self._line.give_up()

    def close(self) -> None:
        """End the process."""
        self._line.close()


def _asked(played: Played, begins: bool, begun: bool) -> Played | None:
    """What to ask for next. A process that has only ``begun`` is told where to go on."""
    return played if begins or begun else None


def main(line: Connection) -> int:
    """Make what is asked for over ``line``: a Played begins anew, None goes on."""
    keep_log("sound")
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the other side decides, also on Ctrl+C
    blocks: Generator[Samples, None, None] | None = None
    with suppress(EOFError, OSError):
        while True:
            asked: Played | None = line.recv()
            made: Samples | Problem | None = None
            try:
                if asked is not None:
                    if blocks is not None:
                        blocks.close()
                    blocks = finished(asked.mix, asked.plan, asked.first, asked.block)
                made = None if blocks is None else next(blocks, None)
            except CaracalError as problem:
                made = problem_of(problem)
            except Exception as problem:  # noqa: BLE001 - told in the window
                made = problem_of(unforeseen(problem))
            line.send(made)
    return 0
