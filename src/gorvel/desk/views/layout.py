"""How a study is laid out on the screen: widgets are made anew with other looks, this stays."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QObject, Signal

from gorvel.core.plan.growth import GrowthKey
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.scene.axis import SCALES, HeightScale
from gorvel.core.study.kept import KeptTree, Looked
from gorvel.desk.state.focus import Focus
from gorvel.desk.views.case_axis import CaseAxis


class Layout(QObject):
    """Order, folds and zoom of the cases, the height axis, frames, tabs, and words not yet taken.

    Signals: rescaled(), heights are shown on another scale; framed_anew(), other counts are framed.
    """

    rescaled = Signal()
    framed_anew = Signal()

    def __init__(self, focus: Focus, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.axis = CaseAxis(focus, self)
        self.scale: HeightScale = "root"
        self.framed: frozenset[int] = frozenset()  # counts whose clusters have frames; 0 : the cut
        self.tabs: dict[str, int] = {}  # by page, the one in front
        self.reasons: dict[GrowthKey | None, str] = {}  # typed and not chosen yet, by tree
        self.of: object = None  # the data file whose desk is laid out
        self.focus = focus
        focus.contributors.append(self._add_look)
        focus.shelf.study_changed.connect(self._new_study)
        focus.tree_changed.connect(self._take_up)

    def _new_study(self) -> None:
        self.framed, self.reasons = frozenset(), {}
        self.tabs.pop("Cases", None)  # of another file the cells are looked at first

    def _take_up(self) -> None:
        """A tree is shown again as it was looked at."""
        kept = self.focus.came_with
        if kept is not None:
            self.axis.sorted_by = kept.looked.sorted_by
            self.set_frames(kept.looked.frames)
            for scale in SCALES:
                if scale == kept.looked.scale:
                    self.set_scale(scale)

    def _add_look(self, kept: KeptTree) -> KeptTree:
        """The same with how it is looked at."""
        at = self.axis.arrangement
        if at is None or at.tree is not kept.tree:
            return kept
        flipped = None if self._as_grown(at) else at.flipped
        look = Looked(flipped, at.folded, self.axis.sorted_by, self.scale, self.framed)
        return kept.with_(looked=look)

    def _as_grown(self, at: Arrangement) -> bool:
        """Do the joins stand as they do where nobody turned any?"""
        grown = self.focus.grown
        first = None if grown is None else grown.flipped
        return not at.flipped.any() if first is None else bool((at.flipped == first).all())

    def set_scale(self, scale: HeightScale) -> None:
        """Show heights as they are, or in another way."""
        self.scale = scale
        self.rescaled.emit()

    def set_frames(self, counts: Iterable[int]) -> None:
        """Put frames around the clusters of some counts; 0 for the cut, wherever it is."""
        self.framed = frozenset(counts)
        self.framed_anew.emit()
