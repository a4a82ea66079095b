"""The registry of proximity measures. To add one: write its formula, add its record."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels.recipe import ABSOLUTE, BOTH, LARGEST, RATIO, SQUARES, Recipe
from gorvel.core.proximity import differences, profiles, recipes
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.binary_measures import BINARY
from gorvel.core.proximity.presence import block_of
from gorvel.core.proximity.recipes import Maker

Kind = Literal["numbers", "counts", "binary", "mixed"]


@dataclass(frozen=True)
class Undefined:
    """Cases that a measure cannot place.

    words : what is found in such a case, and is expected; flags : (m, p) answers to the variables
    both cases of a pair have -> (m,) which are such cases.
    """

    found: str
    expected: str
    flags: Callable[[NDArray[np.float64]], NDArray[np.bool_]]


_ZERO = Undefined("only zeros", "an answer other than 0", profiles.zero_cases)
_CONSTANT = Undefined("only equal answers", "answers that differ", profiles.constant_cases)
_EMPTY = Undefined("counts that sum to 0", "a count above 0", profiles.empty_cases)


@dataclass(frozen=True)
class Measure:
    """One way to measure how far apart two cases are.

    key : in plan files; name : as it reads in the plan sentence;
    formula, purpose, misleads, source : for people;
    function : answers and a slice of n cases -> (rows, n) block of proximities, NaN for a pair
        that it cannot measure;
    kind : what it takes: numbers, counts (numbers not below 0), binary variables, or a mixture;
    euclidean : has means, which the rules with squared geometry need; importances : variables can
    count more or less; gaps : can leave missing answers out pair by pair; undefined : cases that it
    cannot place; folds : equal cases are at 0; parameters : keys of [proximity] that it uses;
    whitens : removes correlations, so that it is tied to the cases as they are.

    are_squares : its proximities, of answers without gaps, are squared distances between points of
    a Euclidean space; recipe : how compiled loops measure it, None where they cannot;
    plain : of a sum of squares (0) or of absolute differences (1), and whether its root follows.

    References
    ----------
    Gower & Legendre 1986, Metric and Euclidean properties of dissimilarity coefficients (squares).
    """

    key: str
    name: str
    formula: str
    purpose: str
    misleads: str
    source: str
    function: Callable[[Answers, slice], NDArray[np.float64]]
    kind: Kind = "numbers"
    euclidean: bool = False
    importances: bool = True
    gaps: bool = True
    undefined: Undefined | None = None
    folds: bool = True
    parameters: tuple[str, ...] = ()
    are_squares: bool = False
    whitens: bool = False
    recipe: Maker | None = None
    plain: tuple[int, bool] | None = None

    @property
    def flat(self) -> bool:
        """Can centroids and sums of squares be had?

        Its proximities, or their roots, are then distances between points of a Euclidean space that
        centroids and sums of squares can be had of?
        """
        return self.euclidean or self.whitens

    @property
    def mixed(self) -> bool:
        return self.kind == "mixed"


_NUMBERS = (
    Measure(
        "squared-euclidean",
        "squared Euclidean distance",
        "Σ v (x − y)²",
        (
            "The squared straight-line distance. The scale on which Ward’s rule and the "
            "centroid rule have their meaning."
        ),
        "A large difference on one variable counts far more than several small ones.",
        "Sokal & Sneath 1963",
        differences.squared_euclidean,
        euclidean=True,
        are_squares=True,
        recipe=recipes.summed(SQUARES),
        plain=(0, False),
    ),
    Measure(
        "euclidean",
        "Euclidean distance",
        "√ Σ v (x − y)²",
        "The straight-line distance, in the unit of the variables.",
        "Variables with large scales lead, unless they are put on comparable scales first.",
        "Sokal & Sneath 1963",
        differences.euclidean,
        euclidean=True,
        recipe=recipes.summed(SQUARES, rooted=True),
        plain=(0, True),
    ),
    Measure(
        "city-block",
        "city-block distance",
        "Σ v |x − y|",
        "The sum of all differences; one odd answer does less harm than under Euclidean distance.",
        ("Has no centroids: Ward’s rule and the centroid rule lose their geometric meaning."),
        "Cain & Harrison 1958; Carmichael & Sneath 1969",
        differences.city_block,
        recipe=recipes.summed(ABSOLUTE, squares=False),
        plain=(1, False),
    ),
    Measure(
        "chebyshev",
        "Chebyshev distance",
        "max v |x − y|",
        "The largest difference alone: two cases are near when they are near on every variable.",
        "One variable decides each pair; all others could be anything below it.",
        "Coombs, Dawes & Tversky 1970",
        differences.chebyshev,
        recipe=recipes.of_known(LARGEST),
    ),
    Measure(
        "minkowski",
        "Minkowski distance",
        "(Σ v |x − y|ᵖ)^(1/p)",
        "A family: p = 1 is city-block, p = 2 Euclidean; the larger p, the more the largest"
        " difference leads.",
        "With p below 1 the triangle inequality fails.",
        "Kruskal 1964",
        differences.minkowski,
        parameters=("power",),
    ),
    Measure(
        "power",
        "the power distance",
        "(Σ v |x − y|ᵖ)^(1/r)",
        (
            "As Minkowski’s, with a root of its own: p weights differences on one "
            "variable, r those between distant and near pairs."
        ),
        (
            "With r above p, twice the differences are not twice the distance; with r "
            "below p or p below 1 the triangle inequality fails."
        ),
        "no single source; after Kruskal 1964",
        differences.power,
        parameters=("power", "root"),
    ),
    Measure(
        "canberra",
        "Canberra distance",
        "Σ v |x − y| / (|x| + |y|)",
        "Differences relative to size, variable by variable: 1 against 2 counts as much as 100"
        " against 200.",
        "Very sensitive near 0: 0 against anything else is the largest difference there is. Not for"
        " z-scores.",
        "Lance & Williams 1967 (Australian Computer Journal 1)",
        differences.canberra,
        recipe=recipes.of_known(RATIO),
    ),
    Measure(
        "bray-curtis",
        "Bray–Curtis distance",
        "Σ v |x − y| / Σ v |x + y|",
        "The share of amounts that two cases do not have in common; for amounts and counts.",
        "Loses its meaning with values below 0, such as z-scores.",
        "Bray & Curtis 1957",
        differences.bray_curtis,
        undefined=_ZERO,
        recipe=recipes.of_known(BOTH, mean=True),
    ),
    Measure(
        "cosine",
        "cosine distance",
        "1 − Σ x y / (|x| |y|)",
        "Compares directions: who answers alike in proportion is alike, whatever the amounts.",
        (
            "Ignores amounts: a case with small answers can equal one with large ones. "
            "Directions are relative to 0: after z-scores that is the average respondent, "
            "which makes it a different measure."
        ),
        "Salton & McGill 1983",
        profiles.cosine,
        importances=False,
        undefined=_ZERO,
        are_squares=True,
        recipe=recipes.angles(profiles.unit_rows),
    ),
    Measure(
        "correlation",
        "correlation distance",
        "1 − r(x, y) over the variables",
        "Compares shapes: which answers of a case lie above its own mean and which below.",
        (
            "Ignores level and variation of a case. Variables must share one scale, and "
            "reverse-scoring a variable changes it (Fleiss & Zubin 1969; Cohen 1969)."
        ),
        "Sokal & Sneath 1963; Cronbach & Gleser 1953",
        profiles.correlation,
        importances=False,
        undefined=_CONSTANT,
        are_squares=True,
        recipe=recipes.angles(profiles.centred_rows),
    ),
    Measure(
        "spearman",
        "rank correlation distance",
        "1 − r of the ranks of x and y",
        "Compares the order of a case’s answers, from its lowest to its highest.",
        "Many equal answers leave little order to compare. Variables must share one scale.",
        "Spearman 1904",
        profiles.spearman,
        importances=False,
        undefined=_CONSTANT,
        are_squares=True,
        recipe=recipes.angles(profiles.ranked_rows),
    ),
    Measure(
        "mahalanobis",
        "Mahalanobis distance",
        "√ (x − y)′ S⁻¹ (x − y)",
        "Removes what the variables have in common: correlated ones do not count twice.",
        ("Also removes the differences between groups where these make the variables correlate."),
        "Mahalanobis 1936",
        differences.mahalanobis,
        importances=False,
        gaps=False,
        whitens=True,
        recipe=recipes.whitened_lengths,
    ),
)
_COUNTS = (
    Measure(
        "chi-square",
        "chi-square distance",
        "√ (Σ (x − E(x))² / E(x) + Σ (y − E(y))² / E(y))",
        "For counts: how far the compositions of two cases are from being the same.",
        (
            "Grows with the totals: large cases are farther apart than small ones of "
            "similar shape. It is that of the pair’s own two-row table, not the distance "
            "of correspondence analysis."
        ),
        "Pearson 1900",
        profiles.chi_square,
        kind="counts",
        importances=False,
        undefined=_EMPTY,
        recipe=recipes.of_counts(mean=False),
    ),
    Measure(
        "phi-square",
        "phi-square distance",
        "chi-square / √ N",
        "As the chi-square distance, without the size of the totals of the two cases.",
        (
            "Rare categories, with small expected counts, weigh heavily. It is the "
            "coefficient phi of the pair’s table, not its square."
        ),
        "Pearson 1904",
        profiles.phi_square,
        kind="counts",
        importances=False,
        undefined=_EMPTY,
        recipe=recipes.of_counts(mean=True),
    ),
)
_MIXED = (
    Measure(
        "gower",
        "Gower distance",
        "1 − Σ v s / Σ v",
        (
            "Mixed answers: numbers, ratings, categories, yes/no. Each variable gives a "
            "similarity from 0 to 1; a pair uses the variables both cases have."
        ),
        (
            "Categories weigh more than numbers, since they differ fully or not at all. "
            "One extreme answer sets the range of a number."
        ),
        "Gower 1971; ordinal: Kaufman & Rousseeuw 1990, compare Podani 1999",
        differences.gower,
        kind="mixed",
        are_squares=True,
        recipe=recipes.mixed,
    ),
)
MEASURES: dict[str, Measure] = {
    measure.key: measure
    for measure in (
        *_NUMBERS,
        *_MIXED,
        *_COUNTS,
        *(
            Measure(
                one.key,
                one.name,
                one.formula,
                one.purpose,
                one.misleads,
                one.source,
                block_of(one.distance),
                kind="binary",
                importances=False,
                folds=one.folds,
                are_squares=one.are_squares,
                recipe=recipes.looked_up(one.distance),
            )
            for one in BINARY
        ),
    )
}


def recipe_of(answers: Answers, key: str) -> Recipe | None:
    """How a compiled loop measures all pairs; None for measures, and gaps, that have none.

    answers : n cases by p variables; key : of the measure.
    """
    made = MEASURES[key].recipe
    return None if made is None else made(answers)
