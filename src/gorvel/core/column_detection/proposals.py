"""What could be made of the columns of a survey: one proposal for columns that answer alike."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Literal

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.column_detection.columns import (
    Column,
    Look,
    look_at,
    look_at_all,
    numbered,
    scaled_words,
)
from gorvel.core.column_detection.vocabulary import vocabulary
from gorvel.core.language.tokens import named
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table

_AT_ONCE = 200  # columns that are looked at between two reports
Becomes = Literal[
    "order", "several", "checklist", "number", "bands", "date", "time", "yes-no", "words",
    "missing", "identifier", "text",
]  # fmt: skip


@dataclass(frozen=True)
class Proposal:
    """What could become of some columns.

    becomes : of what kind; columns : of the file, in their order; answers : as they came, the most
    frequent first, with `counts`; words : in their order, for those that have one, or are to have;
    separator, options : of several answers in a cell; format : of dates, None for ISO; missing :
    cells by column that say that there is no answer; correct : what cells by column are read as;
    scale : what the words tell, such as "agreement"; sure : it is made unless it is refused;
    reversed : columns that are turned round; kind : "middle" or "order" of bands, "days", "year",
    "month", "weekday" of dates, "hours", "minutes", "seconds" of times; names : of what is made, by
    column, where they were chosen.
    """

    becomes: Becomes
    columns: tuple[str, ...]
    answers: tuple[str, ...] = ()
    counts: tuple[int, ...] = ()
    words: tuple[str, ...] = ()
    separator: str = ""
    options: tuple[str, ...] = ()
    format: str | None = None
    missing: dict[str, tuple[str, ...]] = field(default_factory=dict)
    scale: str = ""
    correct: dict[str, dict[str, str]] = field(default_factory=dict)
    sure: bool = True
    reversed: tuple[str, ...] = ()
    kind: str = ""
    names: dict[str, str] = field(default_factory=dict)

    @property
    def makes_something(self) -> bool:
        """Are variables made, or is it only said what the columns are?"""
        return self.becomes not in ("missing", "identifier", "text") and not (
            self.becomes == "words" and len(self.words) < 2
        )

    def makes(self, taken: Sequence[str] = ()) -> list[MakePlan]:
        """The entries of a plan that carry it out, one for each column.

        taken : names of columns and entries; those of options go on from that of their column.
        """
        names = [*taken]
        out = []
        for column in self.columns if self.makes_something else ():
            name = self.names.get(column) or self.usual_name(column)
            if self.becomes not in ("several", "checklist"):
                name = _free(name, names)
            names.append(name)
            right = self.correct.get(column)
            way = self._way(column) | ({"correct": dict(right)} if right else {})
            out.append(MakePlan.model_validate({"name": name} | way))
        return out

    def usual_name(self, column: str) -> str:
        """What is made of a column is called so unless another name is chosen."""
        if self.becomes in ("several", "checklist"):
            return column
        ends = {
            "order": self.ends, "words": self.ends, "number": "number",
            "bands": "rank" if self.kind == "order" else "middle", "yes-no": "yes",
            "date": self.kind or "days", "time": self.kind or "hours",
        }  # fmt: skip
        return f"{column} ({ends[self.becomes]})"

    @cached_property
    def first(self) -> int:
        """The number of the first word: 1, or the one that stands with it where all have one."""
        found = numbered(self.words) if self.becomes == "order" else None
        own = found is not None and tuple(found[k] for k in sorted(found)) == self.words
        return min(found) if found is not None and own else 1

    @property
    def ends(self) -> str:
        """The numbers of the first and the last word, such as 1–5."""
        return f"{self.first}–{self.first + len(self.words) - 1}"

    def _way(self, column: str) -> dict[str, Any]:
        if self.becomes == "order" and self.first != 1:  # 0 to 10 stay 0 to 10
            ends = [self.first, self.first + len(self.words) - 1]
            reverse: dict[str, Any] = {"reverse": ends} if column in self.reversed else {}
            return {"from": column, "number": True} | reverse
        if self.becomes in ("order", "words"):
            turned = {"reverse": True} if column in self.reversed else {}
            return {"from": column, "order": list(self.words)} | turned
        if self.becomes == "several":
            return {"from": column, "separator": self.separator, "options": list(self.options)}
        if self.becomes == "checklist":
            option = self.options[self.columns.index(column)]
            return {"from": column, "separator": _no_part_of(option), "options": [option]}
        if self.becomes == "number":
            return {"from": column, "number": True}
        if self.becomes == "bands":
            return {"from": column, "bands": self.kind or "middle"}
        if self.becomes == "time":
            return {"from": column, "time": self.kind or "hours"}
        if self.becomes == "date":
            written = {} if self.format is None else {"format": self.format}
            return {"from": column, "date": self.kind or "days"} | written
        return {"formula": f'{named(column)} = "{self.words[1]}"'}


def _free(name: str, taken: Sequence[str]) -> str:
    """A name that nobody has."""
    number, free = 2, name
    while free in taken:
        free, number = f"{name} {number}", number + 1
    return free


def _no_part_of(option: str) -> str:
    return next(sign for sign in (";", "|", "\t", "\n") if sign not in option)


def proposed(table: Table, plan: Plan, progress: Progress = silent) -> list[Proposal]:
    """What could be made of the columns of a table, in the order of the file.

    Columns of numbers are not spoken of, unless some of their cells say that there is none, nor
    are those that the plan makes something of already.

    progress : told "columns"; may raise to stop.
    """
    done = {column for make in plan.make for column in make.looks_at}
    names = [name for name in table.names if name not in done]
    looks: list[tuple[Column, Look]] = []
    for begin in range(0, len(names), _AT_ONCE):
        progress(Phase.RECOGNISING, begin / len(names))
        looks += look_at_all(table, names[begin : begin + _AT_ONCE], plan.codes)
    looks = [(column, look) for column, look in looks if column.name != plan.cases.label]
    if plan.cases.label is not None:  # another would name the cases in its place
        looks = [(column, look) for column, look in looks if look.kind != "identifier"]
    place = {name: k for k, name in enumerate(names)}
    return sorted(_together(looks), key=lambda proposal: place[proposal.columns[0]])


Looked = tuple[Column, Look]


def _together(looks: list[Looked]) -> Iterator[Proposal]:
    """Columns with the same answers are one proposal."""
    alike: dict[object, list[Looked]] = {}
    for column, look in _on_one_scale(looks):
        alike.setdefault(_key(column, look), []).append((column, look))
    for group in _within_others(list(alike.values())):
        found = _proposal(group)
        if found is not None:
            yield found


def _on_one_scale(looks: list[Looked]) -> list[Looked]:
    """Columns that tell the same take the scale that has the words of all of them.

    Where nobody took the middle of five steps, the column alone looks like one of four.
    """
    about: dict[tuple[str, str], set[str]] = {}
    for column, look in looks:
        if look.scale is not None:
            words = {word for word in column.plain if look.scale.place(word) is not None}
            about.setdefault((look.scale.about, look.scale.language), set()).update(words)
    wide = {
        key: next((scale for scale in vocabulary().scales if (scale.about, scale.language) == key
                   and scale.places(words) is not None), None)
        for key, words in about.items()
    }  # fmt: skip
    out = []
    for column, look in looks:
        found = None if look.scale is None else wide[look.scale.about, look.scale.language]
        out.append((column, look if found is None else replace(look, scale=found)))
    return out


def _key(column: Column, look: Look) -> object:
    """What columns of one proposal have in common."""
    if look.scale is not None:
        return look.scale
    if look.kind in ("numbered", "words", "bands"):
        return (look.kind, frozenset(column.plain))
    if look.kind == "yes-no":
        return (look.kind, tuple(word.casefold() for word in look.words))
    return look.kind if look.kind == "tick" else column.name


def _within_others(groups: list[list[Looked]]) -> list[list[Looked]]:
    """Groups of columns; those of which all answers are among another's belong to that one."""
    out: list[list[Looked]] = []
    wide: list[tuple[str, set[str], list[Looked]]] = []
    for group in sorted(groups, key=lambda group: -len(group[0][0].answers)):
        column, look = group[0]
        if look.kind not in ("words", "numbered"):
            out.append(group)
            continue
        answers = {*column.plain}
        for kind, others, other in wide:
            if kind == look.kind and answers <= others:
                other += group
                break
        else:
            wide.append((look.kind, answers, group))
            out.append(group)
    return out


