"""The batch list: what is to be made, kept in a small database that outlives crashes.

SQLite with a write-ahead log: whatever ends a program, the list is as it was after the last whole
change. The window, the command line and the process that works it off all read and write it.
"""

from __future__ import annotations

import fcntl
import sqlite3
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from enum import StrEnum
from pathlib import Path
from typing import Any

import msgspec

from caracal.core.batch.encoder import Made
from caracal.core.batch.feeding import FileState
from caracal.core.batch.names import check_pattern
from caracal.core.errors import InputError
from caracal.core.media.gate import place_error
from caracal.core.plan import Wanted
from caracal.core.project.model import DrawnBox, ShotStart
from caracal.core.project.storage import state_root
from caracal.core.time import FrameRange

TABLES = """
CREATE TABLE IF NOT EXISTS item (
  id INTEGER PRIMARY KEY AUTOINCREMENT, place REAL NOT NULL, state TEXT NOT NULL,
  asked TEXT NOT NULL DEFAULT '', work BLOB NOT NULL, told BLOB NOT NULL);
CREATE TABLE IF NOT EXISTS setting (name TEXT PRIMARY KEY, value BLOB NOT NULL);
"""
SELECTED = "SELECT id, state, work, told, asked FROM item"
WAIT_S = 10.0  # for another process that is writing


class State(StrEnum):
    """Where an item of the list is."""

    WAITING = "waiting"
    ENCODING = "encoding"
    PROVING = "proving"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"

    @property
    def busy(self) -> bool:
        """Whether it is worked on."""
        return self in (State.ENCODING, State.PROVING)

    @property
    def ended(self) -> bool:
        """Whether nothing more happens to it by itself."""
        return self in (State.DONE, State.FAILED, State.STOPPED)


class Work(msgspec.Struct, frozen=True):
    """One version of one film to make; everything that was decided when it was added."""

    master: str
    folder: str
    wanted: Wanted
    span: FrameRange | None = None
    starts: tuple[ShotStart, ...] = ()
    drawn: tuple[DrawnBox, ...] = ()
    expected_mb: float = 0.0
    expected_s: float = 0.0


class Told(msgspec.Struct, frozen=True):
    """What is known of an item: how far, its files, what went wrong, since when (s since 1970).

    ``planned`` are the names its files will have.
    """

    progress: FileState | None = None
    made: tuple[Made, ...] = ()
    problem: str = ""
    planned: tuple[str, ...] = ()
    began: float = 0.0
    ended: float = 0.0


class Item(msgspec.Struct, frozen=True):
    """A line of the list."""

    id: int
    state: State
    work: Work
    told: Told
    asked: str = ""


def list_file() -> Path:
    """Where the list of this user lies."""
    return state_root() / "batch.sqlite"


