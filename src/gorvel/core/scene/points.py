"""Cases as points in a plane: outlines of their clusters, and equal answers set apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gorvel.core.tree.cluster_names import Identity

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_TURN = (5**0.5 - 1) / 2  # the golden part, whose multiples are spread evenly
_FEW = 12  # different answers up to which they are set apart
_MANY, _DIRECTIONS = 100, 16  # points from which those far inside are left out first
_ROOM = 0.32  # of the smallest step between answers, to either side


@dataclass(frozen=True, eq=False)
class Points:
    """What is shown.

    places : (n, 2), NaN where a case has none; own : (n,) clusters from 0; names : of clusters, by
    number; across, along : what the axes are, "" for a map, whose two sides have one scale; square
    : one scale for both sides; arrows : names of variables with their (2,) directions in places;
    parts : (n,) clusters of the next count, whose outlines are a shadow, and which of them are
    parts; titles : names of the parts; loose : (n,) cases drawn hollow.
    """

    places: Floats
    own: Ints
    names: Sequence[Identity]
    across: str = ""
    along: str = ""
    square: bool = True
    arrows: Sequence[tuple[str, float, float]] = ()
    parts: Ints | None = None
    shown_parts: Sequence[tuple[int, str]] = ()
    outlined: bool = True
    loose: NDArray[np.bool_] | None = None

    @cached_property
    def known(self) -> NDArray[np.bool_]:
        """(n,) cases with a place."""
        return np.asarray(~np.isnan(self.places).any(axis=1))

    @cached_property
    def outlines(self) -> list[Floats]:
        """Corners around each cluster."""
        return [outline(self.places[self.known & (self.own == k)]) for k in range(len(self.names))]

    @cached_property
    def shadows(self) -> list[tuple[str, Floats]]:
        """Corners around each part of the next count."""
        if self.parts is None:
            return []
        return [
            (name, outline(self.places[self.known & (self.parts == part)]))
            for part, name in self.shown_parts
        ]

    @cached_property
    def middles(self) -> Floats:
        """(k, 2) mean places of the clusters."""
        out = np.full((len(self.names), 2), np.nan)
        for k in range(len(self.names)):
            inside = self.known & (self.own == k)
            if inside.any():
                out[k] = self.places[inside].mean(axis=0)
        return out

    @cached_property
    def ends(self) -> Floats:
        """(2, 2) lowest and highest of the places; a little room where they are one."""
        if not self.known.any():
            return np.array([[0.0, 0.0], [1.0, 1.0]])
        shown = self.places[self.known]
        low, high = shown.min(axis=0), shown.max(axis=0)
        flat = high - low <= 1e-12 * np.maximum(np.abs(high), 1e-300)
        room = np.where(flat, np.maximum(np.abs(high), 1.0) * 0.5, 0.0)
        return np.array([low - room, high + room])


def outline(places: Floats) -> Floats:
    """(m, 2) corners of the smallest convex shape around points, counter-clockwise, each once.

    places : (n, 2). One point is its own shape, two or more in a line their ends.

    References
    ----------
    Andrew 1979, Another efficient algorithm for convex hulls in two dimensions.
    """
    points = np.unique(_outer(places), axis=0)  # sorted by the first, then by the second
    if len(points) < 3:
        return points
    sides: list[list[Floats]] = []
    for ordered in (points, points[::-1]):
        side: list[Floats] = []
        for point in ordered:
            while len(side) > 1 and _turn(side[-2], side[-1], point) <= 0:
                side.pop()
            side.append(point)
        sides.append(side[:-1])
    return np.array(sides[0] + sides[1])


def _outer(places: Floats) -> Floats:
    """Without those that lie inside the shape of the farthest in a few directions.

    References
    ----------
    Akl & Toussaint 1978, A fast convex hull algorithm.
    """
    if len(places) <= _MANY:
        return places
    angles = np.arange(_DIRECTIONS) * (2 * np.pi / _DIRECTIONS)
    reach = places @ np.stack([np.cos(angles), np.sin(angles)])
    corners = places[reach.argmax(axis=0)]
    inside = np.full(len(places), bool((corners != corners[0]).any()))
    for one, other in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        if (one != other).any():
            (dx, dy), off = other - one, places - one
            inside &= dx * off[:, 1] - dy * off[:, 0] > 0
    return np.asarray(places[~inside])


def _turn(one: Floats, other: Floats, next_: Floats) -> float:
    """Above 0 where the way turns to the left."""
    (ax, ay), (bx, by), (cx, cy) = one.tolist(), other.tolist(), next_.tolist()
    return float((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))


def apart(values: Floats, second: bool = False) -> Floats:
    """Few different answers, each case moved a little so that equal ones can be told apart.

    values : (n,), NaN where missing; second : for the other axis, moved otherwise.
    """
    known = np.unique(values[~np.isnan(values)])
    if not 1 <= len(known) <= _FEW or len(known) == len(values):
        return values
    step = float(np.diff(known).min()) if len(known) > 1 else 1.0
    turn = _TURN if not second else _TURN * _TURN * 1.7
    shares = (np.arange(1, len(values) + 1) * turn) % 1.0
    return values + (2 * shares - 1) * _ROOM * step


def splits_next(own: Ints, next_: Ints) -> list[tuple[int, int]]:
    """Which clusters of the next finer cut are parts: pairs (part, whole), both from 0.

    own, next_ : (n,) clusters from 0 of a cut, and of one that splits some of its clusters.
    """
    out = []
    for part in range(int(next_.max()) + 1):
        inside = next_ == part
        whole = int(own[inside][0])
        if inside.sum() < (own == whole).sum():
            out.append((part, whole))
    return out
