"""Joins of centres one by one, by the rule for equal proximities.

No join brings two other clusters nearer, so how far a cluster's nearest was stays a lower bound
when that one is joined, and is looked for again only when the bound is the smallest of all. The
smallest is known for each leaf of the tree of boxes.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels.boxes import widen
from gorvel.core.kernels.centres import apart, merge, search
from gorvel.core.kernels.compiled import inner, kernel

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_GONE = np.int64(-1)  # the stamp of clusters that became part of another


class Slots(NamedTuple):
    """Clusters in the order of the leaves; arrays have an entry for each slot.

    centres : (p, slots); masses : 0 for the dead; light : masses or spreads, by which distances are
    weighed; firsts : earliest case; node : number in the tree; near, also : the nearest that comes
    first in the file, another as near or -1; how_far : of the nearest, or less; stamps : when the
    cluster was made, 0 at the beginning; seen, also_seen : stamps of near and also when they were
    found; into : what a dead one became part of; leaves : nodes of the tree of boxes.
    """

    centres: Floats
    masses: Floats
    spreads: Floats
    light: Floats
    firsts: Ints
    node: Ints
    near: Ints
    also: Ints
    how_far: Floats
    stamps: Ints
    seen: Ints
    also_seen: Ints
    into: Ints
    leaves: Ints


@inner
def _settle(leaf, slots, boxes, tolerance, lows, chosen):
    """The smallest bound in a leaf, and the first in the file of those that have it."""
    begin, end = boxes[0][leaf], boxes[1][leaf]
    how_far, firsts = slots.how_far, slots.firsts
    low = np.inf
    for slot in range(begin, end):
        low = min(low, how_far[slot])
    lows[leaf], chosen[leaf] = low, -1
    if low < np.inf:
        bound, best = low + tolerance * low, -1
        for slot in range(begin, end):
            if how_far[slot] <= bound and (best < 0 or firsts[slot] < firsts[best]):
                best = slot
        chosen[leaf] = best


@kernel
def settle_all(slots, boxes, tolerance, lows, chosen):
    """The smallest bound in each leaf, and who has it; lows, chosen : (nodes,)."""
    inner = (1 << boxes[5]) - 1
    for leaf in range(inner, 2 * inner + 1):
        _settle(leaf, slots, boxes, tolerance, lows, chosen)


@inner
def _fresh(slots, slot):
    """Is the nearest of a cluster still what was found?"""
    at = slots.near[slot]
    return at >= 0 and slots.stamps[at] == slots.seen[slot]


@inner
def _look(kind, slot, slots, boxes, tolerance, slack, room, lows, chosen):
    """Look for the nearest of a cluster anew."""
    guess = slots.near[slot]
    while guess >= 0 and slots.stamps[guess] == _GONE:
        guess = slots.into[guess]
    if guess == slot:
        guess = np.int64(-1)
    near, also = search(
        kind, slot, guess, slots.centres, slots.masses, slots.light, slots.firsts, boxes,
        tolerance, slack, room,
    )  # fmt: skip
    slots.near[slot], slots.also[slot], slots.how_far[slot] = near, also, room[4][0]
    slots.seen[slot] = slots.stamps[near] if near >= 0 else 0
    slots.also_seen[slot] = slots.stamps[also] if also >= 0 else 0
    _settle(slots.leaves[slot], slots, boxes, tolerance, lows, chosen)


@inner
def _another(kind, slot, slots, boxes, tolerance, slack, room, lows, chosen):
    """Is a second cluster as near to this one as its nearest?"""
    known = _fresh(slots, slot)
    also = slots.also[slot]
    if known and also >= 0:
        known = slots.stamps[also] == slots.also_seen[slot]
    if not known:
        _look(kind, slot, slots, boxes, tolerance, slack, room, lows, chosen)
    return slots.also[slot] >= 0


@inner
def _elsewhere(kind, i, j, bound, slots, boxes, tolerance, slack, room, lows, chosen):
    """Is any cluster but these two not further than the bound from its nearest?"""
    inner = (1 << boxes[5]) - 1
    for unsure in range(2):
        for leaf in range(inner, 2 * inner + 1):
            if lows[leaf] > bound:
                continue
            for slot in range(boxes[0][leaf], boxes[1][leaf]):
                if slots.how_far[slot] > bound or slot in (i, j):
                    continue
                if unsure:
                    _look(kind, slot, slots, boxes, tolerance, slack, room, lows, chosen)
                    if slots.how_far[slot] <= bound:
                        return True
                elif _fresh(slots, slot):
                    return True
    return False


@inner
def _first_of_all(kind, slots, boxes, tolerance, slack, room, lows, chosen):
    """The cluster that comes first of those with the smallest distance, which is looked up."""
    inner = (1 << boxes[5]) - 1
    while True:
        low = np.inf
        for leaf in range(inner, 2 * inner + 1):
            low = min(low, lows[leaf])
        bound, i = low + tolerance * low, np.int64(-1)
        for leaf in range(inner, 2 * inner + 1):
            if lows[leaf] <= bound:
                slot = chosen[leaf]
                if i < 0 or slots.firsts[slot] < slots.firsts[i]:
                    i = slot
        if _fresh(slots, i):
            return i, bound
        _look(kind, i, slots, boxes, tolerance, slack, room, lows, chosen)


@kernel
def join_in_order(kind, equal, cases, begin, end, slots, boxes, lows, chosen, tolerance, slack,
                  room, left, right, heights, tied, matters):  # fmt: skip
    """Carry out joins begin..end-1.

    equal : parts count alike; cases : of the study; boxes, room : see `centres.search`; lows,
    chosen : see `settle_all`; left .. matters : results, each (cases - 1,).
    """
    for step in range(begin, end):
        i, bound = _first_of_all(kind, slots, boxes, tolerance, slack, room, lows, chosen)
        j = slots.near[i]
        if slots.firsts[j] < slots.firsts[i]:
            i, j = j, i
        height = apart(kind, slots.centres, slots.light, i, j)
        shared = _another(kind, i, slots, boxes, tolerance, slack, room, lows, chosen)
        shared = shared or _another(kind, j, slots, boxes, tolerance, slack, room, lows, chosen)
        left[step], right[step], heights[step] = slots.node[i], slots.node[j], height
        matters[step] = shared
        tied[step] = shared or _elsewhere(
            kind, i, j, bound, slots, boxes, tolerance, slack, room, lows, chosen
        )
        merge(equal, slots.centres, slots.masses, slots.spreads, i, j)
        slots.node[i], slots.stamps[i] = cases + step, step + 1
        slots.stamps[j], slots.into[j], slots.how_far[j] = _GONE, i, np.inf
        slots.near[i], slots.how_far[i] = -1, height
        widen(slots.centres, i, slots.leaves[i], boxes[2], boxes[3])
        _settle(slots.leaves[i], slots, boxes, tolerance, lows, chosen)
        _settle(slots.leaves[j], slots, boxes, tolerance, lows, chosen)
