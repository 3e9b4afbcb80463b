"""How everything looks: neutral greys round pictures, warm sand words, one tawny accent."""

from __future__ import annotations

import re

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette, QPen
from PySide6.QtWidgets import QApplication

from caracal.core.base.resources import shipped

GROUND = "#1b1b1b"
PANEL = "#242424"
RAISED = "#303030"
EDGE = "#3d3d3d"  # parts surfaces
OUTLINE = "#767168"  # of fields, buttons and ticks: 3:1 (WCAG 2.2, 1.4.11)
OFF = "#857f74"  # words of what cannot be used now: 3:1
CHOSEN = "#3f2b17"  # behind what is selected: words on it 4.5:1
ON, ON_WORDS = "#c9b897", "#1b1510"  # a button that is on: 3:1 against one that is off
HANDLE = "#77736c"  # of scroll bars: 3:1
WORDS = "#e6dac4"
QUIET = "#a89e8d"
ACCENT = "#d08a3c"
INK = "#1b1510"
GOOD = "#8fb58a"
BAD = "#e8886c"
GRID = 8

# Okabe and Ito's colours, told apart by letter and line first.
VERSION_COLOURS = ("#e69f00", "#56b4e9", "#009e73", "#f0e442", "#cc79a7", "#d55e00")
VERSION_LINES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine,
                 Qt.PenStyle.DashDotLine, Qt.PenStyle.DashDotDotLine, Qt.PenStyle.SolidLine)

TICK = shipped("icons", "tick.svg").as_posix()
ARROW = shipped("icons", "down.svg").as_posix()

# What has the keyboard has a ring two pixels wide, within its own size: nothing moves.
RINGS = f"""
QPushButton:focus {{ border: 2px solid {WORDS}; padding: 5px 13px; }}
QPushButton:checked:focus {{ border: 2px solid {ON_WORDS}; }}
QPushButton#small:focus {{ padding: 1px 7px; }}
QPushButton#slim:focus {{ padding: 1px 4px; }}
QPushButton#tab:focus, QPushButton#tab:checked:focus {{ border: 2px solid {WORDS};
  padding: 6px 8px 7px 8px; }}
QPushButton#fold:focus, QPushButton#fold:checked:focus, QPushButton#dot:focus {{
  border: 2px solid {WORDS}; padding: 1px 0; }}
QPushButton#view:focus, QPushButton#view:checked:focus {{ border: 2px solid {WORDS};
  padding: 8px 8px 8px 11px; }}
QLineEdit:focus, QDoubleSpinBox:focus, QComboBox:focus {{ border: 2px solid {WORDS};
  padding: 2px 5px; }}
QComboBox#small:focus {{ padding: 0 5px; }}
QRadioButton::indicator:focus {{ border: 2px solid {WORDS}; width: 10px; height: 10px; }}
QRadioButton::indicator:checked:focus {{ background: {ACCENT}; }}
QCheckBox::indicator:focus {{ border: 2px solid {WORDS}; width: 12px; height: 12px; }}
QTableView:focus, QListWidget:focus {{ border: 2px solid {WORDS}; }}
QPlainTextEdit:focus {{ border: 2px solid {WORDS}; padding: 0; }}
"""

