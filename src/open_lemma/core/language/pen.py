"""What a hand does on the stage, as edits of the script: the smallest that say it, in the statement that they belong to.

Statements are found by their lines, as the record of a run names them. An edit never moves other lines' text; what is
new in a figure is put at the end of its block, and a drawing that stands alone becomes a block when it needs one.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any, cast

import numpy as np

from . import tree
from .cursor import Builtins
from .ink import NotInked, applied
from .messages import Edit
from .parser import Reading, parse
from .shapes import coordinates, kind_of_surface
from .vocabulary import NOUNS, OPTIONS, STATEMENTS
from .vocabulary.names import RESERVED

Dressed = tree.Request | tree.Axis | tree.TextAt | tree.Marked | tree.Ruled | tree.Legend | tree.Inset | tree.Style
_STATEMENTS = (tree.Axis, tree.TextAt, tree.Marked, tree.Ruled, tree.Legend, tree.Inset, tree.Style)


@dataclass(frozen=True, slots=True)
class Action:
    """One thing done by hand.

    do       option, axis, window, legend, word, heading, place, text, mark, request, fit, view, section
    line     of the statement that is meant; for what belongs to a window that of its panel or figure
    more     what it says; see the functions of that name
    """

    do: str
    line: int
    more: dict[str, Any]


def _has_option(statement: str, name: str) -> bool:
    return any(option.name == name for option in STATEMENTS[statement].options)


def inked(text: str, actions: Iterable[Action], builtins: Builtins) -> tuple[str, list[Edit]]:
    """The script after some actions, and the edits of the script as it was that make it so.

    Raises NotInked where one cannot be written; then nothing is changed.
    """
    before = text
    for action in actions:
        text = applied(text, _Pen(parse(text, builtins), builtins).edits(action))
    return text, differences(before, text)


def dressing(text: str, builtins: Builtins, line: int, window: int, figure: int) -> dict[str, Any]:
    """What the script says of a drawn thing and of the window and figure around it, as it is written: the inverse of `inked`.

    line, window, figure  lines of the statement, of its panel or figure, and of the figure
    options    of the statement, by name, as they are written
    against    whether it is drawn from lists, one against another
    place      the two coordinates of `at (…, …)`, as they are written; None where there are none
    title, caption, gridlines   None where nothing is said;  frame, decimal_comma: whether so
    Lines that hold nothing of the kind say nothing.
    """
    pen = _Pen(parse(text, builtins), builtins)
    found: dict[str, Any] = {"options": {}, "place": None, "against": False, "title": None, "caption": None}
    try:
        node = pen._dressed(line)
    except NotInked:
        node = None
    if node is not None:
        found["options"] = {o.name: text[o.value_start : o.end].strip() for o in node.options}
        found["against"] = getattr(node, "against", None) is not None
        at = getattr(node, "at", None)
        if isinstance(at, tree.PointOf):
            found["place"] = [text[i.start : i.end] for i in at.items[:2]]
    for said in pen._body_of(figure):
        if isinstance(said, tree.Heading):
            found[said.which] = said.text
    own, whole = pen._body_of(window), pen._body_of(figure)
    found["gridlines"] = next((s.which for s in own if isinstance(s, tree.Gridlines)), None)
    found["frame"] = not any(isinstance(s, tree.Without) and s.what == "frame" for s in own)
    found["decimal_comma"] = any(isinstance(s, tree.Decimal) and s.which == "comma" for s in whole)
    return found


def differences(before: str, after: str) -> list[Edit]:
    """Edits that make one text of another, line by line; of a line only what changed in it."""
    old, new = before.splitlines(keepends=True), after.splitlines(keepends=True)
    starts = [0]
    for line in old:
        starts.append(starts[-1] + len(line))
    found = []
    for tag, a, b, c, d in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag != "equal":
            found.append(_trimmed(starts[a], "".join(old[a:b]), "".join(new[c:d])))
    return found


def _trimmed(at: int, old: str, new: str) -> Edit:
    """An edit without what both texts have in common at their beginnings and ends."""
    start = 0
    while start < min(len(old), len(new)) and old[start] == new[start]:
        start += 1
    end = 0
    while end < min(len(old), len(new)) - start and old[-1 - end] == new[-1 - end]:
        end += 1
    return Edit(at + start, at + len(old) - end, new[start : len(new) - end])


def number_text(value: float, span: float) -> str:
    """A number read off a window, with as many digits as a hand can mean: a two-thousandth of the span."""
    if not np.isfinite(value):
        raise NotInked("this is no number")
    if span <= 0 or not np.isfinite(span):
        return repr(float(value))
    decimals = int(np.ceil(-np.log10(span / 2000)))
    rounded = round(value, decimals) + 0.0
    if abs(rounded) >= 1e15 or (rounded and abs(rounded) < 1e-5):
        return f"{rounded:.6g}".replace("e+", "e")
    return f"{rounded:.{max(decimals, 0)}f}".rstrip("0").rstrip(".") if decimals > 0 else f"{rounded:.0f}"


class _Pen:
    def __init__(self, reading: Reading, builtins: Builtins) -> None:
        self.reading, self.text, self.builtins = reading, reading.source.text, builtins

    def edits(self, action: Action) -> list[Edit]:
        worker = _WORKERS.get(action.do)
        if worker is None:
            raise NotInked(f"'{action.do}' is nothing that can be inked")
        try:
            found: list[Edit] = worker(self, action.line, action.more)
        except (KeyError, TypeError, ValueError, IndexError) as trouble:
            if isinstance(trouble, NotInked):
                raise
            raise NotInked(f"what is to be inked is not said in full: {trouble}") from None
        return found

    def _line(self, node: tree.Node) -> int:
        return self.reading.source.line_of(node.start)

    # ------------------------------------------------------------ options

    def _option(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """name, value (a text of the language, None takes the option away); item, others: of a list of curves which one, and
        what the others have now."""
        node = self._dressed(line, more.get("kind"))
        name, value = str(more["name"]), more.get("value")
        known = NOUNS[node.noun].options if isinstance(node, tree.Request) else STATEMENTS[_word(node)].options
        if all(option.name != name for option in known):
            raise NotInked(f"this has no option '{name}'")
        if value is not None:
            value = self._value(name, str(value))
        item, others = more.get("item"), more.get("others")
        if item is not None and others and len(others) > 1 and name in ("label", "colour"):
            value = self._listed(node, name, value, int(item), [str(o) for o in others])
        return [] if value is None and _find(node, name) is None else [self._with(node, name, value)]

    def _value(self, name: str, value: str) -> str:
        """The value as it is written; refused where it would not read back as one option."""
        if name == "colour" and not re.fullmatch(r"[a-z]+|\"#[0-9a-fA-F]{6}\"", value):
            raise NotInked(f"'{value}' is no colour")
        if OPTIONS[name].choices and value not in OPTIONS[name].choices:
            raise NotInked(f"'{value}' is no {name}")
        if "\n" in value:
            raise NotInked("an option stands on one line")
        return value

    def _listed(self, node: Dressed, name: str, value: str | None, item: int, others: list[str]) -> str:
        option = _find(node, name)
        if option is not None and isinstance(option.value, tree.ListOf) and len(option.value.items) == len(others):
            others = [self.text[i.start : i.end] for i in option.value.items]
        others[item] = value if value is not None else others[item]
        if name == "colour":
            others = [o if o.startswith('"') else f'"{o}"' for o in others]
        return f"[{', '.join(others)}]"

    def _with(self, node: Dressed, name: str, value: str | None) -> Edit:
        """Write an option, or take it away with its comma."""
        option = _find(node, name)
        if option is None:
            at = _options_end(node)
            return Edit(at, at, f", {name} {value}")
        if value is None:
            comma = self.text.rfind(",", 0, option.start)
            return Edit(comma, option.end, "")
        written = self.text[option.start : option.value_start]
        if name == "colour" or not written.strip():
            return Edit(option.start, option.end, f"{name} {value}")
        return Edit(option.start, option.end, f"{written}{value}")

    def _dressed(self, line: int, kind: str | None = None) -> Dressed:
        for node in tree.walk(self.reading.script):
            if self._line(node) != line:
                continue
            if isinstance(node, tree.Request) and (NOUNS[node.noun].draws or kind == "request"):
                return node
            if isinstance(node, _STATEMENTS):
                return cast(Dressed, node)
        raise NotInked(f"line {line} holds nothing that could be dressed")

    # ------------------------------------------------------------ words of a window and of a figure

    def _window_body(self, line: int) -> tuple[tree.Node, tuple[tree.Statement, ...]]:
        """The block of a window: a panel's, an inset's or a figure's; of a drawing that stands alone the request."""
        for node in tree.walk(self.reading.script):
            if self._line(node) == line:
                if isinstance(node, tree.Figure | tree.Panel | tree.Inset):
                    return node, node.body
                if isinstance(node, tree.Bare) and isinstance(node.expression, tree.Request) and NOUNS[node.expression.noun].draws:
                    return node, ()
        raise NotInked(f"there is no figure in line {line}")

    def _body_of(self, line: int) -> tuple[tree.Statement, ...]:
        try:
            return self._window_body(line)[1]
        except NotInked:
            return ()

    def _add_to(self, line: int, written: str) -> list[Edit]:
        """A new line at the end of a window's block; a lone drawing becomes a block first."""
        node, body = self._window_body(line)
        if not body:
            start = self.reading.source.line_start(line)
            indent = self.text[start : node.start]
            if indent.strip():
                raise NotInked("this drawing stands in the middle of a line")
            drawn = self.text[node.start : node.end].replace("\n", "\n    ")
            return [Edit(node.start, node.end, f"figure:\n{indent}    {drawn}\n{indent}    {written}")]
        last = body[-1]
        start = self.reading.source.line_start(self._line(body[0]))
        indent = self.text[start : body[0].start]
        # Behind a remark at the end of the last line, not before it.
        at = self.reading.source.line_end(self.reading.source.line_of(max(_last_end(last) - 1, 0)))
        return [Edit(at, at, f"\n{indent}{written}")]

    def _find_word(self, line: int, kind: type, test: Any = lambda _: True) -> Any:
        return next((s for s in self._window_body(line)[1] if isinstance(s, kind) and test(s)), None)

    def _axis(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """which; text, low and high (numbers), options (name → value, None takes away): what is not said stays."""
        which = str(more["which"])
        if which not in ("x", "y", "z", "right", "colour"):
            raise NotInked(f"there is no {which} axis")
        found: tree.Axis | None = self._find_word(line, tree.Axis, lambda s: s.which == which)
        text = more.get("text")
        # A reversed axis keeps its direction: by its option, or else by its ends.
        turned = bool(more.get("reversed")) and not (found is not None and _find(found, "direction") is not None)
        window = self._span({**more, "low": more.get("high"), "high": more.get("low")} if turned else more)
        options: dict[str, Any] = dict(more.get("options") or {})
        for name, value in options.items():
            if not _has_option("axis", name):
                raise NotInked(f"an axis has no option '{name}'")
            if value is not None:
                options[name] = self._value(name, str(value))
        if found is None:
            said = "".join(f", {n} {v}" for n, v in options.items() if v is not None)
            quoted = f" {_quoted(text)}" if text else ""
            return self._add_to(line, f"{which} axis{quoted}{window}{said}") if quoted or window or said else []
        edits = []
        head = self.reading.source.line_start(self._line(found))
        after = self.text.index("axis", found.start if found.start >= head else head) + 4
        if found.text is not None:
            open_quote = self.text.index('"', after)
            close = open_quote + len(found.text) + 2
            if text is not None:
                edits.append(Edit(open_quote if text else after, close, _quoted(text) if text else ""))
            after = close
        elif text:
            edits.append(Edit(after, after, f" {_quoted(text)}"))
        if window:
            if found.low is not None and found.high is not None:
                edits.append(Edit(after, found.high.end, window))
            else:
                edits.append(Edit(after, after, window))
        elif more.get("low") is None and "low" in more and found.high is not None:
            edits.append(Edit(after, found.high.end, ""))
        edits += [self._with(found, n, v) for n, v in options.items() if v is not None or _find(found, n) is not None]
        return _merged(edits)

    def _span(self, more: dict[str, Any]) -> str:
        low, high = more.get("low"), more.get("high")
        if low is None or high is None:
            return ""
        span = abs(float(high) - float(low))
        # On a logarithmic axis a digit weighs as much at its lower end.
        if more.get("logarithmic"):
            span = min(abs(float(low)), abs(float(high))) * 10
        return f" from {number_text(float(low), span)} to {number_text(float(high), span)}"

    def _window(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """x, y, right: pairs of numbers that rise, with `x_logarithmic`, `x_reversed` and so on; null for those that stay."""
        text = self.text
        for which in ("x", "y", "right"):
            ends = more.get(which)
            if ends is not None:
                said = {"which": which, "low": ends[0], "high": ends[1], "logarithmic": more.get(f"{which}_logarithmic"),
                        "reversed": more.get(f"{which}_reversed")}  # fmt: skip
                # What is added stands below the head of the block, so that its line stays.
                text = applied(text, _Pen(parse(text, self.builtins), self.builtins)._axis(line, said))
        return differences(self.text, text)

    def _legend(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """words ("top left", "outside right", "" for by itself), or at (shares of the window), or none; options."""
        found: tree.Legend | None = self._find_word(line, tree.Legend)
        gone: tree.Without | None = self._find_word(line, tree.Without, lambda s: s.what == "legend")
        if more.get("none"):
            if gone is not None:
                return []
            return [Edit(found.start, found.end, "no legend")] if found is not None else self._add_to(line, "no legend")
        options = {str(n): v for n, v in (more.get("options") or {}).items() if _has_option("legend", str(n))}
        place = None
        if more.get("at") is not None:
            place = f" at ({', '.join(number_text(float(v), 1.0) for v in more['at'])})"
        elif more.get("words") is not None:
            place = f" {more['words']}".rstrip()
        if found is None:
            said = "".join(f", {n} {v}" for n, v in options.items() if v is not None)
            written = f"legend{place or ''}{said}"
            if gone is not None:
                return [Edit(gone.start, gone.end, written)]
            return self._add_to(line, written)
        edits = []
        if place is not None:
            end = found.options[0].start if found.options else found.end
            if found.options:
                end = self.text.rfind(",", 0, end)
            edits.append(Edit(found.start + len("legend"), end, place))
        edits += [self._with(found, n, v) for n, v in options.items() if v is not None or _find(found, n) is not None]
        return _merged(edits)

    def _word(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """word: gridlines, frame, true scale, style, decimal, size; value: what it says, None for as usual."""
        word, value = str(more["word"]), more.get("value")
        kinds: dict[str, tuple[type, Any]] = {
            "gridlines": (tree.Gridlines, None), "frame": (tree.Without, lambda s: s.what == "frame"), "true scale": (tree.TrueScale, None),
            "style": (tree.Style, None), "decimal": (tree.Decimal, None), "size": (tree.Size, None),
        }  # fmt: skip
        if word not in kinds:
            raise NotInked(f"'{word}' is no word of a figure")
        kind, test = kinds[word]
        found = self._find_word(line, kind, test or (lambda _: True))
        written = {"frame": "no frame", "true scale": "true scale"}.get(word, f"{word} {value}")
        if value is None:
            return [self._line_gone(found)] if found is not None else []
        if found is not None:
            return [Edit(found.start, found.end, written)]
        return self._add_to(line, written)

    def _line_gone(self, statement: tree.Statement) -> Edit:
        """The line of a statement taken away, unless a remark stands on it."""
        line = self._line(statement)
        start, end = self.reading.source.line_start(line), self.reading.source.line_end(line)
        if self.text[start : statement.start].strip() or self.text[statement.end : end].strip():
            return Edit(statement.start, statement.end, "")
        blocks = (n for n in tree.walk(self.reading.script) if isinstance(n, tree.Statement))
        if any(body == (statement,) for block in blocks for body in tree.bodies(block)):
            raise NotInked("this is the only line of its block")
        return Edit(start - 1, end, "")

    def _heading(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """which (title, caption, panel): text; an empty one takes it away."""
        which, text = str(more["which"]), str(more.get("text") or "")
        if which == "panel":
            node, _ = self._window_body(line)
            if not isinstance(node, tree.Panel):
                raise NotInked("this is no panel")
            head = self.text[node.start : node.head_end]
            return [Edit(node.start, node.head_end, f"panel {_quoted(text)}" if text else "panel")] if head else []
        found: tree.Heading | None = self._find_word(line, tree.Heading, lambda s: s.which == which)
        if not text:
            return [self._line_gone(found)] if found is not None else []
        written = f"{which} {_quoted(text)}"
        return [Edit(found.start, found.end, written)] if found is not None else self._add_to(line, written)

    # ------------------------------------------------------------ texts, marks, requests

    def _place(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """A text put elsewhere: x, y, and the spans of the window that they were read from."""
        node = self._dressed(line)
        if not isinstance(node, tree.TextAt):
            raise NotInked("only a text can be moved")
        x, y = (number_text(float(more[k]), float(more[f"{k}_span"])) for k in ("x", "y"))
        return [Edit(node.at.start, node.at.end, f"({x}, {y})")]

    def _text(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """Other words for a text in the figure; with x and y (and their spans) a new text in the window of that line."""
        words = str(more["text"])
        if "x" in more:
            x, y = (number_text(float(more[k]), float(more[f"{k}_span"])) for k in ("x", "y"))
            return self._add_to(line, f"text {_quoted(words)} at ({x}, {y})")
        node = self._dressed(line)
        if not isinstance(node, tree.TextAt):
            raise NotInked("there is no text in this line")
        if not words:
            return [self._line_gone(node)]
        return [Edit(node.text.start, node.text.end, _quoted(words))]

    def _mark(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """finding: the line of a request whose places are to be marked in the window of `line`; or x, y (and z) with spans."""
        if "x" in more:
            place = [number_text(float(more[k]), float(more[f"{k}_span"]) / 100) for k in "xyz" if k in more]
            return self._add_to(line, f"mark ({', '.join(place)})")
        name, named = self._named_finding(int(more["finding"]))
        found = self._find_word(line, tree.Marked, lambda s: isinstance(s.finding, tree.Name) and s.finding.name == name)
        if found is not None:
            return named
        if self._line_start_of(line) < self._line_start_of(int(more["finding"])):
            raise NotInked("the figure stands above the request; move it below")
        return [*named, *self._add_to(line, f"mark {name}")]

    def _view(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """azimuth, elevation in degrees: from where the window in space at `line` is seen."""
        azimuth, elevation = (number_text(float(more[k]), 2000.0) for k in ("azimuth", "elevation"))
        written = f"view azimuth {azimuth}, elevation {elevation}"
        found: tree.View | None = self._find_word(line, tree.View)
        return self._add_to(line, written) if found is None else [Edit(found.start, found.end, written)]

    def _section(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """series: the line of a surface; item; plane (a, b, c, d): ax + by + cz = d, with the span of d. In the window of `line`, or
        where `alone` is said in a figure of its own below."""
        request = self._dressed(int(more["series"]))
        if not isinstance(request, tree.Request) or request.noun != "surface" or request.against is not None:
            raise NotInked("only a surface of a formula is cut; give what goes through the points a name first")
        subject = request.subjects[0]
        if isinstance(subject, tree.ListOf):
            subject = subject.items[int(more.get("item") or 0)]
        named = coordinates([w.name for w in request.windows] or self._free(subject), kind_of_surface(subject))
        a, b, c, d = (float(v) for v in more["plane"])
        parts = [(v, n) for v, n in zip((a, b, c), named, strict=True) if v]
        terms = [n if abs(v) == 1 else f"{number_text(abs(v), 1.0)}{n}" for v, n in parts]
        left = "".join(f"{' - ' if v < 0 else ' + '}{t}" for (v, _), t in zip(parts, terms, strict=True))
        left = left[3:] if left.startswith(" + ") else f"-{left[3:]}"
        said = self.text[subject.start : subject.end]
        if request.windows:
            said += " for " + ", ".join(self.text[w.start : w.end] for w in request.windows)
        written = f"section of {said}, at {left} = {number_text(d, float(more['span']) / 100)}"
        if not more.get("alone"):
            return self._add_to(line, written)
        top = self._top_statement(line)
        at = self.reading.source.line_end(self.reading.source.line_of(max(_last_end(top) - 1, 0)))
        return [Edit(at, at, f"\n{written}")]

    def _line_start_of(self, line: int) -> int:
        return self.reading.source.line_start(line)

    def _named_finding(self, line: int) -> tuple[str, list[Edit]]:
        """The name of what a line finds; a request without a name is given one."""
        for statement in self.reading.script.statements:
            if self._line(statement) != line:
                continue
            if isinstance(statement, tree.Definition) and isinstance(statement.body, tree.Request):
                return statement.name, []
            request = statement.expression if isinstance(statement, tree.Bare) else None
            if isinstance(statement, tree.Show) and len(statement.items) == 1:
                request = statement.items[0]
            if isinstance(request, tree.Request):
                name = self._fresh(NOUNS[request.noun].finding_name or request.noun)
                return name, [Edit(statement.start, request.start, f"{name} = ")]
        raise NotInked(f"there is no finding in line {line}")

    def _taken(self) -> set[str]:
        taken = {n.name for n in tree.walk(self.reading.script) if isinstance(n, tree.Name)}
        taken |= {n for s in tree.walk(self.reading.script) if isinstance(s, tree.Statement) for n in tree.defined_names(s)}
        return taken | {w.name for w in tree.walk(self.reading.script) if isinstance(w, tree.Window)}

    def _fresh(self, wanted: str) -> str:
        """A name that nothing has yet."""
        taken = self._taken()
        number = 1
        while (name := f"{wanted}_{number}") in taken or name in RESERVED:
            number += 1
        return name

    def _request(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """noun, series (the line of the curve), low, high; item: which of a list of curves; second: line and item of another
        curve; mark: whether the figure shows what was found. `line` is that of the window."""
        noun = str(more["noun"])
        subject, variable = self._subject(int(more["series"]), more.get("item"))
        low, high = float(more["low"]), float(more["high"])
        low_text, high_text = (number_text(v, high - low) for v in (low, high))
        window = f"for {variable} from {low_text} to {high_text}"
        top = self._top_statement(line)
        at = self.reading.source.line_start(self._line(top))
        if noun == "slope":
            first, last = (self._at_place(int(more["series"]), more.get("item"), v) for v in (high_text, low_text))
            return [Edit(at, at, f"show ({first} - {last})/({_bracketed(high_text)} - {_bracketed(low_text)})\n")]
        if noun == "values":
            return [Edit(at, at, f"values of {subject} {window} count 11\n")]
        if noun not in NOUNS or NOUNS[noun].draws:
            raise NotInked(f"'{noun} of' cannot be asked for here")
        if noun == "crossings":
            other = more.get("second") or {}
            second, _ = self._subject(int(other["series"]), other.get("item"), variable)
            subject = f"{subject} and {second}"
        name = self._fresh(NOUNS[noun].finding_name or noun)
        edits = [Edit(at, at, f"{name} = {noun} of {subject} {window}\n")]
        return edits + self._add_to(line, f"mark {name}") if more.get("mark") else edits

    def _fit(self, line: int, more: dict[str, Any]) -> list[Edit]:
        """A fit to the points that `line` draws: name, formula in x, parameters, starts; window: the line of its window.
        band: confidence or prediction behind it; residuals: a figure of them; digits: of the parameters' values, to be shown; at: a
        place whose value is put on the figure."""
        points = self._dressed(line)
        if not isinstance(points, tree.Request) or points.against is None:
            raise NotInked("only points of one list against another can be fitted")
        if any(True for _ in self._loops_around(points)):
            raise NotInked("points drawn in a loop cannot be fitted by their line")
        wanted = str(more.get("name") or "fitted")
        if not wanted.isidentifier() or wanted in RESERVED:
            raise NotInked(f"'{wanted}' is no name")
        name = wanted if wanted not in self._taken() else self._fresh(wanted)
        ys, xs = (self.text[e.start : e.end] for e in (points.subjects[0], points.against))
        parameters = [str(p) for p in more["parameters"]]
        starts = "".join(f", start {p} = {float(v):.6g}" for p, v in (more.get("starts") or {}).items() if p in parameters)
        errors = _find(points, "errors")
        weighed = f", {self.text[errors.start : errors.end]}" if errors is not None and more.get("errors", True) else ""
        top = self._top_statement(line)
        at = self.reading.source.line_start(self._line(top))
        said = f"{name}(x) = fit of {more['formula']} to {ys} against {xs} for {', '.join(parameters)}{starts}{weighed}\n"
        if self.reading.source.text[at : top.start].strip():
            raise NotInked("these points stand in the middle of a line")
        window = int(more.get("window") or line)
        drawn = [f"curve of {name}(x)"]
        if more.get("band") in ("confidence", "prediction"):
            drawn.insert(0, f"{more['band']} of {name}")
        if more.get("at") is not None:
            place = f"{float(more['at']):.6g}"
            said += f"at_{name} = {name}({place})\n"
            drawn.append(f"mark ({place}, at_{name})")
            said += f"show at_{name}\n"
        text = applied(self.text, [Edit(at, at, said)])
        moved = window + said.count("\n")
        for thing in drawn:
            text = applied(text, _Pen(parse(text, self.builtins), self.builtins)._add_to(moved, thing))
        if more.get("residuals"):
            pen = _Pen(parse(text, self.builtins), self.builtins)
            end = pen._block_end(moved)
            text = applied(text, [Edit(end, end, f"\n\nfigure {name}_left:\n    residuals of {name}\n    line horizontal at 0")])
        return differences(self.text, text)

    def _block_end(self, line: int) -> int:
        """Where the text of the top statement that holds a line ends."""
        top = self._top_statement(line)
        return self.reading.source.line_end(self.reading.source.line_of(max(_last_end(top) - 1, 0)))

    def _top_statement(self, line: int) -> tree.Statement:
        offset = self.reading.source.line_start(line)
        found = [s for s in self.reading.script.statements if self.reading.source.line_start(self._line(s)) <= offset]
        if not found:
            raise NotInked(f"there is no statement in line {line}")
        return found[-1]

    def _curve(self, line: int, item: Any) -> tuple[tree.Request, tree.Expression, str]:
        """The request of a curve, the formula of one of its items, and the variable."""
        node = self._dressed(line)
        if not isinstance(node, tree.Request) or node.noun not in ("curve", "tangent"):
            raise NotInked("only a curve of a function can be asked")
        subject = node.subjects[0]
        if isinstance(subject, tree.ListOf):
            subject = subject.items[int(item or 0)]
        inner = subject
        while isinstance(inner, tree.Group):
            inner = inner.inner
        if isinstance(inner, tree.Comparison | tree.PointOf) or node.noun == "tangent":
            raise NotInked("only a curve of a function can be asked")
        if any(True for _ in self._loops_around(node)):
            raise NotInked("a curve drawn in a loop cannot be asked for by its line")
        if node.windows:
            return node, subject, node.windows[0].name
        free = self._free(subject)
        if not free:
            raise NotInked("this curve has no variable")
        return node, subject, free[0]

    def _free(self, subject: tree.Expression) -> list[str]:
        """Names without a value, in order, each once."""
        known = {n for s in self.reading.script.statements for n in tree.defined_names(s)} | set(self.builtins.names())
        called = {id(n.function) for n in tree.walk(subject) if isinstance(n, tree.Call)}
        names = [n.name for n in tree.walk(subject) if isinstance(n, tree.Name) and id(n) not in called and n.name not in known]
        return list(dict.fromkeys(names))

    def _loops_around(self, node: tree.Node) -> Iterable[tree.Node]:
        return (n for n in tree.walk(self.reading.script) if isinstance(n, tree.For | tree.While) and n.start <= node.start < n.end)

    def _subject(self, line: int, item: Any, variable: str | None = None) -> tuple[str, str]:
        """The formula of a curve as it is written, and its variable; for `variable` it is written in that one."""
        _, subject, own = self._curve(line, item)
        written = self.text[subject.start : subject.end]
        if variable is not None and own != variable:
            written = self._replaced(subject, own, variable)
        return written, variable or own

    def _replaced(self, subject: tree.Expression, name: str, other: str) -> str:
        places = [n for n in tree.walk(subject) if isinstance(n, tree.Name) and n.name == name]
        edits = [Edit(p.start - subject.start, p.end - subject.start, other) for p in places]
        return applied(self.text[subject.start : subject.end], edits)

    def _at_place(self, line: int, item: Any, place: str) -> str:
        _, subject, variable = self._curve(line, item)
        plain_call = isinstance(subject, tree.Call) and [getattr(a, "name", None) for a in subject.arguments] == [variable]
        written = self._replaced(subject, variable, place if plain_call else _bracketed(place))
        return written if plain_call else f"({written})"


def _bracketed(number: str) -> str:
    return f"({number})" if number.startswith("-") else number


def _find(node: Dressed, name: str) -> tree.Option | None:
    return next((o for o in node.options if o.name == name), None)


def _options_end(node: Dressed) -> int:
    if isinstance(node, tree.Inset):
        return node.head_end
    return node.end


def _last_end(statement: tree.Statement) -> int:
    """Where the text of a statement ends, of a block its last line."""
    bodies = tree.bodies(statement)
    if bodies and bodies[-1]:
        return _last_end(bodies[-1][-1])
    return statement.end


def _word(node: Dressed) -> str:
    words: dict[type, str] = {tree.Axis: "axis", tree.TextAt: "text", tree.Marked: "mark", tree.Ruled: "line", tree.Legend: "legend",
                              tree.Inset: "inset", tree.Style: "style"}  # fmt: skip
    return words[type(node)]


def _quoted(text: str) -> str:
    if '"' in text or "\n" in text:
        raise NotInked("a text holds no quotes and no line breaks")
    return f'"{text}"'


def _merged(edits: list[Edit]) -> list[Edit]:
    """Insertions at one place as one, in their order."""
    found: dict[tuple[int, int], Edit] = {}
    for edit in edits:
        key = (edit.start, edit.end)
        if edit.start == edit.end and key in found:
            found[key] = Edit(edit.start, edit.end, found[key].text + edit.text)
        else:
            found[key] = edit
    return list(found.values())


_WORKERS: dict[str, Any] = {
    "option": _Pen._option, "axis": _Pen._axis, "window": _Pen._window, "legend": _Pen._legend, "word": _Pen._word,
    "heading": _Pen._heading, "place": _Pen._place, "text": _Pen._text, "mark": _Pen._mark, "request": _Pen._request,
    "fit": _Pen._fit, "view": _Pen._view, "section": _Pen._section,
}  # fmt: skip
