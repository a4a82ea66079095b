"""One cluster: its name, its figures, who is most typical of it, and who could stand elsewhere."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from gorvel.core.base.numbers import number, unit
from gorvel.core.base.progress import Phase, progress_words
from gorvel.core.profile.members import Members, members_of
from gorvel.desk.controls.texts import button, clear, heading, panel, scrolled, text
from gorvel.desk.state.marks import Mark
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.paint.shades import ink_on
from gorvel.paint.theme import SPACE, current, font

__all__ = ["ClusterCard"]

_MOST = 6  # cases named of a kind
_PAIRS = 4_000  # cases up to which members are measured as soon as a cluster is looked at


class ClusterCard(QWidget):
    """Follows the cluster chosen among the profiles."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.cluster = -1  # from 0
        self.badge = QLabel()
        self.badge.setFixedSize(34, 34)
        self.badge.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.title = QLineEdit()
        self.title.setPlaceholderText("Give it a name")
        self.title.setAccessibleName("Name of the cluster")
        self.title.setFont(font(1.07, 600))
        self.extent = text(soft=True, wrap=False)
        self.figures = text()
        self.lists = QVBoxLayout()
        self.lists.setSpacing(SPACE)
        box: QFrame = panel()
        head = QHBoxLayout()
        head.addWidget(self.badge)
        head.addWidget(self.title, 1)
        inside = QVBoxLayout()
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(SPACE)
        inside.addWidget(self.extent)
        inside.addWidget(self.figures)
        inside.addLayout(self.lists)
        inside.addStretch(1)
        words = QWidget()
        words.setLayout(inside)
        layout = QVBoxLayout(box)
        layout.setContentsMargins(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE)
        layout.setSpacing(SPACE)
        layout.addLayout(head)
        layout.addWidget(scrolled(words), 1)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(box)
        self.title.editingFinished.connect(self._name)
        for signal in (self.focus.labels_changed, self.focus.titles_changed):
            signal.connect(self._again)

    def _again(self) -> None:
        self.show_cluster(self.cluster)

    def show_cluster(self, cluster: int) -> None:
        """Tell of one cluster (from 0) of the cut in hand."""
        grown, cut = self.focus.grown, self.focus.cut
        self.cluster = cluster
        clear(self.lists)
        if grown is None or cut is None or not 0 <= cluster < cut.clusters:
            return
        who = self.focus.identities[cluster]
        colour = current().identity(who)
        self.badge.setText(who.name)
        self.badge.setFont(font(0.93, 600))
        self.badge.setStyleSheet(
            f"background: {colour.name()}; color: {ink_on(colour, current())}; border-radius: 17px;"
        )
        self.title.setText(who.title)
        cases = np.flatnonzero(cut.membership == cluster + 1)
        self.extent.setText(f"{unit(grown.of, len(cases))} of {grown.tree.n:,}"
                          f" ({len(cases) / grown.tree.n:.0%})")  # fmt: skip
        self.acts.jobs.drop(JobKind.MEMBERS)
        if grown.tree.n > _PAIRS:
            self._offer()
        else:
            self._tell(members_of(grown, cut, cluster + 1))

    def _offer(self) -> None:
        """Members of large studies are measured when that is asked for."""
        clear(self.lists)
        self.figures.setText("")
        tip = "Typical members, members on the border, nearest clusters"
        self.lists.addWidget(button("measure its members", self._measure, "link", tip))

    def _measure(self) -> None:
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None:
            return
        clear(self.lists)
        self.figures.setText("Measuring its members …")
        jobs = self.acts.jobs
        stop = partial(jobs.cancel, JobKind.MEMBERS)
        self.lists.addWidget(button("stop", stop, "link"))
        work = partial(members_of, grown, cut, self.cluster + 1)
        job = jobs.start(JobKind.MEMBERS, work, self._measured, self.figures.setText, self._offer)
        job.progressed.connect(self._progressed)

    def _measured(self, found: Members) -> None:
        clear(self.lists)
        self._tell(found)

    def _progressed(self, phase: Phase, share: float, left: float) -> None:
        self.figures.setText(progress_words(phase, share, left))

    def _tell(self, found: Members) -> None:
        names = [who.told for who in self.focus.identities]
        words = []
        if found.mean is not None:
            words.append(f"Mean proximity inside {number(found.mean)}")
            words.append(f"largest {number(found.diameter)}")
        if found.silhouette is not None:
            words.append(f"mean silhouette {found.silhouette:.2f}")
        told = ", ".join(words)
        self.figures.setText(f"{told[:1].upper()}{told[1:]}." if told else "")
        if len(found.typical) == 1:  # nothing is typical of a case by itself
            self.figures.setText("One case by itself.")
            self._cases("Its member", "", [(int(found.typical[0]), "")])
            self._nearest(found, names)
            return
        typical = [(int(case), "") for case in found.typical[:_MOST]]
        self._cases("Most typical", "smallest mean proximity to the rest", typical)
        border = [
            (int(case), f"to {names[other - 1]}, {value:.2f}".replace("-", "−"))
            for case, other, value in found.border[:_MOST]
        ]
        self._cases("On the border", "lowest silhouettes, and where they lean", border)
        self._nearest(found, names)

    def _nearest(self, found: Members, names: list[str]) -> None:
        if found.nearest:
            self.lists.addWidget(heading("Nearest clusters", 1.0))
            rows = [f"{names[other - 1]}: {number(far)}" for other, far in found.nearest[:_MOST]]
            self.lists.addWidget(text("\n".join(rows)))

    def _cases(self, title: str, tip: str, cases: list[tuple[int, str]]) -> None:
        """Cases by name, each a link to the tree."""
        grown = self.focus.grown
        if grown is None or not cases:
            return
        head = heading(title, 1.0)
        head.setToolTip(tip)
        column = QVBoxLayout()
        column.setSpacing(0)
        column.addWidget(head)
        for case, words in cases:
            row = QHBoxLayout()
            link = button(grown.prepared.labels[case], partial(self._mark, case), "link",
                          "Mark it on the tree")  # fmt: skip
            row.addWidget(link)
            row.addWidget(text(words, soft=True, wrap=False), 1)
            column.addLayout(row)
        self.lists.addLayout(column)

    def _mark(self, case: int) -> None:
        self.focus.select(Mark("case", case))
        self.acts.said.emit("It is marked on the tree (Alt+3).", False)

    def _name(self) -> None:
        cut = self.focus.cut
        if cut is None or not 0 <= self.cluster < cut.clusters:
            return
        title = self.title.text().strip()
        if title != self.focus.identities[self.cluster].title:
            self.focus.name_cluster(self.cluster + 1, title)
