"""What columns hold and what they could become, in words."""

from __future__ import annotations

from collections.abc import Sequence

from gorvel.core.base.numbers import counted, number
from gorvel.core.column_detection.proposals import Proposal
from gorvel.core.derive.bands import band_of, widest
from gorvel.core.derive.numbers import the_number
from gorvel.core.derive.times import PER_HOUR
from gorvel.core.plan.making import MakePlan

_DATES = {
    "days": "days since the first", "year": "the year", "month": "the month, 1 to 12",
    "weekday": "the weekday, 1 is Monday",
}  # fmt: skip
_TIMES = {kind: f"in {kind}" for kind in PER_HOUR}
_BANDS = {"middle": "the middle of each band", "order": "1, 2, 3 by lower limit"}
_SEPARATORS = {"\n": "line break", "\t": "tab"}


def choices_of(proposal: Proposal) -> dict[str, str]:
    """In which ways it can be made, in words by kind; empty where there is one."""
    return {"bands": _BANDS, "date": _DATES, "time": _TIMES}.get(proposal.becomes, {})


def seen_words(proposal: Proposal) -> str:
    """The answers as they came."""
    same = f", the same in {len(proposal.columns)} columns" if len(proposal.columns) > 1 else ""
    match proposal.becomes:
        case "order" | "words" | "yes-no":
            return f"{len(proposal.answers)} words{same}"
        case "several":
            mark = _SEPARATORS.get(proposal.separator, f"“{proposal.separator}”")
            return f"several answers per cell, separated by {mark}"
        case "checklist":
            return f"ticked or empty, in {len(proposal.columns)} columns"
        case "bands":
            return _ends(_by_start(proposal.answers)) + same
        case "number":
            return _ends(_by_number(proposal.answers))
        case "missing":
            gone = sorted({cell for cells in proposal.missing.values() for cell in cells})
            return ", ".join(f"“{cell}”" for cell in gone[:3]) + (" …" if len(gone) > 3 else "")
        case "text":
            return f"free text, for example “{_short(proposal.answers[0])}”"
    return _ends(sorted(proposal.answers, key=lambda answer: (len(answer), answer)))


def _by_start(answers: Sequence[str]) -> list[str]:
    """Bands from the lowest on."""
    starts = {answer: band.start for answer in answers if (band := band_of(answer)) is not None}
    return sorted(starts, key=starts.__getitem__)


def _by_number(answers: Sequence[str]) -> list[str]:
    """Numbers from the lowest on, whatever their decimal mark."""
    found = {answer: value for answer in answers if (value := the_number(answer)) is not None}
    return sorted(found, key=found.__getitem__)


def _ends(ordered: Sequence[str]) -> str:
    """The first and the last of some answers."""
    if len(ordered) < 2:
        return "".join(ordered)
    return f"{_short(ordered[0])} … {_short(ordered[-1])}"


def assumed_words(proposal: Proposal, decimal: str = ".") -> str:
    """What open bands are taken for, which is an assumption; "" where there are none."""
    bands = {answer: band for answer in proposal.answers
             if (band := band_of(answer, decimal)) is not None}  # fmt: skip
    wide = widest(list(bands.values()))
    told = [
        f"“{_short(answer)}” = {number(middle)}"
        for answer, band in bands.items()
        if (band.end is None or band.below) and (middle := band.middle(wide)) is not None
    ]
    if proposal.becomes != "bands" or proposal.kind == "order" or not told:
        return ""
    half = "" if wide is None else f" (half of the widest band, {number(wide)}, from its limit)"
    return f"Assumed for open bands: {', '.join(told)}{half}."


def _short(words: str, most: int = 24) -> str:
    return words if len(words) <= most else f"{words[: most - 1].rstrip()}…"


def becomes_words(proposal: Proposal) -> str:
    """What it would be made."""
    match proposal.becomes:
        case "order":
            last = proposal.first + len(proposal.words) - 1
            return f"{proposal.first} to {last}, in this order"
        case "words":
            return f"1 to {len(proposal.words)}, in the order you give"
        case "several" | "checklist":
            return f"{len(proposal.options)} yes/no variables"
        case "number":
            return "a number"
        case "yes-no":
            return f"yes/no: “{proposal.words[1]}” is yes"
        case "missing":
            return "read as missing"
        case "identifier":
            return "labels the cases"
        case "text":
            return "left unchanged"
    return choices_of(proposal)[proposal.kind]


def whole_words(proposals: Sequence[Proposal], columns: int) -> str:
    """How many of the columns are answers in words."""
    words = sum(len(p.columns) for p in proposals if p.makes_something)
    if not words:
        return "No column needs converting."
    if not any(p.makes_something and p.sure for p in proposals):
        return f"{words:,} of {counted(columns, 'column')} could be converted, too"
    hold = "holds" if words == 1 else "hold"
    of = counted(columns, "column")
    return f"{words:,} of {of} {hold} text answers or numbers with symbols"


def made_words(make: MakePlan) -> str:
    """How a variable was made."""
    needed = f", at least {make.at_least} answered" if make.at_least else ""
    match make.way:
        case "order":
            turned = ", reverse-scored" if make.reverse else ""
            return f"“{make.from_}”, 1 to {len(make.order or ())}{turned}"
        case "separator":
            return f"the answers in “{make.from_}”, each yes or no"
        case "number":
            return f"the number in “{make.from_}”"
        case "bands":
            return f"“{make.from_}”: {_BANDS[make.bands or 'middle']}"
        case "date":
            return f"“{make.from_}”: {_DATES[make.date or 'days']}"
        case "time":
            return f"the time in “{make.from_}”, {_TIMES[make.time or 'hours']}"
        case "mean" | "sum":
            return f"{make.way} of {', '.join(make.mean or make.sum or ())}{needed}"
    return make.formula or ""
