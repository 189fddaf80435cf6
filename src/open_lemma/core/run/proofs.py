"""The grade *proven*: what the verifier confirms of a finding's certificate, and nothing else.

A search says what it has found; its certificate is made and checked here. Rows that it proves are proven, what it does not confirm is
graded down and told to the log as a fault of ours, with the hash of the statement and never the statement itself.
"""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

from ..certificate.record import claims
from ..certificate.rows import Verdict
from ..formula import catalogue as c
from ..formula.certain import fraction_text
from ..formula.nodes import Formula, Given
from ..formula.units import Unit
from ..language import tree
from ..numerics.evidence import Evidence, weakest
from ..numerics.extrema.lowest import Lowest
from ..numerics.extrema.stationary import Constraint, Ends, Kind, Landscape
from ..numerics.extrema.turning import Extremum, Turns, What
from ..numerics.fitting.fit import Fit
from ..numerics.integrals.integrals import Integral
from ..numerics.interpolation.curves import InterpolatedCurve
from ..numerics.limits_and_sums.limits import Limit
from ..numerics.limits_and_sums.sums import Sum
from ..numerics.proving.covers import (
    Proof,
    around,
    checked,
    prove_again,
    prove_inflections,
    prove_lowest,
    prove_roots,
    prove_spans,
    prove_turns,
    prove_value,
    searched,
    unseen_roots,
)
from ..numerics.proving.fits import kept, prove_curve, prove_fit
from ..numerics.proving.identities import prove_truth
from ..numerics.proving.several import prove_extremes_of_several, prove_lowest_of_several
from ..numerics.proving.systems import prove_linear, prove_system
from ..numerics.roots.infinite_intervals import find_roots_anywhere
from ..numerics.roots.regions import HeldRegion
from ..numerics.roots.search import NotSearchable, Roots
from ..numerics.roots.systems import Solved
from ..record.rows import ExtremumRow, Interval, LimitRow, Row, ValueRow
from .evaluate.evaluator import Evaluator
from .findings import FindingDraft, root_rows
from .fit_findings import fit_finding
from .search_window import SearchWindow
from .values import FindingValue, Scalar, TruthValue, Value

log = logging.getLogger("open_lemma.proofs")
UNCONFIRMED = "the verifier did not confirm this"
FOUND_OTHERS = "the search found others"
NOT_SEEN = "found by rule or by algebra; the verifier did not see it to be equal"
FAULTS_TOLD = 3  # to the log, of one statement
COUNTING_BUDGET = 4_000  # boxes to look at where solutions are only counted
CLOSE = Fraction(1, 2**70)  # of a number that is known exactly, and whose proof is none of that
_INTERVALS = ("interval", "value_interval", "low_interval", "high_interval")
ROUNDED = 1e-12  # how far, of its size, a number may be off that went through doubles


def _why(proof: Proof) -> str:
    return f"not proven: {proof.why}" if proof.certificate is None and proof.why else UNCONFIRMED


def _graded(evidence: Evidence, proven: bool) -> Evidence:
    return "proven" if proven else weakest([evidence, "checked"])


def _near(request: tree.Request, scope: Evaluator) -> Formula | None:
    """The place to which the nearest one is sought."""
    option = request.option("near")
    return scope.number(option.value).formula if option is not None and isinstance(option.value, tree.Expression) else None


def in_part(proof: Proof) -> Proof:
    """A proof of a part of the window alone: of the rows, and of nothing about the rest."""
    return replace(proof, verdict=replace(proof.verdict, complete=False))


def _logged(request: tree.Request, scope: Evaluator, proof: Proof, claimed: int) -> None:
    """A claim of ours that the verifier did not confirm."""
    if claimed and not proof.whole and proof.certificate is not None:
        _log(scope.text[request.start : request.end], request.noun, proof)


def _log(statement: str, noun: str, proof: Proof) -> None:
    digest = hashlib.sha256(statement.encode()).hexdigest()[:16]
    why = proof.why or "; ".join(proof.verdict.faults[:FAULTS_TOLD]) or "not all is covered"
    log.warning("not confirmed: statement %s, %s: %s", digest, noun, why)


