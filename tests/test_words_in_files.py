"""Titles, cards and captions in finished files: at their exact frames, where they may lie."""

import shutil

import av
import msgspec
import numpy as np
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.convert import convert
from caracal.core.exchange.caption_files import read_captions
from caracal.core.framing.choice import ShotChoice
from caracal.core.layout.card import Card, card_error
from caracal.core.layout.entrance import Entry
from caracal.core.layout.model import BlendBackdrop, PlainBackdrop, SoftBackdrop
from caracal.core.layout.overlay import Overlay, Shape, overlay_error
from caracal.core.plan import planner as plan
from caracal.core.plan.file_plan import FilePlan
from caracal.core.plan.planner import Planner, solved_shots
from caracal.core.project.model import Fades, Project, Version
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.render.captions.placement import caption_area, caption_box
from caracal.core.render.layers import PictureLayer, layers_of
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import CaptionFormat, Captions
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.caption_look import CaptionLook, CaptionPlace
from caracal.core.text.caption_track import stand_in
from caracal.core.text.cues import Cue
from caracal.core.text.style import TextBox, TextStyle, Title
from conftest import DEMO, write_film

SMALL = (180, 320)
GREY = 60  # luma of the films here, without their block


def _sheet(name="vertical-short", **values):
    sheet = find_sheet(name)
    fields = {"canvas": SMALL, "duration.least_s": 0.1, **values}
    for field, value in fields.items():
        sheet = with_value(sheet, field, value)
    return sheet


def _lumas(path):
    with av.open(str(path)) as container:
        return [frame.to_ndarray(format="gray8") for frame in container.decode(video=0)]


def _plain(number, y):
    return y


@pytest.fixture(scope="module")
def films(tmp_path_factory):
    """Grey films of several rates, with a noise that tells where it is."""
    folder = tmp_path_factory.mktemp("grey")
    return {rate: write_film(folder / f"grey {rate.replace('/', '-')}.mp4", rate=rate, frames=100,
                             picture=_plain) for rate in ("25/1", "24/1", "30000/1001")}


@pytest.mark.parametrize(("rate", "only"), [
    ("25/1", 25), ("30000/1001", 30), ("25/1", 30), ("24/1", 60)])
