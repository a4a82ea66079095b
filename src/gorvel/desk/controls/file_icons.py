"""The icons of file dialogs, drawn in the colours of the theme."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QFileInfo, QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QAbstractFileIconProvider,
    QColor,
    QIcon,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
    QPolygonF,
)

from gorvel.core.study.file import SUFFIX
from gorvel.core.table.file_kinds import kind_named
from gorvel.paint.theme import current

Drawing = Callable[[QPainter], None]

_GROUND = 16.0
_SIZES = (16, 32, 48)


class FileIcons(QAbstractFileIconProvider):
    """A folder, a table, a study or another file; nothing is asked of the system's icon theme."""

    def __init__(self) -> None:
        super().__init__()
        drawings: tuple[Drawing, ...] = (_folder, _page, _table, _study, _disk)
        self._icons = {draw: _made(draw) for draw in drawings}

    def icon(self, of: QAbstractFileIconProvider.IconType | QFileInfo) -> QIcon:
        """That of a file, or of a kind of place."""
        kinds = QAbstractFileIconProvider.IconType
        if isinstance(of, QFileInfo):
            return self._icons[_folder if of.isDir() else _drawing(Path(of.fileName()))]
        if of in (kinds.Computer, kinds.Drive, kinds.Network):
            return self._icons[_disk]
        return self._icons[_page if of == kinds.File else _folder]


def tool_icon(name: str) -> QIcon:
    """Of a button of the dialog: back, forward, up, new, list or details."""
    return _made(_TOOLS[name])


def _drawing(file: Path) -> Drawing:
    if file.suffix.lower() == SUFFIX:
        return _study
    return _page if kind_named(file.name) is None else _table


def _made(draw: Drawing) -> QIcon:
    """At the usual sizes; fainter where what it stands for is not available."""
    icon = QIcon()
    for mode, colour in (
        (QIcon.Mode.Normal, current().soft),
        (QIcon.Mode.Disabled, current().line),
    ):
        for size in _SIZES:
            pixmap = QPixmap(size, size)
            pixmap.fill(Qt.GlobalColor.transparent)
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(size / _GROUND, size / _GROUND)
            painter.setPen(QPen(QColor(colour), 1.3, c=Qt.PenCapStyle.RoundCap))
            draw(painter)
            painter.end()
            icon.addPixmap(pixmap, mode)
    return icon


def _folder(painter: QPainter) -> None:
    outline = [(1.5, 12.5), (1.5, 3.5), (6, 3.5), (7.5, 5.5), (14.5, 5.5), (14.5, 12.5)]
    painter.drawPolygon(QPolygonF([QPointF(*point) for point in outline]))


def _page(painter: QPainter) -> None:
    path = QPainterPath(QPointF(9.5, 1.5))
    for point in ((3, 1.5), (3, 14.5), (13, 14.5), (13, 5), (9.5, 1.5), (9.5, 5), (13, 5)):
        path.lineTo(*point)
    painter.drawPath(path)


def _table(painter: QPainter) -> None:
    painter.drawRect(QRectF(1.5, 2.5, 13, 11))
    painter.drawLines(
        [QLineF(1.5, 6, 14.5, 6), QLineF(1.5, 9.8, 14.5, 9.8), QLineF(6, 2.5, 6, 13.5)]
    )


def _study(painter: QPainter) -> None:
    """Two joins."""
    for left, top, right, bottom in ((9, 2.5, 13.5, 8), (3, 5.2, 9, 13)):
        painter.drawPolyline(
            [QPointF(right, top), QPointF(left, top), QPointF(left, bottom), QPointF(right, bottom)]
        )


def _disk(painter: QPainter) -> None:
    painter.drawRoundedRect(QRectF(1.5, 5, 13, 6.5), 1.5, 1.5)
    painter.drawPoint(QPointF(11.8, 8.3))


def _arrow(painter: QPainter, *turn: tuple[float, float]) -> None:
    painter.drawPolyline([QPointF(*point) for point in turn])


def _new(painter: QPainter) -> None:
    _folder(painter)
    painter.drawLines([QLineF(8, 7, 8, 11), QLineF(6, 9, 10, 9)])


def _lines(painter: QPainter, *columns: tuple[float, float]) -> None:
    painter.drawLines([QLineF(a, y, b, y) for y in (4, 8, 12) for a, b in columns])


_TOOLS: dict[str, Drawing] = {
    "back": lambda painter: _arrow(painter, (10, 3.5), (5.5, 8), (10, 12.5)),
    "forward": lambda painter: _arrow(painter, (6, 3.5), (10.5, 8), (6, 12.5)),
    "up": lambda painter: _arrow(painter, (3.5, 10), (8, 5.5), (12.5, 10)),
    "new": _new,
    "list": lambda painter: _lines(painter, (2.5, 6.5), (9.5, 13.5)),
    "details": lambda painter: _lines(painter, (2.5, 13.5)),
}