def checked_at_best(told: FindingDraft, rounded: list[str]) -> FindingDraft:
    """What rests on numbers that went through doubles: intervals are widened to what such numbers are good for, and nothing is proven."""
    told.values = [_rounded(row) for row in told.values]
    told.evidence = weakest([told.evidence, "checked"])
    told.certificates = []
    names = ", ".join(dict.fromkeys(n for n in rounded if n != "a number")) or "a number in it"
    told.notes.append(f"{names} went through floating-point numbers, so nothing that rests on it is proven")
    return told


def _rounded(row: Row) -> Row:
    """A row that rests on numbers that went through doubles."""
    wide: dict[str, Any] = {k: _widened(getattr(row, k)) for k in _INTERVALS if getattr(row, k, None) is not None}
    return replace(row, evidence="checked" if row.evidence == "proven" else row.evidence, **wide)


def _widened(interval: Interval) -> Interval:
    low, high = (float(v) for v in interval)
    slack = ROUNDED * max(abs(low), abs(high), ROUNDED)
    return repr(low - slack), repr(high + slack)


def _plain(rows: Iterable[Row]) -> list[dict[str, Any]]:
    """Rows as the verifier reads them: as the record has them."""
    return [row.as_record() for row in rows]


def part_of(proof: Proof, rows: int) -> list[dict[str, Any]]:
    """The certificate as a finding keeps it: with the rows that it speaks of."""
    return [] if proof.certificate is None else [{"first": 0, "rows": rows, **proof.certificate}]


def graded_fit(found: Fit, units: dict[str, Unit], of: str, statement: str) -> tuple[Fit, FindingDraft]:
    """A fit as the verifier confirms it, and what is said of it, with the certificate."""
    told = fit_finding(found, units, of)
    if found.evidence != "proven":
        return found, told
    proof = prove_fit(found, told.values[0].as_record())
    if proof.whole and proof.certificate is not None:
        told.certificates = part_of(replace(proof, certificate=kept(proof.certificate)), 1)
        return found, told
    if proof.refused:
        _log(statement, "fit", proof)
    found = replace(found, evidence="checked", enclosures=[None] * len(found.enclosures))
    told = fit_finding(found, units, of)
    told.notes.append(_why(proof))
    return found, told


def graded_curve(told: FindingDraft, curve: InterpolatedCurve, points: list[tuple[Fraction, Fraction]], statement: str) -> FindingDraft:
    """A curve through points as the verifier confirms it, with the certificate."""
    if told.evidence != "proven":
        return told
    proof = prove_curve(curve, points, told.values[0].as_record())
    if proof.whole and proof.certificate is not None:
        told.certificates = part_of(replace(proof, certificate=kept(proof.certificate)), 1)
        return told
    _log(statement, "interpolation", proof)
    told.graded("checked")
    return told


def graded_value(told: FindingDraft, value: Value, statement: str) -> FindingDraft:
    """A number as the verifier confirms it, with the certificate. Of lists, texts, and numbers that a list or a long formula gave, there
    is none: these are exact as they stand."""
    row = told.values[0] if len(told.values) == 1 else None
    if isinstance(value, TruthValue):
        return graded_truth(told, value, statement)
    if isinstance(value, FindingValue):
        return _graded_places(told, value)
    if not (isinstance(value, Scalar) and value.proven and isinstance(row, ValueRow) and row.interval is not None):
        return told
    proof = prove_value(value.formula, row.as_record())
    if proof.refused and len(set(row.interval)) == 1:
        wide = replace(row, interval=_about(Fraction(row.interval[0]), CLOSE))
        other = prove_value(value.formula, wide.as_record())
        if other.whole:
            told.values, proof = [wide], other
            told.notes.append("that it is this number exactly is known by algebra; the proof says between what it lies")
    if proof.whole:
        told.certificates = part_of(proof, 1)
    elif proof.refused:
        _log(statement, "value", proof)
        told.graded("checked")
    return told


def graded_formula(told: FindingDraft, prove: Callable[[dict[str, Any]], Proof] | None) -> None:
    """A formula that was found as the verifier confirms it, with the certificate. What it does not see to be equal is checked: identities
    are not decided by it, so that this is no fault."""
    if told.evidence != "proven":
        return
    proof = None if prove is None else prove(told.values[0].as_record())
    if proof is not None and proof.whole:
        told.certificates = part_of(proof, 1)
    else:
        told.graded("checked")
        told.notes.append(NOT_SEEN)


