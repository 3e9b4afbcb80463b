"""What a window leaves and finds again: of every film where somebody was, of all how it looks."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QSettings

from caracal.ui.services.settings import kept_map, kept_text, number_in
from caracal.ui.shell.film_view import FilmView
from caracal.ui.shell.views import FIRST, view_called

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
    last = str(kept.get("view", kept_text(settings, "view", FIRST.name)))
    film.show_view(last if last in film.buttons else FIRST.name)


def keep_film(settings: QSettings, film: FilmView) -> None:
    """Keep where somebody is in ``film``, and how its views look."""
    session = film.session
    films = _films(settings)
    before = _of_film(settings, film)
    films.pop(session.found.content_key, None)
    films[session.found.content_key] = {
        "view": film.view, "letter": session.letter, "frame": session.frame,
        "stretch": list(film.line.stretch), **_of_views(film, before)}
    settings.setValue(FILMS, dict(list(films.items())[-MOST_FILMS:]))
    settings.setValue("view", film.view)
    for name, widget in film.views.items():
        view_called(name).keep(settings, widget)


def recall_view(settings: QSettings, film: FilmView, name: str) -> None:
    """Let a view that was just made look as the last one of its kind did."""
    view = view_called(name)
    view.recall(settings, film.views[name])
    view.recall_of_film(film.views[name], _of_film(settings, film))


def _films(settings: QSettings) -> dict[str, Any]:
    return kept_map(settings, FILMS)


def _of_film(settings: QSettings, film: FilmView) -> dict[str, Any]:
    kept = _films(settings).get(film.session.found.content_key)
    return dict(kept) if isinstance(kept, dict) else {}


def _of_views(film: FilmView, before: dict[str, Any]) -> dict[str, Any]:
    """What views keep of a film; those that were not made keep what they kept ``before``."""
    here = {"view", "letter", "frame", "stretch"}
    kept = {name: value for name, value in before.items() if name not in here}
    for name, widget in film.views.items():
        kept |= view_called(name).of_film(widget)
    return kept


def folder_of(settings: QSettings) -> Path:
    """Where files went last."""
    return Path(kept_text(settings, "out", str(Path.home() / "Caracal")))
