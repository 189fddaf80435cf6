"""Whether a sentence that might be offered would do: it is read and checked where it would stand, and mended as messages offer."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..checking.checker import check_in
from ..checking.kinds import Scope
from ..messages import Message
from ..syntax.parser import parse
from .formulas import Names, applied

MOST_CLICKS = 5


@dataclass(frozen=True)
class Trial:
    """The place of a sentence: the names that have a value there, and whether it stands in a figure."""

    names: Names
    in_figure: bool = False

    def finished(self, text: str, clicks: int = MOST_CLICKS) -> str | None:
        """The sentence without mistakes, after at most so many clicks on the first button of its messages; None where some are left."""
        for _ in range(clicks + 1):
            errors = self.errors(text)
            if not errors:
                return text
            edits = next((f.edits for m in errors[:1] for f in m.fixes if f.edits), None)
            mended = applied(text, edits) if edits else text
            if mended == text:
                return None
            text = mended
        return None

    def errors(self, text: str) -> list[Message]:
        """The mistakes of a sentence that stands here."""
        return self._tried(text)[0]

    def scope_after(self, text: str) -> Scope:
        """The names that are known behind a sentence."""
        return self._tried(text)[1]

    def functions(self) -> tuple[str, ...]:
        """Names of functions that are known here."""
        scope = self.names.scope
        return tuple(n for n in scope.names if (known := scope.find(n)) is not None and known.kind == "function")

    def _tried(self, text: str) -> tuple[list[Message], Scope]:
        # The head of a block is tried with a block, and `else` with its `if`.
        names = [n for n in re.findall(r"[^\W\d]\w*", text) if (k := self.names.find(n)) is not None and k.kind == "number"]
        changed = "".join(f"\n    {n} = {n} + 1" for n in dict.fromkeys(names)) if text.startswith("while") else ""
        tried = f"{text}\n    show 1{changed}" if text.rstrip().endswith(":") else text
        tried = f"if 1 < 2:\n    show 1\n{tried}" if tried.startswith("else") else tried
        reading = parse(tried, self.names.builtins)
        scope = Scope()
        for name in self.names.scope.all_names():
            known = self.names.scope.find(name)
            if known is not None:
                scope.names[name] = known
        check_in(reading, self.names.builtins, scope, self.in_figure)
        return [m for m in reading.messages.in_order() if m.severity == "error"], scope