def graded_truth(told: FindingDraft, value: TruthValue, statement: str) -> FindingDraft:
    """Whether a condition holds as the verifier confirms it, with the certificate. Of texts and of gaps there is none."""
    if not value.proven or value.condition is None:
        return told
    proof = prove_truth(value.condition, told.values[0].as_record())
    if proof.whole:
        told.certificates = part_of(proof, 1)
        return told
    if proof.refused:
        _log(statement, "condition", proof)
    told.graded("checked")
    return told


def _graded_places(told: FindingDraft, value: FindingValue) -> FindingDraft:
    """Numbers of a finding that are shown again: each with the certificate of what it is, or of the interval that the finding shows."""
    rows: list[Row] = []
    for k, (row, place) in enumerate(zip(told.values, value.places, strict=True)):
        proof = None
        if row.evidence == "proven" and place.interval is not None:
            proof = prove_value(place.formula or Given(place.value, place.interval), row.as_record())
            told.certificates += [{**part, "first": k} for part in part_of(proof, 1) if proof.whole]
        rows.append(replace(row, evidence=_graded(row.evidence or "open", proof is not None and proof.whole)))
    told.values = rows
    told.evidence = weakest(row.evidence or "open" for row in rows)
    return told


def held_to_its_proof(told: FindingDraft) -> FindingDraft:
    """No row of a finding is proven but by a certificate, which only the verifier confirms; of what claims nothing see `claims`."""
    if told.evidence != "proven" and not any(row.evidence == "proven" for row in told.values):
        return told
    shown = {k for part in told.certificates for k in range(part["first"], part["first"] + part["rows"])}
    bare = [k for k, row in enumerate(told.values) if k not in shown and row.evidence == "proven" and claims(row.shape, row.as_record())]
    if bare or (told.evidence == "proven" and not told.certificates and not told.values):
        told.values = [replace(row, evidence="checked") if k in bare else row for k, row in enumerate(told.values)]
        told.evidence = weakest([told.evidence, "checked"])
    return told


def graded_roots(request: tree.Request, scope: Evaluator, window: SearchWindow, found: Roots) -> tuple[Roots, list[dict[str, Any]]]:
    """Roots as the verifier confirms them, and those that only the cover found, with the certificate."""
    near = _near(request, scope)
    low, high = window.low, window.high
    if near is not None and found.roots:
        low, high = around(near, found.roots[0].x, low, high)
    rows = _plain(root_rows(found))
    proof = prove_roots(window.formula, window.variable, low, high, found, rows)
    unseen = unseen_roots(window.formula, window.variable, proof) if near is None else []
    if unseen:
        found = replace(found, roots=sorted([*found.roots, *unseen], key=lambda r: r.x))
        rows = _plain(root_rows(found))
        proof = prove_again(proof, rows[: len(found.roots)])
    inside = searched(low, high, found.unsettled) if not proof.whole else None
    if inside is not None:
        proof = in_part(prove_roots(window.formula, window.variable, *inside, found, rows))
    _logged(request, scope, proof, sum(r.evidence == "proven" for r in found.roots) + found.complete)
    roots = [
        replace(r, evidence=_graded(r.evidence, ok), doubt="" if ok else r.doubt or (_why(proof) if r.evidence == "proven" else ""))
        for r, ok in zip(found.roots, proof.verdict.proven, strict=True)
    ]  # fmt: skip
    whole = proof.whole and not found.flat
    graded = replace(found, roots=roots, unsettled=[] if whole else found.unsettled, covered=whole)
    return graded, part_of(proof, len(roots))


