"""What things are called: kinds that detectors tell apart, and groups that tracks join within."""

from __future__ import annotations

from caracal.core.base.translation import mark

ANIMALS = ("bird", "cat", "dog", "horse", "sheep", "cow", "elephant", "bear", "zebra", "giraffe")
RIDES = ("bicycle", "motorcycle")
BEINGS = ("person", "face", "animal")  # groups of these come before things
MOVING_THING = mark("moving thing")  # that no detector knows
GROUPS = {**dict.fromkeys(ANIMALS, "animal"), **dict.fromkeys(RIDES, "ride"),
          "face": "face", "person": "person", MOVING_THING: "mover"}


def group_of(kind: str) -> str:
    """Kinds that detectors confuse share a group; tracks join within a group only."""
    return GROUPS.get(kind, "thing")
