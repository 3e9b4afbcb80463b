"""What the window says of an open film: its title, and a welcome with all that is to be known."""

from __future__ import annotations

from pathlib import Path

from caracal.core.base.translation import counted, tr
from caracal.ui.session.session import Session


def title(session: Session) -> str:
    """The window's title."""
    name = session.document.file.name if session.document.file else session.film.name
    state = (tr(" (read-only)") if session.document.read_only
             else tr(" (unsaved)") if session.document.unsaved else "")
    return tr("{name}{state} - Caracal", name=name, state=state)


def welcome(session: Session) -> str:
    """How many shots there are, and what a person should know about the film and its project."""
    analysis = session.found
    notices = " ".join(analysis.master.notices)
    if not analysis.master.file.is_file():
        notices = tr("{name} was moved or deleted: everything but encoding works. Choose Film, "
                     "Locate film… to show where it is.", name=analysis.master.file.name)
    if session.sheets.missing:
        gone = ", ".join(sorted(session.sheets.missing))
        notices += tr(" The spec sheet {gone} is missing; change the sheet of its versions in "
                      "Batch.", gone=gone)
    if session.sheets.broken:
        notices += f" {session.sheets.broken[0]}"
    count = len(session.analysis.shots)
    shots = counted(count, "{count} shot. ", "{count} shots. ") if analysis.whole else ""
    return f"{shots}{notices}"


def stopped(session: Session) -> str:
    """Looking at the film was stopped half-way."""
    share = session.found.known_to / session.found.master.frames
    return tr("Analysis stopped at {share:.0%}. Resume it before encoding.", share=share)


def busy(film: Path, other: Path) -> str:
    """Why ``other`` is not opened now."""
    return tr("{name} is still being analysed. Press Esc to stop, then open {other}.",
              name=film.name, other=other.name)


def many_dropped(count: int) -> str:
    """Why of many files none is opened."""
    return tr("{count} files were dropped. Drop one film; to encode many, let Batch watch a "
              "folder.", count=count)
