"""What somebody should know before a batch starts: each a sentence, some of which stop it."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping
from datetime import date, datetime
from enum import StrEnum
from fractions import Fraction
from pathlib import Path

import msgspec

from caracal.core.base.errors import CaracalError, InputError
from caracal.core.base.translation import mark, tr
from caracal.core.batch.estimate import Estimate
from caracal.core.framing.flags import Flag
from caracal.core.layout.model import Layout
from caracal.core.layout.overlay import title_box
from caracal.core.media.master import HDR_TRANSFERS, Master
from caracal.core.plan.planner import (
    file_stem,
    is_single_picture,
    most_lasting,
    rate_of,
    refuse_cards,
)
from caracal.core.project.recipe import Recipe
from caracal.core.render.assets.checks import is_checked, refuse_bad_asset
from caracal.core.specs.sheet import Beyond, RateChange
from caracal.core.text.block import fitted, missing_letters
from caracal.core.text.caption_look import looks_of
from caracal.core.text.fonts import file_of, refuse_unusable
from caracal.core.text.style import Title

MOST_LETTERS = 12  # that are named
MOST_SHOTS = 12  # that are named
MOST_WORDS = 40  # characters of a title that are named
LEAST_TITLE = 0.024  # of the shorter side: 9 px on a phone 390 px wide (common practice)


class ConcernKind(StrEnum):
    """The kinds of concerns; spec flags among them."""

    MISSING_MASTER = mark("missing master")
    FOLDER = mark("folder")
    NO_ROOM = mark("no room")
    TOO_LONG = mark("too long")
    TOO_SHORT = mark("too short")
    RATE = mark("rate")
    NAME_TAKEN = mark("name taken")
    FLAGGED = mark("issue")
    NO_DETAIL = mark("no detail")
    COLOUR = mark("colour")
    SOUND = mark("sound")
    OLD_SHEET = mark("old sheet")
    CUT_OUT = mark("cut-out")
    SHEET_GONE = mark("sheet gone")
    GOES_ON = mark("still analysed")
    PICTURE_FILE = mark("picture file")
    FONT = mark("font")
    LETTERS = mark("letters")
    SMALL = mark("small words")
    PANES = mark("fewer panes")
    BRAND = mark("brand")


class Concern(msgspec.Struct, frozen=True):
    """One of them. ``stops``: the version cannot be made so; ``shot`` is where to jump to."""

    kind: ConcernKind
    sentence: str
    stops: bool = False
    letter: str = ""
    shot: int | None = None


def concerns_of(
    master: Master, letter: str, recipe: Recipe,
    flags: Mapping[int, Iterable[Flag]], folder: Path, today: date, replace: bool = False,
    tried: Estimate | None = None, off_brand: Iterable[str] = (), check_files: bool = True,
    fewer_panes: Iterable[int] = (),
) -> tuple[Concern, ...]:
    """All concerns of one version; those that stop it first. ``flags`` by shot, accepted left out.
    ``tried`` is what a trial told of it; ``off_brand`` are sentences that say where the
    version departs from its brand; ``fewer_panes`` are the shots in which people are missing for
    the chosen panes. Without ``check_files`` this takes no time: pictures and clips
    that were not checked before are reported as being checked.
    """
    seconds = recipe.frames_in(master.frames) / float(master.rate)
    rate = recipe.sheet.rates.nearest(master.rate)
    found = [*_length(letter, recipe, seconds, rate), *_cards(letter, recipe, master),
             *_rate(letter, recipe, master), *_flagged(letter, flags),
             *_name(letter, recipe, master, folder, replace),
             *_picture(letter, recipe, master), *_sound(letter, recipe, master, tried),
             *_sheet(letter, recipe, today), *_assets(letter, recipe, check_files),
             *concerns_about_words(letter, recipe), *_panes(letter, list(fewer_panes)),
             *_cut_outs(letter, tried.unsure if tried else ()),
             *(Concern(ConcernKind.BRAND, sentence, False, letter) for sentence in off_brand)]
    return tuple(sorted(found, key=lambda concern: not concern.stops))


def _cut_outs(letter: str, unsure: Iterable[int]) -> list[Concern]:
    return [Concern(ConcernKind.CUT_OUT,
                    tr("Shot {shot} of {letter}: check who is cut out, or use another layout.",
                       shot=shot + 1, letter=letter), False, letter,
                    shot) for shot in unsure]


def _panes(letter: str, shots: list[int]) -> list[Concern]:
    if not shots:
        return []
    named = ", ".join(str(shot + 1) for shot in shots[:MOST_SHOTS])
    more = tr(" and others") if len(shots) > MOST_SHOTS else ""
    return [Concern(ConcernKind.PANES,
                    tr("Shots of {letter} with fewer panes than chosen, because people are missing "
                       "or too close together: {named}{more}.", letter=letter, named=named,
                       more=more), False, letter, shots[0])]


def places(master: Master, folder: Path, needed_mb: float) -> tuple[Concern, ...]:
    """What concerns all versions: the master, the folder, and room on its disk."""
    found = []
    if not master.file.is_file():
        found.append(Concern(ConcernKind.MISSING_MASTER,
                             tr("{name} is not where it was. Put it back or beside the project, "
                                "then open the project again.", name=master.file.name), True))
    there = next((path for path in (folder, *folder.parents) if path.exists()), folder)
    if not there.is_dir() or not os.access(there, os.W_OK | os.X_OK):
        found.append(Concern(ConcernKind.FOLDER, tr("{folder} cannot be written to. Choose another "
                                                    "folder.", folder=folder), True))
    else:
        room = os.statvfs(there)
        free = room.f_bavail * room.f_frsize / 1e6
        if free < needed_mb * 1.1:
            found.append(Concern(ConcernKind.NO_ROOM,
                                 tr("About {needed_mb:.0f} MB are needed and the disk of {folder} "
                                    "has {free:.0f} MB left.", needed_mb=needed_mb, folder=folder,
                                    free=free), True))
    return tuple(found)


def contents_of(recipe: Recipe) -> Iterator[tuple[int | None, object]]:
    """What a version shows beside its film's own text, with a shot whose layout shows it."""
    layouts: list[tuple[int | None, Layout]] = [(None, recipe.layout)]
    layouts += [(shot, choice.layout) for shot, choice in recipe.choices.items()]
    layouts += [(None, card.layout) for card in (recipe.opening, recipe.closing)
                if card is not None]
    for shot, layout in layouts:
        for pane in layout.panes:
            yield shot, pane.content
    for overlay in recipe.overlays:
        yield None, overlay.content
    for sound in recipe.sounds:
        if not sound.muted:
            yield None, sound.content


