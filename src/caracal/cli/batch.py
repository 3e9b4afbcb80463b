"""``caracal batch``: many films, many versions, a list that outlives crashes."""

from __future__ import annotations

import argparse
import sys
import threading
import time
from collections.abc import Iterator, Mapping
from contextlib import suppress
from pathlib import Path

import msgspec
import watchfiles
from watchfiles._rust_notify import WatchfilesRustInternalError

from caracal.cli.answers import FileAnswer, files_answer, proved
from caracal.cli.bedding import bed_asked, with_sound_asked
from caracal.cli.branding import branded
from caracal.cli.captioning import captioned
from caracal.cli.progress_bar import ProgressBar
from caracal.cli.telling import print_json
from caracal.core.base.errors import InputError, on_one_line
from caracal.core.base.logs import forget_log, unforeseen
from caracal.core.base.paths import path_of, text_of
from caracal.core.base.time import FrameRange, short_time
from caracal.core.base.translation import tr
from caracal.core.base.work import Control
from caracal.core.batch.batch_list import CLUSTER, BatchList
from caracal.core.batch.bundle import check_empty, make_bundle
from caracal.core.batch.cluster_address import Cluster
from caracal.core.batch.encode_jobs import opened_project, requested_of_project
from caracal.core.batch.job import EncodeJob, Item, State
from caracal.core.batch.list_lock import worked_by_us
from caracal.core.batch.report import REPORT_FOLDER, write_report
from caracal.core.batch.runner import work_off
from caracal.core.batch.watching import check_watched, look_for_more, watch
from caracal.core.convert import check_folder
from caracal.core.exchange.caption_files import captions_beside
from caracal.core.layout.files import layout_asked
from caracal.core.layout.model import FILL
from caracal.core.media.master import Master
from caracal.core.media.probe import probe
from caracal.core.processes.children import KILL_AFTER_S, split_off
from caracal.core.processes.stop_signals import cancel_on_signals
from caracal.core.project.assets import files_of
from caracal.core.project.brand_files import read_brand
from caracal.core.project.requested import (
    RequestedVersion,
    requested_of_film,
    with_layout_of_all,
    with_template_over,
)
from caracal.core.project.storage import SUFFIX
from caracal.core.project.template import read_template
from caracal.core.render.captions.placement import caption_area
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import all_sheets, find_sheet

LIST_NAME = ".caracal-batch.sqlite"
LOOK_S = 2.0  # at a watched folder
TELL_S = 1.0


def run_batch(asked: argparse.Namespace) -> int:
    """Put everything asked for onto the list of the folder, and work it off.

    Called again with the same words after a crash it goes on where it was: what is made is not made
    again. Exit code 1 when a line failed.
    """
    sheets = [find_sheet(name) for name in dict.fromkeys(asked.spec or [])]
    if not asked.sources and not asked.watch:
        raise InputError(tr("Nothing to encode was given."),
                         remedy=tr("Give films or projects, or a folder with --watch."))
    if asked.watch:
        check_watched(asked.watch, asked.out, bool(sheets))
    split_off(forget_log)
    cluster = _cluster(asked)
    if asked.watch and (asked.layout.lower() != FILL.kind or asked.template or asked.brand
                        or asked.captions or asked.bed or asked.clean):
        raise InputError(tr("Films of a watched folder fill their canvas and have neither overlays "
                            "nor other sound."),
                         remedy=tr("Remove --layout, --template, --brand, --bed, --clean and "
                                   "--captions, or give films."))
    works = _works(asked, sheets)
    if asked.captions:
        works = _captioned(works)
    check_folder(asked.out, 0)
    if asked.bundle:
        check_empty(asked.bundle)
    path = asked.out / LIST_NAME
    with worked_by_us(path) as ours:  # until all is told: nobody else ends or removes the list
        if not ours:
            raise InputError(tr("Another process is working off this folder's list."), asked.out,
                             tr("Wait for it, or choose another folder."))
        with BatchList(path) as jobs:
            _add(jobs, works)
            jobs.set(CLUSTER, cluster)
            if asked.watch:
                watch(jobs, asked.watch.resolve(), asked.out.resolve(), tuple(asked.spec))
        _work(path, asked)
        return _told(path, asked)


