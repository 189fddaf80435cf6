"""The language's tables, for the editor on the page."""

from __future__ import annotations

from functools import cache

from apiflask import APIBlueprint

from ..core.figure.palette import INKS
from ..core.formula.catalogue import BUILTINS
from ..core.language.vocabulary import NOUNS, OPTIONS
from ..core.language.vocabulary.names import CORNERS, RESERVED, STATEMENT_WORDS
from ..core.language.vocabulary.options import OPTION_WORDS
from ..core.language.vocabulary.starts import STARTS
from ..core.run.handbook import pages
from ..core.run.handbook_search import search
from ..engine.asking import JobFailed
from .schemas import Asked, Handbook, HandbookPage, InkShown, NextSteps, ScriptSoFar, StartShown, Words
from .services import services, who

blueprint = APIBlueprint("language", __name__, url_prefix="/api")


@cache
def words() -> Words:
    names = sorted(BUILTINS.names())
    return Words(
        reserved=sorted(RESERVED),
        nouns=sorted(NOUNS),
        statements=sorted(w for w in STATEMENT_WORDS if len(w) > 1),
        options=sorted(OPTION_WORDS),
        option_words=sorted({w for option in OPTIONS.values() for w in option.choices} | set(CORNERS)),
        functions=[n for n in names if BUILTINS.is_function(n)],
        constants=[n for n in names if BUILTINS.is_constant(n)],
        inks=[InkShown(name=i.name, code=i.code) for i in INKS],
        starts=[StartShown(title=s.title, script=s.script) for s in STARTS],
    )


@blueprint.get("/handbook")
@blueprint.input(Asked, location="query")
@blueprint.output(Handbook)
def handbook(query_data: Asked) -> Handbook:
    """All pages of the handbook, or those that some words find, the best first."""
    found = search(query_data.q) if query_data.q.strip() else list(pages())
    return Handbook(pages=[HandbookPage.model_validate(p.as_record()) for p in found])


@blueprint.post("/next")
@blueprint.input(ScriptSoFar)
@blueprint.output(NextSteps)
def what_now(json_data: ScriptSoFar) -> NextSteps:
    """Lines that may come next in a script; nothing is run."""
    try:
        return NextSteps(lines=services().engine.quick("next", who(), script=json_data.script)["lines"])
    except JobFailed:
        return NextSteps(lines=[])  # it is an offer only


@blueprint.get("/language")
@blueprint.output(Words)
def language() -> Words:
    """Words of the language by what they are."""
    return words()
