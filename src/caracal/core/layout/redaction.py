"""Words of the master's picture that a version does not show: where they are, and what covers them.
"""

from __future__ import annotations

import msgspec

from caracal.core.base.colours import rgb_of
from caracal.core.base.errors import InputError
from caracal.core.base.geometry import Box
from caracal.core.base.translation import tr

MOST_REDACTIONS = 400  # of a version
LARGEST = 65_536.0  # pixels


class Redaction(msgspec.Struct, frozen=True):
    """A ``box`` (upright master pixels) in film frames ``start`` to ``end_exclusive``.

    It is covered with a ``colour`` (#rrggbb), or with what lies round it, softly blended.
    """

    start: int
    end_exclusive: int
    box: Box
    colour: str | None = None

    def from_source(self, across: float, down: float) -> Redaction:
        """The same in a source that is so many times the master's size."""
        x, y, w, h = self.box
        return msgspec.structs.replace(self, box=(x * across, y * down, w * across, h * down))


def redactions_at(redactions: tuple[Redaction, ...], frame: int) -> tuple[Redaction, ...]:
    """Those that cover anything at a ``frame`` of the film."""
    return tuple(each for each in redactions if each.start <= frame < each.end_exclusive)


def redactions_error(redactions: tuple[Redaction, ...]) -> str:
    """What is wrong with ``redactions``, or nothing."""
    if len(redactions) > MOST_REDACTIONS:
        return tr("a version has at most {most_redactions} places with covered words",
                  most_redactions=MOST_REDACTIONS)
    for each in redactions:
        x, y, w, h = each.box
        if not (0 <= each.start < each.end_exclusive and w > 0 and h > 0
                and all(abs(side) <= LARGEST for side in (x, y, w, h))):
            return tr("covered words are nowhere in the film")
        try:
            rgb_of(each.colour or "#000000")
        except InputError as problem:
            return problem.what
    return ""
