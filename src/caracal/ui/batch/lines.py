"""The lower half of Batch: the list with everything that is, was and will be made."""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from caracal.core.base.paths import path_of
from caracal.core.base.time import short_time
from caracal.core.base.translation import mark, tr
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import Item, State
from caracal.ui.services.batch_controller import BatchController
from caracal.ui.widgets import theme
from caracal.ui.widgets.elided import Elided
from caracal.ui.widgets.tables import Cell, Row, Rows, chosen_rows, table

HEADS = (tr("State"), tr("Film"), tr("Version"), tr("Estimated size"), tr("Written"), tr("Speed"),
         tr("Time left"))
COLOURS = {State.DONE: theme.GOOD, State.FAILED: theme.BAD, State.ENCODING: theme.ACCENT,
           State.PROVING: theme.ACCENT}


class LineAction(StrEnum):
    """What can be done to the list or its chosen lines; the value is the word of its button."""

    GO_ON = mark("Resume")
    PAUSE = mark("Pause")
    STOP = mark("Stop")
    RETRY = mark("Retry")
    UP = mark("Up")
    DOWN = mark("Down")
    FORGET = mark("Remove")
    CLEAR = mark("Clear finished")


TIPS = {
    LineAction.GO_ON: tr("Encode queued items"),
    LineAction.PAUSE: tr("Pause encoding; what is encoded stays"),
    LineAction.STOP: tr("Stop the selected items; partial files are deleted"),
    LineAction.RETRY: tr("Queue the selected items again that failed or were stopped"),
    LineAction.UP: tr("Encode the selected item earlier"),
    LineAction.DOWN: tr("Encode the selected item later"),
    LineAction.FORGET: tr("Remove the selected items from the list; files stay"),
    LineAction.CLEAR: tr("Remove all finished items from the list; files stay"),
}


class Lines(QWidget):
    """Everything that can be done to lines of the list has a button here."""

    chosen_changed = Signal()

    def __init__(self, working: BatchController) -> None:
        super().__init__()
        self._working = working
        self._rows = Rows(HEADS)
        self._made: dict[int, tuple[Item, Row]] = {}  # what was shown of each line
        self.table = table(self._rows, 1, 26, many=True, name=tr("Batch list"))
        self.buttons: dict[LineAction, QPushButton] = {}
        self._run: dict[LineAction, Callable[[], None]] = {
            LineAction.GO_ON: working.go_on,
            LineAction.PAUSE: self._pause,
            LineAction.STOP: lambda: self._on_chosen(BatchList.stop),
            LineAction.RETRY: self._retry,
            LineAction.UP: lambda: self._move(-1),
            LineAction.DOWN: lambda: self._move(1),
            LineAction.FORGET: lambda: self._on_chosen(BatchList.remove),
            LineAction.CLEAR: self._clear,
        }
        self._head = Elided()
        self._head.setObjectName("head")
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self._head, 1)
        for action, tip in TIPS.items():
            button = QPushButton(tr(action))
            button.setObjectName("slim")
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, line_action=action: self.do(line_action))
            row.addWidget(button)
            self.buttons[action] = button
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(row)
        column.addWidget(self.table, 1)
        working.changed.connect(self.sync)
        self.table.selectionModel().selectionChanged.connect(self._chosen)
        self.sync()

    def sync(self) -> None:
        """Show the list as it is."""
        items, working = self._working.items, self._working
        for item in items:
            if item.id not in self._made or self._made[item.id][0] is not item:
                self._made[item.id] = (item, _row(item))
        self._rows.show(tuple(self._made[item.id][1] for item in items))
        ended = sum(item.state.ended for item in items)
        left = [item.status.progress.left_s for item in items
                if item.state.busy and item.status.progress and item.status.progress.left_s]
        words = tr("Batch list: {ended} of {count} finished", ended=ended,
                   count=len(items)) if items else (
            tr("Batch list: empty. Tick versions above and press Make versions."))
        if working.paused:
            words += tr(", paused")
        elif left:
            words += tr(", {short_time} left", short_time=short_time(max(left)))
        self._head.setText(words)
        self.buttons[LineAction.PAUSE].setText(tr("Resume") if working.paused else tr("Pause"))
        self._enable()

    def do(self, action: LineAction) -> None:
        """Do ``action``, if it can be done now."""
        if self._possible()[action]:
            self._run[action]()

    def _enable(self) -> None:
        for action, possible in self._possible().items():
            self.buttons[action].setEnabled(possible)

    def _possible(self) -> dict[LineAction, bool]:
        chosen, items = self.chosen(), self._working.items
        states = {item.state for item in chosen}
        busy = any(item.state.busy for item in items)
        return {
            LineAction.GO_ON: self._working.waiting > 0 and not self._working.running,
            LineAction.PAUSE: busy or self._working.paused or self._working.running,
            LineAction.STOP: any(state.busy or state is State.WAITING for state in states),
            LineAction.RETRY: bool(states & {State.FAILED, State.STOPPED}),
            LineAction.UP: len(chosen) == 1,
            LineAction.DOWN: len(chosen) == 1,
            LineAction.FORGET: any(not state.busy for state in states),
            LineAction.CLEAR: any(item.state is State.DONE for item in items),
        }

    def chosen(self) -> list[Item]:
        """Returns the numbers of the selected lines."""
        items = self._working.items
        return [items[row] for row in chosen_rows(self.table) if row < len(items)]

    def _chosen(self) -> None:
        self._enable()
        self.chosen_changed.emit()

    def _on_chosen(self, do: Callable[[BatchList, list[int]], None]) -> None:
        numbers = [item.id for item in self.chosen()]
        self._working.do(lambda jobs: do(jobs, numbers))

    def _retry(self) -> None:
        self._on_chosen(BatchList.retry)
        self._working.go_on()

    def _clear(self) -> None:
        self._working.do(BatchList.clear)

    def _pause(self) -> None:
        on = not self._working.paused
        self._working.do(lambda jobs: jobs.set("paused", on))
        if not on and self._working.waiting:
            self._working.go_on()

    def _move(self, by: int) -> None:
        (item,) = self.chosen()
        self._working.do(lambda jobs: jobs.move(item.id, by))
        row = [item.id for item in self._working.items].index(item.id)
        self.table.selectRow(row)


def _row(item: Item) -> Row:
    work, told, sheet = item.job, item.status, item.job.recipe.sheet
    progress = told.progress
    state = f"{tr(progress.doing)} {progress.done / max(1, progress.total):.0%}" if (
        item.state.busy and progress) else tr(item.state)
    if item.asked:
        state = tr("stopping")
    size = sum(
        Path(result.file).stat().st_size for result in told.made if Path(result.file).is_file()
    )
    so_far = progress.written_bytes if progress else size
    speed = f"{progress.frames_s:.0f} fps" if progress and progress.frames_s else ""
    left = short_time(progress.left_s) if progress and progress.left_s is not None else ""
    return (
        Cell(state, COLOURS.get(item.state, ""), told.problem),
        Cell(path_of(work.master).name, tip=work.master),
        Cell(f"{work.recipe.label}   {sheet.title}".strip(), tip=work.folder),
        Cell(f"{work.expected_mb:.0f} MB" if work.expected_mb else ""),
        Cell(f"{so_far / 1e6:.1f} MB" if so_far else ""), Cell(speed), Cell(left),
    )
