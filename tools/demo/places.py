"""The backgrounds of Marram Quay: still pictures, painted once a shot."""

from __future__ import annotations

import math
import random

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter

from demo.paint import (
    blob,
    colour,
    glow,
    rounded_side,
    shade,
    shape,
    sideways,
    stroke,
    upright,
)

WIDTH, HEIGHT = 1920, 1080


def _fill(p: QPainter, x: float, y: float, w: float, h: float, brush: QBrush | QColor) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(brush)
    p.drawRect(QRectF(x, y, w, h))


def sky(p: QPainter, width: float = WIDTH, horizon: float = 520, sun: float = 1400) -> None:
    """Late afternoon: blue-grey above, apricot at the horizon."""
    _fill(p, 0, 0, width, horizon, upright(
        0, horizon, (0, QColor("#7fa8b8")), (0.55, QColor("#c9cdbd")), (1, QColor("#f2cf9d"))))
    glow(p, sun, horizon - 40, 620, colour("#fff1d0", 0.85), ry=420)
    rng = random.Random(4)
    for _ in range(9):
        x, y = rng.uniform(0, width), rng.uniform(60, horizon * 0.6)
        glow(p, x, y, rng.uniform(180, 420), colour("#fbeedb", 0.4), ry=rng.uniform(14, 34))


def sea(p: QPainter, top: float, bottom: float, width: float = WIDTH, seed: int = 7) -> None:
    """Water with short bright lines, closer together towards the horizon."""
    _fill(p, 0, top, width, bottom - top, upright(
        top, bottom, (0, QColor("#b9c3b4")), (0.25, QColor("#6f9aa0")), (1, QColor("#2f646d"))))
    rng = random.Random(seed)
    for _ in range(240):
        depth = rng.random() ** 1.6
        y = top + 4 + depth * (bottom - top - 8)
        length = 14 + 70 * depth
        x = rng.uniform(0, width)
        stroke(p, shape((x, y), (x + length, y), closed=False), 1 + 2.4 * depth,
               colour("#f4e6c6", 0.10 + 0.2 * rng.random()))


def headland(p: QPainter, horizon: float, width: float = WIDTH) -> None:
    """Low hills and a light tower far away."""
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(upright(horizon - 120, horizon, (0, QColor("#8aa19b")), (1, QColor("#a9b3a0"))))
    p.drawPath(shape((0, horizon), (0, horizon - 70), (220, horizon - 105), (520, horizon - 50),
                     (760, horizon - 18), (900, horizon)))
    p.setBrush(QColor("#efe2cb"))
    p.drawRect(QRectF(250, horizon - 175, 22, 75))
    p.setBrush(QColor("#a0522d"))
    p.drawRect(QRectF(246, horizon - 190, 30, 16))


def paving(p: QPainter, top: float, width: float = WIDTH, seed: int = 3) -> None:
    """The stone floor of the quay in perspective, with its kerb."""
    _fill(p, 0, top, width, HEIGHT - top, upright(
        top, HEIGHT, (0, QColor("#b7a285")), (0.3, QColor("#a48c6d")), (1, QColor("#6f5a45"))))
    _fill(p, 0, top, width, 12, QColor("#d8c6a6"))
    rng = random.Random(seed)
    y, step = top + 22.0, 16.0
    while y < HEIGHT:
        stroke(p, shape((0, y), (width, y), closed=False), 1.5 + step * 0.03,
               colour("#4f3d2d", 0.35))
        x = rng.uniform(0, step * 3)
        while x < width:
            stroke(p, shape((x, y), (x + (x - width / 2) * step * 0.0011, y + step), closed=False),
                   1.5, colour("#4f3d2d", 0.3))
            if rng.random() < 0.12:
                _fill(p, x, y, step * 2.4, step, colour("#e6d2b0", 0.13))
            x += step * (2.4 + rng.random())
        y += step
        step *= 1.22


