"""The board of rules and counts: pointed at, clicked, and walked through with the keys."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QSize, Qt
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from gorvel.core.count.index_table import IndexTable
from gorvel.core.plan.count_rule import FAMILIES
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.desk.controls.plain_text import show_tip
from gorvel.desk.work.counting import Counting
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.board import BoardPainter, board_rows
from gorvel.paint.theme import current

_Key = Qt.Key


class BoardView(QWidget):
    """Follows the counting. A click on a count cuts there, on a name selects the rule, on its box

    leaves it out of the vote.
    """

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting = counting
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Values of each rule by number of clusters")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        for signal in (counting.changed, counting.looked, counting.focus.cut_changed,
                       counting.focus.shelf.plan_changed):  # fmt: skip
            signal.connect(self._follow)

    def _follow(self) -> None:
        painter = self.painter()
        if painter is not None:
            self.setMinimumHeight(int(painter.needed()))
            self.setAccessibleDescription(painter.tip(self.counting.rule, self._count()))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(760, 600)

    def _count(self) -> int:
        cut = self.counting.focus.cut
        return cut.clusters if cut is not None else 0

    def painter(self, width: float = 0.0, height: float = 0.0) -> BoardPainter | None:
        """What paints the board, on screen or on other ground; None while there is no board."""
        board, grown = self.counting.board, self.counting.focus.grown
        if board is None or grown is None:
            return None
        screen = not width
        return BoardPainter(
            board, current(), width or self.width(), height or self.height(), self._count(),
            grown.tree.n, self.counting.left_out, self.counting.hovered if screen else 0,
            self.counting.rule if screen else "", screen and self.hasFocus(),
            self.counting.questions.null,
        )  # fmt: skip

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        if painter is None:
            return
        ground = QPainter(self)
        painter.paint(Canvas(ground))
        ground.end()

    # pointing

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        painter = self.painter()
        if painter is not None:
            at = event.position()
            self.counting.look_at(painter.count_at(at.x()))
            hand = bool(painter.count_at(at.x()) or painter.row_at(at.y()))
            self.setCursor(
                Qt.CursorShape.PointingHandCursor if hand else Qt.CursorShape.ArrowCursor
            )

    def leaveEvent(self, event: QEvent) -> None:
        self.counting.look_at(0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        painter = self.painter()
        if painter is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self.press(painter, event.position())

    def press(self, painter: BoardPainter, at: QPointF) -> None:
        """Act on a place."""
        key, count = painter.row_at(at.y()), painter.count_at(at.x())
        if key in FAMILIES and not count:
            self._toggle_family(key)
        elif key in COUNT_RULES and painter.box_of(key).adjusted(-6, -6, 6, 6).contains(at):
            self.counting.let_vote([key], key in self.counting.left_out)
        elif key in COUNT_RULES:
            self.counting.select(key)
        if count and (not key or key in COUNT_RULES):
            self.counting.focus.set_count(count)

    def _toggle_family(self, family: str) -> None:
        assert self.counting.board is not None
        keys = [key for key in self.counting.board.verdicts if COUNT_RULES[key].family == family]
        self.counting.let_vote(keys, all(key in self.counting.left_out for key in keys))

    def event(self, event: QEvent) -> bool:
        painter = self.painter()
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and painter:
            at = event.pos()
            key, count = painter.row_at(at.y()), painter.count_at(at.x())
            words = painter.tip(key, count)
            if key in COUNT_RULES and not count:
                rule = COUNT_RULES[key]
                why = painter.board.voices(painter.left_out)[key].no_vote
                words = f"{rule.name} ({rule.source}): {rule.formula}"
                words += f"\nNo vote: {why}" if why else ""
            elif key in FAMILIES and not count:
                words = "Click to exclude or include all rules of this kind"
            elif painter.foot_at(at.y()):
                words = painter.foot_tip(painter.foot_at(at.y()), count)
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)

    # keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        board = self.counting.board
        if board is None or not self._key(board, event.key()):
            super().keyPressEvent(event)

    def _key(self, board: IndexTable, key: int) -> bool:
        if key in (_Key.Key_Up, _Key.Key_Down):
            rules = [row for row in board_rows(board) if row in COUNT_RULES]
            step = 1 if key == _Key.Key_Down else -1
            here = rules.index(self.counting.rule) + step if self.counting.rule in rules else 0
            self.counting.select(rules[min(max(here, 0), len(rules) - 1)])
        elif key in (_Key.Key_Left, _Key.Key_Right):
            count = self._count() + (1 if key == _Key.Key_Right else -1)
            self.counting.focus.set_count(max(count, 1))
        elif key == _Key.Key_Space and self.counting.rule:
            rule = self.counting.rule
            self.counting.let_vote([rule], rule in self.counting.left_out)
        else:
            return False
        return True
