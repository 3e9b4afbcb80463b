"""Menus and keys: every action once, with its keys and what it does."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

OR = " | "  # between the keys of one action


@dataclass(frozen=True)
class Entry:
    """One action. ``film`` when it needs an open film; ``on`` tells whether what it switches is on,
    which a tick in the menu shows.
    """

    name: str
    key: str
    tip: str
    run: Callable[[], object]
    film: bool = True
    on: Callable[[], bool] | None = None


def fill(window: QMainWindow, menus: dict[str, list[Entry | None]]) -> dict[str, QAction]:
    """Add ``menus`` (None is a line between entries) to the window; its actions by name."""
    made: dict[str, QAction] = {}
    for title, entries in menus.items():
        menu = window.menuBar().addMenu(title)
        menu.setToolTipsVisible(True)
        names = iter(with_mnemonics([entry.name for entry in entries if entry is not None]))
        for entry in entries:
            if entry is None:
                menu.addSeparator()
            else:
                made[entry.name] = _add(window, menu, entry, next(names))
    return made


def with_mnemonics(names: Sequence[str]) -> list[str]:
    """``names`` with & before the letter that chooses each in its menu: no two have the same one,
    as long as there are letters; the first letter of a word goes before others.
    """
    taken: set[str] = set()
    made = []
    for name in names:
        firsts = [at for at in range(len(name)) if at == 0 or name[at - 1] == " "]
        places = [*firsts, *(at for at in range(len(name)) if at not in firsts)]
        found = next((at for at in places
                      if name[at].isalnum() and name[at].lower() not in taken), None)
        plain = name.replace("&", "&&")
        if found is not None and "&" not in name:
            taken.add(name[found].lower())
            plain = f"{name[:found]}&{name[found:]}"
        made.append(plain)
    return made


def keys_of(entry: Entry) -> list[QKeySequence]:
    """The keys of ``entry``; those after the first do the same."""
    return [QKeySequence(key) for key in entry.key.split(OR) if key]


def _add(window: QMainWindow, menu: QMenu, entry: Entry, text: str) -> QAction:
    action = QAction(text, window)
    action.setShortcuts(keys_of(entry))
    action.setStatusTip(entry.tip)
    action.setToolTip(entry.tip)
    action.setData(entry.film)
    if entry.on is not None:
        on = entry.on
        action.setCheckable(True)
        menu.aboutToShow.connect(lambda: action.setChecked(action.isEnabled() and on()))
    action.triggered.connect(lambda _=False: entry.run())
    menu.addAction(action)
    return action