def stall(p: QPainter, x: float, ground: float, size: float, stripe: str) -> None:
    """A market stall with a striped awning and pots; ``size`` is its width."""
    high = size * 0.85
    for post in (x, x + size):
        _fill(p, post - size * 0.014, ground - high, size * 0.028, high, QColor("#5c4433"))
    _fill(p, x, ground - high * 0.4, size, high * 0.4, sideways(
        x, x + size, (0, QColor("#8a6242")), (1, QColor("#5d402b"))))
    _fill(p, x - size * 0.03, ground - high * 0.43, size * 1.06, high * 0.05, QColor("#c49a6a"))
    bands = 8
    for i in range(bands):
        tint = stripe if i % 2 == 0 else "#f0e4cd"
        a = x - size * 0.08 + size * 1.16 * i / bands
        b = a + size * 1.16 / bands
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(upright(ground - high * 1.15, ground - high * 0.86,
                           (0, shade(tint, 1.05)), (1, shade(tint, 0.82))))
        p.drawPath(shape((a * 0.94 + (x + size / 2) * 0.06, ground - high * 1.18),
                         (b * 0.94 + (x + size / 2) * 0.06, ground - high * 1.18),
                         (b, ground - high * 0.9), ((a + b) / 2, ground - high * 0.84),
                         (a, ground - high * 0.9)))
    tints = ("#a0522d", "#3f6f73", "#d9b37a", "#7a3b2e", "#56705a")
    for i in range(7):
        pot_x, r = x + size * (0.1 + 0.13 * i), size * (0.03 + 0.012 * (i % 3))
        p.setBrush(rounded_side(tints[i % 5], pot_x - r, pot_x + r))
        p.drawPath(shape((pot_x - r * 0.6, ground - high * 0.43), (pot_x - r, ground - high * 0.5),
                         (pot_x - r * 0.6, ground - high * 0.43 - r * 2.4),
                         (pot_x + r * 0.6, ground - high * 0.43 - r * 2.4),
                         (pot_x + r, ground - high * 0.5), (pot_x + r * 0.6, ground - high * 0.43),
                         smooth=True))


def kiln(p: QPainter, x: float, ground: float, size: float) -> None:
    """A brick bottle kiln ``size`` wide with a glowing door."""
    outline = shape((x - size / 2, ground), (x - size * 0.47, ground - size * 0.7),
                    (x - size * 0.2, ground - size * 1.35), (x - size * 0.15, ground - size * 1.8),
                    (x + size * 0.15, ground - size * 1.8), (x + size * 0.2, ground - size * 1.35),
                    (x + size * 0.47, ground - size * 0.7), (x + size / 2, ground))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(rounded_side("#97593d", x - size / 2, x + size / 2))
    p.drawPath(outline)
    p.save()
    p.setClipPath(outline)
    rows = 26
    for row in range(rows):
        y = ground - size * 1.8 * row / rows
        stroke(p, shape((x - size, y), (x + size, y), closed=False), size * 0.006,
               colour("#4a2417", 0.5))
        for k in range(14):
            bx = x - size * 0.55 + size * 0.085 * (k + 0.5 * (row % 2))
            stroke(p, shape((bx, y), (bx, y - size * 1.8 / rows), closed=False), size * 0.005,
                   colour("#4a2417", 0.42))
    p.restore()
    blob(p, x, ground - size * 0.24, size * 0.15, size * 0.23, QColor("#2a120a"))
    glow(p, x, ground - size * 0.2, size * 0.2, colour("#ff9a3c", 0.95), ry=size * 0.24)
    glow(p, x, ground - size * 0.1, size * 0.6, colour("#ffb25a", 0.3), ry=size * 0.3)


