"""Damaged, odd and hostile inputs of every kind, made from a seed. Used by hostile.py."""

from __future__ import annotations

import itertools
import json
import os
import random
from collections.abc import Iterator
from pathlib import Path

import msgspec

from caracal.core.layout.files import write_layout
from caracal.core.layout.kinds import whole_soft
from caracal.core.layout.model import Clip, Still, with_backdrop
from caracal.core.project.model import first_project
from caracal.core.project.storage import VERSION, Document, FilmReference
from hostile_case import FRAMES, SECONDS, Case, Place, ffmpeg

COPIES = {  # containers of the good film, by what FFmpeg is told
    "mp4": (), "mov": (), "mkv": (), "ts": (), "avi": ("-c:a", "pcm_s16le"),
    "mxf": ("-c:v", "mpeg2video", "-q:v", "2", "-c:a", "pcm_s16le"),
    "webm": ("-c:v", "libvpx-vp9", "-cpu-used", "8", "-c:a", "libopus"),
}


def copy_of(place: Place, suffix: str) -> Path:
    """The good film in a container; made when it is asked for."""
    path = place.new(f"copy.{suffix}")
    if not path.exists():
        ffmpeg("-i", place.base, "-c", "copy", *COPIES[suffix], path)
    return path


def damaged_films(place: Place, chance: random.Random) -> Iterator[Case]:
    """Bytes changed, runs removed, ends cut off, blocks of one film in another."""
    number = 0
    while True:
        suffix = chance.choice(list(COPIES))
        data = bytearray(copy_of(place, suffix).read_bytes())
        way = chance.randrange(5)
        at = chance.randrange(len(data))
        if way == 0:
            for _ in range(chance.choice((1, 8, 64, 512))):
                data[chance.randrange(len(data))] = chance.randrange(256)
        elif way == 1:
            del data[at:]
        elif way == 2:
            del data[at : at + chance.choice((1, 100, 5000))]
        elif way == 3:
            head = min(len(data), 4096)  # where containers keep what matters
            for _ in range(chance.choice((1, 4, 16))):
                data[chance.randrange(head)] = chance.randrange(256)
        else:
            other = copy_of(place, chance.choice(list(COPIES))).read_bytes()
            data[at : at + 2000] = other[at % len(other) :][:2000]
        path = place.new(f"damaged{number}.{suffix}")
        path.write_bytes(bytes(data))
        number += 1
        yield Case("damaged film", ("look", str(path)) if chance.random() < 0.6
                   else place.convert(path), path)


def clips(place: Place, chance: random.Random) -> Iterator[Case]:
    """The good film in layouts that show a damaged film, what is no film, or a name of no file."""
    damaged = damaged_films(place, chance)
    names = ["/dev/zero", "/dev/stdin", str(place.precious), str(place.precious / "letter"),
             "shipped:../precious/letter", "shipped:backdrops/../../x", "shipped:", "a\nb", "-",
             str(place.folder / "gone.mp4"), "concat:base.mp4|base.mp4", "http://localhost/x.mp4"]
    for number in itertools.count():
        name = names.pop(0) if number % 3 == 2 and names else str(next(damaged).film)
        content = (Clip(name, start_s=chance.choice((0.0, -1.0, 2.5, 1e5))) if number % 4
                   else Still(name, chance.choice((0.0, 1.0, 2.9))))
        path = place.new(f"clip{number}.toml")
        write_layout(path, with_backdrop(whole_soft(), content))
        yield Case("clip", place.convert(place.base, "--layout", str(path)))


