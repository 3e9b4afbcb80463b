"""The batch list: what is to be made, kept in a small database that outlives crashes.

SQLite with a write-ahead log: whatever ends a program, the list is as it was after the last whole
change. The window, the command line and the process that works it off all read and write it.
"""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import msgspec

from caracal.core.base.decoding import DecodeError, decode_msgpack
from caracal.core.base.errors import CaracalError, InputError, StorageError, storage_error
from caracal.core.base.folders import state_root
from caracal.core.base.translation import tr
from caracal.core.batch.job import EncodeJob, Item, JobStatus, State
from caracal.core.project.recipe import Recipe
from caracal.core.specs.patterns import check_pattern
from caracal.core.specs.sheet_store import shipped_sheets

TABLES = """
CREATE TABLE IF NOT EXISTS item (
  id INTEGER PRIMARY KEY AUTOINCREMENT, place REAL NOT NULL, state TEXT NOT NULL,
  asked TEXT NOT NULL DEFAULT '', work BLOB NOT NULL, told BLOB NOT NULL);
CREATE TABLE IF NOT EXISTS setting (name TEXT PRIMARY KEY, value BLOB NOT NULL);
"""
UNREADABLE = tr("This item cannot be read: it is damaged, or of another version of Caracal. Add "
                "it again.")
SELECTED = "SELECT id, state, work, told, asked FROM item"
CLUSTER = "cluster"  # the setting of the list that names a Dask scheduler
VERSION = 4  # of the list (PRAGMA user_version); 0 is 1, which did not say
WAIT_S = 10.0  # for another process that is writing


def list_file() -> Path:
    """Where the list of this user lies."""
    return state_root() / "batch.sqlite"


class BatchList:
    """The list in ``path``. Each thread opens its own; close it at the end.

    Raises StorageError when the place cannot be written, InputError when the file is no list.
    """

    def __init__(self, path: Path, wait_s: float = WAIT_S) -> None:
        """``wait_s`` is how long another process that is writing is waited for."""
        self.path = path
        self._seen: dict[int, tuple[object, Item]] = {}
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as problem:
            raise storage_error(path.parent, problem) from problem
        with self._told():
            self._base = sqlite3.connect(path, timeout=wait_s, isolation_level=None)
            self._base.text_factory = _text
            try:
                self._refuse_damage()
                self._base.execute("PRAGMA journal_mode=WAL")
                self._base.execute("PRAGMA synchronous=FULL")
                self._upgrade()
            except BaseException:
                self._base.close()
                raise

    def _refuse_damage(self) -> None:
        """Raise DatabaseError when the file's structure is damaged, before anything is shown."""
        found = self._base.execute("PRAGMA quick_check(1)").fetchone()[0]
        if found != "ok":
            raise sqlite3.DatabaseError(f"malformed: {found}")

    def _upgrade(self) -> None:
        """Bring a list of an older Caracal up to date; a new one is made."""
        version = self._base.execute("PRAGMA user_version").fetchone()[0]
        if version > VERSION:
            raise InputError(tr("This batch list was written by a newer Caracal (format "
                                "{version}).", version=version), self.path,
                             tr("Use that one, or move the list away."))
        self._base.executescript(TABLES)
        if version < VERSION:
            self._base.execute("BEGIN IMMEDIATE")
            for number, work in self._base.execute("SELECT id, work FROM item").fetchall():
                self._base.execute("UPDATE item SET work = ? WHERE id = ?",
                                   (_with_recipe(work), number))
            self._base.execute(f"PRAGMA user_version = {VERSION}")
            self._base.execute("COMMIT")

    @contextmanager
    def _told(self) -> Iterator[None]:
        """Turn the database's failures into errors with a sentence."""
        try:
            yield
        except sqlite3.DatabaseError as problem:
            raise _list_error(self.path, problem) from problem

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
        return int(self._rows("PRAGMA data_version")[0][0])

    @contextmanager
    def _change(self) -> Iterator[sqlite3.Connection]:
        """All or nothing."""
        with self._told():
            self._base.execute("BEGIN IMMEDIATE")
            try:
                yield self._base
            except BaseException:
                with suppress(sqlite3.DatabaseError):  # a full disk has undone it already
                    self._base.execute("ROLLBACK")
                raise
            self._base.execute("COMMIT")

    def _rows(self, words: str, values: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
        with self._told():
            return self._base.execute(words, values).fetchall()

    def items(self) -> tuple[Item, ...]:
        """The whole list in its order; lines that did not change are the same objects as before."""
        rows = self._rows("SELECT id, state, told, asked FROM item ORDER BY place, id")
        found = [self._known(*row) for row in rows]
        self._seen = {item.id: self._seen[item.id] for item in found}
        return tuple(found)

    def _known(self, number: int, state: str, told: bytes, asked: str) -> Item:
        """A line, decoded only where it differs from what was seen last."""
        key = (state, told, asked)
        if number not in self._seen:
            self._seen[number] = (key, self.item(number))
        elif self._seen[number][0] != key:
            work = self._seen[number][1].job  # never changes
            self._seen[number] = (key, _read(number, state, work, told, asked))
        return self._seen[number][1]

    def item(self, number: int) -> Item:
        """One line. Raises InputError when it is gone."""
        rows = self._rows(f"{SELECTED} WHERE id = ?", (number,))
        if not rows:
            raise InputError(tr("This item is no longer in the batch list."),
                             remedy=tr("Check the list."))
        return _item(rows[0])

    def add(self, works: Iterable[EncodeJob]) -> list[int]:
        """Put ``works`` at the end, all or none; their numbers."""
        works = list(works)
        for work in works:
            check_pattern(work.recipe.sheet.file.names)
        with self._change() as base:
            last = base.execute("SELECT coalesce(max(place), 0) FROM item").fetchone()[0]
            return [
                int(
                    base.execute(
                        "INSERT INTO item (place, state, work, told) VALUES (?, ?, ?, ?)",
                        (
                            last + i + 1,
                            State.WAITING,
                            msgspec.msgpack.encode(work),
                            msgspec.msgpack.encode(JobStatus()),
                        ),
                    ).lastrowid
                    or 0
                )
                for i, work in enumerate(works)
            ]

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
            f"{msgspec.msgpack.encode(JobStatus()).hex()}' WHERE id = ? AND state IN "
            f"('{State.FAILED}', '{State.STOPPED}')", numbers)

    def _execute_many(self, words: str, numbers: Iterable[int]) -> None:
        with self._change() as base:
            base.executemany(words, [(number,) for number in numbers])

    def put(self, number: int, state: State, told: JobStatus) -> None:
        """Set where a line is and what is known of it."""
        with self._change() as base:
            asked = ", asked = ''" if not state.busy else ""
            base.execute(f"UPDATE item SET state = ?, told = ?{asked} WHERE id = ?",
                         (state, msgspec.msgpack.encode(told), number))

    def tell(self, number: int, **changes: Any) -> None:
        """Change what is known of a line, not its state."""
        item = self.item(number)
        self.put(number, item.state, msgspec.structs.replace(item.status, **changes))

    @property
    def paused(self) -> bool:
        """Whether the lines of the list are to wait."""
        return bool(self.setting("paused", bool))

    @paused.setter
    def paused(self, on: bool) -> None:
        self.set("paused", on)

    def setting(self, name: str, kind: type[Any]) -> Any:
        """A setting kept with the list; None when it was never set."""
        rows = self._rows("SELECT value FROM setting WHERE name = ?", (name,))
        try:
            return decode_msgpack(rows[0][0], kind) if rows else None
        except DecodeError:
            return None  # scrambled, or of another Caracal: as if it was never set

    def set(self, name: str, value: object) -> None:
        """Keep a setting with the list."""
        with self._change() as base:
            base.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)",
                         (name, msgspec.msgpack.encode(value)))


