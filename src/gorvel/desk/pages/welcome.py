"""The first page: open a file, go on with a recent one, or look at the demo."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QFontMetrics, QImage, QPixmap
from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from gorvel.core.study.opening import is_study, picture_of
from gorvel.desk.controls.arranging import centred, fill_row
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import block, button, heading, panel, text
from gorvel.desk.work.actions import Actions
from gorvel.paint.theme import SPACE, font

_WIDE = 560
_MOST = 5  # files that are listed
_ROW = 56  # pixels of a file
_HIGH = 44  # pixels of the picture of a study


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
        inside.addWidget(heading("Group cases by what they have in common", "result"))
        inside.addWidget(
            block(
                (
                    "Open a table with one row per case (CSV, TSV, XLSX, ODS, Parquet and others), "
                    "a labelled proximity matrix, a study or a plan. You can also drop a file on "
                    "this window."
                ),
                _WIDE - 10 * SPACE,
            )
        )
        inside.addSpacing(SPACE)
        self.open = button("Open a table or a study …", ask_for_file, "main", "Ctrl+O")
        self.demo = button(
            "Open the demo: readers of a mobile library",
            lambda: actions.open(demo),
            tip="240 simulated readers, with a plan ready to grow",
        )
        inside.addWidget(self.open, 0, Qt.AlignmentFlag.AlignLeft)
        inside.addWidget(self.demo, 0, Qt.AlignmentFlag.AlignLeft)
        inside.addSpacing(SPACE)
        self.recent = [RecentFile(Path(name), actions) for name in actions.settings.recent[:_MOST]]
        if self.recent:
            inside.addWidget(heading("Recent", "text"))
        for row in self.recent:
            inside.addWidget(row)
        centred(self, box)


class RecentFile(QPushButton):
    """A file used before: a study with the picture of its tree; one that is gone says so."""

    def __init__(self, path: Path, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        there = path.exists()
        self.setProperty("row", True)
        self.setEnabled(there)
        self.setToolTip(as_tip(str(path)))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAutoDefault(True)
        self.clicked.connect(lambda: actions.open(path))
        words = QVBoxLayout()
        words.setSpacing(0)
        self.name = text(_elided(path.name), weight=600, wrap=False)
        gone = "not found, in " if not there else "in "
        self.place = text(f"{gone}{_short(path.parent)}", "table", soft=True, wrap=False)
        for label in (self.name, self.place):
            label.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
            label.setEnabled(there)
            words.addWidget(label)
        self.picture = QLabel()
        self.picture.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        row = fill_row(
            self, (words, 1), self.picture, space=2 * SPACE,
            edges=(0, SPACE // 2, 0, SPACE // 2),
        )  # fmt: skip
        self.setAccessibleName(f"{self.name.text()}, {self.place.text()}")
        self.setMinimumHeight(max(row.sizeHint().height(), _ROW))
        if there and is_study(path):
            QTimer.singleShot(0, self, lambda: self._look_at(path))

    def _look_at(self, path: Path) -> None:
        """Show the tree in small, as it was when the study was saved."""
        image = QImage.fromData(picture_of(path))
        if image.isNull():
            return
        high = round(_HIGH * self.devicePixelRatioF())
        small = image.scaledToHeight(high, Qt.TransformationMode.SmoothTransformation)
        small.setDevicePixelRatio(self.devicePixelRatioF())
        self.picture.setPixmap(QPixmap.fromImage(small))
        self.setMinimumHeight(_HIGH + SPACE)


def _elided(name: str) -> str:
    """A name that has room beside a picture; its ending says what it is, and stays."""
    width = QFontMetrics(font("text", 600))
    return width.elidedText(name, Qt.TextElideMode.ElideMiddle, _WIDE - 240)


def _short(folder: Path) -> str:
    try:
        return "~/" + str(folder.relative_to(Path.home()))
    except ValueError:
        parts = folder.parts
        return str(folder) if len(parts) <= 4 else "…/" + "/".join(parts[-3:])
