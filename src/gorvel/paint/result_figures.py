"""The figure of each result that has one, for print, made of what is known."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.results.comparison import as_drawn
from gorvel.core.results.count import index_of, verdict_of
from gorvel.core.results.findings import Findings
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.charts.accuracy import AccuracyChart
from gorvel.paint.charts.alike import AgreementChart, CrossTableChart
from gorvel.paint.charts.board import BoardChart
from gorvel.paint.charts.curve import CurveChart, EvidenceChart
from gorvel.paint.charts.faces import FacesChart
from gorvel.paint.charts.lanes import LanesChart
from gorvel.paint.charts.points import PointsChart, PointsGridChart
from gorvel.paint.charts.purpose import PurposeChart
from gorvel.paint.charts.shaded import ShadedChart, agreement_of_groups
from gorvel.paint.charts.silhouettes import SilhouettesChart
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import LIGHT, Theme


def sheet_of(
    made: Callable[[Theme, float, float], Chart[Any]], width: float, height: float, title: str
) -> Sheet:
    """A sheet of so many millimetres. made : the chart in some looks on so many pixels."""

    def draw(canvas: Canvas, wide: float, high: float) -> None:
        made(LIGHT, wide, high).paint(canvas)

    return Sheet(draw, width, height, title=title)


def _rules(known: Findings) -> Sheet | None:
    board, count, n = known.board, known.cut.clusters, known.grown.tree.n
    if board is None:
        return None
    return sheet_of(
        lambda t, w, h: BoardChart(
            t, w, h, board, count, n, tuple(known.left_out), null=known.null
        ),
        190.0, 150.0, "Number of clusters by rule",
    )  # fmt: skip


def _rule(known: Findings) -> Sheet | None:
    verdict, count = verdict_of(known), known.cut.clusters
    if verdict is None:
        return None
    return sheet_of(
        lambda t, w, h: CurveChart(t, w, h, count, verdict),
        120.0, 70.0, COUNT_RULES[verdict.key].name,
    )  # fmt: skip


def _null(known: Findings) -> Sheet | None:
    index, count, name = index_of(known), known.cut.clusters, COUNT_RULES[known.index].name
    if index is None:
        return None
    return sheet_of(
        lambda t, w, h: EvidenceChart(t, w, h, count, index, name=name),
        120.0, 70.0, f"{name} compared with data without groups",
    )  # fmt: skip


def _purpose(known: Findings) -> Sheet | None:
    found, board, count = known.purpose, known.board, known.cut.clusters
    if found is None or found.why or board is None:
        return None
    ranked = found.ranked(dict(known.weights), board.coming_back(found.counts))
    if PurposeChart(LIGHT, 1.0, 1.0, count, found.counts, ranked).highest is None:
        return None
    return sheet_of(
        lambda t, w, h: PurposeChart(t, w, h, count, found.counts, ranked),
        120.0, 60.0, "Numbers of clusters by purpose",
    )  # fmt: skip


def _alike(known: Findings) -> Sheet | None:
    faced, count = known.faced, known.cut.clusters
    if faced is None:
        return None
    return sheet_of(
        lambda t, w, h: AgreementChart(t, w, h, count, faced.counts),
        120.0, 80.0, "Adjusted Rand index over counts",
    )  # fmt: skip


def _cross(known: Findings) -> Sheet | None:
    met = known.met
    if met is None:
        return None
    found, (rows, columns) = met.crossed, as_drawn(met)
    return sheet_of(
        lambda t, w, h: CrossTableChart(
            t, w, h, found.table, rows, columns, met.names, met.others, found.partner
        ),
        120.0, 80.0, "Cross-tabulation",
    )  # fmt: skip


def _faces(known: Findings) -> Sheet | None:
    met, titles = known.met, known.titles
    if met is None:
        return None
    return sheet_of(
        lambda t, w, h: FacesChart.of(t, w, h, met, titles), 170.0, 130.0, " and ".join(titles)
    )


def _silhouettes(known: Findings) -> Sheet | None:
    found, labels = known.silhouettes, known.grown.prepared.labels
    if found is None:
        return None
    shown = [(found, known.names)]
    return sheet_of(
        lambda t, w, h: SilhouettesChart(t, w, h, shown, labels), 170.0, 110.0, "Silhouettes"
    )


def _groups(known: Findings) -> Sheet | None:
    found = known.replicated
    if found is None:
        return None
    return sheet_of(
        lambda t, w, h: ShadedChart(t, w, h, *agreement_of_groups(found)),
        170.0, 110.0, "Groups",
    )  # fmt: skip


def _short_form(known: Findings) -> Sheet | None:
    forms, form = known.forms, known.form
    if forms is None or form is None:
        return None
    return sheet_of(
        lambda t, w, h: AccuracyChart(t, w, h, forms, form.chance, len(form.questions)),
        120.0, 60.0, "Accuracy by the number of questions",
    )  # fmt: skip


def _profiles(known: Findings) -> Sheet | None:
    shown = known.profiles
    if shown is None or not shown.lanes:
        return None

    def made(theme: Theme, width: float, height: float) -> LanesChart:
        return LanesChart.of(theme, width, height, shown, known.grown, known.cut, known.names)

    tall = 190.0 * made(LIGHT, 900.0, 0.0).foot / 900.0
    return sheet_of(made, 190.0, tall, "What the clusters are like")


def _plane(known: Findings, key: str, title: str) -> Sheet | None:
    points = known.planes.get(key)
    if points is None:
        return None
    return sheet_of(lambda t, w, h: PointsChart(t, w, h, points), 150.0, 120.0, title)


def _map(known: Findings) -> Sheet | None:
    return _plane(known, "map", "Map of the cases")


def _components(known: Findings) -> Sheet | None:
    return _plane(known, "components", "Principal components")


def _scatter(known: Findings) -> Sheet | None:
    names, grid = [one.name for one in known.against], known.grid
    if grid:
        return sheet_of(
            lambda t, w, h: PointsGridChart(t, w, h, names, grid),
            170.0, 150.0, "Questions against each other",
        )  # fmt: skip
    return _plane(known, "scatter", " against ".join(names[::-1]))


FIGURES: dict[str, Callable[[Findings], Sheet | None]] = {
    "rules": _rules, "rule": _rule, "null": _null, "purpose": _purpose, "alike": _alike,
    "who-is-where": _cross, "split-groups": _groups, "short-form": _short_form,
    "profiles": _profiles, "face-to-face": _faces, "silhouettes": _silhouettes,
    "map": _map, "components": _components, "scatter": _scatter,
}  # fmt: skip
