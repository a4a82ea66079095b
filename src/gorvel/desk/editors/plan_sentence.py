"""The plan as one sentence whose parts can be clicked, with the editors they open."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QFrame, QLabel, QPushButton, QSizePolicy, QWidget

from gorvel.core.cases.rows import rows_looked_at
from gorvel.core.table.table import Table
from gorvel.core.words.plan import Phrase, plan_phrases
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.flow import FlowLayout
from gorvel.desk.controls.following import OnceATurn
from gorvel.desk.controls.plain_text import PlainButton, as_tip
from gorvel.desk.controls.texts import clear
from gorvel.desk.editors.option_editor import Choices, options_of
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import font

_TIPS = {
    "of": "Choose what to group",
    "cases": "Show the cases",
    "variables": "Choose the active variables on the Cases page",
}


def _words(phrases: list[Phrase]) -> Iterator[tuple[str, str]]:
    """Words as they are set one after the other, and the part that each opens, if any."""
    for phrase in phrases:
        if phrase.part:
            yield phrase.text, phrase.part
            continue
        if phrase.text.startswith(" "):
            yield " ", ""
        words = phrase.text.split()
        for k, word in enumerate(words):
            last = k == len(words) - 1 and not phrase.text.endswith(" ")
            yield (word if last else word + " "), ""


class PlanSentence(QWidget):
    """Signals: page_wanted(name), when a part is chosen on a page of its own."""

    page_wanted = Signal(str)

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.parts: dict[str, QPushButton] = {}
        self._editing = ""
        self._said: list[Phrase] = []
        self._words: list[tuple[str, QLabel | QPushButton]] = []  # the part each word opens, if any
        self._flow = FlowLayout(self)
        self._flow.setContentsMargins(0, 0, 0, 0)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        OnceATurn(self, self._say, focus.shelf.plan_changed, focus.prepared_changed)
        self._say()

    def sentence(self) -> str:
        """The sentence as plain text."""
        focus = self.focus
        if focus.shelf.plan is None or focus.shelf.study is None:
            return ""
        return "".join(phrase.text for phrase in plan_phrases(focus.shelf.plan, self._cases()))

    def _cases(self) -> int:
        focus = self.focus
        if focus.prepared is not None:
            return focus.prepared.read - len(focus.prepared.dropped)
        study, plan = focus.shelf.study, focus.shelf.plan
        if study is None or plan is None:
            return 0
        source = study.source  # while it is not known what the plan makes of it
        return len(rows_looked_at(source, plan)) if isinstance(source, Table) else source.n

    def _say(self) -> None:
        plan = self.focus.shelf.plan
        phrases = [] if plan is None else plan_phrases(plan, self._cases())
        if phrases == self._said:
            return
        self._said = phrases
        words = list(_words(phrases))
        if [part for _, part in words] != [part for part, _ in self._words]:
            self._make(words)
        for (word, _), (_, widget) in zip(words, self._words, strict=True):
            if widget.text() != word:
                widget.setText(word)
        self.updateGeometry()

    def _make(self, words: list[tuple[str, str]]) -> None:
        """Widgets for another sequence of words and parts."""
        had_focus = next((part for part, b in self.parts.items() if b.hasFocus()), "")
        clear(self._flow)
        self.parts.clear()
        self._words = [(part, self._part(part) if part else self._word()) for _, part in words]
        for _, widget in self._words:
            self._flow.addWidget(widget)
        if had_focus in self.parts:
            self.parts[had_focus].setFocus()

    def _word(self) -> QLabel:
        label = QLabel()
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setFont(font("title"))
        label.setContentsMargins(0, 3, 0, 3)
        return label

    def _part(self, part: str) -> QPushButton:
        out = PlainButton()
        out.setProperty("value", True)
        out.setFont(font("title", 600))
        out.setCursor(Qt.CursorShape.PointingHandCursor)
        out.setToolTip(as_tip(_TIPS.get(part, "Choose, and see what it does")))
        out.clicked.connect(lambda: self.edit(part))
        self.parts[part] = out
        return out

    def edit(self, part: str) -> QFrame | None:
        """Open the editor of a part below its words, or ask for the page that has it."""
        if part in ("cases", "variables"):
            self.page_wanted.emit("Cases")
            return None
        anchor = self.parts[part]
        place = anchor.mapToGlobal(QPoint(0, anchor.height() + 4))
        popup = open_editor(self.focus, part, place, self)
        if popup is not None:
            self._editing = part
            popup.destroyed.connect(self._edited)
        return popup

    def _edited(self) -> None:
        """Back to the words that were clicked; they were made anew when the plan changed."""
        part = self._editing
        if part in self.parts and self.isVisible():
            self.activateWindow()
            self.parts[part].setFocus()


def open_editor(focus: Focus, part: str, place: QPoint, parent: QWidget) -> QFrame | None:
    """A small window with the choices for one part; Esc or a click elsewhere closes it."""
    if focus.shelf.plan is None:
        return None
    popup = QFrame(parent, Qt.WindowType.Popup)
    popup.setProperty("panel", True)
    delete_on_close(popup)
    editor = Choices(focus, options_of(focus, part), popup)
    editor.finished.connect(popup.close)
    fill(popup, editor, edges=(1, 1, 1, 1))
    popup.resize(popup.sizeHint())
    screen = parent.window().geometry()
    x = min(place.x(), screen.right() - popup.width() - 12)
    y = min(place.y(), max(screen.bottom() - popup.height() - 12, screen.top()))
    popup.move(max(x, screen.left() + 12), y)
    popup.show()
    editor.take_focus()
    return popup
