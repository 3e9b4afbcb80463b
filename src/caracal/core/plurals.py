"""Numbers of things in words: “1 caption”, “2 captions”."""

from __future__ import annotations


def counted(count: int, one: str, many: str = "") -> str:
    """``count`` with the word for ``one`` of it, or for ``many`` (by default with an s)."""
    return f"{count} {one if count == 1 else many or f'{one}s'}"
