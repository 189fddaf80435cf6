"""Uncertainties of findings: whatever a request makes of uncertain numbers has one, to first order, with all correlations.

No noun does this for itself: the request is worked out again with the uncertain numbers moved a little, along independent directions,
and the differences are the slopes (JCGM 100:2008, "Guide to the expression of uncertainty in measurement", 5.1.3 note 2 and 5.2.2).
Where the second differences say that first order is not enough, values are drawn with a fixed seed (JCGM 101:2008, section 7).
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..formula.estimates import Coefficients, Derived, Estimates
from ..formula.limits import OutOfTime, time_limit
from ..formula.nodes import Given
from ..language.messages import Refused
from ..record.notation import format_short
from ..record.rows import PlaceRow, Row, SolutionRow, ValueRow
from .evaluate.evaluator import Evaluator
from .findings import FindingDraft
from .undefined import with_unit
from .values import FindingValue, FoundPlace, Value

STEP = 0.01  # of a standard uncertainty: small against it, and large against the rounding of what is checked only
STRAIGHT = 1e-3  # second derivative, as a share of the first, up to which two places do
CURVED = 0.25  # second-order share of a standard uncertainty from which on first order is not enough
MOST_DIRECTIONS = 24
SAMPLES, FEWEST_SAMPLES, SAMPLING_S = 200, 60, 15.0  # all are drawn or none counts: how many there were may not hang on the clock
NONE_LEFT = 1e-9  # of a number: an uncertainty below is the rounding of its differences
_FIELDS = ("x", "value", "low", "high")
_SEED = 20_261_129

Numbers = dict[tuple[Any, ...], float]


def _unsaid(*_: object) -> None: ...


@dataclass(frozen=True)
class Trial:
    """A request that can be worked out again with other uncertain numbers."""

    answer: Callable[[Evaluator], tuple[FindingDraft, Value]]
    scope: Evaluator
    sources: Mapping[str, Estimates]

    def moved(self, shifts: Mapping[str, Any]) -> Numbers | None:
        """The numbers of its answer; None where it has none there."""
        trial = self.scope.noting()
        trial.shifts = shifts
        trial.say, trial.warn = _unsaid, _unsaid  # what is to be said was said of the answer itself
        try:
            return numbers_of(*self.answer(trial))
        except Refused:
            return None


def numbers_of(told: FindingDraft, value: Value) -> Numbers:
    """All numbers of an answer under what they are."""
    found: Numbers = {}
    for k, row in enumerate(told.values):
        for name, number in _fields(row).items():
            found["row", k, name] = number
    if isinstance(value, FindingValue):
        for k, place in enumerate(value.places):
            found["place", k] = place.value
        for name, places in value.parts.items():
            for k, place in enumerate(places):
                found["part", name, k] = place.value
    return found


def _fields(row: Row) -> dict[str, float]:
    found = {n: getattr(row, n, None) for n in _FIELDS}
    if isinstance(row, PlaceRow | SolutionRow):
        found |= row.place
    return {n: float(v) for n, v in found.items() if isinstance(v, float | int) and not isinstance(v, bool) and np.isfinite(v)}


def with_uncertainty(told: FindingDraft, value: Value, trial: Trial) -> Value:
    """Put uncertainties onto a finding, and what each number rests on onto what it is worth."""
    here = numbers_of(told, value)
    sources = {k: e for k, e in trial.sources.items() if np.any(e.covariance)}
    directions = [(key, i) for key, e in sources.items() for i in range(len(e.names))]
    if not here or not sources:
        return value
    if len(directions) > MOST_DIRECTIONS:
        told.notes.append(f"the uncertainties of {len(directions)} numbers are more than are carried through")
        return value
    slopes: dict[tuple[Any, ...], Coefficients] = {name: {k: np.zeros(len(e.names)) for k, e in sources.items()} for name in here}
    bent = dict.fromkeys(here, 0.0)
    for key, i in directions:
        step = np.zeros(len(sources[key].names))
        step[i] = STEP
        found = _differences(trial, key, step, here)
        if found is None:
            told.notes.append("how many results there are hangs on the uncertain numbers: no uncertainty is given")
            return value
        for name, (slope, second) in found.items():
            slopes[name][key][i] = slope
            bent[name] += abs(second) / 2
    errors = {name: _size(by, here[name]) for name, by in slopes.items()}
    told.values = [_uncertain(row, k, errors) for k, row in enumerate(told.values)]
    _say(told)
    worst = max((n for n in here if n[0] == "row" and errors[n]), key=lambda n: _curvature(bent[n], errors[n], here[n]), default=None)
    if worst is not None and _curvature(bent[worst], errors[worst], here[worst]) > CURVED:
        told.notes.append(_sampled(trial, worst, sources))
    if not isinstance(value, FindingValue):
        return value
    estimates = tuple(sources.values())

    def placed(places: tuple[FoundPlace, ...], *head: Any) -> tuple[FoundPlace, ...]:
        return tuple(_derived(p, slopes[(*head, k)], errors[(*head, k)], estimates) for k, p in enumerate(places) if (*head, k) in slopes)

    # A place that is known by two names, x and the variable's own, stays one.
    once: dict[int, tuple[FoundPlace, ...]] = {}
    parts = {n: once.setdefault(id(p), placed(p, "part", n)) for n, p in value.parts.items()}
    return replace(value, places=placed(value.places, "place"), parts=parts)


def _differences(trial: Trial, key: str, step: Any, here: Numbers) -> dict[tuple[Any, ...], tuple[float, float]] | None:
    """First and second derivative of each number along one direction: by two places, by four where it bends (A&S 25.3.6). None where the
    answer has other numbers there."""
    near = [trial.moved({key: way * step}) for way in (1, -1)]
    if any(n is None or n.keys() != here.keys() for n in near):
        return None
    after, before = near
    assert after is not None
    assert before is not None
    slopes = {n: (after[n] - before[n]) / (2 * STEP) for n in here}
    seconds = {n: (after[n] - 2 * v + before[n]) / STEP**2 for n, v in here.items()}
    if any(abs(seconds[n]) > STRAIGHT * abs(slopes[n]) for n in here):
        far = [trial.moved({key: way * step}) for way in (2, -2)]
        if all(f is not None and f.keys() == here.keys() for f in far):
            beyond, behind = far
            slopes = {n: (8 * slopes[n] * 2 * STEP - (beyond[n] - behind[n])) / (12 * STEP) for n in here}  # type: ignore[index]
    return {n: (slopes[n], seconds[n]) for n in here}


def _size(by: Coefficients, number: float) -> float:
    size = float(np.sqrt(sum(float(v @ v) for v in by.values())))
    return size if size > NONE_LEFT * abs(number) * 1e-3 else 0.0


def _curvature(bent: float, error: float, number: float) -> float:
    """The second-order share; what rounding alone makes of second differences is taken off."""
    noise = 4e-16 * abs(number) / STEP**2
    return max(bent - noise * 4, 0.0) / error if error else 0.0


def _uncertain(row: Row, k: int, errors: Mapping[tuple[Any, ...], float]) -> Row:
    known = {n: errors["row", k, n] for n in _fields(row) if errors["row", k, n]}
    if not known:
        return row
    main = known.get("value" if isinstance(row, ValueRow) else "x", next(iter(known.values())))
    fields: dict[str, Any] = {"errors": known}
    if hasattr(row, "standard_error"):
        fields["standard_error"] = main
    return replace(row, **fields)


def _say(told: FindingDraft) -> None:
    """The numbers in the sentence of the finding rounded by their uncertainties; those that do not stand in it behind."""
    more = []
    for row in told.values[:6]:
        units = row.units or {}
        for name, error in (row.errors or {}).items():
            value = _fields(row)[name]
            said = with_unit(value, error, units.get(name) or (row.unit if isinstance(row, ValueRow) else None))
            # Behind these words stand results; ends of windows stand behind "from" and "to". Of two equal numbers the name tells which.
            place = told.variable if name == "x" and told.variable else name
            heads = (r"\bis", r"(?:\bis|=|<|≤|\bfor)") if name == "value" else (rf"\b{re.escape(place)} =", r"(?:\bis|=|<|≤|\bfor)")
            for head in heads:
                number = rf"({head} ){re.escape(format_short(value))}(?![\w×]|\.\d)"
                told.summary, count = re.subn(number, rf"\g<1>{said}", told.summary, count=1)
                if count:
                    break
            else:
                more.append(f"{place} = {said}")
    if more:
        told.summary = f"{told.summary.rstrip('.')}; {', '.join(more)}."


def _sampled(trial: Trial, name: tuple[Any, ...], sources: Mapping[str, Estimates]) -> str:
    """What first order does not tell: an interval from values that are drawn."""
    rng, found = np.random.default_rng(_SEED), []
    head = f"first order is not enough for {name[-1]} here: it bends within the uncertainty"
    try:
        with time_limit(SAMPLING_S):
            for _ in range(SAMPLES):
                drawn = trial.moved({key: rng.standard_normal(len(e.names)) for key, e in sources.items()})
                if drawn is not None and name in drawn:
                    found.append(drawn[name])
    except OutOfTime:
        return head
    if len(found) < FEWEST_SAMPLES:
        return head
    low, high = np.quantile(found, [0.025, 0.975])
    return f"{head}; of {len(found)} values that were drawn 95 % lie between {low:.4g} and {high:.4g}"


def _derived(place: FoundPlace, by: Coefficients, error: float, estimates: tuple[Estimates, ...]) -> FoundPlace:
    if not error:
        return place
    interval = place.interval if place.evidence == "proven" else None
    formula = Given(place.value, interval, origin=Derived(estimates, by))
    return replace(place, exact=None, formula=formula)
