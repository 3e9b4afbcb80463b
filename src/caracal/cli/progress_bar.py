"""A bar of progress on standard error, where that is a terminal; nothing elsewhere."""

from __future__ import annotations

import sys
from types import TracebackType
from typing import TYPE_CHECKING

from caracal.core.base.errors import on_one_line
from caracal.core.base.time import short_time
from caracal.core.base.translation import tr
from caracal.core.base.work import Progress

if TYPE_CHECKING:
    import rich.progress

_telling = {"progress": True}


def tell_progress(on: bool) -> None:
    """Whether progress is told on a terminal."""
    _telling["progress"] = on


class ProgressBar:
    """Shown from the first step that is told until the end of the ``with``, and wiped then."""

    def __init__(self) -> None:
        self._bar: rich.progress.Progress | None = None

    def __enter__(self) -> ProgressBar:
        return self

    def __exit__(self, kind: type[BaseException] | None, problem: BaseException | None,
                 trace: TracebackType | None) -> None:
        if self._bar is not None:
            self._bar.stop()

    def tell(self, progress: Progress) -> None:
        """Show how far the work is."""
        left = "" if progress.left_s is None else tr("{short_time} left",
                                                     short_time=short_time(progress.left_s))
        self.show(progress.doing, progress.share, left)

    def show(self, doing: str, share: float, left: str) -> None:
        """Show what is done, its ``share`` from 0 to 1, and how long it takes, in words."""
        if not (_telling["progress"] and sys.stderr.isatty()):
            return
        if self._bar is None:
            self._bar = _bar()
            self._bar.add_task(doing, total=1.0, left=left)
            self._bar.start()
        self._bar.update(self._bar.task_ids[0], description=doing, completed=share, left=left)

    def line(self, text: str) -> None:
        """Write a line that stays, above the bar."""
        text = on_one_line(text)
        if self._bar is None:
            sys.stderr.write(f"{text}\n")
        else:
            self._bar.console.print(text, markup=False, highlight=False, soft_wrap=True)


def _bar() -> rich.progress.Progress:
    from rich.console import Console  # noqa: PLC0415 - only a terminal needs it
    from rich.progress import BarColumn, Progress, TextColumn  # noqa: PLC0415

    return Progress(
        TextColumn("{task.description}", markup=False), BarColumn(bar_width=24),
        TextColumn("{task.percentage:>3.0f} %"), TextColumn("{task.fields[left]}", markup=False),
        console=Console(stderr=True), transient=True, refresh_per_second=5,
        redirect_stdout=False, redirect_stderr=False)
