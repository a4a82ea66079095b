"""The registry of linkages. To add one: write its update, add its record."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["LINKAGES", "Linkage", "Pair"]

Row = NDArray[np.float64]


@dataclass(frozen=True)
class Pair:
    """Two clusters about to be joined, seen from all clusters k (dead ones hold infinity).

    to_left, to_right : (n,) proximities of every k to the two; apart : theirs to each other;
    masses : (n,) of every k; left, right : masses of the two.
    """

    to_left: Row
    to_right: Row
    apart: float
    masses: Row
    left: float
    right: float


@dataclass(frozen=True)
class Linkage:
    """One joining rule, as an update of proximities (Lance & Williams 1967).

    key : in plan files; name : as it reads in the plan sentence, after "joined by";
    formula, purpose, misleads, source : for people;
    update : pair -> (n,) proximities of every cluster to the joined one;
    squares : works on squared Euclidean geometry; masses : case weights matter;
    height_means : what the height of a join is, completing "the height is ...".
    """

    key: str
    name: str
    formula: str
    purpose: str
    misleads: str
    source: str
    update: Callable[[Pair], Row]
    height_means: str
    squares: bool = False
    masses: bool = False


def _single(pair: Pair) -> Row:
    return np.minimum(pair.to_left, pair.to_right)


def _complete(pair: Pair) -> Row:
    return np.maximum(pair.to_left, pair.to_right)


def _average(pair: Pair) -> Row:
    total = pair.left + pair.right
    return np.asarray((pair.left * pair.to_left + pair.right * pair.to_right) / total)


def _centroid(pair: Pair) -> Row:
    total = pair.left + pair.right
    between = (pair.left / total) * (pair.right / total) * pair.apart
    return np.asarray(_average(pair) - between)


def _ward(pair: Pair) -> Row:
    k = pair.masses
    left, right = k + pair.left, k + pair.right
    grown = left * pair.to_left + right * pair.to_right - k * pair.apart
    return np.asarray(grown / (k + (pair.left + pair.right)))


_ALL = (
    Linkage(
        "single",
        "single linkage",
        "min of d(x, y), x in one part, y in the other",
        "Joins the two parts whose nearest members are nearest. Finds long, winding clusters and"
        " leaves outliers alone to the end.",
        "Two groups with a thin bridge of cases between them run together early (chaining).",
        "Florek et al. 1951; Sneath 1957",
        _single,
        "the proximity of the two nearest members",
    ),
    Linkage(
        "complete",
        "complete linkage",
        "max of d(x, y), x in one part, y in the other",
        "Joins the parts whose farthest members are least far apart. Makes compact clusters in"
        " which no two members differ by more than the height.",
        "One outlier in a part keeps it from joining; breaks up large groups.",
        "Sørensen 1948",
        _complete,
        "the proximity of the two farthest members",
    ),
    Linkage(
        "average",
        "average linkage",
        "mean of d(x, y), x in one part, y in the other",
        "Joins by the mean proximity of all pairs across (UPGMA). A middle way that keeps to the"
        " proximities more faithfully than most.",
        "Leaves small outlying clusters; sizes can differ a great deal.",
        "Sokal & Michener 1958",
        _average,
        "the mean proximity of all pairs across the two parts",
        masses=True,
    ),
    Linkage(
        "centroid",
        "the centroid rule",
        "squared distance of the two parts' means",
        "Joins the parts whose means are nearest (UPGMC).",
        "Heights can step back (inversions): a join may lie lower than the one before it.",
        "Sokal & Michener 1958; Gower 1967",
        _centroid,
        "the distance between the means of the two parts",
        squares=True,
        masses=True,
    ),
    Linkage(
        "ward",
        "Ward’s rule",
        "growth of the within-cluster sum of squares, doubled",
        "Joins the two parts that add least to the spread within clusters. Makes compact"
        " clusters of like size; the usual first choice for survey answers.",
        "Cuts long or very unequal groups to make round ones; pulled by outliers.",
        "Ward 1963; Wishart 1969",
        _ward,
        "a growth in spread, not a distance between two cases",
        squares=True,
        masses=True,
    ),
)
LINKAGES: dict[str, Linkage] = {linkage.key: linkage for linkage in _ALL}
