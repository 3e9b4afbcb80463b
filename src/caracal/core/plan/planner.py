"""From what is wanted to what is made: every file of every version, planned before any encoding."""

from __future__ import annotations

import math
from datetime import datetime
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.detectors.speech import speech_in
from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import InputError, readable
from caracal.core.base.paths import path_of, text_of
from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import Timeline, timeline
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Check, Report, unchecked
from caracal.core.framing.choice import PLAIN, Finish, ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.placing import solved_layout
from caracal.core.layout.model import FILL, Layout
from caracal.core.media.master import Master
from caracal.core.plan.caption_plan import CaptionSetter
from caracal.core.plan.file_names import Named, free_path, name_of
from caracal.core.plan.file_plan import FilePlan
from caracal.core.plan.parts import parts_of, pauses_in, trimmed
from caracal.core.plan.sound_plan import extra_audio
from caracal.core.project.recipe import Recipe
from caracal.core.render.assets.checks import refuse_bad_asset, refuse_bad_assets
from caracal.core.render.dissolves import Dissolve, dissolve, dissolving, outgoing_frames
from caracal.core.render.scene_track import SceneTrack
from caracal.core.render.shown_shots import ShownShot
from caracal.core.sound.finished_sound import SoundPlan, plan_sound
from caracal.core.sound.mix import ExtraAudio
from caracal.core.specs.bits import bits_for
from caracal.core.specs.sheet import Beyond, RateChange, Sound, SpecSheet

KEYS_APART_S = 0.4  # at least, between pictures that stand alone because a shot begins


