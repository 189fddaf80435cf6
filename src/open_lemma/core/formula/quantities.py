"""Formulas with units: one rule for what goes together, what is converted, and which unit comes out.

`coherent` gives the formula over bare numbers, each in the unit in which it was typed, with the factors put in where units of one
dimension meet in different sizes (the first one's unit wins), and the unit of the whole. `inferred` works out which units variables
must have.

Rules: ISO 80000-1:2009, section 7.1; temperatures: SI brochure, 9th edition, section 2.3.1 (a difference of degrees Celsius is one of
kelvins).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from . import catalogue as c
from .exact import rational
from .nodes import ONE, Apply, Formula, Given, Named, Number, Variable, Visit, transformed, variables, walk
from .units import NONE, PI, MixedUnits, Unit, symbol_of

Told = tuple[Formula, Unit | None]  # a formula over bare numbers, and its unit; None where none is said: it fits to any

_KEEP = frozenset(["neg", "abs", "floor", "ceil", "round"])
_ALIKE = {"+": "a sum", "-": "a difference", "min": "min", "max": "max", "mod": "mod"}
_ROOTS = {"sqrt": Fraction(1, 2), "cbrt": Fraction(1, 3)}
_ANGLES = frozenset(["sin", "cos", "tan"])
_VALUES = frozenset(["within", "from data", "of one period"])  # their first argument is the value


def has_units(formula: Formula) -> bool:
    """Whether a unit is said anywhere in a formula."""
    return any(isinstance(n, Given | Named) and n.unit is not None for n in walk(formula))


def unit_of(formula: Formula, units: Mapping[str, Unit] | None = None) -> Unit | None:
    """The unit of a formula's value; None where no unit is said anywhere in it. Raises MixedUnits."""
    return coherent(formula, units)[1]


def bare(formula: Formula) -> Formula:
    """A formula without the units in it; the numbers stay as they are."""

    def opened(node: Formula, visit: Visit) -> Formula | None:
        if isinstance(node, Named) and node.unit is not None:
            return visit(node.body)
        return replace(node, unit=None) if isinstance(node, Given) and node.unit is not None else None

    return transformed(formula, opened)


def coherent(formula: Formula, units: Mapping[str, Unit] | None = None) -> Told:
    """A formula over bare numbers and its unit; the formula itself where nothing had to be converted. units: of its variables.

    A plain number fits to any unit in a sum. Raises MixedUnits.
    """
    if not units and not has_units(formula):
        return formula, None
    reader = _Coherent(units or {})
    found, unit = reader.of(formula)
    return (found if reader.converted else formula), unit


def converted(formula: Formula, unit: Unit, to: Unit) -> Formula:
    """The number of a value in another unit of the same dimension: absolute temperatures with their zeros. Raises MixedUnits."""
    if not unit.like(to):
        raise MixedUnits(f"[{unit}] is not converted to [{to}]")
    if unit.zero != to.zero:
        factor = _factor(unit, to)
        away = (unit.zero - to.zero) / symbol_of(to.powers[0][0]).size
        scaled = formula if factor is None else c.times(formula, factor)
        return c.add(scaled, Number(away))
    return _scaled(formula, unit, to)


def product_over(formula: Formula, unit: Unit | None, across: Unit | None) -> Told:
    """A height such that its integral over a variable has the unit that is given: m and cm are like factors here too."""
    if across is None:
        return formula, unit
    height = unit or NONE
    merged = _merged(height, across)
    return _scaled(formula, across, merged), height.times(merged)


def _scaled(formula: Formula, unit: Unit, to: Unit) -> Formula:
    factor = _factor(unit, to)
    return formula if factor is None else c.times(formula, factor)


def _factor(unit: Unit, to: Unit) -> Formula | None:
    """By what the numbers of one unit are multiplied to be those of another; None for 1."""
    powers = dict(unit.sizes())
    for base, power in to.sizes().items():
        powers[base] = powers.get(base, Fraction(0)) - power
    plain, factors = Fraction(1), []
    for base, power in powers.items():
        if power.denominator == 1 and base != PI:
            plain *= base**power.numerator
        elif power:
            of = c.constant("pi") if base == PI else Number(base)
            factors.append(of if power == 1 else c.power(of, Number(power)))
    if plain != 1 or not factors:
        factors.insert(0, Number(plain))
    found = factors[0]
    for factor in factors[1:]:
        found = c.times(found, factor)
    return None if found == ONE else found


