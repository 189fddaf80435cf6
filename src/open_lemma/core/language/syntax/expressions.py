"""Reading expressions: arithmetic as on paper, and a refusal where paper would leave two readings.

Precedence, loosest first: or · and · not · comparisons · join · to · + − · * / · sign · products without a sign · ^.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Callable
from typing import NoReturn

from .. import tree
from ..intent.lexicon import request_meant
from ..messages import Fix, advise, replace
from ..vocabulary import NOUNS
from ..vocabulary.names import RESERVED
from ..vocabulary.options import is_option
from .cursor import Cursor, StopReading
from .tokens import Kind, Token

_COMPARISONS = ("<", ">", "<=", ">=", "!=", "=")
_ENDS = frozenset(",)]")
_OPERAND_ENDS = _ENDS | frozenset("+-*/")
_SUPERSCRIPT_DIGITS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺", "0123456789-+")
_LIST_OPERATORS = {".*": "*", "./": "/", ".^": "^"}
MAX_DEPTH = 60  # brackets within brackets; beyond that a script is no longer meant for people
MOST_RUN = 100  # terms or factors that are read one onto the other; longer sums and products are made of such runs


class ExpressionReader(Cursor):
    depth = 0

    # ------------------------------------------------------------ truth

    def expression(self) -> tree.Expression:
        """An expression of any kind, conditions too."""
        lone = self._lone(_ENDS)
        if lone is not None:
            return lone
        return self._inside(self._condition)

    def _inside(self, read: Callable[[], tree.Expression]) -> tree.Expression:
        """What is read by calling the reader again: brackets, signs, powers. Depth is limited, for here and for all that follows."""
        self.depth += 1
        if self.depth > MAX_DEPTH:
            self.depth = 0
            self.refuse("too-deep", f"more than {MAX_DEPTH} brackets or signs stand inside each other", advise("give parts names"))
        try:
            return read()
        finally:
            self.depth = max(self.depth - 1, 0)

    def _condition(self) -> tree.Expression:
        operands = [self._conjunction()]
        while self.take_word("or"):
            operands.append(self._conjunction())
        return operands[0] if len(operands) == 1 else tree.Logical(operands[0].start, operands[-1].end, "or", tuple(operands))

    def _conjunction(self) -> tree.Expression:
        operands = [self._negation()]
        while self.take_word("and"):
            operands.append(self._negation())
        return operands[0] if len(operands) == 1 else tree.Logical(operands[0].start, operands[-1].end, "and", tuple(operands))

    def _negation(self) -> tree.Expression:
        word = self.take_word("not")
        if word:
            operand = self._inside(self._negation)
            return tree.Logical(word.start, operand.end, "not", (operand,))
        first = self._joined()
        operands, signs = [first], []
        while self.token.is_sign(*_COMPARISONS):
            signs.append(self.take().text)
            operands.append(self._joined())
        if not signs:
            return first
        return tree.Comparison(first.start, operands[-1].end, tuple(operands), tuple(signs))

    def _joined(self) -> tree.Expression:
        first = self.range()
        if not self.token.is_word("join"):
            return first
        parts = [first]
        while self.take_word("join"):
            parts.append(self.range())
        return _in_runs(parts, lambda a, b: tree.Join(a.start, b.end, a, b))

    def range(self) -> tree.Expression:
        """A sum, or `LOW to HIGH` with a step or a count."""
        low = self.sum()
        if not self.take_word("to"):
            return low
        high = self.sum()
        if self.take_word("step"):
            step = self.sum()
            return tree.Range(low.start, step.end, low, high, step=step)
        if self.take_word("count"):
            count = self.sum()
            return tree.Range(low.start, count.end, low, high, count=count)
        return tree.Range(low.start, high.end, low, high)

    def pieces_or_expression(self) -> tree.Expression:
        """An expression, or `VALUE when CONDITION, ... otherwise VALUE`."""
        value = self.expression()
        if not self.token.is_word("when"):
            return value
        start = value.start
        pieces: list[tuple[tree.Expression, tree.Expression]] = []
        while True:
            self.need_word("when", "piece", "a piece needs its condition; the last one has 'otherwise' in front", advise("when ..."))
            condition = self.expression()
            pieces.append((value, condition))
            if not (self.token.is_sign(",") and self._piece_follows()):
                return tree.Pieces(start, condition.end, tuple(pieces), None)
            self.take()
            if self.take_word("otherwise"):
                last = self.expression()
                return tree.Pieces(start, last.end, tuple(pieces), last)
            value = self.expression()

    def _piece_follows(self) -> bool:
        """After the comma: another piece, or already an option of the request around it."""
        if self.ahead().is_word("otherwise"):
            return True
        place, depth = self.at + 1, 0
        while not self.at_line_end(self.tokens[place]):
            token = self.tokens[place]
            if token.is_sign("(", "["):
                depth += 1
            elif token.is_sign(")", "]"):
                depth -= 1
            if depth < 0 or (depth == 0 and token.is_sign(",")):
                return False
            if depth == 0 and token.is_word("when"):
                return True
            place += 1
        return False

    # ------------------------------------------------------------ arithmetic

    def sum(self) -> tree.Expression:
        """Terms joined by + and -."""
        left = self._product()
        runs, length = [], 1
        while self.token.is_sign("+", "-"):
            sign = self.take()
            right = self._product()
            if length >= self._longest_run():
                runs.append(left)
                left, length = right if sign.text == "+" else tree.Negative(sign.start, right.end, right), 1
            else:
                left = tree.Binary(left.start, right.end, sign.text, left, right)  # type: ignore[arg-type]
                length += 1
        whole = _in_runs([*runs, left], lambda a, b: tree.Binary(a.start, b.end, "+", a, b)) if runs else left
        return self._uncertain(whole) if self.token.is_sign("±") else whole

    def _uncertain(self, value: tree.Expression) -> tree.Expression:
        """`2.50 ± 0.05 [cm]`: the unit behind belongs to both, unless the value has one of its own."""
        self.take()
        error = self._product()
        if self.token.is_sign("±", "+", "-"):
            self.refuse("uncertain", "an uncertainty ends what it belongs to", advise("(2.50 ± 0.05) + ... in brackets"))
        if isinstance(error, tree.Quantity) and not isinstance(value, tree.Quantity):
            inner = tree.Uncertain(value.start, error.value.end, value, error.value)
            return tree.Quantity(value.start, error.end, inner, error.unit)
        return tree.Uncertain(value.start, error.end, value, error)

    def _with_unit(self, value: tree.Expression) -> tree.Expression:
        """`25 [cm]`: the text between the brackets is a unit, not a formula."""
        token = self.token
        if not token.is_sign("[") or token.glued or not isinstance(value, tree.Number | tree.Group | tree.ListOf):
            return value
        unit = self.unit_in_brackets()
        return tree.Quantity(value.start, self.before.end, value, unit)

    def unit_in_brackets(self) -> str:
        """Take what stands in square brackets as a unit."""
        closing = self._matching(self.at)
        unit = self.slice(self.token.end, closing - 1).strip()
        while self.token.end < closing:
            self.take()
        self.take()
        return unit

    def _longest_run(self) -> int:
        """Shorter ones far inside, where runs within runs add up to the depth of the tree."""
        return MOST_RUN if self.depth <= 4 else MOST_RUN // 6

    def _product(self) -> tree.Expression:
        left = self._signed()
        runs, length = [], 1
        while self.token.is_sign("*", "/"):
            sign = self.take().text
            if sign == "/":
                right = self._denominator()
                self._two_readings(left, right, "/")
                if isinstance(left, tree.Number) and isinstance(right, tree.Number) and self.token.is_sign("[") and not self.token.glued:
                    # A quotient of two numbers is a number: 2/3 [m].
                    quotient = tree.Binary(left.start, right.end, "/", left, right)
                    unit = self.unit_in_brackets()
                    left = tree.Quantity(left.start, self.before.end, quotient, unit)
                    continue
            else:
                right = self._signed()
            if length >= self._longest_run() and sign == "*":
                runs.append(left)
                left, length = right, 1
            elif length >= 2 * self._longest_run():
                self.refuse("too-deep", "too many quotients stand one after the other", advise("give parts names"))
            else:
                left = tree.Binary(left.start, right.end, sign, left, right)  # type: ignore[arg-type]
                length += 1
        return _in_runs([*runs, left], lambda a, b: tree.Binary(a.start, b.end, "*", a, b)) if runs else left

    def _denominator(self) -> tree.Expression:
        sign = self.take_sign("-")
        if sign:
            operand = self._inside(self._denominator)
            return tree.Negative(sign.start, operand.end, operand)
        return self._power()

    def _lone(self, ends: frozenset[str]) -> tree.Expression | None:
        """A number or name behind which one of these signs or the end of the line follows: read at once, since most operands are such."""
        token = self.token
        if token.kind is not Kind.NUMBER and (token.kind is not Kind.NAME or token.text in RESERVED):
            return None
        following = self.ahead()
        if not (following.text in ends if following.kind is Kind.SIGN else following.kind is Kind.NEWLINE):
            return None
        if token.kind is Kind.NUMBER:
            self.take_number()
            return tree.Number(token.start, token.end, token.text)
        self.take()
        return tree.Name(token.start, token.end, self.name_of(token), token.text)

    def _signed(self) -> tree.Expression:
        lone = self._lone(_OPERAND_ENDS)
        if lone is not None:
            return lone
        sign = self.take_sign("-")
        if sign:
            operand = self._inside(self._signed)
            return tree.Negative(sign.start, operand.end, operand)
        if self.token.is_sign("+"):
            self.refuse(
                "plus-sign", "a plus sign in front of a value says nothing", replace(self.token.start, self.token.end, "", "remove +")
            )
        first = self._power()
        factors = [first]
        while self._multiplies(factors):
            factors.append(self._power())
        if len(factors) == 1:
            return self._with_unit(first)
        return tree.Juxtaposed(first.start, factors[-1].end, tuple(factors))

    def _multiplies(self, factors: list[tree.Expression]) -> bool:
        """Whether the next token is glued on and so multiplies: after a number or a closing bracket."""
        token, last = self.token, factors[-1]
        if not token.glued or not (isinstance(last, tree.Group) or (isinstance(last, tree.Number) and len(factors) == 1)):
            return False
        return self._begins_factor(token)

    def _begins_factor(self, token: Token) -> bool:
        if token.kind is Kind.NAME and token.text not in RESERVED:
            self._constant_run_into_name(token)
            return True
        return token.is_sign("(", "√")

    def _constant_run_into_name(self, token: Token) -> None:
        """`2πr`: the letter π never begins a longer name, so a product was meant."""
        if token.text.startswith("π") and len(token.text) > 1 and token.text[1].isalpha():
            head = self.before
            rest = f"π*{token.text[1:]}"
            self.refuse_span(
                "two-names", f"'{token.text}' reads as one name; a product of names needs its sign", head.start, token.end,
                replace(token.start, token.end, rest, f"{head.text}{rest}"),
            )  # fmt: skip

    def _two_readings(self, left: tree.Expression, right: tree.Expression, sign: str) -> None:
        """Refuse what is glued on after a denominator or an exponent, offering both readings."""
        token = self.token
        if not isinstance(right, tree.Number | tree.Group) or not self._begins_factor(token):
            return
        if not token.glued and not token.is_sign("("):
            return
        place = token
        end = self._end_of_factor()
        a, b, c = self.slice(left.start, left.end), self.slice(right.start, right.end), self.slice(token.start, end)
        if sign == "/":
            labels = (f"{a}/({b}{c})", f"({a}/{b}){c}")
            text = "a product under a quotient can be read two ways"
        else:
            labels = (f"{a}^({b}{c})", f"{a}^{b}*{c}")
            text = "a product in an exponent can be read two ways"
        fixes = [replace(left.start, end, label) for label in labels]
        self.refuse("two-readings", text, *fixes, token=place)

    def _end_of_factor(self) -> int:
        at, kept = self.at, len(self.messages.items)
        try:
            return self._power().end
        except StopReading:
            self.messages.take_back(kept)
            return self.tokens[at].end
        finally:
            self.at = at

    def _power(self) -> tree.Expression:
        base = self._atom()
        token = self.token
        if token.is_sign("^"):
            self.take()
            exponent = self._exponent()
            self._power_of_function(base, f"^{self.slice(exponent.start, exponent.end)}")
            self._two_readings(base, exponent, "^")
            return tree.Binary(base.start, exponent.end, "^", base, exponent)
        if token.kind is Kind.SUPERSCRIPT:
            self.take()
            self._power_of_function(base, token.text)
            exponent = tree.Number(token.start, token.end, token.text.translate(_SUPERSCRIPT_DIGITS))
            return tree.Binary(base.start, token.end, "^", base, exponent)
        return base

    def _power_of_function(self, base: tree.Expression, power: str) -> None:
        """`sin^2(x)`: some read the square of the sine, some the sine of the sine."""
        if isinstance(base, tree.Name) and self.builtins.is_function(base.name) and self.token.is_sign("("):
            closing = self._matching(self.at)
            inside = self.slice(self.token.start, closing)
            self.refuse(
                "power-of-function", "a power of a function value is written after the bracket",
                replace(base.start, closing, f"{base.spelling}{inside}{power}"),
                advice=f"{base.spelling}{inside}{power}, the power after the bracket",
            )  # fmt: skip

    def _matching(self, at: int) -> int:
        """Offset after the bracket that closes the one at a token; where none does, its own end."""
        depth = 0
        for token in self.tokens[at:]:
            if token.is_sign("(", "["):
                depth += 1
            elif token.is_sign(")", "]"):
                depth -= 1
                if depth == 0:
                    return token.end
            elif token.kind is Kind.NEWLINE:
                break
        return self.tokens[at].end

    def _exponent(self) -> tree.Expression:
        sign = self.take_sign("-")
        if sign:
            operand = self._inside(self._exponent)
            return tree.Negative(sign.start, operand.end, operand)
        base = self._atom()
        if self.take_sign("^"):
            exponent = self._inside(self._exponent)
            return tree.Binary(base.start, exponent.end, "^", base, exponent)
        return base

    # ------------------------------------------------------------ atoms

    def _atom(self) -> tree.Expression:
        token = self.token
        if token.kind is Kind.NUMBER:
            self.take_number()
            self._trailing_point(token)
            return tree.Number(token.start, token.end, token.text)
        if token.kind is Kind.TEXT:
            self.take()
            return tree.Text(token.start, token.end, token.text[1:-1])
        if token.is_word("true", "false"):
            self.take()
            return tree.Truth(token.start, token.end, token.text == "true")
        if token.kind is Kind.NAME and token.text not in RESERVED:
            if self.at_request():
                self.refuse("request-in-formula", "a request inside a formula stands in brackets of its own", Fix(f"({token.text} of ...)"))
            self.take()
            return self._postfix(tree.Name(token.start, token.end, self.name_of(token), token.text))
        if token.is_sign("("):
            return self._bracketed()
        if token.is_sign("["):
            return self._list()
        if token.is_sign("√"):
            return self._radical()
        self._operand_missing()

    def _trailing_point(self, number: Token) -> None:
        point = self.token
        if point.is_sign(".") and point.glued and self.ahead().kind is not Kind.NAME:
            self.refuse(
                "decimal-point", "a decimal point needs a digit on both sides",
                replace(point.start, point.end, ".0", f"{number.text}.0"),
                replace(point.start, point.end, "", number.text),
            )  # fmt: skip

    def _bracketed(self) -> tree.Expression:
        opened = self.take()
        inner = self.request() if self.at_request() else self.pieces_or_expression()
        if self.token.is_sign(","):
            items = [inner]
            while self.take_sign(","):
                items.append(self.expression())
            closed = self.close(opened)
            return self._postfix(tree.PointOf(opened.start, closed.end, tuple(items)), callable_too=False)
        closed = self.close(opened)
        return self._postfix(tree.Group(opened.start, closed.end, inner), callable_too=False)

    def _list(self) -> tree.Expression:
        opened = self.take()
        closing = self.take_sign("]")
        if closing:
            return tree.ListOf(opened.start, closing.end, ())
        first = self.request() if self.at_request() else self.expression()
        if self.take_word("for"):
            windows = [self.window()]
            while self.take_sign(","):
                windows.append(self.window())
            condition = self.expression() if self.take_word("if") else None
            closed = self.close(opened)
            return self._postfix(tree.Comprehension(opened.start, closed.end, first, tuple(windows), condition))
        items = [first]
        while self.take_sign(","):
            items.append(self.expression())
        closed = self.close(opened)
        return self._postfix(tree.ListOf(opened.start, closed.end, tuple(items)))

    def _radical(self) -> tree.Expression:
        sign = self.take()
        token = self.token
        if token.kind is Kind.NUMBER:
            self.take_number()
            operand: tree.Expression = tree.Number(token.start, token.end, token.text)
            following = self.token
            if following.glued and self._begins_factor(following):
                end = self._end_of_factor()
                number, rest = token.text, self.slice(following.start, end)
                self.refuse(
                    "two-readings", "a product after a root sign can be read two ways",
                    replace(sign.start, end, f"√({number}{rest})"),
                    replace(sign.start, end, f"√({number})*{rest}"),
                )  # fmt: skip
        elif token.kind is Kind.NAME and token.text not in RESERVED:
            self.take()
            operand = tree.Name(token.start, token.end, self.name_of(token), token.text)
        else:
            operand = self._inside(self._atom)
        return tree.Radical(sign.start, operand.end, operand)

    def _postfix(self, value: tree.Expression, callable_too: bool = True) -> tree.Expression:
        count = 0
        while True:
            token = self.token
            count += 1
            if count > MAX_DEPTH:
                self.refuse("too-deep", f"more than {MAX_DEPTH} of these stand one after the other", advise("give parts names"))
            if token.kind is Kind.PRIME and token.glued:
                self.take()
                value = tree.Prime(value.start, token.end, value, sum({"″": 2, "‴": 3}.get(c, 1) for c in token.text))
            elif token.is_sign("(") and token.glued and callable_too:
                value = self._call(value)
            elif token.is_sign("[") and token.glued:
                self.take()
                places = [self.expression()]
                while self.take_sign(","):
                    places.append(self.expression())
                closed = self.close(token)
                value = tree.Index(value.start, closed.end, value, tuple(places))
            elif token.is_sign(".") and token.glued and self.ahead().kind in (Kind.NAME, Kind.TEXT):
                self.take()
                part = self.take()
                value = tree.Field(value.start, part.end, value, part.text.strip('"'))
            else:
                return value

    def _call(self, function: tree.Expression) -> tree.Expression:
        opened = self.token
        if isinstance(function, tree.Call | tree.Index):
            closing = self._matching(self.at)
            called, inside = self.slice(function.start, function.end), self.slice(opened.start, closing)
            self.refuse_span(
                "value-called", "a value cannot be called; brackets here do not multiply", function.start, closing,
                replace(function.start, closing, f"{called}*{inside}"),
            )  # fmt: skip
        self.take()
        arguments: list[tree.Expression] = []
        if not self.token.is_sign(")"):
            arguments.append(self.request() if self.at_request() else self.pieces_or_expression())
            while self.take_sign(","):
                arguments.append(self.expression())
        closed = self.close(opened)
        return tree.Call(function.start, closed.end, function, tuple(arguments))

    def close(self, opened: Token) -> Token:
        """The bracket that closes the one that was opened. Refuses anything else."""
        wanted = ")" if opened.text == "(" else "]"
        closed = self.take_sign(wanted)
        if closed:
            return closed
        token = self.token
        if self.at_line_end():
            if any(m.code == "bracket-not-closed" and m.start == opened.start for m in self.messages.items):
                raise StopReading
            # An inner bracket is named by the lexer; the statement is lost either way.
            if self.messages.has_errors():
                raise StopReading
            self.refuse(
                "bracket-not-closed", "this bracket is not closed", replace(token.start, token.start, wanted, f"add {wanted}"), token=opened
            )
        if token.text in (")", "]"):
            line, column = self.source.place(opened.start)
            self.refuse(
                "bracket-mismatch", f"'{opened.text}' opened at {line}:{column} is closed by '{token.text}'",
                replace(token.start, token.end, wanted),
            )  # fmt: skip
        self.stray()

    # ------------------------------------------------------------ what cannot be read

    def at_request(self) -> bool:
        return self.token.kind is Kind.NAME and self.token.text in NOUNS and self.ahead().is_word("of")

    def request(self) -> tree.Request:
        raise NotImplementedError

    def window(self) -> tree.Window:
        raise NotImplementedError

    def _operand_missing(self) -> NoReturn:
        token, before = self.token, self.before
        if self.at_line_end():
            self._line_ended(before)
        if token.is_sign(".") and self.ahead().kind is Kind.NUMBER:
            digits = self.ahead()
            self.refuse("decimal-point", "a number starts with a digit", replace(token.start, token.end, "0.", f"0.{digits.text}"))
        if token.is_word("otherwise"):
            self.refuse("otherwise", "'otherwise' comes last, after at least one 'when'")
        if token.is_word("else", "when", "return"):
            self.refuse("misplaced-word", f"'{token.text}' cannot stand here")
        if token.is_word(*RESERVED):
            self.refuse("value-missing", f"a value is missing between '{before.text}' and '{token.text}'")
        if token.kind is Kind.BAD or token.is_sign(".", "="):
            self.stray()
        after = f", after '{before.text}'" if before.text and not self.at_line_end(before) else ""
        self.refuse("value-missing", f"a value is needed here{after}")

    def _line_ended(self, before: Token) -> NoReturn:
        sign = before.text
        if before.is_sign("+", "-", "*", "/", "^", "<", ">", "<=", ">=", "!=", "="):
            self.refuse(
                "line-unfinished", f"something must follow '{sign}'; a line goes on only inside brackets or after a comma",
                advise("finish it, or put the formula in brackets"),
            )  # fmt: skip
        self.refuse("line-unfinished", f"something must follow '{sign}'" if sign else "a value is needed here")

    def stray(self) -> NoReturn:
        """Something stands where the line should have ended: say why."""
        token, before = self.token, self.before
        if token.kind is Kind.NEWLINE:
            raise StopReading
        if before.carries_on:
            self.refuse(
                "comma-at-end", f"a comma at the end of a line carries on to the next, which starts with '{token.text}'",
                replace(before.start, before.end, "", "remove the comma"), token=before,
            )  # fmt: skip
        self._stray_sign(token)
        if token.is_word("of") and before.kind is Kind.NAME:
            meant = request_meant(before.text)
            fixes = [replace(before.start, before.end, meant, f"{meant} of")] if meant else []
            self.refuse(
                "unknown-request",
                f"there is no request '{before.text} of'",
                *fixes,
                advice="" if meant else "roots of, curve of, points of, ...",
            )
        if token.is_word("for"):
            self.refuse("for-late", "'for' comes before the options", advise("move it in front of the first comma"))
        if token.kind in (Kind.NAME, Kind.NUMBER, Kind.TEXT) or token.is_sign("(", "√", "["):
            self._side_by_side(token, before)
        self.refuse("does-not-fit", f"'{token.text}' does not fit here" if token.text.strip() else "this does not fit here")

    def _stray_sign(self, token: Token) -> None:
        text = token.text
        start, end = token.start, token.end
        if text == ";":
            self.refuse("semicolon", "there is one statement a line, and nothing ends with ;", replace(start, end, "", "remove ;"))
        if text in ("{", "}"):
            self._braces(token)
        if text == "%":
            self.refuse("percent", "% has no meaning here", advise("mod(a, b) for a remainder, /100 for a percentage, # for a comment"))
        if text in ("&", "&&"):
            self.refuse("ampersand", "conditions are joined with a word", replace(start, end, " and ", "and"))
        if text in ("|", "||"):
            self.refuse("bar", "| has no meaning here", advise("abs(...) for a magnitude, or between conditions the word or"))
        if text == "!":
            self.refuse("exclamation", "'!' alone has no meaning here", advise("not, or !="))
        if text == "**":
            self.refuse("double-star", "a power is written ^", replace(start, end, "^"))
        if text == "==":
            second = replace(start, end, "=")
            self.refuse_span("double-equals", "one = is enough, in a definition and in an equation", start + 1, end, second)
        if text in _LIST_OPERATORS:
            sign = _LIST_OPERATORS[text]
            self.refuse("list-operator", "arithmetic on lists always goes element by element", replace(start, end, sign))
        if token.kind is Kind.BAD and text in (")", "]"):
            self.refuse("bracket-never-opened", "this bracket was never opened", replace(start, end, "", f"remove {text}"))
        if text == '"':
            self.open_quote(token)
        if text == ":":
            self.refuse("colon", "':' opens a block; this statement has none", replace(start, end, "", "remove :"))
        if text == "\t":
            self.refuse("tab", "a tab stands here", replace(start, end, " ", "a space"))
        if text == "$":
            self.refuse("dollar", "$...$ is mathematics inside a text", advise('"$...$"'))
        if text == "'":
            self.refuse("quote", "a text stands in double quotes", advise('"..."'))
        if token.kind is Kind.BAD:
            self.refuse(
                "unknown-sign",
                f"the sign '{text}' has no meaning in a script" if text.isprintable() else "a character here cannot be seen",
                replace(start, end, "", "remove it"),
            )

    def _braces(self, token: Token) -> NoReturn:
        line_end = self.source.line_end(self.source.line_of(token.start))
        match = re.compile(r"\{([^{}\n]*)\}").match(self.text, token.start, line_end)
        fixes = [replace(token.start, match.end(), f"[{match.group(1)}]")] if match else []
        self.refuse("braces", "a list stands in square brackets", *fixes, advice="[...]")

    def _side_by_side(self, token: Token, before: Token) -> None:
        text = token.text
        if text in RESERVED or before.kind in (Kind.NEWLINE, Kind.INDENT, Kind.DEDENT):
            return
        if before.kind is Kind.NAME and self.builtins.is_function(before.text) and not token.is_sign("("):
            end = self._end_of_product()
            argument = self.slice(token.start, end)
            self.refuse(
                "argument-without-brackets", f"the argument of {before.text} stands in brackets",
                replace(before.start, end, f"{before.text}({argument})"),
            )  # fmt: skip
        if before.kind is Kind.NAME and before.text in NOUNS and self._opens_line(before):
            fix = replace(before.end, before.end, " of", f"{before.text} of {text}")
            self.refuse("request-of", f"a request reads '{before.text} of ...'", fix, token=before)
        ahead = self.ahead()
        worded = is_option(text, "choice", "parameter", "parameter span")
        if is_option(text) and (ahead.kind in ((Kind.NAME,) if worded else (Kind.NAME, Kind.NUMBER, Kind.TEXT)) or ahead.is_sign("[")):
            self.refuse("option-comma", "an option comes after a comma", replace(before.end, token.start, ", ", f", {text}"))
        if before.kind is Kind.NUMBER and not token.glued:
            joined, product = f"{before.text}{text}", f"{before.text}*{text}"
            fixes = [replace(before.start, token.end, product)]
            if token.kind is Kind.NAME or token.is_sign("("):
                fixes.insert(0, replace(before.start, token.end, joined))
            self.refuse("space-multiplies-not", "a space does not multiply", *fixes)
        if before.kind in (Kind.NAME, Kind.PRIME, Kind.SUPERSCRIPT, Kind.NUMBER, Kind.TEXT) or before.is_sign(")", "]"):
            start = self.tokens[self.at - 2].start if before.kind in (Kind.SUPERSCRIPT, Kind.PRIME) and self.at >= 2 else before.start
            left = self.slice(start, before.end)
            self.refuse(
                "no-sign-between", "two things side by side do not multiply here",
                replace(before.end, token.start, "*", f"{left if len(left) > 1 or left.isalnum() else '...' + left}*{text}"),
            )  # fmt: skip

    def _opens_line(self, token: Token) -> bool:
        return not self.text[self.source.line_start(self.source.line_of(token.start)) : token.start].strip()

    def _end_of_product(self) -> int:
        """Where an argument without brackets would end: `2x` in `sin 2x`."""
        at, kept = self.at, len(self.messages.items)
        try:
            return self._signed().end
        except StopReading:
            self.messages.take_back(kept)
            return self.tokens[at].end
        finally:
            self.at = at


def _in_runs(parts: list[tree.Expression], joined: Callable[[tree.Expression, tree.Expression], tree.Expression]) -> tree.Expression:
    """Many parts as one expression, from left to right, in runs of runs: its depth does not come from its length."""
    while len(parts) > 1:
        parts = [functools.reduce(joined, parts[k : k + MOST_RUN]) for k in range(0, len(parts), MOST_RUN)]
    return parts[0]
