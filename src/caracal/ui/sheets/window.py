"""The spec sheet window: all sheets, a form, the drawing, and what cannot be made."""

from __future__ import annotations

from contextlib import suppress
from datetime import date
from pathlib import Path

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.specs.checks import problems
from caracal.core.specs.draft import drop_draft, keep_draft, take_draft
from caracal.core.specs.settings import estimated_mb
from caracal.core.specs.sheet import SpecSheet, Zone, base_name
from caracal.core.specs.sheet_store import (
    all_sheets,
    keep_sheet,
    own_folder,
    own_names,
    read_sheet,
    remove_own,
    write_sheet,
)
from caracal.ui.sheets.differences import Differences
from caracal.ui.sheets.drawing import Drawing, with_zone, zones_in
from caracal.ui.sheets.form import Form
from caracal.ui.sheets.zone_numbers import ZoneNumbers
from caracal.ui.widgets.focus_policy import apply_focus_policy
from caracal.ui.widgets.questions import about_changes

NEW_ZONES = {
    tr("Cover"): ("covers", Zone(tr("cover"), 0.0, 0.85, 1.0, 0.15)),
    tr("Clear area"): ("clear", Zone(tr("clear area"), 0.0, 0.2, 0.88, 0.6)),
    tr("Thumbnail cut"): ("thumbnail_cut", Zone(tr("thumbnail cut"), 0.0, 0.25, 1.0, 0.5)),
    tr("Edge trim"): ("edge_trim", Zone(tr("edge trim"), 0.1, 0.0, 0.8, 1.0)),
}


