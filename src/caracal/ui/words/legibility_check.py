"""How well the caption at the playhead can be read, found from pictures of the preview."""

from __future__ import annotations

import msgspec
import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from caracal.core.layout.model import Canvas
from caracal.core.media.planes import Picture
from caracal.core.render.backdrops import LOWEST, LUMA
from caracal.core.render.caption_places import standing
from caracal.core.render.layers import TextLayer
from caracal.core.render.legibility import Legibility, legibility
from caracal.core.text.caption_track import CaptionTrack, SetCaption
from caracal.ui.session import Session

CALM_MS = 300  # nothing moves for so long before it is looked at
WIDE = 160  # pixels of the pictures that are looked at
NAME = "behind captions"


class LegibilityCheck(QObject):
    """``found`` tells how well the caption that is seen now stands out; None: none is seen."""

    found = Signal(object)

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
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
        session = self._session
        letter, frame, shot = session.letter, session.frame, session.shot
        track = session.captions.track(session, letter, shot)
        caption = None if track is None else track.at(frame)
        if track is None or caption is None:
            self._waits = False
            self.found.emit(None)
            return
        stands = session.captions.stands(
            session, track, letter, shot, session.solution(letter, shot))
        found = self._judged(track, standing(caption, stands[caption.look]),
                             session.sheet(letter).canvas)
        self._waits = found is None
        if found is not None:
            self.found.emit(found)

    def _judged(
        self, track: CaptionTrack, caption: SetCaption, canvas: Canvas
    ) -> Legibility | None:
        """None while pictures are still made."""
        missing = False

        def picture_at(frame: int) -> Picture | None:
            nonlocal missing
            made = self._bare(frame, canvas)
            missing = missing or made is None
            return made

        found = legibility(track, caption, canvas, picture_at)
        return None if missing else found

    def _bare(self, frame: int, canvas: Canvas) -> Picture | None:
        """The chosen version at ``frame`` without captions, small."""
        session = self._session
        size = (WIDE, 2 * round(WIDE * canvas[1] / canvas[0] / 2))
        scene = session.scene(session.letter, min(frame, session.analysis.known_to - 1), size)
        scene = msgspec.structs.replace(scene, over=tuple(
            layer for layer in scene.over if not isinstance(layer, TextLayer)))
        image = session.preview.get_scene(NAME, frame, scene, size)
        return None if image is None else _picture(image)


def _picture(image: QImage) -> Picture:
    """The luma of a picture of the screen, as planes have it; its chroma is not looked at."""
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1, 4)
    rgb = pixels[:, : image.width(), 2::-1].astype(np.float64) / 255
    luma = np.rint(LOWEST + 219 * (rgb @ LUMA)).astype(np.uint8)
    return luma, luma[::2, ::2], luma[::2, ::2]
