"""Principal components: the cases in the plane of two, the variables as arrows."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QWidget

from gorvel.core.profile.components import Components
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import text
from gorvel.desk.views.points_view import PointsView, points_now
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import font

_ARROWS = 12  # variables drawn, those with the longest arrows
_REACH = 0.92  # of the places: how far the longest arrow goes


class ComponentsCard(QWidget):
    """Follows the tree; the cut in hand colours it."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.profiling, self.focus = profiling, actions.focus
        self.view = PointsView(self.focus, "Principal components")
        self.across, self.along = QComboBox(), QComboBox()
        self.next = QCheckBox("One more cluster")
        self.next.setToolTip("Dashed: what one more cluster would split")
        self.says = text(size=0.86, soft=True)
        head = QHBoxLayout()
        for box, name in ((self.across, "Component across"), (self.along, "Component along")):
            box.setAccessibleName(name)
            box.setFont(font(0.93))
            box.currentIndexChanged.connect(self._show)
            head.addWidget(box)
        head.addWidget(self.next)
        head.addStretch(1)
        self.take = TakeAway.of(actions, "components", self.sheet)
        head.addWidget(self.take)
        fill(self, head, (self.view, 1), self.says)
        self.next.toggled.connect(self._show)
        profiling.components.changed.connect(self._found)
        WhenSeen(
            self, self._follow, self.focus.tree_changed, self.focus.cut_changed,
            self.focus.titles_changed,
        ).follow()  # fmt: skip

    def _follow(self) -> None:
        self.profiling.ask_components()
        self._found()

    def _found(self) -> None:
        found = self.profiling.principal_components
        count = 0 if found is None else len(found.explained)
        for place, box in enumerate((self.across, self.along)):
            chosen = max(box.currentIndex(), 0) or place
            with QSignalBlocker(box):
                box.clear()
                for k in range(count):
                    assert found is not None
                    box.addItem(f"component {k + 1} ({found.explained[k]:.0%})", k)
                box.setCurrentIndex(min(chosen, count - 1))
        self._show()

    def _axes(self, found: Components) -> tuple[int, int]:
        last = len(found.explained) - 1
        return max(self.across.currentIndex(), 0), min(max(self.along.currentIndex(), 0), last)

    def _show(self) -> None:
        found = self.profiling.principal_components
        grown = self.focus.grown
        for widget in (self.across, self.along, self.next):
            widget.setVisible(found is not None)
        if found is None or grown is None or len(found.places) != grown.tree.n:
            self.view.show_points(None)
            waiting = self.profiling.components.job is not None
            self.says.setText(
                ""
                if waiting
                else "Components need cases and at least two numeric or yes/no variables."
            )
            return
        one, other = self._axes(found)
        places = found.places[:, [one, other]]
        loadings = found.loadings[:, [one, other]]
        length = np.hypot(loadings[:, 0], loadings[:, 1])
        room = np.where(loadings > 0, places.max(axis=0), -places.min(axis=0))
        with np.errstate(divide="ignore", invalid="ignore"):
            reach = np.where(loadings != 0, room / np.abs(loadings), np.inf)
        scale = _REACH * float(reach[length > 0.3 * length.max(initial=0.0)].min(initial=np.inf))
        scale = scale if np.isfinite(scale) else 1.0
        chosen = np.argsort(-length, kind="stable")[:_ARROWS]
        arrows = [(found.names[j], *(scale * loadings[j]).tolist()) for j in chosen.tolist()]
        across, along = (f"component {k + 1}, {found.explained[k]:.0%}" for k in (one, other))
        shadow = self.next.isChecked()
        self.view.show_points(
            points_now(self.focus, places, across, along, arrows=arrows, shadow=shadow)
        )
        self.says.setText(_words(found, one, other, len(arrows)))

    def sheet(self) -> Sheet | None:
        """The plane for print."""
        return self.view.sheet("Principal components")


def _words(found: Components, one: int, other: int, arrows: int) -> str:
    both = found.explained[one] + (found.explained[other] if other != one else 0.0)
    words = (
        f"From the correlations of {len(found.names)} variables; these two account for "
        f"{both:.0%} of the variance. Arrows point to higher answers."
    )
    if arrows < len(found.names):
        words += f" The {arrows} longest of {len(found.names)} are shown."
    if found.gaps:
        words += " Missing answers are set to the mean."
    if found.left_out:
        names = ", ".join(found.left_out[:4]) + (" …" if len(found.left_out) > 4 else "")
        words += f" Excluded: {names}."
    return words
