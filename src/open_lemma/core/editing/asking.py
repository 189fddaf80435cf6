"""Requests on a span of a curve, and fits to points."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..language import tree
from ..language.messages import Edit
from ..language.vocabulary import NOUNS
from ..language.vocabulary.names import RESERVED
from .actions import Action, action
from .changes import NotInked, differences
from .script import EditedScript, bracketed, find_option, number_text


@action("request")
@dataclass(frozen=True, kw_only=True)
class RequestAction(Action):
    """A request on a span of a curve; the line is that of the window.

    series        the line of the curve; item: which of a list of curves
    second        line (`series`) and `item` of another curve, for crossings
    mark          whether the figure shows what was found
    """

    noun: str
    series: int
    low: float
    high: float
    item: int | None = None
    second: dict[str, int | None] | None = None
    mark: bool = False

    def edits(self, script: EditedScript) -> list[Edit]:
        subject, variable = script.subject(self.series, self.item)
        low, high = (number_text(v, self.high - self.low) for v in (self.low, self.high))
        window = f"for {variable} from {low} to {high}"
        at = script.reading.source.line_start(script.line_of(script.top_statement(self.line)))
        if self.noun == "slope":
            first, last = (script.at_place(self.series, self.item, v) for v in (high, low))
            return [Edit(at, at, f"show ({first} - {last})/({bracketed(high)} - {bracketed(low)})\n")]
        if self.noun == "values":
            return [Edit(at, at, f"values of {subject} {window} count 11\n")]
        if self.noun not in NOUNS or NOUNS[self.noun].draws:
            raise NotInked(f"'{self.noun} of' cannot be asked for here")
        if self.noun == "crossings":
            other = self.second or {}
            line = other.get("series")
            if line is None:
                raise NotInked("crossings are those of two curves")
            second, _ = script.subject(line, other.get("item"), variable)
            subject = f"{subject} and {second}"
        name = script.fresh(NOUNS[self.noun].finding_name or self.noun)
        edits = [Edit(at, at, f"{name} = {self.noun} of {subject} {window}\n")]
        return edits + script.add_to(self.line, f"mark {name}") if self.mark else edits


@action("drawn")
@dataclass(frozen=True, kw_only=True)
class DrawnAction(Action):
    """Something drawn beside a curve: its tangent at a place, its derivative, the area between it and zero. The line is that of the window.

    series    the line of the curve; item: which of a list of curves
    at        where the tangent touches
    low, high the span of the others
    """

    noun: str
    series: int
    low: float
    high: float
    at: float | None = None
    item: int | None = None

    def edits(self, script: EditedScript) -> list[Edit]:
        subject, variable = script.subject(self.series, self.item)
        low, high = (number_text(v, self.high - self.low) for v in (self.low, self.high))
        window = f"for {variable} from {low} to {high}"
        if self.noun == "tangent" and self.at is not None:
            return script.add_to(self.line, f"tangent of {subject} for {variable}, at {number_text(self.at, self.high - self.low)}")
        if self.noun == "derivative":
            return script.add_to(self.line, f"curve of (derivative of {subject} for {variable}) {window}")
        if self.noun == "band":
            return script.add_to(self.line, f"band of {subject} and 0 {window}")
        raise NotInked(f"'{self.noun}' cannot be drawn beside a curve")


@action("mark finding")
@dataclass(frozen=True, kw_only=True)
class MarkFindingAction(Action):
    """The finding of the statement in a line, marked on a figure; `window` is the line of that. A finding without a name gets one."""

    window: int

    def edits(self, script: EditedScript) -> list[Edit]:
        found = script.top_statement(self.line)
        named = isinstance(found, tree.Definition) and found.parameters is None and isinstance(found.body, tree.Request)
        bare = isinstance(found, tree.Bare) and isinstance(found.expression, tree.Request)
        request = found.body if isinstance(found, tree.Definition) else found.expression if isinstance(found, tree.Bare) else None
        if not isinstance(request, tree.Request) or not (named or bare):
            raise NotInked("only what a request found can be marked")
        finding = NOUNS[request.noun].finding_name or request.noun
        name = found.name if isinstance(found, tree.Definition) else script.fresh(finding)
        marked = script.add_to(self.window, f"mark {name}")
        said = f"{name} = {script.written(request)}"
        figure = script.top_statement(self.window)
        if found.start < figure.start:
            return marked if named else [Edit(found.start, found.end, said), *marked]
        # A figure shows what was found above it.
        later = [s for s in script.reading.script.statements if figure.start <= s.start < found.start]
        if tree.free_names(request) & {n for s in later for n in tree.defined_names(s)}:
            raise NotInked("what was found rests on lines below the figure; move the figure down")
        at = script.reading.source.line_start(script.line_of(figure))
        end = found.end + (script.text[found.end : found.end + 1] == "\n")
        return [Edit(at, at, f"{said}\n"), *marked, Edit(found.start, end, "")]


@action("fit")
@dataclass(frozen=True, kw_only=True)
class FitAction(Action):
    """A fit to the points that the line draws.

    formula    in x, with its parameters; `starts` of some of them
    name       of the fitted function
    window     the line of the window in which it is drawn
    errors     whether the points are weighed by theirs, where they have any
    band       "confidence" or "prediction": drawn behind it
    residuals  a figure of them
    at         a place whose value is put on the figure
    """

    formula: str
    parameters: list[str]
    name: str | None = None
    starts: dict[str, float] = field(default_factory=dict)
    window: int | None = None
    errors: bool = True
    band: str | None = None
    residuals: bool = False
    at: float | None = None

    def edits(self, script: EditedScript) -> list[Edit]:
        points = script.dressed(self.line)
        if not isinstance(points, tree.Request) or points.against is None:
            raise NotInked("only points of one list against another can be fitted")
        if any(True for _ in script.loops_around(points)):
            raise NotInked("points drawn in a loop cannot be fitted by their line")
        wanted = self.name or "fitted"
        if not wanted.isidentifier() or wanted in RESERVED:
            raise NotInked(f"'{wanted}' is no name")
        name = wanted if wanted not in script.taken() else script.fresh(wanted)
        top = script.top_statement(self.line)
        at = script.reading.source.line_start(script.line_of(top))
        if script.text[at : top.start].strip():
            raise NotInked("these points stand in the middle of a line")
        said, drawn = f"{self._statement(script, points, name)}\n", [f"curve of {name}(x)"]
        if self.band in ("confidence", "prediction"):
            drawn.insert(0, f"{self.band} of {name}")
        if self.at is not None:
            place = f"{self.at:.6g}"
            said += f"at_{name} = {name}({place})\nshow at_{name}\n"
            drawn.append(f"mark ({place}, at_{name})")
        after = script.after([Edit(at, at, said)])
        window = (self.window or self.line) + said.count("\n")
        for thing in drawn:
            after = after.after(after.add_to(window, thing))
        if self.residuals:
            end = after.block_end(window)
            below = f"\n\nfigure {name}_left:\n    residuals of {name}\n    line horizontal at 0"
            after = after.after([Edit(end, end, below)])
        return differences(script.text, after.text)

    def _statement(self, script: EditedScript, points: tree.Request, name: str) -> str:
        assert points.against is not None
        ys, xs = script.written(points.subjects[0]), script.written(points.against)
        starts = "".join(f", start {p} = {v:.6g}" for p, v in self.starts.items() if p in self.parameters)
        errors = find_option(points, "errors")
        weighed = f", {script.written(errors)}" if errors is not None and self.errors else ""
        return f"{name}(x) = fit of {self.formula} to {ys} against {xs} for {', '.join(self.parameters)}{starts}{weighed}"
