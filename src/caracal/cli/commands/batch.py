"""``caracal batch``: many films' versions from a list."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later, looks, number, sound_choice
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("sources", type=Path, nargs="*", metavar="PROJECT_OR_MOVIE")
    command.add_argument("--spec", action="extend", nargs="+", metavar="NAME",
                         help=tr("spec sheets; a project has its own"))
    command.add_argument("--out", required=True, type=Path, metavar="DIR")
    command.add_argument("--jobs", type=number(1, tr("number of jobs")), default=1, metavar="N",
                         help=tr("films at once"))
    command.add_argument("--replace", action="store_true",
                         help=tr("replace files of the same names; else new ones are numbered"))
    sound_choice(command)
    looks(command)
    command.add_argument("--captions", action="store_true",
                         help=tr("with the captions in the file beside each film that has its "
                                 "name"))
    command.add_argument("--review", action="store_true",
                         help=tr("review copies: the destination's zones are in the picture"))
    command.add_argument("--bundle", type=Path, metavar="DIR",
                         help=tr("hand everything over as a bundle with checksums"))
    command.add_argument("--cluster", default="", metavar="ADDRESS",
                         help=tr("a Dask scheduler, such as tls://machine:8786"))
    for name, what in (("ca", tr("the authority's certificate")), ("cert", tr("your certificate")),
                       ("key", tr("its key"))):
        command.add_argument(f"--tls-{name}", type=Path, metavar="FILE",
                             help=tr("{what}, by which the cluster is trusted", what=what))
    command.add_argument("--insecure", action="store_true",
                         help=tr("a cluster on another machine without TLS: your own network only"))
    command.add_argument("--watch", type=Path, metavar="DIR",
                         help=tr("go on, and take every new film in this folder"))
    command.add_argument("--json", action="store_true", help=tr("only JSON on standard output"))


BATCH = Command("batch", tr("make many films' versions from a list that outlives crashes"),
                _arguments, later("batch", "run_batch"))
