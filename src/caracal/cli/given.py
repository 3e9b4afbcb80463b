"""Words of the command line that stand where they do not belong, or that no command takes.

Nothing heavy is imported: every command passes here.
"""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr

STREAM = Path("-")
TAKES_STREAM = {("specs", "check"): "file", ("specs", "add"): "file", ("specs", "export"): "file",
                ("captions", None): "out"}  # what of each command may be "-"


def sorted_out(asked: argparse.Namespace) -> argparse.Namespace:
    """``asked`` with films that stand behind --spec among its films.

    Raises InputError when no film was named, or "-" stands for what is no stream.
    """
    if asked.command in ("convert", "batch") and asked.spec:
        films = [Path(word) for word in asked.spec if _is_film(word)]
        asked.spec = [word for word in asked.spec if not _is_film(word)]
        if asked.command == "batch":
            asked.sources = [*asked.sources, *films]
        elif films and (asked.movie is not None or len(films) > 1):
            raise InputError(tr("More than one film was given."), films[-1],
                             tr("caracal batch encodes many films."))
        elif films:
            asked.movie = films[0]
    if asked.command == "convert" and asked.movie is None:
        raise InputError(tr("No film was named."), remedy=tr("Give a film or a project."))
    _refuse_streams(asked)
    return asked


def _is_film(word: str) -> bool:
    """Whether a word behind --spec is a film or project: names of sheets have no suffix, and their
    files end in .toml.
    """
    return Path(word).suffix.lower() not in ("", ".toml")


def _refuse_streams(asked: argparse.Namespace) -> None:
    allowed = TAKES_STREAM.get((asked.command, getattr(asked, "kind", None)))
    for name, value in vars(asked).items():
        if name != allowed and STREAM in (value if isinstance(value, list) else [value]):
            raise InputError(tr("“-” cannot be used here: films, projects and encoded files are "
                                "read and written in several places at once."),
                             remedy=tr("Name a file."))

