"""One hostile input as a case or a trial, the folder that it lies in, and how commands are run."""

from __future__ import annotations

import ctypes
import hashlib
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import msgspec

from caracal.core.processes.children import command, environment
from caracal.core.specs.sheet_store import find_sheet, sheet_text

SIZE, FRAMES, SECONDS = (320, 180), 75, 3
HANG_S = 90.0
END_S = 6.0  # for all processes of a command to be gone once it has ended, or was told to
GOOD = ("0", "1", "2")  # how a command may end: done, failed, refused
PR_SET_CHILD_SUBREAPER = 36  # prctl(2)
FOLDERS = ("STATE", "CACHE", "CONFIG")


@dataclass(frozen=True)
class Case:
    """Words for the command line, what kind they are, and the film that was converted, if any.

    ``exact``: the film is odd but whole: what is made of it is compared with FFmpeg's reading.
    """

    kind: str
    words: tuple[str, ...]
    film: Path | None = None
    exact: bool = False


@dataclass(frozen=True)
class Trial:
    """A hostile input that is judged by itself: ``run`` says what is wrong; nothing if all is right
    """

    kind: str
    name: str
    run: Callable[[], str]


class Place:
    """A folder with one good film, a sheet of its shape, and something precious beside it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.out = 0
        self.precious = folder / "precious"
        self.precious.mkdir()
        (self.precious / "letter").write_text("mine")
        self.temporary = folder / "temporary"  # TMPDIR of all commands: empty when they have ended
        self.temporary.mkdir()
        self.known: set[str] = set()  # temporary files and processes that serve all
        self.base = folder / "base.mp4"
        ffmpeg("-f", "lavfi", "-i", f"testsrc2=s=320x180:r=25:d={SECONDS}", "-f", "lavfi", "-i",
               f"aevalsrc=0.3*sin(440*2*PI*t)|0.2*sin(550*2*PI*t):s=48000:d={SECONDS}", "-c:v",
               "libx264", "-g", "25", "-bf", "2", "-pix_fmt", "yuv420p", "-colorspace", "bt709",
               "-color_primaries", "bt709", "-color_trc", "bt709", "-c:a", "aac", self.base)
        sheet = find_sheet("wide")
        sheet = msgspec.structs.replace(sheet, name="small-wide", canvas=SIZE,
                                        video=msgspec.structs.replace(sheet.video, quality=16.0))
        self.sheet = folder / "small.toml"
        self.sheet.write_text(sheet_text(sheet))

    def settle(self) -> None:
        """Whatever is there from now on belongs to all inputs."""
        self.known = {path.name for path in self.temporary.iterdir()} | {
            str(pid) for pid in descendants(os.getpid())}

    def new(self, name: str) -> Path:
        """A path for one more input."""
        return self.folder / name

    def fresh(self, name: str) -> Path:
        """A folder that nothing is in."""
        self.out += 1
        made = self.folder / f"{name} {self.out}"
        made.mkdir()
        return made

    def convert(self, film: Path, *more: str) -> tuple[str, ...]:
        """Words that convert ``film`` into a folder of its own."""
        self.out += 1
        return ("convert", str(film), "--spec", str(self.sheet), "--out",
                str(self.folder / f"out{self.out}"), *more)

    def state(self) -> str:
        """What must not change: what is precious, and the good film."""
        every = [self.precious / "letter", self.base]
        return "|".join(f"{path}:{hashlib.sha256(path.read_bytes()).hexdigest()}" for path in every)

    def variables(self, own: Path | None = None) -> dict[str, str]:
        """The environment of a command whose state, cache and configuration are in ``own``, or in
        the folders that all share."""
        root = own or self.folder / "own"
        return {"TMPDIR": str(self.temporary), "QT_QPA_PLATFORM": "offscreen",
                **{f"CARACAL_{name}": str(root / name.lower()) for name in FOLDERS}}


def run_forked(
    words: tuple[str, ...], log: Path, variables: Mapping[str, str] | None = None
) -> tuple[str, str]:
    """(how a command ended, what it said): its words go through the real entry, in a copy of this
    process, which has imported everything."""
    from caracal.cli import entry  # noqa: PLC0415 - heavy, and not for those who start programs
    from caracal.core.processes.children import share_server  # noqa: PLC0415

    child = os.fork()
    if child == 0:
        os.setsid()
        share_server()
        os.environ.update(variables or {})
        with log.open("wb") as out:
            os.dup2(out.fileno(), 1)
            os.dup2(out.fileno(), 2)
        sys.argv = ["caracal", *words]
        try:
            code = entry.main()
        except SystemExit as problem:
            code = problem.code if isinstance(problem.code, int) else 1
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)
    end = time.monotonic() + HANG_S
    while time.monotonic() < end:
        done, status = os.waitpid(child, os.WNOHANG)
        if done:
            said = log.read_text(errors="replace")
            if os.WIFSIGNALED(status):
                return "crash", said
            return ending(os.waitstatus_to_exitcode(status), said), said
        time.sleep(0.01)
    os.killpg(child, signal.SIGKILL)
    os.waitpid(child, 0)
    return "hang", log.read_text(errors="replace")


def run_apart(
    words: tuple[str, ...], variables: Mapping[str, str], cwd: Path | None = None
) -> tuple[str, str]:
    """The same in a process that begins from nothing."""
    try:
        done = subprocess.run(command("cli", *words), cwd=cwd, env={**environment(), **variables},
                              capture_output=True, text=True, errors="replace", timeout=HANG_S,
                              check=False)
    except subprocess.TimeoutExpired as problem:
        return "hang", str(problem.stderr)
    said = done.stdout + done.stderr
    return ("crash" if done.returncode < 0 else ending(done.returncode, said)), said


def ending(code: int, said: str) -> str:
    """How a command ended by itself, in a word."""
    if "Traceback" in said:
        return "traceback"
    if "nobody foresaw" in said:
        return "unforeseen"
    return str(code) if str(code) in GOOD else "odd code"


def wrong_end(end: str, said: str, most_lines: int = 1) -> str:
    """What is wrong with how a command ended; nothing if it is done, failed or refused in a
    sentence."""
    if end not in GOOD:
        return f"{end}: {said[-400:]}"
    rows = [row for row in said.splitlines() if row]
    return f"more than a sentence: {said[-300:]}" if end == "2" and len(rows) > most_lines else ""


def left_behind(place: Place) -> str:
    """Temporary files of commands that have ended, and processes of theirs."""
    until = time.monotonic() + END_S
    while True:
        found = {path.name for path in place.temporary.iterdir()} - place.known
        found |= {f"{pid}: {words}" for pid, words in descendants(os.getpid()).items()
                  if str(pid) not in place.known}
        if not found or time.monotonic() > until:
            return ", ".join(sorted(found))
        time.sleep(0.05)


def adopt() -> None:
    """Let processes whose starter has ended become children of this one, so that they are found."""
    ctypes.CDLL(None).prctl(PR_SET_CHILD_SUBREAPER, 1, 0, 0, 0)


def descendants(pid: int) -> dict[int, str]:
    """The processes that a process has started, and those that they have: numbers and words."""
    parents, words = {}, {}
    for folder in Path("/proc").iterdir():
        if folder.name.isdigit():
            with suppress(OSError):
                state, parent = (folder / "stat").read_text().rpartition(")")[2].split()[:2]
                if state not in "ZX":
                    parents[int(folder.name)] = int(parent)
                    words[int(folder.name)] = (folder / "cmdline").read_bytes().replace(
                        b"\0", b" ").decode(errors="replace")[:120]
    found, wave = {}, {pid}
    while wave:
        wave = {each for each, parent in parents.items() if parent in wave}
        found |= {each: words[each] for each in wave}
    return found


def ffmpeg(*words: str | Path) -> None:
    """Run FFmpeg, which makes the inputs."""
    subprocess.run(["ffmpeg", "-v", "error", "-nostdin", "-y", *map(str, words)], check=True)
