"""Places in the plane whose distances are as near as they can be to given ones."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.kernels import ONE_AT_A_TIME

Floats = NDArray[np.float64]
Lengths = NDArray[np.float64] | NDArray[np.float32]

ENOUGH = 1e-6  # of the raw stress: a step that lowers it by less is the last
ROUGHLY = 1e-5  # the same, of steps in numbers half as long, before the others
MOST_STEPS = 1_000
_KERNEL = 240  # points from which a compiled loop takes the steps
_ROWS = 64  # of a step at a time
_REMEMBERED = 6  # steps from which the next is foretold


def least_stress(far: Floats, places: Floats, progress: Progress = silent) -> tuple[Floats, float]:
    """Places from which no step lowers the raw stress by more than 1e-6 of it, and their stress-1.

    A step majorises the sum of (d - e)^2, e the distances of places, which cannot rise. It is half
    the gradient; steps that remember the last ones are tried first, and taken where they lower the
    stress, so that a quarter of the steps is enough. Of many points most of the way is taken in
    numbers of 32 bits, the end always in such of 64.

    Parameters
    ----------
    far : (n, n) distances; places : (n, 2) to begin with.

    References
    ----------
    de Leeuw 1977, Applications of convex analysis to multidimensional scaling.
    Nocedal 1980, Updating quasi-Newton matrices with limited storage.
    """
    now = places.copy()
    if len(far) < 2:
        return now, 0.0
    far = np.ascontiguousarray(far)
    size = float(far.max())
    if len(far) >= _KERNEL and 0 < size < np.inf:  # most of the way by numbers half as long
        half = np.empty(far.shape, np.float32)
        np.divide(far, size, out=half, casting="same_kind")
        now = _lowered(_Compiled(half), now / size, ROUGHLY, progress)[0] * size
    stepper = _Compiled(far) if len(far) >= _KERNEL else _Stepper(far)
    now, stress = _lowered(stepper, now, ENOUGH, progress)
    whole = sum_of_squares(now)
    return now, float(np.sqrt(stress / whole)) if whole > 0 else 0.0


def _lowered(
    stepper: _Stepper, now: Floats, enough: float, progress: Progress
) -> tuple[Floats, float]:
    """Places from which no step lowers the raw stress by more than `enough` of it, and that."""
    after, stress = stepper.step(now)
    memory = _Memory()
    for step in range(MOST_STEPS):
        progress(Phase.MAP, step / MOST_STEPS)
        surely = not memory.moves  # then the step is majorisation's own
        next_ = now + memory.direction(now - after)
        beyond, found = stepper.step(next_)
        lowered = stress - found
        if lowered >= 0:
            memory.add(next_ - now, (next_ - beyond) - (now - after))
            now, after, stress = next_, beyond, found
        if not lowered > enough * stress:
            if surely:
                break
            memory = _Memory()
    return now, stress


class _Memory:
    """The last steps, and how the gradient changed along them."""

    def __init__(self) -> None:
        self.moves: list[tuple[Floats, Floats, float]] = []

    def add(self, move: Floats, change: Floats) -> None:
        """One more step, unless the gradient says nothing along it."""
        along = float(np.vdot(move, change))
        if along > 1e-12 * float(np.vdot(change, change)):
            self.moves = [*self.moves[1 - _REMEMBERED :], (move, change, along)]

    def direction(self, gradient: Floats) -> Floats:
        """Where the lowest place is foretold to be.

        Majorisation's own step while nothing is remembered.
        """
        out = -gradient
        shares = []
        for move, change, along in reversed(self.moves):
            share = float(np.vdot(move, out)) / along
            shares.append(share)
            out -= share * change
        if self.moves:
            _, change, along = self.moves[-1]
            out *= along / float(np.vdot(change, change))
        for (move, change, along), share in zip(self.moves, reversed(shares), strict=True):
            out += (share - float(np.vdot(change, out)) / along) * move
        return out


class _Stepper:
    """Takes steps for given distances."""

    def __init__(self, far: Lengths) -> None:
        self.far = far
        rows = np.einsum("ij,ij->i", self.far, self.far)
        self._squares = float(rows.sum(dtype=np.float64)) / 2  # of all pairs

    def step(self, now: Floats) -> tuple[Floats, float]:
        """(n, 2) where majorisation leads, and the raw stress of the places at hand."""
        after, both = self._pulled(now)
        return after, max(self._squares - 2 * both + sum_of_squares(now), 0.0)

    def _pulled(self, now: Floats) -> tuple[Floats, float]:
        return _step(self.far, now)


class _Compiled(_Stepper):
    """Takes them by a compiled loop, in numbers of the kind of the distances."""

    def _pulled(self, now: Floats) -> tuple[Floats, float]:
        from gorvel.core.kernels.places import PARTS, majorise

        pulled, both = np.zeros((2, PARTS, len(now)), self.far.dtype), np.zeros(PARTS)
        x, y = now.T.astype(self.far.dtype, order="C")
        with ONE_AT_A_TIME:
            majorise(self.far, x, y, pulled[0], pulled[1], both)
        after: Floats = np.ascontiguousarray(pulled.sum(axis=1, dtype=np.float64).T) / len(now)
        return after, float(both.sum())


def _step(far: Lengths, now: Floats) -> tuple[Floats, float]:
    """Places one step on, and the sum of d e over all pairs; some rows at a time, in the cache."""
    n = len(far)
    after, both = np.zeros_like(now), 0.0
    for begin in range(0, n, _ROWS):  # each pair once: these rows with themselves and later ones
        end = min(begin + _ROWS, n)
        mine, own = now[begin:end], end - begin
        apart = np.subtract.outer(mine[:, 0], now[begin:, 0])
        other = np.subtract.outer(mine[:, 1], now[begin:, 1])
        apart *= apart
        other *= other
        apart += other
        np.sqrt(apart, out=apart)
        block = far[begin:end, begin:]
        both += float(np.vdot(block[:, :own], apart[:, :own])) / 2
        both += float(np.vdot(block[:, own:], apart[:, own:]))
        apart[apart == 0] = np.inf
        np.divide(block, apart, out=apart)
        after[begin:end] += apart.sum(axis=1)[:, None] * mine - apart @ now[begin:]
        later = apart[:, own:]
        after[end:] += later.sum(axis=0)[:, None] * now[end:] - later.T @ mine
    after /= n
    return after, both


def sum_of_squares(places: Floats) -> float:
    """Of the distances of all pairs."""
    return float(len(places) * (places**2).sum() - (places.sum(axis=0) ** 2).sum())