class _Coherent:
    """One reading of a formula. converted: whether anything had to be converted."""

    def __init__(self, units: Mapping[str, Unit]) -> None:
        self.units, self.converted = units, False
        self.done: dict[int, tuple[Formula, Told]] = {}

    def of(self, formula: Formula) -> Told:
        kept = self.done.get(id(formula))
        if kept is None:
            kept = self.done[id(formula)] = (formula, self._found(formula))
        return kept[1]

    def _found(self, formula: Formula) -> Told:
        if isinstance(formula, Number):
            return formula, None
        if isinstance(formula, Variable):
            return formula, self.units.get(formula.name)
        if isinstance(formula, Given):
            return formula, formula.unit
        if isinstance(formula, Named):
            return self._named(formula)
        assert isinstance(formula, Apply)
        return self._applied(formula)

    def _named(self, formula: Named) -> Told:
        body, unit = self.of(formula.body)
        if formula.unit is None:
            return (formula if body is formula.body else Named(formula.name, body, formula.arguments, formula.primes)), unit
        if unit is None or unit.plain or unit.same(formula.unit):
            return body, formula.unit
        if not unit.like(formula.unit):
            raise MixedUnits(f"a value in [{unit}] has [{formula.unit}] written behind it", "leave one of the units out")
        return self._to(body, unit, formula.unit), formula.unit

    def _to(self, formula: Formula, unit: Unit, to: Unit) -> Formula:
        found = converted(formula, unit, to)
        self.converted = self.converted or found is not formula
        return found

    def _applied(self, formula: Apply) -> Told:
        name, entry = formula.entry.name, formula.entry
        told = [self.of(a) for a in formula.arguments]
        if name == "choose":
            both = self._alike(told[1:], "a choice")
            return self._rebuilt(formula, [told[0][0], *(f for f, _ in both)]), _first_unit(both)
        if name == "within":
            placed = self._alike(told[1:], "a domain")
            return self._rebuilt(formula, [told[0][0], *(f for f, _ in placed)]), told[0][1]
        if name == "from data":
            placed = self._alike(told[1:], "the span of data")
            return self._rebuilt(formula, [told[0][0], *(f for f, _ in placed)]), told[0][1]
        if name == "of one period":
            placed = self._alike(told[1:4], "the span of data")
            return self._rebuilt(formula, [told[0][0], *(f for f, _ in placed), told[4][0]]), told[0][1]
        if entry.category == "condition" and len(told) == 2 and name not in ("and", "or"):
            return self._rebuilt(formula, [f for f, _ in self._alike(told, "a comparison")]), None
        if all(u is None for _, u in told):
            return self._rebuilt(formula, [f for f, _ in told]), None
        if name in _KEEP:
            return self._rebuilt(formula, [told[0][0], *(f for f, _ in told[1:])]), told[0][1]
        if name in _ALIKE:
            return self._summed(formula, name, told)
        if name in ("*", "/"):
            return self._product(formula, told, 1 if name == "*" else -1)
        if name == "^":
            return self._raised(formula, told)
        if name in _ROOTS:
            inner, unit = told[0]
            assert unit is not None
            self._no_temperature(unit, f"a root ({name})")
            return self._rebuilt(formula, [inner]), unit.power(_ROOTS[name])
        if entry.category in ("list", "defined", "random") or entry.source is not None:
            return self._rebuilt(formula, [f for f, _ in told]), None  # the curve through data says its unit around it
        return self._of_numbers(formula, name, told)

    def _rebuilt(self, formula: Apply, arguments: Sequence[Formula]) -> Formula:
        same = all(a is b for a, b in zip(arguments, formula.arguments, strict=True))
        return formula if same else Apply(formula.entry, tuple(arguments))

    # ------------------------------------------------------------ sums

    def _alike(self, told: Sequence[Told], where: str) -> list[Told]:
        """The same with all units brought to the first one. A plain number counts in the others' unit."""
        first = _first_unit(told)
        found: list[Told] = []
        for formula, unit in told:
            if unit is None or first is None or unit.same(first):
                found.append((formula, first))
                continue
            if not unit.like(first):
                raise _unlike(first, unit, where)
            found.append((self._to(formula, unit, first), first))
        return found

    def _summed(self, formula: Apply, name: str, told: list[Told]) -> Told:
        zeros = [u for _, u in told if u is not None and u.zero]
        if zeros and name in ("+", "-"):
            return self._temperatures(formula, name, told)
        both = self._alike(told, _ALIKE[name])
        return self._rebuilt(formula, [f for f, _ in both]), _first_unit(both)

    def _temperatures(self, formula: Apply, name: str, told: list[Told]) -> Told:
        """Sums and differences with temperatures on a scale of their own, which are told apart from differences of temperatures."""
        (left, one), (right, other) = told
        if one is not None and other is not None and not one.like(other):
            raise _unlike(one, other, _ALIKE[name])
        if one is None or other is None:
            return self._rebuilt(formula, [left, right]), one or other
        if one.zero and other.zero:
            if name == "+":
                raise MixedUnits(
                    f"two temperatures in [{one}] are not added: which of them is a difference?", "write differences in K: 5 [K]"
                )
            # A difference of temperatures is one of kelvins, or of what belongs to the first scale.
            return Apply(formula.entry, (left, self._to(right, other, one))), _step_of(one)
        if one.zero:
            return Apply(formula.entry, (left, self._scaled(right, other, _step_of(one), one))), one
        if name == "+":
            return Apply(formula.entry, (self._scaled(left, one, _step_of(other), other), right)), other
        raise MixedUnits(f"[{one}] less [{other}]: whether [{one}] is a temperature or a difference cannot be told", "write both in K")

    def _scaled(self, formula: Formula, unit: Unit, step: Unit, _: Unit) -> Formula:
        found = _scaled(formula, unit, step)
        self.converted = self.converted or found is not formula
        return found

    def _no_temperature(self, unit: Unit | None, where: str) -> None:
        if unit is not None and unit.zero:
            raise MixedUnits(
                f"a temperature in [{unit}] stands in {where}: is it one on the scale, or a difference?",
                "write it in K: 293.15 [K], or a difference as 20 [K]",
            )

    # ------------------------------------------------------------ products

    def _product(self, formula: Apply, told: list[Told], sign: int) -> Told:
        (left, one), (right, other) = told
        for unit in (one, other):
            self._no_temperature(unit, "a product" if sign > 0 else "a quotient")
        if one is None or other is None:
            unit = (one or NONE).times(other or NONE, sign)
            return self._rebuilt(formula, [left, right]), unit
        # 5 % of a length is a length; an angle beside another unit stays, as in degrees a second.
        if one.like_a_number and not other.like_a_number and not _is_angle(one):
            left, one = self._to(left, one, NONE), NONE
        elif other.like_a_number and not one.like_a_number and not _is_angle(other):
            right, other = self._to(right, other, NONE), NONE
        merged = _merged(one, other)
        right = self._to(right, other, merged) if not merged.same(other) else right
        unit = one.times(merged, sign)
        if sign < 0 and right == ONE:
            # What stands for the number of a value in a unit: x/(1 [cm]).
            whole, self.converted = left, True
        else:
            whole = self._rebuilt(formula, [left, right])
        if unit.powers and unit.like_a_number and len(unit.powers) > 1:
            whole, unit = self._to(whole, unit, NONE), NONE
        return whole, unit

    def _raised(self, formula: Apply, told: list[Told]) -> Told:
        (base, unit), (power, above) = told
        if above is not None and not above.plain:
            if not above.like_a_number:
                raise MixedUnits(f"an exponent has no unit, and this one has [{above}]")
            power = self._to(power, above, NONE)
        if unit is None:
            return self._rebuilt(formula, [base, power]), None
        self._no_temperature(unit, "a power")
        exponent = rational(formula.arguments[1]) if not variables(formula.arguments[1]) else None
        if exponent is not None:
            return self._rebuilt(formula, [base, power]), unit.power(exponent)
        if unit.like_a_number:
            return self._rebuilt(formula, [self._to(base, unit, NONE), power]), NONE
        # A power that is not known as a quotient, as in C*h^n: its unit cannot be said.
        return self._rebuilt(formula, [base, power]), None

    def _of_numbers(self, formula: Apply, name: str, told: list[Told]) -> Told:
        """Functions of which only numbers, and angles, have a value."""
        found = []
        for inner, unit in told:
            if unit is None or unit.plain:
                found.append(inner)
                continue
            if not unit.like_a_number:
                angles = "numbers and angles" if name in _ANGLES else "numbers"
                raise MixedUnits(f"{name} takes {angles}, and this is in [{unit}]", f"divide the unit away: {name}(.../(1 [{unit}]))")
            found.append(self._to(inner, unit, NONE))
        return self._rebuilt(formula, found), NONE


