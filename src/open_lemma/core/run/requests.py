"""Requests that compute: each is worked out to what it tells (a finding) and what it is worth (a value)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

from ..formula import catalogue as c
from ..formula.certain import certain_value, enclosure
from ..formula.domain import clip, stated_domain
from ..formula.exact import NotExact, is_exactly_zero, polynomial
from ..formula.forms import form_of, text_of_form
from ..formula.nodes import Formula, Given, Number, substitute, variables
from ..formula.tape import Tape
from ..formula.typeset import name_tex, tex
from ..language import tree
from ..language.messages import advise
from ..language.parser import parse
from ..numerics.equations import Proposed, propose
from ..numerics.evidence import Evidence, weakest
from ..numerics.integrals import NoIntegral, integral_of
from ..numerics.lowest import lowest_value
from ..numerics.roots import NotSearchable, Roots, find_roots
from .findings import (
    Told,
    count_word,
    number_latex,
    root_value,
    tell_derivative,
    tell_integral,
    tell_lowest,
    tell_roots,
    tell_table,
)
from .lower import Lowering, refusal
from .novalue import short
from .values import FindingValue, FoundPlace, FunctionValue, ItemsValue, ListValue, TableValue, Value

SEARCH_REACH = 100  # where solutions are sought if algebra does not find them and no window is said
COUNTING_BUDGET = 4_000  # boxes to look at where solutions are only counted
Progress = Callable[[tree.Node, int], None]


@dataclass(frozen=True, slots=True)
class Window:
    """The window of a search, narrowed to the domains that definitions state, with the formula freed from them."""

    formula: Formula
    variable: str
    low: Formula
    high: Formula
    notes: list[str]

    @property
    def ends(self) -> tuple[float, float]:
        return certain_value(self.low).value, certain_value(self.high).value


def work_out(request: tree.Request, scope: Lowering, progress: Progress) -> tuple[Told, Value]:
    """What a request finds. Raises Refused."""
    return _WORKERS[request.noun](request, scope, progress)


def variable_of(item: tree.Expression, scope: Lowering) -> str:
    """The one name without a value; the checker has seen to it that there is just one."""
    called = {id(n.function) for n in tree.walk(item) if isinstance(n, tree.Call)}
    for node in tree.walk(item):
        known = isinstance(node, tree.Name) and (scope.names.has(node.name) or node.name in c.ENTRIES or node.name == "gap")
        if isinstance(node, tree.Name) and id(node) not in called and not known:
            return node.name
    raise refusal("no-variable", "this has no variable", item, advise("for x from LOW to HIGH"))


# ---------------------------------------------------------------- roots and crossings


def window_of(request: tree.Request, formula_of: Callable[[Lowering], Formula], scope: Lowering, what: str) -> Window:
    window = request.windows[0] if request.windows else None
    variable = window.name if window else variable_of(request.subjects[0], scope)
    formula = formula_of(scope.within(variable))
    notes: list[str] = []
    if window is not None and window.low is not None and window.high is not None:
        low, high = scope.span(window.low, window.high, "the window")
        clipped = clip(formula, variable, low.formula, high.formula)
        if clipped.narrowed:
            notes.append("the definition states a domain; the window was narrowed to it")
    else:
        stated = stated_domain(formula, variable)
        if stated is None:
            raise refusal("window-needed", f"say where the {what} are sought", request)
        clipped = clip(formula, variable, *stated)
    if clipped.empty:
        raise refusal("outside-domain", "the window lies outside the domain that the definition states", request)
    if variable not in variables(clipped.formula):
        notes.append(f"the formula does not depend on {variable}")
    return Window(clipped.formula, variable, clipped.low, clipped.high, notes)


def _searched(request: tree.Request, window: Window, progress: Progress) -> Roots:
    try:
        return find_roots(window.formula, window.variable, window.low, window.high, found=lambda n: progress(request, n))
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None


def _roots(request: tree.Request, scope: Lowering, progress: Progress) -> tuple[Told, Value]:
    window = window_of(request, lambda s: s.formula(request.subjects[0]), scope, "roots")
    found = _searched(request, window, progress)
    told = tell_roots(found, window.variable, *window.ends)
    told.notes.extend(window.notes)
    return told, root_value(found, window.variable)


def _crossings(request: tree.Request, scope: Lowering, progress: Progress) -> tuple[Told, Value]:
    """Where two curves meet: the roots of their difference, with the height at each."""
    first, second = request.subjects
    window = window_of(request, lambda s: c.subtract(s.formula(first), s.formula(second)), scope, "crossings")
    found = _searched(request, window, progress)
    told = tell_roots(found, window.variable, *window.ends, words=("crossing", "crossings"))
    told.notes.extend(window.notes)
    height = scope.within(window.variable).formula(first)
    heights = []
    for row, root in zip(told.values, found.roots, strict=False):
        at: Formula = Number(root.exact) if root.exact is not None else Given(root.x, root.interval)
        high = certain_value(substitute(height, {window.variable: at}))
        row["value"] = high.value
        grade = root.evidence if high.proven else weakest([root.evidence, "checked"])
        heights.append(FoundPlace(high.value, high.interval, grade, high.exact))
    value = root_value(found, window.variable, "crossings")
    return told, FindingValue("crossings", value.places, {**value.parts, "value": tuple(heights), "y": tuple(heights)})


# ---------------------------------------------------------------- lowest, highest, integral


def _lowest(request: tree.Request, scope: Lowering, _: Progress) -> tuple[Told, Value]:
    """The one lowest (highest) value of a window. Used as a number it is that value; `.x` is the place."""
    noun = request.noun
    window = window_of(request, lambda s: s.formula(request.subjects[0]), scope, f"{noun} value")
    try:
        found = lowest_value(window.formula, window.variable, window.low, window.high, highest=noun == "highest")
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    told = tell_lowest(found, noun, window.variable, *window.ends)
    told.notes.extend(window.notes)
    heights = tuple(FoundPlace(p.value, p.value_interval, p.evidence) for p in found.places)
    places = tuple(FoundPlace(p.x, p.interval, p.evidence, p.exact) for p in found.places)
    return told, FindingValue(noun, heights[:1], {"x": places, window.variable: places, "value": heights})


def _integral(request: tree.Request, scope: Lowering, _: Progress) -> tuple[Told, Value]:
    window = window_of(request, lambda s: s.formula(request.subjects[0]), scope, "integral")
    try:
        found = integral_of(window.formula, window.variable, window.low, window.high)
    except NoIntegral as reason:
        raise refusal("no-integral", str(reason), request) from None
    told = tell_integral(found, *window.ends)
    told.notes.extend(window.notes)
    return told, FindingValue("integral", (FoundPlace(found.value, found.interval, found.evidence),))


# ---------------------------------------------------------------- derivative


def _derivative(request: tree.Request, scope: Lowering, _: Progress) -> tuple[Told, Value]:
    """The formula, a function of whatever has no value in it; with `at` all values given, a number."""
    free = free_variables(request, scope)
    local = scope.within(*free)
    formula = local.derivative_of(request)
    variable = request.windows[0].name
    at = request.option("at")
    if not variables(formula) and at is not None:
        value = scope.worked_out(formula, request)
        from .findings import tell_value

        return tell_value(value), value
    subject = tex(local.formula(request.subjects[0]))
    sign = "d" if len(free) == 1 else r"\partial "
    order = request.option("order")
    power = scope.text[order.value.start : order.value.end] if order is not None and isinstance(order.value, tree.Expression) else ""
    raised = f"^{{{power}}}" if power not in ("", "1") else ""
    head = rf"\frac{{{sign}{raised}}}{{{sign}{name_tex(variable)}{raised}}}\,{subject}"
    return tell_derivative(formula, head), FunctionValue("derivative", free, formula, {})


def free_variables(request: tree.Request, scope: Lowering) -> tuple[str, ...]:
    """The variable that is said, and the names without a value in the subject, in the order of the subject."""
    called = {id(n.function) for n in tree.walk(request) if isinstance(n, tree.Call)}
    said = [w.name for w in request.windows]
    found: list[str] = []
    for subject in request.subjects:
        for node in tree.walk(subject):
            if isinstance(node, tree.Name) and id(node) not in called and node.name not in found:
                known = scope.names.has(node.name) or node.name in c.ENTRIES or node.name in scope.variables
                if not known or node.name in said:
                    found.append(node.name)
    return tuple(found + [n for n in said if n not in found])


# ---------------------------------------------------------------- values


def _values(request: tree.Request, scope: Lowering, _: Progress) -> tuple[Told, Value]:
    """A table of values over the list that the variable goes through."""
    window = request.windows[0]
    places = list(scope.elements(window))
    subject = request.subjects[0]
    items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
    listed = tree.ListOf(window.start, window.end, ())
    from .lower import collected

    columns: dict[str, ListValue | ItemsValue] = {}
    variable_column = collected(places, listed)
    assert isinstance(variable_column, ListValue | ItemsValue)
    columns[window.name] = variable_column
    element = tree.Comprehension(subject.start, subject.end, subject, (window,), None)
    for place, item in enumerate(items, 1):
        column = scope.value(tree.Comprehension(element.start, element.end, item, (window,), None))
        assert isinstance(column, ListValue | ItemsValue)
        columns[_column_name(item, columns, place if len(items) > 1 else 0)] = column
    table = TableValue("values", columns)
    return tell_table(table, "floating-point arithmetic, about 15 digits", window.name, "checked"), table


def _column_name(item: tree.Expression, taken: dict[str, Any], place: int) -> str:
    function = item.function if isinstance(item, tree.Call) else None
    name = "value" if not place else f"value_{place}"
    if isinstance(function, tree.Prime) and isinstance(function.function, tree.Name):
        name = function.function.name + "'" * function.order
    elif isinstance(function, tree.Name):
        name = function.name
    while name in taken:
        name += "_"
    return name


# ---------------------------------------------------------------- solution


def _solution(request: tree.Request, scope: Lowering, progress: Progress) -> tuple[Told, Value]:
    unknowns = tuple(w.name for w in request.windows)
    free = free_variables(request, scope)
    inner = scope.within(*free)
    equations = []
    for subject in request.subjects:
        equation = subject.inner if isinstance(subject, tree.Group) else subject
        if isinstance(equation, tree.Comparison):
            equations += [
                c.subtract(inner.formula(a), inner.formula(b)) for a, b in zip(equation.operands, equation.operands[1:], strict=False)
            ]
        else:
            raise refusal("equation-needed", "an equation is needed here", subject, advise("... = 0"))
    solver = _Solver(request, scope, unknowns, equations, free, progress)
    return solver.solve()


class _Solver:
    def __init__(
        self, request: tree.Request, scope: Lowering, unknowns: tuple[str, ...], equations: list[Formula], free: tuple[str, ...],
        progress: Progress,
    ) -> None:  # fmt: skip
        self.request, self.scope, self.unknowns, self.equations, self.progress = request, scope, unknowns, equations, progress
        self.parameters = tuple(v for v in free if v not in unknowns)
        self.spans: dict[str, tuple[Formula, Formula]] = {}
        for window in request.windows:
            if window.low is not None and window.high is not None:
                low, high = scope.span(window.low, window.high, "the window")
                self.spans[window.name] = (low.formula, high.formula)
        self.notes: list[str] = []
        if self.parameters:
            names = ", ".join(self.parameters)
            one = len(self.parameters) == 1
            self.notes.append(f"{names} {'has' if one else 'have'} no value and {'is' if one else 'are'} carried through")

    def solve(self) -> tuple[Told, Value]:
        window = self.spans.get(self.unknowns[0]) if len(self.unknowns) == 1 else None
        proposed = propose(self.equations, self.unknowns, window)
        if proposed.kind == "finite":
            found = self._finite(proposed)
            if found is not None:
                return found
            proposed = Proposed("unknown", why="what algebra proposed could not be confirmed")
        if proposed.kind == "unknown":
            return self._numeric(proposed.why)
        what = ", ".join(self.unknowns)
        if proposed.kind == "none":
            where = "" if window is None else f" from {short(certain_value(window[0]).value)} to {short(certain_value(window[1]).value)}"
            return self._said([], f"No real solution{where}.", "solved by algebra", True, self._none_evidence(proposed))
        if proposed.kind == "everything":
            return self._said([], f"Every {what} is a solution.", "solved by algebra", True, "proven")
        self.notes.append(
            "say a window, for example " + f"for {self.unknowns[0]} from 0 to 10, to have those that lie in it"
            if len(self.unknowns) == 1
            else ""
        )
        self.notes = [n for n in self.notes if n]
        return self._said(
            [{"family": proposed.family}], f"Infinitely many solutions: {proposed.family}.", "solved by algebra", True, "checked"
        )

    def _none_evidence(self, proposed: Proposed) -> Evidence:
        """That there is none is proven for linear systems and for polynomials; else it rests on the algebra system."""
        plain = len(self.unknowns) == 1 and polynomial(self.equations[0], self.unknowns[0]) is not None
        return "proven" if plain or proposed.linear else "checked"

    def _said(
        self, rows: list[dict[str, Any]], summary: str, method: str, complete: bool, evidence: Evidence, value: FindingValue | None = None,
        latex: str | None = None,
    ) -> tuple[Told, Value]:  # fmt: skip
        for row in rows:
            row.setdefault("evidence", evidence)
        told = Told(rows, evidence, complete, summary, method, self.notes, latex, variable=self.unknowns[0])
        return told, value or FindingValue("solution", ())

    # ------------------------------------------------------------ exact

    def _finite(self, proposed: Proposed) -> tuple[Told, Value] | None:
        rows: list[dict[str, Any]] = []
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
            row: dict[str, Any] = {"evidence": grade}
            exact: dict[str, str] = {}
            outside = False
            for unknown, e in answer.items():
                formula = formulas[unknown]
                assert formula is not None
                form = form_of(e)
                exact[unknown] = form[0] if form else text_of_form(e)
                place = f"_{{{kept + 1}}}" if len(proposed.solutions) > 1 else ""
                latex.append(f"{name_tex(unknown)}{place} = {form[1] if form else tex(formula)}")
                if self.parameters and variables(formula):
                    row[unknown] = exact[unknown]
                    continue
                number = certain_value(formula)
                if number.exact is None or number.exact.denominator > 1:
                    latex[-1] += f" = {number_latex(number.value, 7)}"
                span = self.spans.get(unknown)
                if span is not None and not certain_value(span[0]).value <= number.value <= certain_value(span[1]).value:
                    outside = True
                row[unknown] = number.value
                if number.interval is not None and len(self.unknowns) == 1:
                    row["interval"] = list(number.interval)
                sure = grade if number.proven else "checked"
                places[unknown].append(FoundPlace(number.value, number.interval, sure, number.exact, formula))
            if outside:
                for unknown in self.unknowns:
                    places[unknown].pop()
                del latex[-len(self.unknowns) :]
                continue
            row["exact"] = exact[self.unknowns[0]] if len(self.unknowns) == 1 else exact
            rows.append(row)
            kept += 1
        if not rows:
            return (
                None
                if len(self.unknowns) > 1 and not proposed.linear
                else self._said([], "No real solution.", "solved by algebra", True, "checked")
            )
        evidence = weakest([*(r["evidence"] for r in rows), self._all_found(proposed, len(rows))])
        if self._all_found(proposed, len(rows)) != "proven":
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
        return self._said(rows, summary, method, True, evidence, value, r",\quad ".join(latex[:8]))

    def _number_said(self, row: dict[str, Any], unknown: str) -> str:
        exact = row["exact"] if isinstance(row["exact"], str) else row["exact"][unknown]
        value = row[unknown]
        if isinstance(value, str):
            return exact
        return (
            exact
            if exact == f"{value:g}" or len(exact) > 30
            else f"{exact} = {short(value)}"
            if "/" in exact or not exact.lstrip("-").isdigit()
            else exact
        )

    def _all_found(self, proposed: Proposed, count: int) -> Evidence:
        """Linear systems and polynomials have no others: the latter have as many real zeros as were found."""
        if proposed.linear:
            return "proven"
        if len(self.unknowns) > 1 or self.parameters:
            return "checked"
        unknown = self.unknowns[0]
        low, high = self.spans.get(unknown) or self._reach()
        if unknown not in self.spans and polynomial(self.equations[0], unknown) is None:
            return "checked"
        try:
            found = find_roots(self.equations[0], unknown, low, high, COUNTING_BUDGET)
        except NotSearchable:
            return "checked"
        return "proven" if found.complete and not found.flat and len(found.roots) == count else "checked"

    def _reach(self) -> tuple[Formula, Formula]:
        """Where all real zeros of a polynomial lie: Cauchy's bound 1 + max |a_k/a_n|. Else the reach of a numeric search."""
        plain = polynomial(self.equations[0], self.unknowns[0])
        reach = Fraction(SEARCH_REACH)
        if plain is not None and plain.degree() > 0:
            leading = plain[plain.degree()]
            ratios = [abs(plain[k] / leading) for k in range(plain.degree())]
            reach = 1 + max(Fraction(int(r.p), int(r.q)) for r in ratios)
        return Number(-reach), Number(reach)

    def _as_formula(self, expression: Any) -> Formula | None:
        """A SymPy expression read as a formula of ours."""
        try:
            text = text_of_form(expression)
        except NotExact:
            return None
        reading = parse(f"show {text}", c.BUILTINS)
        if reading.messages.has_errors() or len(reading.script.statements) != 1:
            return None
        statement = reading.script.statements[0]
        assert isinstance(statement, tree.Show)
        from .values import Frame

        scope = Lowering(reading.source.text, Frame(), self.scope.request, frozenset(self.parameters))
        return scope.formula(statement.items[0])

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

    def _numeric(self, why: str) -> tuple[Told, Value]:
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

    def _one_numeric(self, why: str) -> tuple[Told, Value]:
        unknown = self.unknowns[0]
        said = self.spans.get(unknown)
        low, high = said if said is not None else self._reach()
        clipped = clip(self.equations[0], unknown, low, high)
        found = _searched(self.request, Window(clipped.formula, unknown, clipped.low, clipped.high, []), self.progress)
        told = tell_roots(
            found, unknown, certain_value(clipped.low).value, certain_value(clipped.high).value, words=("solution", "solutions")
        )
        notes = [f"{why}; solved numerically", *told.notes]
        complete, evidence = told.complete, told.evidence
        if said is None and polynomial(self.equations[0], unknown) is None:
            notes.append(
                f"sought from −{SEARCH_REACH} to {SEARCH_REACH} only; say a window to look elsewhere: for {unknown} from LOW to HIGH"
            )
            complete, evidence = False, weakest([evidence, "checked"])
        rows = [{unknown: row["x"], **{n: v for n, v in row.items() if n not in ("x", "value")}} for row in told.values]
        value = root_value(found, unknown, "solution")
        return Told(rows, evidence, complete, told.summary, told.method, notes, None, told.boxes, unknown), value

    def _several_numeric(self, why: str) -> tuple[Told, Value]:
        """Newton steps from many starts; what they agree on is confirmed by its residual, completeness is not claimed."""
        from scipy.optimize import root

        if len(self.equations) != len(self.unknowns):
            raise refusal("equations", f"{why}; there are {len(self.equations)} equations for {len(self.unknowns)} unknowns", self.request)
        tape = Tape(self.equations, list(self.unknowns))

        def residuals(v: Any) -> Any:
            return np.array([float(r) for r in tape.numeric(*v)])

        lows = np.array([certain_value(self.spans[u][0]).value if u in self.spans else -10.0 for u in self.unknowns])
        highs = np.array([certain_value(self.spans[u][1]).value if u in self.spans else 10.0 for u in self.unknowns])
        random = np.random.Generator(np.random.PCG64(7))
        starts = np.vstack([(lows + highs) / 2, random.uniform(lows, highs, (120, len(lows)))])
        found: list[Any] = []
        for start in starts:
            with np.errstate(all="ignore"):
                result = root(residuals, start, tol=1e-13)
                good = result.success and np.isfinite(result.x).all() and np.abs(residuals(result.x)).max() < 1e-9
            inside = good and (result.x >= lows - 1e-9).all() and (result.x <= highs + 1e-9).all()
            if inside and not any(np.abs(result.x - f).max() < 1e-6 * (1 + np.abs(f).max()) for f in found):
                found.append(result.x)
        found.sort(key=lambda v: tuple(v))
        rows: list[dict[str, Any]] = [
            {**dict(zip(self.unknowns, map(float, v), strict=True)), "residual": float(np.abs(residuals(v)).max()), "evidence": "checked"}
            for v in found
        ]
        where = ", ".join(f"{u} from {short(lo)} to {short(hi)}" for u, lo, hi in zip(self.unknowns, lows, highs, strict=True))
        self.notes += [f"{why}; solved numerically", f"sought from {len(starts)} starts with {where}; there may be more"]
        summary = f"{count_word(len(found)).capitalize()} solution{'s' if len(found) != 1 else ''} found."
        parts = {u: tuple(FoundPlace(float(v[k]), None, "checked") for v in found) for k, u in enumerate(self.unknowns)}
        value = FindingValue("solution", parts[self.unknowns[0]], parts)
        return self._said(rows, summary, "Newton steps from many starts", False, "open", value)


_WORKERS: dict[str, Callable[[tree.Request, Lowering, Progress], tuple[Told, Value]]] = {
    "roots": _roots,
    "crossings": _crossings,
    "lowest": _lowest,
    "highest": _lowest,
    "integral": _integral,
    "derivative": _derivative,
    "values": _values,
    "solution": _solution,
}
