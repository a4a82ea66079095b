"""The first page: open a file, go on with a recent one, or look at the demo."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from gorvel.desk.actions import Actions
from gorvel.desk.theme import SPACE
from gorvel.desk.widgets.texts import block, button, heading, panel

__all__ = ["WelcomePage"]

_WIDE = 560


class WelcomePage(QWidget):
    """Says what to do first."""

    def __init__(
        self,
        actions: Actions,
        ask_for_file: Callable[[], None],
        demo: Path,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.acts = actions
        box = panel()
        box.setFixedWidth(_WIDE)
        inside = QVBoxLayout(box)
        inside.setContentsMargins(5 * SPACE, 4 * SPACE, 5 * SPACE, 4 * SPACE)
        inside.setSpacing(SPACE)
        inside.addWidget(heading("Group cases by what they have in common", 1.57))
        inside.addWidget(
            block(
                "Open a table with one row for each case: a survey export as CSV, TSV, XLSX, ODS"
                " or Parquet. A square or lower-triangular matrix of proximities with labels will"
                " do as well, or a plan that you saved. Or drop a file anywhere on this window.",
                _WIDE - 10 * SPACE,
            )
        )
        inside.addSpacing(SPACE)
        self.open = button("Open a table or a plan …", ask_for_file, "main", "Ctrl+O")
        self.demo = button(
            "Look around with the demo: readers of a mobile library",
            lambda: actions.open(demo),
            tip="240 made-up readers, with a plan that is ready to grow",
        )
        inside.addWidget(self.open)
        inside.addWidget(self.demo)
        inside.addSpacing(SPACE)
        recent = [Path(name) for name in actions.settings.recent if Path(name).exists()][:5]
        if recent:
            inside.addWidget(heading("Go on with", 1.0))
        for path in recent:
            words = f"{path.name}   in {_short(path.parent)}"
            inside.addWidget(button(words, lambda path=path: actions.open(path), "link", str(path)))  # type: ignore[misc]
        outer = QVBoxLayout(self)
        outer.addStretch(2)
        outer.addWidget(box, 0, Qt.AlignmentFlag.AlignHCenter)
        outer.addStretch(3)


def _short(folder: Path) -> str:
    try:
        return "~/" + str(folder.relative_to(Path.home()))
    except ValueError:
        parts = folder.parts
        return str(folder) if len(parts) <= 4 else "…/" + "/".join(parts[-3:])
