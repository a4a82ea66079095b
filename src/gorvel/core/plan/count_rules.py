"""The registry of rules for the cluster count. To add one: add its record, and how it is valued in

`count/`.
"""

from __future__ import annotations

from gorvel.core.plan.count_rule import FAMILIES, CountRule
from gorvel.core.plan.further_rules import FURTHER_RULES

__all__ = ["CHECK_NAMES", "COMPARABLE", "COUNT_RULES", "FURTHER", "USUAL"]

CHECK_NAMES = (
    "groups",
    "structure",
    "splits",
    "support",
    "orders",
    "purpose",
)  # made beside the rules, when asked for

_USUAL = (
    CountRule(
        "calinski-harabasz", "Caliński–Harabasz", "spread", "(B / (k − 1)) / (W / (n − k))",
        "Favours round clusters of like size and spread; one of the most dependable there.",
        "Cuts long or unequal groups to pieces; with no structure it drifts to either end.",
        "Caliński & Harabasz 1974", "max", ("variables",),
    ),
    CountRule(
        "hartigan", "Hartigan", "spread", "(W(k) / W(k + 1) − 1)(n − k − 1)",
        "Stops where one more cluster lowers the spread little, all cases in one looked at first.",
        "The bound of 10 is a rule of thumb: even one cloud, split in two, is above it from a few"
        " dozen cases on, so with many cases it asks for too many clusters.",
        "Hartigan 1975", "smallest k with value <= 10", ("variables",),
    ),
    CountRule(
        "krzanowski-lai", "Krzanowski–Lai", "spread", "|DIFF(k) / DIFF(k + 1)|",
        "Finds the elbow: a large fall in spread that is followed by a small one.",
        "A ratio of differences: a chance small fall anywhere makes a false peak.",
        "Krzanowski & Lai 1988", "max", ("variables",),
    ),
    CountRule(
        "ball-hall", "Ball–Hall", "spread", "W / k",
        "Looks for the largest fall of the mean spread of a cluster.",
        "The first fall it looks at is nearly always the largest: it said 3 in 763 of 763 made-up"
        " studies, with groups and without. It has no voice.",
        "Ball & Hall 1965", "k >= 3 with the largest drop from k-1 to k", ("variables",),
    ),
    CountRule(
        "trace-w", "Bend of W", "spread", "(W(k − 1) − W(k)) − (W(k) − W(k + 1))",
        "Finds the sharpest bend in the curve of the spread within clusters.",
        "Sees only large groups: the bend of a small one is lost beside theirs.",
        "compare Edwards & Cavalli-Sforza 1965 (first differences)",
        "largest (W(k-1)-W(k)) - (W(k)-W(k+1))", ("variables",),
    ),
    CountRule(
        "ratkowsky-lance", "Ratkowsky–Lance", "spread", "mean of √(B / T) over variables, / √k",
        "Wants each variable to be explained by the clusters, and counts few clusters cheaper.",
        "The division by √k pulls towards 2 or 3.",
        "Ratkowsky & Lance 1978", "max", ("variables",),
    ),
    CountRule(
        "duda-hart", "Duda–Hart", "spread", "Je(2) / Je(1) of the cluster to be split next",
        "Asks whether the next split lowers the spread of that one cluster more than a plane would"
        " that splits one round normal cloud; the bound is 1 − 2 / (π p) − 3.2 √(2 (1 − 8 / (π² p))"
        " / (n p)).",
        "A cloud of correlated answers is not round, and is split. Judges one cluster at a time: a"
        " poor split early stops it before better ones, as with four on the corners of a square.",
        "Duda & Hart 1973; 3.2: Milligan & Cooper 1985", "smallest k with value >= its bound",
        ("variables",),
    ),
    CountRule(
        "pseudo-t2", "Pseudo t²", "spread", "(Je(1) − Je(2)) / (Je(2) / (n − 2)) of that cluster",
        "The test of Duda and Hart told as a ratio: small where the next split is not needed.",
        "Says the same as Duda–Hart, so that it has no voice beside it.",
        "after Duda & Hart 1973; no single source", "smallest k with value <= its bound",
        ("variables",),
    ),
    CountRule(
        "silhouette", "Silhouette", "separation", "mean of (b − a) / max(a, b)",
        "Favours clusters that are compact and well apart, and few of them.",
        "Misses clusters inside clusters: often only the coarsest grouping is seen.",
        "Rousseeuw 1987", "max", ("proximities",),
    ),
    CountRule(
        "davies-bouldin", "Davies–Bouldin", "separation",
        "mean of max (s + s′) / m, s the mean distance to the centroid",
        "Favours clusters whose centres are far apart for how wide they are.",
        "Tiny clusters have no width and look perfect; watch the smallest cluster.",
        "Davies & Bouldin 1979", "min", ("variables",),
    ),
    CountRule(
        "dunn", "Dunn", "separation", "smallest d between / largest d within",
        "Favours clusters with empty space around them.",
        "Two single pairs decide it: one noisy case is enough to change the answer.",
        "Dunn 1974", "max", ("proximities",),
    ),
    CountRule(
        "c-index", "C-index", "separation", "(S − Smin) / (Smax − Smin)",
        "Asks how near the distances within clusters are to the smallest there are.",
        "Tends to more clusters, as fewer pairs within are easier to keep small.",
        "Hubert & Levin 1976", "min", ("proximities",),
    ),
    CountRule(
        "gamma", "Gamma", "separation", "(s₊ − s₋) / (s₊ + s₋)",
        "Asks how often two cases of one cluster are nearer than two of different ones; uses"
        " ranks only.",
        "Rises easily with the count; look for a peak rather than a level.",
        "Baker & Hubert 1975", "max", ("proximities",),
    ),
    CountRule(
        "point-biserial", "Point-biserial", "separation", "r between d and 0 = same, 1 = different",
        "Asks how well the partition reproduces the distances.",
        "Noise variables hide groups from it; its peak is flat.",
        "Milligan 1981", "max", ("proximities",),
    ),
    CountRule(
        "mcclain-rao", "McClain–Rao", "separation", "mean d within / mean d between",
        "Favours clusters that are small beside the distances between them.",
        "Falls with every split of a wide cluster: without groups it takes the last count in nine"
        " of ten studies. It has no voice.",
        "McClain & Rao 1975", "min", ("proximities",),
    ),
    CountRule(
        "largest-jump", "Largest jump", "heights", "h(leaves k − 1) − h(leaves k)",
        "The eye’s rule: cut where the tree has its longest bare stretch.",
        "The last joins are the highest by nature, so it leans to 2. Under Ward’s rule it is the"
        " bend of W, and has no voice beside it.",
        "no single source", "max", ("heights",),
    ),
    CountRule(
        "mojena", "Mojena", "heights", "(h − mean) / sd over all heights",
        "Stops before the first join that is unusually high among all joins.",
        "The bound of 1.25 is Milligan and Cooper’s; Mojena took 2.75 to 3.50. Mean and sd include"
        " the high joins themselves, and change with the number of cases.",
        "Mojena 1977; Milligan & Cooper 1985", "the k before the first join above 1.25",
        ("heights",),
    ),
    CountRule(
        "gap", "Gap statistic", "resampling", "E*[log W(k)] − log W(k)",
        "Compares the spread within with that of even noise in a box of the same shape. One cluster"
        " is the answer where the published rule stops at one and, which we ask for beside it, no"
        " count lies three standard errors above it.",
        "Long or unequal clusters look like many; ratings on few steps are lumpy by nature, and"
        " skewed amounts are no even noise either.",
        "Tibshirani, Walther & Hastie 2001", "smallest k with gap(k) >= gap(k+1) - se(k+1)",
        ("variables", "resamples"),
    ),
    CountRule(
        "bootstrap-jaccard", "Bootstrap Jaccard", "resampling",
        "mean best Jaccard index of each cluster over resamples",
        "Keeps the most clusters of which each one comes back when cases are drawn anew.",
        "Stable is not the same as true: two halves of one cloud can be stable too. The paper calls"
        " a cluster stable at 0.75; to take the most such clusters is our use of it.",
        "after Hennig 2007", "largest k with min >= 0.75, else none", ("proximities", "resamples"),
    ),
    CountRule(
        "prediction-strength", "Prediction strength", "resampling",
        "smallest share of pairs of a test cluster that the other half keeps together",
        "Keeps the most clusters that one half of the cases predicts for the other.",
        "One small, shaky cluster decides: halves of a small sample often lose it, and a cluster of"
        " one case counts 0. The paper adds a standard error to the value.",
        "Tibshirani & Walther 2005", "largest k with value >= 0.8, else none",
        ("proximities", "resamples"),
    ),
    CountRule(
        "split-half", "Split half", "resampling", "mean adjusted Rand index of two halves",
        "The count at which two halves of the cases, grown apart, agree best.",
        "Without groups it takes the last count in a third of studies. The paper uses kappa.",
        "McIntyre & Blashfield 1980; Breckenridge 1989", "max", ("proximities", "resamples"),
    ),
)  # fmt: skip
COUNT_RULES: dict[str, CountRule] = {
    rule.key: rule
    for family in FAMILIES
    for rule in (*_USUAL, *FURTHER_RULES)
    if rule.family == family
}
USUAL = tuple(key for key, rule in COUNT_RULES.items() if not rule.further)
FURTHER = tuple(key for key, rule in COUNT_RULES.items() if rule.further)
# whose values can be held against those of data without groups, beside the silhouette
COMPARABLE = tuple(
    key
    for key, rule in COUNT_RULES.items()
    if rule.extreme and "resamples" not in rule.needs and key != "silhouette"
)