def test_captions_are_there_at_exactly_their_frames(films, tmp_path, rate, only):
    """1.0 to 2.0 s: at 25 fps frames 25 to 49 (TRADE.md), whatever the file's rate, never mixed."""
    sheet = _sheet(**{"rates.only": (float(only),), "rates.change": "blend"})
    look = CaptionLook(TextStyle(size=0.12, box=TextBox("#ffffff", 1.0)))
    (made,) = convert(films[rate], [Recipe(sheet, captions=(Cue(1.0, 2.0, "NOW"),), look=look,
                                           ranges=(FrameRange(0, 65),))], tmp_path)
    assert made.proof.right, made.proof.lines
    pictures = _lumas(made.file)
    bright = [(picture > 200).mean() for picture in pictures]
    seen = [i for i, share in enumerate(bright) if share > 0.01]
    with av.open(made.file) as container:
        file_rate = container.streams.video[0].average_rate
    first, end = -(-file_rate.numerator // file_rate.denominator), -(
        -2 * file_rate.numerator // file_rate.denominator)
    assert seen == list(range(first, end)), (seen, file_rate)
    whole = bright[seen[5]]
    assert all(share == pytest.approx(whole, rel=0.06) for share in bright[seen[0] : seen[-1] + 1])


def test_cards_come_before_and_after_and_count(films, tmp_path):
    film, sheet = films["25/1"], _sheet()
    title = Overlay(Title("Hi", TextStyle(size=0.3)), 0, 30, ((0.1, 0.9), (0.3, 0.7)),
                    entry=Entry.NONE, exit=Entry.NONE)
    version = Version("A", sheet.name, ranges=(FrameRange(10, 40), FrameRange(60, 90)),
                      opening=Card(30, PlainBackdrop("#000000"), (title,)),
                      closing=Card(20, PlainBackdrop("#ffffff")))
    project = Project((version,), FrameRange(0, 100))
    plain = msgspec.structs.replace(version, opening=None, closing=None)
    recipes = [recipe_of(project, "A", sheet),
               recipe_of(msgspec.structs.replace(project, versions=(plain,)), "A", sheet)]
    carded, without = convert(film, recipes, tmp_path)
    assert carded.proof.right and without.proof.right, carded.proof.lines
    assert [line.found for line in carded.proof.lines if line.what == "frames"] == ["110"]
    pictures = _lumas(carded.file)
    assert len(pictures) == 110
    levels = [float(np.median(picture)) for picture in pictures]
    assert max(levels[:30]) < 20 and min(levels[90:]) > 230  # BT.709: 16 and 235
    assert max(levels[30:90]) < GREY + 20 and min(levels[30:90]) > 20
    assert (pictures[0] > 200).mean() > 0.01 and (pictures[29] > 200).mean() > 0.01
    assert not (pictures[30] > 200).any()
    sounds = [_sound(path) for path in (carded.file, without.file)]
    start, shown = round(30 / 25 * 48000), len(sounds[1]) - 4800
    assert np.abs(sounds[0][: start - 4800]).max() < 0.003
    loud = sounds[0][start : start + shown], sounds[1][:shown]
    assert np.corrcoef(*loud)[0, 1] > 0.97  # the same sound, so much later
    assert np.abs(sounds[0][round(91 / 25 * 48000) :]).max() < 0.003


def _sound(path):
    with av.open(str(path)) as container:
        resampler = av.AudioResampler("flt", "mono", 48000)
        return np.concatenate([part.to_ndarray().ravel() for frame in container.decode(audio=0)
                               for part in resampler.resample(frame)])


def test_parts_of_a_version_begin_and_end_with_its_cards(films, tmp_path):
    sheet = _sheet("vertical-story", **{"duration.most_s": 2.0})
    version = Version("A", sheet.name, opening=Card(10), closing=Card(10))
    made = convert(films["25/1"], [recipe_of(Project((version,), FrameRange(0, 100)), "A", sheet)],
                   tmp_path)
    counts = [len(_lumas(each.file)) for each in made]
    assert sum(counts) == 120 and max(counts) <= 50 and all(each.proof.right for each in made)


def test_fades_and_overlays_keep_to_the_film_and_the_cards():
    over = Overlay(Shape(), 5, 60)
    title = Overlay(Title("Hi"), 3, 500)
    version = Version("A", "x", ranges=(FrameRange(20, 50),), overlays=(over,), fades=Fades(8, 6),
                      opening=Card(12, overlays=(title,)), closing=Card(9))
    found = Project((version,), FrameRange(0, 100)).overlays_of("A")
    assert [(each.start, each.end_exclusive) for each in found] == [
        (20, 50), (11, 20), (8, 16), (53, 59)]
    assert (found[0].entry, found[0].exit) == (Entry.NONE, Entry.NONE)  # cut, not come and gone
    on_film = Project((version,), FrameRange(0, 100)).overlays_on_film("A")
    assert [(each.start, each.end_exclusive) for each in on_film] == [(5, 60)]


def test_a_piece_of_a_file_has_its_part_of_cards_and_captions(films, tmp_path):
    """As a cluster makes it: frames of the file, wherever cards and captions lie."""
    from caracal.core.analysis.film_pass.analyse import analyse

    analysis, sheet = analyse(films["25/1"]), _sheet()
    version = Version("A", sheet.name, opening=Card(30), closing=Card(30))
    project = Project((version,), FrameRange(0, 100), captions=(Cue(0.0, 4.0, "through"),))
    planner = Planner(analysis, no_progress, CancelToken())
    (plan,) = planner.add(0, recipe_of(project, "A", sheet), tmp_path)
    assert plan.timeline.frames == 160
    assert [(c.start, c.end_exclusive) for c in plan.captions.captions] == [(30, 130)]
    for start, end in ((0, 20), (20, 60), (60, 120), (120, 140), (140, 160), (0, 160)):
        piece: FilePlan = plan.piece(start, end)
        indices, _ = piece.sources()
        layouts = [piece.scenes.scene(int(at)).layers[0] for at in indices]
        whole = [plan.scenes.scene(at).layers[0] for at in range(start, end)]
        assert layouts == whole, (start, end)
        shown = [piece.captions.at(k) is not None for k in range(end - start)]
        assert shown == [30 <= k < 130 for k in range(start, end)]


def test_captions_come_beside_the_file_and_never_over_those_of_a_person(films, tmp_path):
    sheet = msgspec.structs.replace(_sheet(**{"file.names": "{film}"}), captions=Captions.BOTH)
    film = tmp_path / "out" / "film.mp4"
    film.parent.mkdir()
    shutil.copy(films["25/1"], tmp_path / "film.mp4")
    own = film.with_suffix(".srt")
    own.write_text("1\n00:00:00,500 --> 00:00:02,000\nmine\n")
    read = read_captions(own)
    recipe = Recipe(sheet, captions=read.cues, captions_file=str(own),
                    ranges=(FrameRange(25, 55),), opening=Card(25))
    (made,) = convert(tmp_path / "film.mp4", [recipe], film.parent, replace=True)
    assert made.proof.right and own.read_text().endswith("mine\n")
    beside = read_captions(film.parent / "film 2.srt")
    assert [(cue.start_s, cue.end_s) for cue in beside.cues] == [(1.0, 2.0)]
    (film.parent / "film 2.srt").write_text("somebody's")
    (again,) = convert(tmp_path / "film.mp4", [recipe], film.parent)
    assert again.proof.right and again.file.endswith("film 2.mp4")
    assert (film.parent / "film 2.srt").read_text() == "somebody's"
    assert len(read_captions(film.parent / "film 2 2.srt").cues) == 1
    (film.parent / "film 3.srt").mkdir()  # a folder of that name is in nobody's way
    (third,) = convert(tmp_path / "film.mp4", [recipe], film.parent)
    assert third.proof.right and (film.parent / "film 3 2.srt").is_file()
    for kind, begins in ((CaptionFormat.VTT, "WEBVTT"), (CaptionFormat.ASS, "[Script Info]")):
        other = msgspec.structs.replace(recipe, sheet=msgspec.structs.replace(
            sheet, captions_as=kind))
        (fourth,) = convert(tmp_path / "film.mp4", [other], tmp_path / kind.value)
        text = (tmp_path / kind.value / f"film.{kind.value}").read_text()
        assert fourth.proof.right and text.startswith(begins) and "mine" in text
        times = {"vtt": "00:00:01.000 --> 00:00:02.000", "ass": "0:00:01.00,0:00:02.00"}
        assert times[kind] in text
        assert not list((tmp_path / kind.value).glob("*.srt"))
    only = msgspec.structs.replace(recipe, sheet=msgspec.structs.replace(
        sheet, captions=Captions.SIDECAR))
    assert only.sidecar and not only.burns and recipe.burns
    assert not msgspec.structs.replace(recipe, burnt=False).burns


def test_captions_of_the_demo_lie_in_the_clear_area_and_on_no_face(demo):
    """Counted: every fifth frame that has a caption, in three shapes."""
    cues = read_captions(DEMO.with_suffix(".srt")).cues
    looked = on_face = 0
    for name in ("vertical-short", "square-feed", "portrait-feed"):
        recipe = Recipe(find_sheet(name), captions=cues)
        planner = Planner(demo, no_progress, CancelToken())
        made = planner.add(0, recipe, DEMO.parent)[0]
        canvas, area = recipe.sheet.canvas, caption_area(recipe.sheet)
        shots = {shot.number: shot for shot in solved_shots(demo, recipe, planner.solved)}
        for frame in range(0, demo.master.frames, 5):
            caption = made.captions.at(frame)
            if caption is None:
                continue
            looked += 1
            box = caption_box(made.captions, caption, canvas)
            for (low, high), at, long, side in zip(area, box[:2], box[2:], canvas, strict=True):
                assert low * side - 1 <= at and at + long <= high * side + 1
            shot = shots[demo.shot_at(frame)]
            (layer,) = (layer for layer in layers_of(
                shot.layout, canvas, [path.window(frame) for path in shot.paths], demo.active,
                shot.paths[0].finish) if isinstance(layer, PictureLayer))
            wx, wy, ww, wh = layer.window
            for face in demo.tracks_in(shot.number):
                found = face.box_at(frame)
                if face.kind == "face" and found is not None:
                    x, y = (found[0] - wx) / ww * canvas[0], (found[1] - wy) / wh * canvas[1]
                    w, h = found[2] / ww * canvas[0], found[3] / wh * canvas[1]
                    across = min(x + w, box[0] + box[2]) - max(x, box[0])
                    down = min(y + h, box[1] + box[3]) - max(y, box[1])
                    on_face += max(0, across) * max(0, down) > 0.1 * w * h
    assert looked > 200 and on_face == 0, (looked, on_face)


def test_versions_that_differ_in_words_alone_are_framed_once(demo, monkeypatch):
    """Two languages of one sheet; what a person decided about a shot is framed anew."""
    asked, frame = [], plan.solved_layout
    monkeypatch.setattr(plan, "solved_layout",
                        lambda *given: asked.append(given[1]) or frame(*given))
    planner, sheet = Planner(demo, no_progress, CancelToken()), find_sheet("square-feed")
    for number, (words, choices) in enumerate((
            ("Kiln day", {}), ("Ofentag", {}), ("Kiln day", {0: ShotChoice(zoom=1.5)}))):
        planner.add(number, Recipe(sheet, choices, ranges=(FrameRange(0, 60),),
                                   captions=(Cue(0, 2, words),)), DEMO.parent)
    assert asked == [0, 0]
    first, second, near = (made.scenes.scene(30).layers[0].window for made in planner.made)
    assert first == second and near[2] == pytest.approx(first[2] / 1.5)


@pytest.mark.parametrize("preferred", list(CaptionPlace))
def test_captions_leave_a_place_in_which_a_face_is(demo, preferred):
    cues = (Cue(0, demo.master.frames / 25, "all the time"),)
    recipe = Recipe(find_sheet("vertical-short"), captions=cues,
                    look=CaptionLook(place=preferred))
    planner = Planner(demo, no_progress, CancelToken())
    track = planner.add(0, recipe, DEMO.parent)[0].captions
    stands = {demo.shot_at(caption.start): caption.stand for caption in track.captions}
    wanted = stand_in(preferred, track.clear)
    assert wanted in stands.values()  # where nobody is they stay
    if preferred is CaptionPlace.MIDDLE:
        assert set(stands.values()) != {wanted}  # faces are there
    fixed = msgspec.structs.replace(recipe, look=CaptionLook(place=preferred, avoid=False))
    found = planner.add(1, fixed, DEMO.parent)[0].captions
    if preferred is not CaptionPlace.BESIDE:
        assert {caption.stand for caption in found.captions} == {wanted}


@pytest.mark.parametrize("card", [
    Card(0), Card(-5), Card(10, PlainBackdrop("blue")), Card(10**7),
    Card(10, overlays=(Overlay(Title(""), 0, 5),)), Card(10, SoftBackdrop(blur=9)),
    Card(10, BlendBackdrop(), tuple([Overlay(Shape(), 0, 5)] * 40))])
def test_cards_that_cannot_be_are_told(card):
    assert card_error(card)


@pytest.mark.parametrize("title", [
    Title(" \n"), Title("x" * 5000), Title("a", most_lines=0), Title("a", TextStyle(size=7))])
def test_titles_that_cannot_be_are_told(title):
    assert overlay_error(Overlay(title, 0, 10))
    assert not overlay_error(Overlay(Title("Kiln day"), 0, 10))


def test_cards_that_leave_no_room_for_the_film_are_refused_before_the_work(films, tmp_path):
    from datetime import date

    from caracal.core.base.errors import InputError
    from caracal.core.batch.concerns import concerns_of
    from caracal.core.media.probe import probe

    sheet = _sheet("vertical-story", **{"duration.most_s": 2.0})
    version = Version("A", sheet.name, closing=Card(60))
    recipe = recipe_of(Project((version,), FrameRange(0, 100)), "A", sheet)
    with pytest.raises(InputError, match=r"cards last 2\.4 s.*allows 2 s"):
        convert(films["25/1"], [recipe], tmp_path)
    found = concerns_of(probe(films["25/1"]), "A", recipe, {}, tmp_path, date.today())
    assert any(each.stops and "cards" in each.sentence for each in found)
    assert not list(tmp_path.iterdir())