class Planner:
    """Adds up plans of one film's versions; what several share is worked out once."""

    def __init__(self, analysis: Analysis, report: Report, cancel: CancelToken,
                 moment: datetime | None = None) -> None:
        self._analysis, self._moment = analysis, moment or datetime.now()
        self._report, self._cancel = report, cancel
        self._cuts = tuple(shot.start for shot in analysis.shots)
        self._pauses: dict[tuple[FrameRange, ...], NDArray[np.bool_]] = {}
        self._sounds: dict[tuple[Sound, Timeline, ExtraAudio], SoundPlan] = {}
        # Shots by their number and what they were solved for.
        self.solved: dict[tuple[int, SpecSheet, ShotChoice, Motion], ShownShot] = {}
        self.made: list[FilePlan] = []

    def add(
        self, number: int, recipe: Recipe, folder: Path, replace: bool = False
    ) -> list[FilePlan]:
        """A plan for each file of one version in ``folder``: one, or one a part.

        ``replace``: a file of its name is replaced, not numbered. Raises InputError when the sound
        cannot be read, the rate is refused or the name pattern is none; Cancelled.
        """
        analysis, sheet, made = self._analysis, recipe.sheet, []
        rate = analysis.master.rate
        whole = timeline(recipe.ranges_in(analysis.master.frames), rate, rate_of(sheet, rate),
                         sheet.rates.change is RateChange.BLEND)
        shots = solved_shots(analysis, recipe, self.solved, self._cancel.check)
        scenes = scene_track(analysis, recipe, shots)
        captions = CaptionSetter(analysis, recipe, shots, self._cancel.check)
        pieces = self._with_cards(recipe, self._pieces(recipe, whole))
        beside = extra_audio(analysis.master, whole.ranges, recipe.overlays, recipe.sounds,
                             self._report, self._cancel, clean=recipe.clean)
        has_sound = bool(analysis.master.sound or beside.sounds or sheet.sound.silent_track)
        for i, piece in enumerate(pieces):
            part = f"part {i + 1} of {len(pieces)}" if len(pieces) > 1 else ""
            scenes_here = scenes.select(piece.master_frames()).with_cards(*(
                (card.layout, length) if card is not None and length else None
                for card, length in ((recipe.opening, piece.opening),
                                     (recipe.closing, piece.closing))))
            source_indices, blend_weights = piece.sources(self._cuts)
            plan = FilePlan(
                analysis.master, sheet, number,
                text_of(self._file(recipe, part, folder, replace)), replace,
                piece, scenes_here, source_indices.tobytes(), blend_weights.tobytes(),
                self._sound(sheet.sound, piece, beside),
                idr_frames(piece.begins(self._cuts), source_indices, rate_of(sheet, rate)),
                captions=captions.burnt(piece), sidecar=captions.sidecar(piece),
                captions_file=recipe.captions_file, extra_audio=beside,
                bits=bits_for(sheet, rate_of(sheet, rate), piece.seconds, has_sound))
            made.append(plan)
            self.made.append(plan)
        return made

    def _pieces(self, recipe: Recipe, whole: Timeline) -> list[Timeline]:
        sheet = recipe.sheet
        limit = int(sheet.duration.most_s * self._analysis.master.rate)
        longest = most_lasting(sheet, Fraction(whole.rate), whole.ratio)
        opening, closing = (0 if card is None else card.frames
                            for card in (recipe.opening, recipe.closing))
        refuse_cards(recipe, longest, float(self._analysis.master.rate))
        most = longest - recipe.card_frames
        if whole.duration_frames <= most:
            return [whole]
        if whole.duration_frames <= limit - recipe.card_frames:  # but for the file's whole frames
            times, most = _times(whole, most)
            return [whole.part(0, times[most])]
        if sheet.duration.beyond is Beyond.REFUSE:
            return [whole]
        parted = sheet.duration.beyond is Beyond.PARTS
        times, most = _times(whole, longest if parted else most)
        pauses = self._pauses_of(whole.ranges)[times[:-1]]
        if not parted:
            return [whole.part(0, times[trimmed(len(pauses), most, pauses)])]
        parts = parts_of(FrameRange(0, len(pauses)), most, pauses, opening, closing)
        return [whole.part(times[part.start], times[part.end_exclusive]) for part in parts]

    def _with_cards(self, recipe: Recipe, pieces: list[Timeline]) -> list[Timeline]:
        """``pieces`` of a version, the first with its opening card, the last with the closing one.
        """
        for at, name, card in ((0, "opening", recipe.opening), (-1, "closing", recipe.closing)):
            if card is not None:
                pieces[at] = msgspec.structs.replace(pieces[at], **{name: card.frames})
        return pieces

    def _pauses_of(self, ranges: tuple[FrameRange, ...]) -> NDArray[np.bool_]:
        if ranges not in self._pauses:
            self._pauses[ranges] = _pauses(self._analysis, ranges, self._report, self._cancel)
        return self._pauses[ranges]

    def _sound(self, sound: Sound, piece: Timeline, beside: ExtraAudio) -> SoundPlan | None:
        """What is done to the sound; sheets that want the same share the measuring."""
        master = self._analysis.master
        if not master.sound and not beside.sounds and not sound.silent_track:
            return None
        key = (sound, msgspec.structs.replace(piece, rate=piece.master_rate, blend=False), beside)
        if key not in self._sounds:
            self._sounds[key] = plan_sound(
                master, sound, piece, self._report, self._cancel, beside)
        return self._sounds[key]

    def _file(self, recipe: Recipe, part: str, folder: Path, replace: bool) -> Path:
        stem = file_stem(self._analysis.master, recipe, part, self._moment)
        suffix = recipe.sheet.file.container
        path = folder / f"{stem}.{suffix}"
        taken = {path_of(plan.file) for plan in self.made}
        return path if replace and path not in taken else free_path(
            folder, stem, suffix, taken)


