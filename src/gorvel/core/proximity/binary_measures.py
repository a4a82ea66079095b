"""The registry of measures of yes/no answers, by counts of a pair: see `presence`."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gorvel.core.proximity.presence import (
    Coefficient,
    margins,
    mean_of_shares,
    unlike,
    unlike_unbounded,
    yule_y,
)

_BOTH_ABSENT = "Two cases become similar by what both lack."
_NO_YES = (
    "Cases with few yes answers are far from nearly all others, and two without "
    "any are at distance 0: “none of these” becomes a cluster by convention."
)
_NESTED = (
    "Is 0 or 2 as soon as one cell of the table is empty: cases with different "
    "answers are at 0 where the yes answers of one are among those of the other."
)


@dataclass(frozen=True)
class BinaryMeasure:
    """One of them, as in `measures.Measure`. distance : of the counts a, b, c, d of pairs."""

    key: str
    name: str
    formula: str
    purpose: str
    misleads: str
    source: str
    distance: Coefficient
    are_squares: bool = False
    folds: bool = True


BINARY = (
    BinaryMeasure(
        "simple-matching",
        "simple matching distance",
        "1 − (a + d) / m",
        "The share of answers that differ; yes and no count equally.",
        _BOTH_ABSENT,
        "Sokal & Michener 1958",
        unlike(lambda t: t.ratio(t.a + t.d, t.a + t.d + t.b + t.c)),
        are_squares=True,
    ),
    BinaryMeasure(
        "jaccard",
        "Jaccard distance",
        "1 − a / (a + b + c)",
        "What two cases share of all that either has; what both lack plays no part.",
        _NO_YES,
        "Jaccard 1901",
        unlike(lambda t: t.ratio(t.a, t.a + (t.b + t.c))),
        are_squares=True,
    ),
    BinaryMeasure(
        "dice",
        "Dice distance",
        "1 − 2a / (2a + b + c)",
        (
            "As Jaccard’s, with what is shared counted twice: pairs are in the same order, "
            "so single, complete and minimax linkage give the same clusters."
        ),
        _NO_YES,
        "Dice 1945; Sørensen 1948",
        unlike(lambda t: t.ratio(2 * t.a, 2 * t.a + (t.b + t.c))),
        are_squares=True,
    ),
    BinaryMeasure(
        "russell-rao",
        "Russell–Rao distance",
        "1 − a / m",
        "The share of all answers that both have as yes.",
        "Even equal cases are apart unless they have everything.",
        "Russell & Rao 1940",
        unlike(lambda t: t.ratio(t.a, t.a + t.d + (t.b + t.c))),
        are_squares=True,
        folds=False,
    ),
    BinaryMeasure(
        "rogers-tanimoto",
        "Rogers–Tanimoto distance",
        "1 − (a + d) / (a + d + 2(b + c))",
        ("As simple matching, with differences counted twice: pairs are in the same order."),
        _BOTH_ABSENT,
        "Rogers & Tanimoto 1960",
        unlike(lambda t: t.ratio(t.a + t.d, t.a + t.d + 2 * (t.b + t.c))),
        are_squares=True,
    ),
    BinaryMeasure(
        "sokal-sneath-1",
        "the first Sokal–Sneath distance",
        "1 − 2(a + d) / (2(a + d) + b + c)",
        "As simple matching, with matches counted twice: pairs are in the same order.",
        _BOTH_ABSENT,
        "Sokal & Sneath 1963",
        unlike(lambda t: t.ratio(2 * (t.a + t.d), 2 * (t.a + t.d) + (t.b + t.c))),
        are_squares=True,
    ),
    BinaryMeasure(
        "sokal-sneath-2",
        "the second Sokal–Sneath distance",
        "1 − a / (a + 2(b + c))",
        "As Jaccard’s, with differences counted twice: pairs are in the same order.",
        _NO_YES,
        "Sokal & Sneath 1963",
        unlike(lambda t: t.ratio(t.a, t.a + 2 * (t.b + t.c))),
        are_squares=True,
    ),
    BinaryMeasure(
        "sokal-sneath-3",
        "the third Sokal–Sneath distance",
        "1 / (1 + (a + d) / (b + c))",
        "From the odds of matches to differences; the same numbers as simple matching distance.",
        _BOTH_ABSENT,
        "Sokal & Sneath 1963",
        unlike_unbounded(lambda t: t.a + t.d),
    ),
    BinaryMeasure(
        "sokal-sneath-4",
        "the fourth Sokal–Sneath distance",
        "1 − mean of a/(a+b), a/(a+c), d/(b+d), d/(c+d)",
        ("How well the yes answers and the no answers of one case predict those of the other."),
        "Few yes answers, or few no answers, make it jump.",
        "Sokal & Sneath 1963",
        unlike(mean_of_shares),
    ),
    BinaryMeasure(
        "sokal-sneath-5",
        "the fifth Sokal–Sneath distance",
        "1 − a d / √((a+b)(a+c)(b+d)(c+d))",
        "As the fourth, with the square of the geometric mean of the four shares.",
        "Is 1 as soon as nothing is shared, or nothing absent.",
        "Sokal & Sneath 1963",
        unlike(lambda t: t.ratio(t.a * t.d, margins(t))),
    ),
    BinaryMeasure(
        "kulczynski-1",
        "the first Kulczynski distance",
        "1 / (1 + a / (b + c))",
        "From the odds of what is shared to what is not; the same numbers as Jaccard distance.",
        _NO_YES,
        "Kulczyński 1927",
        unlike_unbounded(lambda t: t.a),
    ),
    BinaryMeasure(
        "kulczynski-2",
        "the second Kulczynski distance",
        "1 − mean of a/(a+b), a/(a+c)",
        "The mean share of each case’s yes answers that the other has too.",
        "A case with one yes is near to all who have it.",
        "Kulczyński 1927",
        unlike(lambda t: (t.ratio(t.a, t.a + t.b) + t.ratio(t.a, t.a + t.c)) / 2.0),
    ),
    BinaryMeasure(
        "ochiai",
        "Ochiai distance",
        "1 − a / √((a + b)(a + c))",
        "The cosine distance of yes/no answers.",
        "A case with one yes is near to all who have it. " + _NO_YES,
        "Ochiai 1957",
        unlike(lambda t: t.ratio(t.a, np.sqrt((t.a + t.b) * (t.a + t.c)))),
        are_squares=True,
    ),
    BinaryMeasure(
        "hamann",
        "Hamann distance",
        "1 − ((a + d) − (b + c)) / m",
        "Matches less differences; runs from 0 to 2: twice the simple matching distance.",
        _BOTH_ABSENT,
        "Hamann 1961",
        unlike(lambda t: t.ratio((t.a + t.d) - (t.b + t.c), t.a + t.d + (t.b + t.c))),
    ),
    BinaryMeasure(
        "yule-q",
        "Yule’s Q distance",
        "1 − (a d − b c) / (a d + b c)",
        "How strongly the answers of two cases go together; runs from 0 to 2.",
        _NESTED,
        "Yule 1900",
        unlike(lambda t: t.ratio(t.a * t.d - t.b * t.c, t.a * t.d + t.b * t.c)),
    ),
    BinaryMeasure(
        "yule-y",
        "Yule’s Y distance",
        "1 − (√(a d) − √(b c)) / (√(a d) + √(b c))",
        (
            "As Yule’s Q, on the scale of a balanced table; runs from 0 to 2: pairs are in "
            "the same order."
        ),
        _NESTED,
        "Yule 1912",
        unlike(yule_y),
    ),
    BinaryMeasure(
        "phi",
        "phi distance",
        "1 − (a d − b c) / √((a+b)(a+c)(b+d)(c+d))",
        "1 − the correlation of two cases’ yes/no answers; runs from 0 to 2.",
        "Cannot reach 0 for cases with different numbers of yes answers.",
        "Yule 1912",
        unlike(lambda t: t.ratio(t.a * t.d - t.b * t.c, margins(t))),
    ),
)
