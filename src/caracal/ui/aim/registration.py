"""Aim, as the window knows it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSettings
from PySide6.QtGui import QAccessible

from caracal.core.base.time import timecode
from caracal.core.base.translation import mark, tr
from caracal.ui.aim.layout_page import LayoutCards
from caracal.ui.aim.picture_cards import PictureCards
from caracal.ui.aim.stage import Stage
from caracal.ui.aim.strip import PathStrip
from caracal.ui.aim.template_cards import TemplateCards
from caracal.ui.aim.view import Aim
from caracal.ui.session.crop_edits import nudge_crop
from caracal.ui.session.lead_edits import Part as LeadPart
from caracal.ui.session.lead_edits import set_part
from caracal.ui.session.view import Action, Part, Parts, View
from caracal.ui.widgets.side import keep_side, recall_side

ROLE = QAccessible.Role
HALF = 8  # pixels: half the side of a keyframe's place


def _subject(stage: Stage, number: int) -> Part:
    session = stage.session
    subject = session.people.subjects(session.shot)[number]
    box = subject.box_at(session.frame)
    leads = subject.id == session.path(session.letter, session.shot).lead_at(session.frame)
    name = session.people.name(session.shot, subject.id).capitalize()
    return Part(tr("{name}, leads", name=name) if leads else name,
                stage.place_of(box) if box is not None else QRectF(), leads)


def _keyframe(strip: PathStrip, number: int) -> Part:
    key = strip.keys[number]
    at = strip.point_of(key)
    rate = strip.session.analysis.master.rate
    return Part(tr("Keyframe at {timecode}, {interpolation}", timecode=timecode(key.frame, rate),
                   interpolation=key.interpolation),
                QRectF(at.x() - HALF, at.y() - HALF, 2 * HALF, 2 * HALF), key.frame == strip.chosen)


def _lead(stage: Stage, number: int) -> None:
    session = stage.session
    set_part(session, LeadPart.LEAD, session.people.subjects(session.shot)[number].id)


def _nudge(name: str, across: int, down: int) -> Action:
    return Action(name, lambda stage: nudge_crop(stage.session, across, down))


def _keep(settings: QSettings, aim: Aim) -> None:
    keep_side(settings, "aim", aim.side, aim.halves)


def _recall(settings: QSettings, aim: Aim) -> None:
    recall_side(settings, "aim", aim.side, aim.halves)


def _card(cards: PictureCards, number: int) -> Part:
    return Part(cards.names()[number], cards.rects()[number], cards.taken() == number)


CARDS = Parts(ROLE.List, ROLE.ListItem, lambda cards: len(cards.names()), _card,
              press=lambda cards, number: cards.pick(number))
STAGE = Parts(
    ROLE.Graphic, ROLE.ListItem,
    lambda stage: len(stage.session.people.subjects(stage.session.shot)), _subject, press=_lead,
    actions=(_nudge(tr("Nudge the crop left"), -1, 0), _nudge(tr("Nudge the crop right"), 1, 0),
             _nudge(tr("Nudge the crop up"), 0, -1), _nudge(tr("Nudge the crop down"), 0, 1)))
STRIP = Parts(
    ROLE.Chart, ROLE.ListItem, lambda strip: len(strip.keys), _keyframe,
    press=lambda strip, number: strip.choose(strip.keys[number].frame),
    actions=(Action(tr("Set keyframe"), lambda strip: strip.key_cursor.set_here(
        strip.session.frame), "Return"),
        Action(tr("Move keyframe earlier"), lambda strip: strip.key_cursor.nudge(-1, 0), "Left"),
        Action(tr("Move keyframe later"), lambda strip: strip.key_cursor.nudge(1, 0), "Right"),
        Action(tr("Move keyframe up"), lambda strip: strip.key_cursor.nudge(0, -1), "Up"),
        Action(tr("Move keyframe down"), lambda strip: strip.key_cursor.nudge(0, 1), "Down"),
        Action(tr("Remove keyframe"), lambda strip: strip.key_cursor.remove(), "Delete")))
AIM = View(
    mark("Aim"), "2",
    tr("Click somebody to make them lead, drag the lit crop, turn the wheel to zoom it"),
    lambda place: Aim(place.session), close=Aim.close_down, keep=_keep, recall=_recall,
    escape=Aim.end_modes,
    gestures=(
        (mark("Click a subject"), mark("It leads")),
        (mark("Ctrl + click a subject"), mark("It leads from this frame on")),
        (mark("Drag the lit crop"), mark("Set a keyframe")),
        (mark("Wheel on the master"), mark("Zoom the crop")),
        (mark("Ctrl + wheel"), mark("Zoom the crop from this frame on")),
        (mark("Shift + click"), mark("Punch in there; again: punch out")),
        (mark("Click a canvas"), mark("Work on that version")),
        (mark("Drag an overlay or a pane"), mark("Move it; with Alt without snapping")),
        (mark("Drag its corner"), mark("Change its size")),
        (mark("Drag the border of two panes"), mark("Give one of them more room")),
        (mark("Double-click a pane"), mark("Set its own crop")),
        (mark("Ctrl + drag a side of a whole picture"), mark("Cut that side off")),
        (mark("Click or drag on the path"), mark("Go to that frame")),
        (mark("Double-click the path"), mark("Set a keyframe there")),
        (mark("Drag a keyframe"), mark("Move it in time and place")),
        (mark("Right-click a keyframe"), mark("Eased, straight or hold")),
    ),
    parts={Stage: STAGE, PathStrip: STRIP, LayoutCards: CARDS, TemplateCards: CARDS})
