"""Works off the batch list: ``python -m caracal.core.batch.runner LIST [JOBS]``.

Lines of one film that wait are made together, from one decode. What was in the making when a
process went away waits again; a file that was just finished then is proved once more and kept.
"""

from __future__ import annotations

import os
import signal
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

import msgspec

from caracal.core.analysis.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.batch.cluster import make_on_cluster
from caracal.core.batch.encoder import Made
from caracal.core.batch.feeding import Control, FileState, Outcome
from caracal.core.batch.jobs import BatchList, Item, State, Told, Work, now, worked_by_us
from caracal.core.batch.proof import prove
from caracal.core.convert import check_before, make_files
from caracal.core.errors import Cancelled, CaracalError, InputError
from caracal.core.file_plan import FilePlan
from caracal.core.plan import Planner
from caracal.core.project.shots import as_decided
from caracal.core.time import FrameRange
from caracal.core.work import CancelToken, Pause, Progress

CLUSTER = "cluster"  # the setting of the list that names a Dask scheduler
LOOK_S = 0.15  # how often wishes in the list are noticed
TELL_S = 0.3  # how often progress is written

Say = Callable[[Item], None]


def recover(jobs: BatchList) -> None:
    """Bring the list right after a crash: what was in the making is done, or waits again."""
    for item in jobs.items():
        if not item.state.busy:
            continue
        made = [_kept(Path(one), item) for one in item.told.planned]
        for one in item.told.planned:
            Path(f"{one}.part").unlink(missing_ok=True)
        if made and all(made):
            jobs.put(item.id, State.DONE, msgspec.structs.replace(
                item.told, made=tuple(one for one in made if one), ended=now(), progress=None))
        else:
            jobs.put(item.id, State.WAITING, Told())


def _kept(path: Path, item: Item) -> Made | None:
    """A file that got its name just before its line could be written."""
    if not path.is_file() or path.stat().st_mtime < item.told.began - 1:
        return None
    try:
        proof = prove(path, item.work.wanted.sheet)
    except CaracalError:
        return None
    return Made(str(path), proof) if proof.right else None


def run_list(
    path: Path, control: Control, jobs: int = 1, say: Say = lambda _: None, stay: bool = False
) -> bool:
    """Work off the list in ``path``, ``jobs`` films at once; False when another process does.

    ``stay``: wait for more when nothing is left. ``say`` hears of every line that ends. Raises
    Cancelled when stopped: what was in the making waits again.
    """
    with worked_by_us(path) as ours:
        if not ours:
            return False
        with BatchList(path) as first:
            recover(first)
        workers = [_Worker(path, control, say, stay) for _ in range(max(1, jobs))]
        for one in workers:
            one.start()
        for one in workers:
            one.join()
        for one in workers:
            if one.problem is not None:
                raise one.problem
        control.cancel.check()
    return True


TAKING = threading.Lock()


class _Worker(threading.Thread):
    """Makes one film's lines after the other."""

    def __init__(self, path: Path, control: Control, say: Say, stay: bool) -> None:
        super().__init__(daemon=True)
        self._path, self._control, self._say, self._stay = path, control, say, stay
        self.problem: BaseException | None = None

    def run(self) -> None:
        try:
            with BatchList(self._path) as jobs:
                while not self._control.cancel.cancelled:
                    items = [] if jobs.paused else _taken(jobs)
                    if items:
                        _Group(jobs, items, self._control, self._say).run()
                    elif not self._stay and not jobs.paused:
                        return
                    else:
                        time.sleep(LOOK_S)
        except BaseException as problem:  # noqa: BLE001 - travels to the caller's thread
            self.problem = problem


def _taken(jobs: BatchList) -> list[Item]:
    """The first line that waits, and all that can be made with it; they are ours now."""
    with TAKING:
        waiting = [one for one in jobs.items() if one.state is State.WAITING]
        if not waiting:
            return []
        film = _film(waiting[0].work)
        together = [one for one in waiting if _film(one.work) == film]
        for one in together:
            jobs.put(one.id, State.ENCODING, Told(began=now()))
        return together


def _film(work: Work) -> tuple[object, ...]:
    return (work.master, work.starts, work.drawn)


class _Group:
    """Lines of one film, made from one decode."""

    def __init__(self, jobs: BatchList, items: list[Item], control: Control, say: Say) -> None:
        self._jobs, self._items, self._say = jobs, {one.id: one for one in items}, say
        self._control = Control(CancelToken(), Pause())
        self._above = control
        self._owner: list[int] = []  # the line of each file
        self._plans: list[FilePlan] = []
        self._told: dict[int, float] = {}
        self._states: dict[int, FileState] = {}
        self._over = threading.Event()

    def run(self) -> None:
        watcher = threading.Thread(target=self._watch, daemon=True)
        watcher.start()
        try:
            self._make()
        except Cancelled:
            for number in self._unended():
                if self._jobs.item(number).asked == "stop":
                    self._end(number, State.STOPPED)
                else:
                    self._jobs.put(number, State.WAITING, Told())
        except CaracalError as problem:
            for number in self._unended():
                self._end(number, State.FAILED, problem=problem.sentence())
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
        analysis = as_decided(
            analyse(Path(works[0].master), self._before, self._control.cancel),
            works[0].starts, works[0].drawn)
        planner = Planner(analysis, self._before, self._control.cancel)
        for number, item in self._items.items():
            try:
                self._plan(planner, analysis, number, item.work)
            except (InputError, OSError) as problem:
                self._end(number, State.FAILED, problem=str(problem))
        if self._plans:
            cluster = self._jobs.setting(CLUSTER, str) or ""
            self._end_all(
                make_on_cluster(cluster, self._plans, self._progress, self._control) if cluster
                else make_files(self._plans, self._progress, self._control))

    def _plan(self, planner: Planner, analysis: Analysis, number: int, work: Work) -> None:
        span = work.span or FrameRange(0, analysis.master.frames)
        check_before(analysis, [work.wanted], Path(work.folder), span)
        plans = planner.add(number, work.wanted, span, Path(work.folder))
        self._plans += plans
        self._owner += [number] * len(plans)
        self._jobs.tell(number, planned=tuple(one.file for one in plans))

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
        self._say(self._jobs.item(number))


def _wrong(made: tuple[Made, ...]) -> str:
    """What a file that is not proved lacks, in a sentence."""
    lines = [line for one in made for line in one.proof.lines if not line.right]
    return (f"Not proved: {lines[0].what} is {lines[0].found}, asked was {lines[0].asked}. "
            "The file is kept as “not proved”.")


def main() -> int:
    """Work off the list named on the command line until told to stop, or left alone."""
    control, parent = Control(), os.getppid()
    signal.signal(signal.SIGTERM, lambda *_: control.cancel.cancel())
    signal.signal(signal.SIGINT, lambda *_: control.cancel.cancel())

    def left_alone() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        control.cancel.cancel()

    threading.Thread(target=left_alone, daemon=True).start()
    try:
        jobs = int(sys.argv[2]) if len(sys.argv) > 2 else 1
        return 0 if run_list(Path(sys.argv[1]), control, jobs) else 3
    except Cancelled:
        return 130
    except CaracalError as problem:
        sys.stderr.write(f"{problem.sentence()}\n")
        return 2


if __name__ == "__main__":
    sys.exit(main())
