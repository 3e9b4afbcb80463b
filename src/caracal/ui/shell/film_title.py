"""What the window says of an open film: its title, and a welcome with all that is to be known."""

from __future__ import annotations

from pathlib import Path

from caracal.core.base.translation import counted, tr
from caracal.ui.session.session import Session


def title(session: Session) -> str:
    """The window's title."""
    name = session.document.file.name if session.document.file else session.film.name
    state = (tr(" (only looking)") if session.document.read_only
             else tr(" (unsaved)") if session.document.unsaved else "")
    return tr("{name}{state} - Caracal", name=name, state=state)


def welcome(session: Session) -> str:
    """How many shots there are, and what a person should know about the film and its project."""
    analysis = session.found
    notices = " ".join(analysis.master.notices)
    if not analysis.master.file.is_file():
        notices = tr("{name} is not where it was: everything but encoding works. Put it beside "
                     "the project and open the project again.", name=analysis.master.file.name)
    if session.sheets.missing:
        gone = ", ".join(sorted(session.sheets.missing))
        notices += tr(" Gone: the spec sheet {gone}; its versions stay, and can be given to "
                      "another in Batch.", gone=gone)
    if session.sheets.broken:
        notices += f" {session.sheets.broken[0]}"
    count = len(session.analysis.shots)
    shots = counted(count, "{count} shot. ", "{count} shots. ") if analysis.whole else ""
    return f"{shots}{notices}"


def stopped(session: Session) -> str:
    """Looking at the film was stopped half-way."""
    share = session.found.known_to / session.found.master.frames
    return tr("Stopped at {share:.0%} of the film. What was found is kept; versions can be made "
              "when all of it was looked at.", share=share)


def busy(film: Path, other: Path) -> str:
    """Why ``other`` is not opened now."""
    return tr("{name} is being looked at. Stop that first (Escape), then open {other}.",
              name=film.name, other=other.name)


def many_dropped(count: int) -> str:
    """Why of many files none is opened."""
    return tr("{count} files were dropped, and one film is open at a time. Drop one; Batch can "
              "watch a folder.", count=count)
