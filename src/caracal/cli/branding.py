"""Versions that were asked for under a brand's name (--brand)."""

from __future__ import annotations

from caracal.core.media.master import Master
from caracal.core.project.brand import Brand
from caracal.core.project.brand_edits import recipe_dressed
from caracal.core.project.grounds import ground_of
from caracal.core.project.recipe import Recipe
from caracal.core.render.caption_places import caption_area


def branded(recipe: Recipe, brand: Brand, master: Master) -> Recipe:
    """``recipe`` dressed as ``brand`` says, with the logo for pictures as light as the film's."""
    return recipe_dressed(recipe, brand, master.rate, master.frames, ground_of(master),
                          caption_area(recipe.sheet))
