"""Asking for a picture or a clip, and looking at it before anything is made of it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from contextlib import suppress
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from caracal.core.errors import InputError
from caracal.core.layout.model import Clip, PictureFile
from caracal.core.paths import text_of
from caracal.core.project.assets import content_of
from caracal.core.render.asset_checks import film_of, picture_ratio_apart, refuse_bad_asset
from caracal.core.translation import tr
from caracal.core.work import CancelToken
from caracal.ui.task_queue import TaskQueue

MOST_WAIT_S = 60.0
T = TypeVar("T")
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

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._looking, self.token = TaskQueue(self), CancelToken()
        self._looking.failed.connect(self.said)

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

        def look() -> float:
            ratio = picture_ratio_apart(path, self.token)
            content_of(path)  # known when the work is kept
            return ratio

        self.do(look, lambda ratio: take(PictureFile(text_of(path)), ratio))

    def take_clip(self, clip: Clip, take: Take) -> None:
        """``take`` the film of ``clip`` once it was looked at, or say what is wrong with it."""
        def look() -> float:
            film = film_of(clip, self.token)
            content_of(film.file)
            return film.width / film.height

        self.do(look, lambda ratio: take(clip, ratio))

    def look_at(self, contents: Iterable[object], then: Callable[[], object]) -> None:
        """Look at all of ``contents``, then call ``then``: what they are is known by then."""
        asked = tuple(contents)

        def look() -> None:
            for content in asked:
                with suppress(InputError):  # whoever asks next is told at once
                    refuse_bad_asset(content, self.token)

        self.do(look, lambda _: then(), asked)

    def do(
        self, work: Callable[[], T], then: Callable[[T], object], key: object = None
    ) -> None:
        """Do ``work`` of files in the thread, then give its result to ``then``; what goes wrong is
        said. Work of the same ``key`` that has not begun is replaced."""
        self._looking.do(work, then, key)

    def wait(self) -> None:
        """Wait until all files were looked at, and taken."""
        self._looking.wait(MOST_WAIT_S)

    def close(self) -> None:
        """Look at nothing any more."""
        self.token.cancel()
        self._looking.give_up()
