"""How a bed goes down while somebody speaks: a curve of gains.

It is down when speech begins, because what is to come is known (look-ahead), and comes back slowly
after it. In dB both slopes are straight, as on a mixing desk.
"""

from __future__ import annotations

from collections.abc import Iterable

ATTACK_S, RELEASE_S = 0.12, 0.5

Point = tuple[int, float]  # a place in samples, and the gain in dB there
Span = tuple[int, int]


def duck_points(speech: Iterable[Span], depth_db: float, rate_hz: int) -> tuple[Point, ...]:
    """The gain over time of a bed that lies ``depth_db`` (0 or less) lower in ``speech``.

    ``speech`` are spans [first, end) in samples. Between the points the gain is on a straight line;
    before the first and after the last one it is 0 dB.
    """
    attack, release = round(ATTACK_S * rate_hz), round(RELEASE_S * rate_hz)
    points: list[Point] = []
    for start, end in merged(speech):
        if points and start - attack < points[-1][0]:
            # The bed is still coming back, and turns where both slopes meet.
            came_from = points[-2][0]  # the end of the speech before
            gap = start - came_from
            points.pop()
            if gap > 0:
                meets = round(gap * release / (attack + release))
                points.append((came_from + meets, depth_db * (1 - meets / release)))
        else:
            points.append((start - attack, 0.0))
        points += [(start, depth_db), (end, depth_db), (end + release, 0.0)]
    return tuple(points)


def merged(spans: Iterable[Span]) -> list[Span]:
    """``spans`` in order, those that touch or overlap as one, without empty ones."""
    found: list[Span] = []
    for start, end in sorted(spans):
        if end <= start:
            continue
        if found and start <= found[-1][1]:
            found[-1] = found[-1][0], max(end, found[-1][1])
        else:
            found.append((start, end))
    return found
