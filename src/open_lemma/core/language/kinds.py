"""Names and kinds in expressions: what a value will be, before anything is worked out.

The kind of an expression is known from its names; a mistake is told where it stands and makes the kind `broken`, so that
nothing that rests on it is complained of again.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal

from . import tree
from .cursor import Builtins, nearest
from .messages import Fix, Message, Messages, advise, replace
from .parser import Reading
from .words import NOUNS

Kind = Literal["number", "list", "text", "truth", "function", "finding", "broken"]


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of a name: its kind, for functions the variables, the domain and whether a formula is behind it."""

    kind: Kind
    line: int
    parameters: tuple[str, ...] = ()
    has_domain: bool = False


@dataclass
class Scope:
    names: dict[str, Known] = field(default_factory=dict)
    outer: Scope | None = None

    def find(self, name: str) -> Known | None:
        scope: Scope | None = self
        while scope is not None:
            if name in scope.names:
                return scope.names[name]
            scope = scope.outer
        return None

    def all_names(self) -> set[str]:
        return set(self.names) | (self.outer.all_names() if self.outer else set())


NUMBER = Known("number", 0)
_NOT_IN_FORMULA = {
    tree.Pieces: "piecewise formulas",
    tree.Quantity: "units of measure",
    tree.Field: "parts by name",
}


