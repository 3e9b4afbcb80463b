"""Files of a fixed set, to the bit: half a minute of the demo's three versions, all of its dressed
version D, and what a cluster makes of twelve seconds.

    .venv/bin/python benchmarks/fixed_set.py [SRC ...]

Makes the set with the code in each SRC (the checkout's own if none is given), by its command line,
and prints the SHA-256 of every file. With several, files that differ are named; exit code 1 then.
One and the same code makes another file now and then: x264's slices in threads, held to a buffer,
are not the same to the bit. So what differs is made again, up to three times, and is the same if
any two are.
"""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
import tempfile
from collections import defaultdict
from pathlib import Path

from distributed import LocalCluster

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.resources import DEMO_FILM
from caracal.core.project.storage import document, write_document
from caracal.ui.shell.demo_version import dressed

OWN = Path(__file__).parents[1] / "src"
SHEETS = ("vertical-short", "square-feed", "portrait-feed")
TRIES = 3
DRESSED_SHEET = "tall-feed"  # of version D


def dressed_project(folder: Path) -> Path:
    """The demo's project with its dressed version D, as a file."""
    analysis = analyse(DEMO_FILM)
    path = folder / "dressed.caracal"
    write_document(path, document(analysis, dressed(analysis)))
    return path


def run(source: Path, cache: Path, *words: str) -> None:
    """One command of the code in ``source``."""
    subprocess.run([sys.executable, "-P", "-m", "caracal.cli", "--quiet", *words], check=True,
                   stdout=subprocess.DEVNULL,
                   env={**os.environ, "PYTHONPATH": str(source), "CARACAL_CACHE": str(cache),
                        "PYTHONSAFEPATH": "1"})


def digests(source: Path, project: Path, out: Path) -> dict[str, str]:
    """The SHA-256 of each file that the code in ``source`` makes, by its name."""
    cache = out / "cache"
    run(source, cache, "convert", str(DEMO_FILM), "--to", "30", "--spec", *SHEETS, "--out",
        str(out / "three"))
    run(source, cache, "convert", str(project), "--spec", DRESSED_SHEET, "--out",
        str(out / "dressed"))
    short = project.with_name("short.mp4")
    if not short.exists():
        subprocess.run(["ffmpeg", "-v", "error", "-i", DEMO_FILM, "-t", "12", "-c", "copy", short],
                       check=True)
    # Workers are started by this process and import what its path says: that of ``source``.
    os.environ["PYTHONPATH"] = str(source)
    with LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None) as cluster:
        run(source, cache, "batch", str(short), "--spec", "square-feed", "--out",
            str(out / "cluster"), "--cluster", cluster.scheduler_address)
    return {str(path.relative_to(out)): hashlib.sha256(path.read_bytes()).hexdigest()
            for folder in ("three", "dressed", "cluster")
            for path in sorted((out / folder).glob("*.mp4"))}


def main(sources: list[str]) -> int:
    """Print the digests; returns the exit code."""
    made = [defaultdict[str, set[str]](set) for _ in sources or [OWN]]
    with tempfile.TemporaryDirectory(prefix="caracal-fixed-") as folder:
        project = dressed_project(Path(folder))
        for attempt in range(TRIES):
            for number, source in enumerate(sources or [str(OWN)]):
                out = Path(folder) / f"{attempt} {number}"
                for name, digest in digests(Path(source).resolve(), project, out).items():
                    made[number][name].add(digest)
            differ = [name for name in made[0]
                      if not set.intersection(*(found[name] for found in made))]
            if not differ:
                break
    for name in made[0]:
        same = set.intersection(*(found[name] for found in made)) or made[0][name]
        print(f"{min(same)}  {name}{'  DIFFERS' if name in differ else ''}")
    return bool(differ)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
