"""What is in sight follows a change once; what is hidden does no work until it is seen."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from functools import partial

import pytest
import shiboken6
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from driving import settled
from gorvel.core.scene.arrangement import laid_out
from gorvel.desk.controls.following import OnceATurn, WhenSeen
from gorvel.desk.editors.tree_summary_panel import TreeSummaryPanel
from gorvel.desk.pages.compare.page import ComparePage
from gorvel.desk.pages.count.checks_card import ChecksCard
from gorvel.desk.pages.count.choice_card import ChoiceCard
from gorvel.desk.pages.count.evidence_card import EvidenceCard
from gorvel.desk.pages.count.page import CountPage
from gorvel.desk.pages.count.silhouettes_card import SilhouettesCard
from gorvel.desk.pages.memberships import MembershipsPage
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.pages.profiles.questions_card import QuestionsCard
from gorvel.desk.state.turn import TURN, in_one_turn
from gorvel.desk.views.lanes_view import LanesView
from gorvel.desk.window.window import Window

FOLLOW = (
    (Window, "_show_path"), (TreeSummaryPanel, "_follow"), (CountPage, "_follow"),
    (ChoiceCard, "_follow"), (ChecksCard, "_follow"), (SilhouettesCard, "_follow"),
    (EvidenceCard, "_follow"), (ProfilesPage, "_follow"), (QuestionsCard, "_follow"),
    (LanesView, "show_lanes"), (ComparePage, "_follow"), (MembershipsPage, "_follow"),
)  # fmt: skip
IN_SIGHT = {  # by page
    2: {"TreeSummaryPanel"}, 3: {"CountPage", "ChoiceCard"},
    4: {"ProfilesPage", "QuestionsCard", "LanesView"}, 5: {"ComparePage"}, 6: {"MembershipsPage"},
}  # fmt: skip


class Told(QObject):
    """Signals that come together."""

    one, other = Signal(), Signal()

    @in_one_turn
    def both(self) -> None:
        self.one.emit()
        with TURN:  # part of the same
            self.other.emit()
            self.one.emit()


def test_signals_that_come_together_are_followed_once(qtbot: QtBot) -> None:
    told, widget, seen = Told(), QWidget(), []
    qtbot.addWidget(widget)
    OnceATurn(widget, partial(seen.append, "always"), told.one, told.other)
    WhenSeen(widget, partial(seen.append, "seen"), told.one, told.other)
    told.both()
    told.both()
    assert seen == ["always", "always"]
    widget.show()
    assert seen == ["always", "always", "seen"]  # late, but once
    told.both()
    assert sorted(seen[3:]) == ["always", "seen"]
    told.other.emit()  # outside of a turn at once
    assert sorted(seen[5:]) == ["always", "seen"]


def test_a_follower_that_is_gone_is_passed_over_and_errors_end_the_turn(qtbot: QtBot) -> None:
    told, widget, seen = Told(), QWidget(), []
    qtbot.addWidget(widget)
    gone = OnceATurn(widget, partial(seen.append, "gone"), told.one)
    OnceATurn(widget, partial(seen.append, "there"), told.one)

    def change() -> None:
        with TURN:
            told.one.emit()
            shiboken6.delete(gone)
            raise ValueError("an error")

    with pytest.raises(ValueError, match="an error"):
        change()
    assert seen == ["there"]
    told.both()
    assert seen == ["there", "there"]


@pytest.fixture
def runs(monkeypatch: pytest.MonkeyPatch) -> Counter[str]:
    """How often each has followed."""
    found: Counter[str] = Counter()

    def counted(name: str, act: Callable[..., None]) -> Callable[..., None]:
        def run(widget: QWidget, *told: object) -> None:
            found[name] += 1
            act(widget, *told)

        return run

    for kind, name in FOLLOW:
        monkeypatch.setattr(kind, name, counted(kind.__name__, getattr(kind, name)))
    return found


@pytest.mark.parametrize("page", IN_SIGHT)
def test_a_cut_a_step_and_a_tree_refresh_what_is_in_sight_once(
    runs: Counter[str], grown: Window, qtbot: QtBot, page: int
) -> None:
    for other in (0, 1, 2, 3, 4, 5, 6, page):
        grown.go_to(other)
        settled(grown, qtbot)
    runs.clear()
    grown.focus.set_count(6)
    assert runs == {"Window": 1} | dict.fromkeys(IN_SIGHT[page], 1)
    settled(grown, qtbot)
    runs.clear()
    focus, plan = grown.focus, grown.focus.shelf.plan
    assert plan is not None
    assert focus.grown is not None
    other = plan.with_("tree", linkage="average")
    focus.set_grown(other, focus.grown, laid_out(focus.grown.tree))
    assert runs == {"Window": 1} | dict.fromkeys(IN_SIGHT[page], 1)
    settled(grown, qtbot)
    QApplication.processEvents()
