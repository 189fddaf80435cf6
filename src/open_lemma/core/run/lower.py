"""Tree → formula: names are looked up, requests and lists inside are worked out, what is left is mathematics."""

from __future__ import annotations

import operator
from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Any

import numpy as np

from ..formula import catalogue as c
from ..formula.calculus import NoDerivative, derivative
from ..formula.certain import certain_value, enclosure
from ..formula.exact import rational
from ..formula.nodes import Apply, Formula, Given, Named, Number, Variable, substitute, walk
from ..formula.tape import Tape
from ..language import tree
from ..language.kinds import step_message
from ..language.messages import Fix, Message, Refused, advise, replace
from .findings import short
from .values import FindingValue, FunctionValue, ListValue, Scalar, TextValue, TruthValue, Value

MAX_LIST = 5_000_000
MAX_ONE_BY_ONE = 20_000
COMPARE_BITS = 256


def refusal(code: str, text: str, node: tree.Node, *fixes: Fix) -> Refused:
    return Refused(Message("error", code, node.start, node.end, text, tuple(fixes)))


class Lowering:
    """Turns expressions into formulas within a scope.

    text     the script, for fixes that turn its parts around
    names    values by name
    request  works out a request that stands inside a formula
    """

    def __init__(
        self, text: str, names: Mapping[str, Value], request: Callable[[tree.Request], Value], variables: frozenset[str] = frozenset()
    ) -> None:
        self.text, self.names, self.request, self.variables = text, names, request, variables

    def within(self, *variables: str) -> Lowering:
        """The same scope with these names as variables."""
        return Lowering(self.text, self.names, self.request, self.variables | set(variables))

    # ------------------------------------------------------------ values

    def value(self, e: tree.Expression) -> Value:
        """The value of an expression without variables."""
        plain = self._structural(e)
        if plain is not None:
            return plain
        formula = self.formula(e)
        if any(isinstance(n, Given) and np.ndim(n.data) for n in walk(formula)):
            return ListValue(self._list_value(formula, e))
        found = self.as_scalar(formula)
        if not np.isfinite(found.value):
            raise self._no_value(formula, e)
        return found

    def as_scalar(self, formula: Formula) -> Scalar:
        """A number with its formula; NaN where it has no value."""
        found = certain_value(formula)
        return Scalar(formula, found.value, found.exact, found.interval, found.proven)

    def _structural(self, e: tree.Expression) -> Value | None:
        """Values that are no arithmetic: texts, lists, elements, requests, names of any of these."""
        if isinstance(e, tree.Text):
            return TextValue(e.value)
        if isinstance(e, tree.Group):
            return self._structural(e.inner)
        if isinstance(e, tree.Request):
            return self.request(e)
        if isinstance(e, tree.ListOf):
            return ListValue(np.array([self.number(i).value for i in e.items], dtype=float))
        if isinstance(e, tree.Range):
            return ListValue(self._range(e))
        if isinstance(e, tree.Index):
            return self._index(e)
        if isinstance(e, tree.Truth | tree.Comparison | tree.Logical):
            return self.truth(e)
        if isinstance(e, tree.Comprehension):
            return self._comprehension(e)
        if isinstance(e, tree.Join):
            return self._joined(e)
        if isinstance(e, tree.Name) and e.name not in self.variables:
            found = self.names.get(e.name)
            return None if isinstance(found, Scalar) or found is None else found
        if isinstance(e, tree.Call) and isinstance(e.function, tree.Name):
            return self._list_call(e, e.function.name)
        return None

    def number(self, e: tree.Expression) -> Scalar:
        """One number; a finding with one value counts."""
        return self.as_number(self.value(e), e)

    def as_number(self, found: Value, e: tree.Expression) -> Scalar:
        """A value as the one number that it must be at this place."""
        if isinstance(found, Scalar):
            return found
        if isinstance(found, FindingValue) and len(found.places) == 1:
            place = found.places[0]
            given = Given(place.value, place.interval)
            return Scalar(given, place.value, None, place.interval, place.evidence == "proven")
        if isinstance(found, FindingValue):
            raise refusal(
                "several-values",
                f"a number is needed here, and this finding has {len(found.places)} values",
                e,
                advise("choose one: name[1]"),
            )
        raise refusal("number-needed", "a number is needed here", e)

    # ------------------------------------------------------------ truth

    def truth(self, e: tree.Expression) -> TruthValue:
        """Whether a condition holds; `and` and `or` look no further than they must."""
        if isinstance(e, tree.Group):
            return self.truth(e.inner)
        if isinstance(e, tree.Truth):
            return TruthValue(e.value, True)
        if isinstance(e, tree.Comparison):
            return self.compared(e, [self.value(o) for o in e.operands])
        if isinstance(e, tree.Logical):
            return self._logical(e)
        found = self.value(e)
        if isinstance(found, TruthValue):
            return found
        raise refusal("condition-needed", "a condition is needed here, something that is true or false", e)

    def _logical(self, e: tree.Logical) -> TruthValue:
        if e.word == "not":
            inner = self.truth(e.operands[0])
            return TruthValue(not inner.truth, inner.proven)
        decides = e.word == "or"
        proven = True
        for operand in e.operands:
            found = self.truth(operand)
            if found.truth is decides:
                return found
            proven = proven and found.proven
        return TruthValue(not decides, proven)

    def compared(self, e: tree.Comparison, values: list[Value]) -> TruthValue:
        """Whether a chain of comparisons holds for the values of its operands."""
        proven = True
        for place, sign in enumerate(e.signs):
            left, right = values[place], values[place + 1]
            if isinstance(left, TextValue) and isinstance(right, TextValue):
                found = TruthValue((left.text == right.text) is (sign == "="), True)
            else:
                found = compare(self.as_number(left, e.operands[place]), self.as_number(right, e.operands[place + 1]), sign)
            if not found.truth:
                return found
            proven = proven and found.proven
        return TruthValue(True, proven)

    # ------------------------------------------------------------ lists built from others

    def _comprehension(self, e: tree.Comprehension) -> ListValue:
        window = e.windows[0]
        data = self._gone_through(window)
        if e.condition is not None:
            data = data[self._mask(e.condition, window.name, data)]
        if not data.size:
            return ListValue(np.array([]))
        if _plain(e.element):
            formula = self.within(window.name).formula(e.element)
            values = np.broadcast_to(np.asarray(Tape([formula], [window.name]).numeric(data)[0], dtype=float), data.shape).copy()
            failing = np.flatnonzero(~np.isfinite(values))
            if failing.size:
                raise self._no_value(substitute(formula, {window.name: Given(float(data[failing[0]]))}), e.element)
            return ListValue(values)
        return ListValue(np.array([self._with(window.name, v).number(e.element).value for v in self._few(data, e)]))

    def _gone_through(self, window: tree.Window) -> Any:
        if window.values is not None:
            return self.list(window.values)
        assert window.low is not None
        assert window.high is not None
        step = window.step if window.step is not None or window.count is not None else tree.Number(window.end, window.end, "1")
        return self._range(tree.Range(window.start, window.end, window.low, window.high, step, window.count))

    def _mask(self, e: tree.Expression, variable: str, data: Any) -> Any:
        """For which elements a condition holds."""
        if isinstance(e, tree.Group):
            return self._mask(e.inner, variable, data)
        if isinstance(e, tree.Logical):
            masks = [self._mask(o, variable, data) for o in e.operands]
            return ~masks[0] if e.word == "not" else np.logical_and.reduce(masks) if e.word == "and" else np.logical_or.reduce(masks)
        if isinstance(e, tree.Comparison) and all(_plain(o) for o in e.operands):
            scope = self.within(variable)
            sides = [np.asarray(Tape([scope.formula(o)], [variable]).numeric(data)[0], dtype=float) for o in e.operands]
            if not all(np.isfinite(s).all() for s in sides):
                raise refusal("no-value", "this condition has no value for some elements", e)
            held = [_SIGNS[sign](sides[k], sides[k + 1]) for k, sign in enumerate(e.signs)]
            return np.broadcast_to(np.logical_and.reduce(held), data.shape)
        return np.array([self._with(variable, v).truth(e).truth for v in self._few(data, e)], dtype=bool)

    def _with(self, name: str, value: float) -> Lowering:
        """The same scope with a name for one element of a list."""
        element = Scalar(Given(value, name=name), value, None, None, False)
        if float(value).is_integer() and abs(value) < 2**53:
            element = Scalar(Number(Fraction(int(value))), value, Fraction(int(value)), None, True)
        return Lowering(self.text, {**self.names, name: element}, self.request, self.variables)

    def _few(self, data: Any, e: tree.Expression) -> Any:
        """Elements that are worked out one by one: not too many of them."""
        if data.size > MAX_ONE_BY_ONE:
            raise refusal("list-too-long", f"at most {MAX_ONE_BY_ONE} elements are worked out one by one; these are {data.size}", e)
        return data.tolist()

    def _joined(self, e: tree.Join) -> Value:
        left, right = self.value(e.left), self.value(e.right)
        if isinstance(left, TextValue) or isinstance(right, TextValue):
            return TextValue(_as_text(left) + _as_text(right))
        return ListValue(np.concatenate([self.list(e.left), self.list(e.right)]))

    def span(self, low: tree.Expression, high: tree.Expression, what: str) -> tuple[Scalar, Scalar]:
        """Both ends of `what` (a window, a domain), which must rise."""
        first, last = self.number(low), self.number(high)
        if first.value < last.value:
            return first, last
        turned = f"{self.text[high.start : high.end]} to {self.text[low.start : low.end]}"
        text = f"{what} runs from {short(first.value)} to {short(last.value)}; it must rise"
        fixes = (replace(low.start, high.end, turned),) if first.value > last.value else ()
        raise Refused(Message("error", "window", low.start, high.end, text, fixes))

    def list(self, e: tree.Expression) -> Any:
        """A float array of shape (n,); one number is a list of one."""
        found = self.value(e)
        if isinstance(found, ListValue):
            return found.data
        if isinstance(found, FindingValue):
            return np.array([p.value for p in found.places], dtype=float)
        if isinstance(found, Scalar):
            return np.array([found.value])
        raise refusal("list-needed", "a list of numbers is needed here", e)

    def _list_value(self, formula: Formula, e: tree.Expression) -> Any:
        lengths = sorted({(n.name, len(n.data)) for n in walk(formula) if isinstance(n, Given) and np.ndim(n.data)})
        if len({length for _, length in lengths}) > 1:
            said = " and ".join(f"{name or 'one'} has {length}" for name, length in lengths)
            raise refusal("list-lengths", f"lists of different lengths meet here: {said} elements", e)
        values = np.asarray(Tape([formula], []).numeric()[0], dtype=float)
        if not np.isfinite(values).all():
            raise self._no_value(formula, e)
        return values

    def _no_value(self, formula: Formula, e: tree.Expression) -> Refused:
        """Say which part has no real value, for which argument, and how often."""
        done: set[int] = set()

        def first_bad(node: Formula) -> Apply | None:
            if id(node) in done:
                return None
            done.add(id(node))
            for part in node.arguments if isinstance(node, Apply) else (node.body,) if isinstance(node, Named) else ():
                found = first_bad(part)
                if found is not None:
                    return found
            if isinstance(node, Apply) and not np.isfinite(_numeric(node)).all():
                return node
            return None

        bad = first_bad(formula)
        if bad is None:
            return refusal("no-value", "this has no finite real value", e)
        return refusal("no-value", _why_no_value(bad), e)

    def _range(self, e: tree.Range) -> Any:
        low, high = self.number(e.low), self.number(e.high)
        if e.count is not None:
            count = self.number(e.count)
            if count.value != int(count.value) or not 2 <= count.value <= MAX_LIST:
                raise refusal("count", f"a count is a whole number from 2 to {MAX_LIST}, not {count.value:g}", e.count)
            return _even(low, high, int(count.value) - 1)
        assert e.step is not None
        step = self.number(e.step)
        if step.value == 0:
            raise refusal("step", "a step of 0 leads nowhere", e.step)
        steps = (high.value - low.value) / step.value
        if steps > MAX_LIST:
            raise refusal("list-too-long", f"this list would have {steps:.3g} elements; at most {MAX_LIST} are possible", e)
        exact_low, exact_high, exact_step = (rational(s.formula) for s in (low, high, step))
        if exact_low is not None and exact_high is not None and exact_step is not None:
            message = step_message(exact_low, exact_high, exact_step, e)
            if message is not None:
                raise Refused(message)
        elif steps < 0 or abs(steps - round(steps)) > 1e-9:
            raise refusal(
                "step",
                f"steps of {step.value:g} from {low.value:g} do not end at {high.value:g}; both ends belong to the list",
                e,
                advise("count N instead of step"),
            )
        return _even(low, high, round(steps))

    def _index(self, e: tree.Index) -> Value:
        data = self.list(e.target)
        place = e.places[0]
        if isinstance(place, tree.Range):
            first, last = (self._place(p, data, e) for p in (place.low, place.high))
            return ListValue(data[first : last + 1].copy())
        index = self._place(place, data, e)
        found = self.value(e.target)
        if isinstance(found, FindingValue):
            return FindingValue(found.noun, (found.places[index],))
        value = float(data[index])
        return Scalar(Given(value), value, None, None, False)

    def _place(self, e: tree.Expression, data: Any, whole: tree.Expression) -> int:
        at = self.number(e).value
        if at != int(at) or not 1 <= at <= len(data):
            raise refusal("no-such-element", f"there is no element {at:g}; the list has {len(data)}, counted from 1", whole)
        return int(at) - 1

    def _list_call(self, e: tree.Call, name: str) -> Value | None:
        """Functions that take a whole list (`mean(xs)`), not one of the script's own of the same name."""
        entry = c.ENTRIES.get(name)
        if entry is None or entry.values is None or name in self.names:
            return None
        if name in ("min", "max") and len(e.arguments) > 1:
            return None
        data = self.list(e.arguments[0])
        if not data.size:
            if name in ("sum", "length"):
                return Scalar(Number(Fraction(0)), 0.0, Fraction(0), None, True)
            raise refusal("empty-list", f"{name} of an empty list has no value", e)
        found = entry.values(data)
        if np.ndim(found):
            return ListValue(np.asarray(found, dtype=float))
        if not np.isfinite(found):
            raise refusal("no-value", f"{name} needs at least two elements", e)
        return Scalar(Given(float(found)), float(found), None, None, False)

    # ------------------------------------------------------------ formulas

    def formula(self, e: tree.Expression) -> Formula:
        """The formula of an expression; names of variables stay open."""
        if isinstance(e, tree.Number):
            return Number(Fraction(e.text), "." in e.text or "e" in e.text.lower())
        if isinstance(e, tree.Name):
            return self._name(e)
        if isinstance(e, tree.Group):
            return self.formula(e.inner)
        if isinstance(e, tree.Negative):
            return Apply(c.NEGATIVE, (self.formula(e.operand),))
        if isinstance(e, tree.Binary):
            return Apply(_OPERATORS[e.operator], (self.formula(e.left), self.formula(e.right)))
        if isinstance(e, tree.Juxtaposed):
            product = self.formula(e.factors[0])
            for factor in e.factors[1:]:
                product = Apply(c.MULTIPLY, (product, self.formula(factor)))
            return product
        if isinstance(e, tree.Radical):
            return Apply(c.ENTRIES["sqrt"], (self.formula(e.operand),))
        if isinstance(e, tree.Call):
            return self._call(e)
        return self._given(self._need(e), "")

    def _need(self, e: tree.Expression) -> Value:
        found = self._structural(e)
        if found is None:
            raise refusal("not-available-yet", "this is not available yet", e)
        return found

    def _given(self, value: Value, name: str) -> Formula:
        if isinstance(value, Scalar):
            return Named(name, value.formula) if name else value.formula
        if isinstance(value, ListValue):
            return Given(value.data, name=name)
        if isinstance(value, FindingValue):
            if len(value.places) == 1:
                return Given(value.places[0].value, value.places[0].interval, name)
            return Given(np.array([p.value for p in value.places]), name=name)
        raise TypeError(f"{name} is no number")  # the checker refuses texts and functions before

    def _name(self, e: tree.Name) -> Formula:
        if e.name in self.variables:
            return Variable(e.name)
        found = self.names.get(e.name)
        if found is not None:
            return self._given(found, e.name)
        return c.constant(e.name)

    def _call(self, e: tree.Call) -> Formula:
        primes = 0
        function: tree.Expression = e.function
        if isinstance(function, tree.Prime):
            primes, function = function.order, function.function
        assert isinstance(function, tree.Name)
        found = self.names.get(function.name)
        if isinstance(found, FunctionValue):
            arguments = tuple(self.formula(a) for a in e.arguments)
            return self.called(found, arguments, primes, e)
        listed = self._list_call(e, function.name)
        if listed is not None:
            return self._given(listed, "")
        return Apply(c.ENTRIES[function.name], tuple(self.formula(a) for a in e.arguments))

    def called(self, function: FunctionValue, arguments: tuple[Formula, ...], primes: int, e: tree.Expression) -> Formula:
        """A function of the script with its arguments put in, kept within its domain."""
        body = self.derived(function, primes, e) if primes else function.body
        if not all(isinstance(a, Variable) and a.name == p for a, p in zip(arguments, function.parameters, strict=True)):
            body = substitute(body, dict(zip(function.parameters, arguments, strict=True)))
        for parameter, argument in zip(function.parameters, arguments, strict=True):
            if parameter in function.domain:
                low, high = function.domain[parameter]
                body = Apply(c.GUARD, (body, argument, low, high))
        return Named(function.name, body, arguments, primes)

    def derived(self, function: FunctionValue, primes: int, e: tree.Expression) -> Formula:
        body = function.body
        for _ in range(primes):
            try:
                body = derivative(body, function.parameters[0])
            except NoDerivative as missing:
                raise refusal("no-derivative", f"there is no derivative by rule of {missing}", e) from None
        return body


