"""Rows and columns of widgets, written as they are seen."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QLayout, QSplitter, QVBoxLayout, QWidget

from gorvel.paint.theme import SPACE

_Layout = TypeVar("_Layout", bound=QBoxLayout)
Item = QWidget | QLayout
# an item, how much of the room it takes, its side; pixels left free; None: room that is left over
Part = Item | int | None | tuple[Item, int] | tuple[QWidget, int, Qt.AlignmentFlag]
Edges = tuple[int, int, int, int] | None  # pixels left, above, right, below; None: as windows have


def in_row(*parts: Part, space: int | None = SPACE, edges: Edges = None) -> QHBoxLayout:
    """Side by side. space : pixels between, None as windows have."""
    return _arranged(QHBoxLayout(), parts, space, edges)


def in_column(*parts: Part, space: int | None = None, edges: Edges = None) -> QVBoxLayout:
    """Below each other. space : pixels between, None as windows have."""
    return _arranged(QVBoxLayout(), parts, space, edges)


def fill(
    owner: QWidget, *parts: Part, space: int | None = SPACE // 2, edges: Edges = (0, 0, 0, 0)
) -> QVBoxLayout:
    """Fill a widget from top to bottom."""
    return _arranged(QVBoxLayout(owner), parts, space, edges)


def fill_row(
    owner: QWidget, *parts: Part, space: int | None = SPACE // 2, edges: Edges = (0, 0, 0, 0)
) -> QHBoxLayout:
    """Fill a widget from left to right."""
    return _arranged(QHBoxLayout(owner), parts, space, edges)


def _arranged(layout: _Layout, parts: tuple[Part, ...], space: int | None, edges: Edges) -> _Layout:
    if edges is not None:
        layout.setContentsMargins(*edges)
    if space is not None:
        layout.setSpacing(space)
    for part in parts:
        put(layout, part)
    return layout


def put(layout: QBoxLayout, part: Part) -> None:
    """Another part at the end of a row or column."""
    if part is None:
        layout.addStretch(1)
    elif isinstance(part, int):
        layout.addSpacing(part)
    else:
        item, stretch, *side = part if isinstance(part, tuple) else (part, 0)
        if isinstance(item, QLayout):
            layout.addLayout(item, stretch)
        else:
            layout.addWidget(item, stretch, *side)


def held_by(layout: QLayout) -> QWidget:
    """A widget for a row or column, where a layout takes only widgets."""
    out = QWidget()
    layout.setContentsMargins(0, 0, 0, 0)
    out.setLayout(layout)
    return out


def centred(owner: QWidget, box: QWidget) -> None:
    """Put a box a little above the middle of a widget."""
    layout = QVBoxLayout(owner)
    layout.addStretch(2)
    layout.addWidget(box, 0, Qt.AlignmentFlag.AlignHCenter)
    layout.addStretch(3)


def split(
    *parts: QWidget, sizes: Sequence[int] = (), shares: Sequence[int] = (), down: bool = False,
    gap: int = SPACE,
) -> QSplitter:  # fmt: skip
    """Parts whose sizes the user can change, none to nothing.

    sizes : pixels at first; shares : how further room is shared; gap : pixels between.
    """
    way = Qt.Orientation.Vertical if down else Qt.Orientation.Horizontal
    splitter = QSplitter(way)
    for part in parts:
        splitter.addWidget(part)
    for place, share in enumerate(shares):
        splitter.setStretchFactor(place, share)
    if sizes:
        splitter.setSizes(list(sizes))
    splitter.setHandleWidth(gap)
    splitter.setChildrenCollapsible(False)
    return splitter
