"""One cluster: name, colour, portrait and note, its figures, its cases, and what is nearest."""

from __future__ import annotations

import math
from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QAction, QColor, QFocusEvent, QFontMetricsF, QIcon, QPixmap, QResizeEvent
from PySide6.QtWidgets import (
    QColorDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.base.numbers import fixed, number, unit
from gorvel.core.base.progress import Phase, progress_words
from gorvel.core.profile.members import Members, members_of
from gorvel.core.tree.tree import Tree
from gorvel.core.words.portrait import portrait
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.plain_text import as_item, as_tip
from gorvel.desk.controls.texts import button, clear, heading, panel, scrolled, text
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_list import CaseList
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.shades import ink_on
from gorvel.paint.theme import LIGHT, SPACE, current, font

_SHORT, _LONG = 10, 26  # letters of labels that stand side by side, and of one that is cut
_MOST = 5  # cases named of a kind
_PAIRS = 4_000  # cases up to which members are measured as soon as a cluster is looked at
_EDGE = 5  # pixels of padding and line of a field


class _Words(QPlainTextEdit):
    """A few lines. Signals: left(), the keyboard goes elsewhere."""

    left = Signal()

    def __init__(self, name: str, hint: str, lines: int) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setPlaceholderText(hint)
        self.setFont(font("table"))
        self.setTabChangesFocus(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._least = lines
        self.textChanged.connect(self._grow)
        self._grow()

    def _grow(self) -> None:
        """As high as the text, so that nothing scrolls inside the card that scrolls."""
        line = QFontMetricsF(self.font()).lineSpacing()
        block, high = self.document().firstBlock(), 0.0
        while block.isValid():
            high += self.blockBoundingRect(block).height()
            block = block.next()
        edges = 2 * (self.document().documentMargin() + _EDGE)
        self.setFixedHeight(math.ceil(max(high, self._least * line) + edges))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._grow()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.left.emit()


class ClusterCard(QWidget):
    """Follows the cluster that is looked at."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.focus, self.profiling = actions, actions.focus, profiling
        self.cluster = -1  # from 0
        self._of: tuple[Tree, int] | None = None  # whose words the fields hold: a node of a tree
        self.badge = QPushButton()
        self.badge.setObjectName("badge")
        self.badge.setFixedSize(34, 34)
        self.badge.setToolTip("Colour in every table and figure")
        self.badge.setAccessibleName("Colour of the cluster")
        self.badge.setMenu(QMenu(self.badge))
        self.badge.menu().aboutToShow.connect(self._offer_colours)
        self.title = QLineEdit()
        self.title.setPlaceholderText("Give it a name")
        self.title.setAccessibleName("Name of the cluster")
        self.title.setFont(font("title", 600))
        self.extent = text(soft=True, wrap=False)
        self.portrait = _Words("Portrait of the cluster", "What distinguishes it", 3)
        self.note = _Words("Note on the cluster", "A note, for yourself", 2)
        self.draft = button("Draft portrait", self._draft)
        self.figures = text()
        self.members = CaseList(self.focus, "All its cases")
        self.lists = QVBoxLayout()
        self.lists.setSpacing(SPACE)
        self._lay_out()
        self.title.editingFinished.connect(self._name)
        self.portrait.left.connect(partial(self._say, "portraits", self.portrait))
        self.note.left.connect(partial(self._say, "notes", self.note))
        for signal in (self.focus.labels_changed, self.focus.titles_changed):
            signal.connect(self._again)

    def _lay_out(self) -> None:
        box: QFrame = panel()
        head = in_row(self.badge, (self.title, 1))
        words = QWidget()
        fill(
            words, self.extent, self.portrait, (self.draft, 0, Qt.AlignmentFlag.AlignLeft),
            self.note, self.figures, self.lists, self.members, None, space=SPACE,
        )  # fmt: skip
        area = scrolled(words)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setMinimumWidth(260)
        fill(box, head, (area, 1), space=SPACE, edges=(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE))
        fill(self, box)

    def event(self, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Hide, QEvent.Type.WindowDeactivate):
            self.keep()
        return super().event(event)

    def keep(self) -> None:
        """What is typed and not taken yet goes into the plan."""
        self._name()
        self._say("portraits", self.portrait)
        self._say("notes", self.note)

    def _again(self) -> None:
        self.show_cluster(self.cluster)

    def show_cluster(self, cluster: int) -> None:
        """Tell of one cluster (from 0) of the cut in hand."""
        grown, cut = self.focus.grown, self.focus.cut
        self.cluster = cluster
        self._of = None
        clear(self.lists)
        if grown is None or cut is None or not 0 <= cluster < cut.clusters:
            return
        self._of = grown.tree, int(cut.roots[cluster])
        self._show_identity()
        cases = np.flatnonzero(cut.membership == cluster + 1)
        share = f"{len(cases) / grown.tree.n:.0%}"
        weights = grown.prepared.weights
        if weights is not None:
            share = f"{weights[cases].sum() / weights.sum():.0%} weighted"
        self.extent.setText(f"{unit(grown.of, len(cases))} of {grown.tree.n:,} ({share})")
        self.members.show_cases(cases.tolist())
        self.acts.jobs.drop(JobKind.MEMBERS)
        if grown.tree.n > _PAIRS:
            self._offer()
        else:
            self._tell(members_of(grown, cut, cluster + 1))

    def _show_identity(self) -> None:
        who = self.focus.identities[self.cluster]
        colour = current().identity(who)
        self.badge.setText(who.name)
        self.badge.setFont(font("table" if len(who.name) < 4 else "note", 600))
        self.badge.setStyleSheet(
            f"QPushButton {{ background: {colour.name()}; color: {ink_on(colour, current())};"
            " border-radius: 17px; border: none; padding: 0; }"
            " QPushButton::menu-indicator { image: none; width: 0; }"
        )
        self.title.setText(who.title)
        for key, field in (("portraits", self.portrait), ("notes", self.note)):
            told = self.focus.told_of_cluster(key, self.cluster + 1)
            if told != field.toPlainText().strip():
                field.setPlainText(told)
        self.portrait.setPlaceholderText(self._drafted() or "What distinguishes it")
        self.draft.setVisible(bool(self._drafted()))

    def _drafted(self) -> str:
        known = self.profiling.portrayed
        return portrait(known.lanes, self.cluster) if known is not None and known.lanes else ""

    def _draft(self) -> None:
        """Put the sentence drafted from the numbers where it can be edited."""
        self.portrait.setPlainText(self._drafted())
        self._say("portraits", self.portrait)

    # members

    def _offer(self) -> None:
        """Members of large studies are measured when that is asked for."""
        clear(self.lists)
        self.figures.setText("")
        tip = "Most and least typical members, nearest clusters"
        self.lists.addWidget(button("Compute members", self._measure, "", tip))

    def _measure(self) -> None:
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None:
            return
        clear(self.lists)
        self.figures.setText("Computing its members …")
        jobs = self.acts.jobs
        stop = partial(jobs.cancel, JobKind.MEMBERS)
        self.lists.addWidget(button("Stop", stop, "link"))
        work = partial(members_of, grown, cut, self.cluster + 1)
        job = jobs.start(
            JobKind.MEMBERS, work, self._measured, self.figures.setText, self._offer, asker=self
        )
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
            words.append(f"Mean within-cluster proximity {number(found.mean)}")
            words.append(f"diameter {number(found.diameter)}")
        if found.silhouette is not None:
            words.append(f"mean silhouette {fixed(found.silhouette, 2)}")
        told = ", ".join(words)
        self.figures.setText(f"{told[:1].upper()}{told[1:]}." if told else "")
        if len(found.typical) == 1:  # nothing is typical of a case by itself
            self.figures.setText("One case by itself.")
            self.lists.addLayout(self._cases("Its member", "", [(int(found.typical[0]), "")]))
            self._nearest(found, names)
            return
        typical = [(int(case), "") for case in found.typical[:_MOST]]
        short = [who.name for who in self.focus.identities]
        border = [
            (int(case), f"to {short[other - 1]}, {fixed(value, 2)}")
            for case, other, value in found.border[:_MOST]
        ]
        labels = self.focus.grown.prepared.labels if self.focus.grown is not None else ()
        shown = [*found.typical[:_MOST].tolist(), *(case for case, _, _ in found.border[:_MOST])]
        wide = max(len(labels[case]) for case in shown)
        both = QHBoxLayout() if wide <= _SHORT else QVBoxLayout()
        both.setSpacing(2 * SPACE if wide <= _SHORT else SPACE)
        both.addLayout(self._cases("Most typical", "smallest mean proximity to the rest", typical))
        words_of = "lowest silhouettes, and the cluster they are closest to"
        both.addLayout(self._cases("Least typical", words_of, border), 1)
        self.lists.addLayout(both)
        self._nearest(found, names)

    def _nearest(self, found: Members, names: list[str]) -> None:
        if found.nearest:
            self.lists.addWidget(heading("Nearest clusters", "text"))
            rows = [f"{names[other - 1]}: {number(far)}" for other, far in found.nearest[:_MOST]]
            self.lists.addWidget(text("\n".join(rows)))

    def _cases(self, title: str, tip: str, cases: list[tuple[int, str]]) -> QVBoxLayout:
        """Cases by name, each a link to what is known of it."""
        grown = self.focus.grown
        assert grown is not None
        head = heading(title, "text")
        head.setToolTip(as_tip(tip))
        column = QVBoxLayout()
        column.setSpacing(0)
        column.addWidget(head)
        for case, words in cases:
            name = grown.prepared.labels[case]
            short = _cut(name, _LONG)
            link = button(short, partial(self._mark, case), "name",
                          f"{name}: show it, and mark it on the tree")  # fmt: skip
            row = in_row(link, (text(words, soft=True, wrap=False), 1))
            column.addLayout(row)
        column.addStretch(1)
        return column

    def _mark(self, case: int) -> None:
        self.focus.select(Mark("case", case))

    # what is said of it

    def _known(self) -> bool:
        """Is the cluster still the one whose words the fields hold?"""
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None or not 0 <= self.cluster < cut.clusters:
            return False
        return self._of == (grown.tree, int(cut.roots[self.cluster]))

    def _name(self) -> None:
        title = self.title.text().strip()
        if self._known() and title != self.focus.identities[self.cluster].title:
            self.focus.name_cluster(self.cluster + 1, title)

    def _say(self, key: str, field: QPlainTextEdit) -> None:
        words = field.toPlainText().strip()
        if self._known() and words != self.focus.told_of_cluster(key, self.cluster + 1):
            self.focus.tell_of_cluster(key, self.cluster + 1, words)

    def _offer_colours(self) -> None:
        menu = self.badge.menu()
        menu.clear()
        for name in LIGHT.clusters:
            menu.addAction(self._colour_action(name))
        menu.addSeparator()
        menu.addAction("Another colour …", self._ask_colour)
        if self.focus.told_of_cluster("colours", self.cluster + 1):
            menu.addAction("As its letter has it", partial(self.paint_in, ""))

    def _colour_action(self, name: str) -> QAction:
        square = QPixmap(18, 18)
        square.fill(QColor(name))
        action = QAction(QIcon(square), as_item(name), self.badge.menu())
        action.triggered.connect(partial(self.paint_in, name))
        return action

    def _ask_colour(self) -> None:
        now = current().identity(self.focus.identities[self.cluster])
        colour = QColorDialog.getColor(now, self, "Colour of the cluster")
        if colour.isValid():
            self.paint_in(colour.name())

    def paint_in(self, colour: str, checked: bool = False) -> None:
        """Give it a colour, "" for that of its letter; can be undone."""
        if self._known():
            self.focus.tell_of_cluster("colours", self.cluster + 1, colour)


def _cut(name: str, letters: int) -> str:
    """A label that keeps its beginning and its end where it is too long."""
    if len(name) <= letters:
        return name
    end = letters // 2
    return f"{name[: letters - end - 1].rstrip()}…{name[-end:].lstrip()}"
