"""Project files: JSON with a version number and a published schema (docs/project.schema.json).

Old versions are brought up to date by UPGRADES, one function for each step.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import chain, pairwise
from pathlib import Path
from typing import Any

import msgspec

from caracal.core.analysis.cache import content_key, old_content_key
from caracal.core.analysis.model import Analysis
from caracal.core.base.atomic_write import write_bytes
from caracal.core.base.decoding import DecodeError, convert, decode_json
from caracal.core.base.errors import InputError
from caracal.core.base.folders import state_root
from caracal.core.base.limits import MOST_PROJECT_BYTES
from caracal.core.base.paths import path_of, refuse_inputs, text_of
from caracal.core.base.reading_text import read_bounded, refuse_nesting
from caracal.core.base.schemas import schema_of
from caracal.core.base.translation import tr
from caracal.core.layout.card import card_error
from caracal.core.layout.contradictions import layout_error as impossible
from caracal.core.layout.redaction import redactions_error
from caracal.core.project.assets import AssetReference, references, with_files_found
from caracal.core.project.brand import brand_error
from caracal.core.project.model import LETTERS, Project
from caracal.core.project.overlay_edits import fades_error, overlays_error
from caracal.core.project.sound_edits import sounds_error
from caracal.core.text.caption_look import look_error
from caracal.core.text.cues import cues_error

FORMAT = "caracal project"
VERSION = 13
SUFFIX = ".caracal"
MOST_SEARCHED = 400  # files looked at, beside the project and below, for a film that was moved

Data = dict[str, Any]


def _zoom_left_open(data: Data) -> Data:
    """From 1 to 2: a zoom of 1 was what nobody had decided; it is null now."""
    for decision in data.get("project", {}).get("decisions", []):
        if decision.get("choice", {}).get("zoom") == 1.0:
            decision["choice"]["zoom"] = None
    return {**data, "version": 2}


def _versions_get_ranges(data: Data) -> Data:
    """From 2 to 3: versions may have names and ranges of their own; none had."""
    return {**data, "version": 3}


def _sound_is_chosen(data: Data) -> Data:
    """From 3 to 4: which of several sounds is used may be chosen; it was the first."""
    return {**data, "version": 4}


def _shots_may_go_on(data: Data) -> Data:
    """From 4 to 5: cuts may be corrected before all of the film was looked at; none were."""
    return {**data, "version": 5}


def _shots_have_layouts(data: Data) -> Data:
    """From 5 to 6: a canvas may be laid out otherwise; the window always filled it."""
    return {**data, "version": 6}


def _versions_get_overlays(data: Data) -> Data:
    """From 6 to 7: pictures and shapes may lie over a version, and it may fade; none did."""
    return {**data, "version": 7}


def _words_are_written(data: Data) -> Data:
    """From 7 to 8: films have captions, versions their look, titles and cards; none did."""
    return {**data, "version": 8}


def _clips_and_speeds(data: Data) -> Data:
    """From 8 to 9: clips and stills may be shown, stretches at other speeds; none were."""
    return {**data, "version": 9}


def _panes_come_and_are_cut_out(data: Data) -> Data:
    """From 9 to 10: panes come and go, are set by hand and cut out; ranges dissolve; none did."""
    return {**data, "version": 10}


def _brands_and_looks_apart(data: Data) -> Data:
    """From 10 to 11: brands, captions with other looks in stretches, covered words; none were."""
    return {**data, "version": 11}


def _leads_differ_by_version(data: Data) -> Data:
    """From 11 to 12: a lead may be that of one version; all were of every version."""
    return {**data, "version": 12}


def _sounds_are_added(data: Data) -> Data:
    """From 12 to 13: versions may have beds, effects and a voice-over; none had."""
    return {**data, "version": 13}


UPGRADES: dict[int, Callable[[Data], Data]] = {  # from the version to the next
    1: _zoom_left_open, 2: _versions_get_ranges, 3: _sound_is_chosen, 4: _shots_may_go_on,
    5: _shots_have_layouts, 6: _versions_get_overlays, 7: _words_are_written,
    8: _clips_and_speeds, 9: _panes_come_and_are_cut_out, 10: _brands_and_looks_apart,
    11: _leads_differ_by_version, 12: _sounds_are_added,
}


class FilmReference(msgspec.Struct, frozen=True):
    """Which film a project belongs to: where it was, and what it contains."""

    path: str
    content_key: str
    frames: int
    frame_rate: str


class Document(msgspec.Struct, frozen=True):
    """A project file; ``assets`` are the pictures and clips that it is made with."""

    format: str
    version: int
    film: FilmReference
    project: Project
    assets: tuple[AssetReference, ...] = ()


def document(analysis: Analysis, project: Project) -> Document:
    """The document of ``project`` on an analysed film."""
    master = analysis.master
    film = FilmReference(text_of(master.file.resolve()), analysis.content_key, master.frames,
                         master.frame_rate)
    return Document(FORMAT, VERSION, film, project, _assets_of(project))


def _assets_of(project: Project) -> tuple[AssetReference, ...]:
    return references((project.versions, project.decisions, project.brand))  # all that show files


def write_document(path: Path, document: Document) -> None:
    """Write ``document`` so that ``path`` holds the old or the new document at every moment.

    Raises StorageError when the place cannot be written.
    """
    refuse_inputs(path, [path_of(document.film.path)])
    data = msgspec.json.format(msgspec.json.encode(document), indent=1)
    write_bytes(path, data, make_folder=True)


def open_document(path: Path) -> Document:
    """As :func:`read_document`; files that were moved are found below the project's folder."""
    found = read_document(path)
    project = with_files_found(found.project, found.assets, path.absolute().parent)
    return msgspec.structs.replace(found, project=project, assets=_assets_of(project))


