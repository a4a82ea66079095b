"""Errors name what is at fault, in which file it stands, and what is nearest to it."""

from __future__ import annotations

from pathlib import Path

import pytest

from gorvel.core.base.errors import InputError
from gorvel.core.language.formula import parse_formula
from gorvel.core.plan.file import parse_plan
from gorvel.core.run import keep_study, run_plan
from runs import study

HEAD = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\n'


@pytest.mark.parametrize(
    ("text", "near"),
    [
        ('[[make]]\nname = "m"\nfrom = "use"\nrevers = true\nnumber = true\n', "reverse"),
        ('[[make]]\nname = "m"\nfrom = "use"\noptons = ["x"]\nseparator = ";"\n', "options"),
        ('[[trees]]\nname = "x"\nlinkge = "single"\n', "linkage"),
        ('[[source.join]]\nfile = "u.csv"\nbye = "id"\n', "by"),
        ('[cut]\nbranches = [{ clusters = 2, splits = [1] }]\n', "split"),
        ("[consensus]\nx = 1\n", None), ("[reassign]\ncount = [2]\n", "counts"),
        ("[design]\nstratum = 'a'\n", "strata"), ("[assign]\nfiles = 'a'\n", "file"),
        ("[sweep]\nlinkage = ['ward']\n", "linkages"), ("[kmeans]\nstart = 2\n", "starts"),
        ("[count]\nrule = 'all'\n", "rules"), ("[sauce]\n", "source"),
    ],
)  # fmt: skip
def test_a_wrong_key_of_any_table_is_told_with_the_nearest(text: str, near: str | None) -> None:
    with pytest.raises(InputError) as told:
        parse_plan(HEAD + text, "p.toml")
    assert str(told.value).startswith("p.toml: ")
    assert (f'nearest valid: "{near}"' if near else "no such key") in str(told.value)


@pytest.mark.parametrize(
    ("text", "near"), [("ln(x)", "log"), ("1 + sqr(x)", "sqrt"), ("avg (x, y)", "mean"),
                       ("Mean2(x)", "mean"), ("min(maxi(x), 1)", "max")]
)  # fmt: skip
def test_an_unknown_function_is_named_with_the_nearest(text: str, near: str) -> None:
    with pytest.raises(InputError) as told:
        parse_formula(text)
    assert "the function " in told.value.found
    assert f'nearest: "{near}"' in told.value.expected


@pytest.mark.parametrize(
    "wrong",
    [
        '[[trees]]\nname = "plan"\n', '[[trees]]\nname = "x"\n[[trees]]\nname = "x"\n',
        '[[trees]]\nname = "x"\nlinkage = "ward"\nmeasure = "gower"\nhandling = "mean"\n',
        "[cut]\ncounts = [99]\n", "[cut]\nbranches = [{ clusters = 2, split = [99] }]\n",
        "[reassign]\ncounts = [99]\n",
    ],
)  # fmt: skip
def test_a_wrong_key_found_after_the_data_are_read_is_the_plans(tmp_path: Path, wrong: str) -> None:
    plan = study(tmp_path, plan=HEAD + wrong)
    with pytest.raises(InputError) as told:
        run_plan(plan, tmp_path / "out")
    assert str(told.value).startswith("p.toml: ")
    if "[[trees]]" in wrong:
        with pytest.raises(InputError) as told:
            keep_study(plan, tmp_path / "s.gorvel")
        assert str(told.value).startswith("p.toml: ")
