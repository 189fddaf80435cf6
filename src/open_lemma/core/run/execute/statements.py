"""Definitions, `show`, `check`, `compare`, tuned values, notes."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from ...formula.catalogue import ENTRIES, subtract
from ...formula.nodes import Apply
from ...formula.units import NONE
from ...language import tree
from ...language.messages import advise
from ...language.shapes import gives_formula
from ...language.vocabulary import NOUNS
from ...numerics.proving.identities import prove_identity
from ...record.notation import format_short
from ..comparing import compared_fits
from ..evaluate.calls import derived
from ..evaluate.conditions import compare, compared
from ..evaluate.elements import place_number
from ..evaluate.evaluator import Evaluator
from ..evaluate.refusals import refusal
from ..evaluate.units import unit_in
from ..findings import check_finding, reading_tex, reading_text, tell_function, value_finding
from ..fitted_functions import from_data
from ..proofs import graded_formula, graded_truth, graded_value
from ..search_window import show_digits
from ..values import FindingValue, Frame, FunctionValue, ListValue, Scalar, Value
from .blocks import quick_number
from .figures import lone_figure
from .selection import draws
from .state import NOTHING
from .telling import tell_finding

if TYPE_CHECKING:
    from .interpreter import Interpreter


def definition(run: Interpreter, d: tree.Definition, frame: Frame) -> Any:
    """A definition: of a value, a function, or of what a request finds. Raises Refused."""
    if run.loops.depth and d.parameters is None:
        raw = quick_number(run, d.body, frame)
        if raw is not None:
            run.loops.quick[id(d)] = run.loops.quick[id(d.body)]
            frame[d.name] = raw
            run.step(d, frame, {d.name: raw})
            return NOTHING
    scope = run.scope_of(frame)
    if isinstance(d.body, tree.Request) and NOUNS[d.body.noun].gives == "function" and d.parameters is not None:
        told, frame[d.name] = from_data(d.name, d.parameters, d.body, scope)
        tell_finding(run, told, d.body.noun, d, d.name)
    elif isinstance(d.body, tree.Request) and not gives_formula(d.body):
        told, value = run.request(d.body, scope)
        frame[d.name] = value
        run.finding_numbers[d.name] = run.numbers.get(d.start, 0)
        tell_finding(run, told, d.body.noun, d, d.name)
    elif isinstance(d.body, tree.Request) and d.parameters is None:
        told, value = run.request(d.body, scope)
        frame[d.name] = _renamed(value, d.name)
        tell_finding(run, told, d.body.noun, d, d.name)
    elif d.parameters is not None:
        frame[d.name] = _function(d, scope)
    else:
        frame[d.name] = scope.value(d.body)
    run.lost.discard(d.name)
    if not run.loops.depth:
        _reading(run, d.name, frame[d.name], d, isinstance(d.body, tree.Number))
    run.step(d, frame, {d.name: frame[d.name]})
    return NOTHING


def _reading(run: Interpreter, name: str, value: Value, statement: tree.Statement, plain: bool) -> None:
    latex = reading_tex(name, value)
    if latex is not None and not plain and not run.hidden:
        end = statement.end - 1
        run.outcome.readings.append({"line": run.line_of(end), "latex": latex, "text": reading_text(name, value)})


def _function(d: tree.Definition, scope: Evaluator) -> FunctionValue:
    assert d.parameters is not None
    body = scope.within(*d.parameters).formula(d.body)
    domain = {}
    for window in d.domain:
        assert window.low is not None
        assert window.high is not None
        low, high = scope.span(window.low, window.high, "the domain")
        domain[window.name] = (low.formula, high.formula)
    return FunctionValue(d.name, d.parameters, body, domain)


def tune(run: Interpreter, t: tree.Tune, frame: Frame) -> Any:
    """A tuned value with its span. Raises Refused."""
    scope = run.scope_of(frame)
    value = scope.number(t.value)
    low, high = scope.span(t.low, t.high, "the span of a tuned value")
    for e in (t.low, t.high):
        end = scope.number(e)
        # The slider moves the number that stands in the script.
        if (end.unit or NONE).same(value.unit or NONE) or end.unit is None:
            continue
        text = f"the span of a tuned value is said in its own unit, [{value.unit or NONE}]; this is in [{end.unit}]"
        raise refusal("units", text, e, advise(f"[{value.unit}]" if value.unit is not None else "leave the unit out"))
    if not low.value <= value.value <= high.value:
        raise refusal(
            "tune",
            f"{format_short(value.value)} lies outside of the span, {format_short(low.value)} to {format_short(high.value)}",
            t.value,
        )
    frame[t.name] = value
    run.lost.discard(t.name)
    run.step(t, frame, {t.name: value})
    return NOTHING


def note(run: Interpreter, n: tree.Note, frame: Frame) -> Any:
    """Prose for the page."""
    if not run.hidden:
        run.outcome.notes.append({"line": run.line_of(n.start), "text": n.text, **({"part": run.part} if run.part else {})})
    run.step(n, frame, {})
    return NOTHING


def show(run: Interpreter, statement: tree.Show, frame: Frame) -> Any:
    """`show`: a finding for each item."""
    for item in statement.items:
        _show_one(run, item, statement, frame)
    run.step(statement, frame, {})
    return NOTHING


def bare(run: Interpreter, statement: tree.Bare, frame: Frame) -> Any:
    """A line that is an expression: drawn where it is a drawing request, else shown."""
    if draws(statement):
        assert isinstance(statement.expression, tree.Request)
        if run.builder is not None and run.figure_depth == len(run.loops.calls):
            run.builder.draw(statement.expression, run.scope_of(frame))
        else:
            lone_figure(run, statement.expression, frame)
    else:
        _show_one(run, statement.expression, statement, frame)
    run.step(statement, frame, {})
    return NOTHING


def _show_one(run: Interpreter, item: tree.Expression, statement: tree.Statement, frame: Frame) -> None:
    scope = run.scope_of(frame)
    function = item.function if isinstance(item, tree.Prime) else item
    value = frame.find(function.name) if isinstance(function, tree.Name) else None
    if isinstance(item, tree.Request):
        told, value_found = run.request(item, scope)
        if isinstance(statement, tree.Show):
            show_digits(told, value_found, statement, scope)
        tell_finding(run, told, item.noun, statement, None)
    elif isinstance(value, FunctionValue):
        primes = item.order if isinstance(item, tree.Prime) else 0
        body = derived(value, primes, item)
        told = tell_function(value, primes, body)
        if primes:
            along = value.parameters[:1] * primes
            graded_formula(told, lambda row: prove_identity(value.body, along, body, row))
        tell_finding(run, told, "show", statement, None, item)
    else:
        shown = _in_unit(scope, scope.value(item), statement)
        told = graded_value(value_finding(shown), shown, run.text[item.start : item.end])
        if isinstance(statement, tree.Show):
            show_digits(told, shown, statement, scope)
        tell_finding(run, told, "show", statement, None, item)


def _in_unit(scope: Evaluator, value: Value, statement: tree.Statement) -> Value:
    """`show …, unit [km/h]`: the value in that unit. Raises Refused."""
    option = next((o for o in statement.options if o.name == "unit"), None) if isinstance(statement, tree.Show) else None
    if option is None:
        return value
    assert isinstance(option.value, str)
    unit = unit_in(option.value, option)
    if isinstance(value, ListValue):
        return scope.list_in_unit(value, unit, option)
    return scope.in_unit(scope.as_number(value, statement.items[0]), unit, option)  # type: ignore[attr-defined]


def check(run: Interpreter, check: tree.Check, frame: Frame) -> Any:
    """`check`: whether a condition holds, or two numbers are `within` a tolerance. Raises Refused."""
    scope = run.scope_of(frame)
    within = next((o for o in check.options if o.name == "within"), None)
    condition = check.condition
    while isinstance(condition, tree.Group):
        condition = condition.inner
    if within is not None and isinstance(condition, tree.Comparison) and not isinstance(within.value, str):
        left, right = (scope.number(o) for o in condition.operands)
        right = scope.in_unit(right, left.unit, condition.operands[1])
        tolerance = scope.in_unit(scope.number(within.value), left.unit, within)
        if tolerance.value < 0:
            raise refusal("within", f"a tolerance is not negative; this one is {format_short(tolerance.value)}", within)
        away = Apply(ENTRIES["abs"], (subtract(left.formula, right.formula),))
        scope.unit(subtract(subtract(left.formula, right.formula), tolerance.formula), check)
        found = compare(scope.as_scalar(away), tolerance, "<=")
        found = replace(found, apart=compare(left, right, "=").apart)
        said = f"{format_short(left.value)} and {format_short(right.value)} are {format_short(abs(left.value - right.value), 4)} apart"
    elif isinstance(condition, tree.Comparison):
        values = [scope.value(o) for o in condition.operands]
        found = compared(scope, condition, values)
        said = _sides(run, condition, values)
    else:
        found = scope.truth(condition)
        said = run.text[condition.start : condition.end]
    told = graded_truth(check_finding(found, said), found, run.text[check.start : check.end])
    tell_finding(run, told, "check", check, None)
    run.step(check, frame, {})
    return NOTHING


def compare_fits(run: Interpreter, statement: tree.Compare, frame: Frame) -> Any:
    tell_finding(run, compared_fits(statement, run.scope_of(frame)), "compare", statement, None)
    run.step(statement, frame, {})
    return NOTHING


def _sides(run: Interpreter, condition: tree.Comparison, values: list[Value]) -> str:
    """A comparison with the numbers that it compares, for the sentence about it."""
    written = run.text[condition.start : condition.end]
    numbers = [place_number(v.places[0]) if isinstance(v, FindingValue) and len(v.places) == 1 else v for v in values]
    known = [format_short(v.value) for v in numbers if isinstance(v, Scalar)]
    return f"{written}, with {', '.join(known)}" if len(known) == len(values) else written


def _renamed(value: Value, name: str) -> Value:
    if isinstance(value, FunctionValue):
        return FunctionValue(name, value.parameters, value.body, value.domain, value.source)
    return value
