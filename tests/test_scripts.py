"""The two commands: what they say where something is missing, and that nothing is left behind."""

import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from caracal.core.base.errors import InstallError
from caracal.core.base.resources import model, shipped
from caracal.core.processes.children import command, environment

ROOT = Path(__file__).parent.parent
POINTER = "version https://git-lfs.github.com/spec/v1\noid sha256:00\nsize 1\n"


def sourced(words, **more):
    """What bash says after ``words`` in setup.sh's own functions."""
    return subprocess.run(["bash", "-c", f"source scripts/setup.sh; {words}"], cwd=ROOT,
                          capture_output=True, text=True, check=False, env={**os.environ, **more})


def test_a_package_of_either_name_will_do_and_all_that_is_missing_is_told_at_once():
    """Debian 13 calls libglib2.0-0 libglib2.0-0t64; no machine has the others."""
    done = sourced("is_installed() { [ $1 = b-new ]; }; id() { echo 1000; }; command() { "
                   "[ \"$2\" != sudo ] && builtin command \"$@\"; }; "
                   "need_packages 'b-old|b-new' no-such-one no-such-two")
    assert done.returncode == 2
    assert "no-such-one no-such-two" in done.stderr and "b-old" not in done.stderr
    assert done.stderr.count("apt-get install") == 1


def test_one_environment_serves_both_commands():
    stamps = list((ROOT / ".venv").glob("dev-*"))
    if not stamps:
        pytest.skip("run by scripts/test.sh, which makes the stamp")
    done = sourced("find_python() { echo /bin/false; }; make_venv demo '' && echo quick")
    assert done.stdout.strip() == "quick", done.stderr


def test_pointers_of_a_large_file_store_are_told(tmp_path, monkeypatch):
    for name in ("scripts", "src/caracal/data/demo", "src/caracal/data/models"):
        (tmp_path / name).mkdir(parents=True)
    shutil.copy(ROOT / "scripts/setup.sh", tmp_path / "scripts")
    (tmp_path / "src/caracal/data/demo/film.mp4").write_text(POINTER)
    (tmp_path / "src/caracal/data/models/objects.onnx").write_text("a model")
    done = subprocess.run(["bash", "-c", "source scripts/setup.sh; need_files"], cwd=tmp_path,
                          capture_output=True, text=True, check=False)
    assert done.returncode == 2 and "film.mp4" in done.stderr and "git lfs pull" in done.stderr
    assert "objects" not in done.stderr
    assert model("objects.onnx") == shipped("models", "objects.onnx")
    with pytest.raises(InstallError, match="missing"):
        model("none.onnx")
    pointer = tmp_path / "faces.onnx"
    pointer.write_text(POINTER)
    monkeypatch.setattr("caracal.core.base.resources.shipped", lambda *_: pointer)
    with pytest.raises(InstallError, match="git lfs pull"):
        model("faces.onnx")


def running(words):
    return subprocess.run(["pgrep", "-f", words], capture_output=True, text=True,
                          check=False).stdout.split()


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="needs Xvfb")
@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
def test_a_virtual_display_goes_with_its_window(tmp_path, number):
    """The window is really open: it has made its place in the state folder."""
    own = {"CARACAL_STATE": str(tmp_path / "state"), "CARACAL_CACHE": str(tmp_path / "cache"),
           "XDG_CONFIG_HOME": str(tmp_path / "config")}
    clean = {key: value for key, value in {**environment(), **own}.items()
             if key not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    work = subprocess.Popen(command("cli.virtual"), env=clean, stderr=subprocess.PIPE)
    end = time.monotonic() + 60
    while not (tmp_path / "state" / "batch.sqlite").exists() and time.monotonic() < end:
        time.sleep(0.1)
    time.sleep(1)
    (screen,) = [name for name in running("Xvfb -displayfd")
                 if Path(f"/proc/{name}/stat").read_text().split()[3] == str(work.pid)]
    work.send_signal(number)
    assert work.wait(30) == 130
    assert b"Traceback" not in work.stderr.read()
    work.stderr.close()
    assert not Path(f"/proc/{screen}").exists()


def test_without_xvfb_there_is_a_sentence(tmp_path):
    done = subprocess.run(command("cli.virtual", "demo"), env={**environment(), "PATH": ""},
                          capture_output=True, text=True, check=False, executable=sys.executable)
    assert done.returncode == 2 and "xvfb" in done.stderr and done.stderr.count("\n") == 1
