"""The cleaned sound of a film: made once for each strength, and kept with its analysis."""

from __future__ import annotations

import os
from pathlib import Path

from caracal.core.analysis.cache import AnalysisStore, content_key
from caracal.core.base.errors import storage_error
from caracal.core.base.paths import changed_ns
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken, Report
from caracal.core.layout.added_sound import CleanStrength
from caracal.core.media.master import Master
from caracal.core.media.probe_sound import probe_sound
from caracal.core.plan.speech_spans import speech_spans
from caracal.core.processes.apart import Call, call_apart
from caracal.core.render.assets.picture_checks import checked_once
from caracal.core.sound.clean_speech import clean_film

VERSION = 1  # of the files that are kept: another one is another way of cleaning


def clean_source(
    master: Master, strength: CleanStrength, report: Report, cancel: CancelToken
) -> Master | None:
    """The cleaned sound of ``master`` as a source of its own; None where nothing is cleaned.

    It is made in a separate process if it is not there yet. Raises InputError when the sound cannot
    be read, StorageError when the cache cannot be written, Cancelled when stopped.
    """
    if strength is CleanStrength.NONE or not master.sound:
        return None
    store = AnalysisStore(checked_once("key", master.file, lambda: content_key(master.file)))
    path = store.folder / f"clean-{VERSION}-{master.sound_number}-{strength.value}.flac"
    try:
        store.folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise storage_error(store.folder, problem) from problem
    if not path.is_file() or changed_ns(path) < changed_ns(master.file):
        speech = speech_spans(master, FrameRange(0, master.frames), report, cancel)
        part = path.with_name(f"{path.name}.{os.getpid()}.part")
        try:
            call_apart(Call(clean_film, (master, strength, speech, part), stoppable=True),
                       master.file, report, cancel)
            _put(part, path)
        finally:
            part.unlink(missing_ok=True)
    return probe_sound(path)


def _put(part: Path, path: Path) -> None:
    try:
        part.replace(path)
    except OSError as problem:
        raise storage_error(path, problem) from problem
