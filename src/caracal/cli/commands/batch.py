"""``caracal batch``: many films' versions from a list."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, added_sound, later, looks, number, sound_choice
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("sources", type=Path, nargs="*", metavar="PROJECT_OR_MOVIE")
    command.add_argument("--spec", action="extend", nargs="+", metavar="NAME",
                         help=tr("spec sheets to encode to; a project brings its own"))
    command.add_argument("--out", required=True, type=Path, metavar="DIR",
                         help=tr("folder to write the files into"))
    command.add_argument("--jobs", type=number(1, tr("number of jobs")), default=1, metavar="N",
                         help=tr("number of films to encode at the same time"))
    command.add_argument("--replace", action="store_true",
                         help=tr("overwrite files of the same name; otherwise new files are "
                                 "numbered"))
    sound_choice(command)
    looks(command)
    added_sound(command)
    command.add_argument("--captions", action="store_true",
                         help=tr("use the caption file of the same name beside each film"))
    command.add_argument("--review", action="store_true",
                         help=tr("encode review copies, with the destination's zones drawn in the "
                                 "picture"))
    command.add_argument("--bundle", type=Path, metavar="DIR",
                         help=tr("write a bundle with checksums into DIR as well"))
    command.add_argument("--cluster", default="", metavar="ADDRESS",
                         help=tr("encode on a cluster: the address of a Dask scheduler, such as "
                                 "tls://machine:8786"))
    for name, what in (("ca", tr("the authority's certificate")), ("cert", tr("your certificate")),
                       ("key", tr("its key"))):
        command.add_argument(f"--tls-{name}", type=Path, metavar="FILE",
                             help=tr("{what}, to trust the cluster by", what=what))
    command.add_argument("--insecure", action="store_true",
                         help=tr("allow a cluster on another machine without TLS; use it in your "
                                 "own network only"))
    command.add_argument("--watch", type=Path, metavar="DIR",
                         help=tr("keep running, and encode every new film in this folder"))
    command.add_argument("--json", action="store_true", help=tr("print JSON only"))


BATCH = Command("batch", tr("encode versions of many films from a list that survives crashes"),
                _arguments, later("batch", "run_batch"))
