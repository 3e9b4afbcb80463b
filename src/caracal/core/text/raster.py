"""The picture of a text: letters, outline, box and shadow as colours and what they cover."""

from __future__ import annotations

import functools
import math
from collections.abc import Iterator, Sequence
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple
from unicodedata import bidirectional

import msgspec
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter

from caracal.core.base.colours import Rgb, rgb_of
from caracal.core.text.block import TextBlock
from caracal.core.text.emoji import emoji_on
from caracal.core.text.fonts import drawing_with, font_at, length_of
from caracal.core.text.runs import Run, runs_of
from caracal.core.text.style import Align, TextStyle

FINE = 4  # times as large a box is drawn, for smooth corners
LARGER, LARGE_PX = 3, 100  # times as large small letters are drawn: hints would move their stems
LEAST_PX = 1.0

Covers = NDArray[np.float32]
Paint = Rgb | NDArray[np.float32]  # one colour of 0..255, or those of a picture (h, w, 3) of 0..1


class Said(msgspec.Struct, frozen=True):
    """What of the words is told apart: ``first`` to ``end`` (characters of all lines, joined by a
    space) are in ``colour``; those from ``hidden_from`` on are not seen yet.
    """

    colour: str = ""
    first: int = 0
    end: int = 0
    hidden_from: int | None = None


NOTHING_SAID = Said()


Shift = tuple[float, float]  # across and down, in pixels
NOWHERE: Shift = (0.0, 0.0)


class Place(NamedTuple):
    """How large letters are, the (height, width) of their sprite, and where in it they begin."""

    size_px: float
    shape: tuple[int, ...]
    shift: Shift


class Sprite(msgspec.Struct, frozen=True):
    """Colours (h, w, 3) of 0..1, and what they cover (h, w), 0..1."""

    rgb: NDArray[np.float32]
    covers: Covers


@functools.lru_cache(96)
def sprite(
    block: TextBlock, style: TextStyle, size_px: float, said: Said = NOTHING_SAID,
    shift: Shift = NOWHERE,
) -> Sprite:
    """``block`` in letters of ``size_px``: as wide and high as it says, in whole even pixels.

    It is drawn ``shift`` pixels (0 to 2) from the upper left corner, so that words lie where they
    should although planes of 4:2:0 lie at even pixels.
    """
    size_px = max(size_px, LEAST_PX)
    at = Place(size_px, tuple(2 * math.ceil((side * size_px + off) / 2) for side, off in (
        (block.height, shift[1]), (block.width, shift[0]))), shift)
    letters = _letters(block, style.align, at)
    if said.colour:
        base = sprite(block, style, size_px, Said(hidden_from=said.hidden_from), shift)
        part = _stretch(block, style.align, at, said.first, said.end)
        return _over(base, [(rgb_of(said.colour), letters * part)])
    layers: list[tuple[Paint, Covers]] = []
    around = letters if style.outline is None else _letters(
        block, style.align, at, style.outline.width * size_px)
    emoji = _emoji(block, style.align, at)
    pictures = np.zeros(at.shape, np.float32) if emoji is None else emoji.covers
    if said.hidden_from is not None:
        part = _stretch(block, style.align, at, 0, said.hidden_from)
        letters, around, pictures = letters * part, around * part, pictures * part
    if style.box is not None and style.box.opacity > 0:
        layers.append((rgb_of(style.box.colour),
                       _boxes(block, style, at, said) * np.float32(style.box.opacity)))
    if style.shadow is not None and style.shadow.strength > 0:
        layers.append((rgb_of(style.shadow.colour),
                       _shadow(np.maximum(around, pictures), style, size_px)))
    if style.outline is not None:
        layers.append((rgb_of(style.outline.colour), around))
    layers.append((rgb_of(style.colour), letters))
    first, covers = layers[0]
    rgb = np.empty((*at.shape, 3), np.float32)
    rgb[:] = first if isinstance(first, np.ndarray) else np.array(first, np.float32) / 255
    if emoji is not None:
        layers.append((emoji.rgb, pictures))
    return _over(Sprite(rgb, covers), layers[1:])


def _over(base: Sprite, layers: Sequence[tuple[Paint, Covers]]) -> Sprite:
    """``layers`` over each other on a ``base``, from back to front (Porter and Duff's over)."""
    rgb, covers = base.rgb.copy(), base.covers
    for colour, mask in layers:
        seen = np.flatnonzero(mask)
        over, under = mask.ravel()[seen], covers.ravel()[seen]
        whole = under + over - under * over
        pixels = rgb.reshape(-1, 3)
        was = pixels[seen]
        paint = (colour.reshape(-1, 3)[seen] if isinstance(colour, np.ndarray)
                 else np.array(colour, np.float32) / 255)
        pixels[seen] = was + (paint - was) * (over / whole)[:, None]
        covers = covers.copy()
        covers.ravel()[seen] = whole
    rgb.flags.writeable = covers.flags.writeable = False
    return Sprite(rgb, covers)


def _starts(block: TextBlock, align: Align, at: Place) -> list[float]:
    """Where each line begins, in pixels from the left."""
    widest, share = max(block.widths), {Align.LEFT: 0.0, Align.MIDDLE: 0.5, Align.RIGHT: 1.0}[align]
    return [at.shift[0] + (block.margin + (widest - wide) * share) * at.size_px
            for wide in block.widths]


def _baselines(block: TextBlock, at: Place) -> list[float]:
    first = at.shift[1] + (block.margin + block.measures.ascent) * at.size_px
    return [first + i * block.gap * at.size_px for i in range(len(block.lines))]


