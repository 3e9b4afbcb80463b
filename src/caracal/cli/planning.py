"""``caracal convert --dry-run``: what would be made, how large, how long it takes, what stands in
the way; nothing is made.
"""

from __future__ import annotations

import argparse
from datetime import date
from functools import partial
from pathlib import Path

from caracal.cli.answers import VERSION, PlanAnswer, VersionPlan
from caracal.cli.asked import sheets_asked
from caracal.cli.telling import print_json, stoppable
from caracal.core.analysis.model import Analysis
from caracal.core.base.time import short_time
from caracal.core.base.translation import tr
from caracal.core.batch.concerns import Concern, concerns_of, places
from caracal.core.batch.encode_jobs import letters_of
from caracal.core.batch.estimate import Estimate, estimate
from caracal.core.framing.shot_solution import ShotSolution, solve_shot
from caracal.core.project.model import Project
from caracal.core.project.recipe import Recipe
from caracal.core.project.text_replacement import without_covered
from caracal.core.specs.sheet_store import all_sheets


def plan(
    asked: argparse.Namespace, film: Path, analysis: Analysis, recipes: list[Recipe],
    project: Project | None = None,
) -> int:
    """Tell what would become of each version; exit code 1 when something stands in the way.

    What a person accepted in the ``project`` is told no more.
    """
    master, today = analysis.master, date.today()
    rows: list[tuple[Recipe, Estimate | None, tuple[Concern, ...]]] = []
    for recipe, letter in zip(recipes, _letters(asked, recipes, project), strict=True):
        solved = _solved(analysis, recipe)
        flags = {shot: without_covered(found.flags, analysis, shot, recipe.redactions)
                 for shot, found in solved.items()}
        if project is not None and letter is not None:
            flags = {shot: tuple(flag for flag in found
                                 if flag.kind not in project.accepted_kinds(letter, shot))
                     for shot, found in flags.items()}
        about = partial(concerns_of, master, recipe.label or recipe.sheet.name, recipe, flags,
                        asked.out, today, asked.replace,
                        fewer_panes=[shot for shot, each in solved.items() if each.fewer_panes])
        concerns, tried = about(), None
        if not any(concern.stops for concern in concerns):
            tried = _tried(analysis, recipe)
            concerns = about(tried)
        rows.append((recipe, tried, concerns))
    needed = sum(found.size_mb for _, found, _ in rows if found is not None)
    every = places(master, asked.out, needed)
    if asked.json:
        print_json(PlanAnswer(VERSION, str(film), tuple(
            _version(analysis, recipe, found, [*every, *concerns])
            for recipe, found, concerns in rows)))
    else:
        for recipe, found, concerns in rows:
            seconds = recipe.frames_in(master.frames) / float(master.rate)
            size = "" if found is None else (tr(", about {size_mb:.1f} MB, {short_time} to make",
                                                size_mb=found.size_mb,
                                                short_time=short_time(found.seconds)))
            print(f"{recipe.sheet.name}: {seconds:.2f} s{size}")
            for concern in concerns:
                print(f"    {'stops: ' if concern.stops else ''}{concern.sentence}")
        for concern in every:
            print(tr("stops: {sentence}", sentence=concern.sentence))
    return 1 if any(concern.stops for _, _, concerns in rows for concern in (*concerns, *every)
                    ) else 0


def _letters(
    asked: argparse.Namespace, recipes: list[Recipe], project: Project | None
) -> list[str | None]:
    """The letter of the version that each of ``recipes`` is; None: it is of no project."""
    if project is None:
        return [None] * len(recipes)
    return letters_of(project, sheets_asked(asked), all_sheets()[0])


def _tried(analysis: Analysis, recipe: Recipe) -> Estimate:
    """What a short trial on the version's own pictures tells."""
    return stoppable(lambda token, _: estimate(analysis, recipe, token))


def _version(
    analysis: Analysis, recipe: Recipe, found: Estimate | None, concerns: list[Concern]
) -> VersionPlan:
    master = analysis.master
    return VersionPlan(
        recipe.sheet.name, recipe.label,
        round(recipe.frames_in(master.frames) / float(master.rate), 3),
        round(found.size_mb, 2) if found else 0.0, round(found.seconds, 1) if found else 0.0,
        any(concern.stops for concern in concerns),
        tuple(concern.sentence for concern in concerns))


def _solved(analysis: Analysis, recipe: Recipe) -> dict[int, ShotSolution]:
    """The solution of each shot that a version shows, by its number."""
    ranges = recipe.ranges_in(analysis.master.frames)
    drawn = {box.subject: box.lost for box in recipe.drawn}
    return {number: solve_shot(
        analysis, number, recipe.sheet, recipe.choice(number), recipe.motion, drawn)
        for number in analysis.shots_in(ranges)}
