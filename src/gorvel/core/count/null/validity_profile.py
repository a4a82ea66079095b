"""What are clusters for: characteristics of the clusters at each count, beside random groupings."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.count.agreement import cross_counts
from gorvel.core.count.indices.index_table import count_range
from gorvel.core.count.indices.pairsums import Distances
from gorvel.core.count.resampling.resampling_engine import engine_for
from gorvel.core.engine.engine import Engine, rounds_of
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.parts import ALL_RULES, CountPlan
from gorvel.core.plan.purposes import CHARACTERISTICS
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST = 400  # cases, of larger studies a part is drawn
TIMES = 25  # random groupings of each making
_TENTH = 0.1  # of the cases of a cluster, those nearest to another
_PURPOSE = 13  # of random numbers

Making = Literal["centroids", "nearest", "farthest", "average"]
MAKINGS: tuple[Making, ...] = ("centroids", "nearest", "farthest", "average")


def random_groupings(
    far: Floats, count: int, making: Making, times: int, random: np.random.Generator
) -> Ints:
    """(times, n) clusters from 0, each around cases drawn at random.

    "centroids" gives each case to the nearest of the cases drawn; the others let these grow: one by
    one, the case joins that has the smallest "nearest", "farthest" or "average" distance to the
    members of a cluster. The earlier case and cluster win a draw.

    far : (n, n) distances; count : clusters, at most n.

    References
    ----------
    Hennig 2019, Cluster validation by measurement of clustering characteristics relevant to the
    user; Akhanli & Hennig 2020, Comparing clusterings and numbers of clusters by aggregation of
    calibrated clustering validity indexes.
    """
    n = len(far)
    seeds = np.stack([random.choice(n, count, replace=False) for _ in range(times)])
    if making == "centroids":
        out: Ints = far[seeds].argmin(axis=1).astype(np.int64)
        np.put_along_axis(out, seeds, np.broadcast_to(np.arange(count), seeds.shape), axis=1)
        return out
    each = np.arange(times)
    out = np.full((times, n), -1, dtype=np.int64)
    np.put_along_axis(out, seeds, np.broadcast_to(np.arange(count), seeds.shape), axis=1)
    to = far[seeds].transpose(0, 2, 1).copy()  # (times, n, count) of members so far
    sizes = np.ones((times, count))
    taken = out >= 0
    for _ in range(n - count):
        told = to / sizes[:, None] if making == "average" else to
        open_ = np.where(taken[:, :, None], np.inf, told)
        case, cluster = np.divmod(open_.reshape(times, -1).argmin(axis=1), count)
        out[each, case], taken[each, case] = cluster, True
        sizes[each, cluster] += 1
        column = to[each, :, cluster]
        if making == "nearest":
            to[each, :, cluster] = np.minimum(column, far[case])
        elif making == "farthest":
            to[each, :, cluster] = np.maximum(column, far[case])
        else:
            to[each, :, cluster] = column + far[case]
    return out


@dataclass(frozen=True, eq=False)
class CalibratedIndices:
    """Characteristics of the clusters of a tree, and of as many random ones.

    counts : rising, from 2; values, mean, sd : (characteristics, counts) in the order of
    `CHARACTERISTICS`, of the tree, and of random groupings; of the first of these, how clusters
    come back, the values are known when cases were drawn anew, and NaN here; part : cases drawn of
    a large study, 0 for all; why : in words, where there is nothing.
    """

    counts: tuple[int, ...]
    values: Floats
    mean: Floats
    sd: Floats
    part: int = 0
    why: str = ""

    def standing(self, stable: Floats | None = None) -> Floats:
        """(characteristics, counts) in standard deviations of random groupings, good ones above 0.

        stable : (counts,) how clusters come back; NaN stands for what is not known.
        """
        values = self.values.copy()
        if stable is not None and len(self.counts):
            values[0] = stable
        signs = np.array([one.sign for one in CHARACTERISTICS.values()])[:, None]
        with np.errstate(divide="ignore", invalid="ignore"):
            out = signs * (values - self.mean) / self.sd
        return np.where(self.sd > 0, out, np.nan)

    def ranked(self, weights: Mapping[str, float], stable: Floats | None = None) -> Floats:
        """(counts,) the weighted mean of the standings; NaN where one is not known.

        A characteristic that is not known at any count has no say.
        """
        standing = self.standing(stable)
        wanted = np.array([weights.get(key, 0.0) for key in CHARACTERISTICS])
        wanted[~np.isfinite(standing).any(axis=1)] = 0.0
        if not wanted.sum() > 0:
            return np.full(len(self.counts), np.nan)
        used = wanted > 0
        return np.asarray(wanted[used] @ standing[used] / wanted.sum())


def calibrated(
    grown: Grown,
    asked: CountPlan = ALL_RULES,
    progress: Progress = silent,
    report: Callable[[CalibratedIndices], None] = lambda found: None,
    engine: Engine | None = None,
) -> CalibratedIndices:
    """Characteristics at each count, and those of random groupings into as many clusters.

    asked : the part of a plan with range and seed; progress : told "purpose"; may stop the work by
    raising; report : told what there is after each count.

    References
    ----------
    Akhanli & Hennig 2020, Comparing clusterings and numbers of clusters by aggregation of
    calibrated clustering validity indexes. How random clusters come back is here how well those of
    two groupings of one making agree.
    """
    n = grown.tree.n
    rows, part = np.arange(n), 0
    if n > MOST:
        rows = np.sort(np.random.default_rng([asked.seed, _PURPOSE]).choice(n, MOST, replace=False))
        part = MOST
    counts = tuple(count for count in count_range(asked, n) if 2 <= count < len(rows))
    nothing = np.full((len(CHARACTERISTICS), len(counts)), np.nan)
    found = CalibratedIndices(counts, nothing, nothing, nothing, part)
    if not counts:
        return replace(found, why=f"{n} {grown.of} are too few")
    far = Distances(grown.pairs).block(rows, rows)
    np.fill_diagonal(far, 0.0)
    task, stage = (
        _AtCount(grown.tree, far, rows, counts, asked.seed),
        Stage(progress, Phase.PURPOSE),
    )
    columns = rounds_of(engine or engine_for(len(rows)), task, len(counts), stage)
    for place, column in enumerate(columns):
        values, mean, sd = found.values.copy(), found.mean.copy(), found.sd.copy()
        values[:, place] = column[:, 0]
        mean[:, place] = column[:, 1:].mean(axis=1)
        sd[:, place] = column[:, 1:].std(axis=1, ddof=1)
        found = replace(found, values=values, mean=mean, sd=sd)
        report(found)
    return found


@dataclass(frozen=True, eq=False)
class _AtCount:
    """(characteristics, 1 + random groupings) of one count.

    far : distances of the cases looked at; rows : their places.
    """

    tree: Tree
    far: Floats
    rows: Ints
    counts: tuple[int, ...]
    seed: int

    def run(self, number: int, progress: Progress) -> Floats:
        count, far = self.counts[number], self.far
        random = np.random.default_rng([self.seed, count, _PURPOSE])
        own = cut_at_count(self.tree, count).membership[self.rows]
        told = [characteristics_of(far, np.unique(own, return_inverse=True)[1], count)]
        for place, making in enumerate(MAKINGS):
            progress(Phase.PURPOSE, place / len(MAKINGS))
            told += _at_random(far, random_groupings(far, count, making, TIMES, random), count)
        return np.stack(told, axis=1)


def _at_random(far: Floats, groupings: Ints, count: int) -> list[Floats]:
    """Characteristics of each grouping; how it comes back is told by the next."""
    out = []
    for place, own in enumerate(groupings):
        told = characteristics_of(far, own, count)
        table = cross_counts(own, groupings[(place + 1) % len(groupings)])
        either = table.sum(axis=1)[:, None] + table.sum(axis=0) - table
        told[0] = (table / either).max(axis=1).mean()
        out.append(told)
    return out


def characteristics_of(far: Floats, own: Ints, count: int) -> Floats:
    """The values of one grouping, in the order of `CHARACTERISTICS`; the first NaN.

    far : (n, n) distances; own : (n,) clusters from 0, all of them; count : of the tree, where a
    part of its cases may miss some.
    """
    n = len(own)
    sizes = np.bincount(own)
    member = own[:, None] == own
    inside = (far * member).sum(axis=1)
    within = np.bincount(own, inside) / np.maximum(sizes - 1, 1)
    nearest = np.where(member, np.inf, far).min(axis=1)
    apart = []
    for cluster, size in enumerate(sizes.tolist()):
        tenth = int(np.ceil(_TENTH * size - 1e-9))
        apart.append(np.sort(nearest[own == cluster])[:tenth])
    shares = sizes / n
    even = -(shares * np.log(shares)).sum() / np.log(count)
    return np.array([
        np.nan, within.sum() / n, np.concatenate(apart).mean(), even, _widest_gap(far, member),
        _faithful(far, member),
    ])  # fmt: skip


def _faithful(far: Floats, member: NDArray[np.bool_]) -> float:
    """Pearson’s correlation of the distances of pairs with 0 = together, 1 = apart."""
    upper = np.triu_indices(len(far), 1)
    d, apart = far[upper], ~member[upper]
    spread = d.std() * apart.std()
    if not spread > 1e-12 * max(d.mean(), 1e-300):
        return float("nan")
    return float(((d - d.mean()) * (apart - apart.mean())).mean() / spread)


def _widest_gap(far: Floats, member: NDArray[np.bool_]) -> float:
    """The longest edge of the spanning trees inside clusters; 0 where all are single cases."""
    n = len(far)
    inside = np.where(member, far, np.inf)
    near, out = np.full(n, np.inf), np.zeros(n, dtype=bool)
    here, widest = 0, 0.0
    for _ in range(n - 1):
        out[here] = True
        near = np.minimum(near, inside[here])
        open_ = np.where(out, np.inf, near)
        here = int(open_.argmin())
        if np.isinf(open_[here]):
            here = int(np.flatnonzero(~out)[0])  # the first case of the next cluster
        else:
            widest = max(widest, float(open_[here]))
    return widest
