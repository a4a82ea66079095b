"""Columns of the desk and other paintings as figures for print, as they are on screen."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QBuffer, QByteArray, QMarginsF, QMimeData, QRectF, QSize, QSizeF
from PySide6.QtGui import QColor, QImage, QPageLayout, QPageSize, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

from gorvel.core.base.errors import InputError
from gorvel.core.base.writing import replacing
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.column import CaseSpan, ColumnPicture
from gorvel.paint.theme import LIGHT, font

_INCH = 25.4  # millimetres
_DOTS = 96.0  # an inch, that sizes of fonts and lines are told for
_PDF_DOTS = 1200
_WORDS = 0.36  # of a figure that a column of words may take
_LONGEST_SIDE, _MOST_DOTS = 30_000, 250_000_000  # of an image
_NO_XML = re.compile(rb"[\x00-\x08\x0b\x0c\x0e-\x1f]|\xef\xbf[\xbe\xbf]")  # in no document


class Printable(Protocol):
    """What can be drawn on paper. width, height : millimetres; dots : an inch, of images."""

    @property
    def width(self) -> float: ...

    @property
    def height(self) -> float: ...

    @property
    def dots(self) -> float: ...

    @property
    def title(self) -> str: ...

    def paint(self, painter: QPainter) -> None:
        """Draw, in pixels of 96 an inch."""
        ...


def extent_of(figure: Printable) -> QSizeF:
    """In the pixels that fonts and lines are told in."""
    return QSizeF(*(round(side / _INCH * _DOTS, 6) for side in (figure.width, figure.height)))


@dataclass(frozen=True)
class Sheet:
    """One painting by itself. draw : paints on a canvas of so many pixels in the light looks."""

    draw: Callable[[Canvas, float, float], None]
    width: float = 170.0
    height: float = 120.0
    dots: float = 300.0
    title: str = "Figure"

    def paint(self, painter: QPainter) -> None:
        """On white, letters as shapes."""
        size = extent_of(self)
        painter.fillRect(QRectF(0, 0, size.width(), size.height()), QColor(LIGHT.panel))
        self.draw(Canvas(painter, outlines=True), size.width(), size.height())


@dataclass(frozen=True)
class Figure:
    """What is drawn and how large.

    shares : how wide the columns are beside each other; span : the cases in sight; width, height :
    millimetres; dots : an inch, of images; whole : all cases, or those in sight; outlines : letters
    as shapes, so that no font is needed.
    """

    columns: Sequence[ColumnPicture]
    shares: Sequence[float]
    span: CaseSpan
    width: float = 170.0
    height: float = 120.0
    dots: float = 300.0
    whole: bool = True
    outlines: bool = True
    title: str = "Tree"

    def paint(self, painter: QPainter) -> None:
        """Draw the columns side by side, or one above the other when upright."""
        size, upright = extent_of(self), self.span.upright
        painter.setFont(font())  # not what the application has set
        ground = QColor(self.columns[0].look.theme.panel)
        painter.fillRect(QRectF(0, 0, size.width(), size.height()), ground)
        across, along = size.width(), size.height()
        if upright:
            across, along = along, across
        begin, span = 0.0, self.span.fitted(along, self.whole)
        for column, wide in zip(self.columns, self._widths(across), strict=True):
            painter.save()
            painter.translate(*((0.0, begin) if upright else (begin, 0.0)))
            canvas = Canvas(painter, upright, self.outlines)
            frame = span.frame(*column_ends(column, wide))
            column.paint_whole(canvas, frame, wide)
            painter.restore()
            begin += wide

    def _widths(self, across: float) -> list[float]:
        """The room shared out, after those columns that want a width of their own."""
        own = [column.natural(across * _WORDS) for column in self.columns]
        own = [min(wide, across / 2) for wide in own] if len(own) > 1 else [0.0]
        rest = sum(share for wide, share in zip(own, self.shares, strict=True) if not wide)
        left = across - sum(own)
        return [wide or left * share / rest for wide, share in zip(own, self.shares, strict=True)]


def column_ends(column: ColumnPicture, wide: float) -> tuple[float, float]:
    """Where a column begins and ends across, on so many pixels."""
    before, after = column.margin
    return before, max(wide - after, before + 1)


def dots_of(width: float, height: float, dots: float) -> QSize:
    """The size of an image of so many millimetres. dots : an inch."""
    return QSizeF(width * dots / _INCH, height * dots / _INCH).toSize().expandedTo(QSize(1, 1))


def is_too_large(size: QSize) -> bool:
    """Has an image more dots than can be made?"""
    sides = (size.width(), size.height())
    return max(sides) > _LONGEST_SIDE or sides[0] * sides[1] > _MOST_DOTS


def image_of_figure(figure: Printable, dots: float | None = None) -> QImage:
    """The figure as an image.

    Raises
    ------
    InputError : it would have more dots than an image can hold.
    """
    scale = (dots or figure.dots) / _DOTS
    size = dots_of(figure.width, figure.height, dots or figure.dots)
    image = QImage() if is_too_large(size) else QImage(size, QImage.Format.Format_RGB32)
    if image.isNull():  # or there is no memory for it
        expected = f"at most {_LONGEST_SIDE:,} along a side and {_MOST_DOTS:,} in all: a smaller"
        expected += " figure, a lower resolution, or PDF or SVG"
        raise InputError(f"an image of {size.width():,} by {size.height():,} pixels", expected)
    image.setDotsPerMeterX(round((dots or figure.dots) / _INCH * 1000))
    image.setDotsPerMeterY(round((dots or figure.dots) / _INCH * 1000))
    with QPainter(image) as painter:
        painter.scale(scale, scale)
        figure.paint(painter)
    return image


def svg_of_figure(figure: Printable) -> bytes:
    """The figure as an SVG document."""
    buffer = QBuffer()
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setResolution(round(_DOTS))
    size = extent_of(figure)
    generator.setSize(size.toSize())
    generator.setViewBox(QRectF(0, 0, size.width(), size.height()))
    generator.setTitle(figure.title)
    with QPainter(generator) as painter:
        figure.paint(painter)
    return _NO_XML.sub(b"", bytes(buffer.data().data()))


def drawn(figure: Printable, kind: str) -> Callable[[Path], None]:
    """The figure drawn now; what is returned puts it into a file, on any thread.

    kind : "svg", "pdf" or "png".

    Raises
    ------
    InputError : another kind, or a figure that cannot be made.
    """
    if kind not in ("svg", "pdf", "png"):
        found = f'the file type ".{kind}"' if kind else "a name without a file type"
        raise InputError(found, ".svg, .pdf or .png")
    if kind == "png":
        image = image_of_figure(figure)
        return lambda path: _save_image(image, path)
    data = _pdf_of(figure) if kind == "pdf" else svg_of_figure(figure)

    def put(path: Path) -> None:
        with replacing(path) as part:
            part.write_bytes(data)

    return put


def _save_image(image: QImage, path: Path) -> None:
    buffer = QByteArray()
    device = QBuffer(buffer)
    if not image.save(device, "PNG"):  # type: ignore[call-overload]
        raise InputError("an image that cannot be made", "a smaller figure", file=str(path))
    with replacing(path) as part:
        part.write_bytes(bytes(buffer.data()))


def _pdf_of(figure: Printable) -> bytes:
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(_PDF_DOTS)
    millimetres = QPageSize.Unit.Millimeter
    writer.setPageSize(QPageSize(QSizeF(figure.width, figure.height), millimetres))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout.Unit.Millimeter)
    writer.setTitle(figure.title)
    with QPainter(writer) as painter:
        painter.scale(_PDF_DOTS / _DOTS, _PDF_DOTS / _DOTS)
        figure.paint(painter)
    return bytes(buffer.data().data())


def as_mime(figure: Printable) -> QMimeData:
    """The figure for the clipboard: an image, and SVG for programs that take it."""
    data = QMimeData()
    data.setImageData(image_of_figure(figure))
    data.setData("image/svg+xml", QByteArray(svg_of_figure(figure)))
    return data
