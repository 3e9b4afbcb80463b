"""Room in the cache: what is kept of films, what goes first, and what is never touched."""

import fcntl
import json
import os
import subprocess
import sys

import pytest

from caracal.cli.main import main
from caracal.core.analysis.cache_limit import InUse, kept_films, make_room, used

KEYS = [f"{number:032x}" for number in range(4)]


@pytest.fixture
def root(tmp_path, monkeypatch):
    """Four films of 1,000 bytes each, the first one used longest ago, beside other things."""
    made = tmp_path / "cache"
    for age, key in enumerate(KEYS):
        folder = made / key
        (folder / "proxy").mkdir(parents=True)
        (folder / "proxy.mp4").write_bytes(b"p" * 900)
        (folder / "proxy" / "shots").write_bytes(b"s" * 100)
        os.utime(folder, (1000 + age, 1000 + age))
    (made / "somebody's").mkdir()
    (made / "somebody's" / "film.mp4").write_bytes(b"f" * 5000)
    (made / ("a" * 32)).symlink_to(made / "somebody's")
    monkeypatch.setenv("CARACAL_CACHE", str(made))
    return made


def test_those_used_longest_ago_go_first(root):
    assert [kept.folder.name for kept in kept_films()] == KEYS
    assert {kept.size_bytes for kept in kept_films()} == {1000}
    assert make_room(4000) == 0
    used(root / KEYS[0])
    assert make_room(2500) == 2
    assert sorted(kept.folder.name for kept in kept_films()) == [KEYS[0], KEYS[3]]


def test_what_is_worked_at_or_just_made_stays_and_nothing_else_is_touched(root):
    lock = os.open(root / KEYS[1], os.O_RDONLY)
    fcntl.flock(lock, fcntl.LOCK_EX)
    try:
        assert make_room(0, keep=KEYS[3]) == 2
    finally:
        os.close(lock)
    assert sorted(kept.folder.name for kept in kept_films()) == [KEYS[1], KEYS[3]]
    assert (root / "somebody's" / "film.mp4").read_bytes() == b"f" * 5000
    assert (root / ("a" * 32)).is_symlink()


def test_what_another_process_shows_stays_until_it_ends(root):
    code = ("import sys; from pathlib import Path; "
            "from caracal.core.analysis.cache_limit import InUse; "
            "shown = InUse(Path(sys.argv[1])); print('shown', flush=True); sys.stdin.read()")
    with subprocess.Popen([sys.executable, "-P", "-c", code, root / KEYS[0]], text=True,
                          stdin=subprocess.PIPE, stdout=subprocess.PIPE) as other:
        assert other.stdout.readline() == "shown\n"
        ours = InUse(root / KEYS[0])  # two may show one film
        assert make_room(0) == 3
        other.kill()
    assert make_room(0) == 0
    ours.close()
    assert make_room(0) == 1 and not (root / KEYS[0]).exists()


def test_the_command_line_tells_and_clears(root, capsys):
    assert main(["cache"]) == 0
    assert "4 films in 0.00 GB" in capsys.readouterr().out
    assert main(["cache", "--limit", "0.000002", "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == {
        "folder": str(root), "films": 2, "bytes": 2000, "removed": 2}
    assert main(["cache", "--clear"]) == 0
    assert "2 removed. 0 films" in capsys.readouterr().out
    with pytest.raises(SystemExit) as ended:
        main(["cache", "--limit", "much"])
    assert ended.value.code == 2 and "not a size in GB" in capsys.readouterr().err


def test_python_knows_the_program_by_its_name():
    said = subprocess.run([sys.executable, "-P", "-m", "caracal", "--version"], check=True,
                          capture_output=True, text=True).stdout
    assert said.startswith("caracal ")