def idr_frames(
    begins: NDArray[np.bool_], source_indices: NDArray[np.int64], rate: Fraction
) -> tuple[int, ...]:
    """The frames of a file, each showing one of ``source_indices``, with which shots begin.

    ``begins`` says of each place whether it does not continue the one before. Where shots are very
    short not every one gets a picture that stands alone, which would cost the others their detail.
    """
    shots = np.cumsum(begins)[source_indices]
    found: list[int] = []
    for at in np.flatnonzero(np.diff(shots, prepend=-1)).tolist():
        if not found or at - found[-1] >= KEYS_APART_S * rate:
            found.append(at)
    return tuple(found)


def solved_shots(
    analysis: Analysis, recipe: Recipe,
    known: dict[tuple[int, SpecSheet, ShotChoice, Motion], ShownShot] | None = None,
    check: Check = unchecked,
) -> list[ShownShot]:
    """The shots of which a version shows anything, each with its layout and paths.

    ``known`` are shots of this film that were solved before, for other versions of a sheet; those
    that were not are added. ``check`` is called for each shot, and may raise to stop.
    """
    ranges, made = recipe.ranges_in(analysis.master.frames), []
    known = {} if known is None else known
    for i in analysis.shots_in(ranges):
        check()
        choice = recipe.choice(i)
        refuse_bad_assets(choice.layout)
        key = i, recipe.sheet, choice, recipe.motion
        if key not in known:
            known[key] = ShownShot(i, *solved_layout(analysis, i, recipe.sheet, choice,
                                                     recipe.motion))
        made.append(known[key])
    return made


def scene_track(
    analysis: Analysis, recipe: Recipe, shots: list[ShownShot] | None = None
) -> SceneTrack:
    """The scene of every frame of the film that a version shows, without its captions.

    Windows of shots of which it shows nothing are not a number. ``shots`` are the solved ones, if
    they were solved before.
    """
    frames = analysis.master.frames
    solved = solved_shots(analysis, recipe) if shots is None else shots
    finishes, layouts = [PLAIN] * frames, [FILL] * frames
    windows = np.full((frames, max((len(each.paths) for each in solved), default=1), 4), np.nan)
    for each in solved:
        shot = analysis.shots[each.number]
        finishes[shot.start : shot.end] = [each.paths[0].finish] * shot.frames
        layouts[shot.start : shot.end] = [each.layout] * shot.frames
        for pane, path in enumerate(each.paths):
            windows[shot.start : shot.end, pane] = path.windows
    for overlay in recipe.overlays:
        refuse_bad_asset(overlay.content)
    for card in (recipe.opening, recipe.closing):
        if card is not None:
            refuse_bad_assets(card.layout)
    moving = any(card is not None and card.layout.moving
                 for card in (recipe.opening, recipe.closing))
    track = SceneTrack.of(recipe.sheet.canvas, windows, finishes, layouts, analysis.active,
                          recipe.sheet if recipe.review else None)
    return track.with_overlays(recipe.overlays, float(analysis.master.rate), moving,
                       _dissolves(analysis, recipe, windows, finishes, layouts),
                       recipe.redactions)


def _dissolves(
    analysis: Analysis, recipe: Recipe, windows: NDArray[np.float64], finishes: list[Finish],
    layouts: list[Layout],
) -> tuple[Dissolve, ...]:
    made = []
    for before, span in dissolving(recipe.ranges):
        last = before.end_exclusive - 1
        frames = outgoing_frames(before, span, analysis.shots[analysis.shot_at(last)].end)
        made.append(dissolve(text_of(analysis.master.file), span.start, frames, windows,
                             finishes[last], layouts[last]))
    return tuple(made)


def file_stem(master: Master, recipe: Recipe, part: str, moment: datetime) -> str:
    """What a version's file, or one part of it, is called; without suffix and number.

    Raises InputError when the sheet's pattern is none.
    """
    stem = name_of(recipe.sheet.file.names,
                   Named(readable(master.file.stem), recipe.label, recipe.sheet, part, moment))
    return f"{stem} review copy" if recipe.review else stem


