"""Two trees and two groupings of the same cases, slowly and straight from the definitions."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations, permutations

Joins = Sequence[tuple[int, int]]  # parts of each join: cases, or n + a join before
Clusters = Sequence[int]


def sets_below(n: int, joins: Joins) -> list[frozenset[int]]:
    """The cases below each join."""
    held = [frozenset([case]) for case in range(n)]
    for a, b in joins:
        held.append(held[a] | held[b])
    return held[n:]


def meeting(n: int, joins: Joins) -> dict[tuple[int, int], int]:
    """The join at which each pair of cases meets."""
    out: dict[tuple[int, int], int] = {}
    for k, below in enumerate(sets_below(n, joins)):
        for pair in combinations(sorted(below), 2):
            out.setdefault(pair, k)
    return out


def correlation(x: Sequence[float], y: Sequence[float]) -> float | None:
    """Of Pearson; None where one is constant or there are too few."""
    if len(x) < 3 or len(set(x)) < 2 or len(set(y)) < 2:
        return None
    a, b = math.fsum(x) / len(x), math.fsum(y) / len(y)
    products = math.fsum((u - a) * (v - b) for u, v in zip(x, y, strict=True))
    squares = [math.fsum((u - m) ** 2 for u in z) for z, m in ((x, a), (y, b))]
    return products / math.sqrt(squares[0] * squares[1])


def average_ranks(x: Sequence[float]) -> list[float]:
    """Heights within 1e-12 of the next are equal."""
    ordered = sorted(x)
    level, levels = 0, {}
    for k, value in enumerate(ordered):
        if k and value - ordered[k - 1] > 1e-12 * abs(value):
            level += 1
        levels[value] = level
    places: dict[int, list[int]] = {}
    for k, value in enumerate(ordered, 1):
        places.setdefault(levels[value], []).append(k)
    return [math.fsum(places[levels[value]]) / len(places[levels[value]]) for value in x]


def baker_gamma(x: Sequence[int], y: Sequence[int]) -> float | None:
    """Of the joins at which pairs meet, pair of pairs by pair of pairs."""
    plus = minus = 0
    for i, j in combinations(range(len(x)), 2):
        sign = (x[i] - x[j]) * (y[i] - y[j])
        plus, minus = plus + (sign > 0), minus + (sign < 0)
    return (plus - minus) / (plus + minus) if plus + minus else None


def branches(n: int, joins: Joins, common: Sequence[int]) -> set[frozenset[int]]:
    """Different sets of 2 or more common cases, but not all, below a join."""
    inside = [frozenset(common) & below for below in sets_below(n, joins)]
    return {below for below in inside if 2 <= len(below) < len(common)}


def agreement(one: Clusters, other: Clusters) -> dict[str, float]:
    """Every index of two groupings; 0/0 is 1 for the same grouping, else 0."""
    n, pairs = len(one), list(combinations(range(len(one)), 2))
    together = [(one[i] == one[j], other[i] == other[j]) for i, j in pairs]
    both = sum(a and b for a, b in together)
    mine, its = sum(a for a, _ in together), sum(b for _, b in together)
    neither = sum(not a and not b for a, b in together)
    same = float(all(a == b for a, b in together))
    expected = mine * its / len(pairs) if pairs else 0.0
    most = (mine + its) / 2
    groups = [sorted(set(one)), sorted(set(other))]
    share = {(a, b): sum(x == a and y == b for x, y in zip(one, other, strict=True)) / n
             for a in groups[0] for b in groups[1]}  # fmt: skip
    rows = {a: math.fsum(share[a, b] for b in groups[1]) for a in groups[0]}
    columns = {b: math.fsum(share[a, b] for a in groups[0]) for b in groups[1]}
    entropies = [-math.fsum(p * math.log(p) for p in part.values())
                 for part in (rows, columns)]  # fmt: skip
    shared = math.fsum(p * math.log(p / rows[a] / columns[b])
                       for (a, b), p in share.items() if p)  # fmt: skip
    few, many = sorted(groups, key=len)
    by_group = {(a, b): round(share[a, b] * n) for a in groups[0] for b in groups[1]}
    kept = max(
        sum(by_group[(a, b) if few is groups[0] else (b, a)] for a, b in zip(few, p, strict=True))
        for p in permutations(many, len(few))
    )
    return {
        "rand": (both + neither) / len(pairs) if pairs else same,
        "adjusted_rand": (both - expected) / (most - expected) if most != expected else same,
        "fowlkes_mallows": both / math.sqrt(mine * its) if mine and its else same,
        "variation_of_information": sum(entropies) - 2 * shared,
        "normalised_mi": 2 * shared / sum(entropies) if sum(entropies) else same,
        "moved": n - kept,
    }