@functools.lru_cache(32)
def _letters(
    block: TextBlock, align: Align, at: Place, stroke: float = 0.0
) -> Covers:
    """How much of each pixel the letters cover, with a line of ``stroke`` pixels round them."""
    times = LARGER if at.size_px < LARGE_PX else 1
    image = Image.new("L", (at.shape[1] * times, at.shape[0] * times))
    draw, path = ImageDraw.Draw(image), Path(block.font)
    with drawing_with(path):
        font = font_at(path, at.size_px * times)
        for run, x, y in _runs(block, align, at):
            if not run.emoji:
                draw.text((x * times, y * times), run.text, fill=255, font=font, anchor="ls",
                          stroke_width=stroke * times)
    made = np.asarray(image.reduce(times), np.float32) / np.float32(255)
    made.flags.writeable = False
    return made


def _runs(block: TextBlock, align: Align, at: Place) -> Iterator[tuple[Run, float, float]]:
    """The runs of all lines, with where each begins on its baseline, in pixels."""
    path = Path(block.font)
    for line, left, y in zip(block.lines, _starts(block, align, at), _baselines(block, at),
                             strict=True):
        runs, x = runs_of(line), left
        for run in reversed(runs) if right_to_left(line) else runs:
            yield run, x, y
            if len(runs) > 1:
                x += length_of(path, at.size_px, run.text)


@functools.lru_cache(32)
def _emoji(block: TextBlock, align: Align, at: Place) -> Sprite | None:
    """The emoji among the letters, in their colours; None: there are none."""
    rgb, covers = np.zeros((*at.shape, 3), np.float32), np.zeros(at.shape, np.float32)
    found = False
    for run, x, y in _runs(block, align, at):
        if run.emoji:
            middle = y - block.measures.cap / 2 * at.size_px
            drawn = emoji_on(at.shape, run.text, x, middle, at.size_px)
            if drawn is not None:
                place, colours, mask = drawn
                rgb[place] = np.where(mask[..., None] > 0, colours, rgb[place])
                covers[place] = np.maximum(covers[place], mask)
                found = True
    rgb.flags.writeable = covers.flags.writeable = False
    return Sprite(rgb, covers) if found else None


def _stretch(block: TextBlock, align: Align, at: Place, first: int, end: int) -> Covers:
    """What belongs to the characters ``first`` to ``end``: whole rows of their lines."""
    wide = at.shape[1]
    mask, columns = np.zeros(at.shape, np.float32), np.arange(wide)
    path, before = Path(block.font), 0
    for i, (line, x) in enumerate(zip(block.lines, _starts(block, align, at), strict=True)):
        low, high = max(first - before, 0), min(end - before, len(line))
        if low < high:
            left = length_of(path, at.size_px, line[:low]) if low else -x
            right = length_of(path, at.size_px, line[:high]) if high < len(line) else wide - x
            if right_to_left(line):
                whole = length_of(path, at.size_px, line)
                left, right = ((whole - right) if high < len(line) else -x,
                               (whole - left) if low else wide - x)
            rows = _rows(block, at, i)
            part = np.clip(np.minimum(columns + 1 - (x + left), x + right - columns), 0, 1)
            mask[rows] = np.maximum(mask[rows], part.astype(np.float32))
        before += len(line) + 1
    return mask


def right_to_left(line: str) -> bool:
    """Whether a line runs from right to left: its first letter with a direction does (UAX 9, P2).
    """
    for letter in line:
        kind = bidirectional(letter)
        if kind in ("L", "R", "AL"):
            return kind != "L"
    return False


def _rows(block: TextBlock, at: Place, line: int) -> slice:
    """The rows of pixels of a line: half-way to the next."""
    baselines, measures = _baselines(block, at), block.measures
    between = [(high + low + (measures.descent - measures.ascent) * at.size_px) / 2
               for high, low in pairwise(baselines)]
    edges = [0.0, *between, float(at.shape[0])]
    return slice(round(edges[line]), round(edges[line + 1]))


def _boxes(block: TextBlock, style: TextStyle, at: Place, said: Said) -> Covers:
    box, size = style.box, at.size_px
    assert box is not None
    image = Image.new("L", (at.shape[1] * FINE, at.shape[0] * FINE))
    draw, measures, before = ImageDraw.Draw(image), block.measures, 0
    around, above = box.padding * size, (measures.ascent + measures.cap) / 2 * size
    for line, wide, x, y in zip(block.lines, block.widths, _starts(block, style.align, at),
                                _baselines(block, at), strict=True):
        if said.hidden_from is None or said.hidden_from > before:
            draw.rounded_rectangle(
                [round(side * FINE) for side in (
                    x - around, y - above - around / 2,
                    x + wide * size + around, y + measures.descent * size + around / 2)],
                radius=box.radius * size * FINE, fill=255)
        before += len(line) + 1
    return np.asarray(image.reduce(FINE), np.float32) / np.float32(255)


def _shadow(letters: Covers, style: TextStyle, size_px: float) -> Covers:
    shadow = style.shadow
    assert shadow is not None
    image = Image.fromarray(np.rint(letters * 255).astype(np.uint8))
    soft = image.filter(ImageFilter.GaussianBlur(shadow.softness * size_px))
    down = round(shadow.distance * size_px)
    moved = np.roll(np.asarray(soft, np.float32) / np.float32(255), down, axis=0)
    if down > 0:
        moved[:down] = 0
    elif down < 0:
        moved[down:] = 0
    return np.minimum(moved * np.float32(2 * shadow.strength), np.float32(shadow.strength))
