"""Solutions are kept with the analysis of their film, and used only for what they were made for."""

import dataclasses

import msgspec
import numpy as np
import pytest

from caracal.core.analysis.cache import SOLUTIONS, AnalysisStore
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Manner, Motion
from caracal.core.framing.shot_solution import solve_shot
from caracal.core.layout.kinds import kind_called
from caracal.core.plan.analysis_source import fingerprint, read_source, source_of
from caracal.core.plan.solution_store import (
    SolutionStore,
    decode_solution,
    encode_solution,
    solution_key,
)
from caracal.core.plan.solver_process import SolveRequest, SolverProcess
from caracal.core.project.model import first_project
from caracal.core.project.shots import split_at
from caracal.core.specs.sheet_store import find_sheet

SHEET, LIMITS = find_sheet("vertical-short"), Motion()


def same(one, other):
    """Whether two values are the same, arrays included, whatever they are made of."""
    if isinstance(one, np.ndarray):
        return one.dtype == other.dtype and np.array_equal(one, other, equal_nan=True)
    if dataclasses.is_dataclass(one):
        return type(one) is type(other) and all(
            same(getattr(one, field.name), getattr(other, field.name))
            for field in dataclasses.fields(one))
    if isinstance(one, tuple):
        return len(one) == len(other) and all(map(same, one, other))
    return one == other


def key_of(demo, **changes):
    asked = {"source": source_of(demo, first_project(demo.master.frames)), "shot": 5,
             "sheet": SHEET, "choice": ShotChoice(), "motion": LIMITS, "drawn": {}}
    return solution_key(**{**asked, **changes})


@pytest.mark.parametrize("layout", ["fill", "stack", "inset", "whole-soft"])
def test_a_solution_comes_back_as_it_was(demo, layout):
    choice = ShotChoice(layout=kind_called(layout).make(SHEET.frame))
    for shot in (0, 3, 5):
        solution = solve_shot(demo, shot, SHEET, choice, LIMITS, {})
        back = decode_solution(encode_solution(solution))
        assert same(back, solution)
        assert back.path is back.panes[0]


def test_one_flipped_bit_is_noticed(demo, tmp_path, monkeypatch):
    data = bytearray(encode_solution(solve_shot(demo, 5, SHEET, ShotChoice(), LIMITS, {})))
    data[3] ^= 4
    with pytest.raises(ValueError, match="checksum"):
        decode_solution(bytes(data))


def test_the_key_tells_all_apart_that_a_solution_follows_from(demo):
    project = first_project(demo.master.frames)
    split = split_at(demo, project, demo.shots[5].start + 30)
    keys = [
        key_of(demo), key_of(demo, shot=4), key_of(demo, sheet=find_sheet("square-feed")),
        key_of(demo, choice=ShotChoice(manner=Manner.LOCKED)),
        key_of(demo, motion=msgspec.structs.replace(LIMITS, closest=1.2)),
        key_of(demo, drawn={9: ((1, 2),)}), key_of(demo, source=source_of(demo, split)),
        key_of(demo, source=source_of(msgspec.structs.replace(
            demo, tracks=demo.tracks[1:]), project)),
    ]
    assert len(set(keys)) == len(keys) and key_of(demo) == keys[0]


def test_a_store_survives_damage_and_forgets_with_its_analysis(demo, tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CACHE", str(tmp_path))
    assert SolutionStore("gone").get(b"key") is None  # no film is kept under that name
    folder = AnalysisStore("film").folder
    folder.mkdir(parents=True)
    solution = solve_shot(demo, 5, SHEET, ShotChoice(), LIMITS, {})
    store = SolutionStore("film")
    store.put(b"key", solution)
    store.close()
    store = SolutionStore("film")
    assert same(store.get(b"key"), solution) and store.get(b"other") is None
    store.close()
    file = folder / SOLUTIONS
    file.write_bytes(b"no database " * 1000)
    store = SolutionStore("film")
    assert store.get(b"key") is None
    store.put(b"key", solution)
    store.close()
    store = SolutionStore("film")  # made again
    store.put(b"key", solution)
    assert same(store.get(b"key"), solution)
    store.close()
    AnalysisStore("film").forget()
    assert not file.exists()


def test_nothing_is_written_through_a_link(demo, tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CACHE", str(tmp_path))
    folder = AnalysisStore("film").folder
    folder.mkdir(parents=True)
    other = tmp_path / "other"
    other.write_bytes(b"")  # to SQLite an empty database
    (folder / SOLUTIONS).symlink_to(other)
    store = SolutionStore("film")
    store.put(b"key", solve_shot(demo, 5, SHEET, ShotChoice(), LIMITS, {}))
    store.close()
    assert other.read_bytes() == b"" and not (folder / SOLUTIONS).is_symlink()


def test_a_process_reads_the_analysis_that_is_meant_and_no_other(demo):
    project = first_project(demo.master.frames)
    source = source_of(demo, project)
    assert fingerprint(read_source(source)) == fingerprint(demo)
    other = msgspec.structs.replace(demo, tracks=demo.tracks[1:])
    assert read_source(source_of(other, project)) is None
    growing = msgspec.structs.replace(demo, shots=demo.shots[:4])
    assert source_of(growing, project) is None


def test_the_solver_answers_the_same_from_a_kept_and_from_a_sent_analysis(demo):
    process = SolverProcess()
    try:
        key = (SHEET.name, 5, ShotChoice())
        source = source_of(demo, first_project(demo.master.frames))
        unkept = msgspec.structs.replace(source, content_key="nothing is kept here")
        expected = solve_shot(demo, 5, SHEET, ShotChoice(), LIMITS, {})
        for where in (source, None, unkept):
            found = process.answer(SolveRequest(
                key, 0, msgspec.structs.replace(demo), SHEET, LIMITS, {}, source=where))
            assert same(found.solution, expected)
    finally:
        process.close()
