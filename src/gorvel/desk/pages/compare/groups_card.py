"""Do the groups of a split find the same clusters?"""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import letters
from gorvel.core.words.comparison import found_again_words, groups_words
from gorvel.desk.controls.arranging import in_column, in_row
from gorvel.desk.controls.texts import button, card, heading, scrolled, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.shaded_view import ShadedView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
from gorvel.desk.work.replicating import Replicating
from gorvel.paint.charts.shaded import Shade, agreement_of_groups
from gorvel.paint.theme import SPACE

_WORDS = (
    "Rows: tree; columns: cases assigned to it (McIntyre & Blashfield 1980). 1 = "
    "same clusters, 0 = chance."
)


class GroupsCard(QWidget):
    """Signals: faced(), two groups were put face to face."""

    faced = Signal()

    def __init__(
        self, actions: Actions, comparing: Comparing, replicating: Replicating,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.comparing, self.replicating = comparing, replicating
        self._columns: list[int] = []  # clusters of the cross table, as they stand
        self.says, self.told = text(), text()
        self.note = text(_WORDS, "note", soft=True)
        self.bar = InquiryBar(replicating.inquiry, self._again, "Assigning cases to clusters …")
        self.grid = ShadedView("Agreement between the clusters of groups", self.words)
        self.cross = ShadedView("Cases in the clusters of both", self._cell_words)
        self.face = button("Show these two face to face", self._face, "link")
        self.take = TakeAway.of(actions, "split-groups")
        head = in_row(heading("Groups"), None, self.take)
        right = in_column(self.told, self.face, (scrolled(self.cross), 1), space=SPACE)
        both = in_row((scrolled(self.grid), 1), (right, 1), space=3 * SPACE)
        inside = card(self)
        inside.addLayout(head)
        inside.addWidget(self.bar)
        inside.addWidget(self.says)
        inside.addLayout(both, 1)
        inside.addWidget(self.note)
        self.grid.taken.connect(self._show_cross)
        self.grid.pointed.connect(self._show_cross)
        replicating.inquiry.changed.connect(self._show)

    def follow(self) -> None:
        """Another tree or cut."""
        if self.isVisible():
            self.replicating.ask()
        self._show()

    def _again(self) -> None:
        self.replicating.ask(again=True)

    def _show(self) -> None:
        known, why = self.replicating.known, self.replicating.why_not
        self.take.setEnabled(known is not None)
        self.note.setVisible(known is not None)
        if known is None:
            self.says.setText(why)
            self.grid.show_grid()
        else:
            names = {group: name for group, (name, _) in known.groups.items()}
            self.says.setText(groups_words(known.found, names, known.count))
            self.grid.show_grid(*agreement_of_groups(known))
        self._show_cross()

    def _two(self, cell: tuple[int, int] | None) -> tuple[str, str] | None:
        """The groups of a cell; those first with another one, where none is pointed at."""
        known = self.replicating.known
        if known is None:
            return None
        names = list(known.groups)
        one, other = (0, 1) if cell is None else cell
        return (names[one], names[other]) if one != other else None

    def words(self, cell: tuple[int, int] | None) -> str:
        """What a cell is."""
        known, two = self.replicating.known, self._two(cell)
        if known is None or two is None:
            return ""
        names = [known.groups[group][0] for group in two]
        return found_again_words(known.found[two], names[0], names[1])

    def _show_cross(self, *_: int) -> None:
        """The clusters of both groups that are pointed at, or that were chosen."""
        known, at = self.replicating.known, self.grid.shown
        two = self._two(at)
        self.told.setText(self.words(at))
        self.face.setVisible(two is not None)
        if known is None or two is None:
            self.cross.show_grid()
            return
        self._columns = known.found[two].facing
        table = known.found[two].table[:, self._columns]
        most = max(int(table.max(initial=0)), 1)
        cells = {
            (row, column): Shade(f"{value:,}", value / most)
            for row, line in enumerate(table.tolist())
            for column, value in enumerate(line)
        }
        name = known.groups[two[0]][0]
        rows = [f"{name} {letters(row + 1)}" for row in range(len(table))]
        columns = [f"own {letters(column + 1)}" for column in self._columns]
        self.cross.show_grid(rows, columns, cells)

    def _cell_words(self, cell: tuple[int, int]) -> str:
        known, two = self.replicating.known, self._two(self.grid.shown)
        if known is None or two is None:
            return ""
        names = [known.groups[group][0] for group in two]
        column = self._columns[cell[1]]
        value = int(known.found[two].table[cell[0], column])
        one, other = letters(cell[0] + 1), letters(column + 1)
        return f"{value:,} cases of {names[1]} in its cluster {other} are in {one} of {names[0]}"

    def _face(self) -> None:
        known, two = self.replicating.known, self._two(self.grid.cell)
        if known is None or two is None:
            return
        self.comparing.put(known.number, True, two[0])
        self.comparing.put(known.number, False, two[1])
        self.faced.emit()