def odd_films(place: Place) -> Iterator[Case]:
    """Whole films of unusual kinds: each must be made right, or refused."""
    def made(name: str, *words: str | Path) -> Case:
        path = place.new(name)
        ffmpeg(*words, path)
        return Case("odd film", place.convert(path), path, exact=True)

    base = place.base
    for seconds in ("0.1", "0.52", "1.3"):
        for suffix in ("mp4", "mov"):
            yield made(f"trim {seconds}.{suffix}", "-ss", seconds, "-i", base, "-c", "copy")
    for name, words in (("late", ("-output_ts_offset", "5")), ("early", (
            "-output_ts_offset", "-1", "-avoid_negative_ts", "disabled"))):
        yield made(f"{name}.mkv", "-i", base, "-c", "copy", *words)
    yield made("late sound.mkv", "-i", base, "-itsoffset", "1.5", "-i", base, "-map", "0:v", "-map",
               "1:a", "-c", "copy")
    yield made("late picture.mp4", "-itsoffset", "1", "-i", base, "-i", base, "-map", "0:v", "-map",
               "1:a", "-c", "copy")
    for suffix in ("avi", "mxf", "mkv", "mov"):
        video = "mpeg2video" if suffix == "mxf" else "copy"
        for codec in ("pcm_s16le", "pcm_s24le"):
            yield made(f"{codec}.{suffix}", "-i", base, "-c:v", video, "-q:v", "2", "-c:a",
                       codec)
    for count, layout in ((3, "3.0"), (4, "quad"), (6, "5.1"), (7, "6.1"), (8, "7.1"),
                          (24, "22.2")):
        tones = "|".join(f"0.1*sin({200 + 20 * n}*2*PI*t)" for n in range(count))
        sound = ("-f", "lavfi", "-i", f"aevalsrc={tones}:s=48000:d={SECONDS}:c={layout}")
        for suffix in ("mov", "mkv"):
            yield made(f"{count} channels.{suffix}", "-i", base, *sound, "-map", "0:v", "-map",
                       "1:a", "-c:v", "copy", "-c:a", "pcm_s16le")
    yield made("cover.mkv", "-f", "lavfi", "-i", "testsrc=s=300x300:d=0.04", "-i", base, "-map",
               "0:v", "-map", "1:v", "-map", "1:a", "-c:v:0", "mjpeg", "-frames:v:0", "1", "-c:v:1",
               "copy", "-c:a", "copy")
    yield made("two sounds.mp4", "-i", base, "-f", "lavfi", "-i", "sine=d=3", "-map", "0", "-map",
               "1:a", "-c:v", "copy", "-c:a", "aac")
    yield made("no sound.mp4", "-i", base, "-an", "-c", "copy")
    for rate in ("24000/1001", "30", "50"):
        yield made(f"{rate.replace('/', ' ')}.mp4", "-f", "lavfi", "-i",
                   f"testsrc2=s=320x180:r={rate}:d=3", "-c:v", "libx264", "-pix_fmt", "yuv420p",
                   "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709")
    yield from joined(place)


def joined(place: Place) -> Iterator[Case]:
    """Transport streams joined byte by byte, and other films made of two."""
    for name, first, other in (
            ("codecs", ("-c:a", "aac"), ("-c:a", "ac3", "-ac", "1")),
            ("sizes", (), ("-vf", "scale=640:360")), ("shapes", (), ("-vf", "scale=320:240")),
            ("jump", (), ("-output_ts_offset", "80000"))):
        data = b""
        for number, words in enumerate((first, other)):
            part = place.new(f"{name}{number}.ts")
            ffmpeg("-i", place.base, *words, part)
            data += part.read_bytes()
        path = place.new(f"{name}.ts")
        path.write_bytes(data)
        yield Case("joined stream", place.convert(path), path, exact=name == "codecs")


