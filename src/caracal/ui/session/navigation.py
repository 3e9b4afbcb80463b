"""Playing, and going from shot to shot and from issue to issue."""

from __future__ import annotations

from caracal.core.base.translation import tr
from caracal.ui.session.session import Session

FASTEST = 8  # times the film's rate


def play_or_stop(session: Session) -> None:
    """Play from the playhead, or stop."""
    session.play(0 if session.speed else 1)


def play_faster(session: Session, way: int) -> None:
    """Play forwards (1) or backwards (-1); twice as fast where it plays that way already."""
    if session.speed * way > 0:
        session.play(max(-FASTEST, min(FASTEST, session.speed * 2)))
    else:
        session.play(way)


def step_shot(session: Session, way: int) -> None:
    """Go to the next shot (1) or the previous one (-1)."""
    shots = session.analysis.shots
    session.go(shots[min(max(0, session.shot + way), len(shots) - 1)].poster_frame)


def step_version(session: Session, by: int) -> None:
    """Choose the next version (1) or the previous one (-1), round and round."""
    letters = [version.letter for version in session.project.versions]
    session.choose_version(letters[(letters.index(session.letter) + by) % len(letters)])
    session.said.emit(tr("Version {letter}.", letter=session.letter))


def next_issue(session: Session) -> None:
    """Go to the next issue: in the other versions of this shot first, then in later shots.

    Shots that are not solved yet have none so far.
    """
    letters = [version.letter for version in session.project.versions]
    cells = [(shot, letter) for shot in range(len(session.analysis.shots)) for letter in letters]
    here = cells.index((session.shot, session.letter))
    for shot, letter in cells[here + 1 :] + cells[: here + 1]:
        flags = session.known_flags(letter, shot)
        if flags:
            session.choose_version(letter)
            session.go((flags[0].start + flags[0].end) // 2)
            session.said.emit(tr("Shot {shot}, {letter}: {sentence}", shot=shot + 1,
                                 letter=letter, sentence=flags[0].sentence))
            return
    session.said.emit(tr("No issues are left.") if session.ahead.done else
                      tr("No issues so far. Some shots are still being solved."))