_SIGNS: dict[str, Callable[[Any, Any], Any]] = {
    "<": operator.lt, ">": operator.gt, "<=": operator.le, ">=": operator.ge, "=": operator.eq, "!=": operator.ne,
}  # fmt: skip


def compare(left: Scalar, right: Scalar, sign: str) -> TruthValue:
    """Compare two numbers: exactly where both are exact, else by an enclosure of their difference, else as doubles."""
    holds = _SIGNS[sign]
    if left.exact is not None and right.exact is not None:
        return TruthValue(bool(holds(left.exact, right.exact)), True)
    difference = c.subtract(left.formula, right.formula)
    ball = enclosure(Tape([difference], []), COMPARE_BITS)
    if ball is not None and ball.is_finite() and not ball.contains(0):
        return TruthValue(bool(holds(1 if ball > 0 else -1, 0)), True)
    if certain_value(difference).exact == 0:
        return TruthValue(bool(holds(0, 0)), True)
    return TruthValue(bool(holds(left.value, right.value)), False)


def _plain(e: tree.Expression) -> bool:
    """Whether an expression can be worked out for all elements at once: nothing in it picks elements or asks for findings."""
    return not any(
        isinstance(n, tree.Index | tree.Request | tree.Comprehension | tree.ListOf | tree.Range | tree.Join) for n in tree.walk(e)
    )


