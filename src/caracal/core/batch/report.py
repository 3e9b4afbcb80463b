"""The report of a batch: every file against its spec sheet, as HTML and JSON, with pictures."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from html import escape
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from PIL import Image

from caracal.core.batch.job import Item
from caracal.core.encoding.encoder import EncodeResult
from caracal.core.errors import CaracalError, storage_error
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.media.planes import to_rgb
from caracal.core.media.probe import probe
from caracal.core.paths import path_of
from caracal.core.time import FrameRange

STRIP_PICTURES = 8
STRIP_HEIGHT = 180
GAP = 4
STYLE = """
body { background: #1b1b1b; color: #e6dac4; font: 14px/1.5 sans-serif; margin: 32px; }
h1, h2 { font-weight: 600; } h2 { margin: 40px 0 8px; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
td, th { text-align: left; padding: 3px 24px 3px 0; border-bottom: 1px solid #3d3d3d; }
.good { color: #8fb58a; } .bad { color: #e8886c; font-weight: 600; } img { margin: 8px 0 12px; }
"""


class Reported(msgspec.Struct, frozen=True):
    """A file of the batch: whose it is, its proof, and what was done to its sound."""

    film: str
    sheet: str
    state: str
    made: EncodeResult | None
    strip: str = ""
    problem: str = ""
    spec: str = ""


def write_report(items: Iterable[Item], folder: Path) -> tuple[Path, Path]:
    """Write report.html and report.json with a contact strip for each file; both paths.

    Raises StorageError when the folder cannot be written.
    """
    try:
        (folder / "strips").mkdir(parents=True, exist_ok=True)
        lines = [line for item in items for line in _lines(item, folder)]
        data = {"format": "caracal report", "version": 1, "written": datetime.now().isoformat(
            timespec="seconds"), "files": [_data(reported) for reported in lines]}
        json_file, html_file = folder / "report.json", folder / "report.html"
        json_file.write_bytes(msgspec.json.format(msgspec.json.encode(data), indent=1) + b"\n")
        html_file.write_text(_page(lines, str(data["written"])), encoding="utf-8")
    except OSError as problem:
        if isinstance(problem, CaracalError):
            raise
        raise storage_error(folder, problem) from problem
    return html_file, json_file


def _lines(item: Item, folder: Path) -> list[Reported]:
    film, sheet = path_of(item.work.master).name, item.work.recipe.sheet.title
    spec = item.work.recipe.sheet.name
    if not item.told.made:
        return [Reported(film, sheet, item.state, None, "", item.told.problem, spec)]
    return [Reported(film, sheet, item.state, made, _strip(path_of(made.file), folder),
                     item.told.problem, spec) for made in item.told.made]


def _strip(file: Path, folder: Path) -> str:
    """Eight pictures of the file side by side; the path in the report's folder."""
    if not file.is_file():
        return ""
    target = folder / "strips" / f"{file.stem}.jpg"
    contact_strip(file).save(target, quality=88)
    return f"strips/{target.name}"


def contact_strip(file: Path) -> Image.Image:
    """STRIP_PICTURES pictures of a movie, evenly over its length, side by side.

    Raises InputError when it cannot be read.
    """
    master = probe(file)
    every = [round((i + 0.5) * master.frames / STRIP_PICTURES) for i in range(STRIP_PICTURES)]
    pictures = [_picture(master, min(at, master.frames - 1)) for at in every]
    width = sum(picture.width for picture in pictures) + GAP * (len(pictures) - 1)
    strip = Image.new("RGB", (width, STRIP_HEIGHT), (27, 27, 27))
    at = 0
    for image in pictures:
        strip.paste(image, (at, 0))
        at += image.width + GAP
    return strip


def _picture(master: Master, frame: int) -> Image.Image:
    _, planes = next(iter(frames(master, FrameRange(frame, frame + 1))))
    image = Image.fromarray(np.ascontiguousarray(to_rgb(planes)))
    width = max(1, round(image.width * STRIP_HEIGHT / image.height))
    return image.resize((width, STRIP_HEIGHT), Image.Resampling.BILINEAR, reducing_gap=2.0)


def _data(reported: Reported) -> dict[str, Any]:
    proof = reported.made.proof if reported.made else None
    return {
        "film": reported.film,
        "sheet": reported.sheet,
        "state": reported.state,
        "problem": reported.problem,
        "spec": reported.spec,
        "file": path_of(reported.made.file).name if reported.made else "",
        "strip": reported.strip,
        "right": bool(proof and proof.right),
        "sound": reported.made.sound_words() if reported.made else "",
        "lines": [msgspec.to_builtins(line) for line in proof.lines] if proof else [],
    }


def _page(lines: list[Reported], written: str) -> str:
    right = sum(bool(reported.made and reported.made.proof.right) for reported in lines)
    body = "".join(_section(line) for line in lines)
    return (f'<!doctype html><html lang="en"><meta charset="utf-8"><title>Batch report</title>'
            f"<style>{STYLE}</style><h1>Batch report</h1><p>{escape(written)}: {right} of "
            f"{len(lines)} files proved.</p>{body}</html>\n")


def _section(reported: Reported) -> str:
    if reported.made is None:
        return (f"<h2>{escape(reported.film)}, {escape(reported.sheet)}</h2>"
                f'<p class="bad">{escape(reported.state)}. {escape(reported.problem)}</p>')
    proof = reported.made.proof
    rows = "".join(
        f'<tr><td class="{"good" if line.right else "bad"}">{"right" if line.right else "WRONG"}'
        f"</td><td>{escape(line.what)}</td><td>{escape(line.found)}</td>"
        f"<td>{escape(line.asked)}</td></tr>" for line in proof.lines)
    picture = f'<img src="{escape(reported.strip)}" alt="">' if reported.strip else ""
    state = "proved" if proof.right else "NOT PROVED"
    return (
        f"<h2>{escape(path_of(reported.made.file).name)}</h2><p>{escape(reported.film)}, "
        f'{escape(reported.sheet)}: <span class="{"good" if proof.right else "bad"}">{state}</span>'
        f"</p><p>{escape(reported.made.sound_words())}</p>{picture}<table><tr><th></th>"
        f"<th>property</th><th>the file has</th><th>asked</th></tr>{rows}</table>"
    )
