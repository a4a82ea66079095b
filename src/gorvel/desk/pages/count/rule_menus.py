"""Menus of rules: further ones for the board, and indices beside data without groups."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QMenu, QPushButton, QWidget

from gorvel.core.plan.count_rule import FAMILIES
from gorvel.core.plan.count_rules import COMPARABLE, COUNT_RULES, FURTHER
from gorvel.desk.controls.plain_text import as_item, as_tip
from gorvel.desk.work.counting import Counting
from gorvel.paint.theme import font


class _StayingMenu(QMenu):
    """Stays open while entries are checked one after the other."""

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if not self._check(self.actionAt(event.position().toPoint())):
            super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if event.key() not in keys or not self._check(self.activeAction()):
            super().keyPressEvent(event)

    @staticmethod
    def _check(action: QAction | None) -> bool:
        if action is None or not action.isCheckable() or not action.isEnabled():
            return False
        action.trigger()
        return True


class _RuleMenu(QPushButton):
    """A button that opens a menu of rules under the headings of their kinds."""

    def __init__(self, words: str, tip: str, counting: Counting, keys: tuple[str, ...]) -> None:
        super().__init__(words)
        self.counting = counting
        self.setFont(font("table"))
        self.setToolTip(as_tip(tip))
        self.entries: dict[str, QAction] = {}
        menu = _StayingMenu(self)
        menu.setToolTipsVisible(True)
        for family, kind in FAMILIES.items():
            mine = [key for key in keys if COUNT_RULES[key].family == family]
            if mine:
                heading = menu.addAction(as_item(kind))
                heading.setEnabled(False)
                heading.setFont(font("note", 600))
            for key in mine:
                rule = COUNT_RULES[key]
                action = menu.addAction(as_item(rule.name))
                action.setCheckable(True)
                action.setToolTip(as_tip(f"{rule.favours}\n{rule.source}"))
                action.triggered.connect(partial(self._chosen, key))
                self.entries[key] = action
        self.setMenu(menu)
        counting.focus.shelf.plan_changed.connect(self._follow)
        counting.looked.connect(self._follow)

    def _chosen(self, key: str) -> None:
        raise NotImplementedError

    def _follow(self) -> None:
        raise NotImplementedError


class MoreRules(_RuleMenu):
    """Further rules on the board, or off it again."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        tip = "Add rules to the board; resampling rules run when you press Resample"
        super().__init__("More rules", tip, counting, FURTHER)
        menu = self.menu()
        menu.addSeparator()
        for words, keys in (("All of these", FURTHER), ("None of these", ())):
            menu.addAction(as_item(words), partial(self._take, keys))
        self._follow()

    def _take(self, keys: tuple[str, ...]) -> None:
        self.counting.focus.shelf.change("count", more=list(keys))

    def _chosen(self, key: str) -> None:
        before = set(self.counting.asked.more)
        on = self.entries[key].isChecked()
        wanted = before | {key} if on else before - {key}
        self._take(tuple(one for one in FURTHER if one in wanted))

    def _follow(self) -> None:
        asked = self.counting.asked.more
        for key, action in self.entries.items():
            action.setChecked(key in asked)
        self.setText(f"More rules: {len(asked)}" if asked else "More rules")


class IndexMenu(_RuleMenu):
    """By which index the tree is held against data without groups."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        tip = "Compare another index with data without groups, such as Density for elongated groups"
        super().__init__("", tip, counting, ("silhouette", *COMPARABLE))
        self._follow()

    def _chosen(self, key: str) -> None:
        questions = self.counting.questions
        off = not self.entries[key].isChecked()
        if off and key == questions.index and key != "silhouette":
            questions.leave_index(key)
        else:
            questions.show_index(key)
        self.menu().close()

    def _follow(self) -> None:
        index = self.counting.questions.index
        held = {"silhouette", *self.counting.asked.groups_by}
        for key, action in self.entries.items():
            action.setChecked(key in held)
        self.setText(f"by {_lower(COUNT_RULES[index].name)}")


def _lower(name: str) -> str:
    """A name inside a sentence: what is named after people stays."""
    plain = name in ("Silhouette", "Density", "Tau", "Gamma", "Jump", "Nearest neighbours")
    return name.lower() if plain else name
