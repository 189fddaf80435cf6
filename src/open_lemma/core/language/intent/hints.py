"""Quiet offers beside a script that can be read: what is easily overlooked by somebody who is new."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator

from .. import tree
from ..messages import Edit, Fix, Message, replace
from ..syntax.parser import Reading
from ..vocabulary.names import GREEK

_PLANE = frozenset(("curve", "points", "line", "steps", "bars", "band", "residuals", "confidence", "prediction"))
_WAVES = ("square", "triangle", "sawtooth")
_GREEK = "|".join(sorted(GREEK, key=len, reverse=True))
_MATHEMATICS = re.compile(rf"(?<![\w$\\])(?:(?:{_GREEK})(?:_\w+)?|[A-Za-z](?:_\w{{1,3}}|\^-?\w)+)(?!\w)")
_RAISED = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")
_WORDS = frozenset(("mu", "nu", "xi", "pi", "eta", "chi", "psi", "phi", "rho", "tau"))  # short ones, which may be words of a text


def hint(reading: Reading) -> None:
    """Add the notes. A script without any stays as it is; nothing is said twice."""
    for message in (*_lone_drawings(reading), *_mathematics_in_texts(reading), *_period_one(reading)):
        reading.messages.add(message)


def _lone_drawings(reading: Reading) -> Iterator[Message]:
    """Drawings in a row, each in a figure of its own."""
    source = reading.source.text
    for alone, group in itertools.groupby(reading.script.statements, _is_lone_drawing):
        run = list(group)
        if not alone or len(run) < 2:
            continue
        first, last = run[0], run[-1]
        inside = source[first.start : last.end].replace("\n", "\n    ")
        fix = Fix("in one figure", (Edit(first.start, last.end, f"figure:\n    {inside}"),))
        said = "each drawing that stands alone has a figure of its own"
        yield Message("note", "lone-drawings", run[1].start, run[1].end, said, (fix,))


def _is_lone_drawing(statement: tree.Statement) -> bool:
    if not isinstance(statement, tree.Bare) or not isinstance(statement.expression, tree.Request):
        return False
    request = statement.expression
    in_space = any(isinstance(s, tree.PointOf) and len(s.items) == 3 for s in request.subjects)
    return request.noun in _PLANE and not in_space


def _texts(reading: Reading) -> Iterator[tree.Text]:
    """Texts that stand on a figure: labels, titles, axes, annotations."""
    for node in tree.walk(reading.script):
        if isinstance(node, tree.Option) and node.name == "label" and isinstance(node.value, tree.Text):
            yield node.value
        elif isinstance(node, tree.TextAt) and isinstance(node.text, tree.Text):
            yield node.text


def _mathematics_in_texts(reading: Reading) -> Iterator[Message]:
    """`"alpha_1"` and `"x^2"` in a label are letters as they stand; between dollar signs they are mathematics."""
    source = reading.source.text
    if '"' not in source:
        return  # the whole tree is not walked for nothing
    places = [(t.start + 1, t.end - 1) for t in _texts(reading)]
    for node in tree.walk(reading.script):
        if isinstance(node, tree.Axis | tree.Heading | tree.Figure):
            end = node.head_end if isinstance(node, tree.Figure) else node.end
            match = re.compile(r'"([^"\n]*)"').search(source, node.start, end)
            if match:
                places.append(match.span(1))
    for start, end in dict.fromkeys(places):
        text = source[start:end]
        if "$" in text:
            continue
        found = [m for m in _MATHEMATICS.finditer(text) if m.group(0) not in _WORDS]
        if not found:
            continue
        unit = max(text.rfind(" / "), text.rfind("["), text.rfind("("))  # behind it stand units, which are upright
        head, tail = (text[:unit], text[unit:]) if unit >= 0 else (text, "")
        written = _MATHEMATICS.sub(lambda m: m.group(0) if m.group(0) in _WORDS else f"${_as_tex(m.group(0))}$", head)
        written += re.sub(r"\^(-?\d+)", lambda m: m.group(1).translate(_RAISED), tail)
        way = "between dollar signs it is set as mathematics" if found[0].start() < len(head) else "a unit has its power raised"
        said = f"'{found[0].group(0)}' stands as it is typed; {way}"
        yield Message("note", "mathematics-in-text", start, end, said, (replace(start, end, written, f'"{written}"'),))


def _as_tex(word: str) -> str:
    """`alpha_12` as `\\alpha_{12}`."""
    word = re.sub(r"([_^])(-?\w{2,})", r"\1{\2}", word)
    return f"\\{word}" if re.split(r"[_^]", word)[0] in GREEK else word


def _period_one(reading: Reading) -> Iterator[Message]:
    """A waveform beside sines: its period is 1, theirs is 2π. Said at the first one."""
    if not any(wave in reading.source.text for wave in _WAVES):
        return
    calls = [n for n in tree.walk(reading.script) if isinstance(n, tree.Call) and isinstance(n.function, tree.Name)]
    sines = any(isinstance(n.function, tree.Name) and n.function.name in ("sin", "cos") for n in calls)
    for node in calls if sines else ():
        if not (isinstance(node.function, tree.Name) and node.function.name in _WAVES and len(node.arguments) == 1):
            continue
        argument = node.arguments[0]
        if isinstance(argument, tree.Name):
            name = reading.source.text[node.function.start : node.function.end]
            written = f"{argument.spelling}/(2pi)"
            fix = replace(argument.start, argument.end, written, f"{name}({written})")
            said = f"'{name}' has the period 1, where that of 'sin' is 2π"
            yield Message("note", "period-one", node.start, node.end, said, (fix,))
        return
