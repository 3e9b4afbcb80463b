"""What each command does."""

from __future__ import annotations

import argparse
import sys
from typing import TypeVar

from caracal.cli.answers import files_answer, proved
from caracal.cli.asked import analysed, opened, recipes_asked
from caracal.cli.given import STREAM
from caracal.cli.planning import plan
from caracal.cli.telling import print_json, stoppable
from caracal.core.analysis.film_pass.explain import explain_cuts
from caracal.core.analysis.model import Analysis, Track
from caracal.core.base.errors import InputError, on_one_line
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.base.logs import forget_log
from caracal.core.base.time import timecode
from caracal.core.base.translation import counted, tr
from caracal.core.batch.concerns import concerns_about_words
from caracal.core.convert import convert
from caracal.core.encoding.proof import Proof
from caracal.core.exchange.caption_files import captions_text, write_captions
from caracal.core.framing.path import film_path, windows_of
from caracal.core.media.master import with_sound
from caracal.core.media.probe import probe
from caracal.core.plan.planner import refuse
from caracal.core.processes.children import split_off
from caracal.core.project.shots import decided
from caracal.core.speech.recognition import RecognitionOrder, recognised

T = TypeVar("T")


def analyse_film(asked: argparse.Namespace) -> int:
    """Find shots, people and things, or tell how cuts were decided."""
    if asked.explain is not None:
        return _explain(asked)
    analysis = analysed(*opened(asked.movie))
    if asked.json:
        print_json(_analysis_data(analysis))
        return 0
    rate = analysis.master.rate
    for i, shot in enumerate(analysis.shots):
        kinds = ", ".join(f"{track.kind}{_number(track)}"
                          for track in analysis.tracks_in(i)) or tr("nobody")
        print(f"{i + 1:4}  {timecode(shot.start, rate)}  {timecode(shot.end, rate)}  "
              f"{shot.transition_in:8}  {kinds}")
    return 0


def _explain(asked: argparse.Namespace) -> int:
    """What the cut finder measured and decided round a frame."""
    film, _ = opened(asked.movie)
    master = probe(film.resolve())
    found = stoppable(
        lambda token, report: explain_cuts(film, master, asked.explain, report, token))
    if asked.json:
        print_json([{"frame": each.frame, "what": each.what, "sentence": each.sentence}
                    for each in found])
        return 0
    for each in found:
        print(f"{each.frame:8}  {timecode(each.frame, master.rate)}  {each.what:10}  "
              f"{each.sentence}")
    return 0


def _number(track: Track) -> str:
    """The number that somebody has in the whole film, which --lead takes; nothing if unknown."""
    return "" if track.person is None else f" #{track.person + 1}"


def _analysis_data(analysis: Analysis) -> dict[str, object]:
    return {
        "version": analysis.version, "film": analysis.master.path,
        "frame_rate": analysis.master.frame_rate, "frames": analysis.master.frames,
        "width": analysis.master.width, "height": analysis.master.height,
        "active": analysis.active,
        "shots": [
            {"start": shot.start, "end": shot.end, "transition_in": shot.transition_in,
             "transition_span": shot.transition_span}
            for shot in analysis.shots
        ],
        "tracks": [
            {"id": track.id, "kind": track.kind, "shot": track.shot, "subject": track.subject,
             "person": None if track.person is None else track.person + 1,
             "boxes": [[track.first_frame + i, *box] for i, box in enumerate(track.boxes)]}
            for track in analysis.tracks
        ],
    }


def path_of(asked: argparse.Namespace) -> int:
    """The window of every frame for a shape."""
    try:
        shape = Shape.parse(asked.shape)
    except ValueError as problem:
        raise InputError(str(problem), remedy=tr("Write it as 9:16 or 4:5.")) from problem
    frame = FramingSpec(shape)
    paths = film_path(analysed(*opened(asked.movie)), frame)
    if asked.json:
        windows = windows_of(paths)
        print_json([[i, *(float(v) for v in row)] for i, row in enumerate(windows)])
        return 0
    for i, path in enumerate(paths):
        x, y, w, h = path.windows[0]
        moves = (
            tr("still") if path.still
            else tr("to {x:.1f}, {y:.1f}", x=path.windows[-1][0], y=path.windows[-1][1])
        )
        print(tr("{i:4}  {manner:8}  {w:.1f}x{h:.1f} at {x:.1f}, {y:.1f}  {moves}", i=i + 1,
                 manner=tr(path.manner), w=w, h=h, x=x, y=y, moves=moves))
    return 0


def convert_film(asked: argparse.Namespace) -> int:
    """Make versions, encoded and proved; with --dry-run only tell what they would be."""
    if not asked.dry_run:
        split_off(forget_log)
    film, project = opened(asked.movie)
    master = probe(film)
    recipes = recipes_asked(asked, master, project)
    if asked.dry_run:
        return plan(asked, film, decided(analysed(film, None), recipes[0]), recipes, project)
    concerns = [each for recipe in recipes for each in concerns_about_words("", recipe)]
    for sentence in dict.fromkeys(each.sentence for each in concerns if not each.stops):
        print(on_one_line(sentence), file=sys.stderr)
    for recipe in recipes:
        refuse(recipe.sheet, recipe.frames_in(master.frames) / float(master.rate), master)
    made = stoppable(lambda token, report: convert(
        film, recipes, asked.out, replace=asked.replace, report=report, cancel=token))
    if asked.json:
        print_json(files_answer(proved(str(film), file.proof) for file in made))
    else:
        for file in made:
            print(f"{tr('proved') if file.proof.right else tr('NOT PROVED')}  {file.file}")
            _print_wrong(file.proof)
    return 0 if all(file.proof.right for file in made) else 1


def write_what_is_said(asked: argparse.Namespace) -> int:
    """Recognise what is said in a film, and write it as captions."""
    told = asked.out == STREAM
    if told and asked.json:
        raise InputError(tr("Captions and JSON cannot both be written to standard output."),
                         remedy=tr("Give a file with --out, or remove --json."))
    captions_text((), asked.out.suffix or (".srt" if told else ""))
    if not told and asked.out.exists() and not asked.force:
        raise InputError(tr("This file is there already."), asked.out,
                         tr("Give another name, or use --force."))
    split_off(forget_log)
    film, _ = opened(asked.movie)
    master = with_sound(probe(film), asked.sound - 1)
    names = tuple(name for part in asked.names.split(",") if (name := part.strip()))
    found = stoppable(lambda token, report: recognised(
        RecognitionOrder(master, asked.language, names), report, token))
    if told:
        print(captions_text(found.cues, ".srt"), end="")
        return 0
    write_captions(asked.out, found.cues, [film])
    doubtful = sum(cue.doubtful for cue in found.cues)
    if asked.json:
        print_json({"file": str(asked.out), "language": found.language,
                    "captions": len(found.cues), "doubtful": doubtful})
    else:
        print(tr("{captions} in {out} ({language}), {doubtful} with doubtful words",
                 captions=counted(len(found.cues), "{count} caption", "{count} captions"),
                 out=asked.out, language=found.language, doubtful=doubtful))
    return 0


def _print_wrong(proof: Proof) -> None:
    for line in proof.lines:
        if not line.right:
            print(tr("    {what}: {found}, asked {asked}", what=tr(line.what), found=line.found,
                     asked=line.asked))
