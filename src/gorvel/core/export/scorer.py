"""A spreadsheet that gives a new respondent a cluster by formulas, without this program."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import letters
from gorvel.core.export.spreadsheet import Cell, Formula, Look, Sheet, write_book
from gorvel.core.profile.raw_answers import Question
from gorvel.core.profile.short_form import ShortForm

Ints = NDArray[np.int64]
Value = str | float | Formula | None

_ROOM = 300  # respondents that formulas are laid out for
_FIRST = 5  # row (from 0) of the first respondent
_ANSWERS, _RULE = "Respondents", "Rule"
_HEAD, _CONSTANTS, _QUESTIONS = 2, 3, 4  # rows of the sheet of the rule
_MEAN, _COEFFICIENTS = 2, 3  # its columns
_NEVER = -1e12  # the constant of a cluster that is never taken


def write_scorer(
    form: ShortForm, told: Sequence[Question], own: Ints, names: Sequence[str], path: Path
) -> None:
    """See `scorer_sheets`, `write_book`."""
    write_book(scorer_sheets(form, told, own, names), path, (_FIRST, 1))


def scorer_sheets(
    form: ShortForm, told: Sequence[Question], own: Ints, names: Sequence[str]
) -> dict[str, Sheet]:
    """The sheet that takes answers, and the one that holds the rule.

    told : the questions of the form are among them; own : (n,) clusters from 0; names : (k,) of the
    clusters, by number.
    """
    by_name = {one.name: one for one in told}
    layout = _Layout(form, [by_name[name] for name in form.questions], own, names)
    return {_ANSWERS: layout.answers(), _RULE: layout.rule()}


def _row(values: Sequence[Value], look: Look = "plain") -> list[Cell]:
    return [Cell(value, look) for value in values]


def _at(column: int, row: int, last: int | None = None) -> str:
    """A cell, or cells as far as a column, of the sheet of answers."""
    end = "" if last is None else f":{letters(last + 1)}{row + 1}"
    return f"{{{letters(column + 1)}{row + 1}{end}}}"


def _in_rule(column: int, row: int, last: int | None = None) -> str:
    end = "" if last is None else f":${letters(last + 1)}${row + 1}"
    return f"{{{_RULE}!${letters(column + 1)}${row + 1}{end}}}"


@dataclass(frozen=True, eq=False)
class _Layout:
    """Columns of answers: the respondent, q questions, the result, answers as counted, scores."""

    form: ShortForm
    told: Sequence[Question]  # in the order of the questions
    own: Ints
    names: Sequence[str]

    @property
    def _q(self) -> int:
        return len(self.told)

    @property
    def _counted(self) -> int:
        return self._q + 4

    @property
    def _scores(self) -> int:
        return self._counted + self._q

    @property
    def _constants(self) -> list[float]:
        found = self.form.rule.constants
        return [float(value) if np.isfinite(value) else _NEVER for value in found]

    def rule(self) -> Sheet:
        """Constants and coefficients."""
        rows = [
            _row(
                [
                    (
                        "The score of a cluster is its constant plus the sum of answers times "
                        "coefficients; the cluster with the largest score is assigned (linear "
                        "discriminant functions, Fisher 1936)."
                    )
                ],
                "soft",
            ),
            _row(
                [
                    (
                        f"In ten-fold cross-validation {self.form.accuracy[-1]:.1%} of the cases"
                        " were assigned to their own cluster."
                    )
                ],
                "soft",
            ),
            _row(["question", "answer format", "if missing", *self.names], "bold"),
            _row(["constant", None, None, *self._constants]),
        ]
        for j, one in enumerate(self.told):
            coefficients = self.form.rule.coefficients[j].tolist()
            rows.append(_row([one.name, _hint(one), float(self.form.means[j]), *coefficients]))
        return rows

    def answers(self) -> Sheet:
        """Room for respondents; the first rows hold the means of the clusters."""
        names = [one.name for one in self.told]
        head = ["respondent", *names, "cluster", "chance", None]
        head += [f"{name}, counted" for name in names] + [f"score {name}" for name in self.names]
        hints = [None, *map(_hint, self.told), None, "by the rule"]
        rows = [
            _row(["Which cluster does a new respondent belong to?"], "bold"),
            _row(
                [
                    (
                        "Type answers: the cluster with the largest score appears beside them,"
                        " with its probability under the rule. The rows already filled in are"
                        " cluster means and may be overwritten."
                    )
                ],
                "soft",
            ),
            _row([None]),
            _row(head, "bold"),
            _row(hints, "soft"),
        ]
        for place in range(_ROOM):
            given: list[float | None] = [None] * self._q
            name = None
            if place < len(self.names):
                name, given = f"means of {self.names[place]}", self._means(place)
            rows.append([*_row([name, *given]), *self._formulas(_FIRST + place, given)])
        return rows

    def _means(self, cluster: int) -> list[float | None]:
        out: list[float | None] = []
        for one in self.told:
            known = one.values[(self.own == cluster) & ~np.isnan(one.values)]
            codes = _codes(one)
            mean = float(known.mean()) if known.size else None
            if mean is not None and codes is not None:
                mean = codes[0] + mean * (codes[1] - codes[0])
            out.append(mean)
        return out

    def _formulas(self, row: int, given: Sequence[float | None]) -> list[Cell]:
        """The result, and what it comes from, with what they come to."""
        means, q, k = self.form.means.tolist(), self._q, len(self.names)
        counted = [
            mean if value is None else _from_codes(one, value)
            for one, value, mean in zip(self.told, given, means, strict=True)
        ]
        scores = np.array(self._constants) + np.array(counted) @ self.form.rule.coefficients
        answers, span = _at(1, row, q), _at(self._scores, row, self._scores + k - 1)
        named = _in_rule(_COEFFICIENTS, _HEAD, _COEFFICIENTS + k - 1)
        best, empty = int(scores.argmax()), all(value is None for value in given)
        likely = float(1 / np.exp(scores - scores[best]).sum())
        nothing = f'IF(COUNTA({answers})=0;"";'
        out = [
            Cell(Formula(f"{nothing}INDEX({named};1;MATCH(MAX({span});{span};0)))",
                         "" if empty else self.names[best])),
            Cell(Formula(f"{nothing}1/SUMPRODUCT(EXP({span}-MAX({span}))))",
                         "" if empty else likely), "share"),
            Cell(),
        ]  # fmt: skip
        for j, one in enumerate(self.told):
            words = _as_number(one, _at(1 + j, row), _in_rule(_MEAN, _QUESTIONS + j))
            out.append(Cell(Formula(words, float(counted[j]))))
        for c in range(k):
            terms = [_in_rule(_COEFFICIENTS + c, _CONSTANTS)]
            for j in range(q):
                coefficient = _in_rule(_COEFFICIENTS + c, _QUESTIONS + j)
                terms.append(f"{_at(self._counted + j, row)}*{coefficient}")
            out.append(Cell(Formula("+".join(terms), float(scores[c]))))
        return out


def _as_number(one: Question, cell: str, mean: str) -> str:
    """An answer as the rule counts it; the mean where there is none."""
    if one.level != "binary":
        return f"IF(ISNUMBER({cell});{cell};{mean})"
    codes = _codes(one)
    if codes is not None:
        wide = f"({cell}-{codes[0]!r})/{codes[1] - codes[0]!r}"
        return f"IF(ISNUMBER({cell});{wide};{mean})"
    absent, present = (word.lower().replace('"', '""') for word in one.words)
    words = f'IF(LOWER({cell})="{present}";1;IF(LOWER({cell})="{absent}";0;{mean}))'
    return f'IF(ISNUMBER({cell});{cell};IF({cell}="";{mean};{words}))'


def _codes(one: Question) -> tuple[float, float] | None:
    """Of a binary question answered in numbers, such as 1 and 2, the absent one first."""
    try:
        absent, present = (float(word) for word in one.words)
    except ValueError:
        return None
    return (absent, present) if one.level == "binary" else None


def _from_codes(one: Question, value: float) -> float:
    codes = _codes(one)
    return value if codes is None else (value - codes[0]) / (codes[1] - codes[0])


def _hint(one: Question) -> str:
    """How a question is answered."""
    if one.level == "binary":
        return " or ".join(word for word in reversed(one.words) if word)
    known = one.values[~np.isnan(one.values)]
    return f"{known.min():g} to {known.max():g}"
