"""Names of files that are being made: reserved, so that nobody else makes or replaces them.

A file is made under a name of its own, ``final name.token.part``, created exclusively and never
through a link. As long as it is locked its final name is taken, for every process on the machine.
Names are chosen one process after the other (the folder itself is locked for that moment).
"""

from __future__ import annotations

import fcntl
import os
import re
import uuid
from contextlib import suppress
from pathlib import Path

import msgspec

from caracal.core.base.errors import InputError, storage_error
from caracal.core.base.half_made import folder_locked, is_being_made
from caracal.core.base.paths import path_of, refuse_inputs, text_of
from caracal.core.base.translation import tr
from caracal.core.plan.file_names import free_path
from caracal.core.plan.file_plan import FilePlan

FOLDER_S = 10.0  # for another process to choose its names, which takes a moment


class Reservations:
    """The files that this process is making. Use as a context manager: at the end what is still
    half-made is removed."""

    def __init__(self) -> None:
        self._held: list[tuple[Path, int]] = []

    def __enter__(self) -> Reservations:
        return self

    def __exit__(self, *_: object) -> None:
        for part, lock in self._held:
            with suppress(OSError):
                part.unlink(missing_ok=True)
            os.close(lock)
        self._held = []

    def reserve(self, plan: FilePlan) -> FilePlan:
        """``plan`` with a final name that nobody else has, and its half-made file created.

        Raises InputError when the name is that of an input or somebody is making the file that it
        is to replace, StorageError when the folder cannot be written.
        """
        wanted = path_of(plan.file)
        try:
            with folder_locked(wanted.parent, FOLDER_S) as ours:
                if not ours:
                    raise InputError(
                        tr("Another process keeps this folder locked and does not respond."),
                        wanted.parent, tr("End that process, or choose another folder."))
                final = self._final(plan, wanted)
                token = uuid.uuid4().hex[:8]
                plan = msgspec.structs.replace(plan, file=text_of(final), token=token)
                flags = os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_WRONLY
                lock = os.open(plan.part_file, flags, 0o666)
                self._held.append((plan.part_file, lock))
                with suppress(OSError):  # no locks here: the name is still its own
                    fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as problem:
            if isinstance(problem, InputError):
                raise
            raise storage_error(wanted.parent, problem) from problem
        return plan

    def _final(self, plan: FilePlan, wanted: Path) -> Path:
        refuse_inputs(wanted, plan.inputs)
        if plan.replace:
            if is_being_made(wanted):
                raise InputError(tr("This file is being made by another batch."), wanted,
                                 tr("Wait for it, or choose another folder."))
            return wanted
        if not os.path.lexists(wanted) and not is_being_made(wanted):
            return wanted
        stem = re.sub(r" \d+$", "", wanted.stem)
        taken: set[Path] = set()
        while True:
            path = free_path(wanted.parent, stem, wanted.suffix[1:], taken)
            if not is_being_made(path):
                return path
            taken.add(path)
