"""What all columns of the desk have in common, on the screen and on paper: no widget is needed."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF
from PySide6.QtGui import QFont

from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.theme import font
from gorvel.paint.tree_style import TreeLook

_HEAD, _FOOT = 46.0, 60.0  # pixels before and after the cases: titles, scales
_UPRIGHT_HEAD, _UPRIGHT_FOOT = 150.0, 92.0
_MOST_LINES = 3  # of a heading above the cases
_UPRIGHT_FREE = 58.0  # pixels beside an upright heading that the handle of the cut takes


@dataclass(frozen=True)
class CaseSpan:
    """Which cases are in sight, and how large.

    length : places of all cases; body : pixels there are for them; row : pixels a place; scrolled :
    pixels before the first one in sight.
    """

    length: float
    body: float
    row: float
    scrolled: float = 0.0
    upright: bool = False

    @classmethod
    def whole(cls, length: float, upright: bool = False) -> CaseSpan:
        """All cases, in a pixel each before they are fitted to some paper."""
        return cls(length, length, 1.0, 0.0, upright)

    @property
    def head(self) -> float:
        """Pixels before the first case."""
        return _UPRIGHT_HEAD if self.upright else _HEAD

    @property
    def foot(self) -> float:
        """Pixels after the last case."""
        return _UPRIGHT_FOOT if self.upright else _FOOT

    def frame(self, left: float, right: float) -> Frame:
        """Where the axes of a column run."""
        return Frame(left, right, self.head, self.head + self.body, self.row, self.scrolled)

    def fitted(self, along: float, whole: bool) -> CaseSpan:
        """The same on so many pixels, with head and foot; whole : with all cases in sight."""
        body = max(along - self.head - self.foot, 10.0)
        row, scrolled = self.row * body / self.body, self.scrolled * body / self.body
        if whole:
            row, scrolled = body / self.length, 0.0
        return CaseSpan(self.length, body, row, scrolled, self.upright)


class ColumnPicture:
    """One column, painted the same on screen, in a picture and in print.

    Those that are made are frozen, and hold all they show; `look` is of the whole tree.
    """

    look: TreeLook
    title = ""
    margin = (6.0, 6.0)  # pixels before and after what is drawn, across the cases

    def heading(self) -> str:
        """What the column shows, in words."""
        return self.title

    def headings(self) -> list[str]:
        """The same in fewer words, for less room: the first that fits is taken."""
        return [self.heading()]

    def natural(self, share: float) -> float:
        """The width that suits the column; 0 where more is better.

        share : pixels that one column among several may take for words.
        """
        return 0.0

    def paint(self, canvas: Canvas, frame: Frame) -> None:
        """All that lies between the cases; the caller has set the clip."""
        raise NotImplementedError

    def paint_foot(self, canvas: Canvas, frame: Frame) -> None:
        """Scales and legends after the last case."""

    def paint_cut(self, canvas: Canvas, frame: Frame) -> None:
        """Over everything else, the line of the cut where the column has one."""

    def paint_whole(self, canvas: Canvas, frame: Frame, wide: float) -> None:
        """Title, cases, foot and cut. wide : pixels there are across."""
        self._head(canvas, frame)
        canvas.painter.save()
        canvas.clip(cases_box(frame, wide))
        self.paint(canvas, frame)
        canvas.painter.restore()
        canvas.painter.save()
        self.paint_foot(canvas, frame)
        canvas.painter.restore()
        self.paint_cut(canvas, frame)

    def _head(self, canvas: Canvas, frame: Frame) -> None:
        """The heading above the cases; in lines beside them when upright, clear of the cut's."""
        at, words = font("note", 600), self.heading()
        long = frame.top - _UPRIGHT_FREE if canvas.upright else frame.right - frame.left
        if canvas.upright:
            lines = _lines(canvas, words, at, long)
        else:
            fitting = [said for said in self.headings() if canvas.wide(said, at) <= long]
            lines = fitting[:1] or _lines(canvas, words, at, long)[:_MOST_LINES]
        for number, line in enumerate(lines):
            box = QRectF(frame.left, 15 * number, frame.right - frame.left, 17)
            if canvas.upright:
                box = QRectF(frame.left + 16 * number, 6, 22, long)
            canvas.write(box, canvas.shortened(line, at, long), self.look.theme.soft, at)


def cases_box(frame: Frame, wide: float) -> QRectF:
    """Where cases lie in a column of so many pixels; wide enough for what hangs over."""
    return QRectF(0, frame.top, wide + 4000, frame.bottom - frame.top + 1)


def _lines(canvas: Canvas, words: str, at: QFont, long: float) -> list[str]:
    """Words in lines of so many pixels, each part of a heading from a line of its own on."""
    lines: list[str] = []
    for part in words.split(" · "):
        begun = ""
        for word in part.split():
            longer = f"{begun} {word}".strip()
            if begun and canvas.wide(longer, at) > long:
                lines.append(begun)
                longer = word
            begun = longer
        lines.append(begun)
    return lines
