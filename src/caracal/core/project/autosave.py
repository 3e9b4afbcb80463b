"""Work on a film that saves itself: kept by the film's content, read back when it is opened.

What is kept here may be all that is left of somebody's work. A file that cannot be read (of a newer
Caracal, cut off, or damaged) is set aside and told of; it is never removed or written over.
"""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

import msgspec

from caracal.core.analysis.cache import old_content_key
from caracal.core.base.errors import CaracalError
from caracal.core.base.set_aside import set_aside
from caracal.core.base.translation import tr
from caracal.core.project.model import Project
from caracal.core.project.storage import (
    SUFFIX,
    Document,
    autosave_path,
    read_document,
    write_document,
)


class Recovered(msgspec.Struct, frozen=True):
    """What was kept of a film: the project, if there is one, and a sentence about what is not."""

    project: Project | None = None
    said: str = ""


class Autosave:
    """The unsaved work on the film with this content key. For one thread at a time."""

    def __init__(self, key: str) -> None:
        self.path = autosave_path(key)
        self._mine = False  # what lies at the path was read or written here

    def recover(self, film: Path) -> Recovered:
        """The work on ``film`` that was never saved."""
        self._take_over_old(film)
        if not self.path.exists():
            return Recovered()
        try:
            project = read_document(self.path).project
        except CaracalError as problem:
            return Recovered(said=self._unreadable(problem))
        self._mine = True
        return Recovered(project)

    def _take_over_old(self, film: Path) -> None:
        """Give work that an older Caracal kept its name of now. Its key is worked out only where
        anything is kept: that reads 16 MB of the film."""
        if self.path.exists() or not any(self.path.parent.glob(f"*{SUFFIX}")):
            return
        with suppress(OSError):  # the film is gone, or the folder is closed
            old = autosave_path(old_content_key(film))
            if old.is_file():
                old.rename(self.path)

    def _unreadable(self, problem: CaracalError) -> str:
        aside = set_aside(self.path)
        return tr("Unsaved work on this film could not be read. {problem} It is kept as {file}.",
                  problem=problem.what, file=aside or self.path)

    def keep(self, document: Document) -> None:
        """Keep ``document`` over what was kept before. Raises StorageError.

        What was never read, because it could not be, is set aside first.
        """
        if not self._mine and self.path.exists() and set_aside(self.path) is None:
            return  # nothing can be written there either
        write_document(self.path, document)
        self._mine = True

    def drop(self) -> None:
        """Keep nothing: all is saved elsewhere. What was never read stays."""
        if self._mine:
            self.path.unlink(missing_ok=True)
            self._mine = False
