"""Statements that cannot be read are answered by what was wanted: one message, with the sentence to write as a button.

A sentence is offered only if the script would have no mistake left in it, or at most one that its own button mends.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

from .. import tree
from ..builtins import Builtins
from ..checking.kinds import NUMBER, Known, Scope
from ..messages import Edit, Fix, Message
from ..syntax.parser import Reading
from ..vocabulary import NOUNS, STATEMENTS
from ..vocabulary.names import RESERVED, canonical_name
from ..vocabulary.options import is_option
from .asked import Asked, asked
from .formulas import Names
from .lexicon import meaning_at, taken_apart
from .mends import mends
from .sentences import Around, Line, Offer, offers, sure_offers
from .trial import Trial

MOST_MET = 12  # statements of one script that are answered so; whoever has more has another difficulty
MOST_OFFERS = 3
MOST_TRIED = 8
MOST_CHARACTERS = 400  # of a statement; longer ones are no first sentences


@dataclass(frozen=True)
class _Place:
    """A line with mistakes."""

    line: int
    start: int
    end: int
    text: str
    indent: str


def meet(reading: Reading, builtins: Builtins, scope: Scope) -> None:
    """Put one message in place of those of each line that says something else than the language can read."""
    lines: dict[int, list[Message]] = {}
    for message in reading.messages.in_order():
        if message.severity == "error":
            lines.setdefault(reading.source.line_of(message.start), []).append(message)
    for line, messages in list(lines.items())[:MOST_MET]:
        place = _place(reading, line)
        if place is None or _in_rows(reading, place):
            continue
        answer = _answer(reading, builtins, scope, place, messages)
        if answer is not None:
            reading.messages.put_in_place(messages, answer)
        else:
            _mend(reading, builtins, scope, place, messages[0])


def _mend(reading: Reading, builtins: Builtins, scope: Scope, place: _Place, first: Message) -> None:
    """Give a mistake that its own message has no button for one that mends it."""
    if any(f.edits for f in first.fixes):
        return
    names = Names(_scope_at(reading, scope, place), builtins)
    found = mends(reading, place.line, first, Trial(names, _around(reading, names, place).in_figure))
    if found:
        reading.messages.put_in_place([first], Message("error", first.code, first.start, first.end, first.text, tuple(found)))


def _in_rows(reading: Reading, place: _Place) -> bool:
    """Whether a line is a row of a table or a line of a note."""
    if not place.indent:
        return False
    text = reading.source.text
    for line in range(place.line - 1, 0, -1):
        above = text[reading.source.line_start(line) : reading.source.line_end(line)]
        if above.strip() and len(above) - len(above.lstrip()) < len(place.indent):
            return re.match(r"\s*(?:table|note)\b", above) is not None
    return False


def _place(reading: Reading, line: int) -> _Place | None:
    source = reading.source
    start, end = source.line_start(line), source.line_end(line)
    text = source.text[start:end].rstrip("\r")
    stripped = text.strip()
    if not stripped or len(stripped) > MOST_CHARACTERS:
        return None
    indent = text[: len(text) - len(text.lstrip())]
    return _Place(line, start + len(indent), start + len(indent) + len(stripped), stripped, indent)


def _answer(reading: Reading, builtins: Builtins, scope: Scope, place: _Place, messages: list[Message]) -> Message | None:
    first = messages[0]
    names = Names(_scope_at(reading, scope, place), builtins)
    unknown = _unknown_opening(place.text, names)
    if unknown is None and (first.code in _OWN or (first.code not in _OF_NAMES and _is_read(reading, place))):
        return None
    around = _around(reading, names, place)
    trial = Trial(names, around.in_figure)
    if _DIFFERENTIAL.search(place.text):
        text = "an equation for a function and its derivative is not solved by a request; a loop steps through it"
        return Message("error", "meant", place.start, place.end, text, (Fix("for k from 1 to 100: …, each pass a small step"),))
    compound = _compound(place, trial, around)
    if compound is not None:
        return Message("error", "meant", place.start, place.end, "one statement stands on a line", (_instead(compound, place),))
    said = asked(place.text, names)
    sure = [*([Offer(place.text, setting=True)] if first.code == "outside-figure" else []), *sure_offers(said, around)]
    tiers = [sure, *offers(said, around)]
    found: list[tuple[Fix, str]] = []
    if (
        first.code == "unknown-request"
        and " " not in reading.source.text[place.start : first.start].strip()
        and trial.finished(place.text, 1) is not None
    ):
        return None
    heads = _heads(place.text, said, around) if unknown is None else None
    kept = _kept(place, first, names) if heads is not None or first.code == "equation-alone" else frozenset()
    if heads is not None and " " in place.text:
        tiers.pop()  # no mere examples where something of one's own was begun
    for number, offered in enumerate(tiers):
        tier = [o for o in offered if not number or _says_the_same(o, place.text, heads, kept, said)]
        if (
            (number or first.code == "braces")
            and unknown is None
            and first.code not in _PARTLY
            and trial.finished(place.text, 2) is not None
        ):
            return None  # the buttons of its own messages do
        found = _that_do(tier, around, trial, reading, place)
        if found:
            break
    if not found:
        return _plainly(place, messages, unknown)
    fixes, why = tuple(f for f, _ in found), found[0][1]
    if why or (unknown is not None and first.code != "unknown-request") or first.code in _GENERAL:
        text = (
            why
            or (f"'{unknown}' begins no sentence here" if unknown is not None else "this cannot be read") + "; what is meant is written so"
        )
        return Message("error", "meant", place.start, place.end, why or text, fixes)
    if first.code == "space-multiplies-not":
        fixes += first.fixes  # a blank that multiplies is the smaller part of what is amiss
    return Message("error", first.code, first.start, first.end, first.text, fixes)


# What may stand for a word of ours that was used for something else.
_INSTEAD = {"curve": ("surface",), "return": ("show",), "points": ("line",), "simplification": ("series",), "section": ("part",)}
_OPENING = RESERVED | frozenset(
    "table tune compare figure panel inset part note mark text legend gridlines title caption view style".split()
) | frozenset(NOUNS)  # fmt: skip


def _heads(text: str, said: Asked, around: Around) -> frozenset[str] | None:
    """The words of ours of which one must stand in what is offered, since the sentence begins with one; None where it begins otherwise.

    Of a definition the name with its sign of equality.
    """
    stronger = {m.name for m in said.meanings if m.kind == "noun"}
    match = re.match(r"([^\W\d]\w*)\s*(?:\([\w, ]*\))?\s*(?::=|=(?!=))", text)
    if match:
        return None if stronger or said.means("draw") or said.dress else frozenset((f"{match.group(1)} =",))
    if re.match(r"[xyz] axis\b", text):
        return frozenset(("axis",))
    opening = re.match(r"([^\W\d]\w*)", text)
    word = opening.group(1) if opening is not None else ""
    if word not in _OPENING or around.names.find(word) is not None or word == "when" or (word == "define" and "=" in text):
        return None
    if word == "show" and any(m.kind == "setting" or m.name in ("gridlines", "legend", "title") for m in said.meanings):
        return None
    if word == "compare" and not around.fits:
        return None
    drawn = ("curve", "surface", "points") if said.means("draw") else ()
    return frozenset((word, *_INSTEAD.get(word, ()), *stronger, *drawn))


def _kept(place: _Place, first: Message, names: Names) -> frozenset[str]:
    """The numbers, names and options of a sentence that what is offered may not lose; what is wrong itself may go."""
    text = place.text
    if text.startswith("for"):
        return frozenset()  # the ends of other languages' loops are counted otherwise
    if first.code in ("option-word", "unknown-option"):
        start, end = max(first.start - place.start, 0), max(min(first.end, place.end) - place.start, 0)
        text = text[:start] + " " + text[end:]
    text = re.sub(r'"[^"]*"|\[[a-zA-Zµ°/^\d]+\]', " ", text)
    found = set(re.findall(r"(?<![\w.])\d+(?:\.\d+)?", text))
    named = set(re.findall(r"\b([a-zA-Z]\w?)\s*=(?!=)", text)) | {"a", "A", "I", "lambda", text.split(" ")[0]}
    for word in re.findall(r"(?<![\w.])[^\W\d]\w*", text):
        if (names.looks_like_one(word) and word not in named) or word in ("when", "otherwise", "not", "or", "join", "if"):
            found.add(word)
    found |= {w for w in re.findall(r",\s*([^\W\d]\w*)", text) if is_option(w)}
    return frozenset(found)


def _says_the_same(offer: Offer, text: str, heads: frozenset[str] | None, kept: frozenset[str], said: Asked) -> bool:
    """Whether what is offered is still what was begun: by its word, with all its numbers and names."""
    if text.endswith(":") and not offer.text.endswith(":") and (heads is not None or said.means("if", "for", "while", "define")):
        return False
    if not offer.text:
        return heads is None
    if offer.option:
        return True
    if heads is not None and heads & {"for", "while", "if", "else"} and not offer.text.startswith(tuple(heads)):
        return False
    written = re.sub(r'"[^"]*"', " ", f"{offer.above}\n{offer.text}")
    words = set(re.findall(r"[^\W\d]\w*|\d+(?:\.\d+)?", written))
    begun = heads is None or any(re.search(rf"(?m)^\s*{h[:-2]}\s*[(=]", written) if h.endswith(" =") else h in words for h in heads)
    return begun and kept <= words


def _is_read(reading: Reading, place: _Place) -> bool:
    """Whether the statement could be read, so that its mistake is one of what it says."""
    line_of = reading.source.line_of
    return any(isinstance(n, tree.Statement) and line_of(n.start) == place.line for n in _statements(reading.script))


def _statements(node: tree.Script | tree.Statement) -> Iterator[tree.Statement]:
    for child in tree.children(node):
        if isinstance(child, tree.Statement):
            yield child
            yield from _statements(child)


_DIFFERENTIAL = re.compile(r"\bd([a-z])\s*/\s*d[a-z]\s*=|^[a-z]\s*'+\s*(?:\([a-z]\))?\s*[-+=]|differential equation", re.I)


def _compound(place: _Place, trial: Trial, around: Around) -> str | None:
    """`a = 2; plot a*x` and `if a > 2 then show a`: each part as a sentence of its own."""
    text = place.text
    head = re.match(r"((?:else\s+if|if|while)\b.+?)\s*(?:\bthen\b|:)\s*(\S.*)$|(for\s.+?)\s*(?:\bdo\b|:)\s*(\S.*)$", text)
    if head:
        opening, rest = (head.group(1), head.group(2)) if head.group(1) else (head.group(3), head.group(4))
        first = _sentence(opening + ":", trial, around) if re.match(r"[^\W\d]", rest) else None
        first = first if first is not None and first.endswith(":") else None
        inner = _sentence(rest, _within(first, trial), around) if first is not None else None
        return f"{first}\n    {inner}" if first is not None and inner is not None and "\n" not in inner else None
    parts = [p.strip() for p in re.split(r";(?=(?:[^\"]*\"[^\"]*\")*[^\"]*$)", text) if p.strip()]
    if len(parts) < 2 or not all(re.match(r"[^\W\d]", p) for p in parts):
        return None
    lines: list[str] = []
    for part in parts:
        sentence = _sentence(part, trial, around)
        if sentence is None:
            return None
        lines.append(sentence)
        trial = Trial(Names(trial.scope_after(sentence), trial.names.builtins), trial.in_figure)
    return "\n".join(lines)


def _within(head: str | None, trial: Trial) -> Trial:
    """The place inside of a block."""
    match = re.match(r"for\s+([^\W\d]\w*)", head or "")
    if not match:
        return trial
    return Trial(Names(Scope({canonical_name(match.group(1)): NUMBER}, trial.names.scope), trial.names.builtins), trial.in_figure)


def _sentence(text: str, trial: Trial, around: Around) -> str | None:
    """One part of a line as a sentence without mistakes."""
    if not trial.errors(text):
        return text
    around = replace(around, names=trial.names, functions=(*trial.functions(), *around.functions))
    said = asked(text, trial.names)
    for tier in (sure_offers(said, around), *offers(said, around)):
        for offer in tier[:MOST_TRIED]:
            found = trial.finished(offer.text) if offer.text and not offer.option and not offer.setting else None
            if found is not None:
                return found
    return None


def _that_do(tier: list[Offer], around: Around, trial: Trial, reading: Reading, place: _Place) -> list[tuple[Fix, str]]:
    """The offers of a tier after which no mistake is left, as buttons."""
    found: list[tuple[Fix, str]] = []
    for offer in tier[:MOST_TRIED]:
        fix = _fix(offer, around, trial, reading, place)
        if fix is not None and all(f.label != fix.label for f, _ in found):
            found.append((fix, offer.why))
            if len(found) == MOST_OFFERS:
                break
    return found


def _plainly(place: _Place, messages: list[Message], unknown: str | None) -> Message | None:
    """Nothing can be offered: at least no product with an unknown word is."""
    wrong = [m for m in messages if m.code in ("no-sign-between", "space-multiplies-not")]
    if unknown is None or not (wrong or re.fullmatch(r"\w{3,}\W*", place.text)):
        return None
    text = f"'{unknown}' is no word that begins a sentence"
    advice = "curve of …, roots of …, points of … against …, show …; the handbook finds the word for what you want"
    return Message("error", "meant", place.start, place.start + len(unknown), text, (Fix(advice),))


# Mistakes whose own message is better than any guess: the person writes the language.
_OWN = frozenset(
    (
        "reserved-word", "protected-name", "bracket-not-closed", "open-quote", "too-deep", "too-long", "number-or-name", "which-log",
        "two-readings", "lists-compared", "against-several", "no-column", "lengths", "infinity", "tab", "indent",
        "else-without-if", "empty-figure", "figure-name", "figure-in-figure", "said-twice", "block", "unit-place",
        "two-names",
    )
)  # fmt: skip
# Mistakes in statements that could be read, behind which another wish may stand: a word or a variable was taken for a name.
_OF_NAMES = frozenset(
    ("unknown-name", "outside-figure", "condition-needed", "point", "argument-count", "compare", "return-outside", "implicit-window")
)
# Mistakes whose own text says nothing about what was wanted.
_GENERAL = frozenset(("no-sign-between", "does-not-fit", "condition-needed", "colon"))
# Mistakes whose own button is the first of several steps, or the wrong one.
_PARTLY = frozenset(("request-of", "equation-alone", "definition", "unknown-request"))


def _unknown_opening(text: str, names: Names) -> str | None:
    """The first word of a statement, if it opens none and is no name."""
    match = re.match(r"([^\W\d]\w*)", text)
    if match is None:
        return None
    word = match.group(1)
    if word in RESERVED or names.find(word) is not None or word in NOUNS or word in STATEMENTS:
        return None
    rest = text[match.end() :]
    if names.builtins.is_function(word) or names.builtins.is_constant(word) or re.match(r"\s*(?:\([\w, ]*\))?\s*=(?!=)", rest):
        return None
    signed = re.match(r"\s+-\S", rest) and meaning_at([word], 0) is not None
    if len(word) == 1 or (re.match(r"\s*[-+*/^]", rest) and not signed):
        return None
    if rest.startswith("(") and meaning_at([word], 0) is None and not taken_apart(word):
        return None
    return word


# ---------------------------------------------------------------- what surrounds the line

_BINDS = re.compile(r"\s*(?:for\s+([^\W\d]\w*)\s+(?:from|in)\b|define\s+[^\W\d]\w*\(([^)]*)\))")


def _scope_at(reading: Reading, scope: Scope, place: _Place) -> Scope:
    """The names of the script, without those of the line itself, with those of the blocks around it."""
    names = {n: k for n, k in scope.names.items() if k.kind != "broken" or k.line != place.line}
    depth, source = len(place.indent), reading.source
    for line in range(place.line - 1, 0, -1):
        if not depth:
            break
        text = source.text[source.line_start(line) : source.line_end(line)]
        indent = len(text) - len(text.lstrip())
        if not text.strip() or indent >= depth:
            continue
        depth = indent
        match = _BINDS.match(text)
        if match:
            for name in (match.group(1) or match.group(2) or "").split(","):
                if name.strip():
                    names[canonical_name(name.strip())] = NUMBER
    # Names that a block has given a value, further up.
    for line in range(max(place.line - 40, 1), place.line):
        text = source.text[source.line_start(line) : source.line_end(line)]
        match = re.match(r"\s+([^\W\d]\w*)\s*=(?!=)", text)
        if match and place.indent and canonical_name(match.group(1)) not in names:
            names[canonical_name(match.group(1))] = Known("any", line)
    return Scope(names)


def _around(reading: Reading, names: Names, place: _Place) -> Around:
    functions: list[tuple[int, str]] = []
    lists: list[tuple[int, str]] = []
    tables: list[tuple[int, str]] = []
    findings: list[tuple[int, str]] = []
    fits: list[tuple[int, str]] = []
    for name, known in names.scope.names.items():
        if known.kind == "function":
            functions.append((known.line, name))
            if known.fitted:
                fits.append((known.line, name))
        elif known.kind in ("list", "items"):
            lists.append((known.line, name))
        elif known.kind == "table":
            tables.append((known.line, name))
        elif known.kind == "finding":
            findings.append((known.line, name))
    drawing = figure = None
    in_figure = False
    for statement in reading.script.statements:
        if isinstance(statement, tree.Figure):
            if statement.start <= place.start and (place.indent and place.start <= _block_end(reading, statement)):
                in_figure = True
            elif statement.start < place.start or figure is None:
                figure = Line(reading.source.text[statement.start : statement.end], statement.start, statement.end, figure=True)
        if isinstance(statement, tree.Bare) and isinstance(statement.expression, tree.Request) and NOUNS[statement.expression.noun].draws:
            line = reading.source.line_of(statement.start)
            if line != place.line and (statement.start < place.start or drawing is None):
                drawing = Line(reading.source.text[statement.start : statement.end], statement.start, statement.end, draws=True)
    if in_figure:
        inner = [
            s
            for f in reading.script.statements
            if isinstance(f, tree.Figure) and f.start <= place.start
            for s in tree.walk(f)
            if isinstance(s, tree.Bare) and isinstance(s.expression, tree.Request) and s.start < place.start
        ]
        drawing = Line(reading.source.text[inner[-1].start : inner[-1].end], inner[-1].start, inner[-1].end, draws=True) if inner else None

    def latest(found: list[tuple[int, str]]) -> tuple[str, ...]:
        return tuple(n for _, n in sorted(found, key=lambda f: -f[0]))

    return Around(names, latest(functions), latest(lists), latest(tables), latest(findings), latest(fits), drawing, figure, in_figure)


def _block_end(reading: Reading, figure: tree.Figure) -> int:
    """Where a figure's block ends, its lines that cannot be read included."""
    source = reading.source
    last = source.line_of(figure.start)
    for line in range(last + 1, source.line_count + 1):
        text = source.text[source.line_start(line) : source.line_end(line)]
        if text.strip() and not text.startswith(" "):
            break
        last = line
    return source.line_end(last)