SHEET = f"""
* {{ font-size: 13px; color: {WORDS}; }}
QMainWindow, QWidget#ground {{ background: {GROUND}; }}
QWidget#panel {{ background: {PANEL}; }}
QLabel#quiet {{ color: {QUIET}; }}
QLabel#title {{ font-size: 22px; font-weight: 600; }}
QLabel#head {{ font-weight: 600; }}
QLabel#bad {{ color: {BAD}; }}
QPushButton {{ background: {RAISED}; border: 1px solid {OUTLINE}; border-radius: 4px;
  padding: 6px 14px; min-height: 18px; }}
QPushButton:hover {{ border-color: {QUIET}; }}
QPushButton:checked {{ background: {ON}; color: {ON_WORDS}; border-color: {ON}; }}
QPushButton:disabled {{ color: {OFF}; border-color: #2e2e2e; }}
QPushButton#small {{ padding: 2px 8px; font-size: 12px; min-height: 16px; }}
QPushButton#slim {{ padding: 2px 5px; font-size: 12px; min-height: 16px; }}
QPushButton#small:disabled {{ background: transparent; }}
QLineEdit, QDoubleSpinBox, QComboBox {{ background: {RAISED}; border: 1px solid {OUTLINE};
  border-radius: 4px; padding: 3px 6px; min-height: 18px; selection-background-color: {CHOSEN}; }}
QPlainTextEdit {{ background: {RAISED}; border: 1px solid {OUTLINE}; border-radius: 4px;
  padding: 1px; selection-background-color: {CHOSEN}; }}
QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{ width: 0; border: none; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url({ARROW}); width: 10px; height: 6px; }}
QComboBox#small {{ padding: 1px 6px; font-size: 12px; min-height: 16px; }}
QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {OUTLINE}; border-radius: 3px;
  background: {RAISED}; }}
QCheckBox::indicator:checked, QTableView::indicator:checked {{ background: {ACCENT};
  border: 1px solid {ACCENT}; image: url({TICK}); }}
QRadioButton::indicator {{ width: 12px; height: 12px; border: 1px solid {OUTLINE};
  border-radius: 7px; background: {RAISED}; }}
QRadioButton::indicator:checked {{ border: 4px solid {ACCENT}; width: 6px; height: 6px;
  background: {INK}; }}
QTableView::indicator {{ width: 14px; height: 14px; border: 1px solid {OUTLINE}; border-radius: 3px;
  background: {RAISED}; }}
QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; }}
QComboBox QAbstractItemView {{ background: {RAISED}; selection-background-color: {CHOSEN}; }}
QPushButton#tab {{ background: transparent; border: 2px solid transparent;
  border-bottom: 3px solid transparent; border-radius: 0; padding: 6px 8px; color: {QUIET}; }}
QPushButton#tab:hover {{ color: {WORDS}; }}
QPushButton#tab:checked {{ color: {WORDS}; background: transparent; font-weight: 600;
  border-bottom-color: {ACCENT}; }}
QPushButton#fold {{ background: transparent; border: 1px solid transparent; padding: 2px 0;
  color: {QUIET}; text-align: left; }}
QPushButton#fold:hover, QPushButton#fold:checked {{ background: transparent; color: {WORDS};
  border-color: transparent; }}
QPushButton#dot {{ background: transparent; border: 1px solid transparent; padding: 0;
  color: {ACCENT}; font-size: 11px; min-height: 16px; }}
QPushButton#dot:hover {{ color: {WORDS}; }}
QFrame#side {{ background: {PANEL}; border: 1px solid {EDGE}; }}
QPushButton#main {{ background: {ACCENT}; color: #1b1510; border-color: {ACCENT};
  font-weight: 600; }}
QPushButton#main:disabled {{ background: #55422b; color: #a89a86; border-color: #55422b; }}
QPushButton#view {{ border: 2px solid transparent; border-left: 3px solid transparent;
  border-radius: 0; background: transparent; text-align: left; padding: 8px 8px 8px 10px;
  color: {QUIET}; }}
QPushButton#view:checked {{ border-left-color: {ACCENT}; color: {WORDS}; background: {RAISED}; }}
QPushButton#view:disabled {{ color: {OFF}; }}
QSlider::groove:horizontal {{ background: {HANDLE}; height: 2px; border-radius: 1px; }}
QSlider::handle:horizontal {{ background: {ON}; width: 10px; margin: -6px 0; border-radius: 5px; }}
QSlider:focus {{ border: 2px solid {WORDS}; border-radius: 4px; }}
QProgressBar {{ background: {RAISED}; border: none; border-radius: 3px; height: 6px; }}
QProgressBar::chunk {{ background: {ACCENT}; border-radius: 3px; }}
QMenuBar, QMenu {{ background: {PANEL}; }}
QMenuBar::item:selected, QMenu::item:selected {{ background: {RAISED}; }}
QMenu::item:disabled {{ color: {OFF}; }}
QStatusBar {{ background: {PANEL}; color: {QUIET}; }}
QStatusBar::item {{ border: none; }}
QLabel#hint {{ color: {QUIET}; padding-right: 8px; }}
QToolTip {{ background: {RAISED}; color: {WORDS}; border: 1px solid {EDGE}; padding: 4px; }}
QTableView {{ background: {PANEL}; gridline-color: {EDGE}; border: 2px solid transparent;
  selection-background-color: {CHOSEN}; selection-color: {WORDS}; outline: 0; }}
QTableView::item {{ padding: 2px 8px; }}
QTableView::item:selected {{ background: {CHOSEN}; color: {WORDS};
  border-top: 2px solid {ACCENT}; border-bottom: 2px solid {ACCENT}; }}
QHeaderView::section {{ background: {PANEL}; color: {QUIET}; border: none;
  border-bottom: 1px solid {EDGE}; padding: 6px 8px; text-align: left; }}
QScrollBar:vertical {{ background: {GROUND}; width: 10px; }}
QScrollBar::handle:vertical {{ background: {HANDLE}; border-radius: 5px; min-height: 30px; }}
QScrollBar:horizontal {{ background: {GROUND}; height: 10px; }}
QScrollBar::handle:horizontal {{ background: {HANDLE}; border-radius: 5px; min-width: 30px; }}
QAbstractScrollArea::corner {{ background: {GROUND}; border: none; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QListWidget {{ background: {PANEL}; border: 2px solid {EDGE}; border-radius: 4px; }}
QListWidget::item {{ padding: 8px; }}
QListWidget::item:selected {{ background: {CHOSEN}; color: {WORDS};
  border-left: 3px solid {ACCENT}; }}
{RINGS}"""


