"""Drawings, pictures, fonts and catalogues that nobody should trust. Used by hostile.py."""

from __future__ import annotations

import random
import struct
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path

import msgspec
from PIL import Image

from caracal.core.base.resources import shipped
from caracal.core.base.toml_text import write_toml
from caracal.core.exchange.caption_files import write_captions
from caracal.core.layout.files import write_layout
from caracal.core.layout.kinds import whole_soft
from caracal.core.layout.model import PictureFile, with_backdrop
from caracal.core.project.brand import Brand, Logo
from caracal.core.text.caption_look import CaptionLook
from caracal.core.text.cues import Cue
from hostile_case import Place, Trial, run_apart, run_forked, wrong_end

NUMBERS = ("0", "1", "-1", "1e9", "1e30", "1e-30", "nan", "inf", "99999999999999999999", "50%",
           "5e5em", "", "x", "9 9", "0.0000001")
PARTS = (
    "<rect width='{0}' height='{1}'/>", "<circle r='{0}' cx='{1}'/>",
    "<path d='M0 0L{0} {1}A{0} {1} 0 0 1 9 9Z' stroke='#000' stroke-width='{0}'/>",
    "<g transform='scale({0}) rotate({1})'><rect width='9' height='9'/></g>",
    "<filter id='f'><feGaussianBlur stdDeviation='{0}'/></filter><rect filter='url(#f)' width='9' "
    "height='{1}'/>",
    "<pattern id='p' width='{0}' height='{1}'><rect width='1'/></pattern><rect fill='url(#p)' "
    "width='9' height='9'/>",
    "<mask id='m'><rect width='{0}' height='9'/></mask><rect mask='url(#m)' width='9' "
    "height='{1}'/>",
    "<text font-size='{0}' x='{1}'>Words</text>",
    "<linearGradient id='l' x1='{0}'><stop offset='{1}'/></linearGradient><rect fill='url(#l)' "
    "width='9' height='9'/>",
    "<use href='#u' id='u' x='{0}'/>", "<clipPath id='c'><use href='#c'/></clipPath>",
    "<image href='file:///etc/passwd' width='{0}' height='{1}'/>",
    "<image href='data:image/png;base64,AAAA' width='{0}' height='{1}'/>",
    "<svg width='{0}' height='{1}' viewBox='0 0 {1} {0}'><rect width='9' height='9'/></svg>",
    "<style>@import url('http://127.0.0.1:9/x.css'); rect {{ fill: red }}</style>",
    "<line x2='{0}' y2='{1}' stroke='#000' stroke-dasharray='0.0000001 {0}'/>",
)
HEADS = ("width='{0}' height='{1}'", "viewBox='0 0 {0} {1}'", "viewBox='0 0 100 50'",
         "width='{0}' height='{1}' viewBox='{1} {0} 10 10'", "")
BEFORE = ("", "", "", "<?xml version='1.0'?>", "<!DOCTYPE svg [<!ENTITY a 'aa'>]>",
          "<!DOCTYPE svg SYSTEM 'http://127.0.0.1:9/x.dtd'>", "\ufeff",
          "<!-- " + "x" * 9999 + " -->")


def drawings(place: Place, chance: random.Random) -> Iterator[Trial]:
    """Drawings with numbers beyond all reason, of every part that a drawing has."""
    number = 0
    while True:
        def numbers() -> tuple[str, str]:
            return chance.choice(NUMBERS), chance.choice(NUMBERS)

        head = chance.choice(HEADS).format(*numbers())
        inside = "".join(chance.choice(PARTS).format(*numbers())
                         for _ in range(chance.choice((1, 1, 2, 6))))
        if chance.random() < 0.1:
            inside = "<g>" * 5000 + inside + "</g>" * chance.choice((5000, 4999))
        text = (f"{chance.choice(BEFORE)}<svg xmlns='http://www.w3.org/2000/svg' {head}>{inside}"
                "</svg>")
        yield _shown(place, "drawing", f"d{number}.svg", text.encode())
        number += 1


