"""Reading statements: one a line, blocks after ':'; after a mistake reading goes on with the next line."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Callable

from . import tree
from .cursor import Stop
from .messages import Fix, advise, replace
from .requests import RequestReader
from .tokens import Kind, Token
from .vocabulary.names import RESERVED, canonical_name

_CELLS = re.compile(r'(?P<comment>#.*)|(?P<text>"[^"\n]*")|(?P<unit>\[[^\]\n]*\])|(?P<plain>[^\s"\[\]#]+)')
_CELL_NUMBER = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?")


MAX_BLOCKS = 40  # blocks within blocks


class StatementReader(RequestReader):
    blocks = 0

    def script(self) -> tree.Script:
        """All statements, until the end or until there are too many mistakes."""
        statements: list[tree.Statement] = []
        while not self.stands(Kind.END):
            kind = self.token.kind
            if self.messages.full:
                self._give_up()
                break
            if kind is Kind.INDENT:
                self._unexpected_indent()
            if kind in (Kind.NEWLINE, Kind.DEDENT, Kind.INDENT):
                self.take()
                continue
            found = self._safely()
            if found is not None:
                statements.append(found)
        return tree.Script(0, len(self.text), tuple(statements))

    def _give_up(self) -> None:
        """There are too many mistakes: nothing is read from here on."""
        self.messages.end_at(self.token.start)
        self.at = len(self.tokens) - 1

    def _unexpected_indent(self) -> None:
        token = self.token
        line = self.source.line_of(token.end)
        if not any(self.source.line_of(m.start) == line for m in self.messages.items):
            self.complain(
                "indent", "this line is indented though no block was opened above it", token.start, token.end,
                replace(token.start, token.end, "", "remove the spaces in front"),
            )  # fmt: skip

    def _safely(self) -> tree.Statement | None:
        """One statement; a broken one is skipped, but the lines of its block are still read for their own mistakes."""
        self.depth = 0
        try:
            return self.statement()
        except Stop:
            while not self.stands(Kind.NEWLINE, Kind.END, Kind.DEDENT):
                self.take()
            if self.stands(Kind.NEWLINE):
                self.take()
            if self.stands(Kind.INDENT):
                self.take()
                self._statements_until_dedent()
            return None

    def _statements_until_dedent(self) -> list[tree.Statement]:
        self.blocks += 1
        try:
            if self.blocks <= MAX_BLOCKS:
                return self._block_statements()
            self.complain(
                "too-deep", f"more than {MAX_BLOCKS} blocks stand inside each other", self.token.start, self.token.end,
                advise("make a define block of the inner ones"),
            )  # fmt: skip
            self._skip_block()
            return []
        finally:
            self.blocks -= 1

    def _skip_block(self) -> None:
        depth = 1
        while depth and not self.stands(Kind.END):
            depth += self.stands(Kind.INDENT) - self.stands(Kind.DEDENT)
            self.take()

    def _block_statements(self) -> list[tree.Statement]:
        statements: list[tree.Statement] = []
        while not self.stands(Kind.DEDENT, Kind.END):
            if self.messages.full:
                self._give_up()
                break
            if self.stands(Kind.INDENT):
                self._unexpected_indent()
                self.take()
                statements += self._statements_until_dedent()
                continue
            if self.stands(Kind.NEWLINE):
                self.take()
                continue
            found = self._safely()
            if found is not None:
                statements.append(found)
        if self.stands(Kind.DEDENT):
            self.take()
        return statements

    def end_line(self) -> None:
        """The end of the line must stand here. Refuses anything else."""
        if self.stands(Kind.NEWLINE):
            self.take()
        elif not self.stands(Kind.END, Kind.DEDENT):
            self.stray()

    # ------------------------------------------------------------ which statement

    def statement(self) -> tree.Statement:
        """One statement with its block."""
        token = self.token
        if token.kind is Kind.NAME:
            following = self.ahead()
            if token.text in RESERVED and following.is_sign("="):
                self.reserved(token)
            if token.text not in RESERVED and self._defines():
                return self._definition()
            reader = self._reader_of_word(token, following)
            if reader is not None:
                found = reader()
                if not self._has_block(found):
                    self.end_line()
                return found
            if token.is_word("else"):
                self.refuse("else-without-if", "this 'else' has no 'if' above it at the same depth", advise("line it up with its 'if'"))
        found = self._bare()
        self.end_line()
        return found

    def _has_block(self, statement: tree.Statement) -> bool:
        """Whether a statement ended with its block, so that no line end is left to be read."""
        return isinstance(statement, tree.Figure | tree.Panel | tree.Inset | tree.Block) or (
            isinstance(statement, tree.Note | tree.Table) and self.before.kind is Kind.DEDENT
        )

    def _defines(self) -> bool:
        """`NAME =` or `NAME(names) =` stands here."""
        at = self.at + 1
        if self.tokens[at].is_sign("(") and self.tokens[at].glued:
            while not self.tokens[at].is_sign(")"):
                at += 1
                if self.at_line_end(self.tokens[at]) or self.tokens[at].is_sign("="):
                    return False
            at += 1
        return self.tokens[at].is_sign("=")

    def _reader_of_word(self, token: Token, following: Token) -> Callable[[], tree.Statement] | None:
        """The reader of a statement word, only where the next token can be nothing else."""
        word = token.text
        if word in ("show", "check", "return", "if", "for", "while", "define"):
            return getattr(self, f"_read_{word}")  # type: ignore[no-any-return]
        if word in ("x", "y", "z", "right", "colour") and following.is_word("axis"):
            return self._read_axis
        if word == "true" and following.is_word("scale"):
            return self._read_true_scale
        if word == "shared" and following.is_word("x", "y") and self.ahead(2).is_word("axis"):
            return self._read_shared
        if word == "line" and following.is_word("from", "horizontal", "vertical"):
            return self._read_line
        value_follows = following.kind in (Kind.NAME, Kind.TEXT, Kind.NUMBER) and following.text not in RESERVED
        if word in (
            "part",
            "note",
            "table",
            "tune",
            "compare",
            "legend",
            "gridlines",
            "size",
            "view",
            "no",
            "text",
            "mark",
            "figure",
            "panel",
            "inset",
            "style",
            "title",
            "caption",
            "decimal",
        ):
            opens_block = word in ("figure", "panel", "note", "inset") and following.is_sign(":", ",")
            bare_legend = word == "legend" and (self.at_line_end(following) or following.is_sign(","))
            open_text = word in ("part", "note", "figure", "panel", "text", "title", "caption") and following.text == '"'
            point = word == "mark" and following.is_sign("(") and not following.glued
            if point or (word in ("legend", "inset") and following.is_word("at")):
                return getattr(self, f"_read_{word}")  # type: ignore[no-any-return]
            bare_figure = word in ("figure", "panel") and self.at_line_end(following)
            if value_follows or opens_block or bare_legend or open_text or bare_figure:
                return getattr(self, f"_read_{word}")  # type: ignore[no-any-return]
        return None

    def _bare(self) -> tree.Statement:
        if self.at_request():
            request = self.request()
            return tree.Bare(request.start, request.end, request)
        value = self.pieces_or_expression()
        if isinstance(value, tree.Comparison) and value.signs == ("=",):
            self._equation_alone(value)
        return tree.Bare(value.start, value.end, value)

    def _equation_alone(self, value: tree.Comparison) -> None:
        written = self.slice(value.start, value.end)
        left = value.operands[0]
        if isinstance(left, tree.Index):
            self.complain(
                "list-element", "elements of a list are not changed one by one", value.start, value.end,
                advise("build the list with [... for ...] or with join"),
            )  # fmt: skip
        elif isinstance(left, tree.Name | tree.Call):
            self.complain(
                "definition",
                "the left side of a definition is a name, or a name with its variables",
                value.start,
                value.end,
                advise("f(x) = ..."),
            )
        else:
            self.complain(
                "equation-alone",
                "an equation that stands alone says nothing",
                value.start,
                value.end,
                advise(f"solution of {written} for ..."),
            )
        raise Stop

    # ------------------------------------------------------------ definitions

    def _definition(self) -> tree.Statement:
        token = self.take()
        name = self.name_of(token)
        if self.builtins.is_protected(name):
            self.refuse(
                "protected-name", f"'{token.text}' is built in and keeps its meaning",
                replace(token.start, token.end, f"{token.text}_1"), token=token,
            )  # fmt: skip
        parameters = self._parameters() if self.token.is_sign("(") else None
        self.need_sign("=", "definition", "a definition needs =")
        domain: tuple[tree.Window, ...] = ()
        if self.at_request():
            body: tree.Expression = self.request()
        else:
            body = self.pieces_or_expression()
            if isinstance(body, tree.Comparison) and "=" in body.signs:
                self._second_equals(token, body)
            body = self._unit(body)
            if self.take_word("for"):
                windows = [self.window()]
                while self.token.is_sign(","):
                    self.take()
                    windows.append(self.window())
                domain = tuple(windows)
        if self.token.is_sign(","):
            self.refuse("second-value", "a definition has one value", advise("[...] for a list, (...) for a point"))
        end = self.before.end
        self.end_line()
        return tree.Definition(token.start, end, name, token.end, parameters, body, domain)

    def _parameters(self) -> tuple[str, ...]:
        self.take()
        names: list[str] = []
        while True:
            token = self.need_name("a definition lists its variables: f(x) = ...")
            name = self.name_of(token)
            if name in names:
                self.refuse("repeated-variable", f"the variable '{token.text}' is listed twice", token=token)
            if self.builtins.is_protected(name):
                self.refuse("protected-name", f"'{token.text}' is built in and keeps its meaning", Fix(f"{token.text}_1"), token=token)
            names.append(name)
            if not self.take_sign(","):
                break
        self.need_sign(")", "bracket-not-closed", "the bracket of the variables is not closed", Fix(")"))
        return tuple(names)

    def _second_equals(self, name: Token, body: tree.Comparison) -> None:
        written = self.slice(body.start, body.end)
        start = body.operands[0].end
        self.refuse_span(
            "second-equals", "a definition has one =", start, body.operands[1].start,
            replace(body.start, body.end, f"({written})", f"{name.text} = ({written})"),
        )  # fmt: skip

    def _unit(self, value: tree.Expression) -> tree.Expression:
        """`9.81 [m/s^2]`: the text between the brackets is a unit, not a formula."""
        token = self.token
        if not token.is_sign("[") or token.glued:
            return value
        closing = self._matching(self.at)
        unit = self.slice(token.end, closing - 1).strip()
        while self.token.end < closing:
            self.take()
        self.take()
        if not (self.at_line_end() or self.token.is_word("for", "from")):
            self.refuse(
                "unit-place", "a unit stands at the end of a definition", advise(f"a value with a unit of its own: name = ... [{unit}]")
            )
        return tree.Quantity(value.start, closing, value, unit)

    # ------------------------------------------------------------ show, check and what comes later

    def _read_show(self) -> tree.Statement:
        word = self.take()
        if self.at_request():
            request = self.request()
            return tree.Show(word.start, request.end, (request,), ())
        items = [self.pieces_or_expression()]
        options: list[tree.Option] = []
        while self.token.is_sign(","):
            comma = self.take()
            if comma.carries_on and (self._defines() or self.token.text in RESERVED):
                self.stray()
            if self.token.is_word("digits") and self.at_option(False):
                options.append(self.option())
            else:
                items.append(self.expression())
        return tree.Show(word.start, self.before.end, tuple(items), tuple(options))

    def _read_check(self) -> tree.Statement:
        word = self.take()
        condition = self.expression()
        options = self.options()
        return tree.Check(word.start, self.before.end, condition, options)

    def _read_return(self) -> tree.Statement:
        word = self.take()
        if self.at_line_end():
            self.refuse("return-value", "'return' gives a value back", advise("return level"), token=word)
        value = self.request() if self.at_request() else self.pieces_or_expression()
        return tree.Return(word.start, value.end, value)

    def _read_if(self) -> tree.Statement:
        word = self.take()
        branches = [self._branch(word, self.expression(), "if")]
        while self.token.is_word("else"):
            other = self.take()
            if self.take_word("if"):
                branches.append(self._branch(other, self.expression(), "else if"))
            else:
                branches.append(self._branch(other, None, "else"))
                break
        return tree.If(word.start, branches[-1].end, tuple(branches))

    def _branch(self, word: Token, condition: tree.Expression | None, what: str) -> tree.Branch:
        head_end = self.before.end
        body = tuple(self.block(what))
        return tree.Branch(word.start, body[-1].end if body else head_end, condition, body, head_end)

    def _read_for(self) -> tree.Statement:
        word = self.take()
        window = self.window()
        head_end = self.before.end
        body = tuple(self.block("for"))
        return tree.For(word.start, body[-1].end if body else head_end, window, body, head_end)

    def _read_while(self) -> tree.Statement:
        word = self.take()
        condition = self.expression()
        head_end = self.before.end
        body = tuple(self.block("while"))
        return tree.While(word.start, body[-1].end if body else head_end, condition, body, head_end)

    def _read_define(self) -> tree.Statement:
        word = self.take()
        token = self.need_name("a name must follow 'define'")
        name = self.name_of(token)
        if self.builtins.is_protected(name):
            self.refuse(
                "protected-name", f"'{token.text}' is built in and keeps its meaning",
                replace(token.start, token.end, f"{token.text}_1"), token=token,
            )  # fmt: skip
        if not self.token.is_sign("("):
            self.refuse("define-brackets", "the variables stand in brackets", advise(f"{token.text}(...)"))
        parameters: tuple[str, ...] = ()
        if self.ahead().is_sign(")"):
            self.take()
            self.take()
        else:
            parameters = self._parameters()
        head_end = self.before.end
        body = tuple(self.block("define"))
        return tree.Define(word.start, body[-1].end if body else head_end, name, token.end, parameters, body, head_end)

    def _read_tune(self) -> tree.Statement:
        word = self.take()
        token = self.need_name()
        self.need_sign("=", "tune", "a tuned value needs a value", advise("= ..."))
        value = self._unit(self.sum())
        self.need_word("from", "tune", "a tuned value needs a span", advise("from LOW to HIGH"))
        low = self.sum()
        self.need_word("to", "tune", "the high end is missing", advise("to HIGH"))
        high = self.sum()
        step = self.sum() if self.take_word("step") else None
        return tree.Tune(word.start, self.before.end, self.name_of(token), token.end, value, low, high, step)

    def _read_compare(self) -> tree.Statement:
        word = self.take()
        items = [self.expression()]
        while self.take_sign(","):
            items.append(self.expression())
        return tree.Compare(word.start, self.before.end, tuple(items))

    def _read_part(self) -> tree.Statement:
        word = self.take()
        title = self.need_text()
        return tree.Part(word.start, self.before.end, title)

    def _read_note(self) -> tree.Statement:
        word = self.take()
        if self.token.is_sign(":"):
            lines = self._raw_lines("note")
            return tree.Note(word.start, lines.end, textwrap.dedent(lines.text).strip("\n"))
        text = self.need_text()
        return tree.Note(word.start, self.before.end, text)

    def _raw_lines(self, what: str) -> Token:
        self.take()
        if not self.stands(Kind.NEWLINE):
            self.stray()
        self.take()
        if not self.stands(Kind.INDENT):
            self.refuse("block", f"the lines of the {what} must follow", advise("indent them by four spaces"))
        self.take()
        rows = self.take()
        while not self.stands(Kind.DEDENT):
            self.take()
        self.take()
        return rows

    def _read_table(self) -> tree.Statement:
        word = self.take()
        token = self.need_name()
        name = self.name_of(token)
        if self.take_word("from"):
            file = self.need_text()
            self.options()
            end = self.before.end
            return tree.Table(word.start, end, name, token.end, (), (), file, end)
        head_end = self.before.end
        if not self.token.is_sign(":"):
            self.refuse("table", "a table has a block of rows or a file", advise('table NAME: or table NAME from "..."'))
        lines = self._raw_lines("table")
        columns, rows = self._rows(lines)
        end = lines.start + len(lines.text.rstrip())
        return tree.Table(word.start, end, name, token.end, columns, rows, None, head_end)

    def _rows(self, lines: Token) -> tuple[tuple[tree.Column, ...], tuple[tuple[tree.Cell, ...], ...]]:
        """Column heads and cells of a typed table; mistakes in rows are told, and those rows left out."""
        columns: list[tree.Column] = []
        rows: list[tuple[tree.Cell, ...]] = []
        position = lines.start
        for line in lines.text.splitlines(keepends=True):
            cells = [m for m in _CELLS.finditer(line) if m.lastgroup != "comment"]
            comma = next((m.start() + m.group().index(",") for m in cells if m.lastgroup == "plain" and "," in m.group()), None)
            if comma is not None:
                at = position + comma
                self.complain(
                    "table-comma", "columns are set apart by spaces, and a decimal point is a point", at, at + 1, advise("a space, or .")
                )
            elif cells and not columns:
                columns = self._column_heads(cells, position)
            elif cells and len(cells) != len(columns):
                at = position + len(line) - len(line.lstrip())
                self.complain(
                    "table-row",
                    f"this row has {len(cells)} values for {len(columns)} columns",
                    at,
                    position + len(line.rstrip()),
                    advise("gap stands for a missing value"),
                )
            elif cells:
                rows.append(tuple(self._cell(m, position) for m in cells))
            position += len(line)
        return tuple(columns), tuple(rows)

    def _column_heads(self, cells: list[re.Match[str]], position: int) -> list[tree.Column]:
        columns: list[tree.Column] = []
        for match in cells:
            start, end = position + match.start(), position + match.end()
            if match.lastgroup == "unit" and columns and columns[-1].unit is None:
                columns[-1] = tree.Column(columns[-1].start, end, columns[-1].name, match.group()[1:-1].strip())
                continue
            name = match.group()[1:-1] if match.lastgroup == "text" else canonical_name(match.group())
            if any(c.name == name for c in columns):
                self.complain("table-column", f"there are two columns '{name}'", start, end, replace(start, end, f"{name}_2"))
            columns.append(tree.Column(start, end, name, None))
        return columns

    def _cell(self, match: re.Match[str], position: int) -> tree.Cell:
        start, end = position + match.start(), position + match.end()
        text = match.group().replace("−", "-")
        if match.lastgroup == "unit" or not (match.lastgroup == "text" or text == "gap" or _CELL_NUMBER.fullmatch(text)):
            self.complain(
                "table-cell", f"'{match.group()}' is no number; cells are numbers, gap, or texts in quotes", start, end,
                replace(start, end, "gap", "gap"), replace(start, end, f'"{match.group()}"'),
            )  # fmt: skip
        return tree.Cell(start, end, text)

    # ------------------------------------------------------------ figures

    def block(self, what: str) -> list[tree.Statement]:
        """The statements of the block that opens here. Refuses an empty one."""
        if not self.token.is_sign(":"):
            if self.at_line_end():
                self.refuse(
                    "block",
                    f"'{what}' opens a block",
                    replace(self.token.start, self.token.start, ":", "add ':' at the end of the line"),
                    advice="add ':' at the end of the line",
                )
            self.stray()
        self.take()
        if not self.stands(Kind.NEWLINE):
            self.refuse(
                "block",
                "a block follows ':' on lines of its own",
                replace(self.before.end, self.token.start, "\n    ", "start a new line and indent it by four spaces"),
            )
        self.take()
        if not self.stands(Kind.INDENT):
            token = self.token
            line_start = self.source.line_start(self.source.line_of(token.start))
            if token.kind is Kind.END or token.kind is Kind.DEDENT:
                self.refuse("block", f"the block of '{what}' is empty", advise("indent its lines by four spaces"))
            self.refuse(
                "block",
                f"the block of '{what}' must follow, and each of its lines has an indent",
                replace(line_start, line_start, "    ", "indent it by four spaces"),
            )
        self.take()
        return self._statements_until_dedent()

    def _read_figure(self) -> tree.Statement:
        word = self.take()
        name = title = None
        if self.stands(Kind.NAME):
            name = self.name_of(self.need_name())
        if self.stands(Kind.TEXT) or self.token.text == '"':
            title = self.need_text()
        grid = None
        if self.take_sign(","):
            rows = self.need_number()
            self.need_word("by", "grid", "a grid of panels is rows by columns", advise("2 by 1"))
            grid = (int(float(rows.text)), int(float(self.need_number().text)))
        head_end = self.before.end
        body = self.block("figure")
        return tree.Figure(word.start, self.before.end, name, title, grid, tuple(body), head_end)

    def _read_panel(self) -> tree.Statement:
        word = self.take()
        title = self.need_text() if self.stands(Kind.TEXT) or self.token.text == '"' else None
        head_end = self.before.end
        body = self.block("panel")
        return tree.Panel(word.start, self.before.end, title, tuple(body), head_end)

    def _read_inset(self) -> tree.Statement:
        word = self.take()
        words, at = self._place_words()
        options = self.options()
        head_end = self.before.end
        body = self.block("inset")
        return tree.Inset(word.start, self.before.end, words, at, options, tuple(body), head_end)

    def _place_words(self) -> tuple[tuple[str, ...], tree.Expression | None]:
        """`top left`, or `at (0.3, 0.7)`."""
        words = []
        while self.stands(Kind.NAME) and not self.token.is_word("at"):
            words.append(self.take().text)
        return tuple(words), self.sum() if self.take_word("at") else None

    def _read_axis(self) -> tree.Statement:
        which = self.take()
        self.take()
        text = self.need_text() if self.stands(Kind.TEXT) or self.token.text == '"' else None
        low = high = None
        if self.take_word("from"):
            low = self.sum()
            self.need_word("to", "window-high", "the high end of the window is missing", advise("to HIGH"))
            high = self.sum()
        options = self.options()
        return tree.Axis(which.start, self.before.end, which.text, text, low, high, options)  # type: ignore[arg-type]

    def _read_legend(self) -> tree.Statement:
        word = self.take()
        words, at = self._place_words()
        options = self.options()
        return tree.Legend(word.start, self.before.end, words, at, options)

    def _read_true_scale(self) -> tree.Statement:
        word = self.take()
        self.take()
        return tree.TrueScale(word.start, self.before.end)

    def _read_shared(self) -> tree.Statement:
        word = self.take()
        which = self.take().text
        self.take()
        return tree.Shared(word.start, self.before.end, which)  # type: ignore[arg-type]

    def _read_style(self) -> tree.Statement:
        word = self.take()
        words = [self.need_plain_word()]
        while self.stands(Kind.NAME):
            words.append(self.take().text)
        options = self.options()
        return tree.Style(word.start, self.before.end, tuple(words), options)

    def _read_title(self) -> tree.Statement:
        word = self.take()
        text = self.need_text()
        return tree.Heading(word.start, self.before.end, word.text, text)  # type: ignore[arg-type]

    _read_caption = _read_title

    def _read_decimal(self) -> tree.Statement:
        word = self.take()
        which = self.need_plain_word()
        return tree.Decimal(word.start, self.before.end, which)

    def _read_gridlines(self) -> tree.Statement:
        word = self.take()
        which = self.need_plain_word()
        return tree.Gridlines(word.start, self.before.end, which)

    def _read_size(self) -> tree.Statement:
        word = self.take()
        width = self._length()
        self.need_word("by", "size", "a size is width by height", advise("size 89 mm by 60 mm"))
        height = self._length()
        return tree.Size(word.start, self.before.end, width, height)

    def _length(self) -> float:
        number = self.need_number()
        unit = self.token
        if not unit.is_word("mm"):
            self.refuse("size-unit", "a figure's size is given in mm", replace(number.end, number.end, " mm", f"{number.text} mm"))
        self.take()
        return float(number.text)

    def _read_no(self) -> tree.Statement:
        word = self.take()
        what = self.need_plain_word()
        return tree.Without(word.start, self.before.end, what)

    def _read_view(self) -> tree.Statement:
        word = self.take()
        if not (self.token.is_word("azimuth", "elevation")):
            self.refuse("view", "a view says its azimuth, its elevation, or both, in degrees", advise("view azimuth 40, elevation 25"))
        options = (self.option(), *self.options())
        return tree.View(word.start, self.before.end, options)

    def _read_text(self) -> tree.Statement:
        word = self.take()
        text = self._joined()
        self.need_word("at", "text-at", "say where the text stands", advise("at (x, y)"))
        at = self.sum()
        options = self.options()
        return tree.TextAt(word.start, self.before.end, text, at, options)

    def _read_mark(self) -> tree.Statement:
        word = self.take()
        finding = self.expression()
        options = self.options()
        return tree.Marked(word.start, self.before.end, finding, options)

    def _read_line(self) -> tree.Statement:
        word = self.take()
        which = self.take().text
        to = None
        if which == "from":
            at = self.sum()
            self.need_word("to", "line-end", "the other end is missing", advise("to (x, y)"))
            to = self.sum()
        else:
            self.need_word("at", "line-at", "say where the line stands", advise("at 0.15"))
            at = self.sum()
        options = self.options()
        return tree.Ruled(word.start, self.before.end, which, at, to, options)  # type: ignore[arg-type]
