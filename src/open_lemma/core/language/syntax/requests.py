"""Reading requests: `NOUN of SUBJECT for VAR from LOW to HIGH, option value, option value`."""

from __future__ import annotations

from .. import tree
from ..messages import advise, replace
from ..nearness import nearest
from ..vocabulary import NOUNS, OPTIONS
from ..vocabulary.names import LIKELY_MEANT, RESERVED, canonical_name
from ..vocabulary.options import OPTION_WORDS, is_option, option_of
from .expressions import ExpressionReader
from .tokens import Kind, Token


class RequestReader(ExpressionReader):
    def request(self) -> tree.Request:
        """`NOUN of SUBJECT for ..., options`, by the shape of the noun."""
        noun_token = self.take()
        noun = NOUNS[noun_token.text]
        self.take()  # of
        subjects: list[tree.Expression]
        against: tree.Expression | None = None
        to: tree.Expression | None = None
        if noun.shape == "pair":
            subjects = [self.sum()]
            self.need_word("and", "second-curve", f"{noun.name} needs two curves", advise(f"{noun.name} of f(x) and g(x)"))
            subjects.append(self.sum())
            if noun.name == "crossings" and self.take_word("against"):
                against = self.sum()
        elif noun.shape == "one or pair":
            subjects = [self.sum()]
            if self.take_word("and"):
                subjects.append(self.sum())
        elif noun.shape == "equations":
            subjects = [self.expression()]
            while self.take_sign(","):
                subjects.append(self.expression())
            if not self.token.is_word("for"):
                self.refuse("solve-for", "say what to solve for", advise("for x"))
        elif noun.shape in ("against", "data"):
            subjects = [self.sum()]
            against = self._against(noun.shape == "data", subjects[0])
        elif noun.shape == "fit":
            subjects = [self._model()]
            self.need_word("to", "fit-to", "say which data the model is fitted to", advise("to YS against XS"))
            to = self.sum()
            self.need_word("against", "against", "the data to go against is missing", advise("against XS"))
            against = self.range()
        elif noun.shape == "surface":
            subjects = [self._several()]
            if self.take_word("against"):
                against = self.range()
        else:
            subjects = [self._several()]
            if self.token.is_word("when"):
                self.refuse(
                    "piecewise-subject",
                    "a piecewise formula as a subject stands in brackets",
                    advise(f"{noun.name} of (... when ..., otherwise ...)"),
                )
        windows, options = self._tail()
        end = self.before.end
        return tree.Request(noun_token.start, end, noun.name, tuple(subjects), against, to, windows, options)

    def _several(self) -> tree.Expression:
        """`f(x), g(x) for x …`: what stands between commas in front of `for` is meant as a list, one each."""
        first = self.expression()
        items = [first]
        while self.token.is_sign(",") and self._at_subject():
            self.take()
            items.append(self.expression())
        return first if len(items) == 1 else tree.ListOf(first.start, items[-1].end, tuple(items))

    def _at_subject(self) -> bool:
        """Whether a formula follows the comma: it begins like one, and `for` comes before the line ends."""
        token, following = self.ahead(), self.ahead(2)
        if token.kind is Kind.NAME:
            begins = (
                token.text not in RESERVED and not is_option(token.text) and following.kind in (Kind.SIGN, Kind.PRIME, Kind.SUPERSCRIPT)
            )
            begins = (begins and not following.is_sign("=")) or following.is_word("for")
        else:
            begins = token.kind is Kind.NUMBER or token.is_sign("(", "-", "√")
        place, depth = self.at + 1, 0
        while begins and not self.at_line_end(self.tokens[place]):
            one = self.tokens[place]
            depth += one.is_sign("(", "[") - one.is_sign(")", "]")
            if depth < 0:
                return False
            if depth == 0 and one.is_word("for"):
                return True
            place += 1
        return False

    def _against(self, may_be_missing: bool, subject: tree.Expression) -> tree.Expression | None:
        if self.take_word("against"):
            return self.range()
        points = isinstance(subject, tree.ListOf) and all(isinstance(i, tree.PointOf) for i in subject.items)
        # A name or a call may stand for a list of points; the checker knows.
        named = isinstance(subject, tree.Comprehension | tree.Name | tree.Call | tree.Index | tree.Field | tree.Group)
        if may_be_missing and (points or named) and (self.at_line_end() or self.token.is_sign(",")):
            return None
        if self.at_line_end() or self.token.is_sign(",") or self.token.is_word("for"):
            self.refuse("against", "the data to go against is missing", advise("against XS"))
        self.stray()

    def _model(self) -> tree.Expression:
        if self.token.is_word("polynomial") and self.ahead().kind is Kind.NUMBER:
            word, degree = self.take(), self.take()
            name = tree.Name(word.start, word.end, "polynomial", "polynomial")
            return tree.Call(word.start, degree.end, name, (tree.Number(degree.start, degree.end, degree.text),))
        return self.sum()

    # ------------------------------------------------------------ windows and options

    def _tail(self) -> tuple[tuple[tree.Window, ...], tuple[tree.Option, ...]]:
        windows: list[tree.Window] = []
        options: list[tree.Option] = []
        if self.take_word("for"):
            windows.append(self.window())
        while self.token.is_sign(","):
            comma = self.take()
            if self.at_option(bool(windows)):
                options.append(self.option())
            elif windows and not options and self._at_window():
                windows.append(self.window())
            else:
                self._bad_tail(comma)
        if self.token.is_word("for"):
            self.refuse("for-late", "'for' comes before the options", advise("move it in front of the first comma"))
        return tuple(windows), tuple(options)

    def _at_window(self) -> bool:
        if self.token.kind is not Kind.NAME or self.token.text in RESERVED:
            return False
        following = self.ahead()
        return following.is_word("from", "in") or following.is_sign(",", ")", "]") or self.at_line_end(following)

    def at_option(self, window_before: bool) -> bool:
        """Whether an option begins here; window_before: whether a variable could stand here, too."""
        token, following = self.token, self.ahead()
        if token.kind is not Kind.NAME or not is_option(token.text) or following.is_word("from", "in"):
            return False
        ended = following.is_sign(",", ")", "]") or self.at_line_end(following)
        return not (window_before and ended) or is_option(token.text, "choice") or token.text in ("width", "colour", "opacity", "label")

    def _bad_tail(self, comma: Token, what: str = "request") -> None:
        token, following = self.token, self.ahead()
        if comma.carries_on and (token.text in RESERVED or following.is_sign("=", "(")):
            self.stray()
        if token.kind is not Kind.NAME:
            self.refuse("option", "after a comma comes an option: a word and its value")
        if following.is_sign("."):
            self.refuse(
                "against-several", f"'{token.text}' is not an option of this {what}; data of several variables stand in brackets",
                advise("against (xs, ys)"),
            )  # fmt: skip
        meant = LIKELY_MEANT.get(token.text) or nearest(token.text, OPTION_WORDS)
        fixes = [replace(token.start, token.end, meant)] if meant else []
        self.refuse("unknown-option", f"'{token.text}' is not an option of this {what}", *fixes)

    def options(self) -> tuple[tree.Option, ...]:
        """Options of a statement that is no request: each after a comma."""
        found = []
        while self.token.is_sign(","):
            comma = self.take()
            if not self.at_option(False):
                self._bad_tail(comma, "statement")
            found.append(self.option())
        return tuple(found)

    def option(self) -> tree.Option:
        """A word of the options with its value."""
        word = self.take()
        name, kind = word.text, option_of(word.text).kind
        if kind == "colour":
            self._colour_without_quotes()
        if self.at_line_end() or self.token.is_sign(",", ")", "]"):
            self.refuse("option-value", f"option '{name}' needs a value", advise(f"{name} ..."), token=word)
        if kind == "choice":
            return self._word_option(word)
        if kind == "unit":
            if not self.token.is_sign("["):
                self.refuse("unit", "a unit stands in square brackets", advise(f"{name} [m/s]"))
            unit = self.unit_in_brackets()
            return tree.Option(word.start, self.before.end, name, unit)
        if kind in ("parameter", "parameter span"):
            parameter = self.need_name(f"'{name}' names a parameter")
            fix = advise(f"{name} {parameter.text} = ...")
            if self.token.is_word("from"):
                fix = replace(self.token.start, self.token.end, "=")
            self.need_sign("=", "parameter-value", f"'{name}' gives a value to a parameter", fix)
            value = self.range()
            return tree.Option(word.start, value.end, name, value, parameter=canonical_name(parameter.text))
        if kind == "colour":
            return self._colour(word)
        value = self.expression() if kind in ("text", "condition", "place") else self.range()
        return tree.Option(word.start, value.end, name, value)

    def _word_option(self, word: Token) -> tree.Option:
        value_token = self.token
        known = OPTIONS[word.text].choices
        value = self.need_plain_word()
        if value not in known:
            meant = nearest(value, known) or (next((k for k in known if k.startswith(value)), None))
            fixes = [replace(value_token.start, self.before.end, meant)] if meant else []
            self.refuse_span(
                "option-word", f"{word.text} is one of {', '.join(known)}; not '{value}'", value_token.start, self.before.end, *fixes
            )
        return tree.Option(word.start, self.before.end, word.text, value)

    def _colour_without_quotes(self) -> None:
        """`#aa3300` without quotes reads as a comment, so the line seems to end after `colour`."""
        hash_at = self.before.end
        while hash_at < len(self.text) and self.text[hash_at] == " ":
            hash_at += 1
        code = self.text[hash_at : hash_at + 7]
        if len(code) == 7 and code[0] == "#" and all(c in "0123456789abcdefABCDEF" for c in code[1:]):
            self.refuse_span(
                "colour-quotes", "a colour given by its code stands in quotes; # alone starts a comment", hash_at, hash_at + 7,
                replace(hash_at, hash_at + 7, f'"{code}"'),
            )  # fmt: skip

    def _colour(self, word: Token) -> tree.Option:
        if self.take_word("by"):
            value = self.expression()
            return tree.Option(word.start, value.end, "colour", value, by=True)
        if self.token.kind is Kind.TEXT:
            text = self.take()
            return tree.Option(word.start, text.end, "colour", text.text[1:-1])
        if self.token.is_sign("[", "("):
            value = self.expression()
            return tree.Option(word.start, value.end, "colour", value)
        value_word = self.need_plain_word()
        return tree.Option(word.start, self.before.end, "colour", value_word)

    def window(self) -> tree.Window:
        """`NAME from LOW to HIGH`, `NAME in LIST` or a bare name."""
        name = self.need_name("a variable must follow 'for'")
        start, plain = name.start, canonical_name(name.text)
        if self.take_word("from"):
            low = self.sum()
            self.need_word("to", "window-high", "the high end of the span is missing", advise("to HIGH"))
            high = self.sum()
            if self.take_word("step"):
                step = self.sum()
                return tree.Window(start, step.end, plain, name.end, low, high, step=step)
            if self.take_word("count"):
                count = self.sum()
                return tree.Window(start, count.end, plain, name.end, low, high, count=count)
            return tree.Window(start, high.end, plain, name.end, low, high)
        if self.token.is_word("in"):
            word = self.take()
            values = self.expression()
            if isinstance(values, tree.Range) and values.step is None and values.count is None:
                self.refuse_span(
                    "in-span", "a span is gone through with 'from'; 'in' goes through a list", word.start, word.end,
                    replace(word.start, word.end, "from"),
                )  # fmt: skip
            return tree.Window(start, values.end, plain, name.end, values=values)
        token = self.token
        if token.kind is Kind.NUMBER or token.is_sign("(", "-"):
            self.refuse(
                "window-from",
                "the span of the variable lacks a word",
                replace(token.start, token.start, "from ", f"for {name.text} from {token.text} ..."),
            )
        return tree.Window(start, name.end, plain, name.end)
