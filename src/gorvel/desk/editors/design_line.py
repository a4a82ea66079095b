"""How the sample was drawn, in a line: its columns, and what the plan does with lone units."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import counted
from gorvel.core.cases.design import sample_of
from gorvel.core.plan.analyses import DesignPlan
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.texts import button, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import font

_SINGLE = {"stop": "an error", "centre": "centred at the overall mean", "zero": "adds no variance"}
_KINDS = {"jackknife": "jackknife", "brr": "balanced repeated", "bootstrap": "bootstrap",
          "fay": "balanced repeated, Fay"}  # fmt: skip


class DesignLine(QWidget):
    """Hidden while the plan tells no design."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.words = text(soft=True, wrap=False)
        self.words.setAccessibleName("Sample design")
        self.single, self.kind, self.fay = QComboBox(), QComboBox(), QDoubleSpinBox()
        self._says_single = text("Single unit in a stratum:", soft=True, wrap=False)
        self._says_kind = text("Replicates:", soft=True, wrap=False)
        for box, choices, name in (
            (self.single, _SINGLE, "A stratum with a single sampling unit"),
            (self.kind, _KINDS, "Type of replicate weights"),
        ):
            box.setAccessibleName(name)
            box.setFont(font("table"))
            for key, told in choices.items():
                box.addItem(told, key)
        self.fay.setRange(0.0, 0.99)
        self.fay.setSingleStep(0.1)
        self.fay.setAccessibleName("Fay’s factor")
        self.fay.setKeyboardTracking(False)
        self.off = button(
            "No design", self._drop, "", "Standard errors as for a simple random sample"
        )
        self.trouble = text(soft=True)
        fill(
            self,
            flowing(
                self.words,
                self._says_single,
                self.single,
                self._says_kind,
                self.kind,
                self.fay,
                self.off,
            ),
            self.trouble,
            space=0,
        )
        self.single.activated.connect(self._set)
        self.kind.activated.connect(self._set)
        self.fay.valueChanged.connect(self._set)
        focus.shelf.plan_changed.connect(self._follow)
        focus.prepared_changed.connect(self._follow)
        self._follow()

    def _drop(self) -> None:
        self.focus.shelf.change_by(lambda plan: plan.with_whole("design", None))

    def _set(self) -> None:
        """What is chosen here goes into the plan."""
        plan = self.focus.shelf.plan
        if plan is None or plan.design is None:
            return
        keys: dict[str, object] = {"single": self.single.currentData()}
        if plan.design.replicates:
            keys = {"kind": self.kind.currentData()}
            if keys["kind"] == "fay":
                keys["fay"] = self.fay.value()
        whole = plan.design.model_dump(exclude_unset=True) | keys
        self.focus.shelf.change_by(lambda now: now.with_whole("design", whole))

    def _follow(self) -> None:
        plan = self.focus.shelf.plan
        design = None if plan is None else plan.design
        self.setVisible(design is not None)
        if design is None:
            return
        units, why = self._read()
        self.words.setText(f"Drawn {_told(design)}{units}.")
        self.trouble.setText(why)
        self.trouble.setVisible(bool(self.trouble.text()))
        replicated = bool(design.replicates)
        for widget, shown in (
            (self._says_single, not replicated), (self.single, not replicated),
            (self._says_kind, replicated), (self.kind, replicated),
            (self.fay, replicated and design.kind == "fay"),
        ):  # fmt: skip
            widget.setVisible(shown)
        for box, value in ((self.single, design.single), (self.kind, design.kind)):
            with QSignalBlocker(box):
                box.setCurrentIndex(box.findData(value))
        with QSignalBlocker(self.fay):
            self.fay.setValue(design.fay)

    def _read(self) -> tuple[str, str]:
        """How many units there are, and why the design cannot be read; "" for neither."""
        plan, study = self.focus.shelf.plan, self.focus.shelf.study
        prepared = self.focus.prepared
        if plan is None or study is None or prepared is None:
            return "", ""
        try:
            found = sample_of(study.source, plan, prepared)
        except InputError as error:
            return "", f"The design cannot be used: {error}"
        if found is None or found.replicates is not None:
            return "", ""
        units = f"{counted(found.units, 'unit')} in {counted(found.strata, 'stratum', 'strata')}"
        return f": {units}", ""


def _told(design: DesignPlan) -> str:
    if design.replicates:
        return f"with {counted(len(design.replicates), 'replicate weight')}"
    parts = []
    if design.psu is not None:
        parts.append(f"by {design.psu}")
    if design.strata is not None:
        parts.append(f"within {design.strata}")
    return " ".join(parts) or "one by one"