def _is_angle(unit: Unit) -> bool:
    return any(symbol_of(s).angle for s, _ in unit.powers)


def _first_unit(told: Sequence[Told]) -> Unit | None:
    return next((u for _, u in told if u is not None), None)


def _unlike(first: Unit, unit: Unit, where: str) -> MixedUnits:
    if first.plain is unit.plain:
        return MixedUnits(f"[{first}] and [{unit}] meet in {where}")
    return MixedUnits(f"a value in [{first if unit.plain else unit}] and one without a unit meet in {where}")


def _step_of(unit: Unit) -> Unit:
    """The unit of differences of temperatures on a scale."""
    return Unit((("K", Fraction(1)),)) if symbol_of(unit.powers[0][0]).size == 1 else Unit((("delta_degF", Fraction(1)),))


def _merged(one: Unit, other: Unit) -> Unit:
    """The second of two units, with symbols of the first in the place of others of the same dimension: m and cm are like factors."""
    powers: dict[str, Fraction] = {}
    for symbol, power in other.powers:
        dimension = symbol_of(symbol).dimension
        same = next((s for s, _ in one.powers if s == symbol), None)
        like = next((s for s, _ in one.powers if dimension and symbol_of(s).dimension == dimension), None)
        taken = same or like or symbol
        powers[taken] = powers.get(taken, Fraction(0)) + power
    return Unit(tuple((s, p) for s, p in powers.items() if p))


