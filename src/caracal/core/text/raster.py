"""The picture of a text: letters, outline, box and shadow as colours and what they cover."""

from __future__ import annotations

import functools
import math
from itertools import pairwise
from pathlib import Path
from unicodedata import bidirectional

import msgspec
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter

from caracal.core.colours import Rgb, rgb_of
from caracal.core.text.block import TextBlock
from caracal.core.text.fonts import font_at
from caracal.core.text.style import Align, TextStyle

FINE = 4  # times as large a box is drawn, for smooth corners
LEAST_PX = 1.0

Covers = NDArray[np.float32]


class Said(msgspec.Struct, frozen=True):
    """What of the words is told apart: ``first`` to ``end`` (characters of all lines, joined by a
    space) are in ``colour``; those from ``hidden_from`` on are not seen yet.
    """

    colour: str = ""
    first: int = 0
    end: int = 0
    hidden_from: int | None = None


NOTHING_SAID = Said()


class Sprite(msgspec.Struct, frozen=True):
    """Colours (h, w, 3) of 0..1, and what they cover (h, w), 0..1."""

    rgb: NDArray[np.float32]
    covers: Covers


@functools.lru_cache(96)
def sprite(block: TextBlock, style: TextStyle, size_px: float, said: Said = NOTHING_SAID) -> Sprite:
    """``block`` in letters of ``size_px``: as wide and high as it says, in whole even pixels."""
    size_px = max(size_px, LEAST_PX)
    shape = tuple(2 * math.ceil(side * size_px / 2) for side in (block.height, block.width))
    layers: list[tuple[Rgb, Covers]] = []
    letters = _letters(block, style, size_px, shape, said)
    if style.box is not None and style.box.opacity > 0:
        layers.append((rgb_of(style.box.colour),
                       _boxes(block, style, size_px, shape, said) * np.float32(style.box.opacity)))
    if style.shadow is not None and style.shadow.strength > 0:
        under = _outlined(block, style, size_px, shape, said) if style.outline else letters
        layers.append((rgb_of(style.shadow.colour), _shadow(under, style, size_px)))
    if style.outline is not None:
        layers.append((rgb_of(style.outline.colour),
                       _outlined(block, style, size_px, shape, said)))
    layers.append((rgb_of(style.colour), letters))
    if said.colour:
        layers.append((rgb_of(said.colour), letters * _stretch(block, style, size_px, shape,
                                                               said.first, said.end)))
    return _over(layers, shape)


def _over(layers: list[tuple[Rgb, Covers]], shape: tuple[int, ...]) -> Sprite:
    """``layers`` over each other, from back to front (Porter and Duff's over)."""
    covers = np.zeros(shape, np.float32)
    rgb = np.zeros((*shape, 3), np.float32)
    rgb[:] = np.array(layers[0][0], np.float32) / 255
    for colour, mask in layers:
        whole = covers + mask - covers * mask
        share = np.divide(mask, whole, out=np.zeros_like(mask), where=whole > 0)[..., None]
        rgb += (np.array(colour, np.float32) / 255 - rgb) * share
        covers = whole
    rgb.flags.writeable = covers.flags.writeable = False
    return Sprite(rgb, covers)


def _starts(block: TextBlock, style: TextStyle, size_px: float, width: int) -> list[float]:
    """Where each line begins, in pixels from the left."""
    inner = width - 2 * block.margin * size_px
    share = {Align.LEFT: 0.0, Align.MIDDLE: 0.5, Align.RIGHT: 1.0}[style.align]
    return [block.margin * size_px + (inner - wide * size_px) * share for wide in block.widths]


def _baselines(block: TextBlock, size_px: float) -> list[float]:
    first = (block.margin + block.measures.ascent) * size_px
    return [first + i * block.gap * size_px for i in range(len(block.lines))]


def _letters(block: TextBlock, style: TextStyle, size_px: float, shape: tuple[int, ...],
             said: Said, stroke: float = 0.0) -> Covers:
    image = Image.new("L", (shape[1], shape[0]))
    draw, font = ImageDraw.Draw(image), font_at(Path(block.font), size_px)
    for line, x, y in zip(block.lines, _starts(block, style, size_px, shape[1]),
                          _baselines(block, size_px), strict=True):
        draw.text((x, y), line, fill=255, font=font, anchor="ls", stroke_width=stroke)
    made = np.asarray(image, np.float32) / np.float32(255)
    if said.hidden_from is not None:
        made = made * _stretch(block, style, size_px, shape, 0, said.hidden_from)
    return made


def _outlined(block: TextBlock, style: TextStyle, size_px: float, shape: tuple[int, ...],
              said: Said) -> Covers:
    assert style.outline is not None
    return _letters(block, style, size_px, shape, said, style.outline.width * size_px)


def _stretch(block: TextBlock, style: TextStyle, size_px: float, shape: tuple[int, ...],
             first: int, end: int) -> Covers:
    """What belongs to the characters ``first`` to ``end``: whole rows of their lines."""
    mask = np.zeros(shape, np.float32)
    font = font_at(Path(block.font), size_px)
    at = 0
    for i, (line, x) in enumerate(zip(block.lines, _starts(block, style, size_px, shape[1]),
                                      strict=True)):
        low, high = max(first - at, 0), min(end - at, len(line))
        if low < high:
            left = font.getlength(line[:low]) if low else -x
            right = font.getlength(line[:high]) if high < len(line) else shape[1] - x
            if right_to_left(line):
                whole = font.getlength(line)
                left, right = ((whole - right) if high < len(line) else -x,
                               (whole - left) if low else shape[1] - x)
            top, bottom = _row(block, size_px, i, shape[0])
            columns = np.clip(np.minimum(np.arange(shape[1]) + 1 - (x + left),
                                         x + right - np.arange(shape[1])), 0, 1)
            mask[top:bottom] = np.maximum(mask[top:bottom], columns.astype(np.float32))
        at += len(line) + 1
    return mask


def right_to_left(line: str) -> bool:
    """Whether a line runs from right to left: its first letter with a direction does (UAX 9, P2).
    """
    for letter in line:
        kind = bidirectional(letter)
        if kind in ("L", "R", "AL"):
            return kind != "L"
    return False


def _row(block: TextBlock, size_px: float, line: int, height: int) -> tuple[int, int]:
    """The rows of pixels of a line: half-way to the next."""
    baselines, measures = _baselines(block, size_px), block.measures
    tops = [0.0, *((high - measures.ascent * size_px + low + measures.descent * size_px) / 2
                   for low, high in pairwise(baselines)), float(height)]
    return round(tops[line]), round(tops[line + 1])


def _boxes(block: TextBlock, style: TextStyle, size_px: float, shape: tuple[int, ...],
           said: Said) -> Covers:
    box = style.box
    assert box is not None
    image = Image.new("L", (shape[1] * FINE, shape[0] * FINE))
    draw, measures, at = ImageDraw.Draw(image), block.measures, 0
    for line, wide, x, y in zip(block.lines, block.widths,
                                _starts(block, style, size_px, shape[1]),
                                _baselines(block, size_px), strict=True):
        if said.hidden_from is None or said.hidden_from > at:
            around = box.padding * size_px
            above = (measures.ascent + measures.cap) / 2 * size_px
            draw.rounded_rectangle(
                [round(side * FINE) for side in (
                    x - around, y - above - around / 2,
                    x + wide * size_px + around, y + measures.descent * size_px + around / 2)],
                radius=box.radius * size_px * FINE, fill=255)
        at += len(line) + 1
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