# ---------------------------------------------------------------- the button


def _fix(offer: Offer, around: Around, trial: Trial, reading: Reading, place: _Place) -> Fix | None:
    if offer.option:
        return _option_fix(offer.text, around, trial, place, reading)
    if offer.setting and not around.in_figure:
        return _setting_fix(offer, around, trial, place, reading)
    if not offer.text:
        if not offer.why:
            return None
        return Fix("take the line out", (_whole_line(reading, place),))
    if around.in_figure and offer.text.startswith("figure"):
        return None
    text = trial.finished(offer.text)
    if text is None or text == place.text:
        return None
    return _instead(text, place)


def _instead(text: str, place: _Place) -> Fix:
    indented = text.replace("\n", "\n" + place.indent)
    return Fix(_label(text), (Edit(place.start, place.end, indented),))


def _label(text: str) -> str:
    return " ⏎ ".join(line.strip() for line in text.split("\n"))


def _whole_line(reading: Reading, place: _Place) -> Edit:
    source = reading.source
    start, end = source.line_start(place.line), source.line_end(place.line)
    end = min(end + 1, len(source.text))
    if end == len(source.text) and start > 0 and source.text[end - 1 : end] != "\n":
        start -= 1
    return Edit(start, end, "")


def _option_fix(said: str, around: Around, trial: Trial, place: _Place, reading: Reading) -> Fix | None:
    """The drawing above with an option more; this line goes."""
    if around.drawing is None:
        # A figure with one drawing may be meant.
        return None
    kept = around.drawing.text
    text = trial.finished(f"{kept}, {said}", 1)
    if text is None or around.drawing.start > place.start:
        return None
    return Fix(_label(text), _replaced(around.drawing, text, reading, place))


