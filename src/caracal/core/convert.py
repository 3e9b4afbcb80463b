"""The story of a conversion in one page: master, analysis, path, frames, encoder, proof.

The master is decoded once. Every file has an encoder in a process of its own that composes its
canvas from the shared pictures; a short ring keeps them in step, so memory does not grow with the
film's length. Files are written as ``.part`` (see reservations) and get their name only when they
are proved.
"""

from __future__ import annotations

import glob
import os
import tempfile
import time
from pathlib import Path

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import InputError, Problem, StorageError, storage_error
from caracal.core.base.paths import text_of
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Control, Progress, Report, no_progress
from caracal.core.encoding.correction import TRIES, corrected
from caracal.core.encoding.frame_dispatch import dispatch_frames
from caracal.core.encoding.reservations import Reservations
from caracal.core.encoding.results import EncodeResult, FileState, Outcome, Watch
from caracal.core.plan.file_plan import FilePlan
from caracal.core.plan.planner import Planner, rate_of, refuse
from caracal.core.project.recipe import Recipe
from caracal.core.project.shots import decided
from caracal.core.specs.settings import estimated_mb, notes_file

__all__ = ["EncodeResult", "Recipe", "check_before", "convert", "make_files"]


def convert(
    master: Path, recipes: list[Recipe], folder: Path, *, replace: bool = False,
    report: Report = no_progress, cancel: CancelToken | None = None,
) -> list[EncodeResult]:
    """Make a version of ``master`` by each of ``recipes`` in ``folder``; the proofs in their order.

    A version longer than its destination takes is cut into parts where its sheet says so: one file
    each, in pauses, no frame lost or doubled.

    All recipes have the shots, drawn boxes and sound of the first: they are one film's.
    ``replace``: files of the same names are replaced, not numbered.

    Raises InputError before any work when a sheet does not take the film, StorageError when the
    folder cannot be used, Cancelled when stopped. Nothing half-made keeps a final name. When a file
    cannot be made the others are, before its error is raised.
    """
    control = Control(cancel)
    if not recipes:
        raise InputError(tr("No version was given."),
                         remedy=tr("Name a spec sheet."))
    analysis = decided(analyse(master, report, control.cancel), recipes[0])
    check_before(analysis, recipes, folder)
    planner = Planner(analysis, report, control.cancel)
    for number, recipe in enumerate(recipes):
        planner.add(number, recipe, folder, replace)
    with Reservations() as places:
        plans = [places.reserve(plan) for plan in planner.made]
        outcomes = make_files(plans, _Total(plans, report).told, control)
    problem = next((outcome.problem for outcome in outcomes if outcome.problem is not None), None)
    if problem is not None:
        raise problem.error()
    return [outcome.made for outcome in outcomes if outcome.made is not None]


def check_before(analysis: Analysis, recipes: list[Recipe], folder: Path) -> None:
    """Everything that can be known before the work: duration, rate, folder, room on the disk."""
    master = analysis.master
    for piece in (span for each in recipes for span in each.ranges):
        if piece.end_exclusive > master.frames:
            raise InputError(tr("The range ends at frame {end_exclusive} and the film has {frames} "
                                "frames.", end_exclusive=piece.end_exclusive, frames=master.frames),
                             master.file, tr("Choose an earlier end."))
    needed = 0.0
    for each in recipes:
        seconds = each.frames_in(master.frames) / float(master.rate)
        refuse(each.sheet, seconds, master)
        needed += estimated_mb(each.sheet, each.sheet.duration.kept_s(seconds), bool(master.sound),
                               rate_of(each.sheet, master.rate))
    check_folder(folder, needed)


def check_folder(folder: Path, needed_mb: float) -> None:
    """Raise StorageError when ``folder`` cannot be written or has no room; makes it if needed."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        tempfile.TemporaryFile(dir=folder).close()
        room = os.statvfs(folder)
    except OSError as problem:
        raise storage_error(folder, problem) from problem
    if room.f_bavail * room.f_frsize < needed_mb * 1.1e6:
        raise StorageError(tr("The disk has no room for about {needed_mb:.0f} MB.",
                              needed_mb=needed_mb), folder,
                           tr("Free some space or choose another folder."))


def make_files(plans: list[FilePlan], watch: Watch, control: Control) -> list[Outcome]:
    """Make every planned file; how each ended, in the same order.

    Sheets of two passes are read through first. An encoder that crashed is tried once more, and
    a file whose proof was narrowly wrong is made again with fewer bits or a lower peak.
    Raises InputError when the master cannot be read, Cancelled when stopped.
    """
    todo = dict(enumerate(plans))
    twice = {i: plan for i, plan in todo.items() if plan.sheet.video.passes == 2}
    try:
        outcomes = run_pass(todo, dict.fromkeys(twice, 1), watch, control)
        ended = {i for i, outcome in outcomes.items() if not outcome.first_pass_done}
        turns = {i: 2 if i in twice else 0 for i in todo if i not in ended}
        outcomes |= _made(todo, turns, watch, control)
    finally:
        for plan in twice.values():
            notes = notes_file(plan.part_file)
            for file in notes.parent.glob(f"{glob.escape(notes.name)}*"):
                file.unlink(missing_ok=True)
    return [crash_problem(outcomes[i], plan) for i, plan in todo.items()]


def _made(
    plans: dict[int, FilePlan], turns: dict[int, int], watch: Watch, control: Control
) -> dict[int, Outcome]:
    """The last pass for the files of ``turns``; those that are narrowly wrong are made again."""
    outcomes: dict[int, Outcome] = {}
    todo = {i: plans[i] for i in turns}
    for number in range(1, TRIES + 1):
        outcomes |= run_pass(todo, {i: turns[i] for i in todo}, watch, control, number == TRIES)
        todo = {i: better for i, plan in todo.items()
                if (made := outcomes[i].made) is not None and made.file == text_of(plan.part_file)
                and (better := corrected(plan, made.proof)) is not None}
        if not todo:
            break
    return outcomes


def run_pass(
    plans: dict[int, FilePlan], turns: dict[int, int], watch: Watch, control: Control,
    last_try: bool = True,
) -> dict[int, Outcome]:
    """One pass for the files of ``turns``; those whose encoder crashed get it once more."""
    outcomes = dispatch_frames({i: plans[i] for i in turns}, turns, watch, control, last_try)
    again = {i: plans[i] for i, outcome in outcomes.items() if outcome.crashed}
    return outcomes | dispatch_frames(again, turns, watch, control, last_try)


def crash_problem(outcome: Outcome, plan: FilePlan) -> Outcome:
    """A crash in words; other outcomes as they are."""
    if not outcome.crashed:
        return outcome
    return Outcome(problem=Problem("CaracalError", tr("The encoder ended by itself twice; partial "
                                                      "files were deleted."), plan.file,
                                   tr("Try again, or choose another codec in its spec sheet.")))


class _Total:
    """The progress of all files as one."""

    def __init__(self, plans: list[FilePlan], report: Report) -> None:
        self._done = [0] * len(plans)
        self._total = sum(plan.timeline.frames for plan in plans)
        self._report, self._began = report, time.monotonic()

    def told(self, number: int, state: FileState) -> None:
        """Take the state of one file and report all."""
        self._done[number] = state.done
        done, spent = sum(self._done), time.monotonic() - self._began
        left = spent / done * (self._total - done) if done and spent > 1 else None
        self._report(Progress(tr("Encoding"), done, self._total, left))
