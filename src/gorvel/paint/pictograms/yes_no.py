"""The table of a pair of yes/no cases: what counts as likeness, what is counted at all."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from gorvel.paint.pictograms.sketch import Sketch

_LEFT, _TOP, _WIDE, _HIGH = 76.0, 10.0, 46.0, 38.0
_CELLS = {"a": (0, 0), "b": (1, 0), "c": (0, 1), "d": (1, 1)}


def _table(
    sketch: Sketch, alike: str = "", unlike: str = "", double: str = "", crossed: bool = False,
    sides: str = "", sign: str = "",
) -> None:  # fmt: skip
    """The table of two cases, with the cells that a measure uses.

    alike, unlike : cells that count for and against; double : those that count twice; crossed :
    products of opposite cells; sides : cells that are compared with what their row and column
    hold; sign : how they are put together.
    """
    for name, (column, row) in _CELLS.items():
        x, y = _LEFT + column * (_WIDE + 3), _TOP + row * (_HIGH + 3)
        counted = name in alike or name in unlike
        if counted:
            for_it = name in alike
            sketch.bar(x, y, _WIDE, _HIGH, "cut" if for_it else "soft", 0.45 if for_it else 0.2)
        else:
            sketch.frame(x, y, _WIDE, _HIGH, "line")
        words = f"2{name}" if name in double else name
        sketch.word(
            x + _WIDE / 2, y + _HIGH / 2, words, "ink" if counted else "soft", name in alike
        )
    sketch.word(_LEFT + 2 * _WIDE + 28, _TOP + _HIGH + 1.5, sign, "cut", True)
    heart = (_LEFT + _WIDE + 1.5, _TOP + _HIGH + 1.5)
    if crossed:
        dx, dy = _WIDE / 2 - 9, _HIGH / 2 - 8
        sketch.line((heart[0] - dx, heart[1] - dy), (heart[0] + dx, heart[1] + dy), 2.2, "cut")
        sketch.line((heart[0] + dx, heart[1] - dy), (heart[0] - dx, heart[1] + dy), 2.2, "soft")
    for name in sides:
        row, column = _CELLS[name][1], _CELLS[name][0]
        y, x = _TOP + row * (_HIGH + 3), _LEFT + column * (_WIDE + 3)
        sketch.frame(_LEFT - 3, y - 3, 2 * _WIDE + 9, _HIGH + 6, "cut")
        sketch.frame(x - 3, _TOP - 3, _WIDE + 6, 2 * _HIGH + 9, "cut")


YES_NO_PICTURES: dict[str, Callable[[Sketch], None]] = {
    "simple-matching": partial(_table, alike="ad", unlike="bc"),
    "jaccard": partial(_table, alike="a", unlike="bc"),
    "dice": partial(_table, alike="a", unlike="bc", double="a"),
    "russell-rao": partial(_table, alike="a", unlike="bcd"),
    "rogers-tanimoto": partial(_table, alike="ad", unlike="bc", double="bc"),
    "sokal-sneath-1": partial(_table, alike="ad", unlike="bc", double="ad"),
    "sokal-sneath-2": partial(_table, alike="a", unlike="bc", double="bc"),
    "sokal-sneath-3": partial(_table, alike="ad", unlike="bc", sign=":"),
    "sokal-sneath-4": partial(_table, alike="ad", unlike="bc", sides="ad", sign="¼"),
    "sokal-sneath-5": partial(_table, alike="ad", unlike="bc", sides="ad", sign="√"),
    "kulczynski-1": partial(_table, alike="a", unlike="bc", sign=":"),
    "kulczynski-2": partial(_table, alike="a", unlike="bc", sides="a", sign="½"),
    "ochiai": partial(_table, alike="a", unlike="bc", sides="a", sign="√"),
    "hamann": partial(_table, alike="ad", unlike="bc", sign="−"),
    "yule-q": partial(_table, alike="ad", unlike="bc", crossed=True),
    "yule-y": partial(_table, alike="ad", unlike="bc", crossed=True, sign="√"),
    "phi": partial(_table, alike="ad", unlike="bc", crossed=True, sign="r"),
}
