"""The registry of linkages, and of what stands in their place. To add one: add its record."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

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
class Recurrence:
    """How the proximities of a joined cluster follow from those of its two parts.

    by : the smaller or the larger of the two, their mean, or Ward's; equal : do both parts count
    alike in a mean, however large they are?; apart : the share of the parts' own proximity that is
    added to a mean; flexible : is that share β, and the mean scaled by 1 − β?; centre : is the
    product of the parts' shares and their own proximity taken off a mean?

    References
    ----------
    Lance & Williams 1967, A general theory of classificatory sorting strategies 1.
    """

    by: Literal["smaller", "larger", "mean", "ward"]
    equal: bool = False
    apart: float = 0.0
    flexible: bool = False
    centre: bool = False

    def scale_and_share(self, beta: float) -> tuple[float, float]:
        """By what a mean is scaled, and the share of the parts' own proximity that is added."""
        return (1.0 - beta, beta) if self.flexible else (1.0, self.apart)

    def __call__(self, pair: Pair) -> Row:
        """(n,) proximities of every cluster to the joined one."""
        if self.by == "smaller":
            return np.minimum(pair.to_left, pair.to_right)
        if self.by == "larger":
            return np.maximum(pair.to_left, pair.to_right)
        total = pair.left + pair.right
        if self.by == "ward":
            left, right = pair.masses + pair.left, pair.masses + pair.right
            grown = left * pair.to_left + right * pair.to_right - pair.masses * pair.apart
            return np.asarray(grown / (pair.masses + total))
        if self.equal:
            mean = (pair.to_left + pair.to_right) / 2.0
        else:
            mean = (pair.left * pair.to_left + pair.right * pair.to_right) / total
        if self.centre:
            return np.asarray(mean - (pair.left / total) * (pair.right / total) * pair.apart)
        scale, share = self.scale_and_share(pair.beta)
        moved = scale * mean + share * pair.apart if share else mean
        return np.asarray(moved)


@dataclass(frozen=True)
class Linkage:
    """One joining rule, mostly an update of proximities (Lance & Williams 1967).

    key : in plan files; name : as it reads in the plan sentence, after "joined by";
    formula, purpose, misleads, source : for people;
    recurrence : how proximities to a joined cluster follow from those to its parts; None for the
        rules that these do not suffice for (see `joining`);
    reducible : no cluster comes nearer by a join of others, so that heights never step back;
    parameters : keys of [tree] that it uses;
    squares : works on squared Euclidean geometry; masses : case weights matter;
    height_means : what the height of a join is, completing "the height is ...";
    folds : a case drawn several times is as good as one of several times the mass;
    centres : joins of numbers by squared Euclidean distances can follow the centres of clusters;
    members : what of the members of a joined cluster its height is, where there is no recurrence;
    memory : matrices there are together at the peak, and MiB of all else, of small studies and of
        others (measured: bench/memory.py).
    """

    key: str
    name: str
    formula: str
    purpose: str
    misleads: str
    source: str
    recurrence: Recurrence | None
    height_means: str
    squares: bool = False
    masses: bool = False
    reducible: bool = True
    parameters: tuple[str, ...] = ()
    folds: bool = False
    centres: bool = False
    members: Literal["mean of all pairs", "minimax"] | None = None
    memory: tuple[tuple[float, int], tuple[float, int]] = ((2.2, 2), (2.2, 2))

    @property
    def of_losses(self) -> bool:
        """Are heights losses of the sum of squares, so that cases start from their own?"""
        return self.recurrence is not None and self.recurrence.by == "ward"

    @property
    def spans(self) -> bool:
        """Does the tree follow from a minimum spanning tree?"""
        return self.recurrence is not None and self.recurrence.by == "smaller"

    @property
    def in_rounds(self) -> bool:
        """Does no join of it bring others nearer, so that many can be made at a time?

        Flexible ones only where β is not above 0. Ward's goes by centres instead.
        """
        return self.reducible and self.recurrence is not None and not self.of_losses


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
        Recurrence("smaller"),
        "the proximity of the two nearest members",
        folds=True,
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
        Recurrence("larger"),
        "the proximity of the two farthest members",
        folds=True,
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
        Recurrence("mean"),
        "the mean proximity of all pairs across the two clusters",
        masses=True,
        folds=True,
        centres=True,
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
        Recurrence("mean", equal=True),
        "the mean proximity across, equal weight at each earlier join",
        folds=True,
        centres=True,
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
        members="mean of all pairs",
        memory=((5.3, 2), (3.15, 126)),
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
        members="minimax",
        memory=((6.1, 2), (3.15, 126)),
    ),
    Linkage(
        "flexible",
        "the flexible rule",
        "(1 − β)/2 (d(left) + d(right)) + β d(left, right)",
        "One rule with a dial: β near −1 makes compact clusters, β near 1 chains. Lance & Williams"
        " begin at −0.25; Milligan 1989 found −0.5 better with outlying cases.",
        "β is a choice that the data do not make for you; report it.",
        "Lance & Williams 1967 (Computer Journal 9)",
        Recurrence("mean", equal=True, flexible=True),
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
        Recurrence("mean", flexible=True),
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
        Recurrence("mean", centre=True),
        "the distance between the two centroids",
        squares=True,
        masses=True,
        reducible=False,
        folds=True,
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
        Recurrence("mean", equal=True, apart=-0.25),
        "the distance between the two median centres",
        squares=True,
        reducible=False,
        folds=True,
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
        Recurrence("ward"),
        (
            "an increase in the within-cluster sum of squares (its root under plain "
            "distances), not a distance between two cases"
        ),
        squares=True,
        masses=True,
        folds=True,
        centres=True,
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
    memory=((2.6, 2), (2.37, 155)),
)
# all by which a tree can be grown: the linkages, and from the top
TREE_RULES: dict[str, Linkage] = LINKAGES | {SPLINTER.key: SPLINTER}
