"""What the clusters of a run are like, as files."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution
from gorvel.core.base.progress import Progress, silent
from gorvel.core.cases.design import Design, sample_of
from gorvel.core.export.files import write_csv, write_json
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.clusters import MOST, cluster_figures, passes_over_pairs
from gorvel.core.profile.differences import differences
from gorvel.core.profile.map import CaseMap, case_map
from gorvel.core.profile.moments import numbers_of, shares_of
from gorvel.core.profile.raw_answers import Question, read_answers
from gorvel.core.profile.short_form import ShortForm, short_form
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]

_FIGURES = (
    "n", "mass", "mean", "sd", "median", "min", "max", "share", "eta2", "cramers_v",
)  # fmt: skip
_ERRORS = ("se", "lower", "upper")
_TESTS = ("statistic", "df1", "df2", "p", "effect")


@dataclass(frozen=True, eq=False)
class Portraits:
    """What clusters are told by. weights : (n,), 1 each where there are none."""

    told: tuple[Question, ...]
    weights: Floats
    design: Design | None

    @property
    def cautions(self) -> tuple[Caution, ...]:
        """What a reader of the tests should know."""
        if self.design is None:
            return ()
        return (
            Caution(
                "clusters-as-given",
                (
                    "Standard errors and tests under the design take the clusters as fixed; they "
                    "ignore that another sample would give other clusters."
                ),
            ),
        )


def portraits(source: Source, plan: Plan, grown: Grown) -> Portraits:
    """What is known of the cases of a tree; nothing where it is of variables or of a matrix.

    Raises
    ------
    InputError : a variable for profiles, or a column of the design, that cannot be read.
    """
    prepared = grown.prepared
    weights = np.ones(prepared.n) if prepared.weights is None else prepared.weights
    if not isinstance(source, Table) or prepared.of == "variables":
        return Portraits((), weights, None)
    design = sample_of(source, plan, prepared)
    return Portraits(tuple(read_answers(source, plan, prepared)), weights, design)


def write_profiles(
    found: Portraits, grown: Grown, plan: Plan, counts: Sequence[int], directory: Path,
    progress: Progress = silent,
) -> dict[str, Any]:  # fmt: skip
    """Write what the clusters are like.

    clusters.json, profiles.csv and tests.csv where there are variables of cases, and what
    `[profile]` asks for; returns what goes into the summary.
    """
    write_json(clusters_told(grown, plan, counts, progress), directory / "clusters.json")
    if found.told:
        cuts = {count: cut_at_count(grown.tree, count).membership - 1 for count in counts}
        write_csv(profile_columns(found, cuts), directory / "profiles.csv")
        write_csv(test_columns(found, cuts), directory / "tests.csv")
    asked = plan.profile
    if asked is None:
        return {}
    if asked.typing is not None:
        write_json(
            typing_told(found, grown, counts, asked.typing, progress), directory / "typing.json"
        )
    if not asked.map:
        return {}
    places = case_map(grown, progress=progress)
    write_csv(map_columns(places, grown), directory / "map.csv")
    explained = places.explained if math.isfinite(places.explained) else None
    told = {"explained": explained, "stress1": places.stress1}
    return {"map": told | ({"landmarks": places.landmarks} if places.landmarks else {})}


def map_columns(places: CaseMap, grown: Grown) -> dict[str, Any]:
    """A row for each case of the tree."""
    return {
        "case": grown.prepared.numbers,
        "label": list(grown.prepared.labels),
        "x": places.classical[:, 0],
        "y": places.classical[:, 1],
        "u": places.least[:, 0],
        "v": places.least[:, 1],
    }


def typing_told(
    found: Portraits, grown: Grown, counts: Sequence[int], most: int, progress: Progress = silent
) -> dict[str, Any]:
    """What typing.json holds: by count the questions in the order of choice, and the rule."""
    active = [one for one in found.told if one.role == "active"]
    out: dict[str, Any] = {}
    for count in counts:
        own = cut_at_count(grown.tree, count).membership - 1
        form = short_form(active, own, count, most, progress)
        if form is None:
            out[str(count)] = {"questions": [], "rule": None, "confused": None}
            continue
        out[str(count)] = rule_told(form)
    return out


def rule_told(form: ShortForm) -> dict[str, Any]:
    """A short form as JSON."""
    pairs = zip(form.questions, form.accuracy, strict=True)
    coefficients = zip(form.questions, form.rule.coefficients.tolist(), strict=True)
    finite = np.where(np.isfinite(form.rule.constants), form.rule.constants, -1e300)
    return {
        "questions": [{"variable": name, "accuracy": share} for name, share in pairs],
        "rule": {
            "constants": finite.tolist(),
            "coefficients": dict(coefficients),
            "gaps": dict(zip(form.questions, form.means.tolist(), strict=True)),
        },
        "confused": form.confused.tolist(),
    }


def clusters_told(
    grown: Grown, plan: Plan, counts: Sequence[int], progress: Progress = silent
) -> dict[str, list[dict[str, Any]]]:
    """What clusters.json holds."""
    prepared = grown.prepared
    out = {}
    for count, figures in cluster_figures(grown, counts, progress).items():
        titles = plan.cut.names.get(str(count), ("",) * count)
        out[str(count)] = [
            {
                "cluster": one.cluster,
                "name": titles[one.cluster - 1] or f"Cluster {one.cluster}",
                "size": one.size,
                "mass": one.mass,
                "share": one.share,
                "medoid": None if one.medoid is None else prepared.labels[one.medoid],
                "medoid_case": None if one.medoid is None else int(prepared.numbers[one.medoid]),
                "within_ss": one.within_ss,
                "diameter": one.diameter,
                "mean_silhouette": one.mean_silhouette,
                "nearest_cluster": one.nearest_cluster,
                "nearest_distance": one.nearest_distance,
            }
            | _said(plan, count, one.cluster)
            for one in figures
        ]
    return out


def _said(plan: Plan, count: int, cluster: int) -> dict[str, str]:
    """What the plan says of a cluster (from 1): portrait, note, colour, where it does."""
    told = {key.removesuffix("s"): getattr(plan.cut, key).get(str(count), ())
            for key in ("portraits", "notes", "colours")}  # fmt: skip
    return {key: words[cluster - 1] for key, words in told.items() if words and words[cluster - 1]}


def profile_columns(found: Portraits, cuts: dict[int, Ints]) -> dict[str, list[Any]]:
    """Long form: a row for each count, cluster and variable, of nominal ones for each level.

    cuts : by count, (n,) clusters from 0.
    """
    errors = _ERRORS if found.design is not None else ()
    names = ("count", "cluster", "variable", "level", *_FIGURES, *errors, "role")
    rows: list[tuple[Any, ...]] = []
    for count, own in cuts.items():
        by_variable = [_rows_of(one, own, count, found, errors) for one in found.told]
        for cluster in range(count):
            for of_cluster in by_variable:
                rows += [(count, cluster + 1, *row) for row in of_cluster[cluster]]
    return {name: [row[place] for row in rows] for place, name in enumerate(names)}


def _rows_of(
    one: Question, own: Ints, count: int, found: Portraits, errors: Sequence[str]
) -> list[list[tuple[Any, ...]]]:
    """For each cluster the rows of one variable, from its name on."""
    if one.nominal:
        shares = shares_of(one, own, count, found.weights, found.design)
        return [
            [
                (one.name, word, int(shares.n[k, j]), shares.mass[k, j], None, None, None, None,
                 None, shares.share[k, j], None, shares.cramers_v,
                 *(getattr(shares, key)[k, j] for key in errors), one.role)
                for j, word in enumerate(one.words)
            ]
            for k in range(count)
        ]  # fmt: skip
    of = numbers_of(one, own, count, found.weights, found.design)
    return [
        [
            (one.name, None, int(of.n[k]), of.mass[k], of.mean[k], of.sd[k], of.median[k],
             of.least[k], of.greatest[k], of.share[k], of.eta2, None,
             *(getattr(of, key)[k] for key in errors), one.role)
        ]
        for k in range(count)
    ]  # fmt: skip


def test_columns(found: Portraits, cuts: dict[int, Ints]) -> dict[str, list[Any]]:
    """A row for each count, variable and test."""
    columns: dict[str, list[Any]] = {
        name: [] for name in ("count", "variable", "role", "test", *_TESTS, "caution")
    }
    for count, own in cuts.items():
        for one in found.told:
            for test in differences(one, own, count, found.weights, found.design):
                columns["count"].append(count)
                columns["variable"].append(one.name)
                columns["role"].append(one.role)
                columns["test"].append(test.test)
                for key in _TESTS:
                    value = getattr(test, key)
                    columns[key].append(value if math.isfinite(value) else None)
                cautions = [_DESCRIBES] if one.role == "active" else []
                cautions += [f"not to be trusted: {test.withheld}"] if test.withheld else []
                columns["caution"].append("; ".join(cautions) or None)
    return columns


_DESCRIBES = "the clusters were formed from this variable: descriptive only"


def left_out(grown: Grown, counts: Sequence[int]) -> tuple[Caution, ...]:
    """That figures of pairs are left out of large studies."""
    if passes_over_pairs(grown.tree.n, max(counts)):
        return ()
    return (
        Caution(
            "cluster-figures",
            (
                "Medoids, diameters, silhouettes and nearest clusters are computed up to "
                f"{MOST:,} cases."
            ),
        ),
    )
