"""What the language has to say about a script: where, what, and the fix that a click applies.

A message is plain data with offsets; `Messages.as_record` turns it into the lines and columns of the record.
"""

from __future__ import annotations

from bisect import bisect_left, insort
from dataclasses import dataclass, field
from typing import Any

from ..record.messages import EditRecord, FixRecord, MessageRecord, Severity
from ..record.plain import plain
from .source import Source


@dataclass(frozen=True, slots=True)
class Edit:
    """Replace the text between two offsets."""

    start: int
    end: int
    text: str


@dataclass(frozen=True, slots=True)
class Fix:
    """A way out. Without edits it is advice only: the student must choose the words."""

    label: str
    edits: tuple[Edit, ...] = ()


@dataclass(frozen=True, slots=True)
class Message:
    severity: Severity
    code: str
    start: int
    end: int
    text: str
    fixes: tuple[Fix, ...] = ()
    advice: str = ""  # label of the fix as a whole; made from the fixes where it is empty

    def shifted(self, by: int) -> Message:
        """The same message for a text that begins elsewhere."""
        fixes = tuple(Fix(f.label, tuple(Edit(e.start + by, e.end + by, e.text) for e in f.edits)) for f in self.fixes)
        return Message(self.severity, self.code, self.start + by, self.end + by, self.text, fixes, self.advice)

    def label(self) -> str:
        return self.advice or " or ".join(f.label for f in self.fixes)


class Refused(Exception):
    """Ends the reading or running of one statement; its message tells why."""

    def __init__(self, message: Message) -> None:
        super().__init__(message.text)
        self.message = message


def replace(start: int, end: int, text: str, label: str | None = None) -> Fix:
    """The fix that puts `text` in place of what stands between two offsets."""
    return Fix(label if label is not None else text, (Edit(start, end, text),))


def advise(label: str) -> Fix:
    """A fix that the student has to type: there is nothing that could be filled in for them."""
    return Fix(label)


MOST = 200  # mistakes that are told of one script, and as many warnings


@dataclass
class Messages:
    """Collects messages; refuses to say the same thing twice at one place, and keeps the first MOST of each kind."""

    source: Source
    items: list[Message] = field(default_factory=list)
    errors: int = 0  # how many of them are errors
    warnings: int = 0
    _said: set[tuple[int, str]] = field(default_factory=set)
    _places: list[int] = field(default_factory=list)  # where errors start, rising

    def add(self, message: Message) -> None:
        """Keep a message, unless it was said at its place or there are too many."""
        key = (message.start, message.code)
        if key in self._said:
            return
        if message.severity == "error" and self.full:
            return
        if message.severity == "warning" and self.warnings == MOST:
            return
        self._said.add(key)
        self.warnings += message.severity == "warning"
        self.items.append(message)
        if message.severity == "error":
            self.errors += 1
            insort(self._places, message.start)

    def take_back(self, count: int) -> None:
        """Leave only the first `count` of them: what was read in one way is read in another."""
        for message in self.items[count:]:
            self._said.discard((message.start, message.code))
            self.warnings -= message.severity == "warning"
            if message.severity == "error":
                self.errors -= 1
                del self._places[bisect_left(self._places, message.start)]
        del self.items[count:]

    def put_in_place(self, of: list[Message], message: Message) -> None:
        """Say one thing instead of some others."""
        gone = {id(m) for m in of}
        self.items = [m for m in self.items if id(m) not in gone]
        for other in of:
            self._said.discard((other.start, other.code))
            self.errors -= 1
            del self._places[bisect_left(self._places, other.start)]
        self.add(message)

    @property
    def full(self) -> bool:
        """Whether no more mistakes are listed: reading and checking end here."""
        return self.errors >= MOST

    def end_at(self, offset: int) -> None:
        """Say that what follows a place was not looked at any more."""
        if any(m.code == "too-many" for m in self.items):
            return
        line, last = self.source.line_of(offset), self.source.line_count
        rest = f"line {line} is" if line == last else f"lines {line} to {last} are"
        text = f"these are the first {MOST} mistakes; {rest} not read until they are mended"
        self.items.append(Message("warning", "too-many", offset, offset, text))  # it is no mistake of its own

    def has_errors(self) -> bool:
        return self.errors > 0

    def error_within(self, start: int, end: int) -> bool:
        """Whether an error starts at `start` or behind it, and before `end`."""
        at = bisect_left(self._places, start)
        return at < len(self._places) and self._places[at] < end

    def in_order(self) -> list[Message]:
        return sorted(self.items, key=lambda m: (m.start, m.end, m.code))

    def as_records(self) -> list[dict[str, Any]]:
        return [plain(m) for m in self.told()]

    def told(self) -> list[MessageRecord]:
        """The messages in the order of the script, as the record has them."""
        return [message_record(m, self.source) for m in self.in_order()]


def message_record(message: Message, source: Source) -> MessageRecord:
    """The message as in record.json. `fix` carries the first fix; `fixes` all, where a choice is offered."""
    line, column = source.place(min(message.start, len(source.text)))
    end_line, end_column = source.place(min(max(message.end, message.start), len(source.text)))
    if end_line != line:
        end_column = source.line_end(line) - source.line_start(line) + 1
    fixes = [FixRecord(label=f.label, edits=[edit_record(e, source) for e in f.edits]) for f in message.fixes]
    first = FixRecord(label=message.label(), edits=fixes[0].edits if fixes else []) if fixes or message.advice else None
    return MessageRecord(
        severity=message.severity, code=message.code, line=line, column=column, end_column=max(end_column, column), text=message.text,
        fix=first, fixes=fixes if len(fixes) > 1 else None,
    )  # fmt: skip


def edit_record(edit: Edit, source: Source) -> EditRecord:
    """An edit as in record.json: lines and columns from 1."""
    line, column = source.place(edit.start)
    end_line, end_column = source.place(edit.end)
    return EditRecord(line=line, column=column, end_column=end_column, text=edit.text, end_line=None if end_line == line else end_line)
