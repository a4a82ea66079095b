"""The list of keys."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QGridLayout, QWidget

from gorvel.desk.controls.delete_on_close import brought_up, delete_on_close
from gorvel.desk.controls.texts import button, heading, text
from gorvel.paint.theme import SPACE

KEYS = {
    "Everywhere": {
        "Ctrl+O": "open a study, a plan or a table",
        "Ctrl+Shift+O": "open with options",
        "Alt+1, 2, 3, 4, 5, 6, 7": "Cases, Plan, Tree, Count, Profiles, Compare, Memberships",
        "Ctrl+E": "convert answers to numbers",
        "Ctrl+G": "grow the tree",
        "Ctrl+K, Ctrl+L": "keep this tree, show the shelf",
        "Ctrl+S, Ctrl+Shift+S": "save the study, under another name",
        "Ctrl+M, Ctrl+Shift+P": "save memberships, the plan",
        "Ctrl+Page Up, Page Down": "tree of another group",
        "Ctrl+Z, Ctrl+Shift+Z": "undo, redo",
        "Ctrl+T, Ctrl++, Ctrl+-": "theme, text size",
        "Alt+M, F1, Ctrl+Q": "menu, this list, quit",
    },
    "Variables": {
        "Alt+V, Alt+O, Alt+A": "list, condition, missing-value codes",
        "Ctrl+F, Return": "find variables, and select those found",
        "A, P, O": "active, profile only, not used",
        "L, W, K, S": "case label, weight, known groups, split",
        "T, U, R": "stratum, sampling unit, replicate weight",
        "1, 2, 3, 4, 5": "interval, ordinal, nominal, binary, count",
    },
    "Answers": {"S, B": "set selected cases aside, restore them", "Ctrl+C": "copy selected cells"},
    "Tree": {
        "Left, Right": "one cluster fewer, one more",
        "Up, Down": "next join, previous join",
        "+, −, 0": "higher rows, lower rows, whole tree",
        "F, R": "fold or unfold the marked branch, swap its two branches",
        "S, U": "cut the marked cluster lower, undo that",
        "F2, Delete": "name the marked cluster, hide the column",
        "Return": "maximise the column, and back",
        "Ctrl+F, Return": "find a case by its label",
        "J": "in the schedule: order of joining",
        "Esc": "clear the selection",
    },
    "Count": {
        "Left, Right": "one cluster fewer, one more",
        "Up, Down": "next rule, previous rule",
        "Space": "exclude the rule from the vote, or include it",
        "Ctrl+R": "resample, or stop and keep what is done",
        "Ctrl+F, Return": "find a case among the silhouettes",
        "Ctrl+Return": "choose the current number of clusters",
    },
    "Compare": {
        "L, R": "on a card of the shelf: show its tree on the left, on the right",
        "Up, Down": "next case of the left tree, previous case",
        "+, −, 0": "higher rows, lower rows, whole trees",
        "F": "fold the clusters of both trees, or unfold them",
        "Arrows, Return": "move through a table of cells, choose the marked one",
    },
}
_TITLE = "Keyboard shortcuts"
_SECOND = ("Tree", "Count", "Compare")  # places whose keys stand in the second column


def show_shortcuts(parent: QWidget) -> QDialog:
    """Show the keys in a small window that does not hold up the rest."""
    if (there := brought_up(parent, _TITLE)) is not None:
        return there
    dialog = delete_on_close(QDialog(parent))
    dialog.setWindowTitle(_TITLE)
    grid = QGridLayout(dialog)
    grid.setContentsMargins(3 * SPACE, 2 * SPACE, 3 * SPACE, 2 * SPACE)
    grid.setHorizontalSpacing(3 * SPACE)
    ends = [0, 0]
    for place, keys in KEYS.items():
        side = int(place in _SECOND)
        row, column = ends[side], 2 * side
        grid.addWidget(heading(place, "text"), row, column, 1, 2)
        for key, does in keys.items():
            row += 1
            grid.addWidget(text(key, weight=600, wrap=False), row, column)
            grid.addWidget(text(does, wrap=False), row, column + 1)
        ends[side] = row + 1
    grid.addWidget(button("Close", dialog.close), max(ends), 3)
    dialog.show()
    return dialog
