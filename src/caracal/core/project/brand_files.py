"""Brands as files: open TOML, with logos, fonts and pictures beside it."""

from __future__ import annotations

from pathlib import Path

from caracal.core.base.errors import InputError
from caracal.core.base.toml_text import read_toml, write_toml
from caracal.core.base.translation import tr
from caracal.core.project.assets import with_copies_beside, with_files_beside
from caracal.core.project.brand import Brand, brand_error

WHAT = "brand"


def read_brand(path: Path) -> Brand:
    """The brand in the file at ``path``, its pictures and fonts found beside it. Raises InputError.
    """
    found = read_toml(path, Brand, WHAT)
    wrong = brand_error(found)
    if wrong:
        raise InputError(tr("This brand is not valid: {wrong}.", wrong=wrong), path,
                         tr("Correct it."))
    return with_files_beside(found, path)


def write_brand(path: Path, brand: Brand) -> None:
    """Keep ``brand`` at ``path``, with copies of its pictures and fonts beside it.

    Raises StorageError when it cannot be written, InputError when a file is missing.
    """
    write_toml(path, with_copies_beside(brand, path))
