"""Principal components of the variables a tree was grown from, and how these load on them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.grow.grown import Grown

Floats = NDArray[np.float64]

_SINGULAR = 1e-12  # of the largest eigenvalue
_DRAW = 1e-9  # relative: loadings this close in size are equal


@dataclass(frozen=True, eq=False)
class Components:
    """Of p variables and n cases, as many components as have a variance above 0.

    names : p; places : (n, c) scores, each with the variance of its component; loadings : (p, c)
    correlations of the variables with the components; explained : (c,) shares of the variance,
    falling; left_out : variables that take no part; gaps : are missing answers taken for the mean?
    """

    names: tuple[str, ...]
    places: Floats
    loadings: Floats
    explained: Floats
    left_out: tuple[str, ...]
    gaps: bool


def components_of(grown: Grown) -> Components | None:
    """Components of the (weighted) correlations; None where fewer than two variables have any.

    Each variable counts the same, whatever its scale and importance; nominal ones, and those with
    one answer, take no part. The loading largest in size is positive, the first of equals.

    References
    ----------
    Hotelling 1933, Analysis of a complex of statistical variables into principal components.
    Gabriel 1971, The biplot graphic display of matrices (variables as arrows).
    """
    prepared = grown.prepared
    if prepared.answers is None or prepared.of != "cases":
        return None
    values, weights = prepared.answers.values, prepared.weights
    mass = np.ones(prepared.n) if weights is None else weights
    columns, names, left_out, gaps = [], [], [], False
    for variable, x in zip(prepared.variables, values.T, strict=True):
        known = ~np.isnan(x)
        standard = _standard(x, known, mass) if variable.level != "nominal" else None
        if standard is None:
            left_out.append(variable.name)
            continue
        gaps = gaps or not known.all()
        columns.append(standard)
        names.append(variable.name)
    if len(columns) < 2:
        return None
    z = np.column_stack(columns)
    correlations = (z * mass[:, None]).T @ z / mass.sum()
    variances, vectors = np.linalg.eigh(correlations)
    variances, vectors = variances[::-1], vectors[:, ::-1]
    kept = variances > _SINGULAR * variances[0]
    variances, vectors = variances[kept], vectors[:, kept]
    size = np.abs(vectors)
    first = np.argmax(size >= size.max(axis=0) * (1 - _DRAW), axis=0)
    vectors = vectors * np.sign(vectors[first, np.arange(len(first))])
    spreads = np.sqrt((z**2 * mass[:, None]).sum(axis=0) / mass.sum())
    loadings = vectors * np.sqrt(variances) / spreads[:, None]
    total = float(np.trace(correlations))
    return Components(tuple(names), z @ vectors, loadings, variances / total, tuple(left_out), gaps)


def _standard(x: Floats, known: NDArray[np.bool_], mass: Floats) -> Floats | None:
    """(n,) of mean 0 and variance 1 among the known, 0 in gaps; None for one answer."""
    if not known.any():
        return None
    mean = float(np.average(x[known], weights=mass[known]))
    variance = float(np.average((x[known] - mean) ** 2, weights=mass[known]))
    if not variance > 1e-24 * max(mean * mean, 1.0):
        return None
    return np.where(known, (x - mean) / np.sqrt(variance), 0.0)
