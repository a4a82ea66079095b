"""All distances in order: who is nearer than whom, within and between clusters, at every count.

A distance is kept as an integer in the order of its value, the lowest bits of which tell the
largest count at which the pair shares a cluster. Sorted, one walk counts for all levels how many of
each are less, so that no pairs of pairs are built. The bits taken away change a value by less than
6e-14 of it, while distances within 1e-12 of each other are equal by definition.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.indices.nested import Nested
from gorvel.core.count.indices.pairsums import Distances
from gorvel.core.kernels import ONE_AT_A_TIME
from gorvel.core.kernels.recipe import Recipe

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]

_SUMMED = 1 << 16  # codes summed at a time, in the processor's cache
MOST_COUNTS = 255  # that the bits have room for
_EQUAL = 1e-12  # relative: distances this close are equal
_BELOW = 1 - 3e-12  # of an edge: what is less is less than all above the edge
_CHUNK = 1 << 16
_CHUNKS = 128  # between two reports
_STEP = 1 << 21  # pairs coded between two reports
_SAMPLE = 600  # cases from which the ranges are laid out


@dataclass(frozen=True, eq=False)
class Ranked:
    """How the distances of all pairs are ordered, each (counts,).

    agree, against : comparisons of a pair within with one between clusters, the first truly less
    and truly greater; smallest, largest : sums of as many distances as there are pairs within.
    """

    agree: Ints
    against: Ints
    smallest: Floats
    largest: Floats


@dataclass(frozen=True, eq=False)
class _Coder:
    nested: Nested
    distances: Distances
    levels: Ints  # (finest, finest) of two pieces
    mask: int

    def fill(self, begin: int, end: int, out: Ints) -> None:
        """The codes of all pairs of the cases begin..end-1 (in leaf order) with later ones."""
        piece_of = np.repeat(np.arange(self.nested.finest), self.nested.sizes)
        if self._recipe is None:
            self._fill_by_block(begin, end, piece_of, out)
            return
        from gorvel.core.kernels.counting import fill_levels

        with ONE_AT_A_TIME:
            fill_levels(
                self._recipe, self.nested.bounds, piece_of, self.levels, self.mask, begin, end, out
            )  # fmt: skip

    @cached_property
    def _recipe(self) -> Recipe | None:
        return self.distances.recipe(self.nested.order)

    def _fill_by_block(self, begin: int, end: int, piece_of: Ints, out: Ints) -> None:
        order, n = self.nested.order, len(self.nested.order)
        block = self.distances.block(order[begin:end], order[begin:]) + 0.0
        codes = block.view(np.int64) & ~np.int64(self.mask)
        codes |= self.levels[piece_of[begin:end][:, None], piece_of[begin:][None]]
        out[:] = codes[np.arange(begin, n)[None] > np.arange(begin, end)[:, None]]

    def steps(self) -> Iterator[tuple[int, int, int]]:
        """Some cases at a time: begin, end, and how many pairs with later ones these have."""
        n, begin = len(self.nested.order), 0
        while begin < n - 1:
            end = min(begin + max(_STEP // (n - begin), 1), n - 1)
            yield begin, end, (end - begin) * (2 * n - begin - end - 1) // 2
            begin = end


def rank_pairs(
    nested: Nested,
    distances: Distances,
    counts: Sequence[int],
    memory: float,
    progress: Progress = silent,
) -> Ranked:
    """Sort the distances of all pairs, in ranges of value that fit into the memory.

    Parameters
    ----------
    counts : one after the other, rising; memory : bytes for the codes.
    progress : told "ranks"; may stop the work by raising.

    Raises
    ------
    ValueError : more counts than `MOST_COUNTS`.
    """
    n, levels = len(nested.order), len(counts) + 1
    if len(counts) > MOST_COUNTS:
        raise ValueError(f"{len(counts)} counts, at most {MOST_COUNTS}")
    pairs = n * (n - 1) // 2
    levels_of = np.clip(nested.together, counts[0] - 1, counts[-1]) - (counts[0] - 1)
    coder = _Coder(nested, distances, levels_of, (1 << int(levels - 1).bit_length()) - 1)
    edges = _edges(coder, pairs, memory)
    sides = np.zeros((2, len(counts)), dtype=np.int64)
    base = np.zeros(levels, dtype=np.int64)  # how many of each level are below what is held
    sums = _EndSums.of(pairs, np.array([nested.pairs_within(count) for count in counts]))
    ranges = len(edges) - 1
    room = _Room.of(coder, pairs, ranges)
    for k, (low, high) in enumerate(pairwise(edges)):

        def tell(done: float, k: int = k) -> None:
            progress(Phase.RANKS, (k + done) / ranges)

        held = room.held(low * _BELOW, high, tell)
        begin = _place(held, low, coder.mask)
        compared, counts_held = _compared(held, begin, coder.mask, base, tell)
        sides += compared
        near = held[_place(held, high * _BELOW, coder.mask) :] & coder.mask
        base += counts_held - np.bincount(near, minlength=levels)
        sums.take(held[begin:], coder.mask)
    return Ranked(sides[1], sides[0], *sums.done())


def _edges(coder: _Coder, pairs: int, memory: float) -> Floats:
    """Where ranges of value begin and end, each with about as many pairs as the memory holds."""
    ranges = int(np.ceil(pairs * 8 / memory))
    if ranges < 2:
        return np.array([0.0, np.inf])
    n = len(coder.nested.order)
    some = np.unique(np.linspace(0, n - 1, _SAMPLE).astype(np.int64))
    block = coder.distances.block(some, some)
    inner = np.quantile(block[np.triu_indices(len(some), 1)], np.linspace(0, 1, ranges + 1)[1:-1])
    return np.concatenate([[0.0], np.unique(inner[inner > 0]), [np.inf]])


def _code(edge: float, mask: int) -> int:
    return int(np.float64(edge).view(np.int64)) & ~mask


def _place(codes: Ints, edge: float, mask: int) -> int:
    """The first place in sorted codes that is not below an edge."""
    return int(np.searchsorted(codes, _code(edge, mask)))


@dataclass(eq=False)
class _Room:
    """Memory for codes, used again for each range: the first touch of new memory is slow."""

    coder: _Coder
    codes: Ints
    some: Ints

    @classmethod
    def of(cls, coder: _Coder, pairs: int, ranges: int) -> _Room:
        some = max((size for _, _, size in coder.steps()), default=0)
        whole = pairs if ranges == 1 else int(1.2 * pairs / ranges) + 2 * some
        return cls(coder, np.empty(whole, dtype=np.int64), np.empty(some, dtype=np.int64))

    def held(self, low: float, high: float, tell: Callable[[float], None]) -> Ints:
        """The codes from `low` on and below `high`, sorted; tell : told how much is done."""
        first, last = _code(low, self.coder.mask), _code(high, self.coder.mask)
        n, at, whole = len(self.coder.nested.order), 0, low == 0 and high == np.inf
        for begin, end, size in self.coder.steps():
            tell(0.7 * begin / n)
            if whole:
                self.coder.fill(begin, end, self.codes[at : at + size])
                at += size
            else:
                at += self._keep(begin, end, size, first, last, at)
        codes, middle = self.codes[:at], at // 2
        tell(0.7)
        codes.partition(middle)
        tell(0.8)
        with ThreadPoolExecutor(2) as threads:
            list(threads.map(lambda half: half.sort(), (codes[:middle], codes[middle:])))
        return codes

    def _keep(self, begin: int, end: int, size: int, first: int, last: int, at: int) -> int:
        from gorvel.core.kernels.counting import keep_between

        self.coder.fill(begin, end, self.some[:size])
        if at + size >= len(self.codes):
            larger = np.empty(2 * (at + size), dtype=np.int64)
            larger[:at] = self.codes[:at]
            self.codes = larger
        return int(keep_between(self.some[:size], first, last, self.codes[at:]))


def _compared(
    held: Ints, begin: int, mask: int, base: Ints, tell: Callable[[float], None]
) -> tuple[Ints, Ints]:
    """(2, counts) comparisons against and in agreement, of those held from `begin` on.

    And how many of each level are held.
    """
    from gorvel.core.kernels.counting import compare_levels, count_levels

    chunks, counts = max(-(-len(held) // _CHUNK), 1), len(base) - 1
    before = np.zeros((chunks + 1, mask + 1), dtype=np.int64)
    lower = np.zeros(mask + 1, dtype=np.int64)
    lower[: len(base)] = base
    found = np.zeros((mask + 1, mask + 1), dtype=np.int64)
    with ONE_AT_A_TIME:
        count_levels(held, mask, _CHUNK, before)
    for offset in range(0, chunks, _CHUNKS):
        tell(0.85 + 0.15 * offset / chunks)
        some = np.zeros((min(_CHUNKS, chunks - offset), *found.shape), dtype=np.int64)
        with ONE_AT_A_TIME:
            compare_levels(held, mask, _CHUNK, offset, before, begin, _EQUAL, lower, some)
        found += some.sum(axis=0)
    # at count k the pairs of levels above k are within
    sides = [(found[k + 1 :, : k + 1].sum(), found[: k + 1, k + 1 :].sum()) for k in range(counts)]
    return np.array(sides, dtype=np.int64).T, before[-1, : len(base)]


@dataclass(eq=False)
class _EndSums:
    """Sums of so many smallest and largest distances, taken range by range.

    wanted : rising places at which sums begin or end; parts : (wanted + 1,) sums between these.
    """

    pairs: int
    sizes: Ints
    wanted: Ints
    parts: Floats
    passed: int = 0

    @classmethod
    def of(cls, pairs: int, sizes: Ints) -> _EndSums:
        wanted = np.unique(np.concatenate([sizes, pairs - sizes]))
        return cls(pairs, sizes, wanted, np.zeros(len(wanted) + 1))

    def take(self, codes: Ints, mask: int) -> None:
        """The next distances in order, those of a range."""
        first, last = np.searchsorted(self.wanted, (self.passed, self.passed + len(codes)))
        edges = [0, *(self.wanted[first:last] - self.passed), len(codes)]
        self.parts[first : last + 1] += [_sum(codes[a:b], mask) for a, b in pairwise(edges)]
        self.passed += len(codes)

    def done(self) -> tuple[Floats, Floats]:
        """The sums of the smallest and of the largest."""
        below, above = np.cumsum(self.parts), np.cumsum(self.parts[::-1])[::-1]
        smallest = below[np.searchsorted(self.wanted, self.sizes)]
        largest = above[np.searchsorted(self.wanted, self.pairs - self.sizes) + 1]
        return smallest, largest


def _sum(codes: Ints, mask: int) -> float:
    """The sum of the values of codes, some at a time."""
    parts = [
        (codes[begin : begin + _SUMMED] & ~np.int64(mask)).view(np.float64).sum()
        for begin in range(0, len(codes), _SUMMED)
    ]
    return math.fsum(parts)