def _proposal(group: list[tuple[Column, Look]]) -> Proposal | None:
    """What could become of columns that look alike; None where nothing is to be said of them."""
    first, look = group[0]
    columns = [column for column, _ in group]
    names = tuple(column.name for column in columns)
    answers, counts = _counted(columns)
    missing = {c.name: look.missing for c, look in group if look.missing}
    base = Proposal("missing", names, answers, counts, missing=missing)
    match look.kind:
        case "order":
            scale = look.scale
            assert scale is not None
            return replace(base, becomes="order", words=scaled_words(scale, columns),
                           scale=scale.about)  # fmt: skip
        case "numbered":
            return replace(base, becomes="order", words=look.words)
        case "yes-no":
            known = {word.casefold() for word in look.words} <= {"yes", "no", "true", "false",
                                                               "y", "n"}  # fmt: skip
            if known:
                return base if missing else None
            return replace(base, becomes="yes-no", words=look.words)
        case "bands":
            return replace(base, becomes="bands", kind="middle")
        case "clothes":
            return replace(base, becomes="number")
        case "date":
            written = look.written or None
            return replace(base, becomes="date", format=written, kind="days", sure=False)
        case "time":
            return replace(base, becomes="time", kind="hours", sure=False)
        case "several":
            return replace(base, becomes="several", separator=look.separator, options=look.options)
        case "tick":
            if len(group) < 2:
                return base if missing else None
            options = tuple(one.options[0] for _, one in group)
            return replace(base, becomes="checklist", options=options)
        case "words" if len(group) > 1 and first.different > 2:
            return replace(base, becomes="words", words=look.words, sure=False)
        case "text" | "identifier":
            return replace(base, becomes=look.kind, sure=look.kind == "identifier")
    return base if missing else None


