"""``caracal``: opens the window, or does one step of the job without it. Stable: people script it.

Exit codes: 0 done, 1 a proof line failed or something nobody foresaw went wrong, 2 bad input, 130
stopped; one sentence on stderr, and a log (see --log).
"""

from __future__ import annotations

import argparse
import importlib
import signal
import sys
from collections.abc import Callable
from io import TextIOWrapper
from pathlib import Path

from caracal import __version__
from caracal.cli.given import sorted_out
from caracal.cli.progress_bar import tell_progress
from caracal.core.base.errors import Cancelled, CaracalError, StorageError
from caracal.core.base.logs import keep_log, log, unforeseen
from caracal.core.base.translation import tr


def _later(module: str, name: str) -> Callable[[argparse.Namespace], int]:
    """A command whose module is imported when it runs: help and refusals need none of them."""
    def run(asked: argparse.Namespace) -> int:
        command: Callable[[argparse.Namespace], int] = getattr(
            importlib.import_module(f"caracal.cli.{module}"), name)
        return command(asked)

    return run


def _number(least: int, what: str) -> Callable[[str], int]:
    """Reads a whole number of ``least`` or more; ``what`` it is called in a sentence."""
    def read(text: str) -> int:
        if not (text.isascii() and text.isdigit() and len(text) < 10 and int(text) >= least):
            raise argparse.ArgumentTypeError(tr("“{text}” is no {what}; give {least} or more",
                                                text=text, what=what, least=least))
        return int(text)

    return read


def _manner(text: str) -> object:
    """A manner by its name."""
    from caracal.core.framing.motion import Manner  # noqa: PLC0415 - only where it is asked for

    names = {manner.value.replace(" ", "-"): manner
             for manner in Manner if manner is not Manner.BY_HAND}
    if text.lower() not in names:
        raise argparse.ArgumentTypeError(tr("“{text}” is no manner; give one of {names}", text=text,
                                            names=", ".join(names)))
    return names[text.lower()]


def _gigabytes(text: str) -> float:
    """A size in 10^9 bytes, 0 or more."""
    try:
        size = float(text)
    except ValueError:
        size = -1.0
    if not 0 <= size < float("inf"):
        raise argparse.ArgumentTypeError(tr("“{text}” is not a size in GB; give a number such as "
                                            "20", text=text))
    return size


class _LayoutNames:
    """The layouts that can be named; what knows them is imported only where help is shown."""

    def __str__(self) -> str:
        from caracal.core.layout.kinds import KINDS  # noqa: PLC0415

        return ", ".join(kind.name.replace(",", "").replace(" ", "-") for kind in KINDS)


class _Parser(argparse.ArgumentParser):
    """A parser that refuses in one sentence, like everything else."""

    def error(self, message: str) -> None:  # type: ignore[override]
        said = message[:1].upper() + message[1:]
        sys.stderr.write(tr("{message}. See {prog} --help.\n", message=said, prog=self.prog))
        raise SystemExit(2)


