"""The whole way from a plan to a grown tree; window and command line both come through here."""

from __future__ import annotations

import time
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.numbers import sentence
from gorvel.core.base.progress import Progress, silent
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.prepared import Prepared
from gorvel.core.cases.rows import case_labels
from gorvel.core.derive.making import as_completed
from gorvel.core.grow.algorithm import check_memory
from gorvel.core.grow.growing import grown_tree, pairs_of
from gorvel.core.linkage.rules import SPLINTER, TREE_RULES
from gorvel.core.plan.growth import GrowthKey, Method
from gorvel.core.plan.parts import DEFAULT_COUNTS
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.scene.arrangement import by_mean
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut, cut_branches
from gorvel.core.tree.schedule import (
    Schedule,
    WithinSS,
    chi_square_spread,
    make_schedule,
    within_spread,
)
from gorvel.core.tree.tree import Tree, agglomerative_coefficient


@dataclass(frozen=True, eq=False)
class Grown:
    """A grown tree with all that was worked out along the way.

    It knows what it was grown by, and nothing of what is asked about it or done with it.
    key : equal to that of every plan that grows this tree; pairs : proximities by the method's
    measure, smaller is more alike; agglomerative : None where not defined; seconds : by phase.
    """

    key: GrowthKey
    method: Method
    prepared: Prepared
    pairs: Proximities
    tree: Tree
    schedule: Schedule
    agglomerative: float | None
    cautions: tuple[Caution, ...]
    seconds: dict[str, float]

    @cached_property
    def flipped(self) -> NDArray[np.bool_] | None:
        """(n-1,) joins whose right part comes first where cases stand in an order; else None."""
        sequence = self.prepared.sequence
        return None if sequence is None else by_mean(self.tree, sequence.astype(np.float64))

    @property
    def order(self) -> NDArray[np.int64]:
        """(n,) the cases as drawn: by the tree, or in the order in which only neighbours join."""
        sequence = self.prepared.sequence
        return self.tree.order if sequence is None else np.argsort(sequence)

    @property
    def height_means(self) -> str:
        """What the height of a join is, completing "the height is ..."."""
        if self.prepared.chi_square is not None:
            return "the chi-square of the table that is lost by the join"
        return TREE_RULES[self.method.linkage].height_means

    @property
    def from_the_top(self) -> bool:
        """Was it grown by splits of all cases?"""
        return self.method.linkage == SPLINTER.key

    @property
    def divisive(self) -> float | None:
        """The mean of 1 - (diameter of the last cluster a case was in) / (diameter of all cases).

        None for a tree that was not grown from the top, or where all are alike.

        References
        ----------
        Kaufman & Rousseeuw 1990, Finding Groups in Data, chapter 6.
        """
        if not self.from_the_top:
            return None
        return agglomerative_coefficient(self.tree)  # of diameters in the place of heights

    @property
    def of(self) -> str:
        """What is joined: "cases" or "variables"."""
        return self.prepared.of


def relabelled(grown: Grown, source: Source, plan: Plan) -> Grown:
    """The same tree, with the labels that a plan gives its cases; all else is shared.

    plan : one that grows this tree.
    """
    if not isinstance(source, Table):
        return grown  # the labels of a matrix stand in its file
    prepared = grown.prepared.labelled(case_labels(as_completed(source, plan), plan))
    return replace(grown, prepared=prepared, pairs=replace(grown.pairs, names=prepared.labels))


def analyse(
    source: Source,
    plan: Plan,
    rows: Collection[int] | None = None,
    progress: Progress = silent,
    group: str | None = None,
) -> Grown:
    """Prepare, measure and grow: the tree of a plan.

    Parameters
    ----------
    rows : the rows of one group of a split; None for all; group : its name.
    progress : told "proximities", "joins", "schedule"; may raise to stop.

    Raises
    ------
    InputError, TooLargeError : see `prepare`, `all_pairs`, `check_memory`.
    """
    begin = time.perf_counter()
    prepared = prepare(source, plan, rows)
    seconds = {"prepare": time.perf_counter() - begin}
    return grow_prepared(prepared, plan, seconds, progress, group)


def grow_prepared(
    prepared: Prepared,
    plan: Plan,
    seconds: dict[str, float],
    progress: Progress = silent,
    group: str | None = None,
    known: Proximities | None = None,
) -> Grown:
    """Measure the prepared cases and grow the tree; times are added to `seconds`.

    group : of a split, whose cases these are; known : see `grown_tree`.
    """
    check_memory(prepared, plan.method)
    with timed(seconds, "tree"):
        try:
            tree, pairs = grown_tree(prepared, plan.method, progress, known)
        except InputError as error:
            raise error.in_file(prepared.file) from None
    with timed(seconds, "schedule"):
        schedule = make_schedule(tree, _masses(prepared), _spread(tree, prepared, progress))
    return _whole(plan, group, prepared, pairs, tree, schedule, seconds)


def grown_from(
    prepared: Prepared,
    plan: Plan,
    tree: Tree,
    spread: WithinSS | None,
    progress: Progress = silent,
    group: str | None = None,
) -> Grown:
    """What `grow_prepared` gives, from a tree that was grown of these cases by this plan before.

    spread : sums of squares along its joins, as they were found then.

    Raises
    ------
    InputError : the tree is not of these cases; see `pairs_of` for the others.
    """
    if tree.n != prepared.n:
        found, expected = f"a tree of {tree.n:,} cases", f"one of the {prepared.n:,} used"
        raise InputError(found, expected, file=prepared.file)
    pairs = pairs_of(prepared, plan.method, progress)
    schedule = make_schedule(tree, _masses(prepared), spread)
    return _whole(plan, group, prepared, pairs, tree, schedule, {})