def odd_files(place: Place) -> Iterator[Case]:
    """Files that are no films, slide shows, pictures as large as houses."""
    for name, words in (
            ("list.mp4", "ffconcat version 1.0\nfile base.mp4\n"),
            ("list.m3u8", "#EXTM3U\n#EXTINF:3,\nbase.mp4\n#EXT-X-ENDLIST\n"),
            ("address.mov", "http://127.0.0.1:9/a.mp4"), ("empty.mp4", ""),
            ("text.mkv", "no " * 999),
            ("script.avi", "#!/bin/sh\ntouch precious/run\n")):
        path = place.new(name)
        path.write_text(words)
        yield Case("no film", ("look", str(path)))
        yield Case("no film", place.convert(path))
    slides, huge = place.new("slides.mp4"), place.new("huge.gif")
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=64x36:r=0.1:d=40", "-c:v", "libx264", slides)
    # A GIF of three pictures of one pixel each, on a screen of 16000 x 16000.
    dot = b"!\xf9\x04\x00\x14\x00\x00\x00,\0\0\0\0\x01\0\x01\0\0\x02\x02\x44\x01\x00"
    huge.write_bytes(b"GIF89a\x80\x3e\x80\x3e\x80\0\0" + b"\0\0\0\xff\xff\xff" + 3 * dot + b";")
    pipe = place.new("pipe.mp4")
    os.mkfifo(pipe)
    loop = place.new("loop.mp4")
    loop.symlink_to(loop)
    for path in (slides, huge, pipe, loop, Path("/dev/zero"), Path("/dev/null"), place.folder):
        yield Case("no film", ("look", str(path)))
        yield Case("no film", place.convert(path))


NAMES = (b"n\xff\xe9.mp4", b"a:b.mp4", b"-dash.mp4", b"new\nline.mp4", b"tab\t.mp4",
         "日本語 ünï.mp4".encode(), b"quote'\".mp4", b"a" * 240 + b".mp4", b"%d{film}.mp4",
         b"back\\slash.mp4", b" spaces .mp4", b"http:x.mp4", b"concat:a|b.mp4", b"pipe:0.mp4")


def names(place: Place) -> Iterator[Case]:
    """Good films under names that trip programs up."""
    folder = place.new("names")
    folder.mkdir()
    for name in NAMES:
        path = folder / os.fsdecode(name)
        path.write_bytes(place.base.read_bytes())
        yield Case("name", place.convert(path), path, exact=True)
        yield Case("name", ("look", str(path), "--json"))


PATTERNS = ("{film:>9999999999}", "{film:d}", "{film!x}", "{movie}", "a/b", "../{film}", "{",
            "{film", "{film.__class__}", "{film[0]}", "{}", "{0}", "", "{film}" * 99, "/etc/{film}",
            "con", "{film}\x00", "{sheet:{film}}", "{film!r:>99}")


def sheets(place: Place, chance: random.Random) -> Iterator[Case]:
    """Spec sheets with values beyond all reason, and text that is no TOML."""
    good = place.sheet.read_text()
    deep = "[" * 100_000 + "]" * 100_000
    for pattern in PATTERNS:
        yield _sheet(place, good + f"\nnames = {json.dumps(pattern)}\n")
    for text in (good + "a" + ".a" * 100_000 + " = 1", f"x = {deep}", "#" * (50 << 20), "", "\x00",
                 good.replace('"wide', '"'), "name = 1", good * 2):
        yield _sheet(place, text)
    values = ("-1", "0", "1e308", "nan", "inf", '"x"', "[]", "{}", "true", "99999999999999999999",
              '"../../x"', '"yesterday"', "[1, 1]", "[99999, 99999]")
    while True:
        lines = good.splitlines()
        at = chance.choice([i for i, line in enumerate(lines) if "=" in line])
        lines[at] = f"{lines[at].partition('=')[0]}= {chance.choice(values)}"
        yield _sheet(place, "\n".join(lines))


def _sheet(place: Place, text: str) -> Case:
    place.out += 1
    path = place.new(f"sheet{place.out}.toml")
    path.write_text(text)
    return Case("sheet", ("specs", "check", str(path)) if place.out % 3 else (
        "convert", str(place.base), "--spec", str(path), "--out", str(place.new(
            f"out{place.out}")), "--to", "1"))


