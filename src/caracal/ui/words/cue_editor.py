"""The chosen caption: its text, its times, and what is done with it."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPlainTextEdit, QVBoxLayout, QWidget

from caracal.core.base.errors import InputError
from caracal.core.base.time import frame_of_timecode, timecode
from caracal.core.base.translation import counted, tr
from caracal.core.text.cues import frames_of
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.panels import small_button
from caracal.ui.words.cue_actions import CueActions

TEXT_HIGH, TIME_WIDE = 70, 108


class CueEditor(QWidget):
    """Type, and it is seen; every pause in typing is one step."""

    def __init__(self, session: Session, actions: CueActions) -> None:
        super().__init__()
        self._session, self._actions = session, actions
        self.text = QPlainTextEdit()
        self.text.setFixedHeight(TEXT_HIGH)
        self.text.setTabChangesFocus(True)
        self.text.setToolTip(tr("Text of the selected caption. A line break here is kept where it "
                                "fits; each shape breaks its own lines"))
        self.text.textChanged.connect(lambda: actions.write(self.text.toPlainText()))
        self.times = {}
        times = QHBoxLayout()
        times.setSpacing(8)
        for name, tip in ((tr("In"), tr("The first frame with the caption")),
                          (tr("Out"), tr("The first frame without the caption"))):
            field = QLineEdit()
            field.setFixedWidth(theme.scaled(TIME_WIDE))
            field.setToolTip(tr("{tip}, as hours:minutes:seconds:frames or in seconds", tip=tip))
            field.editingFinished.connect(self._typed_times)
            label = QLabel(name)
            label.setObjectName("quiet")
            times.addWidget(label)
            times.addWidget(field)
            self.times[name] = field
        self.speed = QLabel()
        self.speed.setObjectName("quiet")
        times.addWidget(self.speed, 1)
        row = QHBoxLayout()
        row.setSpacing(8)
        for name, tip, run in (
                (tr("Set start"), tr("The caption starts at the playhead (Ctrl+[)"),
                 actions.start_here),
                (tr("Set end"), tr("The caption ends after the playhead's frame (Ctrl+])"),
                 actions.end_here),
                (tr("Split"), tr("Split before the word at the cursor (Ctrl+Shift+D)"),
                 self.split),
                (tr("Join"), tr("Join with the next caption (Ctrl+J)"), actions.join),
                (tr("Add"), tr("Add a caption at the playhead (Ins)"), actions.add),
                (tr("Delete"), tr("Delete the caption (Del in the list)"),
                 lambda: actions.remove([actions.number] if actions.cue else []))):
            row.addWidget(small_button(name, tip, run))
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.text)
        column.addLayout(times)
        column.addLayout(row)
        actions.chosen.connect(lambda _: self.sync())
        session.project_changed.connect(self.sync)
        self.sync()

    def split(self) -> None:
        """Split the chosen caption at the text cursor."""
        self._actions.part(self.text.textCursor().position())

    def sync(self) -> None:
        """Show the chosen caption."""
        cue, rate = self._actions.cue, self._actions.rate
        for widget in (self.text, *self.times.values()):
            widget.setEnabled(cue is not None)
        with QSignalBlocker(self.text):
            if (cue.text if cue else "") != self.text.toPlainText() and not (
                    cue and self.text.hasFocus() and not self.text.toPlainText().strip()):
                self.text.setPlainText(cue.text if cue else "")
        if cue is None:
            for field in self.times.values():
                field.clear()
            self.speed.clear()
            return
        for field, frame in zip(self.times.values(), frames_of(cue.start_s, cue.end_s, rate),
                                strict=True):
            field.setText(timecode(frame, rate))
        count = len(cue.text.split())
        self.speed.setText(tr("{words}, {count:.0f} words per minute",
                              words=counted(count, "{count} word", "{count} words"),
                              count=count / cue.seconds * 60))

    def _typed_times(self) -> None:
        cue, rate = self._actions.cue, self._actions.rate
        if cue is None:
            return
        try:
            now = [frame_of_timecode(field.text(), rate) for field in self.times.values()]
        except (InputError, ValueError) as problem:
            self._session.said.emit(problem.sentence() if isinstance(problem, InputError)
                                    else str(problem))
            self.sync()
            return
        if tuple(now) != frames_of(cue.start_s, cue.end_s, rate):
            start, end = (frame / float(rate) for frame in now)
            self._actions.set_times(start, end)