def _whole(
    plan: Plan, group: str | None, prepared: Prepared, pairs: Proximities, tree: Tree,
    schedule: Schedule, seconds: dict[str, float],
) -> Grown:  # fmt: skip
    method = plan.method
    tree.order, tree.used_at, tree.inversions  # noqa: B018 - worked out here, not where it is shown
    return Grown(
        plan.growth(group),
        method,
        prepared,
        pairs,
        tree,
        schedule,
        None if method.linkage == SPLINTER.key else agglomerative_coefficient(tree),
        prepared.cautions + tuple(_cautions(prepared, method, tree)),
        seconds,
    )


@contextmanager
def timed(seconds: dict[str, float], phase: str) -> Iterator[None]:
    """Note how long a phase takes."""
    begin = time.perf_counter()
    yield
    seconds[phase] = time.perf_counter() - begin


def _masses(prepared: Prepared) -> NDArray[np.float64]:
    return np.ones(prepared.n) if prepared.weights is None else prepared.weights


def _spread(tree: Tree, prepared: Prepared, progress: Progress) -> WithinSS | None:
    answers = prepared.answers
    if prepared.chi_square is not None:
        return chi_square_spread(tree, prepared.chi_square)
    if not prepared.measurable_spread or answers is None:
        return None
    return within_spread(tree, answers.values, answers.importance, _masses(prepared), progress)


def _cautions(prepared: Prepared, method: Method, tree: Tree) -> Iterator[Caution]:
    linkage = TREE_RULES[method.linkage]
    cross_table = prepared.chi_square is not None
    measure = method.measure if prepared.proximities is None else "matrix"
    as_made = measure != "matrix" and MEASURES[measure].flat and measure != "squared-euclidean"
    if linkage.squares and not method.squares and not as_made and not cross_table:
        yield Caution("linkage-geometry", _geometry_words(linkage.name, measure, prepared))
    if prepared.weights is not None and not linkage.masses:
        yield Caution(
            "weights-ignored",
            f"{_capital(linkage.name)} does not use the case weights: each row counted once,"
            " however many cases it stands for.",
        )
    elif cross_table:
        pass  # its weights are counts
    elif prepared.weights is not None and np.any(prepared.weights != np.round(prepared.weights)):
        yield Caution(
            "weights-as-frequencies",
            f"{_capital(linkage.name)} treats weights as frequencies, but these are not integers."
            " If they are design weights, the tree depends on the design (under Ward’s rule light"
            " cases join first): grow the tree unweighted and use the weights in the profiles.",
        )
    inversions = int(tree.inversions.sum())
    if inversions:
        yield Caution(
            "inversions",
            f"{inversions:,} of {tree.joins:,} joins are inversions (lower than the join"
            " before). A cut by height is ambiguous there; cut by number of clusters.",
        )
    matter = int(tree.tie_matters.sum())
    if matter:
        yield Caution(
            "ties-that-matter",
            f"At {matter:,} of {tree.joins:,} joins an equally near pair shared a cluster with the"
            " pair joined: another order of the cases could give another tree.",
        )


def _geometry_words(linkage: str, measure: str, prepared: Prepared) -> str:
    shown = "a proximity matrix" if measure == "matrix" else MEASURES[measure].name
    words = (
        f"{_capital(linkage)} is meant for Euclidean distances. With {shown}, the "
        "proximities were squared first and heights are square roots."
    )
    gaps = prepared.answers is not None and bool(np.isnan(prepared.answers.values).any())
    if measure != "matrix" and MEASURES[measure].are_squares and not gaps:
        words += (
            f" {_capital(MEASURES[measure].name)} is already a squared Euclidean distance "
            "(Gower & Legendre 1986): taking the proximities as squares gives the right "
            "geometry."
        )
    return words


def _capital(text: str) -> str:
    return sentence(text)


def wanted_branches(plan: Plan, tree: Tree) -> list[Cut]:
    """The cuts with branches cut lower that a plan asks for.

    Raises
    ------
    InputError : a count or a join that the tree does not have.
    """
    cuts = []
    for asked in plan.cut.branches:
        place = "[cut] branches"
        if asked.clusters > tree.n:
            expected = f"1 to {tree.n}, the number of cases used"
            raise InputError(f"{asked.clusters} clusters", expected, place=place)
        below = tree.n - asked.clusters
        for join in asked.split:
            if join > below:
                expected = f"1 to {below}, the joins below {asked.clusters} clusters"
                raise InputError(f"join {join}", expected, place=place)
        cuts.append(cut_branches(tree, asked.clusters, [join - 1 for join in asked.split]))
    return cuts


def wanted_counts(plan: Plan, cases: int) -> list[int]:
    """The cluster counts to save: those asked for, or the defaults as far as they go.

    Raises
    ------
    InputError : a count that was asked for is above the number of cases kept.
    """
    if plan.cut.counts is None:
        return [count for count in DEFAULT_COUNTS if count <= max(cases - 1, 1)]
    for count in plan.cut.counts:
        if count > cases:
            raise InputError(
                f"{count}", f"1 to {cases}, the number of cases used", place="[cut] counts"
            )
    return list(dict.fromkeys(plan.cut.counts))