def pictures(place: Place, chance: random.Random) -> Iterator[Trial]:
    """Pictures with bits changed, cut off, of any size, or of another kind than their name says."""
    good = place.new("good picture.png")
    Image.new("RGBA", (64, 40), (200, 80, 40, 128)).save(good)
    others = []
    for suffix in ("jpg", "webp", "tiff", "bmp", "gif"):
        path = place.new(f"good picture.{suffix}")
        Image.new("RGB", (64, 40), (200, 80, 40)).save(path)
        others.append(path)
    for number, (wide, high) in enumerate(((60000, 60000), (1, 100000), (2**31 - 1, 2**31 - 1),
                                           (0, 0), (1, 1), (65535, 2))):
        yield _shown(place, "picture", f"sides{number}.png", png_of(wide, high))
    number = 0
    while True:
        source = chance.choice([good, *others])
        data = bytearray(source.read_bytes())
        if chance.random() < 0.3:
            del data[chance.randrange(len(data)) :]
        else:
            for _ in range(chance.choice((1, 4, 32))):
                data[chance.randrange(len(data))] ^= 1 << chance.randrange(8)
        suffix = source.suffix if chance.random() < 0.8 else ".png"
        yield _shown(place, "picture", f"p{number}{suffix}", bytes(data))
        number += 1


def png_of(wide: int, high: int) -> bytes:
    """A PNG of these sides with hardly any content (W3C, Portable Network Graphics, 11.2)."""
    def chunk(kind: bytes, content: bytes) -> bytes:
        return (struct.pack(">I", len(content)) + kind + content
                + struct.pack(">I", zlib.crc32(kind + content)))

    head = struct.pack(">IIBBBBB", wide, high, 8, 2, 0, 0, 0)
    return (b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head)
            + chunk(b"IDAT", zlib.compress(bytes(100))) + chunk(b"IEND", b""))


def _shown(place: Place, kind: str, name: str, data: bytes) -> Trial:
    """A conversion that shows the picture behind the film."""
    def run() -> str:
        folder = place.fresh("shown")
        (folder / name).write_bytes(data)
        layout = folder / "layout.toml"
        write_layout(layout, with_backdrop(whole_soft(), PictureFile(str(folder / name))))
        end, said = run_forked(place.convert(place.base, "--layout", str(layout), "--to", "1"),
                               place.new("said"), place.variables())
        if end == "2" and name not in said:
            return f"another is blamed: {said[-300:]}"
        return wrong_end(end, said)

    return Trial(kind, f"{name}: {data[:200]!r}", run)


def fonts(place: Place, chance: random.Random) -> Iterator[Trial]:
    """The fonts that ship with bytes changed, used for captions."""
    good = [shipped("fonts", name) for name in ("Figtree_500Medium.ttf", "Fraunces_400Regular.ttf")]
    captions = place.new("said.srt")
    write_captions(captions, [Cue(0.1, 2.5, "Käse and bread, ﬁne words")])
    number = 0
    while True:
        data = bytearray(chance.choice(good).read_bytes())
        way = chance.randrange(4)
        if way == 0:
            del data[chance.randrange(len(data)) :]
        else:  # the table directory, or anywhere
            high = 300 if way == 1 else len(data)
            for _ in range(chance.choice((1, 8, 200))):
                data[chance.randrange(high)] = chance.randrange(256)
        yield _written(place, f"f{number}.ttf", bytes(data), captions)
        number += 1


def _written(place: Place, name: str, data: bytes, captions: Path) -> Trial:
    def run() -> str:
        folder = place.fresh("font")
        (folder / name).write_bytes(data)
        look = CaptionLook()
        look = msgspec.structs.replace(
            look, style=msgspec.structs.replace(look.style, font=str(folder / name)))
        brand = folder / "brand.toml"
        write_toml(brand, Brand("quay", fonts=(str(folder / name),), captions=look))
        end, said = run_forked(
            place.convert(place.base, "--brand", str(brand), "--captions", str(captions), "--to",
                          "1"), place.new("said"), place.variables())
        return wrong_end(end, said)

    return Trial("font", name, run)