def bunting(p: QPainter, y: float, width: float = WIDTH, sag: float = 46) -> None:
    """Little flags on a line across the picture."""
    tints = ("#b5651d", "#3f6f73", "#e3c48d", "#7a3b2e", "#6d7f56")
    spans = 4
    for s in range(spans):
        x0, x1 = width * s / spans, width * (s + 1) / spans
        points = [(x0 + (x1 - x0) * t / 10, y + sag * math.sin(math.pi * t / 10))
                  for t in range(11)]
        stroke(p, shape(*points, closed=False), 2.5, QColor("#6a5341"))
        for i, (x, top) in enumerate(points[:-1]):
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(QColor(tints[(i + s) % 5]))
            p.drawPath(shape((x + 8, top + 4), (x + 38, top + 4), (x + 23, top + 44)))


def quay(p: QPainter) -> None:
    """The whole quay on the day of the fair."""
    sky(p)
    headland(p, 520)
    sea(p, 520, 690)
    paving(p, 680)
    kiln(p, 1500, 760, 230)
    stall(p, 560, 770, 250, "#b5651d")
    stall(p, 1010, 780, 270, "#3f6f73")
    bunting(p, 300)


def promenade(p: QPainter) -> None:
    """A long straight walk beside the water: lamps, a rail, stone."""
    sky(p, sun=500)
    sea(p, 520, 724, seed=11)
    _fill(p, 0, 640, WIDTH, 14, QColor("#6b5544"))
    for i in range(17):
        _fill(p, i * 120 + 20, 600, 10, 130, QColor("#5b4738"))
    _fill(p, 0, 596, WIDTH, 10, QColor("#7d6552"))
    for x in (300, 960, 1620):
        _fill(p, x - 6, 250, 12, 480, QColor("#3e3630"))
        blob(p, x, 236, 26, 30, QColor("#f7e6be"))
        glow(p, x, 236, 120, colour("#ffe9b8", 0.45))
    paving(p, 720, seed=9)


def harbour_wall(p: QPainter) -> None:
    """Behind a talker outside: water and lights, far out of focus."""
    _fill(p, 0, 0, WIDTH, HEIGHT, upright(
        0, HEIGHT, (0, QColor("#a9bdb9")), (0.45, QColor("#e7d0a6")), (0.52, QColor("#7d9c9c")),
        (0.8, QColor("#4f7377")), (1, QColor("#6a5948"))))
    rng = random.Random(21)
    for _ in range(26):
        tint = rng.choice(("#f6e0b4", "#d9a066", "#9fbcb6", "#e9cfa0"))
        glow(p, rng.uniform(0, WIDTH), rng.uniform(380, 900), rng.uniform(40, 130),
             colour(tint, 0.35))
    for x, w in ((150, 190), (1180, 240), (1560, 170)):
        glow(p, x, 470, w, colour("#57452f", 0.4), ry=w * 1.2)


def workshop(p: QPainter, seed: int = 2) -> None:
    """The inside of the pottery: plaster wall, a window, shelves of pots, softly lit."""
    _fill(p, 0, 0, WIDTH, HEIGHT, sideways(
        0, WIDTH, (0, QColor("#c9b59a")), (0.4, QColor("#b19a7e")), (1, QColor("#6e5a48"))))
    glow(p, 420, 300, 900, colour("#fff0d2", 0.5), ry=620)
    _fill(p, 1330, 120, 330, 440, QColor("#54402f"))
    light = upright(140, 540, (0, QColor("#bfd3d2")), (1, QColor("#f0dcb2")))
    _fill(p, 1350, 140, 290, 400, light)
    _fill(p, 1488, 140, 14, 400, QColor("#54402f"))
    _fill(p, 1350, 330, 290, 14, QColor("#54402f"))
    rng = random.Random(seed)
    for row, y in enumerate((250, 520, 800)):
        _fill(p, 620, y, 560, 18, QColor("#6d5038"))
        _fill(p, 620, y + 18, 560, 8, colour("#2a1b10", 0.5))
        x = 650.0
        while x < 1140:
            r = rng.uniform(22, 40)
            tint = rng.choice(("#8a5a3c", "#5d7470", "#b89468", "#6e4634", "#7c8068"))
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(rounded_side(tint, x - r, x + r))
            top = y - rng.uniform(70, 150)
            p.drawPath(shape((x - r * 0.6, y), (x - r, y - (y - top) * 0.4), (x - r * 0.5, top),
                             (x + r * 0.5, top), (x + r, y - (y - top) * 0.4), (x + r * 0.6, y),
                             smooth=True))
            x += r * 2 + rng.uniform(14, 44) + row
    _fill(p, 0, 0, WIDTH, HEIGHT, sideways(
        0, WIDTH, (0, colour("#20140a", 0.0)), (0.7, colour("#20140a", 0.1)),
        (1, colour("#20140a", 0.42))))


