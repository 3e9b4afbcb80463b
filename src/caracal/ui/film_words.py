"""What the window says of an open film: its title, and a welcome with all that is to be known."""

from __future__ import annotations

from pathlib import Path

from caracal.ui.session import Session


def title(session: Session) -> str:
    """The window's title."""
    name = session.file.name if session.file else session.film.name
    state = " (only looking)" if session.read_only else " (unsaved)" if session.unsaved else ""
    return f"{name}{state} - Caracal"


def welcome(session: Session) -> str:
    """How many shots there are, and what a person should know about the film and its project."""
    analysis = session.found
    notices = " ".join(analysis.master.notices)
    if not analysis.master.file.is_file():
        notices = (f"{analysis.master.file.name} is not where it was: everything but encoding "
                   "works. Put it beside the project and open the project again.")
    if session.shelf.missing:
        gone = ", ".join(sorted(session.shelf.missing))
        notices += (f" Gone: the spec sheet {gone}; its versions stay, and can be given to another "
                    "in Batch.")
    if session.shelf.broken:
        notices += f" {session.shelf.broken[0]}"
    count = len(session.analysis.shots)
    shots = f"{count} {'shot' if count == 1 else 'shots'}. " if analysis.whole else ""
    return f"{shots}{notices}"


def stopped(session: Session) -> str:
    """Looking at the film was stopped half-way."""
    share = session.found.known_to / session.found.master.frames
    return (f"Stopped at {share:.0%} of the film. What was found is kept; versions can be made "
            "when all of it was looked at.")


def busy(film: Path, other: Path) -> str:
    """Why ``other`` is not opened now."""
    return f"{film.name} is being looked at. Stop that first (Escape), then open {other.name}."


def many_dropped(count: int) -> str:
    """Why of many files none is opened."""
    return (f"{count} files were dropped, and one film is open at a time. Drop one; Batch can "
            "watch a folder.")
