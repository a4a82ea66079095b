"""The board: what each rule says at each count, and how they vote."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Progress, silent
from gorvel.core.cases.prepared import Prepared
from gorvel.core.count.indices.index import Basis, Material
from gorvel.core.count.indices.nested import Nested, nested_cuts
from gorvel.core.count.indices.pairsums import Distances, PairSums, pair_sums
from gorvel.core.count.indices.ranks import MOST_COUNTS, rank_pairs
from gorvel.core.count.indices.registry import INDICES, of_basis, verdict_of
from gorvel.core.count.indices.scatter import Scatters, scatters
from gorvel.core.count.indices.verdicts import Answer, Verdict, abstains
from gorvel.core.count.indices.voting import RuleVote, answers_of, voices_of
from gorvel.core.count.indices.within_ss import Spreads, spreads
from gorvel.core.grow.algorithm import bytes_needed
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rule import FAMILIES, Family
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import ALL_RULES, CountPlan
from gorvel.core.proximity.measures import MEASURES

MOST_RANKED = 50_000  # cases up to which all pairs are put in order
MOST_AROUND = 5_000  # cases up to which each one's neighbours are looked at
_ROOM = 512e6  # bytes for codes of pairs, even where the tree took less


@dataclass(frozen=True, eq=False)
class IndexTable:
    """All answers of a tree.

    counts : rising; verdicts : by rule, in the order of the registry; smallest : cases of the
    smallest cluster at each count; sums : of proximities, where pairs were compared; of : what the
    tree is of; linkage : by which it was grown.
    """

    counts: tuple[int, ...]
    verdicts: dict[str, Verdict]
    smallest: tuple[int, ...]
    nested: Nested | None
    sums: PairSums | None
    of: str = "cases"
    linkage: str = ""

    def with_verdicts(self, more: Sequence[Verdict]) -> IndexTable:
        """A copy with some answers added or replaced."""
        found = self.verdicts | {verdict.key: verdict for verdict in more}
        return replace(self, verdicts={key: found[key] for key in COUNT_RULES if key in found})

    def without_draws(self) -> IndexTable:
        """A copy without the rules that resample."""
        kept = {k: v for k, v in self.verdicts.items() if "resamples" not in COUNT_RULES[k].needs}
        return replace(self, verdicts=kept)

    def voices(self, left_out: Collection[str] = ()) -> dict[str, RuleVote]:
        """What each rule answers, and whether it is heard."""
        return voices_of(self.verdicts, self.linkage, left_out)

    def coming_back(self, counts: Sequence[int]) -> NDArray[np.float64] | None:
        """(counts,) how well clusters come back in resamples; None where that was not drawn."""
        verdict = self.verdicts.get("bootstrap-jaccard")
        return None if verdict is None else np.array([verdict.at(count) for count in counts])

    def votes(self, left_out: Collection[str] = ()) -> dict[Answer, int]:
        """How many voices give each answer: counts rising, then "one" and "none"."""
        return answers_of(self.voices(left_out))

    def family_votes(self, left_out: Collection[str] = ()) -> dict[int, dict[Family, float]]:
        """One vote for each family, shared by those of its voices that call a count best."""
        out: dict[int, dict[Family, float]] = {}
        voices = self.voices(left_out)
        for family in FAMILIES:
            bests = [
                voice.answer
                for key, voice in voices.items()
                if COUNT_RULES[key].family == family
                and voice.votes
                and isinstance(voice.answer, int)
            ]
            for best in bests:
                votes = out.setdefault(best, {})
                votes[family] = votes.get(family, 0.0) + 1 / len(bests)
        return out


def count_range(asked: CountPlan, cases: int) -> tuple[int, ...]:
    """The counts that are asked for, trimmed to one less than there are cases."""
    return tuple(range(asked.from_, min(asked.to, cases - 1) + 1))


def without_variables(prepared: Prepared) -> str | None:
    """Why there is no spread of variables, in words; None where there is."""
    if prepared.answers is None:
        return "it needs variables, and a proximity matrix has none"
    if prepared.of == "variables":
        return "it needs variables of cases, and this is a tree of variables"
    nominal = [variable.name for variable in prepared.variables if variable.level == "nominal"]
    if nominal:
        return f"it needs numbers, and {nominal[0]} has categories"
    if np.isnan(prepared.answers.values).any():
        return "it needs complete answers, and some are missing"
    return None


def without_squares(grown: Grown) -> str | None:
    """Why rules on sums of squares have no say, in words; None where they do."""
    why = without_variables(grown.prepared)
    measure = MEASURES[grown.method.measure]
    if why is None and not measure.flat:
        why = f"it compares sums of squares, and {measure.name} is not Euclidean"
    return why


def spread_of(grown: Grown, nested: Nested) -> Spreads | None:
    """Sums of squares at every count; None where there are no complete numbers."""
    prepared = grown.prepared
    if not prepared.measurable_spread or prepared.answers is None:
        return None
    masses = np.ones(prepared.n) if prepared.weights is None else prepared.weights
    return spreads(nested, prepared.answers.values, prepared.answers.importance, masses)


def compute_indices(
    grown: Grown,
    asked: CountPlan = ALL_RULES,
    keys: Sequence[str] | None = None,
    progress: Progress = silent,
    report: Callable[[IndexTable], None] = lambda board: None,
) -> IndexTable:
    """What the rules say that do not resample.

    Parameters
    ----------
    asked : the part of a plan with range and rules.
    keys : of rules; None for those asked for; those that resample are passed over.
    progress : told "pairs", "ranks", "density"; may stop the work by raising.
    report : told what there is after each pass over all pairs.
    """
    counts = count_range(asked, grown.tree.n)
    wanted = [key for key in COUNT_RULES if key in (keys or asked.wanted)]
    wanted = [key for key in wanted if "resamples" not in COUNT_RULES[key].needs]
    if not counts:
        few = f"{grown.tree.n} {grown.of} are too few"
        none = {key: abstains(key, (), few) for key in wanted}
        return IndexTable((), none, (), None, None, grown.of, grown.method.linkage)
    nested = nested_cuts(grown.tree, counts[-1] + 1)
    whys = {key: why for key in wanted if (why := _why_not(grown, key, counts))}
    board = IndexTable(
        counts, {}, _smallest(nested, counts), nested, None, grown.of, grown.method.linkage
    )  # fmt: skip
    board = board.with_verdicts([abstains(key, counts, why) for key, why in whys.items()])
    able = frozenset(wanted) - set(whys)
    for sums, verdicts in _worked_out(grown, nested, counts, able, progress):
        board = replace(board, sums=sums).with_verdicts(verdicts)
        report(board)
    return board


def _worked_out(
    grown: Grown, nested: Nested, counts: tuple[int, ...], able: frozenset[str], progress: Progress
) -> Iterator[tuple[PairSums | None, list[Verdict]]]:
    """What rules say, those first that need least, with the sums over pairs so far."""
    material = Material(grown.tree, nested, counts, grown.prepared.answers, grown.prepared.weights)

    def verdicts(*bases: Basis) -> list[Verdict]:
        keys = [key for key in INDICES if key in able & of_basis(*bases)]
        return [verdict_of(key, INDICES[key].found(material), material) for key in keys]

    if able & of_basis("spread", "scatter"):
        material = replace(material, spreads=spread_of(grown, nested))
    if able & of_basis("scatter"):
        material = replace(material, scatters=_scatter_of(grown, nested))
    yield None, verdicts("spread", "scatter", "heights")
    if not able & of_basis("pairs", "ranks", "cases"):
        return
    distances = Distances(grown.pairs)
    sums = pair_sums(nested, distances, progress)
    material = replace(material, sums=sums)
    yield sums, verdicts("pairs")
    if able & of_basis("ranks"):
        memory = max(_ROOM, bytes_needed(grown.prepared, grown.method))
        ranked = rank_pairs(nested, distances, counts, memory, progress)
        material = replace(material, ranked=ranked)
        yield sums, verdicts("ranks")
    for key, index in INDICES.items():
        if key in able and index.curve is not None:
            yield sums, [verdict_of(key, index.curve(material, distances, progress), material)]


def _scatter_of(grown: Grown, nested: Nested) -> Scatters:
    answers, weights = grown.prepared.answers, grown.prepared.weights
    assert answers is not None
    masses = np.ones(grown.prepared.n) if weights is None else weights
    return scatters(nested, answers.values, answers.importance, masses)


def _why_not(grown: Grown, key: str, counts: tuple[int, ...]) -> str | None:
    if "variables" in COUNT_RULES[key].needs:
        return without_squares(grown)
    basis = INDICES[key].basis
    if basis == "cases" and grown.tree.n > MOST_AROUND:
        return f"it looks around each case, which is limited to {MOST_AROUND:,} cases"
    if "answers" in COUNT_RULES[key].needs and grown.prepared.answers is None:
        return "it needs the number of variables, and a proximity matrix has none"
    if basis == "ranks":
        if grown.tree.n > MOST_RANKED:
            return f"it sorts all pairs, which is limited to {MOST_RANKED:,} cases"
        if len(counts) > MOST_COUNTS:
            return f"it compares at most {MOST_COUNTS} numbers of clusters"
    return None


def _smallest(nested: Nested, counts: Sequence[int]) -> tuple[int, ...]:
    return tuple(int(nested.cluster_sizes(count).min()) for count in counts)
