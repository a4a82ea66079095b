"""A tree of the shelf as a card: how it stands, its picture, and what can be done with it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import QPoint, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPixmap
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QInputDialog,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QWidget,
)

from gorvel.core.base.numbers import fixed, sentence
from gorvel.core.study.groups import group_words
from gorvel.core.study.kept import KeptTree
from gorvel.core.study.study import TreeEntry
from gorvel.core.words.differences import differences
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.flow import FlowLayout
from gorvel.desk.controls.plain_text import as_question
from gorvel.desk.controls.texts import button, clear, counted, heading, text
from gorvel.desk.window.commands import Command, made_menu
from gorvel.desk.work.comparing import Comparing
from gorvel.paint.charts.small_tree import small_tree
from gorvel.paint.theme import SPACE, current

Pictures = dict[int, tuple[object, QPixmap]]  # by id of the tree, with what each shows
WIDE = 264
_SMALL = QSize(WIDE - 6 * SPACE, 76)


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
        self.title = heading(focus.shelf.name_of(entry), "text")
        self.title.setWordWrap(True)
        self.title.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        self.side = text("", "note", 600, wrap=False)
        self.side.setProperty("tag", True)
        self.side.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        self.side.hide()
        self.more = button("…", self.open_menu, "link", "Title, note, place on the shelf, remove")
        self.more.setAccessibleName("What can be done with this tree")
        corner = in_row(
            (self.side, 0, Qt.AlignmentFlag.AlignVCenter),
            (self.more, 0, Qt.AlignmentFlag.AlignVCenter),
        )
        top = in_row((self.title, 1), corner, space=4)
        top.setAlignment(corner, Qt.AlignmentFlag.AlignTop)
        self.naming = QLineEdit()
        self.naming.setPlaceholderText(focus.shelf.name_of(entry))
        self.naming.setAccessibleName("Title of the tree")
        self.naming.editingFinished.connect(self._named)
        self.naming.hide()
        self.says = text("", "table", soft=True)
        self.says.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        self.note = text(entry.note, "table")
        self.note.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        self.note.setVisible(bool(entry.note))
        self.picture = QLabel()
        self.picture.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.groups: dict[str, QPushButton] = {}
        self._group_row = QWidget()
        self._flow = FlowLayout(self._group_row)
        self._flow.setContentsMargins(0, 0, 0, 0)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self._group_row.setSizePolicy(policy)
        self._group_row.hide()
        fill(
            self, top, self.naming, self.says, self.note, self.picture, self._group_row, space=2,
            edges=(SPACE + 4, SPACE, SPACE, SPACE),
        )  # fmt: skip
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
        sides = {"left": self.comparing.left, "right": self.comparing.right}
        mine = [(side, group) for side, (number, group) in sides.items() if number == self.entry.id]
        side = " and ".join(side for side, _ in mine) if pairing else ""
        self._show_groups({group: side for side, group in mine if group}, pairing)
        self.side.setText(side)
        self.side.setVisible(bool(side))
        self.setProperty("inHand", bool(side) if pairing else self.in_hand)
        self.style().unpolish(self)
        self.style().polish(self)

    def _show_groups(self, sides: dict[str, str], pairing: bool) -> None:
        """The trees of the groups of a split, each to be put on the right. sides : by group."""
        names = self.comparing.groups_of(self.entry.id) if pairing else []
        if list(self.groups) != names:
            clear(self._flow)
            self.groups = {}
            for group in names:
                put = partial(self.comparing.put, self.entry.id, False, group)
                link = button("", put, "link", "Show the tree of this group on the right")
                link.setFocusPolicy(Qt.FocusPolicy.TabFocus)
                self.groups[group] = link
                self._flow.addWidget(link)
        for group, link in self.groups.items():
            words = group_words(self.entry.plan, group)
            link.setText(f"{words} ({sides[group]})" if group in sides else words)
        self._group_row.setVisible(bool(names))

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
        """What is known of it, if it was grown; of a split the group in hand, or the first."""
        focus, number = self.focus, self.entry.id
        if number == focus.grown_id and self.in_hand:
            return focus.kept_now
        return focus.shelf.kept.get(self.comparing.at(number))

    def _words(self) -> str:
        """How it stands: in hand, or what is other than there; its count."""
        study = self.focus.shelf.study
        assert study is not None
        tree, told = self.kept, []
        if self.in_hand:
            told.append("current" if self.entry.kept else "current, not kept")
        else:
            other = differences(study.plan, self.entry.plan)
            if not other:
                told.append("grows the same tree")
            elif self.entry.title:  # without one the plan is its name
                told.append("; ".join(other))
        if tree is None:
            told.append("not grown yet")
        elif not tree.grows_as(self.entry.plan):
            told.append("out of date")
        elif tree.cut is not None:
            clusters = tree.cut.cut(tree.tree).clusters
            told.append(f"{counted(clusters, 'cluster')} of {tree.tree.n:,} {focus_of(tree)}")
        alike, cut = self.comparing.alike(self.entry.id), self.focus.cut
        if not self.in_hand and alike is not None and cut is not None:
            told.append(f"adjusted Rand {fixed(alike, 2)} at {counted(cut.clusters, 'cluster')}")
        chosen = self.entry.plan.counting.chosen
        if chosen is not None:
            told.append(f"{chosen} chosen")
        return ". ".join(sentence(word) for word in told) + "."

    def rename(self) -> None:
        """Type another title; Return takes it, Esc leaves it."""
        self.naming.setText(self.entry.title)
        self.title.hide()
        self.naming.show()
        self.naming.setFocus()
        self.naming.selectAll()

    def write_note(self) -> None:
        """Ask for a few words about the tree."""
        words, old = as_question(f"About {self.title.text()}:"), self.entry.note
        note, taken = QInputDialog.getMultiLineText(self, "Note", words, old)
        if taken:
            self.focus.shelf.call(self.entry.id, self.entry.title, note)

    def commands(self) -> tuple[Command, ...]:
        """What can be done with the tree."""
        focus, number, kept = self.focus, self.entry.id, self.entry.kept
        trees = focus.shelf.study.trees if focus.shelf.study is not None else ()
        place = [entry.id for entry in trees].index(number)
        return (
            Command(
                "Make current", ("Return",), partial(focus.shelf.take, number), not self.in_hand
            ),
            Command("Compare, on the left", ("L",), partial(self.comparing.put, number, True)),
            Command("Compare, on the right", ("R",), partial(self.comparing.put, number)),
            *self._of_groups(),
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

    def _of_groups(self) -> Iterator[Command]:
        """The tree of each group on either side."""
        names = self.comparing.groups_of(self.entry.id)
        for left, side in ((True, "left"), (False, "right")):
            inside = tuple(
                Command(
                    group_words(self.entry.plan, group),
                    (),
                    partial(self.comparing.put, self.entry.id, left, group),
                )
                for group in names
            )
            if inside:
                yield Command(f"Group on the {side}", inside=inside)

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
