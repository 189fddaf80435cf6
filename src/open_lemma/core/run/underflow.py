"""Numbers that are not 0 and whose nearest double is 0: what they are is said beside them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Context, Decimal
from typing import Any

from ..record.notation import format_short
from ..record.rows import PlaceRow, Row

DIGITS = 7
# A number of a row and the interval in which it is known to lie.
_KNOWN = (("value", "interval"), ("value", "value_interval"), ("x", "interval"), ("low", "low_interval"), ("high", "high_interval"))


def nearer_to_zero_than_doubles(rows: Sequence[Row]) -> list[str]:
    """A note on the first number that is told as 0 though its interval leaves 0 out; none where there is no such number."""
    for row in rows:
        for number, interval in _known(row):
            if not isinstance(number, float) or number or interval is None:
                continue
            low, high = (Decimal(end) for end in interval)
            if low > 0 or high < 0:
                about = format_short(Context(prec=DIGITS).normalize(low if low > 0 else high), DIGITS)
                return [f"this is not 0 but about {about}: nearer to 0 than 4.9×10^−324 there are no numbers to compute with"]
    return []


def _known(row: Row) -> Iterator[tuple[Any, Any]]:
    for number, interval in _KNOWN:
        known = getattr(row, interval, None)
        if isinstance(known, tuple | list):
            yield getattr(row, number, None), known
    if isinstance(row, PlaceRow):
        yield from ((row.place[n], known) for n, known in row.intervals.items())
