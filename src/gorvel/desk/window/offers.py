"""What happened and what can be done about it: said in a bar, with offers to click."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gorvel.core.words.differences import tree_name
from gorvel.desk.controls.notice import Notice
from gorvel.desk.window.dialogs import Dialogs
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.autosave import Leftover

_KEEP = "Keep it on the shelf"


class Offers(QObject):
    """Follows what the actions tell. Signals: kept(), the tree before was put on the shelf.

    notice : gives the bar, which is made anew with other looks.
    """

    kept = Signal()

    def __init__(
        self, actions: Actions, dialogs: Dialogs, notice: Callable[[], Notice],
        parent: QObject | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.acts, self.focus, self.dialogs, self.notice = actions, actions.focus, dialogs, notice
        actions.broken.connect(self._rescue)
        actions.shared.connect(self._shared)
        actions.taken_up.connect(self._left)
        self.focus.displaced_changed.connect(self._displaced)

    def _displaced(self) -> None:
        """A tree made way for another without being kept: it still can be."""
        trees = self.focus.displaced
        if trees:
            words = f"The previous tree ({tree_name(trees[0].plan)}) was replaced."
            self.notice().say(words, (_KEEP, self._keep))
        elif self.notice().offer(_KEEP):
            self.notice().say("")

    def _keep(self) -> None:
        self.focus.keep_displaced()
        self.kept.emit()

    def _rescue(self, path: Path, why: str) -> None:
        words = f"{why}. The undamaged parts can be opened."
        self.notice().say(words, ("Open what can be read", lambda: self.acts.open_left_of(path)))

    def _shared(self, where: str) -> None:
        file = self.focus.shelf.file
        assert file is not None
        words = f"{file.name} is already open {where}: here it is read-only."
        self.notice().say(words, ("Save under another name", self.dialogs.save_study_as))

    def _left(self, left: Leftover, lost: tuple[str, ...]) -> None:
        """It is as it was left; there is a way back to what was saved."""
        study, file = self.focus.shelf.study, left.file
        assert study is not None
        saved = file or study.plan_file or study.data_file
        words = f"Unsaved changes to {saved.name} were restored."
        if lost:
            words += f" Lost: {'; '.join(lost)}. Grow again."
        back = (
            "Revert to the saved version"
            if file or study.plan_file
            else "Discard them and start again"
        )
        self.notice().say(
            words, ("Save", self.dialogs.save_study), (back, lambda: self.acts.open(saved))
        )
