"""Fonts: those that ship, those of the user, and which of them has a letter.

FreeType draws the letters and HarfBuzz puts them together (both in Pillow); fontTools reads which
characters a font has.
"""

from __future__ import annotations

import functools
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from fontTools.ttLib import TTFont, TTLibError
from PIL import ImageFont, features

from caracal.core.base.errors import InputError, missing
from caracal.core.base.resources import shipped
from caracal.core.base.translation import tr
from caracal.core.text.runs import WIDE, letters_of, runs_of

SHIPPED = {
    "Figtree Regular": "Figtree_400Regular.ttf",
    "Figtree Medium": "Figtree_500Medium.ttf",
    "Figtree SemiBold": "Figtree_600SemiBold.ttf",
    "Fraunces Regular": "Fraunces_400Regular.ttf",
    "Fraunces SemiBold": "Fraunces_600SemiBold.ttf",
}
SUFFIXES = (".ttf", ".otf", ".ttc", ".otc")
MOST_FONT_BYTES = 60_000_000
MEASURED = 256.0  # pixels of an em, at which widths are measured
RESTRICTED = 0x0002  # OpenType, OS/2 table, fsType: must not be embedded
NO_GLYPH_NEEDED = frozenset("\n\r\t\u00ad\u200b\u200c\u200d\u200e\u200f\u2060\ufe0e\ufe0f\ufeff")
PLACES = ("/usr/share/fonts", "/usr/local/share/fonts", "~/.local/share/fonts", "~/.fonts")
MOST_SEARCHED, MOST_READ = 3000, 300  # font files of the system: read, each takes milliseconds


class Vertical(NamedTuple):
    """How far letters go up and down from their baseline, in sizes; ``cap`` is that of an H."""

    ascent: float
    descent: float
    cap: float


def file_of(name: str) -> Path:
    """The file of a font that ships, or the one at a path. Raises InputError when it is not there.
    """
    if name in SHIPPED:
        return shipped("fonts", SHIPPED[name])
    path = Path(name)
    if not path.is_file():
        if path.suffix.lower() in SUFFIXES:
            raise missing(path)
        raise InputError(tr("There is no font “{name}”.", name=name[:60]),
                         remedy=tr("Choose a font file, or one of {shipped}.",
                                   shipped=", ".join(SHIPPED)))
    return path


@functools.lru_cache(64)
def font_at(path: Path, size_px: float) -> ImageFont.FreeTypeFont:
    """The font in a file, at a size of its em. Raises InputError when it cannot be used."""
    refuse_unusable(path)
    engine = (ImageFont.Layout.RAQM if features.check("raqm") else ImageFont.Layout.BASIC)
    try:
        return ImageFont.truetype(str(path), size_px, layout_engine=engine)
    except (OSError, ValueError) as problem:
        raise InputError(tr("This font cannot be read."), path, tr("Choose another.")) from problem


@contextmanager
def drawing_with(path: Path) -> Iterator[None]:
    """Turn what FreeType says of the font at ``path`` while letters are drawn into InputError.

    Programs in a font (its hinting) run at each size: a damaged one fails only then.
    """
    try:
        yield
    except InputError:
        raise
    except (OSError, ValueError, MemoryError) as problem:
        raise InputError(tr("This font is damaged: its letters cannot be drawn."), path,
                         tr("Choose another.")) from problem


@functools.lru_cache(256)
def _table(path: Path) -> tuple[frozenset[int], bool]:
    """The characters that a font has, and whether it may not be embedded."""
    if path.stat().st_size > MOST_FONT_BYTES:
        raise InputError(tr("This font is too large."), path, tr("Choose another."))
    try:
        number = 0 if path.suffix.lower() in (".ttc", ".otc") else -1  # of a collection the first
        with path.open("rb") as file, TTFont(file, lazy=True, fontNumber=number) as font:
            characters = frozenset(font.getBestCmap() or ())
            kind = int(getattr(font["OS/2"], "fsType", 0)) if "OS/2" in font else 0
    except (TTLibError, OSError, KeyError, ValueError, AssertionError, IndexError, TypeError,
            AttributeError, OverflowError) as problem:
        raise InputError(tr("This font cannot be read."), path, tr("Choose another.")) from problem
    except Exception as problem:
        raise InputError(tr("This font is damaged."), path, tr("Choose another.")) from problem
    return characters, kind & 0x000F == RESTRICTED


def refuse_unusable(path: Path) -> None:
    """Raises InputError for a font that is damaged, too large, or may not be embedded."""
    if _table(path)[1]:
        raise InputError(tr("The licence of this font forbids embedding it in films or files."),
                         path,
                         tr("Choose another font, or ask its maker for a licence that allows it."))


def lacks(path: Path, text: str) -> str:
    """The letters of ``text`` that a font has not, each once, in their order. Emoji are drawn by a
    font of their own."""
    text = letters_of(text)
    has = _table(path)[0]
    return "".join(dict.fromkeys(
        letter for letter in text
        if letter not in NO_GLYPH_NEEDED and not letter.isspace() and ord(letter) not in has))


def font_for(name: str, text: str) -> Path:
    """The font of that name or, where it lacks some of ``text``, the one that has most of it.

    Fonts that ship are asked first, then those of the system. Raises InputError.
    """
    path = file_of(name)
    short = lacks(path, text)
    if not short:
        return path
    return _instead(path, "".join(sorted(set(short))))


@functools.lru_cache(256)
def _instead(path: Path, short: str) -> Path:
    best, fewest = path, len(short)
    for other in (*(shipped("fonts", file) for file in SHIPPED.values()), *_of_the_system()):
        try:
            left = 0 if _table(other)[1] else len(lacks(other, short))
        except (InputError, OSError):
            continue
        if left < fewest and not _table(other)[1]:
            best, fewest = other, left
            if not left:
                break
    return best


@functools.cache
def _of_the_system() -> tuple[Path, ...]:
    found: list[Path] = []
    for place in PLACES:
        for path in _below(Path(place).expanduser()):
            found.append(path)
            if len(found) >= MOST_SEARCHED:
                break
    return tuple(sorted(found, key=_plainness)[:MOST_READ])


def _plainness(path: Path) -> tuple[bool, bool, str]:
    name = path.stem.lower()
    plain = not any(word in name for word in ("italic", "oblique", "mono", "symbol"))
    return (not plain, "bold" not in name, name)


def _below(folder: Path) -> Iterator[Path]:
    for where, _, files in os.walk(folder):
        for name in sorted(files):
            if name.lower().endswith(SUFFIXES) and "emoji" not in name.lower():
                yield Path(where) / name


@functools.lru_cache(32)
def vertical(path: Path) -> Vertical:
    """The vertical measures of a font."""
    with drawing_with(path):
        font = font_at(path, MEASURED)
        ascent, descent = font.getmetrics()
        box = font.getbbox("H", anchor="ls")
    return Vertical(ascent / MEASURED, descent / MEASURED, -box[1] / MEASURED)


@functools.lru_cache(16_384)
def width_of(path: Path, text: str) -> float:
    """How wide ``text`` is in one line, in sizes."""
    return length_of(path, MEASURED, text) / MEASURED


def length_of(path: Path, size_px: float, text: str) -> float:
    """How wide ``text`` is in one line of letters of ``size_px``, in pixels."""
    with drawing_with(path):
        font = font_at(path, size_px)
        return sum(WIDE * size_px if run.emoji else float(font.getlength(run.text))
                   for run in runs_of(text))