def parser() -> argparse.ArgumentParser:
    """All commands and their options."""
    top = _Parser(prog="caracal", description=tr("One finished widescreen film in; every other "
                                                 "shape out, framed, checked and encoded."))
    top.add_argument("--version", action="version", version=f"caracal {__version__}")
    top.add_argument("--log", type=Path, metavar="FILE",
                     help=tr("write the log here instead of into the state folder"))
    top.add_argument("--verbose", action="store_true", help=tr("log and tell more"))
    top.add_argument("--quiet", action="store_true",
                     help=tr("tell no progress, only what is wrong"))
    commands = top.add_subparsers(dest="command", parser_class=_Parser, metavar="COMMAND")
    demo = commands.add_parser("demo", help=tr("open the window on the demo film"))
    demo.set_defaults(run=_later("opening", "open_demo"))
    opened = commands.add_parser("open", help=tr("open the window on a film"))
    opened.add_argument("movie", type=Path, nargs="?")
    opened.add_argument("--new-window", action="store_true",
                        help=tr("not in the window that is there, whatever was chosen in it"))
    opened.set_defaults(run=_later("opening", "open_film"))
    for name, what, run in (
        ("look", tr("say what a file is"), _later("opening", "look_at")),
        ("analyse", tr("find shots, people and things"), _later("steps", "analyse_film")),
    ):
        command = commands.add_parser(name, help=what)
        command.add_argument("movie", type=Path)
        command.add_argument("--json", action="store_true", help=tr("only JSON on standard output"))
        command.set_defaults(run=run)
    command.add_argument("--explain", type=_number(0, tr("frame number")), metavar="FRAME",
                         help=tr("what the cut finder measured and decided round this frame"))
    path = commands.add_parser("path", help=tr("the window of every frame for a shape"))
    path.add_argument("movie", type=Path)
    path.add_argument("--shape", required=True, help=tr("such as 9:16"))
    path.add_argument("--json", action="store_true", help=tr("a list of [frame,x,y,w,h]"))
    path.set_defaults(run=_later("steps", "path_of"))
    _captions(commands.add_parser("captions", help=tr("write what is said as captions")))
    _convert(commands.add_parser("convert", help=tr("make versions, encoded and proved")))
    prove = commands.add_parser("prove", help=tr("check a file against a spec sheet"))
    prove.add_argument("file", type=Path, nargs="+",
                       help=tr("a movie, the folder of a batch or a bundle, or a report.json"))
    prove.add_argument("--spec", metavar="NAME", help=tr("the sheet; else that which the bundle or "
                                                         "report names for each file"))
    prove.add_argument("--json", action="store_true")
    prove.set_defaults(run=_later("proving", "prove_files"))
    _batch(commands.add_parser("batch", help=tr("make many films' versions from a list that "
                                                "outlives crashes")))
    _desk(commands.add_parser("desk",
                              help=tr("a stand-in for a destination: deliver, list, withdraw")))
    _house(commands)
    _specs(commands.add_parser("specs", help=tr("the spec sheets: list, show, check, add, export")))
    return top


def _house(commands: argparse._SubParsersAction[_Parser]) -> None:
    """What looks after the machine that Caracal runs on."""
    cache = commands.add_parser("cache", help=tr("what analyses take; make room"))
    cache.add_argument("--clear", action="store_true",
                       help=tr("remove all; what is lost is found again"))
    cache.add_argument("--limit", type=_gigabytes, metavar="GB",
                       help=tr("remove those used longest ago, until the rest takes no more"))
    cache.add_argument("--json", action="store_true", help=tr("only JSON on standard output"))
    cache.set_defaults(run=_later("cache", "show_or_clear"))
    told = commands.add_parser("log", help=tr("where the log is, and its last lines"))
    told.add_argument("--lines", type=_number(0, tr("number of lines")), default=20, metavar="N")
    told.set_defaults(run=_later("opening", "show_log"))
    desktop = commands.add_parser("integrate", help=tr("let the desktop know Caracal: entry, icon, "
                                                       "project files, manual, completions"))
    desktop.add_argument("--remove", action="store_true", help=tr("take all of that away again"))
    desktop.add_argument("--force", action="store_true",
                         help=tr("replace or remove files that were changed, too"))
    desktop.add_argument("--into", type=Path, metavar="DIR",
                         help=tr("lay it out below DIR, as a packager does, not in your data "
                                 "folder"))
    desktop.set_defaults(run=_later("integrate", "integrate"))


