"""Growing the tree: the button, and while it runs its progress, the time left, and the way out."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QWidget

from gorvel.desk.controls.arranging import centred, fill, fill_row
from gorvel.desk.controls.following import OnceATurn, WhenSeen
from gorvel.desk.controls.job_bar import JobBar
from gorvel.desk.controls.texts import block, button, heading, mark_due, panel, text
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import Job
from gorvel.paint.theme import SPACE

_BOX = 460  # pixels of the box of an empty page


class GrowBar(QWidget):
    """One button, or progress with a cancel, whichever the moment asks for."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts = actions
        self.grow = button("Grow the tree", actions.grow, "main", "Ctrl+G")
        self.words = text(soft=True)
        self.bar = JobBar(self._show_progress, self.words)
        self.stop = button("Stop", actions.stop_growing, tip="Esc: the previous tree stays")
        self._work = QWidget()
        fill(self._work, self.words, self.bar, self.stop, space=SPACE)
        fill(self, (self.grow, 0, Qt.AlignmentFlag.AlignRight), self._work, space=SPACE)
        self._show_progress(False)
        actions.growing.connect(self._follow)
        WhenSeen(
            self, self._name, actions.focus.tree_changed, actions.focus.prepared_changed,
            actions.focus.shelf.plan_changed,
        )  # fmt: skip
        self._name()

    def _name(self) -> None:
        focus = self.acts.focus
        again = focus.grown is not None
        self.grow.setText("Grow the tree again" if again else "Grow the tree")
        self.grow.setEnabled(focus.prepared is not None)
        due = not again or focus.out_of_date
        mark_due(self.grow, due)

    def _show_progress(self, shown: bool) -> None:
        self.grow.setVisible(not shown)
        self._work.setVisible(shown)

    def _follow(self, job: Job | None) -> None:
        self.bar.watch(job, "Preparing the cases …")


class NoTree(QWidget):
    """A page that has nothing to show yet: what is missing, and the way to it."""

    def __init__(
        self, actions: Actions, title: str, words: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        box = panel()
        box.setFixedWidth(_BOX)
        self.grow = GrowBar(actions)
        fill(
            box, heading(title, "result"), block(words, _BOX - 8 * SPACE), self.grow, space=SPACE,
            edges=(4 * SPACE, 3 * SPACE, 4 * SPACE, 3 * SPACE),
        )  # fmt: skip
        centred(self, box)


class StuckBar(QFrame):
    """Shown while the plan cannot run: why, and the way to its page. Signal: plan_wanted()."""

    plan_wanted = Signal()

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = actions.focus
        self.words = text(weight=600)
        self.words.setProperty("alarm", True)
        fill_row(
            self, (self.words, 1), button("Show the plan", self.plan_wanted.emit, "", "Alt+2"),
            space=None, edges=(2 * SPACE, 0, 2 * SPACE, 0),
        )  # fmt: skip
        self.follow(False)

    def follow(self, on_plan: bool) -> None:
        """The Plan page says it by itself."""
        problem = self.focus.problem
        self.words.setText(f"The plan cannot run. {problem}" if problem else "")
        self.setVisible(bool(problem) and not on_plan)


class StaleBar(QFrame):
    """Shown while the tree is not the one of the plan in force."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = actions.focus
        self.setProperty("panel", True)
        words = text("The plan has changed since this tree was grown.", weight=600)
        words.setProperty("alarm", True)
        self.grow = GrowBar(actions)
        fill_row(self, (words, 1), self.grow, space=None, edges=(2 * SPACE, 4, SPACE, 4))
        OnceATurn(
            self, self._follow, self.focus.tree_changed, self.focus.shelf.plan_changed
        ).follow()

    def _follow(self) -> None:
        self.setVisible(self.focus.out_of_date)
