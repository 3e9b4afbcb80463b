"""A head with a shaded face that a real face detector finds.

Coordinates: origin at the middle of the head, y down, one unit is half the head's height.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QRadialGradient

from demo.paint import Scene, blob, colour, glow, shade, shape, stroke


@dataclass(frozen=True)
class Person:
    """How an invented person looks."""

    name: str
    skin: str
    hair: str
    top: str
    trousers: str
    hair_style: str = "short"
    beard: bool = False
    apron: str | None = None
    iris: str = "#4b3621"


@dataclass(frozen=True)
class Expression:
    """What the face does in a frame: ``yaw`` -1..1 (left..right), others 0..1."""

    yaw: float = 0.0
    mouth: float = 0.0
    blink: float = 0.0
    smile: float = 0.3
    nod: float = 0.0


def draw_head(scene: Scene, who: Person, look: Expression) -> None:
    """Draw hair, head and face; marks the face box (forehead to chin, ear to ear)."""
    p = scene.painter
    p.save()
    p.translate(0, 0.05 * look.nod)
    p.rotate(2.5 * look.nod)
    turn = look.yaw * 0.2
    _hair_back(p, who, turn)
    _neck(p, who)
    _skull(p, who, turn)
    for side in (-1, 1):
        _eye(p, who, look, side, turn)
    _nose(p, who, turn)
    _mouth(p, who, look, turn)
    if who.beard:
        _beard(p, who, turn)
        _mouth(p, who, look, turn)
    _hair_front(p, who, turn)
    scene.mark(who.name, "face", QRectF(-0.76, -0.62, 1.52, 1.64))
    p.restore()


def _neck(p: QPainter, who: Person) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(shade(who.skin, 0.8))
    p.drawPath(shape((-0.4, 0.4), (-0.42, 1.2), (-0.62, 1.62), (0.62, 1.62), (0.42, 1.2),
                     (0.4, 0.4)))
    glow(p, 0, 1.05, 0.6, colour("#201008", 0.45), ry=0.35)


def _skull(p: QPainter, who: Person, turn: float) -> None:
    for side in (-1, 1):
        x = side * 0.76 + turn * 0.25
        blob(p, x, 0.12, 0.13, 0.24, shade(who.skin, 0.85))
        blob(p, x, 0.12, 0.07, 0.15, shade(who.skin, 0.68))
    outline = shape(
        (0, -1.02), (0.52, -0.88), (0.78, -0.4), (0.76, 0.15), (0.66, 0.58), (0.36, 0.94),
        (0, 1.04), (-0.36, 0.94), (-0.66, 0.58), (-0.76, 0.15), (-0.78, -0.4), (-0.52, -0.88),
        smooth=True,
    )
    light = QRadialGradient(-0.22 + turn, -0.25, 1.5)
    light.setColorAt(0.0, shade(who.skin, 1.14))
    light.setColorAt(0.45, QColor(who.skin))
    light.setColorAt(0.8, shade(who.skin, 0.78))
    light.setColorAt(1.0, shade(who.skin, 0.6))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(light)
    p.drawPath(outline)
    p.save()
    p.setClipPath(outline)
    glow(p, 0.8, 0.25, 0.62, colour("#2a1208", 0.33), ry=1.2)
    for side in (-1, 1):
        glow(p, side * 0.42 + turn, 0.36, 0.3, colour("#d0553a", 0.26))
        glow(p, side * 0.33 + turn, -0.12, 0.3, colour("#3a1a0c", 0.36), ry=0.2)
    glow(p, turn, 0.84, 0.22, colour("#fff0e0", 0.2), ry=0.14)
    glow(p, turn, -0.5, 0.5, colour("#fff4e6", 0.22), ry=0.3)
    p.restore()


def _eye(p: QPainter, who: Person, look: Expression, side: int, turn: float) -> None:
    squeeze = 1 - 0.3 * max(0.0, side * look.yaw)
    p.save()
    p.translate(side * 0.33 + turn * 1.25, -0.1)
    p.scale(squeeze, 1)
    open_by = 1 - look.blink
    lens = shape((-0.19, 0.02), (-0.08, -0.09 * open_by), (0.06, -0.095 * open_by), (0.19, 0.01),
                 (0.07, 0.075 * open_by), (-0.08, 0.07 * open_by), smooth=True)
    if open_by > 0.15:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor("#f3ece4"))
        p.drawPath(lens)
        p.save()
        p.setClipPath(lens)
        x = look.yaw * 0.05
        blob(p, x, -0.01, 0.093, 0.093, QColor(who.iris))
        blob(p, x, -0.01, 0.048, 0.048, QColor("#0c0806"))
        blob(p, x - 0.03, -0.045, 0.022, 0.022, QColor("#ffffff"))
        glow(p, 0, -0.1, 0.22, colour("#1c0d06", 0.55), ry=0.08)
        p.restore()
    stroke(p, shape((-0.2, 0.02), (-0.08, -0.1 * open_by), (0.06, -0.105 * open_by), (0.2, 0.0),
                    smooth=True, closed=False), 0.042, QColor("#1a0f0a"))
    stroke(p, shape((-0.16, 0.05), (0, 0.085 * open_by + 0.02), (0.16, 0.04), smooth=True,
                    closed=False), 0.018, colour("#4a2416", 0.7))
    stroke(p, shape((-0.18, -0.15), (0, -0.2), (0.17, -0.14), smooth=True, closed=False), 0.02,
           colour("#5a2e1c", 0.55))
    brow = shape((-0.2 * side, -0.285), (0.0, -0.33), (0.14 * side, -0.3), (0.24 * side, -0.22),
                 smooth=True, closed=False)
    stroke(p, brow, 0.075, shade(who.hair, 0.85))
    p.restore()


def _nose(p: QPainter, who: Person, turn: float) -> None:
    p.save()
    p.translate(turn * 1.5, 0)
    dark = colour("#4a1e10", 0.5)
    glow(p, 0.1, 0.18, 0.16, colour("#3a1a0c", 0.35), ry=0.34)
    glow(p, -0.02, 0.1, 0.09, colour("#fff2e2", 0.5), ry=0.32)
    glow(p, 0, 0.31, 0.13, colour("#fff0e2", 0.42), ry=0.1)
    for side in (-1, 1):
        blob(p, side * 0.085, 0.385, 0.045, 0.024, colour("#2c0f08", 0.85))
        stroke(p, shape((side * 0.15, 0.27), (side * 0.185, 0.35), (side * 0.13, 0.41), smooth=True,
                        closed=False), 0.022, dark)
    glow(p, 0, 0.45, 0.2, colour("#3a160c", 0.4), ry=0.07)
    p.restore()


def _mouth(p: QPainter, who: Person, look: Expression, turn: float) -> None:
    p.save()
    p.translate(turn * 1.25, 0.635)
    wide = 0.3 + 0.04 * look.smile - 0.05 * look.mouth
    lift = 0.05 * look.smile
    gap = 0.015 + 0.15 * look.mouth
    if look.mouth > 0.05:
        hole = shape((-wide, -lift), (0, -gap * 0.5), (wide, -lift), (0, gap), smooth=True)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor("#3a0d0c"))
        p.drawPath(hole)
        p.save()
        p.setClipPath(hole)
        blob(p, 0, -gap * 0.45, wide * 0.7, gap * 0.35, QColor("#efe6dc"))
        p.restore()
    lip = QColor("#a8483f") if QColor(who.skin).lightness() > 120 else QColor("#7a3531")
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(lip)
    p.drawPath(shape((-wide, -lift), (-0.1, -gap * 0.4 - 0.085), (0, -gap * 0.4 - 0.06),
                     (0.1, -gap * 0.4 - 0.085), (wide, -lift), (0, -gap * 0.4), smooth=True))
    p.setBrush(lip.lighter(112))
    p.drawPath(shape((-wide * 0.9, -lift + 0.01), (0, gap * 0.8), (wide * 0.9, -lift + 0.01),
                     (0.13, gap + 0.085), (-0.13, gap + 0.085), smooth=True))
    stroke(p, shape((-wide - 0.02, -lift - 0.01), (0, gap * 0.2), (wide + 0.02, -lift - 0.01),
                    smooth=True, closed=False), 0.02, colour("#38100c", 0.75 - 0.6 * look.mouth))
    glow(p, 0, gap + 0.16, 0.2, colour("#3a1408", 0.35), ry=0.06)
    p.restore()


def _beard(p: QPainter, who: Person, turn: float) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour(who.hair, 0.86))
    outer = shape((-0.76, 0.1), (-0.7, 0.62), (-0.38, 1.04), (0, 1.16), (0.38, 1.04), (0.7, 0.62),
                  (0.76, 0.1), (0.6, 0.42), (0.34 + turn, 0.5), (turn, 0.46), (-0.34 + turn, 0.5),
                  (-0.6, 0.42), smooth=True)
    p.drawPath(outer)
    blob(p, turn * 1.25, 0.66, 0.3, 0.1, colour(who.skin, 0.8))


def _hair_back(p: QPainter, who: Person, turn: float) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(shade(who.hair, 0.72))
    if who.hair_style == "long":
        p.drawPath(shape((-0.86, -0.5), (-0.98, 0.5), (-0.92, 1.5), (-0.4, 1.75), (0.4, 1.75),
                         (0.92, 1.5), (0.98, 0.5), (0.86, -0.5), (0, -1.2), smooth=True))
    elif who.hair_style == "bun":
        blob(p, -turn * 1.5, -1.25, 0.42, 0.36, shade(who.hair, 0.9))
    elif who.hair_style == "curly":
        for i in range(14):
            angle = math.pi * (0.92 + 1.16 * i / 13)
            blob(p, math.cos(angle) * 0.86, math.sin(angle) * 0.92 - 0.14, 0.3, 0.3,
                 shade(who.hair, 0.75 + 0.2 * (i % 3)))


def _hair_front(p: QPainter, who: Person, turn: float) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    light = QRadialGradient(-0.25, -0.95, 1.1)
    light.setColorAt(0, shade(who.hair, 1.5))
    light.setColorAt(1, QColor(who.hair))
    p.setBrush(light)
    part = turn - 0.22
    if who.hair_style == "cap":
        p.setBrush(QColor(who.top))
        p.drawPath(shape((-0.84, -0.42), (-0.74, -1.0), (0, -1.26), (0.74, -1.0), (0.84, -0.42),
                         (0, -0.62), smooth=True))
        p.setBrush(shade(who.top, 0.75))
        p.drawPath(shape((-0.7 + turn, -0.56), (turn, -0.7), (0.7 + turn, -0.56), (turn, -0.44),
                         smooth=True))
        return
    low = 0.25 if who.hair_style in {"long", "bun"} else -0.08
    p.drawPath(shape(
        (-0.82, low), (-0.9, -0.55), (-0.55, -1.06), (0, -1.2), (0.55, -1.06), (0.9, -0.55),
        (0.82, low), (0.74, -0.3), (0.52, -0.66), (part, -0.78), (-0.58, -0.6), (-0.74, -0.28),
        smooth=True,
    ))
    for i in range(5):
        x = -0.5 + 0.22 * i
        stroke(p, shape((x * 0.5 + part * 0.5, -1.12), (x * 1.1, -0.95), (x * 1.35, -0.66),
                        smooth=True, closed=False), 0.03, colour("#fff0dc", 0.10))
