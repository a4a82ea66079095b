"""The registry of linkages, and of what stands in their place. To add one: write its update, add

its record.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Row = NDArray[np.float64]


@dataclass(frozen=True)
class Pair:
    """Two clusters about to be joined, seen from all clusters k (dead ones hold infinity).

    to_left, to_right : (n,) proximities of every k to the two; apart : theirs to each other;
    masses : (n,) of every k; left, right : masses of the two; beta : of the flexible rules.
    """

    to_left: Row
    to_right: Row
    apart: float
    masses: Row
    left: float
    right: float
    beta: float = 0.0


@dataclass(frozen=True)
class Linkage:
    """One joining rule, mostly an update of proximities (Lance & Williams 1967).

    key : in plan files; name : as it reads in the plan sentence, after "joined by";
    formula, purpose, misleads, source : for people;
    update : pair -> (n,) proximities of every cluster to the joined one; None for the rules that
        the proximities of the two parts do not suffice for (see `joining`);
    reducible : no cluster comes nearer by a join of others, so that heights never step back;
    parameters : keys of [tree] that it uses;
    squares : works on squared Euclidean geometry; masses : case weights matter;
    height_means : what the height of a join is, completing "the height is ...".
    """

    key: str
    name: str
    formula: str
    purpose: str
    misleads: str
    source: str
    update: Callable[[Pair], Row] | None
    height_means: str
    squares: bool = False
    masses: bool = False
    reducible: bool = True
    parameters: tuple[str, ...] = ()


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


def _weighted_average(pair: Pair) -> Row:
    return np.asarray((pair.to_left + pair.to_right) / 2.0)


def _median(pair: Pair) -> Row:
    return np.asarray(_weighted_average(pair) - pair.apart / 4.0)


def _flexible(pair: Pair) -> Row:
    share = (1.0 - pair.beta) / 2.0
    return np.asarray(share * (pair.to_left + pair.to_right) + pair.beta * pair.apart)


def _flexible_average(pair: Pair) -> Row:
    return np.asarray((1.0 - pair.beta) * _average(pair) + pair.beta * pair.apart)


_ALL = (
    Linkage(
        "single",
        "single linkage",
        "min of d(x, y), x in one cluster, y in the other",
        (
            "Joins the two clusters whose nearest members are nearest. Finds long, winding "
            "clusters and leaves outliers alone to the end."
        ),
        "Two groups with a thin bridge of cases between them run together early (chaining).",
        "Florek et al. 1951; Sneath 1957",
        _single,
        "the proximity of the two nearest members",
    ),
    Linkage(
        "complete",
        "complete linkage",
        "max of d(x, y), x in one cluster, y in the other",
        (
            "Joins the clusters whose farthest members are least far apart. Makes compact "
            "clusters in which no two members differ by more than the height."
        ),
        "One outlier in a cluster keeps it from joining; breaks up large groups.",
        "Sørensen 1948",
        _complete,
        "the proximity of the two farthest members",
    ),
    Linkage(
        "average",
        "average linkage",
        "mean of d(x, y), x in one part, y in the other",
        "Joins by the mean proximity of all pairs across (UPGMA). A middle way, whose heights keep"
        " close to the proximities (Farris 1969).",
        (
            "Leaves small outlying clusters; sizes can differ a great deal. On squared "
            "distances distant pairs count by their square, which is unusual: use plain "
            "ones."
        ),
        "Sokal & Michener 1958",
        _average,
        "the mean proximity of all pairs across the two clusters",
        masses=True,
    ),
    Linkage(
        "weighted-average",
        "weighted average linkage",
        "mean of the proximities to the two clusters it was joined from",
        (
            "As average linkage, but both branches of a cluster count equally however "
            "large they are (WPGMA), so that a few odd cases are not outvoted."
        ),
        "A single late case moves a cluster as much as all that came before it.",
        "Sokal & Michener 1958",
        _weighted_average,
        "the mean proximity across, equal weight at each earlier join",
    ),
    Linkage(
        "within-average",
        "within-cluster average linkage",
        "mean of d(x, y), x and y in the joined cluster",
        (
            "Joins the clusters that make the cluster with the smallest mean proximity "
            "inside: it looks at the result, not only at what lies between."
        ),
        (
            "A tight cluster can draw in distant cases, as its own small proximities lower "
            "the mean; heights can step back."
        ),
        "Anderberg 1973",
        None,
        "the mean proximity of all pairs inside the joined cluster",
        masses=True,
        reducible=False,
    ),
    Linkage(
        "minimax",
        "minimax linkage",
        "min over x of max d(x, y), x and y in the joined cluster",
        (
            "Joins the clusters that a single member can represent best: the height is how "
            "far the farthest case is from that member, so each cluster has a case to show "
            "for it."
        ),
        "As with complete linkage, one outlier keeps a cluster from joining.",
        "Ao et al. 2005; Bien & Tibshirani 2011",
        None,
        "the distance of the most central member from the farthest one",
    ),
    Linkage(
        "flexible",
        "the flexible rule",
        "(1 − β)/2 (d(left) + d(right)) + β d(left, right)",
        "One rule with a dial: β near −1 makes compact clusters, β near 1 chains. Lance & Williams"
        " begin at −0.25; Milligan 1989 found −0.5 better with outlying cases.",
        "β is a choice that the data do not make for you; report it.",
        "Lance & Williams 1967 (Computer Journal 9)",
        _flexible,
        "a mixture of the proximities of the two clusters, set by β",
        parameters=("beta",),
    ),
    Linkage(
        "flexible-average",
        "flexible average linkage",
        "(1 − β) mean(d(left), d(right)) + β d(left, right)",
        (
            "As average linkage, with β to make clusters more compact (below 0) or looser "
            "(above); its authors recommend about −0.1. The mean is weighted by the sizes "
            "of the two clusters."
        ),
        "β is a choice that the data do not make for you; report it.",
        "Belbin, Faith & Milligan 1992",
        _flexible_average,
        "the mean proximity across, moved by β",
        masses=True,
        parameters=("beta",),
    ),
    Linkage(
        "centroid",
        "the centroid rule",
        "squared distance between the two centroids",
        "Joins the clusters whose centroids are nearest (UPGMC).",
        "Heights can step back (inversions): a join may lie lower than the one before it.",
        "Sokal & Michener 1958; Gower 1967",
        _centroid,
        "the distance between the two centroids",
        squares=True,
        masses=True,
        reducible=False,
    ),
    Linkage(
        "median",
        "the median rule",
        "squared distance between the two median centres; a new centre lies midway",
        (
            "As the centroid rule, but both clusters count equally however large they are "
            "(WPGMC), so that a small group is not drowned by a large one."
        ),
        "Heights can step back (inversions): a join may lie lower than the one before it.",
        "Gower 1967",
        _median,
        "the distance between the two median centres",
        squares=True,
        reducible=False,
    ),
    Linkage(
        "ward",
        "Ward’s rule",
        "growth of the within-cluster sum of squares, doubled",
        (
            "Joins the two clusters that add least to the within-cluster variation. Makes "
            "compact clusters of similar size and variation."
        ),
        "Cuts long or very unequal groups to make round ones; pulled by outliers. Made for numbers:"
        " with categories, yes/no answers or heavy tails it has no such meaning.",
        "Ward 1963; Wishart 1969; Murtagh & Legendre 2014",
        _ward,
        (
            "an increase in the within-cluster sum of squares (its root under plain "
            "distances), not a distance between two cases"
        ),
        squares=True,
        masses=True,
    ),
)
LINKAGES: dict[str, Linkage] = {linkage.key: linkage for linkage in _ALL}
SPLINTER = Linkage(
    "splinter",
    "splits from the top",
    "mean d to those that stay − mean d to those that left",
    "Works from all cases down: the widest cluster is split, by cases that leave it one after the"
    " other as long as they are nearer to those that left. Good where a few large groups matter"
    " more than who is nearest to whom.",
    (
        "A split is never undone, and one outlying case can make a cluster the widest. "
        "Low joins mean little: read the tree from the top."
    ),
    "Macnaughton-Smith et al. 1964; Kaufman & Rousseeuw 1990",
    None,
    "the diameter of the cluster that is split: the largest proximity inside",
)
# all by which a tree can be grown: the linkages, and from the top
TREE_RULES: dict[str, Linkage] = LINKAGES | {SPLINTER.key: SPLINTER}
