"""Colours by role, and how rigs are told apart: the same on screen, on paper and in charts.

Plain values, so that their contrast can be tested without a window.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from blunt_ruler.core.records.roles import Role

if TYPE_CHECKING:
    from blunt_ruler.core.board.board import Board, Column


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
CONTRAST = Theme(
    paper="#FFFFFF",
    card="#FFFFFF",
    side="#F2F2F2",
    ink="#000000",
    steel="#2B2B2B",
    line="#6B6B6B",
    blue="#00327A",
    selected="#BFD9FF",
    gain="#00492C",
    loss="#8A1200",
    caution="#5B3A00",
    brass="#FFD54A",
    rail="#000000",
    rail_ink="#FFFFFF",
    rail_steel="#E0E0E0",
    narrow="#4A7FB5",
    middle="#225E9B",
    wide="#003C78",
    built_in="#5A5A5A",
    reference="#000000",
    rule="#8C8C8C",
)

# A square, a lozenge and two triangles around a point: marks differ without their colours.
MARK_CORNERS = (
    ((-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)),
    ((0.0, -1.3), (1.3, 0.0), (0.0, 1.3), (-1.3, 0.0)),
    ((0.0, -1.25), (1.2, 1.0), (-1.2, 1.0)),
    ((0.0, 1.25), (1.2, -1.0), (-1.2, -1.0)),
)


def mark_corners(number: int, x: float, y: float, size: float) -> list[tuple[float, float]]:
    """The corners of mark `number` (they repeat after four) around a point."""
    return [(x + dx * size, y + dy * size) for dx, dy in MARK_CORNERS[number % len(MARK_CORNERS)]]


def blend(first: str, second: str, share: float) -> str:
    """A colour between two, `share` of the way to the second."""
    pairs = zip(_channels(first), _channels(second), strict=True)
    return "#" + "".join(f"{round(x + (y - x) * share):02X}" for x, y in pairs)


def _channels(colour: str) -> tuple[int, ...]:
    return tuple(int(colour[index : index + 2], 16) for index in (1, 3, 5))


def rig_shades(board: Board, theme: Theme) -> dict[str, str]:
    """A colour for each rig: the wider its link, the darker its blue."""
    widths = sorted({column.link_gb_per_s or 0.0 for column in board.columns if _is_linked(column)})
    shades = {}
    for column in board.columns:
        if column.role is Role.REFERENCE:
            shades[column.rig_id] = theme.reference
        elif column.built_in:
            shades[column.rig_id] = theme.built_in
        else:
            rank = widths.index(column.link_gb_per_s or 0.0) if _is_linked(column) else 0
            share = rank / (len(widths) - 1) if len(widths) > 1 else 0.5
            shades[column.rig_id] = (
                blend(theme.narrow, theme.middle, share * 2)
                if share < 0.5
                else blend(theme.middle, theme.wide, share * 2 - 1)
            )
    return shades


def _is_linked(column: Column) -> bool:
    return not column.built_in and column.role is not Role.REFERENCE


def contrast(first: str, second: str) -> float:
    """Contrast ratio of two colours by WCAG 2.2: 1 for equal, 21 for black on white."""
    lighter, darker = sorted((_luminance(first), _luminance(second)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


def _luminance(colour: str) -> float:
    channels = [channel / 255 for channel in _channels(colour)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
