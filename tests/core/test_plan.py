"""Plans are read, checked, changed and written without loss."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.count_rules import USUAL
from gorvel.core.plan.file import load_plan, parse_plan, plan_text, save_plan
from gorvel.core.plan.kinds import HANDLINGS, nearest
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.main import DEMO

NAMES = st.lists(
    st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), min_size=1, max_size=8),
    min_size=1, max_size=5, unique=True,
)  # fmt: skip


@given(
    use=NAMES,
    title=st.text(max_size=20),
    linkage=st.sampled_from(sorted(LINKAGES)),
    measure=st.sampled_from(sorted(MEASURES)),
    scale=st.sampled_from(sorted(SCALINGS)),
    handling=st.sampled_from(["drop", "stop", "pairwise"]),
    counts=st.lists(st.integers(1, 99), max_size=3),
    heights=st.lists(st.floats(0, 1e9), max_size=2),
    importance=st.floats(1e-3, 1e3),
    power=st.floats(0.5, 9),
    beta=st.floats(-1, 0.99),
)
def test_a_plan_comes_back_as_it_was_written(
    use: list[str], title: str, linkage: str, measure: str, scale: str, handling: str,
    counts: list[int], heights: list[float], importance: float, power: float, beta: float,
) -> None:  # fmt: skip
    plan = parse_plan('gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a"]\n', "p.toml")
    told = {use[0]: importance} if MEASURES[measure].importances else {}
    plan = plan.with_("variables", use=use, ordinal=use[:1], importance=told)
    plan = plan.with_("tree", linkage=linkage, beta=beta)
    plan = plan.with_("proximity", measure=measure, power=power, root=power)
    handling = handling if MEASURES[measure].gaps else "stop"
    plan = plan.with_("scale", method=scale).with_("missing", handling=handling)
    plan = plan.with_("cut", counts=counts, heights=heights)
    plan = plan.model_copy(update={"title": title})
    assert parse_plan(plan_text(plan), "p.toml") == plan.model_copy(
        update={"gorvel": 1, "title": title}
    )


@pytest.mark.parametrize("name", ["readers", "stops", "services"])
def test_demo_plans_survive_saving(tmp_path: Path, name: str) -> None:
    plan = load_plan(DEMO / f"{name}.toml")
    save_plan(plan, tmp_path / "p.toml")
    assert load_plan(tmp_path / "p.toml") == plan
    assert [p.name for p in tmp_path.iterdir()] == ["p.toml"]


def test_defaults_are_those_of_the_contract() -> None:
    text = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a"]\n'
    plan = parse_plan(text, "p.toml").understood()
    assert plan["missing"]["handling"] == "drop"
    assert plan["scale"] == {"method": "none", "by": "variables", "binary": "keep"}
    assert plan["proximity"]["measure"] == "squared-euclidean"
    tree = {
        "of": "cases", "linkage": "ward", "beta": -0.25, "proximities_are": "squares",
        "neighbours": None,
    }  # fmt: skip
    assert plan["tree"] == tree
    assert plan["cut"]["counts"] == [2, 3, 4, 5]
    assert plan["count"] is None
    gower = parse_plan(text + '[proximity]\nmeasure = "gower"\n', "p.toml")
    assert gower.understood()["missing"]["handling"] == "pairwise"
    counted = parse_plan(text + "[count]\nfrom = 3\n", "p.toml").understood()["count"]
    assert (counted["from"], counted["to"], counted["rules"]) == (3, 10, list(USUAL))


def test_the_plan_of_the_documentation_is_a_plan() -> None:
    text = (DEMO.parent / "docs" / "plan-file.md").read_text(encoding="utf-8")
    block = re.search(r"```toml\n(.*?)```", text, re.DOTALL)
    assert block
    others = "sheet|sheets|table|query|codebook"  # of other kinds of files
    plan = parse_plan(re.sub(rf"(?m)^({others}) = .*$", "", block[1]), "plan-file.md")
    shown = set(re.findall(r"^([a-z_]+) =", block[1], re.MULTILINE))
    understood = plan.understood()
    parts = [
        *(part for part in understood.values() if isinstance(part, dict)),
        *understood["trees"],
    ]
    known = {key for part in parts for key in part}
    assert known | {"gorvel", "title"} == shown


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('[proximity]\nmeasure = "cosine"', r"importance.a: 2; expected no importances"),
        ('[proximity]\nmeasure = "mahalanobis"\n[missing]\nhandling = "pairwise"', "importance"),
        ("[tree]\nbeta = 1.0", r"\[tree\] beta"),
        ("[proximity]\npower = 0", r"\[proximity\] power"),
    ],
)
def test_what_does_not_go_together_is_refused(text: str, said: str) -> None:
    head = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a"]\n'
    with pytest.raises(InputError, match=said):
        parse_plan(head + "importance = { a = 2.0 }\n" + text, "p.toml")
    with pytest.raises(InputError, match=r"\[missing\] handling: \"pairwise\" with mahalanobis"):
        parse_plan(
            head + '[proximity]\nmeasure = "mahalanobis"\n[missing]\nhandling = "pairwise"', "p"
        )


def test_a_change_that_does_not_fit_is_refused() -> None:
    plan = load_plan(DEMO / "readers.toml")
    with pytest.raises(InputError, match=r"\[tree\] linkage"):
        plan.with_("tree", linkage="chain")
    with pytest.raises(InputError, match="each entry once"):
        plan.with_("variables", use=["visits", "visits"])


@pytest.mark.parametrize(
    ("word", "valid", "best"),
    [("wards", LINKAGES, "ward"), ("Zscore", SCALINGS, "zscore"), ("pair", HANDLINGS, "pairwise")],
)
def test_the_nearest_word_is_offered(word: str, valid: list[str], best: str) -> None:
    assert nearest(word, valid) == best


@pytest.mark.parametrize(
    ("part", "key", "said"),
    [
        ("sweep", 'measures = ["euclidean", "manhatan"]', '"manhatan"; expected one of'),
        ("sweep", 'linkages = ["wrd"]', '(nearest: "ward")'),
        ("sweep", 'scales = ["zscor"]', '"zscor"; expected one of none, zscore'),
        ("sweep", 'handlings = ["men"]', '(nearest: "mean")'),
        ("count", 'rules = ["dun"]', '"dun"; expected one of'),
        ("cut", 'colours.2 = ["#123456", "red"]', '"red"; expected a colour such as "#2F66B5"'),
    ],
)
def test_a_wrong_word_in_a_list_is_named_with_the_nearest(part: str, key: str, said: str) -> None:
    text = f'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a"]\n[{part}]\n{key}\n'
    with pytest.raises(InputError) as refused:
        parse_plan(text, "p.toml")
    assert said in str(refused.value)
    assert "\\n" not in str(refused.value)
    assert "('" not in str(refused.value)
    assert '("' not in str(refused.value)
