"""The second row of Aim: what is wrong or was rejected at the left, the window's numbers right."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QDoubleSpinBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QWidget

from caracal.core.analysis.film_pass.setups import similar_shots
from caracal.core.base.translation import counted, tr
from caracal.core.framing.choice import Keyframe
from caracal.core.project.edits import (
    MOST_ZOOM,
    with_accepted,
    with_layout,
    with_swaps,
)
from caracal.core.project.keyframe_edits import (
    with_keyframe,
    with_zoom,
)
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.elided import Elided

OFFERS = {  # kinds of layouts, as buttons
    "stack": tr("Show both"), "whole, soft": tr("Show it whole"), "banner": tr("Show it wider")}


class Numbers(QWidget):
    """Flags can be accepted with a reason; the window's middle and zoom can be typed."""

    swaps_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._words = Elided()
        self._words.setObjectName("quiet")
        self.reason = QLineEdit()
        self.reason.setPlaceholderText(tr("why it is all right"))
        self.reason.setMinimumWidth(56)
        self.reason.setMaximumWidth(170)
        self.accept = QPushButton(tr("Accept"))
        self.accept.setObjectName("small")
        self.accept.setToolTip(tr("It is meant to be so: the flag is put away with your reason"))
        self.accept.clicked.connect(self._accept)
        self.reason.returnPressed.connect(self._accept)
        self.swap = QPushButton(tr("Swap speakers"))
        self.swap.setObjectName("small")
        self.swap.setToolTip(tr("Both do not fit: jump to whoever speaks (W)"))
        self.swap.clicked.connect(self.swaps_asked)
        self.whole = QPushButton(tr("Show it whole"))
        self.whole.setObjectName("small")
        self.whole.clicked.connect(self._take_suggested)
        self.unswap = QPushButton(tr("Remove swaps"))
        self.unswap.setObjectName("small")
        self.unswap.setToolTip(tr("The window keeps its first lead through the whole shot"))
        self.unswap.clicked.connect(self._remove_swaps)
        width, height = session.analysis.master.width, session.analysis.master.height
        self.across = self._box(tr("Middle of the window, across"), 0, width, 1, " px")
        self.down = self._box(tr("Middle of the window, down"), 0, height, 1, " px")
        self.zoom = self._box(tr("Zoom of the window in this shot"), 1, MOST_ZOOM, 0.05, " ×")
        self.zoom.setDecimals(2)
        self.like = QPushButton()
        self.like.setObjectName("small")
        self.like.setToolTip(tr("Lay this shot out so, and all others of its set-up in which the "
                                "same is offered"))
        self.like.clicked.connect(lambda _=False: self._take_in_like_shots())
        self._alike: tuple[int, tuple[int, ...]] | None = None
        self.free = QPushButton(tr("Auto"))
        self.free.setAccessibleName(tr("Auto zoom"))
        self.free.setObjectName("small")
        self.free.setCheckable(True)
        self.free.setToolTip(tr("The window may come closer by itself where that shows the lead "
                                "better; off: the zoom stays as it is"))
        self.free.clicked.connect(self._set_free)
        self._lay_out()
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self._renew)
        session.cursor.frame_changed.connect(lambda _: self.sync())
        self.sync()

    def _lay_out(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(self._words, 1)
        for item in (self.whole, self.like, self.reason, self.accept, self.swap, self.unswap):
            row.addWidget(item)
        for name, box in ((tr("Middle"), self.across), ("", self.down), (tr("Zoom"), self.zoom)):
            if name:
                label = QLabel(name)
                label.setObjectName("quiet")
                row.addWidget(label)
            row.addWidget(box)
        row.addWidget(self.free)

    def _box(self, tip: str, low: float, high: float, step: float, unit: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setRange(low, high)
        box.setSingleStep(step)
        box.setDecimals(1)
        box.setSuffix(unit)
        box.setKeyboardTracking(False)
        box.setToolTip(tr("{tip}: type a number, or step it with the arrow keys", tip=tip))
        box.setFixedWidth(theme.scaled(80))
        box.setAlignment(Qt.AlignmentFlag.AlignRight)
        box.valueChanged.connect(lambda _: self._typed(box))
        return box

    def _renew(self) -> None:
        """Anything may be offered otherwise now."""
        self._alike = None
        self.sync()

    def sync(self) -> None:
        """Show the current shot's flags or alternatives, and the window at this frame."""
        session = self._session
        words = session.told(session.letter, session.shot)
        flag = words.flags[0] if words.flags else None
        for part in (self.reason, self.accept):
            part.setVisible(flag is not None)
        choice = session.project.choice(session.letter, session.shot)
        swaps = choice.swaps
        self.unswap.setVisible(bool(swaps))
        self.whole.setVisible(words.offered is not None)
        like = self._like() if words.offered is not None else ()
        self.like.setVisible(bool(like))
        self.like.setText(tr("And in {count} like it", count=len(like)))
        if words.offered is not None:
            self.whole.setText(OFFERS.get(words.offered.name, words.offered.name))
            self.whole.setToolTip(words.offered.words)
        outside = words.left_out[1:]
        self.swap.setVisible(not swaps and bool(outside))
        look = "bad" if flag else "quiet"
        if look != self._words.objectName():  # styling anew takes milliseconds
            self._words.setObjectName(look)
            self._words.style().polish(self._words)
        if flag is not None:
            self._words.setText(f"▲ {flag.sentence}")
        elif words.accepted:
            reason = session.project.accepted_kinds(
                session.letter, session.shot)[words.accepted[0].kind]
            self._words.setText(tr("Accepted ({kind}): {reason}", kind=tr(words.accepted[0].kind),
                                   reason=reason))
        else:
            others = session.alternatives(session.letter, session.shot)
            said = (tr("Rejected: ") + ", ".join(other.sentence() for other in others)
                    if others else "")
            if not said and outside and not swaps:
                names = " and ".join(session.people.name(session.shot, subject.id)
                                     for subject in outside)
                said = tr("{names} cannot fit beside the lead.", names=names.capitalize())
            self._words.setText(said)
        self._show_numbers()

    def _show_numbers(self) -> None:
        session = self._session
        x, y, w, h = session.pane.window
        zoom = session.pane.zoom
        self.free.setChecked(session.pane.framing.zoom is None)
        for box, value in ((self.across, x + w / 2), (self.down, y + h / 2), (self.zoom, zoom)):
            if box.hasFocus() and box.lineEdit().isModified():
                continue  # somebody types here
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)

    def _typed(self, box: QDoubleSpinBox) -> None:
        session = self._session
        if box is self.zoom:
            session.edit(with_zoom(session.project, session.letter, session.shot, box.value(),
                                   session.pane.role),
                         tr("Window of {letter} zoomed.", letter=session.letter),
                         ("zoom box", session.letter, session.shot, session.pane.role))
            return
        key = Keyframe(session.frame, (self.across.value(), self.down.value()))
        role = session.pane.role
        session.edit(with_keyframe(session.project, session.letter, session.shot, key, role),
                     tr("Keyframe of {letter} typed.", letter=session.letter),
                     ("middle boxes", session.letter, session.frame, role))

    def _set_free(self, on: bool) -> None:
        session = self._session
        zoom = None if on else session.pane.zoom
        session.edit(with_zoom(session.project, session.letter, session.shot, zoom,
                               session.pane.role),
                     tr("Zoom of {letter} found by itself.", letter=session.letter) if on
                     else tr("Zoom of {letter} held.", letter=session.letter))

    def nudge(self, dx: float, dy: float) -> None:
        """Move the window at this frame by (dx, dy) master pixels: a keyframe."""
        session = self._session
        key, role = session.pane.key, session.pane.role
        moved = msgspec.structs.replace(key, centre=(key.centre[0] + dx, key.centre[1] + dy))
        session.edit(with_keyframe(session.project, session.letter, session.shot, moved, role),
                     tr("Window of {letter} nudged.", letter=session.letter),
                     ("nudge", session.letter, session.frame, role))

    def _accept(self) -> None:
        session = self._session
        flags = session.flags(session.letter, session.shot)
        if not flags:
            return
        reason = self.reason.text().strip() or tr("looked at, and meant")
        self.reason.clear()
        session.edit(
            with_accepted(session.project, session.letter, session.shot, flags[0].kind, reason),
            tr("Accepted in shot {shot}: {kind}.", shot=session.shot + 1, kind=tr(flags[0].kind)))

    def _take_suggested(self) -> None:
        session = self._session
        self._lay_out_as_offered((session.shot,))

    def _take_in_like_shots(self) -> None:
        self._lay_out_as_offered((self._session.shot, *self._like()))

    def _like(self) -> tuple[int, ...]:
        """The other shots of this set-up in which the same is offered: found once for a shot."""
        session = self._session
        if self._alike is None or self._alike[0] != session.shot:
            kind = session.told(session.letter, session.shot).offered
            self._alike = (session.shot, tuple(
                shot for shot in similar_shots(session.analysis, session.shot)
                if session.told(session.letter, shot).offered == kind))
        return self._alike[1]

    def _lay_out_as_offered(self, shots: tuple[int, ...]) -> None:
        session = self._session
        kind = session.told(session.letter, session.shot).offered
        if kind is None:
            return
        project, layout = session.project, kind.make(session.sheet(session.letter).frame)
        for shot in shots:
            project = with_layout(project, session.letter, shot, layout)
        where = (tr("Shot {shot}", shot=shots[0] + 1) if len(shots) == 1
                 else counted(len(shots), "{count} shot", "{count} shots"))
        session.edit(project, tr("{where} in {letter}: {words}", where=where, letter=session.letter,
                                 words=kind.words))

    def _remove_swaps(self) -> None:
        session = self._session
        session.edit(with_swaps(session.project, session.letter, session.shot, ()),
                     tr("Shot {shot} in {letter} keeps one lead.", shot=session.shot + 1,
                        letter=session.letter))
