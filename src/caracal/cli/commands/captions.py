"""``caracal captions``: what is said, as captions."""

from __future__ import annotations

import argparse
from pathlib import Path

from caracal.cli.commands.command import MOVIE, Command, json_answer, later, sound_choice
from caracal.core.base.translation import tr


def _arguments(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, help=MOVIE)
    command.add_argument("--out", required=True, type=Path, metavar="FILE",
                         help=tr("caption file to write (.srt, .vtt, .ass); an existing file is "
                                 "kept; - writes SRT to standard output"))
    command.add_argument("--force", action="store_true", help=tr("overwrite an existing file"))
    command.add_argument("--language", default="", metavar="CODE",
                         help=tr("language of the speech, such as en or de; detected if omitted"))
    command.add_argument("--names", "--terms", default="", metavar="WORDS",
                         help=tr("names and rare words that are spoken, separated by commas"))
    sound_choice(command)
    json_answer(command)


CAPTIONS = Command("captions", tr("transcribe speech into captions"), _arguments,
                   later("steps", "write_what_is_said"))
