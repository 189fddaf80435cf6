"""What requests have in common: the window of a search, names without a value, digits that are asked for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from ..formula import catalogue as c
from ..formula.certain import enclosure, fraction_text
from ..formula.domain import clip, end_value, stated_domain
from ..formula.exact import rational
from ..formula.inexact import rests_on_doubles
from ..formula.nodes import Formula, Given, Number, variables, walk
from ..formula.tape import Tape
from ..language import tree
from ..language.messages import Message, Refused, advise, replace
from ..language.shapes import conjuncts, is_infinite, unwrapped
from ..numerics.extrema.stationary import Constraint
from ..numerics.roots.refine import bits_for, certain_digits
from ..record.notation import format_number, format_short
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .findings import FindingDraft
from .values import FindingValue, Scalar, Value

MOST_DIGITS = 1_000
Progress = Callable[[tree.Node, int], None]


@dataclass(frozen=True, slots=True)
class SearchWindow:
    """The window of a search, narrowed to the domains that definitions state, with the formula freed from them."""

    formula: Formula
    variable: str
    low: Formula
    high: Formula
    notes: list[str]

    @property
    def ends(self) -> tuple[float, float]:
        return end_value(self.low), end_value(self.high)


def variable_of(item: tree.Expression, scope: Evaluator) -> str:
    """The one name without a value; the checker has seen to it that there is just one."""
    called = {id(n.function) for n in tree.walk(item) if isinstance(n, tree.Call)}
    for node in tree.walk(item):
        known = isinstance(node, tree.Name) and (scope.names.has(node.name) or node.name in c.ENTRIES or node.name == "gap")
        if isinstance(node, tree.Name) and id(node) not in called and not known:
            return node.name
    raise refusal("no-variable", "this has no variable", item, advise("for x from LOW to HIGH"))


def free_variables(request: tree.Request, scope: Evaluator) -> tuple[str, ...]:
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


# ---------------------------------------------------------------- windows


def end_of(e: tree.Expression, scope: Evaluator) -> Formula:
    """An end of a span as a formula; it may be infinite."""
    if is_infinite(e):
        infinity = c.constant("infinity")
        return c.minus(infinity) if isinstance(unwrapped(e), tree.Negative) else infinity
    return scope.number(e).formula


def span_of(window: tree.Window, scope: Evaluator) -> tuple[Formula, Formula]:
    """Both ends of a window, which must rise; either may be infinite."""
    assert window.low is not None
    assert window.high is not None
    if not (is_infinite(window.low) or is_infinite(window.high)):
        low, high = scope.span(window.low, window.high, "the window")
        return low.formula, high.formula
    ends = end_of(window.low, scope), end_of(window.high, scope)
    if end_value(ends[0]) < end_value(ends[1]):
        return ends
    turned = f"{scope.text[window.high.start : window.high.end]} to {scope.text[window.low.start : window.low.end]}"
    text = f"the window runs from {said_end(ends[0])} to {said_end(ends[1])}; it must rise"
    raise Refused(
        Message("error", "window", window.low.start, window.high.end, text, (replace(window.low.start, window.high.end, turned),))
    )


def said_end(end: Formula) -> str:
    return format_number(end_value(end))


def window_of(
    request: tree.Request, formula_of: Callable[[Evaluator], Formula], scope: Evaluator, what: str, ready: bool = False
) -> SearchWindow:
    """The formula of a request with its variable and span, clipped to its domain. Raises Refused where there is no span.

    ready: the units in the formula have been looked at
    """
    window = request.windows[0] if request.windows else None
    variable = window.name if window else variable_of(request.subjects[0], scope)
    inner = scope.within(variable)
    formula = formula_of(inner) if ready else inner.whole(formula_of(inner), request)
    notes: list[str] = []
    if window is not None and window.low is not None and window.high is not None:
        clipped = clip(formula, variable, *span_of(window, scope))
        if clipped.narrowed:
            notes.append("the definition states a domain; the window was narrowed to it")
    else:
        stated = stated_domain(formula, variable)
        if stated is None and request.option("near") is not None:
            # The nearest one is sought everywhere.
            infinity = c.constant("infinity")
            stated = (c.minus(infinity), infinity)
        if stated is None:
            raise refusal("window-needed", f"say where the {what} are sought", request)
        clipped = clip(formula, variable, *stated)
    notes += [beyond_data(*span) for span in clipped.beyond]
    if clipped.empty:
        raise refusal("outside-domain", "the window lies outside the domain that the definition states", request)
    if variable not in variables(clipped.formula):
        notes.append(f"the formula does not depend on {variable}")
    return SearchWindow(clipped.formula, variable, clipped.low, clipped.high, notes)


def beyond_data(low: float, high: float) -> str:
    """What is to be said where a window goes further than the data of a function in it."""
    return f"the data go from {format_number(low)} to {format_number(high)}; what lies beyond is extrapolated"


def conditions_of(request: tree.Request, scope: Evaluator) -> list[Constraint]:
    """What stands after `where`, as formulas that must not be above 0."""
    option = request.option("where")
    if option is None:
        return []
    assert isinstance(option.value, tree.Expression)
    found = []
    for part in conjuncts(option.value):
        assert isinstance(part, tree.Comparison)
        for left, right, sign in zip(part.operands, part.operands[1:], part.signs, strict=False):
            one, other = scope.formula(left), scope.formula(right)
            said = f"{scope.text[left.start : left.end]} {sign} {scope.text[right.start : right.end]}"
            both = scope.coherent(c.subtract(one, other), option)[0]
            difference = both if sign in ("<", "<=", "=") else c.minus(both)
            found.append(Constraint(difference, said, sign in ("<", ">"), sign == "="))
    return found


# ---------------------------------------------------------------- digits


def digits_of(request: tree.Request | tree.Show, scope: Evaluator) -> int | None:
    """How many digits are asked for; None where that is not said."""
    option = next((o for o in request.options if o.name == "digits"), None)
    if option is None or not isinstance(option.value, tree.Expression):
        return None
    said = scope.number(option.value)
    if said.value != int(said.value) or not 1 <= said.value <= MOST_DIGITS:
        raise refusal(
            "digits", f"digits are a whole number from 1 to {MOST_DIGITS}, not {format_short(said.value)}", option, advise("digits 50")
        )
    return int(said.value)


def digits_text(formula: Formula, digits: int) -> str | None:
    """The value of a formula without variables in so many certain digits; None where it cannot be enclosed."""
    exact = rational(formula)
    if exact is not None and not (10**digits) % exact.denominator:
        text = fraction_text(exact, digits, -1)
        if Fraction(text) == exact:
            return text  # it ends
    bits = bits_for(digits) + 64
    for _ in range(4):
        ball = enclosure(Tape([formula], []), bits)
        if ball is None or not ball.is_finite():
            return None
        if ball.is_zero():
            return "0"
        text = certain_digits(ball, digits)
        if sum(ch.isdigit() for ch in text.lstrip("-0.")) >= digits or ball.rad() == 0 or _rests_on_intervals(formula):
            return text
        bits *= 2
    return certain_digits(ball, digits)


def _rests_on_intervals(formula: Formula) -> bool:
    return any(isinstance(n, Given) for n in walk(formula))


def digits_at(formula: Formula, variable: str, ball: Any, digits: int) -> str | None:
    """The value of a formula at a place that is known as a narrow ball."""
    value = enclosure(Tape([formula], [variable]), bits_for(digits) + 64, ball)
    return None if value is None or not value.is_finite() else certain_digits(value, digits)


def show_digits(told: FindingDraft, value: Value, statement: tree.Show, scope: Evaluator) -> None:
    """`show …, digits 50` of numbers: those digits that are certain, and no others."""
    digits = digits_of(statement, scope)
    if digits is None:
        return
    numbers: list[Formula] = []
    if isinstance(value, Scalar) and not value.gap:
        numbers = [value.formula]
    elif isinstance(value, FindingValue):
        numbers = [p.formula or (Number(p.exact) if p.exact is not None else Given(p.value, p.interval)) for p in value.places]
    said = []
    for k, number in enumerate(numbers):
        text = None if rests_on_doubles(number) else digits_text(number, digits)
        if text:
            told.amend(k, digits={"value": text})
            said.append(text)
    if said:
        told.summary = ", ".join(said)
    if len(said) < len(numbers) or not numbers:
        told.notes.append("what rests on floating-point numbers has about 15 certain digits, not more")
