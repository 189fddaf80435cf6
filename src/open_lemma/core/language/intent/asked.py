"""What stands in a sentence: words with a meaning, formulas, spans, places, names, texts, dress. In what order does not matter."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable
from dataclasses import dataclass, field

from .. import tree
from .formulas import IN_WORDS, Formula, Names, read_formula, split_names
from .lexicon import FILLERS, Meaning, meaning_at, taken_apart

_COLOURS = frozenset(
    (
        "red green blue black white yellow orange purple violet pink brown grey gray cyan magenta navy teal olive maroon turquoise gold "
        "silver crimson indigo salmon tomato pond brick reed straw heather iris moss clay"
    ).split()
)
_DASHES = {
    "dashed": "dashed",
    "dotted": "dotted",
    "dash-dotted": "dash-dotted",
    "dashdot": "dash-dotted",
    "solid": "solid",
    "broken": "dashed",
}
_WIDTHS = {"thick": "2", "thicker": "2", "bold": "2.5", "fat": "2.5", "thin": "0.6", "thinner": "0.6", "wide": "2", "fine": "0.6"}
_MARKERS = {
    "dots": "dot", "circles": "ring", "rings": "ring", "squares": "square", "triangles": "triangle", "diamonds": "diamond",
    "crosses": "cross", "pluses": "plus", "circle": "ring", "stars": "cross", "star": "cross",
}  # fmt: skip
_MODELS = (
    ("polynomial 1", r"linear|straight line|straight|line|proportional"),
    ("polynomial 2", r"quadratic|parabola|parabolic|second degree|second order"),
    ("polynomial 3", r"cubic|third degree|third order"),
    ("exponential", r"exponential|exp|decay|growth"),
    ("power", r"power law|power|allometric"),
    ("logarithmic", r"logarithmic|logarithm|log"),
    ("sine", r"sinusoidal|sine|sinus|sin|harmonic|periodic"),
    ("gauss", r"gaussian|bell curve|normal|bell"),
    ("polynomial N", r"polynomial|poly"),
)
_CHUNK = (
    r"[-+−]?\s?(?:[\w.√πθα-ω∞]+|\([^()]*\))(?:\([^()]*\))?(?:\s?[*/^]\s?[-−]?(?:[\w.π∞]+|\([^()]*\))|"
    r"\s?[+−-]\s?[\w.π]+|\s(?:pi|π)\b)*(?:\s?\[[a-zA-Zµ°/^\d]+\])?"
)
_NAME = r"(?:theta|alpha|beta|phi|omega|[A-Za-zα-ωΑ-Ω](?:_?\w{1,2})?)\b"
_TO = r"\s*(?:\bto\b|\.\.\.?|…|–|\buntil\b|\btill\b|\bup to\b|\bthrough\b)\s*"


@dataclass
class Span:
    """`VARIABLE from LOW to HIGH`, with a step or a count if one was said."""

    variable: str | None
    low: str
    high: str
    step: str | None = None
    count: str | None = None

    def written(self, variable: str, stepped: bool = False) -> str:
        tail = f" step {self.step}" if stepped and self.step else f" count {self.count}" if stepped and self.count else ""
        return f"{variable} from {self.low} to {self.high}{tail}"


@dataclass
class Asked:
    """A sentence in its parts.

    meanings   of its words, in their order
    formulas   what can be calculated or drawn, in their order
    variables  named as such: by x, with respect to t, dx
    dress      options of a drawn thing that were said by adjectives or as settings
    numbers    said with a word: degree 3, 20 bins
    subjects   lists and formulas to both sides of `against`, horizontal last, where it was said so
    loose      words that mean nothing here
    called     whether it is written like a call of a function
    """

    text: str
    names: Names
    meanings: list[Meaning] = field(default_factory=list)
    formulas: list[Formula] = field(default_factory=list)
    spans: list[Span] = field(default_factory=list)
    places: list[str] = field(default_factory=list)
    near: list[str] = field(default_factory=list)
    variables: list[str] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)
    dress: dict[str, str] = field(default_factory=dict)
    numbers: dict[str, str] = field(default_factory=dict)
    against: tuple[str, str] | None = None
    model: str | None = None
    loose: list[str] = field(default_factory=list)
    called: bool = False
    comment: str = ""
    unit: str = ""
    directions: set[str] = field(default_factory=set)

    def means(self, *names: str) -> bool:
        return any(m.name in names for m in self.meanings)

    @property
    def functions(self) -> list[Formula]:
        """What has a height: formulas and functions, no lists, points, texts or tables."""
        return [f for f in self.formulas if f.kind in ("number", "function")]

    @property
    def lists(self) -> list[Formula]:
        return [f for f in self.formulas if f.kind == "list"]

    def first_of(self, *kinds: str) -> Formula | None:
        return next((f for f in self.formulas if f.kind in kinds), None)


def asked(text: str, names: Names) -> Asked:
    """The parts of a sentence that the language cannot read."""
    return _Reader(text, names).read()


class _Reader:
    def __init__(self, text: str, names: Names) -> None:
        self.found = Asked(text, names)
        self.names = names
        self.text = text
        self.behind_comma: set[int] = set()  # formulas that a comma stands in front of

    def read(self) -> Asked:
        if re.search(r"\{[^}]*=", self.text):
            self.text = re.sub(r"[{}]", " ", self.text)
        self.text = re.sub(
            (
                r"\b(?:max\w*|highs?|peaks)\s+(?:and|&|or)\s+(?:min\w*|lows?|valleys)\b|\b(?:min\w*|"
                r"lows?)\s+(?:and|&|or)\s+(?:max\w*|highs?)\b"
            ),
            "extremes",
            self.text,
            flags=re.I,
        )
        self._texts_and_comment()
        for pattern, plain in IN_WORDS:
            self.text = pattern.sub(plain, self.text)
        self.text = split_names(self.text, self.names)
        self._unwrap_call()
        self._differential()
        self._variables()
        self._numbers_with_words()
        self._spans()
        self._places()
        self._dress()
        self._against()
        self._model()
        self._words_and_formulas()
        self._trailing_numbers()
        return self.found

    # ------------------------------------------------------------ taking out

    def _eat(self, pattern: str, take: Callable[[re.Match[str]], bool | None], most: int = 4) -> None:
        """Let each match be taken; what is taken leaves a bar that parts what stood around it."""
        at = 0
        compiled = re.compile(pattern, re.I)
        while most and (match := compiled.search(self.text, at)):
            if take(match) is False:
                at = match.end() if match.end() > match.start() else match.end() + 1
                # A later beginning may still match within this one.
                at = match.start() + 1
                continue
            self.text = self.text[: match.start()] + " ¦ " + self.text[match.end() :]
            at = match.start()
            most -= 1

    def _constant(self, text: str) -> str | None:
        """A number as it would be written, if the text is one."""
        text = re.sub(r"^([-+−]?)\s?(?:inf|oo|infinite)$", r"\1infinity", text.strip(), flags=re.I).replace("−", "-").removeprefix("+")
        if re.fullmatch(r"-?(?:infinity|∞)", text):
            return text.replace("∞", "infinity")
        unit = re.search(r"\s?(\[[^\]]*\])$", text)
        formula = read_formula(text.removesuffix(unit.group(0)) if unit else text, self.names)
        if formula is None or not formula.is_constant:
            return None
        return f"{formula.text} {unit.group(1)}" if unit else formula.text

    def _texts_and_comment(self) -> None:
        def take(match: re.Match[str]) -> None:
            self.found.texts.append(match.group(1) if match.group(1) is not None else match.group(2))

        self._eat(r'"([^"]*)"|(?<![\w)])\'([^\']*)\'(?!\w)', take)
        comment = re.search(r"\s(#|//).*$", self.text)
        if comment:
            self.found.comment = "  # " + comment.group(0).strip().lstrip("#/").strip()
            self.text = self.text[: comment.start()]
        file = re.search(r"(?<![\w\"])([\w\-./\\]+\.(?:csv|txt|xlsx?|dat|json|parquet|tsv))\b", self.text)
        if file:
            self.found.texts.append(re.split(r"[/\\]", file.group(1))[-1])
            self.text = self.text[: file.start()] + " ¦ " + self.text[file.end() :]

    def _unwrap_call(self) -> None:
        """`plot(sin(x), 0, 10)`: the word in front of the bracket is one of ours, or at least none of theirs."""
        match = re.match(r"\s*([A-Za-z][\w.]*)(\s*)\((.*)\)\s*;?\s*$", self.text)
        if not match or not _balanced(match.group(3)):
            return
        if match.group(2) and "," in match.group(3):
            return  # a point
        word = match.group(1)
        known = self.names.find(word)
        if known is not None or (self.names.builtins.is_function(word) and meaning_at([word], 0) is None):
            return
        self.found.called = True
        self.text = f"{word.replace('.', ' ')} , {match.group(3)}"

    def _differential(self) -> None:
        def derivative(match: re.Match[str]) -> None:
            order = match.group(1)
            if order:
                self.found.numbers["order"] = order
            self.found.variables.append(match.group(2))
            self.found.meanings.append(Meaning("noun", "derivative", 0, 3))

        self._eat(rf"\b[d∂](?:\^?(\d))?\s*/\s*[d∂]({_NAME})(?:\^?\d)?(?=\W)", derivative, 1)
        if "∫" in self.text or re.search(r"\b(?:int|integra\w*)\b", self.text, re.I):
            self._eat(rf"(?<![A-Za-z])d({_NAME})\b", lambda m: self.found.variables.append(m.group(1)), 1)
        self._eat(
            rf"\bd([A-Za-z]\w*(?:\([^()]*\))?)\s*/\s*d({_NAME})(?!\s*=)",
            lambda m: self._of_a_quotient(m),
            1,
        )
        self._eat(r"∫", lambda _: self.found.meanings.append(Meaning("noun", "integral", 0, 2)), 1)
        self._eat(r"[∑Σ](?=[\s(_])", lambda _: self.found.meanings.append(Meaning("noun", "sum", 0, 2)), 1)

    def _of_a_quotient(self, match: re.Match[str]) -> bool | None:
        """`df/dx`: the derivative of what stands above."""
        formula = read_formula(match.group(1), self.names)
        if formula is None:
            return False
        self.found.formulas.append(formula)
        self.found.variables.append(match.group(2))
        self.found.meanings.append(Meaning("noun", "derivative", 0, 3))
        return None

    def _variables(self) -> None:
        def take(match: re.Match[str]) -> None:
            self.found.variables.append(match.group(1))

        self._eat(
            rf"\b(?:with respect to|w\.?r\.?t\.?|with variable|in the variable|as a function of|in terms of|in variable)\s+({_NAME})\b",
            take,
        )

    def _numbers_with_words(self) -> None:
        number, found = r"(-?\d+(?:\.\d+)?)", self.found.numbers

        def said_as(name: str, value: str) -> Callable[[re.Match[str]], None]:
            def take(_: re.Match[str]) -> None:
                found.setdefault(name, value)

            return take

        def keep(name: str) -> Callable[[re.Match[str]], None]:
            def take(match: re.Match[str]) -> None:
                found.setdefault(name, next(g for g in match.groups() if g))

            return take

        for name, before, after in (
            ("degree", "degree|order|power|deg", "degree|order"), ("bins", "bins|classes|bin", "bins|classes"),
            ("terms", "terms|term", "terms"), ("digits", "digits|precision", "digits|decimals|decimal places|significant figures"),
            ("levels", "levels|lines", "levels|contours|contour lines|isolines|level lines|level curves|height lines"),
        ):  # fmt: skip
            said = rf"\b(?:{before})\s*(?:of|=|:)?\s*{number}\b(?!\s*\*)" + rf"|\b(\d+)(?:st|nd|rd|th)?[\s-]+(?:{after})\b"
            if name == "levels":
                said = rf"\blevels\s*(?:=|:)?\s*{number}\b|\b(\d+)\s+(?:{after})\b"
            self._eat(said, keep(name), 1)
        for word, value in (("first", "1"), ("second", "2"), ("third", "3"), ("fourth", "4")):
            self._eat(rf"\b{word}\s+(?=derivative|order|degree)", said_as("degree", value), 1)
        self._eat(r"\b(\d)(?:st|nd|rd|th)\s+(?=derivative)", keep("degree"), 1)
        self._eat(
            (
                rf"\b(?:with\s+)?(?:step size|steps? of|step|increment|stepsize|in steps of|by steps "
                rf"of|every)\s*(?:of|=|:)?\s*{number}(?![\w*])"
            ),
            keep("step"),
            1,
        )
        self._eat(
            r"\b(?:with\s+|using\s+)?(\d+)\s+(?:points|samples|values|numbers|elements|steps|rows)\b|\bcount\s+(\d+)\b", keep("count"), 1
        )

    # ------------------------------------------------------------ spans

    def _spans(self) -> None:
        self._eat(rf"\b(?:for\s+)?({_NAME})\s*in\s+(?:the\s+)?range\s+({_CHUNK})\s*,\s*({_CHUNK})", self._span_of(1, 2, 3))
        interval = rf"[\[(]\s*({_CHUNK})\s*[,;:]\s*({_CHUNK})\s*[\])]"
        self._eat(rf"(?:\b(?:on|over|in|for)\s+)?{interval}\s*(?:x|×|\*|by)\s*{interval}", lambda m: self._two_spans(m), 1)
        self._eat(
            rf"\[\s*({_CHUNK})\s*:\s*({_CHUNK})\s*\]",
            lambda m: (
                self._span_of(0, 1, 2)(m)
                if self.names.find(m.group(1)) is None and not re.search(r"=\s*$", self.text[: m.start()])
                else False
            ),
            2,
        )
        self._eat(rf"[\[({{]\s*({_NAME})\s*,\s*({_CHUNK})\s*,\s*({_CHUNK})\s*[\])}}]", self._span_of(1, 2, 3))
        opening = r"(?:for|with|where|when|over|on|in|and|,|;|¦|by|if|\()?\s*(?:all\s+|every\s+)?"
        self._eat(
            rf"{opening}\b({_NAME})\s*(?:=|:|in|∈|from|is)\s*(?:range\s*\()?\s*[\[(]\s*({_CHUNK})\s*[,;]\s*({_CHUNK})\s*[\])]+",
            self._span_of(1, 2, 3),
        )
        self._eat(rf"{opening}\b({_NAME})\s*=\s*({_CHUNK})\s*:\s*({_CHUNK})\s*:\s*({_CHUNK})", self._span_of(1, 2, 4, 3))
        self._eat(
            (
                rf"{opening}\b({_NAME})\s*(?:=|:|in|∈|going|running|runs|goes|ranging|varies|is)?\s*(?:from|"
                rf"between|=|:)?\s*({_CHUNK})(?:{_TO}|\s*:\s*)({_CHUNK})"
            ),
            self._span_of(1, 2, 3),
        )
        self._eat(rf"{opening}\b({_NAME})\s*(?:is\s+)?between\s+({_CHUNK})\s*(?:and|,|to|&)\s*({_CHUNK})", self._span_of(1, 2, 3))
        self._eat(rf"\bfrom\s+({_NAME})\s*=\s*({_CHUNK})\s*to\s*(?:(?:{_NAME})\s*=\s*)?({_CHUNK})", self._span_of(1, 2, 3))
        self._eat(rf"\bbetween\s+({_NAME})\s*=\s*({_CHUNK})\s*and\s*(?:(?:{_NAME})\s*=\s*)?({_CHUNK})", self._span_of(1, 2, 3))
        self._eat(rf"{opening}(?<![\w.*/+^-])({_CHUNK})\s*(?:<=|≤|<)\s*({_NAME})\s*(?:<=|≤|<)\s*({_CHUNK})", self._span_of(2, 1, 3))
        self._eat(rf"\b(?:for|with|where)\s+(?:all\s+)?({_NAME})\s*(?:>|>=|≥)\s*({_CHUNK})", self._half_line(">"), 1)
        self._eat(rf"\b(?:from|between|in between)\s+({_CHUNK})(?:{_TO}|\s*(?:and|&|,)\s*)({_CHUNK})", self._span_of(0, 1, 2))
        self._eat(
            (
                rf"(?:\b(?:on|over|in|within|inside|range|interval|domain|window|limits|bounds|for|across|from)\b|¦|,|"
                rf"=|(?<=\w\s)|(?<=\)))\s*(?:the\s+)?(?:range|interval|domain|window)?\s*[\[({{]\s*({_CHUNK})\s*[,"
                rf";:]\s*({_CHUNK})\s*[\])}}]\s*(?=$|¦|,|;|\b(?:for|with|and|in|to)\b)"
            ),
            self._plain_span,
        )
        self._eat(rf"(?<![\w.^*/(\[])({_CHUNK})\s*:\s*({_CHUNK})\s*:\s*({_CHUNK})(?![\w(])", self._span_of(0, 1, 3, 2))
        self._eat(rf"(?<![\w.^*/(\[])({_CHUNK})(?:{_TO}|\s*:\s*)({_CHUNK})(?![\w(])", self._span_of(0, 1, 2))
        # `for x` alone says which one is the variable.
        self._eat(
            rf"\bfor\s+({_NAME})\b(?!\s*[=<>(])", lambda m: self.found.variables.append(m.group(1)) if self._may_vary(m.group(1)) else False
        )
        self._eat(rf"\bfor\s+(?:each|every|all)\s+({_NAME})\b", lambda m: self.found.variables.append(m.group(1)))

    def _two_spans(self, match: re.Match[str]) -> bool | None:
        ends = [self._constant(g) for g in match.groups()]
        if None in ends:
            return False
        self.found.spans += [Span(None, str(ends[0]), str(ends[1])), Span(None, str(ends[2]), str(ends[3]))]
        return None

    def _may_vary(self, name: str) -> bool:
        return name not in ("a", "an", "I", "to", "of", "in", "is", "it", "at", "by", "on", "or", "as", "the", "my", "me", "us")

    def _span_of(self, variable: int, low: int, high: int, step: int = 0) -> Callable[[re.Match[str]], bool | None]:
        def take(match: re.Match[str]) -> bool | None:
            name = match.group(variable) if variable else None
            before = self.text[: match.start(variable)].rstrip() if variable else ""
            if name is not None and before[-1:] in tuple("+-*/^=<>") and before and not re.search(r"\d\s*[<≤]=?$", before):
                return False
            if name is not None and (not self._may_vary(name) or self.names.builtins.is_function(name)):
                return False
            ends = self._constant(match.group(low)), self._constant(match.group(high))
            width = self._constant(match.group(step)) if step else None
            if ends[0] is None or ends[1] is None or (step and width is None):
                return False
            self.found.spans.append(Span(name, ends[0], ends[1], width))
            return None

        return take

    def _plain_span(self, match: re.Match[str]) -> bool | None:
        """`on [0, 2]`; a list of two numbers alone is data."""
        if (
            re.search(r"\barrow\b|\bsegment\b|\bline\b", self.text, re.I)
            or self.text[: match.start()].strip(" ,¦") == ""
            or not self._has_formula_before(match.start())
        ):
            return False
        return self._span_of(0, 1, 2)(match)

    def _has_formula_before(self, place: int) -> bool:
        words = re.findall(r"[A-Za-z]\w*|\d", self.text[:place])
        keyword = re.match(r"\s*(?:on|over|in|within|range|interval|domain|window|limits|bounds|from)\b", self.text[place:], re.I)
        if (
            keyword
            or re.search(r"\b(?:range|interval|limits?|window|lim|bounds)\W*$", self.text[:place], re.I)
            or re.search(r"(?:lim|range)\s*,?\s*$", self.text[:place], re.I)
        ):
            return True
        letters = [w for w in words if len(w) == 1 and w.isalpha()]
        calls = re.search(r"\w\(", self.text[:place])
        data = any(self.names.find(w) is not None and getattr(self.names.find(w), "kind", "") in ("list", "table") for w in words)
        return bool(letters or calls) and not data

    def _half_line(self, _: str) -> Callable[[re.Match[str]], bool | None]:
        def take(match: re.Match[str]) -> bool | None:
            low = self._constant(match.group(2))
            if low is None:
                return False
            self.found.spans.append(Span(match.group(1), low, "infinity"))
            return None

        return take

    # ------------------------------------------------------------ places

    def _places(self) -> None:
        def place(match: re.Match[str]) -> bool | None:
            name, value = match.group(1), self._constant(match.group(2))
            if value is None or (name is not None and not self._may_vary(name)):
                return False
            if name is not None:
                self.found.variables.append(name)
            self.found.places.append(value)
            return None

        def near(match: re.Match[str]) -> bool | None:
            value = self._constant(match.group(2))
            if value is None:
                return False
            self.found.near.append(value)
            return None

        self._eat(rf"\bat\s+({_CHUNK})\s*,\s*({_CHUNK})\s*$", lambda m: self._pair_place(m), 1)
        self._eat(rf"\b(?:as\s+|when\s+|for\s+)?({_NAME})\s*(?:->|→|⟶|=>|tends to|goes to|approaches|going to)\s*({_CHUNK})", place)
        self._eat(
            (
                rf"\b(?:near|close to|nearest to|around|guess|start at|starting at|starting from|initial guess|initial "
                rf"value|start value|x0)\s*(?:=|of)?\s*(?:({_NAME})\s*=\s*)?({_CHUNK})"
            ),
            near,
        )
        self._eat(
            (
                rf"\b(?:at|when|where|for|if|in|about|centered at|centred at)\s+(?:the point\s+)"
                rf"?(?:({_NAME})\s*=)\s*({_CHUNK})(?=$|\s|,|¦|;|\))"
            ),
            place,
        )
        self._eat(rf"\b(?:at|about|around)\s+(?:the point\s+|point\s+)?()({_CHUNK})(?=$|\s|,|¦|;|\))", lambda m: self._bare_place(m))
        if not re.search(r"\bpoints\b|\bline\b|\barrow\b", self.text, re.I):
            self._eat(r"\b(?:at|to)\s*(\([^()]*,[^()]*\))", lambda m: self.found.places.append(m.group(1)))
        if len(re.findall(r"(?<![<>!=])=(?!=)", self.text)) < 2 and re.search(r"\w", self.text.split(",")[0]):
            self._eat(rf",\s*({_NAME})\s*=\s*({_CHUNK})\s*(?=$|,|¦|;)", lambda m: self._setting_or_place(m, place))

    def _pair_place(self, match: re.Match[str]) -> bool | None:
        """`at 1, 2` of a text or a mark."""
        pair = [self._constant(g) for g in match.groups()]
        if None in pair:
            return False
        self.found.places.append(f"({pair[0]}, {pair[1]})")
        return None

    def _bare_place(self, match: re.Match[str]) -> bool | None:
        value = self._constant(match.group(2))
        if value is None:
            return False
        self.found.places.append(value)
        return None

    def _setting_or_place(self, match: re.Match[str], place: Callable[[re.Match[str]], bool | None]) -> bool | None:
        name = match.group(1)
        if not self.names.looks_like_one(name) or name in ("lw", "ls", "ms", "mk"):
            return False
        return place(match)

    # ------------------------------------------------------------ dress

    def _dress(self) -> None:
        dress, number = self.found.dress, r"(\d+(?:\.\d+)?)"
        equals = r"\s*(?:=|:|to|,)?\s*"

        def keep(option: str, value: str | None = None) -> Callable[[re.Match[str]], None]:
            def take(match: re.Match[str]) -> None:
                dress.setdefault(option, value if value is not None else match.group(1))

            return take

        self._eat(rf"\b(?:line\s?width|width|thickness|line thickness|stroke|lw)\b{equals}{number}\s*(?:pt|px|points?)?", keep("width"), 1)
        self._eat(rf"\b{number}\s*(?:pt|px|points?)\s+(?:wide|thick)\b", keep("width"), 1)
        self._eat(rf"\b(?:marker\s?size|point size|dot size|size)\b{equals}{number}\s*(?:pt|px)?(?!\s*(?:mm|cm|by|x))", keep("size"), 1)
        self._eat(rf"\b(?:opacity|alpha)\b\s*[=:]?\s*{number}", keep("opacity"), 1)
        self._eat(r"\b(?:transparent|semi-?transparent|translucent)\b", keep("opacity", "0.5"), 1)
        colours = "|".join(sorted(_COLOURS, key=len, reverse=True))
        self._eat(
            (
                rf"\b(?:in\s+|with\s+)?(?:(?:line\s?)?colou?r(?:ed)?\b{equals}|with\s+)?(?:dark|"
                rf"light)?\s?({colours})\b(?:\s+(?:colou?r|line))?"
            ),
            self._colour,
            1,
        )
        self._eat(r"\bcolou?r\b\s*[=:]?\s*(#[0-9a-fA-F]{6})", self._colour_code, 1)
        if dress.get("colour") is None and self.found.texts:
            for text in list(self.found.texts):
                if text.lower() in _COLOURS and re.search(r"colou?r|¦", self.text, re.I):
                    dress["colour"] = text.lower()
                    self.found.texts.remove(text)
                elif text.lower() in _DASHES:
                    dress["dash"] = _DASHES[text.lower()]
                    self.found.texts.remove(text)
        for table, option in ((_DASHES, "dash"), (_WIDTHS, "width")):
            for word, value in table.items():
                self._eat(rf"\b(?:(?:line\s?style|dash|style)\b{equals})?\b{word}\b(?:\s+(?:line|lines))?", keep(option, value), 1)
        markers = "|".join(_MARKERS)
        self._eat(
            (
                rf"\b(?:with|as|using|markers?|symbols?)\b{equals}(?:an?\s+)?({markers}|dot|ring|square|triangle|"
                rf"diamond|cross|plus)\b(?:\s+(?:markers?|symbols?))?"
            ),
            self._marker, 1,
        )  # fmt: skip
        self._eat(r"\b(?:filled|fill(?:ed)?\s+(?:under|below|to zero)|with fill)\b", keep("fill", "true"), 1)

    def _colour_code(self, match: re.Match[str]) -> None:
        self.found.dress.setdefault("colour", f'"{match.group(1)}"')

    def _marker(self, match: re.Match[str]) -> None:
        word = match.group(1).lower()
        self.found.dress.setdefault("marker", _MARKERS.get(word, word))

    def _colour(self, match: re.Match[str]) -> None:
        self.found.dress.setdefault("colour", match.group(1).lower())

    # ------------------------------------------------------------ pairs

    def _against(self) -> None:
        """`ys vs xs`, `of ys over xs`: what stands up, and what it stands over."""
        match = re.search(r"\b(?:vs\.?|versus|against|as a function of|over)(?=\s)", self.text, re.I)
        if not match:
            return
        left, right = self._last_formula(self.text[: match.start()]), self._first_formula(self.text[match.end() :])
        if left is None or right is None:
            return
        self.found.against = left.text, right.text
        self.text = self.text[: match.start()] + " , " + self.text[match.end() :]

    def _last_formula(self, text: str) -> Formula | None:
        found = [f for _, f in self._runs(text)]
        return found[-1] if found else None

    def _first_formula(self, text: str) -> Formula | None:
        found = [f for _, f in self._runs(text)]
        return found[0] if found else None

    def _model(self) -> None:
        if not re.search(r"\bfit\w*|regress\w*|trend\w*|interpol\w*|poly\w*|model|calibrat\w*|best|adjust|through", self.text, re.I):
            return
        for model, said in _MODELS:
            match = re.search(rf"\b(?:{said})\b(?!\()", self.text, re.I)
            if match:
                self.found.model = model
                break

    # ------------------------------------------------------------ words and formulas

    def _words_and_formulas(self) -> None:
        for comma, clause in self._clauses():
            count = len(self.found.formulas)
            self._clause(clause)
            if comma:
                self.behind_comma.update(id(f) for f in self.found.formulas[count : count + 1])

    def _clauses(self) -> list[tuple[bool, str]]:
        """The sentence at its commas, bars and joining words, outside of brackets."""
        parts: list[tuple[bool, str]] = []
        depth = start = 0
        comma = False
        for match in re.finditer(r"[(\[{]|[)\]}]|[,;¦?!]|\b(?:and|with|then|together|plus also)\b(?=\s)", self.text):
            sign = match.group(0)
            if sign in "([{":
                depth += 1
            elif sign in ")]}":
                depth = max(depth - 1, 0)
            elif depth == 0:
                parts.append((comma, self.text[start : match.start()]))
                start, comma = match.end(), sign in ",;¦"
        parts.append((comma, self.text[start:]))
        return [p for p in parts if p[1].strip()]

    def _clause(self, clause: str) -> None:
        clause = self._meanings(clause)
        for _, formula in self._runs(clause):
            self.found.formulas.append(formula)

    def _meanings(self, clause: str) -> str:
        """Take the words that have a meaning out of a clause; formulas stay."""
        words = [
            (m.group(0), m.start(), m.end()) for m in re.finditer(r"(?<![\w.])(?:3-?[dD]\b|[A-Za-zα-ωΑ-Ω]\w*(?:-[A-Za-z]{2,})?)", clause)
        ]
        plain = [w for w, _, _ in words]
        at, spoiled = 0, list(clause)
        while at < len(words):
            word, start, end = words[at]
            found = meaning_at(plain, at)
            if found is not None:
                meaning, count = found
                span = words[at : at + count]
                apart = [clause[a:b] for (_, _, a), (_, b, _) in itertools.pairwise(span)]
                if all(not gap.strip(" -") for gap in apart) and all(
                    self._is_prose(clause, w, s, e, count > 1) for w, s, e in span if w not in "xyz"
                ):
                    self.found.meanings.append(meaning)
                    for k in range(start, span[-1][2]):
                        spoiled[k] = " "
                    at += count
                    continue
            if word in ("a", "A", "I") and self._is_prose(clause, word, start, end):
                spoiled[start] = " "
            elif self._is_prose(clause, word, start, end) and word.lower() not in FILLERS and not word.isdigit():
                self._unknown_word(word)
                for k in range(start, end):
                    spoiled[k] = " "
            at += 1
        return "".join(spoiled)

    def _unknown_word(self, word: str) -> None:
        if self.found.model is not None and any(re.fullmatch(said, word, re.I) for _, said in _MODELS):
            return
        pieces = taken_apart(word)
        if "polynomial" in pieces and self.found.model is None:
            self.found.model = "polynomial N"
        place = 0
        while place < len(pieces):
            found = meaning_at(pieces, place)
            if found is not None:
                self.found.meanings.append(found[0])
                place += found[1]
            else:
                place += 1
        if not pieces:
            self.found.loose.append(word)

    def _is_prose(self, clause: str, word: str, start: int, end: int, phrase: bool = False) -> bool:
        """Whether a word says something, rather than being a part of a formula."""
        before, after = clause[:start].rstrip(), clause[end:].lstrip()
        glued = clause[end : end + 1] == "("
        if self.names.find(word) is not None and not phrase:
            return False
        if glued and not phrase:
            return False
        beside = (before[-1:] in tuple("+-*/^=<>") and before[-1:] != "") or after[:1] in tuple("+-*/^=<>")
        negative = re.match(r"-\S", after) and clause[end : end + 1] == " " and before[-1:] not in tuple("+-*/^=<>") and len(word) > 2
        if beside and not phrase and not (negative and meaning_at([word], 0) is not None):
            return False
        if word in ("a", "A", "I") and re.match(r"[A-Za-z]{2,}", after):
            return True
        if self.names.builtins.is_function(word) and not phrase:
            # `sin x`, but `max of f`, `round the number`
            return meaning_at([word], 0) is not None and not re.match(r"\(", after)
        return len(word) > 1 and (phrase or not self.names.looks_like_one(word))

    def _runs(self, clause: str) -> list[tuple[int, Formula]]:
        """The formulas of a clause with their places: each the longest stretch between words that say something."""
        tokens = [(m.group(0), m.start(), m.end()) for m in re.finditer(r"[A-Za-zα-ωΑ-Ω_][\w]*|[\d.]+(?:e-?\d+)?|[^\s\w]", clause)]
        depth, stretches, current = 0, [], None
        for token, start, end in tokens:
            name = token[0].isalpha()
            if current is not None and depth == 0 and (name or token[0].isdigit()) and self._beside(clause, current[1], start, token):
                current = None
            prose = (
                name
                and depth == 0
                and (
                    (
                        token.lower() in FILLERS
                        and not self._operand(clause, start, end)
                        and not (len(token) == 1 and not re.match(r"\s*[A-Za-z]{2,}", clause[end:]))
                    )
                    or (self._is_prose(clause, token, start, end) and not self._operand(clause, start, end))
                )
            )
            depth += (token in "([{") - (token in ")]}")
            if prose or (token in ":?!" and depth == 0):
                current = None
                continue
            if current is None:
                stretches.append([start, end])
                current = stretches[-1]
            current[1] = end
        found = []
        for start, end in stretches:
            text = clause[start:end].strip(" ,.;:")
            if not text or not re.search(r"[\w)\]∞]", text):
                continue
            formula = read_formula(text, self.names)
            if formula is not None and isinstance(formula.inner, tree.ListOf) and formula.free and formula.kind == "list":
                inner = [read_formula(formula.text[i.start : i.end], self.names) for i in formula.inner.items]
                found += [(start, f) for f in inner if f is not None]
            elif formula is not None:
                found.append((start, formula))
        return found

    def _beside(self, clause: str, end: int, start: int, token: str) -> bool:
        """Whether a list, a table or a function stands beside what came before, with nothing but a blank between: no product is meant."""
        if clause[end:start] == "" or clause[end:start].strip() or clause[end - 1] in "+-*/^=<>(,":
            return False
        before = re.search(r"([^\W\d]\w*)$", clause[:end])
        either = [self.names.find(token), self.names.find(before.group(1)) if before else None]
        return any(known is not None and known.kind in ("list", "items", "table", "function") for known in either)

    def _operand(self, clause: str, start: int, end: int) -> bool:
        before, after = clause[:start].rstrip(), clause[end:].lstrip()
        return (before[-1:] in tuple("+-*/^=<>(") and before[-1:] != "") or after[:1] in tuple("+-*/^=<>")

    # ------------------------------------------------------------ what is left

    def _trailing_numbers(self) -> None:
        """`plot(f, 0, 10)`: two numbers behind a formula are its span, one is a place; a lone variable behind a formula is named so."""
        formulas = self.found.formulas
        if len(formulas) > 1 and not self.found.spans:
            numbers = [f for f in formulas if f.is_constant and (id(f) in self.behind_comma or self.found.called)]
            others = [f for f in formulas if not f.is_constant]
            rest = [f for f in formulas if f not in numbers]
            if others and numbers and not formulas[0].is_constant:
                if len(numbers) >= 2:
                    self.found.spans.append(Span(None, numbers[0].text, numbers[1].text))
                    if len(numbers) == 3:
                        third = numbers[2].text
                        self.found.numbers.setdefault("count" if third.isdigit() and int(third) > 4 else "step", third)
                    self.found.formulas = rest
                elif len(numbers) == 1 and not self.found.places:
                    self.found.places.append(numbers[0].text)
                    self.found.formulas = rest
        kept: list[Formula] = []
        for place, formula in enumerate(self.found.formulas):
            lone = formula.free == (formula.text,)
            if lone and formula.text in ("a", "A", "I") and len(self.found.formulas) > 1 and formula.text not in self.found.variables:
                continue
            if (
                lone
                and place
                and id(formula) in self.behind_comma
                and any(formula.text in f.free for f in self.found.formulas if f is not formula)
            ):
                self.found.variables.append(formula.text)
            else:
                kept.append(formula)
        self.found.formulas = kept
        if not kept and self.found.spans and self.found.spans[0].variable:
            # `sum k from 1 to 10`: the variable is the formula, too.
            one = read_formula(self.found.spans[0].variable, self.names)
            self.found.formulas = [one] if one is not None and one.free else []
        for span in self.found.spans:
            span.step = span.step or self.found.numbers.get("step")
            span.count = span.count or self.found.numbers.get("count")


def _balanced(text: str) -> bool:
    depth = 0
    for sign in text:
        depth += (sign in "([") - (sign in ")]")
        if depth < 0:
            return False
    return depth == 0
