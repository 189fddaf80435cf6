"""What the form of a text says, whatever its words are: definitions, lists, units, loops of other languages."""

from __future__ import annotations

import re

from ...vocabulary import NOUNS
from ..asked import Asked
from ..formulas import read_formula
from .data import table_from
from .parts import (
    USUAL,
    Around,
    Offer,
    called,
    dress_of,
    free_of,
    given_values,
    says_something,
    solved_name,
    span_for,
    value_of,
    variable_of,
)


def by_shape(a: Asked, around: Around) -> list[Offer]:
    """What the form of the text says, whatever its words are."""
    text = a.text.strip().rstrip(";").strip()
    found: list[Offer] = []
    for rule in (
        _as_comment, _block_head, _round, _arrow, _several_definitions, as_list, with_unit, _changed, _as_definition, _print_call, _polar,
    ):  # fmt: skip
        found += rule(text, a, around)
    return found


def _arrow(text: str, a: Asked, around: Around) -> list[Offer]:
    """`f: x -> x^2`, `def f(x): return x^2`, `function f(x) = x^2`, `f(x) := x^2`"""
    match = re.match(r"([A-Za-z]\w*)\s*(?::|=)\s*(?:lambda\s+)?([A-Za-z]\w*)\s*(?:->|→|↦|=>|:)\s*(.+)$", text)
    if match and (body := read_formula(match.group(3), around.names)):
        return [Offer(f"{given_values(n for n in body.free if n != match.group(2))}{match.group(1)}({match.group(2)}) = {body.text}")]
    match = re.match(
        (
            r"(?:def|define|function|let|the function|fun|set)?\s*(?:the function\s+)?([A-Za-z]\w*)\s*\(([\w\s,]+)"
            r"\)\s*(?::=|=|:|\{|\bis\b|\breturns?\b)+\s*(?:return\b)?\s*([^{}]+?)\s*\}?$"
        ),
        text,
    )
    if match and not around.names.builtins.is_function(match.group(1)):
        variables = [v.strip() for v in match.group(2).split(",")]
        body = read_formula(match.group(3), around.names)
        if body is not None and not body.is_equation and all(re.fullmatch(r"[A-Za-zα-ω]\w*", v) for v in variables):
            return [
                Offer(f"{given_values(n for n in body.free if n not in variables)}{match.group(1)}({', '.join(variables)}) = {body.text}")
            ]
    match = re.match(r"(?:def|function|procedure|sub|fun)\s+([A-Za-z]\w*)\s*\(([\w\s,]*)\)\s*[:{]?$", text)
    if match:
        return [Offer(f"define {match.group(1)}({match.group(2).strip()}):")]
    return []


def _several_definitions(text: str, a: Asked, around: Around) -> list[Offer]:
    """`a = 2, b = 3` and `a = 2; b = 3`, one a line."""
    parts = re.split(
        r"\s*[,;]\s*(?=[A-Za-zα-ω]\w*(?:\([\w, ]*\))?\s*=(?!=))|\s*;\s*|\s+and\s+(?=[A-Za-zα-ω]\w*\s*=)",
        re.sub(r"^(?:let|set|given|with)\s+", "", text),
    )
    if len(parts) < 2 or not all(re.match(r"[A-Za-zα-ω]\w*(?:\([\w, ]*\))?\s*=(?!=)", p) for p in parts):
        return []
    lines = []
    for part in parts:
        left, right = re.split(r"\s*=\s*", part, maxsplit=1)
        value = read_formula(right, around.names)
        if value is None:
            return []
        lines.append(f"{left} = {value.text}")
    return [Offer("\n".join(lines))]