def marsh(p: QPainter) -> None:
    """An even, empty landscape: sky, water meadow, grass."""
    sky(p, horizon=560, sun=960)
    _fill(p, 0, 560, WIDTH, 520, upright(
        560, HEIGHT, (0, QColor("#b9b384")), (0.35, QColor("#8c9266")), (1, QColor("#4d5a3c"))))
    rng = random.Random(5)
    for _ in range(30):
        y = 575 + 440 * rng.random() ** 2
        glow(p, rng.uniform(0, WIDTH), y, 160 + y * 0.12, colour("#dfe3cf", 0.28), ry=5 + y * 0.008)
    for _ in range(1500):
        y = 640 + 470 * rng.random() ** 0.7
        x, high = rng.uniform(0, WIDTH), (y - 560) * 0.13
        stroke(p, shape((x, y), (x + rng.uniform(-0.3, 0.4) * high, y - high), closed=False),
               1 + (y - 600) * 0.004, colour(rng.choice(("#6d7748", "#a9a468", "#3f4b30")), 0.55))


def shelf_wall(p: QPainter, width: float) -> None:
    """A long wall with two shelves for the panning shot; the pots are drawn by the shot."""
    _fill(p, 0, 0, width, HEIGHT, upright(
        0, HEIGHT, (0, QColor("#d3c1a4")), (0.7, QColor("#bba585")), (1, QColor("#82694f"))))
    for x in range(0, int(width), 480):
        glow(p, x + 200, 160, 380, colour("#fff2d8", 0.4), ry=300)
    for y in (500, 930):
        wood = upright(y, y + 30, (0, QColor("#94704d")), (1, QColor("#5d4129")))
        _fill(p, 0, y, width, 30, wood)
        _fill(p, 0, y + 30, width, 22, colour("#2a1b10", 0.35))
    for x in range(240, int(width), 620):
        _fill(p, x, 530, 26, 60, QColor("#5d4129"))
        _fill(p, x, 960, 26, 60, QColor("#5d4129"))


def table(p: QPainter) -> None:
    """A wooden table against a dim wall."""
    _fill(p, 0, 0, WIDTH, 700, upright(0, 700, (0, QColor("#8f8269")), (1, QColor("#b09a79"))))
    glow(p, 380, 200, 900, colour("#ffefcf", 0.5), ry=560)
    wood = upright(690, HEIGHT, (0, QColor("#a87a4e")), (1, QColor("#6b4729")))
    _fill(p, 0, 690, WIDTH, 390, wood)
    rng = random.Random(8)
    for _ in range(60):
        y = rng.uniform(700, 1075)
        x = rng.uniform(-200, WIDTH)
        stroke(p, shape((x, y), (x + 240, y + rng.uniform(-3, 3)), (x + 520, y), smooth=True,
                        closed=False), rng.uniform(1, 3), colour("#4a2e18", 0.25))


def card(p: QPainter) -> None:
    """The plain ground of the end card."""
    dusk = upright(0, HEIGHT, (0, QColor("#2b3b3c")), (1, QColor("#1c2526")))
    _fill(p, 0, 0, WIDTH, HEIGHT, dusk)
    glow(p, 960, 480, 900, colour("#5a6f66", 0.35), ry=520)
