"""The first menu: films and projects."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QSettings

from caracal.core.base.translation import tr
from caracal.ui.shell.demo_film import open_demo
from caracal.ui.shell.film_view import FilmView
from caracal.ui.shell.menus import Entry
from caracal.ui.shell.single_instance import CHOICE, opens_here


class FilmWindow(Protocol):
    """What the menu needs of the window."""

    film: FilmView | None
    settings: QSettings

    @property
    def analysing(self) -> object | None:
        """What runs while a film is looked at."""
        ...

    def ask_film(self) -> None:
        """Let the person choose a film or a project."""

    def open_film(self, film: Path) -> None:
        """Open ``film``."""

    def ask_where_film_is(self) -> None:
        """Let the person show where the open film is now."""

    def opened(self) -> FilmView:
        """The film that is open."""

    def close_film(self) -> bool:
        """Back to the start page."""

    def close(self) -> bool:
        """Close the window."""


def film_menu(window: FilmWindow) -> list[Entry | None]:
    """What can be opened, saved and closed."""
    return [
        Entry(tr("Open film or project…"), "Ctrl+O",
              tr("Open a finished master or a saved project"),
              window.ask_film, film=False),
        Entry(tr("Open the demo film"), "Ctrl+D", tr("Kiln Day at Marram Quay"),
              lambda: open_demo(window), film=False),
        None,
        Entry(tr("Save project"), "Ctrl+S", tr("Save everything decided about this film"),
              lambda: window.opened().files.save()),
        Entry(tr("Save project as…"), "Ctrl+Shift+S", tr("Save in another place"),
              lambda: window.opened().files.save_as()),
        Entry(tr("Collect media…"), "",
              tr("Copy all pictures and clips into a folder beside the project"),
              lambda: window.opened().files.gather()),
        Entry(tr("Locate film…"), "", tr("Show where the film is that was moved"),
              window.ask_where_film_is),
        Entry(tr("Import cut list…"), "Ctrl+I",
              tr("Use the shots of an EDL or OpenTimelineIO file"),
              lambda: window.opened().files.ask_cut_list()),
        None,
        Entry(tr("Open files in this window"), "",
              tr("Files opened by the desktop or a command open here; otherwise in a new window"),
              lambda: window.settings.setValue(CHOICE, not opens_here(window.settings)), film=False,
              on=lambda: opens_here(window.settings)),
        Entry(tr("Close film"), "Ctrl+W", tr("Back to the start page"), window.close_film),
        Entry(tr("Quit"), "Ctrl+Q", tr("Leave Caracal; unsaved work comes back next time"),
              window.close, film=False),
    ]