def _as_definition(text: str, a: Asked, around: Around) -> list[Offer]:
    """`y = … x …` is a function of x; `let a = 3`, `a := 3`, `a <- 3` give a value."""
    plain = re.sub(
        (
            r"^(?:let|set|const|constant|var|variable|define|given|assign|put|make|local|global|double|float|int|"
            r"real|suppose|assume)\s+(?=[A-Za-zα-ω]\w*(?:\([\w, ]*\))?\s*(?::=|=|<-|←|\bbe\b|\bto\b|\bas\b|"
            r"\bequals?\b|\bis\b))"
        ),
        "",
        text,
        flags=re.I,
    )
    match = re.match(r"([A-Za-zα-ω]\w*)\s*(?::=|<-|←|=(?!=)|\bbe\b|\bto\b|\bas\b|\bequals?\b|\bis\b|:)\s*(.+)$", plain)
    if not match or around.names.builtins.is_constant(match.group(1)) or a.means("draw") or _asks_more(a):
        return []
    name, rest = match.group(1), match.group(2)
    if says_something(name, around.names):
        return []
    if a.spans:
        # The span is not part of the formula.
        rest = re.split(r"\s*,?\s*\b(?:for|from|where|with|between|on|over|in)\b|,", rest)[0]
    body = read_formula(re.split(r"\s+(?:#|//)", rest)[0], around.names)
    if body is None or body.is_equation or body.is_condition:
        return []
    free = [n for n in free_of(body) if n != name] if body.kind != "function" else []
    if name in body.free or "lambda" in text or any(says_something(n, around.names) for n in free):
        return []
    if body.kind == "function":
        value = called(body.text, around.names)
        known = around.names.find(body.text)
        variables = ", ".join(known.parameters) if known is not None else "x"
        return [Offer(f"{name}({variables}) = {value}")]
    if not free:
        return [Offer(f"{name} = {body.text}{a.comment}")]
    likely = [n for n in free if n in USUAL[:9] or n in a.variables or any(s.variable == n for s in a.spans)]
    if name == "z" and {"x", "y"} <= set(free):
        variables_of = ["x", "y"]
    elif len(free) == 1:
        variables_of = free
    else:
        variables_of = [variable_of(a, likely or free)]
    if len(free) > 1 and set(free) <= {"x", "y"}:
        variables_of = ["x", "y"]
    rest_of = [n for n in free if n not in variables_of]
    domain = ""
    span = span_for(a, variables_of[0])
    if span is not None:
        domain = f" for {span.written(variables_of[0])}"
    written = f"{given_values(rest_of)}{name}({', '.join(variables_of)}) = {body.text}{domain}{a.comment}"
    drawn = Offer(f"{given_values(rest_of)}curve of {body.text}{domain}{dress_of(a)}")
    if (span is not None or a.dress) and a.dress:
        return [drawn, Offer(written)]
    return [Offer(written)]


def _asks_more(a: Asked) -> bool:
    """Whether the words ask for something that is more than a definition."""
    return any(m.kind == "noun" and m.name not in ("curve", "points", "values", "line") for m in a.meanings) or a.means("show", "check")


def _block_head(text: str, a: Asked, around: Around) -> list[Offer]:
    """Heads of loops and branches as other languages write them."""

    def constant(text: str) -> str | None:
        f = read_formula(text, around.names)
        return f.text if f is not None else None

    match = re.match(
        (
            r"(?:for|foreach|loop|repeat|for each|for all|do)\s*\(?\s*(?:int |each |every |var |let )"
            r"?\s*([A-Za-z]\w*)\s*(?:=|in|from|:=|∈)\s*range\s*\(\s*([^,()]+?)\s*(?:,\s*([^,()]+?)\s*)?(?:,\s*([^,"
            r"()]+?)\s*)?\)\s*\)?\s*:?\s*(?:do)?$"
        ),
        text,
        re.I,
    )
    if match:
        name, one, two, step = match.groups()
        low, high = (constant(one), two) if two else ("0", one)
        top = constant(high)
        if low is None or top is None:
            return []
        last = str(int(top) - 1) if re.fullmatch(r"-?\d+", top) else f"{top} - 1"
        return [Offer(f"for {name} from {low} to {last}{f' step {step}' if step else ''}:")]
    match = re.match(
        (
            r"(?:for|loop|repeat|do)\s*\(?\s*(?:int |var |let |each )?\s*([A-Za-z]\w*)\s*(?:=|from|in|:=|∈)"
            r"\s*\[?([^:;,{}]+?)\s*(?:\bto\b|\.\.\.?|:|…|;\s*\w+\s*<=?|,)\s*([^:;,{}\]]+?)\s*\]?(?:(?:\bstep\b|"
            r"\bby\b)\s*([^:;{}]+?))?\s*(?:;.*)?\)?\s*(?::|do|\{)?$"
        ),
        text,
        re.I,
    )
    if match:
        name, low, high, step = match.groups()
        ends = constant(low), constant(high)
        if ends[0] is None or ends[1] is None:
            return []
        last = ends[1]
        if re.search(r";\s*\w+\s*<(?!=)", text) and re.fullmatch(r"-?\d+", last):
            last = str(int(last) - 1)
        return [Offer(f"for {name} from {ends[0]} to {last}{f' step {step}' if step else ''}:")]
    match = re.match(r"(?:repeat|loop|do)\s+(?:this\s+)?(\d+)\s*(?:times|x)?\s*:?$|(\d+)\s+times\s*:?$", text, re.I)
    if match:
        return [Offer(f"for k from 1 to {match.group(1) or match.group(2)}:")]
    match = re.match(r"(?:for each|foreach|for every|for all|for)\s+([A-Za-z]\w*)\s+(?:in|of|∈)\s+(.+?)\s*:?\s*(?:do)?$", text, re.I)
    if match and (f := read_formula(match.group(2), around.names)) is not None and f.kind == "list":
        return [Offer(f"for {match.group(1)} in {f.text}:")]
    match = re.match(
        r"(else\s?if|elif|elsif|elseif|if|while|until|repeat until|as long as|repeat while)\b\s*\(?(.+?)\)?\s*(?:then|do|:|\{)*$",
        text,
        re.I,
    )
    if match and _balanced_or_open(match.group(2)):
        word = match.group(1).lower()
        said = re.sub(r"\s*&&\s*", " and ", re.sub(r"\s*\|\|\s*", " or ", match.group(2)))
        condition = read_formula(said, around.names)
        if condition is not None and (condition.is_condition or condition.is_equation):
            ours = {"else if": "else if", "elif": "else if", "elsif": "else if", "elseif": "else if", "if": "if"}.get(word, "while")
            negated = f"not ({condition.text})" if "until" in word else condition.text
            return [Offer(f"{ours} {negated}:")]
    if re.fullmatch(r"(?:else|otherwise|\}\s*else)\s*[:{]?", text, re.I):
        return [Offer("else:")]
    return []


