"""The pages of the window, each made when it is first needed."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import Protocol, TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from gorvel.desk.controls.page_stack import Room
from gorvel.desk.pages.cases.page import CasesPage
from gorvel.desk.pages.compare.page import ComparePage
from gorvel.desk.pages.count.page import CountPage
from gorvel.desk.pages.memberships import MembershipsPage
from gorvel.desk.pages.plan import PlanPage
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.pages.tree.page import TreePage
from gorvel.desk.pages.welcome import WelcomePage
from gorvel.desk.views.layout import Layout
from gorvel.desk.window.dialogs import Dialogs
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
from gorvel.desk.work.counting import Counting
from gorvel.desk.work.derived_variables import Turning
from gorvel.desk.work.imputation import Imputation
from gorvel.desk.work.moving import Moving
from gorvel.desk.work.profiling import Profiling
from gorvel.desk.work.replicating import Replicating
from gorvel.desk.work.sweeping import Sweeping

NAMES = ("Cases", "Plan", "Tree", "Count", "Profiles", "Compare", "Memberships")
PLAN, TREE, COMPARE = map(NAMES.index, ("Plan", "Tree", "Compare"))
WITH_CLUSTERS = tuple(map(NAMES.index, ("Count", "Profiles", "Compare")))  # but not drawn there
WITHOUT_GROWING = (NAMES.index("Cases"), NAMES.index("Memberships"))  # of a tree by themselves

_Page = TypeVar("_Page", bound=QWidget)


class Working(Protocol):
    """What works for the pages: of a window."""

    acts: Actions
    turning: Turning
    counting: Counting
    profiling: Profiling
    comparing: Comparing
    imputation: Imputation
    replicating: Replicating
    moving: Moving
    sweeping: Sweeping
    shown: Layout

    dialogs: Dialogs

    def go_to(self, page: int) -> None: ...


class Pages:
    """In the order of the path, and the page of an empty window behind them.

    All together have over a thousand widgets, and few of them are looked at every time.

    ground : where one of them is seen.
    """

    def __init__(self, window: Working, welcome: WelcomePage) -> None:
        self._window = window
        self.welcome = welcome
        self.ground = QWidget()
        self._stack = Room(self.ground)
        for _ in NAMES:
            self._stack.addWidget(QWidget())
        self._stack.addWidget(welcome)
        self._stack.setCurrentWidget(welcome)

    @property
    def place(self) -> int:
        """Of the page that is seen; -1 for that of an empty window."""
        place = self._stack.currentIndex()
        return place if place < len(NAMES) else -1

    @property
    def seen(self) -> QWidget:
        """The page itself."""
        page = self._stack.currentWidget()
        assert page is not None
        return page

    @cached_property
    def cases(self) -> CasesPage:
        window = self._window
        return self._placed("Cases", CasesPage(window.acts, window.turning, window.shown))

    @cached_property
    def plan(self) -> PlanPage:
        page = PlanPage(self._window.acts)
        page.cases_wanted.connect(lambda: self._window.go_to(0))
        return self._placed("Plan", page)

    @cached_property
    def tree(self) -> TreePage:
        page = TreePage(self._window.acts, self._window.shown)
        page.reading.cautions_wanted.connect(lambda: self._window.go_to(PLAN))
        return self._placed("Tree", page)

    @cached_property
    def count(self) -> CountPage:
        window = self._window
        page = CountPage(window.acts, window.counting, window.moving, window.shown)
        return self._placed("Count", page)

    @cached_property
    def profiles(self) -> ProfilesPage:
        window = self._window
        page = ProfilesPage(window.acts, window.profiling, window.shown)
        page.tree_wanted.connect(lambda: window.go_to(TREE))
        return self._placed("Profiles", page)

    @cached_property
    def compare(self) -> ComparePage:
        window = self._window
        page = ComparePage(
            window.acts,
            window.comparing,
            window.sweeping,
            window.moving,
            window.imputation,
            window.replicating,
            window.shown,
        )
        page.tree_wanted.connect(lambda: window.go_to(TREE))
        return self._placed("Compare", page)

    @cached_property
    def memberships(self) -> MembershipsPage:
        window = self._window
        page = MembershipsPage(window.acts)
        page.save_wanted.connect(window.dialogs.save_memberships)
        page.study_wanted.connect(window.dialogs.save_study)
        page.tree_wanted.connect(lambda: window.go_to(TREE))
        return self._placed("Memberships", page)

    def _placed(self, name: str, page: _Page) -> _Page:
        """A page that was made, in the place that was kept for it."""
        place = NAMES.index(name)
        kept = self._stack.widget(place)
        assert kept is not None
        self._stack.insertWidget(place, page)
        self._stack.removeWidget(kept)
        kept.deleteLater()
        return page

    def turn_to(self, place: int) -> None:
        """Show a page."""
        page = self.welcome if place < 0 else getattr(self, NAMES[place].lower())  # which makes it
        self._stack.setCurrentWidget(page)

    def take_focus(self) -> None:
        """Keys go to what the page that is seen is about."""
        about: tuple[Callable[[], QWidget], ...] = (
            lambda: self.cases.variables.view,
            lambda: self.plan.grow.grow,
            lambda: self.tree.dendrogram,
            lambda: self.count.board,
            lambda: self.profiles.view,
            lambda: self.compare.view,
            lambda: self.memberships.save,
            lambda: self.welcome.open,
        )
        about[self.place]().setFocus(Qt.FocusReason.OtherFocusReason)
