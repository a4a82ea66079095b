"""The Memberships page: what will be saved for each case, and what to do next."""

from __future__ import annotations

import numpy as np
import polars as pl
from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtWidgets import QApplication, QFrame, QHeaderView, QTableView, QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import counted, unit
from gorvel.core.cases.rows import source_labels
from gorvel.core.export.groups import groups_added
from gorvel.core.export.membership import free_name, memberships_added
from gorvel.core.results.table import ResultTable
from gorvel.core.table.table import Table
from gorvel.core.tree.cluster_names import by_letter
from gorvel.core.words.count import choice_sentence
from gorvel.core.words.plan import plan_phrases
from gorvel.desk.controls.arranging import fill, fill_row, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import aside, button, heading, mark_due, panel, scrolled, text
from gorvel.desk.views.record_model import Column, RecordModel
from gorvel.desk.views.tables import dress
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.paint.theme import SPACE

Index = QModelIndex | QPersistentModelIndex
_MEANING = {
    "group": "the group of the split",
    "cluster": "the number of the cluster",
    "letter": "its letter in the tree",
    "name": "its name",
    "placed": "1 for cases set aside, which were assigned to the nearest cluster",
}


def _columns(frame: pl.DataFrame) -> list[Column[int]]:
    """Of a frame, whose records are its rows."""

    def column(name: str) -> Column[int]:
        def text(row: int) -> str:
            value = frame[row, name]
            return "–" if value is None else str(value)

        return Column(name, text, right=frame[name].dtype.is_numeric())

    return [column(name) for name in frame.columns]


