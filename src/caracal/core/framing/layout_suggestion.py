"""Which layout would show what framing cannot: offered beside the flag, never taken by itself."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from caracal.core.framing.flags import Flag, FlagKind
from caracal.core.framing.lead import Subject
from caracal.core.layout.kinds import KINDS, Kind, kind_called
from caracal.core.layout.model import Layout

# What is cut in these is seen when the picture is whole; what is enlarged or rushed as well.
CUT = (FlagKind.LOST, FlagKind.CLIPPED, FlagKind.TEXT_CUT, FlagKind.TOO_CLOSE, FlagKind.RUSHED)
WORTH = 0.05  # severity of a flag from which on another layout is offered


def suggested_layout(
    layout: Layout, flags: Iterable[Flag], left_out: Sequence[Subject] = ()
) -> Kind | None:
    """The kind that would show what ``layout`` does not; None where none is needed.

    Two leads that do not both fit (``left_out``) get a half each; the worst of ``flags`` ends where
    the picture is whole.
    """
    if layout.kind != KINDS[0].name:
        return None
    if len(left_out) == 2:
        return kind_called("stack")
    if any(flag.kind in CUT and flag.severity >= WORTH for flag in flags):
        return kind_called("whole-soft")
    return None
