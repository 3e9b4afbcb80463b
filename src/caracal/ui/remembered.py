"""What a window leaves and finds again: of every film where somebody was, of all how it looks."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QSettings

from caracal.ui.film_view import FilmView
from caracal.ui.kept_settings import (
    kept_bytes,
    kept_flag,
    kept_map,
    kept_number,
    kept_text,
    number_in,
)
from caracal.ui.tables import Table

MOST_ROWS = 100.0  # of the Board, at once
MOST_WIDE = 4000.0  # pixels of a column
MOST_FILMS = 50  # whose places are kept; those closed longest ago are forgotten first
FILMS = "films"  # the group of settings in which they are, by content


def recall_film(settings: QSettings, film: FilmView) -> None:
    """Be where somebody was in ``film`` last: view, version, frame, stretch of the film line."""
    session, kept = film.session, _of_film(settings, film)
    letters = {version.letter for version in session.project.versions}
    letter, frame = str(kept.get("letter", "")), number_in(kept.get("frame"), 0.0)
    if letter in letters:
        session.choose_version(letter)
    session.go(round(frame))
    stretch = kept.get("stretch")
    if isinstance(stretch, list) and len(stretch) == 2:
        start, frames = (number_in(value, -1.0) for value in stretch)
        if frames > 0:
            film.line.stretch = (start, frames)
    last = str(kept.get("view", kept_text(settings, "view", "Board")))
    film.show_view(last if last in film.buttons else "Board")


def keep_film(settings: QSettings, film: FilmView) -> None:
    """Keep where somebody is in ``film``, and how its views look."""
    session = film.session
    films = _films(settings)
    films.pop(session.found.content_key, None)
    films[session.found.content_key] = {
        "view": film.view, "letter": session.letter, "frame": session.frame,
        "stretch": list(film.line.stretch), "off": _off(film, _of_film(settings, film))}
    settings.setValue(FILMS, dict(list(films.items())[-MOST_FILMS:]))
    settings.setValue("view", film.view)
    settings.setValue("out", str(film.folder))
    for name in film.views:
        _KEEPERS.get(name, _nothing)(settings, film)


def recall_view(settings: QSettings, film: FilmView, name: str) -> None:
    """Let a view that was just made look as the last one of its kind did."""
    _RECALLS.get(name, _nothing)(settings, film)


def _films(settings: QSettings) -> dict[str, Any]:
    return kept_map(settings, FILMS)


def _of_film(settings: QSettings, film: FilmView) -> dict[str, Any]:
    kept = _films(settings).get(film.session.found.content_key)
    return dict(kept) if isinstance(kept, dict) else {}


def _off(film: FilmView, kept: dict[str, Any]) -> list[str]:
    """The versions that are not ticked in Batch."""
    if "Batch" in film.views:
        return sorted(film.batch.versions.off)
    off = kept.get("off")
    return list(off) if isinstance(off, list) else []


def _nothing(settings: QSettings, film: FilmView) -> None:
    pass


def _keep_board(settings: QSettings, film: FilmView) -> None:
    bar = film.board.bar
    settings.setValue("board/order", bar.order.currentIndex())
    settings.setValue("board/only", bar.only.currentIndex())
    settings.setValue("board/rows shown", film.board.grid.rows_shown)


def _recall_board(settings: QSettings, film: FilmView) -> None:
    bar = film.board.bar
    for box, name in ((bar.order, "board/order"), (bar.only, "board/only")):
        at = round(kept_number(settings, name, -1.0))
        if 0 <= at < box.count():
            box.setCurrentIndex(at)
    rows = kept_number(settings, "board/rows shown", 0.0)
    if 0 < rows <= MOST_ROWS:
        film.board.grid.rows_shown = rows


def _keep_batch(settings: QSettings, film: FilmView) -> None:
    batch = film.batch
    settings.setValue("batch/replace", batch.replace.isChecked())
    settings.setValue("batch/review", batch.review.isChecked())
    settings.setValue("batch/splitter", batch.halves.saveState())
    for name, table in _tables(film).items():
        settings.setValue(f"batch/{name} columns", table.widths)


def _recall_batch(settings: QSettings, film: FilmView) -> None:
    batch = film.batch
    batch.replace.setChecked(kept_flag(settings, "batch/replace"))
    batch.review.setChecked(kept_flag(settings, "batch/review"))
    off = _of_film(settings, film).get("off")
    if isinstance(off, list):
        batch.versions.off = {str(letter) for letter in off}
    state = kept_bytes(settings, "batch/splitter")
    if state is not None:
        batch.halves.restoreState(state)
    for name, table in _tables(film).items():
        widths = kept_map(settings, f"batch/{name} columns")
        table.set_widths({column: round(min(number_in(width, -1.0), MOST_WIDE))
                          for column, width in widths.items()})


def _tables(film: FilmView) -> dict[str, Table]:
    return {"versions": film.batch.versions.table, "lines": film.batch.lines.table,
            "proofs": film.batch.proofs.table}


def folder_of(settings: QSettings) -> Path:
    """Where files went last."""
    return Path(kept_text(settings, "out", str(Path.home() / "Caracal")))


_KEEPERS = {"Board": _keep_board, "Batch": _keep_batch}
_RECALLS = {"Board": _recall_board, "Batch": _recall_batch}
