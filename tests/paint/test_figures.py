"""Figures are whole, of the kind that their name says, or refused with a reason."""

from __future__ import annotations

import os
import resource
import signal
import xml.dom.minidom
from pathlib import Path

import pytest
from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QImage, QPainter

from gorvel.core.base.errors import InputError
from gorvel.paint.canvas import Canvas
from gorvel.paint.figure import Sheet, dots_of, drawn, image_of_figure, is_too_large

pytestmark = pytest.mark.usefixtures("qapp")  # nothing can be painted before there is one
BEGINS = {"svg": b"<?xml", "pdf": b"%PDF", "png": b"\x89PNG"}


def sheet(words: str = "words", **size: float) -> Sheet:
    def draw(canvas: Canvas, wide: float, high: float) -> None:
        canvas.painter.setPen(QColor("black"))
        canvas.painter.drawText(10, 20, words)
        canvas.painter.drawRect(5, 5, round(wide) - 10, round(high) - 10)

    return Sheet(draw, **size)


class Plain(Sheet):
    """With letters as letters."""

    def paint(self, painter: QPainter) -> None:
        self.draw(Canvas(painter), 400.0, 300.0)


@pytest.mark.parametrize("kind", BEGINS)
def test_a_figure_is_of_its_kind_and_whole(tmp_path: Path, kind: str) -> None:
    path = tmp_path / f"f.{kind}"
    drawn(sheet(), kind)(path)
    whole = path.read_bytes()
    assert whole.startswith(BEGINS[kind])
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    before = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (100, hard))  # the disk is full
    try:
        with pytest.raises(InputError, match=rf"f\.{kind}"):
            drawn(sheet("others"), kind)(path)
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
        signal.signal(signal.SIGXFSZ, before)
    assert path.read_bytes() == whole
    assert os.listdir(tmp_path) == [path.name]


@pytest.mark.parametrize("kind", ["jpg", "bmp", "", "tiff"])
def test_another_kind_is_refused(kind: str) -> None:
    with pytest.raises(InputError, match=r"expected \.svg, \.pdf or \.png"):
        drawn(sheet(), kind)


def test_an_image_of_too_many_dots_is_refused_before_it_is_made() -> None:
    huge = sheet(width=2000.0, height=2000.0, dots=1200.0)
    with pytest.raises(InputError, match="an image of 94,488 by 94,488 pixels; expected at most"):
        drawn(huge, "png")
    assert drawn(huge, "svg") is not None
    assert is_too_large(dots_of(2000.0, 20.0, 400.0))
    assert not is_too_large(dots_of(2000.0, 150.0, 300.0))
    size = dots_of(85.0, 60.0, 300.0)
    assert size == QSize(1004, 709)
    image = image_of_figure(sheet(width=85.0, height=60.0))
    assert isinstance(image, QImage)
    assert image.size() == size


def test_a_drawing_is_well_formed_whatever_its_words(tmp_path: Path) -> None:
    path = tmp_path / "f.svg"
    words = "a\x01b\x0c\x1f<&\uffff\ufffe\u0085 é漢"
    drawn(Plain(sheet(words).draw), "svg")(path)
    text = xml.dom.minidom.parse(str(path)).toxml()
    assert "é" in text
    assert "漢" in text
    assert "\x01" not in text
