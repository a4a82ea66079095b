"""The columns as a model: what each holds, its role and its level; both are set here."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import number
from gorvel.core.plan.plan import Plan
from gorvel.core.table.levels import LEVELS
from gorvel.core.table.summary import ColumnSummary
from gorvel.core.table.table import Level, Table
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import current, font

Index = QModelIndex | QPersistentModelIndex
ROLES = (
    "active", "profile", "label", "weight", "groups", "split", "stratum", "unit", "replicate",
    "out",
)  # fmt: skip
ROLE_TIPS = {
    "active": "Group by the selected variables (A)",
    "profile": "Describes the clusters but does not form them (P)",
    "label": "Label the cases by the selected column (L)",
    "weight": "Weight the cases by the selected column (W)",
    "groups": "Known groups to compare the clusters with (K)",
    "split": "Grows a separate tree for each value (S)",
    "stratum": "Stratum of the sample design (T)",
    "unit": "Primary sampling unit, such as a segment or clinic (U)",
    "replicate": "Replicate weight, used instead of strata and units (R)",
    "out": "Do not use the selected variables (O)",
}
_OF_CASES = ("label", "weight", "groups", "split")  # roles that one column has
_OF_DESIGN = {"stratum": "strata", "unit": "psu", "replicate": "replicates"}  # keys of [design]
_ONE_EACH = (*_OF_CASES, "stratum", "unit")
_HEADS = ("variable", "role", "level", "answers", "missing", "shape", "holds")
ROLE, LEVEL, SHAPE = 1, 2, _HEADS.index("shape")
ROLE_KEYS = {
    Qt.Key.Key_A: "active", Qt.Key.Key_O: "out", Qt.Key.Key_L: "label", Qt.Key.Key_W: "weight",
    Qt.Key.Key_S: "split", Qt.Key.Key_K: "groups", Qt.Key.Key_P: "profile",
    Qt.Key.Key_T: "stratum", Qt.Key.Key_U: "unit", Qt.Key.Key_R: "replicate",
}  # fmt: skip
LEVEL_KEYS = {
    Qt.Key.Key_1: "interval", Qt.Key.Key_2: "ordinal", Qt.Key.Key_3: "nominal",
    Qt.Key.Key_4: "binary", Qt.Key.Key_5: "count",
}  # fmt: skip


def role_of(plan: Plan, name: str) -> str:
    """The role of a column in a plan."""
    if name in plan.variables.use:
        return "active"
    if name in plan.variables.profile:
        return "profile"
    for role in _OF_CASES:
        if name == getattr(plan.cases, role):
            return role
    if plan.design is not None:
        for role, key in _OF_DESIGN.items():
            told = getattr(plan.design, key)
            if name == told or (isinstance(told, tuple) and name in told):
                return role
    return "out"


def _designed(plan: Plan, names: Sequence[str], role: str) -> dict[str, Any] | None:
    """What a plan says of the sample once columns have another role; None for nothing."""
    keys = {} if plan.design is None else plan.design.model_dump(exclude_unset=True)
    for key in ("strata", "psu"):
        if keys.get(key) in names:
            del keys[key]
    keys["replicates"] = [name for name in keys.get("replicates", ()) if name not in names]
    if role == "replicate":
        keys = {key: keys[key] for key in keys if key not in ("strata", "psu")}
        keys["replicates"] += names
    elif role in _OF_DESIGN:
        keys[_OF_DESIGN[role]] = names[0]
        keys["replicates"] = []
    if not keys["replicates"]:
        for key in ("replicates", "factors"):
            keys.pop(key, None)
    return keys if any(keys.get(key) for key in _OF_DESIGN.values()) else None


class VariablesModel(QAbstractTableModel):
    """A row for each column of the table. Changes go to the plan, and can be undone there."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.summaries: list[ColumnSummary] = []
        focus.shelf.plan_changed.connect(self._refresh)

    def show(self, summaries: Sequence[ColumnSummary]) -> None:
        """Show what each column holds."""
        self.beginResetModel()
        self.summaries = list(summaries)
        self.endResetModel()

    def _refresh(self) -> None:
        if self.summaries:
            last = self.index(len(self.summaries) - 1, len(_HEADS) - 1)
            self.dataChanged.emit(self.index(0, 0), last)

    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.summaries)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(_HEADS)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if way == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return _HEADS[section]
        if way == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(section)
        return font("note") if role == Qt.ItemDataRole.FontRole else None

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = super().flags(index)
        if index.column() in (ROLE, LEVEL):
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def level_of(self, row: int) -> Level:
        """The level in force, by the plan or by what the column holds."""
        summary = self.summaries[row]
        plan, study = self.focus.shelf.plan, self.focus.shelf.study
        guessed: Level = "interval" if summary.numeric else "nominal"
        if plan is None or study is None:
            return guessed
        source = study.source
        made = source.made.levels if isinstance(source, Table) and source.made else {}
        return plan.variables.level(summary.name) or made.get(summary.name, guessed)

    def question(self, row: int) -> str:
        """The question behind a column, where a codebook tells it."""
        plan = self.focus.shelf.plan
        return plan.variables.labels.get(self.summaries[row].name, "") if plan else ""

    def matches(self, row: int, words: str) -> bool:
        """Do all words stand in a column's name, question, role or level?"""
        plan = self.focus.shelf.plan
        if plan is None:
            return True
        name = self.summaries[row].name
        told = f"{name} {self.question(row)} {role_of(plan, name)} {self.level_of(row)}".lower()
        return all(word in told for word in words.lower().split())

    def data(self, index: Index, role: int = 0) -> Any:
        plan = self.focus.shelf.plan
        if not index.isValid() or plan is None:
            return None
        summary = self.summaries[index.row()]
        state = role_of(plan, summary.name)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self._text(index.row(), index.column(), state)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(index.column())
        if role == Qt.ItemDataRole.FontRole and index.column() == 0:
            return font("table", 400 if state == "out" else 600)
        if role == Qt.ItemDataRole.ForegroundRole:
            theme = current()
            if index.column() == 4 and summary.missing and state == "active":
                return QColor(theme.warn)
            return QColor(theme.soft if state == "out" else theme.ink)
        if role == Qt.ItemDataRole.ToolTipRole:
            if index.column() == 0 and self.question(index.row()):
                return as_tip(self.question(index.row()))
            return as_tip(_hint(index.column(), summary))
        return None

    def _text(self, row: int, column: int, state: str) -> str:
        summary = self.summaries[row]
        match _HEADS[column]:
            case "variable":
                return summary.name
            case "role":
                return "not used" if state == "out" else state
            case "level":
                return self.level_of(row)
            case "answers":
                return f"{summary.valid:,}"
            case "missing":
                return f"{summary.missing:,}" if summary.missing else ""
            case "shape":
                return ""
        plan = self.focus.shelf.plan
        return _holds(summary, plan.variables.values.get(summary.name, {}) if plan else {})

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if index.column() == ROLE:
            self.set_role([index.row()], value)
        elif index.column() == LEVEL:
            self.set_level([index.row()], value)
        return True

    def set_role(self, rows: Sequence[int], role: str) -> None:
        """Give columns a role; of a label, a weight, a split there is one: the last of several."""
        plan = self.focus.shelf.plan
        if plan is None or not rows:
            return
        names = [self.summaries[row].name for row in rows]
        if role in _ONE_EACH:
            names = names[-1:]
        use = [name for name in plan.variables.use if name not in names]
        if role == "active":
            wanted = {*use, *names}
            use = [s.name for s in self.summaries if s.name in wanted]
        cases = {
            key: None if getattr(plan.cases, key) in names else getattr(plan.cases, key)
            for key in _OF_CASES
        }
        if role in cases:
            cases[role] = names[0]
        profile = [name for name in plan.variables.profile if name not in names]
        profile += names if role == "profile" else []
        design = _designed(plan, names, role)

        def changed(plan: Plan) -> Plan:
            plan = plan.using(use, profile=profile).with_("cases", **cases)
            if design is None and plan.design is None:
                return plan
            return plan.with_whole("design", design)

        self.focus.shelf.change_by(changed)

    def set_level(self, rows: Sequence[int], level: str) -> None:
        """Give columns a measurement level."""
        plan = self.focus.shelf.plan
        if plan is None or not rows:
            return
        names = [self.summaries[row].name for row in rows]
        part = plan.variables
        lists = {key: [n for n in getattr(part, key) if n not in names] for key in LEVELS}
        lists[level] += names  # type: ignore[index]
        asymmetric = [n for n in part.asymmetric if n not in names or level == "binary"]
        self.focus.shelf.change("variables", asymmetric=asymmetric, **lists)


