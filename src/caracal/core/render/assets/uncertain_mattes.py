"""In which shots it is unsure who is cut out of the picture."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from caracal.core.base.errors import InputError
from caracal.core.layout.model import Crop, Layout, Person
from caracal.core.render.assets.mattes import doubt, steady_matte
from caracal.core.render.shown_shots import ShownShot

LOOKS = 5  # frames of a shot, spread over it
MOST_DOUBTS = 1  # of those: one alone is a hand before the face


def people_of(layout: Layout) -> tuple[Person, ...]:
    """Those who are cut out in a ``layout`` that was placed in a shot."""
    contents = [pane.content for pane in layout.panes]
    return tuple(content.person for content in contents
                 if isinstance(content, Crop) and content.lifted and content.person is not None)


def unsure_shots(shots: Iterable[ShownShot]) -> tuple[int, ...]:
    """The numbers of those ``shots`` in which it is unsure, more than once, who is cut out."""
    return tuple(shot.number for shot in shots
                 if any(_unsure(person) for person in people_of(shot.layout)))


def _unsure(person: Person) -> bool:
    frames = np.linspace(person.span[0], person.span[1] - 1, LOOKS).astype(int).tolist()
    try:
        doubts = [doubt(steady_matte(person.path, frame, person.region, person.span))
                  for frame in frames]
    except InputError:
        return False  # that the film is gone is told elsewhere
    return sum(doubts) > MOST_DOUBTS
