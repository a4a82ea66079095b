"""Every result is made of what is known, without a window, and tells nothing that is not known."""

from __future__ import annotations

import csv
from dataclasses import fields, replace
from functools import partial
from pathlib import Path

import numpy as np
import pytest

from gorvel.core.base.progress import silent
from gorvel.core.cases.prepare import prepare
from gorvel.core.compare.coassociation import together
from gorvel.core.compare.pair import called_after, crossed, stands_at
from gorvel.core.count.checks import Checks
from gorvel.core.count.groups import groups_of
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.indices.silhouettes import silhouettes_of
from gorvel.core.export.count import Counted, write_counting
from gorvel.core.grow.grown import grow_prepared
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.components import components_of
from gorvel.core.profile.leave_one_variable_out import drivers
from gorvel.core.profile.map import case_map
from gorvel.core.profile.planes import Clusters, answers_points, components_points, map_points
from gorvel.core.profile.portrayed import portrayed
from gorvel.core.profile.short_form import short_form
from gorvel.core.profile.shown import Profiles
from gorvel.core.results.findings import Findings
from gorvel.core.results.registry import RESULTS
from gorvel.core.study.tree_pairs import PairAtCut, Side, pair_trees
from gorvel.core.table.reading import read_table
from gorvel.core.tree.cluster_names import identities
from gorvel.core.tree.cuts import cut_at_count
from gorvel.paint.result_figures import FIGURES
from runs import rows


@pytest.fixture(scope="module")
def known(tmp_path_factory: pytest.TempPathFactory) -> Findings:
    """Forty people of four kinds, cut into three, with all that is quickly known of them."""
    rng, folder = np.random.default_rng(8), tmp_path_factory.mktemp("results")
    with (folder / "t.csv").open("w", newline="") as file:
        write = csv.writer(file)
        write.writerow(["id", "branch", "a", "b", "c", "age"])
        for k in range(40):
            write.writerow([f"p{k}", f"branch {k % 3}", *np.round(rng.normal(size=3) + 3 * np.eye(
                4, 3)[k % 4], 3), 20 + k % 17])  # fmt: skip
    source = read_table(folder / "t.csv")
    plan = Plan.model_validate({
        "source": {"file": "t.csv"}, "cases": {"label": "id", "groups": "branch"},
        "variables": {"use": ["a", "b", "c"], "profile": ["age"]},
    })  # fmt: skip
    grown = grow_prepared(prepare(source, plan), plan, {})
    cut, board = cut_at_count(grown.tree, 3), compute_indices(grown)
    names = identities(grown.tree, cut, cut)
    shown = portrayed(source, plan, grown, cut, None, None, False, silent)
    other = plan.with_("tree", linkage="complete")
    faced = pair_trees(source, Side((1, None), plan, grown), Side((2, None), other), silent)
    its = cut_at_count(faced.pair.other.tree, 3)
    found = crossed(faced.pair, cut, its)
    met = PairAtCut(faced, found, names, called_after(found.partner_of_other, names),
              stands_at(faced.pair, cut), None, [])  # fmt: skip
    form = short_form([one for one in shown.told if one.role == "active"], shown.own, 3, 3, silent)
    named = partial(identities, grown.tree, cut)
    clusters = Clusters.of(grown.tree, cut, named, finer=True)
    mapped, against = case_map(grown), [one for one in shown.told if one.name in ("a", "age")]
    planes = {
        "map": map_points(mapped, True, clusters),
        "scatter": answers_points(*against, clusters),
        "components": components_points(components_of(grown), 0, 2, clusters),
    }
    return Findings(
        plan, grown, cut, names, board, rule="calinski-harabasz",
        silhouettes=silhouettes_of(board.sums, 3), known_groups=groups_of(grown, source, plan),
        faced=faced, met=met, titles=("Ward’s", "complete"),
        stability=together(shown.own, 3, [its.membership - 1]), portrayed=shown,
        profiles=Profiles(shown.lanes), components=components_of(grown),
        planes=planes, against=against,
        drivers=drivers(source, plan, grown, shown.own, [0.5, 0.5, 0.5], silent), forms=form,
        form=form,
    )  # fmt: skip


