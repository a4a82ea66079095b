"""How a study is laid out on the screen: widgets are made anew with other looks, this stays."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QObject, Signal

from gorvel.core.scene.axis import HeightScale
from gorvel.desk.state import Focus
from gorvel.desk.views.case_axis import CaseAxis

__all__ = ["Layout"]


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
        self.reasons = ""  # for a count, typed and not taken yet
        self.of: object = None  # the data file whose desk is laid out
        focus.study_changed.connect(self._new_study)

    def _new_study(self) -> None:
        self.framed, self.reasons = frozenset(), ""

    def set_scale(self, scale: HeightScale) -> None:
        """Show heights as they are, or in another way."""
        self.scale = scale
        self.rescaled.emit()

    def set_frames(self, counts: Iterable[int]) -> None:
        """Put frames around the clusters of some counts; 0 for the cut, wherever it is."""
        self.framed = frozenset(counts)
        self.framed_anew.emit()
