"""From what stands in a sentence to the sentence in this language: one writer for each thing that can be asked for."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from .. import tree
from ..shapes import unwrapped
from ..vocabulary import NOUNS, OPTIONS, STATEMENTS
from .asked import Asked, Span
from .formulas import Formula, Names, read_formula
from .lexicon import ANSWERED, FILLERS, Meaning, meaning_at

_USUAL = ("x", "t", "theta", "θ", "s", "u", "k", "n", "r", "z", "y", "p", "h", "w", "v", "q", "m")
_WHOLE_NUMBERS = ("k", "n", "i", "j", "m")
# Words that say little beside others: `points of intersection` asks for crossings.
_GENERAL = frozenset(("curve", "points", "values", "line", "show", "label", "solution", "order", "define", "figure", "no", "tune", "levels"))
_DRAWN_OPTIONS = ("colour", "width", "size", "dash", "marker", "opacity", "label", "fill", "levels", "errors")


@dataclass(frozen=True)
class Line:
    """A line of a script above: what may be changed by what is asked for below."""

    text: str
    start: int
    end: int
    draws: bool = False
    figure: bool = False


@dataclass(frozen=True)
class Around:
    """What surrounds the sentence.

    functions, lists, tables   names by what they are, the latest first
    drawing                    the nearest drawing above, of which settings are meant, or None
    figure                     the nearest figure block above, or None
    in_figure                  whether the sentence stands in a figure's block
    """

    names: Names
    functions: tuple[str, ...] = ()
    lists: tuple[str, ...] = ()
    tables: tuple[str, ...] = ()
    findings: tuple[str, ...] = ()
    fits: tuple[str, ...] = ()
    drawing: Line | None = None
    figure: Line | None = None
    in_figure: bool = False


@dataclass(frozen=True)
class Offer:
    """What may be written instead. `setting`: it belongs into the figure above; `option`: it follows the drawing above, after a comma.

    above   lines in front of the figure
    why     what is said of it, where the words alone do not tell
    """

    text: str
    setting: bool = False
    option: bool = False
    why: str = ""
    above: str = ""


Writer = Callable[[Asked, Around], Iterable[Offer]]


def sure_offers(a: Asked, around: Around) -> list[Offer]:
    """What the form of the text says without doubt: lists, units, values asked for with a sign of equality."""
    text = a.text.strip().rstrip(";").strip()
    return [o for rule in (_as_list, _with_unit, _of_a_list, _file_named, _asked_by_sign, _each_of, _given_back) for o in rule(text, a, around)]


def offers(a: Asked, around: Around) -> list[list[Offer]]:
    """What may be meant, the likeliest first, in tiers: a tier counts only if nothing of those before would do.

    It is not tried here whether a sentence would do.
    """
    return [list(dict.fromkeys(tier)) for tier in (_by_shape(a, around), _by_words(a, around), _whatever(a, around), _example(a))]


def _by_words(a: Asked, around: Around) -> list[Offer]:
    found: list[Offer] = []
    if a.dress and not a.formulas and not any(m.kind in ("noun", "setting") and m.name not in _GENERAL for m in a.meanings):
        found += _dressed(a, around)
    if a.means("draw", "table") and any(re.search(r"\.\w{2,7}$", t) for t in a.texts):
        found += _table(a, around)
    equations = [f for f in a.formulas if f.is_equation]
    if len(equations) > 1 and not a.means("draw") and not any(m.kind == "noun" for m in a.meanings):
        found += _solution(a, around)
    if a.places and not a.means("draw") and not any(m.kind in ("noun", "statement", "setting") for m in a.meanings):
        found += _show(a, around)
    for meaning in _in_order(a):
        writer = _WRITERS.get(meaning.name)
        if writer is not None:
            found += writer(a, around)
        elif meaning.name.startswith("answered "):
            if a.formulas or a.texts or meaning.name != a.meanings[0].name:
                continue
            found.append(Offer("", why=ANSWERED[meaning.name.removeprefix("answered ")].answer))
        elif meaning.kind == "option":
            found += _option(a, around, meaning.name)
        elif meaning.kind == "function":
            found += _function(meaning.name)(a, around)
        elif meaning.kind == "noun":
            found += _plain(meaning.name)(a, around)
    return [_with_its_curve(o, a, around) for o in found]


def _with_its_curve(offer: Offer, a: Asked, around: Around) -> Offer:
    """`plot exp(x) with log scale`: the setting and what it is about, in one figure."""
    drawn = [f for f in a.functions if not f.is_constant]
    if not offer.setting or not drawn or around.in_figure or offer.above or offer.text.startswith(("mark", "line", "text")):
        return offer
    found = _drawn(a, around)
    if not found or "figure" in found[0].text:
        return offer
    *above, last = found[0].text.split("\n")
    body = "\n".join(f"    {line}" for line in [last, *offer.text.split("\n")])
    return Offer("\n".join([*above, f"figure:\n{body}"]))


def _example(a: Asked) -> list[Offer]:
    """Nothing but a word: the example of its page."""
    if a.formulas or a.texts or a.spans:
        return []
    found = []
    for meaning in _in_order(a):
        record = {"noun": NOUNS, "statement": STATEMENTS, "option": OPTIONS}.get(meaning.kind, {}).get(meaning.name)  # type: ignore[attr-defined]
        if meaning.name == "define":
            found.append(Offer(STATEMENTS["definition"].example))
        if record is not None:
            found.append(Offer(record.example))
    return found


def _in_order(a: Asked) -> list[Meaning]:
    def weight(item: tuple[int, Meaning]) -> tuple[bool, int, int, int]:
        place, m = item
        return (m.name in _GENERAL or m.kind == "verb", -m.length, min(m.rank, 8), place)

    said = sorted(enumerate(a.meanings), key=weight)
    kept: dict[str, Meaning] = {}
    for _, meaning in said:
        kept.setdefault(meaning.name, meaning)
    return list(kept.values())


# ---------------------------------------------------------------- parts of a request


def _called(name: str, names: Names) -> str:
    known = names.find(name)
    return f"{name}({', '.join(known.parameters)})" if known is not None and known.kind == "function" else name


def _value(f: Formula) -> str:
    """A formula as a subject: a function is called with its variables; of `y = …` the right side counts."""
    if f.kind == "function":
        return _called(f.text, f.names)
    if f.is_equation:
        left, right = f.sides()
        solved = _solved(f)
        if solved is not None:
            return right if solved == left else left
    return f.text


def _solved(f: Formula) -> str | None:
    """`y` of `y = x^2`, or `f(x)`: what an equation gives a value to."""
    if not f.is_equation:
        return None
    left, right = f.sides()
    for one, other in ((left, right), (right, left)):
        if one == "x" and re.search(r"\by\b", other):
            continue
        if re.fullmatch(r"[A-Za-zα-ω]\w{0,3}'?", one) and f.names.is_free(one) and not re.search(rf"\b{one}\b", other):
            return one
        if re.fullmatch(r"[A-Za-zα-ω]\w*\([A-Za-zα-ω]\w?(?:\s*,\s*[A-Za-zα-ω]\w?)*\)", one) and f.names.is_free(one.split("(")[0]):
            return one
    return None


def _free(f: Formula) -> tuple[str, ...]:
    """The names that vary in a formula: those without a value, or the variables of the function that is called with them."""
    if f.kind == "function":
        known = f.names.find(f.text)
        return known.parameters if known is not None else ()
    solved = _solved(f)
    free = list(f.free)
    if solved is not None and "(" not in solved:
        free = [n for n in free if n != solved]
    return tuple(dict.fromkeys(free))


def _variable(a: Asked, free: Iterable[str]) -> str:
    free = tuple(free)
    for name in (*a.variables, *(s.variable for s in a.spans if s.variable)):
        if name in free or not free:
            return name
    for name in _USUAL:
        if name in free:
            return name
    return free[0] if free else "x"


def _span_for(a: Asked, variable: str) -> Span | None:
    own = next((s for s in a.spans if s.variable == variable), None)
    return own or next((s for s in a.spans if s.variable is None), None) or (a.spans[0] if len(a.spans) == 1 else None)


def _window(a: Asked, variable: str, default: str = "", stepped: bool = False, always: bool = False) -> str:
    span = _span_for(a, variable)
    if span is not None:
        return f" for {span.written(variable, stepped)}"
    if default:
        return f" for {variable} from {default}"
    return f" for {variable}" if always else ""


def _windows(a: Asked, variables: Iterable[str], default: str = "-5 to 5") -> str:
    loose = [s for s in a.spans if s.variable is None or len(a.spans) == 1]
    said = []
    for place, name in enumerate(variables):
        span = next((s for s in a.spans if s.variable == name), None)
        if span is None and loose:
            span = loose[min(place, len(loose) - 1)]
        said.append(span.written(name) if span else f"{name} from {default}")
    return " for " + ", ".join(said)


def _given(names: Iterable[str]) -> str:
    """Values for names that have none, one a line, to be changed."""
    return "".join(f"{n} = 1\n" for n in dict.fromkeys(names))


def _defined(formulas: Iterable[Formula], kept: Iterable[str] = ()) -> tuple[str, list[str]]:
    """Definitions that stand within a sentence (`plot f(x) = x^2`) as lines of their own, and the subjects."""
    above, subjects = "", []
    for f in formulas:
        solved = _solved(f)
        if solved is not None and "(" in solved:
            above += f"{solved} = {_value(f)}\n"
            subjects.append(solved)
        else:
            subjects.append(_value(f))
    return above, subjects


def _subject(a: Asked, around: Around) -> Formula | None:
    """What is asked about: a formula of the sentence, or the latest function of the script."""
    found = next((f for f in a.formulas if f.kind in ("number", "function") and not f.is_constant), None)
    found = found or next((f for f in a.formulas if f.is_equation), None) or a.first_of("number", "function")
    if found is None and around.functions:
        return read_formula(around.functions[0], around.names)
    return found


def _dress(a: Asked, noun: str = "curve") -> str:
    said = "".join(f", {option} {value}" for option, value in a.dress.items() if NOUNS[noun].has_option(option))
    if NOUNS[noun].has_option("label") and a.texts and "label" not in a.dress:
        said += f', label "{a.texts[0]}"'
    return said


def _parameters(a: Asked, f: Formula, variables: Iterable[str]) -> str:
    kept = set(variables)
    return _given(n for n in _free(f) if n not in kept)


# ---------------------------------------------------------------- by shape alone


def _by_shape(a: Asked, around: Around) -> list[Offer]:
    """What the form of the text says, whatever its words are."""
    text = a.text.strip().rstrip(";").strip()
    found: list[Offer] = []
    for rule in (
        _as_comment, _block_head, _round, _arrow, _several_definitions, _as_list, _with_unit, _changed, _as_definition, _print_call, _polar,
    ):  # fmt: skip
        found += rule(text, a, around)
    return found


def _arrow(text: str, a: Asked, around: Around) -> list[Offer]:
    """`f: x -> x^2`, `def f(x): return x^2`, `function f(x) = x^2`, `f(x) := x^2`"""
    match = re.match(r"([A-Za-z]\w*)\s*(?::|=)\s*(?:lambda\s+)?([A-Za-z]\w*)\s*(?:->|→|↦|=>|:)\s*(.+)$", text)
    if match and (body := read_formula(match.group(3), around.names)):
        return [Offer(f"{_given(n for n in body.free if n != match.group(2))}{match.group(1)}({match.group(2)}) = {body.text}")]
    match = re.match(
        r"(?:def|define|function|let|the function|fun|set)?\s*(?:the function\s+)?([A-Za-z]\w*)\s*\(([\w\s,]+)\)\s*(?::=|=|:|\{|\bis\b|\breturns?\b)+\s*(?:return\b)?\s*([^{}]+?)\s*\}?$",
        text,
    )
    if match and not around.names.builtins.is_function(match.group(1)):
        variables = [v.strip() for v in match.group(2).split(",")]
        body = read_formula(match.group(3), around.names)
        if body is not None and not body.is_equation and all(re.fullmatch(r"[A-Za-zα-ω]\w*", v) for v in variables):
            return [Offer(f"{_given(n for n in body.free if n not in variables)}{match.group(1)}({', '.join(variables)}) = {body.text}")]
    match = re.match(r"(?:def|function|procedure|sub|fun)\s+([A-Za-z]\w*)\s*\(([\w\s,]*)\)\s*[:{]?$", text)
    if match:
        return [Offer(f"define {match.group(1)}({match.group(2).strip()}):")]
    return []


def _several_definitions(text: str, a: Asked, around: Around) -> list[Offer]:
    """`a = 2, b = 3` and `a = 2; b = 3`, one a line."""
    parts = re.split(r"\s*[,;]\s*(?=[A-Za-zα-ω]\w*(?:\([\w, ]*\))?\s*=(?!=))|\s*;\s*|\s+and\s+(?=[A-Za-zα-ω]\w*\s*=)", re.sub(r"^(?:let|set|given|with)\s+", "", text))
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
    plain = re.sub(r"^(?:let|set|const|constant|var|variable|define|given|assign|put|make|local|global|double|float|int|real|suppose|assume)\s+(?=[A-Za-zα-ω]\w*(?:\([\w, ]*\))?\s*(?::=|=|<-|←|\bbe\b|\bto\b|\bas\b|\bequals?\b|\bis\b))", "", text, flags=re.I)
    match = re.match(r"([A-Za-zα-ω]\w*)\s*(?::=|<-|←|=(?!=)|\bbe\b|\bto\b|\bas\b|\bequals?\b|\bis\b|:)\s*(.+)$", plain)
    if not match or around.names.builtins.is_constant(match.group(1)) or a.means("draw") or _asks_more(a):
        return []
    name, rest = match.group(1), match.group(2)
    if _says_something(name, around.names):
        return []
    if a.spans:
        # The span is not part of the formula.
        rest = re.split(r"\s*,?\s*\b(?:for|from|where|with|between|on|over|in)\b|,", rest)[0]
    body = read_formula(re.split(r"\s+(?:#|//)", rest)[0], around.names)
    if body is None or body.is_equation or body.is_condition:
        return []
    free = [n for n in _free(body) if n != name] if body.kind != "function" else []
    if name in body.free or "lambda" in text or any(_says_something(n, around.names) for n in free):
        return []
    if body.kind == "function":
        called = _called(body.text, around.names)
        known = around.names.find(body.text)
        variables = ", ".join(known.parameters) if known is not None else "x"
        return [Offer(f"{name}({variables}) = {called}")]
    if not free:
        return [Offer(f"{name} = {body.text}{a.comment}")]
    likely = [n for n in free if n in _USUAL[:9] or n in a.variables or any(s.variable == n for s in a.spans)]
    if name == "z" and {"x", "y"} <= set(free):
        variables_of = ["x", "y"]
    elif len(free) == 1:
        variables_of = free
    else:
        variables_of = [_variable(a, likely or free)]
    if len(free) > 1 and set(free) <= {"x", "y"}:
        variables_of = ["x", "y"]
    rest_of = [n for n in free if n not in variables_of]
    domain = ""
    span = _span_for(a, variables_of[0])
    if span is not None:
        domain = f" for {span.written(variables_of[0])}"
    written = f"{_given(rest_of)}{name}({', '.join(variables_of)}) = {body.text}{domain}{a.comment}"
    drawn = Offer(f"{_given(rest_of)}curve of {body.text}{domain}{_dress(a)}")
    if (span is not None or a.dress) and a.dress:
        return [drawn, Offer(written)]
    return [Offer(written)]


def _says_something(word: str, names: Names) -> bool:
    """Whether a word is one of a sentence rather than a name."""
    return len(word) > 1 and not names.looks_like_one(word) and (word.lower() in FILLERS or meaning_at([word], 0) is not None)


def _asks_more(a: Asked) -> bool:
    """Whether the words ask for something that is more than a definition."""
    return any(m.kind == "noun" and m.name not in ("curve", "points", "values", "line") for m in a.meanings) or a.means("show", "check")


def _block_head(text: str, a: Asked, around: Around) -> list[Offer]:
    """Heads of loops and branches as other languages write them."""
    constant = lambda t: (f.text if (f := read_formula(t, around.names)) is not None else None)  # noqa: E731
    match = re.match(r"(?:for|foreach|loop|repeat|for each|for all|do)\s*\(?\s*(?:int |each |every |var |let )?\s*([A-Za-z]\w*)\s*(?:=|in|from|:=|∈)\s*range\s*\(\s*([^,()]+?)\s*(?:,\s*([^,()]+?)\s*)?(?:,\s*([^,()]+?)\s*)?\)\s*\)?\s*:?\s*(?:do)?$", text, re.I)
    if match:
        name, one, two, step = match.groups()
        low, high = (constant(one), two) if two else ("0", one)
        top = constant(high)
        if low is None or top is None:
            return []
        last = str(int(top) - 1) if re.fullmatch(r"-?\d+", top) else f"{top} - 1"
        return [Offer(f"for {name} from {low} to {last}{f' step {step}' if step else ''}:")]
    match = re.match(r"(?:for|loop|repeat|do)\s*\(?\s*(?:int |var |let |each )?\s*([A-Za-z]\w*)\s*(?:=|from|in|:=|∈)\s*\[?([^:;,{}]+?)\s*(?:\bto\b|\.\.\.?|:|…|;\s*\w+\s*<=?|,)\s*([^:;,{}\]]+?)\s*\]?(?:(?:\bstep\b|\bby\b)\s*([^:;{}]+?))?\s*(?:;.*)?\)?\s*(?::|do|\{)?$", text, re.I)
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
    match = re.match(r"(else\s?if|elif|elsif|elseif|if|while|until|repeat until|as long as|repeat while)\b\s*\(?(.+?)\)?\s*(?:then|do|:|\{)*$", text, re.I)
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
    match = re.match(r"(?:append|add|push)\s*\(?\s*(\S+?)\s*(?:to|,)\s*([A-Za-z]\w*)\)?$|([A-Za-z]\w*)\s*\.\s*(?:append|add|push)\s*\((.+)\)$", text)
    if match:
        value, name = (match.group(1), match.group(2)) if match.group(2) else (match.group(4), match.group(3))
        return [Offer(f"{name} = {name} join [{value}]")]
    return []


_LIST = r"-?[\w.]+(?:e-?\d+)?"


def _as_list(text: str, a: Asked, around: Around) -> list[Offer]:
    """`x = 1, 2, 3`, `x = 1 2 3`, `x = (1, 2, 3, 4)`, `x = 0:0.1:10`, `x = anything(0, 10, 50)`: lists."""
    match = re.match(rf"(?:let\s+)?([A-Za-zα-ω]\w*)\s*(?:=|:=|:)\s*(?:list|array|vector|numbers?|data|values)?\s*[\[({{]*\s*({_LIST}(?:\s*[,;]\s*|\s+)(?:{_LIST}(?:\s*[,;]\s*|\s+))*{_LIST})\s*,?\s*[\])}}]*$", text)
    if match:
        items = re.split(r"\s*[,;]\s*|\s+", match.group(2))
        numbers = [read_formula(i, around.names) for i in items]
        if all(n is not None and n.is_constant for n in numbers) and all(re.fullmatch(r"-?[\d.]+(?:e-?\d+)?|-?\w+", i) for i in items):
            if not (len(items) == 2 and re.fullmatch(r"[A-Za-zµ°]+", items[1])):
                return [Offer(f"{match.group(1)} = [{', '.join(n.text for n in numbers if n is not None)}]")]
    match = re.match(r"([A-Za-zα-ω]\w*)\s*(?:=|:=|from\b|in\b|∈|:)\s*(.+)$", text)
    if not match:
        return []
    name, rest = match.group(1), match.group(2)
    if _says_something(name, around.names):
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


def _with_unit(text: str, a: Asked, around: Around) -> list[Offer]:
    """`g = 9.81 m/s^2`: a unit stands in square brackets."""
    match = re.match(rf"(?:let\s+|set\s+)?([A-Za-zα-ω]\w*)\s*(?:=|:=|is)\s*(-?[\d.]+(?:e[-+]?\d+)?(?:\s*(?:±|\+/-|\+-)\s*[\d.]+)?)(\s*)\(?({_UNIT_TEXT})\)?\s*$", text)
    if not match or around.names.find(match.group(4)) is not None or (len(match.group(4)) == 1 and not match.group(3)):
        return []
    value = re.sub(r"\s*(?:\+/-|\+-|±)\s*", " ± ", match.group(2))
    return [Offer(f"{match.group(1)} = {value} [{match.group(4)}]")]


def _of_a_list(text: str, a: Asked, around: Around) -> list[Offer]:
    """`median of xs`: a function of lists with its name as it is."""
    match = re.match(r"([A-Za-z]\w*)\s+(?:of\s+)?(?:the\s+)?(?:list\s+)?(\S.*)$", text)
    if not match or not around.names.builtins.is_function(match.group(1)) or match.group(1) in NOUNS:
        return []
    f = read_formula(match.group(2), around.names)
    return [Offer(f"show {match.group(1)}({f.text})")] if f is not None and f.kind == "list" else []


def _file_named(text: str, a: Asked, around: Around) -> list[Offer]:
    """`data = read("data.csv")`"""
    match = re.match(r"([A-Za-z]\w*)\s*(?:=|:=|<-)\s*[\w.]+\s*\(?\s*[\"'][^\"']+\.\w{2,7}[\"']", text)
    return _table(a, around) if match and around.names.find(match.group(1)) is None else []


def _asked_by_sign(text: str, a: Asked, around: Around) -> list[Offer]:
    """`2 + 2 =`, `= 3*4`"""
    match = re.match(r"=\s*(.+)$|(.+?)\s*=\s*\??$", text)
    f = read_formula(match.group(1) or match.group(2), around.names) if match else None
    return [Offer(f"show {f.text}")] if f is not None and not f.free and f.kind == "number" else []


def _each_of(text: str, a: Asked, around: Around) -> list[Offer]:
    """`f(x) for x = 0, 1, 2`"""
    match = re.match(rf"(.+?)\s+(?:for|at|when|where|with)\s+([A-Za-z]\w?)\s*(?:=|in|is)?\s*[\[{{(]?\s*({_LIST}(?:\s*,\s*(?:and\s+)?{_LIST}){{2,}})\s*[\]}})]?$", text)
    f = read_formula(re.sub(r"^(?:values? of|show|print|compute|calculate|evaluate|find)\s+", "", match.group(1)), around.names) if match else None
    if match is None or f is None or f.free != (match.group(2),):
        return []
    return [Offer(f"show [{f.text} for {match.group(2)} in [{re.sub(r'(?:and )', '', match.group(3))}]]")]


def _given_back(text: str, a: Asked, around: Around) -> list[Offer]:
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
    drawn = f"curve of x^2 + y^2 = {radius}^2 for x from -{edge} to {edge}, y from -{edge} to {edge}{_dress(a)}"
    return [Offer(f"figure:\n    {drawn}\n    true scale")]


def _polar(text: str, a: Asked, around: Around) -> list[Offer]:
    """`r = 1 + cos(theta)`: a curve in polar coordinates."""
    f = next((f for f in a.formulas if f.is_equation and _solved(f) == "r"), None)
    word = re.search(r"\bpolar\b", text, re.I)
    if f is None and not word:
        return []
    f = f or a.first_of("number")
    if f is None:
        return []
    free = [n for n in _free(f) if n != "r"]
    angle = next((n for n in free if n in ("theta", "θ", "phi", "φ")), None) or (free[0] if word and free else None)
    if angle is None or not (word or a.means("draw")):
        return []
    span = _span_for(a, angle)
    window = span.written(angle) if span else f"{angle} from 0 to 2pi"
    value = _value(f)
    return [Offer(f"{_given(n for n in free if n != angle)}curve of (({value})*cos({angle}), ({value})*sin({angle})) for {window}{_dress(a)}")]


# ---------------------------------------------------------------- drawings


def _drawn(a: Asked, around: Around) -> list[Offer]:
    """Something is to be drawn: what, its kind tells."""
    if a.against is not None:
        return _against(a, around)
    points = [f for f in a.formulas if f.kind in ("point", "points")]
    if points:
        return _points_typed(a, points)
    lists = a.lists
    if lists and not a.functions:
        return _lists_drawn(a, lists)
    table = a.first_of("table")
    if table is not None:
        return _table_drawn(table.text, a, around)
    equations = [f for f in a.formulas if f.is_equation]
    if equations and _solved(equations[0]) is None:
        free = _free(equations[0])
        if len(free) >= 2:
            two = [n for n in ("x", "y") if n in free] if {"x", "y"} <= set(free) else list(free[:2])
            noun = "surface" if len(free) == 3 and {"x", "y", "z"} <= set(free) else "curve"
            two = ["x", "y", "z"] if noun == "surface" else two
            above = _given(n for n in free if n not in two)
            return [Offer(f"{above}{noun} of {equations[0].text}{_windows(a, two)}{_dress(a, noun)}")]
    conditions = [f for f in a.formulas if f.is_condition]
    if conditions and not a.functions:
        free = conditions[0].free
        return [Offer(f"solution of {conditions[0].text} for {_variable(a, free)}")]
    if len(a.formulas) > 1 and all(f.is_constant for f in a.formulas):
        listed = read_formula(f"[{', '.join(f.text for f in a.formulas)}]", around.names)
        return _lists_drawn(a, [listed]) if listed is not None else []
    subjects = [f for f in a.formulas if f.kind in ("number", "function", "equation") and not (f.is_constant and len(a.formulas) > 1)]
    if not subjects:
        return _latest_drawn(a, around)
    if len(subjects) == 1 and subjects[0].is_constant and not subjects[0].is_equation and subjects[0].kind == "number":
        if not a.means("draw", "curve"):
            return [Offer(f"show {subjects[0].text}")]
        name = subjects[0].text
        if around.names.find(name) is None:
            return [Offer(f"curve of {name} for x from -5 to 5{_dress(a)}")]
        return [Offer(f"line horizontal at {name}", setting=True), Offer(f"show {name}")]
    return _functions_drawn(a, subjects)


def _functions_drawn(a: Asked, subjects: list[Formula]) -> list[Offer]:
    above, written = _defined(subjects)
    free = list(dict.fromkeys(n for f in subjects for n in _free(f)))
    solved = _solved(subjects[0])
    if solved is not None and "(" in solved:
        inside = [v.strip() for v in solved[solved.index("(") + 1 : -1].split(",")]
        free = inside + [n for n in free if n not in inside]
    two = _two_variables(subjects[0], free, a) if len(subjects) == 1 else None
    if two is not None:
        return [Offer(f"{_given(n for n in free if n not in two)}{above}surface of {written[0]}{_windows(a, two)}{_dress(a, 'surface')}")]
    variable = _variable(a, free)
    variables = [variable]
    for span in a.spans:
        # Nothing is drawn to infinity.
        span.low = "-10" if "infinity" in span.low else span.low
        span.high = "10" if "infinity" in span.high else span.high
    if len(subjects) > 1 and len({_free(f) for f in subjects}) > 1 and not all(variable in _free(f) or not _free(f) for f in subjects):
        # Each has a variable of its own: one curve each.
        lines = []
        for f, said in zip(subjects, written, strict=True):
            own = _variable(a, _free(f))
            lines.append(f"    curve of {said}{_window(a, own)}")
            variables.append(own)
        return [Offer(f"{_given(n for n in free if n not in variables)}{above}figure:\n" + "\n".join(lines))]
    above = _given(n for n in free if n != variable) + above
    items = ", ".join(written)
    window = _window(a, variable, always=len(written) > 1 or (len(free) != 1 and bool(free)))
    if not free and not window:
        window = " for x from -5 to 5"
    subject = f"[{items}]" if len(written) > 1 else items
    return [Offer(f"{above}curve of {subject}{window}{_dress(a)}")]


def _two_variables(f: Formula, free: list[str], a: Asked) -> list[str] | None:
    """The variables of a surface, where one is meant."""
    if f.kind == "function":
        known = f.names.find(f.text)
        return list(known.parameters) if known is not None and len(known.parameters) == 2 else None
    inner = f.inner
    if isinstance(inner, tree.Call) and isinstance(inner.function, tree.Name):
        known = f.names.find(inner.function.name)
        if known is not None and len(known.parameters) == 2 and len(free) == 2:
            return free
    if _solved(f) in ("z", "h") or a.means("surface", "contours"):
        pair = [n for n in ("x", "y", "u", "v", "r", "t") if n in free][:2]
        return pair if len(pair) == 2 else (free[:2] if len(free) >= 2 else None)
    if {"x", "y"} <= set(free) and _solved(f) is None:
        return ["x", "y"]
    named = [s.variable for s in a.spans if s.variable in free]
    return named if len(named) == 2 else None  # type: ignore[return-value]


def _points_typed(a: Asked, points: list[Formula], noun: str = "points") -> list[Offer]:
    first = points[0]
    if first.kind == "point" and isinstance(first.inner, tree.PointOf):
        parts = [n_text(first, i) for i in first.inner.items]
        free = first.free
        if free:
            variable = _variable(a, free)
            return [Offer(f"{_given(n for n in free if n != variable)}curve of {first.text}{_window(a, variable, '0 to 2pi')}{_dress(a)}")]
        del parts
        return [Offer(f"{noun} of [{', '.join(f.text for f in points if f.kind == 'point')}]{_dress(a, noun)}")]
    return [Offer(f"{noun} of {first.text}{_dress(a, noun)}")]


def n_text(f: Formula, node: tree.Expression) -> str:
    return f.text[node.start : node.end]


def _flat_first(lists: list[Formula]) -> bool:
    """Whether of two lists the first lies on the horizontal axis; the letters may say it, else it is as tables have it."""
    level = re.compile(r"^(?:x|t|time|times|xs|ts|x\w*|t\w*)$", re.I)
    first, second = lists[0].text, lists[1].text
    if level.match(second.split(".")[-1]) and not level.match(first.split(".")[-1]):
        return False
    return True


def _lists_drawn(a: Asked, lists: list[Formula], noun: str = "points") -> list[Offer]:
    if len(lists) == 1:
        one = lists[0].text
        inner = unwrapped(lists[0].tree)
        count = f"{len(inner.items)}" if isinstance(inner, tree.ListOf) else f"length({one})"
        other = next((n for n in ("xs", "x", "ts", "t") if (k := lists[0].names.find(n)) is not None and k.kind == "list" and n != one), None)
        if other is not None:
            return [Offer(f"{noun} of {one} against {other}{_dress(a, noun)}")]
        return [Offer(f"{noun} of {one} against 1 to {count} step 1{_dress(a, noun)}")]
    flat, upright = (lists[0], lists[1:]) if _flat_first(lists) else (lists[-1], lists[:-1])
    subject = upright[0].text if len(upright) == 1 else f"[{', '.join(f.text for f in upright)}]"
    noun = "line" if len(upright) > 1 and noun == "points" else noun
    return [Offer(f"{noun} of {subject} against {flat.text}{_dress(a, noun)}")]


def _against(a: Asked, around: Around, noun: str = "points") -> list[Offer]:
    assert a.against is not None
    upright, flat = a.against
    up, along = read_formula(upright, around.names), read_formula(flat, around.names)
    if up is None or along is None:
        return []
    if along.kind == "list" or up.kind == "list":
        return [Offer(f"{noun} of {upright} against {flat}{_dress(a, noun)}")]
    if along.free == (along.text,):
        # A function over its variable.
        return _functions_drawn(Asked(a.text, a.names, a.meanings, [up], a.spans, a.places, a.near, [flat], a.texts, a.dress), [up])
    return []


def _table_drawn(name: str, a: Asked, around: Around, noun: str = "points") -> list[Offer]:
    known = around.names.find(name)
    columns = known.columns if known is not None and known.columns else None
    if columns and len(columns) >= 2:
        two = [f"{name}.{c}" if re.fullmatch(r"[^\W\d]\w*", c) else f'{name}."{c}"' for c in columns[:2]]
        return [Offer(f"{noun} of {two[1]} against {two[0]}{_dress(a, noun)}")]
    return [Offer(f"{noun} of {name}.y against {name}.x{_dress(a, noun)}")]


def _latest_drawn(a: Asked, around: Around, noun: str = "curve") -> list[Offer]:
    """Nothing is named: what the script has last, or something to begin with."""
    if around.functions and noun == "curve":
        f = read_formula(around.functions[0], around.names)
        assert f is not None
        return _functions_drawn(a, [f])
    if len(around.lists) >= 2:
        found = [f for n in reversed(around.lists[:2]) if (f := read_formula(n, around.names)) is not None]
        return _lists_drawn(a, found, "points" if noun == "curve" else noun)
    if around.tables:
        return _table_drawn(around.tables[0], a, around, "points" if noun == "curve" else noun)
    if noun == "curve":
        span = a.spans[0] if a.spans else None
        return [Offer(f"curve of x^2 for x from {span.low if span else -2} to {span.high if span else 2}{_dress(a)}")]
    return [Offer(f"xs = [1, 2, 3, 4]\nys = [2.1, 3.9, 6.2, 7.8]\n{noun} of ys against xs")]


def _of_data(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        if noun == "points" and (a.functions and not a.lists and a.against is None) and not a.means("mark"):
            return []
        if a.against is not None:
            return _against(a, around, noun)
        points = [f for f in a.formulas if f.kind in ("point", "points")]
        if points and noun in ("points", "line"):
            return _points_typed(a, points, noun)
        if a.lists:
            return _lists_drawn(a, a.lists, noun)
        if not a.formulas and a.spans and "count" in a.numbers:
            return [Offer(f"xs = {a.spans[0].low} to {a.spans[0].high} count {a.numbers['count']}")]
        table = a.first_of("table")
        if table is not None:
            return _table_drawn(table.text, a, around, noun)
        return _latest_drawn(a, around, noun) if not a.functions else []

    return write


def _histogram(a: Asked, around: Around) -> list[Offer]:
    bins = f", bins {a.numbers['bins']}" if "bins" in a.numbers else ""
    data = a.lists[0].text if a.lists else around.lists[0] if around.lists else ""
    above = "" if data else "xs = [1.2, 2.1, 2.3, 2.9, 3.4, 3.5, 4.8]\n"
    return [Offer(f"{above}histogram of {data or 'xs'}{bins}{_dress(a, 'histogram')}")]


def _surface(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        f = next((f for f in a.formulas if f.kind in ("number", "function", "equation") and not f.is_constant), None)
        if f is not None and f.is_equation and _solved(f) is None and noun == "contours":
            return _drawn(a, around)
        if f is None:
            two = [n for n in around.functions if len(getattr(around.names.find(n), "parameters", ())) == 2]
            f = read_formula(two[0], around.names) if two else read_formula("x^2 - y^2", around.names)
        assert f is not None
        point = a.first_of("point")
        if point is not None and isinstance(point.inner, tree.PointOf) and len(point.inner.items) == 3 and noun == "surface":
            return [Offer(f"surface of {point.text}{_windows(a, point.free[:2], '0 to 2pi')}{_dress(a, noun)}")]
        free = list(_free(f))
        above, written = _defined([f])
        if f.is_equation and _solved(f) is None:
            return [Offer(f"surface of {f.text}{_windows(a, ('x', 'y', 'z'))}{_dress(a, noun)}")]
        two = _two_variables(f, free, a) or (free + [n for n in ("x", "y") if n not in free])[:2]
        levels = f", levels {a.numbers['levels']}" if "levels" in a.numbers and "levels" not in a.dress else ""
        return [Offer(f"{_given(n for n in free if n not in two)}{above}{noun} of {written[0]}{_windows(a, two)}{levels}{_dress(a, noun)}")]

    return write


def _section(a: Asked, around: Around) -> list[Offer]:
    if a.texts and not a.formulas:
        return _part(a, around)
    f = _subject(a, around)
    if f is None:
        return []
    equation = next((e for e in a.formulas if e.is_equation and e is not f), None)
    place = equation.text if equation is not None else f"{a.variables[-1]} = {a.places[0]}" if a.places and a.variables else "x = 0"
    free = list(_free(f))
    two = _two_variables(f, free, a) or (free + [n for n in ("x", "y") if n not in free])[:2]
    return [Offer(f"section of {_value(f)}{_windows(a, two)}, at {place}{_dress(a, 'section')}")]


def _band(a: Asked, around: Around) -> list[Offer]:
    functions = [_value(f) for f in a.formulas if f.kind in ("number", "function", "equation")]
    if not functions and around.functions:
        functions = [_called(n, around.names) for n in around.functions[:2]]
    if not functions:
        return []
    low = functions[1] if len(functions) > 1 else "0"
    free = list(dict.fromkeys(n for f in a.formulas for n in _free(f))) or ["x"]
    variable = _variable(a, free)
    return [Offer(f"band of {functions[0]} and {low}{_window(a, variable, '-5 to 5')}{_dress(a, 'band')}")]


def _tangent(a: Asked, around: Around) -> list[Offer]:
    f = _subject(a, around)
    if f is None:
        return []
    variable = _variable(a, _free(f))
    above, written = _defined([f])
    place = _place(a) or "1"
    drawn = f"{above}figure:\n    curve of {written[0]}{_window(a, variable)}\n    tangent of {written[0]} for {variable}, at {place}"
    if around.in_figure:
        return [Offer(f"tangent of {written[0]} for {variable}, at {place}{_dress(a, 'tangent')}")]
    return [Offer(_parameters(a, f, [variable]) + drawn)]


def _place(a: Asked) -> str | None:
    return a.places[0] if a.places else a.near[0] if a.near else None


# ---------------------------------------------------------------- requests


def _plain(noun: str) -> Writer:
    """`NOUN of FORMULA for VARIABLE from LOW to HIGH`"""

    def write(a: Asked, around: Around) -> list[Offer]:
        f = _subject(a, around)
        if f is None:
            return []
        if f.is_constant and not f.is_equation and noun in ("mean", "length"):
            return []
        free = _free(f)
        variable = _variable(a, free)
        above, written = _defined([f])
        subject = written[0]
        if f.is_equation and _solved(f) is None:
            left, right = f.sides()
            subject = left if right == "0" else f"{left} - ({right})"
        named = [v for v in (*a.variables, *(s.variable or "" for s in a.spans)) if v in free]
        several = len(dict.fromkeys(named)) > 1 or (NOUNS[noun].variables > 1 and set(free) == {"x", "y"})
        if several and NOUNS[noun].variables > 1:
            names = list(dict.fromkeys(named)) if len(set(named)) > 1 else list(free)
            return [Offer(f"{above}{noun} of {subject}{_windows(a, names, '-10 to 10')}")]
        above = _parameters(a, f, [variable]) + above
        near = f", near {_place(a)}" if _place(a) and NOUNS[noun].has_option("near") else ""
        digits = f", digits {a.numbers['digits']}" if "digits" in a.numbers and NOUNS[noun].has_option("digits") else ""
        default = "" if near and not a.spans else _searched(noun, f)
        return [Offer(f"{above}{noun} of {subject}{_window(a, variable, default, always=True)}{near}{digits}")]

    return write


def _searched(noun: str, f: Formula) -> str:
    """The span in which something is sought where none was said: everywhere for a polynomial, about zero otherwise."""
    if NOUNS[noun].gives == "formula":
        return ""
    known = f.names.find(f.text.split("(")[0]) if f.kind == "function" or "(" in f.text else None
    if known is not None and known.has_domain:
        return ""
    powers = not any(isinstance(n, tree.Call | tree.Radical | tree.Pieces) for n in tree.walk(f.tree)) and f.kind != "function"
    return "-infinity to infinity" if powers and NOUNS[noun].endless and not re.search(r"\^\(?[A-Za-z-]|/\(?[^()]*[a-z]", f.text) else "-10 to 10"


def _roots(a: Asked, around: Around) -> list[Offer]:
    f = _subject(a, around)
    if f is not None and f.is_equation and len(_free(f)) == 1 and _solved(f) is None and not a.spans and not a.places and not a.near:
        return [Offer(f"solution of {f.text} for {_variable(a, _free(f))}"), *_plain("roots")(a, around)]
    return _plain("roots")(a, around)


def _crossings(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        functions = [f for f in a.formulas if f.kind in ("number", "function", "equation")]
        if len(functions) == 1 and functions[0].is_equation and _solved(functions[0]) is None:
            left, right = functions[0].sides()
            pair, free = [left, right], list(_free(functions[0]))
            above = ""
        else:
            above, pair = _defined(functions)
            free = list(dict.fromkeys(n for f in functions for n in _free(f)))
        if len(pair) < 2:
            others = [_called(n, around.names) for n in around.functions if _called(n, around.names) not in pair]
            pair = (pair + list(reversed(others[: 2 - len(pair)])))[:2]
        if len(pair) == 1 and noun == "area":
            pair.append("0")
        if len(pair) < 2:
            return _solved_pair(a) if noun == "crossings" else []
        variable = _variable(a, [n for n in free if n != "y"] or _variables_of(pair[0], around))
        default = "-10 to 10" if noun == "crossings" else "0 to 1"
        above = _given(n for n in free if n not in (variable, "y")) + above
        return [Offer(f"{above}{noun} of {pair[0]} and {pair[1]}{_window(a, variable, default)}")]

    return write


def _solved_pair(a: Asked) -> list[Offer]:
    return []


def _variables_of(called: str, around: Around) -> tuple[str, ...]:
    known = around.names.find(called.split("(")[0])
    return known.parameters if known is not None else ()


def _solution(a: Asked, around: Around) -> list[Offer]:
    equations = [f for f in a.formulas if f.is_equation or f.is_condition]
    if not equations:
        f = _subject(a, around)
        if f is None or f.is_constant:
            return []
        free = _free(f) or ("x",)
        if f.kind == "function" or isinstance(f.inner, tree.Call):
            return _plain("roots")(a, around)
        variable = _variable(a, free)
        return [Offer(f"{_parameters(a, f, [variable])}solution of {_value(f)} = 0 for {variable}{_ends(a, variable)}")]
    free = list(dict.fromkeys(n for f in equations for n in f.free))
    if a.variables:
        unknowns = [v for v in dict.fromkeys(a.variables) if v in free] or free[: len(equations)]
    elif len(equations) == 1:
        unknowns = [_variable(a, free)]
    else:
        usual = [n for n in ("x", "y", "z") if n in free]
        unknowns = usual[: len(equations)] if len(usual) >= len(equations) else free[: len(equations)]
    said = ", ".join(f.text for f in equations)
    span = _span_for(a, unknowns[0]) if len(unknowns) == 1 and unknowns else None
    window = f" for {span.written(unknowns[0])}" if span else f" for {', '.join(unknowns)}"
    return [Offer(f"solution of {said}{window}")]


def _ends(a: Asked, variable: str) -> str:
    span = _span_for(a, variable)
    return f" from {span.low} to {span.high}" if span else ""


def _derivative(a: Asked, around: Around) -> list[Offer]:
    f = _subject(a, around)
    if f is None:
        return []
    variable = _variable(a, _free(f))
    above, written = _defined([f])
    above = _parameters(a, f, [variable]) + above
    order = a.numbers.get("degree") or a.numbers.get("order") or {"second": "2", "third": "3"}.get((re.search(r"second|third", a.text, re.I) or [""])[0].lower())
    tail = f", order {order}" if order and order != "1" else ""
    if a.means("draw"):
        drawn = f"(derivative of {written[0]} for {variable}{tail})"
        if re.search(r"\b(?:and|with|together|plus)\b", a.text, re.I):
            return [Offer(f"{above}curve of [{written[0]}, {drawn}]{_window(a, variable, always=True)}{_dress(a)}")]
        return [Offer(f"{above}curve of {drawn}{_window(a, variable)}{_dress(a)}")]
    at = f", at {_place(a)}" if _place(a) else ""
    return [Offer(f"{above}derivative of {written[0]} for {variable}{tail}{at}")]


def _integral(a: Asked, around: Around) -> list[Offer]:
    f = _subject(a, around)
    if f is None:
        return []
    free = _free(f)
    named = list(dict.fromkeys(s.variable for s in a.spans if s.variable))
    above, written = _defined([f])
    if len(named) == 2:
        return [Offer(f"{above}integral of {written[0]}{_windows(a, named)}")]  # type: ignore[arg-type]
    variable = _variable(a, free)
    above = _parameters(a, f, [variable]) + above
    if re.search(r"\barea\b", a.text, re.I) and not a.spans:
        return [Offer(f"{above}integral of {written[0]} for {variable} from 0 to 1")]
    return [Offer(f"{above}integral of {written[0]}{_window(a, variable, always=True)}")]


def _limit(a: Asked, around: Around) -> list[Offer]:
    f = _subject(a, around)
    if f is None:
        return _axis_range("x")(a, around) if a.spans else []
    variable = _variable(a, _free(f))
    above, written = _defined([f])
    return [Offer(f"{above}limit of {written[0]} for {variable}, at {_place(a) or '0'}")]


def _series(a: Asked, around: Around) -> list[Offer]:
    f = _subject(a, around)
    if f is None:
        return []
    variable = _variable(a, _free(f))
    order = a.numbers.get("degree") or a.numbers.get("terms") or "5"
    above, written = _defined([f])
    if not _free(f) or (_free(f)[0] in _WHOLE_NUMBERS and a.spans):
        return _sum("sum")(a, around)
    return [Offer(f"{above}series of {written[0]} for {variable}, at {_place(a) or '0'}, order {order}")]


def _sum(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        data = a.first_of("list")
        if data is not None:
            return [Offer(f"show {noun}({data.text})")]
        constants = [f for f in a.formulas if f.is_constant]
        if len(constants) > 1 and len(constants) == len(a.formulas):
            return [Offer(f"show {noun}([{', '.join(f.text for f in constants)}])")]
        if not a.formulas and a.spans:
            return [Offer(f"{noun} of k{_window(a, 'k')}")]
        f = _subject(a, around)
        if f is None:
            return []
        variable = _variable(a, _free(f))
        return [Offer(f"{_parameters(a, f, [variable])}{noun} of {_value(f)}{_window(a, variable, '1 to 10')}")]

    return write


def _mean(a: Asked, around: Around) -> list[Offer]:
    data = a.first_of("list")
    if data is not None:
        names = ["mean", *(m.name for m in a.meanings if m.kind == "function")]
        return [Offer("show " + ", ".join(f"{n}({data.text})" for n in names))]
    constants = [f for f in a.formulas if f.is_constant]
    if constants and len(constants) == len(a.formulas):
        return [Offer(f"show mean([{', '.join(f.text for f in constants)}])")]
    if not a.formulas and around.lists:
        return [Offer(f"show mean({around.lists[0]})")]
    return _plain_with_span("mean")(a, around)


def _plain_with_span(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        f = _subject(a, around)
        if f is None:
            return []
        variable = _variable(a, _free(f))
        above, written = _defined([f])
        return [Offer(f"{_parameters(a, f, [variable])}{above}{noun} of {written[0]}{_window(a, variable, '0 to 1')}")]

    return write


def _length(a: Asked, around: Around) -> list[Offer]:
    data = a.first_of("list")
    if data is not None:
        return [Offer(f"show length({data.text})")]
    return _plain_with_span("length")(a, around)


def _one_of_list(noun: str, function: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        data = a.first_of("list")
        if data is not None:
            return [Offer(f"show {function}({data.text})")]
        constants = [f for f in a.formulas if f.is_constant]
        if len(constants) > 1 and len(constants) == len(a.formulas):
            return [Offer(f"show {function}([{', '.join(f.text for f in constants)}])")]
        return _plain(noun)(a, around)

    return write


def _simplification(a: Asked, around: Around) -> list[Offer]:
    if a.places:
        return _series(a, around)
    f = _subject(a, around)
    return [Offer(f"simplification of {_value(f)}")] if f is not None else []


def _function(name: str) -> Writer:
    """`median of xs` is a function of a list, or of a number."""

    def write(a: Asked, around: Around) -> list[Offer]:
        constants = [f.text for f in a.formulas if f.is_constant]
        if name in ("normal", "uniform"):
            count = a.numbers.get("count") or (constants[0] if constants and constants[0].isdigit() else "10")
            return [Offer(f"show {name}({count}, 0, 1, 1)")]
        if a.lists:
            names = [m.name for m in a.meanings if m.kind == "function" or m.name in ("mean", "sum", "product")]
            return [Offer("show " + ", ".join(f"{n}({a.lists[0].text})" for n in names))]
        if len(constants) > 1 and name != "mod":
            return [Offer(f"show {name}([{', '.join(constants)}])")]
        if constants:
            return [Offer(f"show {name}({', '.join(constants)})")]
        if a.functions:
            return _functions_drawn(a, a.functions) if a.means("draw") else []
        return [Offer(f"show {name}({around.lists[0]})")] if around.lists else []

    return write


def _values(a: Asked, around: Around) -> list[Offer]:
    if a.places and not a.spans:
        return _show(a, around)
    functions = [f for f in a.formulas if f.kind in ("number", "function", "equation") and not f.is_constant]
    if not functions and around.functions:
        functions = [g for n in around.functions[:1] if (g := read_formula(n, around.names)) is not None]
    if not functions:
        return []
    above, written = _defined(functions)
    variable = _variable(a, [n for f in functions for n in _free(f)])
    span = _span_for(a, variable) or Span(None, "0", "10", a.numbers.get("step"), a.numbers.get("count"))
    if not span.step and not span.count:
        span = Span(None, span.low, span.high, a.numbers.get("step"), a.numbers.get("count") or "11")
    subject = f"[{', '.join(written)}]" if len(written) > 1 else written[0]
    return [Offer(f"{above}values of {subject} for {span.written(variable, stepped=True)}")]


# ---------------------------------------------------------------- data and models

_FORMULAS = {
    "exponential": "A*exp(k*x)", "power": "C*x^n", "logarithmic": "A + B*ln(x)", "sine": "A*sin(w*x + p) + c", "gauss": "A*exp(-((x - m)/s)^2)",
}  # fmt: skip


def _pair(a: Asked, around: Around) -> tuple[str, str, str] | None:
    """The lists of a fit: upright, flat, and lines above that make them."""
    if a.against is not None:
        return (*a.against, "")
    lists = [f.text for f in a.lists]
    if len(lists) >= 2:
        flat, upright = (lists[0], lists[1]) if _flat_first(a.lists[:2]) else (lists[1], lists[0])
        return upright, flat, ""
    table = a.first_of("table")
    name = table.text if table else None
    if name is None and not lists and len(around.lists) < 2 and around.tables:
        name = around.tables[0]
    if name is not None:
        known = around.names.find(name)
        columns = (known.columns if known is not None and known.columns and len(known.columns) >= 2 else None) or ("x", "y")
        return f"{name}.{columns[1]}", f"{name}.{columns[0]}", ""
    if len(lists) == 1:
        other = next((n for n in around.lists if n != lists[0]), None)
        if other is not None:
            f = [x for t in (lists[0], other) if (x := read_formula(t, around.names)) is not None]
            return (f[1].text, f[0].text, "") if _flat_first(f) else (f[0].text, f[1].text, "")
    if len(around.lists) >= 2:
        f = [x for t in (around.lists[1], around.lists[0]) if (x := read_formula(t, around.names)) is not None]
        return (f[1].text, f[0].text, "") if _flat_first(f) else (f[0].text, f[1].text, "")
    points = [f for f in a.formulas if f.kind == "point"]
    if len(points) >= 2 and all(isinstance(p.inner, tree.PointOf) for p in points):
        columns_of = [[n_text(p, i) for i in p.inner.items] for p in points if isinstance(p.inner, tree.PointOf)]
        above = f"xs = [{', '.join(c[0] for c in columns_of)}]\nys = [{', '.join(c[1] for c in columns_of)}]\n"
        return "ys", "xs", above
    return "ys", "xs", "xs = [1, 2, 3, 4, 5]\nys = [2.1, 3.9, 6.2, 7.8, 10.1]\n"


def _free_name(around: Around, wanted: Iterable[str]) -> str:
    return next((n for n in wanted if around.names.find(n) is None), "model")


def _fit(a: Asked, around: Around) -> list[Offer]:
    pair = _pair(a, around)
    if pair is None:
        return []
    upright, flat, above = pair
    model = a.model or "polynomial 1"
    own = next((f for f in a.formulas if f.kind in ("number", "equation") and len(_free(f)) > 1), None)
    name = _free_name(around, ("trend", "model", "fitted", "trend_2", "model_2"))
    if own is not None:
        variable = _variable(a, _free(own))
        return [Offer(f"{above}{name}({variable}) = fit of {_value(own)} to {upright} against {flat}")]
    if model == "polynomial N":
        model = f"polynomial {a.numbers.get('degree', '2')}"
    elif "degree" in a.numbers and model.startswith("polynomial"):
        model = f"polynomial {a.numbers['degree']}"
    formula = _FORMULAS.get(model, model)
    return [Offer(f"{above}{name}(x) = fit of {formula} to {upright} against {flat}")]


def _interpolation(a: Asked, around: Around) -> list[Offer]:
    pair = _pair(a, around)
    if pair is None:
        return []
    upright, flat, above = pair
    by = "polynomial" if a.model and a.model.startswith("polynomial") and re.search(r"polynomial", a.text, re.I) else "spline"
    by = "segments" if re.search(r"\blinear|straight|segments", a.text, re.I) else by
    name = _free_name(around, ("through", "level", "between"))
    variable = "x"
    return [Offer(f"{above}{name}({variable}) = interpolation of {upright} against {flat}, by {by}")]


def _of_fit(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        fit = next((f.text for f in a.formulas if f.text.split("(")[0] in around.fits), None) or (around.fits[0] if around.fits else None)
        if fit is None:
            return [Offer(o.text + f"\n{noun} of {o.text.splitlines()[-1].split('(')[0]}") for o in _fit(a, around)]
        return [Offer(f"{noun} of {fit.split('(')[0]}{_dress(a, noun)}")]

    return write


def _compare(a: Asked, around: Around) -> list[Offer]:
    if len(around.fits) >= 2:
        return [Offer(f"compare {around.fits[1]}, {around.fits[0]}")]
    return [] if len(a.functions) < 2 else _functions_drawn(a, a.functions)


def _budget(a: Asked, around: Around) -> list[Offer]:
    f = _subject(a, around)
    return [Offer(f"budget of {f.text}")] if f is not None else []


def _table(a: Asked, around: Around) -> list[Offer]:
    file = next((t for t in a.texts if re.search(r"\.\w{2,7}$", t)), a.texts[0] if a.texts else None)
    if a.functions and file is None and a.means("values", "table"):
        return _values(a, around)
    name = _named(a, file)
    if file is None and a.loose and re.search(r"\bimport|\bload|\buse", a.text):
        return [Offer("", why=ANSWERED["packages"].answer)]
    if file is None:
        return [Offer(f"table {name}:\n    x    y\n    1    2.1\n    2    3.9\n    3    6.2")]
    drawn = "" if not a.means("draw") else f"\npoints of {name}.y against {name}.x"
    return [Offer(f'table {name} from "{file}"{drawn}')]


def _named(a: Asked, file: str | None) -> str:
    match = re.match(r"\s*([A-Za-z]\w*)\s*=", a.text)
    if match:
        return match.group(1)
    match = re.search(r"\bas\s+([A-Za-z]\w*)", a.text)
    if match and match.group(1) not in ("a", "the"):
        return match.group(1)
    plain = re.sub(r"\W+", "_", (file or "data").rsplit(".", 1)[0]).strip("_")
    plain = plain if re.match(r"[^\W\d]", plain) else f"data_{plain}".rstrip("_")
    return plain if a.names.find(plain) is None and not a.names.builtins.is_protected(plain) and len(plain) > 1 else "data"


# ---------------------------------------------------------------- values and statements


def _show(a: Asked, around: Around) -> list[Offer]:
    if a.means("draw"):
        return []
    digits = f", digits {a.numbers['digits']}" if "digits" in a.numbers else ""
    items: list[str] = []
    above = ""
    for f in a.formulas:
        if f.kind in ("equation", "condition"):
            if f.is_equation and _solved(f) is None and f.free:
                return _solution(a, around)
            return [Offer(f"check {f.text}")] if not f.free else []
        if f.free or f.kind == "function":
            place = _place(a)
            free = _free(f)
            if place and len(free) == 1:
                if f.kind == "function" or re.fullmatch(rf"\w+\({free[0]}\)", f.text):
                    items.append(f"{f.text.split('(')[0]}({place})")
                    continue
                name = _free_name(around, ("f", "g", "h", "y"))
                above += f"{name}({free[0]}) = {f.text}\n"
                items.append(f"{name}({place})")
                continue
            if f.kind == "function":
                items.append(f.text)
                continue
            if len(free) == 1 and a.spans:
                return _values(a, around)
            if re.fullmatch(r"\w+\(\w+\)", f.text) and around.names.find(f.text.split("(")[0]) is not None:
                items.append(f.text.split("(")[0])
                continue
            return [Offer(f"simplification of {f.text}")] if not a.places else []
        items.append(f.text)
    items += [f'"{t}"' for t in a.texts] if not items or len(a.texts) == 1 else []
    if a.texts and items and items[-1] == f'"{a.texts[0]}"' and len(items) > 1:
        items = [items[-1], *items[:-1]]
    return [Offer(f"{above}show {', '.join(items)}{digits}")] if items else []


def _check(a: Asked, around: Around) -> list[Offer]:
    f = next((f for f in a.formulas if f.is_equation or f.is_condition), None)
    return [Offer(f"check {f.text}")] if f is not None else []


def _tune(a: Asked, around: Around) -> list[Offer]:
    match = re.search(r"\b([A-Za-zα-ω]\w*)\s*=\s*(-?[\d.]+)", a.text)
    span = a.spans[0] if a.spans else None
    names = [f.text for f in a.formulas if re.fullmatch(r"[A-Za-zα-ω]\w*", f.text)] + [s.variable for s in a.spans if s.variable] + a.variables
    name = match.group(1) if match else names[0] if names else "a"
    low, high = (span.low, span.high) if span else ("0", "5")
    start = match.group(2) if match and span is not None and match.group(2) != span.low else (low if span else "1")
    return [Offer(f"tune {name} = {start} from {low} to {high}")]


def _figure(a: Asked, around: Around) -> list[Offer]:
    title = f' "{a.texts[0]}"' if a.texts else ""
    drawn = _drawn(Asked(a.text, a.names, [], a.formulas, a.spans, a.places, a.near, a.variables, [], a.dress, a.numbers, a.against), around)
    if not drawn:
        return []
    lines = drawn[0].text.split("\n")
    above = [line for line in lines[:-1] if "=" in line]
    return [Offer("\n".join([*above, f"figure{title}:", f"    {lines[-1]}"]))] if "figure:" not in lines else drawn


def _panels(a: Asked, around: Around) -> list[Offer]:
    functions = [_value(f) for f in a.functions if not f.is_constant] or [_called(n, around.names) for n in reversed(around.functions[:2])] or ["sin(x)", "cos(x)"]
    if len(functions) == 1:
        functions.append(functions[0])
    body = "".join(f"    panel:\n        curve of {f}\n" for f in functions)
    return [Offer(f"figure, 1 by {len(functions)}:\n{body}".rstrip())]


def _part(a: Asked, around: Around) -> list[Offer]:
    return [Offer(f'part "{_text(a, "section")}"')]


def _text(a: Asked, default: str) -> str:
    """The text that is meant: in quotes, or what stands behind the word."""
    if a.texts:
        return a.texts[0]
    rest = a.text.strip().rstrip(":;")
    if ":" in rest:
        return rest.split(":", 1)[1].strip() or default
    rest = re.sub(r"^\s*(?:please\s+|set\s+|add\s+|the\s+)*", "", rest, flags=re.I)
    for meaning in a.meanings[:1]:
        for word in meaning.said.split():
            rest = re.sub(rf"^\W*\b{re.escape(word)}\w*\b", "", rest, flags=re.I)
    rest = re.sub(r"^\W*(?:of|for|the|a|is|to|text|label|name|axis|plot|figure|graph|with)\b", "", rest, flags=re.I)
    rest = re.sub(r"^\W*[xyz]?\W*\b(?:axis|label|lab|title|caption|name)?\b", "", rest, flags=re.I) if not rest.strip()[:1].isupper() else rest
    return rest.strip(" =:,()'\"") or default


def _note(a: Asked, around: Around) -> list[Offer]:
    return [Offer(f'note "{_text(a, "words")}"')]


def _setting(text: str | Callable[[Asked], str]) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        return [Offer(text if isinstance(text, str) else text(a), setting=True)]

    return write


def _axis_label(which: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        span = f" from {a.spans[0].low} to {a.spans[0].high}" if a.spans else ""
        if span and not a.texts:
            return [Offer(f"{which} axis{span}", setting=True)]
        if not a.texts and re.search(r"\blog", a.text, re.I):
            return [Offer(f"{which} axis, scale logarithmic", setting=True)]
        return [Offer(f'{which} axis "{_text(a, which)}"{span}', setting=True)]

    return write


def _axis_range(which: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        span = a.spans[0] if a.spans else None
        numbers = [f.text for f in a.formulas if f.is_constant]
        if span is None and len(numbers) == 2:
            span = Span(None, numbers[0], numbers[1])
        inner = a.first_of("list", "point")
        if span is None and inner is not None and isinstance(inner.inner, tree.ListOf | tree.PointOf) and len(inner.inner.items) == 2:
            span = Span(None, *(n_text(inner, i) for i in inner.inner.items))
        if span is None:
            one = a.places[0] if a.places else numbers[0] if numbers else None
            low, high = ("0", one or "10") if not re.search(r"min", a.text, re.I) else (one or "0", "10")
            span = Span(None, low, high)
        return [Offer(f"{which} axis from {span.low} to {span.high}", setting=True)]

    return write


def _both_labels(a: Asked, around: Around) -> list[Offer]:
    two = a.texts[:2] if len(a.texts) >= 2 else ["x", "y"] if not a.texts else [a.texts[0], "y"]
    return [Offer(f'x axis "{two[0]}"\ny axis "{two[1]}"', setting=True)]


def _axis(a: Asked, around: Around) -> list[Offer]:
    which = re.search(r"\b([xyz])\b|\b([xyz])(?=label|axis|lim|range|title)", a.text)
    if a.spans and not a.texts:
        return _axis_range(which.group(1) or which.group(2) if which else "x")(a, around)
    if which:
        return _axis_label(which.group(1) or which.group(2))(a, around)
    return _both_labels(a, around)


def _label(a: Asked, around: Around) -> list[Offer]:
    which = re.search(r"\b([xyz])\b(?!\s*[\^*/+(])|\b([xyz])(?=label|axis)", a.text)
    if which and not a.functions:
        return _axis_label(which.group(1) or which.group(2))(a, around)
    if a.functions:
        return _drawn(a, around)
    return [Offer(f'label "{_text(a, "curve")}"', option=True)]


def _title(a: Asked, around: Around) -> list[Offer]:
    return [Offer(f'title "{_text(a, "A title")}"', setting=True)]


def _caption(a: Asked, around: Around) -> list[Offer]:
    return [Offer(f'caption "{_text(a, "What is seen")}"', setting=True)]


def _text_at(a: Asked, around: Around) -> list[Offer]:
    at = next((p for p in a.places if p.startswith("(")), None) or next((f.text for f in a.formulas if f.kind == "point"), None)
    numbers = [f.text for f in a.formulas if f.is_constant]
    if at is None and len(numbers) == 2:
        at = f"({numbers[0]}, {numbers[1]})"
    elif at is None and len(numbers) == 1 and len(a.places) == 1:
        at = f"({a.places[0]}, {numbers[0]})"
    return [Offer(f'text "{_text(a, "words") if a.texts else "words"}" at {at or "(0, 0)"}', setting=True)]


def _ruled(a: Asked, around: Around) -> list[Offer]:
    points = [f for f in a.formulas if f.kind == "point"]
    values = [f.text for f in a.formulas if f.is_constant] or a.places
    if len(points) == 2 or re.search(r"\barrow\b", a.text, re.I):
        two = [p.text for p in points[:2]] + ["(0, 0)", "(1, 1)"][len(points) :]
        head = ", arrow end" if re.search(r"arrow", a.text, re.I) else ""
        return [Offer(f"line from {two[0]} to {two[1]}{head}", setting=True)]
    equation = next((f for f in a.formulas if f.is_equation), None)
    sides = equation.sides() if equation is not None else None
    named = sides[0] if sides else (a.variables[0] if a.variables else "")
    upright = re.search(r"\bvertical|\bv ?line|upright", a.text, re.I) or named == "x"
    lists = [f.text for f in a.lists]
    value = sides[1] if sides else values[0] if values else lists[0] if lists else a.places[0] if a.places else "0"
    if not (upright or named == "y" or re.search(r"\bhorizontal|\bh ?line|threshold|reference|\bline\b", a.text, re.I)):
        return []
    if a.functions and not all(f.is_constant for f in a.functions) and not sides:
        return []
    dress = "".join(f", {o} {v}" for o, v in a.dress.items() if o in ("colour", "width", "dash", "label"))
    return [Offer(f"line {'vertical' if upright else 'horizontal'} at {value}{dress}", setting=True)]


def _line(a: Asked, around: Around) -> list[Offer]:
    lists = [f for f in a.formulas if f.kind in ("list", "points")]
    if lists or (a.against is not None):
        return _of_data("line")(a, around)
    if a.functions and not all(f.is_constant for f in a.functions):
        return _functions_drawn(a, [f for f in a.formulas if f.kind in ("number", "function", "equation") and not f.is_constant])
    ruled = _ruled(a, around)
    points = [f for f in a.formulas if f.kind == "point"]
    return _points_typed(a, points, "line") if len(points) > 2 else ruled or _of_data("line")(a, around)


def _mark(a: Asked, around: Around) -> list[Offer]:
    point = a.first_of("point")
    if point is not None:
        return [Offer(f"mark {point.text}", setting=True)]
    named = next((f.text for f in a.formulas if f.text in around.findings), None) or (around.findings[0] if around.findings else None)
    if named is not None:
        return [Offer(f"mark {named}", setting=True)]
    nouns = [m.name for m in a.meanings if m.kind == "noun" and NOUNS[m.name].gives == "finding"]
    noun = nouns[0] if nouns else None
    if noun is None:
        place = next((p for p in a.places if p.startswith("(")), None)
        return [Offer(f"mark {place}", setting=True)] if place else []
    found = _WRITERS.get(noun, _plain(noun))(a, around)
    name = _free_name(around, ("r", "places", "found"))
    return [Offer(f"mark {name}", setting=True, above=f"{name} = {o.text}") for o in found if "\n" not in o.text]


def _legend(a: Asked, around: Around) -> list[Offer]:
    corner = " ".join(w for w in ("top", "bottom", "left", "right", "outside") if re.search(rf"\b{w}\b", a.text, re.I))
    corner = corner or {"upper": "top", "lower": "bottom"}.get(next((w for w in ("upper", "lower") if w in a.text.lower()), ""), "")
    return [Offer(f"legend {corner or 'top right'}", setting=True)]


def _grid(a: Asked, around: Around) -> list[Offer]:
    if re.search(r"\b(?:off|no|none|without|remove|hide|false)\b", a.text, re.I):
        return [Offer("no gridlines", setting=True)]
    return [Offer("gridlines " + ("minor" if re.search(r"\bminor|fine", a.text, re.I) else "major"), setting=True)]


def _no(a: Asked, around: Around) -> list[Offer]:
    for word, ours in (("legend", "legend"), ("key", "legend"), ("grid", "gridlines"), ("frame", "frame"), ("box", "frame"), ("axes", "frame"), ("axis", "frame")):
        if re.search(rf"\b{word}", a.text, re.I):
            return [Offer(f"no {ours}", setting=True)]
    return []


def _size(a: Asked, around: Around) -> list[Offer]:
    numbers = re.findall(r"\d+(?:\.\d+)?", a.text)
    unit = re.search(r"\b(cm|mm|in|inch|inches)\b", a.text)
    factor = {"cm": 10.0, "in": 25.4, "inch": 25.4, "inches": 25.4}.get(unit.group(1) if unit else "mm", 1.0)
    two = [f"{float(n) * factor:g}" for n in numbers[:2]] if len(numbers) >= 2 else ["120", "80"]
    if len(numbers) >= 2 and not unit and float(numbers[0]) < 30:
        two = [f"{float(n) * 10:g}" for n in numbers[:2]]
    elif len(numbers) >= 2 and not unit and float(numbers[0]) > 250:
        two = [f"{float(n) / 5:g}" for n in numbers[:2]]
    return [Offer(f"size {two[0]} mm by {two[1]} mm", setting=True)]


def _view(a: Asked, around: Around) -> list[Offer]:
    numbers = [f.text for f in a.formulas if f.is_constant] or re.findall(r"-?\d+(?:\.\d+)?", a.text)
    if re.search(r"\babove|\btop\b", a.text, re.I):
        return [Offer("view azimuth 270, elevation 90", setting=True)]
    azimuth, elevation = (numbers + ["40", "25"][len(numbers) :])[:2] if len(numbers) < 2 else numbers[:2]
    return [Offer(f"view azimuth {azimuth}, elevation {elevation}", setting=True)]


def _style(a: Asked, around: Around) -> list[Offer]:
    for word, ours in (("black", "grey"), ("gr[ae]y", "grey"), ("slide", "slide"), ("present", "slide"), ("poster", "poster")):
        if re.search(word, a.text, re.I):
            return [Offer(f"style {ours}", setting=True)]
    return [Offer("style print", setting=True)]


def _option(a: Asked, around: Around, name: str) -> list[Offer]:
    """An option said alone belongs to the drawing above; with a formula, to that one."""
    if name == "scale":
        which = re.search(r"\b([xy])\b", a.text)
        return [Offer(f"{which.group(1) if which else 'y'} axis, scale logarithmic", setting=True)]
    if name == "direction":
        which = re.search(r"\b([xy])\b", a.text)
        return [Offer(f"{which.group(1) if which else 'y'} axis, direction reversed", setting=True)]
    if name == "ticks":
        which = re.search(r"\b([xy])(?=\b|ticks)", a.text)
        data = a.first_of("list")
        return [Offer(f"{which.group(1) if which else 'x'} axis, ticks {data.text if data else '[0, 1, 2]'}", setting=True)]
    if a.formulas and any(not f.is_constant for f in a.formulas):
        return _drawn(a, around)
    value = a.dress.get(name)
    numbers = [f.text for f in a.formulas if f.is_constant]
    defaults = {"colour": "brick", "width": "2", "size": "6", "dash": "dashed", "marker": "ring", "opacity": "0.5", "fill": "true", "levels": "10",
                "hatch": "rising", "bins": "12"}  # fmt: skip
    value = value or (numbers[0] if numbers and name in ("width", "size", "opacity", "levels", "bins") else None)
    if name == "errors":
        value = (a.lists[0].text if a.lists else numbers[0] if numbers else None) or "0.1"
    if name == "label":
        return _label(a, around)
    if value is None and name == "width" and re.search(r"\bthin", a.text, re.I):
        value = "0.6"
    value = value or defaults.get(name)
    return [Offer(f"{name} {value}", option=True)] if value else []


def _dressed(a: Asked, around: Around) -> list[Offer]:
    said = ", ".join(f"{o} {v}" for o, v in a.dress.items() if o in _DRAWN_OPTIONS)
    return [Offer(said, option=True)] if said else []


def _whatever(a: Asked, around: Around) -> list[Offer]:
    """What is left when no word says it: equations are solved, formulas drawn, numbers shown, dress belongs to the drawing above."""
    found: list[Offer] = []
    if a.dress and not a.formulas:
        found += _dressed(a, around)
    equations = [f for f in a.formulas if f.is_equation or f.is_condition]
    if len(equations) == 1 and {"x", "y"} <= set(equations[0].free) and equations[0].is_equation and not a.means("find"):
        found += _drawn(a, around)
    if equations and not a.means("draw"):
        solved = _solved(equations[0])
        if len(equations) == 1 and solved is not None and "(" not in solved and equations[0].free == (solved,):
            found.append(Offer(f"{solved} = {_value(equations[0])}"))
        if len(equations) > 1 or solved is None or a.means("find"):
            if any(f.free for f in equations):
                found += _solution(a, around)
            else:
                found += _check(a, around)
    if a.means("find") or (a.places and not a.means("draw")):
        found += _show(a, around)
    if a.functions and all(f.is_constant for f in a.functions) and not a.lists:
        found += [o for o in _show(a, around)]
    found += _drawn(a, around) if (a.formulas or a.against is not None or a.means("draw") or a.dress) else []
    if a.means("show", "find"):
        found += _show(a, around)
    return found


_WRITERS: dict[str, Writer] = {
    "curve": _drawn, "draw": _drawn, "roots": _roots, "crossings": _crossings("crossings"), "area": _crossings("area"), "solution": _solution,
    "minima": _one_of_list("minima", "min"), "maxima": _one_of_list("maxima", "max"), "lowest": _one_of_list("lowest", "min"),
    "highest": _one_of_list("highest", "max"), "derivative": _derivative, "integral": _integral, "limit": _limit, "series": _series,
    "sum": _sum("sum"), "product": _sum("product"), "mean": _mean, "length": _length, "simplification": _simplification, "values": _values,
    "band": _band, "tangent": _tangent, "points": _of_data("points"), "line": _line, "steps": _of_data("steps"), "bars": _of_data("bars"),
    "histogram": _histogram, "surface": _surface("surface"), "contours": _surface("contours"), "section": _section, "fit": _fit, "interpolation": _interpolation,
    "residuals": _of_fit("residuals"), "confidence": _of_fit("confidence"), "prediction": _of_fit("prediction"), "compare": _compare,
    "budget": _budget, "table": _table, "show": _show, "check": _check, "tune": _tune, "figure": _figure, "panel": _panels, "part": _part,
    "note": _note, "axis": _axis, "title": _title, "caption": _caption, "text": _text_at, "mark": _mark, "legend": _legend, "gridlines": _grid,
    "no": _no, "size": _size, "view": _view, "style": _style, "true": _setting("true scale"), "decimal": _setting("decimal comma"),
    "label": _label, "x label": _axis_label("x"), "y label": _axis_label("y"), "z label": _axis_label("z"), "x axis": _axis_label("x"),
    "y axis": _axis_label("y"), "z axis": _axis_label("z"), "x range": _axis_range("x"), "y range": _axis_range("y"),
    "x log": _setting("x axis, scale logarithmic"), "y log": _setting("y axis, scale logarithmic"),
    "both log": _setting("x axis, scale logarithmic\ny axis, scale logarithmic"), "both labels": _both_labels,
    "no legend": _setting("no legend"), "no grid": _setting("no gridlines"), "no frame": _setting("no frame"),
    "half width": _setting("style print"),
}  # fmt: skip
