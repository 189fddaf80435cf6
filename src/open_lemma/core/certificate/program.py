"""A formula as plain data: a list of steps, each of which names earlier ones by their place.

    ["variable", "x"]  ["number", "3/2"]  ["ball", low, high]  ["sin", 0]  ["-", 0, 1]  ["choose", condition, taken, other]

Whatever a formula can break at stands as a step of its own, so that a certificate can name it: the denominator of `tan` is its
cosine, `max(a, b)` names a - b, a comparison a < b names a - b and compares it with zero.
"""

from __future__ import annotations

from typing import Any

from ..formula.nodes import Apply, Formula, Given, Named, Number, Variable

Step = list[Any]
MOST_STEPS = 3_000
MOST_KNOTS = 2_000


class NotPlain(Exception):
    """A part of the formula has no proof: it went through doubles, stands for a list or is given by a block. The text says which."""


def program_of(formula: Formula) -> list[Step]:
    """The steps of a formula; the last one is its value. Raises NotPlain."""
    writer = _Writer()
    last = writer.step(formula)
    if last != len(writer.steps) - 1:
        writer.steps.append(["same", last])
    return writer.steps


class _Writer:
    def __init__(self) -> None:
        self.steps: list[Step] = []
        self.places: dict[str, int] = {}
        self.seen: dict[int, int] = {}
        self.kept: list[Formula] = []

    def put(self, *step: Any) -> int:
        key = repr(step)
        if key not in self.places:
            if len(self.steps) >= MOST_STEPS:
                raise NotPlain("the formula is too long")
            self.steps.append(list(step))
            self.places[key] = len(self.steps) - 1
        return self.places[key]

    def step(self, formula: Formula) -> int:
        found = self.seen.get(id(formula))
        if found is None:
            found = self.seen[id(formula)] = self._new(formula)
            self.kept.append(formula)
        return found

    def _new(self, formula: Formula) -> int:
        if isinstance(formula, Named):
            return self.step(formula.body)
        if isinstance(formula, Number):
            return self.put("number", str(formula.value))
        if isinstance(formula, Variable):
            return self.put("variable", formula.name)
        if isinstance(formula, Given):
            if getattr(formula.data, "ndim", 0) or formula.interval is None:
                raise NotPlain(formula.name or "a number that went through doubles")
            return self.put("ball", *formula.interval)
        assert isinstance(formula, Apply)
        return self._applied(formula)

    def _applied(self, formula: Apply) -> int:
        entry, name = formula.entry, formula.entry.name
        if entry.category in ("list", "random", "defined"):
            raise NotPlain(name)
        if entry.source is not None:
            return self._pieces(entry, formula)
        if entry.expansion is not None and entry.category in ("rounding", "waveform"):
            return self.step(entry.expansion(*formula.arguments))
        if name == "of one period":
            return self.step(formula.arguments[0])
        args = [self.step(a) for a in formula.arguments]
        if name in ("<", ">", "<=", ">=", "=", "!="):
            return self.put(name, self.put("-", *args))
        if name in ("min", "max"):
            slot = args[0]
            for other in args[1:]:
                if other != slot:  # of the same number there is nothing to choose
                    slot = self.put(name, slot, other, self.put("-", slot, other))
            return slot
        if name == "tan":
            return self.put("tan", args[0], self.put("cos", args[0]))
        if name == "Gamma":
            return self.put("/", self.put("number", "1"), self.put("1/Gamma", args[0]))
        if name in ("asin", "acos"):
            one = self.put("number", "1")
            return self.put(name, args[0], self.put("-", one, args[0]), self.put("+", one, args[0]))
        if name == "within":
            value, place, low, high = args
            return self.put("within", value, self.put("-", place, low), self.put("-", high, place))
        if name == "*":
            for one, other in (args, args[::-1]):
                if self.steps[other] == ["ln", one]:
                    return self.put("u ln u", one)
        if name == "^" and args[0] == args[1]:
            return self.put("u^u", args[0])
        return args[0] if name == "from data" else self.put(name, *args)

    def _pieces(self, entry: Any, formula: Apply) -> int:
        source = entry.source
        knots, rows = getattr(source, "knots", None), getattr(source, "pieces", None)
        if knots is None or rows is None or len(formula.arguments) != 1 or len(knots) > MOST_KNOTS:
            raise NotPlain(entry.name)
        return self.put("pieces", self.step(formula.arguments[0]), [str(k) for k in knots], [[str(v) for v in row] for row in rows])
