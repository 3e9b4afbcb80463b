"""``analyse --explain FRAME``: what the cut finder measured and decided, with its rule."""

import json
from typing import get_args

import numpy as np
import pytest

from caracal.cli.main import main
from caracal.core.analysis.cuts.hard_cuts import STANDS
from caracal.core.analysis.film_pass.explain import explain_cuts
from caracal.core.base.errors import InputError
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.media.probe import probe
from caracal.core.render.compositor import REGISTERED
from caracal.core.render.layers import Layer
from caracal.core.render.painters.registry import PAINTERS
from conftest import write_film

CUT = 40


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    """Noise that stays for forty frames, then other noise."""
    rng = np.random.default_rng(4)
    shots = [np.kron(rng.integers(40, 200, (9, 16)), np.ones((20, 20))).astype(np.uint8)
             for _ in range(2)]
    return write_film(tmp_path_factory.mktemp("cut") / "cut.mp4", frames=90,
                      picture=lambda number, _: shots[number >= CUT])


def explained(film, frame):
    return explain_cuts(film, probe(film), frame, no_progress, CancelToken())


def test_a_cut_is_followed_to_its_rule(film):
    found = [finding for finding in explained(film, CUT + 3) if finding.what != "step"]
    assert [(finding.frame, finding.what) for finding in found] == [
        (CUT, "hard cut"), (CUT, "decided")]
    assert "a cut by rule 1 of STANDS" in found[0].sentence and len(STANDS) == 3


def test_where_nothing_was_decided_the_steps_are_told(film):
    found = explained(film, 75)
    assert {finding.what for finding in found} == {"step"}
    assert [finding.frame for finding in found] == list(range(50, 90))


def test_a_frame_that_is_not_there_is_refused(film, capsys):
    with pytest.raises(InputError, match="frames 0 to 89"):
        explained(film, 90)
    assert main(["--quiet", "analyse", str(film), "--explain", "90"]) == 2
    assert "There is no frame 90" in capsys.readouterr().err


def test_the_command_answers_in_json(film, capsys):
    assert main(["--quiet", "analyse", str(film), "--explain", str(CUT), "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert {"frame": CUT, "what": "decided", "sentence": "a shot begins: cut"} in answer


def test_every_kind_of_layer_has_a_painter():
    assert REGISTERED and set(get_args(Layer)) == set(PAINTERS)
