"""When a pane appears and disappears in its shot, and how."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtCore import QObject, QSignalBlocker

from caracal.core.base.translation import tr
from caracal.core.layout.entrance import Entry, PaneTiming
from caracal.core.layout.model import Layout
from caracal.core.layout.pane_contents import panes_of, with_pane_stay
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import NUMBER_WIDE, Form
from caracal.ui.widgets.panels import choice_box, number_box

MOST_S = 600.0
TO_THE_END = tr("to the end")
ALWAYS = PaneTiming(entry=Entry.NONE, leaving=Entry.NONE)
Put = Callable[[Layout, str, object], object]  # a layout, what is said of it, and its gesture


class PaneTimes(QObject):
    """Which pane, from when on, for how long, and how; ``put`` is given the changed layout."""

    def __init__(self, put: Put) -> None:
        super().__init__()
        self._put = put
        self._layout: Layout | None = None
        self.which = choice_box((), tr("The pane whose times these are"), lambda _: self._show())
        self.after = number_box(0, MOST_S, 0.1, 2, " s",
                                tr("How long after the start of the shot the pane appears"))
        self.stays = number_box(0, MOST_S, 0.1, 2, " s",
                                tr("How long it is shown; 0: to the end of the shot"))
        self.stays.setSpecialValueText(TO_THE_END)
        self.how = choice_box([tr(entry.value).capitalize() for entry in Entry],
                              tr("How it appears and disappears"), lambda _: self._changed("how"))
        self.after.valueChanged.connect(lambda _: self._changed("after"))
        self.stays.valueChanged.connect(lambda _: self._changed("stays"))
        for box in (self.after, self.stays):
            box.setFixedWidth(theme.scaled(NUMBER_WIDE))

    def fill(self, form: Form) -> None:
        """Add the fields to ``form``."""
        self._which_row = form.row(tr("Timing of"), self.which)
        self._rows = (form.row(tr("Appear after"), self.after),
                      form.row(tr("Duration"), self.stays), form.row(tr("Transition"), self.how))

    def show_layout(self, layout: Layout) -> None:
        """Show when the panes of ``layout`` are there."""
        self._layout = layout
        names = [tr("Pane {number}", number=number + 1) for number in range(len(panes_of(layout)))]
        if [self.which.itemText(at) for at in range(self.which.count())] != names:
            with QSignalBlocker(self.which):
                self.which.clear()
                self.which.addItems(names)
                self.which.setCurrentIndex(len(names) - 1)  # the one in front
        several = len(layout.panes) > 1  # one alone is all there is
        self._which_row.set_visible(several and len(names) > 1)
        for row in self._rows:
            row.set_visible(several)
        self._show()

    def _number(self) -> int | None:
        panes = () if self._layout is None else panes_of(self._layout)
        at = self.which.currentIndex()
        return panes[at] if 0 <= at < len(panes) else None

    def _now(self) -> PaneTiming:
        number = self._number()
        if number is None or self._layout is None:
            return ALWAYS
        return self._layout.panes[number].stay or ALWAYS

    def _show(self) -> None:
        now = self._now()
        stays = 0.0 if now.goes_s is None else now.goes_s - now.comes_s
        for box, value in ((self.after, now.comes_s), (self.stays, stays)):
            with QSignalBlocker(box):
                box.setValue(value)
        with QSignalBlocker(self.how):
            self.how.setCurrentIndex(list(Entry).index(now.entry))

    def _changed(self, what: str) -> None:
        number, after, stays = self._number(), self.after.value(), self.stays.value()
        if number is None or self._layout is None:
            return
        how = list(Entry)[self.how.currentIndex()]
        if self._layout.panes[number].stay is None and what != "how" and how is Entry.NONE:
            how = Entry.FADE  # to begin with
        stay = msgspec.structs.replace(
            self._now(), comes_s=after, goes_s=after + stays if stays else None, entry=how,
            leaving=how)
        layout = with_pane_stay(self._layout, number, None if stay == ALWAYS else stay)
        self._put(layout, tr("{name} appears after {after:g} s",
                             name=self.which.currentText(), after=after),
                  ("pane time", what, number))
