"""Above the master: the shot, why its crop is where it is, and its first issue with remedies."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from caracal.core.base.translation import counted, tr
from caracal.core.framing.flags import Flag
from caracal.core.project.edits import with_accepted, with_layout, with_swaps
from caracal.core.project.model import Project
from caracal.ui.session.reach import EditKind
from caracal.ui.session.session import Session
from caracal.ui.session.shot_sentences import ShotWords
from caracal.ui.widgets import theme
from caracal.ui.widgets.panels import small_button

REMEDIES = {  # kinds of layouts, as buttons
    "stack": tr("Show both"), "whole, soft": tr("Show whole picture"),
    "banner": tr("Use a wider crop")}
LINES = 2  # of words that each half has room for: the picture below stays where it is
LINE_HIGH = 18  # pixels


def _wrapped(look: str) -> QLabel:
    label = QLabel()
    label.setObjectName(look)
    label.setWordWrap(True)
    label.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    label.setFixedHeight(theme.scaled(LINES * LINE_HIGH))
    return label


class ShotHead(QWidget):
    """Issues can be resolved by a layout or by cuts between speakers, or accepted with a reason."""

    swaps_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.name = QLabel()
        self.name.setObjectName("head")
        self.why, self.issue = _wrapped("quiet"), _wrapped("quiet")
        self.reason = QLineEdit()
        self.reason.setPlaceholderText(tr("Reason"))
        self.reason.setMinimumWidth(56)
        self.reason.setMaximumWidth(130)
        self.accept = small_button(tr("Accept"), tr("Accept this issue, with a reason"),
                                   self._accept)
        self.reason.returnPressed.connect(self._accept)
        self.swap = small_button(tr("Cut between speakers"),
                                 tr("Both do not fit: cut to the person who speaks (W)"),
                                 self.swaps_asked.emit)
        self.unswap = small_button(tr("Remove speaker cuts"),
                                   tr("The crop keeps its first lead through the whole shot"),
                                   self._remove_swaps)
        self.whole = small_button(tr("Show whole picture"), "", self._take_remedy)
        self.like = small_button("", tr("Give this layout to this shot and to all similar shots "
                                        "with the same issue"), self._take_remedy_in_like_shots)
        self._alike: tuple[int, tuple[int, ...]] | None = None
        first = QHBoxLayout()
        first.setSpacing(12)
        first.addWidget(self.name)
        first.addWidget(self.why, 1)
        second = QHBoxLayout()
        second.setSpacing(8)
        second.addWidget(self.issue, 1)
        for item in (self.whole, self.like, self.swap, self.unswap, self.reason, self.accept):
            second.addWidget(item)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(first)
        column.addLayout(second)
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self._renew)
        session.cursor.frame_changed.connect(lambda _: self.sync())
        self.sync()

    def _renew(self) -> None:
        """Other remedies may be offered now."""
        self._alike = None
        self.sync()

    def sync(self) -> None:
        """Show the current shot, its reason, and its issue or what was rejected."""
        session = self._session
        words = session.told(session.letter, session.shot)
        flag = words.flags[0] if words.flags else None
        self.name.setText(tr("Shot {shot}, {letter} {shape}: {lead}", shot=session.shot + 1,
                             letter=session.letter, shape=session.sheet(session.letter).shape,
                             lead=words.lead))
        self.why.setText(words.why)
        self.why.setToolTip(words.why)
        for part in (self.reason, self.accept):
            part.setVisible(flag is not None)
        swaps = session.project.choice(session.letter, session.shot).swaps
        self.unswap.setVisible(bool(swaps))
        self.whole.setVisible(words.offered is not None)
        like = self._like() if words.offered is not None else ()
        self.like.setVisible(bool(like))
        self.like.setText(tr("And {count} similar", count=len(like)))
        if words.offered is not None:
            self.whole.setText(REMEDIES.get(words.offered.name, words.offered.name))
            self.whole.setToolTip(words.offered.words)
        self.swap.setVisible(not swaps and bool(words.left_out[1:]))
        self._show_issue(flag, words, bool(swaps))

    def _show_issue(self, flag: Flag | None, words: ShotWords, swapped: bool) -> None:
        look = "bad" if flag else "quiet"
        if look != self.issue.objectName():  # restyling takes milliseconds
            self.issue.setObjectName(look)
            self.issue.style().polish(self.issue)
        said = f"▲ {flag.sentence}" if flag is not None else self._remark(words, swapped)
        self.issue.setText(said)
        self.issue.setToolTip(said)

    def _remark(self, words: ShotWords, swapped: bool) -> str:
        """What is said of a shot without an issue."""
        session = self._session
        if words.accepted:
            kind = words.accepted[0].kind
            reason = session.project.accepted_kinds(session.letter, session.shot)[kind]
            return tr("Accepted ({kind}): {reason}", kind=tr(kind), reason=reason)
        others = session.alternatives(session.letter, session.shot)
        if others:
            return tr("Rejected: ") + ", ".join(other.sentence() for other in others)
        outside = words.left_out[1:]
        if not outside or swapped:
            return ""
        names = " and ".join(session.people.name(session.shot, subject.id) for subject in outside)
        return tr("{names} does not fit beside the lead.", names=names.capitalize())

    def _accept(self) -> None:
        session = self._session
        flags = session.flags(session.letter, session.shot)
        if not flags:
            return
        reason = self.reason.text().strip() or tr("reviewed and intended")
        self.reason.clear()
        session.edit(
            with_accepted(session.project, session.letter, session.shot, flags[0].kind, reason),
            tr("Shot {shot}, {letter}: {kind} accepted", shot=session.shot + 1,
               letter=session.letter, kind=tr(flags[0].kind)))

    def _take_remedy(self) -> None:
        session = self._session
        kind = session.told(session.letter, session.shot).offered
        if kind is None:
            return

        def change(project: Project, letter: str, shot: int) -> Project:
            return with_layout(project, letter, shot, kind.make(session.sheet(letter).frame))

        session.editing.edit(EditKind.LAYOUT, tr("layout {name}", name=tr(kind.name)), change)

    def _like(self) -> tuple[int, ...]:
        """The other shots of this set-up with the same remedy: searched once for a shot,
        among those that are solved."""
        session = self._session
        if self._alike is None or self._alike[0] != session.shot:
            kind = session.told(session.letter, session.shot).offered
            self._alike = (session.shot, tuple(
                shot for shot in session.editing.similar_shots_of(session.shot)
                if session.is_solved(session.letter, shot)
                and session.told(session.letter, shot).offered == kind))
        return self._alike[1]

    def _take_remedy_in_like_shots(self) -> None:
        session = self._session
        kind = session.told(session.letter, session.shot).offered
        if kind is None:
            return
        project, layout = session.project, kind.make(session.sheet(session.letter).frame)
        shots = (session.shot, *self._like())
        for shot in shots:
            project = with_layout(project, session.letter, shot, layout)
        session.edit(project, tr("{shots}, {letter}: layout {name}",
                                 shots=counted(len(shots), "{count} shot", "{count} shots"),
                                 letter=session.letter, name=tr(kind.name)))

    def _remove_swaps(self) -> None:
        session = self._session
        session.edit(with_swaps(session.project, session.letter, session.shot, ()),
                     tr("Shot {shot}, {letter}: speaker cuts removed", shot=session.shot + 1,
                        letter=session.letter))
