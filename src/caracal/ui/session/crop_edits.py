"""Edits of the crop at the playhead, from wherever they are made."""

from __future__ import annotations

import msgspec

from caracal.core.base.translation import tr
from caracal.core.framing.choice import Keyframe
from caracal.core.project.keyframe_edits import with_keyframe
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session

NUDGE_PIXELS = 8  # of the master


def set_keyframe(session: Session, key: Keyframe, what: str, gesture: str) -> None:
    """Set ``key`` for the crop that is worked on; ``what`` says what was done."""
    role = session.pane.role
    session.editing.edit(
        EditKind.CROP, what,
        lambda project, letter, shot: with_keyframe(project, letter, shot, key, role),
        (gesture, session.letter, session.frame, role), scope=Scope.ONE_SHOT)


def nudge_crop(session: Session, across: int, down: int) -> None:
    """Move the crop at the playhead by steps of NUDGE_PIXELS: a keyframe."""
    key = session.pane.key
    centre = (key.centre[0] + across * NUDGE_PIXELS, key.centre[1] + down * NUDGE_PIXELS)
    set_keyframe(session, msgspec.structs.replace(key, centre=centre), tr("move keyframe"),
                 "nudge")
