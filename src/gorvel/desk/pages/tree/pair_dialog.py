"""How alike are two cases? With the nearest and the farthest pairs of all."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QApplication,
    QCompleter,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QWidget,
)

from gorvel.core.base.numbers import number
from gorvel.core.base.progress import Progress
from gorvel.core.proximity.extremes import Pair, extreme_pairs, rank_of_pair
from gorvel.core.words.tree import describe_pair
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.texts import button, heading, text
from gorvel.desk.state.marks import Mark
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.paint.theme import SPACE

_LISTED = 12


class PairDialog(QDialog):
    """Marks the pair that is asked for in every view; does not hold up the window."""

    def __init__(self, actions: Actions, parent: QWidget) -> None:
        super().__init__(parent)
        delete_on_close(self)
        self.acts, self.focus = actions, actions.focus
        self.setWindowTitle("Compare two cases")
        self.one, self.other = QLineEdit(), QLineEdit()
        self.answer = text()
        self.answer.setMinimumHeight(84)
        self.answer.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.answer.setAccessibleName("Proximity of the two cases")
        self.nearest, self.farthest = QListWidget(), QListWidget()
        self._build()
        self.focus.tree_changed.connect(self._new_tree)
        self.focus.labels_changed.connect(self._new_tree)
        self._new_tree()
        pair = self.focus.pair
        if pair is not None:
            self._fill_in(*pair)
            self._look_up()

    def _build(self) -> None:
        asked = QHBoxLayout()
        asked.addWidget(text("Compare", wrap=False))
        for field, words in ((self.one, "one case"), (self.other, "another case")):
            field.setPlaceholderText(words)
            field.setAccessibleName(words)
            field.returnPressed.connect(self._look_up)
            asked.addWidget(field, 1)
            if field is self.one:
                asked.addWidget(text("and", wrap=False))
        asked.addWidget(button("Show", self._look_up, tip="Return"))
        lists = QGridLayout()
        for column, (words, view) in enumerate(
            (("Nearest pairs", self.nearest), ("Farthest pairs", self.farthest))
        ):
            lists.addWidget(heading(words, "text"), 0, column)
            lists.addWidget(view, 1, column)
            view.setAccessibleName(words)
            view.itemActivated.connect(self._chosen)
            view.itemClicked.connect(self._chosen)
        ends = in_row(button("Copy text", self._copy, "link"), None, button("Close", self.accept))
        fill(
            self, asked, self.answer, lists, ends, space=SPACE,
            edges=(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE),
        )  # fmt: skip
        self.resize(560, 480)

    def _copy(self) -> None:
        QApplication.clipboard().setText(self.answer.text())

    def done(self, result: int) -> None:
        for target in (JobKind.EXTREMES, JobKind.RANK):  # nobody is left to be told
            self.acts.jobs.drop(target)
        super().done(result)

    def _new_tree(self) -> None:
        """Offer the labels of the tree, and look for its extreme pairs."""
        grown = self.focus.grown
        self.nearest.clear()
        self.farthest.clear()
        self.answer.setText("")
        if grown is None:
            return
        for field in (self.one, self.other):
            completer = QCompleter(list(grown.prepared.labels), field)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            field.setCompleter(completer)
        self.nearest.addItem("Searching …")

        def work(progress: Progress) -> tuple[list[Pair], list[Pair]]:
            return extreme_pairs(grown.pairs, grown.tree.n, _LISTED, progress)

        self.acts.jobs.start(JobKind.EXTREMES, work, self._list, self.answer.setText, asker=self)

    def _list(self, found: tuple[Sequence[Pair], Sequence[Pair]]) -> None:
        grown = self.focus.grown
        if grown is None:
            return
        labels = grown.prepared.labels
        for view, pairs in zip((self.nearest, self.farthest), found, strict=True):
            view.clear()
            for pair in pairs:
                words = f"{labels[pair.one]} and {labels[pair.other]}: {number(pair.proximity)}"
                item = QListWidgetItem(words)
                item.setData(Qt.ItemDataRole.UserRole, (pair.one, pair.other))
                view.addItem(item)

    def _chosen(self, item: QListWidgetItem) -> None:
        pair = item.data(Qt.ItemDataRole.UserRole)
        if pair is not None:
            self._fill_in(*pair)
            self._look_up()

    def _fill_in(self, one: int, other: int) -> None:
        if self.focus.grown is not None:
            self.one.setText(self.focus.grown.prepared.labels[one])
            self.other.setText(self.focus.grown.prepared.labels[other])

    def _case(self, field: QLineEdit) -> int | None:
        """The case that a field names, by its whole label or the only one that holds it."""
        assert self.focus.grown is not None
        labels, sought = self.focus.grown.prepared.labels, field.text().strip().casefold()
        exact = [k for k, label in enumerate(labels) if label.casefold() == sought]
        found = exact or [k for k, label in enumerate(labels) if sought in label.casefold()]
        if sought and (exact or len(found) == 1):
            return found[0]
        why = "No label contains" if not found else f"{len(found):,} labels contain"
        self.answer.setText(
            f"{why} “{field.text().strip()}”." if sought else "Enter two case labels."
        )
        field.setFocus()
        return None

    def _look_up(self) -> None:
        grown = self.focus.grown
        if grown is None:
            return
        one = self._case(self.one)
        other = None if one is None else self._case(self.other)
        if one is None or other is None:
            return
        if one == other:
            self.answer.setText("Both labels belong to the same case.")
            return
        self.focus.select(Mark("pair", one, other))
        self.answer.setText(describe_pair(grown, one, other))
        if grown.pairs.matrix is None:
            self._rank(one, other)

    def _rank(self, one: int, other: int) -> None:
        """Where no matrix is kept all pairs are measured once more."""
        grown = self.focus.grown
        assert grown is not None

        def work(progress: Progress) -> str:
            nearer = rank_of_pair(grown.pairs, grown.tree.n, one, other, progress)[1]
            return describe_pair(grown, one, other, nearer)

        self.acts.jobs.start(
            JobKind.RANK, work, self.answer.setText, self.answer.setText, asker=self
        )
