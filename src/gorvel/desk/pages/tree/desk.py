"""The reading desk: columns side by side along one case axis, and all that is done with them."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPoint, Signal
from PySide6.QtGui import QAction, QActionGroup
from PySide6.QtWidgets import QInputDialog, QMenu, QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress
from gorvel.core.scene.arrangement import alike_side_by_side
from gorvel.core.scene.axis import SCALES
from gorvel.desk.controls.clipboard import put_on_clipboard
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.plain_text import as_item, as_question
from gorvel.desk.pages.tree.columns import Columns
from gorvel.desk.views.case_axis import ALIKE
from gorvel.desk.views.column import Column
from gorvel.desk.views.layout import Layout
from gorvel.desk.views.tables import copy_table
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.paint.figure import Figure, as_mime
from gorvel.paint.theme import current

_SIZES = (5, 10, 25, 50, 100)
_COUNTS = (10, 20, 50, 100)
_MOST_FRAMED = 10
_ABOUT = 5  # counts on both sides of the cut


class Desk(Columns):
    """The columns beside each other that show a tree.

    Signals: figure_wanted(columns), matrix_wanted(), a figure for print, or the table of
    proximities was asked for.
    """

    figure_wanted = Signal(object)
    matrix_wanted = Signal()

    def __init__(self, actions: Actions, layout: Layout, parent: QWidget | None = None) -> None:
        super().__init__(layout, actions.jobs, parent)
        self.acts = actions
        self.proximities.failed.connect(self._complain)
        self.answers.failed.connect(self._complain)
        for column in self.columns.values():
            column.asked.connect(self._open_menu)
            column.named.connect(self.name_cluster)

    # copying

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
        self.acts.said.emit("Copied.", False)

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
            self.acts.said.emit("Copied.", False)

    # menus

    def _open_menu(self, at: QPoint) -> None:
        column = self.sender()
        if isinstance(column, Column):
            self.column_menu(column).popup(at)

    def column_menu(self, column: Column) -> QMenu:
        """What can be done with one column, and with what is marked in it."""
        menu = delete_on_close(QMenu(self))
        mark = self.focus.selected
        look = self.axis.look()
        cluster = column.marked_cluster()
        if cluster and self.focus.grown_group is None:
            who = self.focus.identities[cluster - 1]
            menu.addAction(
                as_item(f"Name cluster {who.told} …"), lambda: self.name_cluster(cluster)
            )
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
                    "Swap its two branches", lambda: self.axis.rotate(node - look.tree.n)
                )
                menu.addSeparator()
        menu.addAction("Copy as picture", lambda: self.copy_picture([column]))
        menu.addAction("Copy as table", lambda: self.copy_table(column))
        menu.addAction("Save as figure …", lambda: self.figure_wanted.emit([column]))
        menu.addSeparator()
        filled = self.alone == column.key
        menu.addAction(
            "Show the other columns" if filled else "Maximise",
            lambda: self.fill("" if filled else column.key),
        )
        back, on = ("up", "down") if self.axis.upright else ("left", "right")
        menu.addAction(as_item(f"Move {back}"), lambda: self.move_column(column.key, -1))
        menu.addAction(as_item(f"Move {on}"), lambda: self.move_column(column.key, 1))
        menu.addAction("Hide this column", lambda: self.show_column(column.key, False))
        if column is self.proximities:
            self._add_proximities(menu)
        if column is self.icicle:
            menu.addSeparator()
            self._add_counts(menu)
        return menu

    def name_cluster(self, cluster: int) -> None:
        """Ask for the title of a cluster (from 1); empty for none."""
        who = self.focus.identities[cluster - 1]
        words = f"Name of cluster {who.name} (empty: letter only)"
        title, taken = QInputDialog.getText(self, "Name", as_question(words), text=who.title)
        if taken:
            self.focus.name_cluster(cluster, title)

    def _add_branch_cuts(self, menu: QMenu, cluster: int) -> None:
        """Cutting one cluster lower than the others, and taking it back."""
        cut, grown = self.focus.cut, self.focus.grown
        if not cluster or cut is None or grown is None:
            return
        name, root = self.focus.identities[cluster - 1].name, int(cut.roots[cluster - 1])
        if root >= grown.tree.n:
            menu.addAction(
                as_item(f"Split cluster {name} only"), lambda: self.focus.split_cluster(cluster)
            )
        if 0 <= grown.tree.used_at[root] < cut.joins_kept:
            menu.addAction(
                as_item(f"Undo the split of {name}"), lambda: self.focus.join_again(cluster)
            )
        menu.addSeparator()

    def _add_proximities(self, menu: QMenu) -> None:
        menu.addSeparator()
        follows = menu.addAction("Show only visible cases across")
        follows.setCheckable(True)
        follows.setChecked(self.proximities.follows)
        follows.toggled.connect(self.proximities.set_follows)
        of_file = menu.addAction("In file order")
        of_file.setCheckable(True)
        of_file.setChecked(self.proximities.of_file)
        of_file.toggled.connect(self.proximities.set_file_order)
        menu.addAction("Show as a table …", self.matrix_wanted.emit)

    def _add_counts(self, menu: QMenu) -> None:
        cases = self.focus.grown.tree.n if self.focus.grown else 1
        menu.addAction("A few more clusters than the cut", lambda: self.icicle.show_counts(1, 0))
        for most in _COUNTS:
            if most < cases:
                shown = partial(self.icicle.show_counts, 1, most)
                menu.addAction(as_item(f"1 to {most} clusters"), shown)
        menu.addAction("Every count", lambda: self.icicle.show_counts(1, cases))
        level = self.focus.cut.level if self.focus.cut else 1
        first, last = max(level - _ABOUT, 1), min(level + _ABOUT, cases)
        about = partial(self.icicle.show_counts, first, last)
        menu.addAction(as_item(f"{first} to {last} clusters, about the cut"), about)

    def fill_view_menu(self, menu: QMenu) -> None:
        """Order, folds, direction: what concerns all columns."""
        menu.clear()
        upright = menu.addAction("Vertical, cases along the bottom")
        upright.setCheckable(True)
        upright.setChecked(self.axis.upright)
        upright.toggled.connect(self.turn)
        columns = menu.addMenu("Columns")
        for key in self.order:
            if not self.is_possible(key):
                continue
            shown = columns.addAction(as_item(self.columns[key].title), partial(self._toggle, key))
            shown.setCheckable(True)
            shown.setChecked(key in self.wanted)
        menu.addAction("Reletter clusters from this cut", self.focus.letter_anew)
        self._add_scales(menu.addMenu("Height axis"))
        self._add_frames(menu.addMenu("Frames around clusters"))
        order = menu.addMenu("Order of the cases")
        group = QActionGroup(order)
        self._add_order(order, group, "As in the file, as far as the tree allows", "")
        alike = order.addAction("Similar cases side by side", self.order_alike)
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
            folds.addAction(as_item(f"Fold branches of up to {size} cases"), fold)
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
            if self.axis.arrangement is not None and self.axis.arrangement.tree is grown.tree:
                self.axis.put_in_order(flipped, ALIKE)
                self.acts.said.emit("Similar cases are side by side.", False)

        self.acts.said.emit("Placing similar cases side by side …", False)
        self.acts.jobs.start(JobKind.ORDER, work, done, self._complain, asker=self)

    def _complain(self, why: str) -> None:
        self.acts.said.emit(why, True)

    def _add_frames(self, menu: QMenu) -> None:
        """Clusters of which counts have frames on the dendrogram."""
        menu.addAction("None", partial(self.shown.set_frames, ()))
        framed, most = self.shown.framed, self.focus.grown.tree.n if self.focus.grown else 1
        own = menu.addAction("Of the current cut")
        own.setCheckable(True)
        own.setChecked(0 in framed)
        own.triggered.connect(partial(self.shown.set_frames, framed ^ {0}))
        menu.addSeparator()
        for count in range(2, min(_MOST_FRAMED, most) + 1):
            action = menu.addAction(as_item(f"Of {count} clusters"))
            action.setCheckable(True)
            action.setChecked(count in framed)
            action.triggered.connect(partial(self.shown.set_frames, framed ^ {count}))

    def _add_scales(self, menu: QMenu) -> None:
        grown, group = self.focus.grown, QActionGroup(menu)
        spread = grown is not None and grown.schedule.spread is not None
        spread = spread and grown is not None and grown.prepared.chi_square is None
        for key, words in SCALES.items():
            if spread or key not in ("within", "r2"):
                action = menu.addAction(as_item(words), partial(self.shown.set_scale, key))
                action.setCheckable(True)
                action.setChecked(self.shown.scale == key)
                group.addAction(action)

    def _add_order(self, menu: QMenu, group: QActionGroup, words: str, name: str) -> None:
        action: QAction = menu.addAction(as_item(words), lambda: self.axis.sort_by(name))
        action.setCheckable(True)
        action.setChecked(self.axis.sorted_by == name)
        group.addAction(action)
