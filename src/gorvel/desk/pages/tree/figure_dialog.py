"""A figure for print: its size and kind, with a preview, then saved."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFormLayout,
    QLabel,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from gorvel.desk.controls.arranging import fill_row, in_row
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.file_dialog import ask_where
from gorvel.desk.controls.texts import button, heading, text
from gorvel.desk.views.column import Column
from gorvel.desk.work.actions import Actions
from gorvel.paint.figure import Figure, dots_of, drawn, extent_of, image_of_figure, is_too_large
from gorvel.paint.theme import DARK, LIGHT, SPACE

_KINDS = {"svg": "SVG drawing", "pdf": "PDF page", "png": "PNG image"}
_WIDTHS = {"one column, 85 mm": 85.0, "a page, 170 mm": 170.0, "a slide, 254 mm": 254.0}
_PREVIEW = QSize(560, 400)
_SETTLE = 120  # milliseconds without a change before the preview is made anew


class FigureDialog(QDialog):
    """columns, shares : what is drawn, and how wide beside each other; stem : of the file name."""

    def __init__(
        self, actions: Actions, columns: Sequence[Column], shares: Sequence[float], start: Path,
        parent: QWidget,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        delete_on_close(self)
        self.acts, self.columns, self.shares, self.start = actions, columns, shares, start
        self.setWindowTitle("Figure for print")
        self.kind, self.common = QComboBox(), QComboBox()
        for key, words in _KINDS.items():
            self.kind.addItem(words, key)
        self.common.addItem("as typed", 0.0)
        for words, width in _WIDTHS.items():
            self.common.addItem(words, width)
        self.wide = self._millimetres(170.0)
        self.high = self._millimetres(120.0)
        self.dots = QSpinBox()
        self.dots.setRange(72, 1200)
        self.dots.setValue(300)
        self.dots.setSuffix(" dpi")
        self.size_told = text(soft=True)
        self.whole = QCheckBox("All cases, not only those visible")
        self.whole.setChecked(True)
        self.outlines = QCheckBox("Text as outlines (no fonts needed)")
        self.outlines.setChecked(True)
        self.dark = QCheckBox("Dark background")
        self.grey = QCheckBox("Clusters told apart in grey, too")
        self.preview = QLabel()
        self.preview.setFixedSize(_PREVIEW)
        self.preview.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.preview.setAccessibleName("Preview of the figure")
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._show)
        self._build()
        self._changed()

    @staticmethod
    def _millimetres(value: float) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setRange(20.0, 2000.0)
        box.setDecimals(0)
        box.setSuffix(" mm")
        box.setValue(value)
        return box

    def _build(self) -> None:
        form = QFormLayout()
        form.setSpacing(SPACE)
        for words, field in (
            ("File", self.kind), ("Common widths", self.common), ("Width", self.wide),
            ("Height", self.high), ("Resolution", self.dots),
        ):  # fmt: skip
            form.addRow(words, field)
            field.setAccessibleName(words)
        left = QVBoxLayout()
        left.addWidget(heading("Figure for print"))
        left.addLayout(form)
        left.addWidget(self.size_told)
        for box in (self.whole, self.outlines, self.dark, self.grey):
            left.addWidget(box)
            box.toggled.connect(self._changed)
        left.addWidget(
            text("Text keeps its size: a larger figure has room for more labels.", soft=True)
        )
        left.addStretch(1)
        self.save = button("Save …", self._save, "main")
        ends = in_row(button("Close", self.reject), self.save)
        left.addLayout(ends)
        fill_row(
            self, left, self.preview, space=2 * SPACE,
            edges=(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE),
        )  # fmt: skip
        for field in (self.wide, self.high, self.dots):
            field.valueChanged.connect(self._changed)
        self.kind.currentIndexChanged.connect(self._changed)
        self.common.currentIndexChanged.connect(self._usual_chosen)
        self.save.setDefault(True)

    def _usual_chosen(self) -> None:
        width = self.common.currentData()
        if width:
            self.wide.setValue(width)

    def _changed(self) -> None:
        self.dots.setEnabled(self.kind.currentData() == "png")
        self.outlines.setEnabled(self.kind.currentData() != "png")
        self._show_size()
        self._timer.start(_SETTLE)

    def _show_size(self) -> None:
        """How many dots an image has, and whether it can be made at all."""
        image = self.kind.currentData() == "png"
        size = dots_of(self.wide.value(), self.high.value(), self.dots.value())
        bad = image and is_too_large(size)
        told = "Sharp at any size"
        if image:
            told = f"{size.width():,} by {size.height():,} pixels"
        self.size_told.setText(f"{told}: larger than an image can be" if bad else told)
        self.size_told.setProperty("alarm", bad)
        self.size_told.style().polish(self.size_told)
        self.save.setEnabled(not bad)

    def figure(self) -> Figure:
        """What the fields say."""
        outlines = self.outlines.isChecked() and self.kind.currentData() != "png"
        theme = DARK if self.dark.isChecked() else LIGHT
        theme = replace(
            theme, soft=theme.ink, grey_print=self.grey.isChecked()
        )  # grey is lost first
        shown = [column.printed(theme) for column in self.columns]
        return Figure(
            [picture for picture in shown if picture is not None], self.shares,
            self.columns[0].axis.span, self.wide.value(), self.high.value(),
            float(self.dots.value()), self.whole.isChecked(), outlines,
        )  # fmt: skip

    def _show(self) -> None:
        figure = self.figure()
        extent = extent_of(figure)
        scale = min(_PREVIEW.width() / extent.width(), _PREVIEW.height() / extent.height())
        ratio = self.devicePixelRatioF()
        picture = QPixmap.fromImage(image_of_figure(figure, 96.0 * min(scale, 2.0) * ratio))
        picture.setDevicePixelRatio(ratio)
        self.preview.setPixmap(picture)

    def _save(self) -> None:
        kind = self.kind.currentData()
        start = self.start.with_suffix(f".{kind}")
        kinds = sorted(_KINDS, key=lambda one: one != kind)  # this one is proposed
        words = ";;".join(f"{_KINDS[one]} (*.{one})" for one in kinds)
        found = ask_where(self, "Save the figure", start, words)
        if found is not None:
            self.save_to(found[0])

    def save_to(self, path: Path) -> None:
        """Write the figure and say so."""
        self.save.setEnabled(False)
        self.acts.jobs.wrote.connect(self._tried)
        if not self.acts.files.save_figure(partial(drawn, self.figure()), path):
            self.acts.jobs.wrote.disconnect(self._tried)
            self._show_size()

    def _tried(self) -> None:
        """It was written, or could not be, which was said."""
        if self.acts.files.lost:
            self.save.setEnabled(True)
        elif not self.acts.jobs.writing:
            self.accept()
