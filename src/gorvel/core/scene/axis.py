"""The height axis that dendrogram and height chart share."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

__all__ = ["HeightAxis", "HeightScale", "ticks"]

HeightScale = Literal["root", "plain"]


@dataclass(frozen=True)
class HeightAxis:
    """Heights to shares of the axis: 0 at height 0 or the lowest, 1 a little above the top.

    low, top : heights at the ends; scale : "plain", or "root" for the square root, which keeps
    the low joins apart when heights are squared.
    """

    low: float
    top: float
    scale: HeightScale = "plain"

    @classmethod
    def over(cls, heights: NDArray[np.float64], scale: HeightScale) -> HeightAxis:
        """An axis that holds all heights with a little air above."""
        low = min(0.0, float(heights.min())) if heights.size else 0.0
        top = float(heights.max()) if heights.size else 1.0
        return cls(low, low + (top - low) * (1.06 if scale == "root" else 1.03) or 1.0, scale)

    def share(self, heights: NDArray[np.float64] | float) -> NDArray[np.float64]:
        """Heights to shares, clipped to 0..1."""
        part = np.clip((np.asarray(heights) - self.low) / (self.top - self.low), 0.0, 1.0)
        return np.asarray(np.sqrt(part) if self.scale == "root" else part)

    def height(self, share: float) -> float:
        """The height at a share of the axis."""
        part = min(max(share, 0.0), 1.0)
        part = part**2 if self.scale == "root" else part
        return self.low + part * (self.top - self.low)


def ticks(axis: HeightAxis, wanted: int = 7) -> list[float]:
    """Round heights that are spread over the axis without crowding.

    On a root axis the steps grow with height, so that labels keep their distance.
    """
    if axis.scale == "plain":
        step = _round_step((axis.top - axis.low) / wanted)
        first = np.ceil(axis.low / step)
        return [float(k * step) for k in np.arange(first, np.floor(axis.top / step) + 1)]
    found = [axis.low]
    for share in np.linspace(0, 1, wanted + 1)[1:]:
        height = axis.height(float(share))
        step = _round_step((height - axis.height(float(share) - 1 / wanted)) * 0.5)
        tick = float(np.floor(height / step) * step)
        if tick > found[-1]:
            found.append(tick)
    return found


def _round_step(rough: float) -> float:
    power = 10.0 ** np.floor(np.log10(rough))
    return float(next(m * power for m in (1, 2, 5, 10) if m * power >= rough * 0.999))
