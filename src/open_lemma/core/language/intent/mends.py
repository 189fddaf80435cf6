"""Mends of statements that were read and say what they mean, but for one thing: a value that is missing, an option of another word,
a definition that stands too low."""

from __future__ import annotations

import re

from ..checking.kinds import NUMBER, Scope
from ..messages import Edit, Fix, Message
from ..syntax.parser import Reading
from ..vocabulary.names import canonical_name
from .formulas import Names
from .trial import Trial


def mends(reading: Reading, line: int, message: Message, trial: Trial) -> list[Fix]:
    """Buttons for a mistake whose own message has none; nothing where it is not one of these."""
    rule = _RULES.get(message.code)
    return rule(reading, line, message, trial) if rule is not None else []


def _line(reading: Reading, line: int) -> tuple[int, int, str]:
    source = reading.source
    start, end = source.line_start(line), source.line_end(line)
    return start, end, source.text[start:end]


def _value_above(reading: Reading, line: int, message: Message, trial: Trial) -> list[Fix]:
    """A letter without a value gets one in a line above, to be changed."""
    name = reading.source.text[message.start : message.end]
    if not re.fullmatch(r"[^\W\d]\w*", name) or not trial.names.looks_like_one(name) or "function" in message.text:
        return []
    if trial.names.find(name) is not None or name in ("f", "g", "h"):
        return []  # letters of functions
    start, _, text = _line(reading, line)
    known = Names(Scope({canonical_name(name): NUMBER}, trial.names.scope), trial.names.builtins)
    if Trial(known, trial.in_figure).errors(text.strip()):
        return []
    # A block's own names are given where the block begins.
    top = start
    while line > 1 and text.startswith(" "):
        line -= 1
        top, _, text = _line(reading, line)
    given = f"{name} = 1"
    if trial.errors(given):
        return []
    return [Fix(f"{given}, above", (Edit(top, top, f"{given}\n"),))]


def _without_option(reading: Reading, line: int, message: Message, trial: Trial) -> list[Fix]:
    """The statement without an option that it does not have."""
    if message.label().startswith("by "):
        return []  # another choice is better than none
    start, end, text = _line(reading, line)
    at = message.start - start
    before = text[:at].rstrip()
    if not before.endswith(",") or message.end > end:
        return []
    kept = before[:-1].rstrip() + text[message.end - start :]
    if trial.errors(kept.strip()):
        return []
    return [Fix(f"without {text[at : message.end - start]}", (Edit(start + len(before) - 1, message.end, ""),))]


def _moved_up(reading: Reading, line: int, message: Message, _: Trial) -> list[Fix]:
    """The line that gives a name its value, moved above the one that uses it."""
    match = re.search(r"only in line (\d+)", message.text)
    if match is None:
        return []
    later = int(match.group(1))
    start, end, text = _line(reading, later)
    if text.startswith(" ") or text.rstrip().endswith(":"):
        return []
    top = line
    while top > 1 and _line(reading, top)[2].startswith(" "):
        top -= 1
    at = _line(reading, top)[0]
    whole = len(reading.source.text)
    gone = Edit(start, end + 1, "") if end < whole else Edit(start - 1, end, "")
    return [Fix(f"move line {later} up", (Edit(at, at, f"{text}\n"), gone))]


def _before_block(reading: Reading, _: int, message: Message, trial: Trial) -> list[Fix]:
    """A value for a name before the block that changes it."""
    name = reading.source.text[message.start : message.end]
    if not re.fullmatch(r"[^\W\d]\w*", name):
        return []
    source = reading.source
    for line in range(1, source.line_of(message.start)):
        start, _, text = _line(reading, line)
        if re.match(rf"\s+{re.escape(name)}\s*=(?!=)", text):
            while line > 1 and text.startswith(" "):
                line -= 1
                start, _, text = _line(reading, line)
            given = f"{name} = 0"
            return [] if trial.errors(given) else [Fix(f"{given}, before the block", (Edit(start, start, f"{given}\n"),))]
    return []


_RULES = {
    "unknown-name": _value_above, "option-not-here": _without_option, "unknown-option": _without_option, "name-later": _moved_up,
    "name-local": _before_block,
}  # fmt: skip
