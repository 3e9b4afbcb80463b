"""Menus and keys: every action once, with its key and what it does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu


@dataclass(frozen=True)
class Entry:
    """One action. ``film`` when it needs an open film."""

    name: str
    key: str
    tip: str
    run: Callable[[], object]
    film: bool = True


def fill(window: QMainWindow, menus: dict[str, list[Entry | None]]) -> dict[str, QAction]:
    """Add ``menus`` (None is a line between entries) to the window; its actions by name."""
    made = {}
    for title, entries in menus.items():
        menu = window.menuBar().addMenu(title)
        for entry in entries:
            if entry is None:
                menu.addSeparator()
            else:
                made[entry.name] = _add(window, menu, entry)
    return made


def _add(window: QMainWindow, menu: QMenu, entry: Entry) -> QAction:
    action = QAction(entry.name, window)
    if entry.key:
        action.setShortcut(QKeySequence(entry.key))
    action.setStatusTip(entry.tip)
    action.setToolTip(entry.tip)
    action.setData(entry.film)
    action.triggered.connect(lambda _=False: entry.run())
    menu.addAction(action)
    return action
