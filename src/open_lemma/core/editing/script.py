"""The script that is edited: its statements by their lines, and the small edits that all actions are made of."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any, cast

import numpy as np

from ..language import tree
from ..language.builtins import Builtins
from ..language.messages import Edit
from ..language.syntax.parser import parse
from ..language.vocabulary import NOUNS, OPTIONS
from ..language.vocabulary.names import RESERVED
from .changes import NotInked, applied

Dressed = tree.Request | tree.Axis | tree.TextAt | tree.Marked | tree.Ruled | tree.Legend | tree.Inset | tree.Style
_STATEMENTS = (tree.Axis, tree.TextAt, tree.Marked, tree.Ruled, tree.Legend, tree.Inset, tree.Style)


class EditedScript:
    """A script with its tree. Statements are found by their lines, as the record of a run names them."""

    def __init__(self, text: str, builtins: Builtins) -> None:
        self.reading, self.text, self.builtins = parse(text, builtins), text, builtins

    def after(self, edits: list[Edit]) -> EditedScript:
        """The script with edits made."""
        return EditedScript(applied(self.text, edits), self.builtins)

    def written(self, node: tree.Node) -> str:
        """A part of the script as it is written."""
        return self.text[node.start : node.end]

    def line_of(self, node: tree.Node) -> int:
        return self.reading.source.line_of(node.start)

    def with_option(self, node: Dressed, name: str, value: str | None) -> Edit:
        """Write an option, or take it away with its comma."""
        option = find_option(node, name)
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

    def dressed(self, line: int, kind: str | None = None) -> Dressed:
        """The drawn thing, or the statement with options, of a line. Raises NotInked."""
        for node in tree.walk(self.reading.script):
            if self.line_of(node) != line:
                continue
            if isinstance(node, tree.Request) and (NOUNS[node.noun].draws or kind == "request"):
                return node
            if isinstance(node, _STATEMENTS):
                return cast(Dressed, node)
        raise NotInked(f"line {line} holds nothing that could be dressed")

    def window_body(self, line: int) -> tuple[tree.Node, tuple[tree.Statement, ...]]:
        """The block of a window: a panel's, an inset's or a figure's; of a drawing that stands alone the request."""
        for node in tree.walk(self.reading.script):
            if self.line_of(node) == line:
                if isinstance(node, tree.Figure | tree.Panel | tree.Inset):
                    return node, node.body
                if isinstance(node, tree.Bare) and isinstance(node.expression, tree.Request) and NOUNS[node.expression.noun].draws:
                    return node, ()
        raise NotInked(f"there is no figure in line {line}")

    def body_of(self, line: int) -> tuple[tree.Statement, ...]:
        """The statements of the window of a line; none where there is no window."""
        try:
            return self.window_body(line)[1]
        except NotInked:
            return ()

    def add_to(self, line: int, written: str) -> list[Edit]:
        """A new line at the end of a window's block; a lone drawing becomes a block first."""
        node, body = self.window_body(line)
        if not body:
            start = self.reading.source.line_start(line)
            indent = self.text[start : node.start]
            if indent.strip():
                raise NotInked("this drawing stands in the middle of a line")
            drawn = self.text[node.start : node.end].replace("\n", "\n    ")
            return [Edit(node.start, node.end, f"figure:\n{indent}    {drawn}\n{indent}    {written}")]
        last = body[-1]
        start = self.reading.source.line_start(self.line_of(body[0]))
        indent = self.text[start : body[0].start]
        # Behind a remark at the end of the last line, not before it.
        at = self.reading.source.line_end(self.reading.source.line_of(max(last_end(last) - 1, 0)))
        return [Edit(at, at, f"\n{indent}{written}")]

    def find_word(self, line: int, kind: type, test: Any = lambda _: True) -> Any:
        return next((s for s in self.window_body(line)[1] if isinstance(s, kind) and test(s)), None)

    def line_gone(self, statement: tree.Statement) -> Edit:
        """The line of a statement taken away, unless a remark stands on it."""
        line = self.line_of(statement)
        start, end = self.reading.source.line_start(line), self.reading.source.line_end(line)
        if self.text[start : statement.start].strip() or self.text[statement.end : end].strip():
            return Edit(statement.start, statement.end, "")
        blocks = (n for n in tree.walk(self.reading.script) if isinstance(n, tree.Statement))
        if any(body == (statement,) for block in blocks for body in tree.bodies(block)):
            raise NotInked("this is the only line of its block")
        return Edit(start - 1, end, "")

    def line_start_of(self, line: int) -> int:
        return self.reading.source.line_start(line)

    def named_finding(self, line: int) -> tuple[str, list[Edit]]:
        """The name of what a line finds; a request without a name is given one."""
        for statement in self.reading.script.statements:
            if self.line_of(statement) != line:
                continue
            if isinstance(statement, tree.Definition) and isinstance(statement.body, tree.Request):
                return statement.name, []
            request = statement.expression if isinstance(statement, tree.Bare) else None
            if isinstance(statement, tree.Show) and len(statement.items) == 1:
                request = statement.items[0]
            if isinstance(request, tree.Request):
                name = self.fresh(NOUNS[request.noun].finding_name or request.noun)
                return name, [Edit(statement.start, request.start, f"{name} = ")]
        raise NotInked(f"there is no finding in line {line}")

    def taken(self) -> set[str]:
        taken = {n.name for n in tree.walk(self.reading.script) if isinstance(n, tree.Name)}
        taken |= {n for s in tree.walk(self.reading.script) if isinstance(s, tree.Statement) for n in tree.defined_names(s)}
        return taken | {w.name for w in tree.walk(self.reading.script) if isinstance(w, tree.Window)}

    def fresh(self, wanted: str) -> str:
        """A name that nothing has yet."""
        taken = self.taken()
        number = 1
        while (name := f"{wanted}_{number}") in taken or name in RESERVED:
            number += 1
        return name

    def block_end(self, line: int) -> int:
        """Where the text of the top statement that holds a line ends."""
        top = self.top_statement(line)
        return self.reading.source.line_end(self.reading.source.line_of(max(last_end(top) - 1, 0)))

    def top_statement(self, line: int) -> tree.Statement:
        """The statement of the script that holds a line. Raises NotInked."""
        offset = self.reading.source.line_start(line)
        found = [s for s in self.reading.script.statements if self.reading.source.line_start(self.line_of(s)) <= offset]
        if not found:
            raise NotInked(f"there is no statement in line {line}")
        return found[-1]

    def _curve(self, line: int, item: Any) -> tuple[tree.Request, tree.Expression, str]:
        """The request of a curve, the formula of one of its items, and the variable."""
        node = self.dressed(line)
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
        if any(True for _ in self.loops_around(node)):
            raise NotInked("a curve drawn in a loop cannot be asked for by its line")
        if node.windows:
            return node, subject, node.windows[0].name
        free = self.free_names(subject)
        if not free:
            raise NotInked("this curve has no variable")
        return node, subject, free[0]

    def free_names(self, subject: tree.Expression) -> list[str]:
        """Names without a value, in order, each once."""
        known = {n for s in self.reading.script.statements for n in tree.defined_names(s)} | set(self.builtins.names())
        called = {id(n.function) for n in tree.walk(subject) if isinstance(n, tree.Call)}
        names = [n.name for n in tree.walk(subject) if isinstance(n, tree.Name) and id(n) not in called and n.name not in known]
        return list(dict.fromkeys(names))

    def loops_around(self, node: tree.Node) -> Iterable[tree.Node]:
        return (n for n in tree.walk(self.reading.script) if isinstance(n, tree.For | tree.While) and n.start <= node.start < n.end)

    def subject(self, line: int, item: Any, variable: str | None = None) -> tuple[str, str]:
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

    def at_place(self, line: int, item: Any, place: str) -> str:
        """The formula of a curve with a number in the place of its variable."""
        _, subject, variable = self._curve(line, item)
        plain_call = isinstance(subject, tree.Call) and [getattr(a, "name", None) for a in subject.arguments] == [variable]
        written = self._replaced(subject, variable, place if plain_call else bracketed(place))
        return written if plain_call else f"({written})"


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


