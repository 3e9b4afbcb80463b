"""Pages by name, of which each is put in when it has been made."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtWidgets import QStackedWidget, QWidget


class NamedPages(QStackedWidget):
    """Shows one page at a time. An empty page holds the place of each that is not made yet."""

    def __init__(self, names: Iterable[str]) -> None:
        super().__init__()
        self._names = tuple(names)
        for _ in self._names:
            self.addWidget(QWidget())

    @property
    def shown(self) -> str:
        """The name of the page that shows."""
        return self._names[self.currentIndex()]

    def put(self, name: str, page: QWidget) -> None:
        """Put ``page`` in the place of what is called ``name``."""
        at = self._names.index(name)
        before = self.widget(at)
        assert before is not None
        self.insertWidget(at, page)
        self.removeWidget(before)
        before.deleteLater()

    def show_page(self, name: str) -> None:
        """Show the page called ``name``."""
        self.setCurrentIndex(self._names.index(name))
