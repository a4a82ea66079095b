"""One case: where it is and how surely, who is most like it, and where it goes at other counts."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from gorvel.core.base.numbers import fixed, number
from gorvel.core.profile.one_case import OneCase, likeness, one_case
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.texts import button, clear, heading, panel, scrolled, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.state.marks import Mark
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import ROUNDS, Profiling
from gorvel.paint.theme import SPACE, current

_NAMED = 3  # questions named where two cases are alike, and where they differ
_COUNTS = 10  # counts at which it is told where the case goes
_FAIR, _GOOD = 0.25, 0.5  # of silhouettes


class CaseCard(QWidget):
    """Follows the case that is marked. Signals: back(), to its cluster; tree_wanted()."""

    back = Signal()
    tree_wanted = Signal()

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.focus, self.profiling = actions, actions.focus, profiling
        self.case = -1
        self.title = heading("")
        self.title.setWordWrap(True)
        self.where, self.sure, self.kept = text(), text(), text()
        self.ask = button("How often does it stay in resamples?", profiling.ask_shares, "",
                          f"{ROUNDS} resamples of all cases")  # fmt: skip
        self.bar = InquiryBar(profiling.shares, profiling.ask_shares, "Resampling …")
        self.alike, self.elsewhere = QVBoxLayout(), QVBoxLayout()
        words = QWidget()
        inside = QVBoxLayout(words)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(SPACE)
        head = in_row(
            button("← Its cluster", self.back.emit, "link"), None,
            button("Show on the tree", self.tree_wanted.emit, "link"),
        )  # fmt: skip
        for widget in (self.where, self.sure, self.kept, self.ask, self.bar):
            inside.addWidget(widget)
        for title, column in (
            ("Most similar", self.alike),
            ("At other numbers of clusters", self.elsewhere),
        ):
            inside.addWidget(heading(title, "text"))
            column.setSpacing(2)
            inside.addLayout(column)
        inside.addStretch(1)
        box = panel()
        fill(
            box, head, self.title, (scrolled(words), 1), space=SPACE,
            edges=(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE),
        )  # fmt: skip
        fill(self, box)
        for signal in (profiling.shares.changed, profiling.portraits.changed,
                       self.focus.titles_changed, self.focus.labels_changed):  # fmt: skip
            signal.connect(self._again)

    def _again(self) -> None:
        if self.case >= 0 and self.isVisible():
            self.show_case(self.case)

    def show_case(self, case: int) -> None:
        """Tell of one case, by its place in the tree."""
        grown, cut = self.focus.grown, self.focus.cut
        self.case = case
        clear(self.alike)
        clear(self.elsewhere)
        if grown is None or cut is None or not 0 <= case < grown.tree.n:
            return
        own, names = cut.membership - 1, [who.told for who in self.focus.identities]
        found = one_case(grown, own, case)
        label, row = grown.prepared.labels[case], int(grown.prepared.numbers[case])
        self.title.setText(label if label == str(row) else f"{label} (row {row:,})")
        self.where.setText(f"In {names[found.cluster - 1]}, of {cut.clusters} clusters.")
        self.sure.setText(_sure_words(found, names))
        shares = self.profiling.kept_shares
        self.ask.setVisible(shares is None and self.profiling.shares.job is None)
        if shares is None:
            self.kept.setText("")
        elif np.isnan(shares[case]):
            self.kept.setText("It was never drawn in the resamples.")
        else:
            self.kept.setText(
                f"It stays with its cluster in {shares[case]:.0%} of the resamples it is in."
            )
        self.kept.setVisible(bool(self.kept.text()))
        self._show_alike(found, own, names)
        self._show_elsewhere()

    def _show_alike(self, found: OneCase, own: np.ndarray, names: list[str]) -> None:
        grown, known = self.focus.grown, self.profiling.portrayed
        assert grown is not None
        for other, far in found.nearest[:5]:
            row = in_row(
                button(grown.prepared.labels[other], partial(self._mark, other), "name"),
                (text(f"{number(far)}, in {names[int(own[other])]}", soft=True, wrap=False), 1),
            )
            self.alike.addLayout(row)
            if known is not None and known.told:
                like = likeness(known.told, self.case, other)
                words = []
                if like.alike:
                    words.append(f"same: {_some(like.alike)}")
                if like.differ:
                    words.append(f"differ: {_some([name for name, _ in like.differ])}")
                told = text("; ".join(words), "note", soft=True)
                self.alike.addWidget(told)

    def _show_elsewhere(self) -> None:
        """A line for each count at which its cluster is another one."""
        grown, cut = self.focus.grown, self.focus.cut
        assert grown is not None
        assert cut is not None
        last = (-1, "")
        for count in range(1, min(grown.tree.n, _COUNTS) + 1):
            at = cut_at_count(grown.tree, count)
            number_ = int(at.membership[self.case])
            root = int(at.roots[number_ - 1])
            if root == last[0]:
                continue
            who = self.focus.identities_of(at)[number_ - 1]
            size = int(grown.tree.sizes[root])
            words = f"from {count}: {who.told}, {size:,} cases"
            label = text(words, "table", 600 if count == cut.clusters else 400, wrap=False)
            dot = QLabel()
            dot.setFixedSize(10, 10)
            colour = current().identity(who).name()
            dot.setStyleSheet(f"background: {colour}; border-radius: 5px;")
            row = in_row(dot, (label, 1), space=6)
            self.elsewhere.addLayout(row)
            last = root, words

    def _mark(self, case: int) -> None:
        self.focus.select(Mark("case", case))


def _sure_words(found: OneCase, names: list[str]) -> str:
    if found.silhouette is None or found.leans is None:
        return "There is no other cluster."
    other, value = names[found.leans - 1], fixed(found.silhouette, 2)
    if found.inside is None:
        return f"It is a cluster of its own; {other} is nearest."
    if found.silhouette < 0:
        return f"It is closer to {other} than to its own (silhouette {value})."
    value_ = found.silhouette
    how = "loosely" if value_ < _FAIR else "fairly well" if value_ < _GOOD else "firmly"
    return f"It fits its cluster {how} (silhouette {value}); {other} is next closest."


def _some(names: list[str] | tuple[str, ...]) -> str:
    more = len(names) - _NAMED
    return ", ".join(names[:_NAMED]) + (f" and {more} more" if more > 0 else "")
