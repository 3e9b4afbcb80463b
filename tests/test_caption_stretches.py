"""Captions that look otherwise, or step aside, in a stretch; and those by who speaks."""

import av
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.convert import convert
from caracal.core.exchange.caption_files import read_captions
from caracal.core.plan.planner import Planner, solved_shots
from caracal.core.project.caption_edits import with_look, with_look_apart, with_look_shared
from caracal.core.project.model import first_project
from caracal.core.project.recipe import Recipe
from caracal.core.project.template import template_of, with_template
from caracal.core.render.captions.placement import caption_area, caption_box, on_canvas
from caracal.core.render.layers import PictureLayer, layers_of
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import Captions
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.caption_look import (
    CaptionLook,
    CaptionPlace,
    LookStretch,
    look_error,
    looks_of,
    shown_as,
    with_stretch,
    without_stretch,
)
from caracal.core.text.cues import Cue
from caracal.core.text.style import TextBox, TextStyle
from conftest import DEMO, write_film

SMALL = (270, 480)
CUES = (Cue(0.4, 0.8, "ONE"), Cue(1.2, 1.6, "TWO"), Cue(2.0, 2.4, "THREE"), Cue(2.8, 3.2, "FOUR"))
WHITE = CaptionLook(TextStyle(size=0.12, box=TextBox("#ffffff", 1.0)))
AT_TOP = msgspec.structs.replace(WHITE, place=CaptionPlace.TOP)


@pytest.mark.parametrize("ranges", [(), (FrameRange(20, 45), FrameRange(45, 100))])
def test_a_stretch_is_seen_in_a_file_at_its_frames_and_another_steps_aside(tmp_path, ranges):
    """On paper, at 25 fps: ONE 10 to 19, TWO 30 to 39, THREE 50 to 59, FOUR 70 to 79; TWO is not
    shown, THREE stands at the top. The file beside it has all of them."""
    film = write_film(tmp_path / "grey.mp4", frames=100, picture=lambda _, y: y)
    look = with_stretch(with_stretch(WHITE, LookStretch(25, 45)), LookStretch(45, 65, AT_TOP))
    sheet = with_value(with_value(find_sheet("vertical-short"), "canvas", SMALL),
                       "duration.least_s", 0.1)
    sheet = msgspec.structs.replace(sheet, captions=Captions.BOTH)
    (made,) = convert(film, [Recipe(sheet, captions=CUES, look=look, ranges=ranges)],
                      tmp_path / "out")
    assert made.proof.right, made.proof.lines
    with av.open(made.file) as container:
        bright = [frame.to_ndarray(format="gray8") > 200
                  for frame in container.decode(video=0)]
    later = 20 if ranges else 0
    high = {number + later: np.nonzero(mask.any(axis=1))[0].mean() / SMALL[1]
            for number, mask in enumerate(bright) if mask.mean() > 0.01}
    meant = [*range(10, 20), *range(50, 60), *range(70, 80)]
    assert sorted(high) == [frame for frame in meant if frame >= later]
    assert all((high[frame] < 0.5) == (50 <= frame < 60) for frame in high)
    (beside,) = (tmp_path / "out").glob("*.srt")
    assert len(read_captions(beside).cues) == len(CUES) - bool(ranges)


spans = st.tuples(st.integers(0, 60), st.integers(1, 30), st.sampled_from(["#ff0000", "#00ff00"]))


@given(st.lists(spans, max_size=8), st.data())
def test_stretches_give_way_to_later_ones_as_paint_does(painted, data):
    """The judge paints frames one by one."""
    paint, look = [None] * 100, CaptionLook()
    for start, length, colour in painted:
        own = msgspec.structs.replace(CaptionLook(), said=colour)
        look = with_stretch(look, LookStretch(start, start + length, own))
        paint[start : start + length] = [colour] * length
    assert not look_error(look)
    for frame, colour in enumerate(paint):
        number = shown_as(look, frame)
        seen = looks_of(look)[number]
        assert seen.said == (colour or CaptionLook().said) and (number == 0) == (colour is None)
    if look.stretches:
        number = data.draw(st.integers(0, len(look.stretches) - 1))
        gone = look.stretches[number]
        assert shown_as(without_stretch(look, number), gone.start) == 0


@pytest.mark.parametrize("stretches", [
    (LookStretch(5, 5),), (LookStretch(-1, 5),), (LookStretch(0, 9), LookStretch(8, 12)),
    (LookStretch(0, 9, CaptionLook(stretches=(LookStretch(0, 2),))),),
    (LookStretch(0, 9, CaptionLook(most_lines=0)),),
    tuple(LookStretch(2 * n, 2 * n + 1) for n in range(500))])
def test_stretches_that_cannot_be_are_told(stretches):
    assert look_error(CaptionLook(stretches=stretches))
    with pytest.raises(InputError):
        with_look(first_project(100), "A", CaptionLook(stretches=stretches))


def test_a_template_has_no_stretches_and_takes_none_away():
    project = with_look_apart(first_project(200), "A", (20, 60), None)
    look = project.version("A").look
    assert look.stretches == (LookStretch(20, 60),)
    template = template_of(project, "A", 25, (1080, 1920))
    assert template.look.stretches == ()
    assert with_template(project, "A", template, 25, (1080, 1920), 1).version("A").look == look
    assert with_look_shared(project, "A", 0).version("A").look == CaptionLook()


@pytest.mark.parametrize("name", ["vertical-short", "square-feed", "wide"])
def test_captions_by_the_speaker_are_near_the_face_and_not_on_it(demo, name):
    """The distance of caption and face is worked out here; captions below are the other judge."""
    cues = tuple(Cue(at, at + 0.9, "Short words") for at in range(1, 55))
    near: dict[CaptionPlace, list[float]] = {}
    planner = Planner(demo, no_progress, CancelToken())
    shots = solved_shots(demo, Recipe(find_sheet(name)), planner.solved)  # however captions look
    for place in (CaptionPlace.BESIDE, CaptionPlace.LOW):
        recipe = Recipe(find_sheet(name), captions=cues, burnt=True,
                        look=CaptionLook(place=place))
        track = planner.add(0, recipe, DEMO.parent)[0].captions
        canvas, area = recipe.sheet.canvas, caption_area(recipe.sheet)
        for shot in shots:
            span = demo.shots[shot.number]
            faces = [found for found in demo.tracks_in(shot.number)
                     if found.kind == "face" and found.subject == shot.paths[0].lead]
            for frame in range(span.start, span.end, 10):
                caption = track.at(frame)
                (layer,) = (layer for layer in layers_of(
                    shot.layout, canvas, [path.window(frame) for path in shot.paths], demo.active,
                    shot.paths[0].finish) if isinstance(layer, PictureLayer))
                seen = [on_canvas(box, layer) for face in faces
                        if (box := face.box_at(frame)) is not None]
                if caption is None or not seen or seen[0] is None:
                    continue
                x, y, w, h = caption_box(track, caption, canvas)
                assert area[0][0] * canvas[0] - 1 <= x
                assert x + w <= area[0][1] * canvas[0] + 1
                fx, fy, fw, fh = seen[0]
                across = max(fx - (x + w), x - (fx + fw), 0.0)
                down = max(fy - (y + h), y - (fy + fh), 0.0)
                near.setdefault(place, []).append(np.hypot(across, down) / fh)
    beside, low = near[CaptionPlace.BESIDE], near[CaptionPlace.LOW]
    assert len(beside) > 30 and np.mean(np.array(beside) == 0.0) < 0.02
    assert np.median(beside) < 0.75 * np.median(low), (np.median(beside), np.median(low))
