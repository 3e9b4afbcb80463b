"""Asking for a picture or a clip, and looking at it before anything is made of it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from contextlib import suppress
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from caracal.core.base.errors import CaracalError
from caracal.core.base.paths import text_of
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken
from caracal.core.layout.added_sound import SoundFile
from caracal.core.layout.model import Clip, PictureFile
from caracal.core.project.assets import content_of
from caracal.core.render.assets.checks import film_of, refuse_bad_asset, sound_of
from caracal.core.render.assets.picture_checks import picture_ratio_apart
from caracal.ui.services.task_queue import TaskQueue

MOST_WAIT_S = 60.0
T = TypeVar("T")
PICTURES = (".png", ".jpg", ".jpeg", ".webp", ".gif", ".svg", ".bmp", ".tif", ".tiff")
FILMS = (".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi", ".mxf", ".ts", ".mpg")
SOUNDS = (".wav", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".opus", ".aif", ".aiff")
HEARD = tr("Sounds and films ({})").format(
    " ".join(f"*{suffix}" for suffix in (*SOUNDS, *FILMS)))
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
        self._tasks, self.token = TaskQueue(self), CancelToken()
        self._tasks.failed.connect(self.said)

    def ask(self, parent: QWidget, take: Take) -> None:
        """Let a person choose a file, over ``parent``, and ``take`` it."""
        chosen = QFileDialog.getOpenFileName(parent, tr("Picture or clip"), "",
                                             tr("{both};;All files (*)", both=BOTH))[0]
        if chosen:
            self.take_file(Path(chosen), take)

    def take_file(self, path: Path, take: Take) -> None:
        """``take`` the file at ``path`` once it is checked, or say what is wrong with it."""
        if path.suffix.lower() in FILMS:
            self.take_clip(Clip(text_of(path)), take)
            return

        def look() -> float:
            ratio = picture_ratio_apart(path, self.token)
            content_of(path)  # known when the work is kept
            return ratio

        self.do(look, lambda ratio: take(PictureFile(text_of(path)), ratio))

    def take_clip(self, clip: Clip, take: Take) -> None:
        """``take`` the film of ``clip`` once it is checked, or say what is wrong with it."""
        def look() -> float:
            film = film_of(clip, self.token)
            content_of(film.file)
            return film.width / film.height

        self.do(look, lambda ratio: take(clip, ratio))

    def ask_sound(self, parent: QWidget, take: Callable[[SoundFile], object]) -> None:
        """Let a person choose a sound, over ``parent``, and ``take`` it."""
        chosen = QFileDialog.getOpenFileName(parent, tr("Sound"), "",
                                             tr("{heard};;All files (*)", heard=HEARD))[0]
        if chosen:
            self.take_sound(Path(chosen), take)

    def take_sound(self, path: Path, take: Callable[[SoundFile], object]) -> None:
        """``take`` the sound at ``path`` once it is checked, or say what is wrong with it."""
        content = SoundFile(text_of(path))

        def look() -> None:
            content_of(sound_of(content, self.token).file)

        self.do(look, lambda _: take(content))

    def check(self, contents: Iterable[object], then: Callable[[], object]) -> None:
        """Check all of ``contents``, then call ``then``; problems are kept for the next question.
        """
        asked = tuple(contents)

        def check_all() -> None:
            for content in asked:
                with suppress(CaracalError):
                    refuse_bad_asset(content, self.token)
            self.token.check()

        self.do(check_all, lambda _: then(), asked)

    def do(
        self, work: Callable[[], T], then: Callable[[T], object], key: object = None
    ) -> None:
        """Do ``work`` with files in the thread, then pass its result to ``then``. Problems are
        reported by ``said``. Work of the same ``key`` that has not begun is replaced."""
        self._tasks.do(work, then, key)

    def wait(self) -> None:
        """Wait until all files are checked and taken."""
        self._tasks.wait(MOST_WAIT_S)

    def close(self) -> None:
        """Stop, and check no more files."""
        self.token.cancel()
        self._tasks.give_up()
