"""What commands answer in JSON about files: one shape for one thing, with a version.

``convert``, ``prove`` and ``batch`` answer with :class:`FilesAnswer`, ``convert --dry-run`` with
:class:`PlanAnswer`. docs/answers.schema.json describes both.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import msgspec

from caracal.core.base.schemas import schema_of
from caracal.core.encoding.proof import Proof

VERSION = 1
FILES, PLAN = "caracal files", "caracal plan"


class LineAnswer(msgspec.Struct, frozen=True):
    """One line of a proof: ``what`` was looked at, what was ``found`` and what was ``asked``."""

    what: str
    found: str
    asked: str
    right: bool


class FileAnswer(msgspec.Struct, frozen=True):
    """One file, or a version that became none: then ``file`` is empty, and ``problem`` says why.

    ``right`` says whether all lines of its proof are.
    """

    film: str
    sheet: str
    file: str
    right: bool
    problem: str = ""
    lines: tuple[LineAnswer, ...] = ()


class FilesAnswer(msgspec.Struct, frozen=True, tag_field="format", tag=FILES):
    """Files that were made or proved, in order."""

    version: int
    files: tuple[FileAnswer, ...]


class VersionPlan(msgspec.Struct, frozen=True):
    """What one version would become: its length and size, how long that takes, its concerns."""

    sheet: str
    label: str
    seconds: float
    size_mb: float
    takes_s: float
    stopped: bool
    concerns: tuple[str, ...]


class PlanAnswer(msgspec.Struct, frozen=True, tag_field="format", tag=PLAN):
    """What would be made of a film; nothing was."""

    version: int
    film: str
    versions: tuple[VersionPlan, ...]


def schema() -> dict[str, Any]:
    """The published schema of both answers."""
    return schema_of(FilesAnswer | PlanAnswer)  # type: ignore[arg-type]


def files_answer(files: Iterable[FileAnswer]) -> FilesAnswer:
    """The answer about ``files``."""
    return FilesAnswer(VERSION, tuple(files))


def proved(film: str, proof: Proof) -> FileAnswer:
    """The answer about a file of ``film`` (empty: who knows) that was proved."""
    lines = tuple(LineAnswer(line.what, line.found, line.asked, line.right)
                  for line in proof.lines)
    return FileAnswer(film, proof.sheet, proof.file, proof.right, "", lines)
