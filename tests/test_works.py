"""From projects and films to lines of the batch list, and the trial that estimates one."""

import os
import signal
import threading
import time

import msgspec
import pytest

from caracal.cli.batch import _wanted
from caracal.cli.main import main
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.errors import Cancelled, InputError
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken, Control, no_progress
from caracal.core.batch.encode_jobs import jobs_of, opened_project, requested_of_project
from caracal.core.batch.trial import TrialOrder, tried
from caracal.core.convert import Recipe, make_files
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Manner
from caracal.core.plan.planner import Planner
from caracal.core.project.edits import changed_version, with_manner, with_range
from caracal.core.project.model import first_project
from caracal.core.project.storage import document, read_document, write_document
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import all_sheets, find_sheet
from conftest import children_of, write_film

SHEETS, _ = all_sheets()
SMALL = with_value(find_sheet("square-feed"), "canvas", (180, 180))


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    return write_film(tmp_path_factory.mktemp("film") / "film.mp4", frames=100)


@pytest.fixture
def project(film, tmp_path):
    """A saved project: A has a manner, a name and two ranges."""
    made = with_manner(first_project(100), "A", 0, Manner.LOCKED)
    made = changed_version(made, "A", name="Teaser", ranges=(FrameRange(0, 40),))
    made = with_range(made, "A", FrameRange(50, 100))
    path = tmp_path / "work.caracal"
    write_document(path, document(analyse(film), made))
    return path


def test_a_project_s_versions_become_lines_with_all_that_was_decided(project, film, tmp_path):
    found, opened = opened_project(project)
    recipes = [wanted.recipe() for wanted in requested_of_project(opened, [], SHEETS)]
    assert [recipe.sheet.name for recipe in recipes] == ["vertical-short", "square-feed",
                                                         "portrait-feed"]
    assert recipes == [job.recipe for job in jobs_of(found, opened, SHEETS, tmp_path)]
    first = recipes[0]
    assert first.label == "Teaser" and recipes[1].label == "B"
    assert first.ranges == (FrameRange(0, 40), FrameRange(50, 100))
    assert first.choices[0].manner is Manner.LOCKED and found == film


def test_another_sheet_of_the_same_shape_keeps_the_framing(project):
    _, opened = opened_project(project)
    tall, wide = (wanted.recipe() for wanted in requested_of_project(
        opened, [SHEETS["pebble"], SHEETS["wide"]], SHEETS))
    assert tall.choices[0].manner is Manner.LOCKED and tall.sheet.name == "pebble"
    assert wide.choices == {} and wide.ranges == (FrameRange(0, 100),) and not wide.label


def test_what_is_missing_is_refused_in_words(project, film, tmp_path):
    with pytest.raises(InputError, match="Give a spec sheet"):
        _wanted(film, [], SHEETS, 0)
    with pytest.raises(InputError, match="portrait-feed"):
        jobs_of(film, first_project(100), {"vertical-short": SMALL, "square-feed": SMALL},
                 tmp_path)
    saved = read_document(project)
    lost = msgspec.structs.replace(saved.film, path="/gone/film.mp4", content_key="0")
    write_document(project, msgspec.structs.replace(saved, film=lost))
    with pytest.raises(InputError, match="not where it was"):
        _wanted(project, [], SHEETS, 0)


def test_names_and_ranges_are_saved_with_the_project(project):
    version = read_document(project).project.version("A")
    assert (version.name, len(version.ranges)) == ("Teaser", 2)


def test_a_range_beyond_the_film_fails_its_line_in_words(film, tmp_path, capsys):
    project = changed_version(first_project(100), "B", ranges=(FrameRange(50, 400),))
    saved = tmp_path / "long.caracal"
    write_document(saved, document(analyse(film), project))
    assert main(["batch", str(saved), "--spec", "square-feed", "--out", str(tmp_path / "o")]) == 1
    assert "ends at frame 400 and the film has 100" in capsys.readouterr().err


def test_a_trial_is_made_in_a_process_of_its_own(film):
    found = tried(TrialOrder(str(film), Recipe(SMALL)), CancelToken())
    assert 0 < found.size_mb < 4 and found.seconds > 0


def test_a_plain_film_gets_a_rough_answer_soon_and_a_better_one_later(tmp_path):
    """One shot of six groups of two seconds: a first trial takes three of them."""
    film = write_film(tmp_path / "plain.mp4", frames=300, sound=False)
    order = TrialOrder(str(film), Recipe(SMALL), thorough=False)
    soon = tried(order, CancelToken())
    later = tried(msgspec.structs.replace(order, thorough=True), CancelToken())
    assert soon.rough and not later.rough and 0.3 < soon.size_mb / later.size_mb < 3


def test_a_trial_tells_what_went_wrong_and_can_be_stopped(film, tmp_path):
    gone = TrialOrder(str(tmp_path / "none.mp4"), Recipe(SMALL))
    with pytest.raises(InputError, match=r"none\.mp4"):
        tried(gone, CancelToken())
    long = write_film(tmp_path / "long.mp4", frames=300)
    token = CancelToken()
    threading.Timer(0.3, token.cancel).start()
    with pytest.raises(Cancelled):
        tried(TrialOrder(str(long), Recipe(SMALL)), token)


def test_an_encoder_that_crashes_in_the_first_of_two_passes_gets_it_again(tmp_path):
    film = write_film(tmp_path / "long.mp4", frames=80)
    sheet = with_value(with_value(SMALL, "canvas", (360, 360)), "video.passes", 2)
    planner = Planner(analyse(film), no_progress, CancelToken())
    (tmp_path / "out").mkdir()
    planner.add(0, Recipe(sheet, {0: ShotChoice()}), tmp_path / "out")
    crashed = threading.Event()

    def crash(_, state):
        if state.doing == "encoding" and not crashed.is_set():
            crashed.set()
            os.kill(children_of(os.getpid(), "core.encoding.encoder")[0], signal.SIGKILL)
            time.sleep(0.2)

    (outcome,) = make_files(planner.made, crash, Control())
    assert crashed.is_set() and outcome.made is not None and outcome.made.proof.right
    assert [path.name for path in (tmp_path / "out").iterdir()] == ["long square-feed.mp4"]
