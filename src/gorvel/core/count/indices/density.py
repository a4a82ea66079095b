"""Are clusters dense and is what lies between them sparse, whatever their form."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.indices.nested import Nested
from gorvel.core.count.indices.pairsums import Distances

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class _Cluster:
    """What the density rule knows of a cluster.

    cases : (m,) rising; core : (m,) distances at which each is dense; inner : (m,) bool, of the
    spanning tree; sparse : its longest edge between inner cases.
    """

    cases: Ints
    core: Floats
    inner: NDArray[np.bool_]
    sparse: float


def density_values(
    nested: Nested,
    distances: Distances,
    counts: Sequence[int],
    dimensions: int,
    progress: Progress = silent,
) -> Floats:
    """(counts,) density-based validity, -1 to 1; a cluster of one case adds 0, NaN for one cluster.

    Spanning trees are grown from the first case of the file, which decides between equal edges; a
    tree without inner cases has all its cases for such, and one whose inner cases share no edge is
    as sparse as its longest edge.

    Parameters
    ----------
    counts : up to the finest; dimensions : the power by which density falls with distance.
    progress : told "density"; may stop the work by raising.

    References
    ----------
    Moulavi, Jaskowiak, Campello, Zimek & Sander 2014, Density-based clustering validation.
    """
    found: dict[tuple[int, int], _Cluster] = {}
    apart: dict[tuple[tuple[int, int], tuple[int, int]], float] = {}
    out = np.full(len(counts), np.nan)
    n = len(nested.order)
    for place, count in enumerate(counts):
        if count < 2:
            continue
        edges = np.append(nested.bounds[nested.starts(count)], n).tolist()
        keys = list(pairwise(edges))
        for key in keys:
            progress(Phase.DENSITY, place / len(counts))
            if key not in found:
                cases = np.sort(nested.order[key[0] : key[1]])
                found[key] = _cluster(cases, distances, dimensions)
        total = 0.0
        for key in keys:
            for other in keys:
                if key < other and (key, other) not in apart:
                    apart[key, other] = _apart(found[key], found[other], distances)
            if key[1] - key[0] > 1:
                between = min(apart[min(key, o), max(key, o)] for o in keys if o != key)
                sparse = found[key].sparse
                larger = max(between, sparse)
                share = (key[1] - key[0]) / n
                total += share * (between - sparse) / larger if larger > 0 else 0.0
        out[place] = total
    return out


def _cluster(cases: Ints, distances: Distances, dimensions: int) -> _Cluster:
    m = len(cases)
    if m == 1:
        return _Cluster(cases, np.zeros(1), np.ones(1, dtype=bool), 0.0)
    far = distances.block(cases, cases)
    np.fill_diagonal(far, np.inf)
    nearest = far.min(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        shares = (nearest[:, None] / far) ** dimensions  # of the density, at most 1
        core = nearest * (shares.sum(axis=1) / (m - 1)) ** (-1 / dimensions)
    core[nearest == 0] = 0.0
    ends, lengths = _spanning_tree(far, core)
    inner = np.bincount(ends.ravel(), minlength=m) > 1
    if not inner.any():
        inner[:] = True
    between = inner[ends].all(axis=1)
    sparse = lengths[between].max() if between.any() else lengths.max()
    return _Cluster(cases, core, inner, float(sparse))


def _spanning_tree(far: Floats, core: Floats) -> tuple[Ints, Floats]:
    """(m - 1, 2) ends and (m - 1,) lengths of the edges, by Prim 1957 from the first case."""
    m = len(core)
    near, to = np.full(m, np.inf), np.zeros(m, dtype=np.int64)
    out = np.zeros(m, dtype=bool)
    ends, lengths = np.zeros((m - 1, 2), dtype=np.int64), np.zeros(m - 1)
    here = 0
    for edge in range(m - 1):
        out[here] = True
        reach = np.maximum(np.maximum(far[here], core), core[here])
        nearer = (reach < near) & ~out
        near[nearer], to[nearer] = reach[nearer], here
        near[here] = np.inf
        here = int(near.argmin())
        ends[edge], lengths[edge] = (to[here], here), near[here]
    return ends, lengths


def _apart(one: _Cluster, other: _Cluster, distances: Distances) -> float:
    """The least distance of two inner cases of two clusters, each no nearer than it is dense."""
    far = distances.block(one.cases[one.inner], other.cases[other.inner])
    far = np.maximum(np.maximum(far, one.core[one.inner][:, None]), other.core[other.inner])
    return float(far.min())