def _balanced_or_open(text: str) -> bool:
    return abs(text.count("(") - text.count(")")) <= 1


def _changed(text: str, a: Asked, around: Around) -> list[Offer]:
    """`x += 1`, `x++`"""
    match = re.match(r"([A-Za-z]\w*)\s*([-+*/])=\s*(.+)$", text)
    if match and (f := read_formula(match.group(3), around.names)):
        right = f"({f.text})" if match.group(2) in "-*/" and re.search(r"[-+]", f.text) else f.text
        return [Offer(f"{match.group(1)} = {match.group(1)} {match.group(2)} {right}")]
    match = re.match(r"([A-Za-z]\w*)\s*(\+\+|--)$|(\+\+|--)([A-Za-z]\w*)$", text)
    if match:
        name, sign = match.group(1) or match.group(4), (match.group(2) or match.group(3))[0]
        return [Offer(f"{name} = {name} {sign} 1")]
    match = re.match(
        r"(?:append|add|push)\s*\(?\s*(\S+?)\s*(?:to|,)\s*([A-Za-z]\w*)\)?$|([A-Za-z]\w*)\s*\.\s*(?:append|add|push)\s*\((.+)\)$", text
    )
    if match:
        value, name = (match.group(1), match.group(2)) if match.group(2) else (match.group(4), match.group(3))
        return [Offer(f"{name} = {name} join [{value}]")]
    return []


_LIST = r"-?[\w.]+(?:e-?\d+)?"


def as_list(text: str, a: Asked, around: Around) -> list[Offer]:
    """`x = 1, 2, 3`, `x = 1 2 3`, `x = (1, 2, 3, 4)`, `x = 0:0.1:10`, `x = anything(0, 10, 50)`: lists."""
    match = re.match(
        (
            rf"(?:let\s+)?([A-Za-zα-ω]\w*)\s*(?:=|:=|:)\s*(?:list|array|vector|numbers?|data|values)"
            rf"?\s*[\[({{]*\s*({_LIST}(?:\s*[,;]\s*|\s+)(?:{_LIST}(?:\s*[,;]\s*|\s+))*{_LIST})\s*,?\s*[\])}}]*$"
        ),
        text,
    )
    if match:
        items = re.split(r"\s*[,;]\s*|\s+", match.group(2))
        numbers = [read_formula(i, around.names) for i in items]
        plain = all(n is not None and n.is_constant for n in numbers)
        plain = plain and all(re.fullmatch(r"-?[\d.]+(?:e-?\d+)?|-?\w+", i) for i in items)
        if plain and not (len(items) == 2 and re.fullmatch(r"[A-Za-zµ°]+", items[1])):
            return [Offer(f"{match.group(1)} = [{', '.join(n.text for n in numbers if n is not None)}]")]
    match = re.match(r"([A-Za-zα-ω]\w*)\s*(?:=|:=|from\b|in\b|∈|:)\s*(.+)$", text)
    if not match:
        return []
    name, rest = match.group(1), match.group(2)
    if says_something(name, around.names):
        return []
    if a.spans and all(f.text == name for f in a.formulas) and (a.spans[0].variable in (None, name)) and not a.means("draw"):
        span = a.spans[0]
        if span.step or span.count:
            return [Offer(f"{name} = {span.low} to {span.high} {'step ' + span.step if span.step else 'count ' + str(span.count)}")]
        return [Offer(f"{name} = {span.low} to {span.high} {_stepped(span.low, span.high)}")]
    match = re.match(r"(?:[A-Za-z]\w*\s*\.\s*)?([A-Za-z]\w*)\s*\(\s*([^()]*(?:\([^()]*\)[^()]*)*)\)$", rest)
    if match and around.names.find(match.group(1)) is None and not around.names.builtins.is_function(match.group(1)):
        numbers = [read_formula(i, around.names) for i in match.group(2).split(",")]
        said = [n.text for n in numbers if n is not None and n.is_constant]
        if len(said) == len(numbers) and len(said) in (2, 3):
            if len(said) == 2:
                return [Offer(f"{name} = {said[0]} to {said[1]} {_stepped(said[0], said[1])}")]
            counted = said[2].isdigit() and int(said[2]) >= 5
            return [Offer(f"{name} = {said[0]} to {said[1]} {'count' if counted else 'step'} {said[2]}"),
                    Offer(f"{name} = {said[0]} to {said[1]} count 101")]  # fmt: skip
        if len(said) == len(numbers) == 1 and said[0].isdigit():
            return [Offer(f"{name} = 1 to {said[0]} step 1")]
    return []


