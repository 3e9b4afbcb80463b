"""A process that shows the window in the pseudo-language, and prints all it says, one a line.

It is a process of its own: the language is that of the environment when a process begins.
"""

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEventLoop, QSettings, Qt
from PySide6.QtGui import QAccessible, QAction, QPainter
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QLineEdit,
    QListWidget,
    QMenu,
    QTableView,
    QWidget,
)

from caracal.core.base.resources import DEMO_FILM
from caracal.core.layout.overlay import ShapeKind
from caracal.ui.shell.application import prepare
from caracal.ui.shell.film_view import FilmView
from caracal.ui.shell.main_window import MainWindow
from caracal.ui.widgets.form import Fold

SAID_BY = ("text", "toolTip", "placeholderText", "windowTitle", "accessibleName", "title",
           "accessibleDescription")
said: dict[str, str] = {}  # each text, and where it was seen first


def note(where: str, text: object) -> None:
    if isinstance(text, str) and text.strip():
        said.setdefault(text, where)


def draw(painter: QPainter, *arguments: Any) -> Any:
    for each in arguments:
        note("painted", each)
    return PAINTED(painter, *arguments)


PAINTED = QPainter.drawText
QPainter.drawText = draw


def of_widget(widget: QWidget) -> None:
    kind = type(widget).__name__
    written = isinstance(widget, QLineEdit | QDoubleSpinBox)
    for name in SAID_BY:
        if not (written and name == "text") and callable(getattr(widget, name, None)):
            note(f"{kind}.{name}", getattr(widget, name)())
    if isinstance(widget, QComboBox):
        for number in range(widget.count()):
            note(f"{kind} item", widget.itemText(number))
    elif isinstance(widget, QListWidget):
        for number in range(widget.count()):
            note(f"{kind} item", widget.item(number).text())
    elif isinstance(widget, QMenu):
        for action in widget.actions():
            note("menu", action.text())
            note("menu tip", action.toolTip() if action.toolTip() != action.text() else "")
    elif isinstance(widget, QTableView) and widget.model():
        model = widget.model()
        for column in range(model.columnCount()):
            note("head", model.headerData(column, Qt.Orientation.Horizontal))
            for row in range(model.rowCount()):
                for role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
                    note("cell", model.data(model.index(row, column), role))


def of_reader(part: Any, depth: int = 0) -> None:
    """What screen readers are told."""
    if part is None or depth > 12:
        return
    for kind in (QAccessible.Text.Name, QAccessible.Text.Description):
        note("spoken", part.text(kind))
    for number in range(min(part.childCount(), 60)):
        of_reader(part.child(number), depth + 1)


def pass_time(rounds: int = 10) -> None:
    for _ in range(rounds):
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)


def main(folder: Path) -> None:
    application = QApplication([])
    prepare(application)
    window = MainWindow(QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat))
    window.statusBar().messageChanged.connect(lambda words: note("message", words))
    window.resize(1280, 800)
    window.show()

    def look() -> None:
        pass_time()
        window.grab()
        for widget in application.allWidgets():
            of_widget(widget)
        for action in window.findChildren(QAction):
            note("action", action.text())
        of_reader(QAccessible.queryAccessibleInterface(window))

    look()
    window.open_film(DEMO_FILM)
    while window.film is None or window.analysing is not None:
        pass_time(1)
    go_round(window.film, look)
    window.end()
    sys.stdout.write(json.dumps(said, ensure_ascii=False))


def go_round(film: FilmView, look: Callable[[], None]) -> None:
    """Every view, panel and page."""
    for view in ("Board", "Aim", "Words", "Batch"):
        film.show_view(view)
        for shot in (0, 2, 8):
            film.session.go(film.session.analysis.shots[shot].poster_frame)
            pass_time()
        look()
    film.show_view("Aim")
    for page in film.aim.side.tabs:
        film.aim.side.show_page(page)
        if page == "Overlays":
            film.aim.overlays.add_shape(ShapeKind.BAR)
        for fold in film.aim.findChildren(Fold):
            fold.button.setChecked(True)
        look()
    film.show_view("Words")
    film.words.cue_actions.take_in(DEMO_FILM.with_suffix(".srt"))
    for page in ("Captions", "Titles", "Cards", "Brand"):
        film.words.show_page(page)
        look()
    film.open_sheets()
    look()
    for dialog in QApplication.topLevelWidgets():
        if isinstance(dialog, QDialog):
            dialog.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