def _assets(letter: str, recipe: Recipe, check_files: bool) -> list[Concern]:
    """Pictures and clips that cannot be used, each once; and that some are not checked yet."""
    found: dict[str, Concern] = {}
    for shot, content in contents_of(recipe):
        if not check_files and not is_checked(content):
            sentence = tr("Still checking its pictures, clips and sounds.")
            found.setdefault(sentence, Concern(ConcernKind.GOES_ON, sentence, True, letter))
            continue
        try:
            refuse_bad_asset(content)
        except CaracalError as problem:
            sentence = problem.sentence()
            found.setdefault(sentence, Concern(
                ConcernKind.PICTURE_FILE, sentence, True, letter, shot))
    return list(found.values())


def concerns_about_words(letter: str, recipe: Recipe) -> list[Concern]:
    """Fonts that cannot be used, letters that no font has, and words that came out too small."""
    laid = [(overlay.region, overlay.content) for overlay in (
        *recipe.overlays, *(overlay for card in (recipe.opening, recipe.closing)
                            if card is not None for overlay in card.overlays))
        if isinstance(overlay.content, Title)]
    titles = [title for _, title in laid]
    texts = [(title.text, title.style) for title in titles]
    if recipe.burns:
        styles = {look.style.font: look.style for look in looks_of(recipe.look)}
        texts += [(cue.text, style) for style in styles.values() for cue in recipe.captions]
    found: dict[str, Concern] = {}
    gone: set[str] = set()
    for font in dict.fromkeys(style.font for _, style in texts):
        try:
            refuse_unusable(file_of(font))
        except InputError as problem:
            sentence = problem.sentence()
            found[sentence] = Concern(ConcernKind.FONT, sentence, True, letter)
            gone.add(font)
    short = [each for text, style in texts if style.font not in gone
             for each in missing_letters(text, style)]
    if short:
        named = " ".join(list(dict.fromkeys(short))[:MOST_LETTERS])
        found[named] = Concern(ConcernKind.LETTERS,
                               tr("No installed font has these letters: {named} They will appear "
                                  "as empty boxes. Install a font that has them, or choose one.",
                                  named=named),
                               False, letter)
    canvas = recipe.sheet.canvas
    for region, title in laid:
        if title.style.font in gone:
            continue
        size = fitted(title, *title_box(region, canvas))[1]
        if size < LEAST_TITLE:
            found[title.text] = Concern(
                ConcernKind.SMALL,
                tr("“{words}” is too small for a phone: its letters are {size:.0f} pixels high on "
                   "a canvas of {width} × {height}. Give it a larger box, or fewer words.",
                   words=" ".join(title.text.split())[:MOST_WORDS], size=size * min(canvas),
                   width=canvas[0], height=canvas[1]), False, letter)
    return list(found.values())