def _stepped(low: str, high: str) -> str:
    whole = re.fullmatch(r"-?\d+", low) and re.fullmatch(r"-?\d+", high)
    return f"step {1 if int(high) >= int(low) else -1}" if whole else "count 101"


_UNITS = (
    r"(?:[kMGmµunpcdh]?(?:m|s|g|N|J|W|Pa|V|A|Hz|mol|K|L|l|C|F|H|T|eV|bar)|min|h|kg|km|cm|mm|deg|rad|%|°C|ohm|kWh|rev|d)"
)  # fmt: skip


_UNIT_TEXT = rf"{_UNITS}(?:\^?-?\d|²|³)?(?:\s?[/*·]\s?\(?{_UNITS}(?:\^?-?\d|²|³)?\)?)*"


def with_unit(text: str, a: Asked, around: Around) -> list[Offer]:
    """`g = 9.81 m/s^2`: a unit stands in square brackets."""
    match = re.match(
        (
            rf"(?:let\s+|set\s+)?([A-Za-zα-ω]\w*)\s*(?:=|:=|is)\s*(-?[\d.]+(?:e[-+]?\d+)?(?:\s*(?:±|\+/-|"
            rf"\+-)\s*[\d.]+)?)(\s*)\(?({_UNIT_TEXT})\)?\s*$"
        ),
        text,
    )
    if not match or around.names.find(match.group(4)) is not None or (len(match.group(4)) == 1 and not match.group(3)):
        return []
    value = re.sub(r"\s*(?:\+/-|\+-|±)\s*", " ± ", match.group(2))
    return [Offer(f"{match.group(1)} = {value} [{match.group(4)}]")]


def of_a_list(text: str, a: Asked, around: Around) -> list[Offer]:
    """`median of xs`: a function of lists with its name as it is."""
    match = re.match(r"([A-Za-z]\w*)\s+(?:of\s+)?(?:the\s+)?(?:list\s+)?(\S.*)$", text)
    if not match or not around.names.builtins.is_function(match.group(1)) or match.group(1) in NOUNS:
        return []
    f = read_formula(match.group(2), around.names)
    return [Offer(f"show {match.group(1)}({f.text})")] if f is not None and f.kind == "list" else []


def logarithm(text: str, a: Asked, around: Around) -> list[Offer]:
    """`log 100`: which one, the person says by the button."""
    match = re.match(r"log\s+(\S+)$", text)
    f = read_formula(match.group(1), around.names) if match else None
    return [Offer(f"show {name}({f.text})") for name in ("log10", "ln", "log2")] if f is not None and f.is_constant else []


def decimal_comma(text: str, a: Asked, around: Around) -> list[Offer]:
    """`1,5 + 2`: a decimal has a point."""
    if not re.search(r"(?<![\w,.])\d+,\d+(?![\w,.])", text) or re.search(r"[\[({]", text) or a.meanings:
        return []
    return [Offer(re.sub(r"(?<![\w,.])(\d+),(\d+)(?![\w,.])", r"\1.\2", text))]


