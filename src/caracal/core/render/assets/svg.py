"""Drawings in SVG as pixels: what is drawn in them alone, nothing that they refer to or would run.

resvg draws them, in a process apart (see draw_svg): a drawing of 130 bytes may ask for a terabyte.
Words would need fonts that another machine may not have: they are refused, too.
"""

from __future__ import annotations

import io
import re
import subprocess
from pathlib import Path
from xml.etree import ElementTree

from PIL import Image

from caracal.core.base.errors import InputError
from caracal.core.base.limits import MOST_DRAWING_BYTES
from caracal.core.base.translation import tr
from caracal.core.processes.children import command, environment
from caracal.core.render.assets.draw_svg import REFUSED

SUFFIX = ".svg"
LONG_SIDE = 2048  # pixels to which a drawing is drawn: more than any pane or overlay is wide
MOST_ELEMENTS = 50_000
WITHIN_S = 30.0  # beyond the processor's time: the machine may be busy
NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,3})?")
LENGTH = re.compile(r"(\d{1,9}(?:\.\d*)?|\.\d+)(px|in|cm|mm|pt|pc|)")
UNITS = {"": 1.0, "px": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 9.6 / 2.54, "pt": 96 / 72,
         "pc": 16.0}  # in pixels (CSS Values and Units 3, 6.2)
EMBEDDED = re.compile(r"data:image/(png|jpe?g|gif|webp);", re.IGNORECASE)
OUTSIDE = re.compile(r"url\(\s*['\"]?(?!#)(?!data:image/)|@import", re.IGNORECASE)


def open_drawing(path: Path, data: bytes, long_side: int = LONG_SIDE) -> Image.Image:
    """The drawing whose file holds ``data``, in RGBA, ``long_side`` pixels long.

    Raises InputError when it cannot be drawn in little memory and time, or when it refers to other
    files, holds a script or words.
    """
    if len(data) > MOST_DRAWING_BYTES:
        raise InputError(tr("This drawing's file has {count:.0f} MB.", count=len(data) / 1e6), path,
                         tr("Save it as PNG."))
    try:
        text = data.decode("utf-8")
        if "<!ENTITY" in text:
            raise InputError(tr("This drawing defines entities."), path,
                             tr("Save it as plain SVG."))
        root = ElementTree.fromstring(text)
        _refuse_what_is_not_drawn(root, path)
    except InputError:
        raise
    except (UnicodeDecodeError, ElementTree.ParseError, ValueError, RecursionError) as problem:
        raise _damaged(path) from problem
    return Image.open(io.BytesIO(_drawn(path, data, long_side))).convert("RGBA")


def _drawn(path: Path, data: bytes, long_side: int) -> bytes:
    """The drawing as PNG, ``long_side`` pixels long. Raises InputError."""
    try:
        done = subprocess.run(command("core.render.assets.draw_svg", str(long_side)), input=data,
                              env=environment(), stdout=subprocess.PIPE, timeout=WITHIN_S,
                              stderr=subprocess.DEVNULL, check=False)
    except subprocess.TimeoutExpired as problem:
        raise _too_much(path) from problem
    if done.returncode == REFUSED:
        raise _damaged(path)
    if done.returncode or not done.stdout:
        raise _too_much(path)
    return done.stdout


def _damaged(path: Path) -> InputError:
    return InputError(tr("This drawing is damaged or not an SVG file."), path,
                      tr("Save it again, or as PNG."))


def _too_much(path: Path) -> InputError:
    return InputError(tr("This drawing takes too much memory or time."), path,
                      tr("Save it smaller and simpler, or as PNG."))


def _refuse_what_is_not_drawn(root: ElementTree.Element, path: Path) -> None:
    for number, element in enumerate(root.iter()):
        name = str(element.tag).rpartition("}")[2].lower()
        if number > MOST_ELEMENTS:
            raise InputError(tr("This drawing has too many parts."), path, tr("Save it as PNG."))
        attributes = {key.rpartition("}")[2].lower(): value for key, value in element.items()}
        if name in ("script", "foreignobject") or any(key.startswith("on") for key in attributes):
            raise InputError(tr("This drawing holds a script or a page."), path,
                             tr("Save it as plain SVG, or as PNG."))
        if name in ("text", "tspan"):
            raise InputError(tr("This drawing holds words, which need a font."), path,
                             tr("Turn its words into paths, or save it as PNG."))
        words = " ".join((*attributes.values(), element.text or "" if name == "style" else ""))
        href = attributes.get("href", "#")
        if OUTSIDE.search(words) or not (href.startswith("#") or EMBEDDED.match(href)):
            raise InputError(tr("This drawing refers to another file or address."), path,
                             tr("Save it with everything embedded, or as PNG."))


def drawing_ratio(data: bytes, drawn: Image.Image | None = None) -> float:
    """The width of a drawing over its height, more exactly than its picture ``drawn`` tells.

    A flat picture has a rounded height. Where the drawing's own numbers say something else than
    was drawn, the picture counts. Without one, as for drawings that ship, they are believed.
    """
    seen = drawn.width / drawn.height if drawn is not None else 1.0
    sides = _sides(ElementTree.fromstring(data.decode("utf-8")))
    if sides is None:
        return seen
    told = sides[0] / sides[1]
    if drawn is None:
        return told
    short = max(drawn.size) * min(told, 1 / told)  # of its sides, before it was rounded
    return told if short > 0.25 and abs(short - min(drawn.size)) < 1.1 else seen


def _sides(root: ElementTree.Element) -> tuple[float, float] | None:
    """Width and height as a drawing says them, in pixels of CSS; None where that is not plain."""
    found = []
    for name in ("width", "height"):
        length = LENGTH.fullmatch(root.get(name, "").strip())
        if length is not None:
            found.append(float(length[1]) * UNITS[length[2]])
    if not found:
        box = [float(value) for value in NUMBER.findall(root.get("viewBox", ""))]
        found = box[2:] if len(box) == 4 else []
    return (found[0], found[1]) if len(found) == 2 and min(found) > 0 else None
