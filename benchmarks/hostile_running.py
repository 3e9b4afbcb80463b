"""Commands that are disturbed while they run: by signals in bursts, processes that stand still,
folders that vanish, traps beside the film. Used by hostile.py.
"""

from __future__ import annotations

import itertools
import os
import random
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from functools import partial
from pathlib import Path

from caracal.core.processes.children import command, environment
from hostile_case import (
    END_S,
    HANG_S,
    Place,
    Trial,
    descendants,
    ending,
    ffmpeg,
    run_apart,
    wrong_end,
)

STOPPED = 130
LATEST_S = 3.0  # after which a command of this film has ended by itself
BURST = 60
STOPS = (signal.SIGTERM, signal.SIGINT, signal.SIGHUP)


def long_film(place: Place) -> Path:
    """A film that takes a few seconds; made once."""
    path = place.new("long.mp4")
    if not path.exists():
        ffmpeg("-f", "lavfi", "-i", "testsrc2=s=960x540:r=25:d=9", "-f", "lavfi", "-i",
               "sine=d=9", "-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p",
               "-c:a", "aac", path)
    return path


def commands(place: Place, into: Path) -> tuple[tuple[str, ...], ...]:
    """Commands that take a while, all with fresh folders in ``into``."""
    film, sheet, out = str(long_film(place)), str(place.sheet), str(into / "out")
    return (("analyse", film), ("convert", film, "--spec", sheet, "--out", out),
            ("batch", film, "--spec", sheet, "--out", out), ("look", film),
            ("path", film, "--shape", "9:16"),
            ("captions", film, "--out", str(into / "said.srt")))


class Running:
    """A command in a process of its own, with folders of its own."""

    def __init__(self, place: Place, number: int) -> None:
        self.place, self.into = place, place.fresh("running")
        words = commands(place, self.into)
        self.words = words[number % len(words)]
        self.log = self.into / "said"
        with self.log.open("wb") as out:
            self.process = subprocess.Popen(
                command("cli", *self.words), stdout=out, stderr=out,
                env={**environment(), **place.variables(self.into / "own")},
                start_new_session=True)

    def end(self, within_s: float) -> int | None:
        """The exit code; None when it did not end in time, and was killed."""
        try:
            return self.process.wait(within_s)
        except subprocess.TimeoutExpired:
            for pid in descendants(self.process.pid):
                with suppress(OSError):
                    os.kill(pid, signal.SIGKILL)
            self.process.kill()
            self.process.wait()
            return None

    def said(self) -> str:
        """What it said."""
        return self.log.read_text(errors="replace")

    def half_made(self) -> str:
        """Files in the output folder that are not done, which nobody may take for films."""
        out = self.into / "out"
        found = [path.name for path in out.glob("*") if "part" in path.name] if out.is_dir() else []
        return ", ".join(found)


Disturb = Callable[[Place, int, float, float], str]  # the place, a command's number, when, a seed


def _at_any_moment(kind: str, disturb: Disturb, least_s: float = 0.0) -> Callable[
        [Place, random.Random], Iterator[Trial]]:
    """What makes trials of ``disturb``, at a moment of its own each."""
    def trials(place: Place, chance: random.Random) -> Iterator[Trial]:
        for number in itertools.count():
            yield Trial(kind, f"number {number}", partial(
                disturb, place, number, chance.uniform(least_s, LATEST_S), chance.random()))

    return trials


def _signalled(place: Place, number: int, after_s: float, seed: float) -> str:
    """A burst of signals: the command ends at once, in a sentence, and leaves nothing."""
    running, of = Running(place, number), random.Random(seed)
    with suppress(subprocess.TimeoutExpired):
        running.process.wait(after_s)
    for _ in range(of.choice((1, 2, BURST))):
        running.process.send_signal(of.choice(STOPS))
    code = running.end(END_S)
    silent = (2,) if running.words[0] == "captions" else ()  # nobody speaks in the long film
    return _told(running, code, (0, 1, STOPPED, *silent))


def _told(running: Running, code: int | None, right: tuple[int, ...]) -> str:
    said = running.said()
    name = running.words[0]
    if code is None:
        return f"{name} did not end: {said[-200:]}"
    if code not in right or "Traceback" in said or "nobody foresaw" in said:
        early = code in (-signal.SIGTERM, -signal.SIGINT, -signal.SIGHUP)
        if not early or "caracal/core" in said:  # else the interpreter had only begun
            return f"{name} ended with {code}: {said[-400:]}"
    return running.half_made() and f"{name} left {running.half_made()}"


