"""Running a script: statement by statement, findings numbered by their place, figures as plain data."""

from __future__ import annotations

import hashlib
import logging
import traceback
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import numpy as np

from ..figure.model import FigureData
from ..formula.catalogue import BUILTINS, ENTRIES, subtract
from ..formula.entry import Entry
from ..formula.nodes import Apply
from ..formula.tape import NoScalar
from ..formula.typeset import name_tex
from ..formula.units import parse_unit
from ..language import tree
from ..language.checker import broken_names, check
from ..language.kinds import gives_formula
from ..language.messages import Message, Refused, message_record
from ..language.parser import Reading, parse
from ..language.vocabulary import NOUNS
from ..record.events import FindingEvent, MessageEvent, ProgressEvent
from ..record.findings import Finding
from ..record.plain import plain
from .comparing import compared_fits
from .enclosed import CLOSE, Enclosing
from .evaluator import Evaluator, compare, place_number, refusal
from .fast_path import FastPathUnavailable, quick_condition, quick_value
from .figures.builder import FigureBuilder
from .figures.notes import Note
from .findings import FindingDraft, check_finding, over_passes, reading_tex, reading_text, tell_function, value_finding
from .fitted_functions import from_data
from .memory import Memory, Remembered
from .proofs import graded_value
from .requests import work_out
from .search_window import show_digits
from .tables import FileTable, Tables, file_table, typed_table
from .trace import Step, Trace, named, seen, text_of
from .undefined import format_short
from .values import DefinedFunction, FindingValue, Frame, FunctionValue, ListValue, Scalar, TableValue, Value, number_value, raw_number

Event = dict[str, Any]
Emit = Callable[[Event], None]
log = logging.getLogger("open_lemma.run")
MAX_STATEMENTS = 2_000_000  # carried out in one run, those of loops counted each time
MAX_CALLS = 400  # of `define` functions within each other
MAX_FIGURES = 60
PROGRESS_EVERY = 1_024


@dataclass
class DrawnFigure:
    data: FigureData
    notes: list[Note]
    part: str | None
    drawing: Any = None  # kept once it was made, so that it is not made again


@dataclass
class Outcome:
    """What came of a run: findings and figures in order, readings of definitions, and all messages."""

    reading: Reading
    findings: list[Finding] = field(default_factory=list)
    figures: list[DrawnFigure] = field(default_factory=list)
    readings: list[dict[str, Any]] = field(default_factory=list)
    notes: list[dict[str, Any]] = field(default_factory=list)  # prose for the page
    names: Frame = field(default_factory=Frame)  # what names stand for at the end
    tables: list[dict[str, Any]] = field(default_factory=list)  # files that were read, with their fingerprints and what was mended
    trace: Trace | None = None
    reused: list[int] = field(default_factory=list)  # lines of statements whose results were kept from the run before

    @property
    def failed(self) -> bool:
        return self.reading.messages.has_errors()

    def names_seen(self) -> list[dict[str, Any]]:
        """All names with their values, for the names sheet."""
        return [plain(named(n, seen(v))) for n, v in self.names.items()]


class UnknownPart(ValueError):
    """The script has no part of that title."""


# FindingDraft of a fault of ours: the exception, the line of the statement, and the statement's hash.
OnFault = Callable[[Exception, int, str], None]


def described_fault(trouble: Exception, line: int, digest: str) -> str:
    """A fault of ours for a log: its type and where in the program; never what it says, which may hold parts of the script."""
    steps = "".join(traceback.format_tb(trouble.__traceback__))
    return f"fault of ours: line {line}, statement {digest}: {type(trouble).__name__}\n{steps}"


def log_fault(trouble: Exception, line: int, digest: str) -> None:
    log.error(described_fault(trouble, line, digest))


def read(text: str) -> tuple[Reading, set[int]]:
    """Parse and check; the second value tells which statements cannot be run."""
    reading = parse(text, BUILTINS)
    return reading, check(reading, BUILTINS)


def run(
    text: str, emit: Emit = lambda _: None, part: str | None = None, onwards: bool = False, tables: Tables | None = None,
    trace: Trace | None = None, memory: Memory | None = None, on_fault: OnFault | None = None,
) -> Outcome:  # fmt: skip
    """Run a script. Mistakes become messages; statements without mistakes are run all the same.

    emit     told of each finding, figure and statement as it comes
    part     run only this part, with the definitions it needs from elsewhere
    onwards  run what follows the part too
    tables   gives the bytes of a file that a table is read from
    trace    told of each statement as it was carried out
    memory   results of statements from the run before, and the place for those of this one
    on_fault told of a fault of ours, which costs the student one statement; else it goes to the log. What it raises ends the run
    """
    reading, broken = read(text)
    with np.errstate(all="ignore"):
        return _Interpreter(reading, broken, emit, tables, trace, memory, on_fault).run(part, onwards)


def stop_conditions(stops: Iterable[tuple[int, str | None]]) -> dict[int, Any]:
    """Stop marks of a walk: lines, each with its condition read, or None where it always stops."""
    found: dict[int, Any] = {}
    for line, text in stops:
        if text is None or not text.strip():
            found[line] = None
            continue
        reading = parse(f"check {text}", BUILTINS)
        statements = reading.script.statements
        if not reading.messages.has_errors() and len(statements) == 1 and isinstance(statements[0], tree.Check):
            found[line] = statements[0].condition
    return found


_NOTHING: Any = object()  # no `return` was met