class MembershipsPage(QWidget):
    """Signals: save_wanted(), study_wanted(), tree_wanted()."""

    save_wanted = Signal()
    study_wanted = Signal()
    tree_wanted = Signal()

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.frame = self.shown = pl.DataFrame()  # all rows, and those in the table
        self.title, self.tree = heading(""), text(soft=True)
        self.stale = text(weight=600)
        self.stale.setProperty("alarm", True)
        self.columns, self.without, self.saved = text(), text(), text(weight=600)
        self.sizes = text()
        self.save = button("Save memberships …", self.save_wanted.emit, "main",
                           "Save a copy of the table with these columns (Ctrl+M)")  # fmt: skip
        self.study = button("Save the study …", self.study_wanted.emit, "",
                            "The data, the plan and all trees in one file (Ctrl+S)")  # fmt: skip
        self.sentence = button("Copy the plan sentence", self._copy, "link",
                               "How the tree was grown, for a methods section")  # fmt: skip
        self.figure = button("Save the dendrogram: Tree page", self.tree_wanted.emit, "link",
                             "Figures are saved with ⋯ beside them")  # fmt: skip
        self.rows = RecordModel[int](parent=self)
        self.view = QTableView()
        self.view.setModel(self.rows)
        dress(self.view, "Memberships, as they will be saved", (120, 90, 90))
        self.view.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.only = button("", lambda: None, "link", "Show only cases without a cluster")
        self.only.setCheckable(True)
        self.only.toggled.connect(self._show_rows)
        self.note = aside()
        fill_row(
            self, (self._left(), 3), (self._right(), 4), space=2 * SPACE,
            edges=(2 * SPACE, 0, 2 * SPACE, 12),
        )  # fmt: skip
        WhenSeen(
            self, self._follow, self.focus.tree_changed, self.focus.cut_changed,
            self.focus.titles_changed, self.focus.shelf.saved_changed,
            self.focus.shelf.plan_changed,
        ).follow()  # fmt: skip

    def _left(self) -> QFrame:
        box = panel()
        words = QWidget()
        fill(
            words, self.title, self.tree, self.stale, self.sizes, heading("Columns added", "text"),
            self.columns, self.without, None, space=SPACE,
        )  # fmt: skip
        fill(
            box, (scrolled(words), 1), self.saved,
            (self.save, 0, Qt.AlignmentFlag.AlignLeft),
            (self.study, 0, Qt.AlignmentFlag.AlignLeft),
            (self.sentence, 0, Qt.AlignmentFlag.AlignLeft),
            (self.figure, 0, Qt.AlignmentFlag.AlignLeft), space=None,
            edges=(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE),
        )  # fmt: skip
        return box

    def _right(self) -> QFrame:
        box = panel()
        self.take = TakeAway(self.acts, "memberships", self.table)
        head = in_row(heading("Preview"), (self.note, 1), self.only, self.take)
        fill(box, head, (self.view, 1), space=None, edges=(2 * SPACE, SPACE, 2 * SPACE, SPACE))
        return box

    # what is shown

    def _follow(self) -> None:
        focus = self.focus
        grown, cut, plan = focus.grown, focus.cut, focus.plan_of_tree
        there = grown is not None and cut is not None and plan is not None
        for widget in (self.save, self.study, self.sentence, self.figure, self.view):
            widget.setEnabled(there)
        mark_due(self.save, there and focus.saved_to is None)
        self.stale.setVisible(there and focus.out_of_date)
        if grown is None or cut is None or plan is None:
            self.frame = pl.DataFrame()
            self.title.setText("No clusters yet")
            self.title.show()
            self.tree.setText("Grow the tree first (Ctrl+G), then choose a number of clusters.")
            for label in (self.sizes, self.columns, self.without, self.saved):
                label.setText("")
            self._show_rows()
            return
        split = focus.of_groups
        clusters = counted(cut.clusters, "cluster")
        cases = unit(grown.prepared.of, grown.tree.n)
        self.title.setText(f"{len(split)} groups" if split else f"{clusters} of {cases}")
        self.title.setVisible(bool(split))  # else the line above the page says it
        called = next((t.title for t in focus.trees_as_grown if t.tree is grown.tree), "")
        sentence = "".join(p.text for p in plan_phrases(plan, grown.tree.n))
        self.tree.setText(f"{called}: {sentence}" if called else sentence)
        self.sizes.setVisible(not split)
        self.sizes.setText(self._sizes())
        self.stale.setText("The plan has been changed since: these are clusters of the tree above.")
        self._fill()

    def _fill(self) -> None:
        """The frame, and what is said of it."""
        focus, study = self.focus, self.focus.shelf.study
        grown, cut, plan = focus.grown, focus.cut, focus.plan_of_tree
        assert study is not None
        assert grown is not None
        assert cut is not None
        assert plan is not None
        source, split = study.source_for(plan), focus.of_groups
        turned = grown.prepared.of == "variables"
        taken = [] if turned else list(source.names) if isinstance(source, Table) else ["label"]
        whos = focus.identities
        try:
            if split and isinstance(source, Table):
                added = groups_added(source, list(split.values()), taken)
            else:
                added = memberships_added(
                    source, plan, grown, cut, [who.name for who in whos],
                    [who.title for who in whos], taken,
                )  # fmt: skip
        except InputError as error:
            self.frame = pl.DataFrame()
            self.columns.setText(str(error))
            self.without.setText("")
            self.save.setEnabled(False)
            self._show_rows()
            return
        self.columns.setText("\n".join(self._meanings(added)))
        labels = grown.prepared.labels if turned else source_labels(source, plan)
        named = "variable" if turned else plan.cases.label or "case"
        self.frame = pl.DataFrame({free_name(named, added.columns): list(labels)}).hstack(added)
        missing = sum(cell is None for cell in self._clusters())
        self.only.setText(f"Without a cluster ({missing:,})")
        self.only.setEnabled(missing > 0)
        if not missing:
            self.only.setChecked(False)
        self.without.setText(self._without(missing))
        beside = isinstance(source, Table) and not turned
        self.note.setText(f"Added to all columns of {source.name}." if beside else "")
        self.saved.setText("" if focus.saved_to is None else f"Saved in {focus.saved_to.name}.")
        self.saved.setVisible(focus.saved_to is not None)
        self._show_rows()

    def _meanings(self, added: pl.DataFrame) -> list[str]:
        """What each column holds."""
        titles = [who.title for who in self.focus.identities]
        lines = []
        for name in added.columns:
            kind = next((kind for kind in _MEANING if name.startswith(kind)), "")
            words = f"{name}: {_MEANING[kind]}"
            if kind == "name":
                words += f" ({sum(map(bool, titles))} of {len(titles)} named)"
            lines.append(words)
        return lines

    def _clusters(self) -> list[int | None]:
        """Of each row."""
        name = next((c for c in self.frame.columns[1:] if c.startswith("cluster")), None)
        return [] if name is None else self.frame[name].to_list()

    def _without(self, missing: int) -> str:
        """How many cases have no cluster, and why."""
        grown = self.focus.grown
        if grown is None or not missing:
            return "Every case has a cluster."
        lacking = 0 if self.focus.groups else sum(one.lacking for one in grown.prepared.dropped)
        why = f", {lacking:,} of them for missing answers" if lacking else ""
        if lacking == missing:
            why = " because of missing answers"
        return f"{counted(missing, 'case')} without a cluster{why}: their cells stay empty."

    def _sizes(self) -> str:
        """The clusters with their cases, by their letters."""
        grown, cut = self.focus.grown, self.focus.cut
        assert grown is not None
        assert cut is not None
        cases = np.bincount(cut.membership, minlength=cut.clusters + 1)[1:]
        return "\n".join(
            f"{self.focus.identities[k].told}: {unit(grown.prepared.of, int(cases[k]))}"
            f" ({cases[k] / grown.tree.n:.0%})"
            for k in by_letter(self.focus.identities)
        )

    def _show_rows(self) -> None:
        frame = self.frame
        if self.only.isChecked() and frame.width:
            frame = frame.filter(pl.Series([cell is None for cell in self._clusters()]))
        self.shown = frame
        self.rows.show(range(frame.height), _columns(frame))

    # what is taken

    def table(self) -> ResultTable | None:
        """The rows that are shown."""
        frame = self.shown
        return ResultTable(tuple(frame.columns), frame.rows()) if frame.width else None

    def _copy(self) -> None:
        plan, grown = self.focus.plan_of_tree, self.focus.grown
        if plan is None or grown is None:
            return
        words = "".join(phrase.text for phrase in plan_phrases(plan, grown.tree.n))
        QApplication.clipboard().setText(f"{words} {choice_sentence(plan.counting)}".strip())
        self.acts.said.emit("Copied.", False)
