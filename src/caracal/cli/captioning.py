"""Captions for versions that are made on the command line."""

from __future__ import annotations

import functools
import sys
from pathlib import Path

import msgspec

from caracal.core.base.errors import on_one_line
from caracal.core.base.paths import text_of
from caracal.core.exchange.caption_files import read_captions
from caracal.core.project.recipe import Recipe
from caracal.core.text.cues import Cue


def captioned(recipe: Recipe, path: Path) -> Recipe:
    """``recipe`` with the captions in the file at ``path``; what was mended is told, once."""
    return msgspec.structs.replace(recipe, captions=_cues(path), captions_file=text_of(path))


@functools.cache
def _cues(path: Path) -> tuple[Cue, ...]:
    read = read_captions(path)
    for sentence in read.mended:
        print(on_one_line(f"{path.name}: {sentence}"), file=sys.stderr)
    return read.cues