def file_named(text: str, a: Asked, around: Around) -> list[Offer]:
    """`data = read("data.csv")`"""
    match = re.match(r"([A-Za-z]\w*)\s*(?:=|:=|<-)\s*[\w.]+\s*\(?\s*[\"'][^\"']+\.\w{2,7}[\"']", text)
    return table_from(a, around) if match and around.names.find(match.group(1)) is None else []


def asked_by_sign(text: str, a: Asked, around: Around) -> list[Offer]:
    """`2 + 2 =`, `= 3*4`"""
    match = re.match(r"=\s*(.+)$|(.+?)\s*=\s*\??$", text)
    f = read_formula(match.group(1) or match.group(2), around.names) if match else None
    return [Offer(f"show {f.text}")] if f is not None and not f.free and f.kind == "number" else []


def each_of(text: str, a: Asked, around: Around) -> list[Offer]:
    """`f(x) for x = 0, 1, 2`"""
    match = re.match(
        (
            rf"(.+?)\s+(?:for|at|when|where|with)\s+([A-Za-z]\w?)\s*(?:=|in|is)"
            rf"?\s*[\[{{(]?\s*({_LIST}(?:\s*,\s*(?:and\s+)?{_LIST}){{2,}})\s*[\]}})]?$"
        ),
        text,
    )
    f = (
        read_formula(re.sub(r"^(?:values? of|show|print|compute|calculate|evaluate|find)\s+", "", match.group(1)), around.names)
        if match
        else None
    )
    if match is None or f is None or f.free != (match.group(2),):
        return []
    return [Offer(f"show [{f.text} for {match.group(2)} in [{re.sub(r'(?:and )', '', match.group(3))}]]")]


def given_back(text: str, a: Asked, around: Around) -> list[Offer]:
    """`return x` outside of a block."""
    match = re.match(r"return\b\s*(.+)$", text)
    return [Offer(f"show {match.group(1)}")] if match else []


def _as_comment(text: str, a: Asked, around: Around) -> list[Offer]:
    """`// words`, `% words`, `/* words */`, `-- words`; prose that says nothing."""
    match = re.match(r"(?://+|%+|--+|/\*+|\(\*|;+|'''|<!--|rem\b|REM\b)\s*(.*?)\s*(?:\*+/|\*\)|-->)?$", text)
    if match and match.group(1):
        return [Offer(f"# {match.group(1)}")]
    return []


def _print_call(text: str, a: Asked, around: Around) -> list[Offer]:
    """`print("a", x)`, `echo x`: texts and values in their order."""
    if not a.means("show") or a.means("draw") or not a.texts:
        return []
    rest = re.sub(r"^\s*\w+\s*\(?|\)?\s*;?$", "", text)
    items = [read_formula(i, around.names) for i in re.split(r",(?![^(]*\))", rest)]
    if all(i is not None for i in items):
        return [Offer("show " + ", ".join(i.text for i in items if i is not None))]
    return []


def _round(text: str, a: Asked, around: Around) -> list[Offer]:
    """`circle with radius 2`"""
    match = re.search(r"\bcircle\b.*?\bradius\s*(?:of|=|:)?\s*(\d+(?:\.\d+)?|[A-Za-z]\w*)|\bcircle\s+(\d+(?:\.\d+)?)$", text, re.I)
    if not match:
        return []
    radius = match.group(1) or match.group(2)
    if not re.match(r"\d", radius) and around.names.find(radius) is None:
        return []
    edge = f"{1.25 * float(radius):g}" if re.match(r"\d", radius) else f"1.25*{radius}"
    drawn = f"curve of x^2 + y^2 = {radius}^2 for x from -{edge} to {edge}, y from -{edge} to {edge}{dress_of(a)}"
    return [Offer(f"figure:\n    {drawn}\n    true scale")]


def _polar(text: str, a: Asked, around: Around) -> list[Offer]:
    """`r = 1 + cos(theta)`: a curve in polar coordinates."""
    f = next((f for f in a.formulas if f.is_equation and solved_name(f) == "r"), None)
    word = re.search(r"\bpolar\b", text, re.I)
    if f is None and not word:
        return []
    f = f or a.first_of("number")
    if f is None:
        return []
    free = [n for n in free_of(f) if n != "r"]
    angle = next((n for n in free if n in ("theta", "θ", "phi", "φ")), None) or (free[0] if word and free else None)
    if angle is None or not (word or a.means("draw")):
        return []
    span = span_for(a, angle)
    window = span.written(angle) if span else f"{angle} from 0 to 2pi"
    value = value_of(f)
    return [
        Offer(
            f"{given_values(n for n in free if n != angle)}curve of (({value})*cos({angle}), "
            f"({value})*sin({angle})) for {window}{dress_of(a)}"
        )
    ]
