"""`compare A, B, C`: fits of the same data beside each other, and which of them the data favour."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import stats

from ..language import tree
from ..numerics.fitting.fit import Fit
from ..numerics.fitting.model_comparison import cross_validation, nested
from ..record.notation import format_short
from ..record.rows import ComparisonRow, Row
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .findings import FindingDraft
from .values import FunctionValue

CLEAR, SLIGHT = 10.0, 2.0  # differences of AICc that are clear and that tell nothing: common practice
EARNS = 0.05


@dataclass
class _Rival:
    name: str
    fit: Fit
    left_out: float | None  # root mean square of what is predicted for points that were left out


def compared_fits(statement: tree.Compare, scope: Evaluator) -> FindingDraft:
    """Raises Refused where what is named is no fit, or the fits are of different data."""
    rivals: list[_Rival] = []
    for item in statement.items:
        assert isinstance(item, tree.Name)
        value = scope.names.find(item.name)
        if not isinstance(value, FunctionValue) or value.source is None or not isinstance(value.source.result, Fit):
            raise refusal("fit-needed", f"'{item.spelling}' is no fit", item)
        rivals.append(_Rival(item.spelling, value.source.result, cross_validation(value.source.result)))
    first = rivals[0].fit
    for rival, item in zip(rivals, statement.items, strict=True):
        if len(rival.fit.residuals) != len(first.residuals) or not np.array_equal(rival.fit.problem.y.data, first.problem.y.data):
            raise refusal("compare-data", f"{rival.name} and {rivals[0].name} are fits of different data; they cannot be compared", item)
        if (rival.fit.problem.errors is None) != (first.problem.errors is None) or rival.fit.problem.loss != first.problem.loss:
            text = f"{rival.name} and {rivals[0].name} weigh their residuals differently (errors, loss); they cannot be compared"
            raise refusal("compare-data", text, item)
    best = min(rivals, key=lambda r: r.fit.quality.aicc if r.fit.quality.aicc == r.fit.quality.aicc else np.inf)
    tests = _tests(rivals)
    against = {large: (rivals[small].name, chance) for small, large, chance in tests}
    rows: list[Row] = [_row(r, best, *against.get(k, (None, None))) for k, r in enumerate(rivals)]
    notes = [_earned(rivals[small], rivals[large], chance) for small, large, chance in tests]
    notes += [f"{r.name}: {word}" for r in rivals for word in r.fit.pattern.words]
    summary = _verdict(rivals, best)
    method = "AICc (lower is better), F-tests where one model holds the other, and each point predicted from a fit without it"
    return FindingDraft(rows, "checked", True, summary, method, notes)


def _row(rival: _Rival, best: _Rival, against: str | None, chance: float | None) -> ComparisonRow:
    worth = rival.fit.quality
    return ComparisonRow(
        fit=rival.name, parameters=len(rival.fit.parameters), spread=_plain(worth.spread), adjusted_r_squared=_plain(worth.adjusted),
        aicc=_plain(worth.aicc), left_out=_plain(rival.left_out), difference=_plain(worth.aicc - best.fit.quality.aicc),
        reduced_chi_square=_plain(worth.chi), against=against, chance=chance,
    )  # fmt: skip


def _plain(value: float | None) -> float | None:
    return None if value is None or not np.isfinite(value) else float(value)


def _tests(rivals: list[_Rival]) -> list[tuple[int, int, float]]:
    """(smaller, larger, probability that the larger does as much better by chance) for each next larger nested model."""
    found = []
    order = sorted(range(len(rivals)), key=lambda k: len(rivals[k].fit.parameters))
    for place, large in enumerate(order):
        for small in reversed(order[:place]):
            if nested(rivals[small].fit, rivals[large].fit):
                found.append((small, large, _chance(rivals[small].fit, rivals[large].fit)))
                break
    return found


def _chance(small: Fit, large: Fit) -> float:
    more = small.quality.degrees - large.quality.degrees
    fall = small.quality.squares - large.quality.squares
    if large.problem.errors is not None:
        return float(stats.chi2.sf(max(fall, 0.0), more))
    if large.quality.squares <= 0:
        return 0.0
    return float(stats.f.sf(max(fall, 0.0) / more / (large.quality.squares / large.quality.degrees), more, large.quality.degrees))


def _earned(small: _Rival, large: _Rival, chance: float) -> str:
    more = len(large.fit.parameters) - len(small.fit.parameters)
    term = "one more parameter" if more == 1 else f"{more} more parameters"
    said = f"{large.name} has {term} than {small.name}"
    if chance < EARNS:
        return f"{said} and earns {'it' if more == 1 else 'them'}: by chance as much with probability {format_short(chance, 2)}"
    return f"{said} and does not earn {'it' if more == 1 else 'them'}: chance gives as much with probability {format_short(chance, 2)}"


def _verdict(rivals: list[_Rival], best: _Rival) -> str:
    worth = [(r, r.fit.quality.aicc - best.fit.quality.aicc) for r in rivals if r is not best]
    close = [r.name for r, d in worth if not d > SLIGHT]
    if close:
        do = "does" if len(close) == 1 else "do"
        return f"{best.name} is ahead by AICc, but {' and '.join(close)} {do} about as well: the data do not decide."
    nearest = min(worth, key=lambda p: p[1])
    if nearest[1] > CLEAR:
        return f"The data favour {best.name} clearly; the next, {nearest[0].name}, is {format_short(nearest[1], 3)} behind in AICc."
    return f"The data favour {best.name} somewhat; the next, {nearest[0].name}, is {format_short(nearest[1], 3)} behind in AICc."
