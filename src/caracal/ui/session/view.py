"""What a view registers: all that the window has to know of it.

A view is a folder of ``ui`` whose ``registration.py`` holds its :class:`View`, and one line in
``ui/shell/views.py``.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Protocol

from PySide6.QtCore import QRectF, QSettings
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QWidget

from caracal.ui.services.batch_controller import BatchController
from caracal.ui.session.session import Session


@dataclass(frozen=True)
class Place:
    """What views are made for: an open film, the folder of its files, and the batch list."""

    session: Session
    folder: Path
    working: BatchController


class Shell(Protocol):
    """The window as its views see it."""

    def show_close_up(self, letter: str | None = None, shot: int | None = None) -> None:
        """Show a shot of a version alone; the chosen one if none is named."""

    def open_sheets(self, name: str | None = None) -> QWidget:
        """Open the spec sheet window."""

    def activity(self) -> None:
        """Somebody works in the window."""


@dataclass(frozen=True)
class Part:
    """A part of a painted widget: its name, where it is in the widget, whether it is chosen."""

    name: str
    place: QRectF
    chosen: bool = False


@dataclass(frozen=True)
class Action:
    """Something that assistive technology can do with a painted widget, and the key that does it.
    """

    name: str
    run: Callable[[Any], object]
    key: str = ""


@dataclass(frozen=True)
class Amount:
    """A number of a painted widget that assistive technology can read and set, from 0 to
    ``most``."""

    now: Callable[[Any], int]
    most: Callable[[Any], int]
    set_to: Callable[[Any, int], object]


@dataclass(frozen=True)
class Parts:
    """How a painted widget is described to assistive technology: its role and that of its parts,
    how many there are, each of them, and its value in words.

    ``actions`` act on the widget, ``press`` on one of its parts, by number. ``amount`` is its value
    as a number, if it has one.
    """

    role: QAccessible.Role
    part_role: QAccessible.Role
    count: Callable[[Any], int]
    part: Callable[[Any, int], Part]
    value: Callable[[Any], str] = lambda _: ""
    press: Callable[[Any, int], object] | None = None
    actions: tuple[Action, ...] = ()
    amount: Amount | None = None


def _nothing(*_: object) -> None:
    pass


@dataclass(frozen=True)
class View:
    """One view.

    ``hint`` says what the mouse does there where no button says so. ``make`` builds its widget,
    ``connect`` lets it reach the rest of the window, ``close`` ends what belongs to the film.
    ``keep`` and ``recall`` are how it looks, kept in the settings from film to film; ``of_film``
    and ``recall_of_film`` what it keeps of one film. ``escape`` is what the Escape key ends.
    ``gestures`` lists what the mouse does there, each with its effect, for the page of keys.
    ``parts`` describes its painted widgets, by class. ``at_once``: it is made with the film while
    a batch runs, not when it is first shown. ``has_zones``: zones are drawn in it.
    """

    name: str
    key: str
    hint: str
    make: Callable[[Place], Any]
    connect: Callable[[Any, Shell], None] = _nothing
    close: Callable[[Any], None] = _nothing
    keep: Callable[[QSettings, Any], None] = _nothing
    recall: Callable[[QSettings, Any], None] = _nothing
    of_film: Callable[[Any], dict[str, Any]] = lambda _: {}
    recall_of_film: Callable[[Any, Mapping[str, Any]], None] = _nothing
    escape: Callable[[Any], object] = _nothing
    gestures: tuple[tuple[str, str], ...] = ()
    parts: Mapping[type[QWidget], Parts] = field(default_factory=dict)
    at_once: bool = False
    has_zones: bool = True
