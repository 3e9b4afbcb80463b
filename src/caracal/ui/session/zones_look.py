"""How zones are drawn over canvases: which, in which colour, how strongly; remembered."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

from PySide6.QtCore import QSettings
from PySide6.QtGui import QColor

from caracal.ui.services.settings import kept_flag, kept_number, kept_text


@dataclass(frozen=True)
class ZonesLook:
    """Which zones are drawn, in which colour, and how strongly (0..1)."""

    covers: bool = False
    clear: bool = False
    thumbnail: bool = False
    trim: bool = False
    phone: bool = False
    colour: str = "#e6dac4"
    strength: float = 0.6

    def toggled(self, name: str) -> ZonesLook:
        """The same with one kind on or off."""
        return replace(self, **{name: not getattr(self, name)})  # type: ignore[arg-type]


def kept_look(settings: QSettings) -> ZonesLook:
    """The look of the last time."""
    usual = ZonesLook()
    on = {field.name: kept_flag(settings, f"zones/{field.name}", bool(field.default))
          for field in fields(ZonesLook) if isinstance(field.default, bool)}
    colour = kept_text(settings, "zones/colour", usual.colour)
    strength = kept_number(settings, "zones/strength", usual.strength)
    return ZonesLook(**on, colour=colour if QColor.isValidColorName(colour) else usual.colour,
                     strength=min(max(strength, 0.0), 1.0))


def keep_look(settings: QSettings, look: ZonesLook) -> None:
    """Remember ``look`` for the next time."""
    for field in fields(ZonesLook):
        settings.setValue(f"zones/{field.name}", getattr(look, field.name))
