"""The joins of a tree, by the way that suits the study."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.memory import let_go, square_space
from gorvel.core.base.progress import Progress, silent
from gorvel.core.cases.prepared import Prepared
from gorvel.core.grow.algorithm import SMALL, Algorithm, check_memory, choose_algorithm, folded_rows
from gorvel.core.kernels import ONE_AT_A_TIME
from gorvel.core.kernels.loading import compile_apart, loaded, worth_compiling
from gorvel.core.linkage.agglomerate import (
    chi_square_losses,
    grow,
    heights_are_roots,
    working_proximities,
)
from gorvel.core.linkage.centres import centre_tree
from gorvel.core.linkage.contiguity import grow_in_sequence
from gorvel.core.linkage.folding import unfold
from gorvel.core.linkage.matrix_chain import grow_square
from gorvel.core.linkage.members import grow_by_members
from gorvel.core.linkage.merges import SLACK
from gorvel.core.linkage.rounds import goes_in_rounds, grow_in_rounds
from gorvel.core.linkage.rules import SPLINTER, TREE_RULES
from gorvel.core.linkage.spanning import single_tree
from gorvel.core.linkage.splitting import split_apart
from gorvel.core.plan.growth import Method
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.pairs import Proximities, all_pairs, plain_kind, square_pairs
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]

_SAMPLE = 64  # cases whose neighbours tell whether proximities tie


@dataclass(frozen=True, eq=False)
class _Job:
    """A tree to be grown from answers, folded or not."""

    answers: Answers | None
    weights: Floats | None
    labels: tuple[str, ...]
    method: Method
    progress: Progress

    @property
    def roots(self) -> bool:
        return heights_are_roots(TREE_RULES[self.method.linkage], self.method.squares)


def grown_tree(
    prepared: Prepared, method: Method, progress: Progress = silent,
    known: Proximities | None = None,
) -> tuple[Tree, Proximities]:  # fmt: skip
    """Measure the cases and grow their tree.

    known : the proximities of these cases by this measure, where they are there in a matrix.

    Raises
    ------
    InputError : a pair that cannot be measured; names the cases. TooLargeError is for the caller.
    """
    way = choose_algorithm(prepared, method)
    if way == "matrix":
        return _by_matrix(prepared, method, progress, known)
    compile_apart(progress)
    with ONE_AT_A_TIME:
        return _by_kernels(prepared, method, way, progress)


def _by_kernels(
    prepared: Prepared, method: Method, way: Algorithm, progress: Progress
) -> tuple[Tree, Proximities]:
    pairs = _pairs_apart(prepared, method)
    answers, weights, labels = prepared.answers, prepared.weights, prepared.labels
    folded = folded_rows(prepared, method)
    if folded is not None and answers is not None:
        answers, weights = folded.of(answers), folded.masses
        labels = tuple(labels[int(k)] for k in folded.firsts)
    tree = _grown(_Job(answers, weights, labels, method, progress), way, prepared)
    if folded is None:
        return tree, pairs
    if tree.joins and tree.heights.min() <= 0:  # cases that differ at 0 take part in the ties there
        check_memory(prepared, method, way, unfolded=True)
        job = _Job(prepared.answers, prepared.weights, prepared.labels, method, progress)
        return _grown(job, way, prepared), pairs
    return unfold(tree, folded), pairs


def _grown(job: _Job, way: Algorithm, prepared: Prepared) -> Tree:
    if len(job.labels) < 2:
        nothing = np.zeros(0, dtype=np.int64)
        flags = np.zeros(0, dtype=bool)
        return Tree(len(job.labels), nothing, nothing, np.zeros(0), flags, flags)
    tree = None
    if way == "direct":
        let_go()
        tree = _direct(job)
    if tree is not None:
        return tree
    if way == "direct":
        check_memory(prepared, job.method, "square")
    return _by_square(job, prepared)


def _by_matrix(
    prepared: Prepared, method: Method, progress: Progress, known: Proximities | None
) -> tuple[Tree, Proximities]:
    if prepared.n > SMALL:
        compile_apart(progress)
    pairs = _kept_pairs(prepared, method, progress) if known is None else known
    assert pairs.matrix is not None
    compiled = worth_compiling(prepared.n)
    return _consumed(pairs.matrix, prepared, method, compiled, progress), pairs


def _kept_pairs(prepared: Prepared, method: Method, progress: Progress) -> Proximities:
    matrix, measure = prepared.proximities, method.measure
    if matrix is not None:
        return Proximities(prepared.answers, "matrix", matrix, prepared.labels)
    matrix = _measured(prepared, measure, worth_compiling(prepared.n), progress)
    return Proximities(prepared.answers, measure, matrix, prepared.labels)


def pairs_of(prepared: Prepared, method: Method, progress: Progress = silent) -> Proximities:
    """The proximities that a tree grows from, in a matrix where that is small.

    Raises
    ------
    InputError : a pair that cannot be measured; names the cases.
    """
    if choose_algorithm(prepared, method) == "matrix":
        return _kept_pairs(prepared, method, progress)
    return _pairs_apart(prepared, method)


def _pairs_apart(prepared: Prepared, method: Method) -> Proximities:
    """Those of a matrix that was read, or measured whenever they are asked for."""
    measure, matrix = method.measure, prepared.proximities
    return Proximities(prepared.answers, measure, matrix, prepared.labels)


def _measured(
    prepared: Prepared, measure: str, compiled: bool, progress: Progress = silent
) -> Floats:
    """The matrix of a small study, on one thread."""
    assert prepared.answers is not None
    if not compiled:
        return all_pairs(prepared.answers, measure, prepared.labels, progress)
    matrix = square_pairs(prepared.answers, measure, prepared.labels, progress, alone=True)
    np.fill_diagonal(matrix, 0.0)
    return matrix


def _consumed(
    matrix: Floats, prepared: Prepared, method: Method, compiled: bool, progress: Progress
) -> Tree:  # fmt: skip
    """The tree of a matrix, which is kept; compiled on one thread, or not, with the same bits."""
    linkage, beta, weights = TREE_RULES[method.linkage], method.beta, prepared.weights
    cross_table = prepared.chi_square is not None and weights is not None
    with np.errstate(over="ignore"):
        if cross_table and weights is not None:
            work = chi_square_losses(matrix, weights)
        else:
            work = working_proximities(matrix, linkage, method.squares, weights)
    _check_finite(work)
    roots = heights_are_roots(linkage, method.squares) and not cross_table
    if linkage is SPLINTER:
        return split_apart(work, progress)
    if prepared.sequence is not None:
        return grow_in_sequence(
            work, linkage.key, prepared.sequence, weights, roots, progress, beta
        )  # fmt: skip
    if not compiled or len(work) < 2:
        return grow(work, linkage.key, weights, roots, progress, beta)
    np.fill_diagonal(work, np.inf)
    if linkage.recurrence is None:
        return grow_by_members(work, linkage.key, weights, progress)
    return grow_square(work, linkage.key, weights, roots, progress, beta, alone=True)


def regrown(
    prepared: Prepared,
    method: Method,
    matrix: Floats | None = None,
    alone: bool = True,
    progress: Progress = silent,
) -> Tree:
    """The tree of other cases by the same method, one of many.

    matrix : (n, n) their proximities, where these are known; None to measure them; alone : on one
    thread, so that several may be grown side by side, for up to `SMALL` cases.

    Raises
    ------
    InputError : a pair that cannot be measured; names the cases.
    """
    own_way = prepared.sequence is not None or prepared.chi_square is not None
    by_kernels = (
        TREE_RULES[method.linkage].recurrence is not None and prepared.n > 1 and not own_way
    )
    if matrix is not None and not (by_kernels and alone):
        prepared = replace(prepared, answers=None, proximities=matrix)
    if not by_kernels:
        return grown_tree(prepared, method, progress)[0]
    if not alone:
        with ONE_AT_A_TIME:
            return _by_kernels(prepared, method, choose_algorithm(prepared, method, 1), progress)[0]
    compiled = loaded()  # one of many: then even a few cases are joined faster
    if matrix is None:
        matrix = _measured(prepared, method.measure, compiled)
    return _consumed(matrix, prepared, method, compiled, progress)


def regrown_pairs(
    prepared: Prepared, method: Method, alone: bool = True, progress: Progress = silent
) -> tuple[Tree, Proximities]:
    """As `regrown`, with the proximities, which are kept in a matrix where that is small."""
    if choose_algorithm(prepared, method) != "matrix":
        tree = regrown(prepared, method, None, alone, progress)
        return tree, _pairs_apart(prepared, method)
    pairs = _kept_pairs(prepared, method, progress)
    return regrown(prepared, method, pairs.matrix, alone, progress), pairs


def _check_finite(work: Floats) -> None:
    if not np.isfinite(work).all():
        raise InputError("distances too large to square", "smaller values")


def _direct(job: _Job) -> Tree | None:
    """Without a matrix.

    None where that would take more memory than one, or numbers are so far apart that the matrix has
    to say whether a pair is too far.
    """
    answers, key = job.answers, job.method.linkage
    assert answers is not None
    kind = plain_kind(answers, job.method.measure)
    assert kind is not None
    masses = np.ones(len(job.labels)) if job.weights is None else job.weights
    with np.errstate(over="ignore"):
        most = np.sum(answers.importance * np.ptp(answers.values, axis=0) ** 2) * masses.sum()
    if not np.isfinite(most):
        return None
    if TREE_RULES[key].spans:
        return single_tree(answers, *kind, job.progress)
    tree = centre_tree(answers, masses, key, job.progress)
    if not job.roots:
        return tree
    return Tree(tree.n, tree.left, tree.right, np.sqrt(tree.heights), tree.tied, tree.tie_matters)


def _fill(work: Floats, job: _Job, prepared: Prepared, key: str) -> None:
    """The matrix that the joins consume, with infinity on the diagonal; key : of the measure."""
    if job.answers is not None:
        square_pairs(job.answers, key, job.labels, job.progress, work)
        return
    assert prepared.proximities is not None
    work[:] = prepared.proximities
    np.fill_diagonal(work, np.inf)


def _in_rounds(job: _Job, prepared: Prepared) -> Tree | None:
    """By rounds, where the rule and the lack of ties allow it."""
    key = job.method.linkage
    if not goes_in_rounds(key, job.method.beta) or _ties_at_once(job, prepared):
        return None
    masses = job.weights if TREE_RULES[key].masses else None
    with square_space(len(job.labels)) as work:
        _fill(work, job, prepared, job.method.measure)
        return grow_in_rounds(work, key, masses, job.progress, job.method.beta)


def _ties_at_once(job: _Job, prepared: Prepared) -> bool:
    """Do some cases already have two nearest neighbours, as is usual with ratings?"""
    n = len(job.labels)
    pairs = Proximities(
        job.answers, job.method.measure,
        prepared.proximities if job.answers is None else None, job.labels,
    )  # fmt: skip
    some = np.unique(np.linspace(0, n - 1, _SAMPLE).astype(np.int64))
    with np.errstate(over="ignore"):
        block = pairs.block(some, np.arange(n))
    block[np.arange(len(some)), some] = np.inf
    nearest = np.partition(block, 1, axis=1)[:, :2]
    return bool(np.any(nearest[:, 1] <= nearest[:, 0] * SLACK))


def _by_square(job: _Job, prepared: Prepared) -> Tree:
    tree = _in_rounds(job, prepared)
    if tree is not None:
        return tree
    with square_space(len(job.labels)) as work:
        return _one_by_one(work, job, prepared)


def _one_by_one(work: Floats, job: _Job, prepared: Prepared) -> Tree:
    linkage, n = TREE_RULES[job.method.linkage], len(job.labels)
    measure = job.method.measure
    euclidean = job.roots and job.answers is not None and measure == "euclidean"
    _fill(work, job, prepared, "squared-euclidean" if euclidean else measure)
    if job.roots and not euclidean:
        with np.errstate(over="ignore"):
            np.square(work, out=work)
        for i in range(n):
            _check_finite(work[i, :i])
    if linkage.of_losses and job.weights is not None:
        for i, mass in enumerate(job.weights):
            work[i] *= 2.0 * mass * job.weights / (mass + job.weights)
    return grow_square(work, linkage.key, job.weights, job.roots, job.progress, job.method.beta)
