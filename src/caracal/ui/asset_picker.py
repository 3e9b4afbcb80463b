"""Asking for a picture or a clip, and looking at it before anything is made of it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from caracal.core.layout.model import Clip, PictureFile
from caracal.core.paths import text_of
from caracal.core.project.assets import content_of
from caracal.core.render.asset_checks import film_of, picture_ratio_apart
from caracal.core.translation import tr
from caracal.ui.worker import Worker

PICTURES = (".png", ".jpg", ".jpeg", ".webp", ".gif", ".svg", ".bmp", ".tif", ".tiff")
FILMS = (".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi", ".mxf", ".ts", ".mpg")
BOTH = tr("Pictures and clips ({})").format(
    " ".join(f"*{suffix}" for suffix in (*PICTURES, *FILMS)))
Take = Callable[[PictureFile | Clip, float], object]  # what it is, and its width to its height


class AssetPicker(QObject):
    """Gives what a person chose to whoever asked; what cannot be used is said.

    Files are looked at in a thread, and by a process of their own: any file may be given.
    """

    said = Signal(str)
    _looked_at = Signal(object, float, object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._worker: Worker | None = None
        self._looked_at.connect(lambda content, ratio, take: take(content, ratio))

    @property
    def busy(self) -> bool:
        """Whether a file is being looked at."""
        return self._worker is not None and self._worker.isRunning()

    def ask(self, parent: QWidget, take: Take) -> None:
        """Let a person choose a file, over ``parent``, and ``take`` it."""
        chosen = QFileDialog.getOpenFileName(parent, tr("Picture or clip"), "",
                                             tr("{both};;All files (*)", both=BOTH))[0]
        if chosen:
            self.take_file(Path(chosen), take)

    def take_file(self, path: Path, take: Take) -> None:
        """``take`` the file at ``path`` once it was looked at, or say what is wrong with it."""
        if path.suffix.lower() in FILMS:
            self.take_clip(Clip(text_of(path)), take)
            return

        def look() -> None:
            ratio = picture_ratio_apart(path)
            content_of(path)  # known when the work is kept
            self._looked_at.emit(PictureFile(text_of(path)), ratio, take)

        self._look(look)

    def take_clip(self, clip: Clip, take: Take) -> None:
        """``take`` the film of ``clip`` once it was looked at, or say what is wrong with it."""
        def look() -> None:
            film = film_of(clip)
            content_of(film.file)
            self._looked_at.emit(clip, film.width / film.height, take)

        self._look(look)

    def _look(self, look: Callable[[], None]) -> None:
        if self.busy:
            self.said.emit(tr("Another file is still being looked at."))
            return
        self._worker = Worker(look)
        self._worker.failed.connect(self.said)
        self._worker.start()

    def wait(self) -> None:
        """Wait until the file was looked at, and taken."""
        if self._worker is not None:
            self._worker.end()
            QCoreApplication.sendPostedEvents(self)

    def close(self) -> None:
        """Wait for what is being looked at."""
        if self._worker is not None:
            self._worker.end()
