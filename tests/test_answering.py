"""The process that solves paths for the window: the same answers, and it may die."""

from dataclasses import replace

import numpy as np
import pytest

from caracal.core.base.errors import CaracalError
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Manner, Motion
from caracal.core.plan.solver_process import SolveRequest, SolverProcess, solved
from caracal.core.specs.sheet_store import find_sheet


@pytest.fixture
def answerer():
    made = SolverProcess()
    yield made
    made.close()


@pytest.fixture
def question(demo, truth):
    shot = next(i for i, row in enumerate(truth["shots"]) if row["name"] == "runner")
    sheet = find_sheet("square-feed")
    return SolveRequest((sheet.name, shot, ShotChoice()), 1, demo, sheet, Motion(), {})


def test_answers_are_those_that_are_found_here(answerer, question, demo):
    there, here = answerer.answer(question).solution, solved(question, demo)
    assert np.array_equal(there.path.windows, here.path.windows)
    assert (there.why, there.flags, there.lead) == (here.why, here.flags, here.lead)


def test_rejected_manners_are_answered_with_the_film_it_has(answerer, question):
    answerer.answer(question)
    others = answerer.answer(replace(question, with_alternatives=True)).alternatives
    assert Manner.LOCKED in [other.manner for other in others]


def test_a_killed_process_is_started_again(answerer, question):
    first = answerer.answer(question).solution
    answerer._line._process.end(0)
    assert np.array_equal(answerer.answer(question).solution.path.windows, first.path.windows)


def test_what_cannot_be_solved_is_told_and_the_next_is_answered(answerer, question):
    name, _, choice = question.key
    with pytest.raises(CaracalError, match="Shot 1000 could not be solved"):
        answerer.answer(replace(question, key=(name, 999, choice)))
    assert answerer.answer(question).solution is not None
