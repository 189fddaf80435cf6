"""Where a figure comes from, written into its file, so that a printed figure can be traced back."""

from __future__ import annotations

import re
from base64 import urlsafe_b64decode, urlsafe_b64encode
from dataclasses import dataclass
from xml.sax.saxutils import escape

_TEXT = re.compile(r"open-lemma folio=(\d*) record=(\d*) figure=(\w*) script=([0-9a-f]{64})")
_BRIEF = re.compile(r"open-lemma (\d*)/(\d*) ([A-Za-z0-9_-]{43}) (\w*)")


@dataclass(frozen=True, slots=True)
class About:
    """folio, record: their numbers, None where the figure was made without a server. script: SHA-256 of the script."""

    folio: int | None
    record: int | None
    figure: str
    script: str

    def text(self) -> str:
        folio, record = ("" if n is None else str(n) for n in (self.folio, self.record))
        return f"open-lemma folio={folio} record={record} figure={self.figure} script={self.script}"

    def brief(self, room: int) -> str:
        """The same in so many characters, where a file has no more (at least 70): the script's fingerprint in base 64 (RFC 4648,
        section 5), the figure's name cut short."""
        folio, record = ("" if n is None else str(n) for n in (self.folio, self.record))
        script = urlsafe_b64encode(bytes.fromhex(self.script)).decode().rstrip("=")
        return f"open-lemma {folio}/{record} {script} {self.figure}"[:room]


def about_in(text: str) -> About | None:
    """What `About.text` or `About.brief` says somewhere in a text."""
    found = _TEXT.search(text)
    if found is not None:
        folio, record, figure, script = found.groups()
    else:
        found = _BRIEF.search(text)
        if found is None:
            return None
        folio, record, script, figure = found.groups()
        script = urlsafe_b64decode(script + "=").hex()
    return About(int(folio) if folio else None, int(record) if record else None, figure, script)


def described_svg(data: bytes, words: str) -> bytes:
    """An SVG that says in words what it shows, for those who cannot see it (SVG 2, section 5.8)."""
    return data.replace(b" <metadata>", b" <desc>" + escape(words).encode() + b"</desc>\n <metadata>", 1)


def stamped_svg(data: bytes, about: About) -> bytes:
    """An SVG with its origin in the metadata, as a Dublin Core `source` (ISO 15836-1)."""
    mark = f"<dc:source>{escape(about.text())}</dc:source>".encode()
    return data.replace(b"</cc:Work>", mark + b"</cc:Work>", 1)


def stamped_eps(data: bytes, title: str, about: About | None) -> bytes:
    """An EPS with title and origin, and without the date: the same figure is the same file."""
    plain = title.encode("ascii", "replace").replace(b"\n", b" ")
    said = b"" if about is None else b"%%Keywords: " + about.text().encode() + b"\n"
    data = re.sub(rb"%%CreationDate:[^\n]*\n", said, data, count=1)
    return re.sub(rb"%%Title:[^\n]*\n", lambda _: b"%%Title: " + plain + b"\n", data, count=1)
