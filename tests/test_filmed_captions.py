"""Captions over filmed pictures: in the clear area, and on no face where another place is free."""

import pytest

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.geometry import shared_area
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.plan.planner import Planner, solved_shots
from caracal.core.project.recipe import Recipe
from caracal.core.render.captions.placement import caption_area, caption_box, on_canvas, standing
from caracal.core.render.layers import PictureLayer, layers_of
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.caption_look import CaptionLook, CaptionPlace
from caracal.core.text.caption_track import stand_in
from caracal.core.text.cues import Cue
from filmed_clips import clip

ON = 0.1  # of a face: less is its box's air
CLIPS = ("bikes", "bigbuckbunny", "carphone_pristine")
PLACES = (CaptionPlace.LOW, CaptionPlace.MIDDLE, CaptionPlace.TOP)


@pytest.mark.parametrize("name", CLIPS)
def test_captions_of_a_filmed_clip_lie_in_the_clear_area_and_on_no_face(name):
    """Counted shot by shot, in two shapes; faces are those that the detector found."""
    found = analyse(clip(name))
    seconds = found.master.frames / float(found.master.rate)
    cues = tuple(Cue(at / 2, at / 2 + 0.45, "What is said here is read by people")
                 for at in range(int(2 * seconds)))
    looked = with_faces = 0
    for sheet in ("vertical-short", "square-feed"):
        recipe = Recipe(find_sheet(sheet), captions=cues, burnt=True, look=CaptionLook())
        planner = Planner(found, no_progress, CancelToken())
        track = planner.add(0, recipe, clip(name).parent)[0].captions
        canvas, area = recipe.sheet.canvas, caption_area(recipe.sheet)
        for shot in solved_shots(found, recipe, planner.solved):
            span = found.shots[shot.number]
            covered = dict.fromkeys((None, *PLACES), 0)
            for frame in range(span.start, span.end, 5):
                caption = track.at(frame)
                if caption is None:
                    continue
                looked += 1
                x, y, w, h = caption_box(track, caption, canvas)
                for (low, high), at, long, side in zip(area, (x, y), (w, h), canvas, strict=True):
                    assert low * side - 1 <= at and at + long <= high * side + 1
                layers = [layer for layer in layers_of(
                    shot.layout, canvas, [path.window(frame) for path in shot.paths],
                    found.active, shot.paths[0].finish) if isinstance(layer, PictureLayer)]
                faces = [there for face in found.tracks_in(shot.number) if face.kind == "face"
                         and (box := face.box_at(frame)) is not None for layer in layers
                         if (there := on_canvas(box, layer)) is not None]
                with_faces += bool(faces)
                for place in covered:
                    stands = caption if place is None else standing(
                        caption, stand_in(place, track.clear))
                    box = caption_box(track, stands, canvas)
                    covered[place] += any(shared_area(box, face) > ON * face[2] * face[3]
                                          for face in faces)
            # Where no place is free of faces all the time, the best one may cover a little.
            assert covered[None] <= min(covered[place] for place in PLACES) + 1, (name, sheet, shot)
    assert looked > 15 and (with_faces > 10 or name != "carphone_pristine")
