"""What may come next in a script: lines that fit what stands in it already, for somebody who looks at an empty line."""

from __future__ import annotations

import re

from .. import tree
from ..builtins import Builtins
from ..checking.checker import check
from ..checking.kinds import Known, Scope
from ..syntax.parser import parse
from .formulas import Names
from .trial import Trial

MOST = 4


def next_steps(text: str, builtins: Builtins) -> list[str]:
    """At most MOST lines or small blocks, each without mistakes behind this script, the likeliest first."""
    reading, scope = parse(text, builtins), Scope()
    check(reading, builtins, scope)
    statements = reading.script.statements
    requests = [n for n in tree.walk(reading.script) if isinstance(n, tree.Request)]
    asked = [(r.noun, text[r.start : r.end]) for r in requests]
    found: list[str] = []
    for name, known in sorted(scope.names.items(), key=lambda item: -item[1].line):
        if known.kind == "function":
            found += _of_function(name, known, asked)
        elif known.kind == "table":
            found += _of_table(name, known, asked)
        elif known.kind == "finding" and not any(isinstance(s, tree.Marked) for s in tree.walk(reading.script)):
            found += [f"show {name}"]
    lists = [n for n, known in sorted(scope.names.items(), key=lambda item: item[1].line) if known.kind == "list"]
    if len(lists) >= 2 and not any(noun in ("points", "line", "fit") for noun, _ in asked):
        found.append(f"points of {lists[1]} against {lists[0]}")
    if len(lists) >= 2 and any(noun == "points" for noun, _ in asked) and not any(noun == "fit" for noun, _ in asked):
        found.append(f"trend(x) = fit of polynomial 1 to {lists[1]} against {lists[0]}")
    if not statements:
        return []
    trial = Trial(Names(scope, builtins))
    kept = [line for line in dict.fromkeys(found) if line not in text and not trial.errors(line)]
    return kept[:MOST]


def _drawn(name: str, asked: list[tuple[str, str]], nouns: tuple[str, ...]) -> bool:
    return any(noun in nouns and re.search(rf"\b{re.escape(name)}\b", said) for noun, said in asked)


def _built_in(called: str) -> bool:
    return called.split("(")[0] in ("sin", "cos", "tan", "exp", "ln", "sqrt", "abs")


def _of_function(name: str, known: Known, asked: list[tuple[str, str]]) -> list[str]:
    variables = ", ".join(known.parameters)
    called = f"{name}({variables})"
    if len(known.parameters) == 2:
        window = f" for {known.parameters[0]} from -2 to 2, {known.parameters[1]} from -2 to 2" if not known.has_domain else ""
        return [f"{noun} of {called}{window}" for noun in ("surface", "contours", "extremes") if not _drawn(name, asked, (noun,))]
    if len(known.parameters) != 1 or known.defined:
        return []
    window = "" if known.has_domain or known.from_data else f" for {variables} from -5 to 5"
    found = [] if _drawn(name, asked, ("curve", "band")) else [f"curve of {called}"]
    drawn = [m for noun, said in asked if noun == "curve" for m in re.findall(r"\b[^\W\d]\w*\([^\W\d]\w*\)", said)]
    others = [said for said in dict.fromkeys(drawn) if said != called and said.endswith(f"({variables})") and called in drawn]
    if known.fitted:
        found += [f"{noun} of {name}" for noun in ("residuals", "confidence") if not _drawn(name, asked, (noun,))]
    other = next((said for said in others if not _built_in(said)), None)
    if other is not None and not _drawn(name, asked, ("crossings",)):
        found.append(f"crossings of {other} and {called}{window}")
    if not _drawn(name, asked, ("roots", "crossings")):
        found.append(f"roots of {called}{window}")
    if not _drawn(name, asked, ("extremes", "lowest", "highest", "minima", "maxima")):
        found.append(f"extremes of {called}{window}")
    return found


def _of_table(name: str, known: Known, asked: list[tuple[str, str]]) -> list[str]:
    columns = known.columns or ()
    if len(columns) < 2:
        return []
    first, second = (f"{name}.{c}" if re.fullmatch(r"[^\W\d]\w*", c) else f'{name}."{c}"' for c in columns[:2])
    found = [] if _drawn(name, asked, ("points", "line")) else [f"points of {second} against {first}"]
    if not _drawn(name, asked, ("fit", "interpolation")):
        found += [f"trend(x) = fit of polynomial 1 to {second} against {first}"]
    return found