def graded_turns(
    request: tree.Request, scope: Evaluator, window: SearchWindow, found: Turns, kinds: frozenset[What]
) -> tuple[Turns, list[dict[str, Any]]]:
    """Minima and maxima as the verifier confirms them, with the certificate."""

    def proven(turns: Turns, low: Formula, high: Formula, inner: bool = False) -> Proof:
        rows = _plain(turn_row(p) for p in turns.places)
        return prove_turns(window.formula, window.variable, low, high, turns.places, turns.others, kinds, rows, inner, turns.unsettled)

    near = _near(request, scope)
    if near is not None and found.places:
        proof = proven(found, *around(near, found.places[0].x, window.low, window.high), True)
    else:
        proof = proven(found, window.low, window.high)
    if proof.whole and near is None and not any(p.overall for p in found.places):
        # The search did not see the end of it and the cover did: which is the lowest of all can be said now.
        marked = replace(found, places=with_overall(found.places))
        other = proven(marked, window.low, window.high)
        found, proof = (marked, other) if other.whole else (found, proof)
    inside = searched(window.low, window.high, found.unsettled) if not proof.whole and near is None else None
    if inside is not None:
        proof = in_part(proven(found, *inside, True))
    return _confirmed(request, scope, found, proof)


def graded_inflections(request: tree.Request, scope: Evaluator, window: SearchWindow, found: Turns) -> tuple[Turns, list[dict[str, Any]]]:
    """Inflections as the verifier confirms them, with the certificate."""
    near = _near(request, scope)
    low, high = around(near, found.places[0].x, window.low, window.high) if near is not None and found.places else (window.low, window.high)
    proof = _inflections(window, low, high, found)
    # A value at an irrational place that algebra knows more closely than the certificate can: that tells between what it lies.
    exact = [not ok and _closer_than_told(p) for p, ok in zip(found.places, proof.verdict.proven, strict=True)]
    if any(exact):
        places = [
            replace(p, value_interval=_about(Fraction(p.value), Fraction(1, 2**60))) if e else p
            for p, e in zip(found.places, exact, strict=True)
        ]
        other = _inflections(window, low, high, replace(found, places=places))
        if sum(other.verdict.proven) > sum(proof.verdict.proven):
            found, proof = replace(found, places=places), other
    inside = searched(low, high, found.unsettled) if not proof.whole else None
    if inside is not None:
        proof = in_part(_inflections(window, *inside, found))
    return _confirmed(request, scope, found, proof)


def _confirmed(request: tree.Request, scope: Evaluator, found: Turns, proof: Proof) -> tuple[Turns, list[dict[str, Any]]]:
    """The places with the grades that a proof gives them, and the certificate."""
    _logged(request, scope, proof, sum(p.evidence == "proven" for p in found.places) + found.complete)
    places = [replace(p, evidence=_graded(p.evidence, ok)) for p, ok in zip(found.places, proof.verdict.proven, strict=True)]
    graded = replace(found, places=places, unsettled=[] if proof.whole else found.unsettled, covered=proof.whole)
    return graded, part_of(proof, len(places))


def _inflections(window: SearchWindow, low: Formula, high: Formula, found: Turns) -> Proof:
    return prove_inflections(window.formula, window.variable, low, high, found, _plain(turn_row(p) for p in found.places))


def _closer_than_told(p: Extremum) -> bool:
    low, high = (Fraction(v) for v in p.value_interval)
    return high - low < Fraction(1, 2**90) * max(abs(low), Fraction(1, 2**10))


def _about(value: Fraction, room: Fraction) -> tuple[str, str]:
    """An interval around a number, so wide as a share of its size."""
    width = room * max(abs(value), Fraction(1, 2**10))
    return fraction_text(value - width, 22, -1), fraction_text(value + width, 22, 1)


def with_overall(places: list[Extremum]) -> list[Extremum]:
    """The places with the lowest of the minima and the highest of the maxima marked."""
    best = {what: min((sign * p.value for p in places if p.what == what), default=None) for what, sign in (("minimum", 1), ("maximum", -1))}
    return [replace(p, overall=(1 if p.what == "minimum" else -1) * p.value == best.get(p.what)) for p in places]


def turn_row(p: Extremum) -> ExtremumRow:
    """The row of a minimum, a maximum or an inflection."""
    end = p.shape == "end"
    return ExtremumRow(
        x=p.x, value=p.value, interval=p.interval, value_interval=p.value_interval, evidence=p.evidence, what=p.what, how=p.shape,
        kind="end" if end else "inflection" if p.what == "inflection" else "global" if p.overall else "local",
        exact=None if p.exact is None else str(p.exact), at_end=end, overall=p.overall, x_high=p.x_high,
    )  # fmt: skip


