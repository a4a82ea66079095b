"""Curves over the counts, and the top of the tree with a shadow of the count looked at."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.scene.tree_top import Summit, summit_of
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree
from gorvel.desk.views.chart_view import AnyChart, ChartView
from gorvel.desk.work.counting import Counting
from gorvel.paint.chart import Place
from gorvel.paint.charts.curve import CurveChart, EvidenceChart
from gorvel.paint.charts.purpose import PurposeChart
from gorvel.paint.charts.summit import SummitChart
from gorvel.paint.theme import Theme

_MOST = 24  # clusters that the small tree is drawn down to, at least


class CountView(ChartView[AnyChart, Place]):
    """Follows the counting and the cut; a count that is pointed at is looked at in all of them."""

    def __init__(
        self, counting: Counting, name: str, hint: tuple[int, int], least: int = 0,
        keys: bool = False, grows: bool = False, parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(name, hint, (0, least), keys, grows, parent)
        self.counting = counting
        for signal in (counting.changed, counting.looked, counting.focus.cut_changed):
            signal.connect(self._follow)

    def _follow(self) -> None:
        self.update()

    def count(self) -> int:
        """In hand, 0 for none."""
        cut = self.counting.focus.cut
        return cut.clusters if cut is not None else 0

    def count_of(self, place: Place) -> int:
        """The count at a place, 0 for none."""
        raise NotImplementedError

    def point(self, place: Place | None) -> None:
        self.counting.look_at(0 if place is None else self.count_of(place))

    def press(self, place: Place | None) -> None:
        count = 0 if place is None else self.count_of(place)
        if count:
            self.counting.focus.set_count(count)


class _OverCounts(CountView[AnyChart, int]):
    """Places are counts."""

    def count_of(self, place: int) -> int:
        return place


class CurveView(_OverCounts[CurveChart]):
    """The curve of the rule that is selected."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(counting, "Curve of the rule", (420, 170), 84, parent=parent)

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> CurveChart | None:
        board, rule = self.counting.board, self.counting.rule
        if board is None or rule not in board.verdicts:
            return None
        hovered = self.counting.hovered if screen else 0
        return CurveChart(
            theme, width, height, self.count(), board.verdicts[rule], hovered=hovered
        )  # fmt: skip


class EvidenceView(_OverCounts[EvidenceChart]):
    """The silhouettes of the tree or another index, and what data without groups reach."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        name = "The tree beside data without groups"
        super().__init__(counting, name, (420, 190), 84, parent=parent)

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> EvidenceChart | None:
        found, key = self.counting.checks.groups, self.counting.questions.index
        index = None if found is None or found.why else found.of(key)
        if index is None:
            return None
        return EvidenceChart(
            theme, width, height, self.count(), index, COUNT_RULES[key].name,
            hovered=self.counting.hovered if screen else 0,
        )  # fmt: skip


class PurposeView(_OverCounts[PurposeChart]):
    """How the counts stand by what clusters are for."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        name = "Counts by what the clusters are for"
        super().__init__(counting, name, (420, 120), 70, parent=parent)

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> PurposeChart | None:
        found, board = self.counting.checks.purpose, self.counting.board
        if found is None or found.why or board is None:
            return None
        ranked = found.ranked(self.counting.asked.purpose, board.coming_back(found.counts))
        hovered = self.counting.hovered if screen else 0
        return PurposeChart(
            theme, width, height, self.count(), found.counts, ranked, hovered=hovered
        )  # fmt: skip


class SummitView(_OverCounts[SummitChart]):
    """The last joins of the tree; the pointer looks at the count of its height."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(counting, "Top of the tree", (420, 120), 68, parent=parent)
        self._summit: tuple[Tree, int, Summit] | None = None

    def summit(self) -> Summit | None:
        """The joins drawn."""
        grown, board = self.counting.focus.grown, self.counting.board
        if grown is None:
            return None
        wanted = max(_MOST, *(board.counts[-1:] if board else ()), self.count(), 1)
        if self._summit is None or self._summit[0] is not grown.tree or self._summit[1] != wanted:
            squared = grown.pairs.key == "squared-euclidean"
            self._summit = (grown.tree, wanted, summit_of(grown.tree, wanted, squared))
        return self._summit[2]

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> SummitChart | None:
        summit, grown, focus = self.summit(), self.counting.focus.grown, self.counting.focus
        if summit is None or grown is None or focus.cut is None:
            return None
        cut, names, tree = focus.cut, focus.identities, grown.tree
        count = self.counting.hovered or cut.clusters
        if count != cut.clusters and count <= tree.n:
            cut = cut_at_count(tree, count)
            names = focus.identities_of(cut)
        starts, sizes = tree.starts[cut.roots], tree.sizes[cut.roots]
        clusters = [
            (begin / tree.n, (begin + size) / tree.n, who)
            for begin, size, who in zip(starts.tolist(), sizes.tolist(), names, strict=True)
        ]
        splits = self.counting.checks.splits
        tested = {} if splits is None else {test.join: test.holds for test in splits.tests}
        return SummitChart(
            theme, width, height, summit, focus.cut.clusters, self.counting.hovered, clusters,
            tested,
        )  # fmt: skip
