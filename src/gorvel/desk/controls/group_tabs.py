"""A row of tabs to turn between the trees of the groups of a split."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QSizePolicy, QWidget

from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.controls.flow import FlowLayout
from gorvel.desk.controls.following import OnceATurn
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import button, clear, counted, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import SPACE


class GroupTabs(QWidget):
    """Hidden where the tree is of all cases; the count of one group can be given to all."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.tabs: dict[str, QPushButton] = {}
        self.title = text(soft=True, wrap=False)
        inside = QWidget()
        self._flow = FlowLayout(inside)
        self._flow.setContentsMargins(0, 0, 0, 0)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        inside.setSizePolicy(policy)
        self.all = button("", focus.cut_all_groups)
        fill_row(
            self, (self.title, 0, Qt.AlignmentFlag.AlignVCenter), (inside, 1),
            (self.all, 0, Qt.AlignmentFlag.AlignVCenter), space=SPACE,
            edges=(2 * SPACE, 0, 2 * SPACE, 0),
        )  # fmt: skip
        OnceATurn(
            self, self._follow, focus.tree_changed, focus.cut_changed, focus.shelf.plan_changed
        ).follow()

    def _words(self, group: str) -> str:
        plan = self.focus.shelf.plan
        assert plan is not None
        return plan.variables.values.get(plan.cases.split or "", {}).get(group, group)

    def _follow(self) -> None:
        focus, cut = self.focus, self.focus.cut
        trees = focus.of_groups if focus.groups else {}
        self.setVisible(bool(trees))
        if not trees or cut is None or focus.shelf.plan is None:
            return
        names = [*trees, *focus.too_small]
        if list(self.tabs) != names:
            clear(self._flow)
            self.tabs = {}
            for group in names:
                tab = button("", lambda group=group: focus.turn_to(group), "tab")  # type: ignore[misc]
                tab.setCheckable(True)
                self.tabs[group] = tab
                self._flow.addWidget(tab)
        by = focus.shelf.plan.cases.split or "group"
        self.title.setText(f"{by}:")
        for group, tab in self.tabs.items():
            tab.setChecked(group == focus.grown_group)
            if group in focus.too_small:
                tab.setText(f"{self._words(group)}  no tree")
                tab.setToolTip(as_tip(focus.too_small[group]))
                tab.setEnabled(False)
                continue
            tree = trees[group]
            clusters = 1 if tree.cut is None else tree.cut.cut(tree.tree).clusters
            tab.setText(f"{self._words(group)}  {tree.tree.n:,}")
            told = f"{counted(tree.tree.n, 'case')}, cut into {counted(clusters, 'cluster')}"
            tab.setToolTip(as_tip(f"{told} (Ctrl+Page Up, Ctrl+Page Down)"))
        self.all.setText(f"Cut all groups into {cut.clusters:,}")

    def step(self, by: int) -> None:
        """Turn to the next group that has a tree, or the one before."""
        groups = self.focus.groups
        if groups and self.focus.grown_group in groups:
            place = groups.index(self.focus.grown_group) + by
            self.focus.turn_to(groups[place % len(groups)])