def _pauses(
    analysis: Analysis, ranges: tuple[FrameRange, ...], report: Report, cancel: CancelToken
) -> NDArray[np.bool_]:
    """Before which of the joined frames a cut falls into a pause (joined,)."""
    return np.concatenate([
        pauses_in(analysis, span, speech_in(analysis.master, span, report, cancel))
        for span in ranges])


def fitted(
    analysis: Analysis, ranges: tuple[FrameRange, ...], most_s: float, report: Report,
    cancel: CancelToken,
) -> tuple[FrameRange, ...]:
    """``ranges`` shortened to ``most_s`` seconds, at the last pause near it.

    Raises InputError when the sound cannot be read, Cancelled.
    """
    line = timeline(ranges, analysis.master.rate)
    most = int(most_s * analysis.master.rate)
    if line.duration_frames <= most:
        return line.ranges
    times, most = _times(line, most)
    pauses = _pauses(analysis, line.ranges, report, cancel)[times[:-1]]
    return line.part(0, times[trimmed(len(pauses), most, pauses)]).ranges


def _times(line: Timeline, most: int) -> tuple[list[int], int]:
    """The place that is shown at each time of ``line``, and its end; and how many times so many
    frames are at the most, whatever is lost by cutting at a place.
    """
    at_own_rate = msgspec.structs.replace(line, rate=line.master_rate, blend=False)
    percents = {span.percent for span in line.ranges}
    spare = 0 if percents == {100} else math.ceil(100 / min(percents))
    return [*at_own_rate.sources()[0].tolist(), line.joined], max(1, most - spare)


def most_lasting(sheet: SpecSheet, rate: Fraction, ratio: Fraction) -> int:
    """How many frames of the master a file at ``rate`` may last by ``sheet``, if it has ``ratio``
    frames for each: its own frames are whole ones, and none may lie beyond the limit."""
    own = int(sheet.duration.most_s * rate + Fraction(1, 1000))
    most = int((own + Fraction(1, 2)) / ratio)
    return most - (round(most * ratio) > own)


def refuse_cards(recipe: Recipe, most: int, rate: float) -> None:
    """Raise InputError when cards leave no room for the film in a file of ``most`` frames.

    A file of several parts has one card at the most.
    """
    cards = [card.frames for card in (recipe.opening, recipe.closing) if card is not None]
    parted = recipe.sheet.duration.beyond is Beyond.PARTS
    taken = max(cards, default=0) if parted else sum(cards)
    if taken >= most:
        raise InputError(tr("The cards last {cards:.1f} s and leave no room for the film: {name} "
                            "allows {most_s:g} s.", cards=taken / rate,
                            name=recipe.sheet.name, most_s=recipe.sheet.duration.most_s),
                         remedy=tr("Shorten the cards, or delete one."))


def rate_of(sheet: SpecSheet, rate: Fraction) -> Fraction:
    """The rate a file by ``sheet`` gets from a film of ``rate``. Raises InputError when refused."""
    sheet.refuse_rate(rate)
    return sheet.rates.nearest(rate)


def refuse(sheet: SpecSheet, seconds: float, master: Master) -> None:
    """Raise InputError when the sheet does not take the length or the rate, and when a file of
    ``seconds`` would be a single picture.
    """
    sheet.refuse_duration(seconds, master.file.name)
    rate = rate_of(sheet, master.rate)
    if not sheet.rates.take(rate):
        raise InputError(tr("{rate:.3f} frames a second cannot be converted to any rate that "
                            "{name} accepts.", name=sheet.name, rate=float(master.rate)),
                         master.file,
                         tr("Correct the frame rates of the spec sheet."))
    if is_single_picture(seconds, rate):
        raise InputError(tr("This version would be a single frame."), master.file,
                         tr("Choose a longer range."))


def is_single_picture(seconds: float, rate: Fraction) -> bool:
    """Whether a file of ``seconds`` at ``rate`` has one picture: that is no film."""
    return seconds * rate < 1.5