def _text(data: bytes) -> str:
    """Text as the list holds it; a damaged byte is no reason to show none of its lines."""
    return data.decode("utf-8", "replace")


def _with_recipe(work: bytes) -> bytes:
    """A line of version 1 or 2, in which what makes up a recipe lay side by side."""
    try:
        old = decode_msgpack(work, dict)
        wanted, span = old.pop("wanted"), old.pop("span", None)
    except (DecodeError, KeyError, AttributeError, TypeError):
        return work  # scrambled: it is told as such
    old["replace"] = wanted.pop("replace", False)
    parts = {name: old.pop(name) for name in ("starts", "drawn", "sound") if name in old}
    ranges = wanted.get("ranges") or ([span] if span else [])
    return msgspec.msgpack.encode({**old, "recipe": {**wanted, **parts, "ranges": ranges}})


def _item(row: tuple[Any, ...]) -> Item:
    number, state, work, told, asked = row
    try:
        return _read(number, state, decode_msgpack(work, EncodeJob), told, asked)
    except DecodeError:
        return _unreadable(number)


def _read(number: int, state: str, work: EncodeJob, told: bytes, asked: str) -> Item:
    """A line whose state and progress are decoded; one that cannot be read has failed."""
    try:
        return Item(number, State(state), work, decode_msgpack(told, JobStatus), str(asked))
    except (DecodeError, ValueError):
        return Item(number, State.FAILED, work, JobStatus(problem=UNREADABLE))


def _unreadable(number: int) -> Item:
    """What is shown of a line of which nothing can be read."""
    sheet = next(iter(shipped_sheets().values()))
    sheet = msgspec.structs.replace(sheet, name="unreadable", title="Unreadable")
    return Item(number, State.FAILED, EncodeJob(f"line {number}", "", Recipe(sheet)),
                JobStatus(problem=UNREADABLE))


def _list_error(path: Path, problem: sqlite3.DatabaseError) -> CaracalError:
    """What a failure of the database means for a person."""
    words = str(problem)
    if "full" in words:
        return storage_error(path.parent, OSError(28, words))
    if "locked" in words or "busy" in words:
        return StorageError(tr("Another program keeps the batch list locked."), path,
                            tr("Close it, then try again."))
    if isinstance(problem, sqlite3.OperationalError) and "malformed" not in words:
        return storage_error(path, OSError(13, words))
    return InputError(tr("This batch list is damaged."), path,
                      tr("Move it away; a new one is begun."))


def now() -> float:
    """Returns the seconds that have passed since 1970."""
    return time.time()
