"""The report of a batch: every file against its spec sheet, as HTML and JSON, with pictures."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from PIL import Image

from caracal.core.base.atomic_write import new_content, write_bytes, write_text
from caracal.core.base.decoding import DecodeError, decode_json
from caracal.core.base.errors import CaracalError, InputError, storage_error
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.paths import path_of, readable_name
from caracal.core.base.reading_text import read_bounded, refuse_nesting
from caracal.core.base.resources import shipped
from caracal.core.base.time import FrameRange
from caracal.core.base.translation import counted, tr
from caracal.core.base.work import CancelToken
from caracal.core.batch.job import Item
from caracal.core.encoding.results import EncodeResult
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.media.planes import to_rgb
from caracal.core.media.probe import probe
from caracal.core.specs.sheet import SpecSheet

STRIP_PICTURES = 8
STRIP_HEIGHT = 180
GAP = 4
REPORT_FOLDER, REPORT_NAME = "report", "report.json"  # below the folder of a batch


class Reported(msgspec.Struct, frozen=True):
    """A file of the batch: whose it is, its name, its proof, and what was done to its sound."""

    film: str
    sheet: str
    state: str
    made: EncodeResult | None
    spec: SpecSheet
    file: str = ""
    strip: str = ""
    problem: str = ""


def write_report(
    items: Iterable[Item], folder: Path, names: Mapping[Path, str] | None = None,
    cancel: CancelToken | None = None,
) -> tuple[Path, Path]:
    """Write report.html and report.json with a contact strip for each file; both paths.

    ``names`` are those that files have where the report is read, if they are not their own. Raises
    StorageError when the folder cannot be written, Cancelled when stopped.
    """
    token = cancel or CancelToken()
    called, strips = names or {}, set[str]()
    try:
        (folder / "strips").mkdir(parents=True, exist_ok=True)
        lines = []
        for item in items:
            token.check()
            lines += _lines(item, folder, called, strips)
        data = {"format": "caracal report", "version": 1, "written": datetime.now().isoformat(
            timespec="seconds"), "files": [_data(reported) for reported in lines]}
        json_file, html_file = folder / REPORT_NAME, folder / "report.html"
        write_bytes(json_file, msgspec.json.format(msgspec.json.encode(data), indent=1) + b"\n")
        write_text(html_file, _page(data))
    except OSError as problem:
        if isinstance(problem, CaracalError):
            raise
        raise storage_error(folder, problem) from problem
    return html_file, json_file


class ReportedFile(msgspec.Struct, frozen=True):
    """A file as a report tells it: its name, and the sheet it was made for, by name and whole.

    Reports of before told only the sheet's name. The sheet is data that anybody may have changed.
    """

    file: str = ""
    spec: str = ""
    spec_sheet: dict[str, Any] | None = None


class _ReadReport(msgspec.Struct):
    files: list[ReportedFile] = []


def files_in_report(report: Path) -> dict[str, ReportedFile]:
    """The files of a report, by their names. Raises InputError when it is damaged, or none."""
    data = read_bounded(report, MOST_TEXT_BYTES, "report")
    refuse_nesting(data, report, "report")
    try:
        told = decode_json(data, _ReadReport)
    except DecodeError as problem:
        raise InputError(tr("This report is damaged."), report, tr("Make it again.")) from problem
    return {file.file: file for file in told.files if file.file and file.spec}


def _lines(
    item: Item, folder: Path, names: Mapping[Path, str], strips: set[str]
) -> list[Reported]:
    film, sheet = readable_name(path_of(item.job.master)), item.job.recipe.sheet.title
    spec = item.job.recipe.sheet
    if not item.status.made:
        return [Reported(film, sheet, item.state, None, spec, "", "", item.status.problem)]
    lines = []
    for made in item.status.made:
        file = path_of(made.file)
        name = readable_name(Path(names.get(file, file.name)))
        lines.append(Reported(film, sheet, item.state, made, spec, name,
                              _strip(file, folder, name, strips), item.status.problem))
    return lines


def _strip(file: Path, folder: Path, name: str, strips: set[str]) -> str:
    """Eight pictures of the file side by side; the path in the report's folder.

    It is called after ``name``, and numbered where one of ``strips`` has that name.
    """
    if not file.is_file():
        return ""
    stem, number = Path(name).stem, 2
    while stem in strips:
        stem, number = f"{Path(name).stem} {number}", number + 1
    strips.add(stem)
    target = folder / "strips" / f"{stem}.jpg"
    with new_content(target) as opened:
        contact_strip(file).save(opened, "JPEG", quality=88)
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
        "spec": reported.spec.name,
        "spec_sheet": msgspec.to_builtins(reported.spec),
        "file": reported.file,
        "strip": reported.strip,
        "right": bool(proof and proof.right),
        "sound": reported.made.sound_words() if reported.made else "",
        "lines": [{"what": line.what, "asked": line.asked, "found": line.found,
                   "right": line.right} for line in proof.lines] if proof else [],
    }


def _page(data: dict[str, Any]) -> str:
    """The report as a page that needs nothing beside it but the strips."""
    import jinja2  # noqa: PLC0415 - a page is made rarely, and every process would import it

    template = jinja2.Environment(
        loader=jinja2.FileSystemLoader(shipped()), autoescape=True, trim_blocks=True,
        lstrip_blocks=True, undefined=jinja2.StrictUndefined, keep_trailing_newline=True)
    return template.get_template("report.html.jinja").render(data, tr=tr, counted=counted)
