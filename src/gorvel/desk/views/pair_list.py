"""Some cases that two trees have, with their cluster in each."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QWidget

from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark, mark_in
from gorvel.desk.views.case_list import CaseList


class PairList(CaseList):
    """Cases by their places among those that both have."""

    heads = ("case", "label", "left", "right")

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        self.met: PairAtCut | None = None
        super().__init__(focus, "Cases", parent)
        for column, wide in enumerate((52, 110, 48)):
            self.view.setColumnWidth(column, wide)

    @property
    def known(self) -> bool:
        return self.met is not None

    def show_pair(self, met: PairAtCut, cases: Sequence[int], title: str) -> None:
        """Show these cases of two trees."""
        self.met = met
        self.title.setText(f"{title}: {len(cases):,}")
        self.show_cases(cases)

    def cells(self, case: int) -> tuple[int | str, ...]:
        met = self.met
        assert met is not None
        prepared, place = met.faced.pair.one.prepared, int(met.faced.pair.mine[case])
        here, there = int(met.crossed.own[case]), int(met.crossed.its[case])
        return (
            int(prepared.numbers[place]), prepared.labels[place], met.names[here].name,
            met.others[there].name,
        )  # fmt: skip

    def mark(self, case: int) -> Mark | None:
        return None if self.met is None else mark_in(self.met, case, self.focus.grown)
