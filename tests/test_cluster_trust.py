"""A cluster on another machine is reached by TLS only; two passes are refused before the start."""

import subprocess
import warnings

import msgspec
import pytest

from caracal.cli.main import main
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.errors import InputError
from caracal.core.base.work import CancelToken, Control, no_progress
from caracal.core.batch.cluster import make_on_cluster
from caracal.core.batch.cluster_address import Cluster
from caracal.core.convert import Recipe
from caracal.core.encoding.reservations import Reservations
from caracal.core.plan.planner import Planner
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from conftest import write_film

SMALL = with_value(find_sheet("square-feed"), "canvas", (180, 180))


@pytest.mark.parametrize(("address", "told"), [
    ("tcp://192.0.2.7:8786", "not encrypted"),  # RFC 5737: a machine that is never there
    ("tls://192.0.2.7:8786", "three files"), ("machine", "not the address"),
    ("http://a:1", "not the address"),
    ("tcp://a:b", "not the address"), ("tcp://[a:1", "not the address")])
def test_another_machine_needs_certificates(tmp_path, capsys, address, told):
    film = write_film(tmp_path / "film.mp4", size=(64, 36), frames=30)
    assert main(["batch", str(film), "--spec", "square-feed", "--out", str(tmp_path / "out"),
                 "--cluster", address]) == 2
    assert told in capsys.readouterr().err


def test_this_machine_and_a_network_of_ones_own_need_none(tmp_path):
    Cluster("tcp://127.0.0.1:8786").check()
    Cluster("tcp://localhost:8786").check()
    Cluster("tcp://192.0.2.7:8786", insecure=True).check()
    with pytest.raises(InputError, match="no such certificate"):
        Cluster("tls://192.0.2.7:8786", str(tmp_path / "none.pem"), "b", "c").check()


def planned(film, folder, sheet=SMALL):
    folder.mkdir()
    planner = Planner(analyse(film), no_progress, CancelToken())
    return planner.add(0, Recipe(sheet), folder)


def test_two_passes_are_refused_before_the_start(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=80)
    twice = msgspec.structs.replace(SMALL, video=msgspec.structs.replace(SMALL.video, passes=2))
    with pytest.raises(InputError, match="two passes"):
        make_on_cluster(Cluster("tcp://127.0.0.1:1"), planned(film, tmp_path / "out", twice),
                        lambda *_: None, Control())


@pytest.fixture
def certificates(tmp_path):
    """An authority, and one certificate signed by it, made by openssl."""
    def run(*words):
        subprocess.run(["openssl", *words], check=True, capture_output=True, cwd=tmp_path)

    run("req", "-x509", "-newkey", "rsa:2048", "-nodes", "-keyout", "ca.key", "-out", "ca.pem",
        "-days", "2", "-subj", "/CN=authority")
    run("req", "-newkey", "rsa:2048", "-nodes", "-keyout", "key.pem", "-out", "r.csr", "-subj",
        "/CN=localhost")
    run("x509", "-req", "-in", "r.csr", "-CA", "ca.pem", "-CAkey", "ca.key", "-CAcreateserial",
        "-out", "cert.pem", "-days", "2")
    return [str(tmp_path / name) for name in ("ca.pem", "cert.pem", "key.pem")]


def test_a_film_is_made_over_tls_and_not_without(tmp_path, certificates):
    film, (ca, cert, key) = write_film(tmp_path / "film.mp4", frames=80), certificates
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from distributed import LocalCluster, Security

        security = Security(tls_ca_file=ca, tls_client_cert=cert, tls_client_key=key,
                            tls_scheduler_cert=cert, tls_scheduler_key=key, tls_worker_cert=cert,
                            tls_worker_key=key, require_encryption=True)
        with LocalCluster(n_workers=1, threads_per_worker=1, processes=False, security=security,
                          protocol="tls://", dashboard_address=None) as made:
            address = made.scheduler_address
            with Reservations() as places:
                plans = [places.reserve(plan) for plan in planned(film, tmp_path / "out")]
                (outcome,) = make_on_cluster(Cluster(address, ca, cert, key), plans,
                                             lambda *_: None, Control())
            assert address.startswith("tls://") and outcome.made.proof.right
