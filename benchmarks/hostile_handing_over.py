"""What is handed over, and what it is made by: bundles and the desk hold every file that went in;
sheets that are accepted make proved files; cut lists are read or refused. Used by hostile.py.
"""

from __future__ import annotations

import hashlib
import json
import os
import random
import zipfile
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import opentimelineio as otio

from caracal.core.base.errors import CaracalError
from caracal.core.exchange.cut_lists import read_cut_list
from hostile_case import FRAMES, Place, Trial, run_forked, wrong_end
from random_sheets import accepted_sheets, base_film, verdict

NAMES = ("film", "film 2", "FILM", "a:b", "ünï", "日本", "film small-wide", "-dash", "x" * 200,
         "a%20b", "100%", "new\nline", "report", "data", "manifest-sha256", "#1", "film (1)",
         " film ", ".hidden", "film.")
ENDINGS = (".mp4", ".mov", ".mkv", ".MP4")


def bundles(place: Place, chance: random.Random) -> Iterator[Trial]:
    """Films of odd and equal names from several folders: the bundle holds each file once, with its
    own content, and the desk takes them all."""
    number = 0
    while True:
        yield Trial("bundle", f"number {number}", _bundled(place, chance.random()))
        number += 1


def _bundled(place: Place, seed: float) -> Callable[[], str]:
    def run() -> str:
        of, root = random.Random(seed), place.fresh("bundled")
        films = []
        for folder in ("a", "b"):
            (root / folder).mkdir()
        for _ in range(of.choice((2, 3))):
            film = root / of.choice("ab") / (of.choice(NAMES[: of.choice((2, len(NAMES)))])
                                             + of.choice(ENDINGS[: of.choice((1, 4))]))
            if not film.exists():
                os.link(place.base, film)
                films.append(film)
        out, bundle, outbox = root / "out", root / "bundle", root / "outbox"
        words = ["batch", *map(str, films), "--spec", str(place.sheet), "--out", str(out)]
        end, said = run_forked((*words, "--bundle", str(bundle)), place.new("said"),
                               place.variables())
        if end != "0":
            return wrong_end(end, said, 2) or f"not made: {said[-300:]}"
        made = _contents(path for path in out.iterdir() if path.suffix == ".mp4")
        packed = _contents((bundle / "data").glob("*.mp4"))
        if sorted(made.values()) != sorted(packed.values()) or len(made) != len(films):
            return f"{len(films)} films, {len(made)} files, {len(packed)} in the bundle"
        listed = dict(reversed(row.split("  ", 1)) for row in
                      (bundle / "manifest-sha256.txt").read_text().splitlines())
        for name, content in packed.items():
            told = name.replace("%", "%25").replace("\n", "%0A").replace("\r", "%0D")
            if listed.get(f"data/{told}") != content:  # RFC 8493, 2.1.3
                return f"{name!r} is not in the list: {listed}"
        end, said = run_forked(("desk", "deliver", str(bundle), "--spec", str(place.sheet),
                                "--title", "t", "--outbox", str(outbox)), place.new("said"),
                               place.variables())
        taken = _contents(outbox.rglob("*.mp4"))
        rows = json.loads((outbox / "schedule.json").read_text()) if end == "0" else []
        if sorted(taken.values()) != sorted(made.values()) or len(rows) != len(made):
            return f"{len(made)} files in, {len(taken)} out, {len(rows)} listed: {said[-300:]}"
        return ""

    return run


def _contents(paths: Iterator[Path]) -> dict[str, str]:
    return {path.name: hashlib.sha256(path.read_bytes()).hexdigest() for path in paths}


def sheets_proved(place: Place, chance: random.Random) -> Iterator[Trial]:
    """Sheets of every kind that the check accepts: each makes a proved file of two seconds."""
    film = base_film(place.new("two seconds.mp4"))
    for sheet in accepted_sheets(chance):
        yield Trial("accepted sheet", f"{sheet.name} {sheet.video.codec} {sheet.file.container}",
                    lambda sheet=sheet: verdict(film, sheet, place.new("by sheets")))


def timeline() -> bytes:
    """A cut list as OpenTimelineIO writes it."""
    made = otio.schema.Timeline("cuts")
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    made.tracks.append(track)
    for number in range(4):
        track.append(otio.schema.Clip(
            f"shot {number}", source_range=otio.opentime.TimeRange(
                otio.opentime.RationalTime(number * 15, 25), otio.opentime.RationalTime(15, 25))))
        if number == 1:
            track.append(otio.schema.Transition(
                "dissolve", otio.schema.TransitionTypes.SMPTE_Dissolve,
                otio.opentime.RationalTime(4, 25), otio.opentime.RationalTime(4, 25)))
    return str(made.to_json_string()).encode()


EDL = (b"TITLE: CUTS\nFCM: NON-DROP FRAME\n"
       b"001  AX V C        00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\n"
       b"002  AX V D    008 00:00:01:00 00:00:02:00 00:00:01:00 00:00:02:00\n"
       b"* FROM CLIP NAME: K\xc3\xa4se\n"
       b"003  BL V C        00:00:02:00 00:00:03:00 00:00:02:00 00:00:03:00\n")
VALUES = (b"null", b"-1", b"1e999", b"NaN", b"[]", b"{}", b'"x"', b"9" * 400, b"true", b"0")


def cut_lists(place: Place, chance: random.Random) -> Iterator[Trial]:
    """EDL and OTIO files with bytes and values changed, of impossible depth, packed and not."""
    deep, number = b"[" * 100_000 + b"]" * 100_000, 0
    nested = b'{"OTIO_SCHEMA": "Stack.1", "children": [' * 5000 + b"]}" * 5000
    fixed = [("deep.otio", deep), ("nested.otio", nested),
             ("odd.otio", b'{"OTIO_SCHEMA": "Timeline.1", "tracks": 7}'), ("empty.edl", b""),
             ("no.otioz", b"PK no"), ("long.edl", b"001 " * 3_000_000)]
    for name, content in (("deep.otioz", deep), ("bomb.otioz", b" " * (64 << 20))):
        with zipfile.ZipFile(place.new(name), "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("content.otio", content)
        fixed.append((name, place.new(name).read_bytes()))
    for name, data in fixed:
        yield _read(place, name, data)
    whole = timeline()
    while True:
        kind = chance.choice(("edl", "edl", "otio", "otio", "otio"))
        data = bytearray(EDL if kind == "edl" else whole)
        if chance.random() < 0.5 and kind == "otio":
            at = data.find(b":", chance.randrange(len(data) - 20))
            end = min((found for found in (data.find(end, at) for end in (b",", b"}", b"\n"))
                       if found > 0), default=at + 2)
            data[at + 1 : end] = chance.choice(VALUES)
        else:
            for _ in range(chance.choice((1, 4, 30))):
                data[chance.randrange(len(data))] = chance.randrange(256)
        yield _read(place, f"c{number}.{kind}", bytes(data))
        number += 1


def _read(place: Place, name: str, data: bytes) -> Trial:
    def run() -> str:
        path = place.new(name)
        path.write_bytes(data)
        try:
            for cut in read_cut_list(path, Fraction(25), FRAMES):
                if not 0 <= cut.frame < FRAMES:
                    return f"a cut at {cut.frame}"
        except CaracalError as problem:
            return "" if "\n" not in problem.sentence() else repr(problem.sentence())
        except Exception as problem:  # noqa: BLE001 - what is looked for
            return repr(problem)[:300]
        return ""

    return Trial("cut list", f"{name}: {data[:120]!r}", run)
