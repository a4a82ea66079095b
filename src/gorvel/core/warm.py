"""Compiles all kernels, or loads them from the disk, so that no click has to wait for it.

python -m gorvel.core.warm [led] [gently]    compiles them, for one caller at a time; led : it ends
    when its standard input does, with all its process group; gently : it yields to all others
"""

from __future__ import annotations

import fcntl
import os
import signal
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.compare.trees import compare_trees
from gorvel.core.count.indices.nested import nested_cuts
from gorvel.core.count.indices.pairsums import Distances, pair_sums
from gorvel.core.count.indices.ranks import rank_pairs
from gorvel.core.kernels import ONE_AT_A_TIME
from gorvel.core.kernels.keeping import all_kept
from gorvel.core.kernels.loading import COMPLETE, SHARE, kept_in, now_loaded
from gorvel.core.linkage.centres import centre_tree
from gorvel.core.linkage.matrix_chain import grow_square
from gorvel.core.linkage.members import grow_by_members
from gorvel.core.linkage.rounds import grow_in_rounds
from gorvel.core.linkage.spanning import single_tree
from gorvel.core.profile.stress import least_stress
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.pairs import Proximities, square_pairs
from gorvel.core.scene.arrangement import arrange
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.schedule import make_schedule, within_spread

_CASES = 240  # so many that loops along the joins are compiled too
_STEPS = 14  # of `_steps`; of about equal length while compiling
_SECOND = "second"  # half, compiled by a process of its own


def warm(progress: Progress = silent) -> None:
    """Grow a few small trees in every compiled way; then kernels count as loaded.

    progress : told "kernels" between two steps; may stop by raising.
    """
    for step, _ in enumerate(_steps()):
        progress(Phase.KERNELS, min(step / _STEPS, 1.0))


def _steps() -> Iterator[None]:
    yield from _on_matrices()
    yield from _from_answers()


def _cases() -> tuple[NDArray[np.float64], Answers, list[str]]:
    points = np.random.default_rng(1).normal(size=(_CASES, 5))
    answers = Answers.of(points, np.ones(5), ("interval",) * 5, (False,) * 5)
    return points, answers, [str(k) for k in range(_CASES)]


def _on_matrices() -> Iterator[None]:
    """All loops that measure pairs and join on them."""
    _, answers, names = _cases()
    yield
    with ONE_AT_A_TIME:
        work = square_pairs(answers, "euclidean", names, alone=True)
        yield
        grow_square(work, "average", alone=True)
        yield
        grow_square(square_pairs(answers, "euclidean", names), "average")
        yield
        grow_by_members(square_pairs(answers, "euclidean", names), "minimax")
        yield
        grow_in_rounds(square_pairs(answers, "euclidean", names), "average", few=5)
        grow_in_rounds(square_pairs(answers, "euclidean", names), "flexible", beta=-0.25)
    yield


def _from_answers() -> Iterator[None]:
    """Loops that join straight from the answers, and those that follow a tree."""
    points, answers, names = _cases()
    ones, ratings = np.ones(_CASES), replace(answers, values=np.round(points))
    with ONE_AT_A_TIME:
        single_tree(answers, 0, False)
        yield
        single_tree(ratings, 0, False)
        yield
        centre_tree(ratings, ones, "ward")
        yield
        tree = centre_tree(answers, ones, "ward")
    yield
    pairs = Proximities(answers, "euclidean", None, names)
    cophenetic_correlation(tree, pairs)
    now_loaded()
    yield
    cophenetic_correlation(tree, Proximities(answers, "squared-euclidean", None, names))
    arrange(tree).places  # noqa: B018 - where the desk draws joins
    make_schedule(tree, ones, within_spread(tree, points, np.ones(5), ones))
    yield
    nested = nested_cuts(tree, 5)
    pair_sums(nested, Distances(pairs))
    rank_pairs(nested, Distances(pairs), range(2, 5), memory=1000.0)
    yield
    everyone = np.arange(_CASES)
    compare_trees(tree, tree, everyone, everyone)
    least_stress(pairs.block(np.arange(_CASES), np.arange(_CASES)), points[:, :2])


def _compile() -> None:
    """Compile what is not there yet, telling in a file how far that is; one caller at a time.

    A second process compiles the other half meanwhile; then all are gone through once more.
    """
    directory = kept_in()
    directory.mkdir(parents=True, exist_ok=True)

    begun = 0.0  # what somebody else had compiled before
    with suppress(OSError, ValueError):
        begun = float((directory / SHARE).read_text())

    def told(phase: Phase, share: float) -> None:
        (directory / SHARE).write_text(f"{max(share, begun):.3f}")

    with (directory / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if (directory / COMPLETE).exists():
            return
        second = subprocess.Popen([sys.executable, "-m", "gorvel.core.warm", _SECOND])
        try:
            for step, _ in enumerate(_on_matrices()):
                if not all_kept():  # it would be for nobody
                    return
                told(Phase.KERNELS, min(2 * step / _STEPS, 1.0))
            second.wait()
        finally:
            second.kill()
            second.wait()
        warm()
        if all_kept():
            (directory / COMPLETE).touch()
        with suppress(OSError):
            (directory / SHARE).unlink()


def _follow() -> None:
    """Wait until whoever led this is no more, then end at once: a group is its own."""
    sys.stdin.buffer.read()
    os.killpg(0, signal.SIGKILL)


if __name__ == "__main__":
    if sys.argv[1:] == [_SECOND]:
        for _ in _from_answers():
            if not all_kept():
                break
        sys.exit()
    if "led" in sys.argv:
        threading.Thread(target=_follow, daemon=True).start()
    if "gently" in sys.argv:
        os.nice(19)
    _compile()
