"""The shelf: every tree of the study as a card, to be taken in hand, called, moved or removed."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPixmap, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.study.kept import KeptTree
from gorvel.core.study.study import TreeEntry
from gorvel.core.words.differences import differences
from gorvel.desk.controls.texts import button, counted, heading, scrolled, text
from gorvel.desk.window.commands import Command, made_menu
from gorvel.desk.work.comparing import Comparing
from gorvel.paint.charts.small_tree import small_tree
from gorvel.paint.theme import SPACE, current

__all__ = ["ShelfPanel", "TreeCard"]

Pictures = dict[int, tuple[object, QPixmap]]  # by id of the tree, with what each shows
_WIDE = 264
_SMALL = QSize(_WIDE - 6 * SPACE, 76)


class TreeCard(QFrame):
    """One tree; pictures : made before, by id, with what each shows.

    Signals: clicked(id); chosen(id), to be in hand; stepped(id, by); dropped(id, where on the
    screen), it was dragged there.
    """

    clicked = Signal(int)
    chosen = Signal(int)
    stepped = Signal(int, int)
    dropped = Signal(int, QPoint)

    def __init__(
        self,
        comparing: Comparing,
        entry: TreeEntry,
        pictures: Pictures,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        focus = comparing.focus
        self.comparing, self.focus, self.entry, self.pictures = comparing, focus, entry, pictures
        self._held: QPoint | None = None
        study = focus.shelf.study
        assert study is not None
        self.in_hand = entry.id == study.in_hand
        self.setProperty("panel", True)
        self.setProperty("inHand", self.in_hand)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(SPACE + 4, SPACE, SPACE, SPACE)
        inside.setSpacing(2)
        self.title = heading(focus.shelf.name_of(entry), 1.0)
        self.title.setWordWrap(True)
        self.title.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        top = QHBoxLayout()
        top.setSpacing(0)
        top.addWidget(self.title, 1)
        self.side = text("", 0.93, 600, wrap=False)
        self.side.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        self.side.hide()
        top.addWidget(self.side, 0, Qt.AlignmentFlag.AlignTop)
        self.more = button("…", self.open_menu, "link", "Title, note, place on the shelf, remove")
        self.more.setAccessibleName("What can be done with this tree")
        self.side.setFixedHeight(self.more.sizeHint().height())
        top.addWidget(self.more, 0, Qt.AlignmentFlag.AlignTop)
        inside.addLayout(top)
        self.naming = QLineEdit()
        self.naming.setPlaceholderText(focus.shelf.name_of(entry))
        self.naming.setAccessibleName("Title of the tree")
        self.naming.editingFinished.connect(self._named)
        self.naming.hide()
        inside.addWidget(self.naming)
        self.says = text("", 0.93, soft=True)
        self.says.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        inside.addWidget(self.says)
        self.note = text(entry.note, 0.93)
        self.note.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        self.note.setVisible(bool(entry.note))
        inside.addWidget(self.note)
        self.picture = QLabel()
        self.picture.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        inside.addWidget(self.picture)
        self.kept: KeptTree | None = None
        self.refresh()

    def refresh(self) -> None:
        """Tell anew how the tree stands."""
        kept, before = self._tree(), self.kept
        self.kept = kept
        self.says.setText(self._words())
        self.setAccessibleName(f"{self.title.text()}: {self.says.text()}")
        self.picture.setVisible(kept is not None)
        if kept is not None and (before is None or before.cut != kept.cut):
            self.picture.setPixmap(self._pictured(kept))

    def show_side(self, pairing: bool) -> None:
        """Tell on which side of the two that are compared it is. pairing : are any looked at?"""
        sides = {self.comparing.left: "left", self.comparing.right: "right"}
        side = sides.get(self.entry.id, "") if pairing else ""
        self.side.setText(side)
        self.side.setVisible(bool(side))
        self.setProperty("inHand", bool(side) if pairing else self.in_hand)
        self.style().unpolish(self)
        self.style().polish(self)

    def _pictured(self, kept: KeptTree) -> QPixmap:
        """A picture of it, made once for each cut and looks."""
        theme, ratio = current(), self.devicePixelRatioF()
        shows = (kept.tree, kept.cut, theme.name, ratio)
        before = self.pictures.get(self.entry.id)
        if before is not None and before[0] == shows:
            return before[1]
        image = small_tree(kept, theme, _SMALL.width(), _SMALL.height(), ratio)
        picture = QPixmap.fromImage(image)
        self.pictures[self.entry.id] = (shows, picture)
        return picture

    def _tree(self) -> KeptTree | None:
        """What is known of it, if it was grown; of a split the first group."""
        focus, number = self.focus, self.entry.id
        if number == focus.grown_id and self.in_hand:
            return focus.kept_now
        return next((tree for (one, _), tree in focus.shelf.kept.items() if one == number), None)

    def _words(self) -> str:
        """How it stands: in hand, or what is other than there; its count."""
        study = self.focus.shelf.study
        assert study is not None
        tree, told = self.kept, []
        if self.in_hand:
            told.append("in hand" if self.entry.kept else "in hand, not kept")
        else:
            other = differences(study.plan, self.entry.plan)
            told.append("; ".join(other) if other else "grows the same tree")
        if tree is None:
            told.append("not grown yet")
        elif not tree.grows_as(self.entry.plan):
            told.append("out of date")
        elif tree.cut is not None:
            clusters = tree.cut.cut(tree.tree).clusters
            told.append(f"{counted(clusters, 'cluster')} of {tree.tree.n:,} {focus_of(tree)}")
        alike, cut = self.comparing.alike(self.entry.id), self.focus.cut
        if not self.in_hand and alike is not None and cut is not None:
            told.append(f"{alike:.2f} alike at {cut.clusters:,}")
        chosen = self.entry.plan.counting.chosen
        if chosen is not None:
            told.append(f"{chosen} taken")
        return ". ".join(word[:1].upper() + word[1:] for word in told) + "."

    def rename(self) -> None:
        """Type another title; Return takes it, Esc leaves it."""
        self.naming.setText(self.entry.title)
        self.title.hide()
        self.naming.show()
        self.naming.setFocus()
        self.naming.selectAll()

    def write_note(self) -> None:
        """Ask for a few words about the tree."""
        title, old = self.title.text(), self.entry.note
        note, taken = QInputDialog.getMultiLineText(self, "Note", f"About {title}:", old)
        if taken:
            self.focus.shelf.call(self.entry.id, self.entry.title, note)

    def commands(self) -> tuple[Command, ...]:
        """What can be done with the tree."""
        focus, number, kept = self.focus, self.entry.id, self.entry.kept
        trees = focus.shelf.study.trees if focus.shelf.study is not None else ()
        place = [entry.id for entry in trees].index(number)
        return (
            Command(
                "Take in hand", ("Return",), partial(focus.shelf.take, number), not self.in_hand
            ),
            Command("Compare, on the left", ("L",), partial(self.comparing.put, number, True)),
            Command("Compare, on the right", ("R",), partial(self.comparing.put, number)),
            Command("Title …", ("F2",), self.rename),
            Command("Note …", ("N",), self.write_note),
            Command("Move up", ("Alt+Up",), partial(focus.shelf.move, number, -1), place > 0),
            Command(
                "Move down",
                ("Alt+Down",),
                partial(focus.shelf.move, number, 1),
                place + 1 < len(trees),
            ),
            Command("Remove from the shelf", ("Del",), partial(focus.shelf.remove, number), kept),
        )

    def open_menu(self) -> None:
        """What can be done with the tree, below its button."""
        corner = self.more.mapToGlobal(QPoint(0, self.more.height()))
        made_menu(self.commands(), self).popup(corner)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        made_menu(self.commands(), self).popup(event.globalPos())

    def _named(self) -> None:
        if self.naming.isVisible():
            self.naming.hide()
            self.title.show()
            self.focus.shelf.call(self.entry.id, self.naming.text())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.setFocus()
            self._held = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged(event):
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def _dragged(self, event: QMouseEvent) -> bool:
        if self._held is None:
            return False
        far = (event.position().toPoint() - self._held).manhattanLength()
        return far >= QApplication.startDragDistance()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, held = self._dragged(event), self._held
        self._held = None
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        if dragged:
            self.dropped.emit(self.entry.id, event.globalPosition().toPoint())
        elif held is not None:
            self.clicked.emit(self.entry.id)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.rename()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, focus, number = event.key(), self.focus, self.entry.id
        alt = event.modifiers() & Qt.KeyboardModifier.AltModifier
        if self.naming.isVisible():
            if key == Qt.Key.Key_Escape:
                self.naming.hide()
                self.title.show()
                self.setFocus()
            return
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(number)
        elif key in (Qt.Key.Key_L, Qt.Key.Key_R):
            self.comparing.put(number, key == Qt.Key.Key_L)
        elif key == Qt.Key.Key_F2:
            self.rename()
        elif key == Qt.Key.Key_N:
            self.write_note()
        elif key == Qt.Key.Key_Delete and self.entry.kept:
            focus.shelf.remove(number)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            by = -1 if key == Qt.Key.Key_Up else 1
            if alt:
                focus.shelf.move(number, by)
            else:
                self.stepped.emit(number, by)
        else:
            super().keyPressEvent(event)


def focus_of(tree: KeptTree) -> str:
    """What a tree is of."""
    return tree.plan.tree.of


_HELP = (
    "A click or Return takes a tree in hand, F2 or a double click gives it a title; cards can be"
    " dragged. Ctrl+Z takes everything back."
)
_PAIRING = (
    "A click puts a tree on the right, L and R on a side; Return takes it in hand, F2 gives it a"
    " title; cards can be dragged."
)


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
        self.setFixedWidth(_WIDE + 2 * SPACE)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(2 * SPACE, 0, 0, SPACE)
        outer.setSpacing(SPACE)
        head = QHBoxLayout()
        head.addWidget(heading("Shelf"), 1)
        self.keep = button("Keep this tree", self._keep, "link", "Ctrl+K")
        head.addWidget(self.keep)
        outer.addLayout(head)
        self.nothing = text(
            "No tree is kept yet. A tree that is kept stays as it is, with its plan, cut and count,"
            " while you try another; the file of the study holds them all.",
            soft=True,
        )
        outer.addWidget(self.nothing)
        inside = QWidget()
        self._rows = QVBoxLayout(inside)
        self._rows.setContentsMargins(0, 0, SPACE, 0)
        self._rows.setSpacing(SPACE)
        self._area: QScrollArea = scrolled(inside)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer.addWidget(self._area, 1)
        self.help = text(_HELP, 0.86, soft=True)
        outer.addWidget(self.help)
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
