"""Controls that wait to be asked: no wheel without focus, no key taken from who has it.

A box that is only passed by the wheel does nothing. A button that was clicked leaves the keys to
the film; one that was reached by Tab is pressed by Space. Lists, tables, number boxes and the
buttons of an exclusive group keep their arrows.
"""

from __future__ import annotations

import re
from typing import Protocol, runtime_checkable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QScrollBar,
    QWidget,
)
from shiboken6 import isValid

TEXT = (QLineEdit, QPlainTextEdit, QAbstractSpinBox)
BOXES = (QAbstractSpinBox, QComboBox, QAbstractSlider)
FIELDS = (*TEXT, QComboBox, QAbstractItemView)  # what screen readers cannot name by themselves
ARROWS = {Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home,
          Qt.Key.Key_End, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown}
ERASERS = {Qt.Key.Key_Backspace, Qt.Key.Key_Delete}
PLAIN = (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier,
         Qt.KeyboardModifier.KeypadModifier)
STANDARD = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo,
            QKeySequence.StandardKey.Cut, QKeySequence.StandardKey.Copy,
            QKeySequence.StandardKey.Paste, QKeySequence.StandardKey.SelectAll)


@runtime_checkable
class OwnKeys(Protocol):
    """A painted control that says itself which keys are its own."""

    def own_keys(self, event: QKeyEvent) -> bool:
        """Whether it does something with that key."""
        ...


class _WheelGuard(QObject):
    """Leaves the wheel to what lies behind a box that has no focus."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() is QEvent.Type.Wheel and isinstance(watched, QWidget) and (
                not watched.hasFocus()):
            event.ignore()
            return True
        return False


class _FocusFirst(QObject):
    """Keys that a focused control knows go to it, before any menu takes them."""

    def __init__(self, application: QApplication) -> None:
        super().__init__(application)
        self._watched: QObject | None = None
        application.focusChanged.connect(self._moved)

    def _moved(self, _: QWidget | None, now: QWidget | None) -> None:
        if self._watched is not None and isValid(self._watched):
            self._watched.removeEventFilter(self)
        self._watched = now
        if now is not None:
            now.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() is QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and (
                is_own(watched, event)):
            event.accept()
            return True
        return False


def is_own(control: QObject, event: QKeyEvent) -> bool:
    """Whether ``control`` does something of its own with a key."""
    key, plain = event.key(), event.modifiers() in PLAIN
    if isinstance(control, TEXT):
        return _is_typed(control, event)
    if isinstance(control, QAbstractButton):
        group = control.group()
        chooses = group is not None and group.exclusive() and key in ARROWS
        return plain and (chooses or key in (Qt.Key.Key_Space, Qt.Key.Key_Select))
    if isinstance(control, QAbstractItemView):
        return key in ARROWS or (plain and key in (Qt.Key.Key_Space, Qt.Key.Key_Return)) or (
            event.matches(QKeySequence.StandardKey.SelectAll))
    if isinstance(control, OwnKeys):
        return control.own_keys(event)
    if isinstance(control, QComboBox | QAbstractSlider):
        return plain and (key in ARROWS or key == Qt.Key.Key_Space)
    return False


def _is_typed(control: QWidget, event: QKeyEvent) -> bool:
    """Whether a field of text does something with a key."""
    key, plain = event.key(), event.modifiers() in PLAIN
    if any(event.matches(key) for key in STANDARD):
        return True
    typed = plain and bool(event.text()) and event.text().isprintable()
    return typed or key in ERASERS or ((key in ARROWS and not isinstance(
        control, QAbstractSpinBox)) or (key in ARROWS and plain))


def apply_focus_policy(parent: QWidget) -> None:
    """Make every control below ``parent`` wait to be asked, and give each field a name."""
    guard = _WheelGuard(parent)
    labels = {label.buddy(): label.text().replace("&", "")
              for label in parent.findChildren(QLabel) if label.buddy() is not None}
    for widget in parent.findChildren(QWidget):
        if isinstance(widget, QScrollBar):
            continue
        if isinstance(widget, BOXES):
            widget.installEventFilter(guard)
            widget.setFocusPolicy(Qt.FocusPolicy.StrongFocus if isinstance(widget, QAbstractSpinBox)
                               else Qt.FocusPolicy.TabFocus)
        elif isinstance(widget, QAbstractButton):
            widget.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        wordless = isinstance(widget, QAbstractButton) and not widget.text()
        if (wordless or isinstance(widget, FIELDS)) and not widget.accessibleName():
            widget.setAccessibleName(labels.get(widget) or _name_of(widget))


def _name_of(field: QWidget) -> str:
    """What a field is called that has neither a name nor a label: what its tip begins with."""
    tip = re.split(r"[.:;,(]", field.toolTip(), maxsplit=1)[0].strip()
    return tip or (field.placeholderText() if isinstance(field, QLineEdit) else "")


def focus_first(application: QApplication) -> None:
    """Let focused controls have their keys, in every window."""
    if application.property("caracal focus") is None:
        application.setProperty("caracal focus", True)
        _FocusFirst(application)
