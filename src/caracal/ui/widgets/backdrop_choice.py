"""Choosing what lies behind everything: colours, a soft copy, a clip that loops, or a file."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QComboBox

from caracal.core.base.translation import tr
from caracal.core.layout.model import (
    Backdrop,
    BlendBackdrop,
    PlainBackdrop,
    SoftBackdrop,
)
from caracal.core.layout.shipped_assets import MOVING_BACKDROPS, moving_backdrop
from caracal.ui.session.asset_picker import AssetPicker
from caracal.ui.widgets.panels import LEAST_BOX

MOVING = {tr("{name}, moving", name=tr(name)): moving_backdrop(name) for name in MOVING_BACKDROPS}
DRAWN: dict[str, Backdrop] = {  # what each is called, and itself
    tr("Plain"): PlainBackdrop(), tr("Two colours"): BlendBackdrop(),
    tr("Soft picture"): SoftBackdrop(),
    **MOVING,
}
FILE = tr("Picture or clip…")


class BackdropChoice(QComboBox):
    """A box of backdrops; ``take`` is given the chosen one."""

    def __init__(self, assets: AssetPicker, take: Callable[[Backdrop], object]) -> None:
        super().__init__()
        self._assets, self._take = assets, take
        self._shown: Backdrop | None = None
        self.setMinimumWidth(LEAST_BOX)
        self.addItems([*DRAWN, FILE])
        self.setToolTip(tr("The backdrop behind everything"))
        self.activated.connect(lambda _: self._chosen())

    def show_backdrop(self, backdrop: Backdrop | None) -> None:
        """Show ``backdrop``; None: there is none."""
        self._shown = backdrop
        same = [name for name, each in DRAWN.items() if each == backdrop]
        alike = [name for name, each in DRAWN.items() if type(each) is type(backdrop)
                 and name not in MOVING]
        with QSignalBlocker(self):
            self.setCurrentText((same or alike or [FILE])[0])

    def _chosen(self) -> None:
        name = self.currentText()
        if name in DRAWN:
            self._take(DRAWN[name])
            return
        self._assets.ask(self, lambda content, _: self._take(content))
        self.show_backdrop(self._shown)  # until a file is there
