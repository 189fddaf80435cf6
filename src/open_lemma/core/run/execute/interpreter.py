"""Running a script: statement by statement, findings numbered by their place, figures as plain data."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np

from ...formula.catalogue import BUILTINS
from ...language import front, tree
from ...language.checking.checker import broken_names
from ...language.messages import Message, Refused, message_record
from ...language.syntax.parser import Reading, parse
from ...record.events import FindingEvent, MessageEvent, ProgressEvent
from ...record.findings import Finding
from ..evaluate.evaluator import Evaluator
from ..evaluate.refusals import refusal
from ..figures.builder import FigureBuilder
from ..findings import FindingDraft
from ..memory import Memory
from ..requests import work_out
from ..tables import Tables
from ..trace import Step, Trace
from ..values import Frame, Value
from . import blocks, figures, functions, incremental, statements, tables
from .faults import OnFault, log_fault
from .outcome import Outcome, UnknownPart
from .selection import figure_names_of, needed_of, numbers_of, shown_of
from .state import NOTHING, LoopState
from .telling import said

Event = dict[str, Any]
Emit = Callable[[Event], None]
MAX_STATEMENTS = 2_000_000  # carried out in one run, those of loops counted each time
PROGRESS_EVERY = 1_024


class _Skip(Exception):
    """The statement rests on a name that has no value."""


def read(text: str) -> tuple[Reading, set[int]]:
    """Parse and check; the second value tells which statements cannot be run."""
    return front.read(text, BUILTINS)


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
        return Interpreter(reading, broken, emit, tables, trace, memory, on_fault).run(part, onwards)


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


class Interpreter:
    """Runs one script: its names, what came of it so far, and where its loops are."""

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
        self.numbers = numbers_of(reading.script)
        self.figure_names: dict[int, str] = figure_names_of(reading.script)
        self.figure_passes: dict[int, int] = {}
        self.open: dict[int, Finding] = {}  # findings of statements in the loop that is running
        self.statements = 0
        self.next_word = PROGRESS_EVERY
        self.loops = LoopState()
        self.builder: FigureBuilder | None = None
        self.figure_depth = 0  # how many calls were open when the figure's block began
        self.finding_numbers: dict[str, int] = {}  # of names that stand for findings
        self.scope = self.scope_of(self.names)

    def scope_of(self, names: Frame) -> Evaluator:
        return Evaluator(self.text, names, self._request_value, say=self._say, warn=self.warn)

    def run(self, only: str | None, onwards: bool) -> Outcome:
        """Run the statements, or those of one part with what they need. Raises UnknownPart."""
        statements = self.reading.script.statements
        if only is not None and only not in [s.title for s in statements if isinstance(s, tree.Part)]:
            raise UnknownPart(only)
        shown = shown_of(statements, only, onwards)
        needed = needed_of(statements, shown)
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

    def _safely(self, statement: tree.Statement) -> None:
        line = self.line_of(statement.start)
        for name in [n for n, known in self.unread.items() if known.line < line]:
            del self.unread[name]
            self._lose_names(name)
        if statement.start in self.broken:
            self._lose(statement)
            return
        self.loops.quick.clear()
        self.open.clear()
        marks = len(self.outcome.findings), len(self.outcome.figures), len(self.outcome.readings), len(self.reading.messages.items)
        try:
            if self._needs_lost(statement):
                raise _Skip
            if (
                self.memory is not None
                and (kept := self.memory.recall(statement, self.text, incremental.marked(self, statement))) is not None
            ):
                incremental.reuse(self, statement, kept)
                return
            self.carry_out(statement, self.names)
            for finding in self.open.values():
                self.tell(finding)
            if self.memory is not None and not self.hidden:
                incremental.remember(self, statement, marks)
        except (_Skip, Refused) as trouble:
            self._lose(statement)
            if isinstance(trouble, Refused):
                self.message(self.placed(trouble.message))
            for finding in self.open.values():
                self.tell(finding)
        except RecursionError:
            self._fault(statement, "too-deep", "this formula is nested too deeply to be worked out; give parts of it names")
        except (MemoryError, OverflowError):
            self._fault(statement, "too-large", "a number or list on the way is too large to be worked out")
        except Exception as trouble:  # a fault of ours must cost the student one line, not the run
            digest = hashlib.sha256(self.text[statement.start : statement.end].encode("utf-8", "surrogatepass")).hexdigest()[:16]
            (self.on_fault or log_fault)(trouble, self.line_of(statement.start), digest)
            self._fault(statement, "internal", "this could not be worked out, and that is our fault; all other lines are as they were")
        finally:
            self.loops.clear()
            self.builder, self.quiet = None, 0

    def placed(self, message: Message) -> Message:
        """The message of a statement in a loop or a call says in which pass and call it happened."""
        begun = [(n, v) for n, v in self.loops.passes if v is not NOTHING]
        where = [f"in pass {value:.0f}" if name == "pass" else f"in the pass with {name} = {said(value)}" for name, value in begun[-2:]]
        where += [f"in a call of {name}" for name in self.loops.calls[-1:]]
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
        self.message(Message("error", code, statement.start, statement.end, text))

    def message(self, message: Message) -> None:
        self.reading.messages.add(message)
        self.emit(MessageEvent(message=message_record(message, self.reading.source)).as_record())

    def _say(self, text: str, node: tree.Node) -> None:
        if not self.quiet:
            self.message(Message("note", "passed-over", node.start, node.end, text))

    def warn(self, code: str, text: str, node: tree.Node) -> None:
        message = Message("warning", code, node.start, node.end, text)
        if not self.quiet and message not in self.reading.messages.items:
            self.message(message)

    def _needs_lost(self, statement: tree.Statement) -> bool:
        return bool(self.lost) and bool(self.lost & tree.free_names(statement))

    def carry_out(self, statement: tree.Statement, frame: Frame) -> Any:
        """Carry out a statement; gives the value of a `return` that it met, else NOTHING."""
        self.statements += 1
        return _EXECUTE[type(statement)](self, statement, frame)

    def one_pass(self, loop: tree.Statement) -> None:
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
        if self.loops.passes and self.loops.passes[0][1] is not NOTHING:
            name, value = self.loops.passes[0]
            at = f"{name} = {said(value)}"
        share = None if self.loops.share is None else round(self.loops.share, 3)
        event = ProgressEvent(line=self.line_of(statement.start), statements=self.statements, at=at, share=share)
        self.emit(event.as_record())

    def step(self, statement: tree.Node, frame: Frame, changed: dict[str, Any], note: str = "", gone: tuple[str, ...] = ()) -> None:
        """Tell the walk that a statement was carried out: the names that it changed, and those that ended."""
        if self.trace is None or self.quiet:
            return
        line = self.line_of(statement.start)
        stop = line in self.trace.stops
        if stop and (condition := self.trace.stops[line]) is not None:
            try:
                stop = self.scope_of(frame).truth(condition).truth
            except (Refused, KeyError):
                stop = False
        figure = self.builder.name if self.builder is not None else self.outcome.figures[-1].data.name if self.outcome.figures else None
        drawn = self.builder.things if self.builder is not None else -1
        depth = len(self.loops.calls)
        call = self.loops.calls[-1] if self.loops.calls else ""
        set_ = {(depth, n): v for n, v in changed.items()}
        ended = tuple((depth, n) for n in gone)
        self.trace.add(Step(line, depth, call, note, set_, ended, figure, drawn, len(self.outcome.findings), stop))

    def tell(self, finding: Finding) -> None:
        self.outcome.findings.append(finding)
        self.emit(FindingEvent(finding=finding.told()).as_record())

    def _request_value(self, request: tree.Request, scope: Evaluator) -> Value:
        return self.request(request, scope)[1]

    def request(self, request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, Value]:
        """Work out a request, with word of its progress. Raises Refused."""

        def found(node: tree.Node, count: int) -> None:
            self.emit(ProgressEvent(line=self.line_of(node.start), found=count).as_record())

        return work_out(request, scope, found)


_EXECUTE: dict[type, Callable[[Interpreter, Any, Frame], Any]] = {
    tree.Definition: statements.definition,
    tree.Show: statements.show,
    tree.Bare: statements.bare,
    tree.Check: statements.check,
    tree.Compare: statements.compare_fits,
    tree.Figure: figures.figure,
    tree.For: blocks.for_each,
    tree.While: blocks.while_true,
    tree.If: blocks.branch,
    tree.Define: functions.define,
    tree.Return: functions.give_back,
    tree.Tune: statements.tune,
    tree.Table: tables.table,
    tree.Note: statements.note,
    tree.Panel: figures.panel,
    tree.Inset: figures.inset,
    **dict.fromkeys(
        (
            tree.Axis, tree.Legend, tree.Gridlines, tree.Size, tree.Without, tree.TrueScale, tree.Style, tree.Heading, tree.Decimal,
            tree.Shared, tree.TextAt, tree.Marked, tree.Ruled, tree.View,
        ),
        figures.setting,
    ),
}  # fmt: skip