class _Interpreter:
    def __init__(
        self, reading: Reading, broken: set[int], emit: Emit, tables: Tables | None, trace: Trace | None, memory: Memory | None,
        on_fault: OnFault | None,
    ) -> None:  # fmt: skip
        self.reading, self.broken, self.emit, self.tables, self.on_fault = reading, broken, emit, tables, on_fault
        self.text = reading.source.text
        self.line_of = reading.source.line_of
        self.names = Frame()
        self.lost: set[str] = set()  # names whose definition has a mistake or failed while running
        self.unread = broken_names(reading)  # names that lines which cannot be read would have defined, with their lines
        self.outcome = Outcome(reading, names=self.names, trace=trace)
        self.trace, self.memory = trace, memory
        self.part: str | None = None
        self.hidden = False  # a statement of another part: only its names count
        self.quiet = 0  # values asked for by a drawing: nothing is told of them
        self.numbers = _numbers(reading.script)
        self.figure_names: dict[int, str] = _figure_names(reading.script)
        self.figure_passes: dict[int, int] = {}
        self.open: dict[int, Finding] = {}  # findings of statements in the loop that is running
        self.statements = 0
        self.next_word = PROGRESS_EVERY
        self.share: float | None = None  # how much of the outermost loop is done, where that is known
        self.calls: list[str] = []
        self.passes: list[tuple[str, Any]] = []  # loop variables and where they are
        self.moving: frozenset[str] = frozenset()
        self.depth = 0  # blocks that are open
        self.quick: dict[int, Any] = {}
        self.moved: dict[int, frozenset[str]] = {}  # names that blocks change
        self.builder: FigureBuilder | None = None
        self.figure_depth = 0  # how many calls were open when the figure's block began
        self.finding_numbers: dict[str, int] = {}  # of names that stand for findings
        self.scope = self._scope(self.names)

    def _scope(self, names: Frame) -> Evaluator:
        return Evaluator(self.text, names, self._request_value, say=self._say, warn=self._warn)

    def run(self, only: str | None, onwards: bool) -> Outcome:
        statements = self.reading.script.statements
        if only is not None and only not in [s.title for s in statements if isinstance(s, tree.Part)]:
            raise UnknownPart(only)
        shown = _shown(statements, only, onwards)
        needed = _needed(statements, shown)
        for place, statement in enumerate(statements):
            if isinstance(statement, tree.Part):
                self.part = statement.title
                continue
            self.emit(ProgressEvent(line=self.line_of(statement.start), done=place, of=len(statements)).as_record())
            self.hidden = not shown[place]
            if shown[place] or needed[place]:
                self._safely(statement)
        self.outcome.findings.sort(key=lambda f: f.number)
        return self.outcome

    # ------------------------------------------------------------ one statement of the script, whatever happens

    def _safely(self, statement: tree.Statement) -> None:
        line = self.line_of(statement.start)
        for name in [n for n, known in self.unread.items() if known.line < line]:
            del self.unread[name]
            self._lose_names(name)
        if statement.start in self.broken:
            self._lose(statement)
            return
        self.quick.clear()
        self.open.clear()
        marks = len(self.outcome.findings), len(self.outcome.figures), len(self.outcome.readings), len(self.reading.messages.items)
        try:
            if self._needs_lost(statement):
                raise _Skip
            if self.memory is not None and (kept := self.memory.recall(statement, self.text, self._marked(statement))) is not None:
                self._reuse(statement, kept)
                return
            self._carry_out(statement, self.names)
            for finding in self.open.values():
                self._tell(finding)
            if self.memory is not None and not self.hidden:
                self._remember(statement, marks)
        except (_Skip, Refused) as trouble:
            self._lose(statement)
            if isinstance(trouble, Refused):
                self._message(self._placed(trouble.message))
            for finding in self.open.values():
                self._tell(finding)
        except RecursionError:
            self._fault(statement, "too-deep", "this formula is nested too deeply to be worked out; give parts of it names")
        except (MemoryError, OverflowError):
            self._fault(statement, "too-large", "a number or list on the way is too large to be worked out")
        except Exception as trouble:  # a fault of ours must cost the student one line, not the run
            digest = hashlib.sha256(self.text[statement.start : statement.end].encode("utf-8", "surrogatepass")).hexdigest()[:16]
            (self.on_fault or log_fault)(trouble, self.line_of(statement.start), digest)
            self._fault(statement, "internal", "this could not be worked out, and that is our fault; all other lines are as they were")
        finally:
            self.calls.clear()
            self.passes.clear()
            self.moving, self.depth, self.builder, self.quiet, self.share = frozenset(), 0, None, 0, None

    def _placed(self, message: Message) -> Message:
        """The message of a statement in a loop or a call says in which pass and call it happened."""
        begun = [(n, v) for n, v in self.passes if v is not _NOTHING]
        where = [f"in pass {value:.0f}" if name == "pass" else f"in the pass with {name} = {_said(value)}" for name, value in begun[-2:]]
        where += [f"in a call of {name}" for name in self.calls[-1:]]
        if not where:
            return message
        return Message(
            message.severity,
            message.code,
            message.start,
            message.end,
            f"{message.text} ({', '.join(where)})",
            message.fixes,
            message.advice,
        )

    def _lose(self, statement: tree.Statement) -> None:
        """What a statement should have defined has no value; what rests on it is passed over without a word."""
        self._lose_names(*tree.defined_names(statement))
        if self.memory is not None:
            self.memory.lose(statement)

    def _lose_names(self, *names: str) -> None:
        for name in names:
            self.lost.add(name)
            self.names.pop(name, None)

    def _fault(self, statement: tree.Statement, code: str, text: str) -> None:
        self._lose(statement)
        self._message(Message("error", code, statement.start, statement.end, text))

    def _message(self, message: Message) -> None:
        self.reading.messages.add(message)
        self.emit(MessageEvent(message=message_record(message, self.reading.source)).as_record())

    def _say(self, text: str, node: tree.Node) -> None:
        if not self.quiet:
            self._message(Message("note", "passed-over", node.start, node.end, text))

    def _warn(self, code: str, text: str, node: tree.Node) -> None:
        message = Message("warning", code, node.start, node.end, text)
        if not self.quiet and message not in self.reading.messages.items:
            self._message(message)

    def _needs_lost(self, statement: tree.Statement) -> bool:
        return bool(self.lost) and bool(self.lost & tree.free_names(statement))

    # ------------------------------------------------------------ results kept from the run before

    def _reuse(self, statement: tree.Statement, kept: Remembered) -> None:
        first = self.line_of(statement.start)
        self.names.update(kept.names)
        if isinstance(statement, tree.Definition) and isinstance(kept.names.get(statement.name), FindingValue):
            self.finding_numbers[statement.name] = self.numbers.get(statement.start, 0)
        self.lost.difference_update(kept.names)
        if self.hidden:
            return
        for finding, (line, number) in zip(kept.findings, _places(statement, kept, first, self.numbers), strict=True):
            finding.line, finding.number, finding.part = line, number, self.part
            self._tell(finding)
        for figure in kept.figures:
            figure.data.shift(first)
            for note in figure.notes:
                note.line += first
            figure.part = self.part
            self.outcome.figures.append(figure)
            self.emit({"event": "figure", "figure": figure, "reused": True})
        self.outcome.readings += [{**r, "line": r["line"] + first} for r in kept.readings]
        for message in kept.messages:
            shift = statement.start
            self._message(message.shifted(shift))
        self.outcome.reused.append(first)

    def _remember(self, statement: tree.Statement, marks: tuple[int, int, int, int]) -> None:
        assert self.memory is not None
        findings, figures, readings, messages = marks
        names = {n: self.names[n] for n in tree.defined_names(statement) if n in self.names}
        came = self.outcome.findings[findings:], self.outcome.figures[figures:], self.outcome.readings[readings:]
        said = self.reading.messages.items[messages:]
        self.memory.keep(statement, self.line_of(statement.start), self._first_number(statement), names, *came, said)

    def _marked(self, statement: tree.Statement) -> tuple[int, ...]:
        """Numbers of the findings that a figure marks: they stand on it, and change with what stands above in the script."""
        if not isinstance(statement, tree.Figure):
            return ()
        names = [n.name for m in tree.walk(statement) if isinstance(m, tree.Marked) for n in tree.walk(m) if isinstance(n, tree.Name)]
        return tuple(self.finding_numbers.get(n, 0) for n in names)

    def _first_number(self, statement: tree.Statement) -> int:
        places = told_places(statement)
        return self.numbers[places[0]] if places else 0

    # ------------------------------------------------------------ statements

    def _carry_out(self, statement: tree.Statement, frame: Frame) -> Any:
        """Carry out a statement; gives the value of a `return` that it met, else _NOTHING."""
        self.statements += 1
        return _CARRY[type(statement)](self, statement, frame)

    def _pass(self, loop: tree.Statement) -> None:
        """One more pass of a loop, or call: there is a limit, and now and then word is given."""
        self.statements += 1
        if self.statements > MAX_STATEMENTS:
            text = f"more than {MAX_STATEMENTS:,} statements were carried out; does this loop end?".replace(",", " ")
            raise refusal("too-long", text, loop.condition if isinstance(loop, tree.While) else loop)
        if self.statements >= self.next_word:
            self.next_word = self.statements + PROGRESS_EVERY
            self._progress(loop)

    def _progress(self, statement: tree.Statement) -> None:
        at = None
        if self.passes and self.passes[0][1] is not _NOTHING:
            name, value = self.passes[0]
            at = f"{name} = {_said(value)}"
        share = None if self.share is None else round(self.share, 3)
        event = ProgressEvent(line=self.line_of(statement.start), statements=self.statements, at=at, share=share)
        self.emit(event.as_record())

    def _step(self, statement: tree.Node, frame: Frame, changed: dict[str, Any], note: str = "", gone: tuple[str, ...] = ()) -> None:
        if self.trace is None or self.quiet:
            return
        line = self.line_of(statement.start)
        stop = line in self.trace.stops
        if stop and (condition := self.trace.stops[line]) is not None:
            try:
                stop = self._scope(frame).truth(condition).truth
            except (Refused, KeyError):
                stop = False
        figure = self.builder.name if self.builder is not None else self.outcome.figures[-1].data.name if self.outcome.figures else None
        drawn = self.builder.things if self.builder is not None else -1
        depth = len(self.calls)
        call = self.calls[-1] if self.calls else ""
        set_ = {(depth, n): v for n, v in changed.items()}
        ended = tuple((depth, n) for n in gone)
        self.trace.add(Step(line, depth, call, note, set_, ended, figure, drawn, len(self.outcome.findings), stop))

    def _definition(self, d: tree.Definition, frame: Frame) -> Any:
        if self.depth and d.parameters is None:
            raw = self._quick_value(d.body, frame)
            if raw is not None:
                self.quick[id(d)] = self.quick[id(d.body)]
                frame[d.name] = raw
                self._step(d, frame, {d.name: raw})
                return _NOTHING
        scope = self._scope(frame)
        if isinstance(d.body, tree.Request) and NOUNS[d.body.noun].gives == "function" and d.parameters is not None:
            told, frame[d.name] = from_data(d.name, d.parameters, d.body, scope)
            self._finding(told, d.body.noun, d, d.name)
        elif isinstance(d.body, tree.Request) and not gives_formula(d.body):
            told, value = self._request(d.body, scope)
            frame[d.name] = value
            self.finding_numbers[d.name] = self.numbers.get(d.start, 0)
            self._finding(told, d.body.noun, d, d.name)
        elif isinstance(d.body, tree.Request) and d.parameters is None:
            told, value = self._request(d.body, scope)
            frame[d.name] = _renamed(value, d.name)
            self._finding(told, d.body.noun, d, d.name)
        elif d.parameters is not None:
            frame[d.name] = self._function(d, scope)
        else:
            frame[d.name] = scope.value(d.body)
        self.lost.discard(d.name)
        if not self.depth:
            self._reading(d.name, frame[d.name], d, isinstance(d.body, tree.Number))
        self._step(d, frame, {d.name: frame[d.name]})
        return _NOTHING

    def _reading(self, name: str, value: Value, statement: tree.Statement, plain: bool) -> None:
        latex = reading_tex(name, value)
        if latex is not None and not plain and not self.hidden:
            end = statement.end - 1
            self.outcome.readings.append({"line": self.line_of(end), "latex": latex, "text": reading_text(name, value)})

    def _function(self, d: tree.Definition, scope: Evaluator) -> FunctionValue:
        assert d.parameters is not None
        body = scope.within(*d.parameters).formula(d.body)
        domain = {}
        for window in d.domain:
            assert window.low is not None
            assert window.high is not None
            low, high = scope.span(window.low, window.high, "the domain")
            domain[window.name] = (low.formula, high.formula)
        return FunctionValue(d.name, d.parameters, body, domain)

    def _tune(self, t: tree.Tune, frame: Frame) -> Any:
        scope = self._scope(frame)
        value = scope.number(t.value)
        low, high = scope.span(t.low, t.high, "the span of a tuned value")
        if not low.value <= value.value <= high.value:
            raise refusal(
                "tune",
                f"{format_short(value.value)} lies outside of the span, {format_short(low.value)} to {format_short(high.value)}",
                t.value,
            )
        frame[t.name] = value
        self.lost.discard(t.name)
        self._step(t, frame, {t.name: value})
        return _NOTHING

    def _table(self, t: tree.Table, frame: Frame) -> Any:
        if t.file is None:
            table = typed_table(t)
        else:
            table, file = file_table(t, self.tables)
            table = self._computed(t, table, file)
            for note in file.notes:
                self._warn("table-cells", f"{t.file}: {note}", tree.Node(t.start, t.head_end))
            if all(k["name"] != t.file for k in self.outcome.tables):
                mended = {"mending": file.mending} if file.mending else {}
                self.outcome.tables.append({"name": t.file, "sha256": file.fingerprint, **mended})
        frame[t.name] = table
        self.lost.discard(t.name)
        self._step(t, frame, {t.name: table})
        return _NOTHING

    def _computed(self, t: tree.Table, table: TableValue, file: FileTable) -> TableValue:
        """Columns that are worked out from the others, in their order."""
        columns = dict(table.columns)
        for name, formula, unit in file.computed:
            reading = parse(f"show {formula}", BUILTINS)
            statements = reading.script.statements
            if reading.messages.has_errors() or len(statements) != 1 or not isinstance(statements[0], tree.Show):
                raise refusal("computed-column", f"the formula of the column '{name}' cannot be read: {formula}", t)
            scope = Evaluator(f"show {formula}", Frame(dict(columns), self.names), self._request_value)
            try:
                value = scope.value(statements[0].items[0])
                value = ListValue(np.full(table.rows, value.value), value.unit) if isinstance(value, Scalar) else value
                value = scope.as_list(value, statements[0].items[0]) if isinstance(value, FindingValue) else value
            except Refused as trouble:
                raise refusal("computed-column", f"the column '{name}' cannot be worked out: {trouble.message.text}", t) from None
            except (KeyError, RecursionError):
                raise refusal("computed-column", f"the formula of the column '{name}' uses a name without a value: {formula}", t) from None
            if not isinstance(value, ListValue) or len(value.data) != table.rows:
                raise refusal("computed-column", f"the column '{name}' must have {table.rows} numbers", t)
            said = parse_unit(unit) if unit else value.unit
            columns[name] = ListValue(value.data, said, exact=value.exact)
        return TableValue(table.name, columns, table.source)

    def _note(self, n: tree.Note, frame: Frame) -> Any:
        if not self.hidden:
            self.outcome.notes.append({"line": self.line_of(n.start), "text": n.text, **({"part": self.part} if self.part else {})})
        self._step(n, frame, {})
        return _NOTHING

    def _show_all(self, statement: tree.Show, frame: Frame) -> Any:
        for item in statement.items:
            self._show(item, statement, frame)
        self._step(statement, frame, {})
        return _NOTHING

    def _bare(self, statement: tree.Bare, frame: Frame) -> Any:
        if _draws(statement):
            assert isinstance(statement.expression, tree.Request)
            if self.builder is not None and self.figure_depth == len(self.calls):
                self.builder.draw(statement.expression, self._scope(frame))
            else:
                self._lone_figure(statement.expression, frame)
        else:
            self._show(statement.expression, statement, frame)
        self._step(statement, frame, {})
        return _NOTHING

    def _show(self, item: tree.Expression, statement: tree.Statement, frame: Frame) -> None:
        scope = self._scope(frame)
        function = item.function if isinstance(item, tree.Prime) else item
        value = frame.find(function.name) if isinstance(function, tree.Name) else None
        if isinstance(item, tree.Request):
            told, value_found = self._request(item, scope)
            if isinstance(statement, tree.Show):
                show_digits(told, value_found, statement, scope)
            self._finding(told, item.noun, statement, None)
        elif isinstance(value, FunctionValue):
            primes = item.order if isinstance(item, tree.Prime) else 0
            told = tell_function(value, primes, scope.derived(value, primes, item))
            self._finding(told, "show", statement, None, item)
        else:
            shown = scope.value(item)
            told = graded_value(value_finding(shown), shown, self.text[item.start : item.end])
            if isinstance(statement, tree.Show):
                show_digits(told, shown, statement, scope)
            self._finding(told, "show", statement, None, item)

    def _check(self, check: tree.Check, frame: Frame) -> Any:
        scope = self._scope(frame)
        within = next((o for o in check.options if o.name == "within"), None)
        condition = check.condition
        while isinstance(condition, tree.Group):
            condition = condition.inner
        if within is not None and isinstance(condition, tree.Comparison) and not isinstance(within.value, str):
            left, right = (scope.number(o) for o in condition.operands)
            tolerance = scope.number(within.value)
            if tolerance.value < 0:
                raise refusal("within", f"a tolerance is not negative; this one is {format_short(tolerance.value)}", within)
            away = Apply(ENTRIES["abs"], (subtract(left.formula, right.formula),))
            scope.unit(subtract(subtract(left.formula, right.formula), tolerance.formula), check)
            found = compare(scope.as_scalar(away), tolerance, "<=")
            said = f"{format_short(left.value)} and {format_short(right.value)} are {format_short(abs(left.value - right.value), 4)} apart"
        elif isinstance(condition, tree.Comparison):
            values = [scope.value(o) for o in condition.operands]
            found = scope.compared(condition, values)
            said = self._sides(condition, values)
        else:
            found = scope.truth(condition)
            said = self.text[condition.start : condition.end]
        self._finding(check_finding(found, said), "check", check, None)
        self._step(check, frame, {})
        return _NOTHING

    def _compare(self, statement: tree.Compare, frame: Frame) -> Any:
        self._finding(compared_fits(statement, self._scope(frame)), "compare", statement, None)
        self._step(statement, frame, {})
        return _NOTHING

    def _sides(self, condition: tree.Comparison, values: list[Value]) -> str:
        """A comparison with the numbers that it compares, for the sentence about it."""
        written = self.text[condition.start : condition.end]
        numbers = [place_number(v.places[0]) if isinstance(v, FindingValue) and len(v.places) == 1 else v for v in values]
        known = [format_short(v.value) for v in numbers if isinstance(v, Scalar)]
        return f"{written}, with {', '.join(known)}" if len(known) == len(values) else written

    # ------------------------------------------------------------ findings

    def _finding(
        self, told: FindingDraft, noun: str, statement: tree.Statement, name: str | None, item: tree.Expression | None = None
    ) -> None:
        if self.hidden or self.quiet:
            return
        several = isinstance(statement, tree.Show) and len(statement.items) > 1 and item is not None
        place: tree.Node = item if several and item is not None else statement
        number = self.numbers[place.start]
        if not (self.passes or self.calls):
            self._tell(self._new_finding(number, told, noun, place, name))
            return
        finding = self.open.get(place.start)
        if finding is None:
            finding = self.open[place.start] = self._new_finding(number, told, noun, place, name)
            finding.values, finding.notes = [], []
        finding.passes += 1
        over_passes(finding, told, finding.passes, {n: _said(v) if not isinstance(v, float) else v for n, v in self._at().items()})

    def _at(self) -> dict[str, Any]:
        """Where the loops are, as plain values."""
        found: dict[str, Any] = {}
        for name, raw in self.passes:
            if raw is _NOTHING:
                continue
            value = raw if isinstance(raw, Scalar) else number_value(raw) if not isinstance(raw, Value) else raw
            found[name] = value.value if isinstance(value, Scalar) else value
        return found

    def _new_finding(self, number: int, told: FindingDraft, noun: str, place: tree.Node, name: str | None) -> Finding:
        return Finding(
            number=number, line=self.line_of(place.start), name=name, noun=noun, statement=self.text[place.start : place.end],
            values=told.values, evidence=told.evidence, complete=told.complete, summary=told.summary, method=told.method,
            notes=told.notes, latex=told.latex, part=self.part, boxes=told.boxes, variable=told.variable,
            variable_latex=None if told.variable is None else name_tex(told.variable), variables=told.variables,
            closeups=told.closeups, strip=told.strip, fit=told.fit, certificates=told.certificates,
        )  # fmt: skip

    def _tell(self, finding: Finding) -> None:
        self.outcome.findings.append(finding)
        self.emit(FindingEvent(finding=finding.told()).as_record())

    def _request_value(self, request: tree.Request, scope: Evaluator) -> Value:
        return self._request(request, scope)[1]

    def _request(self, request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, Value]:
        def found(node: tree.Node, count: int) -> None:
            self.emit(ProgressEvent(line=self.line_of(node.start), found=count).as_record())

        return work_out(request, scope, found)

    # ------------------------------------------------------------ blocks

    def _block(self, body: tuple[tree.Statement, ...], frame: Frame) -> Any:
        quick = self.quick
        for statement in body:
            plain = quick.get(id(statement))
            if plain is not None and type(statement) is tree.Definition:
                try:
                    frame[statement.name] = raw = plain(frame)
                except FastPathUnavailable:
                    pass
                else:
                    self.statements += 1
                    if self.trace is not None:
                        self._step(statement, frame, {statement.name: raw})
                    continue
            result = self._carry_out(statement, frame)
            if result is not _NOTHING:
                return result
        return _NOTHING

    def _opened(self, statement: tree.Statement, frame: Frame, moving: frozenset[str], work: Callable[[], Any]) -> Any:
        """Run a block; names that are new in it end with it."""
        before = len(frame)  # a dict keeps its order: what is new stands at its end
        outside = self.moving
        if not moving <= outside:
            self.moving = outside | moving
        if self.depth == 0:
            self.quick.clear()
        self.depth += 1
        try:
            return work()
        finally:
            self.depth -= 1
            self.moving = outside
            if len(frame) > before:
                gone = tuple(frame)[before:]
                for name in gone:
                    del frame[name]
                self._step(statement, frame, {}, gone=gone)

    def _moving_in(self, statement: tree.Statement) -> frozenset[str]:
        found = self.moved.get(id(statement))
        if found is None:
            parameters = statement.parameters if isinstance(statement, tree.Define) else ()
            found = self.moved[id(statement)] = _moving(statement) | frozenset(parameters)
        return found

    def _for(self, loop: tree.For, frame: Frame) -> Any:
        name = loop.window.name
        hidden = frame.get(name, _NOTHING) if name in frame else _NOTHING

        def work() -> Any:
            values = list(self._gone_through(loop.window, frame))
            for place, value in enumerate(values):
                frame[name] = value
                self.passes[-1] = (name, value)
                if outermost:
                    self.share = place / len(values)
                self._pass(loop)
                if self.trace is not None:
                    self._step(loop, frame, {name: value})
                result = self._block(loop.body, frame)
                if result is not _NOTHING:
                    return result
            return _NOTHING

        outermost = not self.passes and not self.calls
        before = self._before(loop, frame) if outermost else {}
        self.passes.append((name, _NOTHING))
        result = self._opened(loop, frame, self._moving_in(loop), work)
        self.passes.pop()
        if outermost:
            self.share = None
            self._looped(loop, frame, before)
        if hidden is not _NOTHING:
            frame[name] = hidden  # the loop's variable was its own
        return result

    def _gone_through(self, window: tree.Window, frame: Frame) -> Iterator[Any]:
        scope = self._scope(frame)
        plain = scope.plain_elements(window)
        if plain is not None:
            yield from plain
            return
        for value in scope.elements(window):
            raw = raw_number(value)
            yield value if raw is None else raw

    def _while(self, loop: tree.While, frame: Frame) -> Any:
        def work() -> Any:
            passes = 0
            while self._holds(loop.condition, frame):
                passes += 1
                self.passes[-1] = ("pass", float(passes))
                self._pass(loop)
                if self.trace is not None:
                    self._step(loop, frame, {})
                result = self._block(loop.body, frame)
                if result is not _NOTHING:
                    return result
            self._step(loop, frame, {}, note="the condition no longer holds")
            return _NOTHING

        outermost = not self.passes and not self.calls
        before = self._before(loop, frame) if outermost else {}
        self.passes.append(("pass", 0.0))
        result = self._opened(loop, frame, self._moving_in(loop), work)
        self.passes.pop()
        if outermost:
            self._looped(loop, frame, before)
        return result

    def _before(self, loop: tree.For | tree.While, frame: Frame) -> dict[str, Any]:
        """The names that a loop moves, as they are before it."""
        return {n: frame[n] for n in self._moving_in(loop) if n in frame and n != getattr(getattr(loop, "window", None), "name", None)}

    def _if(self, statement: tree.If, frame: Frame) -> Any:
        for branch in statement.branches:
            held = branch.condition is None or self._holds(branch.condition, frame)
            note = "" if branch.condition is None else "holds" if held else "does not hold"
            if self.trace is not None:
                self._step(branch, frame, {}, note=note)
            if held:
                return self._opened(statement, frame, self._moving_in(statement), partial(self._block, branch.body, frame))
        return _NOTHING

    def _holds(self, condition: tree.Expression, frame: Frame) -> bool:
        if self.depth:
            found = self._compiled(condition, frame, quick_condition)
            if found is not None:
                try:
                    return bool(found(frame))
                except FastPathUnavailable:
                    pass
        return self._scope(frame).truth(condition).truth

    def _quick_value(self, e: tree.Expression, frame: Frame) -> Any:
        """The plain number of an expression in a loop, or None where the slow way must be gone."""
        found = self._compiled(e, frame, quick_value)
        if found is None:
            return None
        try:
            return found(frame)
        except FastPathUnavailable:
            return None

    def _compiled(self, e: tree.Expression, frame: Frame, make: Callable[..., Any]) -> Any:
        if id(e) not in self.quick:
            self.quick[id(e)] = make(e, self._scope(frame), self.moving)
        return self.quick[id(e)]

    # ------------------------------------------------------------ functions with a block

    def _define(self, d: tree.Define, frame: Frame) -> Any:
        def scalar(*arguments: Any) -> Any:
            found = raw_number(self._call(d, tuple(arguments)))
            if found is None:
                raise NoScalar(d.name)
            return found

        def numeric(*arguments: Any) -> Any:
            return self._called_by_drawing(d, arguments)

        arity = (len(d.parameters), len(d.parameters))
        entry = Entry(d.name, "defined", arity, "", "", numeric=numeric, scalar=scalar)
        frame[d.name] = DefinedFunction(d.name, d.parameters, lambda values, _: self._called(d, values), entry, d)
        self.lost.discard(d.name)
        self._step(d, frame, {d.name: frame[d.name]})
        return _NOTHING

    def _called(self, d: tree.Define, arguments: tuple[Any, ...]) -> Value:
        """The value of a block; once more with enclosures, where doubles came into it, so that it can be proven."""
        found = self._call(d, arguments)
        if self.calls or self.depth or not isinstance(found, Scalar) or found.proven:
            return found
        better = Enclosing(self._scope(self.names)).called(d, arguments)
        return better if better is not None and _alike(better.value, found.value) else found

    def _looped(self, loop: tree.For | tree.While, frame: Frame, before: dict[str, Any]) -> None:
        """Numbers that went through doubles in a loop, once more with enclosures."""
        rounded = [n for n in before if isinstance(frame.get(n), float)]
        if rounded:
            found = Enclosing(self._scope(frame)).looped(loop, before)
            frame.update({n: found[n] for n in rounded if n in found and _alike(found[n].value, frame[n])})

    def _call(self, d: tree.Define, arguments: tuple[Any, ...]) -> Value:
        if len(self.calls) >= MAX_CALLS:
            raise refusal("too-deep", f"{d.name} calls itself more than {MAX_CALLS} times over; does this end?", d)
        frame = Frame({n: v if (raw := raw_number(v) if isinstance(v, Scalar) else None) is None else raw
                       for n, v in zip(d.parameters, arguments, strict=True)}, self.names)  # fmt: skip
        outside, self.moving = self.moving, self.moving | self._moving_in(d)
        self.calls.append(d.name)
        self.depth += 1
        passes, self.passes = self.passes, []
        try:
            self._pass(d)
            self._step(d, frame, dict(frame))
            result = self._block(d.body, frame)
        except Refused as trouble:
            raise Refused(self._placed(trouble.message) if self.passes else trouble.message) from None
        finally:
            self._step(d, frame, {}, gone=tuple(frame))
            self.depth -= 1
            self.calls.pop()
            self.moving, self.passes = outside, passes
        if result is _NOTHING:
            raise refusal("no-return", f"{d.name} came to its end without a 'return'", d)
        return number_value(result) if not isinstance(result, Value) else result

    def _return(self, statement: tree.Return, frame: Frame) -> Any:
        found = self._quick_value(statement.value, frame) if not isinstance(statement.value, tree.Request) else None
        if found is None:
            found = self._scope(frame).value(statement.value)
        self._step(statement, frame, {}, note=f"gives {_said(found)}")
        return found

    def _called_by_drawing(self, d: tree.Define, arguments: tuple[Any, ...]) -> Any:
        """Values for arrays, one by one; NaN where there is none."""
        arrays = np.broadcast_arrays(*(np.asarray(a, dtype=float) for a in arguments)) if arguments else []
        shape = arrays[0].shape if arrays else ()
        found = []
        self.quiet += 1
        try:
            for values in zip(*(a.ravel().tolist() for a in arrays), strict=True) if arrays else [()]:
                try:
                    result = self._call(d, tuple(values))
                    found.append(result.value if isinstance(result, Scalar) else float("nan"))
                except Refused as trouble:
                    if trouble.message.code in ("too-long", "too-deep", "no-return"):
                        raise
                    found.append(float("nan"))
        finally:
            self.quiet -= 1
        return np.array(found).reshape(shape)

    # ------------------------------------------------------------ figures

    def _figure(self, figure: tree.Figure, frame: Frame) -> Any:
        local = Frame({}, frame)
        builder = self._new_builder(figure, local)
        outside, self.builder = self.builder, builder
        at, self.figure_depth = self.figure_depth, len(self.calls)
        try:
            self._figure_body(figure.body, local)
            self._drawn(builder.build(figure.title), builder)
        finally:
            self.builder, self.figure_depth = outside, at
        self._step(figure, frame, {}, note="the figure is drawn")
        return _NOTHING

    def _new_builder(self, node: tree.Node, frame: Frame) -> FigureBuilder:
        return FigureBuilder(self._scope(frame), self.line_of, self.text, self._figure_name(node), node, self._number_of)

    def _figure_body(self, body: tuple[tree.Statement, ...], local: Frame) -> None:
        """The statements of a figure, panel or inset: definitions first, since order among them does not matter."""
        for inner in body:
            if isinstance(inner, tree.Definition):
                self._definition_in_figure(inner, local)
        # What stands inside of panels comes after what stands in the figure itself.
        for late in (False, True):
            for inner in body:
                if isinstance(inner, tree.Panel | tree.Inset) == late and not isinstance(inner, tree.Definition):
                    self._carry_out(inner, local)

    def _definition_in_figure(self, d: tree.Definition, local: Frame) -> None:
        readings = self.outcome.readings
        self._definition(d, local)
        if not self.depth and readings:
            self.outcome.readings = readings

    def _panel(self, panel: tree.Panel, frame: Frame) -> Any:
        assert self.builder is not None
        local = Frame({}, frame)
        self.builder.open_panel(panel, self._scope(local))
        self._figure_body(panel.body, local)
        self.builder.inside_panel = False
        return _NOTHING

    def _inset(self, inset: tree.Inset, frame: Frame) -> Any:
        assert self.builder is not None
        local = Frame({}, frame)
        outside = self.builder.open_inset(inset, self._scope(local))
        self._figure_body(inset.body, local)
        self.builder.close_inset(outside)
        return _NOTHING

    def _setting(self, statement: tree.Statement, frame: Frame) -> Any:
        assert self.builder is not None
        self.builder.setting(statement, self._scope(frame))
        self._step(statement, frame, {})
        return _NOTHING

    def _number_of(self, e: tree.Expression, found: FindingValue) -> str:
        """The number of the finding that a name stands for."""
        del found
        name = next((n.name for n in tree.walk(e) if isinstance(n, tree.Name)), None)
        return str(self.finding_numbers.get(name or "", "?"))

    def _figure_name(self, node: tree.Node) -> str:
        """A figure in a loop is one figure a pass: they are numbered."""
        name = self.figure_names[node.start]
        passes = self.figure_passes[node.start] = self.figure_passes.get(node.start, 0) + 1
        if self.passes or self.calls:
            name = f"{name}_{passes}"
            while name in self.figure_names.values():
                name += "_"
        if len(self.outcome.figures) >= MAX_FIGURES:
            raise refusal("too-many-figures", f"a run draws at most {MAX_FIGURES} figures", node)
        return name

    def _lone_figure(self, request: tree.Request, frame: Frame) -> None:
        scope = self._scope(frame)
        builder = self._new_builder(request, frame)
        builder.draw(request, scope)
        self._drawn(builder.build(None), builder)

    def _drawn(self, data: FigureData, builder: FigureBuilder) -> None:
        if self.hidden or self.quiet:
            return
        if self.passes and data.title:
            data.title = f"{data.title} ({', '.join(f'{n} = {_said(v)}' for n, v in self.passes)})"
        for message in builder.messages:
            self._message(message)
        drawn = DrawnFigure(data, builder.notes, self.part)
        self.outcome.figures.append(drawn)
        self.emit({"event": "figure", "figure": drawn})


