"""Small pictures of the films that were opened, for the start page."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, Qt
from PySide6.QtGui import QImage, QImageWriter

from caracal.core.base.atomic_write import read_own, write_bytes
from caracal.core.base.errors import CaracalError
from caracal.core.base.folders import state_root

SIZE = (112, 63)  # pixels
SUFFIX = ".jpg"
QUALITY = 85  # of 100


def _folder() -> Path:
    return state_root() / "posters"


def _file(film: Path) -> Path:
    return _folder() / (hashlib.sha256(bytes(film)).hexdigest()[:32] + SUFFIX)


def keep_poster(film: Path, picture: QImage) -> None:
    """Save ``picture`` as the poster of ``film``, a film or a project. Where that cannot be
    written there is none."""
    small = picture.scaled(SIZE[0] * 2, SIZE[1] * 2, Qt.AspectRatioMode.KeepAspectRatio,
                           Qt.TransformationMode.SmoothTransformation)
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QImageWriter(buffer, QByteArray(b"jpeg"))
    writer.setQuality(QUALITY)
    if writer.write(small):
        with suppress(OSError, CaracalError):
            write_bytes(_file(film), bytes(buffer.data().data()), make_folder=True)


def poster_of(film: Path) -> QImage | None:
    """The poster of ``film``; None where there is none, or none that can be read."""
    try:
        data = read_own(_file(film))
    except OSError:
        return None
    image = QImage.fromData(data) if data else QImage()
    return None if image.isNull() else image


def opened_at(film: Path) -> float:
    """When ``film`` was closed last, in seconds since 1970: its poster was saved then."""
    for file in (_file(film), film):
        with suppress(OSError):
            return file.stat().st_mtime
    return 0.0


def forget_posters(but: Iterable[Path]) -> None:
    """Delete all posters except those of the films ``but``."""
    kept = {_file(film) for film in but}
    with suppress(OSError):
        for file in _folder().glob(f"*{SUFFIX}"):
            if file not in kept:
                file.unlink(missing_ok=True)
