"""A small picture of a tree with its cut, for the shelf and for lists of studies."""

from __future__ import annotations

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, Qt
from PySide6.QtGui import QColor, QImage, QPainter

from gorvel.core.scene.tree_top import summit_of
from gorvel.core.study.kept import KeptTree
from gorvel.core.tree.cluster_names import identities, titled_nodes
from gorvel.core.tree.cuts import cut_at_count
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.summit import SummitChart
from gorvel.paint.theme import Theme

_MOST = 24  # clusters that it is drawn down to, at least
_FIRST_COUNT = 4


def small_tree(
    kept: KeptTree, theme: Theme, width: int, height: int, ratio: float = 1.0, ground: bool = False
) -> QImage:
    """The last joins of a tree, its clusters in their colours.

    width, height : in pixels of a screen that has `ratio` of its own for each; ground : on one of
    its own, to be seen on any other.
    """
    image = QImage(
        round(width * ratio), round(height * ratio), QImage.Format.Format_ARGB32_Premultiplied
    )
    image.setDevicePixelRatio(ratio)
    image.fill(QColor(theme.panel) if ground else Qt.GlobalColor.transparent)
    tree = kept.tree
    if kept.cut is None:
        cut = lettered = cut_at_count(tree, min(_FIRST_COUNT, max(tree.n - 1, 1)))
    else:
        cut, lettered = kept.cut.cut(tree), kept.cut.lettered_cut(tree)
    squared = kept.plan.proximity.measure == "squared-euclidean"
    summit = summit_of(tree, max(_MOST, min(cut.clusters, 4 * _MOST)), squared)
    colours = titled_nodes(tree, kept.plan.cut.colours) if kept.group is None else {}
    whos = identities(tree, lettered, cut, None, colours)
    clusters = [
        (
            float(tree.starts[root]) / tree.n,
            float(tree.starts[root] + tree.sizes[root]) / tree.n,
            who,
        )
        for root, who in zip(cut.roots.tolist(), whos, strict=True)
    ]
    painter = QPainter(image)
    SummitChart(theme, width, height, summit, cut.clusters, 0, clusters).paint(Canvas(painter))
    painter.end()
    return image


def as_png(image: QImage) -> bytes:
    """The bytes of a PNG file."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(data.data())
