"""Are there groups, and how many: the verdict across the Count page, driven by hand."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import click
from gorvel.core.count.null import verdict_simulation as trial_module
from gorvel.core.count.null.evidence import evidence_of_groups
from gorvel.core.plan.file import load_plan
from gorvel.core.study.opening import load_study
from gorvel.core.words.conclusion import trial_words
from gorvel.desk.window.window import Window
from gorvel.desk.work import questions as questions_module
from gorvel.desk.work.jobs import JobKind
from gorvel.main import DEMO

LEFT = Qt.MouseButton.LeftButton
Opener = Callable[[Path], Window]


def csv(path: Path, x: np.ndarray) -> Path:
    names = ",".join(f"q{j + 1}" for j in range(x.shape[1]))
    np.savetxt(path, x, fmt="%.5g", delimiter=",", header=names, comments="")
    return path


def grown_from(window: Window, qtbot: QtBot, draws: int = 30) -> Window:
    """All columns in use, z-scores, so many draws, the tree grown, the Count page in sight."""
    names = window.focus.shelf.study.source.names
    window.focus.shelf.change_by(lambda plan: plan.using(names))
    window.focus.shelf.change("scale", method="zscore")
    window.focus.shelf.change("count", resamples=draws)
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.go_to(3)
    return window


def answered(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: window.counting.checks.groups is not None
                    and not window.counting.at_work("groups"))  # fmt: skip


def test_the_demo_is_asked_at_once_and_its_verdict_taken(grown: Window, qtbot: QtBot) -> None:
    grown.go_to(3)
    page, counting = grown.count, grown.counting
    answered(grown, qtbot)
    core = evidence_of_groups(grown.focus.grown, counting.asked)
    np.testing.assert_array_equal(counting.checks.groups.drawn, core.drawn)
    assert page.verdict.head.text() == "There are groups; the rules favour five."
    assert "none had silhouettes this large (p = 0.050)" in page.verdict.words.text()
    at = page.evidence.view.chart()
    assert at.band is not None
    assert at.at(at.x(3), 9) == 5
    assert "5 clusters: silhouette 0.366; without groups" in at.tip(5)
    click(qtbot, page.evidence.view, at.x(1), 40)
    assert grown.focus.cut.clusters == 3
    assert page.verdict.next.text() == "Choose 5"
    qtbot.mouseClick(page.verdict.next, LEFT)  # a reason is asked for: a draft stands there
    assert grown.focus.cut.clusters == 5
    drafted = page.choice.reasons.toPlainText()
    assert drafted.startswith("There are groups: of 19 simulated data sets with")
    qtbot.mouseClick(page.verdict.next, LEFT)
    asked = grown.focus.shelf.plan.counting
    assert (asked.chosen, asked.reasons) == (5, drafted)


@pytest.mark.slow
def test_what_speaks_against_it_opens_and_the_verdict_is_copied(
    grown: Window, qtbot: QtBot
) -> None:
    grown.go_to(3)
    page = grown.count
    answered(grown, qtbot)
    grown.focus.shelf.change("count", left_out=["silhouette", "davies-bouldin", "mojena",
                                                "calinski-harabasz", "duda-hart"])  # fmt: skip
    assert "favour seven" in page.verdict.head.text()
    assert page.verdict.more.text() == "Caveats (1)"
    assert not page.verdict.against.isVisible()
    qtbot.mouseClick(page.verdict.more, LEFT)
    assert page.verdict.against.isVisible()
    assert page.verdict.against.text() == "The smallest of 7 clusters has 2 cases (1%)."
    qtbot.mouseClick(page.verdict.copy, LEFT)
    lines = QApplication.clipboard().text().splitlines()
    assert lines[0].startswith("There are groups: of 19 simulated data sets with")
    assert lines[1:] == [page.verdict.against.text()]
    grown.focus.shelf.undo()
    assert "favour five" in page.verdict.head.text()
    assert not page.verdict.against.isVisible()


@pytest.mark.slow
def test_a_study_without_groups_ends_in_a_sentence_that_says_so(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    noise = np.random.default_rng(5).normal(size=(80, 5))
    window = grown_from(opened(csv(tmp_path / "noise.csv", noise)), qtbot)
    page = window.count
    answered(window, qtbot)
    assert page.verdict.head.text() == "No evidence of groups in these data."
    assert page.verdict.next.text() == "Record in reasons"
    qtbot.mouseClick(page.verdict.copy, LEFT)
    says = "No evidence of groups in these data: of 30 simulated data sets with"
    assert QApplication.clipboard().text().startswith(says)
    qtbot.mouseClick(page.verdict.next, LEFT)
    assert page.choice.reasons.hasFocus()
    assert page.choice.reasons.toPlainText().startswith(says)
    qtbot.keyClick(page.choice.reasons, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert window.focus.shelf.plan.counting.reasons.startswith(says)
    assert window.acts.files.save_plan(tmp_path / "p.toml")
    assert window.acts.files.written()
    assert load_plan(tmp_path / "p.toml").counting.reasons.startswith(says)


@pytest.mark.slow
def test_drawing_is_shown_stopped_and_what_is_there_is_kept(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    x = np.random.default_rng(1).normal(size=(300, 4))
    window = grown_from(opened(csv(tmp_path / "t.csv", x)), qtbot, draws=5000)
    page, counting = window.count, window.counting
    qtbot.waitUntil(lambda: counting.complete)
    assert counting.checks.groups is None  # so many draws are for the user to begin
    assert page.verdict.next.text() == "Are there groups?"
    assert "groups were not tested" in page.verdict.head.text()
    qtbot.mouseClick(page.verdict.next, LEFT)
    qtbot.waitUntil(lambda: counting.checks.groups is not None and page.evidence.stop.isVisible())
    assert not page.evidence.ask.isVisible()
    assert page.evidence.view.chart().band is not None
    assert page.verdict.head.text() == "Testing whether there are groups …"
    assert "data sets" in page.verdict.words.text()  # a first verdict where the machine is busy
    assert not page.verdict.next.isVisible()
    qtbot.mouseClick(page.evidence.stop, LEFT)
    qtbot.waitUntil(lambda: not counting.at_work("groups"))
    draws = counting.checks.groups.draws
    assert "Comparing" not in page.verdict.head.text()
    assert page.verdict.next.isVisible()
    assert 2 <= draws < 5000
    assert f"f {draws:,} simulated data sets" in page.verdict.words.text()
    assert page.evidence.ask.text() == "Run again"
    assert counting._checked_by["groups"].resamples == draws
    fewer = counting.asked.model_copy(update={"resamples": min(draws, 6)})
    np.testing.assert_array_equal(
        counting.checks.groups.drawn[:6], evidence_of_groups(window.focus.grown, fewer).drawn
    )
    page.last.setValue(5)  # other counts: what was drawn is of the old ones
    assert counting.checks.groups is None


@pytest.mark.slow
def test_large_studies_are_asked_when_the_user_asks(
    grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(questions_module, "_AT_ONCE", 100)
    grown.go_to(3)
    qtbot.waitUntil(lambda: grown.counting.complete)
    assert not grown.acts.jobs.busy(JobKind.GROUPS)
    assert grown.count.verdict.next.text() == "Are there groups?"
    assert grown.count.evidence.more.text().startswith("Data without groups are simulated")
    qtbot.mouseClick(grown.count.evidence.ask, LEFT)
    answered(grown, qtbot)
    assert grown.count.verdict.next.text() == "Choose 5"
    shown = grown.count.evidence.take.table()
    assert shown.heads[0] == "clusters"
    assert [row[0] for row in shown.rows] == list(range(2, 11))
    sheet = grown.count.evidence.take.picture()
    assert "without groups" in sheet.title


@pytest.mark.slow
def test_a_rule_chosen_on_the_board_is_told_of(grown: Window, qtbot: QtBot) -> None:
    grown.go_to(3)
    page = grown.count
    qtbot.waitUntil(lambda: grown.counting.complete)
    assert page._cards.currentWidget() is page.evidence
    grown.counting.select("dunn")
    assert page._cards.currentWidget() is page.rule
    page.show_tab(3)
    grown.counting.select("mojena")
    assert page._cards.currentWidget() is page.checks


@pytest.mark.slow
def test_looks_may_change_while_data_are_drawn(grown: Window, qtbot: QtBot) -> None:
    grown.focus.shelf.change("count", resamples=4000)
    grown.go_to(3)
    qtbot.waitUntil(lambda: grown.counting.complete)
    grown.counting.check("groups")
    qtbot.waitUntil(lambda: grown.counting.checks.groups is not None)
    grown.other_theme()
    page = grown.count
    qtbot.waitUntil(lambda: page.evidence.stop.isVisible() and page.evidence.bar.value() > 0)
    qtbot.mouseClick(page.evidence.stop, LEFT)
    qtbot.waitUntil(lambda: page.evidence.ask.isVisible())


def test_few_cases_have_no_verdict(opened: Opener, qtbot: QtBot, tmp_path: Path) -> None:
    window = grown_from(opened(csv(tmp_path / "t.csv", np.arange(6.0).reshape(3, 2))), qtbot)
    answered(window, qtbot)
    assert window.counting.checks.groups.why == "3 cases are too few"
    assert "3 cases are too few" in window.count.evidence.more.text()
    assert not window.count.evidence.view.isVisible()
    assert window.count.verdict.isVisible()


@pytest.mark.slow
def test_a_study_keeps_what_was_drawn(grown: Window, qtbot: QtBot, tmp_path: Path) -> None:
    grown.go_to(3)
    answered(grown, qtbot)
    drawn = grown.counting.checks.groups.drawn
    assert grown.acts.files.save_study(tmp_path / "s.gorvel")
    assert grown.acts.files.written()
    with qtbot.waitSignal(grown.acts.opened):
        grown.acts.open(DEMO / "services.toml")
    with qtbot.waitSignal(grown.acts.opened):
        grown.acts.open(tmp_path / "s.gorvel")
    grown.go_to(3)
    qtbot.waitUntil(lambda: grown.counting.complete)
    np.testing.assert_array_equal(grown.counting.checks.groups.drawn, drawn)
    assert not grown.acts.jobs.busy(JobKind.GROUPS)
    assert grown.count.verdict.head.text() == "There are groups; the rules favour five."


@pytest.mark.slow
def test_the_verdict_is_tried_stopped_gone_on_with_and_kept(
    grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr(trial_module, "TRIALS", 4)
    grown.go_to(3)
    page, counting = grown.count, grown.counting
    answered(grown, qtbot)
    assert page.verdict.trying.text() == "Check error rate"
    qtbot.mouseClick(page.verdict.trying, LEFT)
    qtbot.waitUntil(lambda: counting.checks.trial is not None)
    assert page.verdict.trying.text() == "Stop"
    qtbot.mouseClick(page.verdict.trying, LEFT)
    qtbot.waitUntil(lambda: not counting.at_work("trial"))
    done = counting.checks.trial
    assert 1 <= len(done.without) <= 4
    assert page.verdict.trying.text() == "Check further"
    monkeypatch.setattr(trial_module, "TRIALS", 1)
    qtbot.mouseClick(page.verdict.trying, LEFT)
    qtbot.waitUntil(lambda: not counting.at_work("trial"))
    after = counting.checks.trial
    assert after.without[: len(done.without)] == done.without
    assert len(after.planted) == len(done.planted) + 1
    assert page.verdict.tried.text() == trial_words(after)
    qtbot.mouseClick(page.verdict.copy, LEFT)
    assert trial_words(after) in QApplication.clipboard().text()
    assert grown.acts.files.save_study(tmp_path / "s.gorvel")
    assert grown.acts.files.written()
    kept = load_study(tmp_path / "s.gorvel").kept
    assert next(iter(kept.values())).checks.trial == after


@pytest.mark.slow
def test_many_plans_tried_on_the_same_data_speak_against_it(grown: Window, qtbot: QtBot) -> None:
    for linkage in ("average", "complete", "average", "ward"):
        grown.focus.shelf.change("tree", linkage=linkage)
        with qtbot.waitSignal(grown.focus.tree_changed):
            grown.acts.grow()
    grown.go_to(3)
    answered(grown, qtbot)
    assert len(grown.focus.tried) == 3  # ward, average, complete: the same plan twice is one
    qtbot.mouseClick(grown.count.verdict.more, LEFT)
    assert grown.count.verdict.against.text().startswith("3 plans were tried on these data")
    with qtbot.waitSignal(grown.acts.opened):
        grown.acts.open(DEMO / "services.toml")
    assert grown.focus.tried == set()
