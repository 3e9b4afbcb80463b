"""What can be done with captions: each action is one step that undoes."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, Signal

from caracal.core.base.errors import CaracalError
from caracal.core.base.paths import text_of
from caracal.core.base.translation import counted, tr
from caracal.core.exchange.caption_files import read_captions, write_captions
from caracal.core.project.caption_edits import (
    with_captions,
    with_captions_mended,
    with_cue,
    with_cue_added,
    with_cue_joined,
    with_cue_parted,
    with_cue_text,
    with_words_replaced,
    without_cues,
)
from caracal.core.project.caption_match import captions_doubt
from caracal.core.project.model import Project
from caracal.core.text.cues import Cue, cues_in, frames_of, moved
from caracal.ui.session.session import Session

NEW_WORDS = tr("New caption")


class CueActions(QObject):
    """Acts on the chosen caption of an open film; ``chosen`` tells which that is now."""

    chosen = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.number = -1
        self.imports = 0  # files that were imported
        self.may_import: Callable[[str], bool] = lambda _: True  # asked where there is a doubt

    @property
    def cues(self) -> tuple[Cue, ...]:
        """Returns the captions of the film, in their order."""
        return self._session.project.captions

    @property
    def cue(self) -> Cue | None:
        """Returns the chosen caption; None: none is chosen."""
        return self.cues[self.number] if 0 <= self.number < len(self.cues) else None

    @property
    def rate(self) -> Fraction:
        """Frames a second of the film."""
        return self._session.analysis.master.rate

    @property
    def _film_s(self) -> float:
        return float(self._session.analysis.master.frames / self.rate)

    def at(self, frame: int) -> int:
        """The number of the caption that is seen at ``frame``, or of the last one before it."""
        time_s = (frame + 0.5) / float(self.rate)
        return bisect_right(self.cues, time_s, key=lambda cue: cue.start_s) - 1

    def choose(self, number: int, go: bool = True) -> None:
        """Choose caption ``number``; ``go`` to its first frame."""
        self.number = max(-1, min(number, len(self.cues) - 1))
        self.chosen.emit(self.number)
        if go and self.cue is not None:
            self._session.go(frames_of(self.cue.start_s, self.cue.end_s, self.rate)[0])

    def step(self, by: int) -> None:
        """To the next caption, or the one before."""
        self.choose(max(0, self.number + by))

    def _edit(self, change: Callable[[], Project], words: str, gesture: object | None = None,
              then: int | None = None) -> bool:
        try:
            project = change()
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())
            return False
        self._session.edit(project, words, gesture)
        self.choose(self.number if then is None else then, go=False)
        return True

    def write(self, text: str) -> None:
        """The chosen caption says ``text``."""
        number = self.number
        if self.cue is not None and text.strip() and text != self.cue.text:
            self._edit(lambda: with_cue_text(self._session.project, number, text),
                       tr("Edit caption {number}", number=number + 1), ("caption text", number))

    def set_times(self, start_s: float, end_s: float, gesture: object | None = None) -> None:
        """The chosen caption is seen from ``start_s`` to ``end_s``."""
        cue, session = self.cue, self._session
        if cue is None:
            return
        changed = msgspec.structs.replace(cue, start_s=round(start_s, 3), end_s=round(end_s, 3))
        try:
            project, number = with_cue(session.project, self.number, changed)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            self.choose(self.number, go=False)
            return
        session.edit(project, tr("Change times of caption {number}", number=number + 1), gesture)
        self.choose(number, go=False)

    def start_here(self) -> None:
        """The chosen caption begins at the playhead."""
        if self.cue is not None:
            self.set_times(self._session.frame / float(self.rate), self.cue.end_s)

    def end_here(self) -> None:
        """The chosen caption ends after the playhead's frame."""
        if self.cue is not None:
            self.set_times(self.cue.start_s, (self._session.frame + 1) / float(self.rate))

    def nudge(self, frames: int) -> None:
        """The chosen caption comes so many frames later."""
        cue = self.cue
        if cue is not None:
            later = moved(cue, max(frames / float(self.rate), -cue.start_s))
            number = self.number
            self._edit(lambda: with_cue(self._session.project, number, later)[0],
                       tr("Move caption {number}", number=number + 1), ("caption nudge", number))

    def add(self) -> None:
        """A new caption at the playhead."""
        session, number = self._session, [0]

        def change() -> Project:
            project, number[0] = with_cue_added(
                session.project, session.frame / float(self.rate), self._film_s, NEW_WORDS)
            return project

        if self._edit(change, tr("Add caption")):
            self.choose(number[0], go=False)

    def remove(self, numbers: list[int]) -> None:
        """The chosen captions are taken away; undo brings them back."""
        if numbers:
            count = len(numbers)
            self._edit(lambda: without_cues(self._session.project, numbers),
                       tr("Delete {captions}",
                          captions=counted(count, "{count} caption", "{count} captions")),
                       then=min(numbers))

    def part(self, at: int) -> None:
        """The chosen caption becomes two, before the word at character ``at``."""
        if self.cue is not None:
            number = self.number
            self._edit(lambda: with_cue_parted(self._session.project, number, at),
                       tr("Split caption {number}", number=number + 1))

    def join(self) -> None:
        """The chosen caption and the next become one."""
        if self.cue is not None:
            number = self.number
            self._edit(lambda: with_cue_joined(self._session.project, number),
                       tr("Join captions {first} and {second}", first=number + 1,
                          second=number + 2))

    def replace(self, find: str, by: str) -> None:
        """Words give way to others in all captions."""
        project, count = with_words_replaced(self._session.project, find, by)
        if not count:
            self._session.said.emit(tr("No caption contains “{find}”.", find=find) if find
                                    else tr("Type the words to find."))
            return
        self._edit(lambda: project, tr("Replace “{find}” {times}", find=find,
                                       times=counted(count, "{count} time", "{count} times")))

    def find(self, words: str) -> None:
        """To the next caption that has ``words``."""
        count = len(self.cues)
        for step in range(1, count + 1):
            number = (self.number + step) % count
            if words.lower() in self.cues[number].text.lower():
                self.choose(number)
                return
        self._session.said.emit(tr("No caption contains “{words}”.", words=words))

    def mend(self) -> None:
        """Overlaps and flickering gaps go; captions are seen longer where there is room."""
        session = self._session
        made = with_captions_mended(session.project, self.rate, self._film_s)
        kept = set(made.captions)  # there may be fewer: some are joined
        changed = sum(cue not in kept for cue in session.project.captions)
        if not changed:
            session.said.emit(tr("Nothing can be fixed by moving ends. Shorten the texts, or "
                                 "split them."))
            return
        captions = counted(changed, "{count} caption", "{count} captions")
        self._edit(lambda: made, tr("Fix timing of {captions}", captions=captions))

    def take_in(self, path: Path) -> bool:
        """Import the captions of the file at ``path``. Returns whether they were imported."""
        session = self._session
        try:
            read = read_captions(path)
            project = with_captions(session.project, read.cues, text_of(path))
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return False
        doubt = captions_doubt(read.cues, session.found)
        if doubt and not self.may_import(doubt):
            return False
        mended = f" {' '.join(read.mended)}" if read.mended else ""
        captions = counted(len(read.cues), "{count} caption", "{count} captions")
        session.edit(project, tr("Import {captions} from {name}.{mended}", captions=captions,
                                 name=path.name, mended=mended))
        self.imports += 1
        self.choose(0, go=False)
        return True

    def give_out(self, path: Path, letter: str = "") -> None:
        """Write the film's captions, or those of a version in its own time, to ``path``."""
        session, cues = self._session, self.cues
        if letter:
            version = session.project.version(letter)
            opening = version.opening.frames if version.opening else 0
            cues = cues_in(cues, session.project.ranges_of(letter), self.rate,
                           float(opening / self.rate))
        try:
            write_captions(path, cues, [session.film])
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        session.said.emit(tr("{captions} exported to {name}.",
                             captions=counted(len(cues), "{count} caption", "{count} captions"),
                             name=path.name))
