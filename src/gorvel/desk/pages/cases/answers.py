"""The cases from all sides: answers, gaps, outliers, the selected variables, correlations."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QApplication, QCheckBox, QFrame, QHBoxLayout, QStackedWidget, QWidget

from gorvel.core.cases.prepared import Prepared
from gorvel.core.inspect.associations import Kind, correlation_map
from gorvel.core.inspect.close_up import CloseUp, close_up
from gorvel.core.inspect.missing_patterns import Gaps, find_gaps
from gorvel.core.inspect.outliers import find_outliers
from gorvel.core.profile.dropped_cases import lost_cases
from gorvel.core.table.levels import NUMERIC
from gorvel.core.table.table import Table
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.texts import button, text
from gorvel.desk.editors.bounds import BoundsBar
from gorvel.desk.editors.gaps_panel import GapsPanel
from gorvel.desk.views.answer_charts import CorrelationView, DetailView, GapsView
from gorvel.desk.views.cells_view import CellsView
from gorvel.desk.views.layout import Layout
from gorvel.desk.views.outliers_view import OutliersView
from gorvel.desk.views.variables_list import VariablesList
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.paint.theme import SPACE, font

_CELLS, _GAPS, _OUTLIERS, _DETAIL, _MAP = range(5)
_HINTS = (
    "Selected cases:",
    "Patterns of missing answers, and how to treat them",
    "Selected cases:",
    "The variables selected in the list",
    "Click a cell to see the pair",
)
_TABS = (
    ("Answers", "The cells as they were read"),
    ("Missing answers", "Patterns of missing answers"),
    ("Outliers", "Cases that stand apart"),
    ("Close-up", "The selected variable, or two of them"),
    ("Correlations", "Associations between active variables, nominal ones included"),
)


class AnswersPanel(QFrame):
    """Tabs; what a tab needs is worked out when it is looked at.

    variables : the list whose selection the last tab shows.
    """

    def __init__(
        self, actions: Actions, variables: VariablesList, layout: Layout,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._layout = layout
        self.acts, self.focus, self.variables = actions, actions.focus, variables
        self.setProperty("panel", True)
        self.cells = CellsView(self.focus)
        self.gap_map = GapsView()
        self.gaps = GapsPanel(self.focus, self.gap_map)
        self.outliers = OutliersView(self._set_aside)
        self.detail = DetailView()
        self.correlations = CorrelationView()
        self.bounds = BoundsBar(self.focus)
        self.place = QCheckBox("Assign cases set aside to the nearest cluster when saving")
        self.place.setFont(font())
        self.place.toggled.connect(lambda on: self.focus.shelf.change("cases", place_set_aside=on))
        self._kind: Kind = "moment"
        self.correlations.pair_chosen.connect(self._show_pair)
        self._looked_at: Prepared | None = None
        self._lost_of: Prepared | None = None
        self.stack = QStackedWidget()
        for view in (self.cells, self.gaps, self.outliers, self.detail, self.correlations):
            self.stack.addWidget(view)
        fill(
            self, self._head(), self._doings(), (self.stack, 1), self.bounds, self.place, space=6,
            edges=(SPACE, SPACE, SPACE, SPACE),
        )  # fmt: skip
        variables.selectionModel().selectionChanged.connect(self._show_detail)
        self.focus.shelf.study_changed.connect(self._new_study)
        self.focus.shelf.plan_changed.connect(self._plan_changed)
        self.focus.prepared_changed.connect(self._find_outliers)
        self.focus.prepared_changed.connect(self._find_lost)
        number = layout.tabs.get("Cases", _CELLS)
        self._new_study()
        self._plan_changed()
        if number != _CELLS and self._table is not None:  # with other looks
            self.show_tab(number)

    def _head(self) -> QHBoxLayout:
        head = QHBoxLayout()
        self.tabs = tuple(
            button(name, partial(self.show_tab, number), "tab", tip)
            for number, (name, tip) in enumerate(_TABS)
        )
        for tab in self.tabs:
            tab.setCheckable(True)
            head.addWidget(tab)
        head.addStretch(1)
        return head

    def _doings(self) -> QWidget:
        """What can be done on the side that is shown."""
        self.hint = text(soft=True, wrap=False)
        self.aside = (
            button("Set aside", self._set_aside, "", "Exclude the selected cases (S)"),
            button("Restore", self._bring_back, "", "Use them again (B)"),
        )
        self.copy = button("Copy", self.cells.copy, "link", "Copy the selected cells (Ctrl+C)")
        self.words = button("", self._turn_words, "link", "Codes, or the words of the codebook")
        self.ranks = button(
            "", self._turn_ranks, "link", "Rank correlation picks up any monotone relation"
        )
        self.picture = button("Copy picture", self._copy_picture, "link")
        return flowing(self.hint, *self.aside, self.words, self.copy, self.ranks, self.picture)

    @property
    def _table(self) -> Table | None:
        source = self.focus.shelf.study.source if self.focus.shelf.study else None
        return source if isinstance(source, Table) else None

    def show_tab(self, number: int) -> None:
        """Turn to one of the sides."""
        self.stack.setCurrentIndex(number)
        self._layout.tabs["Cases"] = number
        for k, tab in enumerate(self.tabs):
            tab.setChecked(k == number)
        self.copy.setVisible(number == _CELLS)
        self.ranks.setVisible(number == _MAP)
        self.picture.setVisible(number in (_DETAIL, _MAP))
        self._name_links()
        for link in self.aside:
            link.setVisible(number in (_CELLS, _OUTLIERS) and self._table is not None)
        self._find_outliers()
        self._find_lost()
        self._show_detail()
        self._correlate()

    def _new_study(self) -> None:
        study, table = self.focus.shelf.study, self._table
        if study is None:
            return
        for tab in self.tabs[1:]:
            tab.setVisible(table is not None)
        self.tabs[0].setText("Proximities" if table is None else "Answers")
        self.show_tab(_CELLS)

    def _name_links(self) -> None:
        """What the links and the box below say, and whether there is anything to say."""
        plan, number = self.focus.shelf.plan, self.stack.currentIndex()
        self.hint.setText(_HINTS[number] if self._table is not None else "")
        spelled = plan is not None and bool(plan.variables.values)
        self.words.setVisible(number == _CELLS and spelled)
        self.words.setText("Show codes" if self.cells.table.in_words else "Show words")
        self.ranks.setText(
            "Show Pearson correlations" if self._kind == "rank" else "Show rank correlations"
        )
        aside = plan is not None and bool(plan.cases.set_aside)
        self.place.setVisible(number == _OUTLIERS and aside)
        with QSignalBlocker(self.place):
            self.place.setChecked(plan is not None and plan.cases.place_set_aside)
        if number != _DETAIL:
            self.bounds.show_bounded(None)

    def _copy_picture(self) -> None:
        shown = self.detail if self.stack.currentIndex() == _DETAIL else self.correlations
        QApplication.clipboard().setPixmap(shown.grab())
        self.acts.said.emit("Copied.", False)

    def _turn_words(self) -> None:
        self.cells.table.show_words(not self.cells.table.in_words)
        self._name_links()

    def _turn_ranks(self) -> None:
        self._kind = "moment" if self._kind == "rank" else "rank"
        self._name_links()
        self._correlate()

    def _plan_changed(self) -> None:
        table, plan = self._table, self.focus.shelf.plan
        self._name_links()
        self._show_detail()
        self._correlate()
        if table is None or plan is None or not plan.variables.use:
            self._show_gaps(None)
            return
        self.acts.jobs.start(
            JobKind.GAPS,
            lambda progress: find_gaps(table, plan, progress),
            self._show_gaps,
            lambda why: None,
            asker=self,
        )

    def _show_gaps(self, gaps: Gaps | None) -> None:
        self.gap_map.show_gaps(gaps)
        self.gaps.show_gaps(gaps)

    def _set_aside(self) -> None:
        on_list = self.stack.currentIndex() == _OUTLIERS
        cases = self.outliers.chosen_cases() if on_list else self.cells.chosen_cases()
        if not cases:
            self.acts.said.emit("Select one or more cases first.", True)
        self.focus.shelf.set_aside(cases)

    def _bring_back(self) -> None:
        """The selected cases; from the list of outliers, which no longer holds them, all."""
        if self.stack.currentIndex() == _OUTLIERS:
            plan = self.focus.shelf.plan
            self.focus.shelf.bring_back(set(plan.cases.set_aside) if plan else set())
        else:
            self.cells.bring_back()

    def _find_lost(self) -> None:
        """How those left out for gaps differ; looked at with the gaps, and when cases change."""
        prepared, plan, table = self.focus.prepared, self.focus.shelf.plan, self._table
        if self.stack.currentIndex() != _GAPS or prepared is self._lost_of:
            return
        self._lost_of = prepared
        cases = sum(one.lacking for one in prepared.dropped) if prepared is not None else 0
        if prepared is None or plan is None or table is None or not cases:
            self.gaps.show_lost([], 0)
            return
        self.acts.jobs.start(
            JobKind.LOST, lambda progress: lost_cases(table, plan, prepared),
            lambda found: self.gaps.show_lost(found, cases), lambda why: None,
            asker=self,
        )  # fmt: skip

    def _find_outliers(self) -> None:
        """Looked for only while they are looked at, and when the cases have changed."""
        prepared, plan = self.focus.prepared, self.focus.shelf.plan
        showing = self.stack.currentIndex() == _OUTLIERS
        if not showing or plan is None or prepared is self._looked_at:
            return
        self._looked_at = prepared
        if prepared is None:
            none = plan.source.kind == "table" and not plan.variables.use
            self.outliers.show_none(
                "No variable is active: make variables active in the list on the left."
                if none
                else self.focus.problem or "Reading the cases …"
            )
            return
        self.outliers.show_none("Comparing each case with the others …")
        self.acts.jobs.start(
            JobKind.OUTLIERS,
            lambda progress: find_outliers(prepared, plan, progress),
            self.outliers.show_found,
            lambda why: self.acts.said.emit(why, True),
            asker=self,
        )

    def _correlate(self) -> None:
        table, plan = self._table, self.focus.shelf.plan
        kind = self._kind
        if self.stack.currentIndex() == _MAP and table is not None and plan is not None:
            self.acts.jobs.start(
                JobKind.CORRELATIONS,
                lambda progress: correlation_map(table, plan, kind),
                self.correlations.show_map,
                lambda why: self.correlations.show_map(None),
                asker=self,
            )

    def _show_pair(self, first: str, second: str) -> None:
        self.variables.show_variables({first, second})
        self.show_tab(_DETAIL)

    def _detail_found(self, found: CloseUp) -> None:
        self.detail.show_close_up(found)
        if self.stack.currentIndex() == _DETAIL:
            self.bounds.show_bounded(found.bounded)

    def _show_detail(self) -> None:
        """The chart of the variables selected in the list."""
        table, plan = self._table, self.focus.shelf.plan
        if self.stack.currentIndex() != _DETAIL or table is None or plan is None:
            return
        rows, model = self.variables.chosen_rows(), self.variables.table
        names = [model.summaries[row].name for row in rows]
        numeric = [row for row in rows if model.level_of(row) in NUMERIC]
        self.acts.jobs.start(
            JobKind.CLOSE_UP,
            lambda progress: close_up(table, plan, names, len(numeric) == len(names)),
            self._detail_found,
            lambda why: self.acts.said.emit(why, True),
            asker=self,
        )
