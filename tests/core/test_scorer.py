"""The spreadsheet that scores respondents: its formulas worked out from the file, and the core."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import letters
from gorvel.core.export.scorer import write_scorer
from gorvel.core.profile.raw_answers import Question
from gorvel.core.profile.short_form import ShortForm, short_form
from reference.formulas import read_book, worked_out

NAMES = ["A “quiet”", "B & C", "D <3"]


def made_up(seed: int) -> tuple[list[Question], np.ndarray, ShortForm]:
    rng = np.random.default_rng(seed)
    own = rng.integers(0, 3, 40)
    own[:3] = (0, 1, 2)
    x = rng.normal(size=(40, 4)) + 2 * rng.normal(size=(3, 4))[own]
    x[:, 1] = x[:, 1] > 0
    x[:, 2] = x[:, 2] > 0
    x[rng.random((40, 4)) < 0.1] = np.nan
    told = [
        Question("how far, km", "interval", "active", x[:, 0]),
        Question("comes", "binary", "active", x[:, 1], ("No", 'Yes, "often"')),
        Question("coded", "binary", "active", x[:, 2], ("1", "2")),
        Question("x<y & z", "ordinal", "active", x[:, 3]),
    ]
    form = short_form(told, own, 3, 4)
    assert form is not None
    return told, own, form


def typed(one: Question, value: float) -> object:
    """An answer as somebody types it."""
    if np.isnan(value):
        return None
    if one.name == "comes":
        return one.words[int(value)].upper()
    return float(one.words[int(value)]) if one.name == "coded" else float(value)


@pytest.mark.slow
@pytest.mark.parametrize("kind", [".xlsx", ".ods"])
@given(seed=st.integers(0, 10**6))
@settings(max_examples=8, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_formulas_give_what_the_rule_gives(tmp_path: Path, kind: str, seed: int) -> None:
    told, own, form = made_up(seed)
    path = tmp_path / f"score{kind}"
    write_scorer(form, told, own, NAMES, path)
    values, formulas = read_book(path)
    by_name = {one.name: one for one in told}
    asked = [by_name[name] for name in form.questions]
    q = len(asked)
    for column in range(q + 1, q + 3):  # as written, before anything is worked out
        for row in range(6, 9):
            cell = f"{letters(column + 1)}{row}"
            found = worked_out(values, formulas, "Respondents", cell)
            assert found == (pytest.approx(values["Respondents", cell]) if column > q + 1
                             else values["Respondents", cell])  # fmt: skip
    assert worked_out(values, formulas, "Respondents", f"{letters(q + 2)}9") == ""
    for case in range(0, 40, 5):
        answers = np.array([one.values[case] for one in asked])
        for j, one in enumerate(asked):
            values["Respondents", f"{letters(2 + j)}12"] = typed(one, answers[j])
        found = worked_out(values, formulas, "Respondents", f"{letters(q + 2)}12")
        if np.isnan(answers).all():
            assert found == ""
            continue
        whole = np.where(np.isnan(answers), form.means, answers)
        assert found == NAMES[int(form.rule.clusters(whole[None])[0])]
        scores = whole @ form.rule.coefficients + form.rule.constants
        chance = worked_out(values, formulas, "Respondents", f"{letters(q + 3)}12")
        assert chance == pytest.approx(1 / np.exp(scores - scores.max()).sum())
    assert [values["Rule", f"{letters(4 + k)}3"] for k in range(3)] == NAMES


def test_both_kinds_hold_the_same(tmp_path: Path) -> None:
    told, own, form = made_up(7)
    books = []
    for kind in (".xlsx", ".ods"):
        write_scorer(form, told, own, NAMES, tmp_path / f"s{kind}")
        values, formulas = read_book(tmp_path / f"s{kind}")
        known = {key: value for key, value in values.items() if value not in (None, "")}
        books.append((known, formulas))
    assert books[0][1] == books[1][1]
    assert books[0][0].keys() == books[1][0].keys()
    for key, value in books[0][0].items():
        same = books[1][0][key]
        assert same == (pytest.approx(value) if isinstance(value, float) else value)


def test_another_kind_of_file_is_refused(tmp_path: Path) -> None:
    told, own, form = made_up(1)
    with pytest.raises(InputError, match=r"xlsx or \.ods"):
        write_scorer(form, told, own, NAMES, tmp_path / "s.csv")
    with pytest.raises(InputError, match=r"[Nn]o such"):
        write_scorer(form, told, own, NAMES, tmp_path / "none" / "s.ods")
