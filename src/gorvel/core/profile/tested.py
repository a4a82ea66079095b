"""Tests of each question, as they are told: in order, corrected where asked, under the design."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gorvel.core.profile.differences import Difference, differences, holm
from gorvel.core.profile.portrayed import Portrayed
from gorvel.core.profile.raw_answers import Question


@dataclass(frozen=True)
class Tested:
    """One test of a question.

    deff : the mean design effect of its means, or shares, in the clusters; NaN for none.
    """

    told: Question
    test: Difference
    deff: float

    @property
    def plain(self) -> bool:
        """Does the test know nothing of a design?"""
        return self.test.test in ("f", "chi-square")


def tested(known: Portrayed) -> list[Tested]:
    """Questions for profiles first, since they can test; in each part the largest effects first."""
    if known.cut.clusters < 2:
        return []
    out: list[Tested] = []
    for told in known.told:
        for test in differences(told, known.own, known.cut.clusters, known.masses, known.design):
            one = Tested(told, test, float("nan"))
            out.append(one if one.plain else Tested(told, test, _deff(known, told)))
    return sorted(
        out, key=lambda row: (row.told.role == "active", -np.nan_to_num(row.test.effect, nan=-1.0))
    )


def p_told(rows: Sequence[Tested], adjusted: bool) -> list[float]:
    """(rows,) p values, NaN where a test is withheld; adjusted : corrected for their number.

    Only questions for profiles are corrected; tests that know the design are a family of their own.
    """
    out = np.array([float("nan") if row.test.withheld else row.test.p for row in rows], np.float64)
    if adjusted:
        for plain in (True, False):
            places = [place for place, row in enumerate(rows)
                      if row.told.role == "profile" and row.plain == plain]  # fmt: skip
            out[places] = holm(out[places])
    return [float(p) for p in out]


def _deff(known: Portrayed, told: Question) -> float:
    found = [lane.deff for lane in known.lanes if lane.name == told.name]
    all_ = np.concatenate(found) if found else np.empty(0)
    all_ = all_[np.isfinite(all_)]
    return float(all_.mean()) if all_.size else float("nan")
