"""What each check of the number of clusters comes to: the answer, and what it rests on."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gorvel.core.base.numbers import counted, fixed, p_words, sentence
from gorvel.core.count.null.structure import Finding
from gorvel.core.count.resampling.order_stability import Orders
from gorvel.core.count.resampling.splits import SplitTests
from gorvel.core.count.resampling.support import Support

_TOLD = 12  # splits told one by one
_UNSHAKEN = 0.05  # p-value
_STRONG = 0.95  # support


class CheckWords(NamedTuple):
    """answer : in a few words; words : what it rests on, in sentences."""

    answer: str
    words: str


def structure_words(
    hopkins: Finding | None, shuffled: Finding | None, own: float | None, of: str = "cases"
) -> CheckWords:
    """Is there anything to count? of : what the tree is of."""
    parts, answer = [], "Not computed"
    if hopkins is not None and hopkins.value is not None and hopkins.p is not None:
        told = f"no evidence against uniform noise ({p_words(hopkins.p)})."
        dense = hopkins.p < _UNSHAKEN
        answer = "Denser in places than noise" if dense else "No denser than noise"
        if dense:
            told = f"the {of} are denser in places than uniform noise ({p_words(hopkins.p)})."
            told += " So is any bell shape: it does not tell whether there are groups."
        parts.append(f"Hopkins statistic {fixed(hopkins.value, 2)} (0.5 for uniform noise): {told}")
    elif hopkins is not None:
        parts.append(f"Hopkins statistic: {hopkins.why}.")
    if shuffled is not None and shuffled.value is not None:
        apart = shuffled.p is not None and shuffled.p < _UNSHAKEN
        told = "do not reach" if apart else "reach"
        known = "Cophenetic correlation" + ("" if own is None else f" {fixed(own, 2)}")
        parts.append(
            (
                f"{known}; trees of shuffled answers have {fixed(shuffled.value, 2)} on average "
                f"and {told} it ({p_words(_or_nan(shuffled.p))}, {shuffled.rounds} trees)."
            )
            + (
                " So the variables are associated, through groups or mere correlation."
                if apart
                else " No evidence that the variables are associated."
            )
        )
    elif shuffled is not None:
        parts.append(f"Shuffled answers: {shuffled.why}.")
    return CheckWords(answer, "\n".join(parts))


def _or_nan(p: float | None) -> float:
    return float("nan") if p is None else p


def splits_words(tests: SplitTests) -> CheckWords:
    """What the tests of splits come to."""
    if not tests.tests:
        return CheckWords("Not tested", f"{sentence(tests.why)}.")
    holds = sum(test.holds for test in tests.tests)
    if not holds:
        first = tests.tests[0]
        return CheckWords(
            "The first split is not significant",
            f"Against one normal distribution, {p_words(first.p)}. That is no proof of one cluster:"
            " in small samples only groups far apart are seen.",
        )
    are = "is" if holds == 1 else "are"
    each = [
        f"Join {test.join + 1}, {test.cases:,} cases: {p_words(test.p)},"
        f" {'significant' if test.holds else 'not significant'}."
        for test in tests.tests[:_TOLD]
    ]
    return CheckWords(
        f"{holds} of {counted(len(tests.tests), 'split')} {are} significant",
        "Tested from the top against one normal distribution (family-wise level 5%):"
        f" {counted(tests.clusters, 'cluster')}.\n" + "\n".join(each),
    )


def support_words(support: Support) -> CheckWords:
    """How many branches come back, and how far that is to be believed."""
    known = support.shown[~np.isnan(support.shown)]
    strong = int((known >= _STRONG).sum())
    where = "The Tree page shows it at each join."
    if support.of == "cases":
        return CheckWords(
            f"{strong:,} of {counted(len(known), 'branch', 'branches')} are recovered",
            f"In at least 95% of {support.rounds:,} resamples of the cases (Jaccard index 0.75 or "
            f"more). Cases are resampled as in a simple random sample. {where}",
        )
    plain = int((support.plain[~np.isnan(support.plain)] >= _STRONG).sum())
    return CheckWords(
        f"{plain:,} of {counted(len(known), 'branch', 'branches')} are recovered",
        f"In at least 95% of the resamples; {strong:,} have an approximately unbiased support "
        "of 95%, as about 6% of branches do in data of 30 variables without groups. "
        f"{where}",
    )


def orders_words(orders: Orders, ties: int, count: int, of: str = "cases") -> CheckWords:
    """How far the order of the cases decides. of : what the tree is of."""
    if count not in orders.counts:
        return CheckWords("Not checked here", f"The {of} were not reordered at {count} clusters.")
    place = orders.counts.index(count)
    mean, least = 100 * orders.mean[place], 100 * orders.lowest[place]
    affects = "affects" if ties == 1 else "affect"
    decided = f"{counted(ties, 'tie')} {affects} the tree" if ties else "No tie affects the tree"
    return CheckWords(
        f"{fixed(mean, 1)}% of pairs stay together",
        f"{decided}. At {counted(count, 'cluster')}, so many within-cluster pairs stay together"
        f" when the {of} are reordered ({fixed(least, 1)}% in the worst of {orders.orders}).",
    )
