"""Which cluster the batch runs on, and the files by which it is trusted."""

from __future__ import annotations

from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QWidget,
)

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.batch.cluster_address import Cluster
from caracal.ui.widgets.focus_policy import apply_focus_policy

FILES = (("ca_file", tr("Authority's certificate")), ("cert_file", tr("Your certificate")),
         ("key_file", tr("Its key")))


class ClusterDialog(QDialog):
    """Says at once what is missing; :attr:`cluster` is what was chosen, None for this machine."""

    def __init__(self, before: Cluster | None, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Cluster"))
        self.setObjectName("ground")
        before = before or Cluster("")
        self.cluster: Cluster | None = None
        self.address = QLineEdit(before.address)
        self.address.setPlaceholderText(tr("tls://machine:8786; empty: this machine"))
        self.address.setMinimumWidth(360)
        self.files = {name: QLineEdit(getattr(before, name)) for name, _ in FILES}
        self.insecure = QCheckBox(tr("My own network: no certificates"))
        self.insecure.setToolTip(tr("Everyone on that network can then read the films and run "
                                    "jobs"))
        self.insecure.setChecked(before.insecure)
        self.trouble = QLabel()
        self.trouble.setObjectName("bad")
        self.trouble.setWordWrap(True)
        grid = QGridLayout(self)
        grid.setContentsMargins(24, 20, 24, 20)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(10)
        grid.addWidget(QLabel(tr("Address of a Dask scheduler")), 0, 0)
        grid.addWidget(self.address, 0, 1, 1, 2)
        for row, (name, words) in enumerate(FILES, 1):
            grid.addWidget(QLabel(words), row, 0)
            grid.addWidget(self.files[name], row, 1)
            choose = QPushButton(tr("Choose…"))
            choose.clicked.connect(lambda _=False, key=name: self._choose(key))
            grid.addWidget(choose, row, 2)
        grid.addWidget(self.insecure, 4, 1, 1, 2)
        grid.addWidget(self.trouble, 5, 0, 1, 3)
        done, leave = QPushButton(tr("Use it")), QPushButton(tr("Cancel"))
        done.setDefault(True)
        done.clicked.connect(self.take)
        leave.clicked.connect(self.reject)
        last = QHBoxLayout()
        last.setSpacing(8)
        last.addStretch(1)
        last.addWidget(leave)
        last.addWidget(done)
        grid.addLayout(last, 6, 0, 1, 3)
        apply_focus_policy(self)

    def _choose(self, name: str) -> None:
        chosen = QFileDialog.getOpenFileName(self, tr("Certificate or key"), "",
                                             tr("PEM files (*.pem *.crt *.key);;All files (*)"))[0]
        if chosen:
            self.files[name].setText(chosen)

    def take(self) -> None:
        """Accept what was written, or say what is wrong with it."""
        address = self.address.text().strip()
        if address:
            ca, cert, key = (self.files[name].text().strip() for name, _ in FILES)
            cluster = Cluster(address, ca, cert, key, self.insecure.isChecked())
            try:
                cluster.check()
            except CaracalError as problem:
                self.trouble.setText(problem.sentence())
                return
            self.cluster = cluster
        self.accept()
