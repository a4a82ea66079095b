"""How the sample was drawn, in a line: its columns, and what the plan does with lone units."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import counted
from gorvel.core.cases.design import sample_of
from gorvel.core.plan.parts import DesignPlan
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.texts import button, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import font

__all__ = ["design_line"]

_SINGLE = {"stop": "an error", "centre": "taken from the mean of all units", "zero": "left out"}
_KINDS = {"jackknife": "jackknife", "brr": "balanced repeated", "bootstrap": "bootstrap",
          "fay": "balanced repeated, Fay"}  # fmt: skip


def design_line(focus: Focus) -> QWidget:
    """Hidden while the plan tells no design."""
    words = text(soft=True, wrap=False)
    words.setAccessibleName("How the sample was drawn")
    single, kind, fay = QComboBox(), QComboBox(), QDoubleSpinBox()
    says_single = text("a stratum with one unit:", soft=True, wrap=False)
    says_kind = text("replicates:", soft=True, wrap=False)
    for box, choices, name in (
        (single, _SINGLE, "A stratum with one sampling unit"),
        (kind, _KINDS, "Kind of the replicate weights"),
    ):
        box.setAccessibleName(name)
        box.setFont(font(0.93))
        for key, told in choices.items():
            box.addItem(told, key)
    fay.setRange(0.0, 0.99)
    fay.setSingleStep(0.1)
    fay.setAccessibleName("Fay’s factor")
    fay.setKeyboardTracking(False)
    off = button("no design", lambda: change(None), "link", "Errors as if cases were drawn one by"
                 " one")  # fmt: skip
    line = flowing(words, says_single, single, says_kind, kind, fay, off)

    def change(keys: dict[str, object] | None) -> None:
        plan = focus.shelf.plan
        if plan is None or plan.design is None:
            return
        whole = None if keys is None else plan.design.model_dump(exclude_unset=True) | keys
        focus.shelf.change_by(lambda now: now.with_whole("design", whole))

    def follow() -> None:
        plan = focus.shelf.plan
        design = None if plan is None else plan.design
        line.setVisible(design is not None)
        if design is None:
            return
        words.setText(f"Drawn {_told(design)}.{_trouble(focus)}")
        replicated = bool(design.replicates)
        for widget, shown in (
            (says_single, not replicated), (single, not replicated), (says_kind, replicated),
            (kind, replicated), (fay, replicated and design.kind == "fay"),
        ):  # fmt: skip
            widget.setVisible(shown)
        for box, value in ((single, design.single), (kind, design.kind)):
            with QSignalBlocker(box):
                box.setCurrentIndex(box.findData(value))
        with QSignalBlocker(fay):
            fay.setValue(design.fay)

    single.activated.connect(lambda _: change({"single": single.currentData()}))
    kind.activated.connect(lambda _: change({"kind": kind.currentData()}))
    fay.valueChanged.connect(lambda value: change({"fay": value}))
    focus.shelf.plan_changed.connect(follow)
    focus.prepared_changed.connect(follow)
    follow()
    return line


def _told(design: DesignPlan) -> str:
    if design.replicates:
        return f"with {counted(len(design.replicates), 'replicate weight')}"
    parts = []
    if design.psu is not None:
        parts.append(f"by the units of {design.psu}")
    if design.strata is not None:
        parts.append(f"within the strata of {design.strata}")
    return " ".join(parts) or "one by one"


def _trouble(focus: Focus) -> str:
    """Why the design cannot be read, or how many units there are."""
    plan, study, prepared = focus.shelf.plan, focus.shelf.study, focus.prepared
    if plan is None or study is None or prepared is None:
        return ""
    try:
        found = sample_of(study.source, plan, prepared)
    except InputError as error:
        return f" It cannot be read: {error}"
    if found is None or found.replicates is not None:
        return ""
    return f" {counted(found.units, 'unit')} in {counted(found.strata, 'stratum', 'strata')}."
