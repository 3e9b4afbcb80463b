"""Every edit reaches as far as its switch says, says so, and offers the other reach."""

import pytest
from PySide6.QtCore import Qt

from caracal.core.base.errors import InputError
from caracal.core.framing.motion import Manner
from caracal.core.layout.kinds import KINDS
from caracal.core.layout.overlay import ShapeKind
from caracal.core.project.edits import with_manner
from caracal.ui.session.reach import EditKind, InShots, InVersions, Reach, Reaches
from conftest import settled

LEFT = Qt.MouseButton.LeftButton
TALKERS = 5  # the demo's sixth shot: two talkers


@pytest.fixture
def film(window):
    window.film.show_view("Aim")
    session = window.film.session
    session.go(session.analysis.shots[TALKERS].start + 5)
    settled(session)
    return window.film


def leads(session, shot=TALKERS):
    return [session.project.choice(version.letter, shot).lead
            for version in session.project.versions]


def other_lead(session):
    now = session.path("A", TALKERS).lead
    return next(one for one in session.people.subjects(TALKERS) if one.id != now)


def choose(box, index):
    box.setCurrentIndex(index)
    box.activated.emit(index)


def click_on(film, qtbot, subject):
    stage = film.aim.stage
    spot = stage.place_of(subject.box_at(film.session.frame)).center().toPoint()
    qtbot.mouseClick(stage, LEFT, pos=spot)


def test_a_click_leads_in_all_versions_and_one_more_in_this_one_only(window, film, qtbot):
    session, subject = film.session, other_lead(film.session)
    click_on(film, qtbot, subject)
    assert leads(session) == [subject.id] * 3
    name = session.people.name(TALKERS, subject.id)
    assert window.messages.said[0].words == f"Shot 6, all versions: {name} leads"
    assert window.messages.offers[0].text() == "Only in A"
    qtbot.mouseClick(window.messages.offers[0], LEFT)
    assert leads(session) == [subject.id, None, None]
    assert window.messages.said[0].words == f"Shot 6, A: {name} leads"
    session.document.undo()  # both were one step
    assert leads(session) == [None, None, None]
    assert session.document.history.at == 0 and not window.messages.offers


def test_the_switch_of_the_side_says_how_far_edits_reach(window, film, qtbot):
    session, side = film.session, film.aim.side
    choose(side.versions, 0)
    click_on(film, qtbot, other_lead(session))
    assert leads(session)[0] is not None and leads(session)[1:] == [None, None]
    side.show_page("Layout")
    assert session.editing.reaches.of(EditKind.LAYOUT) == Reach()
    choose(side.versions, 1)
    film.aim.layouts.take(KINDS[1])
    shapes = [session.project.choice(letter, TALKERS).layout for letter in "ABC"]
    assert [layout.kind for layout in shapes] == [KINDS[1].name] * 3
    side.show_page("Who")
    assert side.versions.currentIndex() == 0  # each kind of edit has its own


def test_a_reset_reaches_one_version(film, qtbot):
    session = film.session
    click_on(film, qtbot, other_lead(session))
    film.aim.side.show_page("Move")
    qtbot.mouseClick(film.aim.moves.automatic, LEFT)
    assert leads(session)[0] is None and None not in leads(session)[1:]


def test_a_manner_reaches_similar_shots_and_the_whole_film(window, film, qtbot):
    session, side = film.session, film.aim.side
    side.show_page("Move")
    shots = range(len(session.analysis.shots))

    def glides():
        return [shot for shot in shots if session.project.choice("A", shot).manner == "glide"]

    choose(side.shots, 1)
    film.aim.moves.manners["glide"].click()
    assert len(glides()) == 2 and TALKERS in glides()  # the demo cuts back to its talkers once
    assert window.messages.said[0].words == "2 shots, A: glide"
    choose(side.shots, 2)
    film.aim.moves.manners["chase"].click()
    film.aim.moves.manners["glide"].click()
    assert glides() == list(shots)
    assert window.messages.said[0].words == "Whole film, A: glide"
    session.document.undo()
    assert not glides()


def test_an_offer_does_nothing_once_something_else_was_changed(window, film, qtbot):
    session = film.session
    click_on(film, qtbot, other_lead(session))
    offer = window.messages.offers[0]
    session.document.undo()
    assert not window.messages.offers
    offer.clicked.emit()
    assert leads(session) == [None, None, None]


def test_an_overlay_is_added_changed_and_deleted_in_all_versions(film):
    session, page, side = film.session, film.aim.overlays, film.aim.side
    side.show_page("Overlays")
    choose(side.versions, 1)
    page.add_shape(ShapeKind.CIRCLE)
    page.fields.changed.emit("opacity", 0.5)
    made = [session.project.version(letter).overlays for letter in "ABC"]
    assert [[overlay.opacity for overlay in overlays] for overlays in made] == [[0.5]] * 3
    page.delete()
    assert not any(session.project.version(letter).overlays for letter in "ABC")


def test_reaches_are_kept_as_text_and_nonsense_is_left_out():
    reaches = Reaches()
    reaches.set(EditKind.CROP, Reach(InVersions.ALL, InShots.SIMILAR))
    again = Reaches()
    again.recall(reaches.kept())
    assert again.of(EditKind.CROP) == Reach(InVersions.ALL, InShots.SIMILAR)
    again.recall({"crop": "ALL NOWHERE", "lead": 7, "sky": "ALL THIS"})
    assert again.of(EditKind.CROP) == Reach(InVersions.ALL, InShots.SIMILAR)
    assert again.of(EditKind.LEAD) == Reach(InVersions.ALL)


def test_an_edit_stays_when_its_other_reach_is_refused(window, film):
    """A change that cannot be in version B was made in A; asked for in all, it stays in A."""
    session = film.session

    def only_in_a(project, letter, shot):
        if letter != "A":
            raise InputError("Not here.", remedy="Choose A.")
        return with_manner(project, letter, shot, Manner.CHASE)

    assert session.editing.edit(EditKind.CROP, "chase", only_in_a)
    made = session.project
    window.messages.offers[0].click()
    assert session.project == made and "Not here" in window.statusBar().currentMessage()


def test_an_amount_changes_only_shots_with_the_same_kind_of_layout(film):
    session, side = film.session, film.aim.side
    film.aim.layouts.take(KINDS[2])
    side.show_page("Layout")
    choose(side.shots, 2)
    film.aim.layouts.set_colour("#445566")
    kinds = {session.project.choice("A", shot).layout.kind
             for shot in range(len(session.analysis.shots)) if shot != TALKERS}
    assert kinds == {"fill"}


def test_similar_shots_are_offered_only_where_there_are_some(window, film, qtbot, monkeypatch):
    session = film.session
    monkeypatch.setattr(session.editing, "similar_shots_of", lambda _: ())
    click_on(film, qtbot, other_lead(session))
    said = [button.text() for button in window.messages.offers]
    assert said == ["Only in A", "Apply to whole film"]
