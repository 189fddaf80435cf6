"""Reading statements: one a line, blocks after ':'; after a mistake reading goes on with the next line."""

from __future__ import annotations

from .. import tree
from ..messages import advise, replace
from ..vocabulary.names import RESERVED
from .cursor import StopReading
from .definitions import definition
from .readers import READERS
from .requests import RequestReader
from .tokens import Kind

MAX_BLOCKS = 40  # blocks within blocks


class StatementReader(RequestReader):
    """Reads a script statement by statement; which word begins which, READERS says."""

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
        except StopReading:
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

    def statement(self) -> tree.Statement:
        """One statement with its block."""
        token = self.token
        if token.kind is Kind.NAME:
            following = self.ahead()
            if token.text in RESERVED and following.is_sign("="):
                self.reserved(token)
            if token.text not in RESERVED and self.defines():
                return definition(self)
            word = READERS.get(token.text)
            if word is not None and word.begins(self, following):
                found = word.read(self)
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

    def defines(self) -> bool:
        """`NAME =` or `NAME(names) =` stands here."""
        at = self.at + 1
        if self.tokens[at].is_sign("(") and self.tokens[at].glued:
            while not self.tokens[at].is_sign(")"):
                at += 1
                if self.at_line_end(self.tokens[at]) or self.tokens[at].is_sign("="):
                    return False
            at += 1
        return self.tokens[at].is_sign("=")

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
        raise StopReading

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
