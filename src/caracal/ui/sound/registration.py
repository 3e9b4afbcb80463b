"""Sound, as the window knows it."""

from __future__ import annotations

from PySide6.QtCore import QSettings
from PySide6.QtGui import QAccessible

from caracal.core.base.translation import mark, tr
from caracal.ui.session.view import Part, Parts, View
from caracal.ui.sound.lanes import SoundLanes
from caracal.ui.sound.view import SoundView
from caracal.ui.widgets.side import keep_side, recall_side


def _keep(settings: QSettings, view: SoundView) -> None:
    keep_side(settings, "sound", view.side, view.halves)


def _recall(settings: QSettings, view: SoundView) -> None:
    recall_side(settings, "sound", view.side, view.halves)


def _part(lanes: SoundLanes, number: int) -> Part:
    return Part(lanes.words_of(number), lanes.place_of(number), number == lanes.chosen)


SOUND = View(
    mark("Sound"), "4", tr("Click a sound to select it, click a lane to go there"),
    lambda place: SoundView(place.session), close=SoundView.close_down, keep=_keep, recall=_recall,
    gestures=(
        (mark("Click a sound"), mark("Select it")),
        (mark("Click or drag in the lanes"), mark("Go to that frame")),
    ),
    parts={SoundLanes: Parts(
        QAccessible.Role.List, QAccessible.Role.ListItem, lambda lanes: len(lanes.sounds), _part,
        press=lambda lanes, number: lanes.picked.emit(number))})
