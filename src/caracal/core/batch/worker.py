"""The encoder's own process: ``python -m caracal.core.batch.worker JOB``.

Reads a job file and tells its progress on standard output, a line of JSON each: ``{"progress":
...}``, then ``{"made": [...]}`` or ``{"failed": "one sentence"}``. A polite kill stops it cleanly.
"""

from __future__ import annotations

import signal
import sys
from pathlib import Path

import msgspec

from caracal.core.convert import Made, Wanted, convert
from caracal.core.errors import CaracalError
from caracal.core.project.model import DrawnBox, ShotStart
from caracal.core.time import FrameRange
from caracal.core.work import CancelToken, Progress


class Job(msgspec.Struct, frozen=True):
    """What the process is to make."""

    master: str
    folder: str
    wanted: list[Wanted]
    span: FrameRange
    starts: tuple[ShotStart, ...] = ()
    drawn: tuple[DrawnBox, ...] = ()


class Message(msgspec.Struct, frozen=True, omit_defaults=True):
    """One line from the process."""

    progress: Progress | None = None
    made: list[Made] | None = None
    failed: str | None = None


def _say(message: Message) -> None:
    sys.stdout.write(msgspec.json.encode(message).decode() + "\n")
    sys.stdout.flush()


def main() -> int:
    """Do the job named on the command line; returns the exit code."""
    job = msgspec.json.decode(Path(sys.argv[1]).read_bytes(), type=Job)
    token = CancelToken()
    signal.signal(signal.SIGTERM, lambda *_: token.cancel())
    try:
        made = convert(
            Path(job.master), job.wanted, Path(job.folder), span=job.span, starts=job.starts,
            drawn=job.drawn,
            cancel=token,
            report=lambda progress: _say(Message(progress=progress)),
        )
    except CaracalError as problem:
        _say(Message(failed=problem.sentence()))
        return 2
    _say(Message(made=made))
    return 0


if __name__ == "__main__":
    sys.exit(main())
