"""The desk: receives bundles as a destination would, and keeps what it accepted in an outbox."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path

import msgspec
from filelock import FileLock, Timeout

from caracal.core.base.atomic_write import copy_file, write_bytes
from caracal.core.base.decoding import DecodeError, decode_json
from caracal.core.base.errors import InputError, StorageError, storage_error
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.paths import inside
from caracal.core.base.reading_text import read_bounded, refuse_nesting
from caracal.core.base.translation import mark, tr
from caracal.core.batch.bundle import opened_bundle, reported_in
from caracal.core.encoding.proof import prove
from caracal.core.specs.sheet import SpecSheet, base_name

TITLE_MOST = 100  # characters: common practice, as are the others
TEXT_MOST = 2200
TAGS_MOST = 30
WAIT_S = 30.0  # for another program that changes the outbox: it may be copying large files


class Post(msgspec.Struct, frozen=True):
    """What is to be shown with a file, and when (local time, ISO 8601 without a zone)."""

    title: str
    text: str = ""
    tags: tuple[str, ...] = ()
    date: str = ""


class Entry(msgspec.Struct, frozen=True):
    """A file the desk accepted."""

    id: str
    file: str
    sheet: str
    post: Post
    received: str


class Answer(msgspec.Struct, frozen=True):
    """What the desk says of one file: accepted, or refused with its reasons."""

    file: str
    accepted: bool
    reasons: tuple[str, ...] = ()


class Desk:
    """A desk with its outbox in ``folder`` and a spec sheet of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._schedule = folder / "schedule.json"

    def receive(self, bundle: Path, sheet: SpecSheet, post: Post,
                names: tuple[str, ...] = ()) -> tuple[Answer, ...]:
        """Check the movies of ``bundle`` that were made for ``sheet`` (or those of ``names``), and
        take all of them, or none. What was made for other sheets stays out of it.

        Raises InputError when it is no sound bundle or holds none of them, StorageError when the
        outbox cannot be written.
        """
        movies = _asked_for(opened_bundle(bundle), _made_for(bundle), sheet, names)
        if not movies:
            raise InputError(tr("This bundle has no movie for {title}.", title=sheet.title),
                             bundle, tr("Give another spec sheet, or one of the files."))
        wrong = _wrong(post)
        answers = tuple(_answer(movie, sheet, wrong) for movie in movies)
        if all(answer.accepted for answer in answers):
            with self._changing() as entries:
                entries += [self._take(path, sheet, post) for path in movies]
        return answers

    def _take(self, movie: Path, sheet: SpecSheet, post: Post) -> Entry:
        number = uuid.uuid4().hex[:8]
        kept = self.folder / f"{number} {movie.name}"
        copy_file(movie, kept, keep_times=True)
        return Entry(number, kept.name, sheet.name, post,
                     datetime.now().isoformat(timespec="seconds"))

    def entries(self) -> tuple[Entry, ...]:
        """The schedule, what comes next first. Raises InputError when it is damaged."""
        if not self._schedule.exists():
            return ()
        data = read_bounded(self._schedule, MOST_TEXT_BYTES, "schedule")
        refuse_nesting(data, self._schedule, "schedule")
        try:
            entries = decode_json(data, list[Entry])
        except DecodeError as problem:
            raise InputError(tr("The desk's schedule is damaged."), self._schedule,
                             tr("Move it away; a new one is begun.")) from problem
        return tuple(sorted(entries, key=lambda entry: (entry.post.date, entry.received)))

    def due(self, moment: datetime) -> tuple[Entry, ...]:
        """What should be out by ``moment``."""
        return tuple(entry for entry in self.entries()
                     if not entry.post.date or datetime.fromisoformat(entry.post.date) <= moment)

    def withdraw(self, number: str) -> Entry:
        """Take an entry and its file out of the outbox. Raises InputError when there is none."""
        with self._changing() as entries:
            found = next((entry for entry in entries if entry.id == number), None)
            if found is None:
                raise InputError(tr("The outbox has no entry “{number}”.", number=number),
                                 remedy=tr("Check caracal desk list."))
            file = inside(self.folder, found.file)
            entries.remove(found)
            file.unlink(missing_ok=True)
        return found

    @contextmanager
    def _changing(self) -> Iterator[list[Entry]]:
        """The schedule to change; written whole or not at all, by one program at a time."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            with FileLock(self.folder / ".lock", timeout=WAIT_S, mode=0o666):
                entries = list(self.entries())
                yield entries
                write_bytes(self._schedule,
                            msgspec.json.format(msgspec.json.encode(entries), indent=1))
        except Timeout as problem:
            raise StorageError(tr("Another program is changing this outbox."), self.folder,
                               tr("Wait for it, then try again.")) from problem
        except OSError as problem:
            raise storage_error(self.folder, problem) from problem


def _made_for(bundle: Path) -> dict[str, str]:
    """Names of spec sheets by names of files, where the bundle's report says so."""
    return {name: file.spec for name, file in reported_in(bundle).items()}


def _asked_for(
    movies: list[Path], made_for: dict[str, str], sheet: SpecSheet, names: tuple[str, ...]
) -> list[Path]:
    """Those of ``movies`` called ``names``, or else those that were made for ``sheet``.

    A bundle that does not say what its files were made for is delivered whole.
    """
    unknown = next((name for name in names if all(path.name != name for path in movies)), None)
    if unknown is not None:
        raise InputError(tr("This bundle has no file “{unknown}”.", unknown=unknown),
                         remedy=tr("It has: {movies}.",
                                   movies=", ".join(movie.name for movie in movies)))
    if names:
        return [movie for movie in movies if movie.name in names]
    return [movie for movie in movies
            if base_name(made_for.get(movie.name, sheet.name)) == base_name(sheet.name)]


def _answer(movie: Path, sheet: SpecSheet, wrong: tuple[str, ...]) -> Answer:
    lines = prove(movie, sheet).lines
    reasons = tuple(tr("{what}: {found}, asked {asked}", what=tr(line.what), found=line.found,
                       asked=line.asked) for line in lines
                    if not line.right)
    return Answer(movie.name, not (wrong or reasons), (*wrong, *reasons))


def _wrong(post: Post) -> tuple[str, ...]:
    """What the desk does not like about a post."""
    found = []
    if not post.title.strip():
        found.append(tr("title: none, asked one"))
    for what, length, most in ((mark("title"), len(post.title), TITLE_MOST),
                               (mark("text"), len(post.text), TEXT_MOST)):
        if length > most:
            found.append(tr("{what}: {length} characters; at most {most} are allowed",
                            what=tr(what),
                            length=length, most=most))
    if len(post.tags) > TAGS_MOST:
        found.append(tr("tags: {count}; at most {tags_most} are allowed", count=len(post.tags),
                        tags_most=TAGS_MOST))
    odd = [tag for tag in post.tags if not tag.replace("_", "").isalnum()]
    if odd:
        found.append(tr("tags: “{odd}”; only letters and digits are allowed", odd=odd[0]))
    try:
        moment = datetime.fromisoformat(post.date) if post.date else None
    except ValueError:
        found.append(tr("date: “{date}”; YYYY-MM-DDTHH:MM is required", date=post.date))
    else:
        if moment is not None and moment.tzinfo is not None:
            found.append(tr("date: with a time zone; local time is required"))
        elif moment is not None and moment < datetime.now():
            found.append(tr("date: in the past; a future date is required"))
    return tuple(found)