def lowest_of_turns(request: tree.Request, certificates: list[dict[str, Any]], rows: Sequence[Row]) -> list[dict[str, Any]] | None:
    """The certificate of all minima as one of the lowest of them, which are the rows; None where it does not prove that."""
    part = certificates[0]
    claim = {k: v for k, v in part.items() if k not in ("first", "rows", "kinds")}
    claim |= {"claim": request.noun}
    proof = checked(claim, _plain(rows))
    return part_of(proof, len(rows)) if proof.whole or (rows and all(proof.verdict.proven)) else None


def graded_lowest(
    request: tree.Request, scope: Evaluator, window: SearchWindow, found: Lowest, rows: Sequence[Row]
) -> tuple[Lowest, list[dict[str, Any]]]:
    """The lowest (highest) value as the verifier confirms it, with the certificate."""
    proof = prove_lowest(window.formula, window.variable, window.low, window.high, request.noun == "highest", _plain(rows))
    _logged(request, scope, proof, sum(p.evidence == "proven" for p in found.places))
    places = [replace(p, evidence=_graded(p.evidence, ok)) for p, ok in zip(found.places, proof.verdict.proven, strict=True)]
    return replace(found, places=places, complete=bool(places) and all(proof.verdict.proven)), part_of(proof, len(places))


def graded_system(
    request: tree.Request, scope: Evaluator, equations: list[Formula], unknowns: list[str], ends: list[tuple[Formula, Formula]],
    found: Solved, rows: Sequence[Row],
) -> tuple[Solved, list[dict[str, Any]]]:  # fmt: skip
    """Solutions of a system as the verifier confirms them, with the certificate. Nothing is graded in `rows`."""
    proof = prove_system(equations, unknowns, ends, found, _plain(rows))
    _logged(request, scope, proof, sum(s.evidence == "proven" for s in found.solutions) + found.complete)
    graded = [
        replace(s, evidence=_graded(s.evidence, ok) if ok or s.evidence == "proven" else s.evidence, doubt="" if ok else s.doubt)
        for s, ok in zip(found.solutions, proof.verdict.proven, strict=True)
    ]
    return replace(found, solutions=graded, unsettled=[] if proof.whole else found.unsettled, covered=proof.whole), part_of(
        proof, len(rows)
    )


def proof_of_lowest_of_several(
    request: tree.Request, scope: Evaluator, formula: Formula, names: list[str], ends: Ends, conditions: list[Constraint], highest: bool,
    rows: Sequence[Row],
) -> Proof:  # fmt: skip
    """The proof that no value of a box lies beyond those of the rows; a claim of ours that fails in the verifier is told to the log."""
    proof = prove_lowest_of_several(formula, names, ends, conditions, highest, _plain(rows))
    _logged(request, scope, proof, 1)
    return proof


def graded_several(
    request: tree.Request, scope: Evaluator, formula: Formula, names: list[str], ends: Ends, kinds: Sequence[Kind], found: Landscape,
    rows: Sequence[Row],
) -> tuple[Landscape, list[dict[str, Any]]]:  # fmt: skip
    """The places of a box as the verifier confirms them, with the certificate. Nothing is graded in `rows`."""
    proof = prove_extremes_of_several(formula, names, ends, kinds, found, _plain(rows))
    _logged(request, scope, proof, sum(p.evidence == "proven" for p in found.places))
    places = [replace(p, evidence=_graded(p.evidence, ok)) for p, ok in zip(found.places, proof.verdict.proven, strict=True)]
    unsettled = 0 if proof.whole else found.unsettled
    return replace(found, places=places, unsettled=unsettled, covered=proof.whole), part_of(proof, len(rows))


