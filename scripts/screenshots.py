"""Opens the demo film, visits each view, and saves a picture of it. Run by screenshots.sh."""

import os
import shutil
import sys
import tempfile
from pathlib import Path

import msgspec
from PySide6.QtCore import QEventLoop, QPoint, QSettings, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from caracal.core.time import FrameRange
from caracal.ui import theme
from caracal.ui.main_window import DEMO_FILM, MainWindow

BATCH_FRAMES = 100
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
OUT = Path(tempfile.gettempdir()) / "Kiln Day versions"


def wait(milliseconds: int) -> None:
    """Let the window work; unlike QTest.qWait this lets Python's other threads run too."""
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def main(folder: Path) -> None:
    """Save every picture into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    application = QApplication([])
    theme.dress(application)
    with tempfile.TemporaryDirectory() as made:
        os.environ["CARACAL_STATE"] = made  # work of the person who runs this stays out of it
        settings = QSettings(f"{made}/settings.ini", QSettings.Format.IniFormat)
        settings.setValue("out", str(OUT))
        window = MainWindow(settings)
        window.resize(1280, 800)
        window.show()
        visit(window, folder)
        window.close()
    shutil.rmtree(OUT, ignore_errors=True)


def visit(window: MainWindow, folder: Path) -> None:
    """Go through the views."""

    def save(name: str) -> None:
        wait(900)
        window.grab().save(str(folder / f"{name}.png"))

    save("start")
    window.open_film(DEMO_FILM)
    while window.film is None:
        wait(100)
    film, session = window.film, window.film.session
    shots = session.analysis.shots
    film.show_view("Board")
    session.go(shots[2].telling_frame)
    wait(1500)
    save("board")
    grid = film.board.grid
    for shot, column, keys in ((2, 1, NONE), (3, 2, SHIFT)):
        place = grid.cell_rect(shot, column).center().toPoint()
        QTest.mouseClick(grid.viewport(), LEFT, keys, place)
    save("board-many")
    film.show_view("Aim")
    session.choose_version("A")
    session.go(shots[5].telling_frame)
    save("aim")
    session.go(shots[8].start + 44)
    save("aim-chase")
    session.go(shots[5].telling_frame)
    wait(300)
    other = min(session.subjects(5), key=lambda one: one.main.boxes[0][0])
    place = film.aim.stage.place_of(other.box_at(session.frame)).center().toPoint()
    QTest.mouseClick(film.aim.stage, LEFT, pos=QPoint(place))
    save("aim-corrected")
    session.undo()
    film.aim.propose_swaps()
    while not session.project.choice("A", 5).swaps:
        wait(100)
    session.go(shots[5].start + 60)
    save("aim-swap")
    session.go(shots[14].telling_frame)
    session.choose_version("C")
    save("aim-three")
    session.choose_version("A")
    film.show_view("Batch")
    save("batch")
    short = FrameRange(0, BATCH_FRAMES)
    session.edit(msgspec.structs.replace(session.project, span=short), "Range set.")
    film.batch.start()
    while film.batch.running:
        wait(100)
    save("batch-proved")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