def _as_text(value: Value) -> str:
    if isinstance(value, TextValue):
        return value.text
    if isinstance(value, Scalar):
        return short(value.value)
    if isinstance(value, FindingValue) and len(value.places) == 1:
        return short(value.places[0].value)
    raise TypeError("the checker refuses other joins")


_OPERATORS = {"+": c.ADD, "-": c.SUBTRACT, "*": c.MULTIPLY, "/": c.DIVIDE, "^": c.POWER}


def _even(low: Scalar, high: Scalar, steps: int) -> Any:
    """low, …, high in so many equal steps, each element rounded once from its exact value where the ends are exact."""
    a, b = rational(low.formula), rational(high.formula)
    k = np.arange(steps + 1, dtype=float)
    if a is not None and b is not None:
        scale = a.denominator * b.denominator * steps
        start = a.numerator * b.denominator * steps
        each = b.numerator * a.denominator - a.numerator * b.denominator
        if max(abs(start), abs(start + each * steps), scale) < 2**53:
            return (start + each * k) / scale
    values = low.value + (high.value - low.value) * (k / steps)
    values[0], values[-1] = low.value, high.value
    return values


def _numeric(node: Formula) -> Any:
    return np.atleast_1d(np.asarray(Tape([node], []).numeric()[0], dtype=float))