def _specs(command: argparse.ArgumentParser) -> None:
    kinds = command.add_subparsers(dest="kind", parser_class=_Parser, metavar="WHAT", required=True)
    listed = kinds.add_parser("list", help=tr("every sheet, yours too"))
    listed.set_defaults(run=_later("specs", "list_sheets"))
    show = kinds.add_parser("show", help=tr("all that a sheet asks for"))
    show.add_argument("name", help=tr("a sheet's name, or a TOML file"))
    show.set_defaults(run=_later("specs", "show_sheet"))
    check = kinds.add_parser("check", help=tr("whether a TOML file is a sheet that can be made"))
    check.add_argument("file", type=Path, help=tr("a single - is standard input"))
    check.set_defaults(run=_later("specs", "check_sheet"))
    added = kinds.add_parser("add", help=tr("keep a TOML file's sheet among your own"))
    added.add_argument("file", type=Path, help=tr("a single - is standard input"))
    added.add_argument("--force", action="store_true", help=tr("in the place of one of its name"))
    added.set_defaults(run=_later("specs", "add_sheet"))
    export = kinds.add_parser("export", help=tr("write a sheet as TOML, to begin your own from"))
    export.add_argument("name")
    export.add_argument("file", type=Path, help=tr("a single - is standard output"))
    export.add_argument("--force", action="store_true", help=tr("write over a file that is there"))
    export.set_defaults(run=_later("specs", "export_sheet"))
    for parser in (listed, show, check):
        parser.add_argument("--json", action="store_true", help=tr("only JSON on standard output"))


def _batch(command: argparse.ArgumentParser) -> None:
    command.add_argument("sources", type=Path, nargs="*", metavar="PROJECT_OR_MOVIE")
    command.add_argument("--spec", action="extend", nargs="+", metavar="NAME",
                         help=tr("spec sheets; a project has its own"))
    command.add_argument("--out", required=True, type=Path, metavar="DIR")
    command.add_argument("--jobs", type=_number(1, tr("number of jobs")), default=1, metavar="N",
                         help=tr("films at once"))
    command.add_argument("--replace", action="store_true",
                         help=tr("replace files of the same names; else new ones are numbered"))
    _sound(command)
    _layout(command)
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
    command.set_defaults(run=_later("batch", "run_batch"))


def _sound(command: argparse.ArgumentParser) -> None:
    command.add_argument("--sound", type=int, default=1, metavar="N",
                         help=tr("which of several sounds is used, counted from 1"))


def _layout(command: argparse.ArgumentParser) -> None:
    layout = command.add_argument(
        "--layout", default="fill", metavar="NAME|FILE",
        help=tr("%(layouts)s, or a layout's .toml, for all shots about which nothing else was "
                "decided"))
    setattr(layout, "layouts", _LayoutNames())  # noqa: B010 - argparse fills it in
    command.add_argument("--template", type=Path, metavar="FILE",
                         help=tr("overlays and fades from a template's .toml"))
    command.add_argument("--brand", type=Path, metavar="FILE",
                         help=tr("logo, styles and end card from a brand's .toml"))


def _desk(command: argparse.ArgumentParser) -> None:
    kinds = command.add_subparsers(dest="kind", parser_class=_Parser, metavar="WHAT", required=True)
    deliver = kinds.add_parser("deliver", help=tr("hand a bundle over"))
    deliver.add_argument("bundle", type=Path)
    deliver.add_argument("--spec", required=True, metavar="NAME", help=tr("the desk's own sheet"))
    deliver.add_argument("--file", action="append", metavar="NAME", dest="files",
                         help=tr("only this file of the bundle; else all made for the sheet"))
    deliver.add_argument("--title", required=True)
    deliver.add_argument("--text", default="")
    deliver.add_argument("--tag", action="append")
    deliver.add_argument("--date", default="",
                         help=tr("YYYY-MM-DDTHH:MM, local time; none: at once"))
    deliver.set_defaults(run=_later("desk", "deliver"))
    listed = kinds.add_parser("list", help=tr("the schedule"))
    listed.add_argument("--due", action="store_true", help=tr("only what should be out by now"))
    listed.set_defaults(run=_later("desk", "list_entries"))
    away = kinds.add_parser("withdraw", help=tr("take an entry out of the outbox"))
    away.add_argument("id")
    away.set_defaults(run=_later("desk", "withdraw"))
    for parser in (deliver, listed, away):
        parser.add_argument("--outbox", required=True, type=Path, metavar="DIR")
    for parser in (deliver, listed):
        parser.add_argument("--json", action="store_true")


