"""``caracal captions``: what is said, as captions."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import Command, later, sound_choice
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path)
    command.add_argument("--out", required=True, type=Path, metavar="FILE",
                         help=tr("an .srt, .vtt or .ass to write; one that is there is kept; a "
                                 "single - is SRT on standard output"))
    command.add_argument("--force", action="store_true", help=tr("write over a file that is there"))
    command.add_argument("--language", default="", metavar="CODE",
                         help=tr("such as en or de; else it is found by listening"))
    command.add_argument("--names", default="", metavar="WORDS",
                         help=tr("names and rare words in the film, with commas between them"))
    sound_choice(command)
    command.add_argument("--json", action="store_true")


CAPTIONS = Command("captions", tr("write what is said as captions"), _arguments,
                   later("steps", "write_what_is_said"))