_CARRY: dict[type, Callable[[_Interpreter, Any, Frame], Any]] = {
    tree.Definition: _Interpreter._definition,
    tree.Show: _Interpreter._show_all,
    tree.Bare: _Interpreter._bare,
    tree.Check: _Interpreter._check,
    tree.Compare: _Interpreter._compare,
    tree.Figure: _Interpreter._figure,
    tree.For: _Interpreter._for,
    tree.While: _Interpreter._while,
    tree.If: _Interpreter._if,
    tree.Define: _Interpreter._define,
    tree.Return: _Interpreter._return,
    tree.Tune: _Interpreter._tune,
    tree.Table: _Interpreter._table,
    tree.Note: _Interpreter._note,
    tree.Panel: _Interpreter._panel,
    tree.Inset: _Interpreter._inset,
    **dict.fromkeys(
        (
            tree.Axis, tree.Legend, tree.Gridlines, tree.Size, tree.Without, tree.TrueScale, tree.Style, tree.Heading, tree.Decimal,
            tree.Shared, tree.TextAt, tree.Marked, tree.Ruled, tree.View,
        ),
        _Interpreter._setting,
    ),
}  # fmt: skip


class _Skip(Exception):
    """The statement rests on a name that has no value."""


def _draws(statement: tree.Statement) -> bool:
    return isinstance(statement, tree.Bare) and isinstance(statement.expression, tree.Request) and NOUNS[statement.expression.noun].draws