def proof_of_solutions(
    request: tree.Request, scope: Evaluator, equations: list[Formula], unknowns: tuple[str, ...], span: tuple[Formula, Formula] | None,
    rows: Sequence[Row],
) -> Proof:  # fmt: skip
    """The proof that what algebra proposed are all solutions: of one equation by a cover, of linear ones by elimination."""
    if len(unknowns) > 1:
        return prove_linear(equations, unknowns, _plain(rows))
    low, high = span or (c.minus(c.constant("infinity")), c.constant("infinity"))
    try:
        found = find_roots_anywhere(equations[0], unknowns[0], low, high, COUNTING_BUDGET)
    except NotSearchable as reason:
        return Proof(None, Verdict([False] * len(rows), False), str(reason))
    if len(found.roots) != len(rows) or found.flat:
        more = found.flat or sum(r.evidence == "proven" for r in found.roots) > len(rows)
        return Proof(None, Verdict([False] * len(rows), False), FOUND_OTHERS if more else "the search did not find them all")
    proof = prove_roots(equations[0], unknowns[0], low, high, found, _plain(rows))
    _logged(request, scope, proof, 1)
    return proof


def graded_limit(request: tree.Request, scope: Evaluator, found: Limit, rows: Sequence[LimitRow]) -> tuple[list[Row], list[dict[str, Any]]]:
    """Rows of a limit as the verifier confirms them, and the certificates; sides without a limit have none."""
    parts: list[dict[str, Any]] = []
    graded: list[Row] = []
    each = [(k, rows[k : k + 1], (side,)) for k, side in enumerate(found.sides)]
    told = [(0, rows[:1], (*found.sides, *found.valueless))] if len(rows) == 1 else each
    for first, mine, sides in told:
        said = [s.certificate for s in sides]
        grade = weakest(s.evidence for s in sides)
        if all(c is not None for c in said):
            whole = {**said[0], "sides": [way for c in said for way in c["sides"]]}  # type: ignore[dict-item, index]
            proof = checked(whole, _plain(mine))
            _logged(request, scope, proof, 1)
            grade = _graded(grade, proof.whole)
            parts += [{"first": first, "rows": 1, **whole}] if proof.whole else []
        elif grade == "proven":
            grade = "checked"
        graded += [replace(row, evidence=grade) for row in mine]
    return graded, parts


def graded_sum(request: tree.Request, scope: Evaluator, found: Sum, row: Row) -> tuple[Sum, list[dict[str, Any]]]:
    """A sum or a product as the verifier confirms it, with the certificate."""
    if found.certificate is None:
        return replace(found, evidence=_graded(found.evidence, False)), []
    proof = checked(found.certificate, [row.as_record()])
    _logged(request, scope, proof, 1)
    return replace(found, evidence=_graded(found.evidence, proof.whole)), part_of(proof, 1)


def graded_integral(
    request: tree.Request, scope: Evaluator, found: Integral, row: Row
) -> tuple[Integral, list[dict[str, Any]]]:  # fmt: skip
    """An integral, or a mean value, as the verifier confirms it, with the certificate."""
    if found.certificate is None:
        return replace(found, evidence=_graded(found.evidence, False)), []
    proof = checked(found.certificate, [row.as_record()])
    _logged(request, scope, proof, 1)
    ball = found.ball if proof.whole else None
    return replace(found, evidence=_graded(found.evidence, proof.whole), ball=ball), part_of(proof, 1)


def graded_certificate(
    request: tree.Request, scope: Evaluator, certificate: dict[str, Any] | None, evidence: Evidence, row: Row
) -> tuple[Evidence, list[dict[str, Any]]]:
    """The grade of one row as the verifier confirms it, with the certificate."""
    if certificate is None:
        return _graded(evidence, False), []
    proof = checked(certificate, [row.as_record()])
    _logged(request, scope, proof, 1)
    return _graded(evidence, proof.whole), part_of(proof, 1)


def graded_region(
    request: tree.Request, scope: Evaluator, condition: Any, variable: str, low: Any, high: Any, found: HeldRegion, rows: Sequence[Row]
) -> tuple[HeldRegion, list[dict[str, Any]]]:
    """Spans of a condition as the verifier confirms them, with the certificate."""
    proof = prove_spans(condition, variable, low, high, found.places, _plain(rows))
    _logged(request, scope, proof, found.evidence == "proven")
    whole = proof.whole
    evidence = "proven" if whole else weakest([found.evidence, "checked"])
    return replace(found, evidence=evidence, unsettled=[] if whole else found.unsettled), part_of(proof, len(rows)) if whole else []
