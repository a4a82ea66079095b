"""What becomes of cases that may go to the nearest centroid, in sentences."""

from __future__ import annotations

from gorvel.core.base.numbers import counted, fixed, number
from gorvel.core.compare.relocation import MANY_MOVE, Best, Relocation

_MUCH_LOWER = 0.02  # of the sum of squares: what k-means finds beyond is worth a word


def moving_words(moved: Relocation, best: Best) -> str:
    """Whether the cut is near to a lowest sum of squares, and how far the lowest found is."""
    n, many = len(moved.before), moved.moved
    if not many:
        words = "Every case is nearest to the centroid of its own cluster."
    else:
        words = (
            f"{many:,} of {n:,} cases ({_share(many / n)}) {'ends' if many == 1 else 'end'} "
            "in another cluster when each is moved to the nearest centroid, in "
            f"{counted(moved.rounds, 'round')}; the within-cluster sum of squares falls "
            f"from {number(moved.w_before)} to {number(moved.w_after)}."
        )
        if many / n > MANY_MOVE:
            words += " That is many: use the reassigned clusters, or doubt that compact clusters"
            words += " exist here."
    if moved.emptied:
        ends = "ends" if moved.emptied == 1 else "end"
        words += f" {counted(moved.emptied, 'cluster')} {ends} without cases."
    lower = (best.w_tree - best.w) / best.w_tree if best.w_tree > 0 else 0.0
    words += f" K-means from other starts reaches {number(best.w)}"
    if best.agreement >= 1:
        return words + ", with the same clusters."
    words += f", with an adjusted Rand index of {fixed(best.agreement, 2)} between the clusters"
    return words + (f", {lower:.0%} below the cut." if lower >= _MUCH_LOWER else ".")


def _share(share: float) -> str:
    return f"{share:.0%}" if share >= 0.01 else f"{share:.1%}"
