"""``caracal prove``: files against their spec sheets, named or found in what was made with them."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.answers import files_answer, proved
from caracal.cli.telling import print_json
from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.batch.bundle import opened_bundle, reported_in
from caracal.core.batch.report import (
    REPORT_FOLDER,
    REPORT_NAME,
    ReportedFile,
    files_in_report,
)
from caracal.core.encoding.proof import prove
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import find_sheet, sheet_of


def prove_files(asked: argparse.Namespace) -> int:
    """Check files against a sheet that is named, or each against that which its bundle or report
    names. Exit code 1 when any line is wrong.
    """
    one = find_sheet(asked.spec) if asked.spec else None
    found = [each for path in asked.file for each in _meant(path, one)]
    proofs = [prove(file, sheet) for file, sheet in found]
    if asked.json:
        print_json(files_answer(proved("", proof) for proof in proofs))
        return 0 if all(proof.right for proof in proofs) else 1
    for proof in proofs:
        if len(proofs) > 1:
            print(proof.file)
        for line in proof.lines:
            mark = tr("right") if line.right else tr("WRONG")
            print(tr("{mark}  {what:18} {found:34} asked: {asked}", mark=mark, what=tr(line.what),
                     found=line.found, asked=line.asked))
    return 0 if all(proof.right for proof in proofs) else 1


def _meant(path: Path, one: SpecSheet | None) -> list[tuple[Path, SpecSheet]]:
    """The movies that ``path`` stands for, each with the sheet ``one`` or that it was made for."""
    if path.is_dir():
        report = path / REPORT_FOLDER / REPORT_NAME
        if report.is_file():  # where a batch has put its files
            return _meant(report, one)
        told = reported_in(path)
        return [(file, one or _sheet(file, told.get(file.name))) for file in opened_bundle(path)]
    if path.suffix.lower() == ".json":
        beside = path.parent.parent if path.parent.name == REPORT_FOLDER else path.parent
        return [(beside / name, one or _sheet(beside / name, file))
                for name, file in files_in_report(path).items()]
    return [(path, one or _sheet(path, _reported(path)))]


def _reported(file: Path) -> ReportedFile | None:
    """What a report beside ``file`` tells of it; None: there is none, or it tells nothing."""
    for report in (file.parent / REPORT_FOLDER / REPORT_NAME, file.parent / REPORT_NAME):
        if report.is_file():
            return files_in_report(report).get(file.name)
    return None


def _sheet(file: Path, told: ReportedFile | None) -> SpecSheet:
    if told is None:
        raise InputError(tr("It is not known which spec sheet this file was encoded for."), file,
                         tr("Give its spec sheet with --spec."))
    return find_sheet(told.spec) if told.spec_sheet is None else sheet_of(told.spec_sheet, file)
