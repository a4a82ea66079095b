"""What is measured: the cases kept, or the variables, and what a measure asks of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.linkage.folding import Folded, fold
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.profiles import whitening_of
from gorvel.core.table.table import Level

Floats = NDArray[np.float64]
_MOST_NAMED = 6


@dataclass(frozen=True)
class Variable:
    """An active variable as it is used."""

    name: str
    level: Level
    importance: float = 1.0
    asymmetric: bool = False


@dataclass(frozen=True)
class Dropped:
    """A case left out.

    case : number in the file, from 1; reason : in words; lacking : for missing answers.
    """

    case: int
    label: str
    reason: str
    lacking: bool = False


@dataclass(frozen=True, eq=False)
class Prepared:
    """What is measured: the cases kept (or the variables, when the tree is of variables).

    file : name of the source; read : rows of the source (of its group, when split);
    numbers : (n,) case numbers in the source, from 1; labels : n;
    weights : (n,) or None; variables : p;
    raw : (n, p) answers as codes, NaN where missing; answers : scaled (None for a matrix source);
    proximities : (n, n), only for a matrix source; sequence : (n,) the place of each case, from 0,
    in the order in which only neighbours join, None where all may; chi_square : of a cross table,
    whose rows these are; weights are then their totals.
    """

    file: str
    read: int
    numbers: NDArray[np.int64]
    labels: tuple[str, ...]
    weights: Floats | None
    variables: tuple[Variable, ...]
    raw: Floats | None
    answers: Answers | None
    proximities: Floats | None
    of: str
    dropped: tuple[Dropped, ...]
    cautions: tuple[Caution, ...]
    sequence: NDArray[np.int64] | None = None
    chi_square: float | None = None

    @property
    def n(self) -> int:
        return len(self.labels)

    def labelled(self, labels: Sequence[str]) -> Prepared:
        """The same cases under other labels; labels : of every row that was read, in file order.

        Variables that take the place of cases keep their names.
        """
        if self.of == "cases":
            names = tuple(labels[number - 1] for number in self.numbers.tolist())
        else:
            names = self.labels
        dropped = tuple(replace(one, label=labels[one.case - 1]) for one in self.dropped)
        other = replace(self, labels=names, dropped=dropped)
        if "equal_rows" in self.__dict__:
            other.__dict__["equal_rows"] = self.equal_rows
        return other

    @cached_property
    def equal_rows(self) -> Folded | None:
        """Cases with equal answers; None when all differ, some have gaps, or it is a matrix."""
        return None if self.answers is None else fold(self.answers.values, self.weights)

    @property
    def measurable_spread(self) -> bool:
        """Can sums of squares be had: complete numbers of cases."""
        return not self.no_spread

    @property
    def no_spread(self) -> str:
        """Why there are no sums of squares, in words; "" where there are."""
        if self.of != "cases":
            return "sums of squares are those of cases, and this is a tree of variables"
        if self.answers is None:
            return "a proximity matrix has no variables"
        if any(variable.level == "nominal" for variable in self.variables):
            return "nominal variables have no variance"
        if np.isnan(self.answers.values).any():
            return "some answers are missing"
        return ""


def measurable(prepared: Prepared, measured_by: str) -> Prepared:
    """Checked for what a measure cannot take, and whitened where it asks for that.

    measured_by : its key.

    Raises
    ------
    InputError : a value below 0 for counts, variables that depend on each other.
    """
    measure, answers = MEASURES[measured_by], prepared.answers
    assert answers is not None
    names = [variable.name for variable in prepared.variables]
    file = prepared.file
    below = np.argwhere(answers.values < 0) if measure.kind == "counts" else np.empty((0, 2))
    if below.size:
        i, j = (int(k) for k in below[0])
        place = f'case "{prepared.labels[i]}", variable "{names[j]}"'
        found = f"{answers.values[i, j]:.6g}"
        expected = f"0 or more, after scaling, for {measure.name}"
        raise InputError(found, expected, place=place, file=file)
    if measure.key != "mahalanobis" or prepared.n < 2:
        return prepared
    whitening, dependent = whitening_of(answers.values)
    if dependent:
        shown = ", ".join(f'"{names[j]}"' for j in dependent[:_MOST_NAMED])
        more = f" and {len(dependent) - _MOST_NAMED} more" if len(dependent) > _MOST_NAMED else ""
        raise InputError(
            "a singular covariance: these depend on each other, or do not vary",
            f"one of them left out, for {measure.name}",
            place=f"variables {shown}{more}",
            file=file,
        )
    return replace(prepared, answers=replace(answers, whitening=whitening))


def sequence_of(
    sequence: NDArray[np.int64] | None, rows: NDArray[np.int64]
) -> NDArray[np.int64] | None:
    """The places of some cases in an order of their own; None where there is none."""
    if sequence is None:
        return None
    return np.argsort(np.argsort(sequence[rows], kind="stable"), kind="stable")


def transposed(prepared: Prepared) -> Prepared:
    """The variables take the place of the cases; weights and importances do not apply."""
    assert prepared.answers is not None
    values = prepared.answers.values.T.copy()
    variables = tuple(Variable(label, "interval") for label in prepared.labels)
    names = tuple(variable.name for variable in prepared.variables)
    ones = np.ones(len(variables))
    level: Level = "interval"
    own = prepared.answers
    answers = Answers.of(
        values, ones, (level,) * len(variables), (False,) * len(variables), own.power, own.root
    )
    return Prepared(
        prepared.file, prepared.read, np.arange(1, len(names) + 1), names, None, variables,
        None, answers, None, "variables", prepared.dropped, prepared.cautions,
    )  # fmt: skip
