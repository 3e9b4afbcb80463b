"""Whose the work on a film is: one window writes it, others look, or take it over."""

from __future__ import annotations

import uuid
from contextlib import suppress
from pathlib import Path

from filelock import FileLock, Timeout

from caracal.core.base.atomic_write import read_own, write_text
from caracal.core.project.storage import autosave_path


class Ownership:
    """The right to keep the work on one film. The last window that took it has it.

    A lock says whether another window is open, a token whose the work is: a window that took over
    writes its own, and the one before notices before it writes.
    """

    def __init__(self, key: str) -> None:
        place = autosave_path(key)
        self._token_file = place.with_suffix(".owner")
        self._token = uuid.uuid4().hex[:8]
        self._lock = FileLock(place.with_suffix(".lock"), timeout=0, mode=0o600,
                              thread_local=False)
        self.ours = self._locked()
        if self.ours:
            self._write_token()

    def _locked(self) -> bool:
        try:
            self._token_file.parent.mkdir(parents=True, exist_ok=True)
            self._lock.acquire()
        except Timeout:
            return False
        except OSError:
            return True  # no place to keep work: nobody else keeps any either
        return True

    def _write_token(self) -> None:
        with suppress(OSError):
            write_text(self._token_file, self._token)

    def take_over(self) -> None:
        """The work is ours from now on; the other window notices before it writes again."""
        self.ours = True
        self._write_token()

    def check(self) -> bool:
        """Whether the work is still ours."""
        if self.ours:
            with suppress(OSError):
                self.ours = read_own(self._token_file) == self._token.encode()
        return self.ours

    def aside(self, kept: Path) -> Path:
        """Where work goes that another window took over from: nothing of it is lost."""
        return kept.with_name(f"{kept.stem} {self._token}{kept.suffix}")

    def close(self) -> None:
        """This gives the film back, so that another window may take it."""
        self._lock.release()
