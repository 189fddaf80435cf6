"""Pages of the handbook for ordinary words, for what is needed, for a sign; slips of the pen are forgiven."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache

from ..language.intent.lexicon import FUNCTIONS, VERBS, meaning_at, stem
from ..language.nearness import nearest
from ..language.vocabulary import NOUNS, OPTIONS, STATEMENTS
from .handbook import Page, pages

# What is asked for by a sign alone.
_SIGNS_OF = {
    "value-uncertainties": "± +- +/-",
    "request-integral": "∫",
    "request-sum": "∑ σ",
    "request-product": "∏",
    "function-sqrt": "√",
    "idea-what-differs-from-paper": "^ * ** /",
    "function-abs": "|x|",
    "request-derivative": "' f' f'' d/dx dy/dx ∂",
    "function-Gamma": "! n!",
    "idea-windows": "∞ oo",
    "function-mod": "%",
    "value-lists": "[] [ { {}",
    "value-points-and-texts": '() "',
    "statement-definition": "=",
    "statement-check": "==",
    "value-truth": "< > <= ≤ != ≠",
    "statement-note": "#",
    "idea-greek-and-mathematics-in-labels": "$ α _",
    "value-units": "°",
    "constant-pi": "π",
    "request-limit": "lim → -> →0",
    "statement-define": ":",
    "idea-first-steps": ",",
    "function-differences": "Δ",
}
SIGNS = {sign: page for page, signs in _SIGNS_OF.items() for sign in signs.split()}
_SMALL = frozenset(
    (
        "a an the of in on to for how do does did i is are be was where what which who when can could should would will you we me my "
        "it its this that there here with from by at as and or so if not make made get put set use using want need like please some any "
        "all into than then about one way possible work works not"
    ).split()
)
_KINDS = ("idea", "request", "drawing", "statement", "value", "option", "method", "function", "constant")


@dataclass(frozen=True)
class Entry:
    """A page with what it is found by: its phrases as stems, the surest first, and the other words on it."""

    page: Page
    name: tuple[str, ...]
    phrases: tuple[tuple[str, ...], ...]
    other: Counter[str]


def words_of(text: str) -> tuple[str, ...]:
    """The stems of a text without its small words; the words themselves where there are no others."""
    said = [w.strip(".,;:!?()[]\"“”'`/") for w in text.lower().replace("'s", "").replace("-", " ").replace("/", " ").split()]
    said = [w for w in said if w]
    kept = [w for w in said if w not in _SMALL] or said
    return tuple(stem(w) for w in kept)


@cache
def entries() -> tuple[Entry, ...]:
    """All pages with what they are found by."""
    found = []
    for page in pages():
        record = {"request": NOUNS, "drawing": NOUNS, "statement": STATEMENTS, "option": OPTIONS}.get(page.kind, {}).get(page.name)  # type: ignore[attr-defined]
        said = [*(record.asked_as.split(",") if record is not None else FUNCTIONS.get(page.name, "").split(",")), *page.words.split(",")]
        said = [*VERBS["draw"].split(","), *said] if page.id == "drawing-curve" else said
        phrases = tuple(dict.fromkeys(key for key in (words_of(phrase) for phrase in said) if key))
        other = Counter(words_of(f"{page.help} {page.usage} {' '.join(page.more)}"))
        found.append(Entry(page, words_of(page.name), phrases, other))
    return tuple(found)


@cache
def _known() -> frozenset[str]:
    """Every stem that some page is found by."""
    return frozenset(w for e in entries() for key in (e.name, *e.phrases) for w in key) | frozenset(w for e in entries() for w in e.other)


def _forgiven(words: Iterable[str]) -> tuple[str, ...]:
    """Words that stand nowhere as those that they are nearest to."""
    found = []
    for word in words:
        known = word in _known() or len(word) < 4
        # In one order, since of words equally near the first is taken.
        near = None if known else nearest(word, sorted(k for k in _known() if k.startswith(word[0])))
        found.append(near or word)
    return tuple(found)


def search(text: str) -> list[Page]:
    """Pages for some words, the best first: by name, by a whole phrase, by the words that are shared, the rare ones first."""
    sign = SIGNS.get(text.strip()) or SIGNS.get(text.strip().lower())
    if sign is not None:
        first = [p for p in pages() if p.id == sign]
        return first + [p for p in search_words(words_of(text)) if p.id != sign]
    return search_words(_forgiven(words_of(text)), text)


@cache
def _rarity() -> dict[str, float]:
    """How much a word tells: 1 where it belongs to one page only, less the more pages have it."""
    count = Counter(w for e in entries() for w in {w for key in (e.name, *e.phrases) for w in key})
    return {w: 1 / n**0.5 for w, n in count.items()}


def search_words(wanted: tuple[str, ...], text: str = "") -> list[Page]:
    """Pages for stems; `text`: the words as they were typed, for phrases that ask for a setting."""
    if not wanted:
        return []
    setting = _setting(text)
    found = []
    for place, entry in enumerate(entries()):
        score = _score(entry, wanted) + (110.0 if entry.page.id == setting else 0.0)
        score += 60.0 if text.strip().lower() == entry.page.name.lower() else 0.0
        if score > 0:
            found.append((-score, _KINDS.index(entry.page.kind), place, entry.page))
    best = min((f[0] for f in found), default=0.0)
    return [page for score, _, _, page in sorted(found, key=lambda f: f[:3]) if score <= best * 0.05]


def _setting(text: str) -> str:
    """The page of what a whole phrase asks for, where it is a setting of a figure."""
    words = text.lower().replace("-", " ").split()
    found = meaning_at(words, 0) if words else None
    if found is None or found[0].kind != "setting" or found[1] != len(words):
        return ""
    name = found[0].name
    return "statement-no" if name.startswith("no ") else "option-scale" if name.endswith("log") else "statement-axis"


def _score(entry: Entry, wanted: tuple[str, ...]) -> float:
    """How well a page answers: its name, a whole phrase of its own, then shared words, each by how much it tells."""
    rare = _rarity()
    told = {w: rare.get(w, 0.7) for w in wanted}
    whole = sum(told.values()) or 1.0
    score = 118.0 if entry.name == wanted else 0.0
    for rank, phrase in enumerate(entry.phrases):
        early = 1.0 / (1.0 + 0.03 * rank)
        shared = [w for w in dict.fromkeys(phrase) if w in told]
        covered = sum(told[w] for w in shared) / whole
        if phrase == wanted:
            score = max(score, 140.0 * early)
        elif shared and len(shared) == len(set(phrase)):
            score = max(score, 92.0 * covered**0.8 * early)
        elif shared:
            score = max(
                score, 55.0 * covered * (sum(rare.get(w, 0.7) for w in shared) / sum(rare.get(w, 0.7) for w in set(phrase))) * early
            )
    if set(entry.name) <= set(told):
        score += 40.0 * sum(told[w] for w in entry.name) / whole
    begun = [w for w in wanted if len(w) > 2 and any(n.startswith(w) for n in entry.name)]
    score += 5.0 * len(begun) / len(wanted)
    return score + sum(4.0 * told[w] for w in told if entry.other[w]) / len(told)
