"""What all sentences are made of: subjects, variables, spans, dress, and values for names that have none."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ... import tree
from ...vocabulary import NOUNS
from ..asked import Asked, Span
from ..formulas import Formula, Names, read_formula
from ..lexicon import FILLERS, meaning_at

USUAL = ("x", "t", "theta", "θ", "s", "u", "k", "n", "r", "z", "y", "p", "h", "w", "v", "q", "m")


WHOLE_NUMBERS = ("k", "n", "i", "j", "m")


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


Writer = Callable[[Asked, Around], list[Offer]]


def called(name: str, names: Names) -> str:
    known = names.find(name)
    return f"{name}({', '.join(known.parameters)})" if known is not None and known.kind == "function" else name


def value_of(f: Formula) -> str:
    """A formula as a subject: a function is called with its variables; of `y = …` the right side counts."""
    if f.kind == "function":
        return called(f.text, f.names)
    if f.is_equation:
        left, right = f.sides()
        solved = solved_name(f)
        if solved is not None:
            return right if solved == left else left
    return f.text


def solved_name(f: Formula) -> str | None:
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


def free_of(f: Formula) -> tuple[str, ...]:
    """The names that vary in a formula: those without a value, or the variables of the function that is called with them."""
    if f.kind == "function":
        known = f.names.find(f.text)
        return known.parameters if known is not None else ()
    solved = solved_name(f)
    free = list(f.free)
    if solved is not None and "(" not in solved:
        free = [n for n in free if n != solved]
    return tuple(dict.fromkeys(free))


def variable_of(a: Asked, free: Iterable[str]) -> str:
    """Which of the names that vary is the variable: the one that is named as such, then the usual ones."""
    free = tuple(free)
    for name in (*a.variables, *(s.variable for s in a.spans if s.variable)):
        if name in free or not free:
            return name
    for name in USUAL:
        if name in free:
            return name
    return free[0] if free else "x"


def span_for(a: Asked, variable: str) -> Span | None:
    own = next((s for s in a.spans if s.variable == variable), None)
    return own or next((s for s in a.spans if s.variable is None), None) or (a.spans[0] if len(a.spans) == 1 else None)


def window_of(a: Asked, variable: str, default: str = "", stepped: bool = False, always: bool = False) -> str:
    """` for x from … to …`, from the span that was said, or a default; `always`: the variable is named even without one."""
    span = span_for(a, variable)
    if span is not None:
        return f" for {span.written(variable, stepped)}"
    if default:
        return f" for {variable} from {default}"
    return f" for {variable}" if always else ""


def windows_of(a: Asked, variables: Iterable[str], default: str = "-5 to 5") -> str:
    """The spans of several variables, with a default for those of which none was said."""
    loose = [s for s in a.spans if s.variable is None or len(a.spans) == 1]
    said = []
    for place, name in enumerate(variables):
        span = next((s for s in a.spans if s.variable == name), None)
        if span is None and loose:
            span = loose[min(place, len(loose) - 1)]
        said.append(span.written(name) if span else f"{name} from {default}")
    return " for " + ", ".join(said)


def given_values(names: Iterable[str]) -> str:
    """Values for names that have none, one a line, to be changed."""
    return "".join(f"{n} = 1\n" for n in dict.fromkeys(names))


def defined_above(formulas: Iterable[Formula], kept: Iterable[str] = ()) -> tuple[str, list[str]]:
    """Definitions that stand within a sentence (`plot f(x) = x^2`) as lines of their own, and the subjects."""
    above, subjects = "", []
    for f in formulas:
        solved = solved_name(f)
        if solved is not None and "(" in solved:
            above += f"{solved} = {value_of(f)}\n"
            subjects.append(solved)
        else:
            subjects.append(value_of(f))
    return above, subjects


def subject_of(a: Asked, around: Around) -> Formula | None:
    """What is asked about: a formula of the sentence, or the latest function of the script."""
    found = next((f for f in a.formulas if f.kind in ("number", "function") and not f.is_constant), None)
    found = found or next((f for f in a.formulas if f.is_equation), None) or a.first_of("number", "function")
    if found is None and around.functions:
        return read_formula(around.functions[0], around.names)
    return found


def dress_of(a: Asked, noun: str = "curve") -> str:
    """The options that adjectives said, as far as a noun has them, and a text in quotes as its label."""
    said = "".join(f", {option} {value}" for option, value in a.dress.items() if NOUNS[noun].has_option(option))
    if NOUNS[noun].has_option("label") and a.texts and "label" not in a.dress:
        said += f', label "{a.texts[0]}"'
    return said


def parameters_above(a: Asked, f: Formula, variables: Iterable[str]) -> str:
    """Values for the letters of a formula that are not its variables, on lines above."""
    kept = set(variables)
    return given_values(n for n in free_of(f) if n not in kept)


def says_something(word: str, names: Names) -> bool:
    """Whether a word is one of a sentence rather than a name."""
    return len(word) > 1 and not names.looks_like_one(word) and (word.lower() in FILLERS or meaning_at([word], 0) is not None)


def n_text(f: Formula, node: tree.Expression) -> str:
    return f.text[node.start : node.end]


def place_of(a: Asked) -> str | None:
    return a.places[0] if a.places else a.near[0] if a.near else None


def free_name(around: Around, wanted: Iterable[str]) -> str:
    return next((n for n in wanted if around.names.find(n) is None), "model")


WRITERS: dict[str, Writer] = {}  # by the meaning that they write; each module fills in its own
