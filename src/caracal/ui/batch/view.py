"""The Batch view as a whole."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtCore import QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.batch.batch_list import CLUSTER
from caracal.core.batch.bundle import make_bundle
from caracal.core.batch.cluster_address import Cluster
from caracal.core.batch.job import State
from caracal.core.batch.report import write_report
from caracal.core.batch.watching import unwatch, watch
from caracal.ui.batch.cluster_dialog import ClusterDialog
from caracal.ui.batch.hand_over_worker import HandOverWorker
from caracal.ui.batch.lines import Lines
from caracal.ui.batch.proofs import Proofs
from caracal.ui.batch.versions import Versions
from caracal.ui.services.batch_controller import BatchController
from caracal.ui.session.session import Session
from caracal.ui.widgets.elided import Elided


class Batch(QWidget):
    """Above the versions to encode, below the batch list and the proof of the selected item.

    Its attributes are the widgets of the view.
    """

    def __init__(self, session: Session, folder: Path, working: BatchController) -> None:
        super().__init__()
        self._session = session
        self.working = working
        self.versions = Versions(session, folder)
        self.lines, self.proofs = Lines(self.working), Proofs(session)
        self.proofs.said.connect(session.said)
        self._added: set[int] = set()
        self.handing = HandOverWorker(self)
        self.handing.said.connect(session.said)
        self._build()
        self.working.said.connect(session.said)
        self.working.changed.connect(self._changed)
        self.working.over.connect(self._over)
        self.lines.chosen_changed.connect(self._changed)
        self.sync()

    def _build(self) -> None:
        self._where = Elided()
        self.choose = choose = QPushButton(tr("Choose folder…"))
        choose.setToolTip(tr("Folder for the encoded files"))
        choose.clicked.connect(self._choose)
        self.replace = QCheckBox(tr("Replace same names"))
        self.replace.setToolTip(tr("Replace files of the same name; otherwise new files are "
                                   "numbered"))
        self.replace.toggled.connect(self._set_replace)
        self.review = QCheckBox(tr("Review copies"))
        self.review.setToolTip(tr("Encode with the destination's zones in the picture, to show to "
                                  "a client"))
        self.review.toggled.connect(self._set_review)
        self.hand_over = QPushButton(tr("Hand over"))
        self.hand_over.setToolTip(tr("Write a report or a bundle with checksums of all finished "
                                     "files"))
        menu = QMenu(self.hand_over)
        menu.addAction(tr("Report…"), self.report)
        menu.addAction(tr("Bundle…"), self.ask_bundle)
        self.hand_over.setMenu(menu)
        self.watch = QPushButton(tr("Watch a folder…"))
        self.watch.setToolTip(tr("Encode the ticked spec sheets' versions of every new film in it"))
        self.watch.clicked.connect(self._watch)
        self.start_button = QPushButton(tr("Make versions"))
        self.start_button.setObjectName("main")
        self.start_button.setToolTip(tr("Encode every ticked version (Ctrl+Return)"))
        self.start_button.clicked.connect(self.start)
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(QLabel(tr("Folder")))
        top.addWidget(self._where, 1)
        for button in (choose, self.replace, self.review, self.watch, self.hand_over,
                    self.start_button):
            top.addWidget(button)
        lower = QSplitter()
        lower.addWidget(self.lines)
        lower.addWidget(self.proofs)
        lower.setStretchFactor(0, 5)
        lower.setStretchFactor(1, 4)
        lower.setHandleWidth(16)
        lower.setSizes([700, 480])
        lower.setChildrenCollapsible(False)
        self.halves = lower
        lower.splitterMoved.connect(self._align)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 16)
        column.setSpacing(14)
        column.addLayout(top)
        column.addWidget(self.versions, 5)
        column.addWidget(lower, 6)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._align)  # once the lower half has its new widths

    def _align(self) -> None:
        """The upper half's columns stand over those of the lower."""
        self.versions.set_columns(*self.halves.sizes())

    @property
    def folder(self) -> Path:
        return self.versions.plan.folder

    @folder.setter
    def folder(self, folder: Path) -> None:
        self.versions.plan.folder = folder
        self.sync()

    @property
    def running(self) -> bool:
        return self.working.running

    def sync(self) -> None:
        """Show the folder, and whether anything can be made."""
        self._where.setText(str(self.folder))
        self.versions.sync()
        kept = self.working.watched
        self.watch.setText(tr("Watch a folder…") if kept is None else tr("Watching: stop"))
        if kept is not None:
            self.watch.setToolTip(tr("Watching {folder}. Click to stop.", folder=kept.folder))

    def _changed(self) -> None:
        chosen = self.lines.chosen()
        mine = [item for item in self.working.items if item.id in self._added]
        self.proofs.show_item(chosen[0] if chosen else (mine or [None])[0])  # type: ignore[list-item]

    def start(self) -> None:
        """Put the ticked versions onto the list; what cannot be made is said instead."""
        letters = self.versions.plan.wanted_letters()
        if not letters:
            self._session.said.emit(tr("Tick at least one version."))
            return
        self.versions.sync()
        self.versions.plan.finish()
        if self.versions.plan.checking:
            self._session.assets.check((), self.start)  # after those that are being checked
            return
        stopping = [concern for concern in self.versions.plan.concerns if concern.stops]
        if stopping:
            self._session.said.emit(stopping[0].sentence)
            return
        try:
            size_mb = self.versions.plan.expectations.size_mb
            works = [msgspec.structs.replace(work, expected_mb=size_mb(letter))
                     for work, letter in zip(self.versions.plan.jobs(), letters, strict=True)]
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())
            return
        self.versions.plan.expectations.pause()
        before = {item.id for item in self.working.items}
        self.working.add(works)
        self._added = {item.id for item in self.working.items} - before
        rows = [i for i, item in enumerate(self.working.items) if item.id in self._added]
        if rows:
            self.lines.table.selectRow(rows[0])

    def stop(self) -> None:
        """Stop everything that waits or is made."""
        numbers = [item.id for item in self.working.items if not item.state.ended]
        self.working.do(lambda jobs: jobs.stop(numbers))

    def added(self) -> list[State]:
        """The states of the lines that were added last."""
        return [item.state for item in self.working.items if item.id in self._added]

    def _over(self) -> None:
        self._changed()
        states = [item.state for item in self.working.items]
        done, failed = states.count(State.DONE), states.count(State.FAILED)
        self._session.said.emit(tr("Finished: {done} encoded, {failed} failed.", done=done,
                                   failed=failed))

    def _choose(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, tr("Folder for the versions"),
                                                  str(self.folder))
        if chosen:
            self.folder = Path(chosen)

    def _set_replace(self, on: bool) -> None:
        self.versions.plan.replace = on
        self.versions.sync()

    def _set_review(self, on: bool) -> None:
        self.versions.plan.review = on
        self.versions.sync()

    def report(self) -> None:
        """Write the report of the list into the folder."""
        items, folder = self.working.items, self.folder / "report"
        self.handing.do(tr("The report is"),
                        lambda token: write_report(items, folder, cancel=token)[0])

    def ask_bundle(self) -> None:
        """Ask for a folder and hand over all that is done."""
        chosen = QFileDialog.getSaveFileName(self, tr("Name of the bundle's folder"),
                                             str(self.folder / "bundle"))[0]
        if chosen:
            self.bundle_to(Path(chosen))

    def bundle_to(self, folder: Path) -> None:
        """Hand over all that is done."""
        items = self.working.items
        self.handing.do(tr("The bundle is"), lambda token: make_bundle(items, folder, token))

    def ask_cluster(self) -> None:
        """Ask for the Dask cluster that the batch runs on; none: this machine."""
        try:
            cluster = self.working.jobs.setting(CLUSTER, Cluster)
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())
            return
        dialog = ClusterDialog(cluster, self)
        if dialog.exec() and self.working.do(lambda jobs: jobs.set(CLUSTER, dialog.cluster)):
            where = dialog.cluster.address if dialog.cluster else tr("this machine")
            self._session.said.emit(tr("The batch runs on {where} from the next film on.",
                                       where=where))

    def _watch(self) -> None:
        if self.working.watched is not None:
            self.working.do(unwatch)
            self.sync()
            return
        chosen = QFileDialog.getExistingDirectory(self, tr("Folder to watch for films"))
        if chosen:
            self.watch_folder(Path(chosen))

    def watch_folder(self, folder: Path) -> None:
        """Watch ``folder`` with the ticked versions' sheets."""
        project = self._session.project
        letters = self.versions.plan.wanted_letters()
        names = tuple(project.version(letter).sheet for letter in letters)
        try:
            watch(self.working.jobs, folder, self.folder, names)
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())
        self.sync()

    def close_down(self) -> None:
        """Stop what belongs to the film. The batch outlives it."""
        for signal, slots in ((self.working.changed, (self._changed, self.lines.sync)),
                              (self.working.over, (self._over,)),
                              (self.working.said, (self._session.said,))):
            for slot in slots:
                signal.disconnect(slot)
        self.versions.close_down()
        self.handing.close()
