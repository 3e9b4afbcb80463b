"""Objects as parts of keys: compared by identity."""

from __future__ import annotations


class Same:
    """An object as part of a key: the same only when it is that very object, which it keeps.

    Its number alone would not do: another object may get it when this one is gone.
    """

    def __init__(self, value: object) -> None:
        self.value = value

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and self.value is other.value

    def __hash__(self) -> int:
        return id(self.value)
