"""The verdict across the top of the Count page, what speaks against it, and the next step."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFrame, QLabel, QWidget

from gorvel.core.words.conclusion import (
    against,
    basis_words,
    conclusion_sentence,
    headline,
    trial_words,
    tried_words,
)  # fmt: skip
from gorvel.desk.controls.arranging import fill_row, in_column, in_row
from gorvel.desk.controls.texts import button, heading, text
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.counting import Counting
from gorvel.paint.theme import SPACE, current, font

_LOOKING = "Testing whether there are groups …"
_SIGNS = {"yes": "✓", "unsure": "?", "no": "–", None: "·"}


class VerdictBar(QFrame):
    """Says what it all comes to. take, draft : take a count; write the verdict into the reasons."""

    def __init__(
        self,
        actions: Actions,
        counting: Counting,
        take: Callable[[], None],
        draft: Callable[[], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.acts, self.counting = actions, counting
        self._take, self._draft = take, draft
        self.setProperty("panel", True)
        self.setObjectName("verdict")
        self.sign = QLabel("·")
        self.sign.setFixedSize(28, 28)
        self.sign.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.sign.setFont(font("title", 600))
        self.head = heading("", "result")
        self.head.setAccessibleName("Verdict")
        self.words = text(soft=True)
        self.words.setAccessibleName("What the verdict rests on")
        self.tried = text(soft=True)
        self.tried.setAccessibleName("How often the verdict is right")
        tip = "On simulated studies like this one, with and without groups"
        self.trying = button("Check error rate", self._try, "", tip)
        self.against = text()
        self.against.setAccessibleName("Caveats")
        self.against.setVisible(False)
        self.more = button("", self._toggle, "link")
        self.copy = button("Copy", self._copy, "link")
        self.next = button("", self._go_on, "main")
        first = in_row(
            (self.head, 1), self.more, self.trying, self.copy, self.next, space=2 * SPACE
        )
        told = in_column(first, self.words, self.tried, self.against, space=0)
        row = in_row((self.sign, 0, Qt.AlignmentFlag.AlignTop), (told, 1), space=2 * SPACE)
        fill_row(self, row, edges=(2 * SPACE, 6, 2 * SPACE, 6))
        for what in ("groups", "trial"):
            counting.work[what].worked.connect(self._worked)
        self.follow()

    @property
    def _sentences(self) -> list[str]:
        """The verdict, then what speaks against it."""
        told, board = self.counting.conclusion, self.counting.board
        if told is None or board is None or self.counting.undecided:
            return []
        found, trial = self.counting.checks.groups, self.counting.checks.trial
        tried = [] if trial is None else [trial_words(trial)]
        return [conclusion_sentence(told, found, board.of), *tried, *self._counter]

    @property
    def _counter(self) -> list[str]:
        """What speaks against the verdict, in sentences."""
        told, board = self.counting.conclusion, self.counting.board
        if told is None or board is None or self.counting.undecided:
            return []
        plans = tried_words(len(self.counting.focus.tried))
        beside = self.counting.asked.groups_by
        found = against(told, board, self.counting.checks.groups, beside=beside)
        return [*found, plans] if plans else found

    def _worked(self, job: object) -> None:
        self.follow()

    def follow(self) -> None:
        """Another board, check or plan."""
        told, board, theme = self.counting.conclusion, self.counting.board, current()
        working = self.counting.at_work("groups")
        sure = told is not None and told.groups == "yes" and not working
        known = told is not None and told.groups is not None and not working
        bar = theme.focus if sure else theme.bar if known else theme.line
        self.setStyleSheet(
            f"#verdict {{ border: 1px solid {theme.line}; border-left: 4px solid {bar}; }}"
        )
        ground = theme.focus if sure else theme.bar
        self.sign.setStyleSheet(f"background: {ground}; color: {theme.panel}; border-radius: 14px;")
        self.setVisible(told is not None and board is not None and bool(board.counts))
        if told is None or board is None:
            return
        self.sign.setText("…" if working else _SIGNS[told.groups])
        found, trial = self.counting.checks.groups, self.counting.checks.trial
        counter = self._counter
        self.head.setText(_LOOKING if working else headline(told))
        undecided = self.counting.undecided
        self.words.setText(self._so_far if undecided else basis_words(told, found, board.of))
        self.copy.setVisible(not undecided)
        self.tried.setText("" if trial is None else trial_words(trial))
        self.tried.setVisible(trial is not None)
        self.trying.setVisible(told.groups is not None and not working)
        trying = self.counting.at_work("trial")
        self.trying.setText(
            "Stop" if trying else "Check further" if trial is not None else "Check error rate"
        )
        self.against.setText("\n".join(counter))
        self.more.setVisible(bool(counter))
        self.more.setText(f"Caveats ({len(counter)})")
        self.against.setVisible(bool(counter) and self.against.isVisibleTo(self))
        self.next.setVisible(not working)
        if told.groups is None and self.counting.checks.groups is None:
            self.next.setText("Are there groups?")
        elif told.count is not None and told.groups in ("yes", None):
            self.next.setText(f"Choose {told.count}")
        else:
            self.next.setText("Record in reasons")

    @property
    def _so_far(self) -> str:
        """How much is drawn; more cannot be said yet."""
        found, asked = self.counting.checks.groups, self.counting.asked.resamples
        drawn = 0 if found is None else found.draws
        return f"{drawn:,} of {asked:,} data sets without groups simulated."

    def _try(self) -> None:
        if self.counting.at_work("trial"):
            self.counting.work["trial"].stop()
        else:
            self.counting.questions.try_verdict()

    def _toggle(self) -> None:
        self.against.setVisible(not self.against.isVisible())

    def _copy(self) -> None:
        QApplication.clipboard().setText("\n".join(self._sentences))
        self.acts.said.emit("Copied.", False)

    def _go_on(self) -> None:
        told = self.counting.conclusion
        if told is None:
            return
        if told.groups is None and self.counting.checks.groups is None:
            self.counting.check("groups")
        elif told.count is not None and told.groups in ("yes", None):
            self.counting.focus.set_count(told.count)
            self._take()
        else:
            self._draft()
