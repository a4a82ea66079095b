"""Do the clusters hang on how missing answers are handled?"""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.core.compare.gap_handlings import TIMES
from gorvel.core.results.comparison import handlings_table, imputed_table
from gorvel.core.words.comparison import filled_words
from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.texts import button, card, heading, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.result_view import ResultView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.imputation import Imputation

_HEADS = ("missing answers", "cases", "adjusted Rand", "smallest cluster", "")
_CLUSTERS = ("cluster", "cases", "pairs kept", "loosely attached")
_BAR = 2
_WORDS = (
    f"Missing answers are imputed {TIMES} times (chained equations, predictive mean "
    "matching with five donors; Little 1988, van Buuren 2006). Assumes missing at "
    "random."
)


class GapsCard(QWidget):
    """Worked out when asked for."""

    def __init__(
        self, actions: Actions, imputation: Imputation, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.focus, self.imputation = actions, actions.focus, imputation
        self.ask = button("Grow these trees", imputation.ask)
        self.take = TakeAway.of(actions, "gaps")
        self.bar = InquiryBar(imputation.inquiry, imputation.ask, "Imputing missing answers …")
        self.says = text()
        self.handlings = ResultView(
            _HEADS, "The tree under each treatment", (240, 70, 170, 120), 26, (_BAR,)
        )
        self.clusters = ResultView(
            _CLUSTERS, "Clusters across imputations", (150, 70, 190), 26, (_BAR,)
        )
        head = in_row(heading("Missing answers"), None, self.ask, self.take)
        self._titles = heading("Each treatment", "text"), heading("Multiple imputation", "text")
        inside = card(self)
        inside.addLayout(head)
        inside.addWidget(self.bar)
        inside.addWidget(self.says)
        for title, table in zip(self._titles, (self.handlings, self.clusters), strict=True):
            inside.addWidget(title)
            inside.addWidget(table, 1)
        inside.addWidget(text(_WORDS, "note", soft=True))
        imputation.inquiry.changed.connect(self.follow)

    def follow(self) -> None:
        """Another cut, or the answer is there."""
        known, why = self.imputation.known, self.imputation.why_not
        working = self.imputation.inquiry.job is not None
        self.ask.setVisible(not why and not working and known is None)
        self.take.setEnabled(known is not None)
        for widget in (*self._titles, self.handlings, self.clusters):
            widget.setVisible(known is not None)
        if known is None:
            words = why or ("Would another treatment of missing answers give other clusters?")
            self.says.setText("" if working else words)
            return
        names = [who.told for who in self.focus.identities]
        self.says.setText(filled_words(known.imputed, names))
        findings = self.acts.findings()
        if findings is not None:
            self.handlings.show_table(handlings_table(findings))
            self.clusters.show_table(imputed_table(findings))
