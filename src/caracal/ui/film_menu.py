"""The first menu: films and projects."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QSettings

from caracal.ui.demo import open_demo
from caracal.ui.film_view import FilmView
from caracal.ui.menus import Entry
from caracal.ui.second_start import CHOICE, opens_here


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

    def opened(self) -> FilmView:
        """The film that is open."""

    def close_film(self) -> None:
        """Back to the start page."""

    def close(self) -> bool:
        """Close the window."""


def film_menu(window: FilmWindow) -> list[Entry | None]:
    """What can be opened, saved and closed."""
    return [
        Entry("Open film or project…", "Ctrl+O", "Open a finished master, or saved work",
              window.ask_film, film=False),
        Entry("Open the demo film", "Ctrl+D", "Kiln Day at Marram Quay",
              lambda: open_demo(window), film=False),
        None,
        Entry("Save project", "Ctrl+S", "Save everything decided about this film",
              lambda: window.opened().files.save()),
        Entry("Save project as…", "Ctrl+Shift+S", "Save in another place",
              lambda: window.opened().files.save_as()),
        Entry("Gather pictures and clips", "", "Copy all files that are shown into a folder beside "
              "the project", lambda: window.opened().files.gather()),
        Entry("Import cut list…", "Ctrl+I", "Take the shots from an EDL or OpenTimelineIO file",
              lambda: window.opened().files.ask_cut_list()),
        None,
        Entry("Films from outside open here", "", "What the desktop or a command opens comes into "
              "this window; else into a new one",
              lambda: window.settings.setValue(CHOICE, not opens_here(window.settings)),
              film=False, on=lambda: opens_here(window.settings)),
        Entry("Close film", "Ctrl+W", "Back to the start page", window.close_film),
        Entry("Quit", "Ctrl+Q", "Leave Caracal; unsaved work comes back next time", window.close,
              film=False),
    ]
