"""Silhouettes at two counts, the cases that lean elsewhere, and finding one case."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget

from gorvel.core.base.numbers import fixed
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import text
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.result_view import ResultView
from gorvel.desk.views.silhouettes_view import SilhouettesView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.counting import Counting
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import font

_HEAD = 24  # pixels of the heads of the list
_MOST = 200  # leaning cases that are listed


class SilhouettesCard(QWidget):
    """Follows the count in hand."""

    def __init__(self, actions: Actions, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.counting, self.focus = actions, counting, counting.focus
        self.view = SilhouettesView(counting)
        self.beside = QComboBox()
        self.beside.setAccessibleName("Compare with another number")
        self.beside.setFont(font("table"))
        self.sought = QLineEdit()
        self.sought.setPlaceholderText("Find a case")
        self.sought.setAccessibleName("")
        self.sought.setMaximumWidth(110)
        self.note = text(weight=600, wrap=False)
        self.reading = text(soft=True)
        self._leaning: list[int] = []  # cases of its rows
        self.leaning = ResultView(
            ("case", "in", "closer to", "silhouette"), "Cases closer to another cluster",
            (130, 60, 70), 22,
        )  # fmt: skip
        self.leaning.horizontalHeader().setFixedHeight(_HEAD)
        self._lay_out()
        self.beside.currentIndexChanged.connect(self._beside_chosen)
        self.sought.returnPressed.connect(self._find)
        self.leaning.currentCellChanged.connect(self._row_chosen)
        WhenSeen(self, self._follow, counting.changed, self.focus.cut_changed).follow()
        WhenSeen(self, self._tell, self.focus.mark_changed)
        WhenSeen(self, self._list, self.focus.labels_changed)

    def _lay_out(self) -> None:
        self.take = TakeAway.of(self.acts, "silhouettes", self.sheet)
        row = in_row(
            text("beside", soft=True, wrap=False), self.beside, self.sought, None, self.take
        )
        fill(self, row, (self.view, 3), self.reading, self.note, (self.leaning, 2))
        self.leaning.setMinimumHeight(_HEAD + 26)

    def _follow(self) -> None:
        board, cut = self.counting.board, self.focus.cut
        counts = board.counts if board is not None else ()
        with QSignalBlocker(self.beside):
            chosen = self.view.other
            self.beside.clear()
            self.beside.addItem("no other", 0)
            for count in counts:
                if cut is not None and count != cut.clusters and count > 1:
                    self.beside.addItem(f"{count} clusters", count)
            self.beside.setCurrentIndex(max(self.beside.findData(chosen), 0))
        self._list()
        self._tell()

    def _list(self) -> None:
        found, grown = self.counting.silhouettes(self.view.count()), self.focus.grown
        self.leaning.setVisible(found is not None)
        if found is None or grown is None:
            board = self.counting.board
            beyond = board is not None and board.sums is not None
            self.note.setText(
                "Silhouettes are shown from 2 clusters to the largest number on the board."
                if beyond
                else ""
            )
            return
        rows, names = found.leaning, self.view.names(found.count)
        self.leaning.setVisible(bool(len(rows)))
        self.note.setText(
            f"{len(rows):,} of {len(found.cases):,} closer to another cluster"
            if len(rows) else "No case is closer to another cluster"
        )  # fmt: skip
        self.note.setProperty("alarm", bool(len(rows)))
        self.note.style().polish(self.note)
        with QSignalBlocker(self.leaning):
            self._leaning = [int(found.cases[row]) for row in rows[:_MOST]]
            self.leaning.show_rows([
                (grown.prepared.labels[case], names[int(found.own[row]) - 1].name,
                 names[int(found.leans[row]) - 1].name, fixed(found.values[row], 3))
                for case, row in zip(self._leaning, rows[:_MOST].tolist(), strict=True)
            ], lambda *_: False)  # fmt: skip

    def _beside_chosen(self) -> None:
        self.view.beside(self.beside.currentData() or 0)
        self._tell()

    def _row_chosen(self, row: int, *_: int) -> None:
        if 0 <= row < len(self._leaning):
            self.focus.select(Mark("case", self._leaning[row]))

    def _find(self) -> None:
        """Select the next case whose label holds what was typed."""
        grown, sought = self.focus.grown, self.sought.text().strip().casefold()
        if grown is None or not sought:
            return
        labels, mark = grown.prepared.labels, self.focus.selected
        here = mark.number if mark is not None and mark.kind == "case" else -1
        for step in range(1, len(labels) + 1):
            case = (here + step) % len(labels)
            if sought in labels[case].casefold():
                self.focus.select(Mark("case", case))
                return
        self.acts.said.emit(f"No label contains “{self.sought.text().strip()}”.", True)

    def _tell(self) -> None:
        """The case that is marked, at each count shown."""
        mark = self.focus.mark
        words = []
        if mark is not None and mark.kind == "case":
            chart = self.view.chart()
            words = [] if chart is None else chart.tips_of(mark.number)
        cut = self.focus.cut
        if cut is not None and cut.split:
            words.append("Of the plain cut into so many clusters: no branch is cut lower here.")
        words = words or ["Point at a bar, or find a case, to read its silhouette."]
        self.reading.setText("\n".join(words))

    def sheet(self) -> Sheet | None:
        """The bars for print."""
        return self.view.sheet("Silhouettes")