def _why_no_value(bad: Apply) -> str:
    name = bad.entry.name
    arguments = [_numeric(a) for a in bad.arguments]
    values = _numeric(bad)
    failing = np.flatnonzero(~np.isfinite(values))
    first = int(failing[0])
    at = [a[first] if a.size > 1 else a[0] for a in arguments]
    if name == "/":
        what = f"{_n(at[0])}/{_n(at[1])}: a division by zero" if at[1] == 0 else f"{_n(at[0])}/{_n(at[1])} is too large"
    elif name == "^":
        what = f"({_n(at[0])})^{_n(at[1])} has no real value" if at[0] <= 0 else f"{_n(at[0])}^{_n(at[1])} is too large"
    elif name == "within":
        what = f"{_n(at[1])} lies outside the domain, which is {_n(at[2])} to {_n(at[3])}"
    elif np.isnan(values[first]) or bad.entry.domain != "all real numbers":
        what = f"{name}({', '.join(_n(v) for v in at)}) has no real value; its domain: {bad.entry.domain}"
    else:
        what = f"{name}({', '.join(_n(v) for v in at)}) is too large to compute with"
    if values.size > 1:
        return f"{what}; so it is for {failing.size} of {values.size} elements, the first is element {first + 1}"
    return what


def _n(value: float) -> str:
    return f"{value:.10g}".replace("-", "−")
