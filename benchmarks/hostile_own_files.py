"""Links, pipes and damage at every name that the program writes or reads. Used by hostile.py.

The names are not listed here: each command is run once in an empty folder, and what it leaves there
is what it writes.
"""

from __future__ import annotations

import json
import os
import random
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

from caracal.core.base.toml_text import write_toml
from caracal.core.exchange.caption_files import write_captions
from caracal.core.layout.files import layout_text
from caracal.core.layout.kinds import whole_soft
from caracal.core.project.brand import Brand
from caracal.core.project.template import Template
from caracal.core.text.cues import Cue
from hostile_case import Place, Trial, run_forked, wrong_end
from hostile_inputs import project_bytes

Setting = Callable[[Place, Path], None]  # puts something in the place of a file


def writers(place: Place, into: Path) -> dict[str, tuple[str, ...]]:
    """Commands that write everything that they write into ``into``."""
    film, sheet = str(place.base), str(place.sheet)
    return {
        "analyse": ("analyse", film),
        "convert": ("convert", film, "--spec", sheet, "--out", str(into / "out"), "--review"),
        "batch": ("batch", film, "--spec", sheet, "--out", str(into / "out"), "--bundle",
                  str(into / "bundle"), "--review"),
        "specs export": ("specs", "export", "wide", str(into / "mine.toml")),
        "specs add": ("specs", "add", sheet),
        "integrate": ("integrate", "--force", "--into", str(into / "data")),
        "deliver": ("desk", "deliver", str(place.folder / "good bundle"), "--spec", sheet,
                    "--title", "t", "--outbox", str(into / "outbox")),
    }


def good_bundle(place: Place) -> Path:
    """A bundle that the desk takes; made once."""
    bundle = place.folder / "good bundle"
    if not bundle.exists():
        end, said = run_forked(
            ("batch", str(place.base), "--spec", str(place.sheet), "--out",
             str(place.fresh("bundled")), "--bundle", str(bundle)), place.new("said"),
            place.variables())
        if end != "0":
            raise RuntimeError(said)
    return bundle


def variables(place: Place, writer: str, into: Path) -> dict[str, str]:
    """The environment of a command: what it keeps is in ``into``, too, but the analysis of the film
    where it is about the files that are made."""
    own = place.variables(into)
    if writer != "analyse":
        own["CARACAL_CACHE"] = place.variables()["CARACAL_CACHE"]
    return own


def names_written(place: Place) -> Iterator[tuple[str, str]]:
    """(a command, what it leaves in an empty folder, folders included); each name once."""
    seen: set[str] = set()
    for writer in writers(place, place.folder):
        into = place.fresh("learned")
        end, said = run_forked(writers(place, into)[writer], place.new("said"),
                               variables(place, writer, into))
        if end != "0":
            raise RuntimeError(f"{writer}: {said}")
        for name in sorted(str(path.relative_to(into)) for path in into.rglob("*")):
            if name not in seen:
                seen.add(name)
                yield writer, name


def symlink(place: Place, at: Path) -> None:
    """A link to something precious."""
    at.symlink_to(place.precious / "letter")


def hard_link(place: Place, at: Path) -> None:
    """A second name of something precious."""
    os.link(place.precious / "letter", at)


def folder_link(place: Place, at: Path) -> None:
    """A link to a folder with something precious."""
    at.symlink_to(place.precious, target_is_directory=True)


LINKS: tuple[Setting, ...] = (symlink, hard_link, folder_link)


def pipe(_: Place, at: Path) -> None:
    """A pipe that nobody writes to: reading it waits for ever."""
    os.mkfifo(at)


def loop(_: Place, at: Path) -> None:
    """A link to itself."""
    at.symlink_to(at)


def folder(_: Place, at: Path) -> None:
    """A folder where a file should be, with something in it."""
    at.mkdir()
    (at / "x").write_text("x")


def empty(_: Place, at: Path) -> None:
    """A file of nothing, also where a folder should be."""
    at.write_bytes(b"")


def noise(_: Place, at: Path) -> None:
    """A file of what nobody wrote."""
    at.write_bytes(random.Random(at.name).randbytes(3000))


IN_THE_WAY: tuple[Setting, ...] = (pipe, loop, folder, empty, noise)


def links(place: Place) -> Iterator[Trial]:
    """Links to something precious at every name that a command writes, and beside it."""
    good_bundle(place)
    for writer, name in names_written(place):
        for put in LINKS:
            for ending in ("", ".part", ".caracal.part"):
                if put is symlink or not ending:
                    yield _put(place, "link", writer, name + ending, put)


def in_the_way(place: Place) -> Iterator[Trial]:
    """Pipes, loops, folders and noise at every name that a command writes."""
    good_bundle(place)
    for writer, name in names_written(place):
        for put in IN_THE_WAY:
            yield _put(place, "in the way", writer, name, put)


def _put(place: Place, kind: str, writer: str, name: str, put: Setting) -> Trial:
    def run() -> str:
        into = place.fresh("put")
        at = into / name
        at.parent.mkdir(parents=True, exist_ok=True)
        put(place, at)
        end, said = run_forked(writers(place, into)[writer], place.new("said"),
                               variables(place, writer, into))
        shutil.rmtree(into, ignore_errors=True)
        return wrong_end(end, said, 1 + (writer == "batch"))

    return Trial(kind, f"{writer}: {put.__name__} at {name}", run)


