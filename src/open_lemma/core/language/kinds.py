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
from .vocabulary import NOUNS

# "items" is a list of other things than numbers; of "any" nothing is known before the script runs.
Kind = Literal["number", "list", "items", "text", "truth", "point", "table", "function", "finding", "any", "broken"]
WORDS: dict[Kind, str] = {
    "number": "a number", "list": "a list", "items": "a list of other things than numbers", "text": "a text", "truth": "true or false",
    "point": "a point", "table": "a table", "function": "a function", "finding": "a finding",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of a name: its kind, for functions the variables, the domain and whether a formula is behind it."""

    kind: Kind
    line: int
    parameters: tuple[str, ...] = ()
    has_domain: bool = False
    defined: bool = False  # by a block: it has values only
    length: int | None = None  # of a list, where it can be seen
    columns: tuple[str, ...] | None = None  # of a table, where they can be seen
    parts: tuple[str, ...] = ()  # of a function that data gave: what it has by name
    from_data: bool = False
    fitted: bool = False


@dataclass
class Scope:
    """Names that are known at a place. In a `block` (of a loop, an `if`) names from outside can be given new values."""

    names: dict[str, Known] = field(default_factory=dict)
    outer: Scope | None = None
    block: bool = False

    def home(self, name: str) -> Scope:
        """The scope in which a statement here gives the name a value: where it has one, as far as blocks reach; else here."""
        scope = self
        while scope.block and name not in scope.names and scope.outer is not None:
            scope = scope.outer
        return scope if name in scope.names else self

    def find(self, name: str) -> Known | None:
        """What is known of a name here or around; None where nothing is."""
        scope: Scope | None = self
        while scope is not None:
            if name in scope.names:
                return scope.names[name]
            scope = scope.outer
        return None

    def all_names(self) -> set[str]:
        return set(self.names) | (self.outer.all_names() if self.outer else set())


MOST_GUESSED = 40
NUMBER = Known("number", 0)
ANY = Known("any", 0)


def gives_formula(request: tree.Request) -> bool:
    """Whether a request gives a formula: a derivative, a series, an integral without a span."""
    return NOUNS[request.noun].gives == "formula" or (request.noun == "integral" and all(w.low is None for w in request.windows))


class KindChecker:
    def __init__(self, reading: Reading, builtins: Builtins) -> None:
        self.reading = reading
        self.source = reading.source
        self.builtins = builtins
        self.messages: Messages = reading.messages
        self.line = 0
        self.in_formula = False  # whether a request that is being checked is part of a formula
        self.later: dict[str, int] = {}  # where names get their values, for those that are used too early
        self.unsure: set[str] = set()  # names of blocks that have a mistake
        self.guessed = 0  # names without a value for which another one was sought
        self.local: dict[str, int] = {}  # names that had a value only inside a block, with the block's line

    def _request(self, request: tree.Request, scope: Scope) -> None:
        """Check a request; requests know expressions, and expressions hold requests."""
        raise NotImplementedError

    # ------------------------------------------------------------ expressions

    def _number(self, expression: tree.Expression, scope: Scope) -> Kind:
        kind = self.kind_of(expression, scope)
        if kind not in ("number", "finding", "any", "broken"):
            self.error("number-needed", f"a number is needed here; this is {WORDS[kind]}", expression.start, expression.end)
        return kind

    def _truth(self, expression: tree.Expression, scope: Scope) -> Kind:
        """A condition, as in `check` and after `if`."""
        kind = self.kind_of(expression, scope)
        if kind not in ("truth", "any", "broken"):
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
        equal = set(e.signs) <= {"=", "!="}
        for operand, kind in zip(e.operands, kinds, strict=True):
            if kind in ("list", "items"):
                self.error(
                    "lists-compared", "lists are not compared as wholes", operand.start, operand.end,
                    advise("compare elements, or check max(abs(a - b)) < ..."),
                )  # fmt: skip
                return "broken"
            alike = equal and all(k in (kind, "any") for k in kinds)
            if kind in ("table", "function") or (kind in ("text", "truth", "point") and not alike):
                self.error("not-comparable", "only numbers can be compared here", operand.start, operand.end)
                return "broken"
        return "truth"

    def _comprehension(self, e: tree.Comprehension, scope: Scope) -> Kind:
        local = scope
        for window in e.windows:
            local = Scope({window.name: self.iterate(window, local)}, local, block=True)
        if e.condition is not None:
            self._truth(e.condition, local)
        kind = self.kind_of(e.element, local)
        if kind == "broken":
            return "broken"
        return "items" if kind in ("list", "items", "text", "truth", "point", "table") else "any" if kind == "any" else "list"

    def iterate(self, window: tree.Window, scope: Scope) -> Known:
        """What the variable of a loop or of a built list stands for; its window is checked."""
        for part in (window.low, window.high, window.step, window.count):
            if part is not None:
                self._number(part, scope)
        low, high, step = (_literal(p) for p in (window.low, window.high, window.step))
        if low is not None and high is not None and window.count is None and window.low is not None and window.high is not None:
            step_node = window.step or tree.Number(window.end, window.end, "1")
            shown = tree.Range(
                window.low.start, window.high.end if window.step is None else window.step.end, window.low, window.high, step_node
            )
            message = step_message(low, high, Fraction(1) if step is None else step, shown)
            if message is not None and not (window.step is None and low > high):
                self.messages.add(message)
            elif message is not None:
                fix = replace(window.high.end, window.high.end, " step -1", "step -1")
                self.error("step", f"from {_short(low)} down to {_short(high)} a negative step is needed", window.start, window.end, fix)
        if window.values is not None:
            kind = self.kind_of(window.values, scope)
            if kind in ("number", "text", "truth", "point", "table", "function"):
                self.error(
                    "list-needed",
                    f"a list is gone through here; this is {WORDS[kind]}",
                    window.values.start,
                    window.values.end,
                    advise("[1, 2, 3]"),
                )
            return NUMBER if kind in ("list", "finding") else ANY
        if window.low is None:
            self.error(
                "window-needed", "say what the variable goes through", window.start, window.end, advise(f"{window.name} from 1 to 10")
            )
        return NUMBER

    def _join(self, e: tree.Join, scope: Scope) -> Kind:
        kinds = {self.kind_of(e.left, scope), self.kind_of(e.right, scope)}
        if "broken" in kinds:
            return "broken"
        if "text" in kinds:
            bad = kinds & {"list", "items", "point", "table", "function"}
            if bad:
                self.error("not-joined", f"a text and {WORDS[bad.pop()]} cannot be joined", e.start, e.end)
                return "broken"
            return "text"
        if kinds & {"truth", "table", "function"}:
            self.error("not-joined", "lists and texts are joined; true, false and tables are not", e.start, e.end)
            return "broken"
        if kinds & {"items", "point"}:
            return "items"
        return "any" if "any" in kinds else "list"

    def _pieces(self, e: tree.Pieces, scope: Scope) -> Kind:
        for _, condition in e.pieces:
            self._truth(condition, scope)
        values = [v for v, _ in e.pieces] + ([e.otherwise] if e.otherwise is not None else [])
        kinds = [self.kind_of(v, scope) for v in values]
        if "broken" in kinds:
            return "broken"
        plain = {"number" if k == "finding" else k for k in kinds if k != "any"}
        if len(plain) > 1:
            said = " and ".join(WORDS[k] for k in dict.fromkeys(kinds) if k != "any")
            self.error("pieces-differ", f"the pieces differ in what they are: {said}", e.start, e.end)
            return "broken"
        return plain.pop() if plain else "any"

    def _field(self, e: tree.Field, scope: Scope) -> Kind:
        written = self.source.text[e.target.start : e.target.end]
        if isinstance(e.target, tree.Name) and (fit := scope.find(e.target.name)) is not None and fit.fitted:
            return self._part_of_fit(e, fit, written)
        kind = self.kind_of(e.target, scope)
        known: tuple[str, ...] | None = None
        if kind in ("number", "list", "items", "text", "truth"):
            self.error("no-part", f"{WORDS[kind]} has no parts by name", e.start, e.end)
            return "broken"
        if kind == "point":
            known = ("x", "y", "z")
        elif kind == "table" and isinstance(e.target, tree.Name) and (found := scope.find(e.target.name)) is not None:
            known = found.columns
        if known is not None and e.name not in known:
            meant = nearest(e.name, known)
            start = e.end - len(e.name)
            what = "a point" if kind == "point" else f"'{written}'"
            fixes = [replace(start, e.end, meant)] if meant else []
            self.error(
                "no-part", f"{what} has no {'part' if kind == 'point' else 'column'} '{e.name}'", start, e.end, *fixes,
                advice="" if meant else ", ".join(known),
            )  # fmt: skip
            return "broken"
        return {"table": "any", "point": "number", "finding": "finding"}.get(kind, kind)  # type: ignore[return-value]

    def _part_of_fit(self, e: tree.Field, fit: Known, written: str) -> Kind:
        """`rating.n`, `rating.residuals`."""
        if e.name in fit.parts:
            return "list" if e.name in ("residuals", "fitted") else "finding"
        meant = nearest(e.name, fit.parts)
        start = e.end - len(e.name)
        fixes = [replace(start, e.end, meant)] if meant else []
        text = f"the fit '{written}' has no '{e.name}'"
        self.error("no-part", text, start, e.end, *fixes, advice="" if meant else ", ".join(fit.parts))
        return "broken"

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
        if isinstance(e, tree.Binary):
            return self._arithmetic(e, scope)
        if isinstance(e, tree.Range):
            return self._range(e, scope)
        if isinstance(e, tree.ListOf):
            items = {self.kind_of(item, scope) for item in e.items}
            if "broken" in items:
                return "broken"
            return "list" if items <= {"number", "finding"} else "any" if items <= {"number", "finding", "any"} else "items"
        if isinstance(e, tree.Index):
            return self._index(e, scope)
        if isinstance(e, tree.Prime):
            self.error(
                "prime-alone", "a derivative is a function; say where", e.start, e.end, advise(f"{self.source.text[e.start : e.end]}(x)")
            )
            return "broken"
        if isinstance(e, tree.PointOf):
            for item in e.items:
                self._number(item, scope)
            if len(e.items) > 3:
                self.error("point", f"a point has two or three coordinates, not {len(e.items)}", e.start, e.end, advise("[...] for a list"))
            return "point"
        if isinstance(e, tree.Pieces):
            return self._pieces(e, scope)
        if isinstance(e, tree.Field):
            return self._field(e, scope)
        if isinstance(e, tree.Quantity):
            return self._quantity(e, scope)
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
            outside, self.in_formula = self.in_formula, True
            self._request(e, scope)
            self.in_formula = outside
            if NOUNS[e.noun].draws:
                self.error("drawing-as-value", f"'{e.noun} of' draws; it is no value", e.start, e.end)
            if gives_formula(e):
                return "number"
            return "table" if NOUNS[e.noun].gives == "table" else "finding"
        return self._arithmetic(e, scope)

    def _arithmetic(self, e: tree.Expression, scope: Scope) -> Kind:
        parts = [e.left, e.right] if isinstance(e, tree.Binary) else [c for c in tree.children(e) if isinstance(c, tree.Expression)]
        kinds = [self.kind_of(c, scope) for c in parts]
        if isinstance(e, tree.Group):
            return kinds[0]
        for part, kind in zip(parts, kinds, strict=True):
            self._no_number(kind, part)
        if set(kinds) - {"number", "list", "finding", "any"}:
            return "broken"
        if kinds.count("list") > 1:
            self._lengths(e, parts, scope)
        if "any" in kinds:
            return "any"
        if "list" in kinds:
            return "list"
        return "finding" if "finding" in kinds else "number"

    def _lengths(self, e: tree.Expression, parts: list[tree.Expression], scope: Scope) -> None:
        known = [(p, n) for p in parts if (n := self.length_of(p, scope)) is not None]
        for part, n in known[1:]:
            if n != known[0][1]:
                one, other = (self.source.text[p.start : p.end] for p in (known[0][0], part))
                self.error(
                    "list-lengths",
                    f"lists of different lengths meet here: {one} has {known[0][1]} and {other} has {n} elements",
                    e.start,
                    e.end,
                )
                return

    def length_of(self, e: tree.Expression, scope: Scope) -> int | None:
        """The length of a list, where it can be seen before the script runs."""
        if isinstance(e, tree.Group):
            return self.length_of(e.inner, scope)
        if isinstance(e, tree.ListOf):
            return len(e.items)
        if isinstance(e, tree.Name):
            known = scope.find(e.name)
            return known.length if known is not None and known.kind == "list" else None
        if isinstance(e, tree.Range):
            low, high, step, count = (_literal(p) for p in (e.low, e.high, e.step, e.count))
            if count is not None:
                return int(count)
            if low is not None and high is not None and step and ((high - low) / step).denominator == 1 and (high - low) / step >= 0:
                return int((high - low) / step) + 1
            return None
        if isinstance(e, tree.Binary | tree.Negative | tree.Juxtaposed):
            lengths = {self.length_of(c, scope) for c in tree.children(e) if isinstance(c, tree.Expression)} - {None}
            return lengths.pop() if len(lengths) == 1 else None
        return None

    def _no_number(self, kind: Kind, part: tree.Expression) -> None:
        if kind in ("text", "truth", "point", "items", "table"):
            advice = "use its coordinates: p.x, p.y" if kind == "point" else ""
            self.error("text-as-number", f"{WORDS[kind]} is no number", part.start, part.end, advice=advice)

    def _quantity(self, e: tree.Quantity, scope: Scope) -> Kind:
        kind = self.kind_of(e.value, scope)
        if kind in ("text", "truth", "point", "items", "table"):
            self.error("unit", f"{WORDS[kind]} has no unit", e.start, e.end)
            return "broken"
        return "number" if kind == "finding" else kind

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
            return "number"
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
        if name in self.unsure:
            return  # a block that would have given it a value has a mistake, which is told there
        if name in self.local:
            self.error(
                "name-local", f"'{spelling}' has a value only inside the block in line {self.local[name]}", start, end,
                advise(f"give it one before that block: {spelling} = 0"),
            )  # fmt: skip
            return
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
        # Who has many names without a value has another mistake than a slip of the pen.
        self.guessed += 1
        meant = nearest(name, scope.all_names() | set(self.builtins.names())) if self.guessed <= MOST_GUESSED else None
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
            self._count(e, (len(known.parameters), len(known.parameters)), ", ".join(known.parameters))
            if known.defined:
                return "broken" if "broken" in kinds else "any"
            for argument, kind in zip(e.arguments, kinds, strict=True):
                self._no_number(kind, argument)
        elif known is not None and known.kind == "any":
            return "any"
        elif known is not None:
            if known.kind != "broken":
                self._number_called(e, function, known.kind)
            return "broken"
        elif function.name == "log":
            self._log(function)
            return "broken"
        elif self.builtins.is_function(function.name):
            return self._builtin_call(e, function, kinds, scope)
        elif self.builtins.is_constant(function.name):
            self._number_called(e, function)
            return "broken"
        else:
            self._unknown(function.name, function.spelling, function.start, function.end, scope, called=True)
            return "broken"
        return self._result(kinds)

    def _result(self, kinds: list[Kind]) -> Kind:
        if set(kinds) - {"number", "list", "finding", "any"}:
            return "broken"
        return "any" if "any" in kinds else "list" if "list" in kinds else "number"

    def _builtin_call(self, e: tree.Call, function: tree.Name, kinds: list[Kind], scope: Scope) -> Kind:
        name = function.name
        if not self.builtins.is_available(name):
            self._not_yet(f"'{function.spelling}'", function.start, function.end)
            return "broken"
        low, high = self.builtins.arity(name)
        self._count(e, (low, high), "x" if high == 1 else "...")
        if "broken" in kinds:
            return "broken"
        first = kinds[0] if kinds else "number"
        if name in ("normal", "uniform"):
            for argument in e.arguments:
                self._number(argument, scope)
            return "list"
        if name == "column":
            if first not in ("items", "any"):
                self.error(
                    "list-needed",
                    "column takes a list of lists",
                    e.arguments[0].start,
                    e.arguments[0].end,
                    advise("column([[1, 2], [3, 4]], 1)"),
                )
                return "broken"
            return "any"
        if name in _OF_LISTS or (name in ("min", "max") and len(kinds) == 1):
            if kinds and (first in ("number", "text", "truth", "point", "table") or (first == "items" and name not in _OF_ANY_LIST)):
                self.error(
                    "list-needed",
                    f"{name} takes a list{' of numbers' if first == 'items' else ''}",
                    e.arguments[0].start,
                    e.arguments[0].end,
                    advise(f"{name}([1, 2, 3])"),
                )
                return "broken"
            if name in ("sort", "reverse", "differences", "running_sum"):
                return "list" if first in ("list", "finding") else first
            return "any" if first in ("items", "any") and name in ("first", "last") else "number"
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

    def _number_called(self, e: tree.Call, function: tree.Name, kind: Kind = "number") -> None:
        if kind in ("list", "items"):
            inside = self.source.text[function.end + 1 : e.end - 1]
            self.error(
                "list-called", f"'{function.spelling}' is a list; its elements stand in square brackets", e.start, e.end,
                replace(function.end, e.end, f"[{inside}]", f"{function.spelling}[{inside}]"),
            )  # fmt: skip
            return
        if kind not in ("number", "finding"):
            self.error("value-called", f"'{function.spelling}' is {WORDS[kind]} and cannot be called", e.start, e.end)
            return
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
        elif known.defined:
            self.error(
                "prime-of-block", f"'{e.function.spelling}' is given by a block: it has values only, and no derivative by rule",
                e.start, e.end,
                advise(f"{e.function.spelling}(x) = ... in one formula has one"),
            )  # fmt: skip
        elif known.kind == "function" and len(known.parameters) != 1:
            self.error(
                "prime-of-several",
                f"'{e.function.spelling}' has {len(known.parameters)} variables; a prime cannot say which",
                e.start,
                e.end,
                *_partials(e, known),
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
        for place in e.places:
            kind = self._element(e, kind, place, scope)
        return kind

    def _element(self, e: tree.Index, kind: Kind, place: tree.Expression, scope: Scope) -> Kind:
        if kind in ("number", "text", "truth", "table", "function"):
            self.error("number-indexed", f"{WORDS[kind]} has no elements", e.start, e.end)
            return "broken"
        if isinstance(place, tree.Range):
            for part in (place.low, place.high):
                self._number(part, scope)
            if place.step is not None or place.count is not None:
                self.error("slice-step", "a slice has no step", place.start, place.end, advise("[xs[k] for k from 1 to 9 step 2]"))
            return kind
        self._number(place, scope)
        at = _literal(place)
        count = self.length_of(e.target, scope)
        if at is not None and (at.denominator != 1 or at < 1 or (count is not None and len(e.places) == 1 and at > count)):
            has = f"; the list has {count}" if count is not None else ""
            self.error("no-such-element", f"there is no element {_short(at)}{has}, counted from 1", e.start, e.end)
            return "broken"
        return {"list": "number", "point": "number", "finding": "finding", "broken": "broken"}.get(kind, "any")  # type: ignore[return-value]

    # ------------------------------------------------------------ saying it

    def error(self, code: str, text: str, start: int, end: int, *fixes: Fix, advice: str = "") -> None:
        self.messages.add(Message("error", code, start, end, text, tuple(fixes), advice))

    def need_list(self, e: tree.Expression, scope: Scope, *also: Kind) -> None:
        """A list of numbers must stand here, or one of some other kinds."""
        kind = self.kind_of(e, scope)
        if kind not in ("list", "finding", "any", "broken", *also):
            self.error("list-needed", f"a list of numbers is needed here; this is {WORDS[kind]}", e.start, e.end)

    def said_twice(self, options: tuple[tree.Option, ...]) -> None:
        """Each option is said once; what belongs to a parameter once for each."""
        seen: set[str] = set()
        for option in options:
            if option.parameter is None and option.name in seen:
                self.error("said-twice", f"'{option.name}' is said twice", option.start, option.end)
            seen.add(option.name)

    def warn(self, code: str, text: str, start: int, end: int) -> None:
        self.messages.add(Message("warning", code, start, end, text))

    def _not_yet(self, what: str, start: int, end: int) -> None:
        self.error("not-available-yet", f"{what}: not available yet", start, end)


_OF_LISTS = frozenset("sum product mean median sd variance length first last sort reverse differences running_sum".split())
_OF_ANY_LIST = frozenset("length first last reverse".split())


def _partials(e: tree.Prime, known: Known) -> list[Fix]:
    """The derivative by each variable in turn, in full words."""
    assert isinstance(e.function, tree.Name)
    called = f"{e.function.spelling}({', '.join(known.parameters)})"
    order = f", order {e.order}" if e.order > 1 else ""
    return [replace(e.start, e.end, f"derivative of {called} for {p}{order}") for p in known.parameters[:3]]


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
