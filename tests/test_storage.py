"""Project files: versioned JSON, moved films found again, refusals in one sentence."""

import json
import random
import sys
from pathlib import Path

import msgspec
import pytest

from caracal.core.base.errors import InputError, StorageError
from caracal.core.framing.choice import Interpolation, Keyframe, ShotChoice, Swap
from caracal.core.framing.motion import Manner, Motion
from caracal.core.project import storage
from caracal.core.project.edits import with_accepted, with_cast, with_choice
from caracal.core.project.model import Cast, DrawnBox, ShotStart, first_project
from caracal.core.project.recipe import recipe_of
from caracal.core.project.shots import as_decided
from caracal.core.project.storage import (
    FilmReference,
    autosave_path,
    document,
    find_film,
    read_document,
    schema,
    write_document,
)
from caracal.core.specs.sheet_store import find_sheet
from conftest import write_film

sys.path.append(str(Path(__file__).parent.parent / "benchmarks"))


def full_project(frames=1500):
    choice = ShotChoice(manner=Manner.GLIDE, zoom=1.3, swaps=(Swap(500, 3),),
                        keyframes=(Keyframe(440, (500.0, 540.0), 1.5, Interpolation.HOLD),))
    made = with_choice(first_project(frames), "B", 2, choice)
    made = with_cast(made, Cast(2, lead=7, second=9, ignored=(1, 4)))
    made = with_accepted(made, "A", 0, "text cut", "the title is repeated below")
    return msgspec.structs.replace(
        made, starts=(ShotStart(0), ShotStart(400), ShotStart(600)),
        motion=Motion(glide_crossing_frames=200))


def test_what_is_written_is_read_again(demo, tmp_path):
    path = tmp_path / "kiln day.caracal"
    written = document(demo, full_project())
    write_document(path, written)
    assert read_document(path) == written
    assert [path.name for path in tmp_path.iterdir()] == ["kiln day.caracal"]


def test_the_published_schema_is_the_one_in_force():
    published = Path(__file__).parent.parent / "docs" / "project.schema.json"
    assert json.loads(published.read_text()) == json.loads(json.dumps(schema()))


def test_files_follow_the_published_schema(demo):
    data = json.loads(msgspec.json.encode(document(demo, full_project())))
    known = schema()["$defs"]["Project"]["properties"]
    assert set(data["project"]) <= set(known) and data["version"] == storage.VERSION


def _first(data, *path):
    for key in path[:-1]:
        data = data[key]
    return data, path[-1]


@pytest.mark.parametrize(("path", "value"), [
    (("version",), -3),
    (("project", "versions"), []),
    (("project", "versions", 1, "letter"), "A"),
    (("project", "versions", 1, "letter"), "every"),
    (("project", "versions", 0, "ranges"), [{"start": -10, "end_exclusive": 99}]),
    (("project", "starts", 0, "frame"), 7),
    (("project", "starts", 1, "frame"), 600),
    (("project", "starts", 2, "frame"), 100),
    (("project", "drawn"), [{"subject": 9, "name": "cup", "first_frame": 1490, "boxes": []}]),
    (("project", "motion", "glide_crossing_frames"), 0),
    (("project", "motion", "least_rest_frames"), -1),
    (("project", "captions"), [{"start_s": 3, "end_s": 2, "text": "backwards"}]),
    (("project", "captions"), [{"start_s": 1, "end_s": 2, "text": " "}]),
    (("project", "versions", 0, "opening"), {"frames": 0}),
    (("project", "versions", 0, "look", "most_lines"), 40),
    (("project", "versions", 0, "look", "style", "colour"), "sand"),
])
def test_what_contradicts_itself_is_told_before_anything_is_shown(demo, tmp_path, path, value):
    """Each value could be by itself. Found by changing project files at random."""
    file = tmp_path / "odd.caracal"
    data = json.loads(msgspec.json.encode(document(demo, full_project())))
    file.write_text(json.dumps(data))
    read_document(file)
    place, key = _first(data, *path)
    place[key] = value
    file.write_text(json.dumps(data))
    with pytest.raises(InputError, match=r"damaged \(.+\)"):
        read_document(file)


def test_older_files_are_brought_up_to_date(demo, tmp_path, monkeypatch):
    """An upgrade written here stands for those of the future: version 0 named casts 'leads'."""
    data = json.loads(msgspec.json.encode(document(demo, full_project())))
    data["version"] = 0
    data["project"]["leads"] = data["project"].pop("casts")
    path = tmp_path / "old.caracal"
    path.write_text(json.dumps(data))

    def upgrade(old):
        project = {("casts" if k == "leads" else k): v for k, v in old["project"].items()}
        return {**old, "version": 1, "project": project}

    monkeypatch.setitem(storage.UPGRADES, 0, upgrade)
    assert read_document(path).project == full_project()