def _stood_still(place: Place, number: int, after_s: float, seed: float) -> str:
    """A process of a command stands still (SIGSTOP), and the command is told to end: all goes."""
    running, of = Running(place, number), random.Random(seed)
    with suppress(subprocess.TimeoutExpired):
        running.process.wait(after_s)
    beside = sorted(descendants(running.process.pid))
    for pid in of.sample(beside, k=min(len(beside), of.choice((1, 1, 3)))):
        with suppress(OSError):
            os.kill(pid, signal.SIGSTOP)
    running.process.terminate()
    code = running.end(END_S)
    return _told(running, code, (0, 1, 2, STOPPED, -signal.SIGTERM))


def _vanished(place: Place, number: int, after_s: float, seed: float) -> str:
    """A folder of the command's goes away: a sentence, or files that are whole."""
    of = random.Random(seed)
    running = Running(place, number)
    what = of.choice(("own", "own/cache", "own/state", "out", "out", "own/cache"))
    times = of.choice((1, 1, 40))  # some are removed again and again
    with suppress(subprocess.TimeoutExpired):
        running.process.wait(after_s)
    for _ in range(times):
        shutil.rmtree(running.into / what, ignore_errors=True)
        time.sleep(0.02)
    code = running.end(HANG_S)
    if code is None:
        return f"{running.words[0]} without {what} after {after_s:.1f} s hangs"
    return wrong_end(ending(code, running.said()), _told_lines(running.said()), 2)


def _told_lines(said: str) -> str:
    """What was said, without the progress."""
    return "\n".join(row for row in said.replace("\r", "\n").splitlines() if "%" not in row)


signals = _at_any_moment("signals", _signalled)
stand_still = _at_any_moment("standing still", _stood_still, 0.2)
vanishing = _at_any_moment("vanishing", _vanished)

TRAP = """
with open({marker!r}, "a") as file:
    file.write(__name__ + "\\n")
raise ImportError("a trap")
"""


def traps(place: Place) -> Iterator[Trial]:
    """A module for every standard name, and every installed one, beside the film: none is run."""
    folder, marker = place.new("trapped"), place.new("ran")
    folder.mkdir()
    installed = {path.stem for path in Path(sys.prefix).glob("lib/python*/site-packages/*")
                 if path.suffix in (".py", "") and path.stem.isidentifier()}
    names = sorted(sys.stdlib_module_names | installed | {"caracal", "sitecustomize",
                                                          "usercustomize"})
    for name in names:
        (folder / f"{name}.py").write_text(TRAP.format(marker=str(marker)))
    shutil.copy(place.base, folder / "film.mp4")
    entry = Path(sys.executable).with_name("caracal")
    plain = {name: value for name, value in {**environment(), **place.variables()}.items()
             if name != "PYTHONSAFEPATH"}
    for words in (("look", "film.mp4"), ("analyse", "film.mp4"),
                  ("convert", "film.mp4", "--spec", str(place.sheet), "--out", "out"),
                  ("batch", "film.mp4", "--spec", str(place.sheet), "--out", "more"),
                  ("captions", "film.mp4", "--out", "said.srt"),
                  ("path", "film.mp4", "--shape", "1:1"),
                  ("specs", "list"), ("integrate", "--into", "data"), ("cache",), ("log",)):
        def run(words: tuple[str, ...] = words) -> str:
            done = subprocess.run([entry, *words], cwd=folder, env=plain, capture_output=True,
                                  text=True, timeout=HANG_S, check=False)
            ran = marker.read_text() if marker.exists() else ""
            return (f"these were run: {ran}" if ran else
                    wrong_end(ending(done.returncode, done.stderr), done.stderr))

        yield Trial("traps", f"{words[0]} beside {len(names)} traps", run)


def bare(place: Place) -> Iterator[Trial]:
    """Commands whose environment lacks what every environment has, or has it wrong."""
    for name, values in (
            ("HOME", ("", "/nonexistent", "/dev/null", "relative")), ("TMPDIR", ("", "/none")),
            ("LANG", ("", "xx_YY.nothing", "../../x")), ("LANGUAGE", ("../..", "a:b:c:" * 99)),
            ("PATH", ("", "/none")), ("PYTHONPATH", (str(place.precious),)),
            ("XDG_CACHE_HOME", ("/proc/none",)), ("TZ", ("nowhere",))):
        for value in values:
            def run(name: str = name, value: str = value) -> str:
                variables = {**place.variables(place.fresh("bare")), name: value}
                end, said = run_apart(("look", str(place.base)), variables)
                return wrong_end(end, said) or ("" if end == "0" else f"refused: {said[-200:]}")

            yield Trial("environment", f"{name}={value[:40]}", run)
