"""What nobody foresaw: kept in a log file, told in one sentence."""

from __future__ import annotations

import logging
import sys
import threading
from contextlib import suppress
from io import TextIOWrapper
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

from caracal.core.base.atomic_write import open_own
from caracal.core.base.errors import CaracalError, StorageError, readable, storage_error
from caracal.core.base.folders import state_root
from caracal.core.base.translation import tr

MOST_BYTES = 1 << 20  # of a log file; three older ones are kept
OLDER = 3
DISK_ERRORS = (28, 122, 30, 13, 36)  # ENOSPC, EDQUOT, EROFS, EACCES, ENAMETOOLONG: for people
log = logging.getLogger("caracal")


def log_file() -> Path:
    """Where the log is, unless another place was asked for."""
    return state_root() / "log" / "caracal.log"


def keep_log(process: str, path: Path | None = None, verbose: bool = False) -> None:
    """Write the log to ``path`` or its usual place; ``process`` says who writes.

    A place that cannot be written keeps nobody from working.
    """
    path = path or log_file()
    log.setLevel(logging.DEBUG if verbose else logging.INFO)
    log.propagate = False
    for handler in list(log.handlers):
        log.removeHandler(handler)
        handler.close()
    with suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = _LogFile(path, maxBytes=MOST_BYTES, backupCount=OLDER, delay=True,
                                      encoding="utf-8", errors="backslashreplace")
        handler.setFormatter(logging.Formatter(
            f"%(asctime)s {process} %(process)d %(levelname)s %(message)s"))
        log.addHandler(handler)
    logging.raiseExceptions = False  # a full disk is no reason to print tracebacks


class _LogFile(RotatingFileHandler):
    """A log that is never written through a link: what the link points to is no log."""

    def _open(self) -> TextIOWrapper:
        path = Path(self.baseFilename)
        if path.exists() and not path.is_file():  # a terminal or a pipe, as somebody asked
            return super()._open()
        return open(path, "a", encoding=self.encoding, errors=self.errors,
                    opener=lambda _, flags: open_own(path, flags))


def forget_log() -> None:
    """Write no log from now on, for a copy of a process that writes one: the place is that one's.
    """
    for handler in list(log.handlers):
        log.removeHandler(handler)
    log.propagate = True


def kept_at() -> Path:
    """The file that the log goes to now."""
    for handler in log.handlers:
        if isinstance(handler, RotatingFileHandler):
            return Path(handler.baseFilename)
    return log_file()


def unforeseen(problem: BaseException) -> CaracalError:
    """``problem`` as an error with a sentence; what nobody foresaw goes to the log whole."""
    if isinstance(problem, CaracalError):
        return problem
    if isinstance(problem, OSError) and problem.errno in DISK_ERRORS and problem.filename:
        return storage_error(Path(str(problem.filename)), problem)
    log.error("unforeseen", exc_info=problem)
    if isinstance(problem, MemoryError):
        return StorageError(tr("There is not enough memory for this."),
                            remedy=tr("Close other programs, or use a smaller film."))
    words = readable(" ".join(str(problem).split()))[:200]
    return CaracalError(tr("Unexpected error ({name}: {words}).",
                           name=type(problem).__name__, words=words),
                        remedy=tr("Please report it with the log {kept_at}.", kept_at=kept_at()))


def watch_threads() -> None:
    """Log what ends a thread that has no last handler of its own."""
    def told(given: threading.ExceptHookArgs) -> None:
        if given.exc_value is not None:
            sys.stderr.write(f"{unforeseen(given.exc_value).sentence()}\n")

    threading.excepthook = told


def watch_process(tell: object = None) -> None:
    """Log what reaches the end of the process, and say it in a sentence; no traceback is shown."""
    def told(_: type[BaseException], problem: BaseException, __: TracebackType | None) -> None:
        words = unforeseen(problem).sentence()
        sys.stderr.write(f"{words}\n")
        if callable(tell):
            tell(words)

    sys.excepthook = told
    watch_threads()