# ---------------------------------------------------------------- units of variables

Abstract = tuple[dict[str, Fraction], dict[str, Fraction]] | None  # known dimensions, and powers of those of variables; None: fits to any


def inferred(formula: Formula, names: Sequence[str], units: Mapping[str, Unit] | None = None) -> dict[str, Unit]:
    """The units that variables must have for a formula to make sense, in symbols that stand in it, where that can be worked out."""
    if not names or not has_units(formula):
        return {}
    reader = _DimensionReader(units or {}, frozenset(names))
    reader.of(formula)
    solved = reader.solved()
    symbols = _symbols_in(formula)
    return {n: _unit_for(d, symbols) for n, d in solved.items() if d}


class _DimensionReader:
    """The dimensions of the parts of a formula, and what must be equal for it to make sense."""

    def __init__(self, units: Mapping[str, Unit], names: frozenset[str]) -> None:
        self.units, self.names = units, names
        self.equations: list[tuple[dict[str, Fraction], dict[str, Fraction]]] = []
        self.done: dict[int, tuple[Formula, Abstract]] = {}

    def of(self, formula: Formula) -> Abstract:
        kept = self.done.get(id(formula))
        if kept is None:
            kept = self.done[id(formula)] = (formula, self._found(formula))
        return kept[1]

    def _found(self, formula: Formula) -> Abstract:
        if isinstance(formula, Number):
            return None
        if isinstance(formula, Variable):
            if formula.name in self.units:
                return dict(self.units[formula.name].dimension), {}
            return ({}, {formula.name: Fraction(1)}) if formula.name in self.names else None
        if isinstance(formula, Given):
            return None if formula.unit is None else (dict(formula.unit.dimension), {})
        if isinstance(formula, Named):
            inner = self.of(formula.body)
            return inner if formula.unit is None else (dict(formula.unit.dimension), {})
        assert isinstance(formula, Apply)
        return self._applied(formula)

    def _applied(self, formula: Apply) -> Abstract:
        name, entry = formula.entry.name, formula.entry
        told = [self.of(a) for a in formula.arguments]
        if name == "choose":
            return self._equal(told[1:])
        if name in _VALUES:
            self._equal(told[1:])
            return told[0]
        if name in _KEEP:
            return told[0]
        if name in _ALIKE or (entry.category == "condition" and name not in ("and", "or", "not")):
            return self._equal(told)
        if name in ("*", "/"):
            left, right = (({}, {}) if t is None else t for t in told)
            sign = 1 if name == "*" else -1
            known = all(t is None for t in told)
            return None if known else (_joined(left[0], right[0], sign), _joined(left[1], right[1], sign))
        if name == "^" or name in _ROOTS:
            exponent = _ROOTS.get(name) or (None if variables(formula.arguments[1]) else rational(formula.arguments[1]))
            base = told[0]
            if exponent is None or base is None:
                return None
            return {n: p * exponent for n, p in base[0].items()}, {n: p * exponent for n, p in base[1].items()}
        if entry.category in ("list", "defined", "random") or entry.source is not None:
            return None
        for t in told:
            if t is not None and t[1]:
                self.equations.append(t)
        return {}, {}

    def _equal(self, told: Sequence[Abstract]) -> Abstract:
        known = [t for t in told if t is not None]
        for t in known[1:]:
            self.equations.append((_joined(known[0][0], t[0], -1), _joined(known[0][1], t[1], -1)))
        return known[0] if known else None

    def solved(self) -> dict[str, dict[str, Fraction]]:
        """By elimination: each equation gives one variable by others; those that hang on none are known."""
        rules: dict[str, tuple[dict[str, Fraction], dict[str, Fraction]]] = {}
        for known, unknown in self.equations:
            known, unknown = self._reduced(known, unknown, rules)
            if not unknown:
                continue
            name, power = next(iter(unknown.items()))
            rest = {n: -p / power for n, p in unknown.items() if n != name}
            rule = {n: -p / power for n, p in known.items()}, rest
            rules = {n: self._reduced(*r, {name: rule}) for n, r in rules.items()}
            rules[name] = rule
        return {n: {d: p for d, p in known.items() if p} for n, (known, rest) in rules.items() if not any(rest.values())}

    def _reduced(
        self, known: dict[str, Fraction], unknown: dict[str, Fraction], rules: Mapping[str, tuple[dict[str, Fraction], dict[str, Fraction]]]
    ) -> tuple[dict[str, Fraction], dict[str, Fraction]]:
        for name, (value, rest) in rules.items():
            power = unknown.get(name)
            if power:
                unknown = _joined({n: p for n, p in unknown.items() if n != name}, rest, power)
                known = _joined(known, value, power)
        return known, {n: p for n, p in unknown.items() if p}