def project_bytes(place: Place) -> bytes:
    """A project file for the good film."""
    film = FilmReference(str(place.base), "0" * 32, FRAMES, "25/1")
    return msgspec.json.encode(Document("caracal project", VERSION, film, first_project(FRAMES)))


def projects(place: Place, chance: random.Random) -> Iterator[Case]:
    """Project files whose values and bytes were changed."""
    good = project_bytes(place)
    yield _project(place, b"[" * 100_000 + b"]" * 100_000)
    yield _project(place, good.replace(b"vertical-short", b"no-such-sheet"))
    words = (b"null", b"-1", b"1e999", b'"../../x"', b"[]", b"{}", b"99999999999999999999", b"true")
    while True:
        data = bytearray(good)
        if chance.random() < 0.5:
            for _ in range(chance.choice((1, 3, 20))):
                data[chance.randrange(len(data))] = chance.randrange(32, 127)
        else:
            at = data.find(b":", chance.randrange(len(data) - 20))
            end = min(
                (data.find(ending, at) for ending in (b",", b"}") if data.find(ending, at) > 0),
                default=at + 2,
            )
            data[at + 1 : end] = chance.choice(words)
        yield _project(place, bytes(data))


def _project(place: Place, data: bytes) -> Case:
    place.out += 1
    path = place.new(f"p{place.out}.caracal")
    path.write_bytes(data)
    return Case("project", ("batch", str(path), "--spec", str(place.sheet), "--out",
                            str(place.new(f"out{place.out}"))))


def desks(place: Place) -> Iterator[Case]:
    """Outboxes and bundles that point elsewhere."""
    for number, file in enumerate(("../precious/letter", str(place.precious / "letter"), "..", "",
                                   ".", "a/../../precious/letter")):
        outbox = place.new(f"outbox{number}")
        outbox.mkdir()
        (outbox / "schedule.json").write_text(json.dumps([{
            "id": "1", "file": file, "sheet": "x", "post": {"title": "t"}, "received": "now"}]))
        yield Case("desk", ("desk", "withdraw", "1", "--outbox", str(outbox)))
        yield Case("desk", ("desk", "list", "--outbox", str(outbox)))
    for number, words in enumerate(("BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n", "",
                                    "[" * 100_000)):
        bag = place.new(f"bag{number}")
        (bag / "data").mkdir(parents=True)
        (bag / "bagit.txt").write_text(words)
        (bag / "manifest-sha256.txt").write_text("00 ../../precious/letter\n00 data/a.mp4\n")
        (bag / "data" / "a.mp4").symlink_to(place.base)
        yield Case("desk", ("desk", "deliver", str(bag), "--spec", "wide", "--title", "t",
                            "--outbox", str(place.new("outbox"))))


def folders(place: Place) -> Iterator[Case]:
    """Places where nothing can be written, or nothing should be."""
    film, sheet = str(place.base), str(place.sheet)
    own = place.new("own name.toml")
    own.write_text(place.sheet.read_text().replace('names = "{film} {sheet} {part}"', "")
                   + '\nnames = "{film}"\n')
    alias = place.new("alias")
    alias.symlink_to(place.folder, target_is_directory=True)
    for target in ("/proc/none", "/dev/null", film, str(place.new("none") / ("x" * 300))):
        yield Case("folder", ("convert", film, "--spec", sheet, "--out", target))
        yield Case("folder", ("batch", film, "--spec", sheet, "--out", target))
    for folder in (place.folder, alias):
        yield Case("folder", ("batch", film, "--spec", str(own), "--out", str(folder),
                              "--replace"))
        yield Case("folder", ("batch", "--watch", str(folder), "--spec", sheet, "--out",
                              str(place.folder)))
    yield Case("folder", ("batch", "--watch", str(place.folder), "--out", str(place.new("w"))))
    yield Case("folder", ("specs", "export", "wide", film))

