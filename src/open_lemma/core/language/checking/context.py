"""What all checks of a script share: what is known so far, where messages go, and the three checks that lead into each other."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from .. import tree
from ..builtins import Builtins
from ..messages import Fix, Message, Messages, advise
from ..syntax.parser import Reading
from .kinds import WORDS, Kind, Known, Scope


@dataclass(frozen=True)
class Rules:
    """Expressions hold requests, requests hold expressions, and blocks hold statements: the checks of these lead into each other."""

    kind_of: Callable[[CheckContext, tree.Expression, Scope], Kind]
    request: Callable[[CheckContext, tree.Request, Scope], None]
    statement: Callable[[CheckContext, tree.Statement, Scope, bool], None]


class CheckContext:
    """The state of one check.

    line        of the statement that is being checked
    top         names of the script; `unread`: those that lines which cannot be read would have defined
    later       where names get their values, for those that are used too early
    local       names that had a value only inside a block, with the block's line
    unsure      names of blocks that have a mistake
    guessed     names without a value for which another one was sought
    in_formula  whether a request that is being checked is part of a formula
    function    the `define` block that is being checked
    figures     names of figures so far
    """

    def __init__(self, reading: Reading, builtins: Builtins, rules: Rules, unread: dict[str, Known]) -> None:
        self.reading = reading
        self.source = reading.source
        self.builtins = builtins
        self.messages: Messages = reading.messages
        self.rules = rules
        self.unread = unread
        self.top = Scope()
        self.line = 0
        self.in_formula = False
        self.later: dict[str, int] = {}
        self.unsure: set[str] = set()
        self.guessed = 0
        self.local: dict[str, int] = {}
        self.function: tree.Define | None = None
        self.figures: set[str] = set()

    def kind_of(self, e: tree.Expression, scope: Scope) -> Kind:
        """The kind of a value; everything inside is checked on the way."""
        return self.rules.kind_of(self, e, scope)

    def request(self, request: tree.Request, scope: Scope) -> None:
        """Check a request."""
        self.rules.request(self, request, scope)

    def statement(self, statement: tree.Statement, scope: Scope, in_figure: bool = False) -> None:
        """Check one statement with the names of the place where it stands."""
        self.rules.statement(self, statement, scope, in_figure)

    def number(self, expression: tree.Expression, scope: Scope) -> Kind:
        """A number must stand here; a finding is one where it has one value."""
        kind = self.kind_of(expression, scope)
        if kind not in ("number", "finding", "any", "broken"):
            self.error("number-needed", f"a number is needed here; this is {WORDS[kind]}", expression.start, expression.end)
        return kind

    def truth(self, expression: tree.Expression, scope: Scope) -> Kind:
        """A condition, as in `check` and after `if`."""
        kind = self.kind_of(expression, scope)
        if kind not in ("truth", "any", "broken"):
            self.error(
                "condition-needed", "a condition is needed here, something that is true or false", expression.start, expression.end,
                advise(f"{self.source.text[expression.start : expression.end]} < ..."),
            )  # fmt: skip
            return "broken"
        return kind

    def need_list(self, e: tree.Expression, scope: Scope, *also: Kind) -> None:
        """A list of numbers must stand here, or one of some other kinds."""
        kind = self.kind_of(e, scope)
        if kind not in ("list", "finding", "any", "broken", *also):
            self.error("list-needed", f"a list of numbers is needed here; this is {WORDS[kind]}", e.start, e.end)

    def said_twice(self, options: tuple[tree.Option, ...]) -> None:
        """Each option is said once; what belongs to a parameter once for each."""
        seen: set[str] = set()
        for option in options:
            if option.parameter is None and option.name in seen:
                self.error("said-twice", f"'{option.name}' is said twice", option.start, option.end)
            seen.add(option.name)

    def has_error_inside(self, statement: tree.Statement) -> bool:
        """Whether a mistake was told of a statement or of what stands in it."""
        at_end = len(self.source.text)
        if self.messages.error_within(statement.start, max(statement.end, statement.start + 1)):
            return True
        return statement.end == at_end and self.messages.error_within(at_end, at_end + 1)

    def error(self, code: str, text: str, start: int, end: int, *fixes: Fix, advice: str = "") -> None:
        """A mistake between two offsets, with ways out."""
        self.messages.add(Message("error", code, start, end, text, tuple(fixes), advice))

    def warn(self, code: str, text: str, start: int, end: int) -> None:
        self.messages.add(Message("warning", code, start, end, text))

    def not_yet(self, what: str, start: int, end: int) -> None:
        self.error("not-available-yet", f"{what}: not available yet", start, end)