def _length(letter: str, recipe: Recipe, seconds: float, rate: Fraction) -> list[Concern]:
    sheet, limits = recipe.sheet, recipe.sheet.duration
    if seconds < limits.least_s:
        return [Concern(ConcernKind.TOO_SHORT,
                        tr("{seconds:.1f} s is below the {least_s:g} s minimum of {title}. Choose "
                           "a longer range.", seconds=seconds, title=sheet.title,
                           least_s=limits.least_s), True, letter)]
    if is_single_picture(seconds, rate):
        return [Concern(ConcernKind.TOO_SHORT, tr("This would be a single frame. Choose a longer "
                                                  "range."), True, letter)]
    if seconds <= limits.most_s:
        return []
    over = tr("{seconds:.1f} s exceeds the {most_s:g} s limit of {title}", seconds=seconds,
              title=sheet.title, most_s=limits.most_s)
    if limits.beyond is Beyond.REFUSE:
        return [Concern(ConcernKind.TOO_LONG, tr("{over}. Fit it to the nearest pause, or set a "
                                                 "shorter range with I and O.", over=over), True,
                        letter)]
    then = (tr("it is split into parts, in pauses") if limits.beyond is Beyond.PARTS
            else tr("it is trimmed at the last pause"))
    return [Concern(ConcernKind.TOO_LONG, f"{over}: {then}.", False, letter)]


def _cards(letter: str, recipe: Recipe, master: Master) -> list[Concern]:
    rate = recipe.sheet.rates.nearest(master.rate)
    try:
        refuse_cards(recipe, most_lasting(recipe.sheet, rate, rate / master.rate),
                     float(master.rate))
    except InputError as problem:
        return [Concern(ConcernKind.TOO_LONG, problem.sentence(), True, letter)]
    return []


def _rate(letter: str, recipe: Recipe, master: Master) -> list[Concern]:
    sheet = recipe.sheet
    try:
        rate = rate_of(sheet, master.rate)
    except InputError as problem:
        return [Concern(ConcernKind.RATE, problem.sentence(), True, letter)]
    if rate == master.rate:
        return []
    how = tr("mixed") if sheet.rates.change is RateChange.BLEND else tr("dropped or doubled")
    return [Concern(ConcernKind.RATE, tr("{own:.5g} fps become {wanted:.5g}: pictures are {how}.",
                                         own=float(master.rate), wanted=float(rate), how=how),
                    False, letter)]


def _name(
    letter: str, recipe: Recipe, master: Master, folder: Path, replace: bool
) -> list[Concern]:
    sheet = recipe.sheet
    try:
        name = file_stem(master, recipe, "", datetime.now())
    except CaracalError as problem:
        return [Concern(ConcernKind.NAME_TAKEN, problem.sentence(), True, letter)]
    path = folder / f"{name}.{sheet.file.container}"
    if not path.exists():
        return []
    then = tr("it is replaced") if replace else tr("the new file is numbered")
    return [Concern(ConcernKind.NAME_TAKEN,
                    tr("{name} exists already: {then}.", name=path.name, then=then), False,
                    letter)]


def _flagged(letter: str, flags: Mapping[int, Iterable[Flag]]) -> list[Concern]:
    return [Concern(ConcernKind.FLAGGED,
                    tr("Shot {shot}: {sentence}", shot=shot + 1, sentence=flag.sentence), False,
                    letter, shot)
            for shot, ones in sorted(flags.items()) for flag in ones]


def _picture(letter: str, recipe: Recipe, master: Master) -> list[Concern]:
    found = []
    if recipe.sheet.canvas[1] > master.height and recipe.sheet.canvas[0] > master.width:
        found.append(Concern(ConcernKind.NO_DETAIL,
                             tr("The canvas is larger than the master's {width} × {height}: more "
                                "size, no more detail.", width=master.width, height=master.height),
                             False, letter))
    if master.colour.transfer in HDR_TRANSFERS:
        transfer = HDR_TRANSFERS[master.colour.transfer]
        found.append(Concern(ConcernKind.COLOUR, tr("{transfer} is tone-mapped to BT.709.",
                                                    transfer=transfer), False, letter))
    return found


def _sound(
    letter: str, recipe: Recipe, master: Master, tried: Estimate | None
) -> list[Concern]:
    if tried is not None and tried.sound is not None and tried.sound.shortfall:
        return [Concern(ConcernKind.SOUND, tried.sound.shortfall, False, letter)]
    if master.sound or any(overlay.heard for overlay in recipe.overlays) or any(
            not sound.muted for sound in recipe.sounds):
        return []
    then = (tr("a silent track is made") if recipe.sheet.sound.silent_track
            else tr("the file has none either"))
    return [Concern(ConcernKind.SOUND, tr("The master has no sound: {then}.", then=then), False,
                    letter)]


def _sheet(letter: str, recipe: Recipe, today: date) -> list[Concern]:
    told = recipe.sheet.reminder(today)
    return [Concern(ConcernKind.OLD_SHEET, told, False, letter)] if told else []


def summary(concerns: Iterable[Concern]) -> str:
    """How many there are, in words."""
    every = list(concerns)
    stopping = sum(concern.stops for concern in every)
    if not every:
        return tr("Ready to encode")
    if not stopping:
        return tr("{count} issues to review", count=len(every))
    return tr("{count} issues, {stopping} of them blocking", count=len(every), stopping=stopping)
