"""The sweep: a shaded number for each combination, and the way from there to the shelf."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import QComboBox, QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import counted, fixed, sentence
from gorvel.core.compare.sweep import Combination, Sweep, Swept
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.plain_text import as_tip, show_tip
from gorvel.desk.controls.texts import button, card, heading, scrolled, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.editors.sweep_choice import SweepChoice, called, called_shortly
from gorvel.desk.views.shaded_view import ShadedView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
from gorvel.desk.work.sweeping import AGAINST, CHOICE, Sweeping
from gorvel.paint.charts.shaded import Shade
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import SPACE, font

_FIGURES: dict[str, str] = {
    "alike": "agreement with the current tree", "cophenetic": "cophenetic correlation",
    "agglomerative": "agglomerative coefficient", "smallest": "smallest cluster",
    "inversions": "inversions", "ties": "order-dependent ties", "cases": "cases",
}  # fmt: skip
_WHOLE = ("smallest", "inversions", "ties", "cases")
_ONE = {"measures": "measure", "scales": "scale", "handlings": "treatment"}  # of a column
_HELP = "Click a cell (or press Return) to keep its tree and show it beside the current one."


class SweepCard(QWidget):
    """Begun by hand. Signals: taken(), a tree was put on the shelf and on the right."""

    taken = Signal()

    def __init__(
        self, actions: Actions, comparing: Comparing, sweeping: Sweeping,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.comparing, self.sweeping = comparing, sweeping
        self.against, self.figure = QComboBox(), QComboBox()
        for key, words in AGAINST.items():
            self.against.addItem(f"linkages against {words}", key)
        for box, name in ((self.against, "What is varied"), (self.figure, "What cells show")):
            box.setAccessibleName(name)
            box.setFont(font("table"))
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.choose = button("Choose …", self._choose, "", "Choose what is combined")
        self.go = button("Grow all these trees", self._begin)
        self.take = TakeAway.of(actions, "sweep", self.sheet)
        self.bar = InquiryBar(sweeping.trees, self._begin, "Growing trees of all combinations …")
        self.says, self.note = text(weight=600), text(size="note", soft=True)
        self.says.setMinimumHeight(40)  # two lines: the table stays where it is
        self.says.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.excluded = button("", self._show_reasons, "link")
        self.excluded.hide()
        self._reasons = ""
        self.view = ShadedView("The sweep: trees of all combinations", self.told)
        self._rows: Sequence[str] = ()
        self._columns: Sequence[tuple[str, ...]] = ()
        self._at: dict[tuple[int, int], Swept | Combination] = {}
        self._lay_out()
        self.against.currentIndexChanged.connect(self.follow)
        self.figure.currentIndexChanged.connect(self._show)
        self.view.taken.connect(self._take)
        self.view.pointed.connect(self._tell)
        sweeping.trees.changed.connect(self.follow)

    def _lay_out(self) -> None:
        head = in_row(
            heading("Sweep"), self.against, self.choose, self.figure, None, self.go, self.take,
            space=SPACE,
        )  # fmt: skip
        inside = card(self)
        inside.addLayout(head)
        inside.addWidget(self.bar)
        inside.addWidget(self.says)
        inside.addWidget(scrolled(self.view), 1)
        foot = in_row((self.note, 1), self.excluded)
        inside.addLayout(foot)

    # asking

    def _begin(self) -> None:
        self.sweeping.against = str(self.against.currentData())
        self.sweeping.begin()

    def _choose(self) -> None:
        """Ask which scales, handlings and measures, and sweep them."""
        plan = self.focus.plan_of_tree
        if plan is None:
            return
        dialog = SweepChoice(plan, self.sweeping.choice, self)
        dialog.taken.connect(self._chosen)
        dialog.open()

    def _chosen(self, chosen: dict[str, tuple[str, ...]]) -> None:
        self.sweeping.chosen = chosen
        self._begin()

    def follow(self) -> None:
        """Another tree or cut, or more of the sweep is known."""
        matrix = self.focus.shelf.plan is not None and self.focus.shelf.plan.source.kind != "table"
        self.against.setVisible(not matrix)
        of_all = not matrix and self.against.currentData() == CHOICE
        self.choose.setVisible(of_all and not self.sweeping.why_not)
        known, why, working = self._known(), self.sweeping.why_not, self.sweeping.trees.job
        due = (known is None and not of_all) or (known is not None and self.sweeping.is_old)
        self.go.setVisible(not why and working is None and due)
        self.go.setText("Grow all these trees" if known is None else "Run again")
        self.take.setEnabled(known is not None)
        self.figure.setVisible(known is not None)
        self._name_figures(known)
        self._show()

    def _known(self) -> Sweep | None:
        """The sweep that is asked for, as far as it is there."""
        found = self.sweeping.known
        if found is None or found.against != self.against.currentData():
            return None
        return found

    def _name_figures(self, known: Sweep | None) -> None:
        count = 0 if known is None else known.count
        wanted = [(key, f"{words} at {count:,}" if key in ("alike", "smallest") else words)
                  for key, words in _FIGURES.items()]  # fmt: skip
        rules = dict.fromkeys(rule for one in (known.found if known else ()) for rule in one.best)
        wanted += [(f"best {rule}", f"best number: {COUNT_RULES[rule].name}") for rule in rules]
        shown = [(self.figure.itemData(k), self.figure.itemText(k))
                 for k in range(self.figure.count())]  # fmt: skip
        if shown == wanted:
            return
        chosen = self.figure.currentData()
        with QSignalBlocker(self.figure):
            self.figure.clear()
            for key, words in wanted:
                self.figure.addItem(words, key)
            self.figure.setCurrentIndex(max(self.figure.findData(chosen), 0))

    # showing

    def _show(self) -> None:
        known = self._known()
        self._at = {}
        if known is None:
            self.view.show_grid()
            words = self.sweeping.why_not or (
                "Every linkage is combined with every choice, each as a tree of its own: is it "
                "the data or the method?"
            )
            self.says.setText(words if self.sweeping.trees.job is None else "")
            self.note.setText("")
            self.excluded.hide()
            return
        fits, bad = dict.fromkeys(known.key(at) for at in known.asked), {}
        if known.kinds and not self.against.isHidden():
            bad = self._never(known)
            fits = {key: None for key in fits if key not in bad}
        self._columns = list(fits)
        self._rows = list(dict.fromkeys(at.linkage for at in known.asked))
        done = {one.at: one for one in known.found}
        places = {(at.linkage, known.key(at)): at for at in known.asked}
        cells, own = {}, None
        for row, linkage in enumerate(self._rows):
            for column, key in enumerate(self._columns):
                at = places[linkage, key]
                self._at[row, column] = done.get(at, at)
                if at == known.own:
                    own = (row, column)
                if at in done:
                    cells[row, column] = self._shade(known, done[at])
        columns = [self._name(known, key) for key in self._columns]
        rows = [_capital(TREE_RULES[key].name.removesuffix(" linkage")) for key in self._rows]
        self.view.show_grid(rows, columns, cells, own)
        self._show_note(known, bad)
        self._tell()

    @staticmethod
    def _name(known: Sweep, key: tuple[str, ...]) -> str:
        """What a column is called."""
        name = called if len(key) == 1 else called_shortly
        return ", ".join(name(kind, one) for kind, one in zip(known.kinds, key, strict=True))

    def _never(self, known: Sweep) -> dict[tuple[str, ...], str]:
        """Choices with which no linkage has a tree, once all are tried; and why."""
        tried: dict[tuple[str, ...], list[Swept]] = {}
        for one in known.found:
            tried.setdefault(known.key(one.at), []).append(one)
        rows = len({at.linkage for at in known.asked})
        return {key: found[0].why for key, found in tried.items()
                if len(found) == rows and all(one.why for one in found)}  # fmt: skip

    def _show_note(self, known: Sweep, bad: dict[tuple[str, ...], str]) -> None:
        words = _HELP + " Framed: current tree. Dash: not possible; point at it for the reason."
        if self.sweeping.is_old:
            words = "This is from another tree or another cut: run again. " + words
        self.note.setText(words)
        self._reasons = "\n".join(f"{self._name(known, key)}: {why}" for key, why in bad.items())
        self.excluded.setText(f"{counted(len(bad), _ONE.get(known.against, 'column'))} excluded")
        self.excluded.setToolTip(as_tip(self._reasons))
        self.excluded.setVisible(bool(bad))

    def _show_reasons(self) -> None:
        """By a click or a key, as by pointing: why columns do not suit these answers."""
        at = self.excluded.mapToGlobal(self.excluded.rect().topLeft())
        show_tip(at, self._reasons, self.excluded)

    def _value(self, known: Sweep, one: Swept) -> float | None:
        key = str(self.figure.currentData())
        if key.startswith("best "):
            return one.best.get(key.removeprefix("best "))
        return {
            "alike": one.agreement.get(known.count), "cophenetic": one.cophenetic,
            "agglomerative": one.agglomerative, "smallest": one.smallest.get(known.count),
            "inversions": one.inversions, "ties": one.ties_that_matter, "cases": one.cases,
        }[key]  # fmt: skip

    def _shade(self, known: Sweep, one: Swept) -> Shade:
        value = None if one.why else self._value(known, one)
        if value is None:
            return Shade("–")
        key = str(self.figure.currentData())
        if key in _WHOLE or key.startswith("best "):
            most = max((v for s in known.found if not s.why
                        and (v := self._value(known, s)) is not None), default=0)  # fmt: skip
            return Shade(f"{value:,.0f}", value / most if most else 0.0)
        return Shade(fixed(value, 2), max(value, 0.0))

    def told(self, cell: tuple[int, int]) -> str:
        """What a cell is, in words."""
        known, one = self._known(), self._at.get(cell)
        if known is None or one is None:
            return ""
        at = one.at if isinstance(one, Swept) else one
        column = self._name(known, known.key(at))
        name = _capital(TREE_RULES[at.linkage].name) + (f", {column}" if column else "")
        if isinstance(one, Combination):
            return f"{name}: not grown yet"
        if one.why:
            return f"{name}: {one.why}"
        agreement = one.agreement.get(known.count, float("nan"))
        words = f"{name}: adjusted Rand index {fixed(agreement, 2)} with the"
        words += f" current tree at {counted(known.count, 'cluster')}"
        if one.cophenetic is not None:
            words += f"; cophenetic correlation {fixed(one.cophenetic, 2)}"
        words += f"; smallest cluster {counted(one.smallest.get(known.count, 0), 'case')}"
        if one.inversions:
            words += f"; {counted(one.inversions, 'inversion')}"
        return words.replace("-0.", "−0.")

    def _tell(self) -> None:
        at = self.view.shown
        self.says.setText(self.told(at) if at is not None else self._summary())

    def _summary(self) -> str:
        known = self._known()
        if known is None:
            return ""
        trees = [one for one in known.found if not one.why and one.at != known.own]
        if not trees:
            return ""
        near = sum(one.agreement.get(known.count, 0.0) >= 0.8 for one in trees)
        done = "" if known.whole else f" ({len(known.found):,} of {len(known.asked):,} done)"
        return (
            f"{near:,} of {counted(len(trees), 'other tree')} give nearly the same"
            f" {known.count:,} clusters (adjusted Rand 0.8 or more){done}."
        )

    # to the shelf

    def _take(self, row: int, column: int) -> None:
        one = self._at.get((row, column))
        if one is None or (isinstance(one, Swept) and one.why):
            self._tell()
            return
        at = one.at if isinstance(one, Swept) else one
        shelf = self.focus.shelf
        try:
            plan = self.sweeping.plan_of(at)
        except InputError as error:
            self.acts.said.emit(error.said or str(error), True)
            return
        if self.comparing.put_beside(plan):
            self.taken.emit()
        else:
            self.acts.said.emit(f"{shelf.name_of(shelf.study.entry)} is the current tree."
                                if shelf.study is not None else "", False)  # fmt: skip

    def sheet(self) -> Sheet | None:
        """The picture for print."""
        return self.view.sheet("Sweep")


def _capital(words: str) -> str:
    return sentence(words)
