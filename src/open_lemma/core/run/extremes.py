"""Requests for minima, maxima, inflections, and for the lowest and highest value of all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from math import inf, nextafter
from typing import Any

from ..formula import catalogue as c
from ..formula.choice import choose
from ..formula.domain import infinite
from ..formula.nodes import Apply, Formula, Number, substitute, variables, walk
from ..language import tree
from ..language.messages import advise
from ..numerics.curves.closeup import close_up
from ..numerics.evidence import Evidence, weakest
from ..numerics.extrema.global_search import FoundLowest, bounds_of_many, lowest_of_many
from ..numerics.extrema.lowest import Lowest, LowPlace, lowest_value
from ..numerics.extrema.scan import scanned_places
from ..numerics.extrema.stationary import (
    MOST_LOCAL,
    Bounds,
    Constraint,
    Kind,
    Landscape,
    Stationary,
    least_value,
    stationary_places,
    with_overall,
)
from ..numerics.extrema.turning import Extremum, Turns, What, inflections, turning_points
from ..numerics.roots.refine import certain_digits, refined
from ..numerics.roots.regions import region_of
from ..numerics.roots.search import NotSearchable
from ..record.findings import CloseUp
from ..record.notation import format_number, format_short
from ..record.plain import taken_over
from ..record.rows import ExtremumRow, LowestRow, PlaceRow, Row
from .answers import answers
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .findings import FindingDraft, count_word
from .proofs import (
    graded_inflections,
    graded_lowest,
    graded_several,
    graded_turns,
    lowest_of_turns,
    part_of,
    proof_of_lowest_of_several,
    turn_row,
)
from .search_window import Progress, SearchWindow, conditions_of, digits_at, digits_of, digits_text, span_of, window_of
from .values import FindingValue, FoundPlace, Value

_WHAT: dict[str, frozenset[What]] = {
    "minima": frozenset({"minimum"}), "maxima": frozenset({"maximum"}), "extremes": frozenset({"minimum", "maximum"}),
}  # fmt: skip
_WORDS = {
    "minima": ("local minimum", "local minima"), "maxima": ("local maximum", "local maxima"), "extremes": ("extreme", "extremes"),
    "inflections": ("inflection", "inflections"),
}  # fmt: skip


# ---------------------------------------------------------------- one variable


@answers("minima", "maxima", "extremes")
def turning(request: tree.Request, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    """All local minima, maxima or both. Used as numbers they are the places; `.value` holds the heights."""
    if len(request.windows) > 1:
        return several(request, scope, progress)
    window = window_of(request, lambda s: s.formula(request.subjects[0]), scope, _WORDS[request.noun][1])
    conditions = conditions_of(request, scope.within(window.variable))
    if conditions:
        return _one_with_conditions(request, window, conditions, scope)
    try:
        found = turning_points(window.formula, window.variable, window.low, window.high, _WHAT[request.noun])
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    near = request.option("near")
    if near is not None and isinstance(near.value, tree.Expression):
        found = _nearest(found, scope.number(near.value).value, window.variable)
    found, certificates = graded_turns(request, scope, window, found, _WHAT[request.noun])
    told, value = _told_turns(request, window, found, scope)
    told.certificates = certificates
    return told, value


@answers("inflections")
def bends(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """Where a curve changes its bend. Raises Refused."""
    window = window_of(request, lambda s: s.formula(request.subjects[0]), scope, "inflections")
    try:
        found = inflections(window.formula, window.variable, window.low, window.high)
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    near = request.option("near")
    if near is not None and isinstance(near.value, tree.Expression):
        found = _nearest(found, scope.number(near.value).value, window.variable)
    found, certificates = graded_inflections(request, scope, window, found)
    told, value = _told_turns(request, window, found, scope)
    told.certificates = certificates
    return told, value


def _one_with_conditions(
    request: tree.Request, window: SearchWindow, conditions: list[Constraint], scope: Evaluator
) -> tuple[FindingDraft, Value]:
    """Over one variable conditions draw new ends: the search goes over each span where they hold."""
    whole: Formula = Apply(c.CONDITIONS["true"], ())
    for k in conditions:
        sign = c.CONDITIONS["=" if k.equation else "<" if k.strict else "<="]
        whole = Apply(c.CONDITIONS["and"], (whole, Apply(sign, (k.formula, Number(Fraction(0))))))
    try:
        region = region_of(whole, window.variable, window.low, window.high)
        parts = [
            turning_points(window.formula, window.variable, s.low.formula, s.high.formula, _WHAT[request.noun])
            for s in region.spans if s.low.x < s.high.x
        ]  # fmt: skip
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    if not parts:
        raise refusal("nowhere", "the condition holds on no span of the window", request)
    places = []
    for part, span in zip(parts, [s for s in region.spans if s.low.x < s.high.x], strict=True):
        open_ends = ([] if span.low_in else [span.low.x]) + ([] if span.high_in else [span.high.x])
        places += [p for p in part.places if not (p.shape == "end" and p.x in open_ends)]
    best = {what: min((sign * p.value for p in places if p.what == what), default=None) for what, sign in (("minimum", 1), ("maximum", -1))}
    marked = [replace(p, overall=p.overall and (1 if p.what == "minimum" else -1) * p.value == best.get(p.what)) for p in places]
    unsettled = [u for p in parts for u in p.unsettled] + region.unsettled
    found = Turns(marked, unsettled, sum(p.boxes for p in parts), [n for p in parts for n in p.notes])
    # Where the conditions do not hold the function has no value: so its places are proven over the whole window.
    held = replace(window, formula=choose(whole, window.formula, c.UNDEFINED))
    found, certificates = graded_turns(request, scope, held, found, _WHAT[request.noun])
    told, value = _told_turns(request, window, found, scope)
    told.certificates = certificates
    told.notes.append("where " + " and ".join(k.said for k in conditions))
    return told, value


def _nearest(found: Turns, centre: float, variable: str) -> Turns:
    """The place nearest to another, with those that lie exactly as far away as notes; unsettled is what may hide a nearer one."""
    inner = [p for p in found.places if p.shape != "end"]
    least = min((abs(p.x - centre) for p in inner), default=float("inf"))
    hidden = [s for s in found.unsettled if min(abs(s.low - centre), abs(s.high - centre)) < least or s.low <= centre <= s.high]
    alike = [p for p in inner if abs(p.x - centre) <= least * (1 + 1e-14)]
    notes = [*found.notes, *(f"{variable} = {format_number(p.x)} is exactly as far away" for p in alike[:-1])]
    return replace(found, places=alike[-1:], unsettled=hidden, notes=notes)


def _told_turns(request: tree.Request, window: SearchWindow, found: Turns, scope: Evaluator) -> tuple[FindingDraft, Value]:
    near = request.option("near")
    notes = list(found.notes)
    places, complete = found.places, found.complete
    rows = [turn_row(p) for p in places]
    notes += _turn_notes(places, window.variable)
    grades: list[Evidence] = [p.evidence for p in places]
    evidence = weakest(grades + ([] if complete else ["open"]) + ([] if found.covered else ["checked"]))
    summary = _turn_summary(request, places, complete, found, window, near is not None)
    method = found_by_slope(found.boxes)
    told = FindingDraft([*rows], evidence, complete, summary, method, [*notes, *window.notes], boxes=found.boxes, variable=window.variable)
    told.closeups = [_turn_seen(p, places, window) for p in places[:8]]
    _turn_digits(told, request, scope, places, window)
    at = tuple(FoundPlace(p.x, p.interval, p.evidence, p.exact) for p in places)
    heights = tuple(FoundPlace(p.value, p.value_interval, p.evidence) for p in places)
    parts = {"x": at, window.variable: at, "value": heights}
    parts.setdefault("y", heights)
    return told, FindingValue(request.noun, at, parts)


def found_by_slope(boxes: int) -> str:
    looked = f"; {boxes} boxes looked at" if boxes else ""
    return f"roots of the slope isolated with ball arithmetic, its sign proven between them{looked}"


def _turn_seen(p: Extremum, places: list[Extremum], window: SearchWindow) -> CloseUp:
    """A turning place with as much beside it as lies nearer to it than to the next one."""
    others = [abs(q.x - p.x) for q in places if q is not p]
    width = window.ends[1] - window.ends[0]
    room = min([width / 12 if width != float("inf") else max(1.0, abs(p.x)) / 2, *(d / 2.2 for d in others if d > 0)])
    return close_up(window.formula, window.variable, p.x, window.ends, straight=False, room=room)


def _turn_notes(places: list[Extremum], variable: str) -> list[str]:
    notes = []
    for p in places[:8]:
        at = f"{variable} = {format_short(p.x)}"
        if p.shape == "end":
            notes.append(f"{at} is an end of the window: a {p.what} of the window, not a turning point")
        elif p.shape == "kink":
            notes.append(f"at {at} there is a kink: no slope, and the values turn there")
        elif p.shape == "jump":
            notes.append(f"at {at} the function jumps")
        elif p.shape == "edge":
            notes.append(f"{at} is an edge of the domain")
        elif p.shape == "stretch" and p.x_high is not None:
            notes.append(f"the value is the same from {format_short(p.x)} to {format_short(p.x_high)}")
    return notes


def _turn_summary(request: tree.Request, places: list[Extremum], complete: bool, found: Turns, window: SearchWindow, near: bool) -> str:
    low, high = window.ends
    span = f"from {format_number(low)} to {format_number(high)}"
    n = len(places)
    one, many = _WORDS[request.noun]
    proven = complete and found.covered and all(p.evidence == "proven" for p in places)
    if near:
        if not n:
            return f"No {one} found {span}."
        return f"The {one} nearest by is at {window.variable} = {format_short(places[0].x)}" + ("; none is nearer." if proven else ".")
    seen = "" if complete else " found"
    head = f"{'exactly ' if proven and n else ''}{count_word(n)} {one if n == 1 else many}{seen} {span}"
    ends = sum(p.shape == "end" for p in places)
    if ends:
        head += f", {count_word(ends)} of them at {'an end' if ends == 1 else 'the ends'}" if n > ends else (
            ", at an end" if n == 1 else ", at the ends")  # fmt: skip
    best = [p for p in places if p.overall]
    for what, word in (("minimum", "lowest"), ("maximum", "highest")):
        chosen = [p for p in best if p.what == what]
        if chosen:
            at = ", ".join(format_short(p.x) for p in chosen[:3]) + (" and more" if len(chosen) > 3 else "")
            head += f"; the {word} of all is {format_short(chosen[0].value)}, at {window.variable} = {at}"
    if not complete:
        where = ", ".join(f"{format_number(s.low, 6)} to {format_number(s.high, 6)}" for s in found.unsettled[:3])
        head += f"; not settled: {where}"
    return head[:1].upper() + head[1:] + "."


def _turn_digits(told: FindingDraft, request: tree.Request, scope: Evaluator, places: list[Extremum], window: SearchWindow) -> None:
    digits = digits_of(request, scope)
    if digits is None:
        return
    shown = []
    for k, p in enumerate(places):
        if p.ball is not None and p.exact is None and p.slope is not None:
            ball = refined(p.slope, window.variable, p.ball, 1, digits)
            said = {"x": certain_digits(ball, digits)}
            value = digits_at(window.formula, window.variable, ball, digits)
        else:
            assert p.place is not None
            said = {"x": digits_text(p.place, digits) or ""}
            value = digits_text(substitute(window.formula, {window.variable: p.place}), digits)
        if value:
            said["value"] = value
        told.amend(k, digits=said)
        shown.append(f"{told.variable} = {said['x']}")
    if shown and len(shown) <= 3:
        told.summary = f"{told.summary.rstrip('.')}: {'; '.join(shown)}."


# ---------------------------------------------------------------- the one lowest value


@answers("lowest", "highest")
def lowest(request: tree.Request, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    """The one lowest (highest) value of a window. Used as a number it is that value; `.x` is the place."""
    noun = request.noun
    if len(request.windows) > 1:
        return lowest_of_several(request, scope)
    window = window_of(request, lambda s: s.formula(request.subjects[0]), scope, f"{noun} value")
    if request.option("where") is not None or infinite(window.low) or infinite(window.high):
        return _lowest_of_turns(request, scope, progress)
    try:
        found = lowest_value(window.formula, window.variable, window.low, window.high, highest=noun == "highest")
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    found, certificates = graded_lowest(request, scope, window, found, lowest_rows(found))
    if not (found.places and found.complete):
        other = _lowest_turn(request, scope, window)
        if isinstance(other, str):
            return FindingDraft(
                [], "checked", True, f"{other[:1].upper()}{other[1:]}.", found_by_slope(0), window.notes, variable=window.variable
            ), FindingValue(noun, ())
        found, certificates = other or (found, certificates)
    told = tell_lowest(found, noun, window.variable, *window.ends)
    told.certificates = certificates
    told.notes.extend(window.notes)
    digits = digits_of(request, scope)
    if digits is not None:
        _lowest_digits(told, found, window, digits)
    heights = tuple(FoundPlace(p.value, p.value_interval, p.evidence) for p in found.places)
    places = tuple(FoundPlace(p.x, p.interval, p.evidence, p.exact) for p in found.places)
    return told, FindingValue(noun, heights[:1], {"x": places, window.variable: places, "value": heights})


def _lowest_turn(request: tree.Request, scope: Evaluator, window: SearchWindow) -> tuple[Lowest, list[dict[str, Any]]] | str | None:
    """The lowest of the proven minima, or the words that say that there is none; None where the turning points tell no more."""
    what: What = "minimum" if request.noun == "lowest" else "maximum"
    try:
        turns = turning_points(window.formula, window.variable, window.low, window.high, frozenset({what}))
    except NotSearchable:
        return None
    turns, certificates = graded_turns(request, scope, window, turns, frozenset({what}))
    best = [p for p in turns.places if p.overall and p.evidence == "proven"]
    if not best:
        return next((n for n in turns.notes if n.startswith("there is no")), None) if turns.covered else None
    kinds = {"end": "end", "turn": "turn"}
    places = [LowPlace(p.x, p.value, p.interval, p.value_interval, kinds.get(p.shape, "kink"), "proven", p.exact) for p in best]
    notes = ["the value is taken over a whole stretch"] if any(p.x_high is not None for p in best) else []
    found = Lowest(places, (best[0].value, best[0].value), turns.boxes, True, None, notes)
    proof = lowest_of_turns(request, certificates, lowest_rows(found))
    return None if proof is None else (found, proof)


def _lowest_of_turns(request: tree.Request, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    """The least of the minima: on the spans where conditions hold, or in a window without an end."""
    noun = request.noun
    told, value = turning(replace(request, noun="minima" if noun == "lowest" else "maxima"), scope, progress)
    kept = [k for k, r in enumerate(told.values) if isinstance(r, ExtremumRow) and r.overall]
    rows = [as_lowest(told.values[k]) for k in kept]
    if not rows:
        why = next((n for n in told.notes if n.startswith(("there is no", "whether there is"))), "")
        raise refusal("not-searchable", why or f"the {noun} value could not be settled", request)
    assert isinstance(value, FindingValue)
    parts = {n: tuple(p[k] for k in kept) for n, p in value.parts.items()}
    told.certificates = (lowest_of_turns(request, told.certificates, rows) or []) if told.certificates else []
    told.values = [*rows]
    told.summary = (
        f"The {noun} value is {format_short(rows[0].value)}, at {told.variable} = {', '.join(format_short(r.x) for r in rows[:4])}."
    )
    return told, FindingValue(noun, parts["value"][:1], parts)


def _lowest_digits(told: FindingDraft, found: Lowest, window: SearchWindow, digits: int) -> None:
    what: What = "minimum" if told.summary.startswith("The lowest") else "maximum"
    turns = turning_points(window.formula, window.variable, window.low, window.high, frozenset({what})).places
    first = None
    for k, p in enumerate(found.places):
        turn = min(turns, key=lambda t: abs(t.x - p.x), default=None)
        if turn is None:
            continue
        if turn.ball is not None and turn.exact is None and turn.slope is not None:
            ball = refined(turn.slope, window.variable, turn.ball, 1, digits)
            said = {"x": certain_digits(ball, digits), "value": digits_at(window.formula, window.variable, ball, digits) or ""}
        elif turn.place is not None:
            value = digits_text(substitute(window.formula, {window.variable: turn.place}), digits)
            said = {"x": digits_text(turn.place, digits) or "", "value": value or ""}
        else:
            continue
        told.amend(k, digits=said)
        first = said["value"] if k == 0 else first
    if first is not None:
        told.summary = f"{told.summary.rstrip('.')}: {first}."


def as_lowest(row: Row) -> LowestRow:
    """One of the extremes as a place of the lowest (highest) value of all."""
    assert isinstance(row, ExtremumRow)
    return LowestRow(**taken_over(row))


def lowest_rows(found: Lowest) -> list[LowestRow]:
    """Rows of the places where the lowest value is taken."""
    return [
        LowestRow(
            x=p.x, value=p.value, interval=p.interval, value_interval=p.value_interval, evidence=p.evidence,
            kind="end" if p.kind == "end" else "global", exact=None if p.exact is None else str(p.exact), at_end=p.kind == "end",
        )
        for p in found.places
    ]  # fmt: skip


def tell_lowest(found: Lowest, noun: str, variable: str, low: float, high: float) -> FindingDraft:
    """The lowest (highest) value of a window, with every place where it is taken."""
    rows = lowest_rows(found)
    span = f"from {format_short(low)} to {format_short(high)}"
    way = "falls" if noun == "lowest" else "rises"
    method = f"branch and bound with ball arithmetic; {found.boxes} boxes looked at"
    if not found.places:
        if found.unbounded is not None:
            at = f"next to {variable} = {format_short(found.unbounded, 4)}"
            return FindingDraft(
                [], "checked", True, f"There is none: it {way} without bound {at}.", method, list(found.notes), variable=variable
            )
        summary = f"Not settled: no bound of the values {span} was found."
        return FindingDraft([], "open", False, summary, method, list(found.notes), variable=variable)
    evidence: Evidence = weakest([p.evidence for p in found.places] + ([] if found.complete else ["checked"]))
    first = found.places[0]
    places = ", ".join(format_short(p.x) for p in found.places[:4]) + (" and more" if len(found.places) > 4 else "")
    where = f"at {variable} = {places}" + (", an end of the window" if first.kind == "end" and len(found.places) == 1 else "")
    beyond = "below" if noun == "lowest" else "above"
    summary = f"The {noun} value {span} is {format_short(first.value)}, {where}"
    summary += f"; nothing in the window lies {beyond} it." if evidence == "proven" else "."
    return FindingDraft([*rows], evidence, found.complete, summary, method, list(found.notes), boxes=found.boxes, variable=variable)


# ---------------------------------------------------------------- several variables


def _box(request: tree.Request, scope: Evaluator) -> tuple[list[str], list[tuple[Formula, Formula]], Formula, list[Constraint]]:
    names = [w.name for w in request.windows]
    ends = [span_of(w, scope) for w in request.windows]
    inner = scope.within(*names)
    return names, ends, inner.subject(request.subjects[0]), conditions_of(request, inner)


_KINDS: dict[str, tuple[Kind, ...]] = {
    "minima": ("minimum",), "maxima": ("maximum",), "extremes": ("minimum", "maximum", "saddle", "undecided"),
}  # fmt: skip


def several(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """All stationary places of a box with their kind; for more than three variables only the lowest (highest) of all."""
    names, ends, formula, conditions = _box(request, scope)
    noun = request.noun
    if len(names) > MOST_LOCAL:
        return lowest_of_several(request, scope)
    if any(v not in variables(formula) for v in names):
        lost = next(v for v in names if v not in variables(formula))
        raise refusal("unknown-missing", f"the formula does not depend on {lost}", request, advise("leave it out"))
    scanned = False
    try:
        try:
            found = stationary_places(formula, names, ends, conditions)
        except NotSearchable:
            if len(names) != 2 or conditions or not any(isinstance(n, Apply) and n.entry.category == "interpolated" for n in walk(formula)):
                raise
            found, scanned = scanned_places(formula, names, ends), True
        for what, sign in (("minimum", 1), ("maximum", -1)):
            if not scanned and (noun == "extremes" or noun == ("minima" if sign > 0 else "maxima")):
                found = _overall(found, formula, names, ends, conditions, what, sign)
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    wanted = _KINDS[noun]
    found = replace(found, places=[p for p in found.places if p.kind in wanted])
    if not found.complete and noun != "extremes" and not any(p.overall for p in found.places):
        told, value = lowest_of_several(request, scope)
        told.notes.append(f"only the {'lowest' if noun == 'minima' else 'highest'} value was sought to the end; there may be other {noun}")
        return told, value
    certificates: list[dict[str, Any]] = []
    if not scanned and not conditions:
        rows = [_place_row(names, p) for p in found.places]
        found, certificates = graded_several(request, scope, formula, names, ends, wanted, found, rows)
    elif conditions:
        found, certificates = _best_under_conditions(request, scope, names, ends, formula, conditions, found)
    places = found.places
    rows = [_place_row(names, p) for p in places]
    evidence: Evidence = weakest(
        [p.evidence for p in places] + ([] if found.complete else ["open"]) + ([] if found.covered else ["checked"])
    )
    notes = list(dict.fromkeys(found.notes))
    notes += [f"{_named(names, p)} lies on the border {p.border}" for p in places[:6] if p.border]
    if conditions:
        notes.append("where " + " and ".join(k.said for k in conditions))
    method = f"interval Newton steps on the gradient, on the box and on each of its borders; {found.boxes} boxes looked at"
    if scanned:
        method = f"signs of both slopes on two grids, {found.boxes} places, then Newton's method; on the border by bisection"
    told = FindingDraft(
        [*rows], evidence, found.complete, _several_summary(noun, names, places, found), method, notes, variable=names[0],
        variables=tuple(names), certificates=certificates,
    )  # fmt: skip
    return told, _several_value(noun, names, places)


def _best_under_conditions(
    request: tree.Request, scope: Evaluator, names: list[str], ends: list[tuple[Formula, Formula]], formula: Formula,
    conditions: list[Constraint], found: Landscape,
) -> tuple[Landscape, list[dict[str, Any]]]:  # fmt: skip
    """The lowest and highest of all places with their proof under conditions; of the others, and that there are no more, there is none."""
    certificates: list[dict[str, Any]] = []
    places = []
    for k, p in enumerate(found.places):
        proof = None
        if p.overall and p.evidence == "proven":
            proof = proof_of_lowest_of_several(
                request, scope, formula, names, ends, conditions, p.kind == "maximum", [_place_row(names, p)]
            )
            certificates += [{**part, "first": k} for part in part_of(proof, 1) if proof.whole]
        sure = proof is not None and proof.whole
        places.append(p if sure else replace(p, evidence=weakest([p.evidence, "checked"])))
    return replace(found, places=places, covered=False), certificates


def _overall(
    found: Landscape, formula: Formula, names: list[str], ends: Sequence[tuple[Formula, Formula]], conditions: list[Constraint], what: Any,
    sign: int,
) -> Landscape:  # fmt: skip
    if found.complete:
        marked = with_overall(found, what, None, sign)
        if any(p.overall and p.kind == what for p in marked.places) or not any(p.kind == what for p in marked.places):
            return marked
    bounds: Bounds | None = None
    try:
        met = [p.values for p in found.places if p.kind == what]
        bounds = least_value(formula if sign > 0 else c.minus(formula), names, ends, conditions, met)
    except NotSearchable:
        pass
    return with_overall(found, what, bounds, sign)


def _named(names: list[str], p: Stationary) -> str:
    return "(" + ", ".join(f"{n} = {format_short(v)}" for n, v in zip(names, p.values, strict=True)) + ")"


def _place_row(names: list[str], p: Stationary) -> PlaceRow:
    kind = "global" if p.overall else {"minimum": "local", "maximum": "local"}.get(p.kind, p.kind)
    return PlaceRow(
        place=dict(zip(names, p.values, strict=True)), intervals={n: _known(i) for n, i in zip(names, p.intervals, strict=True)},
        value=p.value, value_interval=_known(p.value_interval), evidence=p.evidence, what=p.kind,
        kind="end" if p.border and not p.overall and kind == "local" else kind, border=p.border, at_end=bool(p.border), overall=p.overall,
    )  # fmt: skip


def _several_summary(noun: str, names: list[str], places: list[Stationary], found: Landscape) -> str:
    counts = {k: sum(p.kind == k for p in places) for k in ("minimum", "maximum", "saddle", "undecided")}
    plural = {"minimum": "minima", "maximum": "maxima", "saddle": "saddles", "undecided": "places whose kind is not decided"}
    singular = {"undecided": "place whose kind is not decided"}
    said = [f"{count_word(n)} {singular.get(k, k) if n == 1 else plural[k]}" for k, n in counts.items() if n]
    if not said:
        said = [f"no {noun}"]
    proven = found.complete and found.covered and all(p.evidence == "proven" for p in places)
    head = ("exactly " if proven and places else "") + " and ".join(said)
    for word, what in (("lowest", "minimum"), ("highest", "maximum")):
        best = [p for p in places if p.overall and p.kind == what]
        if best:
            head += f"; the {word} value is {format_short(best[0].value)}, at " + ", ".join(_named(names, p) for p in best[:2])
            head += " and more" if len(best) > 2 else ""
    if not found.complete:
        head += f"; {found.unsettled} part{'s' if found.unsettled != 1 else ''} of the box not settled"
    return head[:1].upper() + head[1:] + "."


def _several_value(noun: str, names: list[str], places: list[Stationary]) -> FindingValue:
    parts = {n: tuple(FoundPlace(p.values[k], _known(p.intervals[k]), p.evidence) for p in places) for k, n in enumerate(names)}
    heights = tuple(FoundPlace(p.value, _known(p.value_interval), p.evidence) for p in places)
    return FindingValue(noun, heights, {**parts, "value": heights})


def _known(interval: tuple[str, str]) -> tuple[str, str] | None:
    return interval if interval[0] else None


def lowest_of_several(request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, Value]:
    """The lowest (highest) value in a box: several methods, then a certificate that nothing lies beyond."""
    names, ends, formula, conditions = _box(request, scope)
    highest = request.noun in ("highest", "maxima")
    try:
        answer = _LowestOfSeveral(request, scope, names, ends, formula, conditions, -1 if highest else 1).answer()
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    notes = answer.notes + (["where " + " and ".join(k.said for k in conditions)] if conditions else [])
    proven = answer.evidence == "proven"
    at = ", ".join(f"{n} = {format_short(v)}" for n, v in zip(names, answer.spots[0], strict=True))
    tail = f"; nothing in the box lies {'above' if highest else 'below'} it." if proven else "."
    summary = f"The {'highest' if highest else 'lowest'} value is {format_short(answer.value)}, at {at}{tail}"
    told = FindingDraft(
        [*answer.rows], answer.evidence, proven, summary, answer.method, notes, variable=names[0], variables=tuple(names),
        certificates=answer.certificates,
    )  # fmt: skip
    heights = (FoundPlace(answer.value, answer.interval, answer.evidence),)
    parts = {n: tuple(FoundPlace(p[k], None, answer.evidence) for p in answer.spots) for k, n in enumerate(names)}
    return told, FindingValue(request.noun, heights, {**parts, "value": heights})


@dataclass
class _Answer:
    """spots: the places, in numbers."""

    rows: list[PlaceRow]
    value: float
    interval: tuple[str, str] | None
    spots: list[tuple[float, ...]]
    evidence: Evidence
    method: str
    notes: list[str] = field(default_factory=list)
    certificates: list[dict[str, Any]] = field(default_factory=list)


@dataclass(frozen=True)
class _LowestOfSeveral:
    """sign: -1 for the highest value, which is the lowest of the formula's negative."""

    request: tree.Request
    scope: Evaluator
    names: list[str]
    ends: list[tuple[Formula, Formula]]
    formula: Formula
    conditions: list[Constraint]
    sign: int

    @property
    def goal(self) -> Formula:
        return c.minus(self.formula) if self.sign < 0 else self.formula

    def answer(self) -> _Answer:
        # On the border of a condition the methods stop a little beside it; there the candidates are worked out first.
        exact = self._candidates() if self.conditions else None
        if exact is not None:
            places = exact.places
            return self._shown([p.values for p in places], self.sign * places[0].value, BY_CANDIDATES) or self._by_candidates(exact)
        found = lowest_of_many(self.goal, self.names, self.ends, self.conditions)
        method = f"{', '.join(found.agreeing)} agree" if len(found.agreeing) > 1 else found.agreeing[0]
        shown = self._shown(found.places, self.sign * found.value, method)
        if shown is not None:
            return shown
        exact = None if self.conditions else self._candidates()
        return self._by_candidates(exact) if exact is not None else self._searched(found, method)

    def _shown(self, places: list[tuple[float, ...]], value: float, method: str) -> _Answer | None:
        """What a certificate proves, as closely as it can; None where there is none."""
        # What was found on a border, or among many variables, is not as close to the truth.
        for room in ROOMS if self.conditions or len(self.names) > MOST_LOCAL else ROOMS[:1]:
            interval = _around(value, room)
            rows = self._rows(places, value, "proven", interval)
            proof = proof_of_lowest_of_several(
                self.request, self.scope, self.formula, self.names, self.ends, self.conditions, self.sign < 0, rows
            )
            if proof.whole:
                method += f"; {proof.verdict.boxes} parts of the box shown to keep {'below' if self.sign < 0 else 'above'} it"
                return _Answer(rows, value, interval, places, "proven", method, certificates=part_of(proof, len(rows)))
        return None

    def _searched(self, found: FoundLowest, method: str) -> _Answer:
        """What several methods have found, and what is known besides."""
        rows = self._rows(found.places, self.sign * found.value, found.evidence, None)
        notes = []
        bounds = bounds_of_many(self.goal, self.names, self.ends, self.conditions, found)
        if bounds is not None and bounds.low > float("-inf"):
            beyond, bound = "above" if self.sign < 0 else "below", format_short(self.sign * bounds.low)
            notes.append(f"branch and bound: nothing lies {beyond} {bound}; between that and the value found nothing is shown")
        if found.evidence == "open":
            notes.append(f"only one method found this value: {found.agreeing[0]}")
        return _Answer(rows, self.sign * found.value, None, found.places, found.evidence, method, notes)

    def _rows(self, places: list[tuple[float, ...]], value: float, evidence: Evidence, interval: tuple[str, str] | None) -> list[PlaceRow]:
        what = "minimum" if self.sign > 0 else "maximum"
        unknown = dict.fromkeys(self.names)  # no interval of the place is known
        return [
            PlaceRow(
                place=dict(zip(self.names, place, strict=True)), intervals=unknown, value=value, value_interval=interval,
                evidence=evidence, kind="global", overall=True, what=what,
            )
            for place in places
        ]  # fmt: skip

    def _candidates(self) -> Landscape | None:
        """The places of the lowest value, if all candidates are known (up to three variables)."""
        if len(self.names) > MOST_LOCAL or any(v not in variables(self.goal) for v in self.names):
            return None
        try:
            found = stationary_places(self.goal, self.names, self.ends, self.conditions)
        except NotSearchable:
            return None
        if not found.complete:
            return None
        chosen = [p for p in with_overall(found, "minimum", None, 1).places if p.overall]
        return replace(found, places=chosen) if chosen else None

    def _by_candidates(self, found: Landscape) -> _Answer:
        kind: Kind = "minimum" if self.sign > 0 else "maximum"
        sign = self.sign
        found = replace(
            found,
            places=[replace(p, kind=kind, value=sign * p.value, value_interval=_turned(p.value_interval, sign)) for p in found.places],
        )
        certificates: list[dict[str, Any]] = []
        if not self.conditions:
            rows = [_place_row(self.names, p) for p in found.places]
            found, certificates = graded_several(self.request, self.scope, self.formula, self.names, self.ends, (), found, rows)
        places = found.places
        return _Answer(
            [_place_row(self.names, p) for p in places], places[0].value, places[0].value_interval, [p.values for p in places],
            weakest(p.evidence for p in places), BY_CANDIDATES,
            [f"{_named(self.names, p)} lies on the border {p.border}" for p in places[:3] if p.border], certificates,
        )  # fmt: skip


BY_CANDIDATES = "all candidates inside and on the borders found by interval Newton steps; none lies beyond"
ROOMS = (1e-13, 1e-9)  # of its size: how closely the lowest value is said, as far as that can be shown


def _around(value: float, room: float) -> tuple[str, str]:
    """An interval around a value; the doubles are moved outwards by one of them, so that they hold what is bounded."""
    width = room * max(abs(value), 1e-3)
    return repr(nextafter(value - width, -inf)), repr(nextafter(value + width, inf))


def _turned(interval: tuple[str, str], sign: int) -> tuple[str, str]:
    if sign > 0:
        return interval
    low, high = (t[1:] if t.startswith("-") else t if t == "0" else f"-{t}" for t in reversed(interval))
    return low, high
