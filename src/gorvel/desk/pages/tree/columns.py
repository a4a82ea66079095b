"""The columns of the reading desk: which, how wide, in which order and direction."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import QSignalBlocker, Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollBar, QSplitter, QWidget

from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.views.answers_view import AnswersView
from gorvel.desk.views.column import Column
from gorvel.desk.views.dendrogram_view import DendrogramView
from gorvel.desk.views.icicle_view import IcicleView
from gorvel.desk.views.labels_view import LabelsView
from gorvel.desk.views.layout import Layout
from gorvel.desk.views.membership_stability import StaysView
from gorvel.desk.views.overview import Overview
from gorvel.desk.views.proximities_view import ProximitiesView
from gorvel.desk.work.jobs import Jobs
from gorvel.paint.theme import SPACE

_SHARES = {"dendrogram": 40, "labels": 10, "icicle": 17, "proximities": 25, "answers": 19,
           "stays": 8}  # fmt: skip
_UPRIGHT_SHARES = {"dendrogram": 42, "labels": 20, "icicle": 22, "proximities": 25, "answers": 22,
                   "stays": 10}  # fmt: skip
_SETTLE = 500  # milliseconds after which widths that were moved are remembered
_WORDS = 0.22  # of the desk that a column of words may take


class Columns(QWidget):
    """Signals: changed() when columns were shown, hidden, moved or turned."""

    changed = Signal()

    def __init__(self, layout: Layout, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus, self.shown, self.axis = layout.focus, layout, layout.axis
        self.dendrogram = DendrogramView(layout)
        self.labels = LabelsView(self.axis)
        self.icicle = IcicleView(self.axis)
        self.proximities = ProximitiesView(self.axis, jobs)
        self.answers = AnswersView(self.axis, jobs)
        self.stays = StaysView(self.axis)
        self.columns: dict[str, Column] = {
            column.key: column
            for column in (
                self.dendrogram, self.labels, self.icicle, self.proximities, self.answers,
                self.stays,
            )
        }  # fmt: skip
        self.wanted = set(self.columns)  # those to be seen, as far as there is something in them
        self.alone = ""  # the one that fills the page
        self._by_hand = False  # were widths chosen by hand?
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self.changed)
        self.splitter = QSplitter()
        self.splitter.setHandleWidth(SPACE // 2)
        self.splitter.setChildrenCollapsible(False)
        for column in self.columns.values():
            self.splitter.addWidget(column)
            column.filled.connect(self._fill_or_restore)
            column.hide_requested.connect(partial(self.show_column, column.key, False))
        self.bar = QScrollBar(Qt.Orientation.Vertical)
        self.bar.valueChanged.connect(lambda value: self.axis.scroll_to(float(value)))
        self.overview = Overview(self.axis, self)
        self.splitter.splitterMoved.connect(self._moved_by_hand)
        fill_row(self, (self.splitter, 1), self.overview, self.bar, space=0)
        self.axis.moved.connect(self._follow_axis)
        self.axis.arranged.connect(self._follow_axis)
        self.focus.tree_changed.connect(self._show_columns)
        self.focus.stays_changed.connect(self._stays_or_not)
        self.focus.titles_changed.connect(self._make_room)
        self.focus.labels_changed.connect(self._make_room)
        self._show_columns()
        self._share_out()

    # columns

    @property
    def order(self) -> list[str]:
        """Keys of the columns as they stand."""
        widgets = [self.splitter.widget(k) for k in range(self.splitter.count())]
        return [column.key for column in widgets if isinstance(column, Column)]

    @property
    def seen(self) -> list[Column]:
        """The columns in sight, in their order."""
        return [self.columns[key] for key in self.order if not self.columns[key].isHidden()]

    def shares(self, columns: Sequence[Column]) -> list[float]:
        """How wide columns are beside each other."""
        return [max(column.extent()[0], 1.0) for column in columns]

    def _show_columns(self) -> None:
        for key, column in self.columns.items():
            seen = key == self.alone if self.alone else key in self.wanted
            column.setVisible(seen and self.is_possible(key))

    def is_possible(self, key: str) -> bool:
        """Is there anything that a column could show?"""
        if key == "answers":
            return self.answers.available or self.focus.grown is None
        return key != "stays" or self.stays.available

    def _stays_or_not(self) -> None:
        """A column comes when something is known, and goes with it."""
        if self.stays.isHidden() == self.stays.available:
            self._show_columns()
            self._make_room()
            self.changed.emit()

    def show_column(self, key: str, seen: bool) -> None:
        """Show or hide a column; the last one stays."""
        wanted = self.wanted | {key} if seen else self.wanted - {key}
        if wanted:
            self.wanted, self.alone = wanted, ""
            self._show_columns()
            self._share_out()
            self.changed.emit()

    def _toggle(self, key: str) -> None:
        self.show_column(key, key not in self.wanted)

    def fill(self, key: str) -> None:
        """Let one column fill the page; "" for all that are wanted."""
        self.alone = key
        self._show_columns()
        self._share_out()
        self.changed.emit()

    def move_column(self, key: str, by: int) -> None:
        """Move a column past its neighbour."""
        order = self.order
        to = order.index(key) + by
        if 0 <= to < len(order):
            self.splitter.insertWidget(to, self.columns[key])
            self._share_out()
            self.changed.emit()

    def stand(self, upright: bool) -> None:
        """Cases along the bottom, or down the side."""
        ways = Qt.Orientation
        self.splitter.setOrientation(ways.Vertical if upright else ways.Horizontal)
        self.bar.setOrientation(ways.Horizontal if upright else ways.Vertical)
        layout = self.layout()
        assert isinstance(layout, QHBoxLayout)
        layout.setDirection(
            QHBoxLayout.Direction.TopToBottom if upright else QHBoxLayout.Direction.LeftToRight
        )
        self.axis.stand(upright)
        for column in self.columns.values():
            wide, high = (140, 60) if upright else (60, 60)
            column.setMinimumSize(wide, high)
        self._share_out()
        self.changed.emit()

    def turn(self, upright: bool) -> None:
        """Turn the desk at somebody's wish: the proximities want a square, so they make way."""
        self.wanted = self.wanted - {"proximities"} if upright else self.wanted | {"proximities"}
        self._show_columns()
        self.stand(upright)

    def _moved_by_hand(self) -> None:
        self._by_hand = True
        self._settle.start(_SETTLE)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._make_room()

    def _make_room(self) -> None:
        """Longer or shorter words are told; widths set by hand stay."""
        if not self._by_hand:
            self._share_out()

    def _share_out(self) -> None:
        self._by_hand = False
        shares = _UPRIGHT_SHARES if self.axis.upright else _SHARES
        look, seen = self.axis.look(), [column.key for column in self.seen]
        whole = float(self.height() if self.axis.upright else self.width())
        own = {
            key: self.columns[key].natural(look, whole * _WORDS) if look is not None else 0.0
            for key in seen
        }
        rest = sum(shares[key] for key in seen if not own[key]) or 1
        left = max(whole - sum(own.values()), 100.0)
        self.splitter.setSizes(
            [round(own.get(key) or left * shares[key] / rest) for key in self.order]
        )

    def state(self) -> dict[str, Any]:
        """How the desk is laid out, for the next time."""
        return {
            "order": self.order,
            "seen": [key for key in self.order if key in self.wanted],
            "upright": self.axis.upright,
            "scale": self.shown.scale,
            "widths": self.splitter.sizes() if self._by_hand else [],
        }

    def restore(self, state: dict[str, Any]) -> None:
        """Lay the desk out as it was; what cannot be understood is left as it is."""
        order, seen = state.get("order"), state.get("seen")
        if isinstance(order, list) and sorted(map(str, order)) == sorted(self.columns):
            for key in order:
                self.splitter.addWidget(self.columns[key])
        if isinstance(seen, list) and set(seen) & set(self.columns):
            self.wanted = {key for key in seen if key in self.columns}
        self.alone = ""
        self._show_columns()
        self.stand(bool(state.get("upright")))
        widths = state.get("widths")
        widths = widths if isinstance(widths, list) else []
        if len(widths) == len(self.columns) and all(isinstance(wide, int) for wide in widths):
            self.splitter.setSizes(widths)
            self._by_hand = True

    # scrolling

    def _follow_axis(self) -> None:
        axis = self.axis
        with QSignalBlocker(self.bar):
            self.bar.setPageStep(int(axis.body))
            self.bar.setSingleStep(max(int(axis.row), 12))
            self.bar.setRange(0, max(0, round(axis.whole - axis.body)))
            self.bar.setValue(round(axis.scrolled))

    def _fill_or_restore(self) -> None:
        column = self.sender()
        if isinstance(column, Column):
            self.fill("" if self.alone else column.key)
