"""What assistive technology can do with painted widgets: press a part, run an action, set a value.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtGui import QAccessibleActionInterface, QAccessibleValueInterface

from caracal.ui.session.view import Action, Amount

PRESS = "Press"  # Qt's own name of it: QAccessibleActionInterface::pressAction()


class Actions(QAccessibleActionInterface):
    """The named actions of a widget or a part of it."""

    def __init__(self, widget: Any, actions: Sequence[Action]) -> None:
        super().__init__()
        self._widget = widget
        self._actions = {action.name: action for action in actions}

    def actionNames(self) -> list[str]:
        return list(self._actions)

    def doAction(self, name: str) -> None:
        if name in self._actions:
            self._actions[name].run(self._widget)

    def keyBindingsForAction(self, name: str) -> list[str]:
        action = self._actions.get(name)
        return [action.key] if action is not None and action.key else []

    def localizedActionName(self, name: str) -> str:
        return name

    def localizedActionDescription(self, name: str) -> str:
        return ""


def press_action(press: Callable[[Any, int], object], number: int) -> Action:
    """Pressing the part ``number`` of a widget."""
    return Action(PRESS, lambda widget: press(widget, number))


class Value(QAccessibleValueInterface):
    """A number of a widget, which can be set."""

    def __init__(self, widget: Any, amount: Amount) -> None:
        super().__init__()
        self._widget, self._amount = widget, amount

    def currentValue(self) -> int:
        return self._amount.now(self._widget)

    def setCurrentValue(self, value: Any) -> None:
        self._amount.set_to(self._widget, min(max(0, round(float(value))), self.maximumValue()))

    def maximumValue(self) -> int:
        return self._amount.most(self._widget)

    def minimumValue(self) -> int:
        return 0

    def minimumStepSize(self) -> int:
        return 1
