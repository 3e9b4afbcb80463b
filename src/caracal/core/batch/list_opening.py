"""Opening the user's batch list, whatever state it is in: the window opens all the same."""

from __future__ import annotations

import tempfile
from pathlib import Path

from caracal.core.base.errors import CaracalError, InputError
from caracal.core.base.set_aside import set_aside
from caracal.core.base.translation import tr
from caracal.core.batch.batch_list import BatchList

WAIT_S = 0.5  # for another process that is writing: the window stands still meanwhile


def opened_list(path: Path) -> tuple[BatchList, str]:
    """The list in ``path``, and a sentence if it is not the one that was there.

    A list that cannot be read (damaged, of a newer Caracal, or no list at all) is set aside, and a
    new one begins. Where none can be written, the list lies in a temporary folder.
    """
    try:
        return BatchList(path, WAIT_S), ""
    except CaracalError as problem:
        if isinstance(problem, InputError) or path.is_dir():
            aside = set_aside(path)
            if aside is not None:
                return BatchList(path, WAIT_S), tr(
                    "The batch list could not be read. {problem} It is kept as {file}, and a new "
                    "list has begun.", problem=problem.what, file=aside)
        folder = Path(tempfile.mkdtemp(prefix="caracal-batch-"))
        return BatchList(folder / path.name, WAIT_S), tr(
            "The batch list cannot be saved in {folder}. {problem} Items that you add are lost "
            "when the window closes.", folder=path.parent, problem=problem.what)