def _cluster(asked: argparse.Namespace) -> Cluster | None:
    if not asked.cluster:
        return None
    ca, cert, key = (str(path.resolve()) if path else ""
                     for path in (asked.tls_ca, asked.tls_cert, asked.tls_key))
    cluster = Cluster(asked.cluster, ca, cert, key, asked.insecure)
    cluster.check()
    return cluster


def _works(asked: argparse.Namespace, sheets: list[SpecSheet]) -> list[EncodeJob]:
    """The lines for all films and projects that were named. Raises InputError.

    No film is analysed for this: a layout is set for the version, not for each shot.
    """
    known = all_sheets()[0] | {sheet.name: sheet for sheet in sheets}
    template = read_template(asked.template) if asked.template else None
    brand = read_brand(asked.brand) if asked.brand else None
    bed = bed_asked(asked)
    works = []
    for source in asked.sources:
        film, found = _wanted(source, sheets, known, asked.sound - 1)
        for each in found:
            wanted = with_layout_of_all(each, layout_asked(asked.layout, each.sheet.frame), None)
            if template is not None:
                wanted = with_template_over(wanted, template, film.rate, None,
                                            caption_area(wanted.sheet))
            if brand is not None:
                wanted = branded(wanted, brand, film)
            wanted = with_sound_asked(wanted, bed, asked)
            works.append(EncodeJob(text_of(film.file), text_of(asked.out.resolve()),
                                   wanted.recipe(asked.review), asked.replace))
    return works


def _wanted(
    path: Path, sheets: list[SpecSheet], known: Mapping[str, SpecSheet], sound: int
) -> tuple[Master, list[RequestedVersion]]:
    """The film at ``path``, or of the project there, and the versions that are wanted of it.

    Raises InputError when there is nothing to make, or the project's film is gone.
    """
    if path.suffix.lower() == SUFFIX:
        film, project = opened_project(path)
        return probe(film), requested_of_project(project, sheets, known)
    if not sheets:
        raise InputError(tr("No version was given."), path,
                         tr("Give a spec sheet with --spec."))
    master = probe(path.resolve())
    return master, [requested_of_film(sheet, FrameRange(0, master.frames), (), sound)
                    for sheet in sheets]


def _captioned(works: list[EncodeJob]) -> list[EncodeJob]:
    """``works`` with the captions beside their films; a project keeps its own."""
    made: list[EncodeJob] = []
    for job in works:
        beside = captions_beside(path_of(job.master))
        made.append(job if job.recipe.captions or beside is None else msgspec.structs.replace(
            job, recipe=captioned(job.recipe, beside)))
    without = sum(not job.recipe.captions for job in made)
    if without:
        print(tr("{without} of {count} versions have no captions: there is no caption file of the "
                 "film's name beside it.", without=without, count=len(made)), file=sys.stderr)
    return made


def _add(jobs: BatchList, works: list[EncodeJob]) -> None:
    """Add what the list does not hold yet; what failed or was stopped waits again.

    What is done is not made again, unless its files are gone or its film has changed since.
    """
    jobs.remove(
        [item.id for item in jobs.items() if item.state is State.DONE and not _stands(item)]
    )
    held = [item.job for item in jobs.items()]
    jobs.add(work for work in works if work not in held)
    jobs.retry([item.id for item in jobs.items() if item.state in (State.FAILED, State.STOPPED)])


def _stands(item: Item) -> bool:
    """Whether a finished line's files are where they were put, and newer than all they show."""
    try:
        changed = path_of(item.job.master).stat().st_mtime
    except OSError:
        return True
    for name in files_of(item.job.recipe):
        with suppress(OSError):  # what is gone has not been changed
            changed = max(changed, path_of(name).stat().st_mtime)
    return changed <= item.status.began and all(
        path_of(result.file).is_file() for result in item.status.made
    )


def _work(path: Path, asked: argparse.Namespace) -> None:
    control, over = Control(), threading.Event()
    cancel_on_signals(control.cancel)
    teller = threading.Thread(target=_tell, args=(path, over, asked.json), daemon=True)
    teller.start()
    looker = threading.Thread(target=_look, args=(path, asked.watch, control), daemon=True)
    if asked.watch:
        looker.start()
    try:
        work_off(path, control, asked.jobs, stay=bool(asked.watch))
    finally:
        over.set()
        teller.join(KILL_AFTER_S)


