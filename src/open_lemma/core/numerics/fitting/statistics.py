"""What the numbers of a fit are worth: standard errors, intervals, tests of what is left over, in numbers and in words.

N. R. Draper and H. Smith, "Applied Regression Analysis", 3rd ed. 1998 (chapters 1, 2, 8, 24); D. M. Bates and D. G. Watts,
"Nonlinear Regression Analysis and Its Applications", 1988 (profiles, chapter 6).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy import special, stats

CONFIDENCE = 0.95
RARE = 0.01  # a pattern that chance gives more seldom than this is told
_MOST = 20_000  # residuals that tests look at
INFLUENCE = 1.0  # Cook's distance above which one point carries the fit (common practice)


@dataclass
class Quality:
    """How well a model does on its data. `chance` is of a reduced chi square at least as far off, where uncertainties were given.

    against: what R² measures from, where the model has no constant term: zero, or the mean of the data
    """

    squares: float
    spread: float
    degrees: int
    r_squared: float
    adjusted: float
    aicc: float
    chi: float | None = None
    chance: float | None = None
    against: str = ""


@dataclass
class Pattern:
    """Tests of the residuals, each with the probability of as much by chance, and sentences about those that are rare."""

    runs: float | None = None
    together: float | None = None  # autocorrelation of neighbours
    together_chance: float | None = None
    widening: float | None = None
    bending: float | None = None
    words: list[str] = field(default_factory=list)


def quality(squares: float, n: int, p: int, y: Any, weights: Any, about_zero: bool) -> Quality:
    """Figures of merit. about_zero: whether the size of the data is the measure, and not their spread about the mean."""
    constant = not about_zero
    w = np.ones(n) if weights is None else weights**2
    middle = float(np.sum(w * y) / np.sum(w)) if constant else 0.0
    total = float(np.sum(w * (y - middle) ** 2))
    degrees = n - p
    r_squared = 1.0 - squares / total if total > 0 else float("nan")
    baseline = n - 1 if constant else n
    adjusted = 1.0 - (1.0 - r_squared) * baseline / degrees if degrees > 0 else float("nan")
    found = Quality(squares, math.sqrt(squares / degrees) if degrees > 0 else float("nan"), degrees, r_squared, adjusted,
                    information(squares, n, p, weights is not None))  # fmt: skip
    if weights is not None and degrees > 0:
        found.chi = squares / degrees
        found.chance = float(special.chdtrc(degrees, squares))
    return found


def information(squares: float, n: int, p: int, known_errors: bool) -> float:
    """Akaike's criterion with the correction for few points (N. Sugiura, Comm. Statist. A7 (1978) 13-26), lower is better.

    With known uncertainties the likelihood is known; else the spread is one more parameter.
    """
    k = p if known_errors else p + 1
    if n - k - 1 <= 0:
        return float("nan")
    fit = squares if known_errors else n * math.log(max(squares, 1e-300) / n)
    return fit + 2 * k + 2 * k * (k + 1) / (n - k - 1)


def quantile(degrees: int, known_errors: bool = False) -> float:
    """Half the width of a 95 % interval in standard errors."""
    return 1.959963984540054 if known_errors else float(stats.t.ppf(0.5 + CONFIDENCE / 2, degrees))


def pattern(residuals: Any, fitted: Any, along: Any, slopes: Any) -> Pattern:
    """Tests of residuals in the order of the first predictor: runs of one sign, neighbours alike, spread against size, a bend.

    Runs: A. Wald and J. Wolfowitz, Ann. Math. Statist. 11 (1940) 147-162. Spread: rank correlation of |residual| and fitted value.
    Bend: an F-test of what three more terms in the predictor would explain (Draper and Smith 1998, section 6.1).
    slopes: of the model by its parameters, shape (n, p), weighted like the residuals.
    """
    if len(residuals) > _MOST:
        # Every so many: enough to see a pattern, and neighbours that share an error are told apart from a missing term.
        chosen = np.argsort(along, kind="stable")[:: -(-len(residuals) // _MOST)]
        residuals, fitted, along, slopes = residuals[chosen], fitted[chosen], along[chosen], slopes[chosen]
    order = np.argsort(along, kind="stable")
    r, size = residuals[order], fitted[order]
    n = len(r)
    found = Pattern()
    scale = float(np.std(r))
    if n < 8 or scale == 0 or float(np.max(np.abs(r))) < 1e-12 * float(np.max(np.abs(fitted), initial=1e-300)):
        return found
    signs = r > 0
    above, below = int(signs.sum()), int(n - signs.sum())
    if above and below:
        runs = 1 + int(np.sum(signs[1:] != signs[:-1]))
        mean = 1 + 2 * above * below / n
        variance = (mean - 1) * (mean - 2) / (n - 1)
        found.runs = float(stats.norm.cdf((runs + 0.5 - mean) / math.sqrt(variance))) if variance > 0 else None
    centred = r - r.mean()
    found.together = float(np.sum(centred[1:] * centred[:-1]) / np.sum(centred**2))
    found.together_chance = float(stats.norm.sf((found.together + 1 / n) * math.sqrt(n)))
    if n >= 12 and np.ptp(size) > 0:
        ranked = stats.spearmanr(np.abs(r), size)
        found.widening = float(ranked.pvalue)
        grows = float(ranked.statistic) > 0
    found.bending = _bend(r, along[order], slopes[order])
    swings = (found.runs is not None and found.runs < RARE) or found.together_chance < RARE
    if swings:
        turns = _slow_turns(r)
        found.words.append(
            "the residuals swing slowly about zero"
            + (f", about {turns} times over the data" if turns > 1 else "")
            + ": a term is missing in the model, or neighbouring points share an error"
        )
    elif found.bending is not None and found.bending < RARE:
        found.words.append("the residuals bend along the predictor: a term is missing in the model")
    if found.widening is not None and found.widening < RARE:
        found.words.append(
            f"the residuals {'grow' if grows else 'shrink'} with the size of the values: "
            "give uncertainties (errors ...), or fit the logarithm"
        )
    outlying = np.flatnonzero(np.abs(r - np.median(r)) > 5 * 1.4826 * np.median(np.abs(r - np.median(r))))
    if 0 < len(outlying) <= max(3, n // 20):
        said = "one point lies" if len(outlying) == 1 else f"{len(outlying)} points lie"
        found.words.append(f"{said} far off all the others, {'row' if len(outlying) == 1 else 'rows'} {_rows(order[outlying])}")
    return found


def _bend(residuals: Any, along: Any, slopes: Any) -> float | None:
    """The probability that chance explains as much as a parabola, a cubic and a quartic in the predictor do."""
    n, p = slopes.shape
    span = float(np.ptp(along))
    if n - p - 3 < 4 or not span > 0:
        return None
    u = 2 * (along - along.min()) / span - 1
    terms = np.polynomial.legendre.legvander(u, 4)[:, 2:]
    size = np.sqrt((slopes * slopes).sum(0))
    frame, _ = np.linalg.qr(slopes / np.where(size > 0, size, 1.0))
    terms = terms - frame @ (frame.T @ terms)
    # Terms that the model can follow already explain nothing more.
    kept, sizes, _ = np.linalg.svd(terms, full_matrices=False)
    kept = kept[:, sizes > 1e-6]
    more = kept.shape[1]
    rest = residuals - frame @ (frame.T @ residuals)
    explained, total = float(np.sum((kept.T @ rest) ** 2)), float(rest @ rest)
    degrees = n - p - more
    if not more or degrees <= 0 or total <= 0:
        return None
    return float(stats.f.sf(explained / more / max((total - explained) / degrees, 1e-300), more, degrees))


def _rows(places: Any) -> str:
    said = [str(int(k) + 1) for k in sorted(places)]
    return ", ".join(said[:5]) + (" and more" if len(said) > 5 else "")


def _slow_turns(r: Any) -> int:
    """How often smoothed residuals change their sign, half of it."""
    width = max(3, len(r) // 10)
    smooth = np.convolve(r, np.ones(width) / width, mode="valid")
    return round((1 + float(np.sum(np.sign(smooth[1:]) != np.sign(smooth[:-1])))) / 2)


@dataclass
class RowInfluence:
    """The point without which the fit would change most: its row from 1, Cook's distance (Technometrics 19 (1977) 15-18), leverage."""

    row: int
    distance: float
    leverage: float


def influence(slopes: Any, residuals: Any, spread: float) -> RowInfluence | None:
    """slopes (n, p) and residuals (n,), both weighted. None where no point stands out."""
    n, p = slopes.shape
    if n > 20_000 or n <= p or not spread > 0:
        return None
    size = np.sqrt((slopes * slopes).sum(0))
    size[size == 0] = 1.0
    frame, _ = np.linalg.qr(slopes / size)
    leverage = np.clip((frame * frame).sum(1), 0.0, 1.0 - 1e-12)
    distance = residuals**2 / (p * spread**2) * leverage / (1 - leverage) ** 2
    row = int(np.argmax(distance))
    if distance[row] > INFLUENCE:
        return RowInfluence(row + 1, float(distance[row]), float(leverage[row]))
    high = int(np.argmax(leverage))
    return RowInfluence(high + 1, float(distance[high]), float(leverage[high])) if leverage[high] > 0.99 and n > p + 1 else None