@pytest.mark.parametrize(("text", "word"), [
    ("not json", "not a project"), ("[1, 2]", "not a project"), ('{"format": "else"}', "not a"),
    ('{"format": "caracal project", "version": 99}', "newer"),
    ('{"format": "caracal project", "version": 1, "film": 3}', "damaged"),
])
def test_other_files_are_refused_in_one_sentence(tmp_path, text, word):
    path = tmp_path / "some.caracal"
    path.write_text(text)
    with pytest.raises(InputError, match=word) as told:
        read_document(path)
    assert "some.caracal" in told.value.sentence() and told.value.remedy


def test_a_missing_file_and_a_bad_folder_are_told(demo, tmp_path):
    with pytest.raises(InputError, match="no such file"):
        read_document(tmp_path / "none.caracal")
    (tmp_path / "file").touch()
    with pytest.raises(StorageError):
        write_document(tmp_path / "file" / "x.caracal", document(demo, full_project()))


def _reference(film):
    from caracal.core.analysis.cache import content_key

    return FilmReference(str(film), content_key(film), 40, "25/1")


def test_a_moved_film_is_found_by_name_then_by_content(tmp_path):
    (tmp_path / "there").mkdir()
    film = write_film(tmp_path / "there" / "film.mp4", frames=40)
    reference, project = _reference(film), tmp_path / "here" / "p.caracal"
    project.parent.mkdir()
    assert find_film(reference, project) == film
    moved = project.parent / "media" / "film.mp4"
    moved.parent.mkdir()
    film.rename(moved)
    assert find_film(reference, project) == moved
    renamed = moved.rename(project.parent / "another name.mp4")
    assert find_film(reference, project) == renamed
    renamed.unlink()
    assert find_film(reference, project) is None


def test_another_film_of_the_same_name_is_not_taken(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=40)
    reference = _reference(film)
    film.unlink()
    other = tmp_path / "project" / "film.mp4"
    other.parent.mkdir()
    write_film(other, frames=41)
    assert find_film(reference, other.parent / "p.caracal") is None


def test_what_saves_itself_has_a_place_of_its_own(tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path))
    assert autosave_path("abc").is_relative_to(tmp_path)
    assert autosave_path("abc") != autosave_path("abd")


def test_a_film_that_became_shorter_loses_no_work(demo, tmp_path):
    """Saved over again by the window, the project opens again; what lies beyond is left out."""
    drawn = DrawnBox(9, "cup", 1450, ((1.0, 1.0, 9.0, 9.0),) * 30)
    project = msgspec.structs.replace(full_project(), drawn=(drawn,))
    master = msgspec.structs.replace(demo.master, frames=500)
    shots = tuple(shot for shot in demo.shots if shot.end <= 500)
    shots = (*shots[:-1], msgspec.structs.replace(shots[-1], end=500))
    shorter = msgspec.structs.replace(demo, master=master, shots=shots)
    path = tmp_path / "shorter.caracal"
    write_document(path, document(shorter, project))
    assert read_document(path).project == project
    decided = as_decided(shorter, project.starts, project.drawn)
    assert [shot.start for shot in decided.shots] == [0, 400] and decided.shots[-1].end == 500
    assert not [track for track in decided.tracks if track.kind == "box"]
    nearly = msgspec.structs.replace(demo, master=msgspec.structs.replace(master, frames=1460))
    cut = as_decided(nearly, (), (drawn,)).tracks[-1]
    assert (cut.kind, cut.first_frame, len(cut.boxes)) == ("box", 1450, 10)


def test_numbers_beyond_reason_are_told_or_do_no_harm(demo, tmp_path):
    """benchmarks/hostile.py makes films of such projects; found_after 0 and -2^63 ended one."""
    import hostile_projects

    chance, data = random.Random(5), hostile_projects.full_document(demo)
    places = list(hostile_projects.number_places(data))
    assert len(places) > 150
    tried = [(chance.choice(places), chance.choice(hostile_projects.NUMBERS)) for _ in range(250)]
    after = ("project", "starts", 2, "found_after")
    refused = 0
    for at, number in [(after, 0), (after, -(2**63)), *tried]:
        path = tmp_path / "odd.caracal"
        path.write_text(json.dumps(hostile_projects.changed(data, at, number)))
        try:
            project = read_document(path).project
        except InputError as problem:
            assert "\n" not in problem.sentence()
            refused += 1
            continue
        decided = as_decided(demo, project.starts, project.drawn)
        assert decided.shots[0].start == 0 and decided.shots[-1].end == demo.master.frames
        for version in project.versions:
            ranges = project.ranges_of(version.letter)
            assert all(0 <= span.start < span.end_exclusive for span in ranges)
            assert recipe_of(project, version.letter, find_sheet(version.sheet)).digest
            assert all(overlay.start < overlay.end_exclusive
                       for overlay in project.overlays_of(version.letter))
    assert 50 < refused < 250
