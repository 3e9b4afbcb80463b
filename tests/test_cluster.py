"""The same batch on a Dask cluster of separate processes, one of which is killed."""

import os
import signal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.base.work import CancelToken, Control, no_progress
from caracal.core.batch.cluster import make_on_cluster, pieces_of
from caracal.core.batch.cluster_address import Cluster
from caracal.core.convert import Recipe, make_files
from caracal.core.media.decode import frames
from caracal.core.media.probe import probe
from caracal.core.media.sound import SoundReader
from caracal.core.plan.planner import Planner
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import RateChange, Rates
from caracal.core.specs.sheet_store import find_sheet
from conftest import write_film


@pytest.fixture(autouse=True, scope="module")
def short_pieces():
    """So that a short film has seams."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("caracal.core.batch.cluster.PIECE_S", 2.0)
        yield


SMALL = with_value(find_sheet("square-feed"), "canvas", (180, 180))


@pytest.fixture(scope="module")
def cluster():
    import warnings

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from distributed import LocalCluster

        with LocalCluster(n_workers=2, threads_per_worker=1, processes=True,
                          dashboard_address=None) as made:
            yield made


@pytest.fixture(scope="module")
def analysis(tmp_path_factory):
    film = write_film(tmp_path_factory.mktemp("film") / "film.mp4", frames=130)
    return analyse(film)


def planned(analysis, folder, sheet=SMALL, **more):
    folder.mkdir(parents=True, exist_ok=True)
    planner = Planner(analysis, no_progress, CancelToken())
    planner.add(0, Recipe(sheet, **more), folder)
    return planner.made


def quiet(_, __):
    pass


def seen(file):
    return np.array([planes.y for _, planes in frames(probe(file))], np.float32)


@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize(("rates", "ranges"), [
    (Rates(), (FrameRange(0, 130),)),
    (Rates(24, 60, (30,), RateChange.BLEND),
     (FrameRange(0, 40), FrameRange(40, 70, 50), FrameRange(70, 130, 150)))])
def test_a_file_from_a_cluster_is_that_of_one_machine(cluster, analysis, tmp_path, rates, ranges):
    """As many frames, every frame the same picture but for the coding, the same sound."""
    sheet = with_value(SMALL, "rates", rates)
    made = [run(planned(analysis, tmp_path / name, sheet, ranges=ranges)) for name, run in (
        ("one", lambda plans: make_files(plans, quiet, Control())),
        ("many", lambda plans: make_on_cluster(Cluster(cluster.scheduler_address), plans, quiet,
                                               Control())))]
    single, many = (outcomes[0].made for outcomes in made)
    assert many.proof.right and single.proof.right
    first, second = seen(tmp_path / single.file), seen(tmp_path / many.file)
    assert first.shape == second.shape
    noise = np.sqrt(((first - second) ** 2).mean(axis=(1, 2)))
    shift = np.sqrt(((first[1:] - second[:-1]) ** 2).mean(axis=(1, 2)))
    assert noise.max() < 1.5 and (noise[1:] < shift)[shift > 2].all()
    heard = []
    for file in (single.file, many.file):
        with SoundReader(probe(tmp_path / file), 48000, 2) as sound:
            heard.append(sound.take(5 * 48000))
    assert np.array_equal(*heard)


@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize("held", ["processing", "has_what"])
def test_a_killed_worker_costs_nothing(cluster, analysis, tmp_path, held):
    """Neither the piece it works at nor one that it has finished and still holds."""
    plans = planned(analysis, tmp_path, with_value(SMALL, "canvas", (360, 360)))
    killed = []

    def watch(*_):
        holding = [
            worker.name for worker in cluster.scheduler.workers.values() if getattr(worker, held)
        ]
        if holding and not killed:
            os.kill(cluster.workers[holding[0]].pid, signal.SIGKILL)
            killed.append(holding[0])

    (outcome,) = make_on_cluster(Cluster(cluster.scheduler_address), plans, watch, Control())
    assert killed and outcome.made, outcome.problem
    assert outcome.made.proof.right


def test_nobody_at_an_address_is_told(analysis, tmp_path, monkeypatch):
    monkeypatch.setattr("caracal.core.batch.cluster.CONNECT_S", 1)
    with pytest.raises(InputError, match=r"127\.0\.0\.1:9"):
        make_on_cluster(Cluster("tcp://127.0.0.1:9"), planned(analysis, tmp_path), quiet, Control())


@given(st.integers(75, 3000), st.sampled_from([0.4, 1.0, 2.0]))
def test_pieces_are_whole_gops_that_cover_the_file_once(count, gop_s):
    class Plan:
        sheet = with_value(SMALL, "video.gop_s", gop_s)
        rate = 25
        line = timeline([FrameRange(0, count)], 25)

        def sources(self):
            return self.line.sources()

    pieces = pieces_of(Plan())
    assert [a for a, _ in pieces][1:] == [b for _, b in pieces][:-1]
    assert pieces[0][0] == 0 and pieces[-1][1] == count
    assert all(a % int(gop_s * 25) == 0 for a, _ in pieces)
