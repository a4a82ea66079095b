"""One line below the plan: what the page that is open found."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QLabel, QWidget

from gorvel.core.results.page_results import (
    cases_result,
    compare_result,
    memberships_result,
    plan_result,
    profiles_result,
    tree_result,
)
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.following import OnceATurn
from gorvel.desk.controls.texts import heading
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.comparing import Comparing
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import SPACE


class ResultLine(QWidget):
    """Hidden where a page has nothing to say yet, or says it itself (Count: its verdict)."""

    def __init__(
        self, focus: Focus, profiling: Profiling, comparing: Comparing,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.focus, self.profiling, self.comparing = focus, profiling, comparing
        self.words: QLabel = heading("", "result")
        self.words.setAccessibleName("What this page found")
        self._page = -1
        self._results: tuple[Callable[[], str], ...] = (
            self._cases, self._plan, self._tree, str, self._profiles, self._compare,
            self._memberships,
        )  # fmt: skip
        fill(self, self.words, edges=(2 * SPACE, 0, 2 * SPACE, 0))
        OnceATurn(
            self, self._follow, focus.shelf.plan_changed, focus.prepared_changed,
            focus.tree_changed, focus.cut_changed, focus.shelf.saved_changed,
            profiling.portraits.changed, comparing.chosen, comparing.faces.changed,
        )  # fmt: skip
        self._follow()

    def show_page(self, page: int) -> None:
        """Another page is open, -1 for none of the path."""
        self._page = page
        self._follow()

    def _follow(self) -> None:
        known = self._page >= 0 and self.focus.shelf.study is not None
        words = self._results[self._page]() if known else ""
        self.words.setText(words)
        self.setVisible(bool(words))

    def _cases(self) -> str:
        return cases_result(self.focus.prepared, self.focus.problem)

    def _plan(self) -> str:
        focus = self.focus
        return plan_result(
            focus.prepared, focus.problem, focus.grown is not None, focus.out_of_date
        )

    def _tree(self) -> str:
        grown, cut = self.focus.grown, self.focus.cut
        return "" if grown is None or cut is None else tree_result(grown, cut)

    def _profiles(self) -> str:
        known = self.profiling.portrayed
        return "" if known is None else profiles_result(known.lanes)

    def _compare(self) -> str:
        return compare_result(self.comparing.met)

    def _memberships(self) -> str:
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None or self.focus.groups:
            return ""
        return memberships_result(grown, cut, self.focus.saved_to)
