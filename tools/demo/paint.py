"""Painting helpers: soft shading, limbs, text as outlines, and the record of what was drawn."""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass, field
from importlib import resources

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontDatabase,
    QLinearGradient,
    QPainter,
    QPainterPath,
    QPen,
    QRadialGradient,
    QTransform,
)

Point = tuple[float, float]


@dataclass
class Mark:
    """One thing drawn in a frame: who, what kind, and its box in master pixels."""

    identity: str
    kind: str
    box: tuple[float, float, float, float]


@dataclass
class Scene:
    """A painter together with the ground truth of what it has drawn so far in this frame."""

    painter: QPainter
    width: int
    height: int
    marks: list[Mark] = field(default_factory=list)

    def mark(self, identity: str, kind: str, box: QRectF) -> None:
        """Record ``box`` (in the painter's current coordinates), cut to the picture."""
        seen = self.painter.transform().mapRect(box)
        seen = seen.intersected(QRectF(0, 0, self.width, self.height))
        if seen.width() >= 2 and seen.height() >= 2:
            numbers = (seen.x(), seen.y(), seen.width(), seen.height())
            x, y, w, h = (round(value, 2) for value in numbers)
            self.marks.append(Mark(identity, kind, (x, y, w, h)))


def colour(name: str, alpha: float = 1.0) -> QColor:
    """A colour from ``#rrggbb`` with an opacity of 0..1."""
    made = QColor(name)
    made.setAlphaF(alpha)
    return made


def shade(name: str, factor: float) -> QColor:
    """``name`` made lighter (factor > 1) or darker (factor < 1)."""
    base = QColor(name)
    return base.lighter(int(factor * 100)) if factor >= 1 else base.darker(int(100 / factor))


def blob(p: QPainter, x: float, y: float, rx: float, ry: float, fill: QColor | QBrush) -> None:
    """A filled ellipse round (x, y)."""
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(fill)
    p.drawEllipse(QPointF(x, y), rx, ry)


def glow(p: QPainter, x: float, y: float, r: float, inner: QColor, ry: float | None = None) -> None:
    """A soft spot of colour that fades to nothing at radius ``r`` (``ry`` upwards)."""
    gradient = QRadialGradient(QPointF(0, 0), r)
    gradient.setColorAt(0.0, inner)
    middle = QColor(inner)
    middle.setAlphaF(inner.alphaF() * 0.45)
    gradient.setColorAt(0.5, middle)
    outer = QColor(inner)
    outer.setAlphaF(0.0)
    gradient.setColorAt(1.0, outer)
    p.save()
    p.translate(x, y)
    p.scale(1.0, (ry or r) / r)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(gradient)
    p.drawEllipse(QPointF(0, 0), r, r)
    p.restore()


def upright(y0: float, y1: float, *stops: tuple[float, QColor]) -> QBrush:
    """A vertical gradient brush from ``y0`` to ``y1``."""
    gradient = QLinearGradient(0, y0, 0, y1)
    for at, value in stops:
        gradient.setColorAt(at, value)
    return QBrush(gradient)


def sideways(x0: float, x1: float, *stops: tuple[float, QColor]) -> QBrush:
    """A horizontal gradient brush from ``x0`` to ``x1``."""
    gradient = QLinearGradient(x0, 0, x1, 0)
    for at, value in stops:
        gradient.setColorAt(at, value)
    return QBrush(gradient)


def rounded_side(name: str, x0: float, x1: float) -> QBrush:
    """The shading of an upright cylinder lit from the left."""
    return sideways(
        x0, x1, (0, shade(name, 0.85)), (0.3, shade(name, 1.18)), (0.65, QColor(name)),
        (1, shade(name, 0.55)),
    )


def shape(*points: Point, smooth: bool = False, closed: bool = True) -> QPainterPath:
    """A path through ``points``; ``smooth`` rounds the corners (Catmull-Rom to cubic)."""
    path = QPainterPath(QPointF(*points[0]))
    if not smooth:
        for point in points[1:]:
            path.lineTo(*point)
    else:
        count = len(points)
        for i in range(count if closed else count - 1):
            before, a, b, after = (
                points[(i + k) % count] if closed else points[min(max(i + k, 0), count - 1)]
                for k in (-1, 0, 1, 2)
            )
            path.cubicTo(
                a[0] + (b[0] - before[0]) / 6, a[1] + (b[1] - before[1]) / 6,
                b[0] - (after[0] - a[0]) / 6, b[1] - (after[1] - a[1]) / 6, b[0], b[1],
            )
    if closed:
        path.closeSubpath()
    return path


def stroke(
    p: QPainter, path: QPainterPath, width: float, tint: QColor,
    cap: Qt.PenCapStyle = Qt.PenCapStyle.RoundCap,
) -> None:
    """A round-jointed line along ``path``."""
    pen = QPen(tint, width)
    pen.setCapStyle(cap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    p.setPen(pen)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(path)


def limb(p: QPainter, points: list[Point], widths: tuple[float, float], name: str) -> None:
    """A shaded, tapering limb along three joints."""
    (ax, ay), (bx, by), (cx, cy) = points
    for (x0, y0, w0), (x1, y1, w1) in (
        ((ax, ay, widths[0]), (bx, by, (widths[0] + widths[1]) / 2)),
        ((bx, by, (widths[0] + widths[1]) / 2), (cx, cy, widths[1])),
    ):
        length = math.hypot(x1 - x0, y1 - y0) or 1e-6
        p.save()
        p.translate(x0, y0)
        p.rotate(math.degrees(math.atan2(y1 - y0, x1 - x0)))
        path = shape(
            (-w0 * 0.25, -w0 / 2), (length * 0.5, -w0 * 0.26 - w1 * 0.26), (length, -w1 / 2),
            (length + w1 * 0.3, 0), (length, w1 / 2), (length * 0.5, w0 * 0.26 + w1 * 0.26),
            (-w0 * 0.25, w0 / 2), (-w0 * 0.5, 0), smooth=True,
        )
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(upright(
            -w0 / 2, w0 / 2, (0, shade(name, 0.62)), (0.35, shade(name, 0.9)),
            (0.68, shade(name, 1.15)), (1, shade(name, 0.85)),
        ))
        p.drawPath(path)
        p.restore()


@functools.lru_cache(maxsize=8)
def _family(file: str) -> str:
    data = resources.files("caracal").joinpath("data/fonts", file).read_bytes()
    number = QFontDatabase.addApplicationFontFromData(data)
    return QFontDatabase.applicationFontFamilies(number)[0]


def lettering(text: str, size: float, serif: bool = True, spacing: float = 0.0) -> QPainterPath:
    """Words as outlines, baseline at the origin, so that no screen hinting changes them."""
    file = "Fraunces_600SemiBold.ttf" if serif else "Figtree_600SemiBold.ttf"
    font = QFont(_family(file))
    font.setPixelSize(200)
    font.setWeight(QFont.Weight.DemiBold)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    font.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, spacing * 200 / size)
    path = QPainterPath()
    path.addText(0, 0, font, text)
    scale = size / 200
    return QTransform.fromScale(scale, scale).map(path)


def ease(value: float) -> float:
    """Smooth 0..1 (smoothstep), held outside."""
    t = min(max(value, 0.0), 1.0)
    return t * t * (3 - 2 * t)