class KindChecker:
    def __init__(self, reading: Reading, builtins: Builtins) -> None:
        self.reading = reading
        self.source = reading.source
        self.builtins = builtins
        self.messages: Messages = reading.messages
        self.line = 0
        self.later: dict[str, int] = {}  # where names get their values, for those that are used too early

    def _request(self, request: tree.Request, scope: Scope) -> None:
        """Check a request; requests know expressions, and expressions hold requests."""
        raise NotImplementedError

    # ------------------------------------------------------------ expressions

    def _number(self, expression: tree.Expression, scope: Scope) -> Kind:
        kind = self.kind_of(expression, scope)
        if kind in ("list", "text", "truth"):
            article = {"list": "a list", "text": "a text", "truth": "true or false"}[kind]
            self.error("number-needed", f"a number is needed here; this is {article}", expression.start, expression.end)
        return kind

    def _truth(self, expression: tree.Expression, scope: Scope) -> Kind:
        """A condition, as in `check` and after `if`."""
        kind = self.kind_of(expression, scope)
        if kind not in ("truth", "broken"):
            self.error(
                "condition-needed", "a condition is needed here, something that is true or false", expression.start, expression.end,
                advise(f"{self.source.text[expression.start : expression.end]} < ..."),
            )  # fmt: skip
            return "broken"
        return kind

    def _comparison(self, e: tree.Comparison, scope: Scope) -> Kind:
        kinds = [self.kind_of(o, scope) for o in e.operands]
        if "broken" in kinds:
            return "broken"
        texts = [k == "text" for k in kinds]
        for operand, kind in zip(e.operands, kinds, strict=True):
            if kind == "list":
                self._not_yet("comparing lists", operand.start, operand.end)
                return "broken"
            if kind == "truth" or (kind == "text" and not (all(texts) and set(e.signs) <= {"=", "!="})):
                self.error("not-comparable", "only numbers can be compared here", operand.start, operand.end)
                return "broken"
        return "truth"

    def _comprehension(self, e: tree.Comprehension, scope: Scope) -> Kind:
        if len(e.windows) != 1:
            self._not_yet("a list built over several variables", e.windows[1].start, e.windows[1].end)
            return "broken"
        window = e.windows[0]
        for part in (window.low, window.high, window.step, window.count):
            if part is not None:
                self._number(part, scope)
        if window.values is not None and self.kind_of(window.values, scope) in ("number", "text", "truth"):
            self.error("list-needed", "a list is gone through here", window.values.start, window.values.end, advise("[1, 2, 3]"))
        if window.low is None and window.values is None:
            self.error(
                "window-needed", "say what the variable goes through", window.start, window.end, advise(f"{window.name} from 1 to 10")
            )
        local = Scope({window.name: NUMBER}, scope)
        if e.condition is not None:
            self._truth(e.condition, local)
        kind = self.kind_of(e.element, local)
        if kind in ("list", "text", "truth"):
            self._not_yet("a list of other things than numbers", e.element.start, e.element.end)
        return "list"

    def _join(self, e: tree.Join, scope: Scope) -> Kind:
        kinds = {self.kind_of(e.left, scope), self.kind_of(e.right, scope)}
        if "broken" in kinds:
            return "broken"
        if "truth" in kinds:
            self.error("not-joined", "true and false cannot be joined", e.start, e.end)
            return "broken"
        if kinds >= {"text", "list"}:
            self.error("not-joined", "a text and a list cannot be joined", e.start, e.end)
            return "broken"
        return "text" if "text" in kinds else "list"

    def kind_of(self, e: tree.Expression, scope: Scope) -> Kind:
        """The kind of a value; everything inside is checked on the way."""
        if isinstance(e, tree.Number):
            self._exponent_name(e, scope)
            return "number"
        if isinstance(e, tree.Text):
            return "text"
        if isinstance(e, tree.Name):
            return self._name(e, scope)
        if isinstance(e, tree.Call):
            return self._call(e, scope)
        if isinstance(e, tree.Range):
            return self._range(e, scope)
        if isinstance(e, tree.ListOf):
            for item in e.items:
                kind = self.kind_of(item, scope)
                if kind in ("list", "text", "truth"):
                    self._not_yet("a list of other things than numbers", item.start, item.end)
            return "list"
        if isinstance(e, tree.Index):
            return self._index(e, scope)
        if isinstance(e, tree.Prime):
            self.error(
                "prime-alone", "a derivative is a function; say where", e.start, e.end, advise(f"{self.source.text[e.start : e.end]}(x)")
            )
            return "broken"
        if isinstance(e, tree.PointOf):
            self._not_yet("a point as a value", e.start, e.end)
            return "broken"
        if isinstance(e, tree.Truth):
            return "truth"
        if isinstance(e, tree.Comparison):
            return self._comparison(e, scope)
        if isinstance(e, tree.Logical):
            kinds = [self._truth(o, scope) for o in e.operands]
            return "broken" if "broken" in kinds else "truth"
        if isinstance(e, tree.Comprehension):
            return self._comprehension(e, scope)
        if isinstance(e, tree.Join):
            return self._join(e, scope)
        if isinstance(e, tree.Request):
            self._request(e, scope)
            if NOUNS[e.noun].draws:
                self.error("drawing-as-value", f"'{e.noun} of' draws; it is no value", e.start, e.end)
            return "finding"
        for shape, words in _NOT_IN_FORMULA.items():
            if isinstance(e, shape):
                self._not_yet(words, e.start, e.end)
                return "broken"
        return self._arithmetic(e, scope)

    def _arithmetic(self, e: tree.Expression, scope: Scope) -> Kind:
        parts = [c for c in tree.children(e) if isinstance(c, tree.Expression)]
        kinds = [self.kind_of(c, scope) for c in parts]
        if isinstance(e, tree.Group):
            return kinds[0]
        for part, kind in zip(parts, kinds, strict=True):
            self._no_number(kind, part)
        if set(kinds) & {"broken", "text", "truth"}:
            return "broken"
        if "list" in kinds:
            return "list"
        return "finding" if "finding" in kinds else "number"

    def _no_number(self, kind: Kind, part: tree.Expression) -> None:
        if kind in ("text", "truth"):
            what = "a text" if kind == "text" else "true or false"
            self.error("text-as-number", f"{what} is no number", part.start, part.end)

    def _exponent_name(self, e: tree.Number, scope: Scope) -> None:
        match = re.fullmatch(r"(\d+(?:\.\d+)?)([eE]\d+)", e.text)
        if match and scope.find(match.group(2)) is not None:
            number, name = match.groups()
            self.error("number-or-name", f"'{e.text}' is a number, though '{name}' is a name here", e.start, e.end,
                       replace(e.start, e.end, f"{number}*{name}"))  # fmt: skip

    def _name(self, e: tree.Name, scope: Scope) -> Kind:
        known = scope.find(e.name)
        if known is not None:
            if known.kind == "function":
                variables = ", ".join(known.parameters)
                self.error(
                    "function-as-value",
                    f"'{e.spelling}' is a function; here a value is needed",
                    e.start,
                    e.end,
                    replace(e.end, e.end, f"({variables})", f"{e.spelling}({variables})"),
                )
                return "broken"
            return known.kind
        if e.name == "gap":
            self._not_yet("gap", e.start, e.end)
            return "broken"
        if self.builtins.is_constant(e.name):
            if e.name == "infinity":
                self.error("infinity", "infinity is no number to compute with; it is an end of a span", e.start, e.end)
                return "broken"
            return "number"
        if self.builtins.is_function(e.name):
            self.error(
                "function-as-value", f"'{e.spelling}' is a function; here a value is needed", e.start, e.end, advise(f"{e.spelling}(x)")
            )
            return "broken"
        self._unknown(e.name, e.spelling, e.start, e.end, scope)
        return "broken"

    def _unknown(self, name: str, spelling: str, start: int, end: int, scope: Scope, called: bool = False) -> None:
        if name in self.later and self.later[name] > self.line:
            self.error(
                "name-later",
                f"'{spelling}' gets its value only in line {self.later[name]}",
                start,
                end,
                advise(f"move line {self.later[name]} up"),
            )
            return
        split = _product_of_known(name, scope, self.builtins)
        if split:
            self.error(
                "unknown-name",
                f"'{spelling}' has no value; letters side by side are one name",
                start,
                end,
                replace(start, end, "*".join(split)),
            )
            return
        pool = scope.all_names() | set(self.builtins.names())
        meant = nearest(name, pool)
        fixes = [replace(start, end, meant)] if meant else []
        text = f"there is no function '{spelling}'" if called else f"'{spelling}' has no value"
        self.error(
            "unknown-name", text, start, end, *fixes, advice="" if meant else f"{spelling}(x) = ..." if called else f"{spelling} = ..."
        )

    def _call(self, e: tree.Call, scope: Scope) -> Kind:
        kinds = [self.kind_of(a, scope) for a in e.arguments]
        function = e.function
        if isinstance(function, tree.Prime):
            return self._prime_call(e, function, scope, kinds)
        if not isinstance(function, tree.Name):
            self.error("value-called", "only a function can be called", function.start, function.end)
            return "broken"
        known = scope.find(function.name)
        if known is not None and known.kind == "function":
            self._count(e, (known.parameters and (len(known.parameters), len(known.parameters))) or (0, 0), ", ".join(known.parameters))
        elif known is not None:
            if known.kind != "broken":
                self._number_called(e, function)
            return "broken"
        elif function.name == "log":
            self._log(function)
            return "broken"
        elif self.builtins.is_function(function.name):
            return self._builtin_call(e, function, kinds)
        elif self.builtins.is_constant(function.name):
            self._number_called(e, function)
            return "broken"
        else:
            self._unknown(function.name, function.spelling, function.start, function.end, scope, called=True)
            return "broken"
        return self._result(kinds)

    def _result(self, kinds: list[Kind]) -> Kind:
        if "broken" in kinds:
            return "broken"
        return "list" if "list" in kinds else "number"

    def _builtin_call(self, e: tree.Call, function: tree.Name, kinds: list[Kind]) -> Kind:
        name = function.name
        if not self.builtins.is_available(name):
            self._not_yet(f"'{function.spelling}'", function.start, function.end)
            return "broken"
        low, high = self.builtins.arity(name)
        self._count(e, (low, high), "x" if high == 1 else "...")
        if name in ("sort", "reverse", "differences", "running_sum"):
            return "broken" if "broken" in kinds else "list"
        if name in ("min", "max") and len(kinds) == 1:
            return "broken" if "broken" in kinds else "number"
        if low == high == 1 and name in _OF_LISTS:
            if kinds and kinds[0] in ("number", "text"):
                self.error("list-needed", f"{name} takes a list", e.arguments[0].start, e.arguments[0].end, advise(f"{name}([1, 2, 3])"))
                return "broken"
            return "broken" if "broken" in kinds else "number"
        for argument, kind in zip(e.arguments, kinds, strict=True):
            self._no_number(kind, argument)
        return self._result(kinds)

    def _count(self, e: tree.Call, arity: tuple[int, int], variables: str) -> None:
        low, high = arity
        given = len(e.arguments)
        if low <= given <= high:
            return
        name = self.source.text[e.function.start : e.function.end]
        wanted = f"{low}" if low == high else f"{low} or more"
        plural = "" if wanted == "1" else "s"
        self.error("argument-count", f"{name} takes {wanted} argument{plural}, not {given}", e.start, e.end, advise(f"{name}({variables})"))

    def _number_called(self, e: tree.Call, function: tree.Name) -> None:
        inside = self.source.text[function.end : e.end]
        argument = e.arguments[0] if len(e.arguments) == 1 else None
        plain = isinstance(argument, tree.Number | tree.Name)
        product = f"{function.spelling}*{inside[1:-1].strip() if plain else inside}"
        self.error(
            "number-called", f"'{function.spelling}' is a number and takes no argument", e.start, e.end, replace(e.start, e.end, product)
        )

    def _log(self, function: tree.Name) -> None:
        fixes = [replace(function.start, function.end, name) for name in ("ln", "log10", "log2")]
        self.error(
            "which-log", "log means different things to different people", function.start, function.end, *fixes, advice="ln, log10 or log2"
        )

    def _prime_target(self, e: tree.Prime, scope: Scope) -> Known | None:
        assert isinstance(e.function, tree.Name)
        known = scope.find(e.function.name)
        if known is None and self.builtins.is_function(e.function.name):
            self.error(
                "prime-of-built-in",
                f"primes follow functions of your own; define one first: f(x) = {e.function.spelling}(x)",
                e.start,
                e.end,
            )
        elif known is None:
            self._unknown(e.function.name, e.function.spelling, e.function.start, e.function.end, scope, called=True)
        elif known.kind not in ("function", "broken"):
            self.error("prime-of-number", f"'{e.function.spelling}' is no function, so it has no derivative", e.start, e.end)
        elif known.kind == "function" and len(known.parameters) != 1:
            self.error(
                "prime-of-several",
                f"'{e.function.spelling}' has {len(known.parameters)} variables; a prime cannot say which",
                e.start,
                e.end,
            )
        else:
            return known
        return None

    def _prime_call(self, e: tree.Call, prime: tree.Prime, scope: Scope, kinds: list[Kind]) -> Kind:
        if not isinstance(prime.function, tree.Name):
            self.error("prime", "a prime follows the name of a function", prime.start, prime.end)
            return "broken"
        known = self._prime_target(prime, scope)
        if known is None or known.kind == "broken":
            return "broken"
        self._count(e, (1, 1), known.parameters[0])
        return self._result(kinds)

    def _range(self, e: tree.Range, scope: Scope) -> Kind:
        for part in (e.low, e.high, e.step, e.count):
            if part is not None:
                self._number(part, scope)
        if e.step is None and e.count is None:
            self.error("span-as-value", "a span is no list; say the step or the count", e.start, e.end,
                       replace(e.end, e.end, " step 1", "step ..."), replace(e.end, e.end, " count 11", "count ..."))  # fmt: skip
            return "broken"
        low, high, step = (_literal(part) for part in (e.low, e.high, e.step))
        if low is not None and high is not None and step is not None:
            self._steps(e, low, high, step)
        return "list"

    def _steps(self, e: tree.Range, low: Fraction, high: Fraction, step: Fraction) -> None:
        message = step_message(low, high, step, e)
        if message is not None:
            self.messages.add(message)

    def _index(self, e: tree.Index, scope: Scope) -> Kind:
        kind = self.kind_of(e.target, scope)
        if len(e.places) != 1:
            self._not_yet("several places", e.start, e.end)
            return "broken"
        place = e.places[0]
        if isinstance(place, tree.Range):
            for part in (place.low, place.high):
                self._number(part, scope)
            if place.step is not None or place.count is not None:
                self._not_yet("a slice with a step", place.start, place.end)
            return "list" if kind != "broken" else "broken"
        self._number(place, scope)
        if kind == "number":
            self.error("number-indexed", "a number has no elements", e.start, e.end)
            return "broken"
        return "number" if kind != "broken" else "broken"

    # ------------------------------------------------------------ saying it

    def error(self, code: str, text: str, start: int, end: int, *fixes: Fix, advice: str = "") -> None:
        self.messages.add(Message("error", code, start, end, text, tuple(fixes), advice))

    def warn(self, code: str, text: str, start: int, end: int) -> None:
        self.messages.add(Message("warning", code, start, end, text))

    def _not_yet(self, what: str, start: int, end: int) -> None:
        self.error("not-available-yet", f"{what}: not available yet", start, end)


