"""Pots, bottles, a bicycle, a dog, a boat: each drawn round its own origin and marked."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from demo.paint import (
    Scene,
    blob,
    colour,
    glow,
    limb,
    rounded_side,
    shade,
    shape,
    stroke,
)


def _lathe(p: QPainter, profile: list[tuple[float, float]], tint: str) -> None:
    """A turned pot from its right-hand profile [(radius, y)], foot at y = 0."""
    widest = max(radius for radius, _ in profile)
    points = [(r, y) for r, y in profile] + [(-r, y) for r, y in reversed(profile)]
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(rounded_side(tint, -widest, widest))
    p.drawPath(shape(*points, smooth=True))
    glow(p, -widest * 0.4, profile[len(profile) // 2][1], widest * 0.28, colour("#ffffff", 0.4),
         ry=abs(profile[0][1] - profile[-1][1]) * 0.28)


def _standing(p: QPainter, width: float) -> None:
    glow(p, width * 0.12, 0, width * 0.8, colour("#1a1008", 0.5), ry=width * 0.14)


def _mouth(p: QPainter, radius: float, y: float, tint: str) -> None:
    blob(p, 0, y, radius, radius * 0.24, shade(tint, 1.25))
    blob(p, 0, y + radius * 0.03, radius * 0.86, radius * 0.18, shade(tint, 0.62))


def vase(scene: Scene, identity: str, tint: str) -> None:
    """A shouldered vase 1 wide and 1.7 tall, foot at the origin."""
    p = scene.painter
    _standing(p, 0.6)
    _lathe(p, [(0.2, 0), (0.3, -0.2), (0.46, -0.72), (0.44, -1.05), (0.22, -1.36), (0.16, -1.5),
               (0.25, -1.66)], tint)
    _mouth(p, 0.25, -1.66, tint)
    for y, r in ((-0.6, 0.44), (-0.7, 0.46)):
        stroke(p, shape((-r, y), (0, y + 0.1), (r, y), smooth=True, closed=False), 0.03,
               colour("#f5e6cf", 0.6))
    scene.mark(identity, "vase", QRectF(-0.47, -1.72, 0.94, 1.74))


def bowl(scene: Scene, identity: str, tint: str) -> None:
    """A bowl 1.6 wide and 0.75 tall."""
    p = scene.painter
    _standing(p, 0.7)
    _lathe(p, [(0.3, 0), (0.34, -0.08), (0.66, -0.36), (0.8, -0.74)], tint)
    _mouth(p, 0.8, -0.74, tint)
    stroke(p, shape((-0.72, -0.5), (0, -0.34), (0.72, -0.5), smooth=True, closed=False), 0.035,
           colour("#f5e6cf", 0.65))
    scene.mark(identity, "bowl", QRectF(-0.82, -0.94, 1.64, 0.96))


def cup(scene: Scene, identity: str, tint: str) -> None:
    """A cup with a handle, 0.9 wide and 0.8 tall."""
    p = scene.painter
    _standing(p, 0.5)
    stroke(p, shape((0.3, -0.62), (0.66, -0.6), (0.62, -0.22), (0.28, -0.2), smooth=True,
                    closed=False), 0.1, shade(tint, 0.75))
    _lathe(p, [(0.26, 0), (0.34, -0.1), (0.37, -0.4), (0.36, -0.8)], tint)
    _mouth(p, 0.36, -0.8, tint)
    scene.mark(identity, "cup", QRectF(-0.38, -0.89, 1.08, 0.91))


def bottle(scene: Scene, identity: str, tint: str) -> None:
    """A slim bottle 0.6 wide and 2 tall."""
    p = scene.painter
    _standing(p, 0.4)
    _lathe(p, [(0.27, 0), (0.29, -0.1), (0.29, -1.05), (0.24, -1.28), (0.1, -1.5), (0.095, -1.86),
               (0.12, -1.98)], tint)
    p.setBrush(QColor("#eadfc8"))
    p.drawRect(QRectF(-0.28, -0.86, 0.56, 0.46))
    p.setBrush(QColor("#a0522d"))
    p.drawEllipse(QPointF(0, -0.63), 0.12, 0.12)
    p.setBrush(shade(tint, 0.45))
    p.drawRect(QRectF(-0.1, -2.06, 0.2, 0.12))
    scene.mark(identity, "bottle", QRectF(-0.3, -2.08, 0.6, 2.1))


def bicycle(scene: Scene, identity: str, roll: float, tint: str = "#2f5d62") -> None:
    """A bicycle facing right, wheels of radius 1 at x = -1.55 and 1.55, ground at y = 0."""
    p = scene.painter
    glow(p, 0, 0, 2.8, colour("#1a1008", 0.45), ry=0.2)
    for x in (-1.55, 1.55):
        for i in range(9):
            angle = roll + i * math.pi / 9
            dx, dy = math.cos(angle) * 0.92, math.sin(angle) * 0.92
            stroke(p, shape((x - dx, -1 - dy), (x + dx, -1 + dy)), 0.018, colour("#d8d2c6", 0.8))
        p.setBrush(Qt.BrushStyle.NoBrush)
        rim = shape(*[(x + math.cos(a * math.pi / 16), -1 + math.sin(a * math.pi / 16))
                      for a in range(32)], smooth=True)
        stroke(p, rim, 0.13, QColor("#1d1a18"))
        stroke(p, rim, 0.03, colour("#8a8378", 0.8))
    frame = ((-1.55, -1), (-0.5, -2.25), (0.95, -2.3), (0.1, -0.95), (-1.55, -1), (-0.5, -2.25),
             (0.1, -0.95))
    stroke(p, shape(*frame, closed=False), 0.15, shade(tint, 0.7))
    stroke(p, shape(*frame, closed=False), 0.08, shade(tint, 1.25))
    stroke(p, shape((1.55, -1), (0.95, -2.3), (0.85, -2.75), (1.25, -2.9), closed=False), 0.12,
           shade(tint, 0.9))
    stroke(p, shape((-0.5, -2.25), (-0.6, -2.6), closed=False), 0.1, QColor("#3a3a3a"))
    blob(p, -0.62, -2.66, 0.42, 0.12, QColor("#3a2418"))
    blob(p, 0.1, -0.95, 0.24, 0.24, QColor("#55504a"))
    scene.mark(identity, "bicycle", QRectF(-2.62, -2.95, 5.24, 3.02))


def dog(scene: Scene, identity: str, phase: float, coat: str = "#2c2624") -> None:
    """A trotting dog facing right, about 4 long and 2.9 tall, ground at y = 0."""
    p = scene.painter
    glow(p, 0, 0, 2.2, colour("#1a1008", 0.45), ry=0.2)
    swing = math.sin(2 * math.pi * phase)
    dark = shade(coat, 0.75).name()
    for x, sign, tint in ((-1.15, -1, dark), (0.95, 1, dark), (-1.0, 1, coat), (1.1, -1, coat)):
        foot = x + 0.5 * swing * sign
        bend = 0.18 if x < 0 else -0.1
        limb(p, [(x, -1.35), ((x + foot) / 2 - bend, -0.72), (foot, -0.12)], (0.5, 0.22), tint)
        blob(p, foot + 0.1, -0.1, 0.2, 0.11, shade(tint, 0.8))
    stroke(p, shape((-1.5, -1.75), (-2.0, -2.2), (-2.1, -2.6 - 0.1 * swing), smooth=True,
                    closed=False), 0.22, shade(coat, 0.95))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(rounded_side(coat, -2.4, 2.2))
    p.drawPath(shape((-1.6, -1.9), (-0.6, -2.0), (0.6, -2.05), (1.4, -2.1), (1.6, -1.6),
                     (1.2, -1.02), (0.2, -1.12), (-0.9, -1.25), (-1.5, -1.25), smooth=True))
    limb(p, [(1.25, -1.8), (1.55, -2.15), (1.8, -2.45)], (0.85, 0.66), coat)
    _dog_head(p, coat)
    scene.mark(identity, "dog", QRectF(-2.22, -3.05, 4.95, 3.1))


def _dog_head(p: QPainter, coat: str) -> None:
    blob(p, 1.9, -2.55, 0.48, 0.42, QColor(coat))
    blob(p, 2.3, -2.43, 0.4, 0.22, shade(coat, 1.15))
    blob(p, 2.63, -2.5, 0.1, 0.09, QColor("#17110d"))
    blob(p, 2.05, -2.66, 0.07, 0.07, QColor("#17110d"))
    blob(p, 2.03, -2.68, 0.02, 0.02, QColor("#ffffff"))
    stroke(p, shape((2.25, -2.28), (2.55, -2.32), closed=False), 0.03, QColor("#3a2014"))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(shade(coat, 0.6))
    p.drawPath(shape((1.62, -2.9), (1.5, -2.5), (1.62, -2.1), (1.82, -2.35), (1.85, -2.8),
                     smooth=True))


def boat(scene: Scene, identity: str, tint: str) -> None:
    """A small sailing boat, hull 3.6 long, waterline at y = 0."""
    p = scene.painter
    glow(p, 0, 0.1, 2.2, colour("#0e2a33", 0.5), ry=0.22)
    stroke(p, shape((-0.1, -0.4), (-0.05, -3.6), closed=False), 0.09, QColor("#5a4030"))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(rounded_side("#efe3cc", -0.1, 1.5))
    p.drawPath(shape((0.05, -3.45), (1.45, -0.72), (0.05, -0.62)))
    p.setBrush(rounded_side(tint, -1.3, 0))
    p.drawPath(shape((-0.18, -3.1), (-1.2, -0.72), (-0.18, -0.62)))
    p.setBrush(rounded_side(tint, -1.9, 1.9))
    p.drawPath(shape((-1.75, -0.55), (1.95, -0.6), (1.3, 0.12), (-1.4, 0.12)))
    p.setBrush(QColor("#f1e7d4"))
    p.drawPath(shape((-1.72, -0.5), (1.9, -0.54), (1.82, -0.42), (-1.66, -0.38)))
    scene.mark(identity, "boat", QRectF(-1.78, -3.64, 3.76, 3.78))