def _moving(statement: tree.Statement) -> frozenset[str]:
    """Names whose values a block may change while it runs, those of loops inside included."""
    found = set(tree.assigned_names(statement))
    for node in tree.walk(statement):
        if isinstance(node, tree.For):
            found.add(node.window.name)
    return frozenset(found)


def _said(raw: Any) -> str:
    return text_of(number_value(raw) if not isinstance(raw, Value) else raw)


def _renamed(value: Value, name: str) -> Value:
    if isinstance(value, FunctionValue):
        return FunctionValue(name, value.parameters, value.body, value.domain, value.source)
    return value


def told_places(statement: tree.Statement) -> list[int]:
    """Where the findings of a statement start, in the order of the text; blocks are gone into."""
    if isinstance(statement, tree.Show):
        return [statement.start] if len(statement.items) == 1 else [i.start for i in statement.items]
    if isinstance(statement, tree.Check | tree.Compare) or (isinstance(statement, tree.Bare) and not _draws(statement)):
        return [statement.start]
    if isinstance(statement, tree.Definition):
        request = isinstance(statement.body, tree.Request)
        told = request and (statement.parameters is None or NOUNS[statement.body.noun].gives == "function")  # type: ignore[attr-defined]
        return [statement.start] if told else []
    if isinstance(statement, tree.Figure):
        return []
    return [place for body in tree.bodies(statement) for inner in body for place in told_places(inner)]