_OF_LISTS = frozenset(["sum", "product", "mean", "median", "sd", "variance", "length", "first", "last"])


def step_message(low: Fraction, high: Fraction, step: Fraction, e: tree.Range) -> Message | None:
    """Why `low to high step step` is no list: both ends must belong. None where it is one."""
    assert e.step is not None
    if step == 0:
        return Message("error", "step", e.step.start, e.step.end, "a step of 0 leads nowhere")
    count = (high - low) / step
    if count < 0:
        text = f"from {_short(low)} to {_short(high)} the step must be {'negative' if high < low else 'positive'}"
        return Message("error", "step", e.step.start, e.step.end, text, (replace(e.step.start, e.step.end, _short(-step)),))
    if count.denominator == 1:
        return None
    last = low + step * int(count)
    steps = round(count)
    text = f"steps of {_short(step)} from {_short(low)} do not end at {_short(high)}; both ends belong to the list"
    finer = Message(
        "error", "step", e.start, e.end, text,
        (
            replace(e.high.start, e.high.end, _short(last), f"to {_short(last)}"),
            replace(e.high.end, e.end, f" count {max(steps, 1) + 1}", f"count {max(steps, 1) + 1}"),
        ),
    )  # fmt: skip
    return finer


def _short(value: Fraction) -> str:
    return str(value.numerator) if value.denominator == 1 else repr(float(value))


def _literal(e: tree.Expression | None) -> Fraction | None:
    if isinstance(e, tree.Number):
        return Fraction(e.text)
    if isinstance(e, tree.Negative):
        inner = _literal(e.operand)
        return None if inner is None else -inner
    return None


def _product_of_known(name: str, scope: Scope, builtins: Builtins) -> list[str] | None:
    """`ab` where a and b have values: the letters of a product that was meant."""
    if not 2 <= len(name) <= 4:
        return None

    def known(part: str) -> bool:
        found = scope.find(part)
        return (found is not None and found.kind in ("number", "finding")) or builtins.is_constant(part)

    if all(known(c) for c in name):
        return list(name)
    for cut in range(1, len(name)):
        if known(name[:cut]) and known(name[cut:]):
            return [name[:cut], name[cut:]]
    return None
