"""Whole people: a head on a body with jointed arms and legs, standing, walking or running.

Coordinates as in :mod:`demo.face`: one unit is half the head's height; soles near y = 12.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from demo.face import Expression, Person, draw_head
from demo.paint import Point, Scene, blob, colour, glow, limb, rounded_side, shade, shape

SOLES = 12.3
HEIGHT = SOLES + 1.25


@dataclass(frozen=True)
class Pose:
    """Joint angles in degrees from straight down, positive towards the right of the picture."""

    arms: tuple[tuple[float, float], tuple[float, float]] = ((-12, -4), (12, 4))
    legs: tuple[tuple[float, float], tuple[float, float]] = ((-4, -2), (4, 2))
    side: float = 0.0
    bob: float = 0.0
    lean: float = 0.0


def stride(phase: float, direction: int, effort: float) -> Pose:
    """A step of a walk (``effort`` 0) or run (1) at ``phase`` in cycles, to the right if +1."""
    swing = math.sin(2 * math.pi * phase)
    lift = math.cos(2 * math.pi * phase)
    reach = 26 + 16 * effort
    bend = 14 + 46 * effort

    def leg(sign: float) -> tuple[float, float]:
        thigh = reach * sign * swing
        knee = thigh - bend * max(0.0, -sign * lift) - 6 * effort
        return (thigh * direction, knee * direction)

    def arm(sign: float) -> tuple[float, float]:
        upper = -(22 + 20 * effort) * sign * swing
        return (upper * direction, (upper + 18 + 58 * effort) * direction)

    return Pose(arms=(arm(1), arm(-1)), legs=(leg(1), leg(-1)), side=float(direction),
                bob=0.22 * abs(swing) * (1 + effort), lean=direction * (1.5 + 7 * effort))


def _chain(start: Point, angles: tuple[float, float], lengths: tuple[float, float]) -> list[Point]:
    points = [start]
    for angle, length in zip(angles, lengths, strict=True):
        x, y = points[-1]
        turn = math.radians(angle)
        points.append((x + math.sin(turn) * length, y + math.cos(turn) * length))
    return points


def draw_person(scene: Scene, who: Person, pose: Pose, look: Expression) -> None:
    """Draw ``who`` at the painter's origin (middle of the head); marks the person and the face."""
    p = scene.painter
    p.save()
    p.rotate(pose.lean * 0.5)
    half = 1.75 - 0.45 * abs(pose.side)
    hip = 1.0 - 0.25 * abs(pose.side)
    shoulders = [(-half * 0.86, 2.12), (half * 0.86, 2.12)]
    hips = [(-hip * 0.55, 6.2), (hip * 0.55, 6.2)]
    far, near = (1, 0) if pose.side < 0 else (0, 1)
    legs = [_chain(hips[i], pose.legs[i], (3.0, 2.95)) for i in (0, 1)]
    p.translate(0, SOLES - 0.2 - max(leg[2][1] for leg in legs) - pose.bob)
    arms = [_chain(shoulders[i], pose.arms[i], (2.1, 2.0)) for i in (0, 1)]
    reach = _extent([*legs, *arms], half)
    glow(p, 0, SOLES + pose.bob, 2.4, colour("#1a120c", 0.4), ry=0.35)
    for i in (far, near):
        limb(p, legs[i], (1.25, 0.78), who.trousers)
        _shoe(p, legs[i][2], pose.side)
    if pose.side:
        _arm(p, arms[far], who)
    _torso(p, who, half, hip)
    draw_head(scene, who, look)
    for i in (near,) if pose.side else (0, 1):
        _arm(p, arms[i], who)
    left, right, bottom = reach
    scene.mark(who.name, "person", QRectF(left, -1.22, right - left, bottom + 1.22))
    p.restore()


def _extent(chains: list[list[Point]], half: float) -> tuple[float, float, float]:
    xs = [x for chain in chains for x, _ in chain]
    ys = [y for chain in chains for _, y in chain]
    return min(min(xs) - 0.42, -half), max(max(xs) + 0.42, half), max(ys) + 0.35


def _shoe(p: QPainter, ankle: Point, side: float) -> None:
    x, y = ankle
    blob(p, x + 0.3 * side, y + 0.12, 0.62 if side else 0.45, 0.28, shade("#3a2c24", 1.0))
    blob(p, x + 0.25 * side, y + 0.02, 0.4 if side else 0.3, 0.14, shade("#5c493c", 1.0))


def _arm(p: QPainter, points: list[Point], who: Person) -> None:
    (ax, ay), (bx, by), (cx, cy) = points
    limb(p, points, (0.62, 0.4), who.skin)
    blob(p, cx + (cx - bx) * 0.1, cy + (cy - by) * 0.1, 0.3, 0.34, shade(who.skin, 0.95))
    elbow = (ax + (bx - ax) * 1.08, ay + (by - ay) * 1.08)
    limb(p, [(ax, ay), ((ax + elbow[0]) / 2, (ay + elbow[1]) / 2), elbow], (0.86, 0.7), who.top)


def _torso(p: QPainter, who: Person, half: float, hip: float) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    body = shape((-0.52, 1.4), (-half * 0.82, 1.66), (-half * 1.04, 2.1), (-half * 0.96, 3.2),
                 (-hip * 1.25, 4.8), (-hip * 1.22, 6.7), (hip * 1.22, 6.7), (hip * 1.25, 4.8),
                 (half * 0.96, 3.2), (half * 1.04, 2.1), (half * 0.82, 1.66), (0.52, 1.4),
                 (0, 1.62), smooth=True)
    p.setBrush(rounded_side(who.top, -half, half))
    p.drawPath(body)
    p.save()
    p.setClipPath(body)
    glow(p, 0, 1.55, 1.3, colour("#1c0f08", 0.35), ry=0.5)
    for x, y in ((-half * 0.6, 3.3), (half * 0.5, 4.2), (-half * 0.3, 5.4)):
        glow(p, x, y, 0.5, colour("#1c0f08", 0.14), ry=1.2)
    if who.apron:
        p.setBrush(rounded_side(who.apron, -half * 0.8, half * 0.8))
        p.drawPath(shape((-0.62, 2.5), (0.62, 2.5), (hip * 1.0, 4.0), (hip * 1.1, 7.2),
                         (-hip * 1.1, 7.2), (-hip * 1.0, 4.0)))
        for side in (-1, 1):
            p.setBrush(shade(who.apron, 0.7))
            p.drawPath(shape((side * 0.62, 2.55), (side * 0.46, 2.55), (side * 0.5, 1.5),
                             (side * 0.66, 1.5)))
    p.restore()
