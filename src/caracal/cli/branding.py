"""Versions that were asked for under a brand's name (--brand)."""

from __future__ import annotations

from caracal.core.media.master import Master
from caracal.core.project.brand import Brand
from caracal.core.project.logo_ground import ground_for
from caracal.core.project.requested import RequestedVersion, with_brand_on
from caracal.core.render.captions.placement import caption_area


def branded(wanted: RequestedVersion, brand: Brand, master: Master) -> RequestedVersion:
    """``wanted`` dressed as ``brand`` says, with the logo for pictures as light as the film's."""
    return with_brand_on(wanted, brand, master.rate, ground_for(brand, master),
                         caption_area(wanted.sheet))
