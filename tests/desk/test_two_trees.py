"""Two trees on the screen: each has its own cut, marks and work, and no study is needed."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QHBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from driving import click, moved
from gorvel.core.scene.arrangement import laid_out
from gorvel.desk.state.marks import Mark
from gorvel.desk.state.tree_focus import TreeFocus
from gorvel.desk.views import proximities_view
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.desk.views.icicle_view import IcicleView
from gorvel.desk.views.labels_view import LabelsView
from gorvel.desk.views.proximities_view import ProximitiesView
from gorvel.desk.window.application import make_application
from gorvel.desk.work.jobs import JobKind, Jobs
from studies import study

NONE = Qt.MouseButton.NoButton


class Beside(QWidget):
    """One tree with three columns."""

    def __init__(self, jobs: Jobs, linkage: str, clusters: int) -> None:
        super().__init__()
        self.focus = TreeFocus(self)
        self.axis = CaseAxis(self.focus, self)
        grown = study(np.random.default_rng(2).normal(size=(50, 3)), "euclidean", linkage)
        self.focus.put_tree(grown, laid_out(grown.tree))
        self.focus.set_count(clusters)
        self.focus.tree_changed.emit()
        row = QHBoxLayout(self)
        self.labels = LabelsView(self.axis)
        self.icicle = IcicleView(self.axis)
        self.proximities = ProximitiesView(self.axis, jobs)
        for column in (self.labels, self.icicle, self.proximities):
            row.addWidget(column)


def test_trees_side_by_side_leave_each_other_alone(qtbot: QtBot, monkeypatch: object) -> None:
    make_application()
    monkeypatch.setattr(proximities_view, "_AT_ONCE", 0)  # type: ignore[attr-defined]
    jobs, both = Jobs(), QWidget()
    qtbot.addWidget(both)
    one, other = Beside(jobs, "ward", 3), Beside(jobs, "single", 5)
    row = QHBoxLayout(both)
    row.addWidget(one)
    row.addWidget(other)
    both.resize(1100, 500)
    with qtbot.waitExposed(both):
        both.show()

    def measured() -> bool:
        return all(side.proximities._ready is not None for side in (one, other))

    qtbot.waitUntil(measured)  # neither took the place of the other
    qtbot.waitUntil(lambda: jobs.idle)
    assert not jobs.busy(JobKind.PROXIMITIES, one.focus)
    for side in (one, other):
        image, patch = side.proximities._ready  # type: ignore[misc]
        at, pairs = side.axis.arrangement, side.focus.grown.pairs  # type: ignore[union-attr]
        order = at.order  # type: ignore[union-attr]
        own = pairs.block(order[patch.rows], order[patch.columns])
        np.testing.assert_array_equal(patch.values, own)
        assert not image.isNull()
    before = other.grab().toImage()
    frame = one.icicle.frame()
    x = one.icicle.picture(one.axis.look()).x(frame, 7.5)  # type: ignore[arg-type]
    click(qtbot, one.icicle, x, frame.bottom + 8)
    assert (one.focus.cut.clusters, other.focus.cut.clusters) == (7, 5)  # type: ignore[union-attr]
    click(qtbot, one.labels, 60, one.labels.frame().y(4.5))
    case = int(one.axis.arrangement.order[4])  # type: ignore[union-attr]
    assert one.focus.selected == Mark("case", case)
    assert other.focus.selected is None
    other.labels.mouseMoveEvent(moved(other.labels, 60, 60, NONE))
    assert other.focus.hovered is not None
    assert one.focus.hovered is None
    other.labels.mouseMoveEvent(moved(other.labels, 60, 2, NONE))
    qtbot.waitUntil(lambda: other.grab().toImage() == before)
    edited: list[bool] = []
    other.focus.edited.connect(edited.append)
    other.focus.set_height(1e9)
    assert edited == [True]
    assert other.focus.cut.clusters == 1  # type: ignore[union-attr]
    assert other.childAt(QPoint(20, 100)) is not None
    jobs.finish()
