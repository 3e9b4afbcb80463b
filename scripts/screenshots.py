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

from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import FrameRange
from caracal.core.layout.entrance import Entry
from caracal.core.layout.kinds import KINDS
from caracal.core.layout.model import Edge
from caracal.core.layout.overlay import Overlay, Shape, ShapeKind
from caracal.core.project.edits import with_version
from caracal.core.project.model import Fades
from caracal.core.project.overlay_edits import with_fades, with_overlays
from caracal.ui.session.zones_look import ZonesLook
from caracal.ui.shell.application import prepare
from caracal.ui.shell.demo_version import dressed
from caracal.ui.shell.main_window import MainWindow
from caracal.ui.shell.motion_dialog import MotionDialog

BATCH_FRAMES = 400
GROWN_SHOTS = 7  # of the demo's 16, when it is seen growing
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
    shutil.rmtree(OUT, ignore_errors=True)  # of a run that was stopped
    application = QApplication([])
    prepare(application)
    with tempfile.TemporaryDirectory() as made:
        os.environ["CARACAL_STATE"] = made  # work of the person who runs this stays out of it
        os.environ["CARACAL_CONFIG"] = f"{made}/config"
        os.environ["CARACAL_CACHE"] = f"{made}/cache"  # so that the film is looked at here
        settings = QSettings(f"{made}/settings.ini", QSettings.Format.IniFormat)
        settings.setValue("out", str(OUT))
        window = MainWindow(settings)
        window.resize(1280, 800)
        window.show()
        Visit(window, folder).all()
        window.close()
    shutil.rmtree(OUT, ignore_errors=True)


