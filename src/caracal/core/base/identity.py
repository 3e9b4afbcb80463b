"""Objects as keys: compared by identity, so that large values need not be compared or hashed."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import Generic, TypeVar

T = TypeVar("T")
R = TypeVar("R")


class Same(Generic[T]):
    """An object as part of a key: the same only when it is that very object, which it keeps.

    Its number alone would not do: another object may get it when this one is gone.
    """

    def __init__(self, value: T) -> None:
        self.value = value

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and self.value is other.value

    def __hash__(self) -> int:
        return id(self.value)


def kept_for(most: int) -> Callable[[Callable[[T], R]], Callable[[T], R]]:
    """A decorator: the results of a function of one frozen value are kept for the last ``most``
    values, told apart by identity. For any thread."""
    def decorate(function: Callable[[T], R]) -> Callable[[T], R]:
        @lru_cache(maxsize=most)
        def of(value: Same[T]) -> R:
            return function(value.value)

        return lambda value: of(Same(value))

    return decorate
