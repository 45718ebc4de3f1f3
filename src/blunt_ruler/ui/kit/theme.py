"""The palettes and the type in Qt's own kinds, and the style sheet made of them."""

from __future__ import annotations

from dataclasses import fields
from enum import StrEnum

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication, QWidget

from blunt_ruler.core.drawing import palette
from blunt_ruler.core.drawing.palette import CONTRAST, PAPER, SLATE, Theme
from blunt_ruler.exchange.printing.fonts import font_file
from blunt_ruler.files import shipped

FAMILY = "Barlow"
SMALL, SIDE, BODY, HEAD, BLUNT = 12, 13, 14, 16, 20  # pixels


class ThemeName(StrEnum):
    """Which theme is pinned; AUTO follows the desktop."""

    AUTO = "follow the desktop"
    PAPER = "paper"
    SLATE = "slate"
    CONTRAST = "high contrast"


def load_fonts() -> None:
    """Make the shipped Barlow known to Qt."""
    for weight in (400, 500, 600, 700):
        QFontDatabase.addApplicationFont(str(font_file(weight)))


def font(pixels: int, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Barlow at a size, with numerals of one width so that figures line up."""
    made = QFont(FAMILY)
    made.setPixelSize(pixels)
    made.setWeight(weight)
    made.setHintingPreference(
        QFont.HintingPreference.PreferNoHinting
    )  # hinted, its i loses the dot
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


BOLD = QFont.Weight.Bold
SEMIBOLD = QFont.Weight.DemiBold
MEDIUM = QFont.Weight.Medium


def wanted_theme(name: ThemeName) -> Theme:
    """The theme for a name; AUTO asks the desktop."""
    if name is ThemeName.AUTO:
        hints = QGuiApplication.styleHints()
        dark = hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark
        return SLATE if dark else PAPER
    return {ThemeName.SLATE: SLATE, ThemeName.CONTRAST: CONTRAST}.get(name, PAPER)


_current = PAPER


def current() -> Theme:
    """The theme in use; painting code asks at every paint."""
    return _current


def apply_theme(app: QApplication, theme: Theme) -> None:
    """Give the application the type and the colours of a theme; windows are dressed one by one."""
    global _current
    _current = theme
    app.setFont(font(BODY))
    colours = QPalette()
    ink, card, faint = QColor(theme.ink), QColor(theme.card), QColor(theme.ink)
    faint.setAlpha(128)
    for role, colour in (
        (QPalette.ColorRole.Window, QColor(theme.paper)),
        (QPalette.ColorRole.Base, card),
        (QPalette.ColorRole.AlternateBase, QColor(theme.paper)),
        (QPalette.ColorRole.Button, card),
        (QPalette.ColorRole.WindowText, ink),
        (QPalette.ColorRole.Text, ink),
        (QPalette.ColorRole.ButtonText, ink),
        (QPalette.ColorRole.ToolTipBase, QColor(theme.ink)),
        (QPalette.ColorRole.ToolTipText, card),
        (QPalette.ColorRole.Highlight, QColor(theme.selected)),
        (QPalette.ColorRole.HighlightedText, ink),
        (QPalette.ColorRole.PlaceholderText, faint),
        (QPalette.ColorRole.Link, QColor(theme.blue)),
    ):
        colours.setColor(role, colour)
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        colours.setColor(QPalette.ColorGroup.Disabled, role, QColor(theme.steel))
    app.setPalette(colours)


def dress(window: QWidget) -> None:
    """Put the style sheet of the theme in use on a window, and so on all that it holds.

    The application itself has none: each part that is put into another would be styled anew with
    all its own parts, which takes most of the time in which a page is made.
    """
    sheet = shipped("resources", "style.qss").read_text("utf-8")
    for field in fields(_current):
        sheet = sheet.replace(f"${field.name}$", getattr(_current, field.name))
    for image in ("arrow", "tick"):
        sheet = sheet.replace(f"${image}$", shipped("resources", f"{image}.svg").as_posix())
    window.setStyleSheet(sheet)


def blend(first: str, second: str, share: float) -> QColor:
    """A colour between two, `share` of the way to the second."""
    return QColor(palette.blend(first, second, share))