class Visit:
    """Goes through the views of a window and saves what it sees."""

    def __init__(self, window: MainWindow, folder: Path) -> None:
        self._window, self._folder = window, folder

    def save(self, name: str) -> None:
        """A picture of the whole window, once what it shows is solved."""
        wait(900)
        film = self._window.film
        for _ in range(50):
            if film is None or not film.session.solving.busy:
                break
            wait(200)
        wait(300)
        self._window.grab().save(str(self._folder / f"{name}.png"))

    def all(self) -> None:
        """Every view in turn."""
        self.save("start")
        self._window.open_film(DEMO_FILM)
        while self._window.film is None:
            wait(100)
        self.film = self._window.film
        self.session = self.film.session
        while len(self.session.analysis.shots) < GROWN_SHOTS:
            wait(100)
        self.save("growing")
        while not self.session.found.whole:
            wait(100)
        self.shots = self.session.analysis.shots
        self.board()
        self.film.show_view("Aim")
        self.aim()
        self.layouts()
        self.overlays()
        self.words()
        self.closer()
        self.zones()
        self.motion()
        self.sheet()
        self.batch()

    def click(self, spot: QPoint, keys: Qt.KeyboardModifier = NONE) -> None:
        """Click on the stage."""
        QTest.mouseClick(self.film.aim.stage, LEFT, keys, spot)

    def board(self) -> None:
        """Every shot, and many cells at once."""
        self.film.show_view("Board")
        self.session.go(self.shots[2].poster_frame)
        wait(1500)
        self.save("board")
        grid = self.film.board.grid
        for shot, column, keys in ((2, 1, NONE), (3, 2, SHIFT)):
            place = grid.cell_rect(shot, column).center().toPoint()
            QTest.mouseClick(grid.viewport(), LEFT, keys, place)
        self.save("board-many")

    def aim(self) -> None:
        """Two talkers, a runner, the wrong lead put right, a swap, three heads."""
        session, stage = self.session, self.film.aim.stage
        session.choose_version("A")
        session.go(self.shots[5].poster_frame)
        self.save("aim")
        session.go(self.shots[8].start + 44)
        self.save("aim-chase")
        session.go(self.shots[5].poster_frame)
        wait(300)
        other = min(session.people.subjects(5), key=lambda one: one.main.boxes[0][0])
        self.click(stage.place_of(other.box_at(session.frame)).center().toPoint())
        self.save("aim-corrected")
        session.document.undo()
        self.film.aim.propose_swaps()
        while not session.project.choice("A", 5).swaps:
            wait(100)
        session.go(self.shots[5].start + 60)
        self.save("aim-swap")
        session.go(self.shots[14].poster_frame)
        session.choose_version("C")
        self.save("aim-three")

    def layouts(self) -> None:
        """Two in a half each, and the whole picture, chosen from pictures of the shot."""
        session = self.session
        session.choose_version("A")
        session.go(self.shots[5].poster_frame)
        self.film.aim.layouts.take(KINDS[3])
        wait(600)
        self._save_page("Layout", "aim-layouts")
        session.document.undo()

    def _save_page(self, page: str, name: str) -> None:
        """The window with a page of Aim's side, once its pictures are there."""
        self.film.aim.side.show_page(page)
        wait(4000)
        self.save(name)

    def overlays(self) -> None:
        """A plane with an arrow on it, and a disc, over the vertical version."""
        session = self.session
        session.choose_version("A")
        session.go(self.shots[3].start + 10)
        plane = Shape(ShapeKind.RECTANGLE, "#c8813f", "#7d3d1f", outline=Edge("#f2ede4", 0.006))
        made = (Overlay(plane, session.frame, session.frame + 75, ((0.1, 0.9), (0.66, 0.78)), 0.92,
                        entry=Entry.SLIDE, radius=0.3),
                Overlay(Shape(ShapeKind.CIRCLE, "#f2ede4"), session.frame, session.frame + 75,
                        ((0.14, 0.3), (0.675, 0.765)), entry=Entry.GROW),
                Overlay(Shape(ShapeKind.ARROW, "#7d3d1f"), session.frame, session.frame + 75,
                        ((0.17, 0.27), (0.7, 0.74)), entry=Entry.WIPE))
        project = with_fades(with_overlays(session.project, "A", made), "A", Fades(10, 25))
        session.edit(project, "overlays")
        session.go(self.shots[3].start + 40)
        wait(600)
        self._save_page("Overlays", "aim-overlays")
        session.document.undo()

    def words(self) -> None:
        """The demo dressed: captions, titles, and a card before it."""
        session = self.session
        session.edit(dressed(session.analysis), "dressed")
        session.choose_version("D")
        session.go(500)
        self.film.show_view("Words")
        self.film.words.show_page("Cards")
        wait(2500)
        self.save("words")
        self.film.show_view("Sound")
        session.go(700)
        sounds = self.film.sound
        sounds.tracks.choose(0)
        for _ in range(600):  # until its loudness is measured
            wait(200)
            if sounds.loudness.text().startswith("Mixed"):
                break
        self.save("sound")
        session.document.undo()
        self.film.show_view("Aim")

    def closer(self) -> None:
        """A punch-in by two clicks."""
        session = self.session
        session.choose_version("B")
        session.go(self.shots[4].poster_frame)
        session.choose_version("A")
        session.go(self.shots[3].start + 30)
        face = session.people.subjects(3)[0].face_at(session.frame)
        spot = self.film.aim.stage.place_of(face).center().toPoint()
        self.click(spot, SHIFT)
        session.go(self.shots[3].start + 60)
        self.click(spot, SHIFT)
        session.go(self.shots[3].start + 45)
        self.save("aim-punch")
        session.document.undo()
        session.document.undo()

    def zones(self) -> None:
        """Covers, clear area and a phone over the canvases."""
        self.session.go(self.shots[5].poster_frame)
        self.session.choose_version("A")
        self.session.show_zones(ZonesLook(covers=True, clear=True, phone=True))
        self.save("aim-zones")
        self.session.show_zones(ZonesLook())

    def sheet(self) -> None:
        """A spec sheet beside its drawing."""
        window = self.film.open_sheets("vertical-short")
        window.drawing.chosen = ("clear", 0)
        wait(300)
        window.grab().save(str(self._folder / "sheet.png"))
        window.close()

    def motion(self) -> None:
        """The dialog of limits."""
        dialog = MotionDialog(self.session, self._window)
        dialog.show()
        wait(300)
        dialog.grab().save(str(self._folder / "motion.png"))
        dialog.close()

    def batch(self) -> None:
        """What will be made, and the proofs of its parts."""
        session, batch = self.session, self.film.batch
        session.edit(with_version(session.project, "lantern"), "Lantern added.")
        self.film.show_view("Batch")
        while "," not in batch.versions.total.text():  # a first trial of each version
            wait(500)
        self.save("batch")
        short = FrameRange(0, BATCH_FRAMES)
        session.edit(msgspec.structs.replace(session.project, span=short), "Range set.")
        wait(600)
        batch.start()
        while batch.running:
            wait(100)
        batch.lines.table.selectRow(3)
        self.save("batch-proved")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
