"""The brand that the film bears: its colours, logos and styles, put on versions by a click."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec
from PIL import Image
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPixmap
from PySide6.QtWidgets import (
    QColorDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)
from shiboken6 import isValid

from caracal.core.base.errors import CaracalError, InputError
from caracal.core.base.resources import asset_file
from caracal.core.base.translation import tr
from caracal.core.project.brand import Brand, Corner, Ground, Logo
from caracal.core.project.brand_check import off_brand
from caracal.core.project.brand_edits import (
    brand_of,
    logo_ratio,
    variant_for,
    with_brand,
    with_version_dressed,
)
from caracal.core.project.brand_files import read_brand, write_brand
from caracal.core.project.logo_ground import ground_for
from caracal.core.project.model import Project
from caracal.core.render.assets.picture_checks import thumbnail_apart
from caracal.core.render.captions.placement import caption_area
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import choice_box, quiet, small_button, swatch

FILES = tr("Brands (*.toml)")
CORNERS = tuple(Corner)
MOST_TOLD = 4  # departures that are told; more are counted
LOGO_SIZE = QSize(48, 18)
NOT_YET = tr("This film has no brand yet. Load a brand's file, or save one from what this "
             "version has: its colours, fonts, logo, captions and end card.")
WIDE = 64  # pixels of the canvas, to see how light it is
NAME = "brand"  # of the panel's own pictures


class BrandPanel(QWidget):
    """Opened once for a film; every version is dressed by it, and told where it departs."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._shown: Brand | None = None
        self.name = QLabel()
        self.away = small_button(
            tr("Remove"), tr("Remove the brand from the film; what it added to versions stays"),
            lambda: self._edit(lambda: with_brand(session.project, None), tr("Remove brand")))
        self.corner = choice_box([tr(corner.value).capitalize() for corner in CORNERS],
                                 tr("Corner of the clear area for the logo"), self._move)
        self.dress = small_button(tr("Apply brand"),
                                  tr("Logo, captions, titles and end card as the brand says"),
                                  lambda: self.dress_versions((session.letter,)))
        self.dress_all = small_button(tr("Apply to all versions"),
                                      tr("Apply the brand to every version, as one step"),
                                      lambda: self.dress_versions(tuple(
                                          version.letter for version in session.project.versions)))
        self.colours, self.logos = QHBoxLayout(), QHBoxLayout()
        self.told = quiet("")
        self.told.setWordWrap(True)
        self._of_brand: list[QWidget] = []
        self._lay_out()
        for signal in (session.project_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        self.sync()

    def _lay_out(self) -> None:
        first, last = QHBoxLayout(), QHBoxLayout()
        first.addWidget(self.name, 1)
        for button in (small_button(tr("Load…"), tr("Load a brand from its file"), self.ask_open),
                       small_button(tr("Save as…"), tr("Save what this version has as a brand, "
                                                       "with its logo and fonts beside the file"),
                                    self.ask_save), self.away):
            first.addWidget(button)
        for widget in (self.dress, self.dress_all):
            last.addWidget(widget)
        last.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        for row in (first, self.colours, self.logos, last):
            row.setSpacing(8)
            column.addLayout(row)
        column.addWidget(self.told)
        column.addStretch(1)

    def sync(self) -> None:
        """Show the film's brand, and where the chosen version departs from it."""
        session, brand = self._session, self._session.project.brand
        for widget in (self.away, self.dress, self.dress_all):
            widget.setVisible(brand is not None)
        self.name.setText(tr("Brand: {name}", name=brand.name) if brand else tr("No brand"))
        if brand != self._shown:
            self._shown = brand
            self._show_parts(brand)
        if brand is None:
            self.told.setText(NOT_YET)
            return
        faults = off_brand(session.project, session.letter)
        more = len(faults) - MOST_TOLD
        rest = tr(" And {more} more.", more=more) if more > 0 else ""
        self.told.setText(" ".join(faults[:MOST_TOLD]) + rest
                          or tr("Version {letter} follows the brand.", letter=session.letter))

    def _show_parts(self, brand: Brand | None) -> None:
        """A chip for each colour, a picture for each logo."""
        for row in (self.colours, self.logos):
            while (item := row.takeAt(0)) is not None:
                if (widget := item.widget()) is not None and widget is not self.corner:
                    widget.deleteLater()
        self.corner.setVisible(False)
        if brand is None:
            return
        for number, (name, colour) in enumerate(brand.colours.items()):
            QColorDialog.setCustomColor(number, QColor(colour))  # wherever a colour is asked for
            chip = QLabel()
            chip.setPixmap(swatch(colour))
            chip.setToolTip(tr("{name}: {colour}. It is offered in every colour dialog.",
                               name=name, colour=colour))
            chip.setAccessibleName(f"{name}, {colour}")
            self.colours.addWidget(chip)
        fonts = ", ".join(map(_font_name, brand.fonts)) or tr("any")
        about = quiet(tr("Fonts: {fonts}", fonts=fonts))
        about.setWordWrap(True)
        self.colours.addWidget(about, 1)
        self.logos.addWidget(quiet(tr("Logo") if brand.logos else tr("No logo")))
        for logo in brand.logos:
            self.logos.addWidget(self._logo_button(logo))
        if brand.logos:
            self.logos.addWidget(quiet(tr("in")))
            self.logos.addWidget(self.corner)
            self.corner.setVisible(True)
            self.corner.setCurrentIndex(CORNERS.index(brand.corner))
        self.logos.addStretch(1)

    def _logo_button(self, logo: Logo) -> QPushButton:
        button = small_button("", tr("Put this one on the chosen version: for {ground} pictures",
                                     ground=tr(logo.ground.value)), lambda: self._put(logo))
        button.setAccessibleName(tr("Logo for {ground} pictures", ground=tr(logo.ground.value)))
        button.setIconSize(LOGO_SIZE)
        button.setStyleSheet(f"background: {'#26221e' if logo.ground is Ground.DARK else '#e8e4dc'}"
                             )
        path, assets = asset_file(logo.picture.path), self._session.assets

        def look() -> Image.Image | str:
            try:
                return thumbnail_apart(path, assets.token)
            except InputError as problem:
                return problem.sentence()

        assets.do(look, lambda found: self._show_logo(button, found))
        return button

    def _show_logo(self, button: QPushButton, found: Image.Image | str) -> None:
        """The logo's picture on its button, or the sentence why there is none."""
        if not isValid(button):  # another brand shows by now
            return
        if isinstance(found, str):
            button.setText(tr("Logo missing"))
            button.setToolTip(found)
            button.setStyleSheet("")
            return
        image = QImage(found.tobytes(), found.width, found.height, 4 * found.width,
                       QImage.Format.Format_RGBA8888)
        button.setIcon(QIcon(QPixmap.fromImage(image.scaled(
            LOGO_SIZE * 2, Qt.AspectRatioMode.KeepAspectRatio,
            Qt.TransformationMode.SmoothTransformation))))

    def _move(self, at: int) -> None:
        session, brand = self._session, self._session.project.brand
        if brand is not None:
            self._edit(lambda: with_brand(session.project, msgspec.structs.replace(
                brand, corner=CORNERS[at])), tr("Logo {corners}",
                                                corners=tr(CORNERS[at].value)))

    def _put(self, logo: Logo) -> None:
        """This logo on the chosen version, and nothing else of the brand."""
        session, brand = self._session, self._session.project.brand
        if brand is None:
            return
        only = msgspec.structs.replace(brand, captions=None, titles=None, closing=None)
        session.assets.check([logo.picture], lambda: self._edit(
            lambda: self._dressed(session.project, session.letter, only, logo),
            tr("Logo added to {letter}.", letter=session.letter)))

    def dress_versions(self, letters: tuple[str, ...]) -> None:
        """Logo, captions, titles and end card of these versions as the brand says."""
        session, brand = self._session, self._session.project.brand
        if brand is None:
            return

        def change(ground: Ground) -> Project:
            project = session.project
            for letter in letters:
                project = self._dressed(project, letter, brand, variant_for(brand, ground))
            return project

        def dress(ground: Ground) -> None:
            session.assets.check([logo.picture for logo in brand.logos], lambda: self._edit(
                lambda: change(ground), tr("Brand {name} applied to {letters}.",
                                           letters=" and ".join(letters), name=brand.name)))

        master = session.analysis.master
        session.assets.do(lambda: ground_for(brand, master), dress)

    def _dressed(
        self, project: Project, letter: str, brand: Brand, logo: Logo | None
    ) -> Project:
        session = self._session
        sheet = session.sheet(letter)
        return with_version_dressed(
            project, letter, brand, session.analysis.master.rate, sheet.canvas,
            None if logo is None else (logo, logo_ratio(logo)), caption_area(sheet))

    def ask_open(self) -> None:
        """Ask for a brand's file."""
        chosen = QFileDialog.getOpenFileName(self, tr("Brand"), "", FILES)[0]
        if chosen:
            self.open(Path(chosen))

    def open(self, path: Path) -> None:
        """The film bears the brand of that file."""
        session = self._session
        session.assets.do(lambda: read_brand(path), lambda brand: self._edit(
            lambda: with_brand(session.project, brand), tr("The film has a brand.")))

    def ask_save(self) -> None:
        """Ask where what this version has is kept as a brand."""
        chosen = QFileDialog.getSaveFileName(self, tr("Brand"), "brand.toml", FILES)[0]
        if chosen:
            path = Path(chosen)
            self.save(path if path.suffix.lower() == ".toml" else path.with_suffix(".toml"))

    def save(self, path: Path) -> None:
        """Keep what the chosen version has as a brand at ``path``; the film bears it."""
        session = self._session
        name, project = path.stem.replace("-", " ").title(), session.project
        canvas, rate = session.sheet(session.letter).canvas, session.analysis.master.rate
        letter = session.letter

        def keep() -> Brand:
            write_brand(path, brand_of(project, letter, name, canvas, rate))
            return read_brand(path)

        session.assets.do(keep, lambda brand: self._edit(
            lambda: with_brand(session.project, brand),
            tr("Brand {name} saved and applied", name=path.name)))

    def _edit(self, change: Callable[[], Project], said: str) -> None:
        session = self._session
        try:
            session.edit(change(), said)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            self.sync()


def _font_name(font: str) -> str:
    """A font without its folder."""
    return Path(font).stem if "/" in font else font