def test_what_is_not_known_is_not_told(known: Findings) -> None:
    needed = {"plan", "grown", "cut", "names"}
    given = {one.name: getattr(known, one.name) for one in fields(known) if one.name in needed}
    nothing = Findings(**given)
    assert [key for key, one in RESULTS.items() if one.table(nothing) is not None] == []
    assert [key for key, figure in FIGURES.items() if figure(nothing) is not None] == []


def test_what_is_known_is_told_in_whole_rows(known: Findings) -> None:
    told = {key: one.table(known) for key, one in RESULTS.items()}
    missing = {key for key, table in told.items() if table is None}
    assert missing == {"null", "purpose", "sweep", "gaps", "imputations", "split-groups",
                       "new-cases", "new-case-clusters"}  # fmt: skip
    for key, table in told.items():
        if table is not None:
            assert {len(row) for row in table.rows} == {len(table.heads)}, key
    count = {"known-groups": 3, "stands-whatever": 3, "face-to-face": 40, "silhouettes": 40,
             "who-is-where": 3, "drivers": 3, "profiles": 4, "map": 40, "scatter": 40}  # fmt: skip
    assert {key: len(told[key].rows) for key in count} == count
    by_branch = np.array([row[1:] for row in told["known-groups"].rows])
    assert by_branch.sum(axis=0).tolist() == [14, 13, 13]
    assert sum(row[1] for row in told["stands-whatever"].rows) == 40
    years, age = [float(20 + k % 17) for k in range(40)], told["scatter"].heads.index("age")
    assert [row[age] for row in told["scatter"].rows] == years  # though drawn a little apart
    moved = sum(row[-1] == "yes" for row in told["face-to-face"].rows)
    assert moved == known.met.crossed.agreement.moved


def test_the_rules_are_those_of_the_file(known: Findings, tmp_path: Path) -> None:
    asked = known.plan.counting
    write_counting(Counted(known.board, Checks(), None), known.grown, asked, [3], tmp_path)
    table = RESULTS["rules"].table(known)
    for told, row in zip(rows(tmp_path / "counts.csv"), table.rows, strict=True):
        assert list(told) == list(table.heads)
        for value, cell in zip(told.values(), row, strict=True):
            if value:
                assert float(value) == pytest.approx(float(cell), rel=1e-4)
    silhouettes = rows(tmp_path / "silhouettes.csv")
    mine = RESULTS["silhouettes"].table(known).rows
    assert [float(one["silhouette"]) for one in silhouettes] == pytest.approx(
        [row[2] for row in mine], rel=1e-4
    )


def test_p_values_are_corrected_where_that_is_asked(known: Findings) -> None:
    plain = RESULTS["tests"].table(known)
    adjusted = RESULTS["tests"].table(replace(known, adjusted=True))
    place = plain.heads.index("p")
    assert adjusted.heads[place] == "p (Holm)"
    for one, other in zip(plain.rows, adjusted.rows, strict=True):
        assert other[place] == one[place]  # one question for profiles: a family of one
        assert one[:place] == other[:place]


@pytest.mark.usefixtures("qapp")
def test_figures_are_drawn_without_a_widget(known: Findings, tmp_path: Path) -> None:
    from gorvel.paint.figure import drawn

    made = {key: figure(known) for key, figure in FIGURES.items()}
    for key, sheet in made.items():
        if sheet is not None:
            drawn(sheet, "svg")(tmp_path / f"{key}.svg")
            assert b"<path" in (tmp_path / f"{key}.svg").read_bytes()
    assert set(FIGURES) <= set(RESULTS)
    assert {key for key, sheet in made.items() if sheet is not None} == {
        "rules", "rule", "alike", "who-is-where", "short-form", "profiles", "face-to-face",
        "silhouettes", "map", "components", "scatter",
    }  # fmt: skip
