"""Running a script: statement by statement, findings numbered as they come, figures as plain data."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from ..figure.draw import draw
from ..figure.model import FigureData
from ..formula.catalogue import BUILTINS, ENTRIES, subtract
from ..formula.domain import clip, stated_domain
from ..formula.nodes import Apply, variables
from ..language import tree
from ..language.checker import broken_names, check
from ..language.messages import Message, Refused, message_record
from ..language.parser import Reading, parse
from ..numerics.roots import NotSearchable, find_roots
from .drawing import FigureBuilder, Note
from .findings import Finding, Told, reading_tex, root_value, short, tell_check, tell_function, tell_roots, tell_value
from .lower import Lowering, compare, refusal
from .values import FunctionValue, Scalar, TextValue, Value

Event = dict[str, Any]
Emit = Callable[[Event], None]


@dataclass
class DrawnFigure:
    data: FigureData
    notes: list[Note]
    part: str | None


@dataclass
class Outcome:
    """What came of a run: findings and figures in order, readings of definitions, and all messages."""

    reading: Reading
    findings: list[Finding] = field(default_factory=list)
    figures: list[DrawnFigure] = field(default_factory=list)
    readings: list[dict[str, Any]] = field(default_factory=list)
    names: dict[str, Value] = field(default_factory=dict)  # what names stand for at the end

    @property
    def failed(self) -> bool:
        return self.reading.messages.has_errors()


class UnknownPart(ValueError):
    """The script has no part of that title."""


def read(text: str) -> tuple[Reading, set[int]]:
    """Parse and check; the second value tells which statements cannot be run."""
    reading = parse(text, BUILTINS)
    return reading, check(reading, BUILTINS)


def run(text: str, emit: Emit = lambda _: None, part: str | None = None) -> Outcome:
    """Run a script. Mistakes become messages; statements without mistakes are run all the same.

    emit  told of each finding, figure and statement as it comes
    part  run only this part, with the definitions it needs from elsewhere
    """
    reading, broken = read(text)
    return _Interpreter(reading, broken, emit).run(part)


class _Interpreter:
    def __init__(self, reading: Reading, broken: set[int], emit: Emit) -> None:
        self.reading, self.broken, self.emit = reading, broken, emit
        self.text = reading.source.text
        self.line_of = reading.source.line_of
        self.names: dict[str, Value] = {}
        self.lost: set[str] = set()  # names whose definition has a mistake or failed while running
        self.unread = broken_names(reading)  # names that lines which cannot be read would have defined, with their lines
        self.outcome = Outcome(reading, names=self.names)
        self.part: str | None = None
        self.number = 0
        self.figure_count = 0
        self.scope = Lowering(self.text, self.names, self._request_value)

    def run(self, only: str | None) -> Outcome:
        statements = self.reading.script.statements
        if only is not None and only not in [s.title for s in statements if isinstance(s, tree.Part)]:
            raise UnknownPart(only)
        for place, statement in enumerate(statements):
            if isinstance(statement, tree.Part):
                self.part = statement.title
                continue
            shown = only is None or self.part == only
            self.emit({"event": "progress", "line": self.line_of(statement.start), "done": place, "of": len(statements)})
            if not shown and not isinstance(statement, tree.Definition):
                self._count_only(statement)
                continue
            self._safely(statement, shown)
        return self.outcome

    def _count_only(self, statement: tree.Statement) -> None:
        """Findings and figures of other parts keep their numbers though they are not worked out."""
        if isinstance(statement, tree.Show):
            self.number += len(statement.items)
        elif isinstance(statement, tree.Figure) or _draws(statement):
            self.figure_count += 1
        elif isinstance(statement, tree.Bare | tree.Check):
            self.number += 1

    def _safely(self, statement: tree.Statement, shown: bool) -> None:
        line = self.line_of(statement.start)
        for name in [n for n, known in self.unread.items() if known.line < line]:
            del self.unread[name]
            self._lose_names(name)
        if statement.start in self.broken:
            self._lose(statement)
            return
        try:
            if self._needs_lost(statement):
                raise _Skip
            self._statement(statement, shown)
        except (_Skip, Refused) as trouble:
            self._lose(statement)
            if isinstance(trouble, Refused):
                self._message(trouble.message)
        except RecursionError:
            self._fault(statement, "too-deep", "this formula is nested too deeply to be worked out; give parts of it names")
        except (MemoryError, OverflowError):
            self._fault(statement, "too-large", "a number or list on the way is too large to be worked out")
        except Exception as trouble:  # a fault of ours must cost the student one line, not the run
            self._fault(statement, "internal", f"this could not be worked out, and that is our fault ({type(trouble).__name__})")

    def _lose(self, statement: tree.Statement) -> None:
        """What a statement should have defined has no value; what rests on it is passed over without a word."""
        self._lose_names(*tree.defined_names(statement))

    def _lose_names(self, *names: str) -> None:
        for name in names:
            self.lost.add(name)
            self.names.pop(name, None)

    def _fault(self, statement: tree.Statement, code: str, text: str) -> None:
        self._lose(statement)
        self._message(Message("error", code, statement.start, statement.end, text))

    def _message(self, message: Message) -> None:
        self.reading.messages.add(message)
        self.emit({"event": "message", "message": message_record(message, self.reading.source)})

    def _needs_lost(self, statement: tree.Statement) -> bool:
        return bool(self.lost) and bool(self.lost & tree.free_names(statement))

    # ------------------------------------------------------------ statements

    def _statement(self, statement: tree.Statement, shown: bool) -> None:
        if isinstance(statement, tree.Definition):
            self._definition(statement, self.names, shown)
        elif isinstance(statement, tree.Show):
            for item in statement.items:
                self._show(item, statement)
        elif isinstance(statement, tree.Check):
            self._check(statement)
        elif isinstance(statement, tree.Figure):
            self._figure(statement)
        elif isinstance(statement, tree.Bare):
            if _draws(statement):
                assert isinstance(statement.expression, tree.Request)
                self._lone_figure(statement.expression)
            else:
                self._show(statement.expression, statement)

    def _definition(self, d: tree.Definition, names: dict[str, Value], shown: bool) -> None:
        scope = Lowering(self.text, names, self._request_value)
        if isinstance(d.body, tree.Request):
            self.number += 1
            told, value = self._request(d.body, scope)
            names[d.name] = value
            if shown:
                self._finding(told, d.body.noun, d, d.name)
        elif d.parameters is not None:
            names[d.name] = self._function(d, scope)
        else:
            names[d.name] = scope.value(d.body)
        self.lost.discard(d.name)
        latex = reading_tex(d.name, names[d.name])
        if latex is not None and not isinstance(d.body, tree.Number):
            self.outcome.readings.append({"line": self.line_of(d.end - 1), "latex": latex})

    def _function(self, d: tree.Definition, scope: Lowering) -> FunctionValue:
        assert d.parameters is not None
        body = scope.within(*d.parameters).formula(d.body)
        domain = {}
        for window in d.domain:
            assert window.low is not None
            assert window.high is not None
            low, high = scope.span(window.low, window.high, "the domain")
            domain[window.name] = (low.formula, high.formula)
        return FunctionValue(d.name, d.parameters, body, domain)

    def _show(self, item: tree.Expression, statement: tree.Statement) -> None:
        self.number += 1
        function = item.function if isinstance(item, tree.Prime) else item
        value = self.names.get(function.name) if isinstance(function, tree.Name) else None
        if isinstance(item, tree.Request):
            told, _ = self._request(item, self.scope)
            self._finding(told, item.noun, statement, None)
        elif isinstance(value, FunctionValue):
            primes = item.order if isinstance(item, tree.Prime) else 0
            told = tell_function(value, primes, self.scope.derived(value, primes, item))
            self._finding(told, "show", statement, None)
        else:
            told = tell_value(self.scope.value(item))
            self._finding(told, "show", statement, None, item)

    def _check(self, check: tree.Check) -> None:
        self.number += 1
        within = next((o for o in check.options if o.name == "within"), None)
        condition = check.condition
        if within is not None and isinstance(condition, tree.Comparison) and not isinstance(within.value, str):
            left, right = (self.scope.number(o) for o in condition.operands)
            tolerance = self.scope.number(within.value)
            if tolerance.value < 0:
                raise refusal("within", f"a tolerance is not negative; this one is {short(tolerance.value)}", within)
            away = Apply(ENTRIES["abs"], (subtract(left.formula, right.formula),))
            found = compare(self.scope.as_scalar(away), tolerance, "<=")
            said = f"{short(left.value)} and {short(right.value)} are {short(abs(left.value - right.value), 4)} apart"
        elif isinstance(condition, tree.Comparison):
            values = [self.scope.value(o) for o in condition.operands]
            found = self.scope.compared(condition, values)
            said = self._sides(condition, values)
        else:
            found = self.scope.truth(condition)
            said = self.text[condition.start : condition.end]
        self._finding(tell_check(found, said), "check", check, None)

    def _sides(self, condition: tree.Comparison, values: list[Value]) -> str:
        """A comparison with the numbers that it compares, for the sentence about it."""
        written = self.text[condition.start : condition.end]
        known = [short(v.value) for v in values if isinstance(v, Scalar)]
        return f"{written}, with {', '.join(known)}" if len(known) == len(values) else written

    def _finding(self, told: Told, noun: str, statement: tree.Statement, name: str | None, item: tree.Expression | None = None) -> None:
        several = isinstance(statement, tree.Show) and len(statement.items) > 1 and item is not None
        place: tree.Node = item if several and item is not None else statement
        finding = Finding(
            self.number, self.line_of(place.start), name, noun, self.text[place.start : place.end], told.values, told.evidence,
            told.complete, told.summary, told.method, told.notes, told.latex, self.part, told.boxes, told.variable,
        )  # fmt: skip
        self.outcome.findings.append(finding)
        self.emit({"event": "finding", "finding": finding.as_record()})

    # ------------------------------------------------------------ requests

    def _request_value(self, request: tree.Request) -> Value:
        return self._request(request, self.scope)[1]

    def _request(self, request: tree.Request, scope: Lowering) -> tuple[Told, Value]:
        """`roots of …`: the one request that computes so far; the checker has refused all others."""
        subject = request.subjects[0]
        window = request.windows[0] if request.windows else None
        variable = window.name if window else FigureBuilder(scope, self.line_of, self.text)._variable(subject)
        formula = scope.within(variable).formula(subject)
        notes: list[str] = []
        if window is not None and window.low is not None and window.high is not None:
            low, high = scope.span(window.low, window.high, "the window")
            clipped = clip(formula, variable, low.formula, high.formula)
            if clipped.narrowed:
                notes.append("the definition states a domain; the window was narrowed to it")
        else:
            stated = stated_domain(formula, variable)
            if stated is None:
                raise refusal("window-needed", "say where the roots are sought", request)
            clipped = clip(formula, variable, *stated)
        if clipped.empty:
            raise refusal("outside-domain", "the window lies outside the domain that the definition states", request)
        if variable not in variables(clipped.formula):
            notes.append(f"the formula does not depend on {variable}")
        return self._roots(clipped, variable, request, notes)

    def _roots(self, clipped: Any, variable: str, request: tree.Request, notes: list[str]) -> tuple[Told, Value]:
        line = self.line_of(request.start)

        def found(count: int) -> None:
            self.emit({"event": "progress", "line": line, "found": count})

        try:
            roots = find_roots(clipped.formula, variable, clipped.low, clipped.high, found=found)
        except NotSearchable as reason:
            raise refusal("not-searchable", str(reason), request) from None
        from ..formula.certain import certain_value

        told = tell_roots(roots, variable, certain_value(clipped.low).value, certain_value(clipped.high).value)
        told.notes.extend(notes)
        return told, root_value(roots)

    # ------------------------------------------------------------ figures

    def _figure(self, figure: tree.Figure) -> None:
        self.figure_count += 1
        local = dict(self.names)
        scope = Lowering(self.text, local, self._request_value)
        builder = FigureBuilder(scope, self.line_of, self.text)
        for inner in figure.body:
            if isinstance(inner, tree.Definition):
                self._definition(inner, local, True)
        for inner in figure.body:
            if isinstance(inner, tree.Bare) and isinstance(inner.expression, tree.Request):
                builder.draw(inner.expression)
            elif not isinstance(inner, tree.Definition | tree.Show):
                builder.setting(inner)
        name = figure.name or f"figure_{self.figure_count}"
        self._drawn(builder.build(name, figure.title, self.line_of(figure.start)), builder)

    def _lone_figure(self, request: tree.Request) -> None:
        self.figure_count += 1
        builder = FigureBuilder(self.scope, self.line_of, self.text)
        builder.draw(request)
        taken = {f.data.name for f in self.outcome.figures}
        name = f"figure_{self.figure_count}"
        while name in taken:
            name += "_"
        self._drawn(builder.build(name, None, self.line_of(request.start)), builder)

    def _drawn(self, data: FigureData, builder: FigureBuilder) -> None:
        drawn = DrawnFigure(data, builder.notes, self.part)
        self.outcome.figures.append(drawn)
        self.emit({"event": "figure", "figure": drawn})


class _Skip(Exception):
    """The statement rests on a name that has no value."""


def _draws(statement: tree.Statement) -> bool:
    from ..language.words import NOUNS

    return isinstance(statement, tree.Bare) and isinstance(statement.expression, tree.Request) and NOUNS[statement.expression.noun].draws


__all__ = ["DrawnFigure", "Emit", "Event", "Outcome", "Scalar", "TextValue", "UnknownPart", "draw", "read", "run"]
