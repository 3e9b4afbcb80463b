"""Writes every sentence that people read into ``data/locale/caracal.pot``, for translators.

    .venv/bin/python scripts/catalogue.py [LANGUAGE...]

With languages it brings ``LANGUAGE/LC_MESSAGES/caracal.po`` beside it up to date, and compiles it.
"""

from __future__ import annotations

import sys
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.extract import extract_from_dir
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

from caracal.core.base.translation import DOMAIN, SHIPPED

SOURCE = Path(__file__).parents[1] / "src" / "caracal"
METHODS = [("**.py", "python"), ("**.jinja", "jinja2")]
FUNCTIONS = {"tr": None, "mark": None, "counted": (2, 3)}
TEMPLATE = SHIPPED / f"{DOMAIN}.pot"
ALWAYS = datetime(2026, 1, 1, tzinfo=UTC)  # a date of its own would change the file every time


def source_catalogue() -> Catalog:
    """Every sentence in the code, with the files that it is in."""
    made = Catalog(project="Caracal", version="", copyright_holder="The Caracal founders",
                   creation_date=ALWAYS, revision_date=ALWAYS, fuzzy=False)
    for file, _, words, notes, context in extract_from_dir(
            SOURCE, method_map=METHODS, keywords=FUNCTIONS, comment_tags=()):
        made.add(words, locations=[(file, None)], auto_comments=notes, context=context)
    for message in made:
        message.flags.discard("python-format")  # a “%” in a sentence stands for itself
    return made


def written(catalogue: Catalog) -> bytes:
    """The catalogue as a .po file, the same for the same sentences."""
    out = BytesIO()
    write_po(out, catalogue, width=100, include_lineno=False, sort_output=True)
    return out.getvalue()


def bring_up_to_date(language: str, source: Catalog) -> None:
    """Take new sentences into a language's file, and compile it."""
    folder = SHIPPED / language / "LC_MESSAGES"
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / f"{DOMAIN}.po"
    catalogue = Catalog(locale=language)
    if file.is_file():
        with file.open("rb") as old:
            catalogue = read_po(old, locale=language)
    catalogue.update(source, no_fuzzy_matching=True)
    file.write_bytes(written(catalogue))
    with file.with_suffix(".mo").open("wb") as out:
        write_mo(out, catalogue)


def main() -> None:
    """Write the template, and the languages that are named."""
    source = source_catalogue()
    TEMPLATE.parent.mkdir(exist_ok=True)
    TEMPLATE.write_bytes(written(source))
    for language in sys.argv[1:]:
        bring_up_to_date(language, source)


if __name__ == "__main__":
    main()
