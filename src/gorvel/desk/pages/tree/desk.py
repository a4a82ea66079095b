"""The reading desk: columns side by side along one case axis."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPoint, QSignalBlocker, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QActionGroup, QResizeEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QMenu,
    QScrollBar,
    QSplitter,
    QWidget,
)  # fmt: skip

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress
from gorvel.core.scene.arrangement import alike_side_by_side
from gorvel.core.scene.axis import SCALES
from gorvel.desk.controls.clipboard import put_on_clipboard
from gorvel.desk.views.answers_view import AnswersView
from gorvel.desk.views.case_axis import ALIKE
from gorvel.desk.views.column import Column
from gorvel.desk.views.dendrogram_view import DendrogramView
from gorvel.desk.views.icicle_view import IcicleView
from gorvel.desk.views.labels_view import LabelsView
from gorvel.desk.views.layout import Layout
from gorvel.desk.views.overview import Overview
from gorvel.desk.views.proximities_view import ProximitiesView
from gorvel.desk.views.tables import copy_table
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.paint.figure import Figure, as_mime
from gorvel.paint.theme import SPACE, current

__all__ = ["Desk"]

_SHARES = {"dendrogram": 40, "labels": 10, "icicle": 17, "proximities": 25, "answers": 19}
_UPRIGHT_SHARES = {"dendrogram": 42, "labels": 20, "icicle": 22, "proximities": 25, "answers": 22}
_SIZES = (5, 10, 25, 50, 100)
_COUNTS = (10, 20, 50, 100)
_MOST_FRAMED = 10
_ABOUT = 5  # counts on both sides of the cut
_SETTLE = 500  # milliseconds after which widths that were moved are remembered


class Desk(QWidget):
    """Signals: changed() when columns were shown, hidden, moved or turned; figure_wanted(columns),

    matrix_wanted(), a figure for print, or the table of proximities was asked for.
    """

    changed = Signal()
    figure_wanted = Signal(object)
    matrix_wanted = Signal()

    def __init__(self, actions: Actions, layout: Layout, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.shown, self.axis = layout, layout.axis
        self.dendrogram = DendrogramView(layout)
        self.labels = LabelsView(self.axis)
        self.icicle = IcicleView(self.axis)
        self.proximities = ProximitiesView(self.axis, actions.jobs)
        self.proximities.failed.connect(self._complain)
        self.answers = AnswersView(self.axis, actions.jobs)
        self.answers.failed.connect(self._complain)
        self.columns: dict[str, Column] = {
            column.key: column
            for column in (
                self.dendrogram, self.labels, self.icicle, self.proximities, self.answers,
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
            column.asked.connect(self._open_menu)
            column.filled.connect(self._fill_or_restore)
            column.named.connect(self.name_cluster)
        self.bar = QScrollBar(Qt.Orientation.Vertical)
        self.bar.valueChanged.connect(lambda value: self.axis.scroll_to(float(value)))
        self.overview = Overview(self.axis)
        self.splitter.splitterMoved.connect(self._moved_by_hand)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.splitter, 1)
        row.addWidget(self.overview)
        row.addWidget(self.bar)
        self.axis.moved.connect(self._follow_axis)
        self.axis.arranged.connect(self._follow_axis)
        self.focus.tree_changed.connect(self._show_columns)
        self.focus.titles_changed.connect(self._make_room)
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

    def copy_picture(self, columns: Sequence[Column]) -> None:
        """Put columns on the clipboard as they are in sight, as an image and as SVG."""
        sizes = [column.size() for column in columns]
        wide = max(size.width() for size in sizes)
        high = max(size.height() for size in sizes)
        if self.axis.upright:
            high = sum(size.height() for size in sizes)
        else:
            wide = sum(size.width() for size in sizes)
        inch = 25.4 / 96
        shown = [picture for one in columns if (picture := one.printed(current())) is not None]
        if len(shown) < len(columns):
            return
        figure = Figure(
            shown, self.shares(columns), self.axis.span, wide * inch, high * inch, dots=192.0,
            whole=False,
        )  # fmt: skip
        put_on_clipboard(as_mime(figure))
        self.acts.said.emit("The picture is on the clipboard.", False)

    def copy_table(self, column: Column) -> None:
        """Put what a column shows on the clipboard as a table."""
        look = self.axis.look()
        try:
            table = None if look is None else column.table(look)
        except InputError as error:
            self.acts.said.emit(f"{error}; nothing was copied", True)
            return
        if table is not None:
            copy_table(table)
            self.acts.said.emit("The table is on the clipboard.", False)

    def _show_columns(self) -> None:
        for key, column in self.columns.items():
            possible = key != "answers" or self.answers.available or self.focus.grown is None
            seen = key == self.alone if self.alone else key in self.wanted
            column.setVisible(seen and possible)

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
        own = {key: self.columns[key].natural(look) if look is not None else 0.0 for key in seen}
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

    # menus

    def _fill_or_restore(self) -> None:
        column = self.sender()
        if isinstance(column, Column):
            self.fill("" if self.alone else column.key)

    def _open_menu(self, at: QPoint) -> None:
        column = self.sender()
        if isinstance(column, Column):
            self.column_menu(column).popup(at)

    def column_menu(self, column: Column) -> QMenu:
        """What can be done with one column, and with what is marked in it."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        mark = self.focus.selected
        look = self.axis.look()
        cluster = column.marked_cluster()
        if cluster:
            who = self.focus.identities[cluster - 1]
            menu.addAction(f"Name cluster {who.told} …", lambda: self.name_cluster(cluster))
        self._add_branch_cuts(menu, cluster)
        if mark is not None and look is not None:
            node = self.focus.nodes_of(mark)[0]
            if node >= look.tree.n:
                folded = node in look.arrangement.folded
                menu.addAction(
                    "Unfold this branch" if folded else "Fold this branch",
                    lambda: self.axis.fold(node),
                )
                menu.addAction(
                    "Exchange its two parts", lambda: self.axis.rotate(node - look.tree.n)
                )
                menu.addSeparator()
        menu.addAction("Copy as picture", lambda: self.copy_picture([column]))
        menu.addAction("Copy as table", lambda: self.copy_table(column))
        menu.addAction("Save as figure …", lambda: self.figure_wanted.emit([column]))
        menu.addSeparator()
        filled = self.alone == column.key
        menu.addAction(
            "Show the other columns again" if filled else "Fill the page",
            lambda: self.fill("" if filled else column.key),
        )
        back, on = ("up", "down") if self.axis.upright else ("left", "right")
        menu.addAction(f"Move {back}", lambda: self.move_column(column.key, -1))
        menu.addAction(f"Move {on}", lambda: self.move_column(column.key, 1))
        menu.addAction("Hide this column", lambda: self.show_column(column.key, False))
        if column is self.proximities:
            menu.addSeparator()
            follows = menu.addAction("Across, only the cases in sight")
            follows.setCheckable(True)
            follows.setChecked(self.proximities.follows)
            follows.toggled.connect(self.proximities.set_follows)
            of_file = menu.addAction("In the order of the file")
            of_file.setCheckable(True)
            of_file.setChecked(self.proximities.of_file)
            of_file.toggled.connect(self.proximities.set_file_order)
            menu.addAction("Show as a table …", self.matrix_wanted.emit)
        if column is self.icicle:
            menu.addSeparator()
            self._add_counts(menu)
        return menu

    def name_cluster(self, cluster: int) -> None:
        """Ask for the title of a cluster (from 1); empty for none."""
        who = self.focus.identities[cluster - 1]
        words = f"What is cluster {who.name}? Empty for its letter alone."
        title, taken = QInputDialog.getText(self, "Name", words, text=who.title)
        if taken:
            self.focus.name_cluster(cluster, title)

    def _add_branch_cuts(self, menu: QMenu, cluster: int) -> None:
        """Cutting one cluster lower than the others, and taking it back."""
        cut, grown = self.focus.cut, self.focus.grown
        if not cluster or cut is None or grown is None:
            return
        name, root = self.focus.identities[cluster - 1].name, int(cut.roots[cluster - 1])
        if root >= grown.tree.n:
            menu.addAction(f"Split cluster {name} only", lambda: self.focus.split_cluster(cluster))
        if 0 <= grown.tree.used_at[root] < cut.joins_kept:
            menu.addAction(
                f"Join {name} with its other part again", lambda: self.focus.join_again(cluster)
            )
        menu.addSeparator()

    def _add_counts(self, menu: QMenu) -> None:
        cases = self.focus.grown.tree.n if self.focus.grown else 1
        menu.addAction("A few counts beyond the cut", lambda: self.icicle.show_counts(1, 0))
        for most in _COUNTS:
            if most < cases:
                shown = partial(self.icicle.show_counts, 1, most)
                menu.addAction(f"1 to {most} clusters", shown)
        menu.addAction("Every count", lambda: self.icicle.show_counts(1, cases))
        level = self.focus.cut.level if self.focus.cut else 1
        first, last = max(level - _ABOUT, 1), min(level + _ABOUT, cases)
        about = partial(self.icicle.show_counts, first, last)
        menu.addAction(f"{first} to {last} clusters, about the cut", about)

    def fill_view_menu(self, menu: QMenu) -> None:
        """Order, folds, direction: what concerns all columns."""
        menu.clear()
        upright = menu.addAction("Stand upright, cases along the bottom")
        upright.setCheckable(True)
        upright.setChecked(self.axis.upright)
        upright.toggled.connect(self.turn)
        columns = menu.addMenu("Columns")
        for key in self.order:
            shown = columns.addAction(self.columns[key].title, partial(self._toggle, key))
            shown.setCheckable(True)
            shown.setChecked(key in self.wanted)
        menu.addAction("Letter the clusters anew from this cut", self.focus.letter_anew)
        self._add_scales(menu.addMenu("Height axis"))
        self._add_frames(menu.addMenu("Frames around clusters"))
        order = menu.addMenu("Order of the cases")
        group = QActionGroup(order)
        self._add_order(order, group, "As in the file, as far as the tree allows", "")
        alike = order.addAction("Alike cases side by side", self.order_alike)
        alike.setCheckable(True)
        alike.setChecked(self.axis.sorted_by == ALIKE)
        group.addAction(alike)
        grown = self.focus.grown
        if grown is not None and grown.prepared.raw is not None:
            order.addSeparator()
            for variable in grown.prepared.variables:
                self._add_order(order, group, f"By the mean of {variable.name}", variable.name)
        folds = menu.addMenu("Fold branches")
        folds.addAction("Fold to the cut", self.axis.fold_to_cut)
        for size in _SIZES:
            fold = partial(self.axis.fold_to_size, size)
            folds.addAction(f"Fold branches of up to {size} cases", fold)
        folds.addSeparator()
        folds.addAction("Unfold all", self.axis.unfold)
        menu.addSeparator()
        menu.addAction("Copy the desk as picture", lambda: self.copy_picture(self.seen))
        menu.addAction("Save the desk as figure …", lambda: self.figure_wanted.emit(self.seen))

    def order_alike(self) -> None:
        """Turn branches so that cases that become neighbours are alike."""
        grown = self.focus.grown
        if grown is None:
            return

        def work(progress: Progress) -> NDArray[np.bool_]:
            return alike_side_by_side(grown.tree, grown.pairs, progress)

        def done(flipped: NDArray[np.bool_]) -> None:
            if self.focus.grown is grown:
                self.axis.put_in_order(flipped, ALIKE)
                self.acts.said.emit("Alike cases stand side by side.", False)

        self.acts.said.emit("Putting alike cases side by side …", False)
        self.acts.jobs.start(JobKind.ORDER, work, done, self._complain)

    def _complain(self, why: str) -> None:
        self.acts.said.emit(why, True)

    def _add_frames(self, menu: QMenu) -> None:
        """Clusters of which counts have frames on the dendrogram."""
        menu.addAction("None", partial(self.shown.set_frames, ()))
        framed, most = self.shown.framed, self.focus.grown.tree.n if self.focus.grown else 1
        own = menu.addAction("Of the cut, wherever it is")
        own.setCheckable(True)
        own.setChecked(0 in framed)
        own.triggered.connect(partial(self.shown.set_frames, framed ^ {0}))
        menu.addSeparator()
        for count in range(2, min(_MOST_FRAMED, most) + 1):
            action = menu.addAction(f"Of {count} clusters")
            action.setCheckable(True)
            action.setChecked(count in framed)
            action.triggered.connect(partial(self.shown.set_frames, framed ^ {count}))

    def _add_scales(self, menu: QMenu) -> None:
        grown, group = self.focus.grown, QActionGroup(menu)
        spread = grown is not None and grown.schedule.spread is not None
        for key, words in SCALES.items():
            if spread or key not in ("within", "r2"):
                action = menu.addAction(words, partial(self.shown.set_scale, key))
                action.setCheckable(True)
                action.setChecked(self.shown.scale == key)
                group.addAction(action)

    def _add_order(self, menu: QMenu, group: QActionGroup, words: str, name: str) -> None:
        action: QAction = menu.addAction(words, lambda: self.axis.sort_by(name))
        action.setCheckable(True)
        action.setChecked(self.axis.sorted_by == name)
        group.addAction(action)
