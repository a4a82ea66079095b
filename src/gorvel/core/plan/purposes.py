"""What clusters may be for: characteristics that a user can weigh, and usual weights."""

from __future__ import annotations

from dataclasses import dataclass

MOST_WEIGHT = 4  # of one characteristic


@dataclass(frozen=True)
class Characteristic:
    """name : on a slider; formula, source : for people; sign : 1 where large values are good."""

    name: str
    formula: str
    sign: int
    source: str


@dataclass(frozen=True)
class PurposePreset:
    """Weights to begin with. name : what clusters are for; tip : when."""

    name: str
    tip: str
    weights: dict[str, int]


# by their keys in plans and results
CHARACTERISTICS: dict[str, Characteristic] = {
    "stable": Characteristic(
        "stable across resamples", "mean best Jaccard index over resamples", 1, "Hennig 2007"
    ),
    "inside": Characteristic(
        "homogeneous", "mean distance of a case to its own cluster", -1, "Hennig 2019"
    ),
    "apart": Characteristic(
        "well separated",
        "mean distance to the nearest other case, of the tenth of each cluster that is nearest",
        1, "Hennig 2019",
    ),
    "sizes": Characteristic(
        "of similar size", "entropy of the shares, over its largest value", 1, "Hennig 2019"
    ),
    "gaps": Characteristic(
        "no gaps within", "longest edge of the spanning trees of clusters", -1, "Hennig 2019"
    ),
    "faithful": Characteristic(
        "true to the distances", "correlation of distances with 0 = together, 1 = apart", 1,
        "Hubert & Schultz 1976",
    ),
}  # fmt: skip
PURPOSES: dict[str, PurposePreset] = {
    "kinds": PurposePreset(
        "distinct types", "Groups that exist in themselves, with space between them",
        {"stable": 2, "inside": 1, "apart": 4, "gaps": 2},
    ),
    "segments": PurposePreset(
        "segments to work with", "Parts of one population, homogeneous and none too small",
        {"stable": 3, "inside": 4, "sizes": 2},
    ),
    "summary": PurposePreset(
        "a faithful summary", "A partition that reproduces the proximities as well as it can",
        {"stable": 1, "inside": 1, "faithful": 4},
    ),
}  # fmt: skip