USUAL_PT = 11.0  # of a system's font: up to here all is as it was drawn
MOST_SCALE = 1.6
_scale = [1.0]  # how many times as large as drawn all words are


def scale_of(application: QApplication) -> float:
    """How many times as large as usual the system's own font is, 1 to MOST_SCALE."""
    if QGuiApplication.platformName() == "offscreen":
        return 1.0  # its font is nobody's choice
    font, screen = QApplication.font(), application.primaryScreen()
    dots = screen.logicalDotsPerInch() if screen is not None else 96.0
    points = font.pointSizeF() if font.pointSizeF() > 0 else font.pixelSize() * 72 / dots
    return min(max(1.0, round(points * dots / 96.0 / USUAL_PT, 2)), MOST_SCALE)


def scaled(pixels: float) -> int:
    """A width or height that holds words, as large as these are."""
    return round(pixels * _scale[0])


def word_scale() -> float:
    """How many times as large as drawn all words are."""
    return _scale[0]


def style_sheet() -> str:
    """The style sheet with its words as large as the system's."""
    return re.sub(r"font-size: (\d+)px", lambda found: f"font-size: {scaled(int(found[1]))}px",
                  SHEET)


def dress(application: QApplication, scale: float | None = None) -> None:
    """Fonts, palette and style sheet for the whole program; words ``scale`` times as large as
    drawn, or None: as the system's own."""
    _scale[0] = scale_of(application) if scale is None else scale
    for file in sorted(shipped("fonts").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(file))
    application.setStyle("Fusion")
    application.setFont(ui_font())
    palette = QPalette()
    for role, tint in (
        (QPalette.ColorRole.Window, GROUND), (QPalette.ColorRole.Base, PANEL),
        (QPalette.ColorRole.Text, WORDS), (QPalette.ColorRole.WindowText, WORDS),
        (QPalette.ColorRole.Button, RAISED), (QPalette.ColorRole.ButtonText, WORDS),
        (QPalette.ColorRole.PlaceholderText, QUIET),
        (QPalette.ColorRole.Highlight, ACCENT), (QPalette.ColorRole.HighlightedText, GROUND),
    ):
        palette.setColor(role, QColor(tint))
    application.setPalette(palette)
    application.setStyleSheet(style_sheet())


def ui_font(size: int = 13, bold: bool = False) -> QFont:
    """The program's font, drawn for ``size`` pixels, with tabular figures."""
    font = QFont("Figtree")
    font.setPixelSize(scaled(size))
    font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


def version_pen(index: int, width: float = 1.6) -> QPen:
    """The line of version number ``index``: its pattern first, its hue second."""
    pen = QPen(QColor(VERSION_COLOURS[index % len(VERSION_COLOURS)]), width)
    pen.setStyle(VERSION_LINES[index % len(VERSION_LINES)])
    return pen
