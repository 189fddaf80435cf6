"""The shape of a syntax tree as a short text, so that tables of cases can be read beside the scripts."""

from __future__ import annotations

from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language import tree
from open_lemma.core.language.syntax.parser import parse


def shape_of(script: str) -> str:
    """The statements of a script, one after the other; the script must be without mistakes of reading."""
    reading = parse(script, BUILTINS)
    assert not reading.messages.items, [m.text for m in reading.messages.items]
    return " ".join(shape(s) for s in reading.script.statements)


def shape(node: tree.Node) -> str:  # one line for each kind of node: a table, not a program
    match node:
        case tree.Number(text=t):
            return t
        case tree.Text(value=v):
            return repr(v)
        case tree.Truth(value=v):
            return str(v).lower()
        case tree.Name(name=n):
            return n
        case tree.Negative(operand=x):
            return f"(neg {shape(x)})"
        case tree.Binary(operator=o, left=a, right=b):
            return f"({o} {shape(a)} {shape(b)})"
        case tree.Juxtaposed(factors=f):
            return f"(· {_all(f)})"
        case tree.Radical(operand=x):
            return f"(√ {shape(x)})"
        case tree.Group(inner=x):
            return shape(x)
        case tree.Comparison(operands=xs, signs=signs):
            return f"({' '.join(signs)} {_all(xs)})"
        case tree.Logical(word=w, operands=xs):
            return f"({w} {_all(xs)})"
        case tree.Join(left=a, right=b):
            return f"(join {shape(a)} {shape(b)})"
        case tree.Range(low=a, high=b, step=s, count=c):
            return f"({_all([a, b])}{_more('step', s)}{_more('count', c)})"
        case tree.Call(function=f, arguments=xs):
            return f"(call {_all([f, *xs])})"
        case tree.Prime(function=f, order=n):
            return f"{shape(f)}{chr(39) * n}"
        case tree.Index(target=x, places=ps):
            return f"(at {_all([x, *ps])})"
        case tree.Field(target=x, name=n):
            return f"{shape(x)}.{n}"
        case tree.PointOf(items=xs):
            return f"<{_all(xs)}>"
        case tree.ListOf(items=xs):
            return f"[{_all(xs)}]"
        case tree.Comprehension(element=e, windows=ws, condition=c):
            return f"[{shape(e)} for {_all(ws)}{_more('if', c)}]"
        case tree.Pieces(pieces=ps, otherwise=o):
            return f"(pieces {' '.join(f'{shape(v)} when {shape(c)}' for v, c in ps)}{_more('otherwise', o)})"
        case tree.Quantity(value=v, unit=u):
            return f"{shape(v)}[{u}]"
        case tree.Window(name=n, low=a, high=b, step=s, count=c, values=v):
            return f"{n}{_more('from', a)}{_more('to', b)}{_more('step', s)}{_more('count', c)}{_more('in', v)}"
        case tree.Option(name=n, value=v, parameter=p, by=by):
            return f"{n}{'=' + p if p else ''}{' by' if by else ''}:{v if isinstance(v, str) else shape(v)}"
        case tree.Request(noun=n, subjects=xs, against=a, to=t, windows=ws, options=os):
            tail = f"{_more('to', t)}{_more('against', a)}{' for ' + _all(ws) if ws else ''}{' | ' + _all(os) if os else ''}"
            return f"({n} {_all(xs)}{tail})"
        case tree.Definition(name=n, parameters=p, body=b, domain=d):
            head = n if p is None else f"{n}({','.join(p)})"
            return f"{{{head} = {shape(b)}{' for ' + _all(d) if d else ''}}}"
        case tree.Show(items=xs):
            return f"{{show {_all(xs)}}}"
        case tree.Bare(expression=e):
            return shape(e)
        case tree.Check(condition=c, options=os):
            return f"{{check {shape(c)}{' | ' + _all(os) if os else ''}}}"
        case tree.Part(title=t):
            return f"{{part {t}}}"
        case tree.Axis(which=w, text=t, low=a, high=b, options=os):
            return f"{{{w}-axis {t!r}{_more('from', a)}{_more('to', b)}{' | ' + _all(os) if os else ''}}}"
        case tree.Legend(words=ws):
            return f"{{legend {' '.join(ws)}}}"
        case tree.Gridlines(which=w):
            return f"{{gridlines {w}}}"
        case tree.Size(width=w, height=h):
            return f"{{size {w:g} {h:g}}}"
        case tree.Without(what=w):
            return f"{{no {w}}}"
        case tree.Figure(name=n, title=t, grid=g, body=b):
            return f"{{figure {n} {t!r}{' ' + repr(g) if g else ''}: {_all(b)}}}"
        case tree.For(window=w, body=b):
            return f"{{for {shape(w)}: {_all(b)}}}"
        case tree.While(condition=c, body=b):
            return f"{{while {shape(c)}: {_all(b)}}}"
        case tree.If(branches=bs):
            return f"{{{' '.join(shape(b) for b in bs)}}}"
        case tree.Branch(condition=c, body=b):
            return f"{'else' if c is None else 'if ' + shape(c)}: {_all(b)}"
        case tree.Define(name=n, parameters=p, body=b):
            return f"{{define {n}({','.join(p)}): {_all(b)}}}"
        case tree.Return(value=v):
            return f"{{return {shape(v)}}}"
        case tree.Note(text=t):
            return f"{{note {t!r}}}"
        case tree.Tune(name=n, value=v, low=a, high=b, step=s):
            return f"{{tune {n} = {shape(v)} from {shape(a)} to {shape(b)}{_more('step', s)}}}"
        case tree.Table(name=n, columns=cs, rows=rs, file=f):
            heads = " ".join(c.name + (f"[{c.unit}]" if c.unit else "") for c in cs)
            return f"{{table {n} {f!r}}}" if f else f"{{table {n}: {heads} | {' | '.join(' '.join(c.text for c in r) for r in rs)}}}"
        case tree.View(options=o):
            return f"{{view {_all(o)}}}"
    raise AssertionError(f"no shape for {node}")


def _all(nodes: object) -> str:
    return " ".join(shape(n) for n in nodes)  # type: ignore[attr-defined]


def _more(word: str, node: tree.Node | None) -> str:
    return f" {word} {shape(node)}" if node is not None else ""
