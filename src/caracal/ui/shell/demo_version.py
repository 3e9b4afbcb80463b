"""The demo film dressed: captions in two styles, every layout once, titles, a mark, cards."""

from __future__ import annotations

import msgspec

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Region
from caracal.core.base.resources import ours, shipped
from caracal.core.exchange.caption_files import read_captions
from caracal.core.layout.added_sound import (
    AddedSound,
    SoundFile,
    first_bed,
    first_effect,
    first_voice,
)
from caracal.core.layout.card import Card
from caracal.core.layout.entrance import Entry
from caracal.core.layout.kinds import kind_called
from caracal.core.layout.model import BlendBackdrop, PictureFile
from caracal.core.layout.overlay import Overlay, Shape, ShapeKind
from caracal.core.layout.shipped_assets import effect, moving_backdrop
from caracal.core.project.brand_edits import with_brand
from caracal.core.project.brand_files import read_brand
from caracal.core.project.caption_edits import with_captions
from caracal.core.project.edits import changed_version, with_layout, with_version
from caracal.core.project.model import Fades, Project, first_project
from caracal.core.specs.sheet import SpecSheet
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.caption_look import CaptionLook, CaptionManner
from caracal.core.text.style import Align, TextBox, TextShadow, TextStyle, Title

SHEET = "tall-feed"  # of the version that shows everything
LAYOUTS = {  # by a frame of the shot
    20: "whole-plain", 100: "whole-soft", 230: "cut-out", 380: "banner", 500: "stack", 720: "inset",
    1130: "whole-over-lead", 1380: "stack-of-three",
}
SAND, INK, TAWNY = "#f2ede4", "#1c1a18", "#e9b15f"
HEADLINE = TextStyle("Fraunces SemiBold", 0.12, SAND, shadow=TextShadow())
NAME = TextStyle("Figtree SemiBold", 0.05, SAND, box=TextBox(INK, 0.85), align=Align.LEFT)
SAID_LOOK = CaptionLook(TextStyle(size=0.056, box=TextBox(INK, 0.82)), CaptionManner.WORDS,
                        said=TAWNY)
CARD_FRAMES = 60
VOICE_AT = 690  # the frame at which the voice-over begins: nobody speaks then
EFFECTS_AT = {"Whoosh": 168, "Pop": 440}  # with a title each
BRAND_FILE = "marram-quay-brand.toml"
MARK_WIDE = 0.13  # of the canvas


def dressed(analysis: Analysis) -> Project:
    """The first project of the analysed demo film with all of it."""
    film = shipped("demo", "kiln-day-at-marram-quay.srt")
    project = with_captions(first_project(analysis.master.frames), read_captions(film).cues,
                            str(film))
    project = with_brand(project, read_brand(shipped("demo", BRAND_FILE)))
    project = with_version(project, SHEET)
    letter, sheet = project.versions[-1].letter, find_sheet(SHEET)
    for frame, name in LAYOUTS.items():
        project = with_layout(project, letter, analysis.shot_at(frame),
                              kind_called(name).make(sheet.frame))
    for version in project.versions:
        project = changed_version(project, version.letter,
                                  closing=closing_card(find_sheet(version.sheet)))
    return changed_version(
        project, letter, look=SAID_LOOK, opening=_opening(sheet), fades=Fades(begin=8, end=12),
        overlays=_overlays(sheet, analysis.master.frames), sounds=_sounds())


def _sounds() -> tuple[AddedSound, ...]:
    """A bed under all of it, a line of voice-over, and two effects with titles."""
    bed = first_bed(SoundFile(ours("demo", "marram-quay-bed.flac")))
    return (
        msgspec.structs.replace(bed, gain_db=-16.0),
        first_voice(SoundFile(ours("demo", "marram-quay-voice-over.flac")), VOICE_AT),
        *(first_effect(effect(name), frame) for name, frame in EFFECTS_AT.items()))


def _overlays(sheet: SpecSheet, frames: int) -> tuple[Overlay, ...]:
    return (
        Overlay(_mark(), 0, frames, _square(0.86, 0.06, MARK_WIDE, sheet), 0.9),
        Overlay(Title("One fire a year", HEADLINE), 170, 270, ((0.05, 0.76), (0.03, 0.16)),
                entry=Entry.SLIDE, moving=12),
        Overlay(Title("Ines and Tobias\nthe potters of the quay", NAME), 440, 540,
                ((0.06, 0.70), (0.44, 0.56)), entry=Entry.WIPE, exit=Entry.WIPE, moving=12),
        Overlay(Shape(ShapeKind.BAR, TAWNY), 0, frames, ((0.0, 1.0), (0.99, 1.0)),
                entry=Entry.NONE, exit=Entry.NONE),
    )


def _opening(sheet: SpecSheet) -> Card:
    title = Title("Kiln Day", TextStyle("Fraunces SemiBold", 0.2, SAND))
    line = Title("at Marram Quay", TextStyle("Figtree Medium", 0.06, TAWNY))
    return Card(CARD_FRAMES, BlendBackdrop("#3a3026", "#121110"), (
        Overlay(_mark(), 0, CARD_FRAMES, _square(0.5, 0.30, 0.24, sheet), entry=Entry.GROW),
        Overlay(title, 6, CARD_FRAMES, ((0.1, 0.9), (0.44, 0.60)), moving=12),
        Overlay(line, 14, CARD_FRAMES, ((0.1, 0.9), (0.60, 0.68)), moving=12)))


def closing_card(sheet: SpecSheet) -> Card:
    """What every version ends with, on a sheet's canvas."""
    call = Title("Come and open\nthe kiln with us", TextStyle("Fraunces SemiBold", 0.13, SAND))
    when = Title("every autumn, on the quay", TextStyle("Figtree Medium", 0.05, TAWNY))
    return Card(CARD_FRAMES, moving_backdrop("Embers"), (
        Overlay(_mark(), 0, CARD_FRAMES, _square(0.5, 0.28, 0.2, sheet)),
        Overlay(call, 4, CARD_FRAMES, ((0.1, 0.9), (0.40, 0.62)), moving=12),
        Overlay(when, 12, CARD_FRAMES, ((0.1, 0.9), (0.63, 0.71)), moving=12)))


def _mark() -> PictureFile:
    return PictureFile(ours("demo", "marram-quay-mark.svg"), fit=True)


def _square(across: float, down: float, wide: float, sheet: SpecSheet) -> Region:
    """A square of that width round a point, all in shares of the canvas."""
    wide *= min(sheet.canvas) / sheet.canvas[0]
    high = wide * sheet.canvas[0] / sheet.canvas[1]
    return ((across - wide / 2, across + wide / 2), (down - high / 2, down + high / 2))


def is_plain(project: Project, analysis: Analysis) -> bool:
    """Whether nothing was decided about the demo film yet."""
    return project == msgspec.structs.replace(
        first_project(analysis.master.frames), sound=project.sound)