def _convert(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path, nargs="?")
    command.add_argument("--spec", action="extend", nargs="+", metavar="NAME",
                         help=tr("one or more spec sheets; a project has its own"))
    command.add_argument("--out", required=True, type=Path, metavar="DIR")
    command.add_argument("--dry-run", action="store_true",
                         help=tr("only tell sizes, times and concerns; make nothing"))
    command.add_argument("--replace", action="store_true",
                         help=tr("replace files of the same names; else new ones are numbered"))
    command.add_argument("--review", action="store_true",
                         help=tr("review copies: the destination's zones are in the picture"))
    command.add_argument("--lead", type=_number(1, tr("person's number")), metavar="N",
                         help=tr("person #N of the film, as analyse numbers them, leads "
                                 "everywhere"))
    command.add_argument("--manner", type=_manner, metavar="NAME",
                         help=tr("how windows move: auto, locked, glide or chase"))
    command.add_argument("--cuts", type=Path, metavar="FILE",
                         help=tr("shots from a cut list (EDL, OpenTimelineIO)"))
    _sound(command)
    _layout(command)
    command.add_argument("--captions", type=Path, metavar="FILE",
                         help=tr("the film's captions, in the picture or beside it as the sheet "
                                 "says"))
    command.add_argument("--from", dest="start", metavar="TC", help=tr("HH:MM:SS:FF or seconds"))
    command.add_argument("--to", dest="end", metavar="TC", help=tr("the first frame left out"))
    command.add_argument("--speed", type=int, default=100, metavar="PERCENT",
                         help=tr("25 to 400 percent of its own speed, the sound at its pitch"))
    command.add_argument("--json", action="store_true")
    command.set_defaults(run=_later("steps", "convert_film"))


def _captions(command: argparse.ArgumentParser) -> None:
    command.add_argument("movie", type=Path)
    command.add_argument("--out", required=True, type=Path, metavar="FILE",
                         help=tr("an .srt, .vtt or .ass to write; one that is there is kept; a "
                                 "single - is SRT on standard output"))
    command.add_argument("--force", action="store_true", help=tr("write over a file that is there"))
    command.add_argument("--language", default="", metavar="CODE",
                         help=tr("such as en or de; else it is found by listening"))
    command.add_argument("--names", default="", metavar="WORDS",
                         help=tr("names and rare words in the film, with commas between them"))
    _sound(command)
    command.add_argument("--json", action="store_true")
    command.set_defaults(run=_later("steps", "write_what_is_said"))


def main(arguments: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    given = sys.argv[1:] if arguments is None else arguments
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, TextIOWrapper):
            stream.reconfigure(errors="surrogateescape")  # names are printed byte for byte
    asked = parser().parse_args(given)
    keep_log("command", asked.log, asked.verbose)
    tell_progress(not asked.quiet)
    run = getattr(asked, "run", _later("opening", "open_window"))
    try:
        return int(run(sorted_out(asked)))
    except (Cancelled, KeyboardInterrupt):
        sys.stderr.write(tr("Stopped; nothing half-made was kept.\n"))
        return 130
    except CaracalError as problem:
        log.info("refused: %s", problem.sentence())
        sys.stderr.write(f"{problem.sentence()}\n")
        return 2
    except BrokenPipeError:
        signal.signal(signal.SIGPIPE, signal.SIG_DFL)
        return 0
    except Exception as problem:  # noqa: BLE001 - the one gate: a sentence and the log, no traceback
        told = unforeseen(problem)
        sys.stderr.write(f"{told.sentence()}\n")
        return 2 if isinstance(told, StorageError) else 1


if __name__ == "__main__":
    sys.exit(main())
