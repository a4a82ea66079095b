"""Rules for the cluster count that are worked out where a plan asks for them by name."""

from __future__ import annotations

from gorvel.core.plan.count_rule import LARGEST, SMALLEST, CountRule, Direction

FURTHER_RULES = (
    CountRule(
        "beale",
        "Beale",
        "spread",
        "((W₁ − W₂) / W₂) / ((n − 1) / (n − 2) · 2^(2 / p) − 1)",
        (
            "Tests whether the next split reduces the variation of that cluster more than "
            "halving a uniform one would."
        ),
        (
            "Every case counts p times in the degrees of freedom, as if variables were "
            "independent, so correlated answers are split too often; and with three "
            "equidistant groups no split is worthwhile."
        ),
        "Beale 1969",
        Direction("smallest k with value <= its bound"),
        ("variables",),
        True,
    ),
    CountRule(
        "ccc",
        "Cubic criterion",
        "spread",
        "ln((1 − E R²) / (1 − R²)) √(n p* / 2) / (.001 + E R²)^1.2",
        (
            "Compares R² with what uniform noise in a box along the principal axes would "
            "give, computed in advance instead of simulated."
        ),
        (
            "Meant for round clusters in a uniform box; elongated clusters and heavy tails "
            "make it rise or fall without groups. A peak below 2 counts as one cluster."
        ),
        "Sarle 1983",
        Direction("max, if it is 2 or more", 1.0),
        ("variables",),
        True,
    ),
    CountRule(
        "marriott",
        "Marriott",
        "spread",
        "k² det W / det T",
        (
            "Finds groups in any linear combination of variables, however they are scaled; "
            "gives one cluster if no value is below 1."
        ),
        ("Uniform noise cut in k has one value at each k; needs many more cases than variables."),
        "Marriott 1971",
        SMALLEST,
        ("variables",),
        True,
    ),
    CountRule(
        "scott-symons",
        "Scott–Symons",
        "spread",
        "n ln(det T / det W)",
        ("The likelihood of normal groups of one shape; the number before which it rises most."),
        "The first splits raise it most by nature, so it leans towards few clusters.",
        "Scott & Symons 1971",
        Direction("the largest rise from k - 1 to k"),
        ("variables",),
        True,
    ),
    CountRule(
        "jump",
        "Jump",
        "spread",
        "d(k)^(−p/2) − d(k − 1)^(−p/2), d = W / (n p)",
        (
            "Looks for the number from which the variation falls as it would within a "
            "single normal cluster."
        ),
        (
            "The power p/2 is right for independent variables; correlated ones make it run "
            "to the largest number."
        ),
        "Sugar & James 2003",
        Direction("max, 1 included", 1.0),
        ("variables",),
        True,
    ),
    CountRule(
        "bic",
        "Gaussian BIC",
        "spread",
        "2 ln L − (k p + k − 1 + p (p + 1) / 2) ln n",
        (
            "Normal groups of one shape with the cut’s shares and centroids; more clusters "
            "are penalised for their parameters. One cluster is a possible answer."
        ),
        "Skew and heavy tails are fitted by more clusters, even without groups.",
        "after Fraley & Raftery 1998",
        Direction("max, 1 included", 1.0),
        ("variables",),
        True,
    ),
    CountRule(
        "tau",
        "Tau",
        "separation",
        "(s₊ − s₋) / √((N (N − 1) / 2 − t) N (N − 1) / 2)",
        (
            "Gamma, with all comparisons counted: uninformative pairs lower it, so it does "
            "not run to many small clusters."
        ),
        "Prefers partitions with as many pairs within clusters as between.",
        "Rohlf 1974; Milligan 1981",
        LARGEST,
        ("proximities",),
        True,
    ),
    CountRule(
        "g-plus",
        "G₊",
        "separation",
        "2 s₋ / (N (N − 1))",
        "The share of comparisons that go the wrong way.",
        "Falls with few pairs within, so it leans towards many clusters.",
        "Rohlf 1974",
        SMALLEST,
        ("proximities",),
        True,
    ),
    CountRule(
        "cop",
        "COP",
        "separation",
        "mean over cases of (mean d to the centroid) / (least farthest d)",
        ("How wide each cluster is relative to its distance from the nearest case outside."),
        "Clusters of one have no width and look perfect; watch the smallest cluster.",
        "Gurrutxaga et al. 2010",
        SMALLEST,
        ("variables",),
        True,
    ),
    CountRule(
        "cvnn",
        "Nearest neighbours",
        "separation",
        "largest share of the 10 nearest cases outside + sum of mean d within, each / its largest",
        ("Asks whether cases share a cluster with their nearest neighbours, whatever its shape."),
        ("Both halves are relative to the numbers examined: another range can change the answer."),
        "Liu et al. 2013",
        SMALLEST,
        ("proximities",),
        True,
    ),
    CountRule(
        "density",
        "Density",
        "separation",
        "mean of (sparsest between − sparsest within) / the larger",
        (
            "Asks whether clusters are dense and the space between them sparse, whatever "
            "their shape: the rule for elongated groups, such as single linkage finds."
        ),
        "With many variables every region is sparse, and it says little.",
        "Moulavi et al. 2014",
        LARGEST,
        ("proximities", "answers"),
        True,
    ),
    CountRule(
        "weighted-gap",
        "Weighted gap",
        "resampling",
        "E*[log Σ W / (n − 1)] − log Σ W / (n − 1)",
        (
            "The gap statistic with variation relative to cluster size, so that large "
            "clusters do not drown small ones."
        ),
        "As for the gap: elongated clusters and ratings are not uniform noise.",
        "Yan & Ye 2007",
        Direction("smallest k with gap(k) >= gap(k+1) - se(k+1)"),
        ("variables", "resamples"),
        True,
    ),
    CountRule(
        "dd-gap",
        "Second gap",
        "resampling",
        "(g(k) − g(k − 1)) − (g(k + 1) − g(k)), g the weighted gap",
        "The sharpest bend of the weighted gap.",
        "A difference of differences: chance bends count as well.",
        "Yan & Ye 2007",
        LARGEST,
        ("variables", "resamples"),
        True,
    ),
    CountRule(
        "instability",
        "Instability",
        "resampling",
        "share of pairs on which two resamples disagree",
        ("The number at which trees of resampled cases agree best on which cases belong together."),
        "Two clusters, or one large and some tiny, are easy to agree on.",
        "Fang & Wang 2012",
        SMALLEST,
        ("proximities", "resamples"),
        True,
    ),
    CountRule(
        "clest",
        "Clest",
        "resampling",
        "agreement of halves − that of halves of data without groups",
        (
            "The number at which halves agree most above what data without groups give; "
            "one cluster where none is 0.05 above, or p is above 0.05."
        ),
        (
            "The paper simulates uniform noise; ours keeps marginal distributions and "
            "correlations, which is stricter."
        ),
        "after Dudoit & Fridlyand 2002",
        Direction("max of those with d >= .05 and p <= .05, else one", 1.0),
        ("proximities", "resamples"),
        True,
    ),
)