def _numbers(script: tree.Script) -> dict[int, int]:
    """The number of each finding by its place: numbers follow the text, whatever is run of it."""
    places = [p for s in script.statements for p in told_places(s)]
    return {place: number for number, place in enumerate(places, 1)}


def _figure_names(script: tree.Script) -> dict[int, str]:
    found: dict[int, str] = {}
    taken = {n.name for n in tree.walk(script) if isinstance(n, tree.Figure) and n.name is not None}

    def named(statement: tree.Statement) -> None:
        if isinstance(statement, tree.Figure) or _draws(statement):
            node = statement if isinstance(statement, tree.Figure) else statement.expression  # type: ignore[attr-defined]
            name = statement.name if isinstance(statement, tree.Figure) else None
            if name is None:
                name = f"figure_{len(found) + 1}"
                while name in taken:
                    name += "_"
            found[node.start] = name
            return
        for body in tree.bodies(statement):
            for inner in body:
                named(inner)

    for statement in script.statements:
        named(statement)
    return found


def _shown(statements: tuple[tree.Statement, ...], only: str | None, onwards: bool) -> list[bool]:
    """Which statements belong to what is to be run."""
    if only is None:
        return [True] * len(statements)
    found, inside = [], False
    for statement in statements:
        if isinstance(statement, tree.Part):
            inside = statement.title == only or (inside and onwards)
        found.append(inside)
    return found


def _needed(statements: tuple[tree.Statement, ...], shown: list[bool]) -> list[bool]:
    """Which of the others give names that those rest on."""
    names: set[str] = set()
    found = [False] * len(statements)
    for place in range(len(statements) - 1, -1, -1):
        statement = statements[place]
        found[place] = bool(set(tree.defined_names(statement)) & names)
        if shown[place] or found[place]:
            names |= tree.free_names(statement)
    return found


def _places(statement: tree.Statement, kept: Remembered, first: int, numbers: dict[int, int]) -> Iterator[tuple[int, int]]:
    """Line and number of the findings of a statement that were kept, as the script has them now."""
    mine = [numbers[p] for p in told_places(statement)]
    for finding in kept.findings:
        yield finding.line + first, mine[finding.number]


def _alike(one: float, other: float) -> bool:
    """Whether an enclosed value and a double came the same way."""
    return abs(one - other) <= CLOSE * max(abs(one), abs(other), CLOSE)