def _counted(columns: Sequence[Column]) -> tuple[tuple[str, ...], tuple[int, ...]]:
    """The answers of some columns together, the most frequent first."""
    times: dict[str, int] = {}
    for column in columns:
        for answer, count in zip(column.answers, column.counts, strict=True):
            times[answer] = times.get(answer, 0) + count
    ordered = sorted(times, key=lambda answer: -times[answer])
    return tuple(ordered), tuple(times[answer] for answer in ordered)


def applied(plan: Plan, proposals: Sequence[Proposal], names: Sequence[str]) -> Plan:
    """The plan with proposals carried out: what is made becomes active in the place of its columns.

    names : of the columns of the table.

    Raises
    ------
    InputError : two variables would have one name.
    """
    makes = list(plan.make)
    taken = [*names, *(make.name for make in makes)]
    missing = {name: list(codes) for name, codes in plan.variables.missing.items()}
    labels, values = dict(plan.variables.labels), dict(plan.variables.values)
    use = list(plan.variables.use)
    binary, ordinal = list(plan.variables.binary), list(plan.variables.ordinal)
    label = plan.cases.label
    for proposal in proposals:
        for column, cells in proposal.missing.items():
            missing[column] = list(dict.fromkeys([*missing.get(column, []), *cells]))
        if proposal.becomes == "identifier" and label is None:
            label = proposal.columns[0]
        entries = proposal.makes(taken)
        taken += [make.name for make in entries]
        makes += entries
        for column, make in zip(proposal.columns, entries, strict=False):
            made = [*make.named]
            use = [name for name in use if name != column] + made
            binary = [name for name in binary if name != column]
            if make.formula is not None:
                binary += made
            for name in made:
                if make.separator is None:
                    labels[name] = labels.get(column, column)
            if proposal.becomes in ("order", "words"):
                steps = proposal.words[::-1] if make.reverse else proposal.words
                values[make.name] = {str(k): w for k, w in enumerate(steps, proposal.first)}
                ordinal += [make.name] if make.order is None else []
    part: dict[str, Any] = {
        "use": use, "missing": missing, "labels": labels, "values": values, "binary": binary,
        "ordinal": ordinal,
    }  # fmt: skip
    cases = {} if label is None else {"label": label}
    return plan.with_made(makes).with_parts({"variables": part, "cases": cases})


def proposal_of(make: MakePlan, table: Table, codes: Sequence[str] = ()) -> Proposal:
    """What an entry of one column made, as it would be proposed.

    codes : cells of the column that are read as missing.

    Raises
    ------
    InputError : the column is not in the table.
    """
    column = make.from_ or ""
    if column not in table.names:
        raise InputError(f'no column "{column}"', "a column of the file")
    found, _ = look_at(table, column, codes)
    kinds: dict[str, Becomes] = {
        "order": "order", "separator": "several", "number": "number", "bands": "bands",
        "date": "date", "time": "time",
    }  # fmt: skip
    return Proposal(
        kinds[make.way], (column,), found.answers, found.counts, make.order or (),
        make.separator or "", make.options or (), make.format,
        correct={column: dict(make.correct)} if make.correct else {},
        reversed=(column,) if make.reverse is True else (),
        kind=make.bands or make.date or make.time or "",
        names={column: make.name},
    )  # fmt: skip


def with_missing(proposal: Proposal, column: str, cell: str, missing: bool) -> Proposal:
    """The proposal with a cell of one of its columns read as missing, or not."""
    kept = [one for one in proposal.missing.get(column, ()) if one != cell]
    cells = tuple([*kept, cell] if missing else kept)
    others = {name: said for name, said in proposal.missing.items() if name != column}
    return replace(proposal, missing=others | ({column: cells} if cells else {}))


def with_correction(proposal: Proposal, column: str, cell: str, right: str) -> Proposal:
    """The proposal with a cell of one of its columns read as another."""
    mine = proposal.correct.get(column, {}) | {cell: right}
    return replace(proposal, correct=proposal.correct | {column: mine})


def without_correction(proposal: Proposal, column: str, cell: str) -> Proposal:
    """The proposal with a cell of one of its columns read as it is."""
    mine = {old: new for old, new in proposal.correct.get(column, {}).items() if old != cell}
    others = {name: said for name, said in proposal.correct.items() if name != column}
    return replace(proposal, correct=others | ({column: mine} if mine else {}))


def with_name(proposal: Proposal, column: str, name: str) -> Proposal:
    """The proposal with another name for what is made of a column; "" for the usual one."""
    kept = {key: said for key, said in proposal.names.items() if key != column}
    chosen = name.strip()
    return replace(proposal, names=kept | ({column: chosen} if chosen else {}))


def with_reversed(proposal: Proposal, column: str, turned: bool) -> Proposal:
    """The proposal with a column turned round, or not."""
    kept = [name for name in proposal.reversed if name != column]
    return replace(proposal, reversed=tuple([*kept, column] if turned else kept))