class BatchList:
    """The list in ``path``. Each thread opens its own; close it at the end.

    Raises PlaceError when the place cannot be written, InputError when the file is no list.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._seen: dict[int, tuple[object, Item]] = {}
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._base = sqlite3.connect(path, timeout=WAIT_S, isolation_level=None)
            self._base.execute("PRAGMA journal_mode=WAL")
            self._base.execute("PRAGMA synchronous=FULL")
            self._base.executescript(TABLES)
        except sqlite3.DatabaseError as problem:
            if isinstance(problem, sqlite3.OperationalError):
                raise place_error(path, OSError(13, str(problem))) from problem
            raise InputError("This batch list is damaged.", path, "Move it away; a new one is "
                             "begun.") from problem
        except OSError as problem:
            raise place_error(path.parent, problem) from problem

    def close(self) -> None:
        """Close the file."""
        self._base.close()

    def __enter__(self) -> BatchList:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    @property
    def changes(self) -> int:
        """A number that differs when another connection has changed the list."""
        return int(self._base.execute("PRAGMA data_version").fetchone()[0])

    @contextmanager
    def _change(self) -> Iterator[sqlite3.Connection]:
        """All or nothing."""
        self._base.execute("BEGIN IMMEDIATE")
        try:
            yield self._base
        except BaseException:
            self._base.execute("ROLLBACK")
            raise
        self._base.execute("COMMIT")

    def items(self) -> tuple[Item, ...]:
        """The whole list in its order; lines that did not change are the same objects as before."""
        rows = self._base.execute("SELECT id, state, told, asked FROM item ORDER BY place, id")
        found = [self._known(*row) for row in rows]
        self._seen = {one.id: self._seen[one.id] for one in found}
        return tuple(found)

    def _known(self, number: int, state: str, told: bytes, asked: str) -> Item:
        """A line, decoded only where it differs from what was seen last."""
        key = (state, told, asked)
        if number not in self._seen:
            self._seen[number] = (key, self.item(number))
        elif self._seen[number][0] != key:
            work = self._seen[number][1].work  # never changes
            self._seen[number] = (key, Item(
                number, State(state), work, msgspec.msgpack.decode(told, type=Told), asked))
        return self._seen[number][1]

    def item(self, number: int) -> Item:
        """One line. Raises InputError when it is gone."""
        row = self._base.execute(f"{SELECTED} WHERE id = ?", (number,)).fetchone()
        if row is None:
            raise InputError("This line of the batch list is gone.", remedy="Look at the list.")
        return _item(row)

    def add(self, works: Iterable[Work]) -> list[int]:
        """Put ``works`` at the end, all or none; their numbers."""
        works = list(works)
        for work in works:
            check_pattern(work.wanted.sheet.file.names)
        with self._change() as base:
            last = base.execute("SELECT coalesce(max(place), 0) FROM item").fetchone()[0]
            return [int(base.execute(
                "INSERT INTO item (place, state, work, told) VALUES (?, ?, ?, ?)",
                (last + i + 1, State.WAITING, msgspec.msgpack.encode(work),
                 msgspec.msgpack.encode(Told()))).lastrowid or 0) for i, work in enumerate(works)]

    def move(self, number: int, by: int) -> None:
        """Move a line up (negative) or down."""
        with self._change() as base:
            order = [row[0] for row in base.execute("SELECT id FROM item ORDER BY place, id")]
            if number not in order:
                return
            at = order.index(number)
            order.insert(min(max(0, at + by), len(order) - 1), order.pop(at))
            base.executemany("UPDATE item SET place = ? WHERE id = ?", list(enumerate(order, 1)))

    def remove(self, numbers: Iterable[int]) -> None:
        """Forget lines that nobody works on; files that were made stay."""
        self._execute_many("DELETE FROM item WHERE id = ? AND state NOT IN "
                           f"('{State.ENCODING}', '{State.PROVING}')", numbers)

    def clear(self) -> None:
        """Forget all lines that are done."""
        with self._change() as base:
            base.execute("DELETE FROM item WHERE state = ?", (State.DONE,))

    def stop(self, numbers: Iterable[int]) -> None:
        """Stop lines: those that wait at once, those worked on as soon as that is noticed."""
        numbers = list(numbers)
        self._execute_many(f"UPDATE item SET state = '{State.STOPPED}' WHERE id = ? AND state = "
                           f"'{State.WAITING}'", numbers)
        self._execute_many("UPDATE item SET asked = 'stop' WHERE id = ? AND state IN "
                           f"('{State.ENCODING}', '{State.PROVING}')", numbers)

    def retry(self, numbers: Iterable[int]) -> None:
        """Let lines that failed or were stopped wait again."""
        self._execute_many(
            f"UPDATE item SET state = '{State.WAITING}', asked = '', told = X'"
            f"{msgspec.msgpack.encode(Told()).hex()}' WHERE id = ? AND state IN "
            f"('{State.FAILED}', '{State.STOPPED}')", numbers)

    def _execute_many(self, words: str, numbers: Iterable[int]) -> None:
        with self._change() as base:
            base.executemany(words, [(one,) for one in numbers])

    def put(self, number: int, state: State, told: Told) -> None:
        """Set where a line is and what is known of it."""
        with self._change() as base:
            asked = ", asked = ''" if not state.busy else ""
            base.execute(f"UPDATE item SET state = ?, told = ?{asked} WHERE id = ?",
                         (state, msgspec.msgpack.encode(told), number))

    def tell(self, number: int, **changes: Any) -> None:
        """Change what is known of a line, not its state."""
        item = self.item(number)
        self.put(number, item.state, msgspec.structs.replace(item.told, **changes))

    @property
    def paused(self) -> bool:
        """Whether the work is to wait."""
        return bool(self.setting("paused", bool))

    @paused.setter
    def paused(self, on: bool) -> None:
        self.set("paused", on)

    def setting(self, name: str, kind: type[Any]) -> Any:
        """A setting kept with the list; None when it was never set."""
        row = self._base.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
        return None if row is None else msgspec.msgpack.decode(row[0], type=kind)

    def set(self, name: str, value: object) -> None:
        """Keep a setting with the list."""
        with self._change() as base:
            base.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)",
                         (name, msgspec.msgpack.encode(value)))


def _item(row: tuple[Any, ...]) -> Item:
    return Item(row[0], State(row[1]), msgspec.msgpack.decode(row[2], type=Work),
                msgspec.msgpack.decode(row[3], type=Told), row[4])


@contextmanager
def worked_by_us(path: Path) -> Iterator[bool]:
    """Whether this process may work off the list in ``path``: one process at a time does."""
    with path.with_name(f"{path.name}.lock").open("w") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            yield False
            return
        yield True


def now() -> float:
    """Seconds since 1970."""
    return time.time()
