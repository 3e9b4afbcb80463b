"""Drawings in SVG as pixels: what is drawn in them alone, nothing that they refer to or would run.

resvg draws them. Words would need fonts that another machine may not have: they are refused, too.
"""

from __future__ import annotations

import io
import re
from pathlib import Path
from xml.etree import ElementTree

import resvg_py
from PIL import Image

from caracal.core.errors import InputError
from caracal.core.limits import MOST_DRAWING_BYTES
from caracal.core.translation import tr

SUFFIX = ".svg"
LONG_SIDE = 2048  # pixels to which a drawing is drawn: more than any pane or overlay is wide
MOST_ELEMENTS = 50_000
EMBEDDED = re.compile(r"data:image/(png|jpe?g|gif|webp);", re.IGNORECASE)
OUTSIDE = re.compile(r"url\(\s*['\"]?(?!#)(?!data:image/)|@import", re.IGNORECASE)


def open_drawing(path: Path, data: bytes, long_side: int = LONG_SIDE) -> Image.Image:
    """The drawing whose file holds ``data``, in RGBA, ``long_side`` pixels long.

    Raises InputError when it cannot be drawn, or when it refers to other files, holds a script or
    words.
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
        wide = _is_wide(root)
        made = resvg_py.svg_to_bytes(
            svg_string=text, skip_system_fonts=True, width=long_side if wide else None,
            height=None if wide else long_side)
        return Image.open(io.BytesIO(bytes(made))).convert("RGBA")
    except InputError:
        raise
    except (UnicodeDecodeError, ElementTree.ParseError, ValueError, RecursionError) as problem:
        raise InputError(tr("This drawing is damaged, or no SVG."), path,
                         tr("Save it again, or as PNG.")) from problem


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
                             tr("Save it with everything in it, or as PNG."))


def drawing_ratio(data: bytes) -> float:
    """The width of a drawing that can be drawn over its height, told without drawing it."""
    wide, high = _sides(ElementTree.fromstring(data.decode("utf-8")))
    return wide / high


def _is_wide(root: ElementTree.Element) -> bool:
    """Whether a drawing is at least as wide as it is high."""
    wide, high = _sides(root)
    return wide >= high


def _sides(root: ElementTree.Element) -> tuple[float, float]:
    box = [float(value) for value in re.split(r"[\s,]+", root.get("viewBox", "").strip()) if value]
    sides = box[2:] if len(box) == 4 else [
        float(re.sub(r"[^0-9.]", "", root.get(name, "")) or 1) for name in ("width", "height")]
    return sides[0], sides[1]
