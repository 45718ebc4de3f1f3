"""Colours, type and the style sheet: paper, slate, and how rigs are told apart.

The palettes are plain values, so that their contrast can be tested without a window.
"""

from dataclasses import dataclass, fields
from enum import StrEnum
from importlib.resources import as_file, files

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication

from blunt_ruler.core.board import Board, Column
from blunt_ruler.core.models import Role

FAMILY = "Barlow"
SMALL, SIDE, BODY, HEAD, BLUNT = 12, 13, 14, 16, 20  # pixels


class ThemeName(StrEnum):
    """Which theme is pinned; AUTO follows the desktop."""

    AUTO = "follow the desktop"
    PAPER = "paper"
    SLATE = "slate"


@dataclass(frozen=True, slots=True)
class Theme:
    """The colours of one theme, by role."""

    paper: str
    card: str
    side: str
    ink: str
    steel: str
    line: str
    blue: str
    selected: str
    gain: str
    loss: str
    caution: str
    brass: str
    rail: str
    rail_ink: str
    rail_steel: str
    narrow: str
    middle: str
    wide: str
    built_in: str
    reference: str
    rule: str


PAPER = Theme(
    paper="#F3EFE6",
    card="#FBF9F4",
    side="#EBE5D8",
    ink="#1D2428",
    steel="#57626A",
    line="#CFC8B8",
    blue="#1F4E79",
    selected="#DCE6EF",
    gain="#276B50",
    loss="#A83E2B",
    caution="#835A0B",
    brass="#E9C46A",
    rail="#1D2428",
    rail_ink="#FBF9F4",
    rail_steel="#A3ADB3",
    narrow="#6792B8",
    middle="#4F86B5",
    wide="#27609A",
    built_in="#858D92",
    reference="#1D2428",
    rule="#DAD6CC",
)
SLATE = Theme(
    paper="#242B30",
    card="#2B3338",
    side="#1A1F23",
    ink="#EFEAE0",
    steel="#A9B3BA",
    line="#424C53",
    blue="#8FBCE6",
    selected="#33475A",
    gain="#77C9A8",
    loss="#EC9480",
    caution="#DDB260",
    brass="#E9C46A",
    rail="#0D1113",
    rail_ink="#EFEAE0",
    rail_steel="#98A3AA",
    narrow="#5E87AB",
    middle="#7FABD3",
    wide="#A9D0F5",
    built_in="#8E979D",
    reference="#EFEAE0",
    rule="#39424A",
)


def load_fonts() -> None:
    """Make the shipped Barlow known to Qt."""
    for weight in (400, 500, 600, 700):
        name = f"barlow-latin-{weight}-normal.woff"
        with as_file(files("blunt_ruler").joinpath("resources", "fonts", name)) as path:
            QFontDatabase.addApplicationFont(str(path))


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
    return SLATE if name is ThemeName.SLATE else PAPER


_current = PAPER


def current() -> Theme:
    """The theme in use; painting code asks at every paint."""
    return _current


def apply_theme(app: QApplication, theme: Theme) -> None:
    """Dress the whole application."""
    global _current
    _current = theme
    app.setFont(font(BODY))
    palette = QPalette()
    ink, card = QColor(theme.ink), QColor(theme.card)
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
        (QPalette.ColorRole.PlaceholderText, QColor(theme.steel)),
        (QPalette.ColorRole.Link, QColor(theme.blue)),
    ):
        palette.setColor(role, colour)
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(theme.steel))
    app.setPalette(palette)
    sheet = files("blunt_ruler").joinpath("resources", "style.qss").read_text("utf-8")
    for field in fields(theme):
        sheet = sheet.replace(f"${field.name}$", getattr(theme, field.name))
    with as_file(files("blunt_ruler").joinpath("resources", "arrow.svg")) as arrow:
        app.setStyleSheet(sheet.replace("$arrow$", arrow.as_posix()))


def blend(first: str, second: str, share: float) -> QColor:
    """A colour between two, `share` of the way to the second."""
    a, b = QColor(first), QColor(second)
    return QColor(
        *(round(x + (y - x) * share) for x, y in zip(a.getRgb()[:3], b.getRgb()[:3], strict=True))
    )


def rig_colours(board: Board) -> dict[str, QColor]:
    """A colour for each rig: the wider its link, the darker its blue."""
    theme = current()
    widths = sorted({column.link_gb_per_s or 0.0 for column in board.columns if _is_linked(column)})
    colours = {}
    for column in board.columns:
        if column.role is Role.REFERENCE:
            colours[column.rig_id] = QColor(theme.reference)
        elif column.built_in:
            colours[column.rig_id] = QColor(theme.built_in)
        else:
            rank = widths.index(column.link_gb_per_s or 0.0) if _is_linked(column) else 0
            share = rank / (len(widths) - 1) if len(widths) > 1 else 0.5
            colours[column.rig_id] = (
                blend(theme.narrow, theme.middle, share * 2)
                if share < 0.5
                else blend(theme.middle, theme.wide, share * 2 - 1)
            )
    return colours


def _is_linked(column: Column) -> bool:
    return not column.built_in and column.role is not Role.REFERENCE


def contrast(first: str, second: str) -> float:
    """Contrast ratio of two colours by WCAG 2.2: 1 for equal, 21 for black on white."""
    lighter, darker = sorted((_luminance(first), _luminance(second)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


def _luminance(colour: str) -> float:
    channels = [int(colour[index : index + 2], 16) / 255 for index in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