def _look(path: Path, folder: Path, control: Control) -> None:
    """Look for new masters in the watched folder."""
    with BatchList(path) as jobs:
        try:
            for _ in _moments(folder, control):
                for name in look_for_more(jobs):
                    sys.stderr.write(tr("New: {name}\n", name=on_one_line(name)))
        except Exception as problem:  # noqa: BLE001 - the last handler of this thread
            sys.stderr.write(f"{unforeseen(problem).sentence()}\n")
            control.cancel.cancel()


def _moments(folder: Path, control: Control) -> Iterator[None]:
    """The moments at which it is time to look at ``folder`` again, until all is to stop.

    Files rest by then; what still grows between two looks is left for the next.
    """
    while not control.cancel.cancelled:
        try:
            for _ in watchfiles.watch(folder, stop_event=_Until(control), debounce=1600,
                                      rust_timeout=round(LOOK_S * 1000), yield_on_timeout=True,
                                      recursive=False, raise_interrupt=False):
                yield
        except (OSError, WatchfilesRustInternalError):
            # The folder is gone for a while, or a name in it is not UTF-8, which the library
            # cannot say: it is looked at now and then.
            time.sleep(LOOK_S)
            yield


class _Until:
    """What the library takes for an event: set when the work is to stop."""

    def __init__(self, control: Control) -> None:
        self._control = control

    def is_set(self) -> bool:
        return self._control.cancel.cancelled

    def set(self) -> None:
        self._control.cancel.cancel()


def _tell(path: Path, over: threading.Event, quiet: bool) -> None:
    """One line of progress on a terminal; every line that ends, on standard error."""
    ended: set[int] = set()
    with BatchList(path) as jobs, ProgressBar() as bar:
        ended |= {item.id for item in jobs.items() if item.state.ended}
        ending = False
        while not ending:
            ending = over.wait(TELL_S)  # once more when it is over
            items = jobs.items()
            for item in items:
                if item.state.ended and item.id not in ended:
                    ended.add(item.id)
                    if not quiet:
                        bar.line(_line(item))
            bar.show(*_now(items))


def _line(item: Item) -> str:
    name = f"{path_of(item.job.master).name}, {item.job.recipe.sheet.name}"
    return f"{tr(item.state)}: {name}{f'. {item.status.problem}' if item.status.problem else ''}"


def _now(items: tuple[Item, ...]) -> tuple[str, float, str]:
    """How many lines have ended, the share that is done of those in work, and the time left.

    Where none is in work it is the share of all lines.
    """
    ended = sum(item.state.ended for item in items)
    busy = [item.status.progress for item in items if item.status.progress is not None]
    if not busy:
        return (tr("{ended} of {count} done", ended=ended, count=len(items)),
                ended / max(1, len(items)), "")
    left = [file_state.left_s for file_state in busy if file_state.left_s is not None]
    share = sum(file_state.done for file_state in busy) / max(
        1, sum(file_state.total for file_state in busy)
    )
    return (tr("{ended} of {count} finished", ended=ended, count=len(items)), share,
            tr("{short_time} left", short_time=short_time(max(left))) if left else "")


def _told(path: Path, asked: argparse.Namespace) -> int:
    """The report, the bundle, what became of every line, and the exit code."""
    with BatchList(path) as jobs:
        items = jobs.items()
    html, _ = write_report(items, asked.out / REPORT_FOLDER)
    if asked.bundle:
        make_bundle(items, asked.bundle)
    failed = [item for item in items if item.state is not State.DONE]
    if asked.json:
        print_json(files_answer(answer for item in items for answer in _answers(item)))
    else:
        for item in items:
            for made in item.status.made:
                proved = tr("proved") if made.proof.right else tr("NOT PROVED")
                print(f"{proved}  {path_of(made.file)}")
        print(tr("Report: {html}", html=html))
    for item in failed if asked.json else ():
        sys.stderr.write(f"{on_one_line(_line(item))}\n")
    return 1 if failed else 0


def _answers(item: Item) -> list[FileAnswer]:
    """What is told of a line: each of its files, or why there is none."""
    film = item.job.master
    if item.state is State.DONE:
        return [proved(film, made.proof) for made in item.status.made]
    return [FileAnswer(film, item.job.recipe.sheet.name, "", False,
                       item.status.problem or str(item.state))]
