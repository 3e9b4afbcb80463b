"""Which layout would show what framing cannot: offered beside the flag, never taken by itself."""

from __future__ import annotations

from collections.abc import Iterable

from caracal.core.framing.flags import Flag, FlagKind
from caracal.core.layout.kinds import KINDS, Kind, kind_called
from caracal.core.layout.model import Layout

# What is cut in these is seen when the picture is whole; what is enlarged or rushed as well.
CUT = (FlagKind.LOST, FlagKind.CLIPPED, FlagKind.TEXT_CUT, FlagKind.TOO_CLOSE, FlagKind.RUSHED)
WORTH = 0.05  # severity of a flag from which on another layout is offered


def suggested_layout(layout: Layout, flags: Iterable[Flag]) -> Kind | None:
    """The kind that would end the worst of ``flags`` in ``layout``; None where none is needed."""
    if layout.kind != KINDS[0].name:
        return None
    if any(flag.kind in CUT and flag.severity >= WORTH for flag in flags):
        return kind_called("whole, soft")
    return None
