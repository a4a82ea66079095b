"""Tables of what clusters are like."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gorvel.core.grow.assigning import Assigned
from gorvel.core.profile.leave_one_variable_out import only_noise
from gorvel.core.profile.shown import cell_value
from gorvel.core.profile.tested import p_told, tested
from gorvel.core.results.findings import Findings
from gorvel.core.results.table import Cell, ResultTable
from gorvel.core.tree.cluster_names import Identity, by_letter

TEST_NAMES = {
    "f": "F", "wald-f": "Wald F", "chi-square": "chi-square", "rao-scott-f": "Rao-Scott F",
}  # fmt: skip

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def assigned_columns(found: Assigned) -> dict[str, Any]:
    """A row for each case of the other file."""
    columns: dict[str, Any] = {"case": list(found.cases), "label": list(found.labels)}
    for count, given in found.by_count.items():
        none = given.cluster == 0
        columns[f"k{count}"] = _unless(given.cluster, none)
        columns[f"k{count}_distance"] = given.distance
        columns[f"k{count}_second"] = _unless(given.second, given.second == 0)
        columns[f"k{count}_margin"] = given.margin
        columns[f"k{count}_far"] = _unless(given.far.astype(np.int64), none)
    return columns


def _unless(values: Ints, none: NDArray[np.bool_]) -> list[int | None]:
    pairs = zip(values.tolist(), none.tolist(), strict=True)
    return [None if missing else value for value, missing in pairs]


def profiles_table(known: Findings) -> ResultTable | None:
    """A row for each question, columns as shown; then how many answered in each cluster."""
    shown, names, order = known.profiles, known.names, by_letter(known.names)
    if shown is None or not shown.lanes:
        return None
    beside = shown.beside
    heads = ["question", "role", "effect size", "all cases", *(names[k].told for k in order)]
    if beside is not None:
        heads += [f"{beside.name}: {beside.called(group)}" for group in beside.order]
    heads += [f"n: {names[k].told}" for k in order]
    rows: list[tuple[Cell, ...]] = []
    for lane in shown.lanes:
        cells: list[float | None] = [cell_value(lane, k, shown.figure) for k in order]
        other = beside.lanes.get(lane.title) if beside is not None else None
        if beside is not None and other is not None:
            cells += [cell_value(other, k, shown.figure) for k in beside.order]
        elif beside is not None:
            cells += [None] * len(beside.order)
        answered = [int(lane.n[k]) for k in order]
        rows.append((lane.title, lane.role, lane.effect, lane.whole, *cells, *answered))
    return ResultTable(tuple(heads), rows)


def with_names(words: str, names: Sequence[Identity]) -> str:
    """A reason with its clusters, which it counts, as they are called."""
    for place, who in enumerate(names, 1):
        words = re.sub(rf"\bcluster {place}\b", f"cluster {who.told}", words)
    return words


def tests_table(known: Findings) -> ResultTable | None:
    """A row for each test, p as it is shown."""
    rows = tested(known.portrayed) if known.portrayed is not None else []
    if not rows:
        return None
    corrected = "p (Holm)" if known.adjusted else "p"
    heads = ("question", "role", "test", "statistic", "df1", "df2", corrected, "effect",
             "design effect", "withheld")  # fmt: skip
    cells = [
        (row.told.name, row.told.role, TEST_NAMES[row.test.test],
         None if row.test.withheld else row.test.statistic, row.test.df1, row.test.df2, p,
         row.test.effect, row.deff, with_names(row.test.withheld, known.names) or None)
        for row, p in zip(rows, p_told(rows, known.adjusted), strict=True)
    ]  # fmt: skip
    return ResultTable(heads, cells)


def components_table(known: Findings) -> ResultTable | None:
    """Loadings: a row for each variable, a column for each component."""
    found = known.components
    if found is None:
        return None
    heads = [f"component {k + 1}" for k in range(len(found.explained))]
    rows = [(name, *row) for name, row in zip(found.names, found.loadings.tolist(), strict=True)]
    rows.append(("share of the variance", *found.explained.tolist()))
    return ResultTable(("variable", *heads), rows)


def map_table(known: Findings) -> ResultTable | None:
    """A row for each case with its place on the map."""
    points = known.planes.get("map")
    if points is None:
        return None
    heads, columns = ("across", "along"), points.places.T
    return _by_case(known, heads, columns)


def scatter_table(known: Findings) -> ResultTable | None:
    """A row for each case that answered all questions that stand against each other."""
    if not known.against:
        return None
    heads = [one.name for one in known.against]
    return _by_case(known, heads, np.array([one.values for one in known.against]))


def _by_case(known: Findings, heads: Sequence[str], columns: Floats) -> ResultTable:
    """Columns (c, n) of the cases that have them all, after their labels and clusters."""
    labels, own = known.grown.prepared.labels, known.cut.membership - 1
    rows: list[tuple[Cell, ...]] = [
        (labels[case], known.names[int(own[case])].told, *columns[:, case].tolist())
        for case in np.flatnonzero(~np.isnan(columns).any(axis=0)).tolist()
    ]
    return ResultTable(("case", "cluster", *heads), rows)


def drivers_table(known: Findings) -> ResultTable | None:
    """What becomes of the clusters without each variable."""
    if not known.drivers:
        return None
    noise = set(only_noise(list(known.drivers)))
    heads = ("variable", "adjusted Rand without it", "explained", "silhouette gain",
             "contributes little", "why not")  # fmt: skip
    rows = [
        (one.name, one.agreement, one.explained, one.gain, "yes" if one.name in noise else "",
         one.why or None)
        for one in known.drivers
    ]  # fmt: skip
    return ResultTable(heads, rows)


def short_form_table(known: Findings) -> ResultTable | None:
    """The rule, and what the questions reach."""
    form, names = known.form, [who.told for who in known.names]
    if form is None:
        return None
    rows: list[tuple[Cell, ...]] = [("constant", None, None, *form.rule.constants.tolist())]
    for place, name in enumerate(form.questions):
        coefficients = form.rule.coefficients[place].tolist()
        rows.append((name, float(form.means[place]), form.accuracy[place], *coefficients))
    return ResultTable(("question", "if missing", "accuracy with it", *names), rows)


def new_sizes_table(known: Findings) -> ResultTable | None:
    """Sizes of the clusters in both files."""
    if known.new_cases is None:
        return None
    waves = known.new_cases.waves
    return ResultTable.of({
        "cluster": [who.told for who in known.names], "this study": waves.first,
        "new cases": waves.second, "change": waves.change, "lower": waves.lower,
        "upper": waves.upper, "p (Holm)": waves.p_each, "far from all": waves.far,
    })  # fmt: skip


def new_cases_table(known: Findings) -> ResultTable | None:
    """Each new case with its cluster."""
    if known.new_cases is None:
        return None
    return ResultTable.of(assigned_columns(known.new_cases.assigned))
