"""The storyboard: what each shot of the film shows, frame by frame."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from demo import places, things
from demo.face import Expression, Person
from demo.figure import Pose, draw_person, stride
from demo.paint import Scene, colour, ease, glow, lettering, limb, shade, shape
from demo.script import FPS, INES, MIRA, OTTO, TOBIAS, WREN, mouth

Backdrop = Callable[[QPainter], None]
Action = Callable[[Scene, int, float], None]  # scene, frame within the shot, second in the film


@dataclass(frozen=True)
class Shot:
    """A shot: its length, what stands still, what moves, and who must be seen if anyone."""

    name: str
    frames: int
    backdrop: Backdrop
    action: Action
    lead: str | None = None
    single: bool = False
    still_serves: bool = True
    dissolve_in: int = 0
    backdrop_width: int = places.WIDTH


def place_person(scene: Scene, who: Person, x: float, y: float, unit: float, pose: Pose,
                 look: Expression) -> None:
    """Draw ``who`` with the head's middle at (x, y), one unit being half the head's height."""
    p = scene.painter
    p.save()
    p.translate(x, y)
    p.scale(unit, unit)
    draw_person(scene, who, pose, look)
    p.restore()


def _thing(scene: Scene, draw: Callable[..., None], x: float, y: float, unit: float,
           *args: object) -> None:
    p = scene.painter
    p.save()
    p.translate(x, y)
    p.scale(unit, unit)
    draw(scene, *args)
    p.restore()


def _blink(second: float, shift: float) -> float:
    return 1.0 if (second + shift) % 3.1 < 0.12 else 0.0


def _talk(scene: Scene, who: Person, x: float, y: float, unit: float, second: float,
          yaw: float) -> None:
    open_by = mouth(who.name, second)
    sway = math.sin(second * 1.3 + unit) * unit * 0.06
    look = Expression(yaw + 0.12 * math.sin(second * 0.9), open_by,
                      _blink(second, len(who.name)), 0.4, 0.5 * math.sin(second * 2.1) * open_by)
    place_person(scene, who, x + sway, y, unit, Pose(), look)


def _words(scene: Scene, identity: str, text: str, x: float, baseline: float, size: float,
           tint: str, *, serif: bool = True, spacing: float = 0.0, middle: bool = False) -> None:
    path = lettering(text, size, serif, spacing)
    if middle:
        x -= path.boundingRect().width() / 2
    scene.painter.save()
    scene.painter.translate(x, baseline)
    scene.painter.fillPath(path, QColor(tint))
    scene.mark(identity, "words", path.boundingRect())
    scene.painter.restore()


def title(scene: Scene, frame: int, second: float) -> None:
    fade = ease((frame - 6) / 20)
    scene.painter.setOpacity(fade)
    if fade > 0.05:
        _words(scene, "title", "KILN DAY AT MARRAM QUAY", 960, 470, 112, "#46301f", middle=True,
               spacing=1)
        _words(scene, "subtitle", "A day at the potters' fair", 960, 560, 52, "#3a2f22",
               middle=True)
    scene.painter.setOpacity(1.0)


def wide(scene: Scene, frame: int, second: float) -> None:
    t = frame / FPS
    for i in range(6):
        glow(scene.painter, 1500 + 12 * math.sin(t + i), 330 - i * 48 - (t * 20) % 48,
             46 + i * 14, colour("#e9e2d6", 0.34))
    _thing(scene, things.boat, 300 + 10 * t, 640, 44, "boat 1", "#b5651d")
    _thing(scene, things.boat, 905 - 6 * t, 610, 30, "boat 2", "#3f6f73")
    place_person(scene, OTTO, 640, 652, 11.5, Pose(), Expression())
    place_person(scene, MIRA, 720, 655, 11.5, Pose(), Expression(yaw=-0.4))
    place_person(scene, WREN, 1120, 660, 12, Pose(), Expression(yaw=0.3))
    walk = stride(t * 1.1, 1, 0)
    place_person(scene, TOBIAS, 1250 + 34 * t, 700, 13, walk, Expression(yaw=0.8))
    place_person(scene, INES, 420 - 24 * t, 705, 13, stride(t, -1, 0), Expression(yaw=-0.8))


def talker(scene: Scene, frame: int, second: float) -> None:
    _talk(scene, INES, 560, 400, 128, second, 0.25)


def closer(scene: Scene, frame: int, second: float) -> None:
    _talk(scene, INES, 690, 450, 225, second, 0.25)


def hands(scene: Scene, frame: int, second: float) -> None:
    turn = math.sin(frame / 11)
    p = scene.painter
    for side in (-1, 1):
        reach = 1180 + side * (304 + 8 * turn)
        limb(p, [(1180 + side * 560, 1160), (1180 + side * 440, 930), (reach, 720)], (190, 112),
             INES.skin)
    _thing(scene, things.bowl, 1180, 850 + 5 * turn, 300, "bowl", "#c9752f")
    for side in (-1, 1):
        x = 1180 + side * (286 + 8 * turn)
        for finger in range(4):
            y = 640 + finger * 42
            limb(p, [(x + side * 14, y + 16), (x - side * 20, y + 2), (x - side * 52, y + 12)],
                 (50, 34), INES.skin)
        limb(p, [(x + side * 6, 650), (x - side * 8, 606), (x - side * 30, 580)], (56, 40),
             shade(INES.skin, 1.03).name())


def two(scene: Scene, frame: int, second: float) -> None:
    _talk(scene, INES, 250, 430, 118, second, 0.7)
    _talk(scene, TOBIAS, 1660, 400, 122, second, -0.7)


def walker(scene: Scene, frame: int, second: float) -> None:
    x = -120 + 14.4 * frame
    place_person(scene, WREN, x, 360, 44, stride(frame / FPS * 1.05, 1, 0), Expression(yaw=0.8))


def dog(scene: Scene, frame: int, second: float) -> None:
    x = -260 + 27 * frame
    _thing(scene, things.dog, x, 930, 96, "dog", frame / FPS * 2.2)


def _run_place(frame: int) -> tuple[float, float, int]:
    """Where the runner is, how hard they run (0..1), and in which direction."""
    if frame < 54:
        return 240 + 1200 * _run_ease(frame / 54), 1.0, 1
    if frame < 76:
        return 1440.0, 0.0, 0
    return 1440 - 1140 * _run_ease((frame - 76) / 54), 1.0, -1


def _run_ease(t: float) -> float:
    return t + 0.12 * math.sin(2 * math.pi * t) * -1 / math.pi


def runner(scene: Scene, frame: int, second: float) -> None:
    x, effort, way = _run_place(frame)
    if way:
        pose = stride(frame / FPS * 2.1, way, effort)
        place_person(scene, OTTO, x, 380, 42, pose, Expression(yaw=0.8 * way, mouth=0.3))
    else:
        look = Expression(mouth=0.2, blink=_blink(second, 1))
        place_person(scene, OTTO, x, 380, 42, Pose(), look)


def _pan_x(frame: int) -> float:
    return 1280 * ease((frame - 6) / 104)


PAN_POTS = (
    (things.vase, 320, 500, 150, "#3f6f73"), (things.bowl, 690, 500, 130, "#b5651d"),
    (things.bottle, 1000, 500, 150, "#56705a"), (things.cup, 1320, 500, 170, "#a0522d"),
    (things.vase, 1690, 500, 165, "#7a3b2e"), (things.bowl, 2080, 500, 140, "#3f6f73"),
    (things.bottle, 2420, 500, 155, "#8a6a3a"), (things.vase, 2850, 500, 150, "#b89468"),
    (things.cup, 460, 930, 180, "#e0c9a0"), (things.vase, 900, 930, 170, "#b5651d"),
    (things.bowl, 1400, 930, 150, "#56705a"), (things.bottle, 1860, 930, 165, "#3f6f73"),
    (things.vase, 2260, 930, 175, "#a0522d"), (things.cup, 2700, 930, 190, "#3f6f73"),
)


def pan(scene: Scene, frame: int, second: float) -> None:
    scene.painter.save()
    scene.painter.translate(-_pan_x(frame), 0)
    for i, (draw, x, y, unit, tint) in enumerate(PAN_POTS):
        _thing(scene, draw, x, y, unit, f"pot {i + 1}", tint)
    scene.painter.restore()


def nothing(scene: Scene, frame: int, second: float) -> None:
    """An empty landscape: nobody and nothing to mark."""


def lower_third(scene: Scene, frame: int, second: float) -> None:
    _talk(scene, TOBIAS, 1310, 390, 132, second, -0.25)
    if 14 <= frame < 96:
        p = scene.painter
        p.setOpacity(ease((frame - 14) / 10) * ease((96 - frame) / 8))
        p.fillRect(QRectF(96, 812, 620, 150), colour("#241c15", 0.82))
        p.fillRect(QRectF(96, 812, 10, 150), QColor("#d9903f"))
        _words(scene, "name", "Tobias Fenn", 136, 878, 58, "#f6ead4")
        _words(scene, "role", "keeper of the kiln", 136, 934, 38, "#d9c3a0", serif=False)
        p.setOpacity(1.0)


def cyclist(scene: Scene, frame: int, second: float) -> None:
    x = 2150 - 26 * frame
    p = scene.painter
    p.save()
    p.translate(x, 880)
    p.scale(-1, 1)
    p.scale(96, 96)
    things.bicycle(scene, "bicycle", frame * 0.28)
    p.restore()
    _talk(scene, MIRA, 640, 330, 56, second, 0.5)


def still_life(scene: Scene, frame: int, second: float) -> None:
    _thing(scene, things.bottle, 520, 860, 210, "bottle", "#56705a")
    _thing(scene, things.vase, 1330, 840, 270, "vase", "#3f6f73")
    _thing(scene, things.bowl, 960, 930, 200, "bowl 2", "#b5651d")
    _thing(scene, things.cup, 1640, 960, 190, "cup", "#a0522d")


def toast(scene: Scene, frame: int, second: float) -> None:
    lift = 8 * ease((frame - 50) / 30)
    raised = Pose(arms=((-14, -6), (34 + lift, 150)), legs=((-4, -2), (4, 2)))
    for who, x, unit, yaw in ((OTTO, 980, 62, 0.3), (MIRA, 1560, 60, -0.4)):
        look = Expression(yaw=yaw, smile=0.7, blink=_blink(second, x))
        place_person(scene, who, x, 380, unit, raised if who is OTTO else Pose(), look)
    open_by = mouth("Wren", second)
    look = Expression(0.1 * math.sin(second), open_by, _blink(second, 2), 0.8)
    place_person(scene, WREN, 1270, 370, 66, raised, look)


def end_card(scene: Scene, frame: int, second: float) -> None:
    p = scene.painter
    _words(scene, "end title", "Kiln Day", 960, 470, 150, "#f4e3c3", middle=True)
    _words(scene, "end place", "Marram Quay, every first Saturday of autumn", 960, 570, 46,
           "#cdb892", middle=True)
    p.fillPath(shape((900, 640), (1020, 640), (1020, 646), (900, 646)), QColor("#d9903f"))
    _words(scene, "end line", "Bring wood. Take a bowl home.", 960, 730, 38, "#cdb892", serif=False,
           middle=True)
    dark = ease((frame - 34) / 22)
    if dark > 0:
        p.fillRect(QRectF(0, 0, places.WIDTH, places.HEIGHT), colour("#000000", dark))


def _scene_outside(p: QPainter) -> None:
    places.promenade(p)
    places.stall(p, 1380, 800, 360, "#b5651d")


def _kiln_yard(p: QPainter) -> None:
    places.sky(p, sun=300)
    places.sea(p, 520, 700, seed=15)
    places.paving(p, 690, seed=13)
    places.kiln(p, 430, 860, 420)
    places.bunting(p, 120)


def _shelves(p: QPainter) -> None:
    places.shelf_wall(p, 3200)


STORYBOARD = (
    Shot("title", 76, places.marsh, title),
    Shot("wide quay", 90, places.quay, wide),
    Shot("talker", 105, places.workshop, talker, "Ines", single=True),
    Shot("talker closer", 85, functools.partial(places.workshop, seed=2), closer, "Ines", True),
    Shot("hands", 75, places.table, hands, "bowl", True),
    Shot("two talkers", 130, places.harbour_wall, two),
    Shot("walker", 130, places.promenade, walker, "Wren", True, still_serves=False),
    Shot("dog", 75, _scene_outside, dog, "dog", True, still_serves=False),
    Shot("runner", 130, places.promenade, runner, "Otto", True, still_serves=False),
    Shot("pan", 110, _shelves, pan, backdrop_width=3200),
    Shot("marsh", 84, places.marsh, nothing, dissolve_in=24),
    Shot("lower third", 105, places.harbour_wall, lower_third, "Tobias", True),
    Shot("cyclist", 85, _scene_outside, cyclist),
    Shot("still life", 65, places.table, still_life),
    Shot("toast", 95, _kiln_yard, toast),
    Shot("end card", 60, places.card, end_card),
)

FILM_FRAMES = sum(shot.frames for shot in STORYBOARD)


@functools.lru_cache(maxsize=3)
def _painted(index: int) -> QImage:
    shot = STORYBOARD[index]
    picture = QImage(shot.backdrop_width, places.HEIGHT, QImage.Format.Format_RGB32)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    shot.backdrop(painter)
    painter.end()
    return picture


def draw_shot(index: int, frame: int, second: float) -> tuple[QImage, Scene]:
    """The picture of ``frame`` within shot ``index`` and the record of what is in it."""
    shot = STORYBOARD[index]
    picture = QImage(places.WIDTH, places.HEIGHT, QImage.Format.Format_RGB32)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    shift = _pan_x(frame) if shot.backdrop_width > places.WIDTH else 0.0
    painter.drawImage(QRectF(0, 0, places.WIDTH, places.HEIGHT), _painted(index),
                      QRectF(shift, 0, places.WIDTH, places.HEIGHT))
    scene = Scene(painter, places.WIDTH, places.HEIGHT)
    shot.action(scene, frame, second)
    painter.end()
    return picture, scene