def read_document(path: Path) -> Document:
    """Read a project file of this or an older version. Raises InputError when it is none."""
    text = read_bounded(path, MOST_PROJECT_BYTES, "project")
    refuse_nesting(text, path, "project")
    try:
        data = decode_json(text, dict)
    except DecodeError as problem:
        raise _no_project(path) from problem
    if data.get("format") != FORMAT or not isinstance(
            data.get("version"), int):
        raise _no_project(path)
    return _up_to_date(data, path)


def _no_project(path: Path) -> InputError:
    return InputError(tr("This is not a project of Caracal."), path, tr("Choose another file."))


def _up_to_date(data: Data, path: Path) -> Document:
    if data["version"] > VERSION:
        raise InputError(tr("This project was saved by a newer Caracal (format {data}).",
                            data=data["version"]), path,
                         tr("Open it with the newer Caracal, or install that."))
    try:
        while data["version"] < VERSION:
            data = UPGRADES[data["version"]](data)
        made = convert(data, Document)
        msgspec.msgpack.encode(made)  # as the batch list will have it: no number beyond 64 bits
    except (DecodeError, KeyError, AttributeError, TypeError, OverflowError,
            InputError) as problem:
        raise _damaged(path, str(problem)) from problem
    wrong = document_error(made)
    if wrong:
        raise _damaged(path, wrong)
    return made


def _damaged(path: Path, why: str) -> InputError:
    return InputError(tr("This project is damaged ({why}).", why=why), path,
                      tr("Open an earlier copy of it."))


def document_error(document: Document) -> str:
    """What in ``document`` cannot be, though each value by itself could: or nothing.

    A film may have become shorter since: what lies beyond its end is no contradiction.
    """
    project = document.project
    wrong_versions = _versions_error(project)
    if wrong_versions:
        return wrong_versions
    starts = [start.frame for start in project.starts]
    if starts and (starts[0] != 0
                   or any(later <= earlier for earlier, later in pairwise(starts))):
        return tr("its shots do not follow each other")
    if any(box.first_frame < 0 or not box.boxes for box in project.drawn):
        return tr("a drawn box is nowhere in the film")
    wrong = chain(
        (impossible(decision.choice.layout) for decision in project.decisions),
        (overlays_error(version.overlays) for version in project.versions),
        (sounds_error(version.sounds) for version in project.versions),
        (fades_error(version.fades) for version in project.versions),
        (card_error(card) for version in project.versions
         for card in (version.opening, version.closing) if card is not None),
        (look_error(version.look) for version in project.versions),
        (redactions_error(version.redactions) for version in project.versions),
        (cues_error(project.captions),),
        (brand_error(project.brand) if project.brand else "",))
    return next((words for words in wrong if words), "")


def _versions_error(project: Project) -> str:
    """What is wrong with the versions' letters, ranges, speeds and leads, or nothing."""
    letters = [version.letter for version in project.versions]
    if not letters or len(set(letters)) < len(letters) or not set(letters) <= set(LETTERS):
        return tr("each version needs a letter of its own")
    if not {cast.letter for cast in project.casts} <= {"", *letters}:
        return tr("a lead belongs to a version that is not there")
    ranges = [project.span, *(span for version in project.versions for span in version.ranges)]
    if any(span.start < 0 for span in ranges):
        return tr("a range begins before the film")
    for version in project.versions:
        speeds = sorted(version.speeds, key=lambda speed: speed.start)
        if any(later.start < one.end_exclusive for one, later in pairwise(speeds)):
            return tr("a stretch has two speeds")
    return ""


def find_film(film: FilmReference, project_file: Path) -> Path | None:
    """Where the film is now: where it was, by its name beside the project, or by its content."""
    there = path_of(film.path)
    if there.is_file():
        return there
    folder = project_file.parent
    named = [folder / there.name, *sorted(folder.glob(f"*/{there.name}"))]
    others = sorted(path for path in folder.glob("*") if path.is_file())[:MOST_SEARCHED]
    for path in (*named, *others):
        if path.is_file() and same_content(path, film.content_key):
            return path
    return None


def same_content(path: Path, key: str) -> bool:
    """Whether ``path`` is a film with this content key, of this or the older kind."""
    try:
        return key in (content_key(path), old_content_key(path))
    except OSError:
        return False


def autosave_path(key: str) -> Path:
    """Where the work on the film with this content key is saved by itself."""
    return state_root() / "work" / f"{key}{SUFFIX}"


def schema() -> Data:
    """The JSON schema of a project file."""
    return schema_of(Document)
