"""The proof of the chosen line: every property of its files against the spec sheet."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QUrl, Signal
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QComboBox, QHeaderView, QLabel, QVBoxLayout, QWidget

from caracal.core.base.paths import path_of
from caracal.core.base.translation import tr
from caracal.core.batch.job import Item
from caracal.ui.batch.encoded_picture import EncodedPicture
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import button_row
from caracal.ui.widgets.panels import small_button
from caracal.ui.widgets.tables import Cell, Row, Rows, table

HEADS = ("", tr("Property"), tr("Actual"), tr("Required"))


class Proofs(QWidget):
    """One file at a time; a line with several parts has a list of them."""

    said = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._item: Item | None = None
        self.head = QLabel()
        self.head.setObjectName("head")
        self.head.setWordWrap(True)
        self.sound = QLabel()
        self.sound.setObjectName("quiet")
        self.sound.setToolTip(tr("Loudness and true peak by ITU-R BS.1770, before and after"))
        self.files = QComboBox()
        self.files.setToolTip(tr("The parts of this version"))
        self.files.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.files.setMinimumContentsLength(20)  # long names do not push the list aside
        self.files.currentIndexChanged.connect(lambda _: self._fill())
        self.play = small_button(tr("Play"), tr("Play this file in the desktop's player"),
                                 lambda: self._open(self.file))
        self.folder = small_button(tr("Show in folder"), tr("Open the folder that holds this file"),
                                   lambda: self._open(self.file and self.file.parent))
        self.all = small_button(tr("All properties"), tr("Show what is right, too"), self._fill)
        self.all.setCheckable(True)
        self.picture = EncodedPicture(session)
        self._rows = Rows(HEADS)
        self.table = table(self._rows, 2, 24, name=tr("Proof"))
        self.table.horizontalHeader().setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.head)
        column.addWidget(self.picture)
        self.tools = button_row(self.play, self.folder, self.all)
        column.addWidget(self.tools)
        column.addWidget(self.sound)
        column.addWidget(self.files)
        column.addWidget(self.table, 1)
        column.addStretch(0)
        self.setMinimumWidth(380)
        self.show_item(None)

    def show_item(self, item: Item | None) -> None:
        """Show the files of ``item``, worst first."""
        self.picture.show_item(item)
        if item == self._item and item is not None:
            return
        self._item = item
        made = [] if item is None else sorted(
            item.status.made, key=lambda result: result.proof.right)
        self._made = made
        self.files.blockSignals(True)
        self.files.clear()
        self.files.addItems([Path(encode_result.file).name for encode_result in made])
        self.files.blockSignals(False)
        self.files.setVisible(len(made) > 1)
        for part in (self.table, self.tools):
            part.setVisible(bool(made))
        self._fill()

    @property
    def file(self) -> Path | None:
        """The file whose proof shows, if there is one."""
        return path_of(self._made[max(0, self.files.currentIndex())].file) if self._made else None

    def _open(self, path: Path | None) -> None:
        """Let the desktop open a file or a folder; what keeps it from that is said."""
        if path is None:
            return
        if not path.exists():
            self.said.emit(tr("{path} was moved or deleted. Encode the version again.",
                              path=path))
        elif not QDesktopServices.openUrl(QUrl.fromLocalFile(str(path))):
            self.said.emit(tr("This desktop has no program that opens {path}.", path=path))

    def _fill(self) -> None:
        if not self._made:
            self.head.setText(self._without())
            self.sound.setVisible(False)
            self._rows.show(())
            return
        made = self._made[max(0, self.files.currentIndex())]
        right = sum(line.right for line in made.proof.lines)
        name = path_of(made.file).name
        count = len(made.proof.lines)
        self.head.setText(tr("{name}: proved, {count} of {count} properties right", name=name,
                             count=count) if right == count else
                          tr("{name}: {wrong} of {count} properties wrong", name=name,
                             wrong=count - right, count=count))
        self.sound.setText(made.sound_words())
        self.sound.setVisible(bool(made.sound_words()))
        rows: list[Row] = []
        for line in sorted(made.proof.lines, key=lambda line: line.right):
            if line.right and not self.all.isChecked():
                continue
            colour = theme.GOOD if line.right else theme.BAD
            rows.append((Cell("✓" if line.right else tr("✗ wrong"), colour), Cell(tr(line.what)),
                         Cell(line.found), Cell(line.asked)))
        self.table.setVisible(bool(rows))
        self._rows.show(tuple(rows))

    def _without(self) -> str:
        if self._item is None:
            return tr("Select an item of the batch list to see its proof.")
        return self._item.status.problem or (
            tr("{title}: {state}. Its proof will appear here.",
               title=self._item.job.recipe.sheet.title, state=tr(self._item.state)))