def _alignment(column: int) -> Qt.AlignmentFlag:
    side = Qt.AlignmentFlag.AlignRight if column in (3, 4) else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter


def _holds(summary: ColumnSummary, words: Mapping[str, str]) -> str:
    """In short what a column holds; words : of a codebook, for its codes."""
    if summary.numeric and summary.mean is not None:
        assert summary.low is not None
        assert summary.high is not None
        spread = "" if summary.sd is None else f" (SD {number(summary.sd)})"
        ends = f"{number(summary.low)} to {number(summary.high)}"
        return f"{ends}, mean {number(summary.mean)}{spread}"
    if not summary.valid:
        return "nothing"
    if summary.distinct == summary.valid:
        return f"{summary.distinct:,} different values"
    mode = words.get(summary.mode, summary.mode)
    return f"{summary.distinct:,} values, {summary.mode_share:.0%} {mode}"


def _hint(column: int, summary: ColumnSummary) -> str | None:
    if column == ROLE:
        return "Double-click, or press A P L W K S T U R O:\n" + "\n".join(
            f"{role}: {tip}" for role, tip in ROLE_TIPS.items()
        )
    if column == LEVEL:
        return "Double-click or press 1 interval, 2 ordinal, 3 nominal, 4 binary, 5 count"
    return f"{summary.name}: {summary.distinct:,} different values"
