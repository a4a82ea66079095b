"""Curves over the counts, and the top of the tree with a shadow of the count looked at."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.scene.tree_top import Summit, summit_of
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree
from gorvel.desk.controls.plain_text import show_tip
from gorvel.desk.work.counting import Counting
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.curve import CurvePainter, EvidencePainter
from gorvel.paint.charts.purpose import PurposePainter
from gorvel.paint.charts.summit import SummitPainter
from gorvel.paint.theme import current

_MOST = 24  # clusters that the small tree is drawn down to, at least


class _Follower(QWidget):
    """A painting that follows the counting and the cut."""

    def __init__(self, counting: Counting, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting = counting
        self.setMouseTracking(True)
        self.setAccessibleName(name)
        for signal in (counting.changed, counting.looked, counting.focus.cut_changed):
            signal.connect(self._follow)

    def _follow(self) -> None:
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self.counting.look_at(0)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        if painter is not None:
            ground = QPainter(self)
            painter.paint(Canvas(ground))
            ground.end()

    def painter(self) -> CurvePainter | EvidencePainter | PurposePainter | SummitPainter | None:
        """What paints it; None where there is nothing to paint."""
        raise NotImplementedError

    def _count(self) -> int:
        cut = self.counting.focus.cut
        return cut.clusters if cut is not None else 0


class _OverCounts(_Follower):
    """A click on a count cuts there."""

    def painter(self) -> CurvePainter | EvidencePainter | PurposePainter | None:
        """What paints it; None where there is nothing to paint."""
        raise NotImplementedError

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        painter = self.painter()
        self.counting.look_at(painter.count_at(event.position().x()) if painter else 0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        painter = self.painter()
        count = painter.count_at(event.position().x()) if painter else 0
        if count and event.button() == Qt.MouseButton.LeftButton:
            self.counting.focus.set_count(count)

    def event(self, event: QEvent) -> bool:
        painter = self.painter()
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and painter:
            words = self._tip(painter.count_at(event.pos().x()))
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)

    def _tip(self, count: int) -> str:
        """What stands at a count, in words."""
        painter = self.painter()
        return "" if painter is None else painter.tip(count)


class CurveView(_OverCounts):
    """The curve of the rule that is selected."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(counting, "Curve of the rule", parent)
        self.setMinimumHeight(84)

    def sizeHint(self) -> QSize:
        return QSize(420, 170)

    def painter(self) -> CurvePainter | None:
        """What paints it; None where there is no rule."""
        board = self.counting.board
        if board is None or self.counting.rule not in board.verdicts:
            return None
        return CurvePainter(
            board.verdicts[self.counting.rule], current(), self.width(), self.height(),
            self._count(), self.counting.hovered,
        )  # fmt: skip


class EvidenceView(_OverCounts):
    """The silhouettes of the tree or another index, and what data without groups reach."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(counting, "The tree beside data without groups", parent)
        self.setMinimumHeight(84)

    def sizeHint(self) -> QSize:
        return QSize(420, 190)

    def painter(self) -> EvidencePainter | None:
        """What paints it; None before it was asked for."""
        found, key = self.counting.checks.groups, self.counting.questions.index
        index = None if found is None or found.why else found.of(key)
        if index is None:
            return None
        return EvidencePainter(
            index, current(), self.width(), self.height(), self._count(), self.counting.hovered,
            COUNT_RULES[key].name,
        )  # fmt: skip


class PurposeView(_OverCounts):
    """How the counts stand by what clusters are for."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(counting, "Counts by what the clusters are for", parent)
        self.setMinimumHeight(70)

    def sizeHint(self) -> QSize:
        return QSize(420, 120)

    def painter(self) -> PurposePainter | None:
        """What paints it; None before clusters were measured."""
        found, board = self.counting.checks.purpose, self.counting.board
        if found is None or found.why or board is None:
            return None
        ranked = found.ranked(self.counting.asked.purpose, board.coming_back(found.counts))
        return PurposePainter(
            found.counts, ranked, current(), self.width(), self.height(), self._count(),
            self.counting.hovered,
        )  # fmt: skip


class SummitView(_Follower):
    """The last joins of the tree; the pointer looks at the count of its height."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(counting, "Top of the tree", parent)
        self._summit: tuple[Tree, int, Summit] | None = None
        self.setMinimumHeight(68)

    def sizeHint(self) -> QSize:
        return QSize(420, 120)

    def summit(self) -> Summit | None:
        """The joins drawn."""
        grown, board = self.counting.focus.grown, self.counting.board
        if grown is None:
            return None
        wanted = max(_MOST, *(board.counts[-1:] if board else ()), self._count(), 1)
        if self._summit is None or self._summit[0] is not grown.tree or self._summit[1] != wanted:
            squared = grown.pairs.key == "squared-euclidean"
            self._summit = (grown.tree, wanted, summit_of(grown.tree, wanted, squared))
        return self._summit[2]

    def painter(self) -> SummitPainter | None:
        """What paints it; None while there is no tree."""
        summit, grown, focus = self.summit(), self.counting.focus.grown, self.counting.focus
        if summit is None or grown is None or focus.cut is None:
            return None
        count, theme = self.counting.hovered or self._count(), current()
        cut = focus.cut
        names = focus.identities
        if count != cut.clusters and count <= grown.tree.n:
            cut = cut_at_count(grown.tree, count)
            names = focus.identities_of(cut)
        n, starts, sizes = grown.tree.n, grown.tree.starts[cut.roots], grown.tree.sizes[cut.roots]
        clusters = [
            (begin / n, (begin + size) / n, theme.identity(who), who.name)
            for begin, size, who in zip(starts.tolist(), sizes.tolist(), names, strict=True)
        ]
        splits = self.counting.checks.splits
        tested = {} if splits is None else {test.join: test.holds for test in splits.tests}
        return SummitPainter(
            summit, theme, self.width(), self.height(), focus.cut.clusters,
            self.counting.hovered, clusters, tested,
        )  # fmt: skip

    def _count_at(self, y: float) -> int:
        painter = self.painter()
        if painter is None:
            return 0
        lines = painter.summit.lines
        near = [(abs(painter.y(float(lines[k])) - y), k) for k in range(1, len(lines))]
        return min(near)[1]

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.counting.look_at(self._count_at(event.position().y()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        count = self._count_at(event.position().y())
        if count and event.button() == Qt.MouseButton.LeftButton:
            self.counting.focus.set_count(count)