class SheetWindow(QDialog):
    """Changes are kept when saved; nothing that cannot be made can be saved."""

    saved = Signal()  # sheets were added, changed or removed

    def __init__(self, name: str | None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Spec sheets"))
        self.setObjectName("ground")
        self.sheets, broken = all_sheets()
        draft = take_draft()
        self._from_draft = draft is not None
        wanted = draft.name if draft is not None else base_name(name or "")
        self._kept = self.sheets.get(wanted) or next(iter(self.sheets.values()))
        self.sheet = draft or self._kept
        self.choose = QComboBox()
        self.form, self.drawing = Form(), Drawing()
        self.trouble, self.zone_name = QLabel(), QLineEdit()
        self.buttons: dict[str, QPushButton] = {}
        self._build()
        self.form.changed.connect(self.take)
        self.form.refused.connect(self._say)
        self.drawing.changed.connect(self.take)
        self.drawing.chosen_changed.connect(self._sync_zone)
        apply_focus_policy(self)
        self.resize(1120, 760)
        self._fill()
        if broken:
            self._say(" ".join(broken))

    def _build(self) -> None:
        top = QHBoxLayout()
        self.choose.setToolTip(tr("The spec sheet that is shown; your own have a star"))
        self.choose.setMinimumWidth(280)
        self.choose.activated.connect(self._choose)
        top.addWidget(self.choose)
        top.addStretch(1)
        for words, tip, do in (
            (tr("Duplicate…"), tr("A sheet of your own that begins as this one"), self._duplicate),
            (tr("Compare…"), tr("What differs from another sheet"), self._compare),
            (tr("Import…"), tr("A sheet from a TOML file"), self._import),
            (tr("Export…"), tr("This sheet as a TOML file"), self._export),
        ):
            top.addWidget(self._button(words, tip, do))
        scroll = QScrollArea()
        scroll.setWidget(self.form)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        right = QVBoxLayout()
        right.addWidget(self.drawing, 1)
        self.numbers = ZoneNumbers()
        self.numbers.chosen.connect(self._choose_zone)
        self.numbers.moved.connect(self._move_zone)
        right.addWidget(self.numbers)
        right.addLayout(self._zone_row())
        middle = QHBoxLayout()
        middle.setSpacing(24)
        middle.addWidget(scroll, 5)
        middle.addLayout(right, 6)
        self.trouble.setWordWrap(True)
        bottom = QHBoxLayout()
        bottom.addWidget(self.trouble, 1)
        bottom.addWidget(self._button(tr("Delete this sheet"),
                                      tr("Delete your own sheet; a shipped one of its name is "
                                         "used again"), self._remove))
        bottom.addWidget(self._button(tr("Undo changes"), tr("Revert to what was saved last"),
                                      self._take_back))
        save = self._button(tr("Save"), tr("Into your own sheets"), self.save)
        save.setObjectName("main")
        bottom.addWidget(save)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 16, 16, 16)
        column.setSpacing(12)
        column.addLayout(top)
        column.addLayout(middle, 1)
        column.addLayout(bottom)

    def _zone_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.add_zone = QComboBox()
        self.add_zone.addItems([tr("Add zone…"), *NEW_ZONES])
        self.add_zone.setToolTip(tr("A cover, or one of the areas of which a sheet has one each"))
        self.add_zone.activated.connect(self._add_zone)
        self.zone_name.setToolTip(tr("Content of the selected zone"))
        self.zone_name.setPlaceholderText(tr("click a zone"))
        self.zone_name.editingFinished.connect(self._name_zone)
        row.addWidget(self.add_zone)
        row.addWidget(self.zone_name, 1)
        row.addWidget(self._button(tr("Remove zone"), tr("The selected zone"), self._remove_zone))
        return row

    def _button(self, words: str, tip: str, do: object) -> QPushButton:
        made = QPushButton(words)
        made.setToolTip(tip)
        made.setAutoDefault(False)
        made.clicked.connect(lambda: do())  # type: ignore[operator]
        self.buttons[words.rstrip("…")] = made
        return made

    def _fill(self) -> None:
        self._own = own_names()
        self.choose.clear()
        for name, sheet in self.sheets.items():
            star = "★ " if name in self._own else ""
            self.choose.addItem(f"{star}{sheet.headline}", name)
        self.choose.setCurrentIndex(self.choose.findData(self._kept.name))
        self._show()

    def _show(self) -> None:
        self.form.show_sheet(self.sheet)
        self.drawing.show_sheet(self.sheet)
        self._sync_zone()
        wrong = problems(self.sheet)
        if wrong:
            self._say(" ".join(wrong))
        else:
            size = estimated_mb(self.sheet, 60)
            changed = tr("Changed, not saved. ") if self.sheet != self._kept else ""
            told = self.sheet.reminder(date.today())
            old = f"{told} " if told else ""
            self._say(tr("{changed}{old}A minute takes about {size:.0f} MB. Your own sheets are "
                         "in {folder}.", changed=changed, old=old, size=size,
                         folder=own_folder()), good=True)
        self.buttons[tr("Save")].setEnabled(not wrong and self.sheet != self._kept)
        self.buttons[tr("Undo changes")].setEnabled(self.sheet != self._kept)
        self.buttons[tr("Delete this sheet")].setEnabled(self._kept.name in self._own)

    def _say(self, words: str, good: bool = False) -> None:
        self.trouble.setObjectName("quiet" if good else "bad")
        self.trouble.style().polish(self.trouble)
        self.trouble.setText(words)

    def take(self, sheet: SpecSheet) -> None:
        """Show a changed sheet, with what is impossible about it."""
        self.sheet = sheet
        self._show()

    def may_leave(self) -> bool:
        """Ask what becomes of changes that were not saved; whether to go on."""
        if self.sheet == self._kept:
            self._drop_draft()
            return True
        answer = self.ask_about_changes()
        if answer == "save":
            self.save()
            return self.sheet == self._kept
        if answer == "discard":
            self._take_back()
        return answer == "discard"

    def ask_about_changes(self) -> str:
        """Ask: "save", "discard", or "stay"."""
        return about_changes(self.sheet.title, self)

    def reject(self) -> None:
        """Escape, and closing the window."""
        if self.may_leave():
            super().reject()

    def leave(self) -> None:
        """Close without a question; changes are there again when the window is next opened."""
        if self.sheet != self._kept:
            with suppress(CaracalError):
                keep_draft(self.sheet)
        super().reject()

    def _choose(self, index: int) -> None:
        if not self.may_leave():
            self.choose.setCurrentIndex(self.choose.findData(self._kept.name))
            return
        self._kept = self.sheet = self.sheets[self.choose.itemData(index)]
        self._show()

    def save(self) -> None:
        """Keep the sheet among the user's own."""
        self._do(lambda: keep_sheet(self.sheet), self.sheet.name)

    def _take_back(self) -> None:
        self.take(self._kept)
        self._drop_draft()

    def _drop_draft(self) -> None:
        if self._from_draft:
            self._from_draft = False
            drop_draft()

    def _remove(self) -> None:
        name = self._kept.name
        self._do(lambda: remove_own(name), name)

    def _do(self, work: object, name: str) -> None:
        """Change what is kept, then show it, at the sheet called ``name`` if it is still there."""
        try:
            work()  # type: ignore[operator]
        except CaracalError as problem:
            self._say(problem.sentence())
            return
        self._drop_draft()
        self.sheets, _ = all_sheets()
        self._kept = self.sheet = self.sheets.get(name) or next(iter(self.sheets.values()))
        self._fill()
        self.saved.emit()

    def _duplicate(self) -> None:
        name, on = QInputDialog.getText(self, tr("Duplicate"), tr("Name of the new sheet"),
                                        text=f"my-{self.sheet.name}")
        if on and name.strip():
            self.duplicate(name.strip())

    def duplicate(self, name: str) -> None:
        """A sheet of the user's own that begins as this one."""
        if name in self.sheets:
            self._say(tr("There is a sheet “{name}” already. Choose another name.", name=name))
            return
        made = msgspec.structs.replace(self.sheet, name=name, title=name.replace("-", " ").title())
        self._do(lambda: keep_sheet(made), name)

    def _compare(self) -> None:
        others = [name for name in self.sheets if name != self._kept.name]
        name, on = QInputDialog.getItem(self, tr("Compare"),
                                        tr("{title} with", title=self.sheet.title), others, 0,
                                        False)
        if on:
            Differences(self.sheet, self.sheets[name], self).open()

    def _import(self) -> None:
        chosen = QFileDialog.getOpenFileName(self, tr("Spec sheet"), "",
                                             tr("Spec sheets (*.toml)"))[0]
        if chosen:
            self.import_file(Path(chosen))

    def import_file(self, path: Path) -> None:
        """Take a sheet from a file among the user's own."""
        try:
            sheet = read_sheet(path)
        except CaracalError as problem:
            self._say(problem.sentence())
            return
        self._do(lambda: keep_sheet(sheet), sheet.name)

    def _export(self) -> None:
        chosen = QFileDialog.getSaveFileName(self, tr("Spec sheet"), f"{self.sheet.name}.toml",
                                             tr("Spec sheets (*.toml)"))[0]
        if chosen:
            try:
                write_sheet(self.sheet, Path(chosen))
            except CaracalError as problem:
                self._say(problem.sentence())

    def _add_zone(self, index: int) -> None:
        self.add_zone.setCurrentIndex(0)
        if index < 1:
            return
        field, zone = NEW_ZONES[self.add_zone.itemText(index)]
        place = (field, len(self.sheet.covers) if field == "covers" else 0)
        self.take(with_zone(self.sheet, place, zone))
        self._choose_zone(place)

    def _choose_zone(self, place: tuple[str, int]) -> None:
        self.drawing.chosen = place
        self._sync_zone()
        self.drawing.update()

    def _move_zone(self, zone: Zone) -> None:
        if self.drawing.chosen is not None:
            self.take(with_zone(self.sheet, self.drawing.chosen, zone))

    def _sync_zone(self) -> None:
        self.numbers.show_zone(self.sheet, self.drawing.chosen)
        zone = dict(zones_in(self.sheet)).get(self.drawing.chosen or ("", 0))
        self.zone_name.setEnabled(zone is not None)
        self.zone_name.setText(zone.what if zone else "")
        self.buttons[tr("Remove zone")].setEnabled(zone is not None)

    def _name_zone(self) -> None:
        place = self.drawing.chosen
        zone = dict(zones_in(self.sheet)).get(place or ("", 0))
        if place and zone and self.zone_name.text().strip() not in ("", zone.what):
            self.take(with_zone(self.sheet, place, msgspec.structs.replace(
                zone, what=self.zone_name.text().strip())))

    def _remove_zone(self) -> None:
        if self.drawing.chosen is not None:
            self.take(with_zone(self.sheet, self.drawing.chosen, None))
