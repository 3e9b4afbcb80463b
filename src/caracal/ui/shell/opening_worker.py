"""Looking at what is to be opened, before anything that is open is closed."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Signal

from caracal.core.analysis.film_pass.analyse import analysed_before, kept_analysis
from caracal.core.analysis.film_pass.process import probe_apart
from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken
from caracal.core.project.storage import SUFFIX, Document, find_film, open_document
from caracal.ui.services.worker import Worker

NO_FILMS = {  # what people drop onto a window beside films
    ".srt": tr("a caption file"), ".vtt": tr("a caption file"), ".ass": tr("a caption file"),
    ".toml": tr("a spec sheet"), ".edl": tr("a cut list"), ".otio": tr("a cut list"),
    ".otioz": tr("a cut list"), ".txt": tr("a text"), ".pdf": tr("a document"),
    ".jpg": tr("a picture"), ".jpeg": tr("a picture"), ".png": tr("a picture"),
    ".zip": tr("an archive"),
}


@dataclass(frozen=True)
class Opening:
    """What can be opened: a film, a project with its film, or a project whose film is gone."""

    film: Path | None
    project: tuple[Path, Document] | None = None


def opening(path: Path, cancel: CancelToken | None = None) -> Opening:
    """What ``path`` is. Raises InputError when it cannot be opened, Cancelled."""
    if path.is_dir():
        raise InputError(tr("This is a folder."), path,
                         tr("Open a film in it; Batch can watch a folder."))
    if path.suffix.lower() == SUFFIX:
        found = open_document(path)
        film = find_film(found.film, path)
        if film is not None:
            _check(film, cancel)
        elif kept_analysis(found.film.content_key) is None:
            raise InputError(tr("The film of this project is not where it was."), found.film.path,
                             tr("Put it back, or beside the project, and open the project again."))
        return Opening(film, (path, found))
    kind = NO_FILMS.get(path.suffix.lower())
    if kind is not None:
        raise InputError(tr("This is {kind}, no film.", kind=kind), path,
                         tr("Open the film first."))
    _check(path, cancel)
    return Opening(path)


def _check(film: Path, cancel: CancelToken | None) -> None:
    if analysed_before(film) is None:
        probe_apart(film, cancel)


class OpeningWorker(Worker):
    """Looks at ``path`` in a thread; one of the two results is emitted."""

    good = Signal(object)

    def __init__(self, path: Path) -> None:
        super().__init__()
        self.path, self.token = path, CancelToken()

    def work(self) -> None:
        self.good.emit(opening(self.path, self.token))
