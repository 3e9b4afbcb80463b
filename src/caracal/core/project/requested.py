"""Versions requested on the command line: each a version of a project, made for a sheet.

The command line applies the same edits to the same project as the window does, so both produce the
same recipe.
"""

from __future__ import annotations

from fractions import Fraction

import msgspec

from caracal.core.base.geometry import Region
from caracal.core.base.time import FrameRange
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Manner
from caracal.core.layout.added_sound import AddedSound, CleanStrength
from caracal.core.layout.model import EVERYWHERE, FILL, Layout
from caracal.core.project.brand import Brand, Ground
from caracal.core.project.brand_edits import logo_ratio, variant_for, with_version_dressed
from caracal.core.project.edits import with_layout, with_manner
from caracal.core.project.model import Project, ShotStart, Version
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.project.sound_edits import with_clean, with_sound_added
from caracal.core.project.template import Template, with_template
from caracal.core.specs.sheet import SpecSheet

UNNAMED = ""  # the letter of a version that no project has: it is never saved


class RequestedVersion(msgspec.Struct, frozen=True):
    """Version ``letter`` of ``project``, made for ``sheet``; one of a film alone is ``unnamed``.

    ``layout`` is that of all shots, for a film that is not analysed yet.
    """

    project: Project
    letter: str
    sheet: SpecSheet
    unnamed: bool = False
    layout: Layout = FILL

    def recipe(self, review: bool = False) -> Recipe:
        """All that it is made from."""
        made = recipe_of(self.project, self.letter, self.sheet, review)
        return msgspec.structs.replace(made, layout=self.layout,
                                       label="" if self.unnamed else made.label)


def requested_of_film(
    sheet: SpecSheet, span: FrameRange, starts: tuple[ShotStart, ...] = (), sound: int = 0
) -> RequestedVersion:
    """A film without a project, made for ``sheet``; ``span`` is what it shows, at its speed."""
    version = Version(UNNAMED, sheet.name, speeds=() if span.percent == 100 else (span,))
    project = Project((version,), FrameRange(span.start, span.end_exclusive), starts=starts,
                      sound=sound)
    return RequestedVersion(project, version.letter, sheet, unnamed=True)


def requested_beside(project: Project, sheet: SpecSheet) -> RequestedVersion:
    """``project`` with one more version, made for a ``sheet`` that is none of its versions': who
    leads and what is said hold for it, too."""
    added = msgspec.structs.replace(project, versions=(*project.versions,
                                                       Version(UNNAMED, sheet.name)))
    return RequestedVersion(added, UNNAMED, sheet, unnamed=True)


def with_layout_of_all(
    wanted: RequestedVersion, layout: Layout, shots: int | None
) -> RequestedVersion:
    """All shots laid out by ``layout``; ``shots`` None: they are not known yet."""
    if shots is None:
        return msgspec.structs.replace(wanted, layout=layout)
    project = wanted.project
    for shot in range(shots):
        if project.choice(wanted.letter, shot).layout != layout:
            project = with_layout(project, wanted.letter, shot, layout)
    return msgspec.structs.replace(wanted, project=project)


def with_manner_of_all(wanted: RequestedVersion, manner: Manner, shots: int) -> RequestedVersion:
    """The window goes by ``manner`` in all shots."""
    project = wanted.project
    for shot in range(shots):
        if manner is not ShotChoice().manner:
            project = with_manner(project, wanted.letter, shot, manner)
    return msgspec.structs.replace(wanted, project=project)


def with_template_over(
    wanted: RequestedVersion, template: Template, rate: Fraction, shots: int | None,
    clear: Region = EVERYWHERE,
) -> RequestedVersion:
    """``template`` applied to it in the ``clear`` part; it replaces the overlays of before.
    ``shots`` None: they are not known yet."""
    project = with_template(wanted.project, wanted.letter, template, rate, wanted.sheet.canvas,
                            shots or 0, clear)
    layout = template.layout if shots is None and template.layout != FILL else wanted.layout
    return msgspec.structs.replace(wanted, project=project, layout=layout)


def with_bed(wanted: RequestedVersion, bed: AddedSound) -> RequestedVersion:
    """``wanted`` with ``bed`` under it, beside the sounds that it has. Raises InputError."""
    return msgspec.structs.replace(
        wanted, project=with_sound_added(wanted.project, wanted.letter, bed))


def with_clean_speech(wanted: RequestedVersion, strength: CleanStrength) -> RequestedVersion:
    """``wanted`` with the film's speech cleaned by ``strength``."""
    return msgspec.structs.replace(
        wanted, project=with_clean(wanted.project, wanted.letter, strength))


def with_brand_on(
    wanted: RequestedVersion, brand: Brand, rate: Fraction, ground: Ground, clear: Region
) -> RequestedVersion:
    """``wanted`` dressed as ``brand`` says; the logo is that for the ``ground``, in the ``clear``
    part.

    Raises InputError when the logo cannot be read.
    """
    logo = variant_for(brand, ground)
    project = with_version_dressed(
        wanted.project, wanted.letter, brand, rate, wanted.sheet.canvas,
        None if logo is None else (logo, logo_ratio(logo)), clear)
    return msgspec.structs.replace(wanted, project=project)
