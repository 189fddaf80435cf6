"""Requests for solutions: of equations, exact where that can be, and of inequalities, as spans."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from ..formula import catalogue as c
from ..formula.certain import certain_value, enclosure
from ..formula.domain import clip
from ..formula.exact import NotExact, from_sympy, is_exactly_zero
from ..formula.forms import form_of, text_of_form
from ..formula.nodes import Apply, Formula, Number, substitute, variables
from ..formula.tape import Tape
from ..formula.typeset import name_tex, tex
from ..language import tree
from ..language.messages import advise
from ..language.shapes import is_condition
from ..numerics.evidence import Evidence, weakest
from ..numerics.proving.covers import Proof
from ..numerics.proving.identities import prove_everything, prove_put_back
from ..numerics.roots.equations import Proposed, propose
from ..numerics.roots.pieces import Place
from ..numerics.roots.refine import certain_digits
from ..numerics.roots.regions import HeldRegion, HeldSpan, region_of
from ..numerics.roots.search import NotSearchable
from ..numerics.roots.systems import Solution, box_of, solve_system
from ..record.notation import format_number, format_short
from ..record.rows import FamilyRow, Interval, RootRow, Row, SolutionRow, SpanRow, StretchRow
from .answers import answers
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .findings import FindingDraft, count_word, number_latex, root_value, roots_finding
from .proofs import FOUND_OTHERS, graded_region, graded_roots, graded_system, part_of, proof_of_solutions
from .search_window import Progress, SearchWindow, digits_of, digits_text, free_variables, span_of
from .searching import more_digits, searched
from .values import FindingValue, FoundPlace, Value

UNCONFIRMED = "what algebra proposed could not be confirmed"
SYSTEM_REACH = 10  # the same for each unknown of a system


@answers("solution")
def solution(request: tree.Request, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    """Equations by algebra or by search, inequalities as spans. Raises Refused."""
    unknowns = tuple(w.name for w in request.windows)
    if any(is_condition(s) for s in request.subjects):
        return _inequalities(request, scope)
    free = free_variables(request, scope)
    inner = scope.within(*free)
    equations = []
    for subject in request.subjects:
        equation = subject.inner if isinstance(subject, tree.Group) else subject
        if isinstance(equation, tree.Comparison):
            pairs = zip(equation.operands, equation.operands[1:], strict=False)
            equations += [inner.whole(c.subtract(inner.formula(a), inner.formula(b)), equation) for a, b in pairs]
        else:
            raise refusal("equation-needed", "an equation is needed here", subject, advise("... = 0"))
    solver = _EquationSolver(request, scope, unknowns, equations, free, progress)
    return solver.solve()


class _EquationSolver:
    def __init__(
        self, request: tree.Request, scope: Evaluator, unknowns: tuple[str, ...], equations: list[Formula], free: tuple[str, ...],
        progress: Progress,
    ) -> None:  # fmt: skip
        self.request, self.scope, self.unknowns, self.equations, self.progress = request, scope, unknowns, equations, progress
        self.parameters = tuple(v for v in free if v not in unknowns)
        self.spans: dict[str, tuple[Formula, Formula]] = {}
        for window in request.windows:
            if window.low is not None and window.high is not None:
                self.spans[window.name] = span_of(window, scope)
        self.notes: list[str] = []
        if self.parameters:
            names = ", ".join(self.parameters)
            one = len(self.parameters) == 1
            self.notes.append(f"{names} {'has' if one else 'have'} no value and {'is' if one else 'are'} carried through")

    def solve(self) -> tuple[FindingDraft, Value]:
        window = self.spans.get(self.unknowns[0]) if len(self.unknowns) == 1 else None
        proposed = propose(self.equations, self.unknowns, window)
        if proposed.kind == "finite":
            found = self._finite(proposed)
            if found is not None:
                return found
            proposed = Proposed("unknown", why=UNCONFIRMED)
        if proposed.kind == "unknown":
            return self._numeric(proposed.why)
        what = ", ".join(self.unknowns)
        if proposed.kind == "none":
            return self._none(proposed) or self._numeric(UNCONFIRMED)
        if proposed.kind == "everything":
            everywhere = prove_everything(self.equations)
            evidence: Evidence = "proven" if everywhere.whole else "checked"
            told, value = self._said([], f"Every {what} is a solution.", "solved by algebra", True, evidence)
            told.certificates = part_of(everywhere, 0)
            return told, value
        self.notes.append(
            "say a window, for example " + f"for {self.unknowns[0]} from 0 to 10, to have those that lie in it"
            if len(self.unknowns) == 1
            else ""
        )
        self.notes = [n for n in self.notes if n]
        return self._said(
            [FamilyRow(family=proposed.family)], f"Infinitely many solutions: {proposed.family}.", "solved by algebra", True, "checked"
        )

    def _none(self, proposed: Proposed) -> tuple[FindingDraft, Value] | None:
        """That there is no solution, by algebra; None where the search found one."""
        proof = self._proof(proposed, [])
        if proof is not None and proof.why == FOUND_OTHERS:
            return None
        window = self.spans.get(self.unknowns[0]) if len(self.unknowns) == 1 else None
        low, high = ("", "") if window is None else (format_short(certain_value(end).value) for end in window)
        where = "" if window is None else f" from {low} to {high}"
        evidence: Evidence = "proven" if proof is not None and proof.whole else "checked"
        told, value = self._said([], f"No real solution{where}.", "solved by algebra", True, evidence)
        told.certificates = [] if proof is None else part_of(proof, 0)
        return told, value

    def _proof(self, proposed: Proposed, rows: Sequence[Row]) -> Proof | None:
        """The proof of what algebra proposed, with FOUND_OTHERS as its reason where the search found more; None where there is nothing of
        the kind: letters are left, or it is no linear system."""
        one = len(self.unknowns) == len(self.equations) == 1
        if self.parameters or not (one or (proposed.linear and not self.spans)):
            return None
        return proof_of_solutions(
            self.request, self.scope, self.equations, self.unknowns, self.spans.get(self.unknowns[0]) if one else None, rows
        )

    def _said(
        self, rows: Sequence[Row], summary: str, method: str, complete: bool, evidence: Evidence, value: FindingValue | None = None,
        latex: str | None = None,
    ) -> tuple[FindingDraft, Value]:  # fmt: skip
        graded = [row if row.evidence is not None else replace(row, evidence=evidence) for row in rows]
        told = FindingDraft(
            graded, evidence, complete, summary, method, self.notes, latex, variable=self.unknowns[0], variables=self.unknowns
        )  # fmt: skip
        return told, value or FindingValue("solution", ())

    # ------------------------------------------------------------ exact

    def _finite(self, proposed: Proposed) -> tuple[FindingDraft, Value] | None:
        rows: list[SolutionRow] = []
        solved: list[dict[str, Formula]] = []
        places: dict[str, list[FoundPlace]] = {u: [] for u in self.unknowns}
        latex: list[str] = []
        kept = 0
        for answer in proposed.solutions:
            formulas = {u: self._as_formula(e) for u, e in answer.items()}
            if any(f is None for f in formulas.values()):
                return None
            grade = self._confirmed({u: f for u, f in formulas.items() if f is not None})
            if grade is None:
                continue  # put back, it is no solution: as x = 1 of sqrt(x) = -1 is none
            place: dict[str, float | str] = {}
            interval: Interval | None = None
            exact: dict[str, str] = {}
            outside = False
            for unknown, e in answer.items():
                formula = formulas[unknown]
                assert formula is not None
                form = form_of(e)
                exact[unknown] = form[0] if form else text_of_form(e)
                index = f"_{{{kept + 1}}}" if len(proposed.solutions) > 1 else ""
                latex.append(f"{name_tex(unknown)}{index} = {form[1] if form else tex(formula)}")
                if self.parameters and variables(formula):
                    place[unknown] = exact[unknown]
                    continue
                number = certain_value(formula)
                if number.exact is None or number.exact.denominator > 1:
                    latex[-1] += f" = {number_latex(number.value, 7)}"
                span = self.spans.get(unknown)
                if span is not None and not certain_value(span[0]).value <= number.value <= certain_value(span[1]).value:
                    outside = True
                place[unknown] = number.value
                interval = number.interval if len(self.unknowns) == 1 else None
                sure = grade if number.proven else "checked"
                places[unknown].append(FoundPlace(number.value, number.interval, sure, number.exact, formula))
            if outside:
                for unknown in self.unknowns:
                    places[unknown].pop()
                del latex[-len(self.unknowns) :]
                continue
            said_exactly = exact[self.unknowns[0]] if len(self.unknowns) == 1 else exact
            rows.append(SolutionRow(place=place, exact=said_exactly, interval=interval, evidence=grade))
            solved.append({u: f for u, f in formulas.items() if f is not None})
            kept += 1
        if not rows:
            return None if len(self.unknowns) > 1 and not proposed.linear else self._none(proposed)
        proof = self._proof(proposed, rows)
        if proof is not None and proof.why == FOUND_OTHERS:
            return None
        others: Evidence = "proven" if proof is not None and proof.whole else "checked"
        if others != "proven":
            confirmed = prove_put_back(self.equations, self.unknowns, solved, [row.as_record() for row in rows])
            proof = confirmed if proof is None or sum(confirmed.verdict.proven) > sum(proof.verdict.proven) else proof
        assert proof is not None
        rows = [
            replace(row, evidence="proven" if ok else weakest([row.evidence or "open", "checked"]))
            for row, ok in zip(rows, proof.verdict.proven, strict=True)
        ]
        evidence = weakest([*(r.evidence or "open" for r in rows), others])
        if others != "proven":
            self.notes.append("each solution is confirmed; that there are no others rests on the algebra system")
        said = "; ".join(", ".join(f"{u} = {self._number_said(r, u)}" for u in self.unknowns) for r in rows[:6]) + (
            "; …" if len(rows) > 6 else ""
        )
        summary = f"{count_word(len(rows)).capitalize()} solution{'s' if len(rows) != 1 else ''}: {said}."
        parts = {u: tuple(p) for u, p in places.items()}
        first = parts[self.unknowns[0]]
        if len(self.unknowns) == 1:
            parts["x"] = first
        value = FindingValue("solution", first, parts)
        method = "solved by algebra; each solution put back and confirmed"
        told, shown = self._said(rows, summary, method, True, evidence, value, r",\quad ".join(latex[:8]))
        told.certificates = part_of(proof, len(rows))
        return told, shown

    def _number_said(self, row: SolutionRow, unknown: str) -> str:
        assert row.exact is not None
        exact = row.exact if isinstance(row.exact, str) else row.exact[unknown]
        value = row.place[unknown]
        if isinstance(value, str):
            return exact
        return (
            exact
            if exact == f"{value:g}" or len(exact) > 30
            else f"{exact} = {format_short(value)}"
            if "/" in exact or not exact.lstrip("-").isdigit()
            else exact
        )

    def _as_formula(self, expression: Any) -> Formula | None:
        """A SymPy expression as a formula of ours."""
        try:
            return from_sympy(expression)
        except NotExact:
            return None

    def _confirmed(self, values: dict[str, Formula]) -> Evidence | None:
        """Put a solution back into every equation: proven zero, zero to 60 digits, or none."""
        grade: Evidence = "proven"
        for equation in self.equations:
            left = substitute(equation, values)
            if is_exactly_zero(left) is True:
                continue
            if variables(left):
                grade = "checked"  # letters are left: only algebra could tell
                continue
            ball = enclosure(Tape([left], []), 256)
            if ball is None or not ball.is_finite() or not ball.contains(0) or float(ball.rad()) > 1e-30:
                return None
            grade = "checked"
        return grade

    # ------------------------------------------------------------ numeric

    def _numeric(self, why: str) -> tuple[FindingDraft, Value]:
        if self.parameters:
            names = ", ".join(self.parameters)
            raise refusal(
                "no-solution-by-algebra",
                f"{why}, and {names} without a value cannot be computed with",
                self.request,
                advise(f"{self.parameters[0]} = ..."),
            )
        if len(self.unknowns) == 1 and len(self.equations) == 1:
            return self._one_numeric(why)
        return self._several_numeric(why)

    def _one_numeric(self, why: str) -> tuple[FindingDraft, Value]:
        unknown = self.unknowns[0]
        infinity = c.constant("infinity")
        low, high = self.spans.get(unknown, (c.minus(infinity), infinity))
        clipped = clip(self.equations[0], unknown, low, high)
        window = SearchWindow(clipped.formula, unknown, clipped.low, clipped.high, [])
        found, more = searched(self.request, window, self.scope, self.progress)
        found, certificates = graded_roots(self.request, self.scope, window, found)
        told = roots_finding(found, unknown, *window.ends, words=("solution", "solutions"))
        more_digits(told, self.request, self.scope, found.roots, unknown)
        notes = [f"{why}; solved numerically", *told.notes, *more]
        complete, evidence = told.complete, told.evidence
        rows: list[Row] = [_as_solution(row, unknown) for row in told.values]
        value = root_value(found, unknown, "solution")
        return FindingDraft(
            rows, evidence, complete, told.summary, told.method, notes, None, told.boxes, unknown, (unknown,), certificates=certificates
        ), value

    def _several_numeric(self, why: str) -> tuple[FindingDraft, Value]:
        """All solutions in the windows, each proven to be alone in its intervals."""
        if len(self.equations) != len(self.unknowns):
            raise refusal("equations", f"{why}; there are {len(self.equations)} equations for {len(self.unknowns)} unknowns", self.request)
        reach = Number(Fraction(SYSTEM_REACH))
        ends = [self.spans.get(u) or (c.minus(reach), reach) for u in self.unknowns]
        try:
            found = solve_system(self.equations, self.unknowns, box_of(ends), found=lambda n: self.progress(self.request, n))
        except NotSearchable as reason:
            raise refusal("not-searchable", str(reason), self.request) from None
        rows = [self._solution_row(s) for s in found.solutions]
        found, certificates = graded_system(self.request, self.scope, self.equations, list(self.unknowns), ends, found, rows)
        rows = [self._solution_row(s) for s in found.solutions]
        complete = found.complete and found.covered
        notes = [f"{why}; solved numerically"]
        if any(u not in self.spans for u in self.unknowns):
            missing = [u for u in self.unknowns if u not in self.spans]
            notes.append(
                f"sought with {', '.join(missing)} from −{SYSTEM_REACH} to {SYSTEM_REACH} only; "
                f"say windows to look elsewhere: for {missing[0]} from LOW to HIGH"
            )
            complete = False
        for box in found.unsettled[:3]:
            at = ", ".join(f"{u} = {format_short(float(x.mid()), 6)}" for u, x in zip(self.unknowns, box, strict=True))
            notes.append(
                f"near {at} the equations touch or run side by side; whether there is a solution, or more than one, was not settled"
            )
        self.notes += notes
        evidence: Evidence = weakest(
            [s.evidence for s in found.solutions] + (["open"] if not found.complete else []) + (["checked"] if not complete else [])
        )
        n = len(found.solutions)
        where = ", ".join(
            f"{u} from {format_short(certain_value(a).value)} to {format_short(certain_value(b).value)}"
            for u, (a, b) in zip(self.unknowns, ends, strict=True)
        )
        head = f"{'Exactly ' if found.complete and n else ''}{count_word(n)} solution{'s' if n != 1 else ''} with {where}"
        if not found.complete:
            head = f"{count_word(n)} solution{'s' if n != 1 else ''} found with {where}; not settled whether there are others"
        said = "; ".join(
            ", ".join(f"{u} = {format_short(v)}" for u, v in zip(self.unknowns, s.values, strict=True)) for s in found.solutions[:4]
        )
        summary = f"{head[:1].upper()}{head[1:]}{': ' + said if said else ''}{'; …' if n > 4 else ''}."
        parts = {
            u: tuple(FoundPlace(s.values[k], s.intervals[k], s.evidence) for s in found.solutions) for k, u in enumerate(self.unknowns)
        }
        value = FindingValue("solution", parts[self.unknowns[0]], parts)
        method = f"interval Newton steps with ball arithmetic; {found.boxes} boxes looked at"
        told, shown = self._said(rows, summary, method, complete, evidence, value)
        told.certificates = certificates
        return told, shown

    def _solution_row(self, s: Solution) -> SolutionRow:
        digits = digits_of(self.request, self.scope)
        said = None
        if digits is not None:
            said = {u: certain_digits(b, min(digits, 50)) for u, b in zip(self.unknowns, s.balls, strict=True)}
        return SolutionRow(
            place=dict(zip(self.unknowns, s.values, strict=True)), intervals=dict(zip(self.unknowns, s.intervals, strict=True)),
            evidence=s.evidence, doubt=s.doubt, digits=said,
        )  # fmt: skip


def _as_solution(row: Row, unknown: str) -> SolutionRow:
    """A zero of the difference of both sides as a solution."""
    if isinstance(row, StretchRow):
        return SolutionRow(place={unknown: row.x}, x_high=row.x_high, evidence=row.evidence, kind=row.kind)
    assert isinstance(row, RootRow)
    return SolutionRow(
        place={unknown: row.x}, interval=row.interval, evidence=row.evidence, kind=row.kind, multiplicity=row.multiplicity,
        residual=row.residual, exact=row.exact, at_end=row.at_end, doubt=row.doubt, standard_error=row.standard_error, digits=row.digits,
    )  # fmt: skip


# ---------------------------------------------------------------- inequalities


def _inequalities(request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, Value]:
    """The spans of one unknown in which all conditions hold."""
    window = request.windows[0]
    unknown = window.name
    inner = scope.within(unknown)
    condition: Formula = Apply(c.CONDITIONS["true"], ())
    for subject in request.subjects:
        condition = Apply(c.CONDITIONS["and"], (condition, inner.whole(inner.condition(subject), subject)))
    infinity = c.constant("infinity")
    low, high = span_of(window, scope) if window.low is not None else (c.minus(infinity), infinity)
    try:
        found = region_of(condition, unknown, low, high)
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    digits = digits_of(request, scope)
    rows = [_span_row(s, found, digits) for s in found.spans]
    found, certificates = graded_region(request, scope, condition, unknown, low, high, found, rows)
    said = [_span_said(s, unknown) for s in found.spans]
    if not said:
        summary = "It holds nowhere." if not found.unsettled else "No span found in which it holds."
    elif len(said) == 1 and said[0] == "":
        summary = f"It holds for every {unknown}."
    else:
        summary = f"It holds for {' or '.join(said[:6])}{' or …' if len(said) > 6 else ''}."
    notes = []
    if found.unsettled:
        where = ", ".join(f"{format_number(s.low, 6)} to {format_number(s.high, 6)}" for s in found.unsettled[:3])
        notes.append(f"not settled: {where}")
    method = "ends from proven zeros of the differences of both sides; between them the sign of one value"
    told = FindingDraft([*rows], found.evidence, not found.unsettled, summary, method, notes, variable=unknown, certificates=certificates)
    told.graded(found.evidence)
    lows = tuple(_end_place(s.low, found.evidence) for s in found.spans)
    highs = tuple(_end_place(s.high, found.evidence) for s in found.spans)
    return told, FindingValue("solution", lows, {"low": lows, "high": highs})


def _end_place(place: Place, evidence: Evidence) -> FoundPlace:
    if abs(place.x) == float("inf"):
        return FoundPlace(place.x, None, evidence)
    at = certain_value(place.formula)
    return FoundPlace(at.value, at.interval, evidence, at.exact)


@dataclass(frozen=True)
class _SpanEnd:
    """An end of a span: its place, whether it belongs to it, an interval that holds it and its quotient."""

    x: float | None
    belongs: bool
    interval: Interval | None = None
    exact: str | None = None
    digits: str | None = None


def _end(place: Place, belongs: bool, digits: int | None) -> _SpanEnd:
    if abs(place.x) == float("inf"):
        return _SpanEnd(None, False)
    at = certain_value(place.formula)
    quotient = str(at.exact) if at.exact is not None and at.exact.denominator > 1 else None
    return _SpanEnd(place.x, belongs, at.interval, quotient, None if digits is None else digits_text(place.formula, digits))


def _span_row(span: HeldSpan, region: HeldRegion, digits: int | None) -> SpanRow:
    low, high = _end(span.low, span.low_in, digits), _end(span.high, span.high_in, digits)
    said = {n: e.digits for n, e in (("low", low), ("high", high)) if e.x is not None}
    return SpanRow(
        kind="span", evidence=region.evidence, low=low.x, low_belongs=low.belongs, low_interval=low.interval, low_exact=low.exact,
        high=high.x, high_belongs=high.belongs, high_interval=high.interval, high_exact=high.exact,
        digits=said if digits is not None and said else None,
    )  # fmt: skip


def _span_said(span: HeldSpan, unknown: str) -> str:
    """`x < −2`, `−2 < x ≤ 3`, `x = 1`; nothing for all numbers."""
    low, high = span.low.x, span.high.x
    if low == high:
        return f"{unknown} = {format_short(low)}"
    endless = abs(low) == float("inf"), abs(high) == float("inf")
    if all(endless):
        return ""
    if endless[0]:
        return f"{unknown} {'≤' if span.high_in else '<'} {format_short(high)}"
    if endless[1]:
        return f"{unknown} {'≥' if span.low_in else '>'} {format_short(low)}"
    return f"{format_short(low)} {'≤' if span.low_in else '<'} {unknown} {'≤' if span.high_in else '<'} {format_short(high)}"
