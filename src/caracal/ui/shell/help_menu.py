"""The last menu: keys, the log, and what Caracal is made of."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QDialog, QMainWindow, QTextBrowser, QVBoxLayout

from caracal import __version__
from caracal.core.base.logs import kept_at
from caracal.core.base.resources import licence_texts, shipped
from caracal.core.base.translation import tr
from caracal.ui.shell.menus import Entry, keys_of
from caracal.ui.shell.messages import Messages
from caracal.ui.shell.views import VIEWS

SAID_MS = 20_000
SIZE = (640, 620)  # pixels of a window of words
FILM_LINE_GESTURES = (
    (tr("Click"), tr("Go to that frame")),
    (tr("Drag"), tr("Scrub")),
    (tr("Drag an end of the range"), tr("Change the range")),
    (tr("Wheel"), tr("Zoom in time")),
)


def help_menu(
    window: QMainWindow, others: Mapping[str, list[Entry | None]], tour: Callable[[], None]
) -> list[Entry | None]:
    """Keys are listed from the ``others`` menus themselves; ``tour`` starts the tour."""
    return [
        Entry(tr("Tour"), "", tr("Six steps on the demo film, from opening it to finished files"),
              tour, film=False),
        Entry(tr("Guide…"), "Shift+F1", tr("How to work with it, in the order in which it is done"),
              lambda: show_words(window, tr("Guide"), guide_page(), markdown=True), film=False),
        Entry(tr("Keys…"), "F1", tr("Every key and gesture, and what it does"),
              lambda: show_words(window, tr("Keys"), keys_page(others)), film=False),
        Entry(tr("Show log file"), "", tr("Unexpected errors are written there"),
              lambda: window.statusBar().showMessage(
                  tr("The log is {kept_at}.", kept_at=kept_at()), SAID_MS),
              film=False),
        Entry(tr("Message history"), "Ctrl+Shift+L",
              tr("The last messages; select one to go where it was shown"),
              lambda: said_again(window), film=False),
        None,
        Entry(tr("About Caracal…"), "",
              tr("Which Caracal this is, and the licences of all its parts"),
              lambda: show_words(window, tr("About Caracal"), about_page()), film=False),
    ]


def said_again(window: QMainWindow) -> None:
    """Open what was said lately."""
    bar = window.statusBar()
    if isinstance(bar, Messages):
        bar.show_all()


def with_help(
    window: QMainWindow, menus: dict[str, list[Entry | None]], tour: Callable[[], None]
) -> dict[str, list[Entry | None]]:
    """``menus``, and the last one, which lists their keys and starts the ``tour``."""
    return {**menus, tr("&Help"): help_menu(window, menus, tour)}


def keys_page(menus: Mapping[str, list[Entry | None]]) -> str:
    """All keys as HTML, menu by menu, and below them all gestures, view by view."""
    parts = [
        _table(title.replace("&", ""),
               [(" or ".join(_native(key) for key in keys_of(entry)), entry.name)
                for entry in entries if entry is not None and entry.key])
        for title, entries in menus.items()]
    parts.append(_table(tr("Mouse: film line"), FILM_LINE_GESTURES))
    parts += [_table(tr("Mouse: {view}", view=tr(view.name)),
                     [(tr(gesture), tr(effect)) for gesture, effect in view.gestures])
              for view in VIEWS]
    return "".join(parts)


def _table(title: str, rows: Sequence[tuple[str, str]]) -> str:
    """A heading and a row for each key or gesture; nothing where there are none."""
    if not rows:
        return ""
    lines = "".join(f"<tr><td width=190><b>{escape(key)}</b></td><td>{escape(effect)}</td></tr>"
                    for key, effect in rows)
    return f"<h3>{escape(title)}</h3><table cellpadding=3>{lines}</table>"


def _native(key: QKeySequence) -> str:
    return key.toString(QKeySequence.SequenceFormat.NativeText)


def about_page() -> str:
    """What Caracal is, and the licences of what it is made of, as HTML."""
    licences = "".join(f"<h3>{escape(name)}</h3><pre>{escape(text)}</pre>"
                       for name, text in licence_texts().items())
    return tr("<h2>Caracal {version}</h2><p>One finished widescreen film in; every other shape "
              "out, framed, checked and encoded. Nothing leaves your machine.</p>{licences}",
              version=escape(__version__), licences=licences)


def guide_page() -> str:
    """The guide as Markdown; what it refers to beside itself is no link here."""
    return re.sub(r"\[([^]]+)\]\([^)]+\)", r"*\1*", shipped("guide.md").read_text("utf-8"))


def show_words(
    window: QMainWindow, title: str, page: str, markdown: bool = False
) -> QDialog:
    """A window of words beside ``window``, given as HTML or ``markdown``; Escape closes it."""
    dialog = QDialog(window)
    dialog.setWindowTitle(title)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    words = QTextBrowser()
    (words.setMarkdown if markdown else words.setHtml)(page)
    words.setAccessibleName(title)
    column = QVBoxLayout(dialog)
    column.setContentsMargins(12, 12, 12, 12)
    column.addWidget(words)
    dialog.resize(*SIZE)
    dialog.show()
    return dialog
