"""The registry of proximity measures. To add one: write its formula, add its record."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.proximity import formulas
from gorvel.core.proximity.formulas import Answers

__all__ = ["MEASURES", "Measure"]


@dataclass(frozen=True)
class Measure:
    """One way to measure how far apart two cases are.

    key : in plan files; name : as it reads in the plan sentence;
    formula, purpose, misleads, source : for people;
    function : answers and a slice of n cases -> (rows, n) block of proximities, NaN for a pair
        that has no variable in common;
    mixed : takes nominal variables; euclidean : heights of centroid rules have a geometry.
    """

    key: str
    name: str
    formula: str
    purpose: str
    misleads: str
    source: str
    function: Callable[[Answers, slice], NDArray[np.float64]]
    mixed: bool = False
    euclidean: bool = False


_ALL = (
    Measure(
        "squared-euclidean",
        "squared Euclidean distance",
        "Σ v (x − y)²",
        "The squared straight-line distance. The scale on which Ward's rule and the centroid rule"
        " have their meaning.",
        "Large differences on one variable count far more than several small ones.",
        "Sokal & Sneath 1963",
        formulas.squared_euclidean,
        euclidean=True,
    ),
    Measure(
        "euclidean",
        "Euclidean distance",
        "√ Σ v (x − y)²",
        "The straight-line distance, in the unit of the variables.",
        "Variables with large scales lead, unless they are put on comparable scales first.",
        "Sokal & Sneath 1963",
        formulas.euclidean,
        euclidean=True,
    ),
    Measure(
        "city-block",
        "city-block distance",
        "Σ v |x − y|",
        "The sum of all differences; one odd answer does less harm than under Euclidean distance.",
        "Has no centroids: Ward's rule and the centroid rule lose their geometric meaning.",
        "Sokal & Sneath 1963",
        formulas.city_block,
    ),
    Measure(
        "gower",
        "Gower distance",
        "1 − Σ v s / Σ v",
        "Mixed answers: numbers, ratings, categories, yes/no. Each variable gives a likeness from"
        " 0 to 1; a pair uses the variables that both cases have.",
        "Categories weigh more than numbers, since they differ fully or not at all.",
        "Gower 1971",
        formulas.gower,
        mixed=True,
    ),
)
MEASURES: dict[str, Measure] = {measure.key: measure for measure in _ALL}
