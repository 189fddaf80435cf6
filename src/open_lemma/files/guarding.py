"""Texts in files that spreadsheets open: one that could be taken for a formula and do something there stands behind an apostrophe.

Numbers are never touched, nor are texts such as `-x` or `+ve`, which no spreadsheet can make anything of. What is guarded is what begins
with `=` or `@` or a character that a spreadsheet skips, and what begins with a sign and goes on as a call, a reference to elsewhere or a
command (OWASP, "CSV Injection").
"""

from __future__ import annotations

import re

_ALWAYS = "=@\t\r\n＝＠"
_SIGNS = "+-−＋－"
_DOES_SOMETHING = re.compile(r"[(!|\[\]{}=@&]")
# What XML cannot hold (XML 1.0, section 2.2), and with it no workbook.
_NO_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def guarded(text: str) -> str:
    """A text as it may stand in a file of comma-separated values."""
    first = text[:1]
    if first and (first in _ALWAYS or (first in _SIGNS and _DOES_SOMETHING.search(text))):
        return f"'{text}"
    return text


def for_workbook(text: str) -> str:
    """A text as it may stand in a workbook, where a cell of text is never a formula: characters that none can hold are spaces."""
    return _NO_XML.sub(" ", text)
