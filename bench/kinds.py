"""Made-up studies of known kinds: some without groups, some with."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Random = np.random.Generator
_P = 6  # variables; 8 ratings
_APART = 5.0  # standard deviations between neighbouring groups


def _uniform(n: int, random: Random) -> Floats:
    return random.uniform(size=(n, _P))


def _gaussian(n: int, random: Random) -> Floats:
    return random.normal(size=(n, _P))


def _factor(n: int, random: Random) -> Floats:
    return 0.8 * random.normal(size=(n, 1)) + 0.6 * random.normal(size=(n, _P))


def _heavy(n: int, random: Random) -> Floats:
    return random.normal(size=(n, _P)) / np.sqrt(random.chisquare(3, n) / 3)[:, None]


def _skewed(n: int, random: Random) -> Floats:
    return np.exp(0.8 * random.normal(size=(n, _P)))


def _ratings(n: int, random: Random) -> Floats:
    return random.integers(1, 6, (n, 8)).astype(float)


def _style(n: int, random: Random) -> Floats:
    """Each respondent has a level and an extremity, and there are no kinds of respondents."""
    level, extremity = random.normal(0, 0.7, (n, 1)), np.exp(random.normal(0, 0.5, (n, 1)))
    told = level + extremity * random.normal(size=(n, 8))
    return (np.digitize(told, [-1.5, -0.5, 0.5, 1.5]) + 1.0).astype(np.float64)


def _turned(centres: Floats, random: Random) -> Floats:
    """In no direction that a variable has."""
    return centres @ np.linalg.qr(random.normal(size=(_P, _P)))[0]


def _corners(groups: int, apart: float) -> Floats:
    """(groups, _P) centres, each as far from every other."""
    centres = np.zeros((groups, _P))
    centres[:, :groups] = np.eye(groups) * apart / np.sqrt(2)
    return centres


def _groups(
    n: int, random: Random, centres: Floats, shares: Sequence[float] | None = None
) -> Floats:
    own = random.choice(len(centres), n, p=shares)
    return random.normal(size=(n, _P)) + _turned(centres, random)[own]


def _noise_variables(n: int, random: Random) -> Floats:
    return np.hstack([_groups(n, random, _corners(3, _APART)), random.normal(size=(n, 4))])


def _nested(n: int, random: Random) -> Floats:
    """Two pairs of groups: the pairs are twice as far from each other as the groups of a pair."""
    centres = np.zeros((4, _P))
    centres[:, 0] = [-_APART, -_APART, _APART, _APART]
    centres[:, 1] = [_APART / 2, -_APART / 2, _APART / 2, -_APART / 2]
    return _groups(n, random, centres)


def _elongated(n: int, random: Random) -> Floats:
    """Three parallel rods."""
    points = random.normal(size=(n, _P))
    points[:, 0] *= 6
    points[:, 1] += _APART * random.choice(3, n)
    return points


def _rods(n: int, random: Random) -> Floats:
    """Three thin parallel rods in two variables."""
    across = random.normal(0, 0.5, n) + _APART * random.choice(3, n)
    return np.column_stack([random.uniform(0, 4 * _APART, n), across])


def _classes(n: int, random: Random) -> Floats:
    """Three latent classes, each with its own shares of the five steps of eight ratings."""
    steps = np.array([
        [0.50, 0.30, 0.12, 0.05, 0.03], [0.05, 0.20, 0.50, 0.20, 0.05],
        [0.03, 0.05, 0.12, 0.30, 0.50],
    ])  # fmt: skip
    answers = [[0, 0, 0, 0, 2, 2, 1, 1], [2, 2, 1, 1, 0, 0, 0, 0], [1, 1, 2, 2, 2, 2, 2, 2]]
    ends = np.cumsum(steps[np.array(answers)], axis=2)[random.choice(3, n)]
    return (random.uniform(size=(n, 8))[:, :, None] > ends[:, :, :-1]).sum(axis=2) + 1.0


# what makes a study, and which counts of groups are right, none where there are no groups
KINDS: dict[str, tuple[Callable[[int, Random], Floats], tuple[int, ...]]] = {
    "uniform": (_uniform, ()),
    "Gaussian": (_gaussian, ()),
    "one factor": (_factor, ()),
    "log-normal": (_skewed, ()),
    "ratings": (_ratings, ()),
    "style": (_style, ()),
    "t3": (_heavy, ()),
    "three": (lambda n, r: _groups(n, r, _corners(3, _APART)), (3,)),
    "four": (lambda n, r: _groups(n, r, _corners(4, _APART)), (4,)),
    "nested": (_nested, (2, 4)),
    "classes": (_classes, (3,)),
    "noise variables": (_noise_variables, (3,)),
    "unequal": (lambda n, r: _groups(n, r, _corners(3, _APART), (0.05, 0.2, 0.75)), (3,)),
    "overlap": (lambda n, r: _groups(n, r, _corners(3, 3.0)), (3,)),
    "elongated": (_elongated, (3,)),
    "thin rods": (_rods, (3,)),
}
WITHOUT = tuple(kind for kind, (_, groups) in KINDS.items() if not groups)


def study_of_kind(kind: str, n: int, number: int) -> Floats:
    """(n, p) answers of one study; the same number gives the same."""
    place = list(KINDS).index(kind)
    return KINDS[kind][0](n, np.random.default_rng([number, n, place]))
