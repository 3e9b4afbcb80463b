"""What is handed on: a source distribution whose tests run, and versions that were tested."""

import re
import subprocess
import sys
import tomllib
from pathlib import Path

from packaging.requirements import Requirement
from packaging.utils import canonicalize_name
from packaging.version import Version

ROOT = Path(__file__).parent.parent
PROJECT = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
NOT_HANDED_ON = {".gitattributes", ".gitignore"}


def _pinned():
    lines = [line for line in (ROOT / "constraints.txt").read_text().splitlines()
             if not line.startswith("#")]
    found = {}
    for line in lines:
        name, version = line.split("==")
        found[canonicalize_name(name)] = Version(version)
    return found


def test_the_source_distribution_holds_all_that_is_kept(tmp_path):
    """Every file under version control, by setuptools' own list; so its tests run."""
    if not (ROOT / ".git").exists():  # it is the distribution itself
        kept = set()
    else:
        kept = set(subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True,
                                  check=True).stdout.splitlines())
    subprocess.run([sys.executable, "-c", "from setuptools import setup; setup()", "-q", "egg_info",
                    "--egg-base", str(tmp_path)], cwd=ROOT, check=True, capture_output=True)
    (listed,) = tmp_path.glob("*/SOURCES.txt")
    sources = set(listed.read_text().splitlines())
    assert kept - sources - NOT_HANDED_ON == set()
    assert {"tests/conftest.py", "scripts/test.sh", "constraints.txt"} <= sources
    assert not [name for name in sources if "__pycache__" in name]


def test_every_package_that_is_asked_for_is_pinned_to_a_version_that_was_tested():
    pinned = _pinned()
    asked = [Requirement(line) for line in (
        *PROJECT["dependencies"], *PROJECT["optional-dependencies"]["dev"],
        *PROJECT["optional-dependencies"]["cluster"])]
    assert len(asked) > 40
    for one in asked:
        version = pinned[canonicalize_name(one.name)]
        assert one.specifier.contains(version, prereleases=True), (one, version)


def test_its_metadata_says_what_it_is():
    """The names of classifiers after PyPI's list (from memory)."""
    assert PROJECT["name"] == "caracal-reframe" and PROJECT["license"] == "Apache-2.0"
    assert {"authors", "keywords", "classifiers", "requires-python", "description"} <= set(PROJECT)
    assert "Operating System :: POSIX :: Linux" in PROJECT["classifiers"]
    least = re.fullmatch(r">=(3\.\d+)", PROJECT["requires-python"])[1]
    assert f"Programming Language :: Python :: {least}" in PROJECT["classifiers"]
