"""Fits and interpolations told: numbers in the shape of the record, and sentences."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..formula.nodes import Variable
from ..formula.typeset import name_tex, tex
from ..formula.units import Unit
from ..numerics.evidence import Evidence
from ..numerics.fitting.fit import Fit
from ..numerics.fitting.search import GROUPS
from ..numerics.fitting.statistics import RARE
from ..numerics.interpolation.curves import InterpolatedCurve
from ..record.findings import Residuals
from ..record.notation import format_number, format_short
from ..record.rows import FitRow, Influence, InterpolationRow, OtherMinimum, ParameterRow, ResidualPattern, SurfaceRow
from .findings import MOST_PIECES, FindingDraft, count_word
from .undefined import with_unit

MOST_RIVALS = 4
FEW = 2  # degrees of freedom that bear out nothing
TIED = 0.98  # a correlation beyond which two parameters are told to go together


def fit_finding(found: Fit, units: dict[str, Unit], of: str) -> FindingDraft:
    """What is told of a fit: parameters, sentence, method, notes."""
    quality, influence, pattern = found.quality, found.influence, found.pattern
    row = FitRow(
        parameters=[_parameter(found, k, units) for k in range(len(found.parameters))],
        residual_sum_of_squares=_finite(quality.squares),
        residual_standard_deviation=_finite(quality.spread),
        degrees_of_freedom=quality.degrees,
        r_squared=_finite(quality.r_squared),
        adjusted_r_squared=_finite(quality.adjusted),
        aicc=_finite(quality.aicc),
        points=len(found.residuals),
        starts_tried=found.search.starts,
        starts_agreed=found.search.best.independent,
        screened=found.search.screened,
        steepness=_finite(found.gradient),
        evidence=found.evidence,
        reduced_chi_square=_finite(quality.chi),
        chance=None if quality.chi is None else _finite(quality.chance),
        least_within_limits=None if found.bounded is None else found.bounded.proven,
        boxes=None if found.bounded is None else found.bounded.boxes,
        correlation=[[_finite(round(float(v), 6)) for v in line] for line in found.correlation] if len(found.parameters) > 1 else None,
        rivals=[_rival(r) for r in found.rivals[:MOST_RIVALS]] or None,
        influence=None
        if influence is None
        else Influence(row=influence.row, distance=_finite(influence.distance), leverage=_finite(influence.leverage)),
        pattern=ResidualPattern(
            runs_chance=_finite(pattern.runs), neighbours=_finite(pattern.together), neighbours_chance=_finite(pattern.together_chance),
            spread_chance=_finite(pattern.widening), bend_chance=_finite(pattern.bending), words=pattern.words,
        ),
    )  # fmt: skip
    said = "; ".join(_said(found, k, units) for k in range(min(len(found.parameters), 6)))
    more = f"; and {len(found.parameters) - 6} more" if len(found.parameters) > 6 else ""
    # What nothing but the points themselves bears out is said before their numbers.
    few = f"{len(found.residuals)} points for {len(found.parameters)} parameters, which any data nearly fit: " if _too_many(found) else ""
    summary = f"{few}{said}{more}."
    told = FindingDraft([row], found.evidence, found.evidence != "open", summary, _method(found, of), _notes(found))
    told.fit = _picture(found)
    return told


def _too_many(found: Fit) -> bool:
    """Whether so many parameters meet so few points that the fit says hardly more than the points."""
    return found.quality.degrees <= FEW and len(found.parameters) > FEW


def _finite(value: float | None) -> float | None:
    """NaN and infinities have no place in JSON."""
    return None if value is None or not np.isfinite(value) else value


def _parameter(found: Fit, k: int, units: dict[str, Unit]) -> ParameterRow:
    name, interval = found.parameters[k], found.intervals[k]
    return ParameterRow(
        name=name, value=float(found.values[k]), standard_error=_finite(float(found.standard[k])), low=_finite(interval.low),
        high=_finite(interval.high), interval=found.enclosures[k], unit=str(units[name]) if name in units else None,
        at_limit=name in found.at_limit, profile=[(float(x), float(rise)) for x, rise in interval.profile] or None,
    )  # fmt: skip


def _said(found: Fit, k: int, units: dict[str, Unit]) -> str:
    name = found.parameters[k]
    behind = f" {units[name]}" if name in units else ""
    if name in found.at_limit:
        return f"{name} = {format_short(float(found.values[k]))}{behind}, on its limit"
    return f"{name} = {with_unit(float(found.values[k]), float(found.standard[k]), str(units[name]) if name in units else None)}"


def _rival(rival: Any) -> OtherMinimum:
    values = {n: _finite(v) for n, v in rival.values.items()}
    return OtherMinimum(values=values, residual_sum_of_squares=_finite(rival.squares), hits=rival.hits, suspect=rival.suspect)


def _method(found: Fit, of: str) -> str:
    model = found.model
    n = len(found.residuals)
    parts = [
        f"least squares on {n} points of {of}" if found.problem.loss == "squares" else f"loss {found.problem.loss} on {n} points of {of}"
    ]
    if not model.nonlinear:
        parts.append("all parameters enter linearly, so there is one minimum")
    elif found.problem.starts:
        parts.append("from the start that was given")
    else:
        sought = ", ".join(model.nonlinear)
        solved = f", {', '.join(model.linear)} solved for at each" if model.linear else ""
        parts.append(
            f"{sought} sought from {found.search.starts} starts out of {found.search.screened:,} places{solved}".replace(",000", " 000")
        )
        parts.append(f"{found.search.best.independent} of {GROUPS * found.search.rounds} independent starts ended here")
    if found.quality.against:
        parts.append(f"R² is about {found.quality.against}, since the model has no constant term")
    if found.evidence == "proven":
        parts.append("that it is a minimum is proven by ball arithmetic on the normal equations, with the data as the decimals they are")
    if found.bounded is not None and found.bounded.proven:
        boxes = count_word(found.bounded.boxes)
        parts.append(f"that no values within the limits fit better is proven by branch and bound over {boxes} boxes")
    return "; ".join(parts)


def _notes(found: Fit) -> list[str]:
    notes = [*found.notes]
    worth = found.quality
    notes += [f"{p} ends on its limit: the data want it beyond" for p in found.at_limit]
    if found.search.best.suspect:
        notes.append("the curve has a pole, a jump or wild swings between the points: this fit is no description of them")
    if worth.chi is not None and worth.chance is not None and worth.degrees > 0:
        notes.append(_chi_said(worth.chi, worth.chance))
    if np.ptp(found.problem.y.data) == 0:
        notes.append("all values are the same: the data say nothing of how they change")
    # Of one or two numbers that are left over no pattern is one, and one of them always stands out.
    telling = worth.degrees > FEW
    notes += found.pattern.words if telling else []
    if found.influence is not None and telling:
        notes.append(
            f"row {found.influence.row} carries the fit: without it the parameters would be others "
            f"(Cook's distance {found.influence.distance:.3g})"
        )
    if found.bounded is not None and found.bounded.left is not None:
        spans = zip(found.model.nonlinear, found.bounded.left, strict=True)
        said = ", ".join(f"{a} = {format_number(low)} to {format_number(high)}" for a, (low, high) in spans)
        notes.append(f"whether other values within the limits fit better is not settled for {said}")
    notes += _tied(found) if telling else []
    better = [r for r in found.rivals if r.squares < worth.squares * (1 - 1e-6)]
    if better and found.problem.starts:
        notes.append("another place fits better; leave the start out to find it")
    close = [r for r in found.rivals if not r.suspect and worth.squares <= r.squares < 1.5 * worth.squares]
    if close:
        said = ", ".join(f"{n} = {format_short(v, 4)}" for n, v in list(close[0].values.items())[:4])
        notes.append(f"another minimum does nearly as well: {said}")
    curved = [p for p, i in zip(found.parameters, found.intervals, strict=True) if i.profile]
    if curved:
        notes.append(f"the 95 % interval{'s' if len(curved) > 1 else ''} of {', '.join(curved)} followed along the profile: not symmetric")
    endless = [p for p, i in zip(found.parameters, found.intervals, strict=True) if not (np.isfinite(i.low) and np.isfinite(i.high))]
    if endless:
        notes.append(f"the data set no end to {', '.join(endless)} on one side")
    if worth.degrees <= FEW and not _too_many(found):
        notes.append(f"{len(found.residuals)} points for {len(found.parameters)} parameters: the uncertainties are hardly known")
    return notes


def _chi_said(chi: float, chance: float) -> str:
    said = f"reduced chi square {format_short(chi, 3)}, as large or larger with probability {format_short(chance, 2)}"
    if chance < RARE:
        return f"{said}: the model does not follow the data within their uncertainties, or these are too small"
    if chance > 1 - RARE:
        return f"{said}: the points lie closer than their uncertainties say; these may be too large"
    return said


def _tied(found: Fit) -> list[str]:
    p = len(found.parameters)
    pairs = [(abs(found.correlation[i, j]), i, j) for i in range(p) for j in range(i) if abs(found.correlation[i, j]) > TIED]
    said = [
        f"{found.parameters[j]} and {found.parameters[i]} ({found.correlation[i, j]:+.4f})".replace("-", "−")
        for _, i, j in sorted(pairs, reverse=True)[:3]
    ]
    return [f"correlated: {', '.join(said)}; the data tell them apart badly"] if said and p <= 12 else []


def _picture(found: Fit) -> Residuals:
    """The residuals against the first predictor, for a small picture."""
    x = np.asarray(found.problem.columns[0].data, dtype=float)
    chosen = np.arange(len(x)) if len(x) <= 400 else np.linspace(0, len(x) - 1, 400).round().astype(int)
    left = [float(v) for v in found.residuals[chosen]]
    return Residuals(x=[float(v) for v in x[chosen]], residuals=left, variable=found.problem.predictors[0])


# ---------------------------------------------------------------- interpolation

_KINDS = {
    "spline": "A cubic spline", "segments": "Straight pieces", "monotone": "Monotone cubic pieces", "polynomial": "A polynomial",
    "smoothing": "A smoothing spline",
}  # fmt: skip


def curve_finding(
    name: str, variable: str, curve: InterpolatedCurve, points: int, span: tuple[float, float], ends: str | None
) -> FindingDraft:
    """What is told of a curve through points."""
    pieces = len(curve.function.pieces)
    what = _KINDS[curve.kind]
    said = f"from {variable} = {format_number(span[0])} to {format_number(span[1])}"
    through = "near" if curve.kind == "smoothing" else "through"
    of_pieces = "" if curve.kind == "polynomial" else f" in {count_word(pieces)} piece{'s' if pieces != 1 else ''}"
    summary = f"{what} {through} {points} points {said}{of_pieces}."
    evidence: Evidence = "proven" if curve.kind != "smoothing" else "checked"
    row = InterpolationRow(
        points=points, pieces=pieces, low=span[0], high=span[1], kind=curve.kind, continuous=_continuous(curve), evidence=evidence,
        smoothing=curve.smoothing, worth=None if curve.smoothing is None else curve.parameters,
    )  # fmt: skip
    latex = None
    if pieces <= MOST_PIECES and curve.kind != "smoothing":
        head = f"{name_tex(name)}({name_tex(variable)})"
        latex = f"{head} = {tex(curve.shown(Variable(variable)))}"
    method = {
        "spline": f"slopes at the knots so that the bend is continuous; ends: {ends or 'not a knot'}",
        "segments": "straight lines from point to point",
        "monotone": "slopes at the knots by weighted harmonic means, so that it rises and falls only where the data do",
        "polynomial": "Newton's divided differences, in exact arithmetic",
        "smoothing": "misfit weighed against bend",
    }[curve.kind]
    if curve.exact:
        method += "; exact for the decimals of the data"
    return FindingDraft([row], evidence, True, summary, method, list(curve.notes), latex)


def _continuous(curve: InterpolatedCurve) -> int:
    """How many derivatives are continuous at the knots: the bend of a long spline is so to rounding only."""
    return min(curve.function.continuous, 2 if curve.exact else 1)


_SURFACES = {"bilinear": "A bilinear surface", "bicubic": "A bicubic surface", "thin-plate": "A thin plate"}


def surface_finding(variables: tuple[str, ...], points: int, spans: list[tuple[float, float]], kind: str, notes: list[str]) -> FindingDraft:
    """What is told of a surface through points."""
    said = ", ".join(f"{v} = {format_number(low)} to {format_number(high)}" for v, (low, high) in zip(variables, spans, strict=True))
    row = SurfaceRow(points=points, kind=kind, low=[s[0] for s in spans], high=[s[1] for s in spans], evidence="checked")
    method = {
        "bilinear": "along each variable in straight pieces", "bicubic": "products of cubic splines, not a knot at the ends",
        "thin-plate": "the plate of least bending energy through all points",
    }[kind]  # fmt: skip
    return FindingDraft([row], "checked", True, f"{_SURFACES[kind]} through {points} points, {said}.", method, notes)
