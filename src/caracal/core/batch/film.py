"""One film's lines of the batch list.

A process of its own makes them from one decode: whatever a hostile film does to the libraries that
read it ends this process and nothing else. The list itself tells how far it is and how it ended.
"""

from __future__ import annotations

import threading
import time
from contextlib import ExitStack
from pathlib import Path

import msgspec

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import Cancelled
from caracal.core.base.logs import keep_log, unforeseen
from caracal.core.base.paths import path_of, text_of
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Control, Pause, Progress
from caracal.core.batch.batch_list import CLUSTER, BatchList, now
from caracal.core.batch.cluster import make_on_cluster
from caracal.core.batch.cluster_address import Cluster
from caracal.core.batch.job import EncodeJob, Item, JobStatus, State
from caracal.core.convert import check_before, make_files
from caracal.core.encoding.reservations import Reservations
from caracal.core.encoding.results import EncodeResult, FileState, Outcome
from caracal.core.plan.file_plan import FilePlan
from caracal.core.plan.planner import Planner
from caracal.core.processes.stop_signals import cancel_on_signals
from caracal.core.project.shots import decided

LOOK_S = 0.15  # how often wishes in the list are noticed
TELL_S = 0.3  # how often progress is written


class Group:
    """Lines of one film, made from one decode."""

    def __init__(self, jobs: BatchList, items: list[Item], control: Control) -> None:
        self._jobs, self._items = jobs, {item.id: item for item in items}
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
                    self._jobs.put(number, State.WAITING, JobStatus())
        except Exception as problem:  # noqa: BLE001 - whatever it is fails these lines, not the list
            for number in self._unended():
                self._end(number, State.FAILED, problem=unforeseen(problem).sentence())
        finally:
            self._over.set()
            watcher.join()

    def _unended(self) -> list[int]:
        return [item for item in self._items if self._jobs.item(item).state.busy]

    def _watch(self) -> None:
        """Carry wishes from the list, and from above, to the work."""
        with BatchList(self._jobs.path) as jobs:
            while not self._over.wait(LOOK_S):
                if self._above.cancel.cancelled:
                    self._control.cancel.cancel()
                self._control.pause.set(jobs.paused or self._above.pause.on)
                mine = [item for item in jobs.items() if item.id in self._items and item.state.busy]
                asked = {item.id for item in mine if item.asked == "stop"}
                if mine and not self._owner and len(asked) == len(mine):
                    self._control.cancel.cancel()  # nothing is planned yet, and nothing need be
                for i, owner in enumerate(tuple(self._owner)):
                    if owner in asked:
                        self._control.stopped.add(i)

    def _make(self) -> None:
        works = [item.job for item in self._items.values()]
        analysis = decided(
            analyse(path_of(works[0].master), self._before, self._control.cancel),
            works[0].recipe)
        planner = Planner(analysis, self._before, self._control.cancel)
        for number, item in self._items.items():
            try:
                self._plan(planner, analysis, number, item.job)
            except Cancelled:
                raise
            except Exception as problem:  # noqa: BLE001 - fails this line, not the others
                self._end(number, State.FAILED, problem=unforeseen(problem).sentence())
        if self._plans:
            cluster = self._jobs.setting(CLUSTER, Cluster)
            self._end_all(
                make_on_cluster(cluster, self._plans, self._progress, self._control) if cluster
                else make_files(self._plans, self._progress, self._control))

    def _plan(self, planner: Planner, analysis: Analysis, number: int, work: EncodeJob) -> None:
        folder = path_of(work.folder)
        check_before(analysis, [work.recipe], folder)
        plans = [self._places.reserve(plan)
                 for plan in planner.add(number, work.recipe, folder, work.replace)]
        self._plans += plans
        self._owner += [number] * len(plans)
        self._jobs.tell(number, planned=tuple(file_plan.file for file_plan in plans),
                        parts=tuple(text_of(plan.part_file) for plan in plans))

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
        mine = [i for i, number in enumerate(self._owner) if number == owner]
        proving = state.doing == "proving" and len(mine) == 1
        if proving or self._due(owner):
            states = [self._states[i] for i in mine if i in self._states]
            total = sum(self._plans[i].timeline.frames for i in mine)
            speeds = [state.frames_s for state in states if state.frames_s]
            whole = FileState(state.doing, sum(file_state.done for file_state in states), total,
                              sum(state.written_bytes for state in states),
                              speeds[-1] if speeds else None)
            told = msgspec.structs.replace(self._jobs.item(owner).status, progress=whole)
            self._jobs.put(owner, State.PROVING if proving else State.ENCODING, told)

    def _end_all(self, outcomes: list[Outcome]) -> None:
        for number in self._unended():
            mine = [outcome for outcome, owner in zip(outcomes, self._owner, strict=True)
                    if owner == number]
            made = tuple(outcome.made for outcome in mine if outcome.made is not None)
            problem = next(
                (outcome.problem for outcome in mine if outcome.problem is not None), None
            )
            if problem is not None:
                self._end(number, State.FAILED, made=made, problem=problem.error().sentence())
            elif any(outcome.stopped for outcome in mine):
                self._end(number, State.STOPPED, made=made)
            elif all(result.proof.right for result in made):
                self._end(number, State.DONE, made=made)
            else:
                self._end(number, State.FAILED, made=made, problem=_wrong(made))

    def _end(self, number: int, state: State, made: tuple[EncodeResult, ...] = (),
             problem: str = "") -> None:
        told = self._jobs.item(number).status
        self._jobs.put(number, state, msgspec.structs.replace(
            told, made=made, problem=problem, ended=now(), progress=None))


def _wrong(made: tuple[EncodeResult, ...]) -> str:
    """What a file that is not proved lacks, in a sentence."""
    lines = [line for result in made for line in result.proof.lines if not line.right]
    return tr("Not proved: {what} is {found}; {asked} was required. The file is kept as “not "
              "proved”.", what=tr(lines[0].what), found=lines[0].found, asked=lines[0].asked)


def main(batch_list: Path, numbers: tuple[int, ...]) -> int:
    """Make the lines with these numbers; their states are told in the list."""
    keep_log("film")
    control = Control()
    cancel_on_signals(control.cancel)
    with ExitStack() as stack:
        jobs = stack.enter_context(BatchList(batch_list))
        items = [jobs.item(number) for number in numbers]
        Group(jobs, items, control).run()
    return 0
