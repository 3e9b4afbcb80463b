"""How well words on the picture can be read, found from pictures of the preview."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from caracal.core.base.translation import tr
from caracal.core.layout.model import Canvas
from caracal.core.media.bt709 import LOWEST, LUMA
from caracal.core.media.planes import Picture
from caracal.core.render.captions.legibility import Legibility, PictureAt, legibility
from caracal.core.render.captions.placement import standing
from caracal.core.render.layers import TextLayer
from caracal.core.render.scene import Scene
from caracal.ui.session.session import Session

CALM_MS = 300  # nothing moves for so long before it is looked at
WIDE = 160  # pixels of the pictures that are looked at
NAME = "behind words"


# How well words stand out on pictures without them; None: there are none.
Judge = Callable[[PictureAt], Legibility | None]
SceneAt = Callable[[int, Canvas], Scene | None]


class LegibilityCheck(QObject):
    """``found`` tells how well words stand out; None: there are none now.

    ``judge`` is asked while nothing moves, with pictures of what ``scene_at`` gives for a frame.
    """

    found = Signal(object)

    def __init__(self, session: Session, parent: QObject, judge: Judge, scene_at: SceneAt) -> None:
        super().__init__(parent)
        self._session, self._judge, self._scene_at = session, judge, scene_at
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(CALM_MS)
        self._timer.timeout.connect(self._look)
        self._waits = False
        session.preview.arrived.connect(lambda _: self._look() if self._waits else None)

    def ask(self) -> None:
        """Look as soon as nothing moves any more."""
        self._waits = False
        if not self._session.speed:
            self._timer.start()

    def _look(self) -> None:
        missing = False

        def picture_at(frame: int) -> Picture | None:
            nonlocal missing
            made = self._picture(frame)
            missing = missing or made is None
            return made

        found = self._judge(picture_at)
        self._waits = missing  # pictures are still made
        if not missing:
            self.found.emit(found)

    def _picture(self, frame: int) -> Picture | None:
        canvas = self._session.sheet(self._session.letter).canvas
        size = (WIDE, 2 * round(WIDE * canvas[1] / canvas[0] / 2))
        scene = self._scene_at(frame, size)
        image = None if scene is None else self._session.preview.get_scene(
            NAME, frame, scene, size)
        return None if image is None else _as_planes(image)


def caption_judge(session: Session) -> Judge:
    """Judges the caption at the playhead, in the chosen version."""

    def judge(picture_at: PictureAt) -> Legibility | None:
        letter, frame, shot = session.letter, session.frame, session.shot
        track = session.captions.track(session, letter, shot)
        caption = None if track is None else track.at(frame)
        if track is None or caption is None:
            return None
        stands = session.captions.stands(
            session, track, letter, shot, session.solution(letter, shot))
        return legibility(track, standing(caption, stands[caption.look]),
                          session.sheet(letter).canvas, picture_at)

    return judge


def without_captions(session: Session) -> SceneAt:
    """The chosen version at a frame without its captions."""

    def scene_at(frame: int, size: Canvas) -> Scene:
        scene = session.scene(session.letter, min(frame, session.analysis.known_to - 1), size)
        return msgspec.structs.replace(scene, over=tuple(
            layer for layer in scene.over if not isinstance(layer, TextLayer)))

    return scene_at


def contrast_words(found: Legibility) -> str:
    """What is said of it."""
    word = (tr("enough") if found.right
            else tr("too little: at least {least:g} is required", least=found.least))
    return tr("Contrast {ratio:.1f}, {word}.", ratio=found.ratio, word=word)


def _as_planes(image: QImage) -> Picture:
    """The luma of a picture of the screen, as planes have it; its chroma is not looked at."""
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1, 4)
    rgb = pixels[:, : image.width(), 2::-1].astype(np.float64) / 255
    luma = np.rint(LOWEST + 219 * (rgb @ LUMA)).astype(np.uint8)
    return luma, luma[::2, ::2], luma[::2, ::2]
