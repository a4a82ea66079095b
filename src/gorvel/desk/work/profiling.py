"""The work behind the Profiles page: what clusters are like, asked when it is looked at."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject

from gorvel.core.base.progress import Progress
from gorvel.core.cases.design import Design
from gorvel.core.grow.grown import Grown
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.analyses import DesignPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.components import Components, components_of
from gorvel.core.profile.leave_one_variable_out import Driver, drivers
from gorvel.core.profile.map import CaseMap, case_map
from gorvel.core.profile.new_cases import NewCases, assign_new_cases
from gorvel.core.profile.one_case import membership_shares
from gorvel.core.profile.portrayed import Portrayed, portrayed
from gorvel.core.profile.raw_answers import Question
from gorvel.core.profile.short_form import ShortForm, short_form
from gorvel.core.profile.shown import Profiles
from gorvel.core.scene.points import Points
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import JobKind, Jobs

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

ROUNDS = 100  # resamples in which each case is looked for
_AT_ONCE = 400_000  # answers up to which clusters are told while the hand waits
_ENOUGH = 0.01  # of the accuracy: as few questions as come so near to the best are proposed
_MOST_QUESTIONS = 10  # of a short form


class Profiling(QObject):
    """Asks about the clusters of the cut in hand; answers are kept while they are about the same.

    beside : a count, or a column of known groups, whose groups stand beside the clusters.
    """

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.jobs = focus, jobs
        self.portraits = Inquiry(jobs, JobKind.PROFILES, self)
        self.map = Inquiry(jobs, JobKind.MAP, self)
        self.components = Inquiry(jobs, JobKind.COMPONENTS, self)
        self.form = Inquiry(jobs, JobKind.SHORT_FORM, self)
        self.drivers = Inquiry(jobs, JobKind.DRIVERS, self)
        self.wave = Inquiry(jobs, JobKind.ASSIGN, self)
        self.shares = Inquiry(jobs, JobKind.SHARES, self)
        self.form_size = 0  # questions of the short form; 0 : as proposed
        self.adjusted = False  # are p values corrected for their number?
        self._shown: tuple[Portrayed, Profiles] | None = None  # and of what
        self.planes: dict[str, Points | None] = {}  # as shown, by result
        self.against: list[Question] = []  # questions against each other
        self.grid: dict[tuple[str, str], Points] = {}  # all of them, pair by pair
        self._formed: ShortForm | None = None
        self.hidden: set[str] = set()  # questions that are not shown
        self.beside: int | str | None = None
        self.in_spread = False  # are the spreads of the answers shown
        focus.tree_changed.connect(self._follow)
        focus.shelf.study_changed.connect(self._new_study)

    def _follow(self) -> None:
        if self.focus.grown is None:
            for one in (self.portraits, self.map, self.components, self.form, self.drivers,
                        self.shares, self.wave):  # fmt: skip
                one.forget()

    def _new_study(self) -> None:
        self.hidden, self.beside = set(), None

    # what is at hand

    @property
    def portrayed(self) -> Portrayed | None:
        """What is told of the cut in hand, where that is known by now."""
        found: Portrayed | None = self.portraits.found
        if found is None or found.cut is not self.focus.cut:
            return None
        return found

    @property
    def profiles(self) -> Profiles | None:
        """The profiles as they are shown, where they are about the cut in hand."""
        return self._shown[1] if self._shown and self._shown[0] is self.portrayed else None

    def show(self, profiles: Profiles) -> None:
        """Profiles are shown so."""
        self._shown = None if self.portrayed is None else (self.portrayed, profiles)

    def _at_hand(self) -> tuple[Source, Plan, Grown, Cut] | None:
        plan, study = self.focus.plan_of_tree, self.focus.shelf.study
        grown, cut = self.focus.grown, self.focus.cut
        if plan is None or study is None or grown is None or cut is None:
            return None
        return study.source_for(plan), plan, grown, cut

    # lanes

    def put_beside(self, what: int | str | None) -> None:
        """Have another count, or known groups, stand beside the clusters."""
        self.beside = what
        self.ask_portraits()

    def show_spread(self, shown: bool) -> None:
        """Have the spread of the answers worked out too, from now on."""
        self.in_spread = shown
        self.ask_portraits()

    def ask_portraits(self) -> None:
        """Of the cut in hand; large studies do not keep the hand waiting."""
        at_hand_ = self._at_hand()
        if at_hand_ is None:
            return
        source, plan, grown, cut = at_hand_
        before: Portrayed | None = self.portraits.found
        said = plan.variables, plan.design
        if before is not None and (before.tree is not grown.tree or before.said != said):
            before = None
        about = (grown.tree, cut, said, self.beside, self.in_spread)
        work = partial(portrayed, source, plan, grown, cut, before, self.beside, self.in_spread)
        answers = grown.tree.n * (len(plan.variables.use) + len(plan.variables.profile))
        self.portraits.ask(about, work, at_once=answers <= _AT_ONCE)

    # pictures

    def ask_map(self, again: bool = False) -> None:
        """Of the tree in hand."""
        at_hand_ = self._at_hand()
        if at_hand_ is not None:
            grown = at_hand_[2]
            ask = self.map.again if again else self.map.ask
            ask((grown.tree,), partial(_map, grown))

    @property
    def principal_components(self) -> Components | None:
        """Principal components of the tree in hand, where they are known."""
        grown = self.focus.grown
        if grown is None or not self.components.is_about((grown.tree,)):
            return None
        found: Components | None = self.components.found
        return found

    def ask_components(self) -> None:
        """Of the tree in hand."""
        at_hand_ = self._at_hand()
        if at_hand_ is not None:
            grown = at_hand_[2]
            self.components.ask((grown.tree,), partial(_components, grown))

    # what takes longer

    def ask_form(self, again: bool = False) -> None:
        """The short form of the cut in hand, of as many questions as there are up to ten."""
        found, at_hand_ = self.portrayed, self._at_hand()
        if found is not None and found.told and at_hand_ is not None:
            active = [one for one in found.told if one.role == "active"]
            ask = self.form.again if again else self.form.ask
            ask((found.tree, found.cut, found.said), partial(_form, active, found.cut))

    @property
    def forms(self) -> ShortForm | None:
        """Short forms by the number of their questions, where they are about the cut in hand."""
        known = self.portrayed
        if known is None or not self.form.is_about((known.tree, known.cut, known.said)):
            return None
        found: ShortForm | None = self.form.found
        return found

    @property
    def short_form(self) -> ShortForm | None:
        """Of the questions that are taken: as few as come near the best, where nobody chose."""
        found = self.forms
        if found is None:
            return None
        if found is not self._formed:
            self._formed, self.form_size = found, 0
        if not self.form_size:
            near = np.flatnonzero(np.array(found.accuracy) >= max(found.accuracy) - _ENOUGH)
            self.form_size = int(near[0]) + 1
        return found.first(min(self.form_size, len(found.questions)))

    def ask_drivers(self) -> None:
        """How much each variable matters to the cut in hand."""
        found, at_hand_ = self.portrayed, self._at_hand()
        if found is None or at_hand_ is None:
            return
        source, plan, grown, cut = at_hand_
        if not isinstance(source, Table) or cut.split:
            return
        explained = {lane.name: lane.effect for lane in found.lanes}
        effects = [explained.get(name, float("nan")) for name in plan.variables.use]
        work = partial(_drivers, source, plan, grown, cut, effects)
        self.drivers.again((grown.tree, cut, found.said), work)

    @property
    def driven(self) -> list[Driver] | None:
        """What is known of the variables, where it is about the cut in hand."""
        found, cut = self.portrayed, self.focus.cut
        if found is None or not self.drivers.is_about((found.tree, cut, found.said)):
            return None
        out: list[Driver] | None = self.drivers.found
        return out

    def ask_shares(self) -> None:
        """How often each case stays with its cluster in resamples."""
        at_hand_ = self._at_hand()
        if at_hand_ is not None:
            _, _, grown, cut = at_hand_
            known = self.portrayed
            design = None if known is None else known.design
            work = partial(_shares, grown, cut, design)
            self.shares.again((grown.tree, cut, self._design), work)

    @property
    def _design(self) -> DesignPlan | None:
        """How the plan says that the sample was drawn."""
        plan = self.focus.plan_of_tree
        return None if plan is None else plan.design

    @property
    def kept_shares(self) -> Floats | None:
        """(n,) of them, where they are about the cut in hand."""
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None:
            return None
        if not self.shares.is_about((grown.tree, cut, self._design)):
            return None
        out: Floats | None = self.shares.found
        return out

    # new cases

    def take_new_cases(self, path: Path | None) -> None:
        """Have the plan give the cases of another file to the clusters; None for none any more."""
        study = self.focus.shelf.study
        if study is None:
            return
        if path is None:
            self.focus.shelf.change_by(lambda plan: plan.with_whole("assign", None))
            return
        near = path.absolute().parent == study.data_file.absolute().parent
        keys = {"file": path.name if near else str(path.absolute())}
        self.focus.shelf.change_by(
            lambda plan: plan.with_whole(
                "assign", keys if plan.assign is None else plan.assign.model_dump() | keys
            )
        )

    def ask_new_cases(self) -> None:
        """Give those that the plan names to the clusters of the cut in hand."""
        at_hand_, study = self._at_hand(), self.focus.shelf.study
        asked = self.focus.shelf.plan
        if at_hand_ is None or study is None or asked is None or asked.assign is None:
            self.wave.forget()
            return
        source, plan, grown, cut = at_hand_
        if not isinstance(source, Table) or cut.split or grown.of != "cases":
            self.wave.forget()
            return
        plan = plan.with_whole("assign", asked.assign.model_dump())
        path = study.data_file.parent / asked.assign.file
        about = (grown.tree, cut, asked.assign, plan.variables)
        self.wave.ask(about, partial(assign_new_cases, source, plan, grown, cut, path))

    @property
    def assigned(self) -> NewCases | None:
        """The new cases, where they are given to the clusters of the cut in hand."""
        found: NewCases | None = self.wave.found
        return found if found is not None and found.cut is self.focus.cut else None

    def groups_to_choose(self) -> list[str]:
        """Columns of words that may stand beside the clusters."""
        at_hand_ = self._at_hand()
        found = self.portrayed
        if at_hand_ is None or not isinstance(at_hand_[0], Table):
            return []
        plan = at_hand_[1]
        names = [one.name for one in found.told if one.nominal or one.level == "binary"] \
            if found is not None else []  # fmt: skip
        first = [plan.cases.groups] if plan.cases.groups else []
        return [*first, *(name for name in names if name not in first)]


# the work, which may be on a thread of its own


def _map(grown: Grown, progress: Progress) -> CaseMap:
    return case_map(grown, progress=progress)


def _components(grown: Grown, progress: Progress) -> Components | None:
    return components_of(grown)


def _form(active: list[Question], cut: Cut, progress: Progress) -> ShortForm | None:
    return short_form(active, cut.membership - 1, cut.clusters, _MOST_QUESTIONS, progress)


def _drivers(
    source: Table, plan: Plan, grown: Grown, cut: Cut, effects: list[float], progress: Progress
) -> list[Driver]:
    with at_hand(grown.tree.n):
        return drivers(source, plan, grown, cut.membership - 1, effects, progress)


def _shares(grown: Grown, cut: Cut, design: Design | None, progress: Progress) -> Floats:
    with at_hand(grown.tree.n):
        return membership_shares(
            grown, cut.membership - 1, ROUNDS, progress=progress, design=design
        )  # fmt: skip