def _replaced(drawing: Line, text: str, reading: Reading, place: _Place) -> tuple[Edit, ...]:
    """A drawing above put otherwise, without this line. Edits do not touch each other."""
    gone = _whole_line(reading, place)
    if gone.start <= drawing.end <= gone.end:
        return (Edit(drawing.start, gone.end, text),)
    return (Edit(drawing.start, drawing.end, text), gone)


def _setting_fix(offer: Offer, around: Around, trial: Trial, place: _Place, reading: Reading) -> Fix | None:
    """The figure above with a line more, or the drawing above in a figure of its own; this line goes."""
    lines = "".join(f"\n    {line}" for line in offer.text.split("\n"))
    above = offer.above + "\n" if offer.above else ""
    figure, drawing = around.figure, around.drawing
    if figure is not None and (drawing is None or drawing.start < figure.start):
        tried = trial.finished(above + figure.text.rstrip() + lines, 1)
        if tried is None:
            return None
        end = figure.start + len(figure.text.rstrip())
        gone = _whole_line(reading, place)
        # Edits do not touch each other: where the line follows at once, it is replaced.
        edits = (Edit(end, gone.end, lines),) if gone.start <= end else (Edit(end, end, lines), gone)
        return Fix(_label(f"{above}figure …:{lines}"), ((Edit(figure.start, figure.start, above), *edits) if above else edits))
    if drawing is None:
        drawn = trial.finished(f"{above}figure:\n    curve of x^2 for x from -2 to 2{lines}")
        return _instead(drawn, place) if drawn is not None else None
    kept = drawing.text.replace("\n", "\n    ")
    tried = trial.finished(f"{above}figure:\n    {kept}{lines}", 2)
    if tried is None:
        return None
    return Fix(_label(tried), _replaced(drawing, tried, reading, place))
