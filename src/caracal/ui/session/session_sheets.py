"""The spec sheets that an open film's versions are made for, also those that are gone."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from caracal.core.base.translation import tr
from caracal.core.project.model import Version
from caracal.core.specs.sheet import SpecSheet, base_name
from caracal.core.specs.sheet_store import all_sheets, sheet_called


class SessionSheets:
    """All sheets by name. ``missing`` are the names of sheets that are gone."""

    def __init__(self) -> None:
        self.missing: set[str] = set()
        self.by_name, self.broken = all_sheets()

    def called(self, name: str) -> SpecSheet:
        """The sheet called ``name``. Raises KeyError when there is none, not even a stand-in."""
        found = self.by_name.get(name) or sheet_called(name, self.by_name)
        if found is None:
            raise KeyError(name)
        return found

    def stand_in(self, versions: Iterable[Version]) -> None:
        """Give ``versions`` whose sheet is gone one that stands for it.

        Nothing can be made by it, and everything else works.
        """
        for version in versions:
            if sheet_called(version.sheet, self.by_name) is None:
                base = base_name(version.sheet)
                self.missing.add(base)
                like = next(iter(self.by_name.values()))
                self.by_name[base] = msgspec.structs.replace(
                    like, name=base, title=tr("{base}, which is gone", base=base), as_made=False)
                if version.sheet != base:  # one for a canvas of its own
                    self.by_name[version.sheet] = msgspec.structs.replace(
                        self.by_name[base], name=version.sheet)

    def renew(self, versions: Iterable[Version]) -> None:
        """Read the sheets again; ``versions`` whose sheet is gone keep the one they had."""
        sheets, self.broken = all_sheets()
        self.missing -= set(sheets)
        used = {base_name(version.sheet) for version in versions}
        kept = {name: sheet for name, sheet in self.by_name.items() if name in used}
        self.by_name = kept | sheets
