"""Layouts in one line each: what stands beside or below one another, and what takes the room."""

from collections.abc import Iterator
from typing import Final, TypeAlias, TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QBoxLayout, QHBoxLayout, QLayout, QVBoxLayout, QWidget


class _Stretch:
    """Takes what room is left."""


STRETCH: Final = _Stretch()
Alone: TypeAlias = QWidget | QLayout | int | _Stretch
Item: TypeAlias = Alone | tuple[QWidget | QLayout, int | Qt.AlignmentFlag]
"""A widget, a layout, a gap in pixels or STRETCH; one with its share of the room, or its place."""
Margins: TypeAlias = tuple[int, int, int, int]
Box = TypeVar("Box", bound=QBoxLayout)


def beside(
    *items: Item,
    spacing: int | None = None,
    margins: Margins | None = None,
    on: QWidget | None = None,
) -> QHBoxLayout:
    """Items beside one another; `on` makes it the layout of a widget, to its edges."""
    return _filled(QHBoxLayout(), items, spacing, margins, on)


def stacked(
    *items: Item,
    spacing: int | None = None,
    margins: Margins | None = None,
    on: QWidget | None = None,
) -> QVBoxLayout:
    """Items below one another; `on` makes it the layout of a widget, to its edges."""
    return _filled(QVBoxLayout(), items, spacing, margins, on)


def _filled(
    box: Box,
    items: tuple[Item, ...],
    spacing: int | None,
    margins: Margins | None,
    on: QWidget | None,
) -> Box:
    if on is not None:
        on.setLayout(box)
        margins = margins or (0, 0, 0, 0)
    if margins is not None:
        box.setContentsMargins(*margins)
    if spacing is not None:
        box.setSpacing(spacing)
    for item in items:
        one, extra = item if isinstance(item, tuple) else (item, 0)
        share = extra if isinstance(extra, int) and not isinstance(extra, Qt.AlignmentFlag) else 0
        if isinstance(one, _Stretch):
            box.addStretch(1)
        elif isinstance(one, int):
            box.addSpacing(one)
        elif isinstance(one, QLayout):
            box.addLayout(one, share)
        elif isinstance(extra, Qt.AlignmentFlag):
            box.addWidget(one, 0, extra)
        else:
            box.addWidget(one, share)
    return box


def widgets_in(layout: QLayout) -> Iterator[QWidget]:
    """The widgets of a layout and of those in it, in their order."""
    for at in range(layout.count()):
        item = layout.itemAt(at)
        widget, inner = (None, None) if item is None else (item.widget(), item.layout())
        if widget is not None:
            yield widget
        elif inner is not None:
            yield from widgets_in(inner)
