"""Findings: numbered results with their evidence, in the shape of the record."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..formula.nodes import Formula, Named, Variable
from ..formula.typeset import name_tex, tex
from ..numerics.evidence import Evidence
from ..numerics.roots import Root, Roots, Stretch
from .values import FindingValue, FoundPlace, FunctionValue, ListValue, Scalar, TextValue, TruthValue, Value

MAX_SHOWN_DENOMINATOR = 10**9  # quotients of longer numbers tell a reader nothing
MAX_LISTED = 1_000  # elements of a list that a finding carries in full


@dataclass
class Finding:
    number: int
    line: int
    name: str | None
    noun: str
    statement: str
    values: list[dict[str, Any]]
    evidence: Evidence
    complete: bool
    summary: str
    method: str
    notes: list[str] = field(default_factory=list)
    latex: str | None = None
    part: str | None = None
    boxes: int | None = None
    variable: str | None = None

    def as_record(self) -> dict[str, Any]:
        found: dict[str, Any] = {
            "number": self.number, "line": self.line, "name": self.name, "noun": self.noun, "statement": self.statement,
            "values": self.values, "evidence": self.evidence, "complete": self.complete, "summary": self.summary,
            "method": self.method, "notes": self.notes,
        }  # fmt: skip
        if self.latex is not None:
            found["latex"] = self.latex
        if self.part is not None:
            found["part"] = self.part
        if self.boxes is not None:
            found["boxes"] = self.boxes
        if self.variable is not None:
            found["variable"] = self.variable
            found["variable_latex"] = name_tex(self.variable)
        return found


@dataclass(frozen=True, slots=True)
class Told:
    """What a value or a search amounts to, before it gets its number."""

    values: list[dict[str, Any]]
    evidence: Evidence
    complete: bool
    summary: str
    method: str
    notes: list[str]
    latex: str | None = None
    boxes: int | None = None
    variable: str | None = None


def short(value: float, digits: int = 10) -> str:
    """A number for a sentence, with a true minus sign."""
    text = f"{value:.{digits}g}"
    if "e" in text:
        mantissa, exponent = text.split("e")
        text = f"{mantissa}×10^{int(exponent)}"
    return text.replace("-", "−")


def tell_value(value: Value) -> Told:
    if isinstance(value, Scalar):
        return _tell_scalar(value)
    if isinstance(value, ListValue):
        return _tell_list(value)
    if isinstance(value, TextValue):
        return Told([{"value": value.text}], "proven", True, value.text, "as written", [])
    if isinstance(value, TruthValue):
        evidence: Evidence = "proven" if value.proven else "checked"
        said = "true" if value.truth else "false"
        return Told([{"value": value.truth, "evidence": evidence}], evidence, True, said, _truth_method(value), [])
    if isinstance(value, FindingValue):
        return _tell_places(value)
    return tell_function(value, 0, value.body)


def tell_check(value: TruthValue, said: str) -> Told:
    """A check: whether it passed, and the numbers that decided."""
    evidence: Evidence = "proven" if value.proven else "checked"
    summary = f"{'Holds' if value.truth else 'Fails'}: {said}."
    return Told([{"passed": value.truth, "evidence": evidence}], evidence, True, summary, _truth_method(value), [])


def _truth_method(value: TruthValue) -> str:
    return "compared exactly, or by enclosures that do not overlap" if value.proven else "floating-point numbers compared"


def _tell_scalar(value: Scalar) -> Told:
    row: dict[str, Any] = {"value": value.value}
    if value.exact is not None and 1 < value.exact.denominator <= MAX_SHOWN_DENOMINATOR:
        row["exact"] = f"{value.exact.numerator}/{value.exact.denominator}"
    if value.interval is not None:
        row["interval"] = list(value.interval)
    evidence: Evidence = "proven" if value.proven else "checked"
    row["evidence"] = evidence
    if value.exact is not None:
        method = "exact arithmetic"
    elif value.proven:
        method = "ball arithmetic, until the last digit was certain"
    else:
        method = "floating-point arithmetic, about 15 digits"
    said = short(value.value, 15)
    summary = f"{row['exact']} = {said}" if "exact" in row else said
    return Told([row], evidence, True, summary, method, [])


def _tell_list(value: ListValue) -> Told:
    data = value.data
    listed = [float(v) for v in data[:MAX_LISTED]]
    shown = ", ".join(short(v, 6) for v in data[:6])
    more = f", … {short(float(data[-1]), 6)}" if data.size > 6 else ""
    notes = [f"the first {MAX_LISTED} of {data.size} elements are kept"] if data.size > MAX_LISTED else []
    summary = f"[{shown}{more}], {data.size} element{'s' if data.size != 1 else ''}" if data.size else "an empty list"
    return Told(
        [{"value": listed, "evidence": "checked", "length": int(data.size)}],
        "checked",
        True,
        summary,
        "floating-point arithmetic, about 15 digits",
        notes,
    )


def _tell_places(value: FindingValue) -> Told:
    rows: list[dict[str, Any]] = []
    for place in value.places:
        row: dict[str, Any] = {"value": place.value, "evidence": place.evidence}
        if place.interval is not None:
            row["interval"] = list(place.interval)
        rows.append(row)
    from ..numerics.evidence import weakest

    said = ", ".join(short(p.value) for p in value.places) or "none"
    return Told(rows, weakest(p.evidence for p in value.places), True, said, f"from a finding ({value.noun})", [])


def tell_function(function: FunctionValue, primes: int, body: Formula) -> Told:
    """`show f'`: the formula itself, by rule, hence exact."""
    arguments = tuple(Variable(p) for p in function.parameters)
    head = tex(Named(function.name, body, arguments, primes))
    latex = f"{head} = {tex(body)}"
    method = "as defined" if not primes else "differentiated by rule"
    name = f"{function.name}{chr(39) * primes}({', '.join(function.parameters)})"
    return Told([{"latex": latex, "evidence": "proven"}], "proven", True, f"the formula of {name}", method, [], latex)


def reading_tex(name: str, value: Value) -> str | None:
    """A definition as mathematics, as the program understood it; None where there is nothing to typeset."""
    if isinstance(value, FunctionValue):
        head = tex(Named(name, value.body, tuple(Variable(p) for p in value.parameters)))
        said = f"{head} = {tex(value.body)}"
        spans = [rf"{tex(low)} \le {name_tex(p)} \le {tex(high)}" for p, (low, high) in value.domain.items()]
        return said + (r",\qquad " + r",\quad ".join(spans) if spans else "")
    if isinstance(value, Scalar):
        return f"{name_tex(name)} = {tex(value.formula)}"
    return None


# ---------------------------------------------------------------- roots

_COUNTS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def count_word(n: int) -> str:
    return _COUNTS[n] if n < len(_COUNTS) else str(n)


def tell_roots(found: Roots, variable: str, low: float, high: float) -> Told:
    rows = [_root_row(r) for r in found.roots]
    rows += [{"x": s.low, "x_high": s.high, "value": 0.0, "evidence": "checked", "kind": "stretch"} for s in found.flat]
    notes = _root_notes(found, variable)
    summary = _root_summary(found, low, high)
    return Told(rows, found.evidence, found.complete, summary, _root_method(found), notes, boxes=found.boxes, variable=variable)


def _root_row(root: Root) -> dict[str, Any]:
    row: dict[str, Any] = {
        "x": root.x, "value": 0.0, "interval": list(root.interval), "evidence": root.evidence, "kind": root.kind,
        "multiplicity": root.multiplicity, "residual": root.residual,
    }  # fmt: skip
    if root.exact is not None:
        row["exact"] = str(root.exact)
    if root.at_end:
        row["at_end"] = True
    if root.doubt:
        row["doubt"] = root.doubt
    return row


def _root_summary(found: Roots, low: float, high: float) -> str:
    span = f"from {short(low)} to {short(high)}"
    n = len(found.roots)
    if found.flat and not found.roots:
        stretches = ", ".join(_stretch(s) for s in found.flat)
        return f"Zero throughout {stretches}."
    plural = "root" if n == 1 else "roots"
    if not found.complete:
        where = ", ".join(_stretch(s) for s in found.unsettled[:3]) + (" and more" if len(found.unsettled) > 3 else "")
        return f"{count_word(n).capitalize()} {plural} found {span}; not settled: {where}."
    proven = all(r.evidence == "proven" for r in found.roots)
    head = f"{'Exactly ' if proven and n else ''}{count_word(n)} {plural} {span}"
    tail = ": each interval below holds one, and nothing else in the window is zero." if n and proven else (
        ": nothing in the window is zero." if not n else "; some are not proven.")  # fmt: skip
    if found.flat:
        tail = "; besides, it is zero throughout " + ", ".join(_stretch(s) for s in found.flat) + "."
    return (head + tail)[:1].upper() + (head + tail)[1:]


def _stretch(s: Stretch) -> str:
    return f"{short(s.low, 6)} to {short(s.high, 6)}"


def _root_method(found: Roots) -> str:
    if found.exact_only:
        return "solved exactly as a polynomial with rational coefficients"
    return f"ball arithmetic on the formula and its derivative; {found.boxes} boxes looked at"


def _root_notes(found: Roots, variable: str) -> list[str]:
    notes = []
    for root in found.roots:
        if root.multiplicity is not None and root.multiplicity > 1:
            how = "touches zero" if root.multiplicity % 2 == 0 else "crosses zero"
            notes.append(f"at {variable} = {short(root.x)} the curve {how} with multiplicity {root.multiplicity}")
        if root.at_end:
            notes.append(f"{variable} = {short(root.x)} is an end of the window")
        if root.doubt:
            notes.append(f"{variable} = {short(root.x)}: {root.doubt}")
    for place in found.removed[:5]:
        notes.append(f"at {variable} = {short(place)} the numerator is zero but the function has no value, so it is no root")
    if found.unsettled:
        hidden = len(found.unsettled)
        widest = max(found.unsettled, key=lambda s: s.high - s.low)
        spans = f"{hidden} span{'s' if hidden != 1 else ''} could not be settled, the widest {_stretch(widest)}"
        notes.append(f"{spans}; there may be more roots there, even infinitely many")
    return notes


def root_value(found: Roots) -> FindingValue:
    return FindingValue("roots", tuple(FoundPlace(r.x, r.interval, r.evidence) for r in found.roots))
