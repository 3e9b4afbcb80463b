"""Batch, as the window knows it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import QSettings

from caracal.core.base.translation import mark, tr
from caracal.ui.batch.view import Batch
from caracal.ui.services.settings import kept_bytes, kept_flag, kept_map, number_in
from caracal.ui.session.view import Shell, View
from caracal.ui.widgets.tables import Table

MOST_WIDE = 4000.0  # pixels of a column


def _connect(batch: Batch, shell: Shell) -> None:
    batch.versions.jumped.connect(shell.show_close_up)
    batch.versions.bar.sheet_asked.connect(shell.open_sheets)


def _tables(batch: Batch) -> dict[str, Table]:
    return {"versions": batch.versions.table, "lines": batch.lines.table,
            "proofs": batch.proofs.table}


def _keep(settings: QSettings, batch: Batch) -> None:
    settings.setValue("out", str(batch.folder))
    settings.setValue("batch/replace", batch.replace.isChecked())
    settings.setValue("batch/review", batch.review.isChecked())
    settings.setValue("batch/splitter", batch.halves.saveState())
    for name, table in _tables(batch).items():
        settings.setValue(f"batch/{name} columns", table.widths)


def _recall(settings: QSettings, batch: Batch) -> None:
    batch.replace.setChecked(kept_flag(settings, "batch/replace"))
    batch.review.setChecked(kept_flag(settings, "batch/review"))
    state = kept_bytes(settings, "batch/splitter")
    if state is not None:
        batch.halves.restoreState(state)
    for name, table in _tables(batch).items():
        widths = kept_map(settings, f"batch/{name} columns")
        table.set_widths({column: round(min(number_in(width, -1.0), MOST_WIDE))
                          for column, width in widths.items()})


def _of_film(batch: Batch) -> dict[str, Any]:
    return {"off": sorted(batch.versions.plan.off)}


def _recall_of_film(batch: Batch, kept: Mapping[str, Any]) -> None:
    off = kept.get("off")
    if isinstance(off, list):  # the versions that are not ticked
        batch.versions.plan.off = {str(letter) for letter in off}


BATCH = View(
    mark("Batch"), "5", tr("Click a line to see its proof"),
    lambda place: Batch(place.session, place.folder, place.working), connect=_connect,
    close=Batch.close_down, keep=_keep, recall=_recall, of_film=_of_film,
    recall_of_film=_recall_of_film, at_once=True, has_zones=False)
