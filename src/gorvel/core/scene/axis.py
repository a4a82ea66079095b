"""The height axis that dendrogram and height chart share."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from gorvel.core.tree.schedule import WithinSS
from gorvel.core.tree.tree import Tree

HeightScale = Literal["plain", "root", "log", "relative", "clusters", "within", "r2"]
Floats = NDArray[np.float64]

SCALES: dict[HeightScale, str] = {
    "plain": "height",
    "root": "height, square root",
    "log": "height, logarithmic",
    "relative": "height, share of the largest",
    "clusters": "clusters left",
    "within": "sum of squares within clusters",
    "r2": "R², share of the variance between clusters",
}
_LEAST_LOG = 1e-4  # share of the largest height at which a logarithmic axis ends
_AIR = {"root": 1.06}  # room above the top, as a factor


class Tick(NamedTuple):
    """A labelled place on the axis."""

    share: float
    label: str


@dataclass(frozen=True, eq=False)
class HeightAxis:
    """Heights to shares of the axis: 0 at the cases, 1 a little above the top.

    low, top : heights at the ends; scale : a key of `SCALES`; joins : (n-1,) shares of the joins;
    by_rank : the axis is not one of heights: shares between joins are read off between them;
    heights : (n-1,) of the joins, running maximum.
    """

    scale: HeightScale
    low: float
    top: float
    joins: Floats
    heights: Floats
    by_rank: bool = False

    def share(self, heights: NDArray[np.float64] | float) -> Floats:
        """Heights to shares, within 0..1."""
        if self.by_rank:
            return np.asarray(np.interp(heights, *self._knots()))
        return _share(np.asarray(heights, dtype=np.float64), self.scale, self.low, self.top)

    def height(self, share: float) -> float:
        """The height at a share of the axis."""
        part = min(max(share, 0.0), 1.0)
        if self.by_rank:
            heights, shares = self._knots()
            return float(np.interp(part, shares, heights))
        if self.scale == "log":
            return float(self.low * (self.top / self.low) ** part)
        part = part**2 if self.scale == "root" else part
        return self.low + part * (self.top - self.low)

    def _knots(self) -> tuple[Floats, Floats]:
        top = float(self.heights[-1]) if self.heights.size else 0.0
        beyond = top + max(abs(top), 1.0) * 0.03
        return (
            np.concatenate([[min(0.0, self.low)], self.heights, [beyond]]),
            np.concatenate([[0.0], self.joins, [1.0]]),
        )

    def ticks(self, wanted: int = 7) -> list[Tick]:
        """Round values that are spread over the axis without crowding."""
        match self.scale:
            case "clusters":
                cases = len(self.joins) + 1
                counts = [c for c in _round_counts() if c <= cases]
                return [Tick(_rank_share(c, cases), f"{c:,}") for c in counts]
            case "within" | "r2":
                parts = np.linspace(0, 1, 6)
                shown = parts if self.scale == "within" else 1 - parts
                return [
                    Tick(float(a) / 1.03, f"{b:.0%}") for a, b in zip(parts, shown, strict=True)
                ]
            case "relative":
                largest = float(self.heights[-1]) if self.heights.size else 1.0
                return [
                    Tick(float(self.share(part * largest)), f"{part:.0%}")
                    for part in np.linspace(0, 1, 6)
                ]
        return [Tick(float(self.share(tick)), f"{tick:,.10g}") for tick in self._round(wanted)]

    def _round(self, wanted: int) -> list[float]:
        """Round heights; on a root axis the steps grow, so that labels keep their distance."""
        if self.scale == "plain":
            step = _round_step((self.top - self.low) / wanted)
            first = np.ceil(self.low / step)
            return [float(k * step) + 0.0 for k in np.arange(first, np.floor(self.top / step) + 1)]
        found = [self.low] if self.scale == "root" else []
        for share in np.linspace(0, 1, wanted + 1)[1:]:
            height = self.height(float(share))
            step = _round_step((height - self.height(float(share) - 1 / wanted)) * 0.5)
            tick = float(np.floor(height / step) * step)
            if not found or tick > found[-1]:
                found.append(tick)
        return found


def axis_of(tree: Tree, scale: HeightScale, spread: WithinSS | None = None) -> HeightAxis:
    """The axis of a tree; plain where the scale asked for cannot be had.

    spread : for "within" and "r2".
    """
    heights = tree.heights
    rising = np.maximum.accumulate(heights) if heights.size else heights
    if scale == "clusters" and tree.joins:
        left = tree.n - 1 - np.arange(tree.joins)
        shares = np.array([_rank_share(int(c), tree.n) for c in left])
        return HeightAxis(scale, 0.0, float(rising[-1]), shares, rising, by_rank=True)
    if scale in ("within", "r2") and spread is not None and spread.within[-1:].sum() > 0:
        shares = spread.within / spread.within[-1] / 1.03
        return HeightAxis(scale, 0.0, float(rising[-1]), shares, rising, by_rank=True)
    low = min(0.0, float(heights.min())) if heights.size else 0.0
    top = float(heights.max()) if heights.size else 1.0
    if scale == "log" and top > 0:
        least = float(np.min(heights[heights > top * _LEAST_LOG], initial=top))
        low, top = least * 0.8, top * 1.06
    else:
        if scale in ("log", "clusters", "within", "r2"):
            scale = "plain"
        top = low + (top - low) * _AIR.get(scale, 1.03) or 1.0
    return HeightAxis(scale, low, top, _share(heights, scale, low, top), rising)


def plain_axis(low: float, high: float) -> HeightAxis:
    """An axis of any numbers."""
    nothing = np.empty(0)
    return HeightAxis("plain", low, high, nothing, nothing)


def _share(heights: Floats, scale: HeightScale, low: float, top: float) -> Floats:
    if scale == "log":
        above = np.maximum(heights, low)
        return np.asarray(np.clip(np.log(above / low) / np.log(top / low), 0.0, 1.0))
    part = np.clip((heights - low) / (top - low), 0.0, 1.0)
    return np.asarray(np.sqrt(part) if scale == "root" else part)


def _rank_share(clusters: int, cases: int) -> float:
    """One cluster near the top, as many as cases at 0; equal ratios are equally far apart."""
    return float(1 - np.log(clusters) / np.log(max(cases, 2))) / 1.03


def _round_counts() -> list[int]:
    return [1, 2, 3, 4, 6, *(m * 10**k for k in range(1, 7) for m in (1, 2, 5))]


def _round_step(rough: float) -> float:
    power = 10.0 ** np.floor(np.log10(rough))
    return float(next(m * power for m in (1, 2, 5, 10) if m * power >= rough * 0.999))
