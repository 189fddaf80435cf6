"""The centroid of the area under a curve or between two, and of a list of points."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Any

from ..formula import catalogue as c
from ..formula.certain import certain_value
from ..formula.nodes import Formula, Number
from ..language import tree
from ..numerics.evidence import Evidence
from ..numerics.integrals.centroids import centroid_between, centroid_of_points
from ..numerics.integrals.integrals import NoIntegral
from ..numerics.roots.search import NotSearchable
from ..record.notation import format_number, format_short
from ..record.rows import PlaceRow, Row
from .answers import answers
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .findings import FindingDraft
from .proofs import graded_certificate
from .search_window import Progress, free_variables, window_of
from .values import FindingValue, FoundPlace, ItemsValue, PointValue, Value

_MOST_POINTS = 400  # whose certificate a record holds


@answers("centroid")
def centroid(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """Of an area or of a list of points. Raises Refused."""
    if not request.windows and len(request.subjects) == 1 and not free_variables(request, scope):
        return _of_points(request, scope)
    first = request.subjects[0]

    def second(s: Evaluator) -> Formula:
        return s.formula(request.subjects[1]) if len(request.subjects) == 2 else Number(Fraction(0))

    window = window_of(request, lambda s: c.subtract(s.formula(first), second(s)), scope, "centroid")
    inner = scope.within(window.variable)
    try:
        lower = inner.subject(request.subjects[1]) if len(request.subjects) == 2 else Number(Fraction(0))
        found = centroid_between(inner.subject(first), lower, window.variable, window.low, window.high)
    except NoIntegral as reason:
        raise refusal("no-integral", str(reason), request) from None
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    low, high = window.ends
    between = "between the two" if len(request.subjects) == 2 else "under the curve"
    row = PlaceRow(
        place={"x": found.x.value, "y": found.y.value}, intervals={"x": found.x.interval, "y": found.y.interval},
        value=found.area.value, value_interval=found.area.interval, what="area", evidence=found.evidence,
    )  # fmt: skip
    span = f"from {format_number(low)} to {format_number(high)}"
    place = f"({format_short(found.x.value)}, {format_short(found.y.value)})"
    summary = f"The centroid of the area {between} {span} is {place}; the area is {format_short(found.area.value)}."
    return _told(request, scope, row, summary, found.area.method, found.evidence, found.certificate, list(window.notes))


def _of_points(request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, Value]:
    """The mean of each coordinate; exact where all coordinates are."""
    subject = request.subjects[0]
    found = scope.value(subject)
    items = found.items if isinstance(found, ItemsValue) else ()
    points = [i for i in items if isinstance(i, PointValue)]
    sizes = {len(p.items) for p in points}
    if not points or len(points) != len(items) or len(sizes) != 1:
        raise refusal("points", "a centroid is that of an area, or of a list of points with as many coordinates each", subject)
    exact = all(v.exact is not None for p in points for v in p.items)
    places = [[v.exact if v.exact is not None else Fraction(v.value) for v in p.items] for p in points]
    middle = centroid_of_points(places)
    evidence: Evidence = "proven" if exact else "checked"
    names = "xyz"[: len(middle)]
    ends = {n: certain_value(Number(v)).interval if exact else (repr(float(v)),) * 2 for n, v in zip(names, middle, strict=True)}
    row = PlaceRow(place={n: float(v) for n, v in zip(names, middle, strict=True)}, intervals=ends, evidence=evidence)
    shown = ", ".join(str(v) if exact and v.denominator < 10_000 else format_short(float(v)) for v in middle)
    count = f"{len(points)} point{'' if len(points) == 1 else 's'}"
    method = "the mean of each coordinate, in exact arithmetic" if exact else "the mean of each coordinate, in floating-point numbers"
    said = exact and len(points) <= _MOST_POINTS
    certificate = {"claim": "centroid of points", "coordinates": [[str(v) for v in p] for p in places]} if said else None
    return _told(request, scope, row, f"The centroid of {count} is ({shown}).", method, evidence, certificate, [])


def _told(
    request: tree.Request, scope: Evaluator, row: PlaceRow, summary: str, method: str, evidence: Evidence,
    certificate: dict[str, Any] | None, notes: list[str],
) -> tuple[FindingDraft, Value]:  # fmt: skip
    graded, certificates = graded_certificate(request, scope, certificate, evidence, row)
    rows: list[Row] = [replace(row, evidence=graded)]
    told = FindingDraft(rows, graded, graded != "open", summary, method, notes, variables=tuple(row.place), certificates=certificates)
    known = graded == "proven"
    parts: dict[str, tuple[FoundPlace, ...]] = {
        n: (FoundPlace(x, row.intervals[n] if known else None, graded),) for n, x in row.place.items()
    }
    if row.value is not None:
        parts["area"] = (FoundPlace(row.value, row.value_interval if known else None, graded),)
    return told, FindingValue("centroid", parts["x"], parts)
