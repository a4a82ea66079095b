"""The list of keys."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QGridLayout, QWidget

from gorvel.desk.controls.passing import brought_up, passing
from gorvel.desk.controls.texts import button, heading, text
from gorvel.paint.theme import SPACE

__all__ = ["KEYS", "show_shortcuts"]

KEYS = {
    "Everywhere": {
        "Ctrl+O": "open a study, a plan or a table",
        "Ctrl+Shift+O": "see how a file is read, and open it",
        "Alt+1, 2, 3, 4, 5, 6": "Cases, Plan, Tree, Count, Profiles, Compare",
        "Ctrl+E": "turn answers into numbers",
        "Ctrl+G": "grow the tree",
        "Ctrl+K, Ctrl+L": "keep this tree, show the shelf",
        "Ctrl+S, Ctrl+Shift+S": "save the study, under another name",
        "Ctrl+M, Ctrl+Shift+P": "save memberships, the plan",
        "Ctrl+Page Up, Page Down": "to the tree of another group",
        "Ctrl+Z, Ctrl+Shift+Z": "take back, do again",
        "Ctrl+T, Ctrl++, Ctrl+-": "looks, text size",
        "Alt+M, F1, Ctrl+Q": "the menu, this list, quit",
    },
    "Variables": {
        "Alt+V, Alt+O, Alt+A": "to the list, the condition, the codes for no answer",
        "Ctrl+F, Return": "find variables, and select those found",
        "A, P, O": "active, only for profiles, out",
        "L, W, K, S": "case label, weight, known groups, split",
        "T, U, R": "stratum, sampling unit, replicate weight",
        "1, 2, 3, 4, 5": "interval, ordinal, nominal, binary, count",
    },
    "Answers": {
        "S, B": "set the selected cases aside, bring them back",
        "Ctrl+C": "copy the selected cells",
    },
    "Tree": {
        "Left, Right": "one cluster fewer, one more",
        "Up, Down": "to the next join, to the one before",
        "+, −, 0": "higher rows, lower rows, whole tree",
        "F, R": "fold or unfold the branch marked, exchange its parts",
        "S, U": "split the cluster marked and no other, join it again",
        "F2": "give the cluster marked a name",
        "Return": "the column fills the page, and back",
        "Ctrl+F, Return": "find a case by its label",
        "J": "in the schedule: back to the order of joining",
        "Esc": "nothing selected",
    },
    "Count": {
        "Left, Right": "one cluster fewer, one more",
        "Up, Down": "to the next rule, to the one before",
        "Space": "leave the rule out of the vote, or take it in",
        "Ctrl+R": "resample, or stop and keep what is done",
        "Ctrl+F, Return": "find a case among the silhouettes",
        "Ctrl+Return": "take the count in hand",
    },
    "Compare": {
        "L, R": "on a card of the shelf: put its tree on the left, on the right",
        "Up, Down": "to the next case of the left tree, to the one before",
        "+, −, 0": "higher rows, lower rows, whole trees",
        "F": "fold the clusters of both trees, or unfold them",
        "Arrows, Return": "through a table of cells, take the one marked",
    },
}
_TITLE = "Keys"
_SECOND = ("Tree", "Count", "Compare")  # places whose keys stand in the second column


def show_shortcuts(parent: QWidget) -> QDialog:
    """Show the keys in a small window that does not hold up the rest."""
    if (there := brought_up(parent, _TITLE)) is not None:
        return there
    dialog = passing(QDialog(parent))
    dialog.setWindowTitle(_TITLE)
    grid = QGridLayout(dialog)
    grid.setContentsMargins(3 * SPACE, 2 * SPACE, 3 * SPACE, 2 * SPACE)
    grid.setHorizontalSpacing(3 * SPACE)
    ends = [0, 0]
    for place, keys in KEYS.items():
        side = int(place in _SECOND)
        row, column = ends[side], 2 * side
        grid.addWidget(heading(place, 1.0), row, column, 1, 2)
        for key, does in keys.items():
            row += 1
            grid.addWidget(text(key, weight=600, wrap=False), row, column)
            grid.addWidget(text(does, wrap=False), row, column + 1)
        ends[side] = row + 1
    grid.addWidget(button("Close", dialog.close), max(ends), 3)
    dialog.show()
    return dialog
