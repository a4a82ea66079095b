"""The work behind the Compare page: which two trees of the shelf are compared."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, Signal

from gorvel.core.compare.coassociation import CoAssociation
from gorvel.core.compare.pair import Pair, called_after, crossed, stands_at
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.study.groups import group_words
from gorvel.core.study.tree_pairs import (
    CONSENSUS,
    Key,
    PairAtCut,
    Side,
    TreePair,
    beside,
    lanes_of_move,
    pair_trees,
    standing,
)
from gorvel.core.tree.cluster_names import Identity, identities, titled_nodes
from gorvel.core.tree.cuts import Cut, cut_at_count
from gorvel.core.words.comparison import largest_move
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import JobKind, Jobs

NOTHING: Key = (0, None)
_FIRST_COUNT = 4


class Comparing(QObject):
    """Which two trees are compared, and what is known of that. Signals: chosen(), another pair."""

    chosen = Signal()

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.jobs = focus, jobs
        self.faces = Inquiry(jobs, JobKind.COMPARE, self)
        self.shelf = Inquiry(jobs, JobKind.SHELF, self)
        self.passed_over: set[int] = set()  # trees that do not count for what stands whatever
        self._left = self._right = NOTHING  # for what follows by itself
        self._met: tuple[tuple[object, ...], PairAtCut] | None = None
        self._stands: tuple[tuple[object, ...], CoAssociation] | None = None
        focus.shelf.study_changed.connect(self._new_study)
        for signal in (focus.cut_changed, focus.tree_changed, self.shelf.changed):
            signal.connect(self._tell_stays)
        self.faces.changed.connect(self._keep_new)
        focus.labels_changed.connect(self._forget)

    def _new_study(self) -> None:
        self._left = self._right = NOTHING
        self.passed_over = set()
        self._forget()

    def _forget(self) -> None:
        """What is known is asked anew: cases are others, or are called otherwise."""
        self.faces.forget()
        self.shelf.forget()

    # which two

    def groups_of(self, number: int) -> list[str]:
        """The groups of a split of which there are trees of an entry."""
        return [group for own, group in self.focus.shelf.kept
                if own == number and group is not None]  # fmt: skip

    def at(self, number: int, wanted: str | None = None) -> Key:
        """A tree of an entry: of the wanted group, or else that in hand, or the first."""
        groups, mine = self.groups_of(number), self.focus.grown_group
        chosen = wanted if wanted in groups else mine if mine in groups else None
        return number, chosen if chosen is not None or not groups else groups[0]

    def called(self, key: Key) -> str:
        """What a tree is called, with the group of a split whose tree it is."""
        study, (number, group) = self.focus.shelf.study, key
        if number == CONSENSUS:
            return f"Consensus of {len(self.averaged)} trees"
        if study is None or not study.has(number):
            return ""
        entry = study.tree(number)
        name = self.focus.shelf.name_of(entry)
        return name if group is None else f"{name}, {group_words(entry.plan, group)}"

    @property
    def titles(self) -> tuple[str, str]:
        """What the two trees are called."""
        study = self.focus.shelf.study
        if study is None:
            return "", ""
        here = study.in_hand, self.focus.grown_group
        keys = self.left, self.right
        one, other = (self.called(key) + (" (current)" if key == here else "") for key in keys)
        return one, other

    @property
    def left(self) -> Key:
        """The tree in hand, unless another was put there; `NOTHING` without a study."""
        study = self.focus.shelf.study
        if study is None:
            return NOTHING
        number, group = self._left
        if number and study.has(number):
            return self.at(number, group)
        return self.at(study.in_hand, self.focus.grown_group)

    @property
    def right(self) -> Key:
        """What is on the right.

        What was put there, or the first other tree, or else another group of the left one’s split;
        `NOTHING` if there is none.
        """
        study, (number, group) = self.focus.shelf.study, self._right
        if study is None:
            return NOTHING
        if number == CONSENSUS and self.averaged:
            return CONSENSUS, None
        left = self.left
        if number and study.has(number) and self.at(number, group) != left:
            return self.at(number, group)
        for entry in study.trees:
            if entry.id != left[0]:
                return self.at(entry.id, left[1])
        others = [group for group in self.groups_of(left[0]) if group != left[1]]
        return (left[0], others[0]) if others else NOTHING

    def put(self, number: int, left: bool = False, group: str | None = None) -> None:
        """Put a tree on one side; one that is on the other changes sides with it.

        group : of a split; None for the one on the other side.
        """
        now = self.left, self.right
        mine, its = now if left else now[::-1]
        key = self.at(number, its[1] if group is None else group)
        if key == mine:
            return
        if key == its:
            self._left, self._right = now[1], now[0]
        elif left:
            self._left, self._right = key, now[1]
        else:
            self._left, self._right = now[0], key
        study = self.focus.shelf.study
        if study is not None and self._left == (study.in_hand, self.focus.grown_group):
            self._left = NOTHING  # it follows what is in hand
        self.chosen.emit()

    def put_beside(self, plan: Plan) -> bool:
        """Keep the tree in hand, and put that of another plan on the shelf and on the right.

        False where that plan grows the tree in hand.
        """
        focus, shelf = self.focus, self.focus.shelf
        study = shelf.study
        if study is None or plan.grows_as(study.plan):
            return False
        if not study.entry.kept:
            shelf.keep(focus.trees_as_grown if focus.out_of_date else ())
        self._left, self._right = NOTHING, (shelf.add(plan), focus.grown_group)
        self.chosen.emit()
        return True

    @property
    def averaged(self) -> tuple[Grown, ...]:
        """The trees of a consensus: the one in hand, and the others that count."""
        chosen = [pair.other for key, pair in self.beside.items() if key not in self.passed_over]
        grown = self.focus.grown
        if grown is None or grown.of != "cases":
            return ()
        return (grown, *chosen) if chosen else ()

    def put_consensus(self) -> None:
        """Put the average of the trees that count on the right, beside the one in hand."""
        if self.averaged:
            self._left, self._right = NOTHING, (CONSENSUS, None)
            self.chosen.emit()

    def swap(self) -> None:
        """Left to the right, right to the left."""
        number, group = self.right
        if number > 0:
            self.put(number, True, group)

    @property
    def waits(self) -> bool:
        """Is one of the two the tree in hand, and not grown yet?"""
        return self.right != NOTHING and (self._side(self.left) is None or
                                          self._side(self.right) is None)  # fmt: skip

    def _side(self, key: Key) -> Side | None:
        focus, study, number = self.focus, self.focus.shelf.study, key[0]
        if study is not None and number == CONSENSUS:
            return Side(key, study.plan, of=self.averaged)
        if study is None or not study.has(number):
            return None
        plan, shown = study.tree(number).plan, (focus.grown_id, focus.grown_group)
        if key == shown and focus.grown is not None and focus.grown_by is not None:
            return Side(key, focus.grown_by, focus.grown)
        kept = focus.shelf.kept.get(key)
        if kept is None and number == study.in_hand:
            return None  # that it is grown is for the hand to say
        return Side(key, plan if kept is None else kept.plan, None, kept)

    # asking

    def ask(self, again: bool = False) -> None:
        """Lay the two trees beside each other, unless that is done."""
        study, left, right = self.focus.shelf.study, self._side(self.left), self._side(self.right)
        if study is None or left is None or right is None:
            self.faces.forget()
            return
        known = self.faced
        if known is not None and not again:
            pair = known.pair
            if pair.one.tree is left.tree and pair.other.tree is right.tree:
                return
        (self.faces.again if again else self.faces.ask)(
            (left.about, right.about), partial(pair_trees, study.read, left, right)
        )

    def _keep_new(self) -> None:
        """Trees that were grown for it are on the shelf from now on."""
        found: TreePair | None = self.faces.found
        for number, (plan, grown, groups) in ({} if found is None else found.new).items():
            if not any(own == number for own, _ in self.focus.shelf.kept):
                self.focus.add_grown(number, plan, grown, groups)

    @property
    def faced(self) -> TreePair | None:
        """The two trees, where they are known by now."""
        found: TreePair | None = self.faces.found
        if found is None or (found.left, found.right) != (self.left, self.right):
            return None
        return found

    # all trees of the shelf beside the one in hand

    def ask_shelf(self) -> None:
        """Find the cases that each tree that was grown has in common with the one in hand."""
        study, focus = self.focus.shelf.study, self.focus
        group = focus.grown_group
        mine = None if study is None else self._side(self.at(study.in_hand, group))
        if study is None or mine is None or mine.grown is None or focus.grown_id != study.in_hand:
            self.shelf.forget()
            return
        sides = [self._side(self.at(entry.id, group)) for entry in study.trees
                 if entry.id != study.in_hand]  # fmt: skip
        others = [side for side in sides if side is not None and side.tree is not None]
        about = (mine.grown.tree, *((side.key, side.tree) for side in others))
        self.shelf.ask(about, partial(beside, study.read, mine.grown, others))

    @property
    def beside(self) -> dict[int, Pair]:
        """The tree in hand with each other one that was grown, by the id of that."""
        found: dict[int, Pair] | None = self.shelf.found
        if found is None:
            return {}
        return {key: pair for key, pair in found.items() if pair.one is self.focus.grown}

    def alike(self, number: int) -> float | None:
        """The adjusted Rand index of a tree with the one in hand at its cut, where it is known."""
        pair, cut = self.beside.get(number), self.focus.cut
        if pair is None or cut is None or not pair.common:
            return None
        its = cut_at_count(pair.other.tree, min(cut.clusters, pair.other.tree.n))
        return adjusted_rand(cross_counts(cut.membership[pair.mine] - 1,
                                          its.membership[pair.its] - 1))  # fmt: skip

    def _tell_stays(self) -> None:
        """Views of the tree in hand show how surely cases stay, once that was asked."""
        found = self.standing
        self.focus.set_stays(None if found is None else found.cases)

    def count_in(self, number: int, counts: bool) -> None:
        """Have a tree count for what stands whatever, or pass it over."""
        (self.passed_over.discard if counts else self.passed_over.add)(number)
        self.shelf.changed.emit()

    @property
    def standing(self) -> CoAssociation | None:
        """How often the cases of each cluster in hand are together in the trees that count."""
        cut, grown = self.focus.cut, self.focus.grown
        chosen = [pair for key, pair in self.beside.items() if key not in self.passed_over]
        if cut is None or grown is None or not chosen:
            return None
        about = cut, *chosen
        if self._stands is None or self._stands[0] != about:
            self._stands = about, standing(grown, cut, chosen)
        return self._stands[1]

    # at the cut in hand

    def _cut(self, grown: Grown, count: int) -> Cut:
        focus = self.focus
        if focus.grown is grown and focus.cut is not None:
            return focus.cut
        return cut_at_count(grown.tree, min(count, grown.tree.n))

    def _names(self, key: Key, grown: Grown, plan: Plan, cut: Cut) -> list[Identity]:
        focus = self.focus
        if focus.grown is grown:
            return focus.identities_of(cut)
        kept, tree = focus.shelf.kept.get(key), grown.tree
        known = kept is not None and kept.cut is not None and kept.tree is tree
        lettered = kept.cut.lettered_cut(tree) if known and kept and kept.cut else cut
        titles, colours = (titled_nodes(tree, getattr(plan.cut, what)) if key[1] is None else {}
                           for what in ("names", "colours"))  # fmt: skip
        return identities(tree, lettered, cut, titles, colours)

    @property
    def met(self) -> PairAtCut | None:
        """The two trees at the cut in hand."""
        faced, focus = self.faced, self.focus
        if faced is None:
            return None
        count = focus.cut.clusters if focus.cut is not None else _FIRST_COUNT
        pair = faced.pair
        cuts = self._cut(pair.one, count), self._cut(pair.other, count)
        about = faced, *cuts, focus.lettered, tuple(focus.identities)
        if self._met is None or self._met[0] != about:
            self._met = about, self._meet(faced, *cuts)
        return self._met[1]

    def _meet(self, faced: TreePair, one: Cut, other: Cut) -> PairAtCut:
        found = crossed(faced.pair, one, other)
        if faced.pair.other is self.focus.grown:  # whose letters are known
            others = self._names(faced.right, faced.pair.other, faced.plans[1], other)
            names = called_after(found.partner, others)
        else:
            names = self._names(faced.left, faced.pair.one, faced.plans[0], one)
            others = called_after(found.partner_of_other, names)
        move = largest_move(found) if faced.told else None
        lanes = [] if move is None else lanes_of_move(faced, found, move)
        return PairAtCut(faced, found, names, others, stands_at(faced.pair, one), move, lanes)
