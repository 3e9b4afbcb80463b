"""The Sound view: canvases and the version's tracks on the left, the selected sound at the right.
"""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from caracal.core.base.translation import mark, tr
from caracal.core.base.work import Progress
from caracal.core.sound.finished_sound import SoundPlan
from caracal.ui.canvases.canvases import Canvases
from caracal.ui.session.monitoring import MeasuredSound
from caracal.ui.session.played_version import sound_of_version
from caracal.ui.session.reach import EditKind
from caracal.ui.session.session import Session
from caracal.ui.sound.clean_page import CleanPage
from caracal.ui.sound.lanes import SoundLanes
from caracal.ui.sound.track_page import TrackPage
from caracal.ui.widgets.side import Page, Side, beside

WIDE = (740, 400)  # pixels of both, at a window 1280 wide
LEAST_HIGH = 120  # pixels of the canvases in a small window
SOON_MS = 300  # after an edit: typing goes on


class SoundView(QWidget):
    """Canvases above the tracks; what is measured of the version's sound stands below them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.canvases = Canvases(session)
        self.canvases.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
        self.canvases.setMinimumHeight(LEAST_HIGH)
        self.lanes = SoundLanes(session)
        self.head, self.loudness = QLabel(), QLabel()
        self.head.setObjectName("head")
        self.loudness.setObjectName("quiet")
        self.loudness.setWordWrap(True)
        self.tracks = TrackPage(session)
        self.clean = CleanPage(session)
        self.side = Side(session, (
            Page(mark("Tracks"), mark("Beds, effects and voice-over of the version"), self.tracks,
                 EditKind.SOUNDS),
            Page(mark("Clean-up"), mark("Speech without the noise behind it"), self.clean,
                 EditKind.SOUNDS)))
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._measure)
        self._lay_out()
        self.lanes.picked.connect(self.tracks.choose)
        self.tracks.changed.connect(self.sync)
        for signal in (session.project_changed, session.cursor.version_changed, session.grew):
            signal.connect(self.sync)
        for signal in (session.playing.monitoring.measured, session.playing.monitoring.placed):
            signal.connect(self.sync)
        session.playing.monitoring.progressed.connect(self._show_progress)
        self.sync()

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(8)
        left.addWidget(self.canvases, 1)
        left.addWidget(self.head)
        left.addWidget(self.lanes)
        left.addWidget(self.loudness)
        holder = QWidget()
        holder.setLayout(left)
        self.halves = beside(holder, self.side, WIDE)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(12, 12, 8, 12)
        whole.addWidget(self.halves)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.sync()

    def sync(self) -> None:
        """Show the sounds of the chosen version, and what is known of its loudness."""
        session = self._session
        self.head.setText(tr("Sound of version {letter}: {title}", letter=session.letter,
                             title=session.sheet(session.letter).title))
        if self.isVisible():
            self._show(None if not session.found.whole else self._known())
        self.lanes.update()

    def _known(self) -> MeasuredSound | None:
        """What is known of the version's sound; it is measured soon, if it is not."""
        monitoring, wanted = self._session.playing.monitoring, sound_of_version(self._session)
        found = monitoring.peek(wanted)
        if found is None:
            self._soon.start(SOON_MS)
        return found

    def _measure(self) -> None:
        if self.isVisible():
            self._session.playing.monitoring.known(sound_of_version(self._session))

    def _show(self, found: MeasuredSound | None) -> None:
        monitoring = self._session.playing.monitoring
        self.lanes.show_sounds(monitoring.beside(sound_of_version(self._session)),
                               self.tracks.number)
        problem = monitoring.problem
        self.loudness.setObjectName("bad" if found is None and problem else "quiet")
        self.loudness.setStyleSheet("")  # the name of the label says its colour
        if found is not None:
            self.loudness.setText(loudness_words(found.plan))
        elif not self._session.found.whole:
            self.loudness.setText(tr("The sound is measured once the film is analysed."))
        else:
            self.loudness.setText(problem or tr("Measuring the sound…"))

    def _show_progress(self, progress: Progress) -> None:
        self.loudness.setText(tr("{doing}: {percent} %", doing=progress.doing,
                                 percent=int(100 * progress.share)))

    def close_down(self) -> None:
        """Measure nothing more."""
        self._soon.stop()


def loudness_words(plan: SoundPlan) -> str:
    """What the sound of a file has, and what is done to it, in words."""
    if plan.before is None or plan.before.silent:
        return tr("Silence.")
    before = tr("{lufs:.1f} LUFS, true peak {peak:.1f} dBTP", lufs=plan.before.lufs,
                peak=plan.before.true_peak_dbtp)
    if plan.after is None:
        return tr("Loudness: {before}.", before=before)
    after = tr("{lufs:.1f} LUFS, true peak {peak:.1f} dBTP", lufs=plan.after.lufs,
               peak=plan.after.true_peak_dbtp)
    limit = "" if plan.limit_dbtp is None else tr(", limited to {limit:.1f} dBTP",
                                                  limit=plan.limit_dbtp)
    done = tr("Mixed: {before}. In the file: {after} (gain {gain:+.1f} dB{limit}).", before=before,
              after=after, gain=plan.gain_db, limit=limit)
    return " ".join(filter(None, (done, plan.shortfall)))
