"""The demo film's brand: ``python -m demo.brand`` writes its file."""

from __future__ import annotations

from caracal.core.base.resources import ours, shipped
from caracal.core.layout.model import PictureFile
from caracal.core.project.brand import Brand, BrandCard, Ground, Logo
from caracal.core.project.brand_files import write_brand
from caracal.core.specs.sheet_store import find_sheet
from caracal.ui.shell.demo_version import (
    BRAND_FILE,
    HEADLINE,
    INK,
    SAID_LOOK,
    SAND,
    TAWNY,
    closing_card,
)

COLOURS = {
    "ink": INK, "sand": SAND, "tawny": TAWNY, "clay": "#c87d3c", "night": "#121110",
    "bark": "#3a3026", "shore": "#c9b79c", "dune": "#8a6f56", "foam": "#ffffff",
}


def brand() -> Brand:
    """Marram Quay's colours, fonts, marks, styles and end card."""
    return Brand(
        "Marram Quay", COLOURS, ("Fraunces SemiBold", "Figtree SemiBold", "Figtree Medium"),
        (Logo(PictureFile(ours("demo", "marram-quay-mark.svg"), fit=True), Ground.LIGHT),
         Logo(PictureFile(ours("demo", "marram-quay-mark-light.svg"), fit=True), Ground.DARK)),
        logo_wide=0.14, captions=SAID_LOOK, titles=HEADLINE,
        closing=BrandCard(closing_card(find_sheet("vertical-short"))))


if __name__ == "__main__":
    write_brand(shipped("demo", BRAND_FILE), brand())