def logos(place: Place) -> Iterator[Trial]:
    """Brands whose logo is no picture."""
    for number, path in enumerate(("/dev/zero", "/dev/stdin", "/proc/self/mem", "gone.png", "", ".",
                                   "a\nb.png", str(place.precious / "letter"), str(place.base))):
        def run(number: int = number, path: str = path) -> str:
            brand = place.new(f"logo{number}.toml")
            write_toml(brand, Brand("quay", logos=(Logo(PictureFile(path)),)))
            end, said = run_forked(place.convert(place.base, "--brand", str(brand), "--to", "1"),
                                   place.new("said"), place.variables())
            return wrong_end(end, said)

        yield Trial("logo", repr(path), run)


KIND = "Content-Type: text/plain; charset=UTF-8\n"
PLURALS = ("n/0", "n%0", "99", "-n", "n>>99", "(" * 3000 + "n" + ")" * 3000, "n&&", "n**n**n**n",
           "__import__('os')", "", "n?1", "9" * 9999)
TRANSLATIONS = ("{name:>2000000000}", "{0}", "{", "{x.__class__}", "{file!r:>99}", "\x1b[2J{file}",
                "", "{file}" * 9999, "\u202e{file}", "{}", "%s%s%s%n")


def catalogues(place: Place, chance: random.Random) -> Iterator[Trial]:
    """A user's own translations that ask for the impossible, or are damaged."""
    messages = ["{file}: {what}", "There is no such file.", "Check the name.",
                "{count} frame", "no such file"]
    number = 0
    for plural in PLURALS:
        yield _translated(place, f"plural {plural[:40]}", _mo(
            f"{KIND}Plural-Forms: nplurals=2; plural={plural};\n",
            dict.fromkeys(messages, "{file} ist")))
    for words in TRANSLATIONS:
        yield _translated(place, f"words {words[:40]}", _mo(
            KIND, dict.fromkeys(messages, words)))
    good = _mo(KIND, dict.fromkeys(messages, "Käse"))
    while True:
        data = bytearray(good)
        if chance.random() < 0.3:
            del data[chance.randrange(len(data)) :]
        else:
            for _ in range(chance.choice((1, 4, 32))):
                data[chance.randrange(len(data))] ^= 1 << chance.randrange(8)
        yield _translated(place, f"damaged {number}", bytes(data))
        number += 1


def _mo(head: str, messages: dict[str, str]) -> bytes:
    """A compiled catalogue (GNU gettext manual, "The Format of GNU MO Files")."""
    rows = sorted({"": head, **messages}.items())
    ids, texts = ([row[n].encode() for row in rows] for n in (0, 1))
    start = 28 + 16 * len(rows)
    offsets: Callable[[list[bytes], int], bytes] = lambda parts, at: b"".join(  # noqa: E731
        struct.pack("<II", len(part), at + sum(len(other) + 1 for other in parts[:n]))
        for n, part in enumerate(parts))
    size = sum(len(part) + 1 for part in ids)
    return (struct.pack("<7I", 0x950412DE, 0, len(rows), 28, 28 + 8 * len(rows), 0, 0)
            + offsets(ids, start) + offsets(texts, start + size)
            + b"".join(part + b"\0" for part in ids + texts))


def _translated(place: Place, name: str, data: bytes) -> Trial:
    def run() -> str:
        own = place.fresh("translated")
        file = own / "config" / "locale" / "eo" / "LC_MESSAGES" / "caracal.mo"
        file.parent.mkdir(parents=True)
        file.write_bytes(data)
        variables = {**place.variables(own), "LANGUAGE": "eo", "LC_ALL": "C.UTF-8"}
        end, said = run_apart(("look", str(own / "none.mp4")), variables)
        return wrong_end(end, said, 3) or ("" if end == "2" else f"ended with {end}")

    return Trial("catalogue", name, run)
