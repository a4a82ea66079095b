"""Cases of another file given to the clusters: sizes beside each other, who is far from all."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import counted, fixed, number
from gorvel.core.profile.new_cases import NewCases
from gorvel.core.profile.sample_comparison import Panel
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.file_dialog import ALL_FILES, ask_for_file, tables_filter
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import button, heading, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.result_view import ResultView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import SPACE

_EMPTY = (
    "Choose a file with the same questions (or drop it here); each case is "
    "assigned to the nearest cluster."
)
_HEADS = ("cluster", "this study", "new cases", "change", "95% CI", "p (Holm)",
          "far from all")  # fmt: skip
_HOW = {"centroid": "the nearest centroid", "mean": "the smallest mean proximity to the members",
        "nearest": "the nearest case"}  # fmt: skip


def _panel_words(panel: Panel) -> str:
    """Are the clusters as large in both waves, where these hold the same cases."""
    if np.isnan(panel.p):
        return "Too few cases change cluster to test whether sizes differ."
    p = "< 0.001" if panel.p < 0.001 else f"= {fixed(panel.p, 3)}"
    verdict = "Sizes differ" if panel.p < 0.05 else "Sizes show no evidence of change"
    return (
        f"{verdict} among the {panel.cases:,} cases in both files: Stuart–Maxwell chi-square"
        f" {fixed(panel.chi2, 2)}, df {panel.df}, p {p}. Unweighted, clusters fixed."
    )


class NewCasesCard(QWidget):
    """The file is part of the plan; cases are given when it is looked at."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.profiling, self.focus = actions, profiling, actions.focus
        self.setAcceptDrops(True)
        self.title = heading("Assign new cases")
        self.says = text()
        self.choose = button("Choose file …", self._choose)
        self.drop = button("Remove", self._forget, "", "Remove the file from the plan")
        self.bar = InquiryBar(profiling.wave, self._again, "Assigning new cases …", mendable=True)
        self.sizes = ResultView(
            _HEADS, "Sizes of the clusters in both files", (190, 110, 110, 80, 140, 80), 24,
            right=range(1, len(_HEADS)),
        )  # fmt: skip
        self.far = ResultView(
            ("new case", "nearest cluster", "distance", "next best"),
            "New cases far from all clusters", (190, 190, 110, 190), 22,
        )  # fmt: skip
        self.test, self.far_title = text(), heading("", "table")
        self.panel_title = heading("", "table")
        self.panel = ResultView(
            ("this study",), "Cases that are in both files", (190,), 24, right=range(1, 1_000)
        )
        self.take = TakeAway.of(actions, "new-cases")
        self.rest = TakeAway.of(actions, "new-case-clusters")
        self.rest.setText("Clusters of the new cases")
        head = in_row(
            (self.says, 1), (self.drop, 0, Qt.AlignmentFlag.AlignTop),
            (self.rest, 0, Qt.AlignmentFlag.AlignTop), (self.take, 0, Qt.AlignmentFlag.AlignTop),
            (self.choose, 0, Qt.AlignmentFlag.AlignTop),
        )  # fmt: skip
        fill(
            self, self.title, head, self.bar, (self.sizes, 2), self.test, self.panel_title,
            (self.panel, 2), self.far_title, (self.far, 2), None, space=SPACE,
        )  # fmt: skip
        profiling.wave.changed.connect(self._show)
        WhenSeen(
            self, self._follow, self.focus.cut_changed, self.focus.shelf.plan_changed,
            self.focus.titles_changed,
        ).follow()  # fmt: skip

    def _again(self) -> None:
        self.profiling.wave.forget()
        self._follow()

    def _follow(self) -> None:
        self.profiling.ask_new_cases()
        self._show()

    def _show(self) -> None:
        plan, cut, found = self.focus.shelf.plan, self.focus.cut, self.profiling.assigned
        asked = None if plan is None else plan.assign
        for widget in (self.sizes, self.test, self.take, self.rest):
            widget.setVisible(found is not None)
        self.drop.setVisible(asked is not None)
        far = [] if found is None else np.flatnonzero(found.given.far).tolist()
        for widget in (self.far, self.far_title):
            widget.setVisible(bool(far))
        panel = None if found is None else found.panel
        for widget in (self.panel, self.panel_title):
            widget.setVisible(panel is not None)
        self.choose.setText("Choose file …" if asked is None else "Another file …")
        words = _EMPTY if asked is None else asked.file
        if asked is not None and cut is not None and cut.split:
            words = "Some branches are cut lower: cut by number of clusters to assign new cases."
        grown = self.focus.grown
        if grown is not None and (grown.of != "cases" or grown.prepared.answers is None):
            words = "New cases can only be assigned to clusters of cases with answers."
            self.choose.setVisible(False)
        else:
            self.choose.setVisible(True)
        if found is not None:
            cases, how = len(found.assigned.cases), _HOW[found.assigned.method]
            words = f"{counted(cases, 'case')} of {found.file}, each assigned by {how}."
            if found.waves.ungiven:
                words += f" {found.waves.ungiven:,} with missing answers are not assigned."
            self._fill(found)
            self._fill_far(found, far)
            if panel is not None:
                self._fill_panel(panel)
        self.says.setText(words)

    def _fill(self, found: NewCases) -> None:
        waves, names = found.waves, [who.told for who in self.focus.identities]
        n, m = int(waves.first.sum()), int(waves.second.sum())
        rows: list[tuple[str, ...]] = []
        for k, name in enumerate(names):
            change = "–" if not m else fixed(100 * waves.change[k], 1, sign=True)
            ends = (
                f"{fixed(100 * waves.lower[k], 1, sign=True)} to"
                f" {fixed(100 * waves.upper[k], 1, sign=True)}"
                if np.isfinite(waves.lower[k])
                else "–"
            )
            p = waves.p_each[k]
            rows.append((
                name, f"{waves.first[k]:,} · {waves.first[k] / n:.0%}",
                f"{waves.second[k]:,} · {waves.second[k] / m:.0%}" if m else "0", change, ends,
                "–" if np.isnan(p) else "< .001" if p < 0.001 else fixed(p, 3),
                f"{waves.far[k]:,}" if waves.far[k] else "·",
            ))  # fmt: skip
        self.sizes.show_rows(rows)
        self.sizes.setMaximumHeight(24 * len(names) + 40)
        words = ""
        if found.panel is not None:
            words = _panel_words(found.panel)
        elif waves.few.any():
            told = ", ".join(name for name, few in zip(names, waves.few, strict=True) if few)
            words = (
                f"No test: fewer than five cases are expected in {told}. Changes in percentage "
                "points; unweighted, clusters fixed."
            )
        elif np.isfinite(waves.p):
            p = "< .001" if waves.p < 0.001 else f"= {fixed(waves.p, 3)}"
            verdict = "differ" if waves.p < 0.05 else "show no evidence of change"
            words = (
                f"Sizes {verdict}: chi-square {fixed(waves.chi2, 2)}, df {waves.df}, p {p}. "
                "Changes in percentage points; unweighted, files as independent simple random "
                "samples, clusters fixed."
            )
        self.test.setText(words)

    def _fill_panel(self, panel: Panel) -> None:
        """Where the cases that are in both files were, by row, and where they are, by column."""
        names = [who.told for who in self.focus.identities]
        of = counted(panel.cases, "case")
        stay = f"{panel.stay:,} of {of} stay ({panel.stay / panel.cases:.0%})"
        self.panel_title.setText(f"In both files: {stay}. Rows: this study, columns: new cases")
        self.panel.setColumnCount(len(names) + 1)
        self.panel.setHorizontalHeaderLabels(["this study", *names])
        self.panel.show_rows(
            [(name, *panel.table[row].tolist()) for row, name in enumerate(names)],
            lambda row, column: column in (0, row + 1),
        )
        self.panel.setMaximumHeight(24 * len(names) + 40)

    def _fill_far(self, found: NewCases, far: list[int]) -> None:
        names, given = [who.told for who in self.focus.identities], found.given
        self.far_title.setText(f"{len(far):,} farther from their cluster than any of its members")
        rows: list[tuple[str, ...]] = []
        for case in sorted(far, key=lambda k: -float(given.distance[k])):
            second = int(given.second[case])
            rows.append((
                found.assigned.labels[case], names[int(given.cluster[case]) - 1],
                number(float(given.distance[case])),
                "–" if not second else f"{names[second - 1]}, {number(float(given.margin[case]))}"
                " farther",
            ))  # fmt: skip
        self.far.show_rows(rows, lambda *_: False)

    # choosing

    def _choose(self) -> None:
        study = self.focus.shelf.study
        if study is not None:
            path = ask_for_file(
                self, "New cases", study.data_file.parent, f"{tables_filter()};;{ALL_FILES}"
            )
            if path is not None:
                self.take_file(path)

    def take_file(self, path: Path) -> None:
        """Have the plan name this file."""
        self.profiling.wave.forget()
        self.profiling.take_new_cases(path)
        self._follow()  # the plan may have named it before

    def _forget(self) -> None:
        self.profiling.take_new_cases(None)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if len(event.mimeData().urls()) == 1:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        urls = event.mimeData().urls()
        if urls and urls[0].isLocalFile():
            event.acceptProposedAction()
            self.take_file(Path(urls[0].toLocalFile()))
