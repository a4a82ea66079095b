"""What clusters are like, slowly and straight from the definitions.

x : answers, None where missing; c : clusters from 0; w : weights; None stands for no value.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from itertools import product

import numpy as np

Answers = Sequence[float | None]
Weights = Sequence[float]
Clusters = Sequence[int]


def moments(x: Answers, c: Clusters, w: Weights, k: int) -> dict[str, float | None]:
    """Of one cluster."""
    rows = [i for i in range(len(x)) if c[i] == k and x[i] is not None]
    known = [i for i in range(len(x)) if x[i] is not None]
    values = [x[i] for i in rows]
    mass, whole = math.fsum(w[i] for i in rows), math.fsum(w[i] for i in known)
    out: dict[str, float | None] = {"n": len(rows), "mass": mass}
    out["share"] = mass / whole if whole else None
    if not rows:
        return out | dict.fromkeys(("mean", "sd", "median", "min", "max"))
    mean = math.fsum(w[i] * x[i] for i in rows) / mass  # type: ignore[operator]
    squares = math.fsum(w[i] * (x[i] - mean) ** 2 for i in rows)  # type: ignore[operator]
    ordered = sorted(values)  # type: ignore[type-var]
    half = len(ordered) // 2
    middle = ordered[half] if len(ordered) % 2 else (ordered[half - 1] + ordered[half]) / 2  # type: ignore[operator]
    return out | {
        "mean": mean, "sd": math.sqrt(squares / (mass - 1)) if mass > 1 else None,
        "median": middle, "min": ordered[0], "max": ordered[-1],
    }  # fmt: skip


def spread(x: Answers, c: Clusters, w: Weights) -> tuple[float, float, int, int]:
    """Between and within, weights normed to the cases; cases and clusters with an answer."""
    rows = [i for i in range(len(x)) if x[i] is not None]
    n = len(rows)
    scale = n / math.fsum(w[i] for i in rows) if n else 1.0
    v = [weight * scale for weight in w]
    grand = math.fsum(v[i] * x[i] for i in rows) / n if n else 0.0  # type: ignore[operator]
    between = within = 0.0
    clusters = sorted({c[i] for i in rows})
    for k in clusters:
        own = [i for i in rows if c[i] == k]
        mass = math.fsum(v[i] for i in own)
        mean = math.fsum(v[i] * x[i] for i in own) / mass  # type: ignore[operator]
        between += mass * (mean - grand) ** 2
        within += math.fsum(v[i] * (x[i] - mean) ** 2 for i in own)  # type: ignore[operator]
    return between, within, n, len(clusters)


def table(x: Answers, c: Clusters, w: Weights) -> np.ndarray:
    """Shares of the mass of clusters by levels, those with an answer."""
    rows = [i for i in range(len(x)) if x[i] is not None]
    clusters, levels = sorted({c[i] for i in rows}), sorted({x[i] for i in rows})  # type: ignore[type-var]
    out = np.zeros((len(clusters), len(levels)))
    for i in rows:
        out[clusters.index(c[i]), levels.index(x[i])] += w[i]
    return out / out.sum() if rows else out


def chi_square(p: np.ndarray, n: int) -> float:
    expected = np.outer(p.sum(axis=1), p.sum(axis=0))
    return n * math.fsum(
        (p[i, j] - expected[i, j]) ** 2 / expected[i, j]
        for i, j in product(range(p.shape[0]), range(p.shape[1]))
    )


def by_units(z: np.ndarray, strata: Sequence[int], units: Sequence[int], single: str) -> np.ndarray:
    """Covariance of the totals of z over a stratified sample of units.

    z : (rows, q) of all rows of the sample, 0 where a row has no part.
    """
    pairs = sorted(set(zip(strata, units, strict=True)))
    totals = {
        pair: sum((z[i] for i in range(len(z)) if (strata[i], units[i]) == pair),
                  np.zeros(z.shape[1]))
        for pair in pairs
    }  # fmt: skip
    every = np.mean([totals[pair] for pair in pairs], axis=0)
    out = np.zeros((z.shape[1], z.shape[1]))
    for stratum in sorted(set(strata)):
        own = [totals[pair] for pair in pairs if pair[0] == stratum]
        if len(own) == 1:
            if single == "centre":
                off = own[0] - every
                out += np.outer(off, off)
            continue
        mean = np.mean(own, axis=0)
        for total in own:
            out += len(own) / (len(own) - 1) * np.outer(total - mean, total - mean)
    return out


def by_replicates(
    estimate: Callable[[Sequence[float]], np.ndarray], w: Weights,
    replicates: Sequence[Sequence[float]], factors: Sequence[float],
) -> np.ndarray:  # fmt: skip
    whole = estimate(w)
    offs = [estimate(one) - whole for one in replicates]
    return sum(f * np.outer(off, off) for f, off in zip(factors, offs, strict=True))  # type: ignore[return-value]


def domain_means(x: Answers, c: Clusters, count: int) -> Callable[[Sequence[float]], np.ndarray]:
    def means(w: Sequence[float]) -> np.ndarray:
        out = []
        for k in range(count):
            rows = [i for i in range(len(x)) if c[i] == k and x[i] is not None]
            out.append(math.fsum(w[i] * x[i] for i in rows) / math.fsum(w[i] for i in rows))  # type: ignore[operator]
        return np.array(out)

    return means


def linear_means(x: Answers, c: Clusters, w: Weights, count: int) -> np.ndarray:
    """Woodruff 1971: z = w d (y - m) / sum(w d)."""
    m = domain_means(x, c, count)(w)
    z = np.zeros((len(x), count))
    for k in range(count):
        whole = math.fsum(w[i] for i in range(len(x)) if c[i] == k and x[i] is not None)
        for i in range(len(x)):
            if c[i] == k and x[i] is not None:
                z[i, k] = w[i] * (x[i] - m[k]) / whole  # type: ignore[operator]
    return z


def wald_f(m: np.ndarray, v: np.ndarray, df: float) -> tuple[float, float, float]:
    """Statistic and degrees of freedom, with differences to the first mean."""
    k = len(m)
    contrasts = np.array([[-1.0] + [float(j == i) for j in range(k - 1)] for i in range(k - 1)])
    apart = contrasts @ m
    wald = float(apart @ np.linalg.inv(contrasts @ v @ contrasts.T) @ apart)
    return wald * (df - k + 2) / ((k - 1) * df), k - 1, df - k + 2


def rao_scott(p: np.ndarray, v: np.ndarray, n: int, df: float) -> tuple[float, float, float]:
    """v : covariance of p_ij - p_i. p_.j, without the last of each."""
    rows, columns = p.sum(axis=1), p.sum(axis=0)
    p_r = np.diag(rows[:-1]) - np.outer(rows[:-1], rows[:-1])
    p_c = np.diag(columns[:-1]) - np.outer(columns[:-1], columns[:-1])
    delta = np.linalg.eigvals(n * np.kron(np.linalg.inv(p_r), np.linalg.inv(p_c)) @ v).real
    df1 = delta.sum() ** 2 / (delta**2).sum()
    return chi_square(p, n) / delta.sum(), df1, df1 * df


def medoid(d: np.ndarray, own: Sequence[int], w: Weights) -> int:
    """The earliest on a draw."""
    means = []
    for i in own:
        rest = [j for j in own if j != i]
        mass = math.fsum(w[j] for j in rest)
        means.append(math.fsum(w[j] * d[i, j] for j in rest) / mass if rest else 0.0)
    least = min(means)
    return min(i for i, mean in zip(own, means, strict=True) if mean <= least * (1 + 1e-12))
