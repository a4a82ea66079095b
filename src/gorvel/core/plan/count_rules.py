"""The registry of rules for the number of clusters.

To add one: its record here, and an `Index` in `core/count/indices/`.
"""

from __future__ import annotations

from gorvel.core.plan.count_rule import FAMILIES, LARGEST, SMALLEST, CountRule, Direction
from gorvel.core.plan.further_rules import FURTHER_RULES

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
        "calinski-harabasz",
        "Caliński–Harabasz",
        "spread",
        "(B / (k − 1)) / (W / (n − k))",
        ("Favours round clusters of similar size and variation; among the most dependable there."),
        "Cuts long or unequal groups to pieces; with no structure it drifts to either end.",
        "Caliński & Harabasz 1974",
        LARGEST,
        ("variables",),
    ),
    CountRule(
        "hartigan",
        "Hartigan",
        "spread",
        "(W(k) / W(k + 1) − 1)(n − k − 1)",
        (
            "Stops where one more cluster reduces the within-cluster variation little, "
            "starting from a single cluster."
        ),
        (
            "The bound of 10 is a rule of thumb: even a single normal cluster, split in "
            "two, exceeds it from a few dozen cases on, so with many cases it asks for too "
            "many clusters."
        ),
        "Hartigan 1975",
        Direction("smallest k with value <= 10"),
        ("variables",),
    ),
    CountRule(
        "krzanowski-lai",
        "Krzanowski–Lai",
        "spread",
        "|DIFF(k) / DIFF(k + 1)|",
        ("Finds the elbow: a large fall in within-cluster variation followed by a small one."),
        "A ratio of differences: a chance small fall anywhere makes a false peak.",
        "Krzanowski & Lai 1988",
        LARGEST,
        ("variables",),
    ),
    CountRule(
        "ball-hall",
        "Ball–Hall",
        "spread",
        "W / k",
        "Looks for the largest fall of the mean variation of a cluster.",
        (
            "The first fall it looks at is nearly always the largest: it answered 3 in 763 "
            "of 763 simulated studies, with and without groups. It has no vote."
        ),
        "Ball & Hall 1965",
        Direction("k >= 3 with the largest drop from k-1 to k"),
        ("variables",),
        never="it answers 3 whatever the data",
    ),
    CountRule(
        "trace-w",
        "Bend of W",
        "spread",
        "(W(k − 1) − W(k)) − (W(k) − W(k + 1))",
        "Finds the sharpest bend in the curve of the within-cluster sum of squares.",
        "Sees only large groups: the bend of a small one is lost beside theirs.",
        "compare Edwards & Cavalli-Sforza 1965 (first differences)",
        Direction("largest (W(k-1)-W(k)) - (W(k)-W(k+1))"),
        ("variables",),
    ),
    CountRule(
        "ratkowsky-lance",
        "Ratkowsky–Lance",
        "spread",
        "mean of √(B / T) over variables, / √k",
        "Averages over variables the variance clusters account for, divided by √k.",
        "The division by √k pulls towards 2 or 3.",
        "Ratkowsky & Lance 1978",
        LARGEST,
        ("variables",),
    ),
    CountRule(
        "duda-hart",
        "Duda–Hart",
        "spread",
        (
            "Je(2) / Je(1) of the cluster to be split next; bound 1 − 2 / (π p) − 3.2 √(2 "
            "(1 − 8 / (π² p)) / (n p))"
        ),
        (
            "Asks whether the next split reduces the variation of that cluster more than a "
            "split of a single round normal cluster would."
        ),
        (
            "Correlated answers do not form a round cluster, and are split. Judges one "
            "cluster at a time: a poor split early stops it before better ones, as with "
            "four on the corners of a square."
        ),
        "Duda & Hart 1973; 3.2: Milligan & Cooper 1985",
        Direction("smallest k with value >= its bound"),
        ("variables",),
    ),
    CountRule(
        "pseudo-t2",
        "Pseudo t²",
        "spread",
        "(Je(1) − Je(2)) / (Je(2) / (n − 2)) of that cluster",
        ("The test of Duda and Hart as a ratio: small where the next split is not needed."),
        "Gives the same evidence as Duda–Hart, so it has no vote beside it.",
        "after Duda & Hart 1973; no single source",
        Direction("smallest k with value <= its bound"),
        ("variables",),
        twin="duda-hart",
    ),
    CountRule(
        "silhouette",
        "Silhouette",
        "separation",
        "mean of (b − a) / max(a, b)",
        "Favours compact, well-separated clusters, and few of them.",
        "Misses clusters inside clusters: often only the coarsest grouping is seen.",
        "Rousseeuw 1987",
        LARGEST,
        ("proximities",),
    ),
    CountRule(
        "davies-bouldin",
        "Davies–Bouldin",
        "separation",
        "mean of max (s + s′) / m, s the mean distance to the centroid",
        "Favours clusters whose centroids are far apart relative to their width.",
        "Tiny clusters have no width and look perfect; watch the smallest cluster.",
        "Davies & Bouldin 1979",
        SMALLEST,
        ("variables",),
    ),
    CountRule(
        "dunn",
        "Dunn",
        "separation",
        "smallest d between / largest d within",
        "Favours clusters with empty space around them.",
        "Two single pairs decide it: one noisy case is enough to change the answer.",
        "Dunn 1974",
        LARGEST,
        ("proximities",),
    ),
    CountRule(
        "c-index",
        "C-index",
        "separation",
        "(S − Smin) / (Smax − Smin)",
        "Asks how near the distances within clusters are to the smallest there are.",
        "Tends towards more clusters, as fewer pairs within are easier to keep small.",
        "Hubert & Levin 1976",
        SMALLEST,
        ("proximities",),
    ),
    CountRule(
        "gamma",
        "Gamma",
        "separation",
        "(s₊ − s₋) / (s₊ + s₋)",
        (
            "Asks how often two cases of one cluster are closer than two of different "
            "clusters; uses ranks only."
        ),
        "Rises easily with the number of clusters; look for a peak rather than a level.",
        "Baker & Hubert 1975",
        LARGEST,
        ("proximities",),
    ),
    CountRule(
        "point-biserial",
        "Point-biserial",
        "separation",
        "r between d and 0 = same, 1 = different",
        "Asks how well the partition reproduces the distances.",
        "Noise variables hide groups from it; its peak is flat.",
        "Milligan 1981",
        LARGEST,
        ("proximities",),
    ),
    CountRule(
        "mcclain-rao",
        "McClain–Rao",
        "separation",
        "mean d within / mean d between",
        "Favours clusters that are small relative to the distances between them.",
        (
            "Falls with every split of a wide cluster: without groups it answers the "
            "largest number in 90% of studies. It has no vote."
        ),
        "McClain & Rao 1975",
        SMALLEST,
        ("proximities",),
        never="it answers the largest number whatever the data",
    ),
    CountRule(
        "largest-jump",
        "Largest jump",
        "heights",
        "h(leaves k − 1) − h(leaves k)",
        "Cuts at the largest increase in height, as one would by eye.",
        (
            "The last joins are the highest by nature, so it leans towards 2. Under Ward’s "
            "rule it is the bend of W, and has no vote beside it."
        ),
        "no single source",
        LARGEST,
        ("heights",),
        twin="trace-w",
        twin_under="ward",
    ),
    CountRule(
        "mojena",
        "Mojena",
        "heights",
        "(h − mean) / SD over all heights",
        "Stops before the first join that is unusually high among all joins.",
        (
            "The bound of 1.25 is Milligan and Cooper’s; Mojena took 2.75 to 3.50. Mean "
            "and SD include the high joins themselves, and change with the number of cases."
        ),
        "Mojena 1977; Milligan & Cooper 1985",
        Direction("the k before the first join above 1.25"),
        ("heights",),
    ),
    CountRule(
        "gap",
        "Gap statistic",
        "resampling",
        "E*[log W(k)] − log W(k)",
        (
            "Compares the within-cluster variation with that of uniform noise in a box of "
            "the same shape. Answers one cluster if the published rule does and, our added "
            "condition, no other number lies three standard errors above."
        ),
        (
            "Long or unequal clusters look like many; ratings with few scale points and "
            "skewed amounts are not uniform by nature."
        ),
        "Tibshirani, Walther & Hastie 2001",
        Direction("smallest k with gap(k) >= gap(k+1) - se(k+1)"),
        ("variables", "resamples"),
    ),
    CountRule(
        "bootstrap-jaccard",
        "Bootstrap Jaccard",
        "resampling",
        "mean best Jaccard index of each cluster over resamples",
        "Chooses the largest number at which every cluster is recovered in resamples.",
        (
            "Stable is not the same as true: two halves of one cluster can be stable too. "
            "The paper calls a cluster stable at 0.75; choosing the most such clusters is "
            "our use of it."
        ),
        "after Hennig 2007",
        Direction("largest k with min >= 0.75, else none"),
        ("proximities", "resamples"),
    ),
    CountRule(
        "prediction-strength",
        "Prediction strength",
        "resampling",
        "smallest share of pairs of a test cluster that the other half keeps together",
        "Chooses the largest number that one half of the cases predicts for the other.",
        (
            "One small, unstable cluster decides: halves of a small sample often lose it, "
            "and a cluster of one case counts 0. The paper adds a standard error to the "
            "value."
        ),
        "Tibshirani & Walther 2005",
        Direction("largest k with value >= 0.8, else none"),
        ("proximities", "resamples"),
    ),
    CountRule(
        "split-half",
        "Split half",
        "resampling",
        "mean adjusted Rand index of two halves",
        "The number at which two halves of the cases, clustered separately, agree best.",
        (
            "Without groups it answers the largest number in a third of studies. The paper "
            "uses kappa."
        ),
        "McIntyre & Blashfield 1980; Breckenridge 1989",
        LARGEST,
        ("proximities", "resamples"),
    ),
)
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
