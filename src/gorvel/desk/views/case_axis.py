"""The case axis that all columns of the desk share: order, folds, zoom, and what is in sight."""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.scene.arrangement import (
    Arrangement,
    arrange,
    branches_of_cut,
    branches_up_to,
    by_mean,
)
from gorvel.desk.state.marks import Mark
from gorvel.desk.state.tree_focus import TreeFocus
from gorvel.paint.axes import Frame
from gorvel.paint.columns.column import CaseSpan
from gorvel.paint.theme import current
from gorvel.paint.tree_style import TreeLook

ALIKE = "\0alike"  # no variable is called so

_MOST_ROW = 28.0
_MOST_FIT = 56.0  # a tree of few cases may stand wide


class CaseAxis(QObject):
    """Signals: moved(), scrolled or zoomed; arranged(), other cases, another order or direction."""

    moved = Signal()
    arranged = Signal()

    def __init__(self, focus: TreeFocus, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.arrangement: Arrangement | None = None
        self._first: Arrangement | None = None  # as the tree came
        self.turns = Turns(self)
        self.upright = False
        self.scrolled = 0.0
        self.sorted_by = ""  # the variable whose means order the branches; "" for file order
        self._row: float | None = None  # pixels a case; None fits all
        self._body = 400.0
        self._look: TreeLook | None = None
        focus.tree_changed.connect(self._new_tree)
        focus.cut_changed.connect(self._forget)
        focus.support_changed.connect(self._changed)
        focus.labels_changed.connect(self._changed)
        focus.mark_changed.connect(self._follow_mark)
        self._new_tree()

    # what is shown

    def _new_tree(self) -> None:
        grown = self.focus.grown
        if grown is None:
            self.arrangement = None
        elif self.arrangement is None or self._first is not self.focus.first_arrangement:
            self.arrangement = self._first = self.focus.first_arrangement
            self.turns.use_up()
            self.sorted_by, self._row, self.scrolled = "", None, 0.0
        self._changed()

    def _forget(self) -> None:
        self._look = None

    def _changed(self) -> None:
        self._forget()
        self._bound()
        self.arranged.emit()

    def look(self) -> TreeLook | None:
        """What all painters need to know, while there is a tree."""
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None or self.arrangement is None:
            return None
        look = self._look
        if look is None or look.theme is not current():
            names = self.focus.identities
            found = self.focus.support
            support = None if found is None or found.why else found.shown
            self._look = TreeLook(
                self.arrangement, cut, names, grown.prepared.labels, current(), support,
                grown.of,
            )  # fmt: skip
        return self._look

    def stand(self, upright: bool) -> None:
        """Cases run across at the bottom, or down."""
        self.upright = upright
        self._changed()

    # order and folds

    def _rearrange(self, flipped: NDArray[np.bool_] | None, folded: Iterable[int]) -> None:
        assert self.arrangement is not None
        self.arrangement = arrange(self.arrangement.tree, flipped, folded)
        self._changed()

    def sort_by(self, name: str) -> None:
        """Order branches by their mean of a variable, or as in the file."""
        grown, at = self.focus.grown, self.arrangement
        if grown is None or at is None:
            return
        names = [variable.name for variable in grown.prepared.variables]
        flips = None
        if name in names and grown.prepared.raw is not None:
            flips = by_mean(at.tree, grown.prepared.raw[:, names.index(name)])
        self.put_in_order(flips, name if flips is not None else "")

    def put_in_order(self, flipped: NDArray[np.bool_] | None, name: str) -> None:
        """Turn joins; name : of what the order is by."""
        if self.arrangement is not None:
            self.sorted_by = name
            self._rearrange(flipped, self.arrangement.folded)

    def rotate(self, join: int) -> None:
        """Exchange the two parts of a join."""
        if self.arrangement is not None:
            flipped = self.arrangement.flipped.copy()
            flipped[join] = not flipped[join]
            self._rearrange(flipped, self.arrangement.folded)

    def fold(self, node: int) -> None:
        """Fold a branch into one mark, or unfold it."""
        at = self.arrangement
        if at is not None and node >= at.tree.n:
            self._rearrange(at.flipped, at.folded ^ {node})

    def fold_to_cut(self) -> None:
        """Fold each cluster into one mark."""
        if self.arrangement is not None and self.focus.cut is not None:
            branches = branches_of_cut(self.arrangement.tree, self.focus.cut)
            self._rearrange(self.arrangement.flipped, branches)

    def fold_to_size(self, size: int) -> None:
        """Fold all branches of no more than so many cases."""
        if self.arrangement is not None:
            branches = branches_up_to(self.arrangement.tree, size)
            self._rearrange(self.arrangement.flipped, branches)

    def unfold(self) -> None:
        """Show every case."""
        if self.arrangement is not None:
            self._rearrange(self.arrangement.flipped, ())

    # zoom

    @property
    def span(self) -> CaseSpan:
        """Which cases are in sight, and how large."""
        length = self.arrangement.length if self.arrangement else 0.0
        return CaseSpan(length, self._body, self.row, self.scrolled, self.upright)

    @property
    def head(self) -> float:
        """Pixels before the first case."""
        return self.span.head

    @property
    def foot(self) -> float:
        """Pixels after the last case."""
        return self.span.foot

    @property
    def whole(self) -> float:
        """Pixels that all cases take."""
        return self.row * (self.arrangement.length if self.arrangement else 0.0)

    @property
    def body(self) -> float:
        """Pixels there are for cases."""
        return self._body

    @property
    def fit(self) -> float:
        """Pixels a case at which all are in sight."""
        length = self.arrangement.length if self.arrangement else 1.0
        return min(self._body / max(length, 1.0), _MOST_FIT)

    @property
    def row(self) -> float:
        """Pixels a case."""
        return self.fit if self._row is None else max(self._row, self.fit)

    def set_length(self, pixels: float) -> None:
        """How long the columns are, with head and foot."""
        body = max(pixels - self.head - self.foot, 10.0)
        if body != self._body:
            self._body = body
            self._bound()
            self.moved.emit()

    def _bound(self) -> None:
        self.scrolled = min(max(self.scrolled, 0.0), max(self.whole - self._body, 0.0))

    def frame(self, left: float, right: float) -> Frame:
        """Where the axes of a column run now."""
        return self.span.frame(left, right)

    def scroll_to(self, pixels: float) -> None:
        """Put so many pixels out of sight before the first case seen."""
        before = self.scrolled
        self.scrolled = pixels
        self._bound()
        if self.scrolled != before:
            self.moved.emit()

    def zoom(self, factor: float, at: float | None = None) -> None:
        """Make rows higher or lower, holding the case at a pixel in its place."""
        if self.arrangement is None:
            return
        frame = self.frame(0, 1)
        at = (frame.top + frame.bottom) / 2 if at is None else at
        place, fit = frame.place(at), self.fit
        row = min(max(self.row * factor, fit), max(_MOST_ROW, fit))
        self._row = None if row <= fit * 1.001 else row
        self.scrolled = place * self.row - (at - frame.top)
        self._bound()
        self.moved.emit()

    def zoom_to_fit(self) -> None:
        """All cases in sight."""
        self._row, self.scrolled = None, 0.0
        self.moved.emit()

    def show(self, node: int) -> None:
        """Bring a node into sight."""
        if self.arrangement is None:
            return
        frame = self.frame(0, 1)
        y = frame.y(float(self.arrangement.places[node]))
        if not frame.top <= y <= frame.bottom:
            self.scroll_to(self.scrolled + y - (frame.top + frame.bottom) / 2)

    def _follow_mark(self) -> None:
        """Bring what was selected elsewhere into sight; what is hovered is left where it is."""
        mark = self.focus.selected
        if mark is not None and self.focus.hovered is None and self.focus.cut is not None:
            self.show(self.focus.nodes_of(mark)[0])

    def mark_of(self, node: int) -> Mark:
        """A node as what can be selected."""
        assert self.arrangement is not None
        cases = self.arrangement.tree.n
        return Mark("case", node) if node < cases else Mark("join", node - cases)


_MOST = 0.02  # seconds of painting after which the others wait


_PAUSE = 10  # milliseconds between turns, for clicks and keys to come through


class Turns(QObject):
    """Widgets that paint the same large thing: those that would hold the hand up paint later."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._spent = 0.0  # seconds in this turn
        self._waiting: set[QWidget] = set()

    def must_wait(self, widget: QWidget) -> bool:
        """Is this turn used up? The widget is then asked to paint in the next."""
        if self._spent <= _MOST:
            return False
        self._waiting.add(widget)
        return True

    @contextmanager
    def painting(self) -> Iterator[None]:
        """Counts what is painted inside to this turn."""
        began = time.perf_counter()
        yield
        self._spend(time.perf_counter() - began)

    def use_up(self) -> None:
        """Much else is done in this turn: all painting waits for the next."""
        self._spend(2 * _MOST)

    def _spend(self, seconds: float) -> None:
        if self._spent == 0.0:
            QTimer.singleShot(_PAUSE, self, self._next)
        self._spent += seconds

    def _next(self) -> None:
        waiting, self._waiting, self._spent = self._waiting, set(), 0.0
        for widget in waiting:
            widget.update()
