"""What somebody should know before a batch starts: each a sentence, some of which stop it."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from datetime import date, datetime
from enum import StrEnum
from pathlib import Path

import msgspec

from caracal.core.errors import CaracalError, InputError
from caracal.core.framing.flags import Flag
from caracal.core.layout.model import Layout
from caracal.core.media.master import HDR_TRANSFERS, Master
from caracal.core.plan import file_stem, rate_of
from caracal.core.project.recipe import Recipe
from caracal.core.render.asset_checks import refuse_bad_asset, refuse_bad_assets
from caracal.core.specs.sheet import Beyond, RateChange
from caracal.core.text.block import missing_letters
from caracal.core.text.caption_look import looks_of
from caracal.core.text.fonts import file_of, refuse_unusable
from caracal.core.text.style import Title

MOST_LETTERS = 12  # that are named


class ConcernKind(StrEnum):
    """The kinds of concerns; spec flags among them."""

    MISSING_MASTER = "missing master"
    FOLDER = "folder"
    NO_ROOM = "no room"
    TOO_LONG = "too long"
    TOO_SHORT = "too short"
    RATE = "rate"
    NAME_TAKEN = "name taken"
    FLAGGED = "flagged"
    NO_DETAIL = "no detail"
    COLOUR = "colour"
    SOUND = "sound"
    OLD_SHEET = "old sheet"
    CUT_OUT = "cut-out"
    SHEET_GONE = "sheet gone"
    GOES_ON = "still looked at"
    PICTURE_FILE = "picture file"
    FONT = "font"
    LETTERS = "letters"
    BRAND = "brand"


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
    unsure: Iterable[int] = (), off_brand: Iterable[str] = (),
) -> tuple[Concern, ...]:
    """All concerns of one version; those that stop it first. ``flags`` by shot, accepted left out.
    In shots ``unsure`` it is unsure who is cut out; ``off_brand`` are sentences that say where the
    version departs from its brand.
    """
    seconds = recipe.frames_in(master.frames) / float(master.rate)
    found = [*_length(letter, recipe, seconds), *_rate(letter, recipe, master),
             *_name(letter, recipe, master, folder, replace), *_flagged(letter, flags),
             *_picture(letter, recipe, master), *_sound(letter, recipe, master),
             *_sheet(letter, recipe, today), *_assets(letter, recipe), *_words(letter, recipe),
             *_cut_outs(letter, unsure),
             *(Concern(ConcernKind.BRAND, sentence, False, letter) for sentence in off_brand)]
    return tuple(sorted(found, key=lambda concern: not concern.stops))


def _cut_outs(letter: str, unsure: Iterable[int]) -> list[Concern]:
    return [Concern(
        ConcernKind.CUT_OUT, f"In shot {shot + 1} of {letter} it is unsure who is cut out. Look at "
        "it, or lay that shot out otherwise.", False, letter, shot) for shot in unsure]


def places(master: Master, folder: Path, needed_mb: float) -> tuple[Concern, ...]:
    """What concerns all versions: the master, the folder, and room on its disk."""
    found = []
    if not master.file.is_file():
        found.append(Concern(ConcernKind.MISSING_MASTER, f"{master.file.name} is not where it was. "
                             "Put it back or beside the project, then open the project again.",
                             True))
    there = next((path for path in (folder, *folder.parents) if path.exists()), folder)
    if not there.is_dir() or not os.access(there, os.W_OK | os.X_OK):
        found.append(Concern(ConcernKind.FOLDER, f"{folder} cannot be written to. Choose another "
                             "folder.", True))
    else:
        room = os.statvfs(there)
        free = room.f_bavail * room.f_frsize / 1e6
        if free < needed_mb * 1.1:
            found.append(Concern(ConcernKind.NO_ROOM, f"About {needed_mb:.0f} MB are needed and "
                                 f"the disk of {folder} has {free:.0f} MB left.", True))
    return tuple(found)


def _assets(letter: str, recipe: Recipe) -> list[Concern]:
    """Pictures and clips that cannot be used: each once, with a shot whose layout shows it."""
    found: dict[str, Concern] = {}
    shots: list[tuple[int | None, Layout]] = [(None, recipe.layout)]
    shots += [(shot, choice.layout) for shot, choice in recipe.choices.items()]
    shots += [(None, card.layout) for card in (recipe.opening, recipe.closing) if card is not None]
    for shot, layout in shots:
        try:
            refuse_bad_assets(layout)
        except InputError as problem:
            sentence = problem.sentence()
            found.setdefault(sentence, Concern(
                ConcernKind.PICTURE_FILE, sentence, True, letter, shot))
    for overlay in recipe.overlays:
        try:
            refuse_bad_asset(overlay.content)
        except InputError as problem:
            sentence = problem.sentence()
            found.setdefault(sentence, Concern(ConcernKind.PICTURE_FILE, sentence, True, letter))
    return list(found.values())


def _words(letter: str, recipe: Recipe) -> list[Concern]:
    """Fonts that cannot be used, and letters that no font has."""
    titles = [overlay.content for overlay in recipe.overlays if isinstance(overlay.content, Title)]
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
        found[named] = Concern(ConcernKind.LETTERS, f"No font here has these letters: {named} "
                               "They are left empty. Install a font that has them, or choose "
                               "one.", False, letter)
    return list(found.values())


def _length(letter: str, recipe: Recipe, seconds: float) -> list[Concern]:
    sheet, limits = recipe.sheet, recipe.sheet.duration
    if seconds < limits.least_s:
        return [Concern(ConcernKind.TOO_SHORT, f"{seconds:.1f} s is shorter than {sheet.title} "
                        f"takes, {limits.least_s:g} s. Choose a longer range.", True, letter)]
    if seconds <= limits.most_s:
        return []
    over = f"{seconds:.1f} s is longer than {sheet.title} takes, {limits.most_s:g} s"
    if limits.beyond is Beyond.REFUSE:
        return [Concern(ConcernKind.TOO_LONG, f"{over}. Fit it to the nearest pause, or set a "
                        "shorter range with I and O.", True, letter)]
    then = ("it is cut into parts, in pauses" if limits.beyond is Beyond.PARTS
            else "it is trimmed at the last pause")
    return [Concern(ConcernKind.TOO_LONG, f"{over}: {then}.", False, letter)]


def _rate(letter: str, recipe: Recipe, master: Master) -> list[Concern]:
    sheet = recipe.sheet
    try:
        rate = rate_of(sheet, master.rate)
    except InputError as problem:
        return [Concern(ConcernKind.RATE, problem.sentence(), True, letter)]
    if rate == master.rate:
        return []
    how = "mixed" if sheet.rates.change is RateChange.BLEND else "dropped or doubled"
    return [Concern(ConcernKind.RATE, f"{float(master.rate):.5g} fps become {float(rate):.5g}: "
                    f"pictures are {how}.", False, letter)]


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
    then = "it is replaced" if replace else "the new file is numbered"
    return [Concern(ConcernKind.NAME_TAKEN, f"{path.name} is there already: {then}.", False,
                    letter)]


def _flagged(letter: str, flags: Mapping[int, Iterable[Flag]]) -> list[Concern]:
    return [Concern(ConcernKind.FLAGGED, f"Shot {shot + 1}: {flag.sentence}", False, letter, shot)
            for shot, ones in sorted(flags.items()) for flag in ones]


def _picture(letter: str, recipe: Recipe, master: Master) -> list[Concern]:
    found = []
    if recipe.sheet.canvas[1] > master.height and recipe.sheet.canvas[0] > master.width:
        found.append(Concern(ConcernKind.NO_DETAIL, f"The canvas is larger than the master's "
                             f"{master.width} × {master.height}: more size, no more detail.",
                             False, letter))
    if master.colour.transfer in HDR_TRANSFERS:
        found.append(Concern(ConcernKind.COLOUR, f"{HDR_TRANSFERS[master.colour.transfer]} is "
                             "tone-mapped to BT.709.", False, letter))
    return found


def _sound(letter: str, recipe: Recipe, master: Master) -> list[Concern]:
    if master.sound or any(overlay.heard for overlay in recipe.overlays):
        return []
    then = ("a silent track is made" if recipe.sheet.sound.silent_track
            else "the file has none either")
    return [Concern(ConcernKind.SOUND, f"The master has no sound: {then}.", False, letter)]


def _sheet(letter: str, recipe: Recipe, today: date) -> list[Concern]:
    told = recipe.sheet.reminder(today)
    return [Concern(ConcernKind.OLD_SHEET, told, False, letter)] if told else []


def summary(concerns: Iterable[Concern]) -> str:
    """How many there are, in words."""
    every = list(concerns)
    stopping = sum(concern.stops for concern in every)
    if not every:
        return "Nothing stands in the way."
    return f"{len(every)} to look at" + (f", {stopping} in the way." if stopping else ".")
