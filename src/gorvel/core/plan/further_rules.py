"""Rules for the cluster count that are worked out where a plan asks for them by name."""

from __future__ import annotations

from gorvel.core.plan.count_rule import CountRule

__all__ = ["FURTHER_RULES"]

FURTHER_RULES = (
    CountRule(
        "beale", "Beale", "spread", "((W₁ − W₂) / W₂) / ((n − 1) / (n − 2) · 2^(2 / p) − 1)",
        "Tests whether the next split lowers the spread of that cluster more than cutting an even"
        " one in two would; the bound is the F quantile at .05 with p and (n − 2) p degrees.",
        "Every case counts p times in the degrees, as if variables were independent, so that"
        " correlated answers are split too often; and of three groups as far from each other no one"
        " is worth its split.",
        "Beale 1969", "smallest k with value <= its bound", ("variables",), True,
    ),
    CountRule(
        "ccc", "Cubic criterion", "spread",
        "ln((1 − E R²) / (1 − R²)) √(n p* / 2) / (.001 + E R²)^1.2",
        "Compares R² with what even noise in a box along the principal axes would give, worked out"
        " in advance instead of drawn.",
        "Made for round clusters in an even box; long clouds and heavy tails make it rise or fall"
        " without groups. A peak below 2 is taken as one cluster.",
        "Sarle 1983", "max, if it is 2 or more", ("variables",), True,
    ),
    CountRule(
        "marriott", "Marriott", "spread", "k² det W / det T",
        "Sees groups in any linear combination of variables, however they are scaled; one cluster"
        " is the answer where no count is below 1.",
        "An even cloud cut in k has one value at each k; wants many more cases than variables.",
        "Marriott 1971", "min", ("variables",), True,
    ),
    CountRule(
        "scott-symons", "Scott–Symons", "spread", "n ln(det T / det W)",
        "The likelihood of normal groups of one shape; the count before which it rises most.",
        "The first splits raise it most by nature, so it leans to few clusters.",
        "Scott & Symons 1971", "the largest rise from k - 1 to k", ("variables",), True,
    ),
    CountRule(
        "jump", "Jump", "spread", "d(k)^(−p/2) − d(k − 1)^(−p/2), d = W / (n p)",
        "Looks for the count from which the spread falls as it would inside one normal cloud.",
        "The power p/2 is right for independent variables; correlated ones make it run to the end.",
        "Sugar & James 2003", "max, 1 included", ("variables",), True,
    ),
    CountRule(
        "bic", "Gaussian BIC", "spread", "2 ln L − (k p + k − 1 + p (p + 1) / 2) ln n",
        "Normal groups of one shape with the cut’s shares and centroids: more clusters have to pay"
        " for their parameters; one can be the answer.",
        "Skew and heavy tails are paid for with more clusters, though there are no groups.",
        "after Fraley & Raftery 1998", "max, 1 included", ("variables",), True,
    ),
    CountRule(
        "tau", "Tau", "separation", "(s₊ − s₋) / √((N (N − 1) / 2 − t) N (N − 1) / 2)",
        "Gamma, with all comparisons counted: pairs that tell nothing lower it, so that it does not"
        " run to many small clusters.",
        "Prefers clusters of which as many pairs are within as between.",
        "Rohlf 1974; Milligan 1981", "max", ("proximities",), True,
    ),
    CountRule(
        "g-plus", "G₊", "separation", "2 s₋ / (N (N − 1))",
        "How many comparisons go the wrong way, of all there are.",
        "Falls with few pairs within, so it leans to many clusters.",
        "Rohlf 1974", "min", ("proximities",), True,
    ),
    CountRule(
        "cop", "COP", "separation",
        "mean over cases of (mean d to the centroid) / (least farthest d)",
        "How wide each cluster is for how far it is from the nearest case outside, measured to that"
        " case’s farthest member.",
        "Clusters of one have no width and look perfect; watch the smallest cluster.",
        "Gurrutxaga et al. 2010", "min", ("variables",), True,
    ),
    CountRule(
        "cvnn", "Nearest neighbours", "separation",
        "largest share of the 10 nearest cases outside + sum of mean d within, each / its largest",
        "Asks whether cases share a cluster with their nearest cases, whatever its form.",
        "Both halves are relative to the counts looked at: another range can change the answer.",
        "Liu et al. 2013", "min", ("proximities",), True,
    ),
    CountRule(
        "density", "Density", "separation",
        "mean of (sparsest between − sparsest within) / the larger",
        "Asks whether clusters are dense and what lies between them is sparse, whatever their form:"
        " of the rules here the one for long groups, as single linkage finds them.",
        "In many variables all places are sparse, and it says little.",
        "Moulavi et al. 2014", "max", ("proximities",), True,
    ),
    CountRule(
        "weighted-gap", "Weighted gap", "resampling", "E*[log Σ W / (n − 1)] − log Σ W / (n − 1)",
        "The gap statistic with each cluster’s spread for its size, so that large clusters do not"
        " drown small ones.",
        "As for the gap: long clusters and lumpy ratings are no even noise.",
        "Yan & Ye 2007", "smallest k with gap(k) >= gap(k+1) - se(k+1)", ("variables", "resamples"),
        True,
    ),
    CountRule(
        "dd-gap", "Second gap", "resampling",
        "(g(k) − g(k − 1)) − (g(k + 1) − g(k)), g the weighted gap",
        "The sharpest bend of the weighted gap.",
        "A difference of differences: chance bends count as well.",
        "Yan & Ye 2007", "max", ("variables", "resamples"), True,
    ),
    CountRule(
        "instability", "Instability", "resampling",
        "share of pairs on which two resamples disagree",
        "The count at which trees of cases drawn anew agree best on which cases belong together.",
        "Two clusters, or one large and some tiny, are easy to agree on.",
        "Fang & Wang 2012", "min", ("proximities", "resamples"), True,
    ),
    CountRule(
        "clest", "Clest", "resampling",
        "agreement of halves − that of halves of data without groups",
        "The count at which halves agree most above what data without groups give; one cluster"
        " where none is .05 above, or p is above .05.",
        "The paper draws even noise; ours keeps margins and correlations, which is stricter.",
        "after Dudoit & Fridlyand 2002", "max of those with d >= .05 and p <= .05, else one",
        ("proximities", "resamples"), True,
    ),
)  # fmt: skip
