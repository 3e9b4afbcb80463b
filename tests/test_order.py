"""The Board's order and filters."""

from caracal.core.framing.flags import Flag, FlagKind
from caracal.core.framing.motion import Manner
from caracal.core.project.board_order import Filter, Order, arranged
from caracal.core.project.edits import with_manner
from caracal.core.project.model import first_project

FLAGS = {("A", 3): (Flag(FlagKind.LOST, "", 0, 9, 0.9),),
         ("B", 1): (Flag(FlagKind.ENLARGED, "", 0, 9, 0.3),),
         ("C", 1): (Flag(FlagKind.CLIPPED, "", 0, 9, 0.8),)}


def _flags(letter, shot):
    return FLAGS.get((letter, shot), ())


def test_worst_first_adds_up_all_versions():
    project = first_project(100)
    assert arranged(project, 5, Order.WORST, Filter.ALL, _flags) == (1, 3, 0, 2, 4)
    assert arranged(project, 5, Order.FILM, Filter.ALL, _flags) == (0, 1, 2, 3, 4)


def test_filters():
    project = with_manner(first_project(100), "B", 4, Manner.GLIDE)
    assert arranged(project, 5, Order.FILM, Filter.FLAGGED, _flags) == (1, 3)
    assert arranged(project, 5, Order.FILM, Filter.TOUCHED, _flags) == (4,)
    assert arranged(project, 5, Order.WORST, Filter.TOUCHED, lambda *_: ()) == (4,)
