"""One film's lines of the batch list: ``python -P -m caracal.core.batch.film LIST LINE...``.

A process of its own makes them from one decode: whatever a hostile film does to the libraries that
read it ends this process and nothing else. The list itself tells how far it is and how it ended.
"""

from __future__ import annotations

import signal
import sys
import threading
import time
from contextlib import ExitStack
from pathlib import Path

import msgspec

from caracal.core.analysis.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.batch.cluster import make_on_cluster
from caracal.core.batch.cluster_address import Cluster
from caracal.core.batch.jobs import CLUSTER, BatchList, Item, State, Told, Work, now
from caracal.core.children import end_with_parent
from caracal.core.convert import check_before, make_files
from caracal.core.encoding.encoder import Made
from caracal.core.encoding.feeding import Control, FileState, Outcome
from caracal.core.encoding.reservations import Reservations
from caracal.core.errors import Cancelled
from caracal.core.file_plan import FilePlan
from caracal.core.logs import keep_log, unforeseen
from caracal.core.paths import path_of, text_of
from caracal.core.plan import Planner
from caracal.core.project.shots import decided
from caracal.core.work import CancelToken, Pause, Progress

LOOK_S = 0.15  # how often wishes in the list are noticed
TELL_S = 0.3  # how often progress is written


class Group:
    """Lines of one film, made from one decode."""

    def __init__(self, jobs: BatchList, items: list[Item], control: Control) -> None:
        self._jobs, self._items = jobs, {one.id: one for one in items}
        self._control = Control(CancelToken(), Pause())
        self._above = control
        self._places = Reservations()
        self._owner: list[int] = []  # the line of each file
        self._plans: list[FilePlan] = []
        self._told: dict[int, float] = {}
        self._states: dict[int, FileState] = {}
        self._over = threading.Event()

    def run(self) -> None:
        """Make them; afterwards each has ended, or waits again."""
        watcher = threading.Thread(target=self._watch, daemon=True)
        watcher.start()
        try:
            with self._places:
                self._make()
        except Cancelled:
            for number in self._unended():
                if self._jobs.item(number).asked == "stop":
                    self._end(number, State.STOPPED)
                else:
                    self._jobs.put(number, State.WAITING, Told())
        except Exception as problem:  # noqa: BLE001 - whatever it is fails these lines, not the list
            for number in self._unended():
                self._end(number, State.FAILED, problem=unforeseen(problem).sentence())
        finally:
            self._over.set()
            watcher.join()

    def _unended(self) -> list[int]:
        return [one for one in self._items if self._jobs.item(one).state.busy]

    def _watch(self) -> None:
        """Carry wishes from the list, and from above, to the work."""
        with BatchList(self._jobs.path) as jobs:
            while not self._over.wait(LOOK_S):
                if self._above.cancel.cancelled:
                    self._control.cancel.cancel()
                self._control.pause.set(jobs.paused or self._above.pause.on)
                mine = [one for one in jobs.items() if one.id in self._items and one.state.busy]
                asked = {one.id for one in mine if one.asked == "stop"}
                if mine and not self._owner and len(asked) == len(mine):
                    self._control.cancel.cancel()  # nothing is planned yet, and nothing need be
                for i, owner in enumerate(tuple(self._owner)):
                    if owner in asked:
                        self._control.stopped.add(i)

    def _make(self) -> None:
        works = [one.work for one in self._items.values()]
        analysis = decided(
            analyse(path_of(works[0].master), self._before, self._control.cancel),
            works[0].recipe)
        planner = Planner(analysis, self._before, self._control.cancel)
        for number, item in self._items.items():
            try:
                self._plan(planner, analysis, number, item.work)
            except Cancelled:
                raise
            except Exception as problem:  # noqa: BLE001 - fails this line, not the others
                self._end(number, State.FAILED, problem=unforeseen(problem).sentence())
        if self._plans:
            cluster = self._jobs.setting(CLUSTER, Cluster)
            self._end_all(
                make_on_cluster(cluster, self._plans, self._progress, self._control) if cluster
                else make_files(self._plans, self._progress, self._control))

    def _plan(self, planner: Planner, analysis: Analysis, number: int, work: Work) -> None:
        folder = path_of(work.folder)
        check_before(analysis, [work.recipe], folder)
        plans = [self._places.taken(plan)
                 for plan in planner.add(number, work.recipe, folder, work.replace)]
        self._plans += plans
        self._owner += [number] * len(plans)
        self._jobs.tell(number, planned=tuple(one.file for one in plans),
                        parts=tuple(text_of(one.part_file) for one in plans))

    def _before(self, progress: Progress) -> None:
        """Progress of what comes before encoding, for all lines."""
        for number in self._items:
            if self._due(number):
                self._jobs.tell(number, progress=FileState(
                    progress.doing.lower(), progress.done, progress.total))

    def _due(self, number: int) -> bool:
        moment = time.monotonic()
        if moment - self._told.get(number, 0.0) < TELL_S:
            return False
        self._told[number] = moment
        return True

    def _progress(self, at: int, state: FileState) -> None:
        """Take the state of one file; a line with several files tells of all together."""
        self._states[at] = state
        owner = self._owner[at]
        mine = [i for i, one in enumerate(self._owner) if one == owner]
        proving = state.doing == "proving" and len(mine) == 1
        if proving or self._due(owner):
            states = [self._states[i] for i in mine if i in self._states]
            total = sum(self._plans[i].timeline.frames for i in mine)
            speeds = [one.frames_s for one in states if one.frames_s]
            whole = FileState(state.doing, sum(one.done for one in states), total,
                              sum(one.written_bytes for one in states),
                              speeds[-1] if speeds else None)
            told = msgspec.structs.replace(self._jobs.item(owner).told, progress=whole)
            self._jobs.put(owner, State.PROVING if proving else State.ENCODING, told)

    def _end_all(self, outcomes: list[Outcome]) -> None:
        for number in self._unended():
            mine = [one for one, owner in zip(outcomes, self._owner, strict=True)
                    if owner == number]
            made = tuple(one.made for one in mine if one.made is not None)
            problem = next((one.problem for one in mine if one.problem is not None), None)
            if problem is not None:
                self._end(number, State.FAILED, made=made, problem=problem.error().sentence())
            elif any(one.stopped for one in mine):
                self._end(number, State.STOPPED, made=made)
            elif all(one.proof.right for one in made):
                self._end(number, State.DONE, made=made)
            else:
                self._end(number, State.FAILED, made=made, problem=_wrong(made))

    def _end(self, number: int, state: State, made: tuple[Made, ...] = (),
             problem: str = "") -> None:
        told = self._jobs.item(number).told
        self._jobs.put(number, state, msgspec.structs.replace(
            told, made=made, problem=problem, ended=now(), progress=None))


def _wrong(made: tuple[Made, ...]) -> str:
    """What a file that is not proved lacks, in a sentence."""
    lines = [line for one in made for line in one.proof.lines if not line.right]
    return (f"Not proved: {lines[0].what} is {lines[0].found}, asked was {lines[0].asked}. "
            "The file is kept as “not proved”.")


def main() -> int:
    """Make the lines named on the command line; their states are told in the list."""
    end_with_parent()
    keep_log("film")
    control = Control()
    for one in (signal.SIGTERM, signal.SIGINT):
        signal.signal(one, lambda *_: control.cancel.cancel())
    with ExitStack() as stack:
        jobs = stack.enter_context(BatchList(Path(sys.argv[1])))
        items = [jobs.item(int(number)) for number in sys.argv[2:]]
        Group(jobs, items, control).run()
    return 0


if __name__ == "__main__":
    sys.exit(main())
