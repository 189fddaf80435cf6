"""Tree → text: a script written anew from its tree alone, in the plainest spelling that reads back as the same tree."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from .. import tree
from ..vocabulary import NOUNS, OPTIONS

_OR, _AND, _NOT, _COMPARE, _JOIN, _RANGE, _SUM, _PRODUCT, _SIGN, _FACTORS, _POWER, _ATOM = range(12)


def write_script(script: tree.Script) -> str:
    return "".join(line + "\n" for s in script.statements for line in lines_of(s))


def lines_of(s: tree.Statement) -> list[str]:
    """The lines of a statement; those of blocks are indented by four spaces."""
    return _STATEMENTS[type(s)](s)


def expression_text(e: tree.Expression) -> str:
    return _text(e)[0]


# ---------------------------------------------------------------- expressions


def _text(e: Any) -> tuple[str, int]:
    return _EXPRESSIONS[type(e)](e)


def _at(e: tree.Expression, level: int) -> str:
    """As it must stand where only what binds at least so tightly may; the tree has its brackets as nodes of their own."""
    text, binding = _text(e)
    if binding < level:
        raise ValueError(f"{type(e).__name__} needs brackets here")
    return text


def _left(operator: str, level: int, spaced: bool) -> Callable[[tree.Binary], tuple[str, int]]:
    space = " " if spaced else ""

    def written(e: tree.Binary) -> tuple[str, int]:
        right = _SIGN if level == _PRODUCT else level + 1
        return f"{_at(e.left, level)}{space}{operator}{space}{_at(e.right, right)}", level

    return written


_BINARY = {"+": _left("+", _SUM, True), "-": _left("-", _SUM, True), "*": _left("*", _PRODUCT, False), "/": _left("/", _PRODUCT, False)}


def _binary(e: tree.Binary) -> tuple[str, int]:
    if e.operator == "^":
        return f"{_at(e.left, _ATOM)}^{_exponent(e.right)}", _POWER
    return _BINARY[e.operator](e)


def _exponent(e: tree.Expression) -> str:
    if isinstance(e, tree.Negative):
        return f"-{_exponent(e.operand)}"
    return _at(e, _POWER)


def _comparison(e: tree.Comparison) -> tuple[str, int]:
    text = _at(e.operands[0], _JOIN)
    for sign, operand in zip(e.signs, e.operands[1:], strict=True):
        text += f" {sign} {_at(operand, _JOIN)}"
    return text, _COMPARE


def _logical(e: tree.Logical) -> tuple[str, int]:
    if e.word == "not":
        return f"not {_at(e.operands[0], _NOT)}", _NOT
    level = _AND if e.word == "and" else _OR
    return f" {e.word} ".join(_at(o, level + 1) for o in e.operands), level


def _range(e: tree.Range) -> tuple[str, int]:
    text = f"{_at(e.low, _SUM)} to {_at(e.high, _SUM)}"
    if e.step is not None:
        text += f" step {_at(e.step, _SUM)}"
    if e.count is not None:
        text += f" count {_at(e.count, _SUM)}"
    return text, _RANGE


def _call(e: tree.Call) -> tuple[str, int]:
    return f"{_at(e.function, _ATOM)}({_listed(e.arguments)})", _ATOM


def _listed(items: tuple[tree.Expression, ...]) -> str:
    return ", ".join(expression_text(i) for i in items)


def _comprehension(e: tree.Comprehension) -> tuple[str, int]:
    windows = ", ".join(window_text(w) for w in e.windows)
    condition = f" if {expression_text(e.condition)}" if e.condition is not None else ""
    return f"[{expression_text(e.element)} for {windows}{condition}]", _ATOM


def _pieces(e: tree.Pieces) -> tuple[str, int]:
    said = [f"{expression_text(v)} when {expression_text(c)}" for v, c in e.pieces]
    if e.otherwise is not None:
        said.append(f"otherwise {expression_text(e.otherwise)}")
    return ", ".join(said), _OR


def window_text(w: tree.Window) -> str:
    """A window as it is written."""
    if w.values is not None:
        return f"{w.name} in {expression_text(w.values)}"
    if w.low is None or w.high is None:
        return w.name
    return f"{w.name} from {_range(tree.Range(w.start, w.end, w.low, w.high, w.step, w.count))[0]}"


def option_text(o: tree.Option) -> str:
    """An option as it is written."""
    if isinstance(o.value, str):
        if OPTIONS[o.name].kind == "unit":
            return f"{o.name} [{o.value}]"
        quoted = o.name == "colour" and not o.value.replace("-", "").isidentifier()
        return f'{o.name} "{o.value}"' if quoted else f"{o.name} {o.value}"
    parameter = f"{o.parameter} = " if o.parameter is not None else ""
    return f"{o.name} {'by ' if o.by else ''}{parameter}{expression_text(o.value)}"


def _request(e: tree.Request) -> tuple[str, int]:
    joiner = " and " if len(e.subjects) > 1 and NOUNS[e.noun].shape in ("pair", "one or pair") else ", "
    text = f"{e.noun} of {joiner.join(expression_text(s) for s in e.subjects)}"
    if e.to is not None:
        text += f" to {expression_text(e.to)}"
    if e.against is not None:
        text += f" against {expression_text(e.against)}"
    if e.windows:
        text += " for " + ", ".join(window_text(w) for w in e.windows)
    return text + _tail(e.options), _OR


def _tail(options: tuple[tree.Option, ...]) -> str:
    return "".join(f", {option_text(o)}" for o in options)


def _field(e: tree.Field) -> tuple[str, int]:
    return f"{_at(e.target, _ATOM)}.{e.name if e.name.isidentifier() else _quoted(e.name)}", _ATOM


def _quoted(text: str) -> str:
    return f'"{text}"'


_EXPRESSIONS: dict[type, Callable[[Any], tuple[str, int]]] = {
    tree.Number: lambda e: (e.text, _ATOM),
    tree.Text: lambda e: (_quoted(e.value), _ATOM),
    tree.Truth: lambda e: ("true" if e.value else "false", _ATOM),
    tree.Name: lambda e: (e.name, _ATOM),
    tree.Negative: lambda e: (f"-{_at(e.operand, _SIGN)}", _SIGN),
    tree.Binary: _binary,
    tree.Juxtaposed: lambda e: ("".join(_at(f, _POWER) for f in e.factors), _FACTORS),
    tree.Radical: lambda e: (f"√{_at(e.operand, _ATOM)}", _ATOM),
    tree.Group: lambda e: (f"({expression_text(e.inner)})", _ATOM),
    tree.Comparison: _comparison,
    tree.Logical: _logical,
    tree.Join: lambda e: (f"{_at(e.left, _JOIN)} join {_at(e.right, _RANGE)}", _JOIN),
    tree.Range: _range,
    tree.Call: _call,
    tree.Prime: lambda e: (f"{_at(e.function, _ATOM)}{chr(39) * e.order}", _ATOM),
    tree.Index: lambda e: (f"{_at(e.target, _ATOM)}[{_listed(e.places)}]", _ATOM),
    tree.Field: _field,
    tree.PointOf: lambda e: (f"({_listed(e.items)})", _ATOM),
    tree.ListOf: lambda e: (f"[{_listed(e.items)}]", _ATOM),
    tree.Comprehension: _comprehension,
    tree.Pieces: _pieces,
    tree.Quantity: lambda e: (f"{expression_text(e.value)} [{e.unit}]", _FACTORS if isinstance(e.value, tree.Number) else _OR),
    tree.Uncertain: lambda e: (f"{_at(e.value, _SUM)} ± {_at(e.error, _FACTORS)}", _OR),
    tree.Request: _request,
}


# ---------------------------------------------------------------- statements


def _block(head: str, body: tuple[tree.Statement, ...]) -> list[str]:
    return [head + ":", *(f"    {line}" if line else "" for s in body for line in lines_of(s))]


def _definition(s: tree.Definition) -> list[str]:
    head = s.name if s.parameters is None else f"{s.name}({', '.join(s.parameters)})"
    domain = " for " + ", ".join(window_text(w) for w in s.domain) if s.domain else ""
    return [f"{head} = {expression_text(s.body)}{domain}"]


def _if(s: tree.If) -> list[str]:
    lines: list[str] = []
    for place, branch in enumerate(s.branches):
        word = "if" if place == 0 else "else if"
        lines += _block("else" if branch.condition is None else f"{word} {expression_text(branch.condition)}", branch.body)
    return lines


def _table(s: tree.Table) -> list[str]:
    if s.file is not None:
        return [f'table {s.name} from "{s.file}"']
    heads = [(c.name if c.name.isidentifier() else _quoted(c.name)) + (f" [{c.unit}]" if c.unit is not None else "") for c in s.columns]
    return [f"table {s.name}:", f"    {'  '.join(heads)}", *(f"    {'  '.join(c.text for c in row)}" for row in s.rows)]


def _note(s: tree.Note) -> list[str]:
    if "\n" not in s.text and '"' not in s.text:
        return [f'note "{s.text}"']
    return ["note:", *(f"    {line}".rstrip() for line in s.text.split("\n"))]


def _axis(s: tree.Axis) -> list[str]:
    text = f' "{s.text}"' if s.text is not None else ""
    span = f" from {_at(s.low, _SUM)} to {_at(s.high, _SUM)}" if s.low is not None and s.high is not None else ""
    return [f"{s.which} axis{text}{span}{_tail(s.options)}"]


def _figure(s: tree.Figure) -> list[str]:
    head = "figure" + (f" {s.name}" if s.name is not None else "") + (f' "{s.title}"' if s.title is not None else "")
    return _block(head + (f", {s.grid[0]} by {s.grid[1]}" if s.grid is not None else ""), s.body)


def _placed(word: str, s: tree.Legend | tree.Inset) -> str:
    at = f" at {_at(s.at, _SUM)}" if s.at is not None else ""
    return " ".join((word, *s.words)) + at + _tail(s.options)


def _ruled(s: tree.Ruled) -> list[str]:
    place = f"from {_at(s.at, _SUM)} to {_at(s.to, _SUM)}" if s.to is not None else f"{s.which} at {_at(s.at, _SUM)}"
    return [f"line {place}{_tail(s.options)}"]


def _tune(s: tree.Tune) -> list[str]:
    step = f" step {_at(s.step, _SUM)}" if s.step is not None else ""
    return [f"tune {s.name} = {expression_text(s.value)} from {_at(s.low, _SUM)} to {_at(s.high, _SUM)}{step}"]


_STATEMENTS: dict[type, Callable[[Any], list[str]]] = {
    tree.Definition: _definition,
    tree.Show: lambda s: [f"show {', '.join(expression_text(i) for i in s.items)}{_tail(s.options)}"],
    tree.Bare: lambda s: [expression_text(s.expression)],
    tree.Compare: lambda s: [f"compare {', '.join(expression_text(i) for i in s.items)}"],
    tree.Check: lambda s: [f"check {expression_text(s.condition)}{_tail(s.options)}"],
    tree.Part: lambda s: [f'part "{s.title}"'],
    tree.Note: _note,
    tree.Tune: _tune,
    tree.Table: _table,
    tree.For: lambda s: _block(f"for {window_text(s.window)}", s.body),
    tree.While: lambda s: _block(f"while {expression_text(s.condition)}", s.body),
    tree.If: _if,
    tree.Define: lambda s: _block(f"define {s.name}({', '.join(s.parameters)})", s.body),
    tree.Return: lambda s: [f"return {expression_text(s.value)}"],
    tree.Axis: _axis,
    tree.Legend: lambda s: [_placed("legend", s)],
    tree.Gridlines: lambda s: [f"gridlines {s.which}"],
    tree.Size: lambda s: [f"size {s.width:g} mm by {s.height:g} mm"],
    tree.Without: lambda s: [f"no {s.what}"],
    tree.TrueScale: lambda _: ["true scale"],
    tree.View: lambda s: [f"view {', '.join(option_text(o) for o in s.options)}"],
    tree.Style: lambda s: [f"style {' '.join(s.words)}{_tail(s.options)}"],
    tree.Heading: lambda s: [f'{s.which} "{s.text}"'],
    tree.Decimal: lambda s: [f"decimal {s.which}"],
    tree.Shared: lambda s: [f"shared {s.which} axis"],
    tree.TextAt: lambda s: [f"text {_at(s.text, _JOIN)} at {_at(s.at, _SUM)}{_tail(s.options)}"],
    tree.Marked: lambda s: [f"mark {expression_text(s.finding)}{_tail(s.options)}"],
    tree.Ruled: _ruled,
    tree.Panel: lambda s: _block("panel" + (f' "{s.title}"' if s.title is not None else ""), s.body),
    tree.Inset: lambda s: _block(_placed("inset", s), s.body),
    tree.Figure: _figure,
}