def bracketed(number: str) -> str:
    return f"({number})" if number.startswith("-") else number


def find_option(node: Dressed, name: str) -> tree.Option | None:
    return next((o for o in node.options if o.name == name), None)


def _options_end(node: Dressed) -> int:
    if isinstance(node, tree.Inset):
        return node.head_end
    return node.end


def last_end(statement: tree.Statement) -> int:
    """Where the text of a statement ends, of a block its last line."""
    bodies = tree.bodies(statement)
    if bodies and bodies[-1]:
        return last_end(bodies[-1][-1])
    return statement.end


def word_of(node: Dressed) -> str:
    words: dict[type, str] = {tree.Axis: "axis", tree.TextAt: "text", tree.Marked: "mark", tree.Ruled: "line", tree.Legend: "legend",
                              tree.Inset: "inset", tree.Style: "style"}  # fmt: skip
    return words[type(node)]


def option_value(name: str, value: str) -> str:
    """The value of an option as it is written. Raises NotInked where it would not read back as one option."""
    if name == "colour" and not re.fullmatch(r"[a-z]+|\"#[0-9a-fA-F]{6}\"", value):
        raise NotInked(f"'{value}' is no colour")
    if name in OPTIONS and OPTIONS[name].choices and value not in OPTIONS[name].choices:
        raise NotInked(f"'{value}' is no {name}")
    if "\n" in value:
        raise NotInked("an option stands on one line")
    return value


def quoted(text: str) -> str:
    if '"' in text or "\n" in text:
        raise NotInked("a text holds no quotes and no line breaks")
    return f'"{text}"'


def merged(edits: list[Edit]) -> list[Edit]:
    """Insertions at one place as one, in their order."""
    found: dict[tuple[int, int], Edit] = {}
    for edit in edits:
        key = (edit.start, edit.end)
        if edit.start == edit.end and key in found:
            found[key] = Edit(edit.start, edit.end, found[key].text + edit.text)
        else:
            found[key] = edit
    return list(found.values())
