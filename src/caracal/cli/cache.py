"""``caracal cache``: how much analyses of films take, and making room."""

from __future__ import annotations

import argparse

from caracal.cli.telling import print_json
from caracal.core.analysis.cache_limit import kept_films, make_room
from caracal.core.base.folders import cache_root
from caracal.core.base.translation import counted, tr

GB = 10**9


def show_or_clear(asked: argparse.Namespace) -> int:
    """Tell what is kept; with ``--clear`` or ``--limit`` remove some first."""
    gone = make_room(0 if asked.clear else round(asked.limit * GB)) if (
        asked.clear or asked.limit is not None) else 0
    films = kept_films()
    size = sum(kept.size_bytes for kept in films)
    if asked.json:
        print_json({"folder": str(cache_root()), "films": len(films), "bytes": size,
                    "removed": gone})
        return 0
    removed = tr("{gone} removed. ", gone=gone) if gone else ""
    print(tr("{removed}{films} in {size:.2f} GB, {folder}", removed=removed,
             films=counted(len(films), "{count} film", "{count} films"), size=size / GB,
             folder=cache_root()))
    return 0
