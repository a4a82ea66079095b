"""Cases like those of a study but without groups: the same margins, correlations and tails.

Each variable keeps the answers that were given to it. How variables hang together is taken from
normal scores: a Gaussian copula with the correlations that, after ties, give those of the scores;
where large answers come together more often than that, a t copula.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.grow.grown import Grown
from gorvel.core.proximity.answers import Answers

Floats = NDArray[np.float64]

_TERMS = 30  # of the series that gives the correlation of scores from that of the curves
_MOST = 0.995  # correlation of two curves; higher ones make the series slow
_STEPS = 40  # halvings of an interval
_TAILS = (3.0, 4.0, 5.0, 6.0, 8.0, 11.0, 16.0, 25.0, 50.0)  # degrees of freedom tried
_TRIED = 4000  # cases drawn to see what tails come to
_REFERENCE = 60  # draws that tell how far the measure of tails strays by chance
_STRAY = 1.645  # standard deviations
_ROUNDS = 3  # of ordering the levels of nominal variables, and of mending correlations
_FEWEST = 10  # cases that can tell of tails


@dataclass(frozen=True, eq=False)
class Margin:
    """The answers given to one variable.

    values : (m,) known answers, rising, or in the order of its levels; ends : (m,) the share of the
    mass up to and with each; scores : (levels,) mean of the normal curve over the share of each
    level; bounds : (levels + 1,) where these begin and end on the curve.
    """

    values: Floats
    ends: Floats
    scores: Floats
    bounds: Floats

    @classmethod
    def of(cls, values: Floats, keys: Floats, masses: Floats) -> Margin:
        """values : (m,) known; keys : (m,) by which they are put in order; masses : (m,)."""
        from scipy.special import ndtri  # only here, since it takes a while to load

        order = np.argsort(keys, kind="stable")
        total = masses.sum()
        ends = np.cumsum(masses[order]) / total
        last = np.append(np.flatnonzero(np.diff(keys[order])), len(order) - 1)
        edges = np.concatenate([[0.0], ends[last]])
        edges[-1] = 1.0
        bounds = ndtri(edges)
        shares = np.diff(edges)
        scores = -np.diff(_curve(bounds)) / shares
        return cls(values[order], ends, scores, bounds)

    def given(self, places: Floats, masses: Floats) -> Floats:
        """The answers of cases that lie at (m,) places of a curve, by their rank."""
        order = np.argsort(places, kind="stable")
        weights = masses[order]
        middles = (np.cumsum(weights) - weights / 2) / weights.sum()
        found = np.minimum(np.searchsorted(self.ends, middles), len(self.values) - 1)
        out = np.empty(len(places))
        out[order] = self.values[found]
        return out

    @property
    def series(self) -> Floats:
        """(_TERMS,) how much of the variance of the scores each Hermite polynomial explains.

        As a root with its sign: sum over l of s_l times the integral of h_k over level l.
        """
        inner = self.bounds[1:-1]
        height = _curve(self.bounds)
        finite = np.zeros((2, len(self.bounds)))  # h_(k-2), h_(k-1) at the bounds
        finite[1] = 1.0
        at = np.concatenate([[0.0], inner, [0.0]])  # where the curve is at 0 it does not matter
        out = np.empty(_TERMS)
        for k in range(1, _TERMS + 1):
            steps = -np.diff(finite[1] * height) / np.sqrt(k)
            out[k - 1] = (self.scores * steps).sum()
            following = (at * finite[1] - np.sqrt(k - 1) * finite[0]) / np.sqrt(k)
            finite = np.stack([finite[1], following])
        return out


def _curve(x: Floats) -> Floats:
    with np.errstate(over="ignore"):
        return np.asarray(np.exp(-x * x / 2) / np.sqrt(2 * np.pi))


def _latent(margins: Sequence[Margin], wanted: Floats) -> Floats:
    """(p, p) correlations of curves that give these correlations of scores; by halving."""
    series = np.stack([margin.series for margin in margins])
    sds = np.sqrt([(m.scores**2 * np.diff(_shares(m))).sum() for m in margins])
    series = series / np.where(sds > 0, sds, 1.0)[:, None]
    low, high = np.full_like(wanted, -_MOST), np.full_like(wanted, _MOST)
    for _ in range(_STEPS):
        middle = (low + high) / 2
        value, power = np.zeros_like(wanted), np.ones_like(wanted)
        for k in range(_TERMS):
            power = power * middle
            value += series[:, k, None] * series[:, k] * power
        below = value < wanted
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    out = (low + high) / 2
    np.fill_diagonal(out, 1.0)
    return out


def _shares(margin: Margin) -> Floats:
    from scipy.special import ndtr

    return np.asarray(ndtr(margin.bounds))


def _correlations(scores: Floats, masses: Floats) -> Floats:
    """(p, p) weighted, of the cases that answered both; 0 where one does not vary."""
    known = ~np.isnan(scores)
    filled = np.where(known, scores, 0.0)
    weights = masses[:, None] * known
    mass = weights.T @ known
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = (weights * filled).T @ known / mass  # of row variable where both are known
        product = (weights * filled).T @ filled / mass
        square = (weights * filled**2).T @ known / mass
        spread = square - mean**2
        out = (product - mean * mean.T) / np.sqrt(spread * spread.T)
    out[~np.isfinite(out)] = 0.0
    np.fill_diagonal(out, 1.0)
    return np.asarray(np.clip(out, -1.0, 1.0))


def _root(correlations: Floats) -> Floats:
    """(p, p) whose product with its transpose is the nearest sound matrix of correlations."""
    values, vectors = np.linalg.eigh(correlations)
    root = vectors * np.sqrt(np.maximum(values, 0.0))
    return np.asarray(root / np.sqrt((root**2).sum(axis=1, keepdims=True)))


def _ordered(column: Floats, axis: Floats, masses: Floats) -> Floats:
    """Keys of nominal levels: the mean of their cases on an axis of the other variables."""
    known = ~np.isnan(column)
    levels, place = np.unique(column[known], return_inverse=True)
    mass = np.bincount(place, masses[known])
    mean = np.bincount(place, masses[known] * axis[known]) / mass
    rank = np.empty(len(levels))
    rank[np.argsort(mean, kind="stable")] = np.arange(len(levels))
    keys = np.full(len(column), np.nan)
    keys[known] = rank[place]
    return keys


@dataclass(frozen=True)
class Tails:
    """How large answers come together.

    freedom : degrees of freedom of a t copula, infinite for a Gaussian one; of_rest : what all
    answers have in common is not stretched, but what is left of each when that is taken out, as
    where respondents have a level and an extremity of their own.
    """

    freedom: float = np.inf
    of_rest: bool = False

    def places(self, normal: Floats, quantiles: Floats, root: Floats) -> Floats:
        """(n, p) places on curves. normal : (n, p); quantiles : (n,) between 0 and 1."""
        if np.isinf(self.freedom):
            return np.asarray(normal @ root.T)
        from scipy.special import chdtri

        stretch = np.sqrt(self.freedom / chdtri(self.freedom, quantiles))[:, None]
        if not self.of_rest:
            return np.asarray(normal @ root.T * stretch)
        common = normal[:, -1:] * root[:, -1]
        return np.asarray(common + stretch * (normal[:, :-1] @ root[:, :-1].T))


@dataclass(frozen=True, eq=False)
class NullModel:
    """What cases without groups are drawn from.

    margins : p; root : (p, p), turns independent normal numbers into correlated ones, what all have
    in common in the last column; gaps : (n, p), True where a case has no answer; masses : (n,).

    References
    ----------
    Hennig & Lin 2015, Flexible parametric bootstrap for testing homogeneity against clustering and
    assessing the number of clusters (the plan of the test).
    Cario & Nelson 1997, Modeling and generating random vectors with arbitrary marginal
    distributions and correlation matrix (correlations that hold after ties).
    Demarta & McNeil 2005, The t copula and related copulas.
    """

    margins: tuple[Margin, ...]
    root: Floats
    tails: Tails
    gaps: NDArray[np.bool_]
    masses: Floats

    @classmethod
    def of(cls, answers: Answers, masses: Floats, seed: int) -> NullModel:
        """Fitted to (n, p) answers.

        seed : of the draws that tell how heavy tails are; the same gives the same.
        """
        keys = answers.values.copy()
        nominal = [j for j, level in enumerate(answers.levels) if level == "nominal"]
        scores = _scores_of(keys, masses)
        for _ in range(_ROUNDS if nominal and keys.shape[1] > 1 else 0):
            for j in nominal:
                axis = _first_axis(np.delete(scores, j, axis=1), masses)
                keys[:, j] = _ordered(answers.values[:, j], axis, masses)
            scores = _scores_of(keys, masses)
        margins = _margins(answers.values, keys, masses)
        wanted = _correlations(scores, masses)
        latent = _latent(margins, wanted)
        gaps = np.isnan(answers.values)
        plain = cls(margins, _root(latent), Tails(), gaps, masses)
        tails = plain._tails_of(scores, seed)
        if np.isinf(tails.freedom):
            return plain
        return cls(margins, plain._mended(tails, latent, wanted, seed), tails, gaps, masses)

    def draw(self, random: np.random.Generator) -> Floats:
        """(n, p) answers of as many cases, with gaps where the cases of the study have them."""
        n, p = self.gaps.shape
        normal, quantiles = random.normal(size=(n, p)), random.uniform(size=(n,))
        places = self.tails.places(normal, quantiles, self.root)
        out = np.full_like(places, np.nan)
        for j, margin in enumerate(self.margins):
            rows = np.flatnonzero(~self.gaps[:, j])
            out[rows, j] = margin.given(places[rows, j], self.masses[rows])
        return out

    # tails

    def _tails_of(self, scores: Floats, seed: int) -> Tails:
        """What makes large answers come together as they do here."""
        wide = [j for j, margin in enumerate(self.margins) if len(margin.scores) > 2]
        n, p = self.gaps.shape
        if len(wide) < 2 or n < _FEWEST:
            return Tails()
        random = np.random.default_rng([seed, 7])
        own = _together(scores[:, wide], self.masses)
        chance = [
            _together(self._scores(random.normal(size=(n, p)) @ self.root.T, wide), self.masses)
            for _ in range(_REFERENCE)
        ]
        if own <= np.mean(chance) + _STRAY * np.std(chance, ddof=1):
            return Tails()
        normal, quantiles = random.normal(size=(_TRIED, p)), random.uniform(size=_TRIED)
        even, fits = np.ones(_TRIED), []
        for of_rest in (False, True):
            if of_rest and len(wide) < 3:
                continue
            drawn = [
                self._scores(Tails(freedom, of_rest).places(normal, quantiles, self.root), wide)
                for freedom in _TAILS
            ]
            found = np.array([_together(one, even) for one in drawn])
            freedom = np.exp(np.interp(-own, -np.maximum.accumulate(found[::-1])[::-1],
                                       np.log(_TAILS)))  # fmt: skip
            near = int(np.abs(np.log(_TAILS) - np.log(freedom)).argmin())
            apart = _apart(drawn[near], even) - _apart(scores[:, wide], self.masses)
            fits.append((abs(apart), Tails(float(freedom), of_rest)))
        return min(fits, key=lambda fit: fit[0])[1]

    def _mended(self, tails: Tails, latent: Floats, wanted: Floats, seed: int) -> Floats:
        """The root under which scores have the correlations wanted, heavy tails and all."""
        random = np.random.default_rng([seed, 8])
        p = len(wanted)
        normal, quantiles = random.normal(size=(_TRIED, p)), random.uniform(size=_TRIED)
        even, columns = np.ones(_TRIED), range(p)
        for _ in range(_ROUNDS):
            places = tails.places(normal, quantiles, _root(latent))
            latent = latent + wanted - _correlations(self._scores(places, columns), even)
            latent = np.clip(latent, -_MOST, _MOST)
            np.fill_diagonal(latent, 1.0)
        return _root(latent)

    def _scores(self, places: Floats, columns: Sequence[int]) -> Floats:
        """Scores of drawn cases without gaps, by the shares of the levels."""
        out = np.empty((len(places), len(columns)))
        ranks = (np.arange(len(places)) + 0.5) / len(places)
        for k, j in enumerate(columns):
            margin = self.margins[j]
            edges = _shares(margin)[1:-1]
            out[np.argsort(places[:, j], kind="stable"), k] = margin.scores[
                np.searchsorted(edges, ranks)
            ]
        return out


def undrawable(grown: Grown) -> str | None:
    """Why no data without groups can be drawn for a tree, in words; None where they can."""
    if grown.of == "variables":
        return "data without groups are simulated for cases, and this is a tree of variables"
    if grown.prepared.answers is None:
        return "a proximity matrix has no answers from which to simulate data without groups"
    if grown.tree.n < _FEWEST:
        return f"{grown.tree.n} cases are too few"
    return None


def _together(scores: Floats, masses: Floats) -> float:
    """The mean correlation of the sizes of two scores: how far large answers come together."""
    sizes = _correlations(np.abs(scores), masses)
    above = np.triu_indices(len(sizes), 1)
    return float(sizes[above].mean())


def _apart(scores: Floats, masses: Floats) -> float:
    """The correlation of the size of what a case has in common and of what is left of it."""
    filled = np.where(np.isnan(scores), 0.0, scores)
    axis = np.linalg.eigh(_correlations(scores, masses))[1][:, -1]
    common = filled @ axis
    rest = np.sqrt(((filled - common[:, None] * axis) ** 2).sum(axis=1))
    return float(_correlations(np.column_stack([np.abs(common), rest]), masses)[0, 1])


def _margins(values: Floats, keys: Floats, masses: Floats) -> tuple[Margin, ...]:
    out = []
    for j in range(values.shape[1]):
        known = ~np.isnan(values[:, j])
        out.append(Margin.of(values[known, j], keys[known, j], masses[known]))
    return tuple(out)


def _scores_of(keys: Floats, masses: Floats) -> Floats:
    """(n, p) the normal score of each answer, NaN where there is none."""
    out = np.full_like(keys, np.nan)
    for j, margin in enumerate(_margins(keys, keys, masses)):
        known = np.flatnonzero(~np.isnan(keys[:, j]))
        _, place = np.unique(keys[known, j], return_inverse=True)
        out[known, j] = margin.scores[place]
    return out


def _first_axis(scores: Floats, masses: Floats) -> Floats:
    """(n,) the first principal axis of scores; gaps stand at the mean."""
    filled = np.where(np.isnan(scores), 0.0, scores)
    vectors = np.linalg.eigh(_correlations(scores, masses))[1]
    return np.asarray(filled @ vectors[:, -1])
