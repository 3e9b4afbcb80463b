"""How far the noise behind speech is lowered."""

from __future__ import annotations

from PySide6.QtWidgets import QButtonGroup, QRadioButton, QVBoxLayout, QWidget

from caracal.core.base.translation import mark, tr
from caracal.core.layout.added_sound import CleanStrength
from caracal.core.project.sound_edits import with_clean
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets.form import button_row
from caracal.ui.widgets.panels import quiet, small_button

ABOUT = {
    CleanStrength.NONE: mark("The original sound"),
    CleanStrength.MILD: mark("6 dB less noise: a room that can still be heard"),
    CleanStrength.USUAL: mark("12 dB less noise: right for most interviews"),
    CleanStrength.ALL: mark("All noise that can be taken out: for loud streets and fans"),
}


class CleanPage(QWidget):
    """One choice of four, and a switch to compare while it plays."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.choices: dict[CleanStrength, QRadioButton] = {}
        self._group = QButtonGroup(self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        for strength, about in ABOUT.items():
            button = QRadioButton(tr(strength.value).capitalize())
            button.setToolTip(tr(about))
            button.clicked.connect(lambda _=False, strength=strength: self._set(strength))
            self._group.addButton(button)
            self.choices[strength] = button
            words = quiet(tr(about))
            words.setWordWrap(True)
            words.setContentsMargins(24, 0, 0, 8)
            column.addWidget(button)
            column.addWidget(words)
        self.before = small_button(
            tr("Hear the original"), tr("Switch between the cleaned and the original sound; "
                                        "nothing is changed"), self._compare)
        self.before.setCheckable(True)
        hint = quiet(tr("Stretches of music stay as they are. The cleaned sound is made once, "
                        "which takes about a tenth of the film's length, and kept."))
        hint.setWordWrap(True)
        column.addWidget(button_row(self.before))
        column.addWidget(hint)
        for signal in (session.project_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        self.sync()

    def sync(self) -> None:
        """Show what is decided for the chosen version."""
        clean = self._session.project.version(self._session.letter).clean
        self.choices[clean].setChecked(True)
        self.before.setEnabled(clean is not CleanStrength.NONE)
        has_sound = bool(self._session.analysis.master.sound)
        for button in self.choices.values():
            button.setEnabled(has_sound)

    def _set(self, strength: CleanStrength) -> None:
        what = (tr("original sound") if strength is CleanStrength.NONE else
                tr("clean speech, {strength}", strength=tr(strength.value)))
        self._session.editing.edit(
            EditKind.SOUNDS, what,
            lambda project, letter, _: with_clean(project, letter, strength), scope=Scope.VERSION)

    def _compare(self) -> None:
        self._session.playing.hear_file(not self.before.isChecked())