def _joined(one: Mapping[str, Fraction], other: Mapping[str, Fraction], times: Fraction | int) -> dict[str, Fraction]:
    found = dict(one)
    for name, power in other.items():
        found[name] = found.get(name, Fraction(0)) + power * times
    return {n: p for n, p in found.items() if p}


_BASE = {"meter": "m", "second": "s", "gram": "kg", "kelvin": "K", "ampere": "A", "mole": "mol", "candela": "cd"}


def _symbols_in(formula: Formula) -> dict[str, str]:
    """For each base dimension the first symbol of just that dimension that stands in a formula."""
    found: dict[str, str] = {}
    for node in reversed(list(walk(formula))):
        unit = node.unit if isinstance(node, Given | Named) else None
        for symbol, _ in unit.powers if unit is not None else ():
            meaning = symbol_of(symbol)
            if len(meaning.dimension) == 1 and meaning.dimension[0][1] == 1 and not meaning.zero:
                found.setdefault(meaning.dimension[0][0], symbol)
    return found


def _unit_for(dimension: Mapping[str, Fraction], symbols: Mapping[str, str]) -> Unit:
    powers = [(symbols.get(n) or _BASE.get(n, n), p) for n, p in dimension.items()]
    return Unit(tuple(sorted(powers, key=lambda sp: sp[1] < 0)))
