"""Pictures in the documentation show something in every panel."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtGui import QColor, QImage, QPainter

PICTURES = sorted((Path(__file__).parents[2] / "docs" / "screenshots").glob("*.png"))
CELL, WIDE, HIGH = 10, 44, 46  # pixels of a cell; cells of an area that must not be empty


def has_empty_area(image: QImage) -> bool:
    """Is there an area of one colour as large as a panel?"""
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    pixels = np.frombuffer(image.constBits(), np.uint32).reshape(image.height(), -1)
    rows, columns = image.height() // CELL, image.width() // CELL
    cells = pixels[: rows * CELL, : columns * CELL].reshape(rows, CELL, columns, CELL)
    first = cells[:, 0, :, 0]
    same = (cells == first[:, None, :, None]).all(axis=(1, 3))
    for colour in np.unique(first[same]):
        sums = np.zeros((rows + 1, columns + 1), dtype=np.int64)
        sums[1:, 1:] = (same & (first == colour)).cumsum(0).cumsum(1)
        inside = (
            sums[HIGH:, WIDE:] - sums[:-HIGH, WIDE:] - sums[HIGH:, :-WIDE] + sums[:-HIGH, :-WIDE]
        )
        if inside.size and inside.max() == HIGH * WIDE:
            return True
    return False


@pytest.mark.parametrize("path", PICTURES, ids=lambda path: path.stem)
def test_no_panel_of_a_picture_is_empty(path: Path) -> None:
    image = QImage(str(path))
    assert image.width() >= 400
    assert not has_empty_area(image)


def test_an_empty_panel_is_seen() -> None:
    image = QImage(str(next(path for path in PICTURES if path.stem.startswith("tree"))))
    painter = QPainter(image)
    painter.fillRect(700, 120, WIDE * CELL + 20, HIGH * CELL + 20, QColor("#fefefe"))
    painter.end()
    assert has_empty_area(image)
