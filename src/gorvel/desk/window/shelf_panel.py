"""The shelf: every tree of the study as a card, to be taken in hand, called, moved or removed."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.texts import button, heading, scrolled, text
from gorvel.desk.window.tree_card import WIDE, Pictures, TreeCard
from gorvel.desk.work.comparing import Comparing
from gorvel.paint.theme import SPACE

_HELP = "Click a tree to make it current, double-click to rename it, drag to reorder."
_PAIRING = "Click shows a tree on the right (L, R: a side); Return makes it current, F2 renames it."


class ShelfPanel(QWidget):
    """The trees of the study, one card below the other.

    pairing : are two of them compared, so that a click puts one on the right?
    """

    def __init__(self, comparing: Comparing, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.comparing, self.focus, self.pairing = comparing, comparing.focus, False
        focus = self.focus
        self.cards: list[TreeCard] = []
        self._pictures: Pictures = {}
        self.setFixedWidth(WIDE + 2 * SPACE)
        self.keep = button("Keep this tree", self._keep, "", "Ctrl+K")
        head = in_row((heading("Shelf"), 1), self.keep)
        self.nothing = text(
            (
                "No tree is kept yet. A kept tree stays unchanged while you try others; all "
                "are saved with the study."
            ),
            soft=True,
        )
        inside = QWidget()
        self._rows = QVBoxLayout(inside)
        self._rows.setContentsMargins(0, 0, SPACE, 0)
        self._rows.setSpacing(SPACE)
        self._area: QScrollArea = scrolled(inside)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.help = text(_HELP, "note", soft=True)
        fill(
            self, head, self.nothing, (self._area, 1), self.help, space=SPACE,
            edges=(2 * SPACE, 0, 0, SPACE),
        )  # fmt: skip
        for signal in (focus.shelf.shelf_changed, focus.shelf.plan_changed):
            signal.connect(self._follow)
        focus.cut_changed.connect(self._follow_cut)
        comparing.chosen.connect(self._show_sides)
        comparing.shelf.changed.connect(self._refresh)
        self._lay_out()

    def pair(self, pairing: bool) -> None:
        """Two trees are compared from now on, or no longer."""
        if pairing != self.pairing:
            self.pairing = pairing
            self.help.setText(_PAIRING if pairing else _HELP)
            self._show_sides()

    def _show_sides(self) -> None:
        for card in self.cards:
            card.show_side(self.pairing)

    def _clicked(self, number: int) -> None:
        if self.pairing:
            self.comparing.put(number)
        else:
            self.focus.shelf.take(number)

    def _dropped(self, number: int, where: QPoint) -> None:
        """A card was let go over another, or beyond the ends."""
        places = [card.entry.id for card in self.cards]
        middles = [card.mapToGlobal(card.rect().center()).y() for card in self.cards]
        above = sum(middle < where.y() for middle, at in zip(middles, places, strict=True)
                    if at != number)  # fmt: skip
        self.focus.shelf.move(number, above - places.index(number))

    def _keep(self) -> None:
        self.focus.shelf.keep(self.focus.trees_as_grown if self.focus.out_of_date else ())

    def take_focus(self) -> None:
        """To the card of the tree in hand."""
        for card in self.cards:
            if card.in_hand:
                card.setFocus()

    def _step(self, number: int, by: int) -> None:
        places = [card.entry.id for card in self.cards]
        place = min(max(places.index(number) + by, 0), len(places) - 1)
        self.cards[place].setFocus()
        self._area.ensureWidgetVisible(self.cards[place])

    def _follow_cut(self) -> None:
        if self.isVisible():
            for card in self.cards:
                if card.in_hand or self.pairing:
                    card.refresh()

    def _refresh(self) -> None:
        if self.isVisible():
            for card in self.cards:
                card.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        self._lay_out()

    def _follow(self) -> None:
        if self.isVisible():
            self._lay_out()

    def _lay_out(self) -> None:
        """A card for each tree; those that show what is so by now stay, and what is typed there."""
        study = self.focus.shelf.study
        trees = () if study is None else study.trees
        old = {card.entry.id: card for card in self.cards}
        held = next((card.entry.id for card in self.cards if card.hasFocus()), 0)
        while self._rows.count():
            self._rows.takeAt(0)
        self.cards = []
        for entry in trees:
            card = old.get(entry.id)
            in_hand = study is not None and entry.id == study.in_hand
            if card is None or card.entry != entry or card.in_hand != in_hand:
                card = TreeCard(self.comparing, entry, self._pictures)
                card.clicked.connect(self._clicked)
                card.chosen.connect(self.focus.shelf.take)
                card.dropped.connect(self._dropped)
                card.stepped.connect(self._step)
            else:
                del old[entry.id]
                card.refresh()
            self._rows.addWidget(card)
            self.cards.append(card)
            if entry.id == held:
                card.setFocus()
        for card in old.values():
            card.hide()
            card.deleteLater()
        self._rows.addStretch(1)
        self._show_sides()
        kept = study is not None and bool(study.kept)
        self.nothing.setVisible(not kept)
        self.help.setVisible(kept)
        mine = study is not None and not study.entry.kept
        self.keep.setEnabled(mine and self.focus.grown is not None)