# What is read back: bits are changed in it

def readers(place: Place) -> dict[str, tuple[bytes, Callable[[Path], tuple[str, ...]]]]:
    """(what is in it, the command that reads it) of files of ours, by their name."""
    captions, template, brand = (place.new(name) for name in ("c.srt", "t.toml", "b.toml"))
    write_captions(captions, [Cue(0.2, 1.2, "Käse"), Cue(1.4, 2.6, "and bread")])
    write_toml(template, Template((180, 320), 25.0))
    write_toml(brand, Brand("quay", {"ink": "#203040"}, ("Figtree Medium",)))
    outbox = json.dumps([{"id": "1", "file": "x.mp4", "sheet": "wide", "post": {"title": "Käse"},
                          "received": "2026-01-01T10:00"}])

    def converting(option: str) -> Callable[[Path], tuple[str, ...]]:
        return lambda path: place.convert(place.base, "--dry-run", option, str(path))

    return {
        "sheet.toml": (place.sheet.read_bytes(), lambda path: ("specs", "check", str(path))),
        "layout.toml": (layout_text(whole_soft()).encode(), converting("--layout")),
        "template.toml": (template.read_bytes(), converting("--template")),
        "brand.toml": (brand.read_bytes(), converting("--brand")),
        "captions.srt": (captions.read_bytes(), converting("--captions")),
        "schedule.json": (outbox.encode(),
                          lambda path: ("desk", "list", "--outbox", str(path.parent))),
        "project.caracal": (project_bytes(place), lambda path: (
            "batch", str(path), "--spec", str(place.sheet), "--out", str(path.parent / "out"))),
    }


def flipped(data: bytes, chance: random.Random) -> bytes:
    """``data`` with one bit changed, or a few, or cut off, or with a byte that is no text."""
    made = bytearray(data)
    way = chance.randrange(8)
    if way == 0:
        del made[chance.randrange(len(made)) :]
    elif way == 1:
        made[chance.randrange(len(made))] = 0xFF
    else:
        for _ in range(1 if way < 6 else 4):
            made[chance.randrange(len(made))] ^= 1 << chance.randrange(8)
    return bytes(made)


def flips(place: Place, chance: random.Random) -> Iterator[Trial]:
    """Files of ours with bits changed: read as they are, or refused in a sentence."""
    every = readers(place)
    while True:
        for name, (data, words) in every.items():
            yield _flip(place, name, flipped(data, chance), words)
        yield _flip_kept(place, chance)
        yield _flip_bundle(place, chance)


def _flip(
    place: Place, name: str, data: bytes, words: Callable[[Path], tuple[str, ...]]
) -> Trial:
    def run() -> str:
        path = place.fresh("flipped") / name
        path.write_bytes(data)
        end, said = run_forked(words(path), place.new("said"), place.variables())
        return wrong_end(end, said, 2)

    return Trial("bits", f"{name}: {data[:60]!r}", run)


def _flip_kept(place: Place, chance: random.Random) -> Trial:
    """An analysis that is kept, with a bit changed: what is told of the film is what it was."""
    seed = chance.random()

    def run() -> str:
        own, words = place.folder / "kept", ("path", str(place.base), "--shape", "9:16", "--json")
        answer = place.folder / "kept.json"
        if not own.exists():
            _, said = run_forked(words, place.new("said"), place.variables(own))
            answer.write_text(said)
        files = sorted(path for path in own.rglob("*") if path.is_file()
                       and path.suffix in (".msgpack", "") and "cache" in path.parts)
        of = random.Random(seed)
        file = of.choice(files)
        file.write_bytes(flipped(file.read_bytes() or b"x", of))
        end, said = run_forked(words, place.new("said"), place.variables(own))
        rows = [[row for row in text.splitlines() if row.startswith(("{", "["))]
                for text in (said, answer.read_text())]
        return wrong_end(end, said, 99) or ("" if rows[0] == rows[1] else f"{file}: another answer")

    return Trial("bits", "an analysis", run)


def _flip_bundle(place: Place, chance: random.Random) -> Trial:
    """A bundle with a bit changed in one of its files: taken by nobody, whichever it is."""
    seed = chance.random()

    def run() -> str:
        bundle = place.fresh("bag") / "b"
        shutil.copytree(good_bundle(place), bundle)
        of = random.Random(seed)
        file = of.choice(sorted(path for path in bundle.rglob("*") if path.is_file()))
        data = bytearray(file.read_bytes())
        data[of.randrange(len(data))] ^= 1 << of.randrange(8)
        file.write_bytes(bytes(data))
        outbox = bundle.parent / "outbox"
        end, said = run_forked(("desk", "deliver", str(bundle), "--spec", str(place.sheet),
                                "--title", "t", "--outbox", str(outbox)), place.new("said"),
                               place.variables())
        in_data = "data" in file.relative_to(bundle).parts
        if end == "0" and in_data:
            return f"{file.name} was changed, and taken"
        return wrong_end(end, said, 2)

    return Trial("bits", "a bundle", run)


