"""Findings: numbered results with their evidence, in the shape of the record."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

from ..formula.estimates import standard_error
from ..formula.forms import closed_form
from ..formula.nodes import Formula, Named, Variable
from ..formula.piecewise import written_out
from ..formula.quantities import unit_of
from ..formula.typeset import name_tex, tex
from ..formula.written import written
from ..numerics.evidence import Evidence, weakest
from ..numerics.roots.search import Root, Roots, Stretch
from ..record.findings import CloseUp, Finding, Residuals, Strip
from ..record.notation import format_number, format_short
from ..record.rows import CheckRow, FormulaRow, RootRow, Row, StretchRow, TableRow, ValueRow
from .trace import text_of
from .undefined import with_unit
from .values import (
    DefinedFunction,
    FindingValue,
    FoundPlace,
    FunctionValue,
    ItemsValue,
    ListValue,
    PointValue,
    Scalar,
    TableValue,
    TextValue,
    TruthValue,
    Value,
)

MAX_SHOWN_DENOMINATOR = 10**9  # quotients of longer numbers tell a reader nothing
MAX_SHOWN_DIGITS = 100  # of whole numbers
MOST_PIECES = 12  # of an interpolation that are written out
MAX_PASSES = 1_000  # passes of a loop that a finding keeps
MAX_LISTED = 1_000  # elements of a list that a finding carries in full


@dataclass(slots=True)
class FindingDraft:
    """What a value or a search amounts to, before it gets its number."""

    values: list[Row]
    evidence: Evidence
    complete: bool
    summary: str
    method: str
    notes: list[str]
    latex: str | None = None
    boxes: int | None = None
    variable: str | None = None
    variables: tuple[str, ...] = ()  # whose values the places are
    closeups: list[CloseUp] = field(default_factory=list)  # small pictures near the first places
    strip: Strip = field(default_factory=list)  # spans that were looked at, and what became of them
    fit: Residuals | None = None  # what a fit leaves over, for a small picture
    certificates: list[dict[str, Any]] = field(default_factory=list)  # each with `rows`: how many rows it speaks of, and from which on

    def amend(self, k: int, **fields: Any) -> None:
        """Other fields for one row; which it has, its class says."""
        self.values[k] = replace(self.values[k], **fields)

    def graded(self, evidence: Evidence) -> None:
        """Another grade for it and for its rows."""
        self.evidence = evidence
        self.values = [replace(row, evidence=evidence) for row in self.values]


def value_finding(value: Value) -> FindingDraft:
    """What is told of a value that is shown."""
    if isinstance(value, Scalar):
        return _tell_scalar(value)
    if isinstance(value, ListValue):
        return _tell_list(value)
    if isinstance(value, TextValue):
        return FindingDraft([ValueRow(value=value.text)], "proven", True, value.text, "as written", [])
    if isinstance(value, TruthValue):
        evidence: Evidence = "proven" if value.proven else "checked"
        said = "true" if value.truth else "false"
        return FindingDraft([ValueRow(value=value.truth, evidence=evidence)], evidence, True, said, _truth_method(value), [])
    if isinstance(value, FindingValue):
        return _tell_places(value)
    if isinstance(value, PointValue):
        evidence = weakest("proven" if i.proven else "checked" for i in value.items)
        row = ValueRow(value=plain_value(value), evidence=evidence)
        return FindingDraft([row], evidence, True, text_of(value), _number_method(value.items[0]), [])
    if isinstance(value, ItemsValue):
        return _tell_items(value)
    if isinstance(value, TableValue):
        return table_finding(value)
    if isinstance(value, DefinedFunction):
        head = f"{value.name}({', '.join(value.parameters)})"
        return FindingDraft([ValueRow(value=head)], "proven", True, f"{head}, given by a define block", "as defined", [])
    return tell_function(value, 0, value.body)


def plain_value(value: Value) -> Any:
    """A value as JSON: numbers, texts, truth, lists; null for a gap."""
    if isinstance(value, Scalar):
        return None if value.gap else value.value
    if isinstance(value, ListValue):
        return [None if v != v else v for v in value.data[:MAX_LISTED].tolist()]
    if isinstance(value, PointValue | ItemsValue):
        return [plain_value(v) for v in value.items[:MAX_LISTED]]
    if isinstance(value, TruthValue):
        return value.truth
    if isinstance(value, FindingValue):
        return [p.value for p in value.places]
    return value.text if isinstance(value, TextValue) else text_of(value)


def _tell_items(value: ItemsValue) -> FindingDraft:
    n = len(value.items)
    shown = ", ".join(text_of(v) for v in value.items[:6]) + (", …" if n > 6 else "")
    notes = [f"the first {MAX_LISTED} of {n} elements are kept"] if n > MAX_LISTED else []
    numbers = [i for v in value.items for i in (v.items if isinstance(v, PointValue) else (v,)) if isinstance(i, Scalar | ListValue)]
    evidence: Evidence = "proven" if all(isinstance(i, Scalar) and i.proven for i in numbers) else "checked"
    row = ValueRow(value=plain_value(value), evidence=evidence, length=n)
    method = "as written" if evidence == "proven" else "floating-point arithmetic, about 15 digits"
    return FindingDraft([row], evidence, True, f"[{shown}], {n} element{'s' if n != 1 else ''}", method, notes)


def table_finding(
    table: TableValue, method: str = "as written", variable: str | None = None, evidence: Evidence = "proven"
) -> FindingDraft:
    """A table: one row of the finding a row of the table."""
    columns = {n: plain_value(c) for n, c in table.columns.items()}
    units = {n: str(c.unit) for n, c in table.columns.items() if isinstance(c, ListValue) and c.unit is not None and not c.unit.plain}
    rows: list[Row] = [TableRow(cells=dict(zip(columns, cells, strict=True))) for cells in zip(*columns.values(), strict=True)]
    spreads = {n: e for n, c in table.columns.items() if isinstance(c, ListValue) and (e := c.standard_errors()) is not None}
    if spreads:
        rows = [replace(row, errors={n: float(e[k]) for n, e in spreads.items() if e[k] > 0} or None) for k, row in enumerate(rows)]
    notes = [f"the first {MAX_LISTED} of {table.rows} rows are kept"] if table.rows > MAX_LISTED else []
    notes += [f"{name} in {unit}" for name, unit in units.items()]
    summary = f"{table.rows} row{'s' if table.rows != 1 else ''} of {', '.join(columns)}"
    return FindingDraft(rows, evidence, True, summary, method, notes, variable=variable)


def check_finding(value: TruthValue, said: str) -> FindingDraft:
    """A check: whether it passed, and the numbers that decided."""
    evidence: Evidence = "proven" if value.proven else "checked"
    summary = f"{'Holds' if value.truth else 'Fails'}: {said}{_apart(value)}."
    return FindingDraft([CheckRow(passed=value.truth, evidence=evidence)], evidence, True, summary, _truth_method(value), [])


def _apart(value: TruthValue) -> str:
    if value.apart is None:
        return ""
    return f"; that is {format_short(value.apart, 2)} times the standard uncertainty of their difference"


def _truth_method(value: TruthValue) -> str:
    if value.apart is not None:
        return "central values compared, and their difference with its standard uncertainty"
    return "compared exactly, or by enclosures that do not overlap" if value.proven else "floating-point numbers compared"


def _tell_scalar(value: Scalar) -> FindingDraft:
    if value.gap:
        return FindingDraft([ValueRow(value=None, evidence="proven")], "proven", True, "gap, a missing value", "as written", [])
    exact = latex = None
    if value.exact is not None and 1 < value.exact.denominator <= MAX_SHOWN_DENOMINATOR:
        exact = f"{value.exact.numerator}/{value.exact.denominator}"
    elif value.exact is not None and value.exact.denominator == 1 and 10**15 <= abs(value.exact) < 10**MAX_SHOWN_DIGITS:
        exact = str(value.exact.numerator)
    elif value.exact is None and value.proven:
        form = closed_form(value.formula)
        said = format_short(value.value, 15).replace("−", "-")
        exact, latex = (None, None) if form is None or form[0] == said else form
    evidence: Evidence = "proven" if value.proven else "checked"
    error = standard_error(value.formula)
    unit = None if value.unit is None or value.unit.plain else str(value.unit)
    row = ValueRow(
        value=value.value, exact=exact, interval=value.interval, evidence=evidence, standard_error=error, unit=unit
    )  # fmt: skip
    behind = f" {unit}" if unit else ""
    said = format_short(value.value, 15) + behind if error is None else with_unit(value.value, error, unit)
    summary = said if exact is None else f"{exact} = {said}"
    return FindingDraft(
        [row], evidence, True, summary, _number_method(value), [], f"{latex} = {number_latex(value.value)}" if latex else None
    )


def _number_method(value: Scalar) -> str:
    if value.exact is not None:
        return "exact arithmetic"
    return "ball arithmetic, until the last digit was certain" if value.proven else "floating-point arithmetic, about 15 digits"


def number_latex(value: float, digits: int = 10) -> str:
    mantissa, _, exponent = f"{value:.{digits}g}".partition("e")
    return mantissa if not exponent else rf"{mantissa}\times 10^{{{int(exponent)}}}"


def derivative_finding(formula: Formula, head: str) -> FindingDraft:
    """A formula that was found by rule."""
    latex = f"{head} = {tex(formula)}"
    text = written(formula)
    return FindingDraft([FormulaRow(latex=latex, text=text, evidence="proven")], "proven", True, text, "differentiated by rule", [], latex)


def over_passes(finding: Finding, told: FindingDraft, number: int, at: dict[str, Any]) -> None:
    """One more pass of a loop for the finding of one of its statements: a row a pass."""
    if number > MAX_PASSES:
        if number == MAX_PASSES + 1:
            finding.notes.append(f"the first {MAX_PASSES} passes are kept")
        return
    finding.certificates += [{**part, "first": part["first"] + len(finding.values)} for part in told.certificates]
    finding.values += [replace(row, number_of_pass=number, at=at or None) for row in told.values or [ValueRow(value=None)]]
    finding.evidence = weakest([finding.evidence, told.evidence])
    finding.complete = finding.complete and told.complete
    finding.notes += [n for n in told.notes if n not in finding.notes]
    finding.said.append(told.summary.rstrip("."))
    shown = finding.said if len(finding.said) <= 8 else [*finding.said[:4], "…", *finding.said[-3:]]
    finding.summary = f"{number} pass{'es' if number != 1 else ''}: {'; '.join(shown)}"
    finding.latex = None


def _tell_list(value: ListValue) -> FindingDraft:
    data = value.data
    listed = plain_value(value)
    shown = ", ".join(_seen(v) for v in data[:6])
    more = f", … {_seen(data[-1])}" if data.size > 6 else ""
    notes = [f"the first {MAX_LISTED} of {data.size} elements are kept"] if data.size > MAX_LISTED else []
    unit = "" if value.unit is None or value.unit.plain else f" {value.unit}"
    summary = f"[{shown}{more}]{unit}, {data.size} element{'s' if data.size != 1 else ''}" if data.size else "an empty list"
    evidence: Evidence = "checked"
    exact = None
    method = "floating-point arithmetic, about 15 digits"
    if value.exact is not None:
        evidence = "proven"
        method = "exact elements, each shown as the nearest double"
        if any(v.denominator > 1 for v in value.exact) and all(v.denominator < 1000 for v in value.exact):
            exact = [str(v) for v in value.exact]
    errors = None
    if value.formulas is not None:
        errors = [standard_error(f) or 0.0 for f in value.formulas]
        shown = ", ".join(with_unit(float(v), e or None, None) for v, e in list(zip(data, errors, strict=True))[:6])
        summary = f"[{shown}{', …' if data.size > 6 else ''}]{unit}, {data.size} element{'s' if data.size != 1 else ''}"
    row = ValueRow(
        value=listed, exact=exact, unit=unit.strip() or None, length=int(data.size), evidence=evidence, standard_errors=errors
    )  # fmt: skip
    return FindingDraft([row], evidence, True, summary, method, notes)


def _seen(value: float) -> str:
    return "gap" if value != value else format_short(float(value), 6)


def _tell_places(value: FindingValue) -> FindingDraft:
    rows: list[ValueRow] = []
    for place in value.places:
        error = None if place.formula is None else standard_error(place.formula)
        unit = place.unit if place.formula is None or place.unit is not None else unit_of(place.formula)
        known = None if unit is None or unit.plain else str(unit)
        rows.append(ValueRow(value=place.value, interval=place.interval, evidence=place.evidence, standard_error=error, unit=known))
    said = ", ".join(with_unit(r.value, r.standard_error, r.unit) for r in rows) or "none"
    return FindingDraft([*rows], weakest(p.evidence for p in value.places), True, said, f"from a finding ({value.noun})", [])


def tell_function(function: FunctionValue, primes: int, body: Formula) -> FindingDraft:
    """`show f'`: the formula itself, by rule, hence exact."""
    arguments = tuple(Variable(p) for p in function.parameters)
    body = written_out(body, MOST_PIECES)
    head = tex(Named(function.name, body, arguments, primes))
    latex = f"{head} = {tex(body)}"
    method = "as defined" if not primes else "differentiated by rule"
    name = f"{function.name}{chr(39) * primes}({', '.join(function.parameters)})"
    text = f"{name} = {written(body)}"
    return FindingDraft([FormulaRow(latex=latex, text=text, evidence="proven")], "proven", True, text, method, [], latex)


def reading_tex(name: str, value: Value) -> str | None:
    """A definition as mathematics, as the program understood it; None where there is nothing to typeset."""
    if isinstance(value, FunctionValue):
        if value.source is not None and value.source.noun == "interpolation":
            return None  # the finding says it
        if value.source is not None and isinstance(value.body, Named) and not value.body.name:
            value = replace(value, body=value.body.body)  # the unit of the data is told with the parameters
        head = tex(Named(name, value.body, tuple(Variable(p) for p in value.parameters)))
        said = f"{head} = {tex(value.body)}"
        spans = [rf"{tex(low)} \le {name_tex(p)} \le {tex(high)}" for p, (low, high) in value.domain.items()]
        return said + (r",\qquad " + r",\quad ".join(spans) if spans else "")
    if isinstance(value, Scalar) and not value.gap:
        return f"{name_tex(name)} = {tex(value.formula)}"
    if isinstance(value, PointValue):
        return f"{name_tex(name)} = ({', '.join(tex(i.formula) for i in value.items)})"
    return None


def reading_text(name: str, value: Value) -> str:
    """The same as text of the language."""
    if isinstance(value, FunctionValue):
        return f"{name}({', '.join(value.parameters)}) = {written(value.body)}"
    if isinstance(value, Scalar):
        return f"{name} = {written(value.formula)}"
    return f"{name} = {text_of(value)}"


# ---------------------------------------------------------------- roots

_COUNTS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def count_word(n: int) -> str:
    return _COUNTS[n] if n < len(_COUNTS) else str(n)


def root_rows(found: Roots) -> list[RootRow | StretchRow]:
    """Rows of the zeros, then of the spans throughout which it is zero."""
    stretches = [StretchRow(x=s.low, x_high=s.high, value=0.0, evidence="checked", kind="stretch") for s in found.flat]
    return [*(_root_row(r) for r in found.roots), *stretches]


def roots_finding(found: Roots, variable: str, low: float, high: float, words: tuple[str, str] = ("root", "roots")) -> FindingDraft:
    """What is told of roots: rows, sentence, method, notes."""
    rows = root_rows(found)
    notes = _root_notes(found, variable)
    summary = _root_summary(found, low, high, words)
    return FindingDraft([*rows], found.evidence, found.complete, summary, _root_method(found), notes, boxes=found.boxes, variable=variable)


def _root_row(root: Root) -> RootRow:
    return RootRow(
        x=root.x, value=0.0, interval=root.interval, evidence=root.evidence, kind=root.kind, multiplicity=root.multiplicity,
        residual=root.residual, exact=None if root.exact is None else str(root.exact), at_end=root.at_end, doubt=root.doubt,
    )  # fmt: skip


def _root_summary(found: Roots, low: float, high: float, words: tuple[str, str]) -> str:
    span = f"from {format_number(low)} to {format_number(high)}"
    n = len(found.roots)
    if found.flat and not found.roots:
        stretches = ", ".join(_stretch(s) for s in found.flat)
        return f"Zero throughout {stretches}."
    plural = words[0] if n == 1 else words[1]
    if not found.complete:
        where = ", ".join(_stretch(s) for s in found.unsettled[:3]) + (" and more" if len(found.unsettled) > 3 else "")
        return f"{count_word(n).capitalize()} {plural} found {span}; not settled: {where}."
    proven = found.covered and all(r.evidence == "proven" for r in found.roots)
    head = f"{'Exactly ' if proven and n else ''}{count_word(n)} {plural} {span}"
    tail = f": each interval below holds one, and nothing else in the window {_elsewhere(words)}." if n and proven else (
        "." if n else f": nothing in the window {_elsewhere(words)}." if found.covered else ": none was found.")  # fmt: skip
    if n and not proven:
        tail = "; that there are no others is not proven." if all(r.evidence == "proven" for r in found.roots) else "; some are not proven."
    if found.flat:
        tail = "; besides, it is zero throughout " + ", ".join(_stretch(s) for s in found.flat) + "."
    return (head + tail)[:1].upper() + (head + tail)[1:]


def _elsewhere(words: tuple[str, str]) -> str:
    return "is zero" if words[0] == "root" else f"is a {words[0]}"


def _stretch(s: Stretch) -> str:
    return f"{format_number(s.low, 6)} to {format_number(s.high, 6)}"


def _root_method(found: Roots) -> str:
    if found.exact_only:
        return "solved exactly as a polynomial with rational coefficients"
    return f"ball arithmetic on the formula and its derivative; {found.boxes} boxes looked at"


def _root_notes(found: Roots, variable: str) -> list[str]:
    notes = []
    for root in found.roots:
        if root.multiplicity is not None and root.multiplicity > 1:
            how = "touches zero" if root.multiplicity % 2 == 0 else "crosses zero"
            notes.append(f"at {variable} = {format_short(root.x)} the curve {how} with multiplicity {root.multiplicity}")
        if root.at_end:
            notes.append(f"{variable} = {format_short(root.x)} is an end of the window")
        if root.doubt:
            notes.append(f"{variable} = {format_short(root.x)}: {root.doubt}")
    for place in found.removed[:5]:
        notes.append(f"at {variable} = {format_short(place)} the numerator is zero but the function has no value, so it is no root")
    if found.unsettled:
        hidden = len(found.unsettled)
        widest = max(found.unsettled, key=lambda s: s.high - s.low)
        spans = f"{hidden} span{'s' if hidden != 1 else ''} could not be settled, the widest {_stretch(widest)}"
        notes.append(f"{spans}; there may be more roots there, even infinitely many")
    return notes


def root_value(found: Roots, variable: str, noun: str = "roots") -> FindingValue:
    places = tuple(FoundPlace(r.x, r.interval, r.evidence, r.exact) for r in found.roots)
    return FindingValue(noun, places, {"x": places, variable: places})
